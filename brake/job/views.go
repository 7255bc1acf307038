package job

import (
	"encoding/json"
	"math"
	"time"

	"geminate/brake/bench"
	"geminate/brake/bleed"
	"geminate/brake/diagnose"
	"geminate/brake/fluid"
	"geminate/brake/match"
	"geminate/brake/plan"
	"geminate/brake/system"
	"geminate/brake/twin"
	"geminate/brake/verify"
)

// CurvePoint is one point of a pedal curve for a plot.
type CurvePoint struct {
	ForceN      float64 `json:"force_n"`
	TravelMM    float64 `json:"travel_mm"`
	PressureA   float64 `json:"pressure_a_mpa"`
	PressureB   float64 `json:"pressure_b_mpa"`
	DecelMPS2   float64 `json:"deceleration_mps2"`
	BottomedAny bool    `json:"bottomed"`
	Floored     bool    `json:"floored"`
}

// Curve is a pedal curve from nothing to a firm foot (or a hard push at the coupler).
func Curve(s *system.System, assist bool) []CurvePoint {
	m := twin.New(s)
	most, n := 400.0, 80
	if s.IsTrailer() {
		most = 5000
	}
	out := make([]CurvePoint, 0, n+1)
	for i := 0; i <= n; i++ {
		p := m.Apply(most*float64(i)/float64(n), assist)
		c := CurvePoint{ForceN: p.PedalForceN, TravelMM: p.TravelMM, DecelMPS2: p.DecelerationMPS2, BottomedAny: len(p.Bottomed) > 0, Floored: p.Floored}
		c.PressureA = p.PressureMPA[s.MasterCylinder.Primary.Circuit]
		if sec := s.MasterCylinder.Secondary; sec != nil {
			c.PressureB = p.PressureMPA[sec.Circuit]
		}
		out = append(out, c)
	}
	return out
}

// Normal is what the twin says a sound system of this kind does.
type Normal struct {
	At300TravelMM   float64            `json:"at_300n_travel_mm"`
	At300MPA        map[string]float64 `json:"at_300n_mpa"`
	ForceN          float64            `json:"force_n"` // 300, or 2500 at a coupler
	FailedDecel     float64            `json:"assist_failed_500n_mps2"`
	KneeN           float64            `json:"knee_n"`
	Reserve         int                `json:"reserve"`
	WheelMPA        map[string]float64 `json:"wheel_mpa"`
	WithAssist      []CurvePoint       `json:"with_assist"`
	WithoutAssist   []CurvePoint       `json:"without_assist"`
	DecelerationCap bool               `json:"deceleration_beyond_grip"` // more than tyres commonly hold
	Doubts          system.Faults      `json:"doubts"`
}

// gripMPS2 is about what a dry road gives; a demand beyond it is shown capped. Assumption.
const gripMPS2 = 9.0

// NormalOf computes the sound figures of a system.
func NormalOf(s *system.System) Normal {
	sound := match.Sound(s)
	m := twin.New(sound)
	n := Normal{ForceN: 300, Doubts: s.Doubts(), WithAssist: Curve(sound, true), WithoutAssist: Curve(sound, false)}
	if n.Doubts == nil {
		n.Doubts = system.Faults{}
	}
	if s.IsTrailer() {
		n.ForceN = 2500
	}
	p := m.Apply(n.ForceN, true)
	n.At300TravelMM, n.At300MPA, n.WheelMPA, n.DecelerationCap = p.TravelMM, p.PressureMPA, p.WheelMPA, p.DecelerationMPS2 > gripMPS2
	n.FailedDecel = m.Apply(500, false).DecelerationMPS2
	n.KneeN, _ = m.KneePedalForceN()
	n.Reserve = m.Reserve().Applications
	return n
}

// SinkView is a measured sink turned into a flow.
type SinkView struct {
	MMPerS    float64 `json:"mm_per_s"`
	CM3PerMin float64 `json:"cm3_per_min"`
	CM3Held   float64 `json:"cm3_during_hold"` // what a leak outside would have left on the floor
}

// DiagnoseView is the Diagnose station.
type DiagnoseView struct {
	Result diagnose.Result `json:"result"`
	Sink   *SinkView       `json:"sink"`
	Count  int             `json:"findings_count"`
}

