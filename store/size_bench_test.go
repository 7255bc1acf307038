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
		run(
			"INSERT INTO jobs (id, head, card, search_text, standing, station, created_at, updated_at) SELECT x.id, j.head, j.card, '', IF(x.k % 10 = 0, 'open', 'released'), 'diagnose', j.created_at, DATE_ADD(j.updated_at, INTERVAL x.k SECOND) FROM jobs j, " + list + " WHERE j.id = 'seed'",
		)
		run(
			"INSERT INTO job_words (word, job_id) SELECT w.word, x.id FROM (SELECT 'corrigan' word UNION SELECT 'sinks' UNION SELECT 'pickup') w, " + list,
		)
		run("INSERT INTO job_words (word, job_id) SELECT CONCAT('plate', x.k), x.id FROM " + list)
		if events == 0 {
			continue
		}
		run(
			"INSERT INTO log (job_id, n, id, kind, at, stored_at, by_name, data) SELECT x.id, s.seq, CONCAT('e', s.seq), 'bleed_stroke', NOW(), NOW(), 'T', '{\"wheel\":\"RR\",\"cm3\":4}' FROM seq_1_to_100 s, "+list+" WHERE s.seq <= ?",
			events,
		)
	}
	run(
		"INSERT INTO job_counts SELECT standing, station, COUNT(*) FROM jobs WHERE id <> 'seed' GROUP BY standing, station ON DUPLICATE KEY UPDATE n = job_counts.n + VALUES(n)",
	)
	run("ANALYZE TABLE jobs, job_words")
}

// BenchmarkShopAtSize asks for a vehicle, a search of vehicles, what is due and the figures (read anew) of a shop of
// GEMINATE_JOBS closed jobs (100 where unset) on a third as many vehicles, and tells the 95th percentile.
func BenchmarkShopAtSize(b *testing.B) {
	n, err := strconv.Atoi(os.Getenv("GEMINATE_JOBS"))
	if err != nil || n < 1 {
		n = 100
	}
	s := openTB(b)
	fillShop(b, s, n, 0)
	fillFacts(b, s, n)
	s.sql.SetMaxOpenConns(1)
	now := time.Now().UTC()
	for name, ask := range map[string]func() error{
		"vehicle":    func() error { _, _, err := s.Vehicle(ctx, "vehicle-0000007"); return err },
		"find":       func() error { _, err := s.FindVehicles(ctx, "PL 12", 50); return err },
		"name":       func() error { _, err := s.FindVehicles(ctx, "Corrigan 99", 50); return err },
		"due":        func() error { _, err := s.Due(ctx, now, now.AddDate(0, 0, 56), 200); return err },
		"experience": func() error { _, err := s.Experience(ctx); return err },
		"figures":    func() error { _, err := s.Statistics(ctx, now.AddDate(-2, 0, 0), 90); return err },
	} {
		b.Run(fmt.Sprintf("%s-%d", name, n), func(b *testing.B) {
			var took []time.Duration
			for b.Loop() {
				began := time.Now()
				if err := ask(); err != nil {
					b.Fatal(err)
				}
				took = append(took, time.Since(began))
			}
			slices.Sort(took)
			b.ReportMetric(float64(took[len(took)*95/100].Microseconds())/1000, "p95-ms")
		})
	}
}

