package mechanic

import "geminate/brake/system"

// lets is fluid getting past a seal of one chamber.
func lets(primary bool, lo, hi float64) func(*system.System, string, float64) {
	return func(s *system.System, _ string, bad float64) {
		id := s.MasterCylinder.Primary.Circuit
		if !primary {
			id = s.MasterCylinder.Secondary.Circuit
		}
		s.Circuit(id).BypassMM3SMPA += between(lo, hi, bad)
	}
}

// cup is what a cup that lets fluid past shows: the pedal goes away under a steady foot, nothing is lost.
var cup = []Show{
	{"pedal.sinks", p(0.7, 0.28, 0.02), p(0.03, 0.22, 0.75)},
	{"pedal.to_floor", p(0.95, 0.04, 0.01), p(0.2, 0.45, 0.35)},
	{"pedal.pumps_up", p(0.92, 0.06, 0.02), p(0.45, 0.5, 0.05)},
	{"brakes.weak", p(0.96, 0.03, 0, 0.01), p(0.6, 0.3, 0, 0.1)},
	{"ports_plugged.pedal", p(0.45, 0.53, 0.02), p(0.02, 0.96, 0.02)},
	{"teardown.bore", p(0.6, 0.3, 0.08, 0.02), p(0.2, 0.5, 0.25, 0.05)},
	{"fluid.debris", p(0.88, 0.1, 0.02), p(0.7, 0.25, 0.05)},
	{"clutch.releases", p(0.75, 0.2, 0.05), p(0.1, 0.4, 0.5)},
}

// brakeFluid is what a leak of the brakes leaves: told apart from the steering's by its smell and feel, mostly.
var brakeFluid = Show{"wet.fluid", p(0.7, 0.03, 0.27), p(0.85, 0.02, 0.13)}