// Diagnose runs the engine on what is known.
func (j *Job) Diagnose() (*DiagnoseView, error) {
	costs := diagnose.DefaultCosts()
	if j.Choices.Costs != nil && j.Choices.Costs.PerMinute > 0 {
		costs.PerMinute = j.Choices.Costs.PerMinute
	}
	c := j.Case()
	r, err := diagnose.Run(c, costs)
	if err != nil {
		return nil, err
	}
	v := &DiagnoseView{Result: *r, Count: len(c.Findings)}
	for _, f := range c.Findings {
		var sink diagnose.Sink
		if f.ID == "pedal.sink" && json.Unmarshal(f.Value, &sink) == nil {
			if q, perMin, err := twin.New(c.System).LeakFromSink(sink.TravelMM, sink.Seconds); err == nil {
				v.Sink = &SinkView{MMPerS: sink.TravelMM / sink.Seconds, CM3PerMin: perMin, CM3Held: q * sink.Seconds / 1000}
			}
		}
	}
	return v, nil
}

// MatchView is the Match station.
type MatchView struct {
	Scopes     []match.Scope   `json:"scopes"`
	Candidates []CandidateView `json:"candidates"`
	Kit        []match.Item    `json:"kit"`
	Fluid      match.FluidNeed `json:"fluid"`
	Bottle     BottleView      `json:"bottle"`
	Present    []CurvePoint    `json:"present"`
	Opens      bool            `json:"opens_hydraulics"`
	Cylinder   bool            `json:"fits_cylinder"`
}

// CandidateView is one unit with its fit and the pedal it would give.
type CandidateView struct {
	match.Result
	Curve       []CurvePoint `json:"curve"`
	TravelMM    float64      `json:"travel_mm"` // at the force of Normal
	PressureMPA float64      `json:"pressure_mpa"`
	ForceAt6MPA *float64     `json:"force_at_6mpa_n"`
	Fitted      bool         `json:"chosen"`
}

// BottleView says whether the bottle in hand may be used.
type BottleView struct {
	Fitness fluid.Fitness      `json:"fitness"`
	Allowed bool               `json:"allowed"`
	Water   fluid.WaterVerdict `json:"water"`
	BoilC   *float64           `json:"boil_c"`
}

// Match compares the shelf with the old unit.
func (j *Job) Match(shelf []match.Unit) (*MatchView, error) {
	s := j.Intake.System
	c := j.Choices
	v := &MatchView{Scopes: match.Scopes(s), Candidates: []CandidateView{}, Opens: c.Scope.OpensHydraulics(), Cylinder: c.Scope.FitsCylinder()}
	sound := match.Sound(s)
	v.Present = Curve(sound, true)
	force := 300.0
	if s.IsTrailer() {
		force = 2500
	}
	old := match.Unit{}
	if c.Old != nil {
		old = *c.Old
	}
	var points []match.Point
	if c.Scope.FitsCylinder() {
		for _, u := range shelf {
			r := match.Compare(s, old, u)
			fitted := match.Fitted(sound, u)
			m := twin.New(fitted)
			p := m.Apply(force, true)
			cv := CandidateView{Result: r, Curve: Curve(fitted, true), TravelMM: p.TravelMM, PressureMPA: p.PressureMPA[s.MasterCylinder.Primary.Circuit], Fitted: c.Unit != nil && c.Unit.ID == u.ID}
			if f, ok := m.ForceForPressure(6, true, force*5); ok {
				cv.ForceAt6MPA = &f
			}
			if cv.Fitted {
				points = r.Points
			}
			v.Candidates = append(v.Candidates, cv)
		}
	}
	v.Kit = match.Kit(s, c.Scope, c.Unit, points)
	need, err := match.Fluid(j.Fitted(), c.Scope, c.Bleed.StrokeMM)
	if err != nil {
		return nil, err
	}
	v.Fluid = need
	v.Bottle = j.bottle()
	return v, nil
}

func (j *Job) bottle() BottleView {
	var v BottleView
	b := j.Choices.Bottle
	if f, err := fluid.MayReplace(j.Intake.System.Fluid.Class, b.Class); err == nil {
		v.Fitness, v.Allowed = f, f.Allowed()
	}
	if class, err := fluid.Find(b.Class); err == nil && b.WaterPercent != nil {
		if w, err := fluid.JudgeWater(*b.WaterPercent); err == nil {
			boil := class.BoilingC(*b.WaterPercent)
			v.Water, v.BoilC = w, &boil
		}
	}
	return v
}

