package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"

	"geminate/brake/job"
)

// Vehicle is one vehicle of the shop, found by its plate or its VIN.
type Vehicle struct {
	ID       string     `gorm:"primaryKey" json:"id"`
	PlateKey string     `                  json:"-"`
	VIN      string     `gorm:"column:vin" json:"vin"`
	Plate    string     `                  json:"plate"`
	Name     string     `                  json:"name"`
	Pattern  string     `                  json:"pattern"`
	JoinedTo *string    `                  json:"joined_to"`
	DueAt    *time.Time `                  json:"due_at"`
	// LastJob is where its system was last corrected.
	LastJob   *string   `json:"last_job"`
	UpdatedAt time.Time `json:"updated_at"`
}

// factsRow is what a job leaves behind, in columns.
type factsRow struct {
	JobID       string `gorm:"primaryKey"`
	VehicleID   *string
	Pattern     string
	OpenedAt    time.Time
	ReleasedAt  *time.Time
	Was         string
	Named       string
	RightNamed  *bool
	FirstTime   bool
	Loops       int
	Reopened    int
	BackDays    *int
	BackOf      *string
	CameBack    *int // days after its release its own vehicle was back
	Tallied     bool
	UnitMaker   string
	UnitNumber  string
	Minutes     *float64
	WaterBefore *float64
	WaterAfter  *float64
	FluidDays   *float64
	Facts       string
}

// withoutFacts marks a transaction of an upgrade from before there were facts.
const withoutFacts = "geminate:without_facts"

func (factsRow) TableName() string { return "job_facts" }

// vehicleOf finds a job's vehicle by VIN or plate, or makes it; "" where neither is known. An entry joined to another
// is that other.
func vehicleOf(tx *gorm.DB, j *job.Job) (string, error) {
	if j.Intake.Practice {
		return "", nil
	}
	plate, vin := job.PlateKey(clipRunes(j.Intake.Plate, 60)), job.PlateKey(clipRunes(j.Intake.VIN, 60))
	if plate == "" && vin == "" {
		return "", nil
	}
	var v Vehicle
	q := tx.Session(&gorm.Session{NewDB: true})
	err := gorm.ErrRecordNotFound
	if vin != "" {
		err = q.Where("vin = ?", vin).Order("joined_to IS NULL DESC, updated_at DESC").Take(&v).Error
	}
	if errors.Is(err, gorm.ErrRecordNotFound) && plate != "" {
		err = q.Where("plate_key = ?", plate).Order("joined_to IS NULL DESC, updated_at DESC").Take(&v).Error
	}
	switch {
	case errors.Is(err, gorm.ErrRecordNotFound):
		v = Vehicle{
			ID:        uuid.NewString(),
			PlateKey:  plate,
			VIN:       vin,
			Plate:     clipRunes(j.Intake.Plate, 200),
			Name:      clipRunes(j.Intake.Vehicle, 200),
			Pattern:   j.Intake.Pattern,
			UpdatedAt: j.UpdatedAt.UTC(),
		}
		return v.ID, q.Create(&v).Error
	case err != nil:
		return "", fmt.Errorf("store: vehicle: %w", err)
	}
	if v.JoinedTo != nil {
		return *v.JoinedTo, nil
	}
	set := map[string]any{"updated_at": j.UpdatedAt.UTC(), "last_job": j.ID}
	if j.Intake.Vehicle != "" {
		set["name"], set["pattern"] = clipRunes(j.Intake.Vehicle, 200), j.Intake.Pattern
	}
	if vin != "" && v.VIN == "" {
		set["vin"] = vin
	}
	return v.ID, q.Model(&Vehicle{}).Where("id = ?", v.ID).Updates(set).Error
}

