package job

import (
	"maps"
	"slices"
	"time"

	"geminate/brake/bleed"
	"geminate/brake/match"
	"geminate/brake/plan"
	"geminate/brake/stand"
	"geminate/brake/system"
)

// method is the way to bleed: as chosen, or as the vehicle and the hands have it.
func (j *Job) method() bleed.Method {
	if m := j.Choices.Bleed.Method; m != "" {
		return m
	}
	return bleed.ForSystem(j.Intake.System, j.Intake.Hands)
}

// purpose is what the bleed is for: as chosen, or as it follows from what was done (how-it-computes, section 8.2).
func (j *Job) purpose() bleed.Purpose {
	switch {
	case j.Choices.Bleed.Purpose != "":
		return j.Choices.Bleed.Purpose
	case j.putsOnCylinder() || j.scope() == match.ElectroUnit:
		return bleed.ForBoth
	case j.Choices.Scope == match.BleedOnly && !j.fromCylinder():
		return bleed.ForExchange
	}
	return bleed.ForAir
}

// fromCylinder says whether air can have got in at the cylinder, ahead of every wheel: its lines were off, or the
// reservoir ran dry.
func (j *Job) fromCylinder() bool {
	if j.putsOnCylinder() || j.Choices.Scope.OpensHydraulics() && !j.Choices.Scope.OnlyElsewhere() && j.Choices.Scope != match.BleedOnly {
		return true
	}
	return j.account().OpenedAtCylinder()
}

// affected are the wheels to be bled: all where the air came in at the cylinder or the fluid is exchanged, those that
// were named otherwise.
func (j *Job) affected() []string {
	named := []string{}
	for _, id := range j.Choices.Bleed.Wheels {
		if j.Intake.System.Wheel(id) != nil {
			named = append(named, id)
		}
	}
	if len(named) == 0 || j.purpose() != bleed.ForAir || j.fromCylinder() || len(j.foul()) > 0 {
		return nil
	}
	for _, w := range j.Intake.System.Wheels { // and wherever air may have got in since
		at := j.account().Wheels[w.ID]
		for _, m := range at.Marks {
			if m.Why != "" && !slices.Contains(named, w.ID) {
				named = append(named, w.ID)
			}
		}
	}
	return named
}

// routine says whether the tool's routine is due: air can have got into the modulator, or the pedal stayed soft.
func (j *Job) routine() bool {
	if j.Intake.System.Modulator == nil {
		return false
	}
	_, ran := j.State.BleedSteps[string(bleed.StepRoutine)]
	return j.account().Touched(stand.ModulatorLines) || ran || j.State.ModulatorAir || j.Choices.Bleed.Routine
}

func (j *Job) means() bleed.Means { return bleed.Means{Hands: j.Intake.Hands, Tools: j.tools()} }

// bleedOptions are the options of the plan from where the fluid stands.
func (j *Job) bleedOptions(s *system.System) bleed.Options {
	o := j.Choices.Bleed.options(s, j.Intake.Hands)
	o.OwnSeconds = j.OwnStrokeS
	o.Purpose, o.Wheels = j.purpose(), j.affected()
	if target := j.Choices.Bleed.WaterPercent; target != nil {
		o.OldFraction = oldFor(*target, j.waterBefore(), j.waterInBottle())
	}
	if slices.Contains(j.presentFeatures(), plan.FloorTray) && o.HeadMM == headUsualMM {
		o.HeadMM = 0 // it hangs under the floor: not above the bleeders until somebody measured
	}
	if o.Purpose != bleed.ForExchange && j.dryCylinder() {
		o.LeastCM3 = map[string]float64{}
		for i := range s.Wheels {
			o.LeastCM3[s.Wheels[i].ID] = j.fromCylinderCM3(s.Wheels[i].ID, true)
		}
	}
	if o.Purpose == bleed.ForAir && !j.fromCylinder() {
		o.LeastCM3 = map[string]float64{}
		for i := range s.Wheels {
			w := &s.Wheels[i]
			if !j.State.Dry[s.CircuitOf(w.ID)] {
				o.LeastCM3[w.ID] = w.HoseCM3() + w.Brake.CavityCM3
			}
		}
	}
	return o
}

// oldFor is the share of old fluid at which a mixture has a water content (how-it-computes, section 8.1), within what a
// bleed can be asked for.
func oldFor(target, old, fresh float64) float64 {
	if old <= fresh {
		return bleed.MostOld
	}
	return min(bleed.MostOld, max(bleed.LeastOld, (target-fresh)/(old-fresh)))
}

func (j *Job) presentFeatures() []plan.Feature {
	if own := j.Choices.Joint; own != nil && own.Present != nil {
		return *own.Present
	}
	return nil
}

// ── steps beside the wheels ──

