// Package twin computes what a brake system's pedal, pressures and reservoir should do: the static
// apply, the held pedal, the reserve of the booster and the pushrod gap.
//
// Units: mm, mm², mm³, N, MPa (gauge), s, kPa below atmosphere for vacuum. The equations are the
// project's how-it-computes, sections 2 to 5; what that page leaves open is said where it is decided.
package twin

import (
	"math"

	"geminate/brake/system"
)

// Model is a system compiled for repeated solving. It is read-only after New and safe for
// concurrent use.
type Model struct {
	area, efficiency, atmosphereMPA   float64
	ratio, freePlay, returnForce      float64
	floor, gap                        float64
	surge                             bool
	booster                           boosterModel
	chambers                          [2]chamber // primary, secondary
	n                                 int
	mass                              float64
	wheels                            []wheelForce
	simulator                         *system.Simulator
	propKnee, propSlope               float64
	vacuumKPA, chamberCM3, releaseCM3 float64
	accumulator                       *system.Accumulator
	supplyMPA                         float64
}

type boosterModel struct {
	direct, surge, vacuum                  bool    // no booster at all, a coupler, stored vacuum
	ratio, cutIn, jumpIn, assist, noAssist float64 // assist and noAssist are F_a with and without power
}

type chamber struct {
	circuit                  string
	cutoff, stroke, preload  float64
	open                     bool
	bypass, leak             float64 // mm³/s/MPa
	airMM3, fluidPerMPA      float64
	fluidMM3                 float64 // lines and cavities
	residual, residualVolume float64
	wheels                   []wheelVolume
}

// wheelVolume is what one wheel takes from its circuit.
type wheelVolume struct {
	clearanceMM3, takeUp, compliance float64 // compliance includes the hose
	proportioned                     bool
}

type wheelForce struct {
	id           string
	chamber      int
	takeUp       float64
	gainNPerMPA  float64 // newtons at the tyre per MPa beyond take-up
	proportioned bool
}

// New compiles a system that has been read and checked.
func New(s *system.System) *Model {
	m := &Model{
		area: math.Pi * s.MasterCylinder.BoreMM * s.MasterCylinder.BoreMM / 4, efficiency: s.MasterCylinder.Efficiency,
		atmosphereMPA: s.Ambient.AtmosphereKPA / 1000, gap: math.Max(0, s.PushrodGapMM), mass: s.Vehicle.MassKG,
	}
	if a := s.Actuator; a != nil {
		m.surge, m.ratio, m.floor = true, a.Ratio, a.FloorMM
		m.booster = boosterModel{surge: true, cutIn: a.CutInN}
	} else {
		m.ratio, m.freePlay, m.returnForce, m.floor = s.Pedal.Ratio, s.Pedal.FreePlayMM, s.Pedal.ReturnForceN, s.Pedal.FloorMM
		m.compileBooster(s.Assist(), s.Booster)
	}
	if p := s.Proportioning; p != nil {
		m.propKnee, m.propSlope = p.KneeMPA, p.Slope
	}
	m.addChamber(s, s.MasterCylinder.Primary, s.PushrodGapMM)
	if c := s.MasterCylinder.Secondary; c != nil {
		m.addChamber(s, *c, 0)
	}
	return m
}

func (m *Model) compileBooster(a *system.Assist, b *system.Booster) {
	m.booster = boosterModel{direct: !a.Powered(), vacuum: a.Vacuum, ratio: b.Ratio, cutIn: b.CutInN, jumpIn: b.JumpIn, noAssist: -b.Spring}
	switch {
	case a.Vacuum:
		m.vacuumKPA, m.chamberCM3, m.releaseCM3 = *b.VacuumKPA, b.ChamberCM3, b.StrokeToReleaseCM3
		m.booster.assist = b.Efficiency**b.VacuumKPA/1000*b.EffectiveAreaMM2 - b.Spring
	case a.Pressure:
		m.supplyMPA, m.accumulator, m.simulator = *b.SupplyMPA, b.Accumulator, b.Simulator
		m.booster.assist = *b.SupplyMPA*b.PowerAreaMM2 - b.Spring
	}
}

func (m *Model) addChamber(s *system.System, c system.Chamber, gap float64) {
	ci := s.Circuit(c.Circuit)
	ch := chamber{circuit: c.Circuit, cutoff: c.CutoffMM, stroke: c.StrokeMM, preload: c.PreloadN,
		open: ci.Open, bypass: ci.BypassMM3SMPA, leak: ci.LeakMM3SMPA, airMM3: ci.AirCM3 * 1000}
	if gap < 0 { // rod preload pre-advances the primary
		ch.cutoff, ch.stroke = math.Max(0, ch.cutoff+gap), ch.stroke+gap
	}
	if ci.ResidualMPA != nil {
		ch.residual = *ci.ResidualMPA
	}
	fluid := 0.0
	for _, id := range ci.Wheels {
		w := s.Wheel(id)
		fluid += math.Pi*w.Line.BoreMM*w.Line.BoreMM/4*w.Line.LengthMM + w.Brake.CavityCM3*1000
		prop := false
		if s.Proportioning != nil {
			for _, p := range s.Proportioning.Wheels {
				prop = prop || p == id
			}
		}
		area, gain := brakeArea(w, s)
		ch.wheels = append(ch.wheels, wheelVolume{
			clearanceMM3: 2 * w.Brake.ClearanceMM * area, takeUp: w.Brake.TakeUpMPA,
			compliance:   w.Brake.ComplianceMM3 + w.Hose.LengthMM/1000*w.Hose.ExpansionMM3PerMPA,
			proportioned: prop,
		})
		m.wheels = append(m.wheels, wheelForce{id: id, chamber: m.n, takeUp: w.Brake.TakeUpMPA, gainNPerMPA: gain, proportioned: prop})
	}
	ch.fluidMM3, ch.fluidPerMPA = fluid, fluid/s.Fluid.BulkModulusMPA
	m.chambers[m.n] = ch
	ch.residualVolume = m.rawVolume(&ch, ch.residual)
	m.chambers[m.n] = ch
	m.n++
}

