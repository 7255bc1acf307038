package trace

import (
	"errors"
	"math"
	"slices"

	"geminate/brake/strict"
)

// What a trace comes to beside a hold: quick applies counted, a reserve used up, pressure between two circuits, after
// the foot has gone, and how quickly it goes.

// Errors of those.
var (
	ErrNoApply   = errors.New("trace: no apply is in it: from rest to at least half as far as the farthest, and back")
	ErrNotSteady = errors.New("trace: nothing steady is in it: the pressure is to be held for three seconds")
	ErrHeld      = errors.New("trace: it was never let go: the foot is to come up and stay up for three seconds")
)

// Apply is one time the pedal went down and came up again, or stayed down to the end.
type Apply struct {
	S    float64 `json:"s"`    // of its deepest reading
	Peak float64 `json:"peak"` // in the series' unit
	UpS  float64 `json:"up_s"` // when it had come up again; 0 while it is down
}

// Shares of the way from rest to the farthest: an apply begins above the one and has ended below the other.
// Assumptions: a foot that pumps does not come back all the way, and noise is far less than either.
const (
	applyFrom = 0.5
	applyTo   = 0.35
	// leastWay is the least way between rest and the farthest, as a multiple of the noise (the median step from reading
	// to reading).
	leastWay = 12
)

// restAndMost are the fifth and the ninety-ninth hundredth of a series: one reading that is wrong decides neither.
func (x Series) restAndMost() (rest, most float64) {
	v := make([]float64, len(x))
	for i, p := range x {
		v[i] = p.V
	}
	slices.Sort(v)
	at := func(share float64) float64 { return v[int(share*float64(len(v)-1))] }
	return at(0.05), at(0.99)
}

// noise is the median step between neighbours.
func (x Series) noise() float64 {
	steps := make([]float64, 0, len(x))
	for i := 1; i < len(x); i++ {
		steps = append(steps, math.Abs(x[i].V-x[i-1].V))
	}
	return median(steps)
}

// Applies finds them in a series of travel, force or pressure, by two thresholds between rest and the farthest (so that
// noise at one of them counts none twice). The peak is the mean of the deepest three readings.
func Applies(x Series) ([]Apply, error) {
	x = x.Order()
	if len(x) < holdFew {
		return nil, ErrFew
	}
	rest, most := x.restAndMost()
	if most-rest <= leastWay*x.noise() || most <= rest {
		return nil, ErrNoApply
	}
	up, down := rest+applyFrom*(most-rest), rest+applyTo*(most-rest)
	var out []Apply
	var in Series
	end := func(upS float64) {
		if len(in) > 0 {
			a := deepest(in)
			a.UpS = upS
			out = append(out, a)
			in = nil
		}
	}
	for _, p := range x {
		switch {
		case p.V >= up || len(in) > 0 && p.V > down:
			in = append(in, p)
		case len(in) > 0:
			end(p.S)
		}
	}
	end(0)
	if len(out) == 0 {
		return nil, ErrNoApply
	}
	return out, nil
}

func deepest(x Series) Apply {
	by := slices.Clone(x)
	slices.SortFunc(by, func(a, b Sample) int {
		switch {
		case a.V > b.V:
			return -1
		case a.V < b.V:
			return 1
		}
		return 0
	})
	n := min(3, len(by))
	sum := 0.0
	for _, p := range by[:n] {
		sum += p.V
	}
	return Apply{S: round(by[0].S, 2), Peak: round(sum/float64(n), 2)}
}

// Strokes are the applies that have come up again after a moment, and when the last of them had.
type Strokes struct {
	N     int     `json:"n"`
	UpToS float64 `json:"up_to_s"`
}

// StrokesAfter counts them in a travel that is still being drawn; none where nothing can be told yet.
func StrokesAfter(travel Series, s float64) Strokes {
	out := Strokes{UpToS: s}
	list, err := Applies(travel)
	if err != nil {
		return out
	}
	for _, a := range list {
		// By its peak: when it had come up is told a little differently as more is drawn.
		if a.S > s && a.UpS > 0 {
			out.N, out.UpToS = out.N+1, a.UpS
		}
	}
	return out
}

// Pumped are the travels of the first, second and fourth of quick applies, mm.
type Pumped struct {
	FirstMM  float64 `json:"first_mm"`
	SecondMM float64 `json:"second_mm"`
	FourthMM float64 `json:"fourth_mm"`
	Applies  int     `json:"applies"`
}

