package job

import (
	"math"
	"slices"

	"geminate/brake/bleed"
	"geminate/brake/ledger"
	"geminate/brake/match"
	"geminate/brake/stand"
	"geminate/brake/system"
)

// BleedView is the Bleed station.
type BleedView struct {
	Applies bool                  `json:"applies"`
	Why     string                `json:"why,omitempty"`
	Purpose bleed.Purpose         `json:"purpose"`
	Method  bleed.Method          `json:"method"`
	Entry   *bleed.Entry          `json:"entry"`
	Plan    *bleed.Plan           `json:"plan"` // from where the fluid stands: what is left to do
	Steps   []BleedStep           `json:"steps"`
	Wheels  map[string]WheelState `json:"wheels"`
	Current string                `json:"current"` // wheel to work at, "" when none
	Now     bleed.StepID          `json:"now"`     // the step in hand, "" when done
	// Level, full mark and lowest port of the tank the current wheel draws from; the level it is filled at.
	LevelCM3  float64 `json:"level_cm3"`
	FullCM3   float64 `json:"full_cm3"`
	LowestCM3 float64 `json:"lowest_cm3"`
	KeepCM3   float64 `json:"keep_cm3"`
	RefillIn  int     `json:"refill_in_strokes"` // before the reservoir must be filled; −1 where strokes do not count
	RefillNow bool    `json:"refill_now"`
	// DrawDownNow: more would come over the brim. DrawDownTo is the mark, of the whole.
	DrawDownNow bool    `json:"draw_down_now"`
	DrawDownTo  float64 `json:"draw_down_to_cm3"`
	// LowNow: by what was moved some tank stands under the level it is filled at.
	LowNow  bool    `json:"low_now"`
	UsedCM3 float64 `json:"used_cm3"`
	RanDry  bool    `json:"ran_dry"` // the level fell to the lowest port: air went in
	Spilled bool    `json:"spilled"`
	// Fluid is where the old and the new are, for the drawing.
	Fluid      FluidNow `json:"fluid"`
	OpenWheels []string `json:"open_wheels"`
	LeftWheels []string `json:"left_wheels"` // left undone, with a reason
	Gone       []string `json:"gone"`        // worked at, and no longer in the system
	StepsLeft  []string `json:"steps_left"`  // beside the wheels
	// Cannot says why this cannot be ended here with these means.
	Cannot  string        `json:"cannot,omitempty"`
	Offers  []bleed.Offer `json:"offers"`
	Minutes float64       `json:"minutes"` // left
	// Need is the fluid the whole of it takes: the same figure as at Match.
	Need   match.FluidNeed `json:"need"`
	Bottle BottleView      `json:"bottle"`
	// LeastGapS is the time under which a second tap is the same stroke.
	LeastGapS float64 `json:"least_gap_s"`
	// Steering are the cycles of the steering side where there is one to bleed.
	Steering     []SteeringCycle `json:"steering"`
	SteeringSide bool            `json:"steering_side"`
	SteeringGood bool            `json:"steering_good"`
	// LeftWhys are the reasons a wheel may be left for.
	LeftWhys []LeftWhy `json:"left_whys"`
}

// strokeGapS: no foot or hand makes two slow strokes in this time; a glove that bounces does. Assumption.
const strokeGapS = 0.4

// WheelState is a wheel as worked so far.
type WheelState struct {
	Strokes int     `json:"strokes"` // of this round
	Needed  int     `json:"needed"`  // strokes in all: those made and those left; 0 where strokes do not count
	CM3     float64 `json:"cm3"`     // of this round
	// TotalStrokes and TotalCM3 are of all rounds; Rounds every one with what was seen.
	TotalStrokes int           `json:"total_strokes"`
	TotalCM3     float64       `json:"total_cm3"`
	Rounds       []stand.Round `json:"rounds"`
	// AirLeftCM3 is what still has to leave its bleeder for the air that may be on the way.
	AirLeftCM3 float64 `json:"air_left_cm3"`
	LeftCM3    float64 `json:"left_cm3"` // to go
	Old        float64 `json:"old"`      // share of old fluid in what leaves now
	Clear      bool    `json:"clear"`    // the last opening ran clear
	ClearRow   int     `json:"clear_row"`
	ClearOf    int     `json:"clear_of"` // how often in a row it has to
	Enough     bool    `json:"enough"`   // the fluid and the air that had to come are through
	Done       bool    `json:"done"`
	Round      int     `json:"round"`
	Lost       int     `json:"lost"`
	Left       LeftWhy `json:"left,omitempty"`
	LeftNote   string  `json:"left_note,omitempty"`
	Affected   bool    `json:"affected"`
}

