// Package diagnose ranks faults by exact Bayesian enumeration, proposes the next test and weighs
// the actions. It works on plain values: a system, findings by vocabulary id, the shop's tools and costs.
package diagnose

import (
	"math"

	"geminate/brake/system"
)

// Place says what a fault is tied to.
type Place int

const (
	Whole Place = iota // the vehicle
	AtCircuit
	AtWheel
)

// Fault is one row of the fault table.
type Fault struct {
	ID    string
	Part  string
	Place Place
	// Prior is the share of such vehicles on a lift, per place, that have it, before anything is
	// known. All priors are assumptions from the trade brief's emphasis; no published count stands
	// behind them.
	Prior float64
	// Applies says whether a system can have it; nil means all can.
	Applies func(*system.System) bool
	// Physics turns the fault on in a copy of the system at a severity of 0 to 1 (faint to gross);
	// nil where the twin has nothing to say about it.
	Physics func(s *system.System, at string, severity float64)
	// Unsafe marks faults that can take the brakes away without more warning.
	Unsafe bool
	// Unseen is the share of a fault that the tests before hand-over do not show: all of water and petroleum and of a
	// seal that loses fluid into the booster, a fifth of a corroded bore, which may still hold. Assumptions.
	Unseen float64
}

func withVacuum(s *system.System) bool    { return s.Assist().Vacuum }
func withPressure(s *system.System) bool  { return s.Assist().Pressure }
func withSteering(s *system.System) bool  { return s.Assist().Steering }
func withSimulator(s *system.System) bool { return s.Assist().Simulator }

func tandemOnly(s *system.System) bool     { return s.MasterCylinder.Secondary != nil }
func withPedal(s *system.System) bool      { return s.Pedal != nil }
func trailerOnly(s *system.System) bool    { return s.IsTrailer() }
func withFootBrakes(s *system.System) bool { return withPedal(s) && withBrakes(s) }
func withBrakes(s *system.System) bool     { return !s.IsClutch() }
func hasModulator(s *system.System) bool   { return s.Modulator != nil }

// logSpread spreads a severity over a range by equal ratios.
func logSpread(lo, hi, severity float64) float64 { return lo * math.Pow(hi/lo, severity) }

func bypass(circuit func(*system.System) string, lo, hi float64) func(*system.System, string, float64) {
	return func(s *system.System, _ string, v float64) {
		s.Circuit(circuit(s)).BypassMM3SMPA += logSpread(lo, hi, v)
	}
}

func primary(s *system.System) string   { return s.MasterCylinder.Primary.Circuit }
func secondary(s *system.System) string { return s.MasterCylinder.Secondary.Circuit }

func scaleVacuum(lo, hi float64) func(*system.System, string, float64) {
	return func(s *system.System, _ string, v float64) { *s.Booster.VacuumKPA *= hi + (lo-hi)*v }
}

func scaleSupply(lo, hi float64) func(*system.System, string, float64) {
	return func(s *system.System, _ string, v float64) { *s.Booster.SupplyMPA *= hi + (lo-hi)*v }
}

// SoundShare is how much seldomer a vehicle brought in with a complaint is sound than the faults' odds
// alone would have it. Assumption.
const SoundShare = 0.12

