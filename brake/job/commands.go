package job

import (
	"encoding/json"
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strings"
	"sync"
	"time"

	"geminate/brake/system"
	"geminate/brake/verify"
)

// The commands: each takes who asks, in which role, and the job as it stands, and gives the events it comes
// to. The job has them folded in already; whoever keeps the log appends them, all or none.

// Log is the job's stored past, asked for only where a command needs more than the fold.
type Log interface {
	// Find gives the stored events of these ids, by id.
	Find(ids []string) (map[string]Event, error)
	// Since gives the events of a kind after seq, in order.
	Since(seq int64, kind Kind) ([]Event, error)
	// All gives the whole log in order.
	All() ([]Event, error)
}

// Errors of commands.
var (
	ErrReleased    = errors.New("job: released: reopen it first")
	ErrNotReleased = errors.New("job: not released")
	ErrIDTaken     = errors.New("job: this event id was used for something else")
	ErrNothing     = errors.New("job: nothing changed")
)

// ErrStale is an edit of something that someone else has changed since it was begun.
type ErrStale struct {
	Clashes []Clash
	// WithMine and WithTheirs are both edits together, the fields that clash as this or as the other has them; nil
	// where they cannot be put together.
	WithMine, WithTheirs any
}

// Clash is one field that two people set otherwise: a JSON Pointer and what each has there, absent where it is gone.
type Clash struct {
	Path   string          `json:"path"`
	Mine   json.RawMessage `json:"mine,omitempty"`
	Theirs json.RawMessage `json:"theirs,omitempty"`
}

func (e ErrStale) Error() string {
	var paths []string
	for _, c := range e.Clashes {
		paths = append(paths, c.Path)
	}
	return "job: changed by someone else: " + strings.Join(paths, ", ")
}

// In is an event as a client tells it.
type In struct {
	ID   string
	Kind Kind
	At   time.Time
	// Base is the head of the log whoever tells it had seen, 0 where nobody said; Device tells apart the devices of one
	// person.
	Base   int64
	Device string
	Data   []byte
}

// mostEvents is how long one job's log may grow: some thirty times the longest job's.
const mostEvents = 200_000

// Opening is what a job begins with.
type Opening struct {
	ID, EventID string
	Intake      Intake
	Choices     *Choices // nil takes the defaults
}

// Open begins a job.
func Open(by Actor, now time.Time, o Opening) (*Job, []Event, error) {
	if err := (&Job{Intake: o.Intake}).must(by, OpenJob); err != nil {
		return nil, nil, err
	}
	if err := CheckIntake(&o.Intake); err != nil {
		return nil, nil, err
	}
	c := DefaultChoices(o.Intake.System)
	if o.Choices != nil {
		c = *o.Choices
	}
	if err := CheckChoices(o.Intake.System, &c); err != nil {
		return nil, nil, err
	}
	j := &Job{ID: o.ID, CreatedAt: now, State: newState()}
	e := j.fact(by, now, o.EventID, &Opened{Intake: o.Intake, Choices: c})
	j.freshen()
	return j, []Event{e}, nil
}

// fact makes the next event of a command, settles it and folds it in. It is made of the job as it stands.
func (j *Job) fact(by Actor, now time.Time, id string, b Body) Event {
	return j.factAt(Event{ID: id, At: now, StoredAt: now, By: by, Base: j.Head, Body: b})
}

// factAt is fact of an event that comes last in the order of hands.
func (j *Job) factAt(e Event) Event {
	if s, ok := e.Body.(settler); ok {
		s.Settle(j)
	}
	e.Seq, e.Kind = j.Head+1, kindOf(e.Body)
	j.apply(&e)
	return e
}

var kindOfType = sync.OnceValue(func() map[reflect.Type]Kind {
	out := make(map[reflect.Type]Kind, len(kinds))
	for _, k := range kinds {
		out[reflect.TypeOf(k.body())] = k.kind
	}
	return out
})

func kindOf(b Body) Kind { return kindOfType()[reflect.TypeOf(b)] }

// Append takes what a person's screen tells, in order. What is stored already under the same id, told by the same
// person, counts once. The first that is refused ends it: the error says why and which, the events are those before it,
// and they stand.
func (j *Job) Append(log Log, by Actor, now time.Time, in []In) ([]Event, error) {
	if j.Head+int64(len(in)) > mostEvents {
		return nil, fault("$.events", "fault.count", map[string]any{"value": j.Head + int64(len(in)), "min": 0, "max": mostEvents})
	}
	ids, of := make([]string, 0, len(in)), len(in)
	var refused error
	for i, e := range in {
		if err := validID(e.ID); err != nil {
			in, refused = in[:i], underEvent(i, of, err)
			break
		}
		ids = append(ids, e.ID)
		if u, ok := peekUndone(e); ok {
			ids = append(ids, u)
		}
	}
	stored, err := log.Find(ids)
	if err != nil {
		return nil, err
	}
	a := appending{j: j, log: log, by: by, now: now, stored: stored}
	for i, e := range in {
		if err := a.take(e); err != nil {
			refused = underEvent(i, of, err)
			break
		}
	}
	if err := a.settle(); err != nil {
		return nil, err
	}
	j.freshen()
	return a.out, refused
}

