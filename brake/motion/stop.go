package motion

import (
	"math"

	"geminate/brake/strict"
)

// StopIn is one stop as a phone in a mount felt it: at rest, up to speed straight ahead, brakes, at rest again.
type StopIn struct {
	Samples []Sample `json:"samples"`
}

// Side is where a vehicle pulls to.
type Side string

// Sides.
const (
	Straight Side = "straight"
	ToLeft   Side = "left"
	ToRight  Side = "right"
)

// Sides lists them.
var Sides = []Side{Straight, ToLeft, ToRight}

// Stop is what a stop comes to.
type Stop struct {
	// FromKMH is the speed when the brakes began.
	FromKMH float64 `json:"from_kmh"`
	// MFDD is the mean fully developed deceleration, m/s², with its interval (UN R13-H, annex 3, 1.1: from 0.8 to 0.1
	// of the speed).
	MFDD     float64 `json:"mfdd_mps2"`
	LowMFDD  float64 `json:"low_mps2"`
	HighMFDD float64 `json:"high_mps2"`
	// BuildUpS is from a tenth to nine tenths of the deceleration, s.
	BuildUpS float64 `json:"build_up_s"`
	// StopM is the way from where the brakes began, m.
	StopM float64 `json:"stop_m"`
	// SideMPS2 is the mean acceleration to the right while it was developed, with its interval; Pulls what may be said
	// of it. On a road that falls to one side a vehicle is steered against it: told apart by the other direction alone.
	SideMPS2     float64 `json:"side_mps2"`
	SideHalfMPS2 float64 `json:"side_half_mps2"`
	Pulls        Side    `json:"pulls"`
	// DriftKMH is the speed that was left at rest and taken out.
	DriftKMH float64 `json:"drift_kmh"`
}

// Both is two stops in opposite directions on one road.
type Both struct {
	MFDD     float64 `json:"mfdd_mps2"`
	LowMFDD  float64 `json:"low_mps2"`
	HighMFDD float64 `json:"high_mps2"`
	// SlopePercent is the road's, down in the first direction.
	SlopePercent float64 `json:"slope_percent"`
	SideMPS2     float64 `json:"side_mps2"`
	SideHalfMPS2 float64 `json:"side_half_mps2"`
	Pulls        Side    `json:"pulls"`
}

// How a stop is read. Assumptions, but for the shares of the speed, which are the regulation's. A body dives by 1.2° at
// 1 g on its springs, give or take one: the sensor then feels a part of gravity as braking. A sensor's scale is good to
// a hundredth.
const (
	restStopS     = 0.8
	fromShare     = 0.8
	toShare       = 0.1
	fromLeastKMH  = 8.0
	fromMostKMH   = 45.0
	divePerG      = 1.2 * math.Pi / 180
	diveErrPerG   = 1.0 * math.Pi / 180 / 1.96
	scaleErr      = 0.01
	driftMost     = 0.2  // of the speed
	sideErrMPS2   = 0.1  // how straight a run-up tells ahead, a stop at some 5 m/s²: a degree
	pullLeastMPS2 = 0.25 // what a driver would feel
	restTurnedDeg = 4.0  // between rest before and after: the phone slipped, or the road is another
)

