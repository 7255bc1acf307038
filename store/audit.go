package store

import (
	"context"
	"fmt"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Audit is one line of who did what in the shop.
type Audit struct {
	Seq      int64     `gorm:"primaryKey" json:"seq"`
	At       time.Time `                  json:"at"`
	Request  string    `                  json:"request"`
	UserID   string    `                  json:"user_id"`
	UserName string    `                  json:"user_name"`
	Role     string    `                  json:"role"`
	Action   string    `                  json:"action"`
	JobID    string    `                  json:"job_id"`
	Address  string    `                  json:"address"`
	Detail   string    `                  json:"detail"` // JSON, or ""
}

// TableName is the table's name.
func (Audit) TableName() string { return "audit" }

const auditMost = 8000 // bytes of detail

func addAudit(tx *gorm.DB, a *Audit) error {
	if a == nil {
		return nil
	}
	a.UserName, a.Detail = clipRunes(a.UserName, 120), a.Detail[:min(len(a.Detail), auditMost)]
	if err := tx.Create(a).Error; err != nil {
		return fmt.Errorf("store: audit: %w", err)
	}
	return nil
}

// AddAudit takes a line down.
func (s *Store) AddAudit(ctx context.Context, a *Audit) error {
	return addAudit(s.db.WithContext(ctx), a)
}

// AuditLines gives lines before seq (0: the newest), newest first, of one job and one action where given.
func (s *Store) AuditLines(ctx context.Context, before int64, jobID, action string, limit int) ([]Audit, error) {
	q := s.db.WithContext(ctx).Order("seq DESC").Limit(min(500, max(1, limit)))
	if before > 0 {
		q = q.Where("seq < ?", before)
	}
	if jobID != "" {
		q = q.Where("job_id = ?", jobID)
	}
	if action != "" {
		q = q.Where("action = ?", action)
	}
	out := []Audit{}
	if err := q.Find(&out).Error; err != nil {
		return nil, fmt.Errorf("store: audit: %w", err)
	}
	return out, nil
}

// Presence is one screen that has a job open.
type Presence struct {
	JobID  string    `gorm:"primaryKey" json:"-"`
	Tab    string    `gorm:"primaryKey" json:"tab"`
	UserID string    `                  json:"user_id"`
	Name   string    `                  json:"name"`
	SeenAt time.Time `                  json:"-"`
}

// TableName is the table's name.
func (Presence) TableName() string { return "presence" }

// PresenceFor is how long a screen counts as there after it was last heard of.
const PresenceFor = 25 * time.Second

// Here says that a screen has a job open.
func (s *Store) Here(ctx context.Context, p *Presence) error {
	p.SeenAt = time.Now().UTC()
	return s.write(ctx, func(db *gorm.DB) error { return db.Clauses(clause.OnConflict{UpdateAll: true}).Create(p).Error })
}

// Gone says that it no longer has.
func (s *Store) Gone(ctx context.Context, jobID, tab string) error {
	return s.write(ctx, func(db *gorm.DB) error {
		return db.Where("job_id = ? AND tab = ?", jobID, tab).Delete(&Presence{}).Error
	})
}

// WhoIsHere lists the screens that have a job open.
func (s *Store) WhoIsHere(ctx context.Context, jobID string) ([]Presence, error) {
	out := []Presence{}
	err := s.db.WithContext(ctx).
		Where("job_id = ? AND seen_at > ?", jobID, time.Now().UTC().Add(-PresenceFor)).
		Order("name, tab").
		Find(&out).
		Error
	return out, err
}

// WhoIsAt lists by job who has one of them open, each person once.
func (s *Store) WhoIsAt(ctx context.Context, jobs []string) (map[string][]string, error) {
	out := map[string][]string{}
	if len(jobs) == 0 {
		return out, nil
	}
	var rows []Presence
	err := s.db.WithContext(ctx).
		Distinct("job_id", "user_id", "name").
		Where("job_id IN ? AND seen_at > ?", jobs, time.Now().UTC().Add(-PresenceFor)).
		Order("job_id, name").
		Find(&rows).
		Error
	for _, r := range rows {
		out[r.JobID] = append(out[r.JobID], r.Name)
	}
	return out, err
}

// PrunePresence removes screens that are long gone.
func (s *Store) PrunePresence(ctx context.Context) error {
	return s.write(ctx, func(db *gorm.DB) error {
		return db.Where("seen_at < ?", time.Now().UTC().Add(-time.Hour)).Delete(&Presence{}).Error
	})
}
