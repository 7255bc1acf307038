package store

import (
	"context"

	"geminate/brake/job"
)

// alikeMost bounds how many jobs are read to see what was met before.
const alikeMost = 30

// Alike gives jobs whose words hold all of a vehicle's name, the last touched first.
func (s *Store) Alike(ctx context.Context, vehicle string) ([]*job.Job, error) {
	words := wordsOf(clipRunes(vehicle, 200))
	if len(words) == 0 {
		return nil, nil
	}
	db := s.db.WithContext(ctx).Model(&jobRow{}).Order("updated_at DESC, id DESC")
	rows, _, err := s.find(ctx, db, words, "", alikeMost)
	if err != nil {
		return nil, err
	}
	var out []*job.Job
	for _, r := range rows {
		j, err := s.Job(ctx, r.ID)
		if err != nil {
			return nil, err
		}
		out = append(out, j)
	}
	return out, nil
}
