package store

import (
	"context"
	"fmt"
	"time"

	"gorm.io/gorm"

	"geminate/brake/trace"
)

// Instrument is one that speaks for itself. Its secret is kept as a hash.
type Instrument struct {
	ID           string `gorm:"primaryKey"`
	Kind         trace.Kind
	Name         string
	Hash         string
	Accuracy     *float64 // in the unit of its kind
	CalibratedOn string
	CalibratedBy string
	HoldsUntil   string
	JobID        *string
	AddedBy      string
	AddedAt      time.Time
	// AttachedAt is since when it is at its job; the zero time at none.
	AttachedAt time.Time `gorm:"-"`
}

// Stay is an instrument at a job, until ToAt where it left.
type Stay struct {
	ID           int64 `gorm:"primaryKey"`
	InstrumentID string
	JobID        string
	FromAt       time.Time
	ToAt         *time.Time
}

// TableName is the table's name.
func (Stay) TableName() string { return "instrument_stays" }

// AddInstrument keeps a new one by its secret.
func (s *Store) AddInstrument(ctx context.Context, i *Instrument, secret string) error {
	i.Hash = hashOf(secret)
	return s.write(ctx, func(db *gorm.DB) error {
		if err := db.Create(i).Error; err != nil || i.JobID == nil {
			return err
		}
		// Readings are timed by the machine's clock, whatever the shop's runs at.
		return db.Create(&Stay{InstrumentID: i.ID, JobID: *i.JobID, FromAt: time.Now().UTC()}).Error
	})
}

// Instruments lists them, by name.
func (s *Store) Instruments(ctx context.Context) ([]Instrument, error) {
	out := []Instrument{}
	if err := s.db.WithContext(ctx).Order("name, id").Find(&out).Error; err != nil {
		return nil, fmt.Errorf("store: instruments: %w", err)
	}
	var stays []Stay
	if err := s.db.WithContext(ctx).Where("to_at IS NULL").Find(&stays).Error; err != nil {
		return nil, fmt.Errorf("store: instruments: %w", err)
	}
	since := map[string]time.Time{}
	for _, x := range stays {
		since[x.InstrumentID] = x.FromAt
	}
	for i := range out {
		if out[i].JobID != nil {
			out[i].AttachedAt = since[out[i].ID]
		}
	}
	return out, nil
}

// InstrumentOf gives one by its id.
func (s *Store) InstrumentOf(ctx context.Context, id string) (*Instrument, error) {
	var i Instrument
	if err := s.db.WithContext(ctx).Where("id = ?", id).Take(&i).Error; err != nil {
		return nil, notFound(err)
	}
	return &i, nil
}

// InstrumentBy gives the one of a secret; ErrNotFound where there is none.
func (s *Store) InstrumentBy(ctx context.Context, secret string) (*Instrument, error) {
	var i Instrument
	if err := s.db.WithContext(ctx).Where("hash = ?", hashOf(secret)).Take(&i).Error; err != nil {
		return nil, notFound(err)
	}
	return &i, nil
}

// AttachInstrument gives it to a job, nil to none: it belongs to one at a time. Since when is kept: of two of a kind
// the one that came last speaks, and what it told before was of another vehicle.
func (s *Store) AttachInstrument(ctx context.Context, id string, job *string, at time.Time) error {
	var i Instrument
	if err := s.db.WithContext(ctx).Where("id = ?", id).Take(&i).Error; err != nil {
		return notFound(err)
	}
	return s.write(ctx, func(db *gorm.DB) error {
		if err := db.Model(&Stay{}).Where("instrument_id = ? AND to_at IS NULL", id).Update("to_at", at).Error; err != nil {
			return err
		}
		if job != nil {
			if err := db.Create(&Stay{InstrumentID: id, JobID: *job, FromAt: at}).Error; err != nil {
				return err
			}
		}
		return db.Model(&i).Update("job_id", job).Error
	})
}

// StaysAt are the stays at a job that touch a stretch of time, by when they began.
func (s *Store) StaysAt(ctx context.Context, job string, from, to time.Time) ([]Stay, error) {
	out := []Stay{}
	if err := s.db.WithContext(ctx).
		Where("job_id = ? AND from_at < ? AND (to_at IS NULL OR to_at > ?)", job, to, from).
		Order("from_at, id").
		Find(&out).
		Error; err != nil {
		return nil, fmt.Errorf("store: stays: %w", err)
	}
	return out, nil
}

// TraceCut is a trace that this shop's server cut, by the sum of what it holds.
type TraceCut struct {
	Sum    string `gorm:"primaryKey"`
	JobID  string `gorm:"primaryKey"`
	MadeAt time.Time
}

// cutsKept is how long a trace that was cut may be told.
const cutsKept = 30 * 24 * time.Hour

// KeepCut takes down that a trace was cut for a job.
func (s *Store) KeepCut(ctx context.Context, job, sum string) error {
	return s.write(ctx, func(db *gorm.DB) error {
		at := time.Now().UTC()
		if err := db.Where("made_at < ?", at.Add(-cutsKept)).Delete(&TraceCut{}).Error; err != nil {
			return err
		}
		return db.Save(&TraceCut{Sum: sum, JobID: job, MadeAt: at}).Error
	})
}

// CutKnown says whether a trace was cut for a job.
func (s *Store) CutKnown(ctx context.Context, job, sum string) (bool, error) {
	var n int64
	err := s.db.WithContext(ctx).Model(&TraceCut{}).Where("job_id = ? AND sum = ?", job, sum).Count(&n).Error
	return n > 0, err
}

// DropInstrument takes one away.
func (s *Store) DropInstrument(ctx context.Context, id string) error {
	return s.drop(ctx, &Instrument{ID: id})
}

// drop deletes a row by its key; ErrNotFound where it is not there.
func (s *Store) drop(ctx context.Context, row any) error {
	var n int64
	err := s.write(ctx, func(db *gorm.DB) error {
		r := db.Delete(row)
		n = r.RowsAffected
		return r.Error
	})
	if err == nil && n == 0 {
		err = ErrNotFound
	}
	return err
}
