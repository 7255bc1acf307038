package job

import (
	"math"
	"slices"
	"time"

	"geminate/brake/bleed"
	"geminate/brake/fluid"
	"geminate/brake/ledger"
	"geminate/brake/match"
	"geminate/brake/plan"
	"geminate/brake/stand"
	"geminate/brake/trace"
)

// The facts of bleeding: what was moved through which wheel and how, what was filled and drawn off, what was seen.

// WheelLog is a wheel as worked so far, beside what went through it.
type WheelLog struct {
	// BegunAt and DoneAt are when it was first opened and last seen to run clear; Method is how.
	BegunAt time.Time    `json:"begun_at,omitzero"`
	DoneAt  time.Time    `json:"done_at,omitzero"`
	Method  bleed.Method `json:"method,omitempty"`
	// LastAt is when something was last done at it.
	LastAt time.Time `json:"last_at,omitzero"`
	// Left says why it is left undone; "" where it is not.
	Left     LeftWhy `json:"left,omitempty"`
	LeftNote string  `json:"left_note,omitempty"`
	// WeighedCM3 is what a scale said of strokes that were weighed, CountedCM3 what the same strokes come to by the
	// count.
	WeighedCM3 float64 `json:"weighed_cm3,omitzero"`
	CountedCM3 float64 `json:"counted_cm3,omitzero"`
	// DoubtfulG is what the last stroke weighed, where that is more than it can have brought.
	DoubtfulG float64 `json:"doubtful_g,omitzero"`
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
		if n := len(next); n > 0 && e.Wheel != "" && next[n-1].Kind == e.Kind && next[n-1].Wheel == e.Wheel && next[n-1].Fed == e.Fed &&
			next[n-1].CM3+e.CM3 <= mostCM3 {
			next[n-1].CM3 += e.CM3
			continue
		}
		next = append(next, e)
	}
	s.Moves = next
}

// fluid is the ledger as it stands, old and new.
func (j *Job) fluid() *ledger.Ledger { return j.wetted(false, ledger.New) }

// levels is the same for what stands in the reservoir alone.
func (j *Job) levels() *ledger.Ledger { return j.wetted(true, ledger.Levels) }

