package job

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"time"

	"geminate/brake/bench"
	"geminate/brake/plan"
	"geminate/brake/stand"
	"geminate/brake/system"
)

// BenchView is the Bench bleed station.
type BenchView struct {
	Applies  bool           `json:"applies"`
	Why      string         `json:"why,omitempty"` // words key when it does not
	Chambers []ChamberBench `json:"chambers"`
	Strokes  int            `json:"strokes"`
	Needed   int            `json:"needed"`   // in all: those made and those left
	HeldCM3  float64        `json:"held_cm3"` // by the cylinder itself
	Verdict  string         `json:"verdict"`  // words key
	// LeastGapS is the time under which a second tap is the same stroke; none where the strokes are fast.
	LeastGapS float64 `json:"least_gap_s"`
	FullMM    float64 `json:"full_mm"` // a push to the end of both strokes
	// Fittings are the threads of the ports the hoses screw into.
	Fittings []string `json:"fittings"`
	// PluggedMM is the rod's travel last seen with the ports plugged, and what air that is; nil where nobody looked.
	PluggedMM  *float64 `json:"plugged_mm"`
	PluggedCM3 *float64 `json:"plugged_cm3"`
	// Ports are the ports cracked on the vehicle, where it is bled there.
	Ports []PortCracks `json:"ports"`
}

// ChamberBench is one chamber in the vice.
type ChamberBench struct {
	Circuit    string        `json:"circuit"`
	Geometry   bench.Chamber `json:"geometry"`
	StrokeMM   float64       `json:"stroke_mm"` // of this chamber's piston
	TrappedCM3 float64       `json:"trapped_cm3"`
	LevelCM3   float64       `json:"trapped_level_cm3"` // what a level cylinder would trap
	NowCM3     float64       `json:"now_cm3"`
	Needed     int           `json:"needed"` // strokes left
	// Pocket is what stays, in section, for the drawing.
	Pocket []bench.Point `json:"pocket"`
}

// chamberRoomMM is what a chamber is longer than its piston's stroke where it was not measured (how-it-computes,
// section 7; assumption).
const chamberRoomMM = 6

// drawingAirTimes: with twice the strokes that should do, and bubbles still, air is drawn in at the fittings. Assumption.
const drawingAirTimes = 2

func (j *Job) strokesMM() []float64 {
	m := j.Fitted().MasterCylinder
	out := []float64{m.Primary.StrokeMM}
	if m.Secondary != nil {
		out = append(out, m.Secondary.StrokeMM)
	}
	return out
}

