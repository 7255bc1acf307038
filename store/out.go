package store

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"geminate/brake/job"
)

// tables are what goes out as tables, a query each.
var tables = map[string]string{
	"units": `SELECT id, kind, maker, number, bore_mm, stud_spacing_mm, pocket_mm, shell_mm, firewall_spacing_mm, shelf on_shelf FROM units ORDER BY place, id LIMIT ?`,
	// A bottle is known by what is written on it: what class it is and when it was opened.
	"fluids": `SELECT JSON_VALUE(view, '$.choices.bottle.class') class, JSON_VALUE(view, '$.choices.bottle.opened_at') opened_at, MAX(JSON_VALUE(view, '$.choices.bottle.water_percent')) water_percent,
		COUNT(*) jobs, MIN(created_at) first_used, MAX(created_at) last_used FROM jobs JOIN job_views ON job_id = id WHERE JSON_VALUE(view, '$.choices.bottle.opened_at') <> '' GROUP BY 1, 2 ORDER BY 2 DESC LIMIT ?`,
	"jobs": `SELECT j.id, j.created_at, f.released_at, COALESCE(v.plate, '') plate, COALESCE(v.name, '') vehicle, f.pattern, j.standing, f.was, f.named, f.loops, f.reopened, f.back_days, f.unit_maker, f.unit_number, f.minutes, f.water_before, f.water_after
		FROM jobs j LEFT JOIN job_facts f ON f.job_id = j.id LEFT JOIN vehicles v ON v.id = j.vehicle_id WHERE NOT EXISTS (SELECT 1 FROM practices p WHERE p.job_id = j.id) ORDER BY j.created_at DESC LIMIT ?`,
	"vehicles":   `SELECT id, plate, vin, name, pattern, due_at, updated_at FROM vehicles WHERE joined_to IS NULL ORDER BY updated_at DESC LIMIT ?`,
	"statistics": `SELECT pattern, COUNT(*) jobs, SUM(released_at IS NOT NULL) released, SUM(first_time) right_first, SUM(back_of IS NOT NULL) back, AVG(minutes) minutes FROM job_facts GROUP BY pattern ORDER BY jobs DESC LIMIT ?`,
}

// Bottles are those opened since a day, the last first, as the jobs say: class, day opened, water.
func (s *Store) Bottles(ctx context.Context, since time.Time, limit int) ([]job.Bottle, error) {
	var rows []struct {
		Class, OpenedAt string
		WaterPercent    *float64
	}
	err := s.db.WithContext(ctx).
		Raw(`SELECT JSON_VALUE(view, '$.choices.bottle.class') class, JSON_VALUE(view, '$.choices.bottle.opened_at') opened_at, MAX(JSON_VALUE(view, '$.choices.bottle.water_percent')) water_percent
		FROM jobs JOIN job_views ON job_id = id WHERE updated_at >= ? AND JSON_VALUE(view, '$.choices.bottle.opened_at') >= ? GROUP BY 1, 2 ORDER BY 2 DESC LIMIT ?`, since, since.Format(time.DateOnly), limit).
		Scan(&rows).
		Error
	out := make([]job.Bottle, len(rows))
	for i, r := range rows {
		out[i] = job.Bottle{Class: r.Class, OpenedAt: r.OpenedAt, WaterPercent: r.WaterPercent}
	}
	return out, err
}

// Table gives one of them as text, its columns first.
func (s *Store) Table(ctx context.Context, what string, limit int) (head []string, out [][]string, err error) {
	q, known := tables[what]
	if !known {
		return nil, nil, ErrNotFound
	}
	rows, err := s.sql.QueryContext(ctx, q, limit)
	if err != nil {
		return nil, nil, fmt.Errorf("store: table: %w", err)
	}
	defer func() { _ = rows.Close() }()
	if head, err = rows.Columns(); err != nil {
		return nil, nil, err
	}
	for rows.Next() {
		cells := make([]any, len(head))
		for i := range cells {
			cells[i] = new(any)
		}
		if err := rows.Scan(cells...); err != nil {
			return nil, nil, err
		}
		row := make([]string, len(head))
		for i, c := range cells {
			switch v := (*c.(*any)).(type) {
			case nil:
			case []byte:
				row[i] = string(v)
			case time.Time:
				row[i] = v.UTC().Format(time.RFC3339)
			default:
				row[i] = fmt.Sprint(v)
			}
		}
		out = append(out, row)
	}
	return head, out, rows.Err()
}

// ReadToken lets the shop's own scripts read. Its secret is kept as a hash.
type ReadToken struct {
	ID        string     `gorm:"primaryKey" json:"id"`
	Name      string     `                  json:"name"`
	Hash      string     `                  json:"-"`
	CreatedBy string     `                  json:"created_by"`
	CreatedAt time.Time  `                  json:"created_at"`
	UsedAt    *time.Time `                  json:"used_at"`
	RevokedAt *time.Time `                  json:"revoked_at"`
}