// BleedStep is a step of the programme as it stands.
type BleedStep struct {
	bleed.Step
	Done bool `json:"done"`
}

// FluidNow is the share of old fluid in each part.
type FluidNow struct {
	Reservoir map[string]float64 `json:"reservoir"` // by circuit
	Chamber   map[string]float64 `json:"chamber"`   // by circuit
	Pipe      map[string]float64 `json:"pipe"`      // by wheel
	Brake     map[string]float64 `json:"brake"`     // by wheel
	Mean      float64            `json:"mean"`
}

// bleedWork is where the bleed stands: what every screen and the gate ask, without the plan of what is to come.
type bleedWork struct {
	j      *Job
	s      *system.System
	st     *State
	l      *ledger.Ledger
	o      bleed.Options
	with   bleed.With
	steps  []bleed.Step
	wheels map[string]WheelState
	now    *bleed.Step
}

// drain says whether the old fluid is to be drawn off first: filled up as it stands, the reservoir would hold more of it
// than may leave a wheel.
func (w *bleedWork) drain() bool {
	if w.o.Method == bleed.Reverse { // it comes up to the brim
		return w.drawDown(w.s.Circuits[0].ID)
	}
	return !w.st.OldFluid && w.o.Purpose != bleed.ForAir && w.dirty()
}

// drawDown says whether one more syringe pushed up would spill.
func (w *bleedWork) drawDown(circuit string) bool {
	level, full, _ := w.l.Level(circuit)
	return level+math.Min(bleed.SyringeCM3, full-bleed.KeepCM3(w.l, circuit)) > full+1e-9
}

// dirty says whether a tank filled up as it stands would hold more old fluid than may leave a wheel.
func (w *bleedWork) dirty() bool {
	for _, c := range w.s.Circuits {
		if level, full, _ := w.l.Level(c.ID); level/full*w.l.InReservoir(c.ID) > w.o.OldFraction {
			return true
		}
	}
	return false
}

// bleedWork works it out.
func (j *Job) bleedWork() (*bleedWork, error) {
	s := j.Fitted()
	w := &bleedWork{j: j, s: s, st: &j.State, l: j.fluid(), o: j.bleedOptions(s), wheels: map[string]WheelState{}}
	order, err := bleed.Route(s, w.o)
	if err != nil {
		return nil, err
	}
	for i := range s.Wheels {
		w.o.DirtyUp = w.o.DirtyUp || w.l.InPath(s.Wheels[i].ID) > w.o.OldFraction
	}
	w.with = bleed.With{Drain: w.drain(), Routine: j.routine(), Up: w.o.Method == bleed.Reverse}
	affected := w.o.Wheels
	order = slices.DeleteFunc(order, func(id string) bool { return affected != nil && !slices.Contains(affected, id) })
	w.steps = bleed.Programme(s, order, w.with)
	for i := range s.Wheels {
		id := s.Wheels[i].ID
		w.wheels[id] = w.wheel(&s.Wheels[i], affected == nil || slices.Contains(affected, id))
	}
	for i := range w.steps {
		if !w.doneStep(w.steps[i]) {
			w.now = &w.steps[i]
			break
		}
	}
	return w, nil
}

