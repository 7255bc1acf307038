package job

import (
	"slices"
	"strings"

	"geminate/brake/bleed"
	"geminate/brake/fluid"
	"geminate/brake/ledger"
	"geminate/brake/stand"
)

// The facts of the reservoir and of what was seen: filled, drawn off, clear or not, opened again, left, lost.

// Filled is the reservoir filled to its mark, or to a mark of its own.
type Filled struct {
	ToCM3 float64 `json:"to_cm3,omitempty"` // of the whole reservoir; 0 is the mark
	// AddedCM3 is what it took.
	AddedCM3 float64 `json:"added_cm3,omitempty"`
	// Poured is a class that went in by mistake and is told as a fact: a class of the words, or PouredOther.
	Poured string `json:"poured,omitempty"`
}

func pouredClasses() []string {
	out := []string{}
	for _, c := range fluid.Classes {
		out = append(out, c.ID)
	}
	return append(out, PouredOther)
}

// PouredOther is a fluid that is no brake fluid at all: mineral oil, steering fluid, washer fluid.
const PouredOther = "other"

// Valid implements Body.
func (f *Filled) Valid() error {
	if classes := pouredClasses(); f.Poured != "" && !slices.Contains(classes, f.Poured) {
		return fault("$.data.poured", "fault.enum", map[string]any{"value": clip(f.Poured), "allowed": classes})
	}
	return inRange("$.data.to_cm3", f.ToCM3, 0, mostCM3)
}

// Check implements Body: nothing of a class that may not go in is poured in.
func (f *Filled) Check(j *Job) error {
	if full := wholeCM3(j); f.ToCM3 > full {
		return fault("$.data.to_cm3", "fault.range", map[string]any{"value": f.ToCM3, "min": 0, "max": full})
	}
	if f.Poured != "" { // it is in already
		return nil
	}
	return j.checkBottle()
}

func wholeCM3(j *Job) (sum float64) {
	for _, t := range j.Intake.System.Tanks() {
		sum += t.FullCM3
	}
	return sum
}

func (j *Job) checkBottle() error {
	if b := j.bottle(j.UpdatedAt); !b.Allowed {
		return fault("$.data", "fault.fluid_class",
			map[string]any{"class": j.Choices.Bottle.Class, "wanted": j.Intake.System.Fluid.Class, "why": string(b.Fitness)})
	}
	return nil
}

// Settle works out what it took.
func (f *Filled) Settle(j *Job) {
	l := j.levels()
	before := l.Poured()
	if l.Apply(f.event(j)) == nil {
		f.AddedCM3 = l.Poured() - before
	}
}

func (f *Filled) event(j *Job) ledger.Event {
	e := ledger.Event{Kind: ledger.KindFill}
	// Jobs from before the fluid was followed wrote the mark of the smallest part here.
	if f.ToCM3 > 0 && j.Intake.System != nil && !j.State.OldFluid && f.ToCM3 < wholeCM3(j) {
		to := f.ToCM3
		e.ToCM3 = &to
	}
	return e
}

// Apply implements Body. Filling it is the plan's step of filling it, where that is next; with the wrong fluid it is
// not.
func (f *Filled) Apply(j *Job, e *Event) {
	right := f.Poured == ""
	j.State.Refills++
	if right {
		j.State.StoodDays = 0
	}
	j.State.moves(f.event(j))
	j.State.counted("bleed", e)
	j.worked(e, string(e.Kind), stand.Reservoir, stand.Fluid)
	j.pour(e, f.Poured)
	if p, err := j.Plan(); err == nil && f.AddedCM3 > 0 && right {
		if missing, err := p.Missing("close.fill", j.doneOf(p, false)); err == nil && len(missing) == 0 {
			j.State.Ticks["close.fill"] = Tick{At: e.At, By: e.By.Name, EventID: e.ID}
			j.account().Do("close.fill", e.when(), j.pair(), true)
		}
	}
}