// appending is events being taken in, one after the other, each judged against what the one before left.
type appending struct {
	j      *Job
	log    Log
	by     Actor
	now    time.Time
	stored map[string]Event
	out    []Event
	// stale: something was taken back or lies further back in the order of hands; the job is folded anew before
	// anything else is judged, once however many there were.
	stale bool
}

// all is the whole log with what was taken in; ErrGap where it is not whole here.
func (a *appending) all() ([]Event, error) {
	all, err := a.log.All()
	if err != nil {
		return nil, err
	}
	all = append(all, a.out...)
	if n := len(all); n == 0 || all[0].Seq != 1 || all[n-1].Seq != int64(n) {
		return nil, ErrGap
	}
	return all, nil
}

// settle folds the job anew where it is stale.
func (a *appending) settle() error {
	if !a.stale {
		return nil
	}
	all, err := a.all()
	if err != nil {
		return err
	}
	a.j.refold(all)
	a.stale = false
	return nil
}

func (a *appending) take(in In) error {
	if len(in.Device) > deviceMost || in.Base < 0 {
		return fault("$.base", "fault.event_id", nil)
	}
	_, undo := peekUndone(in)
	if !undo {
		if err := a.settle(); err != nil {
			return err
		}
	}
	e := Event{ID: in.ID, At: a.j.within(in.At, a.now), StoredAt: a.now, By: a.by, Base: min(in.Base, a.j.Head), Device: in.Device}
	judge, err := a.judge(&e)
	if err != nil {
		return err
	}
	b, err := judge.tell(a.by, in, a.now, a.stored)
	if err != nil || b == nil {
		return err
	}
	e.Body, e.Seq, e.Kind = b, a.j.Head+1, in.Kind
	switch {
	case undo, judge != a.j:
		if s, ok := b.(settler); ok {
			s.Settle(judge)
		}
		a.j.Head, a.j.UpdatedAt, a.stale = e.Seq, e.StoredAt, true
	default:
		e = a.j.factAt(e)
	}
	a.stored[e.ID] = e
	a.out = append(a.out, e)
	a.stale = a.stale || a.slipped(&e)
	return nil
}

// judge is the job an event is judged by: as it stands, or where the event lies further back, as it stood there.
func (a *appending) judge(e *Event) (*Job, error) {
	_, there := a.stored[e.ID]
	if _, last := a.j.State.Tail.key(e, a.j.Head); there || last || a.stale {
		return a.j, nil
	}
	all, err := a.all()
	switch {
	case errors.Is(err, ErrGap): // the log is not whole here: where it lies the server will say
		return a.j, nil
	case err != nil:
		return nil, err
	}
	x := *e
	x.Seq, x.Body = a.j.Head+1, &Noted{}
	ordered := inOrder(append(all, x))
	at := slices.IndexFunc(ordered, func(o Event) bool { return o.Seq == x.Seq })
	if at == len(ordered)-1 {
		return a.j, nil
	}
	then := &Job{ID: a.j.ID, CreatedAt: a.j.CreatedAt, State: newState(), Given: a.j.Given}
	then.foldAll(ordered[:at], fatesOf(ordered[:at]))
	then.Head, then.UpdatedAt = a.j.Head, a.j.UpdatedAt
	then.freshen()
	return then, nil
}

// slipped says whether an event takes back what was told just before it: then nothing of it is to stay.
func (a *appending) slipped(e *Event) bool {
	t, ok := e.Body.(*Ticked)
	if !ok || !t.off() || len(t.Also) > 0 {
		return false
	}
	all, err := a.all()
	if err != nil { // not whole here
		return false
	}
	return fatesOf(inOrder(all)).of[e.ID] == slip
}

// tell judges one event; nil is one that is stored already.
func (j *Job) tell(by Actor, e In, now time.Time, stored map[string]Event) (Body, error) {
	k := findKind(e.Kind)
	if k < 0 || !kinds[k].client {
		return nil, fault("$.kind", "fault.unknown_kind", map[string]any{"value": clip(string(e.Kind))})
	}
	b, err := decodeBody(e.Kind, e.Data)
	if err != nil {
		return nil, err
	}
	if have, there := stored[e.ID]; there {
		if !have.same(by, e.Kind, b) {
			return nil, ErrIDTaken
		}
		return nil, nil
	}
	if err := j.must(by, kinds[k].command); err != nil {
		return nil, err
	}
	if j.State.ReleasedAt != nil && !kinds[k].released {
		return nil, ErrReleased
	}
	if j.Intake.System == nil {
		return nil, fault("$", "fault.no_system", nil)
	}
	if t, ok := b.(*Ticked); ok && highVoltageSteps[t.Step] {
		if err := j.must(by, TickHighVoltage); err != nil {
			return nil, err
		}
	}
	if u, ok := b.(*Undone); ok {
		if err := j.mayUndo(by, u, stored); err != nil {
			return nil, err
		}
	}
	if t, ok := b.(timely); ok {
		if err := t.CheckAt(j, j.within(e.At, now)); err != nil {
			return nil, err
		}
	}
	return b, b.Check(j)
}

