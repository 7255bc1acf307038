package store

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"gorm.io/gorm"

	"geminate/brake/job"
)

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
	// Kinds are the figures of each kind that are of something: of a pattern, a maker, a station. A share, a mean, or
	// of what it really was the number of jobs; those that rest on most jobs first, of signs and makers the worst
	// first.
	Kinds map[job.TallyKind][]Figure `json:"kinds"`
	// Course is the same month by month.
	Course []Month `json:"course"`
}

// shown are the kinds told one by one.
var shown = []job.TallyKind{
	job.TallyPattern,
	job.TallyWas,
	job.TallyMaker,
	job.TallyStation,
	job.TallyWheel,
	job.TallyMethod,
	job.TallySign,
	job.TallyWater,
}

// Statistics are those of the jobs released since a day (of since, in UTC), out of the sums of days.
func (s *Store) Statistics(ctx context.Context, since time.Time, comebackDays int) (Statistics, error) {
	out := Statistics{Kinds: map[job.TallyKind][]Figure{}}
	for _, k := range shown {
		out.Kinds[k] = []Figure{}
	}
	var rows []dayRow
	err := s.db.WithContext(ctx).
		Raw("SELECT kind, of_what, SUM(n) n, SUM(total) total FROM tally_days WHERE day >= ? GROUP BY kind, of_what",
			since.UTC().Truncate(24*time.Hour)).
		Scan(&rows).
		Error
	if err != nil {
		return out, fmt.Errorf("store: statistics: %w", err)
	}
	back, within := 0, job.BackOf(comebackDays)
	for _, r := range rows {
		f := &Figure{Of: r.OfWhat, Jobs: int(r.N)}
		if r.N > 0 {
			f.Value = r.Total / float64(r.N)
		}
		if r.Kind == job.TallyReleased {
			out.Released = f.Jobs
		}
		if r.Kind == job.TallyBack && r.OfWhat <= within {
			back += f.Jobs
		}
		if f.Jobs < job.LeastJobs {
			continue
		}
		switch r.Kind {
		case job.TallyReleased:
			out.RightFirst = f
		case job.TallyNamed:
			out.Named = f
		case job.TallyMinutes:
			out.Minutes = f
		case job.TallyWas:
			f.Value = float64(f.Jobs)
			fallthrough
		default:
			if slices.Contains(shown, r.Kind) {
				out.Kinds[r.Kind] = append(out.Kinds[r.Kind], *f)
			}
		}
	}
	if out.Course, err = s.course(ctx, since, within); err != nil {
		return out, err
	}
	if out.Released >= job.LeastJobs {
		out.Comebacks = &Figure{Jobs: out.Released, Value: float64(back) / float64(out.Released)}
	}
	for k, list := range out.Kinds {
		slices.SortFunc(list, func(a, b Figure) int {
			switch k {
			case job.TallySign, job.TallyMaker:
				return cmp.Or(cmp.Compare(b.Value, a.Value), cmp.Compare(a.Of, b.Of))
			case job.TallyWater:
				return cmp.Or(cmp.Compare(len(a.Of), len(b.Of)), cmp.Compare(a.Of, b.Of))
			}
			return cmp.Or(cmp.Compare(b.Jobs, a.Jobs), cmp.Compare(a.Of, b.Of))
		})
	}
	return out, nil
}

// FactsWithout lists jobs whose facts were not written yet: from before there were any.
func (s *Store) FactsWithout(ctx context.Context, limit int) ([]string, error) {
	var ids []string
	err := s.db.WithContext(ctx).
		Raw("SELECT j.id FROM jobs j LEFT JOIN job_facts f ON f.job_id = j.id WHERE f.job_id IS NULL ORDER BY j.created_at LIMIT ?", limit).
		Scan(&ids).
		Error
	return ids, err
}

// FillFacts writes what jobs from before there were facts have left behind, until none is without or ctx ends.
func (s *Store) FillFacts(ctx context.Context) error {
	for {
		ids, err := s.FactsWithout(ctx, 100)
		if err != nil {
			return err
		}
		if len(ids) == 0 {
			return s.fillTallies(ctx)
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
