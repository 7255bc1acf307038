package store

import (
	"database/sql"
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/pressly/goose/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/match"
	"geminate/internal/testdb"
)

// oldDatabase makes a database as an older program left it.
func oldDatabase(t *testing.T, version int64) (dsn string, db *sql.DB) {
	t.Helper()
	dsn = testdb.DSN(t)
	db, err := sql.Open("mysql", dsn+"?parseTime=true")
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, db.Close()) })
	p, err := goose.NewProvider(goose.DialectMySQL, db, os.DirFS("migrations"),
		goose.WithGoMigrations(goose.NewGoMigration(4, &goose.GoFunc{RunDB: upgradeData}, nil)))
	require.NoError(t, err)
	_, err = p.UpTo(ctx, version)
	require.NoError(t, err)
	return dsn, db
}

// putGolden stores the jobs the old program wrote, as it stored them.
func putGolden(t *testing.T, db *sql.DB) (names []string) {
	t.Helper()
	files, err := filepath.Glob("../brake/job/testdata/golden1/*.job.json")
	require.NoError(t, err)
	for _, path := range files {
		raw, err := os.ReadFile(path)
		require.NoError(t, err)
		var f struct {
			ID              string
			CreatedAt       time.Time `json:"created_at"`
			Intake, Choices json.RawMessage
			Events          []struct {
				ID, Kind, By string
				At           time.Time
				Data         json.RawMessage
			}
		}
		require.NoError(t, json.Unmarshal(raw, &f))
		name := strings.TrimSuffix(filepath.Base(path), ".job.json")
		names = append(names, name)
		_, err = db.Exec(
			"INSERT INTO jobs (id, intake, intake_version, choices, choices_version, created_at, updated_at) VALUES (?,?,3,?,5,?,?)",
			name,
			string(f.Intake),
			string(f.Choices),
			f.CreatedAt,
			f.CreatedAt,
		)
		require.NoError(t, err)
		for _, e := range f.Events {
			_, err = db.Exec("INSERT INTO events (job_id, id, kind, at, by_name, data) VALUES (?,?,?,?,?,?)", name, e.ID,
				e.Kind, e.At, e.By, string(e.Data))
			require.NoError(t, err)
		}
	}
	return names
}

func TestEveryOlderSchemaComesUpWithItsData(t *testing.T) {
	for _, version := range []int64{1, 2} {
		dsn, db := oldDatabase(t, version)
		names := putGolden(t, db)
		bore := 25.4
		for _, u := range []match.Unit{{ID: "c", Maker: "Ost", Number: "N1", BoreMM: &bore}, {ID: "v", Kind: match.VacuumBooster, Maker: "Ost", Number: "N2"}} {
			raw, err := json.Marshal(u)
			require.NoError(t, err)
			_, err = db.Exec("INSERT INTO units (id, place, unit) VALUES (?, 0, ?)", u.ID, string(raw))
			require.NoError(t, err)
		}
		// What the old program let in, and what would break a fold.
		_, err := db.Exec(
			`INSERT INTO events (job_id, id, kind, at, by_name, data) VALUES ('pickup-open', 'ocean', 'bleed_volume', '1970-01-01', 'x', '{"wheel":"RR","volume_cm3":1e308}'),
			('pickup-open', 'much', 'bleed_stroke', '2026-11-24', 'x', '{"wheel":"RR","strokes":9000000000000000000}'), ('pickup-open', 'odd id', 'refill', '2026-11-24', 'x', '{}')`,
		)
		require.NoError(t, err)

		s, err := Open(ctx, dsn)
		require.NoError(t, err, "from version %d", version)
		for _, name := range names {
			j, err := s.Job(ctx, name)
			require.NoError(t, err, name)
			want := goldenState(t, name)
			assert.Equal(t, want.ReleasedAt, j.State.ReleasedAt, "%s: what was released here stays released", name)
			assert.Equal(t, want.BenchStrokes, j.State.BenchStrokes, name)
			assert.Len(t, j.State.Ticks, len(want.Ticks), name)
			for wheel, cm3 := range want.BleedStrokes {
				assert.Equal(t, cm3, j.State.BleedStrokes[wheel], name)
			}
		}
		lines, err := s.AuditLines(ctx, 0, "pickup-open", "upgrade_left_out", 9)
		require.NoError(t, err)
		require.Len(t, lines, 1)
		assert.Contains(t, lines[0].Detail, "volume_cm3", "what could not be taken over is told")
		found, err := s.Search(ctx, Query{BoreMM: &bore, WithinMM: 0.1, Limit: 9})
		require.NoError(t, err)
		assert.Equal(t, []string{"c"}, ids(found), "old units are found by their measures")
		boosters, err := s.Search(ctx, Query{Kind: match.VacuumBooster, Limit: 9})
		require.NoError(t, err)
		assert.Equal(t, []string{"v"}, ids(boosters))
		page, err := s.Bay(ctx, BayQuery{Text: "corrigan", Limit: 50})
		require.NoError(t, err)
		assert.NotEmpty(t, page.Cards)
		_, err = tell(s, "pickup-open", stroke("new", "RR"))
		require.NoError(t, err, "work goes on")
		require.NoError(t, s.Close())
		again, err := Open(ctx, dsn)
		require.NoError(t, err, "and it opens again")
		require.NoError(t, again.Close())
	}
}

func goldenState(t *testing.T, name string) (st struct {
	ReleasedAt   *time.Time     `json:"released_at"`
	BenchStrokes int            `json:"bench_strokes"`
	BleedStrokes map[string]int `json:"bleed_strokes"`
	Ticks        map[string]any
}) {
	t.Helper()
	raw, err := os.ReadFile("../brake/job/testdata/golden1/" + name + ".views.json")
	require.NoError(t, err)
	views := struct{ State any }{&st}
	require.NoError(t, json.Unmarshal(raw, &views))
	return st
}

func TestAnOlderProgramRefusesANewerDatabase(t *testing.T) {
	dsn := testdb.DSN(t)
	s, err := Open(ctx, dsn)
	require.NoError(t, err)
	require.NoError(t, s.db.Exec("INSERT INTO goose_db_version (version_id, is_applied) VALUES (9999, 1)").Error)
	require.NoError(t, s.Close())
	_, err = Open(ctx, dsn)
	require.ErrorIs(t, err, ErrNewer)
	assert.ErrorContains(t, err, "Start the newer program")
}
