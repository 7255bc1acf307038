package match

import (
	"cmp"
	"math"
	"slices"

	"geminate/brake/system"
	"geminate/brake/twin"
)

// Limits are what a bore has to keep. Zero takes the default.
type Limits struct {
	// MPA is the pressure a hard stop needs.
	MPA float64 `json:"mpa"`
	// TravelMM at the pad at that pressure.
	TravelMM float64 `json:"travel_mm"`
	// ForceN of the foot at that pressure.
	ForceN float64 `json:"force_n"`
}

// coldStopMPS2 is the mean deceleration of a stop from 100 km/h in 70 m: v²/2d. Source: 49 CFR 571.135
// S7.5, cold effectiveness (from memory); it reaches light vehicles and serves the others as a yardstick.
const coldStopMPS2 = 27.7778 * 27.7778 / (2 * 70)

// failedMPS2 is the same for a stop in 168 m with a circuit failed. Source: 49 CFR 571.135 S7.10 (from memory).
const failedMPS2 = 27.7778 * 27.7778 / (2 * 168)

// hotShare is what is asked beyond a cold stop, for brakes that are hot or worn, and wayShare how much of
// the way to the floor the pedal may use then. Assumptions.
const (
	hotShare = 1.3
	wayShare = 0.6
)

// DefaultLimits: the pressure at which these brakes ask for such a stop and 30 % more, at no more than 500 N
// (571.135, from memory), the pedal in the upper three fifths of its way to the floor. A clutch and a trailer have
// figures of their own, assumptions both.
func DefaultLimits(s *system.System) Limits {
	switch {
	case s.IsTrailer():
		return Limits{MPA: 5, ForceN: 6000, TravelMM: 0.8 * s.Actuator.FloorMM}
	case s.IsClutch():
		return Limits{MPA: 4, ForceN: footLimitN, TravelMM: wayShare * s.Pedal.FloorMM}
	}
	return Limits{MPA: stopPressure(s), ForceN: footLimitN, TravelMM: wayShare * s.Pedal.FloorMM}
}

// stopPressure is the pressure in MPa at which the brakes ask for a cold stop, whatever cylinder feeds them:
// room for the pistons and the pedal is made, so that only the wheels decide.
func stopPressure(s *system.System) float64 {
	free := Sound(s)
	free.Pedal.FloorMM *= 20
	free.MasterCylinder.Primary.StrokeMM *= 20
	if c := free.MasterCylinder.Secondary; c != nil {
		c.StrokeMM *= 20
	}
	m := twin.New(free)
	lo, hi := 0.0, forceRange(s)
	if m.Apply(hi, true).DecelerationMPS2 < coldStopMPS2 {
		return 8
	}
	for range 60 {
		mid := (lo + hi) / 2
		if m.Apply(mid, true).DecelerationMPS2 < coldStopMPS2 {
			lo = mid
		} else {
			hi = mid
		}
	}
	p := hotShare * m.Apply(hi, true).PressureMPA[s.MasterCylinder.Primary.Circuit]
	return math.Round(math.Max(1, math.Min(8, p))*100) / 100
}

// BoreChoice is one standard bore on this system.
type BoreChoice struct {
	StandardBore
	Fits bool `json:"fits"`
	// Limits broken: force, travel, stroke, floor, failed_circuit, unassisted.
	Broken     []string `json:"broken"`
	ForceN     *float64 `json:"force_n"`   // at the needed pressure
	TravelMM   float64  `json:"travel_mm"` // there
	StrokeUsed float64  `json:"stroke_used"`
	// ForceRatio is the foot it asks beside the present bore's; nil where one of them cannot give the pressure.
	ForceRatio  *float64 `json:"force_ratio"`
	VolumeRatio float64  `json:"volume_ratio"` // area beside the present bore's
	Present     bool     `json:"present"`
	// Measured: a size that is found in units though no standard stamp says it.
	Measured bool `json:"measured,omitempty"`
	// Why it stands where it does in the list: present, same_feel, more_foot, more_travel; "" where it does not fit.
	Why string `json:"why,omitempty"`
}

// measuredBores are bores units are made with beside the stamped ones: 1.030 and 1.130 in. Common practice, no source.
var measuredBores = []StandardBore{{"1.030 in", 1.030 * mmPerInch}, {"1.130 in", 1.130 * mmPerInch}}

// sameFeel is how much the foot or the pedal's way may change before a driver says so. Assumption.
const sameFeel = 0.07

