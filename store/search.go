package store

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"
	"gorm.io/gorm"

	"geminate/brake/job"
	"geminate/brake/match"
)

// searchText is what a job is found by: vehicle, plate (also as one word), customer, complaint and the units it is
// about (their numbers also as one word).
func searchText(in *job.Intake, c *job.Choices) string {
	one := func(s string) string { return strings.Join(strings.FieldsFunc(s, notWord), "") }
	words := []string{in.Vehicle, in.Plate, one(in.Plate), in.Customer, in.Complaint}
	for _, u := range []*match.Unit{c.Unit, c.Booster, c.Old, c.OldBooster} {
		if u != nil {
			words = append(words, u.Maker, u.Number, one(u.Number))
		}
	}
	return clipRunes(strings.Join(words, " "), 6000)
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

const (
	termsMost = 6    // words of one search
	fewMost   = 800  // jobs a rare word may name and still be looked up one by one
	walkStep  = 400  // jobs probed in one query
	walkMost  = 1600 // jobs one request looks through
)

// find gives the next jobs of a query that have a word beginning with each of these, and where to go on. A rare
// word gives the few jobs that can be meant; where all are common the jobs are walked from the last touched on and
// each probed, so that what one request costs depends neither on the size of the shop nor on how common a word is.
func (s *Store) find(ctx context.Context, db *gorm.DB, words []string, cursor string, limit int) ([]jobRow, string, error) {
	db, err := after(db.Session(&gorm.Session{}), cursor)
	if err != nil {
		return nil, "", err
	}
	words = words[:min(len(words), termsMost)]
	if len(words) == 0 {
		return s.page(db, limit)
	}
	few, rare, err := s.rarest(ctx, words)
	if err != nil || rare && len(few) == 0 {
		return nil, "", err
	}
	if rare {
		if few, err = s.withWords(ctx, few, words); err != nil || len(few) == 0 {
			return nil, "", err
		}
		// The optimizer would rather walk the jobs in the page's order for these few.
		return s.page(db.Table("jobs FORCE INDEX (PRIMARY)").Where("id IN ?", few), limit)
	}
	return s.walk(ctx, db, words, limit)
}

// page gives the first rows of a query.
func (s *Store) page(db *gorm.DB, limit int) ([]jobRow, string, error) {
	var rows []jobRow
	if err := db.Select("id", "card", "updated_at").Limit(limit + 1).Find(&rows).Error; err != nil {
		return nil, "", fmt.Errorf("store: bay: %w", err)
	}
	if len(rows) <= limit {
		return rows, "", nil
	}
	return rows[:limit], cursorOf(rows[limit-1]), nil
}

// rarest gives the jobs of the rarest of these words, and false where none of them is rare.
func (s *Store) rarest(ctx context.Context, words []string) (few []string, rare bool, err error) {
	for _, w := range words {
		var ids []string
		err := s.db.WithContext(ctx).Model(&wordRow{}).Where("word LIKE ?", likePrefix(w)).Limit(fewMost+1).Pluck("job_id", &ids).Error
		if err != nil {
			return nil, false, fmt.Errorf("store: search: %w", err)
		}
		if len(ids) <= fewMost && (!rare || len(ids) < len(few)) {
			few, rare = ids, true
		}
	}
	return few, rare, nil
}

// withWords keeps those of some jobs that have all these words, in no order.
func (s *Store) withWords(ctx context.Context, ids, words []string) ([]string, error) {
	for _, w := range words {
		var with []string
		err := s.db.WithContext(ctx).Model(&wordRow{}).Where("job_id IN ? AND word LIKE ?", ids, likePrefix(w)).Pluck("job_id", &with).Error
		if err != nil {
			return nil, fmt.Errorf("store: search: %w", err)
		}
		slices.Sort(with)
		if ids = slices.Compact(with); len(ids) == 0 {
			break
		}
	}
	return ids, nil
}

// walk goes through a query's jobs, so many at a time, and keeps those with all these words.
func (s *Store) walk(ctx context.Context, db *gorm.DB, words []string, limit int) (found []jobRow, next string, err error) {
	for walked, cursor := 0, ""; walked < walkMost; walked += walkStep {
		step, err := after(db.Session(&gorm.Session{}), cursor)
		if err != nil {
			return nil, "", err
		}
		var rows []jobRow
		if err := step.Select("id", "updated_at").Limit(walkStep).Find(&rows).Error; err != nil {
			return nil, "", fmt.Errorf("store: bay: %w", err)
		}
		if len(rows) == 0 {
			return s.cards(ctx, found, "")
		}
		with, err := s.withWords(ctx, idsOf(rows), words)
		if err != nil {
			return nil, "", err
		}
		for i, r := range rows {
			if !slices.Contains(with, r.ID) {
				continue
			}
			if found = append(found, r); len(found) == limit {
				if i == len(rows)-1 && len(rows) < walkStep {
					return s.cards(ctx, found, "")
				}
				return s.cards(ctx, found, cursorOf(r))
			}
		}
		if len(rows) < walkStep {
			return s.cards(ctx, found, "")
		}
		cursor = cursorOf(rows[len(rows)-1])
		next = cursor
	}
	return s.cards(ctx, found, next)
}

func idsOf(rows []jobRow) []string {
	ids := make([]string, len(rows))
	for i, r := range rows {
		ids[i] = r.ID
	}
	return ids
}

// cards fills in what the bay shows of these jobs.
func (s *Store) cards(ctx context.Context, rows []jobRow, next string) ([]jobRow, string, error) {
	if len(rows) == 0 {
		return rows, next, nil
	}
	var full []jobRow
	if err := s.db.WithContext(ctx).Select("id", "card", "updated_at").Where("id IN ?", idsOf(rows)).Find(&full).Error; err != nil {
		return nil, "", fmt.Errorf("store: bay: %w", err)
	}
	byID := make(map[string]jobRow, len(full))
	for _, r := range full {
		byID[r.ID] = r
	}
	for i, r := range rows {
		rows[i].Card = byID[r.ID].Card
	}
	return rows, next, nil
}

func likePrefix(word string) string {
	return strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`).Replace(word) + "%"
}
