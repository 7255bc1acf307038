package store

import (
	"context"
	"fmt"
	"time"

	"geminate/brake/job"
)

// Month is what the jobs released in one month come to; a month without any has no figures.
type Month struct {
	Month string `json:"month"` // 2026-11, UTC
	Jobs  int    `json:"jobs"`
	// RightFirst and Comebacks are shares, Minutes a mean.
	RightFirst float64 `json:"right_first"`
	Comebacks  float64 `json:"comebacks"`
	Minutes    float64 `json:"minutes"`
}

const monthForm = "2006-01"

// course is the shop month by month since a day, months without a job among them, out of the sums of days. No figure of
// a month is kept back for resting on few jobs: the course is read as a whole, and each point says on how many it
// rests.
func (s *Store) course(ctx context.Context, since time.Time, within string) ([]Month, error) {
	var rows []struct {
		Month string
		Kind  job.TallyKind
		N     int
		Total float64
	}
	err := s.db.WithContext(ctx).Raw(`SELECT DATE_FORMAT(day, '%Y-%m') month, kind, SUM(n) n, SUM(total) total FROM tally_days
		WHERE day >= ? AND (kind IN (?, ?) OR kind = ? AND of_what <= ?) GROUP BY month, kind ORDER BY month`,
		since.UTC().Truncate(24*time.Hour), job.TallyReleased, job.TallyMinutes, job.TallyBack, within).Scan(&rows).Error
	if err != nil {
		return nil, fmt.Errorf("store: course: %w", err)
	}
	out, at := []Month{}, map[string]int{}
	for _, r := range rows {
		if r.Kind == job.TallyReleased {
			out = upTo(out, r.Month)
			at[r.Month] = len(out) - 1
			out[len(out)-1] = Month{Month: r.Month, Jobs: r.N, RightFirst: r.Total / float64(max(1, r.N))}
		}
	}
	for _, r := range rows {
		i, released := at[r.Month]
		switch {
		case !released:
		case r.Kind == job.TallyBack:
			out[i].Comebacks = float64(r.N) / float64(out[i].Jobs)
		case r.Kind == job.TallyMinutes && r.N > 0:
			out[i].Minutes = r.Total / float64(r.N)
		}
	}
	return out, nil
}

// upTo appends the months up to one, so that a month in which nothing left the shop is seen as that.
func upTo(list []Month, month string) []Month {
	for len(list) > 0 {
		last, err := time.Parse(monthForm, list[len(list)-1].Month)
		if next := last.AddDate(0, 1, 0).Format(monthForm); err != nil || next >= month {
			break
		} else {
			list = append(list, Month{Month: next})
		}
	}
	return append(list, Month{Month: month})
}