// rank puts what fits first, the least changed pedal before the others; each with why it stands there.
func rank(list []BoreChoice) {
	change := func(c *BoreChoice) float64 { return math.Abs(c.VolumeRatio - 1) }
	for i := range list {
		c := &list[i]
		switch {
		case !c.Fits:
		case c.Present:
			c.Why = "present"
		case change(c) <= sameFeel:
			c.Why = "same_feel"
		case c.VolumeRatio > 1:
			c.Why = "more_foot"
		default:
			c.Why = "more_travel"
		}
	}
	slices.SortStableFunc(list, func(a, b BoreChoice) int {
		if a.Fits != b.Fits {
			return map[bool]int{true: -1, false: 1}[a.Fits]
		}
		return cmp.Compare(change(&a), change(&b))
	})
}

// strokeShare is how much of its stroke a chamber may use at the needed pressure: the rest is for worn
// pads, heat and a circuit that fails. Assumption.
const strokeShare = 0.8

// WhichBore tries every standard bore on a system with the cylinder's own strokes: which of them meet the
// limits and what limits each of the others.
func WhichBore(s *system.System, l Limits) []BoreChoice {
	d := DefaultLimits(s)
	if l.MPA <= 0 {
		l.MPA = d.MPA
	}
	if l.TravelMM <= 0 {
		l.TravelMM = d.TravelMM
	}
	if l.ForceN <= 0 {
		l.ForceN = d.ForceN
	}
	sound := Sound(s)
	present := sound.MasterCylinder.BoreMM
	now, nowOK := twin.New(sound).ForceForPressure(l.MPA, true, forceRange(s))
	// With a circuit failed a passenger car has to make its 168 m; where the split itself cannot give that
	// (little weight on the rear), a bore must not make it a tenth worse than it is. Others must have something left.
	least := map[string]float64{}
	for _, x := range Perform(sound).Failed {
		least[x.Circuit] = 0.01
		if s.Vehicle.Kind == "car" {
			least[x.Circuit] = math.Min(failedMPS2, 0.9*x.DecelerationMPS2)
		}
	}
	out := []BoreChoice{}
	for i, b := range slices.Concat(StandardBores, measuredBores) {
		if b.MM < 0.72*present || b.MM > 1.4*present {
			continue
		}
		try := sound.Clone()
		try.MasterCylinder.BoreMM = b.MM
		c := tryBore(try, l, least)
		c.StandardBore, c.Measured = b, i >= len(StandardBores)
		c.Present = math.Abs(b.MM-present) <= boreTolMM
		c.VolumeRatio = b.MM * b.MM / (present * present)
		if c.ForceN != nil && nowOK && now > 0 {
			r := *c.ForceN / now
			c.ForceRatio = &r
		}
		out = append(out, c)
	}
	rank(out)
	return out
}

func tryBore(s *system.System, l Limits, least map[string]float64) BoreChoice {
	c := BoreChoice{Broken: []string{}}
	broke := func(id string) { c.Broken = append(c.Broken, id) }
	m := twin.New(s)
	f, ok := m.ForceForPressure(l.MPA, true, forceRange(s))
	at := forceRange(s)
	if ok {
		c.ForceN, at = &f, f
	}
	p := m.Apply(at, true)
	c.TravelMM = p.TravelMM
	for id, y := range p.StrokeMM {
		all := s.MasterCylinder.Primary.StrokeMM
		if sec := s.MasterCylinder.Secondary; sec != nil && sec.Circuit == id {
			all = sec.StrokeMM
		}
		c.StrokeUsed = math.Max(c.StrokeUsed, y/all)
	}
	switch {
	case p.Floored:
		broke("floor")
	case len(p.Bottomed) > 0:
		broke("stroke")
	default:
		if c.StrokeUsed > strokeShare {
			broke("stroke")
		}
		if p.TravelMM > l.TravelMM {
			broke("travel")
		}
	}
	if ok && f > l.ForceN || !ok && !p.Floored && len(p.Bottomed) == 0 {
		broke("force")
	}
	perf := Perform(s)
	if !s.IsClutch() && !s.IsTrailer() {
		for _, x := range perf.Failed {
			if x.DecelerationMPS2 < least[x.Circuit] {
				broke("failed_circuit")
				break
			}
		}
	}
	if u := perf.Unassisted; u != nil && u.Meets != nil && !*u.Meets {
		broke("unassisted")
	}
	c.Fits = len(c.Broken) == 0
	return c
}
