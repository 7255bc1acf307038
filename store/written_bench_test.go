package store

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"geminate/brake/job"
)

// BenchmarkBytesAStroke says how many bytes a stored stroke writes: into the database's own log (which a disk sees)
// and, as rows before and after, what a replicated database would send to its other nodes.
func BenchmarkBytesAStroke(b *testing.B) {
	s := openTB(b)
	add(b, s, "a")
	status := func() (n int64) {
		var row struct{ Value int64 }
		require.NoError(
			b,
			s.db.Raw("SELECT VARIABLE_VALUE value FROM information_schema.GLOBAL_STATUS WHERE VARIABLE_NAME = 'Innodb_os_log_written'").
				Scan(&row).
				Error,
		)
		return row.Value
	}
	n := 0
	stored := func(k int) {
		for range k {
			n++
			_, err := s.Do(ctx, "a", nil, func(j *job.Job, log job.Log) ([]job.Event, error) {
				return j.Append(log, mara, day.Add(time.Duration(n)*time.Minute), []job.In{stroke(fmt.Sprint("s", n), "RR")})
			})
			require.NoError(b, err)
		}
	}
	stored(64) // what is written once
	began := status()
	b.ResetTimer()
	for b.Loop() {
		stored(64)
	}
	b.ReportMetric(float64(status()-began)/float64(n-64), "bytes/stroke")
}
