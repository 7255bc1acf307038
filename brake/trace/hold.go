package trace

import (
	"math"

	"geminate/brake/strict"
)

// A hold: how far a pedal sinks under a foot that stands still. The trace says itself whether one did.

// Doubts of a hold. curveDoubt is how far a known pedal's stiffness may be off, as a share; with none known softMMPerN
// and all of it. handMM is what a foot without a gauge moves a pedal over a hold, both ways: a tenth of 200 N at
// softMMPerN. Assumptions.
const (
	curveDoubt = 0.3
	softMMPerN = 0.02
	handMM     = 0.4
	// shortFloorS is the least stretch before the floor that tells a rate.
	shortFloorS = 2.0
)

// Hold reads one from travel and, where it was measured, force. What it gives is of the stretch over which the force
// stayed within a tenth of its median, from settleS after its beginning on to its end, a lift or the floor. A *Refused
// where there was no such stretch, or nobody at the pedal.
func Hold(force, travel Series, pedal Pedal) (Slope, Under, error) {
	var u Under
	travel, lost := travel.clean()
	if u.Dropped = lost; len(travel) < 2 {
		return Slope{}, u, ErrShort
	}
	from, to := travel[0].S, travel[len(travel)-1].S
	if to-from < settleS+holdLeast/2 { // whatever the foot did
		return Slope{}, u, ErrShort
	}
	force, lost = force.clean()
	u.Dropped += lost
	if len(force) > 1 {
		all, low, high := forceOver(force, from, to)
		from, to = stretch(force)
		if to == 0 {
			if all < leastFootN && high < 2*leastFootN {
				return Slope{}, u, strict.Refuse("trace.no_foot", map[string]any{"at_n": math.Round(high)})
			}
			return Slope{}, u, eased(0, low, high)
		}
		from, to = math.Max(from, travel[0].S), math.Min(to, travel[len(travel)-1].S)
	} else if m := within(travel, from, to); medianOf(m) < leastWayMM {
		return Slope{}, u, strict.Refuse("trace.no_foot", map[string]any{"at_n": 0.0})
	}
	from, to = unlifted(travel, from, to)
	start := from + settleS
	u.FlooredS = round(floored(travel, from, to, pedal.FloorMM), 2)
	least, few := holdLeast, holdFew
	if u.FlooredS > 0 {
		to, least, few = u.FlooredS, shortFloorS, 4
		if to-start < shortFloorS {
			start = math.Max(from, to-math.Max(shortFloorS, (to-from)/2))
		}
	}
	x := within(travel, start, to)
	if to-start < least || len(x) < few {
		if len(force) > 1 {
			_, low, high := forceOver(force, travel[0].S, travel[len(travel)-1].S)
			return Slope{}, u, eased(math.Max(0, to-from), low, high)
		}
		return Slope{}, u, ErrShort
	}
	u.FromS, u.ToS = round(start, 2), round(to, 2)
	x, doubt := u.evened(x, force, pedal)
	out := Slope{Seconds: round(to-start, 2), Readings: len(x), SettledS: u.FromS}
	out = theilSen(x, out)
	half := func(end float64) float64 { return math.Hypot(end-out.PerS, doubt/out.Seconds) }
	out.Low, out.High = out.PerS-half(out.Low), out.PerS+half(out.High)
	u.Rises = out.High < 0
	return out, u, nil
}

func eased(held, low, high float64) error {
	return strict.Refuse("trace.eased", map[string]any{"low_n": math.Round(low), "high_n": math.Round(high),
		"held_s": math.Round(held), "least_s": settleS + holdLeast})
}

func medianOf(x Series) float64 {
	v := make([]float64, len(x))
	for i, p := range x {
		v[i] = p.V
	}
	return median(v)
}

// evened takes out of travel what the rest of the force's drift moved it, by the pedal's own curve, and gives with it
// how far that may be off over the whole of it, mm.
func (u *Under) evened(x, force Series, pedal Pedal) (Series, float64) {
	if len(force) < 2 {
		return x, handMM
	}
	var mid float64
	mid, u.ForceLowN, u.ForceHighN = forceOver(force, u.FromS, u.ToS)
	u.ForceN, u.ForceLowN, u.ForceHighN = math.Round(mid), math.Round(u.ForceLowN), math.Round(u.ForceHighN)
	curve, share := pedal.TravelMM, curveDoubt
	if curve == nil {
		curve, share = func(n float64) float64 { return softMMPerN * n }, 1
	}
	smooth, at0 := force.bins(), curve(mid)
	moved := make(Series, 0, len(x))
	out := make(Series, 0, len(x))
	for _, p := range x {
		f, ok := at(smooth, p.S)
		if !ok {
			continue
		}
		d := curve(f) - at0
		moved, out = append(moved, Sample{p.S, d}), append(out, Sample{p.S, p.V - d})
	}
	if len(out) < 4 {
		return x, handMM
	}
	drift := line(moved).slope * (u.ToS - u.FromS)
	u.CorrectedMM = round(drift, 2)
	return out, share * math.Abs(drift)
}
