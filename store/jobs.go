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

type jobRow struct {
	ID             string `gorm:"primaryKey"`
	Intake         string
	IntakeVersion  int
	Choices        string
	ChoicesVersion int
	CreatedAt      time.Time
	UpdatedAt      time.Time
}

func (jobRow) TableName() string { return "jobs" }

type eventRow struct {
	Seq    int64 `gorm:"primaryKey"`
	JobID  string
	ID     string
	Kind   string
	At     time.Time
	ByName string
	Data   string
}

func (eventRow) TableName() string { return "events" }

// Stored is a job with the versions its two documents stand at.
type Stored struct {
	Job            job.Job
	IntakeVersion  int
	ChoicesVersion int
	UpdatedAt      time.Time
}

func (r *jobRow) load(events []eventRow) (*Stored, error) {
	s := &Stored{IntakeVersion: r.IntakeVersion, ChoicesVersion: r.ChoicesVersion, UpdatedAt: r.UpdatedAt}
	s.Job = job.Job{Format: job.Format, ID: r.ID, CreatedAt: r.CreatedAt, Events: make([]job.Event, len(events))}
	if err := json.Unmarshal([]byte(r.Intake), &s.Job.Intake); err != nil {
		return nil, fmt.Errorf("store: job %s: intake: %w", r.ID, err)
	}
	if err := json.Unmarshal([]byte(r.Choices), &s.Job.Choices); err != nil {
		return nil, fmt.Errorf("store: job %s: choices: %w", r.ID, err)
	}
	for i, e := range events {
		s.Job.Events[i] = job.Event{ID: e.ID, Kind: e.Kind, At: e.At, By: e.ByName}
		if err := json.Unmarshal([]byte(e.Data), &s.Job.Events[i].Data); err != nil {
			return nil, fmt.Errorf("store: job %s: event %s: %w", r.ID, e.ID, err)
		}
	}
	return s, nil
}

func encode(v any) (string, error) {
	data, err := json.Marshal(v)
	return string(data), err
}

// AddJob stores a new job, its events included (an import brings some).
func (s *Store) AddJob(ctx context.Context, j *job.Job) error {
	intake, err := encode(j.Intake)
	if err != nil {
		return fmt.Errorf("store: intake: %w", err)
	}
	choices, err := encode(j.Choices)
	if err != nil {
		return fmt.Errorf("store: choices: %w", err)
	}
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		row := jobRow{ID: j.ID, Intake: intake, IntakeVersion: 1, Choices: choices, ChoicesVersion: 1, CreatedAt: j.CreatedAt.UTC(), UpdatedAt: time.Now().UTC()}
		if err := tx.Create(&row).Error; err != nil {
			if errors.Is(err, gorm.ErrDuplicatedKey) {
				return ErrTaken
			}
			return fmt.Errorf("store: job: %w", err)
		}
		return insertEvents(tx, j.ID, j.Events)
	})
}

func insertEvents(tx *gorm.DB, jobID string, events []job.Event) error {
	rows := make([]eventRow, len(events))
	for i, e := range events {
		data, err := encode(e.Data)
		if err != nil {
			return fmt.Errorf("store: event %s: %w", e.ID, err)
		}
		rows[i] = eventRow{JobID: jobID, ID: e.ID, Kind: e.Kind, At: e.At.UTC(), ByName: e.By, Data: data}
	}
	if len(rows) == 0 {
		return nil
	}
	if err := tx.CreateInBatches(&rows, 500).Error; err != nil {
		return fmt.Errorf("store: events: %w", err)
	}
	return nil
}

// Job loads one job.
func (s *Store) Job(ctx context.Context, id string) (*Stored, error) {
	return loadJob(s.db.WithContext(ctx), id)
}

func loadJob(tx *gorm.DB, id string) (*Stored, error) {
	var row jobRow
	if err := tx.Where("id = ?", id).First(&row).Error; err != nil {
		return nil, notFound(err)
	}
	var events []eventRow
	if err := tx.Session(&gorm.Session{NewDB: true}).Where("job_id = ?", id).Order("seq").Find(&events).Error; err != nil {
		return nil, fmt.Errorf("store: events of %s: %w", id, err)
	}
	return row.load(events)
}

