package job

import (
	"math"

	"geminate/brake/bench"
	"geminate/brake/plan"
	"geminate/brake/system"
)

// BenchView is the Bench bleed station.
type BenchView struct {
	Applies  bool           `json:"applies"`
	Why      string         `json:"why,omitempty"` // words key when it does not
	Chambers []ChamberBench `json:"chambers"`
	Strokes  int            `json:"strokes"`
	Needed   int            `json:"needed"`
	HeldCM3  float64        `json:"held_cm3"` // by the cylinder itself
	Verdict  string         `json:"verdict"`  // words key
	// LeastGapS is the time under which a second tap is the same stroke; none where the strokes are fast.
	LeastGapS float64 `json:"least_gap_s"`
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
	// Pocket is what stays, in section, for the drawing.
	Pocket []bench.Point `json:"pocket"`
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
	return j.bench(p, true)
}

// bench computes it for a plan, with the run of every stroke where it is to be shown.
func (j *Job) bench(p *plan.Plan, whole bool) (*BenchView, error) {
	st := &j.State
	v := &BenchView{Applies: p.NeedsBench, Chambers: []ChamberBench{}, Strokes: st.BenchStrokes}
	switch {
	case p.Schools[plan.BenchWhen] == plan.BenchOnVehicle:
		v.Why = "bench.on_vehicle"
	case p.Schools[plan.BenchWhen] == plan.BenchFinal:
		v.Why = "bench.final"
	case !j.Choices.Scope.FitsCylinder():
		v.Why = "bench.no_new_cylinder"
	}
	if !v.Applies {
		return v, nil
	}
	setup := j.Choices.Bench
	if !setup.Fast {
		v.LeastGapS = strokeGapS
	}
	circuits := []string{j.Intake.System.MasterCylinder.Primary.Circuit}
	if sec := j.Intake.System.MasterCylinder.Secondary; sec != nil {
		circuits = append(circuits, sec.Circuit)
	}
	const most = 1000 // strokes computed; by then nothing moves any more
	counted := min(st.BenchStrokes, most)
	worst := 0.0
	for i, g := range j.benchChambers() {
		needed, err := g.StrokesNeeded(setup.TiltDeg, setup.StrokeMM, setup.Fast)
		if err != nil {
			return nil, err
		}
		v.Needed = max(v.Needed, needed)
		if !whole {
			continue
		}
		run, err := g.Bleed(setup.TiltDeg, setup.StrokeMM, max(25, counted), setup.Fast)
		if err != nil {
			return nil, err
		}
		level, err := g.TrappedMM3(0, setup.StrokeMM)
		if err != nil {
			return nil, err
		}
		c := ChamberBench{Circuit: circuits[i], Geometry: g, TrappedCM3: run.TrappedMM3 / 1000, LevelCM3: level / 1000, Needed: needed, Pocket: append([]bench.Point{}, g.PocketMM(setup.TiltDeg, setup.StrokeMM)...), NowCM3: g.VolumeMM3() / 1000}
		for _, a := range run.AirMM3 {
			c.AirCM3 = append(c.AirCM3, a/1000)
		}
		if n := counted; n > 0 {
			c.NowCM3 = run.AirMM3[n-1] / 1000
		}
		worst = math.Max(worst, c.TrappedCM3-c.LevelCM3)
		v.HeldCM3 += g.VolumeMM3() / 1000
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
