package job

import (
	"bytes"
	"encoding/json"
	"fmt"
	"time"

	"geminate/brake/system"
)

// Kind names what an event tells.
type Kind string

// Event is one fact of a job's log. Seq counts from 1 within the job. At is when it happened by the clock of whoever
// tells it, StoredAt when the server took it; both UTC. Base is the head of the log whoever tells it had seen, 0 where
// nobody said; Device tells apart the devices of one person. From these comes the order of hands (order.go).
type Event struct {
	ID       string
	Seq      int64
	Kind     Kind
	At       time.Time
	StoredAt time.Time
	By       Actor
	Base     int64
	Device   string
	Body     Body

	// place is its place in the order of hands; late says that something which had arrived before it lies after it.
	// Both are worked out when a log is folded and are no part of it.
	place int64
	late  bool
}

// Body is what one kind of event carries. Three questions are kept apart: whether it can be at all (Valid:
// shape and bounds, asked of anything that comes in, from whichever source), whether it makes sense for the
// job as it stands (Check), and what it changes (Apply, which never fails: it also replays the past).
type Body interface {
	Valid() error
	Check(j *Job) error
	Apply(j *Job, e *Event)
}

// timely is a body that also asks for what hangs on when it happened.
type timely interface {
	CheckAt(j *Job, at time.Time) error
}

// settler is a body that takes down figures of the moment before it is stored: what a stroke moved is worked
// out once, with the method and stroke of that time, and kept.
type settler interface{ Settle(j *Job) }

// likened is a body that is not kept as it was told: what two tellings of it are compared by.
type likened interface{ likeness() Body }

// predated is a body with figures that an old log cannot have: nobody followed them then.
type predated interface{ predate() }

// kinds lists every kind of event once: how its body is made, which command it takes to tell it, whether a
// client tells it directly, whether it can be taken back, and whether a released record takes it.
var kinds = []struct {
	kind     Kind
	body     func() Body
	command  Command
	client   bool
	undoable bool
	released bool
}{
	{KindOpened, func() Body { return &Opened{} }, OpenJob, false, false, false},
	{KindIntake, func() Body { return &IntakeChanged{} }, EditIntake, false, false, false},
	{KindChoices, func() Body { return &ChoicesChanged{} }, SetUp, false, false, false},
	{KindFinding, func() Body { return &FindingMade{} }, TakeReading, true, true, false},
	{KindTick, func() Body { return &Ticked{} }, TickStep, true, true, false},
	{KindBenchStroke, func() Body { return &BenchStroked{} }, CountStroke, true, true, false},
	{KindBleedStroke, func() Body { return &BleedStroked{} }, CountStroke, true, true, false},
	{KindBleedVolume, func() Body { return &VolumeMoved{} }, CountStroke, true, true, false},
	{KindRefill, func() Body { return &Filled{} }, CountStroke, true, true, false},
	{KindWheelClear, func() Body { return &WheelSeen{} }, CountStroke, true, true, false},
	{KindBenchPlugged, func() Body { return &BenchPlugged{} }, CountStroke, true, true, false},
	{KindPortCracked, func() Body { return &PortCracked{} }, CountStroke, true, true, false},
	{KindDrawnOff, func() Body { return &DrawnOff{} }, CountStroke, true, true, false},
	{KindWheelAgain, func() Body { return &WheelAgain{} }, CountStroke, true, true, false},
	{KindWheelLeft, func() Body { return &WheelLeft{} }, CountStroke, true, true, false},
	{KindOpeningLost, func() Body { return &OpeningLost{} }, CountStroke, true, true, false},
	{KindBleedStep, func() Body { return &BleedStepped{} }, CountStroke, true, true, false},
	{KindSteering, func() Body { return &SteeringCycled{} }, CountStroke, true, true, false},
	{KindThingSeen, func() Body { return &ThingSeen{} }, TickStep, true, true, false},
	{KindRubberRenewed, func() Body { return &RubberRenewed{} }, TickStep, true, true, false},
	{KindRepaired, func() Body { return &RepairTold{} }, TickStep, true, true, false},
	{KindFitAccepted, func() Body { return &FitAccepted{} }, TakeFit, true, true, false},
	{KindPartOff, func() Body { return &PartOff{} }, TickStep, true, true, false},
	{KindPartOn, func() Body { return &PartOn{} }, TickStep, true, true, false},
	{KindPartMoved, func() Body { return &PartMoved{} }, TickStep, true, true, false},
	{KindReallyWas, func() Body { return &ReallyWas{} }, Decide, true, true, true},
	{KindPutAway, func() Body { return &PutAway{} }, Decide, true, true, false},
	{KindTakenUp, func() Body { return &TakenUp{} }, Decide, true, true, false},
	{KindKnownGood, func() Body { return &KnownGood{} }, Decide, true, true, true},
	{KindPartSeen, func() Body { return &PartLookedAt{} }, TickStep, true, true, true},
	{KindOldUnit, func() Body { return &OldUnitWent{} }, TickStep, true, true, true},
	{KindPhoto, func() Body { return &Photographed{} }, WriteNote, true, true, false},
	{KindPhotoMeasured, func() Body { return &PhotoMeasured{} }, TakeReading, true, true, false},
	{KindTrace, func() Body { return &Traced{} }, TakeReading, true, true, false},
	{KindParked, func() Body { return &Parked{} }, TickStep, true, true, false},
	{KindUnparked, func() Body { return &Unparked{} }, Decide, true, true, false},
	{KindTimerStarted, func() Body { return &TimerStarted{} }, CountStroke, true, true, false},
	{KindTimerStopped, func() Body { return &TimerStopped{} }, CountStroke, true, true, false},
	{KindNote, func() Body { return &Noted{} }, WriteNote, true, true, true},
	{KindUndo, func() Body { return &Undone{} }, UndoOwn, true, true, false},
	{KindReleased, func() Body { return &Released{} }, ReleaseJob, false, false, false},
	{KindReopened, func() Body { return &Reopened{} }, ReopenJob, false, false, true},
	{KindBroughtIn, func() Body { return &BroughtIn{} }, BringJobIn, false, false, false},
}

