package twin

import "math"

// Point is the system at one pedal force (for a trailer: the force at the coupler).
type Point struct {
	PedalForceN  float64            `json:"pedal_force_n"`
	RodForceN    float64            `json:"rod_force_n"`
	OutputForceN float64            `json:"output_force_n"` // what the cylinder sees
	PressureMPA  map[string]float64 `json:"pressure_mpa"`
	StrokeMM     map[string]float64 `json:"stroke_mm"`
	TravelMM     float64            `json:"pedal_travel_mm"`
	Floored      bool               `json:"floored"`
	Bottomed     []string           `json:"bottomed"`
	// DecelerationMPS2 is what the brakes demand; grip may allow less.
	DecelerationMPS2 float64 `json:"deceleration_mps2"`

	// WheelMPA is the pressure at each wheel; not part of the command line's contract.
	WheelMPA map[string]float64 `json:"-"`
}

// state is a solved apply in plain arrays: nothing here allocates.
type state struct {
	out      float64 // N at the cylinder
	p, y     [2]float64
	bottomed [2]bool
	travel   float64
	floored  bool
}

// RodForceN returns the input rod force in N for a pedal force in N: ratio·F − return force, and
// never below zero.
func (m *Model) RodForceN(pedalForceN float64) float64 {
	return math.Max(0, m.ratio*pedalForceN-m.returnForce)
}

// OutputForceN returns the booster's output in N for a rod force in N (how-it-computes, section 2).
func (m *Model) OutputForceN(rodForceN float64, assist bool) float64 {
	b := &m.booster
	u := rodForceN - b.cutIn
	switch {
	case b.direct:
		return rodForceN
	case b.surge:
		return math.Max(0, u)
	}
	if u <= 0 {
		return 0
	}
	ceiling := b.noAssist
	if assist {
		ceiling = b.assist
	}
	return math.Max(0, math.Min(b.jumpIn+b.ratio*u, u+ceiling))
}

// KneePedalForceN returns the pedal force in N at which full assist is reached, and false where the
// booster has no knee.
func (m *Model) KneePedalForceN() (float64, bool) {
	b := &m.booster
	if b.ratio <= 1 || b.assist <= b.jumpIn {
		return 0, false
	}
	return ((b.assist-b.jumpIn)/(b.ratio-1) + b.cutIn + m.returnForce) / m.ratio, true
}

// free solves both chambers for an output force with leaked volumes already gone, as if there were
// no floor. Pressures of bottomed chambers are only found where withPressure is set.
func (m *Model) free(out float64, leaked [2]float64, withPressure bool) state {
	s := state{out: out}
	for k := 0; k < m.n; k++ {
		c := &m.chambers[k]
		load := m.efficiency*out - c.preload
		if load <= 0 {
			continue
		}
		if c.open {
			s.y[k], s.bottomed[k] = c.stroke, true
			continue
		}
		p := load / m.area
		y := c.cutoff + (m.volume(c, p)+leaked[k])/m.area
		if y > c.stroke {
			y, s.bottomed[k] = c.stroke, true
			if withPressure {
				p = m.pressureFor(c, m.area*(c.stroke-c.cutoff)-leaked[k], p)
			}
		}
		s.p[k], s.y[k] = p, y
	}
	s.travel = m.ratio * (m.freePlay + m.gap + s.y[0] + s.y[1])
	return s
}

// settle is free with the floor under the pedal. On the floor the force the cylinder sees is the
// largest whose travel still fits; where travel jumps there (a port closing, an open circuit), the
// chamber that jumps takes the travel left. Two chambers jumping at one force share it primary first.
func (m *Model) settle(out float64, leaked [2]float64) state {
	s := m.free(out, leaked, true)
	if s.travel <= m.floor {
		return s
	}
	if m.ratio*(m.freePlay+m.gap) >= m.floor { // the floor comes before anything is touched
		return state{travel: m.floor, floored: true}
	}
	tol := 1e-12 * math.Max(1, out)
	stop := bracketed(func(f float64) float64 { return m.free(f, leaked, false).travel - m.floor }, 0, out, tol)
	s = m.free(stop, leaked, true)
	left := (m.floor - s.travel) / m.ratio
	after := m.free(stop+2*tol, leaked, false)
	for k := 0; k < m.n && left > 0; k++ {
		if s.y[k] == 0 && after.y[k] > 0 {
			take := math.Min(left, after.y[k])
			s.y[k] = take
			left -= take
		}
	}
	s.travel, s.floored = m.floor, true
	return s
}