// Jobs loads the jobs last touched, newest first, at most limit.
func (s *Store) Jobs(ctx context.Context, limit int) ([]*Stored, error) {
	var rows []jobRow
	if err := s.db.WithContext(ctx).Order("updated_at DESC").Limit(limit).Find(&rows).Error; err != nil {
		return nil, fmt.Errorf("store: jobs: %w", err)
	}
	ids := make([]string, len(rows))
	for i := range rows {
		ids[i] = rows[i].ID
	}
	var events []eventRow
	if len(ids) > 0 {
		if err := s.db.WithContext(ctx).Where("job_id IN ?", ids).Order("seq").Find(&events).Error; err != nil {
			return nil, fmt.Errorf("store: events: %w", err)
		}
	}
	by := map[string][]eventRow{}
	for _, e := range events {
		by[e.JobID] = append(by[e.JobID], e)
	}
	out := make([]*Stored, len(rows))
	for i := range rows {
		var err error
		if out[i], err = rows[i].load(by[rows[i].ID]); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// change locks a job, lets fn alter it and writes the documents back. fn says which of them it
// changed by raising its version.
func (s *Store) change(ctx context.Context, id string, fn func(tx *gorm.DB, st *Stored) error) (*Stored, error) {
	var out *Stored
	err := s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		st, err := loadJob(tx.Clauses(clause.Locking{Strength: "UPDATE"}), id)
		if err != nil {
			return err
		}
		if err := fn(tx, st); err != nil {
			return err
		}
		intake, err := encode(st.Job.Intake)
		if err != nil {
			return fmt.Errorf("store: intake: %w", err)
		}
		choices, err := encode(st.Job.Choices)
		if err != nil {
			return fmt.Errorf("store: choices: %w", err)
		}
		out = st
		return tx.Model(&jobRow{}).Where("id = ?", id).Updates(map[string]any{"intake": intake, "intake_version": st.IntakeVersion,
			"choices": choices, "choices_version": st.ChoicesVersion, "updated_at": time.Now().UTC()}).Error
	})
	return out, err
}

// SaveIntake replaces the intake if nobody else did since version. guard sees the job as stored and
// may refuse; adapt may then correct the choices for a system that changed. On ErrStale the returned
// job is what is stored now.
func (s *Store) SaveIntake(ctx context.Context, id string, version int, in job.Intake, guard func(*job.Job) error, adapt func(*job.Job)) (*Stored, error) {
	var now *Stored
	st, err := s.change(ctx, id, func(_ *gorm.DB, st *Stored) error {
		if st.IntakeVersion != version {
			now = st
			return ErrStale
		}
		if err := guard(&st.Job); err != nil {
			return err
		}
		before, _ := encode(st.Job.Choices)
		st.Job.Intake = in
		st.IntakeVersion++
		adapt(&st.Job)
		if after, _ := encode(st.Job.Choices); after != before {
			st.ChoicesVersion++
		}
		return nil
	})
	if errors.Is(err, ErrStale) {
		return now, err
	}
	return st, err
}

// SaveChoices replaces the choices if nobody else did since version and guard lets it.
func (s *Store) SaveChoices(ctx context.Context, id string, version int, c job.Choices, guard func(*job.Job) error) (*Stored, error) {
	var now *Stored
	st, err := s.change(ctx, id, func(_ *gorm.DB, st *Stored) error {
		if st.ChoicesVersion != version {
			now = st
			return ErrStale
		}
		if err := guard(&st.Job); err != nil {
			return err
		}
		st.Job.Choices = c
		st.ChoicesVersion++
		return nil
	})
	if errors.Is(err, ErrStale) {
		return now, err
	}
	return st, err
}

// Append adds events in order, each checked against the job as it then stands. An event whose id is
// stored already is passed over: a retry counts once. One refused event refuses them all.
func (s *Store) Append(ctx context.Context, id string, events []job.Event, check func(*job.Job, job.Event) error) (*Stored, error) {
	return s.change(ctx, id, func(tx *gorm.DB, st *Stored) error {
		have := map[string]bool{}
		for _, e := range st.Job.Events {
			have[e.ID] = true
		}
		var fresh []job.Event
		for _, e := range events {
			if have[e.ID] {
				continue
			}
			if err := check(&st.Job, e); err != nil {
				return err
			}
			have[e.ID] = true
			st.Job.Events = append(st.Job.Events, e)
			fresh = append(fresh, e)
		}
		return insertEvents(tx, id, fresh)
	})
}