// keepFacts writes what a job leaves behind. fresh is a job just opened: whether its vehicle is back is settled then.
func keepFacts(ctx context.Context, tx *gorm.DB, j *job.Job, fresh bool) error {
	vehicle, err := vehicleOf(tx, j)
	if err != nil {
		return err
	}
	if j.State.ReleasedAt != nil { // when it is due hangs on it
		if j.OwnWaterAYear, err = waterAYear(tx, j); err != nil {
			return err
		}
	}
	f := j.Facts(ctx)
	raw, err := encode(f)
	if err != nil {
		return err
	}
	row := factsRow{
		JobID:       j.ID,
		Tallied:     true,
		Pattern:     f.Pattern,
		OpenedAt:    j.CreatedAt.UTC(),
		ReleasedAt:  f.ReleasedAt,
		Was:         f.Was,
		Named:       f.Named,
		RightNamed:  f.Right,
		FirstTime:   f.First,
		Loops:       f.Loops,
		Reopened:    f.Reopened,
		UnitMaker:   clipRunes(f.UnitMaker, 120),
		UnitNumber:  clipRunes(f.UnitNumber, 120),
		WaterBefore: f.WaterBefore,
		WaterAfter:  f.WaterAfter,
		FluidDays:   f.FluidDays,
		Facts:       raw,
	}
	if sum := total(f.Minutes); sum > 0 {
		row.Minutes = &sum
	}
	q := tx.Session(&gorm.Session{NewDB: true})
	if vehicle != "" {
		row.VehicleID = &vehicle
		if err := q.Exec("UPDATE jobs SET vehicle_id = ? WHERE id = ?", vehicle, j.ID).Error; err != nil {
			return err
		}
		if day, err := time.Parse(time.DateOnly, f.DueAt); err == nil {
			if err := q.Model(&Vehicle{}).Where("id = ?", vehicle).Update("due_at", day).Error; err != nil {
				return err
			}
		}
	}
	if fresh && vehicle != "" {
		var last struct {
			JobID      string
			ReleasedAt *time.Time
		}
		err := q.Raw("SELECT job_id, released_at FROM job_facts WHERE vehicle_id = ? AND released_at IS NOT NULL AND opened_at < ? ORDER BY released_at DESC LIMIT 1", vehicle, row.OpenedAt).
			Scan(&last).
			Error
		if err != nil {
			return err
		}
		if last.ReleasedAt != nil && row.OpenedAt.After(*last.ReleasedAt) {
			days := int(row.OpenedAt.Sub(*last.ReleasedAt).Hours() / 24)
			row.BackDays, row.BackOf = &days, &last.JobID
			if err := cameBack(tx, last.JobID, days); err != nil {
				return err
			}
		}
		return errors.Join(q.Create(&row).Error, retally(tx, &row, &f))
	}
	var was factsRow
	err = q.Select("back_days", "back_of", "came_back").Where("job_id = ?", j.ID).Take(&was).Error
	if err != nil && !errors.Is(err, gorm.ErrRecordNotFound) {
		return err
	}
	row.BackDays, row.BackOf, row.CameBack = was.BackDays, was.BackOf, was.CameBack
	return errors.Join(q.Save(&row).Error, retally(tx, &row, &f))
}

func total(m map[string]float64) (sum float64) {
	for _, v := range m {
		sum += v
	}
	return sum
}

// VehicleJob is a job of a vehicle, as its page lists it.
type VehicleJob struct {
	ID         string          `json:"id"`
	OpenedAt   time.Time       `json:"opened_at"`
	ReleasedAt *time.Time      `json:"released_at"`
	Facts      json.RawMessage `json:"facts"`
	Card       json.RawMessage `json:"card"`
}

// Vehicle gives one with its jobs, the last first.
func (s *Store) Vehicle(ctx context.Context, id string) (*Vehicle, []VehicleJob, error) {
	var v Vehicle
	if err := s.db.WithContext(ctx).Where("id = ?", id).Take(&v).Error; err != nil {
		return nil, nil, notFound(err)
	}
	jobs := []VehicleJob{}
	err := s.db.WithContext(ctx).
		Raw(`SELECT j.id, j.created_at AS opened_at, f.released_at, COALESCE(NULLIF(f.facts, ''), '{}') AS facts, j.card
		FROM jobs j LEFT JOIN job_facts f ON f.job_id = j.id WHERE j.vehicle_id = ? ORDER BY j.created_at DESC LIMIT 200`, id).
		Scan(&jobs).
		Error
	return &v, jobs, err
}