// drainedShare is the share of a reservoir down to which it counts as drawn off: what a syringe leaves and a little.
// Assumption.
const drainedShare = 0.1

// DrawnOff is fluid drawn out of the reservoir, down to what is left.
type DrawnOff struct {
	LeftCM3 *float64 `json:"left_cm3,omitempty"` // of the whole; none is what a syringe leaves
}

// Valid implements Body.
func (d *DrawnOff) Valid() error {
	if d.LeftCM3 == nil {
		return nil
	}
	return inRange("$.data.left_cm3", *d.LeftCM3, 0, mostCM3)
}

// Check implements Body.
func (d *DrawnOff) Check(j *Job) error {
	if full := wholeCM3(j); d.LeftCM3 != nil && *d.LeftCM3 > full {
		return fault("$.data.left_cm3", "fault.range", map[string]any{"value": *d.LeftCM3, "min": 0, "max": full})
	}
	return nil
}

// Apply implements Body.
func (d *DrawnOff) Apply(j *Job, e *Event) {
	j.State.moves(ledger.Event{Kind: ledger.KindDrain, LeftCM3: d.LeftCM3})
	j.State.counted("bleed", e)
	j.worked(e, string(e.Kind), stand.Reservoir, stand.Fluid)
	if d.LeftCM3 == nil || *d.LeftCM3 <= drainedShare*wholeCM3(j) {
		j.drainedOff(e.place)
	}
}

// WheelSeen is a wheel seen to run clear after an opening, or (Done false) bubbles.
type WheelSeen struct {
	Wheel string `json:"wheel"`
	Done  *bool  `json:"done,omitempty"`
	// Row is how often in a row it has run clear with this one; jobs from before that was counted have none.
	Row int `json:"row,omitempty"`
}

func (w *WheelSeen) clear() bool { return w.Done == nil || *w.Done }

// Valid implements Body.
func (w *WheelSeen) Valid() error {
	if err := inRange("$.data.row", float64(w.Row), 0, mostStrokes); err != nil {
		return err
	}
	return text("$.data.wheel", w.Wheel, nameMost)
}

// Check implements Body.
func (w *WheelSeen) Check(j *Job) error { return j.checkWheel(w.Wheel) }

// Settle counts. The same opening looked at twice is one.
func (w *WheelSeen) Settle(j *Job) {
	at := j.account().Wheels[w.Wheel]
	w.Row = max(1, at.Row)
	if at.Row > 0 && at.Unseen() {
		w.Row++
	}
}

// Apply implements Body.
func (w *WheelSeen) Apply(j *Job, e *Event) {
	st := &j.State
	st.Clear[w.Wheel] = w.clear()
	log := st.Wheels[w.Wheel]
	log.LastAt = e.At
	if w.clear() {
		log.DoneAt = e.At
	}
	st.setWheel(w.Wheel, log)
	j.account().Saw(e.place, w.Wheel, w.clear(), e.At, j.brakeCM3(w.Wheel))
	st.counted("bleed", e)
	j.worked(e, string(e.Kind), movedThings...)
}

const clearTwice = stand.ClearTwice

// WheelAgain is a wheel opened once more: bubbles came back.
type WheelAgain struct {
	Wheel string `json:"wheel"`
}

// Valid implements Body.
func (w *WheelAgain) Valid() error { return text("$.data.wheel", w.Wheel, nameMost) }

// Check implements Body.
func (w *WheelAgain) Check(j *Job) error { return j.checkWheel(w.Wheel) }

// Apply implements Body.
func (w *WheelAgain) Apply(j *Job, e *Event) {
	j.State.Clear[w.Wheel] = false
	if at := j.account().Wheels[w.Wheel]; !at.Worked() { // never opened yet: begun with it
		j.account().Through(e.place, w.Wheel, 0, 0)
	}
	if j.State.Dry[j.Intake.System.CircuitOf(w.Wheel)] || j.method() == bleed.ScanTool {
		j.account().Air(e.place, w.Wheel, stand.FromCylinder, "bubbles", j.pathCM3(w.Wheel))
	} else {
		j.airAtBrake(e.place, w.Wheel, "bubbles")
	}
	j.State.counted("bleed", e)
	j.worked(e, string(e.Kind), movedThings...)
	j.account().Move(e.when(), movedThings...)
}

