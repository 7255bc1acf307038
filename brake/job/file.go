package job

import (
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"
	"unicode/utf8"

	"geminate/brake/strict"
	"geminate/brake/system"
)

// Formats of the open job file. The first is read for ever, the second is written.
const (
	Format1 = "geminate.job/1"
	Format  = "geminate.job/2"
)

// MaxBytes is the largest job file the reader looks at.
const MaxBytes = 16 << 20

// fileEvents is how many events a file may hold.
const fileEvents = 50_000

// firstDay bounds times in files from below: there was no such file before it.
var firstDay = time.Date(2020, 1, 1, 0, 0, 0, 0, time.UTC)

// File is a job as a file: its log.
type File struct {
	Format    string    `json:"format"`
	ID        string    `json:"id"`
	CreatedAt time.Time `json:"created_at"`
	Events    []Event   `json:"events"`
}

// WriteFile gives a job's log as a file of today's format.
func WriteFile(j *Job, events []Event) ([]byte, error) {
	return json.MarshalIndent(File{Format, j.ID, j.CreatedAt, events}, "", "  ")
}

// ReadFile reads a job file of any format ever written, strictly: the system inside it passes the same reader
// as any other, every event its own bounds, and on any fault nothing is taken. now bounds the times in it.
func ReadFile(data []byte, now time.Time) (*File, error) {
	if len(data) > MaxBytes {
		return nil, fault("$", "fault.too_large", map[string]any{"max_bytes": MaxBytes})
	}
	var head struct {
		Format string `json:"format"`
	}
	if err := json.Unmarshal(data, &head); err != nil {
		return nil, strict.Syntax(data, err)
	}
	switch head.Format {
	case Format1:
		return readFormat1(data, now)
	case Format:
		return readFormat2(data, now)
	}
	return nil, fault("$.format", "fault.enum", map[string]any{"value": clip(head.Format), "allowed": Format1 + ", " + Format})
}

// faultList gathers faults of parts of a document under their paths.
type faultList struct{ system.Faults }

func (l *faultList) under(prefix string, err error) {
	var f system.Faults
	switch {
	case errors.As(err, &f):
		for _, x := range f {
			x.Path = prefix + strings.TrimPrefix(x.Path, "$")
			l.Faults = append(l.Faults, x)
		}
	case err != nil:
		l.Faults = append(l.Faults, system.Fault{Path: prefix, Code: "fault.detail", With: map[string]any{"detail": clip(err.Error())}})
	}
}

// most faults of events that are told: a hostile file may have fifty thousand.
const mostFaults = 200

func (l *faultList) full() bool { return len(l.Faults) >= mostFaults }

// checkHead checks what files of every format have in common.
func (l *faultList) checkHead(id string, createdAt, now time.Time, events int) {
	if utf8.RuneCountInString(id) > nameMost {
		l.under("$.id", fault("$", "fault.too_long", map[string]any{"max": nameMost}))
	}
	if createdAt.Before(firstDay) || createdAt.After(now.Add(time.Minute)) {
		l.under("$.created_at", fault("$", "fault.time", map[string]any{"value": createdAt.Format(time.DateOnly)}))
	}
	if events > fileEvents {
		l.under("$.events", fault("$", "fault.count", map[string]any{"value": events, "min": 0, "max": fileEvents}))
	}
}

// checkIntakeRaw holds the system inside an intake against its own strict reader.
func (l *faultList) checkIntakeRaw(path string, raw json.RawMessage) {
	var outer struct {
		System json.RawMessage `json:"system"`
	}
	if json.Unmarshal(raw, &outer) == nil && len(outer.System) > 0 && string(outer.System) != "null" {
		_, err := system.Parse(outer.System)
		l.under(path+".system", err)
	}
}

// ── format 2: the log itself ──