// BleedStepDone is one of them done.
type BleedStepDone struct {
	At      time.Time `json:"at"`
	Seq     int64     `json:"seq,omitempty"`
	By      string    `json:"by"`
	EventID string    `json:"event_id"`
	Codes   []string  `json:"codes,omitempty"` // what was read, where codes were
}

// BleedStepped tells it, or (Done false) takes it back.
type BleedStepped struct {
	Step  bleed.StepID `json:"step"`
	Done  *bool        `json:"done,omitempty"`
	Codes []string     `json:"codes,omitempty"`
	// Wheel: the tool's routine at the valves of one wheel, where it goes wheel by wheel.
	Wheel string `json:"wheel,omitempty"`
}

// Valid implements Body.
func (b *BleedStepped) Valid() error {
	if !slices.Contains(bleed.TickedSteps, b.Step) {
		return fault("$.data.step", "fault.enum", map[string]any{"value": clip(string(b.Step)), "allowed": bleed.TickedSteps})
	}
	if len(b.Codes) > 50 {
		return fault("$.data.codes", "fault.count", map[string]any{"value": len(b.Codes), "min": 0, "max": 50})
	}
	if err := text("$.data.wheel", b.Wheel, nameMost); err != nil {
		return err
	}
	for _, c := range b.Codes {
		if err := text("$.data.codes", c, nameMost); err != nil {
			return err
		}
	}
	return nil
}

// Check implements Body: a step waits for those before it, and codes that came back are not "none".
func (b *BleedStepped) Check(j *Job) error {
	if b.Done != nil && !*b.Done {
		return nil
	}
	w, err := j.bleedWork()
	if err != nil {
		return err
	}
	i := slices.IndexFunc(w.steps, func(s bleed.Step) bool { return s.ID == b.Step })
	if i < 0 {
		return fault("$.data.step", "fault.no_such_step", map[string]any{"value": clip(string(b.Step))})
	}
	for _, s := range w.steps[:i] {
		if !w.doneStep(s) {
			return fault("$.data.step", "fault.step_before", map[string]any{"bleed_steps": []string{string(s.ID)}})
		}
	}
	if tool := w.steps[i].Tool; tool == "scan_tool" && j.tools() != nil && !slices.Contains(j.tools(), tool) {
		return fault("$.data.step", "fault.no_tool", map[string]any{"tool": tool})
	}
	if missing := j.unpowered(); b.Step != bleed.StepCharger && len(missing) > 0 {
		return ErrGate{missing}
	}
	if b.Wheel != "" && (b.Step != bleed.StepRoutine || j.wheelOf(b.Wheel) == nil) {
		return fault("$.data.wheel", "fault.no_such_wheel", map[string]any{"value": clip(b.Wheel)})
	}
	if b.Step == bleed.StepCodesAgain && len(b.Codes) > 0 {
		return fault("$.data.codes", "fault.codes_back", nil)
	}
	return nil
}

// CheckAt asks for a wait that has to be over.
func (b *BleedStepped) CheckAt(j *Job, at time.Time) error {
	if b.Step != bleed.StepRelearn || b.Done != nil && !*b.Done {
		return nil
	}
	for _, t := range j.State.Timers {
		if t.Clock == ClockRelearn && t.Over(at) && t.long() && t.Seq > j.State.BleedSteps[string(bleed.StepCodesRead)].Seq {
			return nil
		}
	}
	return fault("$.data.step", "fault.still_waiting", map[string]any{"clock": string(ClockRelearn)})
}

// counts says whether a step told, of a file too, is one that could be done then: with power, and after its wait.
func (b *BleedStepped) counts(j *Job, at time.Time) bool {
	return b.Step == bleed.StepCharger ||
		len(j.unpowered()) == 0 && b.CheckAt(j, at) == nil && (b.Step != bleed.StepCodesAgain || len(b.Codes) == 0)
}

// dropBleedStep takes a step of the programme back: it has to be done again.
func (s *State) dropBleedStep(id bleed.StepID) {
	if id == bleed.StepRoutine {
		s.RoutineWheels = nil
	}
	if _, done := s.BleedSteps[string(id)]; done {
		s.BleedSteps = maps.Clone(s.BleedSteps)
		delete(s.BleedSteps, string(id))
	}
}

