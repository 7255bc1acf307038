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

// jobRow is a job as kept beside its log: what lists and searches need.
type jobRow struct {
	ID         string `gorm:"primaryKey"`
	Head       int64
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

// viewRow is the fold of a job up to Head. It is kept by every viewEvery events, or at once where more than a stroke, a
// tick or a reading was told; what the log has beyond it is folded on.
type viewRow struct {
	JobID string `gorm:"primaryKey"`
	Head  int64
	Fold  int
	View  string
}

func (viewRow) TableName() string { return "job_views" }

// viewEvery: a view is some seventy times an event, and folding sixteen on costs less than a millisecond.
const viewEvery = 16

// frequent are the kinds that are told by the minute and change nothing that lists or tables read out of a view.
var frequent = map[job.Kind]bool{
	job.KindBleedStroke:  true,
	job.KindBleedVolume:  true,
	job.KindBenchStroke:  true,
	job.KindWheelClear:   true,
	job.KindOpeningLost:  true,
	job.KindRefill:       true,
	job.KindTick:         true,
	job.KindFinding:      true,
	job.KindNote:         true,
	job.KindTimerStarted: true,
	job.KindTimerStopped: true,
}

// keepsView says whether the view is kept with these events.
func keepsView(head, viewHead int64, events []job.Event) bool {
	if head-viewHead >= viewEvery || len(events) == 0 {
		return true
	}
	for i := range events {
		e := &events[i]
		if !frequent[e.Kind] || e.Base > 0 && e.Base < e.Seq-1 { // what lies further back in the order of hands folds the log anew
			return true
		}
		if t, ok := e.Body.(*job.Ticked); ok && t.Done != nil && !*t.Done {
			return true
		}
	}
	return false
}

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
	e, err := job.DecodeEvent(job.Event{
		ID:       r.ID,
		Seq:      r.N,
		Kind:     job.Kind(r.Kind),
		At:       r.At,
		StoredAt: r.StoredAt,
		By:       job.Actor{ID: r.ByID, Name: r.ByName, Role: job.Role(r.ByRole), Elsewhere: r.Elsewhere},
		Base:     r.Base,
		Device:   r.Device,
	}, []byte(r.Data))
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
		body, err := apart(tx, jobID, e)
		if err != nil {
			return err
		}
		data, err := encode(body)
		if err != nil {
			return fmt.Errorf("store: event %s: %w", e.ID, err)
		}
		rows[i] = logRow{
			JobID:     jobID,
			N:         e.Seq,
			ID:        e.ID,
			Kind:      string(e.Kind),
			At:        e.At.UTC(),
			StoredAt:  e.StoredAt.UTC(),
			ByID:      e.By.ID,
			ByName:    e.By.Name,
			ByRole:    string(e.By.Role),
			Elsewhere: e.By.Elsewhere,
			Base:      e.Base,
			Device:    e.Device,
			Data:      data,
		}
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
	_, err := keepView(tx, j, was, true)
	return err
}

// keepView is keep that gives the view: it is the answer too, and need not be made twice. whole says that it is to be
// kept as well.
func keepView(tx *gorm.DB, j *job.Job, was *jobRow, whole bool) (view string, err error) {
	v := j.View()
	if view, err = encode(v); err != nil {
		return "", fmt.Errorf("store: job %s: %w", j.ID, err)
	}
	card, err := encode(v.Card())
	if err != nil {
		return "", fmt.Errorf("store: job %s: %w", j.ID, err)
	}
	row := jobRow{
		ID:         j.ID,
		Head:       j.Head,
		Card:       card,
		SearchText: searchText(&v.Intake, &v.Choices),
		Standing:   string(v.Status.Standing),
		Station:    v.Status.At,
		CreatedAt:  j.CreatedAt.UTC(),
		UpdatedAt:  j.UpdatedAt.UTC(),
		ForDay:     v.Intake.ForDay,
	}
	set := map[string]any{"head": row.Head, "card": row.Card, "standing": row.Standing, "station": row.Station, "updated_at": row.UpdatedAt}
	if row.SearchText != was.SearchText {
		set["search_text"] = row.SearchText
	}
	_, without := tx.Get(withoutFacts)
	switch { // what an older schema's upgrade has no column or table for yet
	case without:
		set["view"], set["fold"] = view, v.Fold
	case row.ForDay != was.ForDay:
		set["for_day"] = row.ForDay
	}
	if whole && !without {
		err := tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&viewRow{JobID: j.ID, Head: j.Head, Fold: v.Fold, View: view}).Error
		if err != nil {
			return "", fmt.Errorf("store: view of job %s: %w", j.ID, err)
		}
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
	var row struct {
		Head, ViewHead int64
		Fold           int
		View           string
	}
	q := s.db.WithContext(ctx).
		Raw("SELECT j.head head, COALESCE(v.head, 0) view_head, COALESCE(v.fold, 0) fold, COALESCE(v.view, '') view FROM jobs j LEFT JOIN job_views v ON v.job_id = j.id WHERE j.id = ?", id).
		Scan(&row)
	if q.Error != nil {
		return nil, q.Error
	}
	if q.RowsAffected == 0 {
		return nil, ErrNotFound
	}
	if row.Fold == job.FoldVersion && row.ViewHead == row.Head {
		return []byte(row.View), nil
	}
	if row.Fold == job.FoldVersion {
		if j, _, err := foldedOn(&jobLog{tx: s.db.WithContext(ctx), id: id}, []byte(row.View), row.Head); err == nil {
			return json.Marshal(j.View())
		}
	}
	j, err := s.refold(ctx, id)
	if err != nil {
		return nil, err
	}
	return json.Marshal(j.View())
}

