package job

import (
	"slices"
	"time"

	"geminate/brake/bleed"
	"geminate/brake/ledger"
	"geminate/brake/plan"
	"geminate/brake/verify"
)

// The facts of bleeding: what was moved through which wheel and how, what was filled and drawn off, what was seen.

// WheelLog is a wheel as worked so far, beside what went through it.
type WheelLog struct {
	// Round counts how often it was begun: 1 at the first opening, more when bubbles came back or air went in.
	Round int `json:"round"`
	// BegunAt and DoneAt are when it was first opened and last seen to run clear; Method is how.
	BegunAt time.Time    `json:"begun_at,omitzero"`
	DoneAt  time.Time    `json:"done_at,omitzero"`
	Method  bleed.Method `json:"method,omitempty"`
	// ClearRow is how often in a row it ran clear, ClearAt what had gone through then.
	ClearRow int     `json:"clear_row"`
	ClearAt  float64 `json:"clear_at_cm3"`
	// Lost are the openings that did not count: the foot came up.
	Lost int `json:"lost,omitempty"`
	// Left says why it is left undone; "" where it is not.
	Left     LeftWhy `json:"left,omitempty"`
	LeftNote string  `json:"left_note,omitempty"`
}

// LeftWhy is why a wheel is left undone.
type LeftWhy string

// Reasons.
const (
	LeftSeized   LeftWhy = "seized"
	LeftDeferred LeftWhy = "deferred"
	LeftOther    LeftWhy = "other"
)

// LeftWhys lists them.
var LeftWhys = []LeftWhy{LeftSeized, LeftDeferred, LeftOther}

// ── the fluid ──

// moves adds to what was moved. Two draws at the same wheel one after the other are one.
func (s *State) moves(events ...ledger.Event) {
	next := slices.Clone(s.Moves)
	for _, e := range events {
		if n := len(next); n > 0 && e.Wheel != "" && next[n-1].Kind == e.Kind && next[n-1].Wheel == e.Wheel && next[n-1].CM3+e.CM3 <= mostCM3 {
			next[n-1].CM3 += e.CM3
			continue
		}
		next = append(next, e)
	}
	s.Moves = next
}

// run puts what was moved into a ledger. What a system that was changed since no longer has is passed over.
func (s *State) run(l *ledger.Ledger) *ledger.Ledger {
	for _, e := range s.Moves {
		_ = l.Apply(e)
	}
	return l
}

// fluid is the ledger as it stands, old and new.
func (j *Job) fluid() *ledger.Ledger { return j.State.run(ledger.New(j.Fitted())) }

// levels is the same for what stands in the reservoir alone.
func (j *Job) levels() *ledger.Ledger { return j.State.run(ledger.Levels(j.Fitted())) }

// fluidOf is what ticking a step of the plan moves: the reservoir drawn off, the new cylinder on with what it was bench
// bled with, the reservoir filled. A reservoir that comes with the unit is empty until it is filled.
func (j *Job) fluidOf(step string) []ledger.Event {
	switch step {
	case "safe.empty_reservoir":
		return []ledger.Event{{Kind: ledger.KindDrain}}
	case "fit.cylinder_nuts", "fit.actuator_bolts":
		if !j.Choices.Scope.FitsCylinder() {
			return nil
		}
		out := []ledger.Event{{Kind: ledger.KindNewCylinder}}
		if p, err := j.Plan(); err == nil && !slices.Contains(p.Present, plan.ReservoirMoves) {
			nothing := 0.0
			out = append(out, ledger.Event{Kind: ledger.KindDrain, LeftCM3: &nothing})
		}
		return out
	case "close.fill":
		return []ledger.Event{{Kind: ledger.KindFill}}
	}
	return nil
}

// ── events ──

// BleedStroked is strokes of the foot with one bleeder open. What they moved is settled when they are stored:
// nothing that is chosen later rewrites it.
type BleedStroked struct {
	Wheel    string       `json:"wheel"`
	Strokes  int          `json:"strokes,omitempty"`
	Method   bleed.Method `json:"method,omitempty"`
	StrokeMM float64      `json:"stroke_mm,omitempty"`
	CM3      float64      `json:"cm3,omitempty"`
	// Round is which visit of the wheel this is; a programme may send one round to it again. LevelCM3 is what stood in
	// its tank before. Jobs from before the fluid was followed have neither.
	Round    int      `json:"round,omitempty"`
	LevelCM3 *float64 `json:"level_cm3,omitempty"`
}

// Valid implements Body.
func (b *BleedStroked) Valid() error {
	if err := inRange("$.data.strokes", float64(b.Strokes), 0, mostStrokes); err != nil {
		return err
	}
	if err := inRange("$.data.cm3", b.CM3, 0, mostCM3*mostStrokes); err != nil {
		return err
	}
	return text("$.data.wheel", b.Wheel, nameMost)
}

// Check implements Body.
func (b *BleedStroked) Check(j *Job) error { return j.checkWheel(b.Wheel) }

// Settle works out what the strokes moved.
func (b *BleedStroked) Settle(j *Job) {
	b.Method, b.StrokeMM, b.CM3 = j.method(), j.Choices.Bleed.StrokeMM, 0
	s := j.Fitted()
	if s.Wheel(b.Wheel) == nil {
		return
	}
	level, _, _ := j.levels().Level(s.CircuitOf(b.Wheel))
	b.LevelCM3, b.Round = &level, j.visit(b.Wheel)
	if v, err := bleed.StrokeCM3(s, s.CircuitOf(b.Wheel), b.StrokeMM); err == nil && b.Method.Strokes() {
		b.CM3 = v * float64(max(1, b.Strokes))
	}
}

