// Package pedal estimates the air left in a brake system from a few readings of pedal force and
// travel with the assist exhausted (how-it-computes, section 9).
//
// Units: N and mm at the pad, MPa, cm³ of air at atmospheric pressure.
package pedal

import (
	"encoding/json"
	"fmt"
	"io"
	"math"
	"slices"

	"geminate/brake/strict"
	"geminate/brake/system"
	"geminate/brake/twin"
)

// Reading is one pair of pedal force and travel.
type Reading struct {
	PedalForceN float64 `json:"pedal_force_n"`
	TravelMM    float64 `json:"travel_mm"`
	// By is what the force was read with, "" a gauge.
	By string `json:"by,omitempty"`
}

// What a force is read with.
const (
	ByGauge = "gauge"
	ByScale = "scale" // a bathroom or luggage scale
	ByTrace = "trace" // a force sensor and a travel sensor drawn together, a point the mean of a band of force
)

// Instruments lists them.
var Instruments = []string{ByGauge, ByScale, ByTrace}

// Readings is the file `geminate pedal` reads: with Baseline, the system's own figures were set from a
// known-good curve of this very vehicle.
type Readings struct {
	Readings []Reading `json:"readings"`
	Baseline bool      `json:"baseline"`
}

var readingsShape = strict.Obj(
	strict.Req(
		"readings",
		strict.List(
			1,
			200,
			strict.Obj(strict.Req("pedal_force_n", strict.Num(0, 5000)), strict.Req("travel_mm", strict.Num(0, 500)),
				strict.Opt("by", strict.OneOf(Instruments...))),
		),
	),
	strict.Opt("baseline", strict.Flag()),
)

// Read reads a file of readings strictly: on any fault all are returned and nothing else.
func Read(r io.Reader) (*Readings, error) {
	data, err := io.ReadAll(io.LimitReader(r, strict.MaxBytes+1))
	if err != nil {
		return nil, fmt.Errorf("pedal: reading: %w", err)
	}
	in := strict.Read(data, readingsShape)
	if err := in.Faults.Err(); err != nil {
		return nil, err
	}
	var out Readings
	return &out, json.Unmarshal(in.Clean, &out)
}

// Verdicts.
const (
	Air        = "air"
	Clear      = "clear"
	CannotTell = "cannot_tell"
)

// Why a reading was left out.
const (
	TooLight = "below_take_up"
	Bottomed = "bottomed"
	Floored  = "floored"
)

// LeftOut is a reading the fit cannot use.
type LeftOut struct {
	Index int    `json:"index"`
	Why   string `json:"why"`
}

// Further is the reading that would tell most.
type Further struct {
	Kind        string  `json:"kind"` // reading, baseline
	PedalForceN float64 `json:"pedal_force_n,omitempty"`
	Tells       bool    `json:"tells"` // whether it would settle the verdict if it fell where expected
}

// Result is what the readings say of the air. Air and interval are nil where no reading could be used.
type Result struct {
	AirCM3          *float64    `json:"air_cm3"`
	IntervalCM3     *[2]float64 `json:"interval_cm3"` // 90 % highest density
	PedalCostMM     *float64    `json:"pedal_cost_mm_at_300n"`
	AtForceN        float64     `json:"at_force_n"` // at which that cost is
	Verdict         string      `json:"verdict"`
	Used            int         `json:"used"`
	LeftOut         []LeftOut   `json:"left_out"`
	AtLeastCM3      *float64    `json:"at_least_cm3,omitempty"`      // from readings on the floor or at the end of the stroke
	MayHaveBottomed bool        `json:"may_have_bottomed,omitempty"` // all in one circuit, this air would end its stroke: then it is more
	ShortMM         float64     `json:"shorter_than_twin_mm"`        // how far the pedal stands above the twin's, at most; the system file may be wrong
	Further         *Further    `json:"further,omitempty"`
	ClearBelowCM3   float64     `json:"clear_below_cm3"`
}

