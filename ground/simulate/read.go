package simulate

import (
	"math"

	"geminate/brake/twin"
)

// Readings. Each has the error of what it is read with: a rule 1.5 mm, a force gauge 5 N, an eye that misses a weep on
// a wet joint. Standard deviations; assumptions.
const (
	ruleMM    = 1.2
	gaugeN    = 5.0
	sinkShare = 0.05
)

func (v *Vehicle) noise(sd float64) float64 { return sd * v.rnd.NormFloat64() }

// HoldMM is how far the pedal sinks under a force for a time.
func (v *Vehicle) HoldMM(forceN, seconds float64, engineOn bool) float64 {
	v.spend(seconds + 20)
	x := v.model().SinkMM(forceN+v.noise(gaugeN), seconds, engineOn)
	return math.Max(0, x*(1+v.noise(sinkShare))+v.noise(0.8))
}

// TravelMM is the pedal's travel at a force, assist used up.
func (v *Vehicle) TravelMM(forceN float64) float64 {
	v.spend(20)
	return math.Max(0, v.model().Travel(forceN+v.noise(gaugeN), false)+v.noise(ruleMM))
}

// PumpMM are the heights over the floor at a firm foot: of the first apply, of the second quick one, of the fourth.
// What has air in it or much clearance comes up as it is pumped: by half of what air costs each time.
func (v *Vehicle) PumpMM(forceN float64) (first, second, fourth float64) {
	s := v.Now()
	with := twin.New(s).Travel(forceN, false)
	for i := range s.Circuits {
		s.Circuits[i].AirCM3 = 0
	}
	without := twin.New(s).Travel(forceN, false)
	floor, more := s.Pedal.FloorMM, math.Max(0, with-without)
	v.spend(30)
	return floor - with + v.noise(ruleMM), floor - with + 0.5*more + v.noise(ruleMM), floor - with + 0.85*more + v.noise(ruleMM)
}

// Springs says whether the pedal feels like a spring: air that costs a foot more than some millimetres.
func (v *Vehicle) Springs() bool {
	s := v.Now()
	with := twin.New(s).Travel(300, false)
	for i := range s.Circuits {
		s.Circuits[i].AirCM3 = 0
	}
	return with-twin.New(s).Travel(300, false)+v.noise(3) > 9
}

// Reserve is how often the pedal still has help with the engine off.
func (v *Vehicle) Reserve() int {
	v.spend(60)
	n := v.model().Reserve().Applications
	if v.noAssist() {
		n = 0
	}
	return n
}

// FallsOnStart says whether the pedal falls a little under the foot as the engine starts.
func (v *Vehicle) FallsOnStart() bool {
	v.spend(30)
	m := v.model()
	return m.OutputForceN(400, true) > 1.15*m.OutputForceN(400, false)
}

// FreePlay says whether there is some at the pedal: none with the rod preloaded.
func (v *Vehicle) FreePlay() bool { v.spend(10); return v.rodMM > -0.1+v.noise(0.05) }

// WheelsFree says whether all turn free by hand: not with a rod that holds the pistons off their ports, not where lines
// are left to hold pressure.
func (v *Vehicle) WheelsFree() bool { v.spend(60); return v.rodMM > -0.4+v.noise(0.1) }

// DryJoints says whether every joint looks dry under a firm foot. A weep is seen at nineteen of twenty joints that were
// wiped, at seven of ten that were not.
func (v *Vehicle) DryJoints() bool {
	v.spend(60)
	see := 0.7
	if v.wiped {
		see = 0.95
	}
	for _, p := range v.order {
		st, f := v.parts[p], fitOf(p)
		if f.wet && st.wrong(f) && !(f.loose > 0 && st.nm > f.strips) && v.rnd.Float64() < see {
			return false
		}
	}
	return true
}

// Loose are the parts whose fastening a look or a hand on it shows: off, or turned by fingers. A torque only a wrench
// tells.
func (v *Vehicle) Loose() (out []Part) {
	v.spend(60)
	for _, p := range v.order {
		if st, f := v.parts[p], fitOf(p); st.off || f.loose > 0 && st.nm < 1 {
			out = append(out, p)
		}
	}
	return out
}

// LampsOut says whether nothing is lit or stored.
func (v *Vehicle) LampsOut() bool {
	v.spend(20)
	for _, p := range []Part{SensorPlug, Connector, ServicePlug, Battery} {
		if st := v.parts[p]; st != nil && st.off {
			return false
		}
	}
	return v.LevelShare() > 0.15
}

// Stops says whether it stops as it ought at walking pace and a little more.
func (v *Vehicle) Stops() bool {
	v.spend(120)
	if st := v.parts[PedalEnd]; st != nil && st.off {
		return false
	}
	if st := v.parts[ShoeAndRod]; st != nil && st.off {
		return false
	}
	if v.found.IsTrailer() { // towed: it is the coupler that pushes
		p := v.model().Apply(3000, false)
		return !p.Floored && p.DecelerationMPS2 > 1
	}
	p := v.model().Apply(300, !v.noAssist())
	return !p.Floored && (v.found.IsClutch() || p.DecelerationMPS2 > 3)
}

// Moves says whether a coupler strokes, holds and comes back.
func (v *Vehicle) Moves() bool {
	v.spend(60)
	p := v.model().Apply(2000, false)
	return !p.Floored && !v.parts[ShoeAndRod].off
}

// WaterPercent is the water of what stands in the reservoir, given what the old fluid and the bottle hold.
func (v *Vehicle) WaterPercent(old, bottle float64) float64 {
	t := v.tanks[0]
	return math.Max(0, t.old*old+(1-t.old)*bottle+v.noise(0.1))
}

// Assisted says whether there is help at the pedal: something is stored, or the engine gives it.
func (v *Vehicle) Assisted() bool { return v.stored && !v.noAssist() }

// OffParts are the parts that are off, as anybody sees: nothing is read and no time passes.
func (v *Vehicle) OffParts() (out []Part) {
	for _, p := range v.order {
		if v.parts[p].off {
			out = append(out, p)
		}
	}
	return out
}