// Event kinds.
const (
	KindOpened       Kind = "opened"
	KindIntake       Kind = "intake_changed"
	KindChoices      Kind = "choices_changed"
	KindFinding      Kind = "finding"
	KindTick         Kind = "tick"
	KindBenchStroke  Kind = "bench_stroke"
	KindBleedStroke  Kind = "bleed_stroke"
	KindBleedVolume  Kind = "bleed_volume"
	KindRefill       Kind = "refill"
	KindWheelClear   Kind = "wheel_clear"
	KindBenchPlugged Kind = "bench_plugged"
	KindPortCracked  Kind = "port_cracked"
	KindDrawnOff     Kind = "drawn_off"
	KindWheelAgain   Kind = "wheel_again"
	KindWheelLeft    Kind = "wheel_left"
	KindOpeningLost  Kind = "opening_lost"
	KindBleedStep    Kind = "bleed_step"
	KindSteering     Kind = "steering_cycle"

	KindFitAccepted   Kind = "fit_accepted"   // a pedal that changes is wanted so
	KindThingSeen     Kind = "thing_seen"     // a look at what two tellings did not agree on
	KindRubberRenewed Kind = "rubber_renewed" // because of what had got into the fluid
	KindRepaired      Kind = "repaired"       // what was done at a wheel, a line or beside the units

	KindReallyWas Kind = "really_was"
	KindKnownGood Kind = "known_good"
	KindTrace     Kind = "trace" // what an instrument drew over time
	KindPutAway   Kind = "put_away"
	KindTakenUp   Kind = "taken_up"
	KindPartSeen  Kind = "part_seen"
	KindOldUnit   Kind = "old_unit"
	KindPhoto     Kind = "photo"
	// KindPhotoMeasured is a figure taken from one.
	KindPhotoMeasured Kind = "photo_measured"
	KindParked        Kind = "parked"
	KindUnparked      Kind = "unparked"
	KindPartOff       Kind = "part_off"
	KindPartOn        Kind = "part_on"
	KindPartMoved     Kind = "part_moved"
	KindTimerStarted  Kind = "timer_started"
	KindTimerStopped  Kind = "timer_stopped"
	KindNote          Kind = "note"
	KindUndo          Kind = "undo"
	KindReleased      Kind = "released"
	KindReopened      Kind = "reopened"
	KindBroughtIn     Kind = "brought_in"
)

// ClientBodies are empty bodies of the kinds a screen may tell, for the API's description.
func ClientBodies() []any {
	var out []any
	for _, k := range kinds {
		if k.client {
			out = append(out, k.body())
		}
	}
	return out
}

func findKind(k Kind) int {
	for i := range kinds {
		if kinds[i].kind == k {
			return i
		}
	}
	return -1
}

