package store

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"geminate/brake/job"
)

// tallyRow is one count of one job; the day it counts for is the release's, of water the intake's.
type tallyRow struct {
	JobID  string        `gorm:"primaryKey"`
	Kind   job.TallyKind `gorm:"primaryKey"`
	OfWhat string        `gorm:"primaryKey"`
	Day    time.Time
	Value  float64
}

func (tallyRow) TableName() string { return "job_tallies" }

// dayRow sums the counts of a day.
type dayRow struct {
	Day    time.Time     `gorm:"primaryKey"`
	Kind   job.TallyKind `gorm:"primaryKey"`
	OfWhat string        `gorm:"primaryKey"`
	N      int64
	Total  float64
}

func (dayRow) TableName() string { return "tally_days" }

// retally counts a job anew, and moves the sums of its days by what changed.
func retally(tx *gorm.DB, row *factsRow, f *job.Facts) error {
	q := tx.Session(&gorm.Session{NewDB: true})
	var was []tallyRow
	if err := q.Clauses(clause.Locking{Strength: "UPDATE"}).Where("job_id = ?", row.JobID).Find(&was).Error; err != nil {
		return fmt.Errorf("store: tallies: %w", err)
	}
	var next []tallyRow
	for _, t := range f.Tallies(row.CameBack) {
		day := row.OpenedAt
		if t.Kind != job.TallyWater {
			day = *f.ReleasedAt
		}
		next = append(next, tallyRow{row.JobID, t.Kind, clipRunes(t.Of, 120), day.UTC().Truncate(24 * time.Hour), t.Value})
	}
	moves := map[dayRow]dayRow{}
	for sign, rows := range map[int64][]tallyRow{-1: was, 1: next} {
		for _, r := range rows {
			k := dayRow{Day: r.Day.UTC(), Kind: r.Kind, OfWhat: r.OfWhat}
			m := moves[k]
			m.N, m.Total = m.N+sign, m.Total+float64(sign)*r.Value
			moves[k] = m
		}
	}
	same := len(was) == len(next)
	list := make([]dayRow, 0, len(moves))
	for k, m := range moves {
		if m.N != 0 || m.Total != 0 {
			k.N, k.Total = m.N, m.Total
			list, same = append(list, k), false
		}
	}
	if same {
		return nil
	}
	if err := q.Where("job_id = ?", row.JobID).Delete(&tallyRow{}).Error; err != nil {
		return fmt.Errorf("store: tallies: %w", err)
	}
	if len(next) > 0 {
		if err := q.Create(&next).Error; err != nil {
			return fmt.Errorf("store: tallies: %w", err)
		}
	}
	if len(list) == 0 {
		return nil
	}
	// Always in the same order, so that two jobs of a day do not wait for each other in a ring.
	slices.SortFunc(list, func(a, b dayRow) int {
		return cmp.Or(a.Day.Compare(b.Day), cmp.Compare(a.Kind, b.Kind), cmp.Compare(a.OfWhat, b.OfWhat))
	})
	err := q.Clauses(clause.OnConflict{DoUpdates: clause.Set{
		{Column: clause.Column{Name: "n"}, Value: gorm.Expr("tally_days.n + VALUES(n)")},
		{Column: clause.Column{Name: "total"}, Value: gorm.Expr("tally_days.total + VALUES(total)")},
	}}).Create(&list).Error
	if err != nil {
		return fmt.Errorf("store: tallies: %w", err)
	}
	return nil
}

// cameBack tells a job that its vehicle was back after some days, and counts it anew.
func cameBack(tx *gorm.DB, jobID string, days int) error {
	q := tx.Session(&gorm.Session{NewDB: true})
	if err := q.Exec("UPDATE job_facts SET came_back = LEAST(COALESCE(came_back, ?), ?) WHERE job_id = ?", days, days,
		jobID).Error; err != nil {
		return err
	}
	return tallyAgain(tx, jobID)
}

// tallyAgain counts a job by the facts that are stored of it.
func tallyAgain(tx *gorm.DB, jobID string) error {
	q := tx.Session(&gorm.Session{NewDB: true})
	var row factsRow
	if err := q.Where("job_id = ?", jobID).Take(&row).Error; err != nil {
		return err
	}
	var f job.Facts
	if json.Unmarshal([]byte(row.Facts), &f) == nil {
		if err := retally(tx, &row, &f); err != nil {
			return err
		}
	}
	return q.Exec("UPDATE job_facts SET tallied = 1 WHERE job_id = ?", jobID).Error
}

// fillTallies counts the jobs from before they were counted.
func (s *Store) fillTallies(ctx context.Context) error {
	for {
		var ids []string
		err := s.db.WithContext(ctx).Raw("SELECT job_id FROM job_facts WHERE tallied = 0 LIMIT 100").Scan(&ids).Error
		if err != nil || len(ids) == 0 {
			return err
		}
		for _, id := range ids {
			if err := s.inTransaction(ctx, func(tx *gorm.DB) error { return tallyAgain(tx, id) }); err != nil {
				return err
			}
		}
	}
}

// TallyQuery asks which jobs one figure rests on.
type TallyQuery struct {
	Kind  job.TallyKind
	Of    string // "" takes all of the kind
	Most  string // of at most this; "" takes all
	Value *float64
	Since time.Time
	Until time.Time // not of that day any more; zero takes all since
	Limit int
}

// TalliedJobs lists the cards of those jobs, the last first.
func (s *Store) TalliedJobs(ctx context.Context, q TallyQuery) ([]json.RawMessage, error) {
	db := s.db.WithContext(ctx).Table("job_tallies t").Select("j.card").Joins("JOIN jobs j ON j.id = t.job_id").
		Where("t.kind = ? AND t.day >= ?", q.Kind, q.Since.UTC().Truncate(24*time.Hour)).Order("t.day DESC, t.job_id").Limit(q.Limit)
	if !q.Until.IsZero() {
		db = db.Where("t.day < ?", q.Until.UTC())
	}
	if q.Of != "" {
		db = db.Where("t.of_what = ?", q.Of)
	}
	if q.Most != "" {
		db = db.Where("t.of_what <= ?", q.Most)
	}
	if q.Value != nil {
		db = db.Where("t.value = ?", *q.Value)
	}
	var cards []string
	err := db.Scan(&cards).Error
	out := make([]json.RawMessage, len(cards))
	for i, c := range cards {
		out[i] = json.RawMessage(c)
	}
	return out, err
}