func readFormat2(data []byte, now time.Time) (*File, error) {
	var raw struct {
		Format    string            `json:"format"`
		ID        string            `json:"id"`
		CreatedAt time.Time         `json:"created_at"`
		Events    []json.RawMessage `json:"events"`
	}
	if err := strict.Decode(data, &raw); err != nil {
		return nil, err
	}
	l := &faultList{}
	l.checkHead(raw.ID, raw.CreatedAt, now, len(raw.Events))
	if l.Faults != nil {
		return nil, l.Faults
	}
	f := &File{Format: raw.Format, ID: raw.ID, CreatedAt: raw.CreatedAt.UTC()}
	seen := map[string]bool{}
	for i, r := range raw.Events {
		if l.full() {
			break
		}
		at := fmt.Sprintf("$.events[%d]", i)
		var e Event
		if err := json.Unmarshal(r, &e); err != nil {
			l.under(at, err)
			continue
		}
		l.under(at, envelope(&e, seen, f.CreatedAt, now))
		if o, ok := e.Body.(*Opened); ok {
			l.opening(at, i, r, o)
		} else if i == 0 {
			l.under(at+".kind", fault("$", "fault.enum", map[string]any{"value": e.Kind, "allowed": KindOpened}))
		}
		f.Events = append(f.Events, e)
	}
	if len(raw.Events) == 0 {
		l.under("$.events", fault("$", "fault.count", map[string]any{"value": 0, "min": 1, "max": fileEvents}))
	}
	if l.Faults == nil {
		// Edits are patches: whatever they come to must be a job that can be worked on.
		j := Replay(raw.ID, f.CreatedAt, f.Events)
		l.under("$.intake", checkWhole(j))
	}
	return f, l.Err()
}

// opening checks how a file's job begins, which stands first and once.
func (l *faultList) opening(at string, i int, raw []byte, o *Opened) {
	if i > 0 {
		l.under(at+".kind", fault("$", "fault.twice", nil))
	}
	var deep struct {
		Data struct {
			Intake json.RawMessage `json:"intake"`
		} `json:"data"`
	}
	_ = json.Unmarshal(raw, &deep)
	l.checkIntakeRaw(at+".data.intake", deep.Data.Intake)
	if o.Intake.System != nil && l.Faults == nil {
		o.Choices = adaptedIfNeeded(o.Intake.System, o.Choices)
	}
}

// checkWhole holds a folded job's intake and choices against their rules, through the system's own reader.
func checkWhole(j *Job) error {
	if err := CheckIntake(&j.Intake); err != nil {
		return err
	}
	raw, err := json.Marshal(j.Intake.System)
	if err != nil {
		return err
	}
	if _, err := system.Parse(raw); err != nil {
		l := &faultList{}
		l.under("$.system", err)
		return l.Err()
	}
	return CheckChoices(j.Intake.System, &j.Choices)
}

// envelope checks what is around an event's body.
func envelope(e *Event, seen map[string]bool, createdAt, now time.Time) error {
	if err := validID(e.ID); err != nil {
		return err
	}
	if seen[e.ID] {
		return fault("$.id", "fault.event_id", nil)
	}
	seen[e.ID] = true
	if err := text("$.by.name", e.By.Name, nameMost); err != nil {
		return err
	}
	if e.At.Before(createdAt) || e.At.After(now.Add(time.Minute)) {
		return fault("$.at", "fault.time", map[string]any{"value": e.At.Format(time.RFC3339)})
	}
	e.At = e.At.UTC()
	return nil
}

func adaptedIfNeeded(s *system.System, c Choices) Choices {
	if CheckChoices(s, &c) != nil {
		return adapted(s, c)
	}
	return c
}

// ── format 1: documents beside events of one wide shape ──

type job1 struct {
	Format    string          `json:"format"`
	ID        string          `json:"id"`
	CreatedAt time.Time       `json:"created_at"`
	Intake    json.RawMessage `json:"intake"`
	Choices   json.RawMessage `json:"choices"`
	Events    []Event1        `json:"events"`
}

// Event1 is an event of format 1: one wide shape for every kind.
type Event1 struct {
	ID   string    `json:"id"`
	Kind string    `json:"kind"`
	At   time.Time `json:"at"`
	By   string    `json:"by"`
	Data Data1     `json:"data"`
}

// Data1 is what an event of format 1 carries; which fields are used depends on the kind.
type Data1 struct {
	Phase     string          `json:"phase,omitempty"`
	Finding   string          `json:"finding,omitempty"`
	Value     json.RawMessage `json:"value,omitempty"`
	Sure      *bool           `json:"sure,omitempty"`
	Step      string          `json:"step,omitempty"`
	Done      *bool           `json:"done,omitempty"`
	TorqueNM  *float64        `json:"torque_nm,omitempty"`
	Rod       *Rod            `json:"rod,omitempty"`
	Wheel     string          `json:"wheel,omitempty"`
	Strokes   int             `json:"strokes,omitempty"`
	VolumeCM3 float64         `json:"volume_cm3,omitempty"`
	Of        string          `json:"of,omitempty"`
	Text      string          `json:"text,omitempty"`
}