// brakeArea returns the piston area in mm² that clearance acts on and the newtons at the tyre per
// MPa: disc 2·μ·ΣA·r/R, drum factor·A·r/R (how-it-computes, section 2).
func brakeArea(w *system.Wheel, s *system.System) (area, gain float64) {
	tire := s.Vehicle.TireRadiusMM
	if w.TireRadiusMM != nil {
		tire = *w.TireRadiusMM
	}
	b := w.Brake
	if b.Kind == "drum" {
		area = math.Pi * b.CylinderMM * b.CylinderMM / 4
		return area, b.BrakeFactor * area * b.DrumRadiusMM / tire
	}
	for _, d := range b.PistonsMM {
		area += math.Pi * d * d / 4
	}
	return area, 2 * b.Friction * area * b.EffectiveRadiusMM / tire
}

// wheelPressure is what a proportioned wheel sees of its circuit's pressure.
func (m *Model) wheelPressure(p float64, proportioned bool) float64 {
	if proportioned && p > m.propKnee {
		return m.propKnee + m.propSlope*(p-m.propKnee)
	}
	return p
}

// rawVolume is V*(P) in mm³: clearance, compliance, hoses, fluid and air.
func (m *Model) rawVolume(c *chamber, p float64) float64 {
	v := c.fluidPerMPA*p + c.airMM3*(1-m.atmosphereMPA/(m.atmosphereMPA+p))
	for i := range c.wheels {
		w := &c.wheels[i]
		pw := m.wheelPressure(p, w.proportioned)
		v += w.clearanceMM3*math.Min(1, pw/w.takeUp) + w.compliance*pw
	}
	return v
}

// volume is V(P) in mm³, the residual valve taken into account.
func (m *Model) volume(c *chamber, p float64) float64 {
	return m.rawVolume(c, math.Max(p, c.residual)) - c.residualVolume
}

// slope is V'(P) in mm³/MPa, from the right where V has a corner.
func (m *Model) slope(c *chamber, p float64) float64 {
	if p < c.residual {
		return 0
	}
	d := c.fluidPerMPA + c.airMM3*m.atmosphereMPA/((m.atmosphereMPA+p)*(m.atmosphereMPA+p))
	for i := range c.wheels {
		w := &c.wheels[i]
		pw, part := p, 1.0
		if w.proportioned && p >= m.propKnee {
			pw, part = m.propKnee+m.propSlope*(p-m.propKnee), m.propSlope
		}
		d += w.compliance * part
		if pw < w.takeUp {
			d += w.clearanceMM3 / w.takeUp * part
		}
	}
	return d
}

// pressureFor solves V(P) = v for P in [0, limit]: Newton's steps, kept inside a bracket that V, which
// grows with P, narrows every time. V is made of straight pieces and the air's smooth one, so few are needed.
func (m *Model) pressureFor(c *chamber, v, limit float64) float64 {
	if v <= 0 {
		return 0
	}
	if m.volume(c, limit) <= v {
		return limit
	}
	lo, hi, p := 0.0, limit, limit
	tol := 1e-13 * math.Max(1, limit)
	for i := 0; i < 100 && hi-lo > tol; i++ {
		f := m.volume(c, p) - v
		if f > 0 {
			hi = p
		} else {
			lo = p
		}
		next := (lo + hi) / 2
		if d := m.slope(c, p); d > 0 && i%8 != 7 {
			next = p - f/d
		}
		if next <= lo || next >= hi {
			if math.Abs(next-p) <= tol { // the step has come to rest on the bracket's edge
				return p
			}
			next = (lo + hi) / 2
		}
		if math.Abs(next-p) <= tol {
			return next
		}
		p = next
	}
	return (lo + hi) / 2
}

// bracketed finds where f, which does not fall, passes from ≤ 0 to > 0 in [lo, hi]: false position
// with the Illinois rule, and a bisection whenever the bracket did not halve. It returns the side
// on which f ≤ 0, so that a jump is left just before it happens.
func bracketed(f func(float64) float64, lo, hi, tol float64) float64 {
	flo, fhi := f(lo), f(hi)
	side, width := 0, hi-lo
	for i := 0; i < 200 && hi-lo > tol; i++ {
		x := (lo + hi) / 2
		if i%3 != 2 && fhi > flo {
			if s := lo - flo*(hi-lo)/(fhi-flo); s > lo && s < hi {
				x = s
			}
		}
		fx := f(x)
		if fx <= 0 {
			if fx == 0 && f(math.Nextafter(x, hi)) > 0 {
				return x
			}
			lo, flo = x, fx
			if side == -1 {
				fhi /= 2
			}
			side = -1
		} else {
			hi, fhi = x, fx
			if side == 1 {
				flo /= 2
			}
			side = 1
		}
		if hi-lo > width/2 {
			x = (lo + hi) / 2
			if fx = f(x); fx <= 0 {
				lo, flo = x, fx
			} else {
				hi, fhi = x, fx
			}
		}
		width = hi - lo
	}
	return lo
}
