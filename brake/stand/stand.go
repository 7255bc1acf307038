// Package stand is the one account of the vehicle as it stands: what work has changed since the job began, folded act
// by act. Plan, gate, ledger, kit, drawing and papers read it; none keeps a "done" of its own.
//
// Three tables say everything: what a thing may be (things.go), what an act needs and does (acts.go), what a finding
// speaks of (evidence.go). The account itself (this file) takes acts down; air.go keeps where air may be. Nothing here
// is undone: whoever takes an event out of the log folds the log anew.
package stand

import (
	"cmp"
	"maps"
	"math"
	"slices"
	"time"
)

// Pair names the units the work is for, by what they are; "" is the vehicle's own.
type Pair struct {
	Cylinder string `json:"cylinder,omitempty"`
	Booster  string `json:"booster,omitempty"`
}

// When is an event: its place in the log, its time, whose it is.
type When struct {
	Seq int64     `json:"seq"` // its place in the order of hands
	At  time.Time `json:"at"`
	By  string    `json:"by,omitempty"` // an account's id
	// Arrived is its place in the log.
	Arrived int64 `json:"arrived,omitempty"`
}

// Told is an act as it was last told.
type Told struct {
	When
	Of Pair `json:"of,omitzero"`
	// Unproven: what it needed did not stand, or its figure was out of its limits: it was told and does not count.
	Unproven bool `json:"unproven,omitempty"`
	NotHere  bool `json:"not_here,omitempty"`
	// With are others who told the same while it stood: it is taken back only when all of them do, or by one who may
	// for them.
	With []string `json:"with,omitempty"`
}

// Change is the last change of a thing.
type Change struct {
	When
	What string `json:"what"` // a step, or a kind of event
}

// Account is the vehicle as it stands. Its maps are never nil after New.
type Account struct {
	// Acts are the acts that were told and not taken back, by step.
	Acts map[string]Told `json:"acts,omitempty"`
	// CameOff is when a thing last came off or was opened: never forgotten, whatever is chosen or taken back later.
	CameOff map[Thing]When `json:"came_off,omitempty"`
	// Beside is when a thing was opened beside the plan, by a test, and closed again.
	Beside map[Thing]When `json:"beside,omitempty"`
	// Moved is when a thing was last opened, loosened, cracked, moved or let go: what was made sure of before is not.
	Moved map[Thing]int64 `json:"moved,omitempty"`
	// Epochs is the last change of each thing, Last that of anything.
	Epochs map[Thing]Change `json:"epochs,omitempty"`
	Last   Change           `json:"last,omitzero"`
	// EpochBy and LastBy are the same by each person: what somebody had not seen ends what they read, whatever they did
	// themselves since.
	EpochBy map[string]map[Thing]Change `json:"epoch_by,omitempty"`
	LastBy  map[string]Change           `json:"last_by,omitempty"`
	// Road is when the vehicle was last out.
	Road Change `json:"road,omitzero"`
	// Looked is what was seen of things of which two tellings did not agree, Doubts those nobody has looked at yet.
	Looked map[Thing]Seen  `json:"looked,omitempty"`
	Doubts map[Thing]Doubt `json:"doubts,omitempty"`
	// Wheels are where air may be and what has gone through.
	Wheels map[string]Wheel `json:"wheels,omitempty"`
	// Hands are the accounts that did something to the vehicle, by the name they had.
	Hands map[string]string `json:"hands,omitempty"`
	// SpentS is the least all that was told must have taken, s.
	SpentS float64 `json:"spent_s,omitempty"`
}

// New is a vehicle nobody has touched.
func New() *Account { return &Account{} }

// set keeps the maps of a snapshot apart from those handed out: an account is folded on, never shared.
func set[K comparable, V any](m *map[K]V, k K, v V) {
	if *m == nil {
		*m = map[K]V{}
	}
	(*m)[k] = v
}