// simulated reports whether the pedal works a simulator while there is assist: without pressure to
// fill the cylinder (a supply of zero is an engine that is off) the foot works the cylinder itself.
func (m *Model) simulated() bool { return m.simulator != nil && m.supplyMPA > 0 }

// solve runs an apply at one pedal force.
func (m *Model) solve(pedalForceN float64, assist bool, leaked [2]float64) (rod float64, s state) {
	rod = m.RodForceN(pedalForceN)
	if rod == 0 {
		return 0, state{}
	}
	if assist && m.simulated() {
		// The pedal pushes a spring of its own; the cylinder is filled by the pressure source, so
		// the floor does not limit it. The simulator's figures are taken at the input rod.
		s = m.free(m.OutputForceN(rod, true), leaked, true)
		s.travel = m.ratio * (m.freePlay + m.simulator.FreeMM + rod/m.simulator.StiffnessNPerMM)
		if s.travel > m.floor {
			s.travel, s.floored = m.floor, true
		}
		return rod, s
	}
	return rod, m.settle(m.OutputForceN(rod, assist), leaked)
}

// Apply solves a slow apply at a pedal force in N, with or without assist.
func (m *Model) Apply(pedalForceN float64, assist bool) Point {
	rod, s := m.solve(pedalForceN, assist, [2]float64{})
	return m.point(pedalForceN, rod, s)
}

// Travel is Apply for callers that need only the pedal travel in mm; it does not allocate.
func (m *Model) Travel(pedalForceN float64, assist bool) float64 {
	_, s := m.solve(pedalForceN, assist, [2]float64{})
	return s.travel
}

// Curve applies each force in turn.
func (m *Model) Curve(pedalForcesN []float64, assist bool) []Point {
	out := make([]Point, len(pedalForcesN))
	for i, f := range pedalForcesN {
		out[i] = m.Apply(f, assist)
	}
	return out
}

func (m *Model) point(pedal, rod float64, s state) Point {
	p := Point{PedalForceN: pedal, RodForceN: rod, OutputForceN: s.out, PressureMPA: map[string]float64{}, StrokeMM: map[string]float64{},
		TravelMM: s.travel, Floored: s.floored, Bottomed: []string{}, WheelMPA: map[string]float64{}}
	for k := 0; k < m.n; k++ {
		id := m.chambers[k].circuit
		p.PressureMPA[id], p.StrokeMM[id] = s.p[k], s.y[k]
		if s.bottomed[k] {
			p.Bottomed = append(p.Bottomed, id)
		}
	}
	for i := range m.wheels {
		w := &m.wheels[i]
		p.WheelMPA[w.id] = m.wheelPressure(s.p[w.chamber], w.proportioned)
	}
	p.DecelerationMPS2 = m.deceleration(&s)
	return p
}

// deceleration is what the brakes demand at a solved state, in m/s².
func (m *Model) deceleration(s *state) float64 {
	force := 0.0
	for i := range m.wheels {
		w := &m.wheels[i]
		force += w.gainNPerMPA * math.Max(0, m.wheelPressure(s.p[w.chamber], w.proportioned)-w.takeUp)
	}
	return force / m.mass
}

// ForceForPressure returns the least pedal force in N at which the first chamber reaches a pressure
// in MPa, searching up to limit N, and false where it cannot be had (floor, bottom or too little
// foot).
func (m *Model) ForceForPressure(pressureMPA float64, assist bool, limitN float64) (float64, bool) {
	reach := func(f float64) float64 {
		_, s := m.solve(f, assist, [2]float64{})
		return s.p[0] - pressureMPA
	}
	if reach(limitN) < 0 {
		return 0, false
	}
	return bracketed(reach, 0, limitN, 1e-9*limitN), true
}