// The how-it-computes' figures.
const (
	priorConstant, priorCompliance                 = 0.15, 0.20
	priorConstantBaseline, priorComplianceBaseline = 0.05, 0.10
	priorAirMM3                                    = 10000.0
	ruleMM, gaugeN, scaleN                         = 1.0, 5.0, 20.0
	boosterLossN                                   = 50.0
	// Sensors: what is left of a point's noise in the mean of its band, and the share by which a whole trace is too
	// long or too high, which all its points have in common. Assumptions of ordinary sensors.
	traceMM, traceN        = 0.2, 1.5
	traceGainMM, traceGain = 0.005, 0.01
	atForceN               = 300.0
	inside                 = 0.90
	insideAir              = 0.97 // by which "air" is said, so that of 100 sound vehicles at most 2 are
	cannotTellCM3          = 2.0
	airCostsMM             = 1.0 // of pedal at 300 N, at the least, before "air" is said
)

// clear is what may be left without the pedal telling: 1 cm³, or what costs 10 mm of pedal if that is
// less. Assumption.
const clearCM3, clearPedalMM = 1.0, 10.0

// fit holds one system's readings ready for the estimate.
type fit struct {
	m        *twin.Model
	b0       float64
	rows     []row
	baseline bool
}

type row struct {
	force, volume float64 // N at the pad; mm³ swept by the reading
	output        float64
	gaugeN        float64 // standard deviation of the force
	ruleMM        float64 // and of the travel
}

// Estimate fits constant, compliance and air to the readings. The system's own stated air is left out:
// it is what is asked for. Constant and compliance are Gaussian about the twin's, the twin's whole
// elastic curve standing for κ·P (so that a proportioning knee is not taken for air); air is a wide
// half-Gaussian; the booster's unknown loss with the engine off is integrated over.
func Estimate(s *system.System, in Readings) (Result, error) {
	out := Result{AtForceN: atForceN, Verdict: CannotTell, LeftOut: []LeftOut{}}
	if s.Pedal == nil {
		return out, fmt.Errorf("pedal: a trailer has no pedal to read")
	}
	sound := s.Clone()
	for i := range sound.Circuits {
		sound.Circuits[i].AirCM3 = 0
	}
	f := fit{m: twin.New(sound), baseline: in.Baseline}
	f.b0 = f.m.Sweep(0).ConstantMM3
	strokes := s.MasterCylinder.Primary.StrokeMM + min(0, s.PushrodGapMM)
	if c := s.MasterCylinder.Secondary; c != nil {
		strokes += c.StrokeMM
	}
	end := f.m.PedalRatio() * (s.Pedal.FreePlayMM + max(0, s.PushrodGapMM) + strokes)
	atLeast := math.Inf(-1)
	traced := 0
	for _, r := range in.Readings {
		if r.By == ByTrace {
			traced++
		}
	}
	for i, r := range in.Readings {
		o := f.m.OutputForceN(f.m.RodForceN(r.PedalForceN), false)
		d := f.m.Sweep(o)
		healthy := f.m.Apply(r.PedalForceN, false)
		why := ""
		switch {
		case r.TravelMM >= f.m.FloorMM()-ruleMM || healthy.Floored:
			why = Floored
		case r.TravelMM >= end-ruleMM || d.Bottomed:
			why = Bottomed
		case d.MeanMPA < f.m.TakeUpMPA():
			why = TooLight
		}
		w := row{r.PedalForceN, f.m.AreaMM2() * r.TravelMM / f.m.PedalRatio(), o, gaugeN, ruleMM}
		switch r.By {
		case ByScale:
			w.gaugeN = scaleN
		case ByTrace: // what all points have in common does not average out: it is laid on each as if they were that many fewer
			n := math.Sqrt(float64(traced))
			w.gaugeN, w.ruleMM = math.Hypot(traceN, n*traceGain*r.PedalForceN), math.Hypot(traceMM, n*traceGainMM*r.TravelMM)
		}
		if why == "" {
			f.rows = append(f.rows, w)
			continue
		}
		out.LeftOut = append(out.LeftOut, LeftOut{i, why})
		if why != TooLight && d.MeanMPA > 0 && !d.Bottomed {
			// The pressure may have been lower than the foot says, the air less squeezed: a floor under it.
			sd := math.Hypot(f.sdConstant()*f.b0, f.sdCompliance()*d.ElasticMM3)
			atLeast = math.Max(atLeast, w.volume-f.b0-d.ElasticMM3-1.645*sd)
		}
	}
	out.Used = len(f.rows)
	perCM3 := f.costMM(1)
	out.ClearBelowCM3 = math.Min(clearCM3, clearPedalMM/perCM3)
	if atLeast > 0 {
		v := atLeast / 1000
		out.AtLeastCM3, out.Verdict = &v, Air
	}
	if len(f.rows) == 0 {
		out.Further = f.further(0, out.ClearBelowCM3)
		return out, nil
	}
	e := f.estimate()
	air, lo, hi := e.mode, e.lo, e.hi
	cost := f.costMM(air)
	out.AirCM3, out.IntervalCM3, out.PedalCostMM = &air, &[2]float64{lo, hi}, &cost
	out.MayHaveBottomed = mayHaveBottomed(sound, f.rows, air)
	for _, r := range f.rows {
		d := f.m.Sweep(r.output)
		if short := (d.ConstantMM3 + d.ElasticMM3 - r.volume) / f.m.AreaMM2() * f.m.PedalRatio(); short > out.ShortMM {
			out.ShortMM = short
		}
	}
	// A little air and a little more clearance look alike: it is called air where even the least the readings allow
	// costs a millimetre of pedal (how-it-computes, section 9).
	switch {
	case f.sure(air, e.deep) || out.AtLeastCM3 != nil:
		out.Verdict = Air
	case in.Baseline && hi <= out.ClearBelowCM3:
		out.Verdict = Clear
	default:
		out.Further = f.further(air, out.ClearBelowCM3)
	}
	if onFloor := slices.ContainsFunc(out.LeftOut, func(l LeftOut) bool { return l.Why == Floored }); onFloor && lo > 0 {
		// A pedal that met its floor may hold any air beyond what the lighter readings tell: there is no upper end.
		least := lo
		if out.AtLeastCM3 != nil {
			least = max(least, *out.AtLeastCM3)
		}
		out.AtLeastCM3, out.Verdict, out.Further = &least, Air, nil
		out.AirCM3, out.IntervalCM3, out.PedalCostMM = nil, nil, nil
	}
	return out, nil
}