// Clone is an account to try things on.
func (a *Account) Clone() *Account {
	out := *a
	out.Acts, out.CameOff, out.Moved, out.Epochs = maps.Clone(a.Acts), maps.Clone(a.CameOff), maps.Clone(a.Moved), maps.Clone(a.Epochs)
	out.Hands, out.Wheels, out.LastBy = maps.Clone(a.Hands), map[string]Wheel{}, maps.Clone(a.LastBy)
	out.Beside, out.Looked, out.Doubts, out.EpochBy = maps.Clone(
		a.Beside,
	), maps.Clone(
		a.Looked,
	), maps.Clone(
		a.Doubts,
	), map[string]map[Thing]Change{}
	for by, m := range a.EpochBy {
		out.EpochBy[by] = maps.Clone(m)
	}
	for id, w := range a.Wheels {
		out.Wheels[id] = w.clone()
	}
	return &out
}

// Do takes an act down. proven says that what it needed stood and its figure is inside its limits.
func (a *Account) Do(step string, w When, of Pair, proven bool) {
	act := Find(step)
	next := Told{When: w, Of: of, Unproven: !proven}
	if was, ok := a.Acts[step]; ok && act != nil && proven && was.By != w.By && was.Of == of && a.standsNow(act, was) {
		next.With = append(slices.DeleteFunc(slices.Clone(was.With), func(id string) bool { return id == w.By }), was.By)
	}
	set(&a.Acts, step, next)
	if act == nil { // a step of one's own: what it touches is said by whoever folds it
		return
	}
	a.SpentS += act.LeastS
	switch {
	case act.Takes():
		set(&a.CameOff, act.Thing, w)
		a.Move(w, act.Thing)
	case act.To == Started:
		a.Move(w, act.Thing)
	}
	switch {
	case act.Thing == Power || act.Thing == Plug: // on or off: what was proven of the voltage before is not
		a.Move(w, act.Thing, Voltage)
		if act.To == Back { // its own pump fills the store again
			a.Move(w, LinePressure)
		}
	case act.Thing == Batteries && act.To == Back:
		a.Move(w, LinePressure)
	}
	if act.Counted || prepares[act.Thing] {
		return
	}
	if act.Thing == Elsewhere { // nobody knows where it was: every road wheel may have been off
		a.Change(w, step, Elsewhere, RoadWheels)
		return
	}
	a.Change(w, step, act.Thing)
}

// standsNow says whether what was told of an act is how its thing stands.
func (a *Account) standsNow(act *Act, told Told) bool {
	return !told.Unproven && !told.NotHere && a.StateOf(act.Thing) == act.To && a.lastOf(act.Thing) == act
}

// prepares are the things whose acts change nothing on the vehicle that evidence could speak of.
var prepares = map[Thing]bool{
	Vehicle:      true,
	Paint:        true,
	Coupling:     true,
	Box:          true,
	Compared:     true,
	Tags:         true,
	Penetrant:    true,
	Engine:       true,
	Vacuum:       true,
	Accumulator:  true,
	LinePressure: true,
	Voltage:      true,
	LineCaps:     true,
	Mouth:        true,
	Joints:       true,
	Tools:        true,
	Level:        true,
}

// TakeBack says that an act was not done after all: its thing is as it was before it. What had come off stays known to
// have come off. teller is whose telling is taken back: where another told the same it stands by that one, and false
// comes back; of somebody who told nothing of the kind it is everybody's.
func (a *Account) TakeBack(step string, w When, teller string) bool {
	told, ok := a.Acts[step]
	if !ok {
		return false
	}
	tellers := append(slices.Clone(told.With), told.By)
	if others := slices.DeleteFunc(slices.Clone(tellers), func(id string) bool { return id == teller }); len(others) > 0 &&
		len(others) < len(tellers) {
		told.By, told.With = others[len(others)-1], others[:len(others)-1]
		a.Acts = maps.Clone(a.Acts)
		a.Acts[step] = told
		return false
	}
	delete(a.Acts, step)
	act := Find(step)
	if act == nil {
		return true
	}
	if act.Thing == Power || act.Thing == Plug {
		a.Move(w, act.Thing, Voltage)
	}
	if !prepares[act.Thing] {
		a.Change(w, step, act.Thing)
	}
	return true
}

