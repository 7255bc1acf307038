package store

import (
	"context"
	"fmt"
	"time"

	"gorm.io/gorm"

	"geminate/brake/job"
)

// Practice is one exercise being worked, or worked: beside its job.
type Practice struct {
	JobID     string `gorm:"primaryKey"`
	Exercise  string
	Pattern   string
	Hardness  string // of free practice
	Seed      uint64
	SetID     *string
	UserID    string
	UserName  string
	StartedAt time.Time
	EndedAt   *time.Time
	Total     *float64
	Did       string // JSON: the acts
	Result    string // JSON, "" until it has ended
}

// TableName is the table's name.
func (Practice) TableName() string { return "practices" }

// PracticeSet is an exercise a lead has set.
type PracticeSet struct {
	ID       string `gorm:"primaryKey"`
	Exercise string
	Pattern  string
	Hardness string
	Seed     uint64
	DueOn    string
	People   string // JSON: ids of accounts, empty is everybody
	SetBy    string
	SetAt    time.Time
}

// TableName is the table's name.
func (PracticeSet) TableName() string { return "practice_sets" }

// AddPractice stores one that begins, with its job: both or neither.
func (s *Store) AddPractice(ctx context.Context, p *Practice, j *job.Job, events []job.Event) error {
	return s.inTransaction(ctx, func(tx *gorm.DB) error {
		if err := addJob(tx, j, events); err != nil {
			return err
		}
		if err := tx.Create(p).Error; err != nil {
			return fmt.Errorf("store: practice: %w", err)
		}
		return nil
	})
}

// PracticeOf gives one by its job.
func (s *Store) PracticeOf(ctx context.Context, job string) (*Practice, error) {
	var p Practice
	if err := s.db.WithContext(ctx).Where("job_id = ?", job).Take(&p).Error; err != nil {
		return nil, notFound(err)
	}
	return &p, nil
}

// KeepPractice stores what has become of one that stood as was; ErrTaken where it no longer does: somebody else worked
// on it.
func (s *Store) KeepPractice(ctx context.Context, p *Practice, was string) error {
	var n int64
	err := s.write(ctx, func(db *gorm.DB) error {
		r := db.Model(&Practice{}).
			Where("job_id = ? AND did = ? AND ended_at IS NULL", p.JobID, was).
			Updates(map[string]any{"did": p.Did, "result": p.Result, "total": p.Total, "ended_at": p.EndedAt})
		n = r.RowsAffected
		return r.Error
	})
	if err == nil && n == 0 {
		err = ErrTaken
	}
	return err
}

// Practices lists those of one account ("" is all), the last first, without their acts.
func (s *Store) Practices(ctx context.Context, user string, limit int) ([]Practice, error) {
	out := []Practice{}
	q := s.db.WithContext(ctx).Omit("did").Order("started_at DESC, job_id").Limit(limit)
	if user != "" {
		q = q.Where("user_id = ?", user)
	}
	if err := q.Find(&out).Error; err != nil {
		return nil, fmt.Errorf("store: practices: %w", err)
	}
	return out, nil
}

// PracticeSetOf gives one by its id.
func (s *Store) PracticeSetOf(ctx context.Context, id string) (*PracticeSet, error) {
	var p PracticeSet
	if err := s.db.WithContext(ctx).Where("id = ?", id).Take(&p).Error; err != nil {
		return nil, notFound(err)
	}
	return &p, nil
}

// Guests counts those who came for a set exercise.
func (s *Store) Guests(ctx context.Context, set string) (n int64, err error) {
	return n, s.db.WithContext(ctx).Model(&User{}).Where("guest_of = ?", set).Count(&n).Error
}

// AddPracticeSet stores an exercise that is set; PracticeSets lists them, the last first; DropPracticeSet takes one
// back.
func (s *Store) AddPracticeSet(ctx context.Context, p *PracticeSet) error {
	return s.write(ctx, func(db *gorm.DB) error { return db.Create(p).Error })
}

// PracticeSets lists them.
func (s *Store) PracticeSets(ctx context.Context, limit int) ([]PracticeSet, error) {
	out := []PracticeSet{}
	return out, s.db.WithContext(ctx).Order("set_at DESC, id").Limit(limit).Find(&out).Error
}

// DropPracticeSet takes one back; what was worked of it stays.
func (s *Store) DropPracticeSet(ctx context.Context, id string) error {
	return s.drop(ctx, &PracticeSet{ID: id})
}

// PracticeOfSet is what an account has begun of a set exercise; ErrNotFound where nothing.
func (s *Store) PracticeOfSet(ctx context.Context, set, user string) (*Practice, error) {
	var p Practice
	if err := s.db.WithContext(ctx).Where("set_id = ? AND user_id = ?", set, user).Take(&p).Error; err != nil {
		return nil, notFound(err)
	}
	return &p, nil
}
