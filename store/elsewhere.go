package store

import (
	"context"
	"encoding/json"
	"time"

	"geminate/brake/job"
)

// DoneElsewhere is a job that another shop of the chain did on a vehicle: what was found and fitted, and nothing of its
// customer.
type DoneElsewhere struct {
	ReleasedAt  time.Time `json:"released_at"`
	Scope       string    `json:"scope"`
	Was         string    `json:"was"` // fault, "" where nobody said
	UnitMaker   string    `json:"unit_maker"`
	UnitNumber  string    `json:"unit_number"`
	WaterBefore *float64  `json:"water_before"` // %
	WaterAfter  *float64  `json:"water_after"`
}

// elsewhereMost jobs of a vehicle are told.
const elsewhereMost = 20

// Done are the released jobs of a vehicle by its VIN, or by its plate where no VIN is known on either side, the last
// first.
func (s *Store) Done(ctx context.Context, plate, vin string) ([]DoneElsewhere, error) {
	out := []DoneElsewhere{}
	plate, vin = job.PlateKey(clipRunes(plate, 60)), job.PlateKey(clipRunes(vin, 60))
	q := s.db.WithContext(ctx).Model(&Vehicle{}).Select("COALESCE(joined_to, id)")
	switch {
	case vin != "": // a plate moves from one vehicle to another
		q = q.Where("vin = ? OR (vin = '' AND plate_key = ? AND plate_key <> '')", vin, plate)
	case plate != "":
		q = q.Where("plate_key = ?", plate)
	default:
		return out, nil
	}
	var rows []factsRow
	err := s.db.WithContext(ctx).
		Where("vehicle_id IN (?) AND released_at IS NOT NULL", q).
		Order("released_at DESC").
		Limit(elsewhereMost).
		Find(&rows).
		Error
	for _, r := range rows {
		var f job.Facts
		if json.Unmarshal([]byte(r.Facts), &f) != nil {
			continue
		}
		out = append(out, DoneElsewhere{*r.ReleasedAt, string(f.Scope), f.Was, f.UnitMaker, f.UnitNumber, f.WaterBefore, f.WaterAfter})
	}
	return out, err
}

// OpenJobs counts the jobs a shop has not released.
func (s *Store) OpenJobs(ctx context.Context) (n int64, err error) {
	err = s.db.WithContext(ctx).
		Raw("SELECT COALESCE(SUM(n), 0) FROM job_counts WHERE standing <> ?", string(job.StandsReleased)).
		Scan(&n).
		Error
	return n, err
}

// Together are the figures of several shops as those of one: shares and means weighed by the jobs they rest on.
func Together(all []Statistics) Statistics {
	out := Statistics{Kinds: map[job.TallyKind][]Figure{}, Course: []Month{}}
	for _, s := range all {
		out.Released += s.Released
		out.Comebacks, out.RightFirst = weighed(out.Comebacks, s.Comebacks), weighed(out.RightFirst, s.RightFirst)
		out.Named, out.Minutes = weighed(out.Named, s.Named), weighed(out.Minutes, s.Minutes)
	}
	return out
}

func weighed(a, b *Figure) *Figure {
	switch {
	case b == nil:
		return a
	case a == nil:
		c := *b
		return &c
	}
	n := a.Jobs + b.Jobs
	return &Figure{Jobs: n, Value: (a.Value*float64(a.Jobs) + b.Value*float64(b.Jobs)) / float64(n)}
}
