package job

import (
	"math"
	"slices"

	"geminate/brake/bleed"
	"geminate/brake/ledger"
	"geminate/brake/stand"
	"geminate/brake/system"
)

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
	w.o.Wheels = slices.DeleteFunc(slices.Clone(w.o.Wheels),
		func(id string) bool { return w.wheels[id].Done && !slices.Contains(v.OpenWheels, id) })
	w.o.LeastCM3, w.o.Looks = map[string]float64{}, map[string]int{}
	for i := range w.s.Wheels {
		id := w.s.Wheels[i].ID
		w.o.LeastCM3[id], w.o.Looks[id] = max(w.wheels[id].AirLeftCM3, w.wheels[id].FlushLeftCM3), w.looks(id)
	}
	if w.with.Drain && !w.begun() {
		if w.o.Start, err = drained(w.l); err != nil {
			return nil, err
		}
	}
	if v.Plan, err = bleed.Make(w.s, w.o); err != nil {
		why := bleed.Why(err)
		v.Stuck, v.Plan = &why, &bleed.Plan{Order: []string{}, Wheels: []bleed.Wheel{}}
	}
	if w.with.Drain && w.begun() && !w.with.Up && v.Stuck == nil {
		v.DrainFirst = w.drainFirst(v.Plan)
	}
	v.take(w)
	v.Together = w.together(v.Wheels, v.OpenWheels)
	if a := &v.Ahead; w.o.Method == bleed.ScanTool &&
		v.Current != "" { // the tool moves what the wheel takes, as far as the reservoir bears it
		if a.StepCM3 = math.Max(1, v.Wheels[v.Current].LeftCM3); a.CM3 >= 0 {
			a.StepCM3 = math.Min(a.StepCM3, a.CM3)
		}
	}
	v.CountAloud = v.aloud()
	return v, nil
}

// take puts the plan into the wheels.
func (v *BleedView) take(w *bleedWork) {
	strokes := w.o.Method.Strokes()
	for _, p := range v.Plan.Wheels {
		ws := v.Wheels[p.ID]
		ws.LeftCM3 += p.VolumeCM3
		if strokes {
			ws.Needed = ws.Strokes + p.Strokes
			if p.Certain != nil {
				ws.Certain = *p.Certain
			}
		}
		v.Wheels[p.ID] = ws
		v.Minutes += p.Minutes
	}
	for id, ws := range v.Wheels {
		if ws.Needed == 0 && strokes {
			ws.Needed = ws.Strokes
			v.Wheels[id] = ws
		}
	}
}

// looks are the openings of a wheel that follow for the looks alone, once fluid and air are through. The one in hand
// counts as long as it was not looked at.
func (w *bleedWork) looks(id string) int {
	ws, way := w.wheels[id], w.j.account().Wheels[id]
	if !ws.Enough {
		return ws.ClearOf - 1
	}
	left := ws.ClearOf - ws.ClearRow
	if way.Unseen() {
		left--
	}
	return max(0, left)
}

// drainFirst is what the wheels that are left take as it stands, and with the reservoir drawn off and filled first; nil
// where the second is not less.
func (w *bleedWork) drainFirst(now *bleed.Plan) *DrainFirst {
	o := w.o
	start, err := drained(w.l)
	if err != nil {
		return nil
	}
	o.Start = start
	then, err := bleed.Make(w.s, o)
	if err != nil || then.TotalCM3 >= now.TotalCM3 {
		return nil
	}
	cost := func(p *bleed.Plan, poured float64) WayCost {
		c := WayCost{CM3: p.TotalCM3, Poured: p.PouredCM3 + poured}
		for _, wheel := range p.Wheels {
			c.Strokes += wheel.Strokes
			c.Minutes += wheel.Minutes
		}
		return c
	}
	return &DrainFirst{Now: cost(now, 0), Drained: cost(then, start.Poured()-w.l.Poured())}
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
	v := &BleedView{
		Wheels:     map[string]WheelState{},
		OpenWheels: []string{},
		LeftWheels: []string{},
		Gone:       []string{},
		Steps:      []BleedStep{},
		StepsLeft:  []string{},
		Offers:     []bleed.Offer{},
		Routine:    append([]string{}, j.State.RoutineWheels...),
		Steering:   append([]SteeringCycle{}, j.State.Steering...),
		RefillIn:   -1,
		LeastGapS:  strokeGapS,
		LeftWhys:   LeftWhys,
		Blocked:    []string{},
		Rubber:     j.RubberLeft(),
		Fluid: FluidNow{
			Reservoir: map[string]float64{},
			Chamber:   map[string]float64{},
			Air:       map[string]float64{},
			Pipe:      map[string]float64{},
			Brake:     map[string]float64{},
		},
	}
	if j.Intake.System == nil {
		return nil, nil, system.Faults{{Path: "$.intake.system", Code: "fault.missing"}}
	}
	v.WaterBefore, v.WaterAfter = j.State.number(PhaseDiagnose, "fluid.water_percent"), j.State.number(PhaseVerify, "fluid.water_percent")
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
		v.Steps = append(v.Steps, BleedStep{s, done, done && s.ID == bleed.StepDrain && w.with.Drain})
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
	if said := j.wash(); said.Code != "" {
		v.Flush = &said
	}
	v.LowNow = (w.low() || len(v.OpenWheels) == 0 && w.underMark()) && !j.State.OldFluid
	v.levels(w)
	v.Blocked = append(v.Blocked, j.openingMissing()...)
	if v.StoodDays = j.State.StoodDays; v.StoodDays > 0 && v.Current != "" {
		v.RefillNow, v.DrawDownNow = true, false
	}
	return v, w, nil
}

