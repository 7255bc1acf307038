// Package trace reads what an instrument drew over time: how fast a held pedal sinks, the curve of force and travel,
// how vacuum falls. Every figure comes with its interval and the method that gave it. It knows nothing of where samples
// come from.
package trace

import (
	"cmp"
	"errors"
	"math"
	"slices"
)

// Sample is one reading: seconds since the trace began, and the figure in the channel's unit.
type Sample struct {
	S float64 `json:"s"`
	V float64 `json:"v"`
}

// Series is one channel, in time's order.
type Series []Sample

// Bucket is a stretch of a series that was thinned: nothing of its extremes is lost.
type Bucket struct {
	S    float64 `json:"s"` // its middle
	Min  float64 `json:"lo"`
	Max  float64 `json:"hi"`
	Mean float64 `json:"v"`
	N    int     `json:"n"`
}

// Errors of traces.
var (
	ErrShort = errors.New("trace: too short: a hold needs fifteen seconds and twenty readings after it has settled")
	ErrFew   = errors.New("trace: too few readings")
)

// Order sorts a series by time and drops what is there twice: the first of two readings of one moment stays.
func (x Series) Order() Series {
	out := slices.Clone(x)
	slices.SortStableFunc(out, func(a, b Sample) int { return cmp.Compare(a.S, b.S) })
	return slices.CompactFunc(out, func(a, b Sample) bool { return a.S == b.S })
}

// Thin keeps a series in at most n buckets of equal time.
func (x Series) Thin(n int) []Bucket {
	if len(x) == 0 || n < 1 {
		return []Bucket{}
	}
	from, to := x[0].S, x[len(x)-1].S
	width := (to - from) / float64(n)
	var out []Bucket
	at := -1
	for _, p := range x {
		k := 0
		if width > 0 {
			k = min(n-1, int((p.S-from)/width))
		}
		if k != at {
			out, at = append(out, Bucket{Min: p.V, Max: p.V}), k
		}
		b := &out[len(out)-1]
		b.S, b.Mean = b.S+p.S, b.Mean+p.V
		b.Min, b.Max, b.N = math.Min(b.Min, p.V), math.Max(b.Max, p.V), b.N+1
	}
	for i := range out {
		b := &out[i]
		b.S, b.Mean = round(b.S/float64(b.N), 3), round(b.Mean/float64(b.N), 4)
		b.Min, b.Max = round(b.Min, 4), round(b.Max, 4)
	}
	return out
}

func round(x float64, digits int) float64 {
	p := math.Pow(10, float64(digits))
	return math.Round(x*p) / p
}

// Slope is how fast something goes, in units a second, with its 90 % interval.
type Slope struct {
	PerS     float64 `json:"per_s"`
	Low      float64 `json:"low"`
	High     float64 `json:"high"`
	Seconds  float64 `json:"seconds"` // it was held for, after settling
	Readings int     `json:"readings"`
	// Settled is when the settling was over, s from the beginning.
	SettledS float64 `json:"settled_s"`
}

// What a hold takes. A foot and a pedal settle in the first seconds; the rest is the leak's. Common practice for the
// wait; the least length is an assumption.
const (
	settleS   = 5.0
	holdLeast = 15.0 // s after settling
	holdFew   = 20   // readings after settling
	// slopesMost points go into the pairs: more are thinned to their means first, the slope does not need them.
	slopesMost = 150
)

// robust is the rate of a pedal that was held, from its travel over time: the line of Theil and Sen (median of the
// slopes of all pairs; Sen 1968) through what comes after so many seconds of settling. Its interval is Sen's, from the
// ranks of those slopes by Kendall's variance, widened for readings that are not independent by their lag-one
// correlation. Whether it was held Hold says.
func robust(all Series, settleS float64) (Slope, error) {
	x := all.Order()
	if len(x) == 0 {
		return Slope{}, ErrShort
	}
	from := x[0].S + settleS
	x = x[sort(x, from):]
	if len(x) < holdFew || x[len(x)-1].S-x[0].S < holdLeast {
		return Slope{}, ErrShort
	}
	out := Slope{Seconds: round(x[len(x)-1].S-x[0].S, 2), Readings: len(x), SettledS: round(x[0].S, 2)}
	return theilSen(x, out), nil
}

func sort(x Series, from float64) int {
	i, _ := slices.BinarySearchFunc(x, from, func(p Sample, s float64) int { return cmp.Compare(p.S, s) })
	return i
}

func theilSen(x Series, out Slope) Slope {
	if len(x) > slopesMost {
		thin := x.Thin(slopesMost)
		x = make(Series, len(thin))
		for i, b := range thin {
			x[i] = Sample{b.S, b.Mean}
		}
	}
	n := len(x)
	slopes := make([]float64, 0, n*(n-1)/2)
	for i := range x {
		for k := i + 1; k < n; k++ {
			if d := x[k].S - x[i].S; d > 0 {
				slopes = append(slopes, (x[k].V-x[i].V)/d)
			}
		}
	}
	slices.Sort(slopes)
	out.PerS = median(slopes)
	// Kendall's variance of the number of rising pairs, n(n−1)(2n+5)/18; 1.645 of it either way in ranks.
	variance := float64(n*(n-1)*(2*n+5)) / 18
	if r := lagOne(x, out.PerS); r > 0 { // readings that lean on each other tell less
		variance *= (1 + r) / (1 - r)
	}
	c := 1.645 * math.Sqrt(variance)
	at := func(rank float64) float64 { return slopes[int(math.Max(0, math.Min(float64(len(slopes)-1), rank)))] }
	out.Low, out.High = at(math.Floor((float64(len(slopes))-c)/2)), at(math.Ceil((float64(len(slopes))+c)/2))
	return out
}

