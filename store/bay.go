package store

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode"

	"golang.org/x/text/unicode/norm"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"geminate/brake/job"
)

// searchText is what a job is found by.
func searchText(in *job.Intake) string {
	plate := strings.Join(strings.FieldsFunc(in.Plate, notWord), "")
	return clipRunes(strings.Join([]string{in.Vehicle, in.Plate, plate, in.Customer, in.Complaint}, " "), 6000)
}

func clipRunes(s string, most int) string {
	r := []rune(s)
	return string(r[:min(len(r), most)])
}

func notWord(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsNumber(r) }

const (
	wordMost  = 40 // runes of a word that are kept
	wordsMost = 300
)

// wordsOf cuts a text into words without case and accents, each once.
func wordsOf(text string) []string {
	var b strings.Builder
	for _, r := range norm.NFD.String(strings.ToLower(text)) {
		if !unicode.Is(unicode.Mn, r) {
			b.WriteRune(r)
		}
	}
	words := strings.FieldsFunc(b.String(), notWord)
	for i := range words {
		words[i] = clipRunes(words[i], wordMost)
	}
	slices.Sort(words)
	words = slices.Compact(words)
	return words[:min(len(words), wordsMost)]
}

type wordRow struct {
	Word  string `gorm:"primaryKey"`
	JobID string `gorm:"primaryKey"`
}

func (wordRow) TableName() string { return "job_words" }

func keepWords(tx *gorm.DB, id, text string) error {
	if err := tx.Where("job_id = ?", id).Delete(&wordRow{}).Error; err != nil {
		return fmt.Errorf("store: words of %s: %w", id, err)
	}
	words := wordsOf(text)
	rows := make([]wordRow, len(words))
	for i, w := range words {
		rows[i] = wordRow{w, id}
	}
	if len(rows) == 0 {
		return nil
	}
	if err := tx.Create(&rows).Error; err != nil {
		return fmt.Errorf("store: words of %s: %w", id, err)
	}
	return nil
}

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
	Next  string // "" where this was the last page
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
	fewMost   = 2000 // jobs a rare word may name and still be looked up one by one
	bayCursor = "2006-01-02T15:04:05.000"
)

// Bay gives a page.
func (s *Store) Bay(ctx context.Context, q BayQuery) (*BayPage, error) {
	db := s.db.WithContext(ctx).Model(&jobRow{}).Select("id", "card", "updated_at")
	if q.Standing != "" {
		db = db.Where("standing = ?", string(q.Standing))
	}
	if q.Station != "" {
		db = db.Where("station = ?", q.Station)
	}
	if at, id, ok := strings.Cut(q.After, "|"); ok {
		t, err := time.Parse(bayCursor, at)
		if err != nil {
			return nil, ErrNotFound
		}
		db = db.Where("(updated_at < ? OR (updated_at = ? AND id < ?))", t, t, id)
	}
	db, some, err := s.withWords(ctx, db, wordsOf(clipRunes(q.Text, 200)))
	if err != nil {
		return nil, err
	}
	page := &BayPage{Cards: []json.RawMessage{}, Counts: []BayCount{}}
	limit := min(pageMost, max(1, q.Limit))
	if some {
		var rows []jobRow
		if err := db.Order("updated_at DESC, id DESC").Limit(limit + 1).Find(&rows).Error; err != nil {
			return nil, fmt.Errorf("store: bay: %w", err)
		}
		if len(rows) > limit {
			rows = rows[:limit]
			last := rows[limit-1]
			page.Next = last.UpdatedAt.UTC().Format(bayCursor) + "|" + last.ID
		}
		for _, r := range rows {
			page.Cards = append(page.Cards, json.RawMessage(r.Card))
		}
	}
	if err := s.db.WithContext(ctx).Model(&countRow{}).Where("n > 0").Order("standing, station").Find(&page.Counts).Error; err != nil {
		return nil, fmt.Errorf("store: counts: %w", err)
	}
	return page, nil
}

// withWords narrows a query to jobs that have a word beginning with each of these. The rarest word is looked up
// first: a rare one gives the few jobs that can be meant; where all are common the jobs are walked from the last
// touched on, each probed for the words.
func (s *Store) withWords(ctx context.Context, db *gorm.DB, words []string) (*gorm.DB, bool, error) {
	if len(words) == 0 {
		return db, true, nil
	}
	words = words[:min(len(words), 6)]
	var few []string
	found := false
	for _, w := range words {
		var ids []string
		err := s.db.WithContext(ctx).Model(&wordRow{}).Distinct("job_id").Where("word LIKE ?", likePrefix(w)).Limit(fewMost+1).Pluck("job_id", &ids).Error
		if err != nil {
			return nil, false, fmt.Errorf("store: search: %w", err)
		}
		if len(ids) == 0 {
			return db, false, nil
		}
		if len(ids) <= fewMost && (!found || len(ids) < len(few)) {
			few, found = ids, true
		}
	}
	if found {
		db = db.Where("id IN ?", few)
	}
	for _, w := range words {
		db = db.Where("EXISTS (SELECT 1 FROM job_words w WHERE w.job_id = jobs.id AND w.word LIKE ?)", likePrefix(w))
	}
	return db, true, nil
}

func likePrefix(word string) string {
	return strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`).Replace(word) + "%"
}