// wheel judges one: the old fluid is through where it was to be, and every mark of air is gone.
func (w *bleedWork) wheel(at *system.Wheel, affected bool) WheelState {
	st, log, way := w.st, w.st.Wheels[at.ID], w.j.account().Wheels[at.ID]
	now := way.Now()
	out := WheelState{Strokes: now.Strokes, CM3: now.CM3, TotalStrokes: way.Strokes, TotalCM3: way.ThroughCM3, Rounds: append([]stand.Round{}, way.Rounds...), Old: w.l.Leaving(at.ID), Clear: st.Clear[at.ID],
		ClearRow: way.Row, ClearOf: 1, Round: max(1, way.Round()), Lost: now.Lost, Left: log.Left, LeftNote: log.LeftNote, Affected: affected}
	if st.OldFluid { // bled before its fluid was followed: by what went through in all, and one look
		out.Strokes, out.CM3 = way.Strokes, way.ThroughCM3
		out.Enough = out.CM3 >= bleed.WashoutCM3(at.PipeCM3(), at.Brake.CavityCM3, w.o.OldFraction)*0.999
		out.Done = out.Enough && st.Clear[at.ID]
		return out
	}
	out.Enough = w.o.Purpose == bleed.ForAir || w.o.Method == bleed.ScanTool || bleed.Reached(w.l, at.ID, w.o.OldFraction)
	out.Enough = out.Enough && way.ThroughCM3 > 0 // no volume, no clearing
	marks := w.marks(at, &way)
	seen := way.Row >= 1
	tool := w.o.Method == bleed.ScanTool // its own pump spurts: it says when, and one look behind the volume does
	if len(marks) > 0 && !tool {
		out.ClearOf, seen = clearTwice, true
	}
	for _, m := range marks {
		out.AirLeftCM3 = math.Max(out.AirLeftCM3, way.LeftCM3(m))
		seen = seen && (way.SeenClear(m) || tool && way.SeenOnce(m))
	}
	out.Enough = out.Enough && out.AirLeftCM3 == 0
	out.Done = out.Enough && seen
	return out
}

// marks are the wheel's own, and before any of them the one that the work itself is going to set: a new cylinder, a circuit
// opened by the scope.
func (w *bleedWork) marks(at *system.Wheel, way *stand.Wheel) []stand.Mark {
	var out []stand.Mark
	for _, m := range way.Marks {
		if m.Why != "elsewhere.opened" || w.o.Wheels == nil || slices.Contains(w.o.Wheels, at.ID) {
			out = append(out, m)
		}
	}
	if _, marked := way.Marks[stand.FromCylinder]; !marked && w.o.Purpose != bleed.ForExchange {
		need := at.PipeCM3() + at.Brake.CavityCM3
		if least, told := w.o.LeastCM3[at.ID]; told {
			need = least
		}
		out = append(out, stand.Mark{NeedCM3: need})
	}
	return out
}

func (w *bleedWork) doneStep(s bleed.Step) bool {
	switch {
	case s.Wheel != "" && s.Visit > 1: // once more after what came between
		return w.ticked(bleed.StepSimulator) && w.wheels[s.Wheel].Done
	case s.Wheel != "":
		return w.wheels[s.Wheel].Done || w.ticked(bleed.StepSimulator) && slices.ContainsFunc(w.steps, func(x bleed.Step) bool { return x.Wheel == s.Wheel && x.Visit > s.Visit })
	case s.ID == bleed.StepDrain:
		return !w.with.Drain || w.begun()
	case s.ID == bleed.StepFill && w.with.Up:
		return w.begun() && w.full()
	case s.ID == bleed.StepFill:
		return w.begun() || !w.low()
	case s.ID == bleed.StepDrainAfter:
		return w.begun() && (w.st.OldFluid || w.o.Purpose == bleed.ForAir || !w.dirty())
	}
	return w.ticked(s.ID)
}

func (w *bleedWork) ticked(id bleed.StepID) bool {
	_, done := w.st.BleedSteps[string(id)]
	return done
}

// begun says whether fluid has gone through a wheel.
func (w *bleedWork) begun() bool {
	for _, way := range w.j.account().Wheels {
		if way.ThroughCM3 > 0 {
			return true
		}
	}
	return false
}

// full says whether every tank stands at its mark.
func (w *bleedWork) full() bool {
	for _, c := range w.s.Circuits {
		if level, full, _ := w.l.Level(c.ID); level < full-1e-6 {
			return false
		}
	}
	return true
}

// low says whether some tank stands under the level at which it is filled.
func (w *bleedWork) low() bool {
	for _, c := range w.s.Circuits {
		if level, _, _ := w.l.Level(c.ID); level <= bleed.KeepCM3(w.l, c.ID)+1e-9 {
			return true
		}
	}
	return false
}