// ReplaceView is the Replace station.
type ReplaceView struct {
	Plan    plan.Plan             `json:"plan"`
	Blocked map[string][]string   `json:"blocked"` // step → gates that stand open before it
	Next    string                `json:"next"`
	Left    int                   `json:"left"`
	Rod     *twin.Pushrod         `json:"rod"` // of the last measurement
	Torque  map[string]TorqueRead `json:"torque"`
}

// TorqueRead is a ticked torque judged.
type TorqueRead struct {
	TorqueNM float64 `json:"torque_nm"`
	Verdict  string  `json:"verdict"`
}

// Replace makes the plan and lays the ticks over it.
func (j *Job) Replace() (*ReplaceView, error) {
	p, err := j.Plan()
	if err != nil {
		return nil, err
	}
	st := j.Fold()
	done := st.Done()
	v := &ReplaceView{Plan: *p, Blocked: map[string][]string{}, Next: p.Next(done), Torque: map[string]TorqueRead{}}
	for _, s := range p.Steps {
		missing, err := p.Missing(s.ID, done)
		if err != nil {
			return nil, err
		}
		if len(missing) > 0 && !done[s.ID] {
			v.Blocked[s.ID] = missing
		}
		tick, ticked := st.Ticks[s.ID]
		if !ticked {
			v.Left++
			continue
		}
		if tick.Rod != nil {
			if r, err := j.Rod(tick.Rod); err == nil {
				v.Rod = &r
			}
		}
		if tick.TorqueNM != nil && s.Torque != nil {
			v.Torque[s.ID] = judge(*tick.TorqueNM, s.Torque)
		}
	}
	return v, nil
}

// BenchView is the Bench bleed station.
type BenchView struct {
	Applies  bool           `json:"applies"`
	Why      string         `json:"why,omitempty"` // words key when it does not
	Chambers []ChamberBench `json:"chambers"`
	Strokes  int            `json:"strokes"`
	Needed   int            `json:"needed"`
	HeldCM3  float64        `json:"held_cm3"` // by the cylinder itself
	Verdict  string         `json:"verdict"`  // words key
}

// ChamberBench is one chamber in the vice.
type ChamberBench struct {
	Circuit    string        `json:"circuit"`
	Geometry   bench.Chamber `json:"geometry"`
	TrappedCM3 float64       `json:"trapped_cm3"`
	LevelCM3   float64       `json:"trapped_level_cm3"` // what a level cylinder would trap
	AirCM3     []float64     `json:"air_cm3"`
	NowCM3     float64       `json:"now_cm3"`
	Needed     int           `json:"needed"`
}

// chamberRoomMM is what a chamber is longer than its piston's stroke: springs and walls. Assumption.
const chamberRoomMM = 14

func (j *Job) benchChambers() []bench.Chamber {
	s := j.Fitted()
	one := func(c system.Chamber) bench.Chamber {
		length := c.StrokeMM + chamberRoomMM
		return bench.Chamber{BoreMM: s.MasterCylinder.BoreMM, LengthMM: length, PortMM: math.Min(j.Choices.Bench.PortMM, length), Port: j.Choices.Bench.Port}
	}
	out := []bench.Chamber{one(s.MasterCylinder.Primary)}
	if sec := s.MasterCylinder.Secondary; sec != nil {
		out = append(out, one(*sec))
	}
	return out
}

// checkBench says whether the cylinder as it lies in the vice can be computed.
func checkBench(s *system.System, c *Choices) error {
	j := Job{Intake: Intake{System: s}, Choices: *c}
	for _, ch := range j.benchChambers() {
		if err := ch.Check(); err != nil {
			return err
		}
	}
	return nil
}