// lagOne is how much what is left over a line leans on the one before, at most 0.95.
func lagOne(x Series, slope float64) float64 {
	rest := make([]float64, len(x))
	for i, p := range x {
		rest[i] = p.V - slope*p.S
	}
	m := median(slices.Clone(rest))
	var a, b float64
	for i := range rest {
		d := rest[i] - m
		b += d * d
		if i > 0 {
			a += d * (rest[i-1] - m)
		}
	}
	if b == 0 {
		return 0
	}
	return math.Min(0.95, a/b)
}

func median(x []float64) float64 {
	slices.Sort(x)
	n := len(x)
	switch {
	case n == 0:
		return 0
	case n%2 == 1:
		return x[n/2]
	}
	return (x[n/2-1] + x[n/2]) / 2
}

// SinkMM is how far a hold of so many seconds sinks at this rate, mm, with the ends of its interval. A pedal that comes
// up sinks by less than nothing: it is said as it is.
func (s Slope) SinkMM(seconds float64) (mm, low, high float64) {
	return s.PerS * seconds, s.Low * seconds, s.High * seconds
}

// Point is a force with the travel it took.
type Point struct {
	ForceN   float64 `json:"force_n"`
	TravelMM float64 `json:"travel_mm"`
	N        int     `json:"n"`
}

// Curve is travel by force while the foot goes down, the median of each band of force of so many newtons, with how many
// readings were left out. Force and travel are two channels whose moments differ: force is laid at the travel's,
// smoothed over its tremble, so that noise neither picks the readings nor shifts them, and one wild reading ends
// nothing.
func Curve(force, travel Series, bandN float64) ([]Point, int, error) {
	force, lostF := force.clean()
	travel, lostT := travel.clean()
	if len(force) < 3 || len(travel) < 3 {
		return nil, 0, ErrFew
	}
	smooth := force.smoothed()
	top := 0
	for i, p := range smooth {
		if p.V > smooth[top].V {
			top = i
		}
	}
	noise := 3 * force.noise()
	forces, ways := map[int][]float64{}, map[int][]float64{}
	most := math.Inf(-1)
	for _, p := range travel {
		f, ok := at(smooth, p.S)
		if !ok || f <= 0 || p.S > smooth[top].S || f < most-noise { // coming up again: what the seals hold back is another curve
			continue
		}
		most = math.Max(most, f)
		k := int(f / bandN)
		forces[k], ways[k] = append(forces[k], f), append(ways[k], p.V)
	}
	out := []Point{}
	for k := range forces {
		out = append(out, Point{round(median(forces[k]), 2), round(median(ways[k]), 3), len(forces[k])})
	}
	if len(out) < 3 {
		return nil, lostF + lostT, ErrFew
	}
	slices.SortFunc(out, func(a, b Point) int { return cmp.Compare(a.ForceN, b.ForceN) })
	return out, lostF + lostT, nil
}

// smoothS is over how long a force is smoothed for a curve. Assumption: a foot goes down over seconds.
const smoothS = 0.3

// smoothed is the mean of as many readings on either side of each as lie within smoothS about it: as many, so that a
// ramp stays one.
func (x Series) smoothed() Series {
	sums := make([]float64, len(x)+1)
	for i, p := range x {
		sums[i+1] = sums[i] + p.V
	}
	out := make(Series, len(x))
	for i, p := range x {
		k := 0
		for i-k-1 >= 0 && i+k+1 < len(x) && p.S-x[i-k-1].S <= smoothS/2 && x[i+k+1].S-p.S <= smoothS/2 {
			k++
		}
		out[i] = Sample{p.S, (sums[i+k+1] - sums[i-k]) / float64(2*k+1)}
	}
	return out
}

// at is a series between its readings; not outside them.
func at(x Series, s float64) (float64, bool) {
	i := sort(x, s)
	switch {
	case i < len(x) && x[i].S == s:
		return x[i].V, true
	case i == 0 || i == len(x):
		return 0, false
	}
	a, b := x[i-1], x[i]
	return a.V + (b.V-a.V)*(s-a.S)/(b.S-a.S), true
}

// CM3OfGrams is the volume of brake fluid of a mass, cm³: 1.06 g/cm³ at 20 °C less 0.00085 a kelvin for glycol fluids
// (classes 3, 4 and 5.1; from memory, ±1 %), 0.96 for silicone.
func CM3OfGrams(grams, celsius float64, silicone bool) float64 {
	density, slope := 1.06, 0.00085
	if silicone {
		density, slope = 0.96, 0.0009
	}
	return grams / (density - slope*(celsius-20))
}
