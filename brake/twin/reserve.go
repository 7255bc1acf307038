package twin

import (
	"fmt"
	"math"
)

// Reserve is how many assisted applications remain once the engine has stopped.
type Reserve struct {
	Applications int       `json:"applications"`
	VacuumKPA    []float64 `json:"vacuum_kpa,omitempty"` // before each assisted application
	SupplyMPA    []float64 `json:"supply_mpa,omitempty"` // after each application
}

// assistedShare is the part of full assist below which an application counts as unassisted.
const assistedShare = 0.3

// Reserve empties the booster application by application (how-it-computes, section 4). A booster without
// a store, or none at all, gives zero.
func (m *Model) Reserve() Reserve {
	var r Reserve
	b := &m.booster
	switch {
	case b.vacuum:
		full, spring := b.assist, -b.noAssist
		if full <= 0 {
			return r
		}
		perKPA := (full + spring) / m.vacuumKPA
		keep := 1 - m.releaseCM3/m.chamberCM3
		for v := m.vacuumKPA; v*perKPA-spring >= assistedShare*full && r.Applications < 1000; v *= keep {
			r.VacuumKPA = append(r.VacuumKPA, v)
			r.Applications++
		}
	case m.accumulator != nil && m.supplyMPA > 0:
		a := m.accumulator
		// Isothermal gas in absolute pressure; spent once it has grown back to its precharge volume.
		constant := (a.PrechargeMPA + m.atmosphereMPA) * a.GasCM3
		for gas := constant / (a.ChargedMPA + m.atmosphereMPA); gas+a.UseCM3 <= a.GasCM3*(1+1e-12) && r.Applications < 1000; r.Applications++ {
			gas += a.UseCM3
			r.SupplyMPA = append(r.SupplyMPA, constant/gas-m.atmosphereMPA)
		}
	}
	return r
}

// Pushrod is the space between the booster's rod and the cylinder's piston.
type Pushrod struct {
	GapMM       float64 `json:"gap_mm"`        // negative: preload
	Turns       float64 `json:"turns"`         // to the target; positive screws the rod out
	PedalLostMM float64 `json:"pedal_lost_mm"` // at the pad
	Covered     *bool   `json:"covered,omitempty"`
}

// PushrodGap works out a rod from two depth measurements (how-it-computes, section 5), all in mm:
// gap = pocket + gasket − protrusion; turns = (gap − target)/pitch. cutoffMM may be NaN where it is
// not known; then nothing is said of the compensating port.
func PushrodGap(pocketMM, gasketMM, protrusionMM, pitchMM, targetMM, pedalRatio, cutoffMM float64) (Pushrod, error) {
	for name, v := range map[string]float64{"pocket": pocketMM, "gasket": gasketMM, "protrusion": protrusionMM, "target": targetMM} {
		if math.IsNaN(v) || math.IsInf(v, 0) || math.Abs(v) > 300 {
			return Pushrod{}, fmt.Errorf("twin: %s of %v mm cannot be right", name, v)
		}
	}
	if pocketMM < 0 || gasketMM < 0 || protrusionMM < 0 {
		return Pushrod{}, fmt.Errorf("twin: pocket, gasket and protrusion are depths and cannot be negative")
	}
	if !(pitchMM > 0) || !(pedalRatio > 0) {
		return Pushrod{}, fmt.Errorf("twin: thread pitch and pedal ratio must be above zero")
	}
	gap := pocketMM + gasketMM - protrusionMM
	p := Pushrod{GapMM: gap, Turns: (gap - targetMM) / pitchMM, PedalLostMM: pedalRatio * math.Max(0, gap)}
	if !math.IsNaN(cutoffMM) {
		covered := cutoffMM+gap <= 0
		p.Covered = &covered
	}
	return p, nil
}
