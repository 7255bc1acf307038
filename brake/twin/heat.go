package twin

import (
	"fmt"
)

// Expansion is the volumetric expansion of brake fluid per kelvin. Common practice, no source (model
// page, section 5).
const Expansion = 8e-4

// Trapped is what a circuit does when its compensating port is covered and its fluid warms up.
type Trapped struct {
	PressureMPA      float64 `json:"pressure_mpa"`
	DecelerationMPS2 float64 `json:"deceleration_mps2"` // the drag of its brakes, as a demand
	ExpandedMM3      float64 `json:"expanded_mm3"`
}

// TrappedHeat gives the pressure in MPa in a circuit closed at rest whose fluid is riseK kelvin warmer:
// V(P) = β·V_fluid·ΔT (how-it-computes, section 5). It stops at 40 MPa, where something gives way.
func (m *Model) TrappedHeat(circuit string, riseK float64) (Trapped, error) {
	const most = 40.0 // MPa
	if !(riseK >= 0) || riseK > 400 {
		return Trapped{}, fmt.Errorf("twin: a rise of %v K: give 0 to 400", riseK)
	}
	for k := 0; k < m.n; k++ {
		c := &m.chambers[k]
		if c.circuit != circuit {
			continue
		}
		out := Trapped{ExpandedMM3: Expansion * c.fluidMM3 * riseK}
		if c.open {
			return out, nil
		}
		out.PressureMPA = m.pressureFor(c, out.ExpandedMM3, most)
		s := state{}
		s.p[k] = out.PressureMPA
		out.DecelerationMPS2 = m.deceleration(&s)
		return out, nil
	}
	return Trapped{}, fmt.Errorf("twin: there is no circuit %q", circuit)
}