// NotHere says that this vehicle has no such thing.
func (a *Account) NotHere(step string, w When) {
	set(&a.Acts, step, Told{When: w, NotHere: true})
}

// MayBeAbsent says whether "not here" can be said of a step: the vehicle can be without it, and nothing of it came off.
func (a *Account) MayBeAbsent(step string) bool {
	act := Find(step)
	if act == nil {
		return true
	}
	_, off := a.CameOff[act.Thing]
	return act.Absent && !off
}

// Move says that things were opened, loosened, moved or let go.
func (a *Account) Move(w When, things ...Thing) {
	for _, t := range things {
		set(&a.Moved, t, w.Seq)
	}
}

// Change raises the epoch of things: what was found of them before proves nothing any more. With none it only says that
// something was done.
func (a *Account) Change(w When, what string, things ...Thing) {
	mine := a.EpochBy[w.By]
	for _, t := range things {
		set(&a.Epochs, t, Change{w, what})
		set(&mine, t, Change{w, what})
	}
	a.Last = Change{w, what}
	if w.By != "" {
		set(&a.EpochBy, w.By, mine)
		set(&a.LastBy, w.By, a.Last)
	}
}

// Worked says who had hands on the vehicle.
func (a *Account) Worked(id, name string) { set(&a.Hands, id, name) }

// Took adds what something must have taken at the least, s.
func (a *Account) Took(seconds float64) { a.SpentS += seconds }

// EngineRan says that the engine ran, or the vehicle was switched on: vacuum and pressure are stored again.
func (a *Account) EngineRan(w When) { a.Move(w, Engine, Vacuum, Accumulator, LinePressure) }

// OnTheRoad says that the vehicle was out: nothing that was read of it before speaks of it any more.
func (a *Account) OnTheRoad(w When, what string) {
	a.Road = Change{w, what}
	a.Last = a.Road
}

// OpenedBeside says that a thing was opened beside the plan, and closed again: nobody said that it is fast.
func (a *Account) OpenedBeside(w When, what string, things ...Thing) {
	for _, t := range things {
		set(&a.Beside, t, w)
	}
	a.Move(w, things...)
	a.Change(w, what, things...)
}

// IsOff says whether a thing is not where it belongs.
func (a *Account) IsOff(t Thing) bool {
	s := a.StateOf(t)
	return s == Off || s == Aside
}

// TookOff says whether a thing ever came off in this job, Touched whether it came off or was opened beside the plan.
func (a *Account) TookOff(t Thing) bool { _, off := a.CameOff[t]; return off }

// Touched is TookOff, or opened by a test.
func (a *Account) Touched(t Thing) bool {
	_, beside := a.Beside[t]
	return beside || a.TookOff(t)
}

// opens are the things with which brake fluid comes out.
var opens = func() map[Thing]bool {
	out := map[Thing]bool{}
	for _, act := range Acts {
		if act.Opens {
			out[act.Thing] = true
		}
	}
	return out
}()

// OpenedAtCylinder says whether brake fluid came out ahead of every wheel.
func (a *Account) OpenedAtCylinder() bool {
	for t := range a.CameOff {
		if opens[t] && t != Elsewhere {
			return true
		}
	}
	for t := range a.Beside {
		if opens[t] {
			return true
		}
	}
	return false
}

// Opened says whether the hydraulics were opened at all: a joint, a repair elsewhere, a bleeder.
func (a *Account) Opened() bool {
	if a.OpenedAtCylinder() || a.Touched(Elsewhere) {
		return true
	}
	for _, w := range a.Wheels {
		if w.Worked() || len(w.Marks) > 0 {
			return true
		}
	}
	return false
}

// lastOf is the act that was told last of a thing, nil where none stands.
func (a *Account) lastOf(t Thing) *Act {
	var act *Act
	seq := int64(0)
	for _, x := range byThing[t] {
		if told, ok := a.Acts[x.Step]; ok && told.Seq >= seq {
			seq, act = told.Seq, x
		}
	}
	return act
}