// highVoltageSteps are done by trained people: never a trainee's tick.
var highVoltageSteps = map[string]bool{
	"safe.scan_tool_release":    true,
	"safe.negative_off":         true,
	"safe.service_plug":         true,
	"safe.isolate_high_voltage": true,
	"close.service_plug":        true,
	"close.negative_on":         true,
}

func (j *Job) mayUndo(by Actor, u *Undone, stored map[string]Event) error {
	of, there := stored[u.Of]
	if !there {
		return fault("$.data.of", "fault.no_such_event", map[string]any{"value": clip(u.Of)})
	}
	k := findKind(of.Kind)
	switch {
	// Undoing a reopening would release a vehicle past its gate.
	case of.Kind == KindReleased || of.Kind == KindReopened:
		return fault("$.data.of", "fault.release_not_undone", nil)
	case !kinds[k].undoable || of.By.Elsewhere,
		of.Kind == KindParked && of.Seq != j.Head: // what it was parked for is shown where it is unparked
		return fault("$.data.of", "fault.not_undone", nil)
	case of.By.ID != by.ID:
		return j.must(by, UndoOthers)
	}
	return nil
}

func peekUndone(e In) (string, bool) {
	if e.Kind != KindUndo {
		return "", false
	}
	b, err := decodeBody(e.Kind, e.Data)
	if err != nil {
		return "", false
	}
	u := b.(*Undone)
	return u.Of, true
}

// underEvent names which of several events a fault is about.
func underEvent(i, n int, err error) error {
	var f system.Faults
	if n < 2 || !errors.As(err, &f) {
		return err
	}
	out := make(system.Faults, len(f))
	for k, x := range f {
		x.Path = fmt.Sprintf("$.events[%d]", i) + strings.TrimPrefix(x.Path, "$")
		out[k] = x
	}
	return out
}

// within keeps a time inside the job's life: a tablet's clock may be wrong, the server's bounds it. When it was
// stored is kept beside it.
func (j *Job) within(at, now time.Time) time.Time {
	at = at.UTC().Truncate(time.Millisecond)
	if at.IsZero() || at.After(now) {
		return now
	}
	if at.Before(j.CreatedAt) {
		return j.CreatedAt
	}
	return at
}

// Release hands the vehicle over, if the gate passes.
func (j *Job) Release(by Actor, now time.Time, eventID string) ([]Event, error) {
	if err := j.must(by, ReleaseJob); err != nil {
		return nil, err
	}
	if j.State.ReleasedAt != nil {
		return nil, ErrReleased
	}
	if !j.Intake.Practice && by.Role.rank() < j.shop().ReleaseBy.rank() {
		return nil, ErrRole{ReleaseJob}
	}
	r := &Released{}
	if err := r.Check(j); err != nil {
		return nil, err
	}
	if w := j.State.Findings[PhaseVerify][secondLook].Witness; w != "" && verify.SameName(w, by.Name) {
		return nil, fault("$", "fault.second_look_self", map[string]any{"name": w})
	}
	return []Event{j.fact(by, now, eventID, r)}, nil
}

// Reopen takes a release back, with a reason that stays on the record.
func (j *Job) Reopen(by Actor, now time.Time, eventID, reason string) ([]Event, error) {
	if err := j.must(by, ReopenJob); err != nil {
		return nil, err
	}
	if j.State.ReleasedAt == nil {
		return nil, ErrNotReleased
	}
	r := &Reopened{Reason: strings.TrimSpace(reason)}
	if err := errors.Join(r.Valid(), r.Check(j)); err != nil {
		return nil, err
	}
	return []Event{j.fact(by, now, eventID, r)}, nil
}

// BringIn makes a file's job one of this shop's: its events are history from elsewhere, and the gate here
// starts open.
func BringIn(by Actor, now time.Time, f *File, id, eventID string) (*Job, []Event, error) {
	if err := by.must(BringJobIn); err != nil {
		return nil, nil, err
	}
	events := slices.Clone(f.Events)
	for i := range events {
		events[i].Seq, events[i].StoredAt = int64(i+1), now
		events[i].By.Elsewhere, events[i].By.ID, events[i].By.Role = true, "", ""
	}
	j := Replay(id, f.CreatedAt, events)
	e := j.fact(by, now, eventID, &BroughtIn{Format: f.Format, FileID: f.ID})
	j.freshen()
	return j, append(events, e), nil
}