// openWheels are the affected wheels that are not done, in the order of the programme, and those left undone.
func (w *bleedWork) openWheels() (open, left []string) {
	open, left = []string{}, []string{}
	for _, s := range w.steps {
		if s.Wheel == "" || w.doneStep(s) || slices.Contains(open, s.Wheel) || slices.Contains(left, s.Wheel) {
			continue
		}
		if w.wheels[s.Wheel].Left != "" {
			left = append(left, s.Wheel)
			continue
		}
		open = append(open, s.Wheel)
	}
	return open, left
}

// Bleed plans the route from where the fluid stands.
func (j *Job) Bleed() (*BleedView, error) {
	v, w, err := j.bleeding()
	if err != nil {
		return nil, err
	}
	if v.Need, err = j.FluidNeed(); err != nil {
		return nil, err
	}
	v.Bottle = j.bottle(j.UpdatedAt)
	if w == nil {
		return v, nil
	}
	v.Offers = bleed.Offers(w.s, w.o, j.means())
	v.Cannot = bleed.CannotFinish(w.s, w.with, v.Offers, j.means())
	if w.o.Start = w.l; w.st.OldFluid {
		w.o.Start = nil
	}
	if w.o.Wheels == nil {
		w.o.Wheels = []string{}
		for i := range w.s.Wheels {
			w.o.Wheels = append(w.o.Wheels, w.s.Wheels[i].ID)
		}
	}
	// What is left: of the wheels that are done nothing.
	w.o.Wheels = slices.DeleteFunc(slices.Clone(w.o.Wheels), func(id string) bool { return w.wheels[id].Done && !slices.Contains(v.OpenWheels, id) })
	if w.o.LeastCM3 == nil {
		w.o.LeastCM3 = map[string]float64{}
	}
	for i := range w.s.Wheels {
		at := &w.s.Wheels[i]
		w.o.LeastCM3[at.ID] = w.wheels[at.ID].AirLeftCM3
	}
	if w.with.Drain && !w.begun() {
		if w.o.Start, err = drained(w.l); err != nil {
			return nil, err
		}
	}
	if v.Plan, err = bleed.Make(w.s, w.o); err != nil {
		return nil, err
	}
	for _, p := range v.Plan.Wheels {
		ws := v.Wheels[p.ID]
		ws.LeftCM3 += p.VolumeCM3
		if w.o.Method.Strokes() {
			ws.Needed = ws.Strokes + p.Strokes
		}
		v.Wheels[p.ID] = ws
		v.Minutes += p.Minutes
	}
	for id, ws := range v.Wheels {
		if ws.Needed == 0 && w.o.Method.Strokes() {
			ws.Needed = ws.Strokes
			v.Wheels[id] = ws
		}
	}
	return v, nil
}

// drained is the ledger after the reservoir was drawn down and filled.
func drained(l *ledger.Ledger) (*ledger.Ledger, error) {
	next := l.Clone()
	if err := next.Drain(nil); err != nil {
		return nil, err
	}
	return next, next.Fill(nil)
}

