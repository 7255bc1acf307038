package twin

import (
	"fmt"
	"math"
)

// Sample is the held pedal at one moment.
type Sample struct {
	TimeS              float64            `json:"t_s"`
	TravelMM           float64            `json:"pedal_travel_mm"`
	PressureMPA        map[string]float64 `json:"pressure_mpa"`
	ReservoirChangeCM3 float64            `json:"reservoir_change_cm3"` // as it would be seen after release
}

// Hold is a pedal held at a constant force.
type Hold struct {
	Samples      []Sample `json:"samples"`
	SinkMMPerMin float64  `json:"sink_rate_mm_min"`
	TimeToFloorS *float64 `json:"time_to_floor_s"` // nil if never within the hold
}

// Hold keeps pedalForceN on the pedal for seconds and samples it at n evenly spaced times from 0
// (n ≥ 2; the command line's default is 7). How-it-computes, section 3: a chamber loses
// (bypass+leak)·P; the foot keeps P until that chamber bottoms or the pedal is on the floor.
func (m *Model) Hold(pedalForceN, seconds float64, n int, assist bool) (Hold, error) {
	if n < 2 || n > 100000 {
		return Hold{}, fmt.Errorf("twin: %d samples: ask for 2 to 100000", n)
	}
	if !(seconds > 0) || math.IsInf(seconds, 0) {
		return Hold{}, fmt.Errorf("twin: a hold of %v s: the time must be above zero", seconds)
	}
	h := holder{m: m, force: pedalForceN, assist: assist}
	h.s = h.at(h.lost)
	var out Hold
	if h.s.floored {
		out.TimeToFloorS = new(float64)
	}
	start := h.s.travel
	for i := 0; i < n; i++ {
		t := seconds * float64(i) / float64(n-1)
		if at := h.advance(t); at != nil && out.TimeToFloorS == nil {
			out.TimeToFloorS = at
		}
		out.Samples = append(out.Samples, h.sample(t))
	}
	out.SinkMMPerMin = (h.s.travel - start) / seconds * 60
	return out, nil
}

// SinkMM is how far a held pedal has gone down in mm after seconds, without samples.
func (m *Model) SinkMM(pedalForceN, seconds float64, assist bool) float64 {
	h := holder{m: m, force: pedalForceN, assist: assist}
	h.s = h.at(h.lost)
	start := h.s.travel
	h.advance(seconds)
	return h.s.travel - start
}

type holder struct {
	m      *Model
	force  float64
	assist bool
	t      float64
	lost   [2]float64 // mm³ gone from each chamber
	s      state
}

func (h *holder) at(lost [2]float64) state {
	_, s := h.m.solve(h.force, h.assist, lost)
	return s
}

func (h *holder) rates(s *state) (q [2]float64) {
	for k := 0; k < h.m.n; k++ {
		if s.p[k] > 1e-9 {
			q[k] = (h.m.chambers[k].bypass + h.m.chambers[k].leak) * s.p[k]
		}
	}
	return q
}

// advance moves to time t and returns the moment the floor was met, if it was on the way. Until the
// floor, each moving chamber loses at a constant rate, so bottoming and floor are met at times known
// in closed form; only pressures that are falling are integrated.
func (h *holder) advance(t float64) (floorAt *float64) {
	const stuck = 16 // events: each chamber bottoms once, the floor comes once
	for i := 0; h.t < t && i < stuck; i++ {
		q := h.rates(&h.s)
		if q == [2]float64{} {
			break
		}
		next, floor := h.nextEvent(q, t)
		steady := !h.s.floored && !(h.s.bottomed[0] && q[0] > 0) && !(h.s.bottomed[1] && q[1] > 0)
		if steady {
			for k := range q {
				h.lost[k] += q[k] * (next - h.t)
			}
		} else {
			h.integrate(next)
		}
		h.t = next
		if next < t { // step just past the event so that the solver sees it
			for k := range q {
				h.lost[k] += 1e-9 * math.Max(1, h.lost[k]) * sign(q[k])
			}
		}
		h.s = h.at(h.lost)
		if floor && floorAt == nil {
			at := next
			floorAt = &at
			h.s.floored = true
		}
	}
	h.t = t
	return floorAt
}

func sign(x float64) float64 {
	if x > 0 {
		return 1
	}
	return 0
}