// deviceMost is how long a device's name may be.
const deviceMost = 64

// eventMost is how many bytes one event may carry.
const eventMost = 64 << 10

// decodeBody reads what an event of a kind carries: known fields alone, within bounds.
func decodeBody(k Kind, data []byte) (Body, error) {
	i := findKind(k)
	if i < 0 {
		return nil, system.Faults{{Path: "$.kind", Code: "fault.unknown_kind", With: map[string]any{"value": clip(string(k))}}}
	}
	most := eventMost
	if k == KindPhoto {
		most += PhotoMost * 4 / 3 // as base64
	}
	if len(data) > most && kinds[i].client {
		return nil, system.Faults{{Path: "$.data", Code: "fault.too_large", With: map[string]any{"max_bytes": most}}}
	}
	b := kinds[i].body()
	if len(bytes.TrimSpace(data)) > 0 {
		d := json.NewDecoder(bytes.NewReader(data))
		d.DisallowUnknownFields()
		if err := d.Decode(b); err != nil {
			return nil, system.Faults{{Path: "$.data", Code: "fault.syntax", With: map[string]any{"line": 1, "detail": clip(err.Error())}}}
		}
	}
	if err := b.Valid(); err != nil {
		return nil, err
	}
	return b, nil
}

type eventJSON struct {
	ID       string          `json:"id"`
	Seq      int64           `json:"seq"`
	Kind     Kind            `json:"kind"`
	At       time.Time       `json:"at"`
	StoredAt time.Time       `json:"stored_at"`
	By       Actor           `json:"by"`
	Base     int64           `json:"base,omitempty"`
	Device   string          `json:"device,omitempty"`
	Data     json.RawMessage `json:"data"`
}

// MarshalJSON writes an event as files and the API have it.
func (e Event) MarshalJSON() ([]byte, error) {
	data, err := json.Marshal(e.Body)
	if err != nil {
		return nil, fmt.Errorf("job: event %s: %w", e.ID, err)
	}
	return json.Marshal(eventJSON{e.ID, e.Seq, e.Kind, e.At, e.StoredAt, e.By, e.Base, e.Device, data})
}

// UnmarshalJSON reads one back.
func (e *Event) UnmarshalJSON(raw []byte) error {
	var x eventJSON
	d := json.NewDecoder(bytes.NewReader(raw))
	d.DisallowUnknownFields()
	if err := d.Decode(&x); err != nil {
		return err
	}
	b, err := decodeBody(x.Kind, x.Data)
	if err != nil {
		return err
	}
	if x.Base < 0 || len(x.Device) > deviceMost {
		return system.Faults{{Path: "$.base", Code: "fault.event_id"}}
	}
	*e = Event{ID: x.ID, Seq: x.Seq, Kind: x.Kind, At: x.At, StoredAt: x.StoredAt, By: x.By, Base: x.Base, Device: x.Device, Body: b}
	return nil
}

// DecodeEvent puts an event together from how it is kept: its envelope and its body as JSON.
func DecodeEvent(e Event, data []byte) (Event, error) {
	b, err := decodeBody(e.Kind, data)
	e.Body = b
	return e, err
}

// validID says whether an event's id may be kept: 1 to 64 letters, digits, dots, dashes, underscores, colons.
// Made by clients, it is compared to the letter everywhere.
func validID(id string) error {
	ok := id != "" && len(id) <= 64
	for _, c := range []byte(id) {
		ok = ok && (c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c >= '0' && c <= '9' || c == '-' || c == '_' || c == '.' || c == ':')
	}
	if !ok {
		return system.Faults{{Path: "$.id", Code: "fault.event_id"}}
	}
	return nil
}

// same says whether an event sent again is the one stored: the same person telling the same. What was settled
// when it was stored is not compared.
func (e *Event) same(by Actor, kind Kind, sent Body) bool {
	if e.By.ID != by.ID || e.Kind != kind {
		return false
	}
	tree := func(b Body) map[string]any {
		if l, ok := b.(likened); ok {
			b = l.likeness()
		}
		raw, _ := json.Marshal(b)
		var out map[string]any
		_ = json.Unmarshal(raw, &out)
		return out
	}
	have, want := tree(e.Body), tree(sent)
	for k, v := range want {
		a, _ := json.Marshal(v)
		b, _ := json.Marshal(have[k])
		if !bytes.Equal(a, b) {
			return false
		}
	}
	return true
}
