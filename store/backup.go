package store

import (
	"archive/zip"
	"bufio"
	"context"
	"database/sql"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strings"
	"time"
	"unicode/utf8"
)

// A backup is a zip of open formats: manifest.json, and one file of JSON lines for each table, each line a row
// by its columns. Text is text; what is no text is {"base64": …}; times are UTC.

// BackupFormat is the archive's format.
const BackupFormat = "geminate.backup/1"

// backedUp are the tables of a shop, in the order they are restored. What only matters while the shop runs
// (sessions, presence) is left out: a restored shop is signed in to anew.
var backedUp = []string{
	"users",
	"units",
	"imports",
	"jobs",
	"log",
	"job_views",
	"job_words",
	"job_counts",
	"audit",
	"vehicles",
	"job_facts",
	"settings",
	"read_tokens",
	"practices",
	"practice_sets",
	"instruments",
	"pictures",
	"job_pictures",
}

// Manifest says what an archive holds.
type Manifest struct {
	Format    string           `json:"format"`
	CreatedAt time.Time        `json:"created_at"`
	Schema    int64            `json:"schema"` // of the tables
	Rows      map[string]int64 `json:"rows"`
	// LostPictures are those the log tells of and nobody has.
	LostPictures int64 `json:"lost_pictures,omitempty"`
}

// ErrNotEmpty is a restore into a shop that has something already.
var ErrNotEmpty = errors.New(
	"this shop is not empty: a backup is only restored into an empty one, so that nothing is overwritten. Choose another directory with GEMINATE_DATA",
)

func (s *Store) schema(ctx context.Context) (v int64, err error) {
	err = s.sql.QueryRowContext(ctx, "SELECT MAX(version_id) FROM goose_db_version WHERE is_applied").Scan(&v)
	return v, err
}

// Backup writes everything out of one consistent snapshot, while the shop works on.
func (s *Store) Backup(ctx context.Context, to io.Writer) (*Manifest, error) {
	schema, err := s.schema(ctx)
	if err != nil {
		return nil, fmt.Errorf("store: backup: %w", err)
	}
	long, err := s.at.patient().pool(ctx)
	if err != nil {
		return nil, fmt.Errorf("store: backup: %w", err)
	}
	defer func() { _ = long.Close() }()
	tx, err := long.BeginTx(ctx, &sql.TxOptions{Isolation: sql.LevelRepeatableRead, ReadOnly: true})
	if err != nil {
		return nil, fmt.Errorf("store: backup: %w", err)
	}
	defer func() { _ = tx.Rollback() }()
	z := zip.NewWriter(to)
	m := &Manifest{Format: BackupFormat, CreatedAt: time.Now().UTC(), Schema: schema, Rows: map[string]int64{}}
	for _, table := range backedUp {
		w, err := z.Create("tables/" + table + ".jsonl")
		if err != nil {
			return nil, err
		}
		if table == (pictureRow{}).TableName() {
			m.Rows[table], m.LostPictures, err = s.dumpPictures(ctx, tx, w)
		} else {
			m.Rows[table], err = dump(ctx, tx, table, w)
		}
		if err != nil {
			return nil, fmt.Errorf("store: backup of %s: %w", table, err)
		}
	}
	w, err := z.Create("manifest.json")
	if err != nil {
		return nil, err
	}
	if err := json.NewEncoder(w).Encode(m); err != nil {
		return nil, err
	}
	return m, z.Close()
}

func dump(ctx context.Context, tx *sql.Tx, table string, to io.Writer) (n int64, err error) {
	rows, err := tx.QueryContext(ctx, "SELECT * FROM "+table)
	if err != nil {
		return 0, err
	}
	defer func() { err = errors.Join(err, rows.Close()) }()
	names, err := rows.Columns()
	if err != nil {
		return 0, err
	}
	out := json.NewEncoder(to)
	out.SetEscapeHTML(false)
	for ; rows.Next(); n++ {
		cells := make([]any, len(names))
		for i := range cells {
			cells[i] = new(any)
		}
		if err := rows.Scan(cells...); err != nil {
			return n, err
		}
		row := make(map[string]any, len(names))
		for i, name := range names {
			row[name] = plain(*(cells[i].(*any)))
		}
		if err := out.Encode(row); err != nil {
			return n, err
		}
	}
	return n, rows.Err()
}

func plain(v any) any {
	switch x := v.(type) {
	case []byte:
		if utf8.Valid(x) {
			return string(x)
		}
		return map[string]string{"base64": base64.StdEncoding.EncodeToString(x)}
	case time.Time:
		return x.UTC().Format("2006-01-02 15:04:05.000")
	}
	return v
}