// costMM is what air in cm³ costs at the pad at 300 N, assist exhausted as in the readings.
func (f *fit) costMM(air float64) float64 {
	p := f.m.Sweep(f.m.OutputForceN(f.m.RodForceN(atForceN), false)).MeanMPA
	return f.m.PedalRatio() / f.m.AreaMM2() * air * 1000 * p / (p + f.m.AtmosphereMPA())
}

// sure says whether the least air the readings allow, by the wider interval, costs enough pedal to be called air.
func (f *fit) sure(air, deep float64) bool {
	return deep > 0 && f.costMM(deep) >= airCostsMM && (f.baseline || air >= cannotTellCM3)
}

func (f *fit) sdConstant() float64 {
	if f.baseline {
		return priorConstantBaseline
	}
	return priorConstant
}

func (f *fit) sdCompliance() float64 {
	if f.baseline {
		return priorComplianceBaseline
	}
	return priorCompliance
}

// mayHaveBottomed tries the whole of the air in each circuit in turn: where that ends a chamber's
// stroke at a force read, the estimate is a lower bound.
func mayHaveBottomed(sound *system.System, rows []row, air float64) bool {
	for k := range sound.Circuits {
		s := sound.Clone()
		s.Circuits[k].AirCM3 = air
		m := twin.New(s)
		for _, r := range rows {
			if m.Sweep(r.output).Bottomed {
				return true
			}
		}
	}
	return false
}