// StopOf works one stop out.
func StopOf(in StopIn) (Stop, error) {
	x, err := ordered("$.samples", in.Samples)
	if err != nil {
		return Stop{}, err
	}
	before, after, from, to, err := rests(x)
	if err != nil {
		return Stop{}, err
	}
	if turned := before.up.angle(after.up) * 180 / math.Pi; turned > restTurnedDeg {
		return Stop{}, strict.Refuse("motion.slipped", map[string]any{"value_deg": turned, "most_deg": restTurnedDeg})
	}
	run := between(x, from, to+1e-9)
	acc := level(run, before.up, after.up)
	speed := integrated(run, acc)
	top := 0
	for i, v := range speed {
		if v.long() > speed[top].long() {
			top = i
		}
	}
	up := before.up.plus(after.up).unit()
	ahead := speed[top].minus(up.by(speed[top].dot(up))).unit()
	right := ahead.cross(up)

	// Speed along ahead; what is left of it at the end is drift, taken out evenly.
	v := make([]float64, len(run))
	for i := range v {
		v[i] = speed[i].dot(ahead)
	}
	drift := v[len(v)-1]
	span := run[len(run)-1].S - run[0].S
	for i := range v {
		v[i] -= drift * (run[i].S - run[0].S) / span
	}
	out := Stop{DriftKMH: 3.6 * drift}
	on := onset(run, acc, ahead, top)
	v0 := v[on]
	out.FromKMH = 3.6 * v0
	switch {
	case math.Abs(drift) > driftMost*math.Max(v0, 0.1):
		return Stop{}, strict.Refuse("motion.drift", map[string]any{"value_kmh": math.Abs(3.6 * drift)})
	case out.FromKMH < fromLeastKMH || out.FromKMH > fromMostKMH:
		return Stop{}, strict.Refuse("motion.speed", map[string]any{"value_kmh": out.FromKMH, "least": fromLeastKMH, "most": fromMostKMH})
	}
	s := make([]float64, len(run))
	for i := 1; i < len(run); i++ {
		s[i] = s[i-1] + (v[i]+v[i-1])/2*(run[i].S-run[i-1].S)
	}
	b, e := falls(v, on, fromShare*v0), falls(v, on, toShare*v0)
	if b < 0 || e <= b || s[e]-s[b] < 0.05 {
		return Stop{}, strict.Refuse("motion.no_stop", nil)
	}
	felt := (v[b]*v[b] - v[e]*v[e]) / 2 / (s[e] - s[b])
	out.StopM = s[len(s)-1] - s[on]
	out.MFDD = felt
	slope := after.up.minus(before.up).dot(ahead)
	half := confidence * math.Sqrt(
		math.Pow(scaleErr*felt, 2)+math.Pow(diveErrPerG*felt, 2)+slope*slope/12+math.Pow(before.shake, 2)/float64(e-b+1),
	)
	out.LowMFDD, out.HighMFDD = out.MFDD-half, out.MFDD+half
	out.BuildUpS = buildUp(run, acc, ahead, on, felt)
	n, lateral := 0.0, 0.0
	for i := b; i <= e; i++ {
		lateral, n = lateral+acc[i].dot(right), n+1
	}
	out.SideMPS2 = lateral / n
	turned := after.up.minus(before.up).dot(right)
	out.SideHalfMPS2 = confidence * math.Sqrt(sideErrMPS2*sideErrMPS2+turned*turned/12+math.Pow(0.01*felt, 2))
	out.Pulls = pulls(out.SideMPS2, out.SideHalfMPS2)
	return out, nil
}

func pulls(side, half float64) Side {
	switch {
	case side-half > 0 && side > pullLeastMPS2:
		return ToRight
	case side+half < 0 && side < -pullLeastMPS2:
		return ToLeft
	}
	return Straight
}

// BothWays puts two stops in opposite directions together: what the road does to the one it does to the other the other
// way round.
func BothWays(one, two Stop) Both {
	h := func(s Stop) float64 { return (s.HighMFDD - s.LowMFDD) / 2 }
	half := math.Hypot(h(one), h(two)) / 2
	b := Both{MFDD: (one.MFDD + two.MFDD) / 2, SlopePercent: 100 * (two.MFDD - one.MFDD) / 2 / gravity,
		SideMPS2: (one.SideMPS2 + two.SideMPS2) / 2, SideHalfMPS2: math.Hypot(one.SideHalfMPS2, two.SideHalfMPS2) / 2}
	b.LowMFDD, b.HighMFDD = b.MFDD-half, b.MFDD+half
	b.Pulls = pulls(b.SideMPS2, b.SideHalfMPS2)
	return b
}

