package diagnose

import (
	"fmt"
	"math"
	"slices"

	"geminate/brake/stand"
	"geminate/brake/system"
)

// A measured figure is held against limits of the trade, and neither is sharp: the instrument errs, and a limit is
// where practice draws a line across what goes over by degrees. So a figure near a limit speaks for both sides of it,
// each with its share, and what is said of it changes no faster than its error explains.

// RodLeastMM and RodMostMM bound the rod's gap at rest, mm: none to slight clearance, never preload. Common practice,
// no source; the gate of Verify holds the finished rod against the same two figures. RodReadingMM is a depth gauge's
// last place: 0.50 mm read is not past 0.50.
const (
	RodLeastMM, RodMostMM = 0.0, 0.5
	RodReadingMM          = 0.005
)

// grade is how a figure is read: the limits between a sign's values, and the standard error with which a figure tells
// the two sides of a limit apart, of instrument and limit together.
type grade struct {
	values []string // of the sign, from the lowest stretch up
	limits []float64
	sigma  float64
}

// gradeOf gives the grade of a figure in a system. Limits: common practice, no source, unless noted. Errors:
// assumptions.
func gradeOf(id string, s *system.System) (g grade, err error) {
	switch id {
	case "fluid.water_percent": // a tester's ±0.3 %, and a limit that shops draw half a percent up or down
		return grade{[]string{"good", "plan", "now", "danger"}, []float64{1, 3, 4}, 0.35}, nil
	case "assist.reserve_applies": // whole applies: the limit stands between one and two
		return grade{[]string{"few", "enough"}, []float64{1.5}, 0.3}, nil
	case "vacuum.at_hose_kpa": // idle 16–22 inHg at sea level, by the gate's own limit; a gauge of class 2.5, an idle that hunts
		return grade{[]string{"low", "normal"}, []float64{stand.VacuumLeastAt(s.Ambient.AtmosphereKPA)}, 4}, nil
	case "pedal.free_play_mm": // at the rod, against the system's own figure; by caliper
		return grade{[]string{"none", "normal", "large"}, []float64{s.Pedal.FreePlayMM / 2, s.Pedal.FreePlayMM + 2}, 0.1}, nil
	case "rod.gap_mm": // two depths by gauge; at rest "none" is right, so the line to preload lies a little under it
		return grade{[]string{"preload", "right", "large"}, []float64{RodLeastMM - 0.05, RodMostMM + RodReadingMM}, 0.03}, nil
	}
	return grade{}, fmt.Errorf("diagnose: %s is not a number", id)
}

// bin is the value a figure falls to: what is said of it.
func (g grade) bin(x float64) string { return g.values[step(x, g.limits...)] }

// shares are how much a figure speaks for each value, summing to one: the normal distribution of what it may really be,
// over the stretches between the limits.
func (g grade) shares(x float64) []float64 {
	below := func(limit float64) float64 { return 0.5 * math.Erfc((x-limit)/(g.sigma*math.Sqrt2)) }
	out := make([]float64, len(g.limits)+1)
	left := 0.0
	for i, limit := range g.limits {
		upTo := below(limit)
		out[i] = upTo - left
		left = upTo
	}
	out[len(g.limits)] = 1 - left
	return out
}

// graded is P(figure | hypothesis) of a sign told by a figure, up to a factor that no hypothesis changes.
func (e *engine) graded(o *observation) []float64 {
	table := e.signLikelihoods(o.sign)
	if slices.Max(o.shares) > 1-1e-9 {
		return table[slices.Index(o.sign.Values, o.value)]
	}
	out := make([]float64, len(e.hyps))
	for k, share := range o.shares {
		for i, l := range table[slices.Index(o.sign.Values, o.grade.values[k])] {
			out[i] += share * l
		}
	}
	return out
}
