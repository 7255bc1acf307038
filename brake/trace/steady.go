package trace

import (
	"math"
	"slices"

	"geminate/brake/strict"
)

// What a trace was drawn under, read off the trace itself: whether a foot stood on the pedal, evenly, and for how long.

// Figures of a foot that holds. A person with a gauge in sight keeps a force within a tenth; less than leastFootN is a
// foot that rests. binS smooths a tremble and loses nothing that matters to a hold. Assumptions.
const (
	bandShare   = 0.10
	leastFootN  = 50.0
	binS        = 0.5
	gapS        = 3.0 // a silence longer than this ends a stretch
	leastWayMM  = 8.0 // travel under which nobody can have stood on the pedal, where no force was measured
	liftMM      = 3.0
	floorNearMM = 1.5 // of the floor
)

// Pedal is what is known of the pedal a trace is of; the zero value is nothing.
type Pedal struct {
	// TravelMM gives its travel at a foot's force, N; nil where no curve is known.
	TravelMM func(forceN float64) float64
	// FloorMM is how far it goes to the floor; 0 where nobody knows.
	FloorMM float64
}

// Under is what a figure of a trace was read under.
type Under struct {
	FromS float64 `json:"from_s"` // the stretch that was used, s from the beginning
	ToS   float64 `json:"to_s"`
	// Force of the foot over it, N; 0 where none was measured.
	ForceN     float64 `json:"force_n"`
	ForceLowN  float64 `json:"force_low_n"`
	ForceHighN float64 `json:"force_high_n"`
	// CorrectedMM is what the rest of the force's drift moved the pedal over it, and what was taken out.
	CorrectedMM float64 `json:"corrected_mm"`
	// FlooredS is when it met the floor, or came to an end that it did not pass; 0 where it did not.
	FlooredS float64 `json:"floored_s,omitempty"`
	// Rises: the pedal came up, for certain: no hold.
	Rises bool `json:"rises,omitempty"`
	// Dropped readings stood out of the rest and were left out.
	Dropped int `json:"dropped,omitempty"`
}

// Refused is a trace that is not what it was to be, with what it was.
type Refused = strict.Refused

// ── cleaning ──

// clean leaves out readings that stand out of their neighbours (Hampel 1974: further from the median of seven than
// three times their scaled median deviation, 1.4826; from memory), and says how many.
func (x Series) clean() (Series, int) {
	x = x.Order()
	const half = 3
	if len(x) < 2*half+1 {
		return x, 0
	}
	out := make(Series, 0, len(x))
	window := make([]float64, 0, 2*half+1)
	floor := math.Max(4*x.noise(), 2*x.leastStep())
	for i, p := range x {
		window = window[:0]
		for k := max(0, i-half); k <= min(len(x)-1, i+half); k++ {
			window = append(window, x[k].V)
		}
		m := median(window)
		for k := range window {
			window[k] = math.Abs(window[k] - m)
		}
		if math.Abs(p.V-m) <= math.Max(3*1.4826*median(window), floor) {
			out = append(out, p)
		}
	}
	return out, len(x) - len(out)
}

// leastStep is the least change between neighbours that is one: what it is read to.
func (x Series) leastStep() float64 {
	least := math.Inf(1)
	for i := 1; i < len(x); i++ {
		if d := math.Abs(x[i].V - x[i-1].V); d > 0 {
			least = math.Min(least, d)
		}
	}
	if math.IsInf(least, 1) {
		return 0
	}
	return least
}

// bins are medians over binS each.
func (x Series) bins() Series {
	var out Series
	for i := 0; i < len(x); {
		from, k := x[i].S, i
		var v []float64
		for ; k < len(x) && x[k].S < from+binS; k++ {
			v = append(v, x[k].V)
		}
		out = append(out, Sample{(from + x[k-1].S) / 2, median(v)})
		i = k
	}
	return out
}

// ── a foot that holds ──

