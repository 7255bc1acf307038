package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"geminate/brake/job"
)

// jobRow is a job as kept beside its log: the fold of it, and what lists and searches need.
type jobRow struct {
	ID         string `gorm:"primaryKey"`
	Head       int64
	Fold       int
	View       string
	Card       string
	SearchText string
	Standing   string
	Station    string
	CreatedAt  time.Time
	UpdatedAt  time.Time
	VehicleID  *string
	ForDay     string
}

func (jobRow) TableName() string { return "jobs" }

type logRow struct {
	JobID     string `gorm:"primaryKey"`
	N         int64  `gorm:"primaryKey;autoIncrement:false"`
	ID        string
	Kind      string
	At        time.Time
	StoredAt  time.Time
	ByID      string
	ByName    string
	ByRole    string
	Elsewhere bool
	Base      int64
	Device    string
	Data      string
}

func (logRow) TableName() string { return "log" }

func (r *logRow) event() (job.Event, error) {
	e, err := job.DecodeEvent(job.Event{ID: r.ID, Seq: r.N, Kind: job.Kind(r.Kind), At: r.At, StoredAt: r.StoredAt,
		By: job.Actor{ID: r.ByID, Name: r.ByName, Role: job.Role(r.ByRole), Elsewhere: r.Elsewhere}, Base: r.Base, Device: r.Device}, []byte(r.Data))
	if err != nil {
		return e, fmt.Errorf("store: job %s, event %d: %w", r.JobID, r.N, err)
	}
	return e, nil
}

func eventsOf(rows []logRow) ([]job.Event, error) {
	out := make([]job.Event, len(rows))
	for i := range rows {
		e, err := rows[i].event()
		if err != nil {
			return nil, err
		}
		out[i] = e
	}
	return out, nil
}

func encode(v any) (string, error) {
	data, err := json.Marshal(v)
	return string(data), err
}

func insertLog(tx *gorm.DB, jobID string, events []job.Event) error {
	rows := make([]logRow, len(events))
	for i, e := range events {
		data, err := encode(e.Body)
		if err != nil {
			return fmt.Errorf("store: event %s: %w", e.ID, err)
		}
		rows[i] = logRow{JobID: jobID, N: e.Seq, ID: e.ID, Kind: string(e.Kind), At: e.At.UTC(), StoredAt: e.StoredAt.UTC(),
			ByID: e.By.ID, ByName: e.By.Name, ByRole: string(e.By.Role), Elsewhere: e.By.Elsewhere, Base: e.Base, Device: e.Device, Data: data}
	}
	if len(rows) == 0 {
		return nil
	}
	if _, older := tx.Get(withoutFacts); older {
		tx = tx.Omit("base", "device") // an older schema's upgrade has no columns for them yet
	}
	if err := tx.CreateInBatches(&rows, 500).Error; err != nil {
		return fmt.Errorf("store: log: %w", err)
	}
	return nil
}

// keep writes the fold of a job and everything that hangs on it. was is the row as it stood.
func keep(tx *gorm.DB, j *job.Job, was *jobRow) error {
	_, err := keepView(tx, j, was)
	return err
}

// keepView is keep that gives the view as it was kept: it is the answer too, and need not be made twice.
func keepView(tx *gorm.DB, j *job.Job, was *jobRow) (view string, err error) {
	v := j.View()
	if view, err = encode(v); err != nil {
		return "", fmt.Errorf("store: job %s: %w", j.ID, err)
	}
	card, err := encode(v.Card())
	if err != nil {
		return "", fmt.Errorf("store: job %s: %w", j.ID, err)
	}
	row := jobRow{ID: j.ID, Head: j.Head, Fold: v.Fold, View: view, Card: card, SearchText: searchText(&v.Intake, &v.Choices),
		Standing: string(v.Status.Standing), Station: v.Status.At, CreatedAt: j.CreatedAt.UTC(), UpdatedAt: j.UpdatedAt.UTC(), ForDay: v.Intake.ForDay}
	set := map[string]any{"head": row.Head, "fold": row.Fold, "view": row.View, "card": row.Card, "search_text": row.SearchText,
		"standing": row.Standing, "station": row.Station, "updated_at": row.UpdatedAt}
	_, without := tx.Get(withoutFacts)
	if !without { // what an older schema's upgrade has no column for yet
		set["for_day"] = row.ForDay
	}
	if err := tx.Model(&jobRow{}).Where("id = ?", j.ID).Updates(set).Error; err != nil {
		return "", fmt.Errorf("store: job %s: %w", j.ID, err)
	}
	fresh := was.Standing == ""
	if row.SearchText != was.SearchText {
		if err := keepWords(tx, j.ID, row.SearchText); err != nil {
			return "", err
		}
	}
	// What a job leaves behind is written when it begins, when it is released or reopened, and with what is told after.
	if without {
		return view, keepCounts(tx, was.Standing, was.Station, row.Standing, row.Station)
	}
	if fresh || row.SearchText != was.SearchText || row.Standing != was.Standing || row.Standing == string(job.StandsReleased) {
		if err := keepFacts(tx.Statement.Context, tx, j, fresh); err != nil {
			return "", err
		}
	}
	return view, keepCounts(tx, was.Standing, was.Station, row.Standing, row.Station)
}