// PumpUp reads quick applies from travel; ErrFew where there are not four.
func PumpUp(travel Series) (Pumped, error) {
	list, err := Applies(travel)
	if err != nil {
		return Pumped{}, err
	}
	if len(list) < 4 {
		return Pumped{}, ErrFew
	}
	return Pumped{list[0].Peak, list[1].Peak, list[3].Peak, len(list)}, nil
}

// Over are the same as heights over the floor, of a pedal that has so much travel to it.
func (p Pumped) Over(floorMM float64) Pumped {
	over := func(mm float64) float64 { return math.Max(0, round(floorMM-mm, 1)) }
	return Pumped{over(p.FirstMM), over(p.SecondMM), over(p.FourthMM), p.Applies}
}

// Reserve counts the applies with help that were left after the engine stopped, from force and travel: an apply is
// helped while its travel a newton is nearer the first's (as a ratio) than the last's, which is the leg's alone.
// ErrNoApply where first and last are too alike to tell (less than a fifth apart): then nothing was used up, or there
// was nothing.
func Reserve(force, travel Series) (int, error) {
	list, err := Applies(force)
	if err != nil {
		return 0, err
	}
	travel = travel.Order()
	var ease []float64
	for _, a := range list {
		if mm, ok := at(travel, a.S); ok && a.Peak > 0 && mm > 0 {
			ease = append(ease, mm/a.Peak)
		}
	}
	if len(ease) < 2 {
		return 0, ErrFew
	}
	first, last := math.Log(ease[0]), math.Log(ease[len(ease)-1])
	if first-last < math.Log(1.2) {
		return 0, ErrNoApply
	}
	n := 0
	for _, e := range ease {
		if math.Log(e) > (first+last)/2 {
			n++
			continue
		}
		break
	}
	return n, nil
}

// Level is a steady figure with its 90 % interval.
type Level struct {
	V        float64 `json:"v"`
	Low      float64 `json:"low"`
	High     float64 `json:"high"`
	Readings int     `json:"readings"`
}

// steadyS is how long something is to be held, or to be let go, for a figure of it.
const steadyS = 3.0

// level is the mean of readings with 1.645 standard errors, widened for readings that lean on each other as a slope's
// are.
func level(x Series) Level {
	n := float64(len(x))
	mean := 0.0
	for _, p := range x {
		mean += p.V / n
	}
	v := 0.0
	for _, p := range x {
		v += (p.V - mean) * (p.V - mean) / math.Max(1, n-1)
	}
	r := math.Max(0, lagOne(x, 0))
	half := 1.645 * math.Sqrt(v/n*(1+r)/(1-r))
	return Level{round(mean, 4), round(mean-half, 4), round(mean+half, 4), len(x)}
}

// Held is the level of the longest stretch above nine tenths of the most, at least three seconds of it.
func Held(x Series) (Level, error) {
	from, to, err := plateau(x.Order())
	if err != nil {
		return Level{}, err
	}
	return level(within(x.Order(), from, to)), nil
}

func within(x Series, from, to float64) Series {
	a := sort(x, from)
	return x[a:max(a, sort(x, math.Nextafter(to, math.Inf(1))))]
}

func plateau(x Series) (from, to float64, err error) {
	if len(x) < holdFew {
		return 0, 0, ErrFew
	}
	rest, most := x.restAndMost()
	line := rest + 0.9*(most-rest)
	if most-rest < leastWay*x.noise() { // it never moved: all of it is one level
		line = math.Inf(-1)
	}
	begun, best := -1, 0.0
	for i := 0; i <= len(x); i++ {
		switch {
		case i < len(x) && x[i].V >= line:
			if begun < 0 {
				begun = i
			}
		case begun >= 0:
			if d := x[i-1].S - x[begun].S; d > best {
				best, from, to = d, x[begun].S, x[i-1].S
			}
			begun = -1
		}
	}
	if best < steadyS {
		return 0, 0, ErrNotSteady
	}
	return from, to, nil
}