// aloudMost is how many strokes a person counts aloud and tells at once: what is kept in the head with a foot on the
// pedal. Assumption.
const aloudMost = 5

// aloud is how many strokes may be told at once at the current wheel: none of the last ones, after which it is looked
// at, and no more than the level bears.
func (v *BleedView) aloud() int {
	at := v.Wheels[v.Current]
	n := min(aloudMost, at.Certain-1, v.RefillIn)
	if v.RefillIn < 0 { // a bottle keeps the reservoir full
		n = min(aloudMost, at.Certain-1)
	}
	if n < 2 {
		return 0
	}
	return n
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
		v.Fluid.Air[c.ID] = w.l.AirIn(c.ID)
	}
	for i := range w.s.Wheels {
		id := w.s.Wheels[i].ID
		v.Fluid.Pipe[id], v.Fluid.Brake[id] = w.l.InPipe(id), w.l.Leaving(id)
	}
	if slices.Contains(w.l.Dry(), circuit) && v.LevelCM3 <= v.LowestCM3+1e-9 && v.Current != "" {
		v.RanDry = true
	}
	v.ahead(w, circuit)
}

// ahead says how far it is to the next filling or drawing down, and what one tap moves until then.
func (v *BleedView) ahead(w *bleedWork, circuit string) {
	a := &v.Ahead
	a.Counts, a.Up = v.Entry.Counts, w.o.Method == bleed.Reverse
	whole := v.Entry.ContainerCM3
	if w.o.Method.Strokes() {
		if per, err := bleed.StrokeCM3(w.s, circuit, w.o.StrokeMM); err == nil {
			whole = per
		}
	}
	a.StepCM3 = whole
	switch {
	case a.Up:
		a.CM3 = math.Max(0, v.FullCM3-v.LevelCM3)
		v.DrawDownNow = w.drawDown(circuit) && v.Current != ""
	case w.o.FeedBottle:
		a.CM3, a.Steps = -1, -1
		return
	default:
		a.CM3 = math.Max(0, v.LevelCM3-v.KeepCM3)
		v.RefillNow = a.CM3 <= 1e-9
	}
	if whole > 0 {
		a.Steps = int(math.Floor(a.CM3/whole + 1e-9))
	}
	switch {
	case w.o.Method.Strokes():
		if v.Current != "" {
			v.RefillIn, v.RefillNow = a.Steps, a.Steps == 0
		}
	case whole > 0: // a part of a pot or a syringe is told as what it is
		a.StepCM3 = math.Min(whole, a.CM3)
		v.RefillNow = v.RefillNow || !a.Up && a.StepCM3 < partWorth*whole
	}
}

// partWorth is the share of a pot under which it is not worth putting on before the reservoir is filled. Assumption.
const partWorth = 0.1

// steeringSide says whether a hydraulic booster's steering side is to be bled.
func (j *Job) steeringSide() bool {
	return j.Intake.System.Assist().Steering && (j.scope().FitsBooster() || j.account().Touched(stand.PressureLines))
}

// gone are the wheels that were worked at or left undone and are not in the system any more: what was opened stays
// opened.
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
	if j.State.ModulatorAir && j.Intake.System.Modulator == nil { // edited out with air in it
		out = append(out, "modulator")
	}
	return out
}
