package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"geminate/brake/job"
)

// OwnPatterns are the shop's own patterns, by name.
func (s *Store) OwnPatterns(ctx context.Context) ([]job.OwnPattern, error) {
	out := []job.OwnPattern{}
	raw, err := s.setting(ctx, settingsOwn)
	if err != nil || raw == "" {
		return out, err
	}
	return out, json.Unmarshal([]byte(raw), &out)
}

// ChangeOwnPatterns changes them: two who do so at once do it one after the other.
func (s *Store) ChangeOwnPatterns(ctx context.Context, change func([]job.OwnPattern) ([]job.OwnPattern, error),
	audit *Audit) ([]job.OwnPattern, error) {
	var out []job.OwnPattern
	err := s.inTransaction(ctx, func(tx *gorm.DB) error {
		// The row is there before it is locked: a lock on none would let two in at once.
		empty := settingsRow{ID: settingsOwn, Body: "[]", UpdatedAt: time.Now().UTC()}
		if err := tx.Clauses(clause.OnConflict{DoNothing: true}).Create(&empty).Error; err != nil {
			return fmt.Errorf("store: own patterns: %w", err)
		}
		var row settingsRow
		if err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Where("id = ?", settingsOwn).Take(&row).Error; err != nil &&
			!errors.Is(err, gorm.ErrRecordNotFound) {
			return fmt.Errorf("store: own patterns: %w", err)
		}
		var have []job.OwnPattern
		if err := json.Unmarshal([]byte(row.Body), &have); err != nil {
			return fmt.Errorf("store: own patterns: %w", err)
		}
		next, err := change(have)
		if err != nil {
			return err
		}
		raw, err := encode(next)
		if err != nil {
			return err
		}
		if err := tx.Model(&row).Updates(map[string]any{"body": raw, "updated_at": time.Now().UTC()}).Error; err != nil {
			return fmt.Errorf("store: own patterns: %w", err)
		}
		out = next
		return addAudit(tx, audit)
	})
	return out, err
}