func (j *Job) benchChambers() []bench.Chamber {
	bore := j.Fitted().MasterCylinder.BoreMM
	var out []bench.Chamber
	for _, stroke := range j.strokesMM() {
		length := stroke + chamberRoomMM
		out = append(out, bench.Chamber{BoreMM: bore, LengthMM: length, PortMM: math.Min(j.Choices.Bench.PortMM, length), Port: j.Choices.Bench.Port})
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

// ── strokes ──

// BenchStroked is strokes of the cylinder in the vice, with how it lay and how far it was pushed.
type BenchStroked struct {
	Strokes int `json:"strokes,omitempty"`
	// PushMM is how far the rod went. Jobs from before the two pistons were told apart have StrokeMM, each chamber's own.
	PushMM   *float64 `json:"push_mm,omitempty"`
	StrokeMM *float64 `json:"stroke_mm,omitempty"`
	TiltDeg  *float64 `json:"tilt_deg,omitempty"`
	Fast     *bool    `json:"fast,omitempty"`
}

// Valid implements Body.
func (b *BenchStroked) Valid() error {
	return inRange("$.data.strokes", float64(b.Strokes), 0, mostStrokes)
}

// Check implements Body.
func (b *BenchStroked) Check(*Job) error { return nil }

// CheckAt: so many strokes take their time.
func (b *BenchStroked) CheckAt(j *Job, at time.Time) error {
	return j.checkPace(b.Strokes, j.State.BenchAt, at)
}

// Settle keeps how the cylinder lies now.
func (b *BenchStroked) Settle(j *Job) {
	s := j.Choices.Bench
	b.PushMM, b.StrokeMM, b.TiltDeg, b.Fast = &s.StrokeMM, nil, &s.TiltDeg, &s.Fast
}

func (b *BenchStroked) predate() { b.StrokeMM, b.PushMM = b.PushMM, nil }

// strokes is what each piston did.
func (b *BenchStroked) strokes(j *Job) []bench.Stroke {
	var out []bench.Stroke
	at := func(p *float64) float64 {
		if p == nil {
			return 0
		}
		return *p
	}
	own := j.strokesMM()
	shared := bench.Share(at(b.PushMM), own...)
	for i := range own {
		mm := shared[i]
		if b.PushMM == nil {
			mm = at(b.StrokeMM)
		}
		out = append(out, bench.Stroke{StrokeMM: mm, TiltDeg: at(b.TiltDeg), Fast: b.Fast != nil && *b.Fast})
	}
	return out
}

// Apply implements Body: the air is folded stroke by stroke, each as it was made. Another cylinder begins anew.
func (b *BenchStroked) Apply(j *Job, e *Event) {
	st := &j.State
	st.BenchStrokes += max(1, b.Strokes)
	st.counted("bench", e)
	st.BenchAt = e.At
	j.account().Took(strokeLeastS / 2 * float64(max(1, b.Strokes)))
	j.worked(e, string(e.Kind))
	if j.Intake.System == nil {
		return
	}
	if st.BenchOf != j.benchOf() { // another cylinder begins anew
		st.BenchStrokes = max(1, b.Strokes)
	}
	chambers, air := j.benchChambers(), j.benchAir()
	for i, s := range b.strokes(j) {
		for range max(1, b.Strokes) {
			if next, err := chambers[i].After(air[i]*1000, s); err == nil {
				air[i] = next / 1000
			}
		}
	}
	st.BenchAirCM3, st.BenchOf, st.PluggedMM = air, j.benchOf(), nil
}

// benchOf names the cylinder in the vice: which one it is, and what it is computed from.
func (j *Job) benchOf() string {
	m := j.Fitted().MasterCylinder
	return fmt.Sprint(j.pair().Cylinder, m.BoreMM, j.strokesMM())
}

// benchAir is the air in each chamber, cm³: of a cylinder nobody stroked, all of it.
func (j *Job) benchAir() []float64 {
	if j.State.BenchOf == j.benchOf() && len(j.State.BenchAirCM3) > 0 {
		return slices.Clone(j.State.BenchAirCM3)
	}
	var out []float64
	for _, c := range j.benchChambers() {
		out = append(out, c.VolumeMM3()/1000)
	}
	return out
}

// BenchPlugged is the rod's travel felt with the ports plugged: what is left is air.
type BenchPlugged struct {
	RemainingMM float64 `json:"remaining_mm"`
}

// Valid implements Body.
func (b *BenchPlugged) Valid() error { return inRange("$.data.remaining_mm", b.RemainingMM, 0, 100) }

// Check implements Body.
func (b *BenchPlugged) Check(*Job) error { return nil }

// Apply implements Body: what is measured wins over what was computed.
func (b *BenchPlugged) Apply(j *Job, e *Event) {
	st := &j.State
	st.counted("bench", e)
	j.worked(e, string(e.Kind))
	if j.Intake.System == nil {
		return
	}
	air := j.benchAir()
	sum := 0.0
	for _, a := range air {
		sum += a
	}
	measured := bench.PluggedCM3(j.Fitted().MasterCylinder.BoreMM, b.RemainingMM)
	for i := range air {
		if sum > 0 {
			air[i] *= measured / sum
		} else {
			air[i] = measured / float64(len(air))
		}
	}
	st.BenchAirCM3, st.BenchOf, st.PluggedMM = air, j.benchOf(), &b.RemainingMM
}

// ── on the vehicle ──

// cracksAPort: about ten times a port with the pedal propped (common practice, no source).
const cracksAPort = 10

// PortCracks is a port cracked on the vehicle.
type PortCracks struct {
	Port  string `json:"port"`
	Count int    `json:"count"`
	Of    int    `json:"of"`
	Clear int    `json:"clear"` // in a row
	Done  bool   `json:"done"`
}

// PortCracked is a line cracked at the cylinder with the pedal held, and closed again before it was let go.
type PortCracked struct {
	Port  string `json:"port"`
	Clear bool   `json:"clear,omitempty"`
}

// Valid implements Body.
func (p *PortCracked) Valid() error { return text("$.data.port", p.Port, nameMost) }

// Check implements Body.
func (p *PortCracked) Check(j *Job) error {
	for _, at := range j.portCracks() {
		if at.Port == p.Port {
			return nil
		}
	}
	return fault("$.data.port", "fault.no_such_port", map[string]any{"value": clip(p.Port)})
}

// CheckAt: there is fluid above the port, or what comes in is air.
func (p *PortCracked) CheckAt(j *Job, _ time.Time) error {
	if err := p.Check(j); err != nil {
		return err
	}
	if !j.fluidAbove() {
		return ErrGate{[]string{"close.fill"}}
	}
	return nil
}

// fluidAbove says whether every tank stands above its lowest port.
func (j *Job) fluidAbove() bool {
	l := j.levels()
	for _, c := range j.Intake.System.Circuits {
		if level, _, lowest := l.Level(c.ID); level <= lowest+1e-9 {
			return false
		}
	}
	return j.account().StateOf(stand.Reservoir) != stand.Off
}

// Apply implements Body.
func (p *PortCracked) Apply(j *Job, e *Event) {
	next := maps.Clone(j.State.Cracks)
	if next == nil {
		next = map[string]PortCracks{}
	}
	at := next[p.Port]
	at.Port, at.Count = p.Port, at.Count+1
	if p.Clear {
		at.Clear++
	} else {
		at.Clear = 0
	}
	if !j.fluidAbove() { // told by a file: it drew air
		at.Count, at.Clear = 0, 0
	}
	next[p.Port] = at
	j.State.Cracks = next
	j.State.counted("bench", e)
	j.account().Took(strokeLeastS)
	j.worked(e, string(e.Kind), stand.Lines, stand.Bench, stand.Fluid)
	j.account().Move(e.when(), stand.Lines, stand.Fluid)
}

// portCracks are the ports of the cylinder that is fitted, as cracked so far.
func (j *Job) portCracks() []PortCracks {
	out := []PortCracks{}
	p, err := j.Plan()
	if err != nil {
		return out
	}
	for _, l := range p.Lines {
		name := l.Position
		if name == "" {
			name = l.Circuit
		}
		at := j.State.Cracks[name]
		at.Port, at.Of = name, cracksAPort
		at.Done = at.Count >= cracksAPort || at.Clear >= clearTwice
		out = append(out, at)
	}
	return out
}

func (j *Job) cracked() bool {
	for _, p := range j.portCracks() {
		if !p.Done {
			return false
		}
	}
	return true
}

// ── the view ──

// Bench computes the bench bleed as counted so far.
func (j *Job) Bench() (*BenchView, error) {
	p, err := j.Plan()
	if err != nil {
		return nil, err
	}
	return j.bench(p)
}

func (j *Job) bench(p *plan.Plan) (*BenchView, error) {
	st := &j.State
	strokes := st.BenchStrokes
	if j.Intake.System != nil && st.BenchOf != "" && st.BenchOf != j.benchOf() {
		strokes = 0 // they were another cylinder's
	}
	v := &BenchView{Applies: p.NeedsBench, Chambers: []ChamberBench{}, Strokes: strokes, Fittings: []string{}, Ports: []PortCracks{}, PluggedMM: st.PluggedMM}
	switch {
	case p.Schools[plan.BenchWhen] == plan.BenchOnVehicle:
		v.Why, v.Ports = "bench.on_vehicle", j.portCracks()
	case p.Schools[plan.BenchWhen] == plan.BenchFinal:
		v.Why = "bench.final"
	case !j.putsOnCylinder():
		v.Why = "bench.no_new_cylinder"
	}
	if !v.Applies {
		return v, nil
	}
	for _, l := range p.Lines {
		if l.Thread != "" && !slices.Contains(v.Fittings, l.Thread) {
			v.Fittings = append(v.Fittings, l.Thread)
		}
	}
	setup := j.Choices.Bench
	if !setup.Fast {
		v.LeastGapS = strokeGapS
	}
	own := j.strokesMM()
	for _, s := range own {
		v.FullMM += s
	}
	worst, left, err := j.benchNow(v, bench.Share(setup.StrokeMM, own...))
	if err != nil {
		return nil, err
	}
	v.Needed = v.Strokes + left
	if st.PluggedMM != nil {
		air := bench.PluggedCM3(j.Fitted().MasterCylinder.BoreMM, *st.PluggedMM)
		v.PluggedCM3 = &air
	}
	const tiltMatters = 0.05 // cm³
	switch {
	case worst > tiltMatters:
		v.Verdict = "bench.level_it"
	case left > 0 && st.PluggedMM != nil:
		v.Verdict = "bench.air_felt"
	case left > 0:
		v.Verdict = "bench.go_on"
	case strokes >= drawingAirTimes*j.benchFull():
		v.Verdict = "bench.drawing_air"
	default:
		v.Verdict = "bench.done"
	}
	return v, nil
}

// benchNow fills in the chambers as they are, and gives what the tilt keeps beyond a level cylinder, cm³, and the strokes
// left.
func (j *Job) benchNow(v *BenchView, shared []float64) (worst float64, left int, err error) {
	setup, air := j.Choices.Bench, j.benchAir()
	m := j.Intake.System.MasterCylinder
	circuits := []string{m.Primary.Circuit}
	if m.Secondary != nil {
		circuits = append(circuits, m.Secondary.Circuit)
	}
	for i, g := range j.benchChambers() {
		stroke := bench.Stroke{StrokeMM: shared[i], TiltDeg: setup.TiltDeg, Fast: setup.Fast}
		n, err := g.Needed(air[i]*1000, stroke)
		if err != nil {
			return 0, 0, err
		}
		if n < 0 {
			return 0, 0, fmt.Errorf("bench: strokes of %v mm never clear this chamber: lengthen them", setup.StrokeMM)
		}
		trap, err := g.TrappedMM3(setup.TiltDeg, shared[i])
		if err != nil {
			return 0, 0, err
		}
		level, err := g.TrappedMM3(0, shared[i])
		if err != nil {
			return 0, 0, err
		}
		left = max(left, n)
		worst = math.Max(worst, math.Min(air[i], trap/1000)-level/1000)
		v.HeldCM3 += g.VolumeMM3() / 1000
		v.Chambers = append(v.Chambers, ChamberBench{Circuit: circuits[i], Geometry: g, StrokeMM: shared[i], TrappedCM3: trap / 1000, LevelCM3: level / 1000, NowCM3: air[i], Needed: n,
			Pocket: append([]bench.Point{}, g.PocketMM(setup.TiltDeg, shared[i])...)})
	}
	return worst, left, nil
}

// benchFull is how many strokes like the present ones a cylinder full of air takes.
func (j *Job) benchFull() int {
	setup := j.Choices.Bench
	shared, most := bench.Share(setup.StrokeMM, j.strokesMM()...), 1
	for i, g := range j.benchChambers() {
		if n, err := g.StrokesNeeded(setup.TiltDeg, shared[i], setup.Fast); err == nil {
			most = max(most, n)
		}
	}
	return most
}