// letIn are the things that come back by themselves: what was let out is stored again.
var letIn = map[Thing]bool{Engine: true, Vacuum: true, Accumulator: true, LinePressure: true, Voltage: true}

// StateOf is how a thing stands: as its last act left it, and as it was opened, loosened or let in since.
func (a *Account) StateOf(t Thing) State {
	act := a.lastOf(t)
	if l, looked := a.Looked[t]; looked && (act == nil || l.Seq > a.Acts[act.Step].Seq) {
		return l.State
	}
	if act == nil {
		if a.Moved[t] > 0 {
			return Loose
		}
		return AsFound
	}
	last := a.Acts[act.Step]
	moved := a.Moved[t] > last.Seq
	switch {
	case last.NotHere:
		return Absent
	case last.Unproven && act.Takes(): // it was told to be off: off it is, whatever it lacked
		return act.To
	case last.Unproven:
		return AsFound
	case act.Takes() && moved && letIn[t]:
		return Back
	case act.Takes():
		return act.To
	case moved:
		return Loose
	}
	return act.To
}

// Stands says whether what a step brings about stands, by an act of this job, for the units the work is for. Of a step
// that takes something off it says whether that came off at all: whether it has to be off now hangs on what is behind
// it, and is the plan's to say.
func (a *Account) Stands(step string, now Pair) bool {
	told, ok := a.Acts[step]
	act := Find(step)
	switch {
	case act != nil && a.passedBy(act):
		return true
	case act != nil && act.Takes() && a.TookOff(act.Thing) && (!ok || !told.NotHere):
		return !letIn[act.Thing] && act.Thing != Power && act.Thing != Plug || ok && !told.Unproven
	case !ok || told.Unproven:
		return false
	case told.NotHere:
		return a.MayBeAbsent(step)
	case act == nil:
		return true
	case act.Of == OfCylinder && told.Of.Cylinder != now.Cylinder,
		act.Of == OfBooster && told.Of.Booster != now.Booster,
		act.Of == OfPair && told.Of != now:
		return false
	case act.Takes():
		return true
	}
	return a.settled(act.Thing) <= told.Seq && !slices.ContainsFunc(act.After, func(t Thing) bool { return a.changedSince(t, told.Seq) })
}

// settled is when a thing was last opened, loosened or moved, or was seen not to be where it belongs.
func (a *Account) settled(t Thing) int64 {
	if l, looked := a.Looked[t]; looked && l.State != Back {
		return max(a.Moved[t], l.Seq)
	}
	return a.Moved[t]
}

// passedBy says whether an act has become needless: what is tight was started; the booster's mouth is behind the
// cylinder again.
func (a *Account) passedBy(act *Act) bool {
	switch {
	case act.To == Started:
		s := a.StateOf(act.Thing) // a line that was cracked is snug
		return s == Back || s == Loose && a.onSince(act.Thing)
	case act.Thing == Mouth:
		return a.Touched(Cylinder) && a.StateOf(Cylinder) == Back
	}
	return false
}

// onSince says whether a thing was started or made tight after it last came off.
func (a *Account) onSince(t Thing) bool {
	for _, x := range byThing[t] {
		if told, ok := a.Acts[x.Step]; ok && !x.Takes() && told.Seq > a.CameOff[t].Seq {
			return true
		}
	}
	return false
}

// changedSince says whether a thing came off, was let go or was made anew after a moment.
func (a *Account) changedSince(t Thing, seq int64) bool {
	switch t {
	case Power, Plug, Fluid:
		return a.Moved[t] > seq
	}
	return a.CameOff[t].Seq > seq || isMade[t] && a.Epochs[t].Seq > seq
}

// isMade are the things that acts only ever make sure of.
var isMade = func() map[Thing]bool {
	out := map[Thing]bool{}
	for _, e := range Things {
		out[e.Thing] = !slices.Contains(e.States, Off) && slices.Contains(e.States, Done)
	}
	return out
}()