// Bench computes the bench bleed as counted so far.
func (j *Job) Bench() (*BenchView, error) {
	p, err := j.Plan()
	if err != nil {
		return nil, err
	}
	st := j.Fold()
	v := &BenchView{Applies: p.NeedsBench, Chambers: []ChamberBench{}, Strokes: st.BenchStrokes}
	switch {
	case j.Choices.BenchOnVehicle && j.Choices.Scope.FitsCylinder():
		v.Why = "bench.on_vehicle"
	case !j.Choices.Scope.FitsCylinder():
		v.Why = "bench.no_new_cylinder"
	}
	if !v.Applies {
		return v, nil
	}
	setup := j.Choices.Bench
	circuits := []string{j.Intake.System.MasterCylinder.Primary.Circuit}
	if sec := j.Intake.System.MasterCylinder.Secondary; sec != nil {
		circuits = append(circuits, sec.Circuit)
	}
	worst := 0.0
	for i, g := range j.benchChambers() {
		run, err := g.Bleed(setup.TiltDeg, setup.StrokeMM, max(25, st.BenchStrokes), setup.Fast)
		if err != nil {
			return nil, err
		}
		level, err := g.TrappedMM3(0, setup.StrokeMM)
		if err != nil {
			return nil, err
		}
		needed, err := g.StrokesNeeded(setup.TiltDeg, setup.StrokeMM, setup.Fast)
		if err != nil {
			return nil, err
		}
		c := ChamberBench{Circuit: circuits[i], Geometry: g, TrappedCM3: run.TrappedMM3 / 1000, LevelCM3: level / 1000, Needed: needed, NowCM3: g.VolumeMM3() / 1000}
		for _, a := range run.AirMM3 {
			c.AirCM3 = append(c.AirCM3, a/1000)
		}
		if n := st.BenchStrokes; n > 0 {
			c.NowCM3 = run.AirMM3[n-1] / 1000
		}
		worst = math.Max(worst, c.TrappedCM3-c.LevelCM3)
		v.HeldCM3 += g.VolumeMM3() / 1000
		v.Needed = max(v.Needed, needed)
		v.Chambers = append(v.Chambers, c)
	}
	const tiltMatters = 0.05 // cm³
	switch {
	case worst > tiltMatters:
		v.Verdict = "bench.level_it"
	case st.BenchStrokes < v.Needed:
		v.Verdict = "bench.go_on"
	default:
		v.Verdict = "bench.done"
	}
	return v, nil
}

// BleedView is the Bleed station.
type BleedView struct {
	Applies    bool                  `json:"applies"`
	Why        string                `json:"why,omitempty"`
	Plan       *bleed.Plan           `json:"plan"`
	Wheels     map[string]WheelState `json:"wheels"`
	Current    string                `json:"current"` // wheel to work at, "" when done
	LevelCM3   float64               `json:"level_cm3"`
	FullCM3    float64               `json:"full_cm3"`
	LowestCM3  float64               `json:"lowest_cm3"`
	RefillIn   int                   `json:"refill_in_strokes"` // before the reservoir must be filled; −1 where strokes do not count
	RefillNow  bool                  `json:"refill_now"`
	UsedCM3    float64               `json:"used_cm3"`
	LastUndo   string                `json:"last_event"` // what undo takes back
	OpenWheels []string              `json:"open_wheels"`
}

// WheelState is a wheel as worked so far.
type WheelState struct {
	Strokes int     `json:"strokes"`
	CM3     float64 `json:"cm3"`
	Clear   bool    `json:"clear"`
	Done    bool    `json:"done"`
}

// Bleed plans the route and lays what was counted over it.
func (j *Job) Bleed() (*BleedView, error) {
	v := &BleedView{Wheels: map[string]WheelState{}, OpenWheels: []string{}, RefillIn: -1}
	if j.Intake.System == nil {
		return nil, system.Faults{{Path: "$.intake.system", Code: "fault.missing"}}
	}
	if !j.Choices.Scope.OpensHydraulics() {
		v.Why = "plan.no_bleeding.cylinder_aside"
		return v, nil
	}
	v.Applies = true
	s := j.Fitted()
	p, err := bleed.Make(s, j.Choices.Bleed.options())
	if err != nil {
		return nil, err
	}
	v.Plan = p
	st := j.Fold()
	stroke := map[string]float64{}
	for _, w := range p.Wheels {
		stroke[w.ID] = w.StrokeCM3
		ws := WheelState{Strokes: st.BleedStrokes[w.ID], Clear: st.Clear[w.ID]}
		ws.CM3 = st.BleedCM3[w.ID] + float64(ws.Strokes)*w.StrokeCM3
		// Computed volume is through, and the technician has seen it come clear.
		ws.Done = ws.Clear && ws.CM3 >= w.VolumeCM3*0.999
		v.Wheels[w.ID] = ws
		v.UsedCM3 += ws.CM3
		if !ws.Done {
			v.OpenWheels = append(v.OpenWheels, w.ID)
			if v.Current == "" {
				v.Current = w.ID
			}
		}
	}
	v.LastUndo = st.LastStroke["bleed"]
	v.FullCM3, v.LowestCM3 = p.UsableCM3, 0
	if s.Reservoir != nil {
		v.FullCM3, v.LowestCM3 = s.Reservoir.FullCM3, s.Reservoir.LowestPortCM3
	}
	v.LevelCM3 = v.FullCM3
	for _, m := range st.fluid {
		if m.refill {
			v.LevelCM3 = v.FullCM3
			continue
		}
		v.LevelCM3 -= m.cm3 + float64(m.strokes)*stroke[m.wheel]
	}
	keep := v.FullCM3 - p.UsableCM3 // lowest port and margin
	if per := stroke[v.Current]; per > 0 {
		v.RefillIn = max(0, int(math.Floor((v.LevelCM3-keep)/per+1e-9)))
		v.RefillNow = v.RefillIn == 0
	} else {
		v.RefillNow = v.LevelCM3 <= keep
	}
	return v, nil
}