// Faults is the table. The severity ranges are assumptions: from what a technician can just notice
// to what no one misses.
var Faults = []Fault{
	{ID: "mc.primary_cup_bypass", Part: "master_cylinder", Prior: 0.024, Physics: bypass(primary, 1.5, 400), Unsafe: true},
	{
		ID:      "mc.secondary_cup_bypass",
		Part:    "master_cylinder",
		Prior:   0.012,
		Applies: tandemOnly,
		Physics: bypass(secondary, 1.5, 400),
		Unsafe:  true,
	},
	{ID: "mc.rear_seal_leak", Part: "master_cylinder", Prior: 0.02, Unsafe: true, Unseen: 1,
		Physics: func(s *system.System, _ string, v float64) {
			s.Circuit(primary(s)).LeakMM3SMPA += logSpread(0.1, 60, v)
		}},
	{ID: "mc.reservoir_leak", Part: "master_cylinder", Prior: 0.01},
	{ID: "mc.port_blocked", Part: "master_cylinder", Prior: 0.004},
	{ID: "mc.piston_seized", Part: "master_cylinder", Prior: 0.0032, Unsafe: true},
	{ID: "mc.bore_corroded", Part: "master_cylinder", Prior: 0.008, Unsafe: true, Unseen: 0.2,
		Physics: func(s *system.System, _ string, v float64) {
			for i := range s.Circuits {
				s.Circuits[i].BypassMM3SMPA += logSpread(0.5, 200, v)
			}
		}},
	{ID: "mc.wrong_variant", Part: "master_cylinder", Prior: 0.003, Unsafe: true},
	{ID: "mc.bore_too_small", Part: "master_cylinder", Prior: 0.0024,
		Physics: func(s *system.System, _ string, v float64) { s.MasterCylinder.BoreMM *= 0.94 - 0.12*v }},
	{ID: "mc.bore_too_large", Part: "master_cylinder", Prior: 0.0024,
		Physics: func(s *system.System, _ string, v float64) { s.MasterCylinder.BoreMM *= 1.06 + 0.14*v }},
	{ID: "rod.too_long", Part: "rod", Prior: 0.0048, Applies: withPedal,
		Physics: func(s *system.System, _ string, v float64) {
			s.PushrodGapMM = -0.2 - (s.MasterCylinder.Primary.CutoffMM)*v
		}},
	{ID: "rod.too_short", Part: "rod", Prior: 0.0048, Applies: withPedal,
		Physics: func(s *system.System, _ string, v float64) { s.PushrodGapMM = logSpread(1.5, 8, v) }},
	{ID: "vacuum.diaphragm_leak", Part: "booster", Prior: 0.016, Applies: withVacuum, Physics: scaleVacuum(0.05, 0.8)},
	{ID: "vacuum.valve_leak", Part: "booster", Prior: 0.008, Applies: withVacuum, Physics: scaleVacuum(0.3, 0.95)},
	{ID: "vacuum.fluid_inside", Part: "booster", Unseen: 1, Prior: 0.0008, // where the cylinder was changed and the booster not
		Applies: withVacuum, Physics: scaleVacuum(0.4, 1)},
	{ID: "vacuum.check_valve_leak", Part: "supply", Prior: 0.01, Applies: withVacuum},
	{ID: "vacuum.supply_low", Part: "supply", Prior: 0.012, Applies: withVacuum, Physics: scaleVacuum(0, 0.7)},
	{ID: "hydraulic.input_seal_leak", Part: "booster", Prior: 0.012, Applies: withPressure},
	{ID: "hydraulic.housing_leak", Part: "booster", Prior: 0.012, Applies: withPressure},
	{ID: "hydraulic.accumulator_lost", Part: "booster", Prior: 0.012, Applies: withPressure},
	{ID: "hydraulic.valve_stuck", Part: "booster", Prior: 0.004, Applies: withPressure, Physics: scaleSupply(0.1, 0.9)},
	{ID: "hydraulic.supply_low", Part: "supply", Prior: 0.016, Applies: withSteering, Physics: scaleSupply(0, 0.7)},
	{ID: "steering.air", Part: "supply", Prior: 0.008, Applies: withSteering},
	{ID: "electro.pressure_source", Part: "booster", Prior: 0.02, Applies: withSimulator, Physics: scaleSupply(0, 0.6), Unsafe: true},
	{ID: "electro.simulator_air", Part: "booster", Prior: 0.012, Applies: withSimulator},
	{ID: "electro.offset_unlearned", Part: "booster", Prior: 0.012, Applies: withSimulator},
	{ID: "circuit.air", Part: "circuit", Place: AtCircuit, Prior: 0.02,
		Physics: func(s *system.System, at string, v float64) { s.Circuit(at).AirCM3 += logSpread(1.5, 25, v) }},
	{ID: "circuit.modulator_air", Part: "circuit", Prior: 0.008, Applies: hasModulator,
		Physics: func(s *system.System, _ string, v float64) {
			for i := range s.Circuits {
				s.Circuits[i].AirCM3 += logSpread(0.7, 5, v)
			}
		}},
	{
		ID:      "circuit.line_leak",
		Part:    "circuit",
		Place:   AtCircuit,
		Prior:   0.008,
		Unsafe:  true,
		Physics: func(s *system.System, at string, v float64) { s.Circuit(at).LeakMM3SMPA += logSpread(0.05, 1500, v) },
	}, // from a drop or two a day to a spray
	{ID: "circuit.hose_expands", Part: "circuit", Place: AtWheel, Prior: 0.0016, Unsafe: true,
		Physics: func(s *system.System, at string, v float64) {
			s.Wheel(at).Hose.ExpansionMM3PerMPA *= logSpread(3, 15, v)
		}},
	{ID: "circuit.hose_blocked", Part: "circuit", Place: AtWheel, Prior: 0.0016},
	// A valve of the modulator held open by dirt: fluid goes back to the side of the cylinder, nothing is lost.
	{ID: "circuit.modulator_leak", Part: "modulator", Place: AtCircuit, Prior: 0.0015, Applies: hasModulator, Unsafe: true,
		Physics: func(s *system.System, at string, v float64) { s.Circuit(at).BypassMM3SMPA += logSpread(1.5, 200, v) }},
	{ID: "wheel.leak", Part: "wheel", Place: AtWheel, Prior: 0.0048, Unsafe: true,
		Physics: func(s *system.System, at string, v float64) {
			s.Circuit(s.CircuitOf(at)).LeakMM3SMPA += logSpread(0.5, 200, v)
		}},
	{ID: "wheel.seized", Part: "wheel", Place: AtWheel, Prior: 0.0048},
	{ID: "wheel.excess_clearance", Part: "wheel", Place: AtWheel, Prior: 0.0048, Applies: withBrakes,
		Physics: func(s *system.System, at string, v float64) { s.Wheel(at).Brake.ClearanceMM *= logSpread(2.5, 7, v) }},
	// A cable that does not come back holds both rear brakes on; nothing hydraulic lets them go.
	{ID: "wheel.parking_brake", Part: "wheel", Prior: 0.004, Applies: withFootBrakes},
	{ID: "wheel.linings", Part: "wheel", Prior: 0.005, Applies: withBrakes}, // glazed, or oil and grease on them
	{ID: "pedal.held_down", Part: "rod", Prior: 0.0024, Applies: withPedal}, // by its lamp switch or its stop, or a spring that is off
	{ID: "pedal.bush_worn", Part: "rod", Prior: 0.0024, Applies: withPedal,
		Physics: func(s *system.System, _ string, v float64) { s.Pedal.FreePlayMM += logSpread(3, 12, v) }},
	{ID: "fluid.wet", Part: "fluid", Prior: 0.04, Unseen: 1},
	{ID: "fluid.petroleum", Part: "fluid", Prior: 0.002, Unsafe: true, Unseen: 1},
	{ID: "fluid.low", Part: "fluid", Prior: 0.008},
	{ID: "trailer.actuator_seized", Part: "actuator", Prior: 0.032, Applies: trailerOnly},
	{ID: "trailer.lockout", Part: "actuator", Prior: 0.016, Applies: trailerOnly},
	{ID: "trailer.breakaway_on", Part: "actuator", Prior: 0.01, Applies: trailerOnly},
	{ID: "trailer.damper_empty", Part: "actuator", Prior: 0.01, Applies: trailerOnly},
	{ID: "trailer.wheels_seized", Part: "wheel", Prior: 0.016, Applies: trailerOnly, Unsafe: true},
	{ID: "trailer.shoes_far", Part: "wheel", Prior: 0.024, Applies: trailerOnly,
		Physics: func(s *system.System, _ string, v float64) {
			for i := range s.Wheels {
				s.Wheels[i].Brake.ClearanceMM *= logSpread(2.5, 7, v)
			}
		}},
}

// findFault returns the table row of an id, or nil.
func findFault(id string) *Fault {
	for i := range Faults {
		if Faults[i].ID == id {
			return &Faults[i]
		}
	}
	return nil
}
