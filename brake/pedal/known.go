package pedal

import (
	"errors"
	"fmt"
	"math"

	"geminate/brake/system"
	"geminate/brake/twin"
)

// ErrFar says that no likely figures of this system give the pedal that was read: the system's own are to be looked at.
var ErrFar = errors.New("pedal: the curve is too far from this system's to be its own")

// Bounds of what a vehicle's own clearances and elasticity may be to the file's. Assumption: beyond it something else
// is wrong.
const knownLeast, knownMost = 0.3, 2.5

// leastKnown is how many readings a known-good curve takes.
const leastKnown = 2

// Known sets a system's running clearances and its brakes' elasticity so that the twin gives the pedal that was read on
// a vehicle known to be good: the baseline of later fits (how-it-computes, section 9). Constant and elastic volume are
// each scaled, least squares weighed by the rule's millimetre and held by the same priors as the fit's.
func Known(s *system.System, readings []Reading) (*system.System, error) {
	if s.Pedal == nil {
		return nil, fmt.Errorf("pedal: a trailer has no pedal to read")
	}
	out := s.Clone()
	for i := range out.Circuits {
		out.Circuits[i].AirCM3 = 0
	}
	m := twin.New(out)
	b0 := m.Sweep(0).ConstantMM3
	sigma := m.AreaMM2() * ruleMM / m.PedalRatio()
	// Normal equations of V = b0·(1+a) + E·(1+c), ridge by the priors.
	aa, ac, cc, av, cv := 1/(priorConstant*priorConstant), 0.0, 1/(priorCompliance*priorCompliance), 0.0, 0.0
	used, output := 0, 0.0
	for _, r := range readings {
		o := m.OutputForceN(m.RodForceN(r.PedalForceN), false)
		d := m.Sweep(o)
		if d.Bottomed || d.MeanMPA < m.TakeUpMPA() || r.TravelMM >= m.FloorMM()-ruleMM {
			continue
		}
		x, y, v := b0/sigma, d.ElasticMM3/sigma, (m.AreaMM2()*r.TravelMM/m.PedalRatio()-b0-d.ElasticMM3)/sigma
		aa, ac, cc, av, cv = aa+x*x, ac+x*y, cc+y*y, av+x*v, cv+y*v
		used, output = used+1, output+o
	}
	if used < leastKnown {
		return nil, fmt.Errorf("pedal: %d usable readings, a known-good curve takes %d", used, leastKnown)
	}
	output /= float64(used)
	det := aa*cc - ac*ac
	a, c := (av*cc-cv*ac)/det, (aa*cv-ac*av)/det
	clearance, elasticity, err := shares(out, b0, m.Sweep(output).ElasticMM3, output)
	if err != nil {
		return nil, err
	}
	kClearance, kElastic := 1+a*b0/clearance, 1+c*m.Sweep(output).ElasticMM3/elasticity
	if !(kClearance >= knownLeast && kClearance <= knownMost && kElastic >= knownLeast && kElastic <= knownMost) {
		return nil, ErrFar
	}
	scale(out, kClearance, kElastic)
	return out, nil
}

// shares are how much of the constant and of the elastic volume hang on the brakes' clearance and elasticity, mm³: what
// half as much of either takes away, twice.
func shares(s *system.System, b0, elastic, output float64) (clearance, elasticity float64, err error) {
	half := s.Clone()
	scale(half, 0.5, 1)
	clearance = 2 * (b0 - twin.New(half).Sweep(0).ConstantMM3)
	half = s.Clone()
	scale(half, 1, 0.5)
	elasticity = 2 * (elastic - twin.New(half).Sweep(output).ElasticMM3)
	if clearance <= 0 || elasticity <= 0 || math.IsNaN(clearance+elasticity) {
		return 0, 0, ErrFar
	}
	return clearance, elasticity, nil
}

func scale(s *system.System, clearance, elasticity float64) {
	for i := range s.Wheels {
		s.Wheels[i].Brake.ClearanceMM *= clearance
		s.Wheels[i].Brake.ComplianceMM3 *= elasticity
	}
}

// Unknow gives a system's brakes the clearance and elasticity of another of its kind, where the wheels are alike: what
// was learnt of one vehicle's pedal stays that vehicle's.
func Unknow(s, usual *system.System) {
	for i := range s.Wheels {
		b := &s.Wheels[i].Brake
		if i < len(usual.Wheels) && usual.Wheels[i].Brake.Kind == b.Kind {
			b.ClearanceMM, b.ComplianceMM3 = usual.Wheels[i].Brake.ClearanceMM, usual.Wheels[i].Brake.ComplianceMM3
		}
	}
}