// fillFacts gives every job of fillShop a vehicle, three jobs each, and facts of about the length of a real job's,
// released over two years.
func fillFacts(b testing.TB, s *Store, n int) {
	b.Helper()
	for _, q := range []string{
		`INSERT INTO vehicles (id, plate_key, plate, name, pattern, due_at, updated_at) SELECT DISTINCT CONCAT('vehicle-', LPAD(k, 7, '0')), CONCAT('PL', k), CONCAT('PL ', k),
			CONCAT('Corrigan ', k % 200), 'pickup-front-rear-vacuum', DATE_ADD(CURDATE(), INTERVAL k % 730 DAY), NOW() FROM (SELECT CAST(SUBSTRING(id, 5) AS INT) DIV 3 k FROM jobs WHERE id LIKE 'job-%') x`,
		`UPDATE jobs SET vehicle_id = CONCAT('vehicle-', LPAD(CAST(SUBSTRING(id, 5) AS INT) DIV 3, 7, '0')) WHERE id LIKE 'job-%'`,
		`INSERT INTO job_facts (job_id, vehicle_id, pattern, opened_at, released_at, was, right_named, first_time, back_days, back_of, unit_maker, minutes, water_before, fluid_days, facts)
			SELECT id, vehicle_id, ELT(1 + k % 5, 'pickup-front-rear-vacuum', 'car-diagonal-vacuum', 'van', 'truck', 'hybrid'), DATE_SUB(NOW(), INTERVAL k % 730 DAY), DATE_SUB(NOW(), INTERVAL k % 730 DAY),
			ELT(1 + k % 6, 'primary_cup', 'secondary_cup', 'booster_diaphragm', 'wheel_cylinder', 'line_leak', ''), k % 4 > 0, k % 7 > 0, IF(k % 20 = 1, 30, NULL),
			IF(k % 20 = 1, CONCAT('job-', LPAD(k - 1, 7, '0')), NULL), CONCAT('Maker ', k % 12), 90 + k % 120, 1 + (k % 30) / 10, k % 2000, REPEAT('x', 1500)
			FROM (SELECT id, vehicle_id, CAST(SUBSTRING(id, 5) AS INT) k FROM jobs WHERE id LIKE 'job-%') x`,
		`INSERT INTO job_tallies (job_id, kind, of_what, day, value) SELECT job_id, 'released', '', DATE(released_at), first_time FROM job_facts WHERE released_at IS NOT NULL`,
		`INSERT INTO job_tallies (job_id, kind, of_what, day, value) SELECT job_id, 'pattern', pattern, DATE(released_at), first_time FROM job_facts WHERE released_at IS NOT NULL`,
		`INSERT INTO job_tallies (job_id, kind, of_what, day, value) SELECT job_id, 'was', was, DATE(released_at), 1 FROM job_facts WHERE was <> ''`,
		`INSERT INTO job_tallies (job_id, kind, of_what, day, value) SELECT job_id, 'maker', unit_maker, DATE(released_at), back_of IS NOT NULL FROM job_facts WHERE released_at IS NOT NULL`,
		`INSERT INTO job_tallies (job_id, kind, of_what, day, value) SELECT job_id, 'minutes', '', DATE(released_at), minutes FROM job_facts WHERE released_at IS NOT NULL`,
		`INSERT INTO job_tallies (job_id, kind, of_what, day, value) SELECT job_id, 'water', FLOOR(fluid_days / 365.25), DATE(opened_at), water_before FROM job_facts WHERE released_at IS NOT NULL`,
		`INSERT INTO job_tallies (job_id, kind, of_what, day, value) SELECT job_id, 'station', ELT(s.seq, 'diagnose', 'replace', 'bench', 'bleed', 'verify'), DATE(released_at), 20 FROM job_facts, seq_1_to_5 s WHERE released_at IS NOT NULL`,
		`INSERT INTO job_tallies (job_id, kind, of_what, day, value) SELECT job_id, 'sign', CONCAT('sign', (CAST(SUBSTRING(job_id, 5) AS INT) + 7 * s.seq) % 60), DATE(released_at), s.seq = 1 FROM job_facts, seq_1_to_6 s WHERE released_at IS NOT NULL`,
		`INSERT INTO tally_days (day, kind, of_what, n, total) SELECT day, kind, of_what, COUNT(*), SUM(value) FROM job_tallies GROUP BY 1, 2, 3`,
		"ANALYZE TABLE vehicles, jobs, job_facts, job_tallies, tally_days",
	} {
		require.NoError(b, s.db.Exec(q).Error)
	}
}
