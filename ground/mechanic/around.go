package mechanic

import "geminate/brake/system"

func vacuumTo(lo, hi float64) func(*system.System, string, float64) {
	return func(s *system.System, _ string, bad float64) { *s.Booster.VacuumKPA *= hi + (lo-hi)*bad }
}

func supplyTo(lo, hi float64) func(*system.System, string, float64) {
	return func(s *system.System, _ string, bad float64) { *s.Booster.SupplyMPA *= hi + (lo-hi)*bad }
}

// hard is help that is missing, felt by a foot.
var hard = []Show{
	{"pedal.hard", p(0.55, 0.1, 0.35), p(0.03, 0.04, 0.93)}, {"brakes.weak", p(0.8, 0.2, 0, 0), p(0.3, 0.7, 0, 0)},
	{"assist.pedal_falls_on_start", p(0.8, 0.2), p(0.1, 0.9)},
}

func add(first []Show, more ...Show) []Show { return append(append([]Show{}, first...), more...) }

// Troubles of what helps the foot.
var help = []Trouble{
	{
		ID:    "diaphragm torn",
		Known: "vacuum.diaphragm_leak",
		Share: 55,
		Bad:   breaks,
		On:    vacuum,
		Does:  vacuumTo(0.05, 0.85),
		Shows: add(
			hard,
			Show{"sound.rush_of_air", p(0.35, 0.3, 0.35), p(0.1, 0.1, 0.8)},
			Show{"assist.reserve_applies", p(0.45, 0.55), p(0.1, 0.9)},
			Show{"assist.loaded_hold", p(0.35, 0.65), p(0.05, 0.95)},
			Show{"vacuum.at_hose_kpa", p(0.85, 0.15), p(0.5, 0.5)},
			Show{"vacuum.hose_pinched", p(0.4, 0.6), p(0.08, 0.92)},
		),
	},
	{
		ID:    "booster valve dirty",
		Known: "vacuum.valve_leak",
		Share: 25,
		Bad:   creeps,
		On:    vacuum,
		Does:  vacuumTo(0.3, 0.97),
		Shows: add(
			hard,
			Show{"sound.rush_of_air", p(0.3, 0.5, 0.2), p(0.1, 0.35, 0.55)},
			Show{"assist.loaded_hold", p(0.75, 0.25), p(0.5, 0.5)},
			Show{"assist.reserve_applies", p(0.7, 0.3), p(0.35, 0.65)},
			Show{"vacuum.hose_pinched", p(0.6, 0.4), p(0.25, 0.75)},
		),
	},
	{ID: "fluid in the booster", Known: "vacuum.fluid_inside", Share: 2, On: vacuum, Does: vacuumTo(0.5, 1),
		Shows: []Show{brakeFluid, yes("wet.at:inside_booster", 0.85, 0.98), yes("history.since:cylinder_fitted", 0.3, 0.3),
			{"pedal.hard", p(0.95, 0.02, 0.03), p(0.5, 0.1, 0.4)}}},
	{ID: "check valve lets back", Known: "vacuum.check_valve_leak", Share: 30, On: vacuum,
		Shows: []Show{{"check_valve.holds", p(0.12, 0.88), p(0.02, 0.98)}, {"pedal.hard", p(0.5, 0.45, 0.05), p(0.15, 0.7, 0.15)},
			{"assist.reserve_applies", p(0.25, 0.75), p(0.03, 0.97)}}},
	{
		ID:    "hose soft or engine tired",
		Known: "vacuum.supply_low",
		Share: 40,
		On:    vacuum,
		Does:  vacuumTo(0.1, 0.75),
		Shows: add(
			hard,
			Show{"vacuum.at_hose_kpa", p(0.15, 0.85), p(0.02, 0.98)},
			Show{"assist.reserve_applies", p(0.6, 0.4), p(0.2, 0.8)},
		),
	},
	{ID: "input seal", Known: "hydraulic.input_seal_leak", Share: 30, On: pressure,
		Shows: []Show{yes("wet.at:cabin_floor", 0.65, 0.96), {"wet.fluid", p(0.05, 0.75, 0.2), p(0.03, 0.85, 0.12)},
			{"leak.seen", p(0.6, 0, 0, 0, 0, 0.4, 0), p(0.1, 0, 0, 0, 0, 0.9, 0)}, {"level.falls", p(0.9, 0.1, 0), p(0.8, 0.18, 0.02)}}},
	{ID: "booster housing wet", Known: "hydraulic.housing_leak", Share: 30, On: pressure,
		Shows: []Show{yes("wet.at:booster_housing", 0.75, 0.97), {"wet.fluid", p(0.05, 0.75, 0.2), p(0.03, 0.85, 0.12)},
			{"leak.seen", p(0.5, 0, 0, 0, 0, 0, 0.5), p(0.1, 0, 0, 0, 0, 0, 0.9)}, yes("steering.groan", 0.1, 0.4)}},
	{ID: "accumulator empty", Known: "hydraulic.accumulator_lost", Share: 30, On: pressure,
		Shows: []Show{{"assist.reserve_applies", p(0.1, 0.9), p(0.02, 0.98)}, {"pedal.hard", p(0.6, 0.35, 0.05), p(0.35, 0.5, 0.15)}}},
	{ID: "booster valve sticks", Known: "hydraulic.valve_stuck", Share: 10, On: pressure, Does: supplyTo(0.1, 0.9),
		Shows: add(hard, Show{"brakes.drag", p(0.8, 0, 0.15, 0.05), p(0.55, 0, 0.4, 0.05)})},
	{
		ID:    "pump or belt",
		Known: "hydraulic.supply_low",
		Share: 40,
		On:    steering,
		Does:  supplyTo(0.05, 0.75),
		Shows: add(
			hard,
			yes("steering.heavy", 0.6, 0.95),
			yes("steering.groan", 0.3, 0.6),
			Show{"steering.pump_pressure", p(0.15, 0.85), p(0.02, 0.98)},
		),
	},
	{ID: "air in the steering", Known: "steering.air", Share: 20, On: steering,
		Shows: []Show{yes("steering.foam", 0.65, 0.95), yes("steering.groan", 0.6, 0.95), yes("steering.heavy", 0.1, 0.4),
			{"pedal.hard", p(0.85, 0.1, 0.05), p(0.6, 0.2, 0.2)}}},
	{ID: "pressure source", Known: "electro.pressure_source", Share: 60, Hurts: true, Bad: breaks, On: byWire, Does: supplyTo(0, 0.7),
		Shows: add(hard, Show{"codes.present", p(0.08, 0.04, 0.86, 0.02), p(0.02, 0.02, 0.95, 0.01)})},
	{ID: "air in the simulator", Known: "electro.simulator_air", Share: 35, On: byWire,
		Shows: []Show{yes("pedal.springy", 0.6, 0.93), yes("pedal.low", 0.25, 0.6), yes("history.since:hydraulics_opened", 0.5, 0.6)}},
	{
		ID:    "offset not learnt",
		Known: "electro.offset_unlearned",
		Share: 35,
		On:    byWire,
		Shows: []Show{
			{"codes.present", p(0.1, 0.06, 0.02, 0.82), p(0.04, 0.03, 0.01, 0.92)},
			yes("history.since:hydraulics_opened", 0.55, 0.6),
		},
	},
}