// fluidOf is what ticking a step of the plan moves: the reservoir drawn off, the new cylinder on with what it was bench
// bled with, the reservoir filled. A reservoir that comes with the unit is empty until it is filled.
func (j *Job) fluidOf(step string) []ledger.Event {
	switch step {
	case "safe.empty_reservoir":
		return []ledger.Event{{Kind: ledger.KindDrain}}
	case "fit.cylinder_nuts", "fit.actuator_bolts":
		if !j.scope().FitsCylinder() {
			return nil
		}
		out := []ledger.Event{{Kind: ledger.KindNewCylinder, Dry: j.dryCylinder()}}
		if p, err := j.Plan(); err == nil && !slices.Contains(p.Present, plan.ReservoirMoves) {
			nothing := 0.0
			out = append(out, ledger.Event{Kind: ledger.KindDrain, LeftCM3: &nothing})
		}
		return out
	case "fit.firewall_nuts": // an electro-hydraulic unit comes dry, and its reservoir was emptied for it
		if j.scope() == match.ElectroUnit {
			return []ledger.Event{{Kind: ledger.KindNewCylinder}}
		}
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
	// Fed: a feed bottle stood on the reservoir.
	Fed bool `json:"fed,omitempty"`
	// Weighed is what these strokes brought by the scale under the catch bottle; what they moved is that then, and not
	// their count.
	Weighed *Weighed `json:"weighed,omitempty"`
	// Measured is the foot switch that counted them, where nobody tapped.
	Measured *Measured `json:"measured,omitempty"`
}

// Weighed is fluid on a scale.
type Weighed struct {
	Grams   float64  `json:"grams"`
	Celsius *float64 `json:"celsius,omitempty"` // of the fluid; 20 where nobody measured
	By      Measured `json:"by"`
	// CountedCM3 is what the count alone comes to: settled when it is stored.
	CountedCM3 float64 `json:"counted_cm3,omitempty"`
	// Doubtful: more than the piston can have brought. It is kept, and what moved is what was counted.
	Doubtful bool `json:"doubtful,omitempty"`
}

// roomShare is by how much strokes may weigh more than the piston's whole way brings, for what such a scale and a bore
// differ. Assumption.
const roomShare = 1.15

// plausible says whether so much can have come of strokes at a wheel: a whole way of the piston each, one more for what
// the scale was late with, and in all no more than was counted there and a stroke.
func (w *WheelLog) plausible(cm3, countedCM3, wholeCM3 float64, strokes int) bool {
	return cm3 <= roomShare*wholeCM3*float64(strokes+1) && w.WeighedCM3+cm3 <= roomShare*(w.CountedCM3+countedCM3)+wholeCM3
}

// CM3 is its volume by the density of the fluid's class.
func (w *Weighed) CM3(class string) float64 {
	celsius := 20.0
	if w.Celsius != nil {
		celsius = *w.Celsius
	}
	c, err := fluid.Find(class)
	return trace.CM3OfGrams(w.Grams, celsius, err == nil && c.Base == "silicone")
}

func (w *Weighed) valid() error {
	if w == nil {
		return nil
	}
	if err := inRange("$.data.weighed.grams", w.Grams, 0, mostCM3); err != nil {
		return err
	}
	if w.Celsius != nil {
		if err := inRange("$.data.weighed.celsius", *w.Celsius, -40, 120); err != nil {
			return err
		}
	}
	if w.By.Kind != trace.Scale {
		return fault("$.data.weighed.by.kind", "fault.scale_kind", nil)
	}
	return w.By.valid()
}

// Valid implements Body.
func (b *BleedStroked) Valid() error {
	for _, err := range []error{b.Weighed.valid(), b.Measured.valid()} {
		if err != nil {
			return err
		}
	}
	if err := inRange("$.data.strokes", float64(b.Strokes), 0, mostStrokes); err != nil {
		return err
	}
	if err := inRange("$.data.cm3", b.CM3, 0, mostCM3*mostStrokes); err != nil {
		return err
	}
	return text("$.data.wheel", b.Wheel, nameMost)
}

// Check implements Body.
func (b *BleedStroked) Check(j *Job) error { return j.checkOpening(b.Wheel) }

// CheckAt: so many strokes take their time, and a count made in the head is told after it, not before.
func (b *BleedStroked) CheckAt(j *Job, at time.Time) error {
	return j.checkPace(b.Strokes, j.State.Wheels[b.Wheel].LastAt, at)
}

// Settle works out what the strokes moved.
func (b *BleedStroked) Settle(j *Job) {
	b.Method, b.StrokeMM, b.CM3 = j.method(), j.Choices.Bleed.StrokeMM, 0
	if !b.Method.Strokes() { // a foot is a foot, whatever way was chosen: the fluid goes down
		b.Method = bleed.Pedal
	}
	b.Fed = j.fed(b.Method)
	s := j.Fitted()
	if s.Wheel(b.Wheel) == nil {
		return
	}
	level, _, _ := j.levels().Level(s.CircuitOf(b.Wheel))
	b.LevelCM3, b.Round = &level, j.round(b.Wheel)
	if v, err := bleed.StrokeCM3(s, s.CircuitOf(b.Wheel), b.StrokeMM); err == nil && b.Method.Strokes() {
		b.CM3 = v * float64(max(1, b.Strokes))
		if b.Weighed != nil {
			log, cm3 := j.State.Wheels[b.Wheel], b.Weighed.CM3(s.Fluid.Class)
			whole, err := bleed.StrokeCM3(s, s.CircuitOf(b.Wheel), math.MaxFloat64) // the whole way
			b.Weighed.CountedCM3 = b.CM3
			if b.Weighed.Doubtful = err != nil || !log.plausible(cm3, b.CM3, max(whole, v), max(1, b.Strokes)); !b.Weighed.Doubtful {
				b.CM3 = cm3
			}
		}
	}
}

// Apply implements Body.
func (b *BleedStroked) Apply(j *Job, e *Event) {
	j.begin(b.Wheel, b.LevelCM3 == nil, b.Method, e)
	j.account().Took(strokeLeastS * float64(max(1, b.Strokes)))
	j.moved(b.Wheel, opening{method: b.Method, cm3: b.CM3, strokes: max(1, b.Strokes), fed: b.Fed}, e)
	log := j.State.Wheels[b.Wheel]
	if log.DoubtfulG = 0; b.Weighed != nil && b.Weighed.Doubtful {
		log.DoubtfulG = b.Weighed.Grams
	}
	j.State.setWheel(b.Wheel, log)
	if b.Weighed != nil && !b.Weighed.Doubtful {
		log.WeighedCM3, log.CountedCM3 = log.WeighedCM3+b.CM3, log.CountedCM3+b.Weighed.CountedCM3
		j.State.setWheel(b.Wheel, log)
	}
}

// lateShare is how far a scale may be behind the foot besides, as a share of all that was counted. Assumption.
const lateShare = 0.05

// disagrees says whether count and scale differ by more than a stroke and what the scale is late with, which is one
// more: joined by volume, not by moments. Else the bleeder was not open, a stroke was short, the bottle was knocked, or
// it was counted wrong.
func (w *WheelLog) disagrees(strokeCM3 float64) bool {
	return w.CountedCM3 > 0 && math.Abs(w.WeighedCM3-w.CountedCM3) > 2*strokeCM3+lateShare*w.CountedCM3
}

// VolumeMoved is fluid carried through a bleeder by a method without strokes.
type VolumeMoved struct {
	Wheel     string       `json:"wheel"`
	VolumeCM3 float64      `json:"volume_cm3"`
	Method    bleed.Method `json:"method,omitempty"`
	Round     int          `json:"round,omitempty"`
	LevelCM3  *float64     `json:"level_cm3,omitempty"`
	Fed       bool         `json:"fed,omitempty"`
}

// Valid implements Body.
func (v *VolumeMoved) Valid() error {
	if err := inRange("$.data.volume_cm3", v.VolumeCM3, 0, mostCM3); err != nil {
		return err
	}
	return text("$.data.wheel", v.Wheel, nameMost)
}

// Check implements Body.
func (v *VolumeMoved) Check(j *Job) error { return j.checkOpening(v.Wheel) }

// flowMostCM3S is the most that leaves a bleeder whatever moves it, cm³/s: a pressure pot at an open screw brings some
// third of that. Assumption.
const flowMostCM3S = 10.0

// CheckAt: so much takes its time, told of a pot or a bottle as of a foot.
func (v *VolumeMoved) CheckAt(j *Job, at time.Time) error {
	if j.Intake.Practice {
		return nil
	}
	last := j.State.Wheels[v.Wheel].LastAt
	if last.IsZero() {
		last = j.CreatedAt
	}
	if took, least := at.Sub(last).Seconds(), v.VolumeCM3/flowMostCM3S; took < least {
		return fault("$.data.volume_cm3", "fault.too_fast_volume",
			map[string]any{"least_s": math.Ceil(least), "seconds": math.Max(0, math.Round(took))})
	}
	return nil
}

// Settle keeps the method of the moment.
func (v *VolumeMoved) Settle(j *Job) {
	v.Method = j.method()
	v.Fed = j.fed(v.Method)
	level, _, _ := j.levels().Level(j.Intake.System.CircuitOf(v.Wheel))
	v.LevelCM3, v.Round = &level, j.round(v.Wheel)
}

// Apply implements Body.
func (v *VolumeMoved) Apply(j *Job, e *Event) {
	j.begin(v.Wheel, v.LevelCM3 == nil, v.Method, e)
	j.account().Took(v.VolumeCM3 / flowMostCM3S)
	j.moved(v.Wheel, opening{method: v.Method, cm3: v.VolumeCM3, fed: v.Fed}, e)
}

func (j *Job) checkWheel(id string) error {
	if j.Intake.System.Wheel(id) == nil {
		return fault("$.data.wheel", "fault.no_such_wheel", map[string]any{"value": clip(id)})
	}
	return nil
}

// strokeLeastS is what a stroke takes at the least, s: "a stroke a second or so". Assumption.
const strokeLeastS = 1.0

// checkPace says whether so many strokes fit between the last thing done there and a moment. Single taps are told apart
// by their gap (LeastGapS) where they are made.
func (j *Job) checkPace(strokes int, last, at time.Time) error {
	if j.Intake.Practice { // its minutes are the vehicle's, not the clock's
		return nil
	}
	if last.IsZero() {
		last = j.CreatedAt
	}
	if took := at.Sub(last).Seconds(); strokes > 1 && took < strokeLeastS*float64(strokes) {
		return fault("$.data.strokes", "fault.too_fast", map[string]any{"count": strokes, "seconds": math.Max(0, math.Round(took))})
	}
	return nil
}

// checkOpening: what is open elsewhere lets no fluid through here, and a tool's pump needs its power.
func (j *Job) checkOpening(wheel string) error {
	if err := j.checkWheel(wheel); err != nil {
		return err
	}
	if missing := j.openingMissing(); len(missing) > 0 {
		return ErrGate{missing}
	}
	return nil
}

// openingMissing are the steps that have to stand before a bleeder is opened: what is off or only caught by its thread
// elsewhere lets the fluid out there, and a tool's pump needs its power.
func (j *Job) openingMissing() (missing []string) {
	a := j.account()
	for _, c := range []struct {
		thing stand.Thing
		step  string
	}{{stand.Lines, "fit.line_nuts"}, {stand.RemoteHoses, "fit.remote_hoses"}, {stand.ModulatorLines, "fit.modulator_lines"}, {stand.Cylinder, "fit.cylinder_nuts"}, {stand.ActuatorBolts, "fit.actuator_bolts"}} {
		if s := a.StateOf(c.thing); s == stand.Off || s == stand.Started {
			missing = append(missing, c.step)
		}
	}
	if j.method() == bleed.ScanTool {
		missing = append(missing, j.unpowered()...)
	}
	return missing
}

// unpowered are the steps that give back the power something needs: the service plug, the negative terminal, a battery.
func (j *Job) unpowered() (missing []string) {
	a := j.account()
	for _, c := range []struct {
		thing stand.Thing
		step  string
	}{{stand.MainConnector, "fit.main_connector"}, {stand.Plug, "close.service_plug"}, {stand.Power, "close.negative_on"}, {stand.Batteries, "close.batteries_on"}} {
		if a.StateOf(c.thing) == stand.Off {
			missing = append(missing, c.step)
		}
	}
	return missing
}

// begin opens a wheel.
func (j *Job) begin(wheel string, old bool, m bleed.Method, e *Event) {
	st := &j.State
	st.OldFluid = st.OldFluid || old
	log := st.Wheels[wheel]
	j.stoodSince(e)
	log.Left, log.LeftNote = "", ""
	if log.BegunAt.IsZero() {
		log.BegunAt = e.At
	}
	j.account().Change(e.when(), string(e.Kind), stand.RoadWheels) // as often as not it is reached with the wheel off, each round anew
	log.Method, log.LastAt = m, e.At
	st.setWheel(wheel, log)
}

// bleedPauseMost is how long a bleed may rest for its looks to be in a row: overnight air gathers, levels fall, another
// has been at it. Assumption.
const bleedPauseMost = 12 * time.Hour

// stoodSince: after a long pause in a bleed the reservoir is looked at anew, and clear looks from before it are none in
// a row.
func (j *Job) stoodSince(e *Event) {
	last := time.Time{}
	for _, w := range j.State.Wheels {
		if w.LastAt.After(last) {
			last = w.LastAt
		}
	}
	if last.IsZero() || e.At.Sub(last) < bleedPauseMost {
		return
	}
	j.State.StoodDays = max(j.State.StoodDays, 1, int(e.At.Sub(last).Hours()/24))
	j.account().Paused()
}

// round is which round of a wheel the next opening belongs to.
func (j *Job) round(wheel string) int {
	w := j.account().Wheels[wheel]
	return max(1, w.Round())
}

func (s *State) setWheel(id string, log WheelLog) {
	if s.Wheels == nil {
		s.Wheels = map[string]WheelLog{}
	}
	s.Wheels[id] = log
}

// fed says whether the reservoir keeps full by itself: a bottle stands on it, and nothing is pushed up.
func (j *Job) fed(m bleed.Method) bool { return j.Choices.Bleed.FeedBottle && m != bleed.Reverse }

// opening is what went through an open bleeder.
type opening struct {
	method  bleed.Method
	cm3     float64
	strokes int
	fed     bool
	// lost: it washed nothing and carried nothing out.
	lost bool
}

// moved takes fluid through a wheel and out of the reservoir (reverse: into it). Where the level falls to the
// lowest port, air goes in from the cylinder on: that circuit's wheels have to be done again, and the modulator, where
// there is one, has air.
func (j *Job) moved(wheel string, o opening, e *Event) {
	st, cm3 := &j.State, o.cm3
	st.counted("bleed", e)
	j.worked(e, string(e.Kind), movedThings...)
	j.account().Move(e.when(), movedThings...)
	s := j.Intake.System
	if s == nil || s.Wheel(wheel) == nil {
		return
	}
	st.BleedCM3[wheel] += cm3
	st.BleedStrokes[wheel] += o.strokes
	j.account().Through(e.place, wheel, cm3, o.strokes)
	j.drew(wheel, o, e)
}

// drew takes it out of the reservoir, or up into it. Where the level falls to the lowest port air goes in from the
// cylinder on.
func (j *Job) drew(wheel string, o opening, e *Event) {
	st, s, cm3 := &j.State, j.Intake.System, o.cm3
	if o.method == bleed.Reverse && !o.lost {
		j.pushes()
	}
	move := ledger.Event{Kind: ledger.KindDraw, Wheel: wheel, CM3: cm3, Fed: o.fed}
	switch {
	case o.lost:
		move.Kind = ledger.KindLost
	case o.method == bleed.Reverse:
		move.Kind = ledger.KindPush
	}
	l := j.levels()
	wasDry, over := slices.Clone(l.Dry()), l.Over()
	if l.Apply(move) != nil {
		return
	}
	st.moves(move)
	circuit := s.CircuitOf(wheel)
	level, _, lowest := l.Level(circuit)
	ranDry := slices.Contains(l.Dry(), circuit) &&
		(!slices.Contains(wasDry, circuit) || move.Kind != ledger.KindPush && level <= lowest+1e-9 && cm3 > 0)
	if move.Kind == ledger.KindDraw && st.OldFluid {
		ranDry = ranDry || level <= lowest+1e-9
	}
	if l.Over() > over+1e-9 {
		st.Spilled = true
	}
	if ranDry {
		j.ranDry(circuit, e)
	}
}

// ranDry is a circuit whose tank fell to its lowest port: air from its cylinder on, and in the modulator where there is
// one.
func (j *Job) ranDry(circuit string, e *Event) {
	j.State.Dry[circuit] = true
	j.airFromCylinder(e.place, "ran_dry", circuit)
	j.account().Move(e.when(), stand.Bench)
	if j.Intake.System.Modulator != nil {
		j.State.ModulatorAir = true
		j.State.dropBleedStep(bleed.StepRoutine)
	}
}
