package store

import (
	"fmt"
	"os"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// BenchmarkBayAtSize asks for the bay, a search and a filtered page of a shop of GEMINATE_JOBS jobs (100 where
// unset) with a hundred events each in the log, at one connection, and tells the 95th percentile. Run it with
// 100 and with 100000 and compare.
func BenchmarkBayAtSize(b *testing.B) {
	n, err := strconv.Atoi(os.Getenv("GEMINATE_JOBS"))
	if err != nil || n < 1 {
		n = 100
	}
	s := openTB(b)
	fillShop(b, s, n, 100)
	s.sql.SetMaxOpenConns(1)
	for name, q := range map[string]BayQuery{
		"page": {Limit: 24}, "open": {Limit: 24, Standing: "open"}, "rare": {Limit: 24, Text: "plate77"}, "common": {Limit: 24, Text: "corrigan sinks"},
	} {
		b.Run(fmt.Sprintf("%s-%d", name, n), func(b *testing.B) {
			var took []time.Duration
			for b.Loop() {
				began := time.Now()
				if _, err := s.Bay(ctx, q); err != nil {
					b.Fatal(err)
				}
				took = append(took, time.Since(began))
			}
			slices.Sort(took)
			b.ReportMetric(float64(took[len(took)*95/100].Microseconds())/1000, "p95-ms")
		})
	}
}

// fillShop multiplies one real job by SQL: its card, words, counts, and so many events each.
func fillShop(b testing.TB, s *Store, n, events int) {
	b.Helper()
	add(b, s, "seed")
	run := func(q string, args ...any) { require.NoError(b, s.db.Exec(q, args...).Error) }
	const chunk = 1000
	for from := 0; from < n; from += chunk {
		var ids []string
		for i := from; i < min(n, from+chunk); i++ {
			ids = append(ids, fmt.Sprintf("SELECT 'job-%07d' id, %d k", i, i))
		}
		list := "(" + strings.Join(ids, " UNION ALL ") + ") x"
		run("INSERT INTO jobs (id, head, fold, view, card, search_text, standing, station, created_at, updated_at) SELECT x.id, j.head, j.fold, j.view, j.card, '', IF(x.k % 10 = 0, 'open', 'released'), 'diagnose', j.created_at, DATE_ADD(j.updated_at, INTERVAL x.k SECOND) FROM jobs j, " + list + " WHERE j.id = 'seed'")
		run("INSERT INTO job_words (word, job_id) SELECT w.word, x.id FROM (SELECT 'corrigan' word UNION SELECT 'sinks' UNION SELECT 'pickup') w, " + list)
		run("INSERT INTO job_words (word, job_id) SELECT CONCAT('plate', x.k), x.id FROM " + list)
		if events == 0 {
			continue
		}
		run("INSERT INTO log (job_id, n, id, kind, at, stored_at, by_name, data) SELECT x.id, s.seq, CONCAT('e', s.seq), 'bleed_stroke', NOW(), NOW(), 'T', '{\"wheel\":\"RR\",\"cm3\":4}' FROM seq_1_to_100 s, "+list+" WHERE s.seq <= ?", events)
	}
	run("INSERT INTO job_counts SELECT standing, station, COUNT(*) FROM jobs WHERE id <> 'seed' GROUP BY standing, station ON DUPLICATE KEY UPDATE n = job_counts.n + VALUES(n)")
	run("ANALYZE TABLE jobs, job_words")
}
