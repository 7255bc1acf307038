package store

import (
	"context"
	"fmt"
	"sync"
	"time"

	"gorm.io/gorm"
)

// LeastJobs is how many jobs a figure rests on at the least: below it nothing is said.
const LeastJobs = 5

// Figure is a share or a mean with the number of jobs it rests on.
type Figure struct {
	Of    string  `json:"of"` // a pattern, a maker, a year of age
	Jobs  int     `json:"jobs"`
	Value float64 `json:"value"`
}

// Statistics are the shop's, of the jobs released since a day.
type Statistics struct {
	Released int `json:"released"`
	// Comebacks is the share of released jobs whose vehicle was back within the shop's days; RightFirst those released
	// without a loop or a reopening; Named those whose cause the diagnosis had put first, of those where it is known.
	Comebacks  *Figure `json:"comebacks"`
	RightFirst *Figure `json:"right_first"`
	Named      *Figure `json:"named"`
	Minutes    *Figure `json:"minutes"`
	// ByPattern is right first time by kind of vehicle; Makers the share of units of a maker that came back; Was what it
	// really was; Water the water found by the age of the fluid in years.
	ByPattern []Figure `json:"by_pattern"`
	Makers    []Figure `json:"makers"`
	Was       []Figure `json:"was"`
	Water     []Figure `json:"water"`
}

// A statistic that took slowRead or more is kept for keepTimes the time it took: in most shops it is always fresh, in a very
// large one it is a few seconds old and does not keep the database busy.
const (
	keepTimes = 20
	slowRead  = 100 * time.Millisecond
)

// statisticsCache keeps the last answer; the lock also makes many who ask at once wait for one reading.
type statisticsCache struct {
	mu    sync.Mutex
	since time.Time
	days  int
	until time.Time
	last  Statistics
}

// Statistics are those of the jobs released since a day (of since, in UTC).
func (s *Store) Statistics(ctx context.Context, since time.Time, comebackDays int) (Statistics, error) {
	since = since.UTC().Truncate(24 * time.Hour)
	c := &s.statistics
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.since.Equal(since) && c.days == comebackDays && time.Now().Before(c.until) {
		return c.last, nil
	}
	began := time.Now()
	out, err := s.readStatistics(ctx, since, comebackDays)
	if took := time.Since(began); err == nil && took >= slowRead {
		c.since, c.days, c.last, c.until = since, comebackDays, out, time.Now().Add(keepTimes*took)
	}
	return out, err
}

// readStatistics reads them out of the facts of closed jobs.
func (s *Store) readStatistics(ctx context.Context, since time.Time, comebackDays int) (Statistics, error) {
	out := Statistics{ByPattern: []Figure{}, Makers: []Figure{}, Was: []Figure{}, Water: []Figure{}}
	db := s.db.WithContext(ctx)
	var all struct {
		N, Back, First, Known, Right, Timed int
		Minutes                             float64
	}
	err := db.Raw(ansi(`SELECT COUNT(*) n, COALESCE(SUM(first_time), 0) first, COALESCE(SUM(right_named IS NOT NULL), 0) known, COALESCE(SUM(right_named = 1), 0) "right",
		COALESCE(SUM(minutes IS NOT NULL), 0) timed, COALESCE(AVG(minutes), 0) minutes FROM job_facts WHERE released_at >= ?`), since).Scan(&all).Error
	if err != nil {
		return out, fmt.Errorf("store: statistics: %w", err)
	}
	if err := db.Raw(`SELECT COUNT(DISTINCT back_of) FROM job_facts WHERE back_of IS NOT NULL AND back_days <= ? AND opened_at >= ?`, comebackDays, since).Scan(&all.Back).Error; err != nil {
		return out, fmt.Errorf("store: statistics: %w", err)
	}
	out.Released = all.N
	figure := func(jobs, hits int) *Figure {
		if jobs < LeastJobs {
			return nil
		}
		return &Figure{Jobs: jobs, Value: float64(hits) / float64(jobs)}
	}
	out.Comebacks, out.RightFirst, out.Named = figure(all.N, all.Back), figure(all.N, all.First), figure(all.Known, all.Right)
	if all.Timed >= LeastJobs {
		out.Minutes = &Figure{Jobs: all.Timed, Value: all.Minutes}
	}
	for into, q := range map[*[]Figure]string{
		&out.ByPattern: `SELECT pattern "of", COUNT(*) jobs, AVG(first_time) value FROM job_facts WHERE released_at >= ? GROUP BY pattern HAVING jobs >= ? ORDER BY jobs DESC`,
		&out.Was:       `SELECT was "of", COUNT(*) jobs, COUNT(*) value FROM job_facts WHERE was <> '' AND released_at >= ? GROUP BY was HAVING jobs >= ? ORDER BY jobs DESC`,
		&out.Makers: `SELECT f.unit_maker "of", COUNT(*) jobs, COUNT(b.back_of) / COUNT(*) value FROM job_facts f
			LEFT JOIN (SELECT DISTINCT back_of FROM job_facts WHERE back_of IS NOT NULL) b ON b.back_of = f.job_id
			WHERE f.unit_maker <> '' AND f.released_at >= ? GROUP BY f.unit_maker HAVING jobs >= ? ORDER BY value DESC`,
		&out.Water: `SELECT FLOOR(fluid_days / 365.25) "of", COUNT(*) jobs, AVG(water_before) value FROM job_facts
			WHERE water_before IS NOT NULL AND fluid_days IS NOT NULL AND opened_at >= ? GROUP BY 1 HAVING jobs >= ? ORDER BY 1`,
	} {
		q = ansi(q)
		if err := db.Raw(q, since, LeastJobs).Scan(into).Error; err != nil {
			return out, fmt.Errorf("store: statistics: %w", err)
		}
	}
	return out, nil
}

// ansi writes names in double quotes as this database quotes them.
func ansi(q string) string {
	out := []byte(q)
	for i, c := range out {
		if c == '"' {
			out[i] = '`'
		}
	}
	return string(out)
}

// FactsWithout lists jobs whose facts were not written yet: from before there were any.
func (s *Store) FactsWithout(ctx context.Context, limit int) ([]string, error) {
	var ids []string
	err := s.db.WithContext(ctx).Raw("SELECT j.id FROM jobs j LEFT JOIN job_facts f ON f.job_id = j.id WHERE f.job_id IS NULL ORDER BY j.created_at LIMIT ?", limit).Scan(&ids).Error
	return ids, err
}

// FillFacts writes what jobs from before there were facts have left behind, until none is without or ctx ends.
func (s *Store) FillFacts(ctx context.Context) error {
	for {
		ids, err := s.FactsWithout(ctx, 100)
		if err != nil || len(ids) == 0 {
			return err
		}
		for _, id := range ids {
			j, err := s.Job(ctx, id)
			if err != nil {
				return err
			}
			if err := s.inTransaction(ctx, func(tx *gorm.DB) error { return keepFacts(ctx, tx, j, true) }); err != nil {
				return err
			}
		}
	}
}