// AddJob stores a new job with its log.
func (s *Store) AddJob(ctx context.Context, j *job.Job, events []job.Event, audit *Audit) error {
	return s.inTransaction(ctx, func(tx *gorm.DB) error {
		if err := addJob(tx, j, events); err != nil {
			return err
		}
		return addAudit(tx, audit)
	})
}

func addJob(tx *gorm.DB, j *job.Job, events []job.Event) error {
	row := jobRow{ID: j.ID, CreatedAt: j.CreatedAt.UTC(), UpdatedAt: j.UpdatedAt.UTC()}
	if err := tx.Create(&row).Error; err != nil {
		if errors.Is(err, gorm.ErrDuplicatedKey) {
			return ErrTaken
		}
		return fmt.Errorf("store: job: %w", err)
	}
	if err := insertLog(tx, j.ID, events); err != nil {
		return err
	}
	return keep(tx, j, &row)
}

// inTransaction runs fn in a transaction, again where the database turned it away.
func (s *Store) inTransaction(ctx context.Context, fn func(tx *gorm.DB) error) error {
	return s.tryAgain(ctx, func() error { return s.db.WithContext(ctx).Transaction(fn) })
}

// View gives a job's kept view as JSON, just as it is answered.
func (s *Store) View(ctx context.Context, id string) ([]byte, error) {
	var row jobRow
	if err := s.db.WithContext(ctx).Select("view", "fold").Where("id = ?", id).Take(&row).Error; err != nil {
		return nil, notFound(err)
	}
	if row.Fold == job.FoldVersion {
		return []byte(row.View), nil
	}
	j, err := s.refold(ctx, id)
	if err != nil {
		return nil, err
	}
	return json.Marshal(j.View())
}

// Job gives a job as it stands.
func (s *Store) Job(ctx context.Context, id string) (*job.Job, error) {
	raw, err := s.View(ctx, id)
	if err != nil {
		return nil, err
	}
	j, err := job.ReadView(raw)
	if err != nil {
		return nil, err
	}
	return j, s.dress(ctx, j)
}

// refold folds a job's log anew: its view was kept by an older program.
func (s *Store) refold(ctx context.Context, id string) (*job.Job, error) {
	return s.Do(ctx, id, nil, func(*job.Job, job.Log) ([]job.Event, error) { return nil, nil })
}

// Do runs a command on a job under its lock: fn gives the events it comes to, which are stored with the fold
// and all that hangs on it, or nothing is.
func (s *Store) Do(ctx context.Context, id string, audit *Audit, fn func(*job.Job, job.Log) ([]job.Event, error)) (*job.Job, error) {
	j, _, err := s.DoView(ctx, id, audit, fn)
	return j, err
}