// Restore brings a backup back into an empty shop, all of it or nothing.
func (s *Store) Restore(ctx context.Context, from io.ReaderAt, size int64) (map[string]int64, error) {
	z, err := zip.NewReader(from, size)
	if err != nil {
		return nil, fmt.Errorf("this is no backup: %w", err)
	}
	if err := modest(z, size); err != nil {
		return nil, err
	}
	var m Manifest
	if err := readPart(z, "manifest.json", func(r io.Reader) error { return json.NewDecoder(r).Decode(&m) }); err != nil {
		return nil, err
	}
	schema, err := s.schema(ctx)
	if err != nil {
		return nil, err
	}
	switch {
	case m.Format != BackupFormat:
		return nil, fmt.Errorf("this is no backup of a kind this program knows: format %q, not %q", m.Format, BackupFormat)
	case m.Schema != schema:
		return nil, fmt.Errorf(
			"this backup is of tables of version %d, this program's are of version %d. Restore it with the program that made it, then start this one: it brings the tables up to date",
			m.Schema,
			schema,
		)
	}
	long, err := s.at.patient().pool(ctx)
	if err != nil {
		return nil, fmt.Errorf("store: restore: %w", err)
	}
	defer func() { _ = long.Close() }()
	tx, err := long.BeginTx(ctx, nil)
	if err != nil {
		return nil, err
	}
	defer func() { _ = tx.Rollback() }()
	for _, table := range backedUp {
		var n int64
		if err := tx.QueryRowContext(ctx, "SELECT COUNT(*) FROM "+table).Scan(&n); err != nil {
			return nil, err
		}
		if n > 0 {
			return nil, ErrNotEmpty
		}
	}
	back := map[string]int64{}
	for _, table := range backedUp {
		if _, there := m.Rows[table]; !there { // an archive from before this table was in it
			continue
		}
		err := readPart(z, "tables/"+table+".jsonl", func(r io.Reader) (err error) {
			back[table], err = load(ctx, tx, table, r)
			return err
		})
		if err != nil {
			return nil, fmt.Errorf("restoring %s: %w", table, err)
		}
		if back[table] != m.Rows[table] {
			return nil, fmt.Errorf("restoring %s: %d rows, the archive says %d: it is damaged", table, back[table], m.Rows[table])
		}
	}
	// The figures are sums: they are counted anew from the jobs that came back.
	if _, err := tx.ExecContext(ctx, "UPDATE job_facts SET tallied = 0"); err != nil {
		return nil, err
	}
	if err := tx.Commit(); err != nil {
		return nil, err
	}
	return back, s.fillTallies(ctx)
}

func readPart(z *zip.Reader, name string, fn func(io.Reader) error) (err error) {
	f, err := z.Open(name)
	if err != nil {
		return fmt.Errorf("this is no backup: %s is missing", name)
	}
	defer func() { err = errors.Join(err, f.Close()) }()
	return fn(f)
}

const (
	rowMost = 8 << 20 // bytes of one row: the largest is a photo's event
	// An archive that unpacks to more than this many times its size is none of ours: rows of text come to some twenty
	// times.
	unpacksMost  = 200
	unpacksLeast = 64 << 20
)

// modest refuses an archive that is small to send and large to unpack.
func modest(z *zip.Reader, size int64) error {
	var all uint64
	for _, f := range z.File {
		all += f.UncompressedSize64
	}
	if all > uint64(max(unpacksLeast, unpacksMost*size)) {
		return fmt.Errorf("this archive of %d bytes unpacks to %d: it is no backup of Geminate's", size, all)
	}
	return nil
}

// load inserts rows a few hundred at a time.
func load(ctx context.Context, tx *sql.Tx, table string, from io.Reader) (n int64, err error) {
	columns, err := columnsOf(ctx, tx, table)
	if err != nil {
		return 0, err
	}
	const batch = 200
	lines := bufio.NewScanner(from)
	lines.Buffer(make([]byte, 1<<20), rowMost)
	one := "(" + strings.TrimSuffix(strings.Repeat("?,", len(columns)), ",") + ")"
	var values []any
	flush := func() error {
		if len(values) == 0 {
			return nil
		}
		count := len(values) / len(columns)
		q := "INSERT INTO " + table + " (`" + strings.Join(columns,
			"`,`") + "`) VALUES " + strings.TrimSuffix(strings.Repeat(one+",", count), ",")
		_, err := tx.ExecContext(ctx, q, values...)
		values = values[:0]
		return err
	}
	bytes := 0
	for lines.Scan() {
		var row map[string]any
		d := json.NewDecoder(strings.NewReader(lines.Text()))
		d.UseNumber()
		if err := d.Decode(&row); err != nil {
			return n, fmt.Errorf("line %d: %w", n+1, err)
		}
		for _, c := range columns {
			v, err := cell(row[c])
			if err != nil {
				return n, fmt.Errorf("line %d: %w", n+1, err)
			}
			values = append(values, v)
		}
		n++
		if bytes += len(lines.Bytes()); len(values) >= batch*len(columns) || bytes > 4<<20 {
			bytes = 0
			if err := flush(); err != nil {
				return n, err
			}
		}
	}
	return n, errors.Join(lines.Err(), flush())
}

func cell(v any) (any, error) {
	switch x := v.(type) {
	case json.Number:
		return x.String(), nil
	case map[string]any:
		text, _ := x["base64"].(string)
		return base64.StdEncoding.DecodeString(text)
	}
	return v, nil
}

// columnsOf names a table's columns: those of a file are never believed.
func columnsOf(ctx context.Context, tx *sql.Tx, table string) (names []string, err error) {
	rows, err := tx.QueryContext(ctx, "SELECT * FROM "+table+" LIMIT 0")
	if err != nil {
		return nil, err
	}
	defer func() { err = errors.Join(err, rows.Close()) }()
	return rows.Columns()
}