// Apply implements Body.
func (b *BleedStroked) Apply(j *Job, e *Event) {
	j.begin(b.Wheel, b.Round, b.LevelCM3 == nil, b.Method, e.At)
	j.State.BleedStrokes[b.Wheel] += max(1, b.Strokes)
	j.moved(b.Wheel, b.Method, b.CM3, e)
}

// VolumeMoved is fluid carried through a bleeder by a method without strokes.
type VolumeMoved struct {
	Wheel     string       `json:"wheel"`
	VolumeCM3 float64      `json:"volume_cm3"`
	Method    bleed.Method `json:"method,omitempty"`
	Round     int          `json:"round,omitempty"`
	LevelCM3  *float64     `json:"level_cm3,omitempty"`
}

// Valid implements Body.
func (v *VolumeMoved) Valid() error {
	if err := inRange("$.data.volume_cm3", v.VolumeCM3, 0, mostCM3); err != nil {
		return err
	}
	return text("$.data.wheel", v.Wheel, nameMost)
}

// Check implements Body.
func (v *VolumeMoved) Check(j *Job) error { return j.checkWheel(v.Wheel) }

// Settle keeps the method of the moment.
func (v *VolumeMoved) Settle(j *Job) {
	v.Method = j.method()
	level, _, _ := j.levels().Level(j.Intake.System.CircuitOf(v.Wheel))
	v.LevelCM3, v.Round = &level, j.visit(v.Wheel)
}

// Apply implements Body.
func (v *VolumeMoved) Apply(j *Job, e *Event) {
	j.begin(v.Wheel, v.Round, v.LevelCM3 == nil, v.Method, e.At)
	j.moved(v.Wheel, v.Method, v.VolumeCM3, e)
}

func (j *Job) checkWheel(id string) error {
	if j.Intake.System.Wheel(id) == nil {
		return fault("$.data.wheel", "fault.no_such_wheel", map[string]any{"value": clip(id)})
	}
	return nil
}

// begin opens a wheel, for the first time or in a later round. old marks a job from before the fluid was followed.
func (j *Job) begin(wheel string, round int, old bool, m bleed.Method, at time.Time) {
	st := &j.State
	st.OldFluid = st.OldFluid || old
	log := st.Wheels[wheel]
	log.Left, log.LeftNote = "", ""
	if log.Round == 0 {
		log.Round = 1
	}
	if log.BegunAt.IsZero() {
		log.BegunAt = at
	}
	log.Method = m
	st.setWheel(wheel, log)
	if round > log.Round {
		st.again(wheel, round)
	}
}

func (s *State) setWheel(id string, log WheelLog) {
	if s.Wheels == nil {
		s.Wheels = map[string]WheelLog{}
	}
	s.Wheels[id] = log
}

// again begins a wheel anew: what went through it before counts for its fluid, not for its air.
func (s *State) again(wheel string, round int) {
	delete(s.BleedCM3, wheel)
	delete(s.BleedStrokes, wheel)
	delete(s.Clear, wheel)
	log := s.Wheels[wheel]
	log.Round, log.ClearRow, log.ClearAt = round, 0, 0
	s.setWheel(wheel, log)
}

// moved takes fluid through a wheel and out of the reservoir (reverse: into it). Where the level falls to the
// lowest port, air goes in from the cylinder on: that circuit's wheels have to be done again, and the modulator, where
// there is one, has air.
func (j *Job) moved(wheel string, m bleed.Method, cm3 float64, e *Event) {
	st := &j.State
	st.counted("bleed", e)
	j.worked(e, string(e.Kind), verify.WorkLine)
	s := j.Intake.System
	if s == nil || s.Wheel(wheel) == nil {
		return
	}
	move := ledger.Event{Kind: ledger.KindDraw, Wheel: wheel, CM3: cm3}
	if m == bleed.Reverse {
		move.Kind = ledger.KindPush
	}
	st.BleedCM3[wheel] += cm3
	l := j.levels()
	wasDry, over := slices.Clone(l.Dry()), l.Over()
	if l.Apply(move) != nil {
		return
	}
	st.moves(move)
	circuit := s.CircuitOf(wheel)
	level, _, lowest := l.Level(circuit)
	ranDry := slices.Contains(l.Dry(), circuit) && (!slices.Contains(wasDry, circuit) || move.Kind == ledger.KindDraw && level <= lowest+1e-9 && cm3 > 0)
	if move.Kind == ledger.KindDraw && st.OldFluid {
		ranDry = ranDry || level <= lowest+1e-9
	}
	if l.Over() > over+1e-9 {
		st.Spilled = true
	}
	if !ranDry {
		return
	}
	st.Dry[circuit] = true
	if c := s.Circuit(circuit); c != nil {
		for _, w := range c.Wheels {
			if round := st.Wheels[w].Round; round > 0 {
				st.again(w, round)
			}
		}
	}
	if s.Modulator != nil {
		st.ModulatorAir = true
		delete(st.BleedSteps, string(bleed.StepRoutine))
	}
}