// bleeding is the view without the plan: what is asked at every stroke. The work is nil where nothing is to be bled.
func (j *Job) bleeding() (*BleedView, *bleedWork, error) {
	v := &BleedView{Wheels: map[string]WheelState{}, OpenWheels: []string{}, LeftWheels: []string{}, Gone: []string{}, Steps: []BleedStep{}, StepsLeft: []string{}, Offers: []bleed.Offer{},
		Steering: append([]SteeringCycle{}, j.State.Steering...), RefillIn: -1, LeastGapS: strokeGapS, LeftWhys: LeftWhys,
		Fluid: FluidNow{Reservoir: map[string]float64{}, Chamber: map[string]float64{}, Pipe: map[string]float64{}, Brake: map[string]float64{}}}
	if j.Intake.System == nil {
		return nil, nil, system.Faults{{Path: "$.intake.system", Code: "fault.missing"}}
	}
	v.SteeringSide = j.steeringSide()
	v.SteeringGood = j.steeringGood()
	if !j.opens() {
		v.Why = j.nothingToBleed()
		return v, nil, nil
	}
	w, err := j.bleedWork()
	if err != nil {
		return nil, nil, err
	}
	v.Applies, v.Purpose, v.Method, v.Entry, v.Wheels = true, w.o.Purpose, w.o.Method, w.o.Method.Find(), w.wheels
	v.OpenWheels, v.LeftWheels = w.openWheels()
	waits := false
	for _, s := range w.steps {
		done := w.doneStep(s)
		v.Steps = append(v.Steps, BleedStep{s, done})
		if !done && s.Wheel == "" && s.ID != bleed.StepDrain && (s.ID != bleed.StepFill || w.with.Up) {
			v.StepsLeft = append(v.StepsLeft, string(s.ID))
		}
		if !done && s.Wheel != "" && v.Current == "" && w.wheels[s.Wheel].Left == "" && !waits {
			v.Current = s.Wheel
		}
		waits = waits || !done && s.Tool != "" // a wheel visited once more waits for what the tool does before
	}
	if w.now != nil {
		v.Now = w.now.ID
	}
	for _, id := range v.OpenWheels {
		// A circuit that ran dry has air from its cylinder on, until all its wheels are done again.
		v.RanDry = v.RanDry || j.State.Dry[w.s.CircuitOf(id)]
	}
	for _, way := range j.account().Wheels {
		v.UsedCM3 += way.ThroughCM3
	}
	v.Gone = j.gone()
	v.Spilled = j.State.Spilled
	v.LowNow = w.low() && !j.State.OldFluid
	v.levels(w)
	return v, w, nil
}

// levels tells of the reservoir at the current wheel.
func (v *BleedView) levels(w *bleedWork) {
	circuit := w.s.Circuits[0].ID
	if v.Current != "" {
		circuit = w.s.CircuitOf(v.Current)
	}
	v.LevelCM3, v.FullCM3, v.LowestCM3 = w.l.Level(circuit)
	v.KeepCM3 = bleed.KeepCM3(w.l, circuit)
	v.DrawDownTo = bleed.DrawDownTo(w.s, w.l, circuit)
	v.Fluid.Mean = w.l.Mean()
	for _, c := range w.s.Circuits {
		v.Fluid.Reservoir[c.ID], v.Fluid.Chamber[c.ID] = w.l.InReservoir(c.ID), w.l.InChamber(c.ID)
	}
	for i := range w.s.Wheels {
		id := w.s.Wheels[i].ID
		v.Fluid.Pipe[id], v.Fluid.Brake[id] = w.l.InPipe(id), w.l.Leaving(id)
	}
	if slices.Contains(w.l.Dry(), circuit) && v.LevelCM3 <= v.LowestCM3+1e-9 && v.Current != "" {
		v.RanDry = true
	}
	switch {
	case w.o.Method == bleed.Reverse:
		v.DrawDownNow = w.drawDown(circuit) && v.Current != ""
	case w.o.FeedBottle:
	case w.o.Method.Strokes() && v.Current != "":
		if per, err := bleed.StrokeCM3(w.s, circuit, w.o.StrokeMM); err == nil {
			v.RefillIn = max(0, int(math.Floor((v.LevelCM3-v.KeepCM3)/per+1e-9)))
			v.RefillNow = v.RefillIn == 0
		}
	default:
		v.RefillNow = v.LevelCM3 <= v.KeepCM3+1e-9
	}
}

// steeringSide says whether a hydraulic booster's steering side is to be bled.
func (j *Job) steeringSide() bool {
	return j.Intake.System.BoosterKind() == system.BoosterHydraulic && (j.scope().FitsBooster() || j.account().Touched(stand.PressureLines))
}

// gone are the wheels that were worked at or left undone and are not in the system any more: what was opened stays opened.
func (j *Job) gone() []string {
	out := []string{}
	for id, way := range j.account().Wheels {
		if j.wheelOf(id) == nil && way.Worked() {
			out = append(out, id)
		}
	}
	for id, log := range j.State.Wheels {
		if j.wheelOf(id) == nil && log.Left != "" && !slices.Contains(out, id) {
			out = append(out, id)
		}
	}
	slices.Sort(out)
	return out
}
