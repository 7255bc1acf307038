package store

import (
	"context"
	"errors"
	"time"

	"gorm.io/gorm"

	"geminate/brake/job"
)

// User is an account.
type User struct {
	ID           string `gorm:"primaryKey"`
	Name         string
	Display      string
	Role         job.Role
	PasswordHash string
	Units        string // metric, us, both
	Theme        string // day, night
	Language     string // en, es; "" is the browser's
	CreatedAt    time.Time
	// Disabled accounts sign in no more; Trained people work at high voltage; Epoch rises to end every session.
	Disabled bool
	Trained  bool
	Epoch    int
	// GuestOf is the set exercise a guest came for; nobody else has one.
	GuestOf *string
}

// AddUser stores a new account.
func (s *Store) AddUser(ctx context.Context, u *User) error {
	err := s.write(ctx, func(db *gorm.DB) error { return db.Create(u).Error })
	if errors.Is(err, gorm.ErrDuplicatedKey) {
		return ErrTaken
	}
	return err
}

// UserByName finds an account by the name it signs in with.
func (s *Store) UserByName(ctx context.Context, name string) (*User, error) {
	return s.user(ctx, "name = ?", name)
}

// User finds an account by id.
func (s *Store) User(ctx context.Context, id string) (*User, error) {
	return s.user(ctx, "id = ?", id)
}

func (s *Store) user(ctx context.Context, where string, arg string) (*User, error) {
	var u User
	if err := s.db.WithContext(ctx).Where(where, arg).First(&u).Error; err != nil {
		return nil, notFound(err)
	}
	return &u, nil
}

// SetPreferences stores a person's units, theme and language.
func (s *Store) SetPreferences(ctx context.Context, id, units, theme, language string) error {
	return s.write(ctx, func(db *gorm.DB) error {
		return db.Model(&User{}).Where("id = ?", id).Updates(map[string]any{"units": units, "theme": theme, "language": language}).Error
	})
}

// Users counts the accounts.
func (s *Store) Users(ctx context.Context) (n int64, err error) {
	err = s.db.WithContext(ctx).Model(&User{}).Count(&n).Error
	return n, err
}

// Accounts lists all of them, by name.
func (s *Store) Accounts(ctx context.Context) ([]User, error) {
	var out []User
	return out, s.db.WithContext(ctx).Order("name").Find(&out).Error
}

// SetAccount keeps what the lead changed; out ends every session of the account.
func (s *Store) SetAccount(ctx context.Context, u *User, out bool) error {
	set := map[string]any{"display": u.Display, "role": u.Role, "trained": u.Trained, "disabled": u.Disabled}
	if out {
		set["epoch"] = gorm.Expr("epoch + 1")
	}
	return s.write(ctx, func(db *gorm.DB) error { return db.Model(&User{}).Where("id = ?", u.ID).Updates(set).Error })
}

// SetPassword keeps a new hash and ends every session.
func (s *Store) SetPassword(ctx context.Context, u *User, hash string) error {
	u.Epoch++
	return s.write(ctx, func(db *gorm.DB) error {
		return db.Model(&User{}).Where("id = ?", u.ID).Updates(map[string]any{"password_hash": hash, "epoch": u.Epoch}).Error
	})
}

// AddFirst stores the first account of an empty shop; ErrTaken where there is one.
func (s *Store) AddFirst(ctx context.Context, u *User) error {
	return s.inTransaction(ctx, func(tx *gorm.DB) error {
		var n int64
		if err := tx.Raw("SELECT COUNT(*) FROM users FOR UPDATE").Scan(&n).Error; err != nil {
			return err
		}
		if n > 0 {
			return ErrTaken
		}
		return tx.Create(u).Error
	})
}