// WheelLeft is a wheel left undone, with why: the vehicle is then not released.
type WheelLeft struct {
	Wheel string  `json:"wheel"`
	Why   LeftWhy `json:"why"`
	Note  string  `json:"note,omitempty"`
}

// Valid implements Body.
func (w *WheelLeft) Valid() error {
	if !slices.Contains(LeftWhys, w.Why) {
		return fault("$.data.why", "fault.enum", map[string]any{"value": clip(string(w.Why)), "allowed": LeftWhys})
	}
	if w.Why == LeftOther && strings.TrimSpace(w.Note) == "" {
		return fault("$.data.note", "fault.missing", nil)
	}
	if err := text("$.data.note", w.Note, 4*nameMost); err != nil {
		return err
	}
	return text("$.data.wheel", w.Wheel, nameMost)
}

// Check implements Body.
func (w *WheelLeft) Check(j *Job) error { return j.checkWheel(w.Wheel) }

// Apply implements Body.
func (w *WheelLeft) Apply(j *Job, e *Event) {
	log := j.State.Wheels[w.Wheel]
	log.Left, log.LeftNote = w.Why, w.Note
	j.State.setWheel(w.Wheel, log)
	j.State.counted("bleed", e)
}

// OpeningLost is an opening that does not count: the foot came up with the bleeder open, and air went in there. What
// the foot had pushed out by then is gone from the reservoir all the same; how much nobody saw, so a whole stroke is
// taken from it.
type OpeningLost struct {
	Wheel string `json:"wheel"`
	// CM3 is what a whole stroke moves; jobs from before that was followed have none.
	CM3 float64 `json:"cm3,omitempty"`
	Fed bool    `json:"fed,omitempty"`
}

// Valid implements Body.
func (o *OpeningLost) Valid() error {
	if err := inRange("$.data.cm3", o.CM3, 0, mostCM3); err != nil {
		return err
	}
	return text("$.data.wheel", o.Wheel, nameMost)
}

// Check implements Body.
func (o *OpeningLost) Check(j *Job) error { return j.checkWheel(o.Wheel) }

// Settle works out what a stroke moves.
func (o *OpeningLost) Settle(j *Job) {
	m, s := j.method(), j.Fitted()
	o.CM3, o.Fed = 0, j.fed(m)
	if v, err := bleed.StrokeCM3(s, s.CircuitOf(o.Wheel),
		j.Choices.Bleed.StrokeMM); err == nil { // a foot is a foot, whatever way was chosen
		o.CM3 = v
	}
}

// Apply implements Body.
func (o *OpeningLost) Apply(j *Job, e *Event) {
	st := &j.State
	st.Clear[o.Wheel] = false
	if o.CM3 > 0 && j.wheelOf(o.Wheel) != nil {
		j.drew(o.Wheel, opening{method: j.method(), cm3: o.CM3, fed: o.Fed, lost: true}, e)
	}
	j.account().Lost(e.place, o.Wheel, j.brakeCM3(o.Wheel))
	st.counted("bleed", e)
	j.worked(e, string(e.Kind), movedThings...)
	j.account().Move(e.when(), movedThings...)
}

// An old log knows nothing of the fluid's way.

func (b *BleedStroked) predate() { b.LevelCM3, b.Round = nil, 0 }
func (v *VolumeMoved) predate()  { v.LevelCM3, v.Round = nil, 0 }
func (w *WheelSeen) predate()    { w.Row = 0 }
func (f *Filled) predate()       { f.AddedCM3 = 0 }
func (o *OpeningLost) predate()  { o.CM3 = 0 }
