package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"time"

	"gorm.io/driver/mysql"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"

	"geminate/brake/job"
	"geminate/brake/match"
)

// upgradeData is migration 4: jobs of the documents-and-events time become logs, and units from before the
// search columns get theirs. It may be cut short anywhere and be run again.
func upgradeData(ctx context.Context, pool *sql.DB) error {
	db, err := gorm.Open(mysql.New(mysql.Config{Conn: pool}), &gorm.Config{Logger: logger.Default.LogMode(logger.Silent)})
	if err != nil {
		return err
	}
	s := &Store{db: db.WithContext(ctx), sql: pool}
	if err := s.upgradeJobs(ctx); err != nil {
		return err
	}
	return s.upgradeUnits(ctx)
}

type oldJob struct {
	ID        string
	Intake    string
	Choices   string
	CreatedAt time.Time
	UpdatedAt time.Time
}

func (s *Store) upgradeJobs(ctx context.Context) error {
	for {
		var old []oldJob
		err := s.db.Raw("SELECT id, intake, choices, created_at, updated_at FROM jobs WHERE head = 0 ORDER BY id LIMIT 100").
			Scan(&old).
			Error
		if err != nil || len(old) == 0 {
			return err
		}
		for i := range old {
			if err := s.upgradeJob(ctx, &old[i]); err != nil {
				return fmt.Errorf("job %s: %w", old[i].ID, err)
			}
		}
	}
}

func (s *Store) upgradeJob(ctx context.Context, o *oldJob) error {
	var in job.Intake
	var c job.Choices
	if err := json.Unmarshal([]byte(o.Intake), &in); err != nil {
		return err
	}
	if err := json.Unmarshal([]byte(o.Choices), &c); err != nil {
		return err
	}
	var rows []struct {
		ID, Kind, ByName, Data string
		At                     time.Time
	}
	if err := s.db.Raw("SELECT id, kind, at, by_name, data FROM events WHERE job_id = ? ORDER BY seq", o.ID).Scan(&rows).Error; err != nil {
		return err
	}
	old := make([]job.Event1, len(rows))
	for i, r := range rows {
		old[i] = job.Event1{ID: r.ID, Kind: r.Kind, At: r.At, By: r.ByName}
		// What cannot be read is told in the audit below, not a reason to keep a shop from starting.
		_ = json.Unmarshal([]byte(r.Data), &old[i].Data)
	}
	events, leftOut := job.Upgrade1(o.CreatedAt, in, c, old, time.Now().UTC().Truncate(time.Millisecond))
	j := job.Replay(o.ID, o.CreatedAt, events)
	j.UpdatedAt = o.UpdatedAt
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := insertLog(tx.Set(withoutFacts, true).Session(&gorm.Session{}), o.ID, events); err != nil {
			return err
		}
		if len(leftOut) > 0 {
			detail, _ := json.Marshal(leftOut)
			if err := addAudit(
				tx,
				&Audit{
					At:     time.Now().UTC(),
					Action: "upgrade_left_out",
					JobID:  o.ID,
					Detail: string(detail[:min(len(detail), auditMost)]),
				},
			); err != nil {
				return err
			}
		}
		return keep(tx.Set(withoutFacts, true).Session(&gorm.Session{}), j,
			&jobRow{ID: o.ID}) // their table comes later; FillFacts writes them
	})
}

func (s *Store) upgradeUnits(ctx context.Context) error {
	var rows []unitRow
	return s.db.WithContext(ctx).FindInBatches(&rows, unitBatch, func(tx *gorm.DB, _ int) error {
		for i := range rows {
			var u match.Unit
			if err := json.Unmarshal([]byte(rows[i].Unit), &u); err != nil {
				return fmt.Errorf("unit %s: %w", rows[i].ID, err)
			}
			fresh, err := rowOf(&u, rows[i].Place, rows[i].Shelf)
			if err != nil {
				return err
			}
			if err := tx.Session(&gorm.Session{NewDB: true}).
				Model(&unitRow{}).
				Where("id = ?", rows[i].ID).
				Select(unitColumns).
				Updates(&fresh).
				Error; err != nil {
				return err
			}
		}
		return nil
	}).Error
}
