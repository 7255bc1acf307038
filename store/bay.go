package store

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"geminate/brake/job"
)

type countRow struct {
	Standing string `gorm:"primaryKey"`
	Station  string `gorm:"primaryKey"`
	N        int64
}

func (countRow) TableName() string { return "job_counts" }

// keepCounts moves a job from one heap to another, always in the same order, so that two jobs that change
// places do not wait for each other.
func keepCounts(tx *gorm.DB, standing, station, nextStanding, nextStation string) error {
	if standing == nextStanding && station == nextStation {
		return nil
	}
	moves := []countRow{{nextStanding, nextStation, 1}}
	if standing != "" {
		moves = append(moves, countRow{standing, station, -1})
	}
	slices.SortFunc(moves, func(a, b countRow) int {
		return cmp.Or(cmp.Compare(a.Standing, b.Standing), cmp.Compare(a.Station, b.Station))
	})
	for _, m := range moves {
		err := tx.Clauses(clause.OnConflict{DoUpdates: clause.Assignments(map[string]any{"n": gorm.Expr("n + ?", m.N)})}).Create(&m).Error
		if err != nil {
			return fmt.Errorf("store: counts: %w", err)
		}
	}
	return nil
}

// BayQuery asks for a page of jobs, the last touched first.
type BayQuery struct {
	Text     string
	Standing job.Standing // "" takes all
	Station  string       // of the open ones; "" takes all
	After    string       // the Next of the page before
	Limit    int
}

// BayPage is a page of cards.
type BayPage struct {
	Cards []json.RawMessage
	IDs   []string // of the cards
	Next  string   // "" where this was the last page
	// Counts are all jobs of the shop by standing and station.
	Counts []BayCount
}

// BayCount is one heap of jobs.
type BayCount struct {
	Standing string `json:"standing"`
	Station  string `json:"station"`
	N        int64  `json:"n"`
}

const (
	pageMost  = 100
	bayCursor = "2006-01-02T15:04:05.000"
)

func cursorOf(r jobRow) string { return r.UpdatedAt.UTC().Format(bayCursor) + "|" + r.ID }

// after narrows a query to what comes after a cursor in the bay's order.
func after(db *gorm.DB, cursor string) (*gorm.DB, error) {
	at, id, ok := strings.Cut(cursor, "|")
	if !ok {
		return db, nil
	}
	t, err := time.Parse(bayCursor, at)
	if err != nil {
		return nil, ErrNotFound
	}
	return db.Where("(updated_at < ? OR (updated_at = ? AND id < ?))", t, t, id), nil
}

// Bay gives a page. A search looks through a bounded number of jobs, so a page of one may be short, or empty, and
// still have a Next: there is more to look through.
func (s *Store) Bay(ctx context.Context, q BayQuery) (*BayPage, error) {
	db := s.db.WithContext(ctx).Model(&jobRow{}).Where(notPractised).Order("updated_at DESC, id DESC")
	if q.Standing != "" {
		db = db.Where("standing = ?", string(q.Standing))
	} else { // what was put away is out of the bay
		db = db.Where("standing <> ?", string(job.StandsAway))
	}
	if q.Station != "" {
		db = db.Where("station = ?", q.Station)
	}
	page := &BayPage{Cards: []json.RawMessage{}, Counts: []BayCount{}}
	limit := min(pageMost, max(1, q.Limit))
	rows, next, err := s.find(ctx, db, wordsOf(clipRunes(q.Text, 200)), q.After, limit)
	if err != nil {
		return nil, err
	}
	page.Next = next
	for _, r := range rows {
		page.Cards, page.IDs = append(page.Cards, json.RawMessage(r.Card)), append(page.IDs, r.ID)
	}
	if err := s.db.WithContext(ctx).Model(&countRow{}).Where("n > 0").Order("standing, station").Find(&page.Counts).Error; err != nil {
		return nil, fmt.Errorf("store: counts: %w", err)
	}
	var practised []BayCount
	if err := s.db.WithContext(ctx).
		Raw("SELECT j.standing, j.station, COUNT(*) n FROM practices p JOIN jobs j ON j.id = p.job_id GROUP BY j.standing, j.station").
		Scan(&practised).
		Error; err != nil {
		return nil, fmt.Errorf("store: counts: %w", err)
	}
	for _, p := range practised {
		for i := range page.Counts {
			if c := &page.Counts[i]; c.Standing == p.Standing && c.Station == p.Station {
				c.N -= p.N
			}
		}
	}
	page.Counts = slices.DeleteFunc(page.Counts, func(c BayCount) bool { return c.N <= 0 })
	return page, nil
}

// notPractised leaves out jobs on simulated vehicles: they are found in the practice bay and are none of the day's.
const notPractised = "NOT EXISTS (SELECT 1 FROM practices WHERE practices.job_id = jobs.id)"

// PutDown lists the cards of open jobs put down for a day or a later one, the next first.
func (s *Store) PutDown(ctx context.Context, from string, limit int) ([]json.RawMessage, error) {
	var rows []jobRow
	err := s.db.WithContext(ctx).
		Model(&jobRow{}).
		Select("card").
		Where("for_day >= ? AND standing = ?", from, string(job.StandsOpen)).
		Order("for_day, id").
		Limit(limit).
		Find(&rows).
		Error
	out := make([]json.RawMessage, len(rows))
	for i, r := range rows {
		out[i] = json.RawMessage(r.Card)
	}
	return out, err
}

// IsOpen says whether a job is still worked on.
func (s *Store) IsOpen(ctx context.Context, id string) (bool, error) {
	var row jobRow
	err := s.db.WithContext(ctx).Select("standing").Where("id = ?", id).Take(&row).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return false, ErrNotFound
	}
	return row.Standing == string(job.StandsOpen) || row.Standing == string(job.StandsParked), err
}