// On is which units the fitting acts put on the vehicle; "" is its own.
func (a *Account) On() Pair {
	var out Pair
	for _, step := range []string{"fit.cylinder_nuts", "fit.actuator_bolts"} {
		if told, ok := a.Acts[step]; ok && !told.NotHere {
			out.Cylinder = told.Of.Cylinder
		}
	}
	if told, ok := a.Acts["fit.firewall_nuts"]; ok && !told.NotHere {
		out.Booster = told.Of.Booster
	}
	return out
}

// KilledBy gives the change that came after a finding was read and touches what it speaks of: after it in the order of
// hands, by the clock of whoever made it, or made by somebody else whose log the reader had not seen (base, the head
// they had; 0 unknown).
func (a *Account) KilledBy(id string, read When, base int64) (Change, bool) {
	ev := EvidenceOf(id)
	if ev == nil {
		return Change{}, false
	}
	var last Change
	look := func(c Change) {
		late := c.Seq > read.Seq ||
			c.Seq > 0 && c.Seq < read.Seq && (c.At.After(read.At) && c.By != read.By || base > 0 && c.Arrived > base && c.By != read.By)
		if late && c.Seq > last.Seq {
			last = c
		}
	}
	look(a.Road)
	if ev.Everything {
		look(a.Last)
		for _, c := range a.LastBy {
			look(c)
		}
	}
	for _, t := range ev.Of {
		look(a.Epochs[t])
		for _, by := range a.EpochBy {
			look(by[t])
		}
	}
	return last, last.Seq > 0
}

// BackSince says whether a thing was made fast or sure of after a moment, BackBetween whether that was before another
// one.
func (a *Account) BackSince(t Thing, seq int64) bool { return a.BackBetween(t, seq, math.MaxInt64) }

// BackBetween is BackSince up to a moment.
func (a *Account) BackBetween(t Thing, from, to int64) bool {
	return a.backBetween(t, from, to, func(*Act) bool { return true })
}

// backBetween is the same by acts of a sort.
func (a *Account) backBetween(t Thing, from, to int64, sort func(*Act) bool) bool {
	for _, x := range byThing[t] {
		if told, ok := a.Acts[x.Step]; ok && sort(x) && !x.Takes() && x.To != Started && !told.Unproven && told.Seq > from &&
			told.Seq < to {
			return true
		}
	}
	return false
}

// TakenSince says whether a thing came off after a moment.
func (a *Account) TakenSince(t Thing, seq int64) bool { return a.CameOff[t].Seq > seq }

// Since is when anything a finding speaks of last changed before it was read; zero where nothing has.
func (a *Account) Since(id string, seq int64) When {
	ev := EvidenceOf(id)
	if ev == nil {
		return When{}
	}
	var last When
	look := func(c Change) {
		if c.Seq <= seq && c.Seq > last.Seq {
			last = c.When
		}
	}
	look(a.Road)
	if ev.Everything {
		look(a.Last)
	}
	for _, t := range ev.Of {
		look(a.Epochs[t])
	}
	return last
}

// Standing is one thing as it is told.
type Standing struct {
	Thing Thing     `json:"thing"`
	State State     `json:"state"`
	Epoch int64     `json:"epoch"` // seq of the event that last changed it, 0 as found
	What  string    `json:"what,omitempty"`
	At    time.Time `json:"at,omitzero"`
}

// Standings lists the things that are not as found.
func (a *Account) Standings() []Standing {
	out := []Standing{}
	for _, e := range Things {
		s, c := a.StateOf(e.Thing), a.Epochs[e.Thing]
		if s == AsFound && c.Seq == 0 {
			continue
		}
		out = append(out, Standing{Thing: e.Thing, State: s, Epoch: max(c.Seq, a.Moved[e.Thing]), What: c.What, At: c.At})
	}
	slices.SortStableFunc(out, func(x, y Standing) int { return cmp.Compare(x.Epoch, y.Epoch) })
	return out
}