// VerifyView is the Verify station.
type VerifyView struct {
	Gate     verify.Gate       `json:"gate"`
	Expected []verify.Expected `json:"expected"`
	Curve    []CurvePoint      `json:"curve"`
	Readings []verify.Expected `json:"readings"` // band at each force read
	Released bool              `json:"released"`
}

// Verify judges the finished work.
func (j *Job) Verify() (*VerifyView, error) {
	rv, err := j.Replace()
	if err != nil {
		return nil, err
	}
	bv, err := j.Bleed()
	if err != nil {
		return nil, err
	}
	st := j.Fold()
	s := j.Fitted()
	in := verify.Input{System: s, Findings: st.Findings[PhaseVerify], PlanLeft: rv.Left, OpenWheels: bv.OpenWheels, Opened: bv.Applies, NoUnit: j.Choices.Scope.FitsCylinder() && j.Choices.Unit == nil}
	v := &VerifyView{Gate: verify.Judge(in), Curve: Curve(s, false), Expected: []verify.Expected{}, Readings: []verify.Expected{}, Released: st.ReleasedAt != nil}
	if s.Pedal != nil {
		for f := 20.0; f <= 400; f += 20 {
			if b, ok := verify.Band(s, f); ok {
				v.Expected = append(v.Expected, b)
			}
		}
		var read []diagnose.Reading
		if f, ok := in.Findings["pedal.readings"]; ok && json.Unmarshal(f.Value, &read) == nil {
			for _, r := range read {
				if b, ok := verify.Band(s, r.PedalForceN); ok {
					v.Readings = append(v.Readings, b)
				}
			}
		}
	}
	return v, nil
}

// Due is when the fluid is next due, whichever comes first.
type Due struct {
	AtDate     string  `json:"at_date"`
	AtKM       float64 `json:"at_km"`
	WaterDate  string  `json:"water_date"` // when the water trend reaches 3 %, "" where nothing is known of it
	First      string  `json:"first"`      // date, water; distance is whichever the odometer reaches
	WaterNow   float64 `json:"water_now_percent"`
	WaterAYear float64 `json:"water_a_year_percent"`
}

// Change by about two years, check every 25 000 miles: common practice, no source. Water gained by
// fluid in a vehicle: 1 to 2 % a year is commonly said; 1.5 is taken. Assumption.
const (
	changeYears   = 2
	checkKM       = 25000 * 1.609344
	waterAYear    = 1.5
	waterLimit    = 3.0
	freshWater    = 0.1
	daysOfOneYear = 365.25
)

// NextDue works the next service out from a day.
func (j *Job) NextDue(now time.Time) Due {
	water := freshWater
	if j.Choices.Bottle.WaterPercent != nil {
		water = *j.Choices.Bottle.WaterPercent
	}
	if !j.Choices.Scope.OpensHydraulics() { // the old fluid stays in
		water = j.Intake.System.Fluid.WaterPercent
		var measured float64
		st := j.Fold()
		if f, ok := st.Findings[PhaseDiagnose]["fluid.water_percent"]; ok && json.Unmarshal(f.Value, &measured) == nil {
			water = measured
		}
	}
	d := Due{AtDate: now.AddDate(changeYears, 0, 0).Format(time.DateOnly), AtKM: j.Intake.DistanceKM + checkKM, WaterNow: water, WaterAYear: waterAYear}
	days := math.Max(0, (waterLimit-water)/waterAYear*daysOfOneYear)
	d.WaterDate = now.AddDate(0, 0, int(days)).Format(time.DateOnly)
	d.First = "date"
	if d.WaterDate < d.AtDate {
		d.First = "water"
	}
	return d
}
