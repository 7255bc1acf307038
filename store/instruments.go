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
}

// AddInstrument keeps a new one by its secret.
func (s *Store) AddInstrument(ctx context.Context, i *Instrument, secret string) error {
	i.Hash = hashOf(secret)
	return s.write(ctx, func(db *gorm.DB) error { return db.Create(i).Error })
}

// Instruments lists them, by name.
func (s *Store) Instruments(ctx context.Context) ([]Instrument, error) {
	out := []Instrument{}
	if err := s.db.WithContext(ctx).Order("name, id").Find(&out).Error; err != nil {
		return nil, fmt.Errorf("store: instruments: %w", err)
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

// AttachInstrument gives it to a job, nil to none: it belongs to one at a time.
func (s *Store) AttachInstrument(ctx context.Context, id string, job *string) error {
	var i Instrument
	if err := s.db.WithContext(ctx).Where("id = ?", id).Take(&i).Error; err != nil {
		return notFound(err)
	}
	return s.write(ctx, func(db *gorm.DB) error { return db.Model(&i).Update("job_id", job).Error })
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
