package store

import (
	"context"
	"sync"
	"time"

	"gorm.io/gorm"

	"geminate/brake/bleed"
	"geminate/brake/diagnose"
	"geminate/brake/job"
	"geminate/brake/verify"
)

// shopFor is how long settings and experience are kept in hand: another server may have changed them.
const shopFor = 5 * time.Second

// shopCache keeps what every job is dressed with.
type shopCache struct {
	mu   sync.Mutex
	at   time.Time
	shop Shop
}

func (c *shopCache) forget() {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.at = time.Time{}
}

// Shop is what a shop hands every job: its settings, what it found where that counts, its own times of a stroke.
type Shop struct {
	settings   job.Settings
	experience map[string]diagnose.Experience
	strokeS    map[bleed.Method]float64
	people     []verify.Person
}

// dress puts together what one job is looked at with.
func (x Shop) dress(j *job.Job) job.Dress {
	return job.Dress{
		Settings:   &x.settings,
		Experience: diagnose.ExperienceOf(j.Intake.Pattern, x.experience),
		StrokeS:    x.strokeS,
		People:     x.people,
	}
}

// Shop gives it.
func (s *Store) Shop(ctx context.Context) (Shop, error) {
	c := &s.shop
	c.mu.Lock()
	defer c.mu.Unlock()
	if time.Since(c.at) < shopFor {
		return c.shop, nil
	}
	set, err := s.Settings(ctx)
	if err != nil {
		return Shop{}, err
	}
	var x map[string]diagnose.Experience
	if set.Experience {
		if x, err = s.Experience(ctx); err != nil {
			return Shop{}, err
		}
	}
	strokes, err := s.strokeSeconds(ctx)
	if err != nil {
		return Shop{}, err
	}
	people, err := s.people(ctx)
	if err != nil {
		return Shop{}, err
	}
	c.at, c.shop = time.Now(), Shop{set, x, strokes, people}
	return c.shop, nil
}

// people are the accounts that may sign in, by name.
func (s *Store) people(ctx context.Context) ([]verify.Person, error) {
	var out []verify.Person
	var rows []struct{ ID, Name, Role string }
	err := s.db.WithContext(ctx).
		Raw("SELECT id, display AS name, role FROM users WHERE NOT disabled ORDER BY display, id").
		Scan(&rows).
		Error
	for _, r := range rows {
		out = append(out, verify.Person{ID: r.ID, Name: r.Name, Trained: job.Role(r.Role).May(job.TickHighVoltage)})
	}
	return out, err
}

// dress hands a job its shop's settings and experience.
func (s *Store) dress(ctx context.Context, j *job.Job) error {
	shop, err := s.Shop(ctx)
	if err != nil {
		return err
	}
	d := shop.dress(j)
	d.WaterAYear, err = waterAYear(s.db.WithContext(ctx), j)
	j.Dress(d)
	j.Now = time.Now().UTC()
	return err
}

// waterAYear is the rise of the water by the readings of a job's vehicle.
func waterAYear(db *gorm.DB, j *job.Job) (*float64, error) {
	var rows []struct {
		OpenedAt    time.Time
		WaterBefore float64
	}
	err := db.Session(&gorm.Session{NewDB: true}).
		Raw(`SELECT opened_at, water_before FROM job_facts WHERE vehicle_id = (SELECT vehicle_id FROM jobs WHERE id = ?)
		AND water_before IS NOT NULL ORDER BY opened_at`, j.ID).
		Scan(&rows).
		Error
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
	return job.Dress{Settings: j.Shop, Experience: j.Experience, WaterAYear: j.OwnWaterAYear, StrokeS: j.OwnStrokeS, People: j.People}, nil
}

// strokeSeconds are the shop's own times of a stroke or opening, by method, of the methods enough jobs were bled by.
func (s *Store) strokeSeconds(ctx context.Context) (map[bleed.Method]float64, error) {
	var rows []dayRow
	err := s.db.WithContext(ctx).
		Raw("SELECT of_what, SUM(n) n, SUM(total) total FROM tally_days WHERE kind = ? GROUP BY of_what HAVING SUM(n) >= ?", job.TallyStroke, job.LeastJobs).
		Scan(&rows).
		Error
	out := map[bleed.Method]float64{}
	for _, r := range rows {
		out[bleed.Method(r.OfWhat)] = r.Total / float64(r.N)
	}
	return out, err
}