// nextEvent returns when the next chamber bottoms or the pedal meets the floor, at most t.
func (h *holder) nextEvent(q [2]float64, t float64) (next float64, floor bool) {
	next = t
	if h.s.floored {
		return next, false
	}
	simulated := h.assist && h.m.simulated() // the pedal does not follow the pistons: they can bottom, it cannot sink
	moving := 0.0
	for k := 0; k < h.m.n; k++ {
		if q[k] == 0 || h.s.bottomed[k] {
			continue
		}
		moving += q[k]
		if at := h.t + (h.m.chambers[k].stroke-h.s.y[k])*h.m.area/q[k]; at < next {
			next, floor = at, false
		}
	}
	if moving > 0 && !simulated {
		if at := h.t + (h.m.floor-h.s.travel)/h.m.ratio*h.m.area/moving; at <= next {
			next, floor = at, true
		}
	}
	return math.Max(next, h.t), floor
}

// integrate carries the lost volumes to time t with the Dormand–Prince 5(4) pair and a step control
// on the lost volume. Source of the coefficients: Dormand & Prince, J. Comp. Appl. Math. 6 (1980)
// 19, from memory; held against SciPy in the tests.
func (h *holder) integrate(t float64) {
	f := func(l [2]float64) [2]float64 { s := h.at(l); return h.rates(&s) }
	step := (t - h.t) / 20
	now := h.t
	k1 := f(h.lost)
	for steps := 0; now < t && steps < 20000; steps++ {
		if k1 == [2]float64{} {
			return
		}
		step = math.Min(step, t-now)
		var k [7][2]float64
		k[0] = k1
		for i := 1; i < 7; i++ {
			k[i] = f(combine(h.lost, step, k[:i], dpA[i]))
		}
		next := combine(h.lost, step, k[:6], dpA[6])
		worst := 0.0
		for j := 0; j < h.m.n; j++ {
			e := 0.0
			for i := range k {
				e += dpE[i] * k[i][j]
			}
			worst = math.Max(worst, math.Abs(e*step)/(1e-3+1e-6*math.Abs(next[j])))
		}
		if worst <= 1 || step < 1e-9 {
			now += step
			h.lost = next
			k1 = k[6]
		}
		step *= math.Min(4, math.Max(0.2, 0.9*math.Pow(math.Max(worst, 1e-10), -0.2)))
	}
}

var dpA = [7][6]float64{
	{}, {1. / 5}, {3. / 40, 9. / 40}, {44. / 45, -56. / 15, 32. / 9},
	{19372. / 6561, -25360. / 2187, 64448. / 6561, -212. / 729},
	{9017. / 3168, -355. / 33, 46732. / 5247, 49. / 176, -5103. / 18656},
	{35. / 384, 0, 500. / 1113, 125. / 192, -2187. / 6784, 11. / 84},
}

var dpE = [7]float64{71. / 57600, 0, -71. / 16695, 71. / 1920, -17253. / 339200, 22. / 525, -1. / 40}

func combine(l [2]float64, step float64, k [][2]float64, a [6]float64) [2]float64 {
	for i := range k {
		for j := range l {
			l[j] += step * a[i] * k[i][j]
		}
	}
	return l
}

func (h *holder) sample(t float64) Sample {
	out := Sample{TimeS: t, TravelMM: h.s.travel, PressureMPA: map[string]float64{}}
	for k := 0; k < h.m.n; k++ {
		c := &h.m.chambers[k]
		out.PressureMPA[c.circuit] = h.s.p[k]
		if total := c.bypass + c.leak; total > 0 {
			out.ReservoirChangeCM3 -= h.lost[k] * c.leak / total / 1000
		}
		if c.open && h.s.y[k] > 0 {
			out.ReservoirChangeCM3 -= h.m.area * (c.stroke - c.cutoff) / 1000
		}
	}
	return out
}

// LeakFromSink turns a measured sink into the flow past a seal or out of a joint: Q = A·(Δx/Δt)/ratio,
// in mm³/s, and as cm³ per minute. travelMM is at the pedal pad.
func (m *Model) LeakFromSink(travelMM, seconds float64) (mm3PerS, cm3PerMin float64, err error) {
	if !(seconds > 0) || travelMM < 0 || math.IsInf(travelMM+seconds, 0) || math.IsNaN(travelMM) {
		return 0, 0, fmt.Errorf("twin: a sink of %v mm in %v s: give a distance of zero or more and a time above zero", travelMM, seconds)
	}
	q := m.area * travelMM / seconds / m.ratio
	return q, q * 60 / 1000, nil
}