// Troubles of lines, hoses and wheels.
var lines = []Trouble{
	{
		ID:    "air in a circuit",
		Known: "circuit.air",
		Share: 45,
		Where: Circuit,
		Does:  func(s *system.System, at string, bad float64) { s.Circuit(at).AirCM3 += between(1, 25, bad) },
		Shows: []Show{
			yes("pedal.springy", 0.6, 0.97),
			{"pedal.pumps_up", p(0.4, 0.1, 0.5), p(0.05, 0.1, 0.85)},
			yes("pedal.low", 0.3, 0.85),
			yes(
				"history.since:hydraulics_opened",
				0.5,
				0.6,
			),
			yes("bleeder.bubbles", 0.6, 0.95),
			{"brakes.weak", p(0.95, 0, 0.02, 0.03), p(0.75, 0.1, 0, 0.15)},
			{
				"pedal.to_floor",
				p(0.97, 0.03, 0),
				p(0.5, 0.3, 0.2),
			},
			{"clutch.releases", p(0.6, 0.3, 0.1), p(0.1, 0.4, 0.5)},
			{"ports_plugged.pedal", p(0.97, 0.01, 0.02), p(0.97, 0.01, 0.02)},
		},
	},
	{
		ID:    "air in the modulator",
		Known: "circuit.modulator_air",
		Share: 18,
		On:    modulator,
		Does: func(s *system.System, _ string, bad float64) {
			for i := range s.Circuits {
				s.Circuits[i].AirCM3 += between(0.6, 5, bad)
			}
		},
		Shows: []Show{
			yes("pedal.springy", 0.5, 0.93),
			yes("history.since:modulator_ran_dry", 0.5, 0.6),
			yes("modulator.pedal_drops", 0.6, 0.93),
			{
				"pedal.pumps_up",
				p(0.6, 0.1, 0.3),
				p(0.25, 0.15, 0.6),
			},
			yes("pedal.low", 0.2, 0.6),
			{"history.bled", p(0.3, 0.65, 0.05), p(0.25, 0.7, 0.05)},
		},
	},
	{ID: "joint weeps", Known: "circuit.line_leak", Share: 12, Where: Circuit, Hurts: true, Bad: creeps,
		Does: func(s *system.System, at string, bad float64) { s.Circuit(at).LeakMM3SMPA += between(0.02, 1500, bad) },
		Shows: []Show{brakeFluid, yes("wet.at:line_joint", 0.75, 0.98), {"level.falls", p(0.45, 0.55, 0), p(0.02, 0.28, 0.7)},
			{"fluid.level", p(0.6, 0.4, 0), p(0.05, 0.5, 0.45)}, {"leak.seen", p(0.4, 0.6, 0, 0, 0, 0, 0), p(0.03, 0.97, 0, 0, 0, 0, 0)},
			{"pedal.sinks", p(0.97, 0.03, 0), p(0.1, 0.3, 0.6)}, {"pedal.to_floor", p(0.99, 0.01, 0), p(0.3, 0.3, 0.4)}}},
	{ID: "hose swells", Known: "circuit.hose_expands", Share: 2.5, Where: Wheel, Hurts: true, On: brakes,
		Does: func(s *system.System, at string, bad float64) {
			s.Wheel(at).Hose.ExpansionMM3PerMPA *= between(3, 14, bad)
		},
		Shows: []Show{yes("hose.swells", 0.6, 0.95), yes("pedal.springy", 0.25, 0.7), yes("pedal.low", 0.05, 0.3)}},
	{ID: "hose closed inside", Known: "circuit.hose_blocked", Share: 3, Where: Wheel, On: brakes,
		Shows: []Show{{"brakes.drag", p(0.3, 0.7, 0, 0), p(0.1, 0.9, 0, 0)}, {"drag.released_by", p(0.08, 0.9, 0.02), p(0.03, 0.95, 0.02)},
			{"brakes.weak", p(0.7, 0, 0.3, 0), p(0.4, 0, 0.6, 0)}},
		Here: []Show{{"wheel.check", p(0.3, 0.7, 0), p(0.1, 0.9, 0)}, {"wheel.heat", p(0.45, 0.45, 0.1), p(0.25, 0.65, 0.1)},
			{"pressure.at_bleeder", p(0.3, 0.6, 0.1), p(0.05, 0.65, 0.3)}}},
	{ID: "modulator valve open", Known: "circuit.modulator_leak", Share: 4, Where: Circuit, Hurts: true, On: modulator,
		Does: func(s *system.System, at string, bad float64) { s.Circuit(at).BypassMM3SMPA += between(1.5, 200, bad) },
		Shows: []Show{{"pedal.sinks", p(0.7, 0.28, 0.02), p(0.05, 0.3, 0.65)}, {"pedal.to_floor", p(0.96, 0.03, 0.01), p(0.35, 0.45, 0.2)},
			{"codes.present", p(0.75, 0.25, 0, 0), p(0.65, 0.35, 0, 0)}}},
	{
		ID:    "wheel cylinder or caliper wet",
		Known: "wheel.leak",
		Share: 11,
		Where: Wheel,
		Hurts: true,
		Bad:   creeps,
		Does: func(s *system.System, at string, bad float64) {
			s.Circuit(s.CircuitOf(at)).LeakMM3SMPA += between(0.1, 200, bad)
		},
		Shows: []Show{
			brakeFluid,
			yes("wet.at:wheel", 0.65, 0.97),
			{"level.falls", p(0.45, 0.55, 0), p(0.04, 0.5, 0.46)},
			{"fluid.level", p(0.6, 0.4, 0), p(0.1, 0.6, 0.3)},
			{"leak.seen", p(0.5, 0, 0.5, 0, 0, 0, 0), p(0.07, 0, 0.93, 0, 0, 0, 0)},
			{"pedal.sinks", p(0.97, 0.03, 0), p(0.3, 0.4, 0.3)},
			{"brakes.weak", p(0.85, 0, 0.15, 0), p(0.5, 0, 0.5, 0)},
		},
	},
	{
		ID:    "wheel does not let go",
		Known: "wheel.seized",
		Share: 13,
		Where: Wheel,
		On:    brakes,
		Shows: []Show{
			{"brakes.drag", p(0.35, 0.65, 0, 0), p(0.05, 0.95, 0, 0)},
			{"drag.released_by", p(0.9, 0.07, 0.03), p(0.95, 0.04, 0.01)},
			{"brakes.weak", p(0.85, 0, 0.15, 0), p(0.65, 0, 0.35, 0)},
		},
		Here: []Show{{"wheel.check", p(0.25, 0.75, 0), p(0.04, 0.96, 0)}, {"wheel.heat", p(0.4, 0.55, 0.05), p(0.12, 0.83, 0.05)}},
	},
	{
		ID:      "shoes far from the drum",
		Known:   "wheel.excess_clearance",
		Share:   14,
		Where:   Wheel,
		On:      drums,
		Reaches: func(s *system.System, at, place string) bool { return at == place },
		Does:    func(s *system.System, at string, bad float64) { s.Wheel(at).Brake.ClearanceMM *= between(2, 6, bad) },
		Shows: []Show{
			yes("pedal.low", 0.3, 0.9),
			{"pedal.pumps_up", p(0.55, 0.25, 0.2), p(0.15, 0.35, 0.5)},
			yes("history.since:pads_or_shoes_fitted", 0.3, 0.4),
			{"brakes.weak", p(0.93, 0, 0.07, 0), p(0.75, 0, 0.25, 0)},
		},
		Here: []Show{{"wheel.check", p(0.35, 0, 0.65), p(0.06, 0, 0.94)}},
	},
}
