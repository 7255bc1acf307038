package motion

import (
	"math"

	"geminate/brake/strict"
	"geminate/brake/trace"
	"geminate/brake/units"
)

// TravelIn is a phone strapped to a pedal's arm: first at rest, then while the pedal is worked.
type TravelIn struct {
	Samples []Sample `json:"samples"`
	// RadiusMM is from the pedal's pivot to the middle of its pad, by tape.
	RadiusMM float64 `json:"radius_mm"`
	// AxisDeg is how far the axis the arm turns about is from upright; nil takes a level one, as pedals have.
	AxisDeg *float64 `json:"axis_deg,omitempty"`
}

// RadiusMM bounds a pedal's arm: a pallet truck's to a lorry's.
var RadiusMM = units.Bound{Min: 80, Max: 600}

// Travelled is what a pedal did.
type Travelled struct {
	// Travel is the pad's, mm from where it rested, by time: a trace as any instrument's.
	Travel trace.Series `json:"travel"`
	// MostMM is the farthest it stayed for a moment, with its interval.
	MostMM float64 `json:"most_mm"`
	LowMM  float64 `json:"low_mm"`
	HighMM float64 `json:"high_mm"`
	// RestMM is the spread of what was told while it rested, of means over a second, mm: the noise as it was seen.
	RestMM float64 `json:"rest_mm"`
}

// RestS is how long it rests before anything counts. An arm whose axis is within uprightDeg of upright moves gravity in
// no direction the phone could feel. A tape reads an arm to tapeMM; readings are meaned over smoothS. A pedal that went
// less than movedLeastMM said nothing. Assumptions.
const (
	RestS        = 2.0
	uprightDeg   = 10.0
	tapeMM       = 1.5
	smoothS      = 0.1
	peakS        = 0.5
	movedLeastMM = 3.0
)

// TravelOf works it out: by how much gravity has turned in the phone since the pedal rested, times the arm. Only while
// nothing shakes does gravity tell: readings that are longer or shorter than gravity by more than shakeMost are left
// out.
func TravelOf(in TravelIn) (Travelled, error) {
	if !RadiusMM.Holds(in.RadiusMM) {
		return Travelled{}, strict.FaultAt("$.radius_mm", "fault.range",
			map[string]any{"value": in.RadiusMM, "min": RadiusMM.Min, "max": RadiusMM.Max})
	}
	share := 1.0
	if in.AxisDeg != nil {
		if a := *in.AxisDeg; !(a >= 0 && a <= 90) {
			return Travelled{}, strict.FaultAt("$.axis_deg", "fault.range", map[string]any{"value": "?", "min": 0, "max": 90})
		} else if a < uprightDeg {
			return Travelled{}, strict.Refuse("motion.upright", map[string]any{"value_deg": a, "least_deg": uprightDeg})
		}
		share = math.Sin(*in.AxisDeg * math.Pi / 180)
	}
	x, err := ordered("$.samples", in.Samples)
	if err != nil {
		return Travelled{}, err
	}
	if len(x) == 0 {
		return Travelled{}, strict.Refuse("motion.short", map[string]any{"seconds": RestS})
	}
	still := between(x, x[0].S, x[0].S+RestS)
	r, err := atRest(still, RestS)
	if err != nil {
		return Travelled{}, err
	}
	length := r.up.long()
	var calm []Sample
	for _, a := range x {
		if math.Abs(a.vec().long()-length) <= shakeMost+4*r.shake {
			calm = append(calm, a)
		}
	}
	means := smoothed(calm)
	axis := turningAxis(r.up, means)
	out := Travelled{Travel: trace.Series{}}
	for _, a := range means {
		v := a.vec()
		// Seen from the axis, gravity turns by the whole angle; between its ends it is sin(axis) of it.
		half := math.Min(1, math.Sin(r.up.angle(v)/2)/share)
		mm := 2 * math.Asin(half) * in.RadiusMM
		if r.up.cross(v).dot(axis) < 0 {
			mm = -mm
		}
		out.Travel = append(out.Travel, trace.Sample{S: a.S - x[0].S, V: math.Round(1000*mm) / 1000})
	}
	out.RestMM = r.errDeg * math.Pi / 180 * in.RadiusMM * math.Sqrt(RestS) / share
	out.MostMM = stayed(out.Travel)
	if out.MostMM < math.Max(movedLeastMM, 6*out.RestMM) {
		return Travelled{}, strict.Refuse("motion.nothing_moved", map[string]any{"value_mm": out.MostMM})
	}
	// Both ends by their noise over the moment each is meaned over; the arm by the tape.
	noise := out.RestMM * math.Sqrt(1/RestS+1/peakS)
	half := confidence * math.Hypot(noise, out.MostMM*tapeMM/in.RadiusMM)
	out.LowMM, out.HighMM = out.MostMM-half, out.MostMM+half
	return out, nil
}

// smoothed are means over smoothS.
func smoothed(x []Sample) []Sample {
	var out []Sample
	for i := 0; i < len(x); {
		var m Sample
		n := 0.0
		for from := x[i].S; i < len(x) && x[i].S < from+smoothS; i++ {
			m = Sample{m.S + x[i].S, m.X + x[i].X, m.Y + x[i].Y, m.Z + x[i].Z}
			n++
		}
		out = append(out, Sample{m.S / n, m.X / n, m.Y / n, m.Z / n})
	}
	return out
}

// turningAxis is the direction about which gravity turned the most: down is what the pedal did most, whichever way the
// phone hangs.
func turningAxis(up vec, x []Sample) vec {
	var sum, most vec
	for _, a := range x {
		c := up.cross(a.vec())
		if c.long() > most.long() {
			most = c
		}
	}
	for _, a := range x {
		c := up.cross(a.vec())
		if c.dot(most) > 0 {
			sum = sum.plus(c)
		} else {
			sum = sum.minus(c)
		}
	}
	if sum.dot(most) < 0 {
		sum = sum.by(-1)
	}
	return sum.unit()
}

// stayed is the farthest travel that a moment's mean reached.
func stayed(x trace.Series) float64 {
	most := 0.0
	from, sum := 0, 0.0
	for i, p := range x {
		sum += p.V
		for p.S-x[from].S > peakS {
			sum -= x[from].V
			from++
		}
		if p.S-x[from].S >= 0.7*peakS {
			most = math.Max(most, sum/float64(i-from+1))
		}
	}
	return most
}

// sinkLeastMMPerMin is the slowest sink that is told: a phone's own drift is less. Assumption, tried on made motion.
const sinkLeastMMPerMin = 0.5

// Sinks says whether a hold's rate, by a phone, is a sink: its interval is over nothing, and it is faster than a phone
// drifts.
func Sinks(s trace.Slope) bool { return s.Low > 0 && 60*s.PerS >= sinkLeastMMPerMin }