// foldedOn is a kept view with what the log has beyond it, up to head; how far the view went. job.ErrGap where that
// reaches back, job's ErrOldFold where an older program kept it.
func foldedOn(log *jobLog, view []byte, head int64) (j *job.Job, viewHead int64, err error) {
	if j, err = job.ReadView(view); err != nil {
		return nil, 0, err
	}
	if viewHead = j.Head; viewHead >= head {
		return j, viewHead, nil
	}
	beyond, err := log.read(log.tx.Where("job_id = ? AND n > ? AND n <= ?", log.id, viewHead, head))
	if err != nil {
		return nil, viewHead, err
	}
	book := &job.Book{Job: j}
	if err := book.Take(beyond...); err != nil {
		return nil, viewHead, err
	}
	if book.Head != head {
		return nil, viewHead, job.ErrGap
	}
	return book.Job, viewHead, nil
}

// folded is a job as it stands inside a transaction, and how far its kept view went; 0 where there is none to go on
// from.
func folded(tx *gorm.DB, log *jobLog, row *jobRow) (j *job.Job, viewHead int64, err error) {
	var v viewRow
	err = tx.Where("job_id = ?", row.ID).Take(&v).Error
	if err != nil && !errors.Is(err, gorm.ErrRecordNotFound) {
		return nil, 0, err
	}
	if err == nil && v.Fold == job.FoldVersion {
		j, viewHead, err = foldedOn(log, []byte(v.View), row.Head)
		if err == nil || !errors.Is(err, job.ErrGap) && !errors.Is(err, job.ErrOldFold) {
			return j, viewHead, err
		}
	}
	all, err := log.All()
	if err != nil {
		return nil, 0, err
	}
	return job.Replay(row.ID, row.CreatedAt, all), 0, nil
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
func (s *Store) DoView(ctx context.Context, id string, audit *Audit,
	fn func(*job.Job, job.Log) ([]job.Event, error)) (out *job.Job, view []byte, err error) {
	// Read before the transaction: inside it a second connection could be waited for by all who hold one.
	var shop Shop
	if err := s.tryAgain(ctx, func() (err error) { shop, err = s.Shop(ctx); return err }); err != nil {
		return nil, nil, err
	}
	err = s.inTransaction(ctx, func(tx *gorm.DB) error {
		var row jobRow
		if err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Omit("card").Where("id = ?", id).Take(&row).Error; err != nil {
			return notFound(err)
		}
		log := &jobLog{tx: tx.Session(&gorm.Session{NewDB: true}), id: id}
		j, viewHead, err := folded(tx.Session(&gorm.Session{NewDB: true}), log, &row)
		if err != nil {
			return err
		}
		stale := viewHead == 0
		j.Dress(shop.dress(j))
		events, err := fn(j, log)
		if err != nil {
			return err
		}
		out = j
		if len(events) == 0 && !stale {
			kept, err := encode(j.View())
			view = []byte(kept)
			return err
		}
		if err := insertLog(tx, id, events); err != nil {
			return err
		}
		kept, err := keepView(tx, j, &row, keepsView(j.Head, viewHead, events))
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
