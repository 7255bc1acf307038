package store

import (
	"context"
	"sync"
	"time"

	"geminate/brake/diagnose"
	"geminate/brake/job"

	"gorm.io/gorm"
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
	water, err := waterAYear(s.db.WithContext(ctx), j)
	j.Dress(job.Dress{Settings: &set, Experience: own(x, j), WaterAYear: water})
	return err
}

// waterAYear is the rise of the water by the readings of a job's vehicle.
func waterAYear(db *gorm.DB, j *job.Job) (*float64, error) {
	var rows []struct {
		OpenedAt    time.Time
		WaterBefore float64
	}
	err := db.Session(&gorm.Session{NewDB: true}).Raw(`SELECT opened_at, water_before FROM job_facts WHERE vehicle_id = (SELECT vehicle_id FROM jobs WHERE id = ?)
		AND water_before IS NOT NULL ORDER BY opened_at`, j.ID).Scan(&rows).Error
	at := make([]job.WaterAt, len(rows))
	for i, r := range rows {
		at[i] = job.WaterAt{At: r.OpenedAt, Percent: r.WaterBefore}
	}
	own, _ := job.WaterTrend(at)
	return own, err
}

// Dress is what a job is looked at with.
func (s *Store) Dress(ctx context.Context, id string) (job.Dress, error) {
	j, err := s.Job(ctx, id)
	if err != nil {
		return job.Dress{}, err
	}
	return job.Dress{Settings: j.Shop, Experience: j.Experience, WaterAYear: j.OwnWaterAYear}, nil
}

// own is the experience with a job's kind of vehicle.
func own(x map[string]diagnose.Experience, j *job.Job) *diagnose.Experience {
	e := x[j.Intake.Pattern]
	return &e
}
