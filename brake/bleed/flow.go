package bleed

import (
	"math"

	"geminate/brake/fluid"
	"geminate/brake/system"
)

func area(bore float64) float64 { return math.Pi * bore * bore / 4 }

// FlowCM3S is the steady flow out of an open bleeder in cm³/s: laminar line, hose and bleeder in
// series (Hagen–Poiseuille, any fluid mechanics handbook) and the compensating port as an orifice.
func FlowCM3S(s *system.System, w *system.Wheel, o Options) float64 {
	linear, square := resistance(s, w, o)
	drive := driveKPA(s, w, o) * 1000
	if drive <= 0 {
		return 0
	}
	q := 2 * drive / (linear + math.Sqrt(linear*linear+4*square*drive)) // the stable root
	return q * 1e6
}

// TogetherCM3S is the flow at each of several bleeders open at once, cm³/s: each through its own pipes, those of a
// circuit through one compensating port. With Q through the port each pipe sees drive − k·Q², so Q solves k·G·Q² + Q −
// drive·G = 0, G the sum of the pipes' conductances (arithmetic of FlowCM3S's resistances).
func TogetherCM3S(s *system.System, wheels []string, o Options) map[string]float64 {
	out := map[string]float64{}
	for _, c := range s.Circuits {
		conductance, k, drive := 0.0, 0.0, 0.0
		linear := map[string]float64{}
		for _, id := range wheels {
			w := s.Wheel(id)
			if w == nil || s.CircuitOf(id) != c.ID {
				continue
			}
			linear[id], k = resistance(s, w, o)
			conductance += 1 / linear[id]
			drive = driveKPA(s, w, o) * 1000
		}
		if drive <= 0 {
			continue
		}
		q := 2 * drive * conductance / (1 + math.Sqrt(1+4*k*conductance*conductance*drive))
		for id, l := range linear {
			out[id] = (drive - k*q*q) / l * 1e6
		}
	}
	return out
}

// resistance of a wheel's way: laminar, Pa·s/m³, and of its compensating port, Pa·s²/m⁶.
func resistance(s *system.System, w *system.Wheel, o Options) (linear, square float64) {
	class, err := fluid.Find(s.Fluid.Class)
	if err != nil {
		class = fluid.Classes[0]
	}
	rho := density(s)
	mu := class.ViscosityMM2S(o.TemperatureC) * 1e-6 * rho // Pa·s
	resist := func(lengthMM, boreMM float64) float64 {     // Pa·s/m³
		return 128 * mu * lengthMM / 1000 / (math.Pi * math.Pow(boreMM/1000, 4))
	}
	bBore, bLen, port := bleederBoreMM, float64(bleederLengthMM), compensatingPortMM
	if w.Bleeder != nil {
		bBore, bLen = w.Bleeder.BoreMM, w.Bleeder.LengthMM
	}
	if p := s.MasterCylinder.CompensatingPortMM; p != nil {
		port = *p
	}
	linear = resist(w.Line.LengthMM, w.Line.BoreMM) + resist(w.Hose.LengthMM, w.Hose.BoreOrUsualMM()) + resist(bLen, bBore)
	square = rho / 2 / math.Pow(0.65*area(port)*1e-6, 2)
	return linear, square
}

// driveKPA is what moves the fluid: the head of the reservoir, what pulls at the bleeder or pushes at the reservoir,
// what pushes at the bleeder less what the circuit's residual valve holds against it, the foot.
func driveKPA(s *system.System, w *system.Wheel, o Options) float64 {
	switch o.Method.mover() {
	case ByHead:
		return density(s) * gravityMS2 * o.HeadMM / 1e6
	case ByFoot, ByTool: // the tool works its own pump; what it presses with is not told
		return footMPA * 1000
	case ByPush:
		if c := s.Circuit(s.CircuitOf(w.ID)); c != nil && c.ResidualMPA != nil {
			return o.DriveKPA - *c.ResidualMPA*1000
		}
	}
	return o.DriveKPA
}

func density(s *system.System) float64 {
	if s.Fluid.DensityKGM3 != nil {
		return *s.Fluid.DensityKGM3
	}
	return densityKGM3
}

// BubbleRiseMMS is the speed at which a bubble that fills a line climbs in it, in mm/s, zero where
// it is stuck.
//
// Source: Bretherton, J. Fluid Mech. 10 (1961) 166 (from memory):
// Bo − 0.842 = 1.25·Ca^(2/9) + 2.24·Ca^(1/3), Bo = ρgR²/σ, R half the inside diameter, Ca = μU/σ.
func BubbleRiseMMS(s *system.System, boreMM, temperatureC float64) float64 {
	class, err := fluid.Find(s.Fluid.Class)
	if err != nil {
		class = fluid.Classes[0]
	}
	rho := density(s)
	r := boreMM / 2000
	excess := rho*gravityMS2*r*r/surfaceTensionNM - 0.842
	if excess <= 0 {
		return 0
	}
	lo, hi := 0.0, 1.0 // in Ca
	for i := 0; i < 80; i++ {
		ca := (lo + hi) / 2
		if 1.25*math.Pow(ca, 2./9)+2.24*math.Cbrt(ca) < excess {
			lo = ca
		} else {
			hi = ca
		}
	}
	mu := class.ViscosityMM2S(temperatureC) * 1e-6 * rho
	// However thin the fluid, inertia bounds it: 0.345·√(g·d) (Dumitrescu 1943, from memory).
	u := math.Min(lo*surfaceTensionNM/mu, inertialRise*math.Sqrt(gravityMS2*boreMM/1000)) * 1000
	if u < 1 { // stuck for any practical purpose (how-it-computes, section 8)
		return 0
	}
	return u
}