func hashOf(secret string) string {
	sum := sha256.Sum256([]byte(secret))
	return hex.EncodeToString(sum[:])
}

// ReadTokens lists them, the last first.
func (s *Store) ReadTokens(ctx context.Context) ([]ReadToken, error) {
	out := []ReadToken{}
	return out, s.db.WithContext(ctx).Order("created_at DESC").Find(&out).Error
}

// AddReadToken keeps a new one.
func (s *Store) AddReadToken(ctx context.Context, name, secret, by string) (*ReadToken, error) {
	t := &ReadToken{
		ID:        uuid.NewString(),
		Name:      name,
		Hash:      hashOf(secret),
		CreatedBy: by,
		CreatedAt: time.Now().UTC().Truncate(time.Millisecond),
	}
	return t, s.write(ctx, func(db *gorm.DB) error { return db.Create(t).Error })
}

// RevokeReadToken ends one.
func (s *Store) RevokeReadToken(ctx context.Context, id string) error {
	return s.db.WithContext(ctx).Model(&ReadToken{}).Where("id = ? AND revoked_at IS NULL", id).Update("revoked_at", time.Now().UTC()).Error
}

// UseReadToken lets one in and takes down that it was; ErrNotFound where there is none that stands.
//
// fresh says that it had not been used for an hour: its uses are told in the audit by the hour, a calendar asks every
// few minutes.
func (s *Store) UseReadToken(ctx context.Context, secret string) (t ReadToken, fresh bool, err error) {
	if err := s.db.WithContext(ctx).Where("hash = ? AND revoked_at IS NULL", hashOf(secret)).Take(&t).Error; err != nil {
		return t, false, notFound(err)
	}
	now := time.Now().UTC()
	fresh = t.UsedAt == nil || now.Sub(*t.UsedAt) > time.Hour
	return t, fresh, s.write(ctx, func(db *gorm.DB) error {
		return db.Model(&ReadToken{}).Where("id = ?", t.ID).Update("used_at", now).Error
	})
}

// Forget takes a customer's name and words out of a job's log and all that is made of it, and of the same customer's
// other jobs of this vehicle; every other fact stays.
func (s *Store) Forget(ctx context.Context, id string, audit *Audit) (view []byte, err error) {
	j, err := s.Job(ctx, id)
	if err != nil {
		return nil, err
	}
	var others []string
	if j.Intake.Customer != "" {
		err = s.db.WithContext(ctx).
			Raw("SELECT id FROM jobs WHERE id <> ? AND vehicle_id = (SELECT vehicle_id FROM jobs WHERE id = ?)", id, id).
			Scan(&others).
			Error
		if err != nil {
			return nil, err
		}
	}
	for _, other := range others {
		o, err := s.Job(ctx, other)
		if err != nil {
			return nil, err
		}
		if !strings.EqualFold(strings.TrimSpace(o.Intake.Customer), strings.TrimSpace(j.Intake.Customer)) {
			continue // another owner's
		}
		too := *audit
		too.JobID = other
		if _, err := s.forgetIn(ctx, other, &too); err != nil {
			return nil, err
		}
	}
	return s.forgetIn(ctx, id, audit)
}

func (s *Store) forgetIn(ctx context.Context, id string, audit *Audit) (view []byte, err error) {
	var gone []job.PictureSum
	err = s.inTransaction(ctx, func(tx *gorm.DB) error {
		var row jobRow
		if err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Omit("card").Where("id = ?", id).Take(&row).Error; err != nil {
			return notFound(err)
		}
		log := &jobLog{tx: tx.Session(&gorm.Session{NewDB: true}), id: id}
		all, err := log.All()
		if err != nil {
			return err
		}
		names := job.Names(all)
		for i := range all {
			if !job.Forget(&all[i], names) {
				continue
			}
			data, err := encode(all[i].Body)
			if err != nil {
				return err
			}
			if err := log.tx.Exec("UPDATE log SET data = ? WHERE job_id = ? AND n = ?", data, id, all[i].Seq).Error; err != nil {
				return err
			}
		}
		if gone, err = dropPictures(tx.Session(&gorm.Session{NewDB: true}), id); err != nil {
			return err
		}
		kept, err := keepView(tx, job.Replay(id, row.CreatedAt, all), &row, true)
		view = []byte(kept)
		if err != nil {
			return err
		}
		return addAudit(tx, audit)
	})
	if err != nil {
		return nil, err
	}
	return view, s.dropThere(ctx, gone)
}
