package store

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/job"
)

// What is kept beside the logs is what they come to; where somebody spoilt it, it is found by name and counted anew.
func TestWhatIsKeptIsCountedAnew(t *testing.T) {
	s := open(t)
	add(t, s, "a")
	add(t, s, "b")
	_, err := tell(s, "a", stroke("e1", "RR"), job.In{ID: "n", Kind: job.KindNote, At: day, Data: []byte(`{"text":"wet"}`)})
	require.NoError(t, err)
	found, err := s.Check(ctx)
	require.NoError(t, err)
	assert.Empty(t, found)
	for _, q := range []string{
		"UPDATE job_counts SET n = n + 7", "UPDATE jobs SET head = head + 1 WHERE id = 'a'", "UPDATE job_views SET view = JSON_SET(view, '$.intake.complaint', 'another') WHERE job_id = 'a'",
		"INSERT INTO tally_days (day, kind, of_what, n, total) VALUES ('2026-01-02', 'released', '', 3, 2)",
	} {
		require.NoError(t, s.db.Exec(q).Error)
	}
	found, err = s.Check(ctx)
	require.NoError(t, err)
	what := map[string]int{}
	for _, d := range found {
		what[d.What]++
	}
	assert.Equal(t, map[string]int{"heads": 1, "views": 1, "counts": 1, "figures": 1}, what, "%v", found)
	require.NoError(t, s.Recount(ctx, found))
	found, err = s.Check(ctx)
	require.NoError(t, err)
	assert.Empty(t, found)
}

// A restored shop equals what was backed up in every table, by the database's own checksum, the counts that are made
// anew as well.
func TestARestoreIsEqualByChecksum(t *testing.T) {
	s := open(t)
	add(t, s, "a")
	_, err := tell(s, "a", stroke("e1", "RR"))
	require.NoError(t, err)
	var archive bytes.Buffer
	_, err = s.Backup(ctx, &archive)
	require.NoError(t, err)
	fresh := open(t)
	_, err = fresh.Restore(ctx, bytes.NewReader(archive.Bytes()), int64(archive.Len()))
	require.NoError(t, err)
	want, err := s.Checksums(ctx)
	require.NoError(t, err)
	have, err := fresh.Checksums(ctx)
	require.NoError(t, err)
	assert.Equal(t, want, have)
}

// A small archive that unpacks to gigabytes is refused before it is unpacked.
func TestABombIsRefused(t *testing.T) {
	var bomb bytes.Buffer
	z := zip.NewWriter(&bomb)
	w, err := z.Create("tables/jobs.jsonl")
	require.NoError(t, err)
	zeros := bytes.Repeat([]byte(" "), 1<<20)
	for range 200 {
		_, err = w.Write(zeros)
		require.NoError(t, err)
	}
	w, err = z.Create("manifest.json")
	require.NoError(t, err)
	_, err = io.WriteString(w,
		fmt.Sprintf(`{"format":%q,"created_at":%q,"schema":1,"rows":{"jobs":1}}`, BackupFormat, time.Now().UTC().Format(time.RFC3339)))
	require.NoError(t, err)
	require.NoError(t, z.Close())
	_, err = open(t).Restore(ctx, bytes.NewReader(bomb.Bytes()), int64(bomb.Len()))
	require.ErrorContains(t, err, "unpacks to")
}