// FindVehicles looks vehicles up by the beginning of plate or VIN, or by name; joined entries are left out.
func (s *Store) FindVehicles(ctx context.Context, text string, limit int) ([]Vehicle, error) {
	out := []Vehicle{}
	key := job.PlateKey(clipRunes(text, 60))
	q := s.db.WithContext(ctx).Where("joined_to IS NULL").Order("updated_at DESC").Limit(limit)
	if key != "" {
		q = q.Where("plate_key LIKE ? OR vin LIKE ? OR name LIKE ?", likePrefix(key), likePrefix(key), "%"+likePrefix(clipRunes(text, 60)))
	}
	return out, q.Find(&out).Error
}

// Due lists vehicles due between two days, the first due first.
func (s *Store) Due(ctx context.Context, from, to time.Time, limit int) ([]Vehicle, error) {
	out := []Vehicle{}
	err := s.db.WithContext(ctx).
		Where("due_at BETWEEN ? AND ? AND joined_to IS NULL", from, to).
		Order("due_at, id").
		Limit(limit).
		Find(&out).
		Error
	return out, err
}

// JoinVehicles makes one entry another's: its jobs are the other's from now on. PartVehicle takes it back.
func (s *Store) JoinVehicles(ctx context.Context, id, into string, audit *Audit) error {
	return s.inTransaction(ctx, func(tx *gorm.DB) error {
		var both []Vehicle
		if err := tx.Where("id IN ? AND joined_to IS NULL", []string{id, into}).Find(&both).Error; err != nil {
			return err
		}
		if len(both) != 2 {
			return ErrNotFound
		}
		for _, q := range []string{"UPDATE vehicles SET joined_to = ? WHERE id = ?", "UPDATE jobs SET vehicle_id = ? WHERE vehicle_id = ?", "UPDATE job_facts SET vehicle_id = ? WHERE vehicle_id = ?"} {
			if err := tx.Exec(q, into, id).Error; err != nil {
				return err
			}
		}
		return addAudit(tx, audit)
	})
}

// PartVehicle takes a joined entry apart again: the jobs with its plate or VIN go back to it.
func (s *Store) PartVehicle(ctx context.Context, id string, audit *Audit) error {
	return s.inTransaction(ctx, func(tx *gorm.DB) error {
		var v Vehicle
		if err := tx.Where("id = ? AND joined_to IS NOT NULL", id).Take(&v).Error; err != nil {
			return notFound(err)
		}
		var rows []struct{ JobID, Facts string }
		if err := tx.Raw("SELECT job_id, facts FROM job_facts WHERE vehicle_id = ?", *v.JoinedTo).Scan(&rows).Error; err != nil {
			return err
		}
		for _, r := range rows {
			var f job.Facts
			if json.Unmarshal([]byte(r.Facts), &f) != nil ||
				!(v.PlateKey != "" && f.VehicleKey == v.PlateKey || v.VIN != "" && f.VIN == v.VIN) {
				continue
			}
			for _, q := range []string{"UPDATE jobs SET vehicle_id = ? WHERE id = ?", "UPDATE job_facts SET vehicle_id = ? WHERE job_id = ?"} {
				if err := tx.Exec(q, id, r.JobID).Error; err != nil {
					return err
				}
			}
		}
		if err := tx.Model(&Vehicle{}).Where("id = ?", id).Update("joined_to", nil).Error; err != nil {
			return err
		}
		return addAudit(tx, audit)
	})
}

// Joined lists the entries joined to a vehicle.
func (s *Store) Joined(ctx context.Context, id string) ([]Vehicle, error) {
	out := []Vehicle{}
	return out, s.db.WithContext(ctx).Where("joined_to = ?", id).Order("updated_at").Find(&out).Error
}
