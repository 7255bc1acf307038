package simulate

import "math"

// Air lies in segments: chambers, pipes, cavities, the modulator. It moves with what is moved, later than the fluid
// about it: bubbles cling. carry is how well a way of moving takes them along, 1 for a brisk stroke, less for a slow
// flow.

// How far air hangs back, in cell volumes for one e-fold. A chamber's top holds it longer than a brake's does, whose
// bleeder is at the top. Assumptions.
const (
	chamberHold = 0.5
	cavityHold  = 0.3
	cavityBasis = 1.5 // cm³, so that a small wheel cylinder does not clear at one drop
)

// bubble is air on its way through a pipe.
type bubble struct {
	cm3, left float64 // left: cm³ of flow until it reaches the brake
	lag       float64 // how much of the flow takes it along
}

type air struct {
	chambers, cavities map[string]float64
	pipes              map[string][]bubble
	modulator          float64
}

// carryAir moves the air of a way along with dv and gives what left the bleeder.
func (v *Vehicle) carryAir(wheel string, dv, carry float64) float64 {
	p, a := v.paths[wheel], &v.air
	if x := a.chambers[p.circuit]; x > 1e-6 {
		gone := x * (1 - math.Exp(-carry*dv/(chamberHold*v.chambers[p.circuit].cm3)))
		a.chambers[p.circuit] -= gone
		v.intoPipe(wheel, gone, p.way)
	}
	kept := a.pipes[wheel][:0]
	for _, b := range a.pipes[wheel] {
		if b.left -= dv * carry * b.lag; b.left > 0 {
			kept = append(kept, b)
		} else {
			a.cavities[wheel] += b.cm3
		}
	}
	a.pipes[wheel] = kept
	x := a.cavities[wheel]
	gone := x * (1 - math.Exp(-carry*dv/(cavityHold*p.cavity.cm3+cavityBasis)))
	a.cavities[wheel] -= gone
	return gone
}

// pushAir lets air rise the other way, from the brake to the reservoir: what reverse bleeding is good at.
func (v *Vehicle) pushAir(wheel string, dv float64) {
	p, a := v.paths[wheel], &v.air
	a.cavities[wheel] *= math.Exp(-dv / (p.cavity.cm3 + cavityBasis))
	for i := range a.pipes[wheel] {
		a.pipes[wheel][i].cm3 *= math.Exp(-1.5 * dv / (p.way + cavityBasis))
	}
	a.chambers[p.circuit] *= math.Exp(-1.5 * dv / v.chambers[p.circuit].cm3)
}

// intoPipe puts air into a pipe, so far from the brake; air that is nearly there already goes with it.
func (v *Vehicle) intoPipe(wheel string, cm3, left float64) {
	if cm3 < 1e-6 {
		return
	}
	list := v.air.pipes[wheel]
	if n := len(list); n > 0 && math.Abs(list[n-1].left-left) < 1 {
		list[n-1].cm3 += cm3
		return
	}
	v.air.pipes[wheel] = append(list, bubble{cm3: cm3, left: left, lag: 0.85 + 0.2*v.rnd.Float64()})
}

// AirCM3 is the air a circuit holds, and all of it is what the modulator holds besides.
func (v *Vehicle) AirCM3(circuit string) float64 {
	sum := v.air.chambers[circuit]
	for _, w := range v.wheels {
		if v.paths[w].circuit != circuit {
			continue
		}
		sum += v.air.cavities[w]
		for _, b := range v.air.pipes[w] {
			sum += b.cm3
		}
	}
	if len(v.found.Circuits) > 0 && v.found.Circuits[0].ID == circuit {
		sum += v.air.modulator
	}
	return sum
}

// AirIn is what a foot that comes up lets in at an open bleeder, cm³: 2 to 6 (how-it-computes, section 14; assumption).
func (v *Vehicle) AirIn(wheel string) {
	v.air.cavities[wheel] += 2 + 4*v.rnd.Float64()
	v.mark(FootUp, wheel)
}
