package store

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// WebState keeps sessions, tokens and counters of the web layer in the database, so that any server
// can answer any request. It has the methods of Fiber's storage.
type WebState struct {
	store  *Store
	prefix string
}

type webRow struct {
	K         string `gorm:"primaryKey"`
	V         []byte
	ExpiresAt *time.Time
}

func (webRow) TableName() string { return "web_state" }

// WebState returns a storage whose keys begin with prefix.
func (s *Store) WebState(prefix string) *WebState { return &WebState{s, prefix} }

// key hashes what is stored: a leaked table gives no one a session.
func (w *WebState) key(k string) string {
	sum := sha256.Sum256([]byte(k))
	return w.prefix + ":" + hex.EncodeToString(sum[:])
}

// GetWithContext returns nil, nil where there is nothing.
func (w *WebState) GetWithContext(ctx context.Context, key string) ([]byte, error) {
	var row webRow
	err := w.store.db.WithContext(ctx).
		Where("k = ? AND (expires_at IS NULL OR expires_at > ?)", w.key(key), time.Now().UTC()).
		First(&row).
		Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return nil, nil
	}
	return row.V, err
}

// SetWithContext stores a value; exp 0 keeps it for good.
func (w *WebState) SetWithContext(ctx context.Context, key string, val []byte, exp time.Duration) error {
	if key == "" || len(val) == 0 {
		return nil
	}
	row := webRow{K: w.key(key), V: val}
	if exp > 0 {
		at := time.Now().UTC().Add(exp)
		row.ExpiresAt = &at
	}
	return w.store.write(ctx, func(db *gorm.DB) error {
		return db.Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error
	})
}

// TakeWithContext gives a value and removes it, to one caller alone; nil, nil where there is nothing.
func (w *WebState) TakeWithContext(ctx context.Context, key string) ([]byte, error) {
	v, err := w.GetWithContext(ctx, key)
	if err != nil || v == nil {
		return nil, err
	}
	var taken int64
	err = w.store.write(ctx, func(db *gorm.DB) error {
		r := db.Where("k = ?", w.key(key)).Delete(&webRow{})
		taken = r.RowsAffected
		return r.Error
	})
	if err != nil || taken == 0 {
		return nil, err
	}
	return v, nil
}

// DeleteWithContext removes a value.
func (w *WebState) DeleteWithContext(ctx context.Context, key string) error {
	return w.store.write(ctx, func(db *gorm.DB) error { return db.Where("k = ?", w.key(key)).Delete(&webRow{}).Error })
}

// ResetWithContext removes all values under the prefix.
func (w *WebState) ResetWithContext(ctx context.Context) error {
	return w.store.db.WithContext(ctx).Where("k LIKE ?", w.prefix+":%").Delete(&webRow{}).Error
}

// Get is GetWithContext without a context.
func (w *WebState) Get(key string) ([]byte, error) {
	return w.GetWithContext(context.Background(), key)
}

// Set is SetWithContext without a context.
func (w *WebState) Set(key string, val []byte, exp time.Duration) error {
	return w.SetWithContext(context.Background(), key, val, exp)
}

// Delete is DeleteWithContext without a context.
func (w *WebState) Delete(key string) error { return w.DeleteWithContext(context.Background(), key) }

// Reset is ResetWithContext without a context.
func (w *WebState) Reset() error { return w.ResetWithContext(context.Background()) }

// Close does nothing: the store owns the connections.
func (w *WebState) Close() error { return nil }

// PruneWebState removes what has expired and returns how much that was.
func (s *Store) PruneWebState(ctx context.Context) (int64, error) {
	r := s.db.WithContext(ctx).Where("expires_at <= ?", time.Now().UTC()).Delete(&webRow{})
	return r.RowsAffected, r.Error
}

// WebRows counts what the web layer keeps.
func (s *Store) WebRows(ctx context.Context) (n int64, err error) {
	err = s.db.WithContext(ctx).Model(&webRow{}).Count(&n).Error
	return n, err
}