// stretch is the longest time over which a foot's force stays within bandShare of its median and never under
// leastFootN; zero where there is none of three seconds.
func stretch(force Series) (from, to float64) {
	b := force.bins()
	best := steadyS
	for i := range b {
		if b[i].V < leastFootN {
			continue
		}
		low, high := b[i].V, b[i].V
		v := []float64{}
		for k := i; k < len(b); k++ {
			if b[k].V < leastFootN || k > i && b[k].S-b[k-1].S > gapS {
				break
			}
			low, high = math.Min(low, b[k].V), math.Max(high, b[k].V)
			at, _ := slices.BinarySearch(v, b[k].V)
			v = slices.Insert(v, at, b[k].V)
			m := v[len(v)/2]
			if high > (1+2*bandShare)*m || low < (1-2*bandShare)*m {
				break // nothing longer from here can hold
			}
			if high <= (1+bandShare)*m && low >= (1-bandShare)*m && b[k].S-b[i].S > best {
				best, from, to = b[k].S-b[i].S, b[i].S, b[k].S
			}
		}
	}
	return from, to
}

// forceOver are median and ends of the force over a stretch, in bins.
func forceOver(force Series, from, to float64) (mid, low, high float64) {
	var v []float64
	for _, p := range within(force, from, to).bins() {
		v = append(v, p.V)
	}
	if len(v) == 0 {
		return 0, 0, 0
	}
	low, high = slices.Min(v), slices.Max(v)
	return median(v), low, high
}

// unlifted cuts a stretch of travel where the pedal came up by more than a tremble, and gives the longest part.
func unlifted(travel Series, from, to float64) (float64, float64) {
	b := within(travel, from, to).bins()
	if len(b) == 0 {
		return from, to
	}
	least := math.Max(liftMM, leastWay*travel.noise()/4)
	bestFrom, bestTo, begun, most := from, from, from, math.Inf(-1)
	take := func(end float64) {
		if end-begun > bestTo-bestFrom {
			bestFrom, bestTo = begun, end
		}
	}
	for i, p := range b {
		if i > 0 && p.S-b[i-1].S > gapS {
			take(b[i-1].S)
			begun, most = p.S, p.V
			continue
		}
		if most-p.V > least {
			take(b[max(0, i-1)].S)
			begun, most = p.S, p.V
			continue
		}
		most = math.Max(most, p.V)
	}
	take(to)
	return bestFrom, bestTo
}

// floored says when a pedal that sank came to an end: at the floor where it is known, else where a line through what
// came before is clear and what comes after does not move any more. 0 where it did not.
func floored(travel Series, from, to, floorMM float64) float64 {
	b := within(travel, from, to).bins()
	if floorMM > 0 {
		for i := range b {
			if i+2 < len(b) && b[i].V >= floorMM-floorNearMM && b[i+1].V >= floorMM-floorNearMM && b[i+2].V >= floorMM-floorNearMM {
				return b[i].S
			}
		}
		return 0
	}
	const least = 6 // bins, three seconds
	bestAt, bestSum := 0.0, math.Inf(1)
	var clear bool
	for k := least; k+least <= len(b); k++ {
		first, second := line(b[:k]), line(b[k:])
		if sum := first.rest + second.rest; sum < bestSum {
			bestSum, bestAt = sum, b[k].S
			way := first.slope * (b[k-1].S - b[0].S)
			// A pedal that has settled and goes on does so at one pace: an end is a tenth of it and less.
			clear = first.slope > 4*first.se && way > leastWayMM/2 && math.Abs(second.slope) < math.Max(0.1*first.slope, 2*second.se)
		}
	}
	if clear {
		return bestAt
	}
	return 0
}

// fitted is a least squares line: its slope, that one's standard error, and the sum of squares left.
type fitted struct{ slope, se, rest float64 }

func line(x Series) fitted {
	n := float64(len(x))
	var ms, mv float64
	for _, p := range x {
		ms, mv = ms+p.S/n, mv+p.V/n
	}
	var ss, sv float64
	for _, p := range x {
		ss, sv = ss+(p.S-ms)*(p.S-ms), sv+(p.S-ms)*(p.V-mv)
	}
	if ss == 0 {
		return fitted{rest: math.Inf(1)}
	}
	f := fitted{slope: sv / ss}
	for _, p := range x {
		d := p.V - mv - f.slope*(p.S-ms)
		f.rest += d * d
	}
	f.se = math.Sqrt(f.rest / math.Max(1, n-2) / ss)
	return f
}