// body gives the typed body of an old event, nil for a kind that format never had.
func (e *Event1) body() Body {
	d := e.Data
	switch Kind(e.Kind) {
	case KindFinding:
		return &FindingMade{Phase: d.Phase, Finding: d.Finding, Value: d.Value, Sure: d.Sure}
	case KindTick:
		return &Ticked{Step: d.Step, Done: d.Done, TorqueNM: d.TorqueNM, Rod: d.Rod}
	case KindBenchStroke:
		return &BenchStroked{Strokes: d.Strokes}
	case KindBleedStroke:
		return &BleedStroked{Wheel: d.Wheel, Strokes: d.Strokes}
	case KindBleedVolume:
		return &VolumeMoved{Wheel: d.Wheel, VolumeCM3: d.VolumeCM3}
	case KindRefill:
		return &Filled{}
	case KindWheelClear:
		return &WheelSeen{Wheel: d.Wheel, Done: d.Done}
	case KindNote:
		return &Noted{Text: d.Text}
	case KindUndo:
		return &Undone{Of: d.Of}
	case KindReleased:
		return &Released{}
	case KindReopened:
		return &Reopened{}
	}
	return nil
}

func readFormat1(data []byte, now time.Time) (*File, error) {
	var raw job1
	if err := strict.Decode(data, &raw); err != nil {
		return nil, err
	}
	l := &faultList{}
	l.checkHead(raw.ID, raw.CreatedAt, now, len(raw.Events))
	intake, choices := Intake{}, Choices{}
	l.under("$.intake", strict.Decode(raw.Intake, &intake))
	l.checkIntakeRaw("$.intake", raw.Intake)
	l.under("$.intake", CheckIntake(&intake))
	if len(raw.Choices) > 0 {
		l.under("$.choices", strict.Decode(raw.Choices, &choices))
	}
	if l.Faults != nil {
		return nil, l.Faults
	}
	f := &File{Format: raw.Format, ID: raw.ID}
	events, faults := Upgrade1(raw.CreatedAt.UTC(), intake, choices, raw.Events, now)
	l.Faults = append(l.Faults, faults...)
	f.CreatedAt, f.Events = raw.CreatedAt.UTC(), events
	return f, l.Err()
}

// Upgrade1 turns a job of format 1 into today's log. The old format kept no history of intake and choices: they
// stand in the log's first event as they were at the end, and what strokes moved is worked out from them, as
// the old program did. A time outside the job's life is put inside it, since the old program let any clock pass.
// What cannot be is told by its path and left out.
func Upgrade1(createdAt time.Time, in Intake, c Choices, old []Event1, now time.Time) ([]Event, system.Faults) {
	l := &faultList{}
	opener := Actor{Name: ""}
	if len(old) > 0 {
		opener.Name = clip(old[0].By)
	}
	c = adaptedIfNeeded(in.System, c)
	first := Event{
		ID:       "opened",
		Seq:      1,
		Kind:     KindOpened,
		At:       createdAt,
		StoredAt: createdAt,
		By:       opener,
		Body:     &Opened{Intake: in, Choices: c},
	}
	j := &Job{CreatedAt: createdAt, State: newState()}
	first.Body.Apply(j, &first)
	events := []Event{first}
	seen := map[string]bool{first.ID: true}
	for i := range old {
		if l.full() {
			break
		}
		at := fmt.Sprintf("$.events[%d]", i)
		e, err := upgradeEvent(&old[i], j, createdAt, now)
		if err == nil {
			err = envelope(&e, seen, createdAt, now)
		}
		if err != nil {
			l.under(at, err)
			continue
		}
		e.Seq = int64(len(events) + 1)
		events = append(events, e)
	}
	return events, l.Faults
}

func upgradeEvent(old *Event1, j *Job, createdAt, now time.Time) (Event, error) {
	b := old.body()
	if b == nil {
		return Event{}, fault("$.kind", "fault.unknown_kind", map[string]any{"value": clip(old.Kind)})
	}
	if err := b.Valid(); err != nil {
		return Event{}, err
	}
	if s, ok := b.(settler); ok {
		if _, released := b.(*Released); !released { // its gate was not kept
			s.Settle(j)
		}
	}
	if p, ok := b.(predated); ok {
		p.predate()
	}
	e := Event{ID: old.ID, Kind: Kind(old.Kind), At: old.At.UTC(), By: Actor{Name: old.By}, Body: b}
	if e.At.Before(createdAt) {
		e.At = createdAt
	}
	if e.At.After(now) {
		e.At = now
	}
	e.StoredAt = e.At
	return e, nil
}