// Troubles of the cylinder, its rod and its fluid.
var cylinder = []Trouble{
	{
		ID:    "cup worn, pushed by the rod",
		Known: "mc.primary_cup_bypass",
		Share: 70,
		Hurts: true,
		Bad:   creeps,
		Does:  lets(true, 1, 350),
		Shows: cup,
	},
	{ID: "cup worn, floating piston", Known: "mc.secondary_cup_bypass", Share: 35, Hurts: true, Bad: creeps, On: tandem,
		Does: lets(false, 1, 350), Shows: cup},
	{ID: "weeps at the rod", Known: "mc.rear_seal_leak", Share: 65, Hurts: true, Bad: creeps,
		Does: func(s *system.System, _ string, bad float64) {
			s.Circuit(s.MasterCylinder.Primary.Circuit).LeakMM3SMPA += between(0.03, 60, bad)
		},
		Brings: map[string]float64{"fluid in the booster": 0.35},
		Shows: []Show{
			yes("wet.at:behind_cylinder", 0.7, 0.93), yes("wet.at:inside_booster", 0.25, 0.6), yes("paint.peeling_on_booster", 0.15, 0.6),
			{"level.falls", p(0.4, 0.6, 0), p(0.03, 0.67, 0.3)}, {"fluid.level", p(0.6, 0.38, 0.02), p(0.2, 0.6, 0.2)},
			{"leak.seen", p(0.5, 0, 0, 0.5, 0, 0, 0), p(0.1, 0, 0, 0.88, 0.01, 0.01, 0)}, brakeFluid,
			{"pedal.sinks", p(0.97, 0.03, 0), p(0.4, 0.45, 0.15)},
		}},
	{ID: "reservoir grommet", Known: "mc.reservoir_leak", Share: 25, Shows: []Show{
		brakeFluid,
		yes("wet.at:under_reservoir", 0.75, 0.96), {"level.falls", p(0.3, 0.7, 0), p(0.05, 0.75, 0.2)},
		{"fluid.level", p(0.5, 0.45, 0.05), p(0.2, 0.6, 0.2)}, {"leak.seen", p(0.6, 0, 0, 0, 0.4, 0, 0), p(0.3, 0, 0, 0, 0.7, 0, 0)},
	}},
	{ID: "port closed", Known: "mc.port_blocked", Share: 10, Shows: []Show{
		{"brakes.drag", p(0.3, 0, 0.3, 0.4), p(0.05, 0, 0.75, 0.2)}, {"drag.released_by", p(0.1, 0.2, 0.7), p(0.02, 0.13, 0.85)},
		{"reservoir.spurts", p(0.3, 0.7), p(0.1, 0.9)}, {"pedal.free_play_mm", p(0.7, 0.3, 0), p(0.6, 0.4, 0)},
	}, Here: []Show{{"wheel.check", p(0.4, 0.6, 0), p(0.1, 0.9, 0)}, {"wheel.heat", p(0.5, 0.5, 0), p(0.2, 0.8, 0)}}},
	{ID: "pistons stuck", Known: "mc.piston_seized", Share: 8, Hurts: true, Shows: []Show{
		{"pedal.hard", p(0.4, 0.05, 0.55), p(0.1, 0.05, 0.85)}, {"brakes.weak", p(0.3, 0.5, 0, 0.2), p(0.05, 0.7, 0, 0.25)},
		{"brakes.drag", p(0.6, 0, 0.3, 0.1), p(0.3, 0, 0.6, 0.1)}, {"actuator.rod_moves", p(0.3, 0.7), p(0.1, 0.9)},
		{"coupler.rod_alone", p(0.3, 0.7), p(0.05, 0.95)}, {"teardown.bore", p(0.1, 0.2, 0.2, 0.5), p(0.02, 0.1, 0.18, 0.7)},
	}, Here: []Show{{"pressure.at_port", p(0.3, 0.5, 0.2), p(0.1, 0.4, 0.5)}, {"pressure.at_bleeder", p(0.3, 0.5, 0.2), p(0.1, 0.4, 0.5)}}},
	{ID: "bore pitted by standing", Known: "mc.bore_corroded", Share: 22, Hurts: true, Bad: creeps,
		Does: func(s *system.System, _ string, bad float64) {
			for i := range s.Circuits {
				s.Circuits[i].BypassMM3SMPA += between(0.4, 150, bad)
			}
		},
		Shows: append([]Show{yes("history.since:stood_outdoors", 0.45, 0.65), {"fluid.debris", p(0.6, 0.25, 0.15), p(0.3, 0.3, 0.4)},
			{"teardown.bore", p(0.1, 0.2, 0.1, 0.6), p(0.01, 0.09, 0.1, 0.8)}}, cup[:5]...)},
	{ID: "wrong unit on it", Known: "mc.wrong_variant", Share: 6, Hurts: true, Shows: []Show{
		yes("history.since:cylinder_fitted", 0.9, 0.97), {"unit.is_right", p(0.1, 0.05, 0.85), p(0.02, 0.03, 0.95)},
		{"brakes.weak", p(0.6, 0.2, 0, 0.2), p(0.3, 0.3, 0, 0.4)},
	}},
	{
		ID:    "bore under size",
		Known: "mc.bore_too_small",
		Share: 5,
		On:    brakes,
		Does:  func(s *system.System, _ string, bad float64) { s.MasterCylinder.BoreMM *= 0.95 - 0.14*bad },
		Shows: []Show{
			yes("history.since:cylinder_fitted", 0.85, 0.95),
			yes("pedal.low", 0.35, 0.85),
			yes("history.since:larger_calipers", 0.1, 0.2),
			{"unit.is_right", p(0.1, 0.85, 0.05), p(0.03, 0.95, 0.02)},
		},
	},
	{ID: "bore over size", Known: "mc.bore_too_large", Share: 5, On: brakes,
		Does: func(s *system.System, _ string, bad float64) { s.MasterCylinder.BoreMM *= 1.06 + 0.16*bad },
		Shows: []Show{yes("history.since:cylinder_fitted", 0.85, 0.95), {"pedal.hard", p(0.6, 0, 0.4), p(0.15, 0, 0.85)},
			{"unit.is_right", p(0.1, 0.85, 0.05), p(0.03, 0.95, 0.02)}, {"brakes.weak", p(0.7, 0.3, 0, 0), p(0.35, 0.65, 0, 0)}}},
	{ID: "rod holds the piston in", Known: "rod.too_long", Share: 14, On: pedal,
		Does: func(s *system.System, _ string, bad float64) { s.PushrodGapMM = -0.15 - 1.2*bad },
		Shows: []Show{
			{"brakes.drag", p(0.35, 0, 0.15, 0.5), p(0.05, 0, 0.5, 0.45)},
			{"rod.gap_mm", p(0.08, 0.92, 0), p(0.02, 0.98, 0)},
			{"pedal.free_play_mm", p(0.4, 0.6, 0), p(0.15, 0.85, 0)},
			{"drag.released_by", p(0.15, 0.15, 0.7), p(0.05, 0.1, 0.85)},
			{"reservoir.spurts", p(0.5, 0.5), p(0.15, 0.85)},
			yes("history.since:booster_fitted", 0.45, 0.5),
			yes(
				"history.since:cylinder_fitted",
				0.4,
				0.45,
			),
			{"clutch.releases", p(0.95, 0.05, 0), p(0.9, 0.1, 0)},
			yes("clutch.slips", 0.3, 0.7),
		},
		Here: []Show{{"wheel.check", p(0.55, 0.45, 0), p(0.15, 0.85, 0)}, {"wheel.heat", p(0.6, 0.4, 0), p(0.2, 0.8, 0)}}},
	{
		ID:    "rod short of the piston",
		Known: "rod.too_short",
		Share: 14,
		On:    pedal,
		Does:  func(s *system.System, _ string, bad float64) { s.PushrodGapMM = between(1.4, 8, bad) },
		Shows: []Show{
			yes("pedal.dead_first_travel", 0.5, 0.93),
			yes("pedal.low", 0.25, 0.8),
			{"rod.gap_mm", p(0.1, 0, 0.9), p(0.02, 0, 0.98)},
			{"pedal.free_play_mm", p(0.45, 0.05, 0.5), p(0.1, 0, 0.9)},
			yes("history.since:booster_fitted", 0.45, 0.5),
			yes("history.since:cylinder_fitted", 0.4, 0.45),
			{"clutch.releases", p(0.7, 0.25, 0.05), p(0.2, 0.5, 0.3)},
		},
	},
	{ID: "fluid full of water", Known: "fluid.wet", Share: 75, Shows: []Show{
		{"fluid.water_percent", p(0.01, 0.09, 0.7, 0.2), p(0, 0, 0.2, 0.8)}, yes("pedal.soft_when_hot", 0.3, 0.75),
		{"fluid.colour", p(0.1, 0.3, 0.5, 0.1), p(0.03, 0.17, 0.55, 0.25)}, {"fluid.debris", p(0.85, 0.13, 0.02), p(0.7, 0.22, 0.08)},
	}},
	{ID: "oil in the fluid", Known: "fluid.petroleum", Share: 6, Hurts: true,
		Brings: map[string]float64{"cup worn, pushed by the rod": 0.3, "cup worn, floating piston": 0.25, "port closed": 0.2},
		Shows: []Show{yes("rubber.swollen", 0.75, 0.98), yes("history.since:wrong_fluid_added", 0.55, 0.6),
			{"brakes.drag", p(0.8, 0.02, 0.15, 0.03), p(0.45, 0.05, 0.45, 0.05)}}},
	{ID: "nobody filled it up", Known: "fluid.low", Share: 25, Brings: map[string]float64{"air in a circuit": 0.1}, Shows: []Show{
		{"fluid.level", p(0.05, 0.9, 0.05), p(0.01, 0.59, 0.4)}, {"level.falls", p(0.85, 0.15, 0), p(0.75, 0.25, 0)},
		yes("pedal.low", 0.05, 0.4), {"pedal.to_floor", p(0.98, 0.02, 0), p(0.7, 0.25, 0.05)},
	}},
}
