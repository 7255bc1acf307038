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
	CreatedAt    time.Time
}

// AddUser stores a new account.
func (s *Store) AddUser(ctx context.Context, u *User) error {
	err := s.db.WithContext(ctx).Create(u).Error
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

// SetPreferences stores a person's units and theme.
func (s *Store) SetPreferences(ctx context.Context, id, units, theme string) error {
	return s.db.WithContext(ctx).Model(&User{}).Where("id = ?", id).Updates(map[string]any{"units": units, "theme": theme}).Error
}

// Users counts the accounts.
func (s *Store) Users(ctx context.Context) (n int64, err error) {
	err = s.db.WithContext(ctx).Model(&User{}).Count(&n).Error
	return n, err
}
