package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"geminate/brake/diagnose"
	"geminate/brake/job"
)

type settingsRow struct {
	ID        int `gorm:"primaryKey;autoIncrement:false"`
	Body      string
	UpdatedAt time.Time
}

func (settingsRow) TableName() string { return "settings" }

// Rows of the settings table: the shop's, what another shop's experience brought, and the shop's own patterns.
const (
	settingsShop  = 1
	settingsLearn = 2
	settingsOwn   = 3
)

// Settings are the shop's, the usual ones where nobody set any.
func (s *Store) Settings(ctx context.Context) (job.Settings, error) {
	out := job.DefaultSettings()
	raw, err := s.setting(ctx, settingsShop)
	if err != nil || raw == "" {
		return out, err
	}
	return out, json.Unmarshal([]byte(raw), &out)
}

func (s *Store) setting(ctx context.Context, id int) (string, error) {
	var row settingsRow
	err := s.db.WithContext(ctx).Where("id = ?", id).Take(&row).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return "", nil
	}
	return row.Body, err
}

// PutSettings keeps them.
func (s *Store) PutSettings(ctx context.Context, v job.Settings, audit *Audit) error {
	return s.put(ctx, settingsShop, v, audit)
}

func (s *Store) put(ctx context.Context, id int, v any, audit *Audit) error {
	raw, err := encode(v)
	if err != nil {
		return err
	}
	s.shop.forget()
	return s.inTransaction(ctx, func(tx *gorm.DB) error {
		row := settingsRow{ID: id, Body: raw, UpdatedAt: time.Now().UTC()}
		if err := tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error; err != nil {
			return fmt.Errorf("store: settings: %w", err)
		}
		return addAudit(tx, audit)
	})
}

// Brought is another shop's experience, by kind of vehicle.
func (s *Store) Brought(ctx context.Context) (map[string]diagnose.Experience, error) {
	out := map[string]diagnose.Experience{}
	raw, err := s.setting(ctx, settingsLearn)
	if err != nil || raw == "" {
		return out, err
	}
	return out, json.Unmarshal([]byte(raw), &out)
}

// PutBrought keeps another shop's experience; an empty one takes it out again.
func (s *Store) PutBrought(ctx context.Context, x map[string]diagnose.Experience, audit *Audit) error {
	return s.put(ctx, settingsLearn, x, audit)
}

// Experience is what closed jobs of each kind of vehicle really were, with what was brought from another shop.
func (s *Store) Experience(ctx context.Context) (map[string]diagnose.Experience, error) {
	out, err := s.Brought(ctx)
	if err != nil {
		return nil, err
	}
	for k, x := range out { // maps are copied: the brought one is kept as it is
		counts := map[string]int{}
		for id, n := range x.Counts {
			counts[id] = n
		}
		signs := map[string]map[string][]int{}
		for s, faults := range x.Signs {
			signs[s] = map[string][]int{}
			for f, n := range faults {
				signs[s][f] = slices.Clone(n)
			}
		}
		out[k] = diagnose.Experience{Jobs: x.Jobs, Counts: counts, Signs: signs}
	}
	var rows []struct {
		Pattern, Was string
		N            int
	}
	err = s.db.WithContext(ctx).
		Raw("SELECT pattern, was, COUNT(*) AS n FROM job_facts WHERE was <> '' GROUP BY was, pattern").
		Scan(&rows).
		Error
	if err != nil {
		return nil, fmt.Errorf("store: experience: %w", err)
	}
	for _, r := range rows {
		x := out[r.Pattern]
		if x.Counts == nil {
			x.Counts = map[string]int{}
		}
		x.Jobs += r.N
		x.Counts[r.Was] += r.N
		out[r.Pattern] = x
	}
	return out, s.seen(ctx, out)
}

// seen adds what signs showed where it was told what it really was.
func (s *Store) seen(ctx context.Context, out map[string]diagnose.Experience) error {
	var rows []struct {
		OfWhat string
		N      int
	}
	if err := s.db.WithContext(ctx).
		Raw("SELECT of_what, SUM(n) AS n FROM tally_days WHERE kind = ? GROUP BY of_what HAVING n > 0", job.TallySeen).
		Scan(&rows).
		Error; err != nil {
		return fmt.Errorf("store: experience: %w", err)
	}
	for _, r := range rows {
		pattern, was, sign, value, ok := job.SeenFrom(r.OfWhat)
		if !ok {
			continue
		}
		x := out[pattern]
		x.See(was, map[string]string{sign: value}, r.N)
		out[pattern] = x
	}
	return nil
}