// rests finds the rest before and after: the first and the last stretch in which the phone was still; from and to are
// where the one ends and the other begins.
func rests(x []Sample) (before, after rest, from, to float64, err error) {
	if len(x) == 0 {
		return rest{}, rest{}, 0, 0, strict.Refuse("motion.short", map[string]any{"seconds": restStopS})
	}
	still := func(at float64) (rest, bool) {
		r, err := atRest(between(x, at, at+restStopS+1e-9), restStopS)
		return r, err == nil
	}
	last := x[len(x)-1].S
	ok := false
	for from = x[0].S; from+restStopS < last; from += blockS { // as far as the first rest goes
		r, is := still(from)
		if ok && !is {
			break
		}
		if is {
			before, ok = r, true
		} else if from > x[0].S+2 {
			break
		}
	}
	if !ok {
		return before, after, 0, 0, strict.Refuse("motion.no_rest_before", map[string]any{"seconds": restStopS})
	}
	ok = false
	for to = last - restStopS; to > from; to -= blockS {
		r, is := still(to)
		if ok && !is {
			break
		}
		if is {
			after, ok = r, true
		} else if to < last-restStopS-2 {
			break
		}
	}
	if !ok || to <= from {
		return before, after, 0, 0, strict.Refuse("motion.no_rest_after", map[string]any{"seconds": restStopS})
	}
	// The step back over the edge: motion began within the block that was no longer still.
	return before, after, from, math.Min(last, to+restStopS), nil
}

// level takes gravity out of readings, as it goes evenly from the rest before to the rest after, and what diving adds:
// a body that pitches in proportion to d feels d·cos(p) + g·sin(p).
func level(x []Sample, before, after vec) []vec {
	out := make([]vec, len(x))
	span := x[len(x)-1].S - x[0].S
	for i, a := range x {
		f := (a.S - x[0].S) / span
		out[i] = a.vec().minus(before.by(1 - f).plus(after.by(f))).by(1 / (1 + divePerG))
	}
	return out
}

func integrated(x []Sample, acc []vec) []vec {
	out := make([]vec, len(x))
	for i := 1; i < len(x); i++ {
		out[i] = out[i-1].plus(acc[i].plus(acc[i-1]).by((x[i].S - x[i-1].S) / 2))
	}
	return out
}

// onset is where the brakes begin: going back from where it decelerates most, the last reading that was not yet a tenth
// of it.
func onset(x []Sample, acc []vec, ahead vec, top int) int {
	const over = 0.1 // s, meaned
	d := func(i int) float64 {
		b := between(x, x[i].S-over/2, x[i].S+over/2)
		first := i
		for first > 0 && x[first-1].S >= x[i].S-over/2 {
			first--
		}
		var sum float64
		for k := range b {
			sum -= acc[first+k].dot(ahead)
		}
		return sum / math.Max(1, float64(len(b)))
	}
	most := top
	for i := top; i < len(x); i++ {
		if d(i) > d(most) {
			most = i
		}
	}
	tenth := d(most) / 10
	i := most
	for i > 0 && d(i) > tenth {
		i--
	}
	return i
}

// falls is the first reading from on whose speed is at most this.
func falls(v []float64, from int, to float64) int {
	for i := from; i < len(v); i++ {
		if v[i] <= to {
			return i
		}
	}
	return -1
}

// buildUp is from a tenth to nine tenths of the developed deceleration.
func buildUp(x []Sample, acc []vec, ahead vec, on int, felt float64) float64 {
	from, sum, n := -1.0, 0.0, 0
	begin := on
	for i := on; i < len(x); i++ {
		sum, n = sum-acc[i].dot(ahead), n+1
		for x[i].S-x[begin].S > 0.06 {
			sum, n = sum+acc[begin].dot(ahead), n-1
			begin++
		}
		d := sum / float64(n)
		if from < 0 && d > 0.1*felt {
			from = x[i].S
		}
		if d > 0.9*felt {
			return math.Max(0, x[i].S-math.Max(from, x[on].S))
		}
	}
	return 0
}
