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
