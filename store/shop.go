package store

import (
	"context"
	"sync"
	"time"

	"geminate/brake/diagnose"
	"geminate/brake/job"
)

// shopFor is how long settings and experience are kept in hand: another server may have changed them.
const shopFor = 5 * time.Second

// shopCache keeps what every job is dressed with.
type shopCache struct {
	mu         sync.Mutex
	at         time.Time
	settings   job.Settings
	experience map[string]diagnose.Experience
}

func (c *shopCache) forget() {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.at = time.Time{}
}

// Shop gives the settings and, where it counts, the experience.
func (s *Store) Shop(ctx context.Context) (job.Settings, map[string]diagnose.Experience, error) {
	c := &s.shop
	c.mu.Lock()
	defer c.mu.Unlock()
	if time.Since(c.at) < shopFor {
		return c.settings, c.experience, nil
	}
	set, err := s.Settings(ctx)
	if err != nil {
		return set, nil, err
	}
	var x map[string]diagnose.Experience
	if set.Experience {
		if x, err = s.Experience(ctx); err != nil {
			return set, nil, err
		}
	}
	c.at, c.settings, c.experience = time.Now(), set, x
	return set, x, nil
}

// dress hands a job its shop's settings and experience.
func (s *Store) dress(ctx context.Context, j *job.Job) error {
	set, x, err := s.Shop(ctx)
	if err != nil {
		return err
	}
	j.Dress(&set, own(x, j))
	return nil
}

// own is the experience with a job's kind of vehicle.
func own(x map[string]diagnose.Experience, j *job.Job) *diagnose.Experience {
	e := x[j.Intake.Pattern]
	return &e
}