// Balance is the pressure of the one circuit less that of the other while both are held, MPa, with its 90 % interval.
func Balance(a, b Series) (Level, error) {
	a, b = a.Order(), b.Order()
	from, to, err := plateau(a)
	if err != nil {
		return Level{}, err
	}
	fromB, toB, err := plateau(b)
	if err != nil {
		return Level{}, err
	}
	from, to = math.Max(from, fromB), math.Min(to, toB)
	if to-from < steadyS {
		return Level{}, ErrNotSteady
	}
	var d Series
	for _, p := range within(a, from, to) {
		if v, ok := at(b, p.S); ok {
			d = append(d, Sample{p.S, p.V - v})
		}
	}
	if len(d) < holdFew {
		return Level{}, ErrFew
	}
	return level(d), nil
}

// Released is what comes after the foot has gone.
type Released struct {
	// Seconds from nine tenths to a tenth of the way back to where it came to rest.
	Seconds float64 `json:"seconds"`
	// Left is what stays: the mean of the last three seconds.
	Left Level `json:"left"`
}

// Release reads the last time a pressure (or a pedal) was let go: how long it takes and what is left. A residual valve
// leaves some, a covered port lets go slowly.
func Release(x Series) (Released, error) {
	x = x.Order()
	list, err := Applies(x)
	if err != nil {
		return Released{}, err
	}
	last := list[len(list)-1]
	end := x[len(x)-1].S
	tail := within(x, end-steadyS, end)
	if len(tail) < 5 || end-last.S < steadyS {
		return Released{}, ErrHeld
	}
	out := Released{Left: level(tail)}
	_, most := x.restAndMost()
	rest := out.Left.V
	if last.Peak-rest < 0.5*(most-rest) || tail[0].V > rest+0.25*(last.Peak-rest) {
		return Released{}, ErrHeld
	}
	high, low := rest+0.9*(last.Peak-rest), rest+0.1*(last.Peak-rest)
	from, to := math.NaN(), math.NaN()
	for _, p := range within(x, last.S, end) {
		if p.V >= high {
			from, to = p.S, math.NaN()
		}
		if p.V <= low && math.IsNaN(to) && !math.IsNaN(from) {
			to = p.S
		}
	}
	if math.IsNaN(from) || math.IsNaN(to) {
		return Released{}, ErrHeld
	}
	out.Seconds = round(to-from, 2)
	return out, nil
}

// Fall is how fast something goes down by itself (a vacuum with the engine off): the robust line as of a hold, after
// two seconds.
func Fall(x Series) (Slope, error) { return robust(x, 2) }

// Applies that are to be compared are alike: forces within evenShare of their median, and of a pump test the first four
// within pumpMostS, else the last was not a quick one. Assumptions.
const (
	evenShare = 0.25
	pumpN     = 4
	pumpMostS = 12.0
)

// evenApplies says whether the first n applies of a foot were alike and quick; nothing where no force was measured.
func evenApplies(force Series, n int, mostS float64) error {
	if len(force) < holdFew {
		return nil
	}
	list, err := Applies(force)
	if err != nil {
		return err
	}
	if n < math.MaxInt && len(list) < n { // one of them was so light that it is none
		return strict.Refuse("trace.uneven", map[string]any{"low_n": 0.0, "high_n": math.Round(list[0].Peak)})
	}
	list = list[:min(n, len(list))]
	peaks := make([]float64, len(list))
	for i, a := range list {
		peaks[i] = a.Peak
	}
	low, high := slices.Min(peaks), slices.Max(peaks)
	if m := median(peaks); high > (1+evenShare)*m || low < (1-evenShare)*m {
		return strict.Refuse("trace.uneven", map[string]any{"low_n": math.Round(low), "high_n": math.Round(high)})
	}
	if took := list[len(list)-1].S - list[0].S; took > mostS {
		return strict.Refuse("trace.slow", map[string]any{"seconds": math.Round(took), "most_s": mostS})
	}
	return nil
}

// A vacuum that only leaks goes down slowly and never up. What it may step by over a bin, kPa, and come up by in all.
// Assumptions.
const (
	stepKPA = 3.0
	upKPA   = 2.0
)

// undisturbed says whether nobody pressed the pedal and no engine ran while a vacuum fell.
func undisturbed(vacuum Series) error {
	x, _ := vacuum.clean()
	b := x.bins()
	low := math.Inf(1)
	for i, p := range b {
		if i > 0 && b[i-1].V-p.V > stepKPA {
			return strict.Refuse("trace.applied", map[string]any{"at_s": math.Round(p.S)})
		}
		if low = math.Min(low, p.V); p.V-low > upKPA {
			return strict.Refuse("trace.engine", map[string]any{"at_s": math.Round(p.S)})
		}
	}
	return nil
}
