package job

import (
	"fmt"
	"math"
	"slices"

	"geminate/brake/bench"
	"geminate/brake/plan"
	"geminate/brake/system"
)

// patienceS is how long a piston is let come back and the chamber fills before the next slow stroke, s ("let it come
// back slowly, wait for it to fill", no source). Assumption.
const patienceS = 4

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
	// PatienceS is how long to wait between two slow strokes, s; 0 where they are made fast.
	PatienceS float64 `json:"patience_s"`
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

// drawingAirTimes: with twice the strokes that should do, and bubbles still, air is drawn in at the fittings.
// Assumption.
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
		out = append(out,
			bench.Chamber{BoreMM: bore, LengthMM: length, PortMM: math.Min(j.Choices.Bench.PortMM, length), Port: j.Choices.Bench.Port})
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

// ── the view ──

// Bench computes the bench bleed as counted so far.
func (j *Job) Bench() (*BenchView, error) {
	p, err := j.Plan()
	if err != nil {
		return nil, err
	}
	return j.bench(p)
}

// benchThreads are those of the cylinder in the vice: the new one's, or the old one's where that goes back.
func (j *Job) benchThreads() []string {
	out := []string{}
	unit := j.Choices.Unit
	if unit == nil || !j.putsOnCylinder() {
		unit = j.Choices.Old
	}
	if unit == nil {
		return out
	}
	for _, p := range unit.Ports {
		if p.Thread != "" && !slices.Contains(out, p.Thread) {
			out = append(out, p.Thread)
		}
	}
	return out
}

func (j *Job) bench(p *plan.Plan) (*BenchView, error) {
	st := &j.State
	strokes := st.BenchStrokes
	if j.Intake.System != nil && st.BenchOf != "" && st.BenchOf != j.benchOf() {
		strokes = 0 // they were another cylinder's
	}
	v := &BenchView{
		Applies:   p.NeedsBench,
		Chambers:  []ChamberBench{},
		Strokes:   strokes,
		Fittings:  []string{},
		Ports:     []PortCracks{},
		PluggedMM: st.PluggedMM,
	}
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
	v.Fittings = j.benchThreads()
	setup := j.Choices.Bench
	if !setup.Fast {
		v.LeastGapS, v.PatienceS = strokeGapS, patienceS
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

// benchNow fills in the chambers as they are, and gives what the tilt keeps beyond a level cylinder, cm³, and the
// strokes left.
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
		v.Chambers = append(
			v.Chambers,
			ChamberBench{
				Circuit:    circuits[i],
				Geometry:   g,
				StrokeMM:   shared[i],
				TrappedCM3: trap / 1000,
				LevelCM3:   level / 1000,
				NowCM3:     air[i],
				Needed:     n,
				Pocket:     append([]bench.Point{}, g.PocketMM(setup.TiltDeg, shared[i])...),
			},
		)
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