// Apply implements Body. After the tool's routine every wheel has to run clear once more.
func (b *BleedStepped) Apply(j *Job, e *Event) {
	st := &j.State
	next := maps.Clone(st.BleedSteps)
	if next == nil {
		next = map[string]BleedStepDone{}
	}
	st.BleedSteps = next
	j.worked(e, "bleed."+string(b.Step), stand.Modulator, stand.Simulator, stand.Learn, stand.Codes, stand.Fluid)
	if b.Done != nil && !*b.Done {
		delete(next, string(b.Step))
		if b.Step == bleed.StepRoutine {
			st.RoutineWheels = nil
		}
		return
	}
	if !b.counts(j, e.At) {
		return
	}
	if b.Wheel != "" && !j.routineAt(b.Wheel, e) {
		return
	}
	next[string(b.Step)] = BleedStepDone{At: e.At, Seq: e.place, By: e.By.Name, EventID: e.ID, Codes: b.Codes}
	switch b.Step {
	case bleed.StepRoutine: // its valves let go of what they held, into the wheels they feed
		st.ModulatorAir = false
		if b.Wheel == "" { // automatically, the foot held: all at once
			j.airFromCylinder(e.place, string(b.Step))
		}
	case bleed.StepSimulator:
		for _, id := range bleed.Fronts(j.Intake.System) {
			j.airAtBrake(e.place, id, string(b.Step))
		}
	}
}

// routineAt is the tool's routine at the valves of one wheel: what they let go of goes to that wheel, which is bled
// until it runs clear before the next one's. It says whether they are all through.
func (j *Job) routineAt(wheel string, e *Event) bool {
	st := &j.State
	if !slices.Contains(st.RoutineWheels, wheel) {
		st.RoutineWheels = append(slices.Clone(st.RoutineWheels), wheel)
	}
	if j.wheelOf(wheel) != nil {
		j.account().Air(e.place, wheel, stand.FromCylinder, string(bleed.StepRoutine), j.pathCM3(wheel))
	}
	for i := range j.Intake.System.Wheels {
		if !slices.Contains(st.RoutineWheels, j.Intake.System.Wheels[i].ID) {
			return false
		}
	}
	return true
}

// ── the steering side of a hydraulic booster ──

// SteeringCycle is one cycle of filling, running and standing, and how it looked after.
type SteeringCycle struct {
	At        time.Time `json:"at"`
	Seq       int64     `json:"seq,omitempty"`
	By        string    `json:"by"`
	Vacuum    bool      `json:"vacuum"` // with a pump on the filler
	LevelFell bool      `json:"level_fell"`
	Foam      bool      `json:"foam"`
	Groan     bool      `json:"groan"`
}

// good: level unchanged over a cycle, no foam, no groan (common practice, no source).
func (c SteeringCycle) good() bool { return !c.LevelFell && !c.Foam && !c.Groan }

// SteeringCycled tells one.
type SteeringCycled struct {
	Vacuum    bool `json:"vacuum,omitempty"`
	LevelFell bool `json:"level_fell,omitempty"`
	Foam      bool `json:"foam,omitempty"`
	Groan     bool `json:"groan,omitempty"`
}

// Valid implements Body.
func (s *SteeringCycled) Valid() error { return nil }

// Check implements Body.
func (s *SteeringCycled) Check(j *Job) error {
	if !j.Intake.System.Assist().Steering {
		return fault("$.data", "fault.no_steering_side", nil)
	}
	if missing := j.unpowered(); !s.Vacuum && len(missing) > 0 { // the engine has to run
		return ErrGate{missing}
	}
	return nil
}

// CheckAt: without a pump the fluid has to stand until the foam is clear.
func (s *SteeringCycled) CheckAt(j *Job, at time.Time) error {
	if err := s.Check(j); err != nil || s.Vacuum || s.Foam || s.Groan || s.LevelFell {
		return err
	}
	last := int64(0)
	if n := len(j.State.Steering); n > 0 {
		last = j.State.Steering[n-1].Seq
	}
	for _, t := range j.State.Timers {
		if t.Clock == ClockFoam && t.Over(at) && t.long() && t.Seq > last {
			return nil
		}
	}
	return fault("$.data", "fault.still_waiting", map[string]any{"clock": string(ClockFoam)})
}

// Apply implements Body.
func (s *SteeringCycled) Apply(j *Job, e *Event) {
	j.State.Steering = append(slices.Clone(j.State.Steering),
		SteeringCycle{At: e.At, Seq: e.place, By: e.By.Name, Vacuum: s.Vacuum, LevelFell: s.LevelFell, Foam: s.Foam, Groan: s.Groan})
	j.worked(e, string(e.Kind), stand.Steering)
	if !s.Vacuum {
		j.account().EngineRan(e.when())
	}
}

// steeringGood says whether the last cycle was, and the engine ran in one since the steering side was opened: what a
// pump on the filler draws out is not what the booster's valve holds.
func (j *Job) steeringGood() bool {
	list, opened := j.State.Steering, j.account().CameOff[stand.PressureLines].Seq
	n := len(list)
	if n == 0 || !list[n-1].good() || list[n-1].Seq < opened {
		return false
	}
	return slices.ContainsFunc(list, func(c SteeringCycle) bool { return !c.Vacuum && c.Seq >= opened })
}