// DoView is Do that gives the job's view besides, as JSON, just as it is kept.
func (s *Store) DoView(ctx context.Context, id string, audit *Audit, fn func(*job.Job, job.Log) ([]job.Event, error)) (out *job.Job, view []byte, err error) {
	// Read before the transaction: inside it a second connection could be waited for by all who hold one.
	shop, err := s.Shop(ctx)
	if err != nil {
		return nil, nil, err
	}
	err = s.inTransaction(ctx, func(tx *gorm.DB) error {
		var row jobRow
		if err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Omit("card").Where("id = ?", id).Take(&row).Error; err != nil {
			return notFound(err)
		}
		log := &jobLog{tx: tx.Session(&gorm.Session{NewDB: true}), id: id}
		j, err := job.ReadView([]byte(row.View))
		stale := errors.Is(err, job.ErrOldFold) || row.View == ""
		if stale {
			var all []job.Event
			if all, err = log.All(); err == nil {
				j = job.Replay(id, row.CreatedAt, all)
			}
		}
		if err != nil {
			return err
		}
		j.Dress(shop.dress(j))
		events, err := fn(j, log)
		if err != nil {
			return err
		}
		out, view = j, []byte(row.View)
		if len(events) == 0 && !stale {
			return nil
		}
		if err := insertLog(tx, id, events); err != nil {
			return err
		}
		kept, err := keepView(tx, j, &row)
		if err != nil {
			return err
		}
		view = []byte(kept)
		return addAudit(tx, audit)
	})
	return out, view, err
}

// jobLog is a job's stored past, inside a transaction.
type jobLog struct {
	tx *gorm.DB
	id string
}

// Find implements job.Log.
func (l *jobLog) Find(ids []string) (map[string]job.Event, error) {
	var rows []logRow
	if err := l.tx.Where("job_id = ? AND id IN ?", l.id, ids).Find(&rows).Error; err != nil {
		return nil, fmt.Errorf("store: log of %s: %w", l.id, err)
	}
	out := make(map[string]job.Event, len(rows))
	for i := range rows {
		e, err := rows[i].event()
		if err != nil {
			return nil, err
		}
		out[e.ID] = e
	}
	return out, nil
}

// Since implements job.Log.
func (l *jobLog) Since(seq int64, kind job.Kind) ([]job.Event, error) {
	return l.read(l.tx.Where("job_id = ? AND n > ? AND kind = ?", l.id, seq, string(kind)))
}

// All implements job.Log.
func (l *jobLog) All() ([]job.Event, error) { return l.read(l.tx.Where("job_id = ?", l.id)) }

func (l *jobLog) read(q *gorm.DB) ([]job.Event, error) {
	var rows []logRow
	if err := q.Order("n").Find(&rows).Error; err != nil {
		return nil, fmt.Errorf("store: log of %s: %w", l.id, err)
	}
	return eventsOf(rows)
}

// Log gives a job's events after seq, at most limit of them (0: all).
func (s *Store) Log(ctx context.Context, id string, since int64, limit int) ([]job.Event, error) {
	q := s.db.WithContext(ctx).Where("job_id = ? AND n > ?", id, since).Order("n")
	if limit > 0 {
		q = q.Limit(limit)
	}
	var rows []logRow
	if err := q.Find(&rows).Error; err != nil {
		return nil, fmt.Errorf("store: log of %s: %w", id, err)
	}
	return eventsOf(rows)
}

// Events gives stored events of a job by their ids.
func (s *Store) Events(ctx context.Context, id string, ids []string) (map[string]job.Event, error) {
	return (&jobLog{tx: s.db.WithContext(ctx), id: id}).Find(ids)
}

// Photos gives a job's photos with their pictures, in order.
func (s *Store) Photos(ctx context.Context, j *job.Job) ([][]byte, error) {
	ids := make([]string, len(j.State.Photos))
	for i, p := range j.State.Photos {
		ids[i] = p.ID
	}
	if len(ids) == 0 {
		return nil, nil
	}
	found, err := s.Events(ctx, j.ID, ids)
	if err != nil {
		return nil, err
	}
	out := make([][]byte, len(ids))
	for i, id := range ids {
		if p, ok := found[id].Body.(*job.Photographed); ok {
			out[i] = p.JPEG
		}
	}
	return out, nil
}

// Heads gives how far the logs of some jobs go.
func (s *Store) Heads(ctx context.Context, ids []string) (map[string]int64, error) {
	var rows []jobRow
	if err := s.db.WithContext(ctx).Select("id", "head").Where("id IN ?", ids).Find(&rows).Error; err != nil {
		return nil, fmt.Errorf("store: heads: %w", err)
	}
	out := make(map[string]int64, len(rows))
	for _, r := range rows {
		out[r.ID] = r.Head
	}
	return out, nil
}
