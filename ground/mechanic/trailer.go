package mechanic

import "geminate/brake/system"

// Troubles of a trailer's coupler and of its wheels.
var towed = []Trouble{
	{ID: "slide rusted fast", Known: "trailer.actuator_seized", Share: 150, On: trailer, Shows: []Show{
		{"actuator.rod_moves", p(0.25, 0.75), p(0.03, 0.97)},
		{"coupler.rod_alone", p(0.97, 0.03), p(0.95, 0.05)},
		{
			"brakes.weak",
			p(0.3, 0.7, 0, 0),
			p(0.05, 0.95, 0, 0),
		},
		yes("history.since:stood_outdoors", 0.5, 0.6),
		{"coupler.travel", p(0.2, 0, 0.8), p(0.03, 0, 0.97)},
	}, Here: []Show{{"wheel.heat", p(0.7, 0, 0.3), p(0.6, 0, 0.4)}}},
	{ID: "lock for backing up left in", Known: "trailer.lockout", Share: 80, On: trailer, Shows: []Show{
		{"coupler.lockout", p(0.04, 0.96), p(0.02, 0.98)}, {"brakes.weak", p(0.1, 0.9, 0, 0), p(0.03, 0.97, 0, 0)},
		{"actuator.rod_moves", p(0.3, 0.7), p(0.1, 0.9)}, {"coupler.travel", p(0.2, 0, 0.8), p(0.05, 0, 0.95)},
	}},
	{ID: "breakaway pulled", Known: "trailer.breakaway_on", Share: 50, On: trailer, Shows: []Show{
		{
			"coupler.breakaway",
			p(0.04, 0.96),
			p(0.02, 0.98),
		},
		{"brakes.drag", p(0.1, 0, 0.9, 0), p(0.03, 0, 0.97, 0)},
		{"drag.released_by", p(0.6, 0.3, 0.1), p(0.5, 0.4, 0.1)},
	}, Here: []Show{{"wheel.check", p(0.15, 0.85, 0), p(0.03, 0.97, 0)}, {"wheel.heat", p(0.5, 0.5, 0), p(0.3, 0.7, 0)}}},
	{ID: "damper spent", Known: "trailer.damper_empty", Share: 50, On: trailer, Shows: []Show{
		yes("coupler.bangs", 0.75, 0.98), {"coupler.travel", p(0.75, 0.25, 0), p(0.5, 0.5, 0)},
	}},
	{ID: "wheels rusted on", Known: "trailer.wheels_seized", Share: 70, Hurts: true, On: trailer, Shows: []Show{
		yes("history.since:stood_outdoors", 0.7, 0.85), {"brakes.weak", p(0.45, 0.55, 0, 0), p(0.15, 0.85, 0, 0)},
		{"brakes.drag", p(0.7, 0.15, 0.15, 0), p(0.3, 0.2, 0.5, 0)}, {"coupler.wheels_held", p(0.1, 0.55, 0.35), p(0.02, 0.2, 0.78)},
	}, Here: []Show{{"wheel.check", p(0.6, 0.4, 0), p(0.2, 0.8, 0)}}},
	{ID: "shoes worn away", Known: "trailer.shoes_far", Share: 110, On: trailer,
		Does: func(s *system.System, _ string, bad float64) {
			for i := range s.Wheels {
				s.Wheels[i].Brake.ClearanceMM *= between(2, 7, bad)
			}
		},
		Shows: []Show{{"coupler.travel", p(0.25, 0.75, 0), p(0.04, 0.96, 0)}, {"brakes.weak", p(0.4, 0.6, 0, 0), p(0.1, 0.9, 0, 0)}},
		Here:  []Show{{"wheel.check", p(0.4, 0, 0.6), p(0.08, 0, 0.92)}}},
}

// Troubles round the pedal and the linings, and those that the diagnosis has no name for.
var others = []Trouble{
	{ID: "parking cable does not come back", Known: "wheel.parking_brake", Share: 12, On: car, Reaches: rear, Shows: []Show{
		{
			"brakes.drag",
			p(0.3, 0.35, 0.3, 0.05),
			p(0.05, 0.4, 0.5, 0.05),
		},
		{"drag.released_by", p(0.97, 0.02, 0.01), p(0.98, 0.01, 0.01)},
		{"parking.slack", p(0.2, 0.8), p(0.04, 0.96)},
	}, Here: []Show{{"wheel.check", p(0.3, 0.7, 0), p(0.05, 0.95, 0)}, {"wheel.heat", p(0.35, 0.65, 0), p(0.1, 0.9, 0)}}},
	{ID: "pads glazed, oil on the linings", Known: "wheel.linings", Share: 14, Hurts: true, On: car, Shows: []Show{
		{
			"brakes.weak",
			p(0.25, 0.75, 0, 0),
			p(0.03, 0.97, 0, 0),
		},
		{"pedal.hard", p(0.8, 0, 0.2), p(0.4, 0, 0.6)},
		{"linings.seen", p(0.15, 0.55, 0.3), p(0.03, 0.5, 0.47)},
	}},
	{ID: "pedal held down by its lamp switch", Known: "pedal.held_down", Share: 8, On: car,
		Shows: []Show{
			{"brakes.drag", p(0.2, 0, 0.3, 0.5), p(0.03, 0, 0.6, 0.37)},
			{"pedal.free_play_mm", p(0.1, 0.9, 0), p(0.02, 0.98, 0)},
			{
				"drag.released_by",
				p(0.1, 0.1, 0.8),
				p(0.05, 0.1, 0.85),
			},
			{"reservoir.spurts", p(0.3, 0.7), p(0.1, 0.9)},
			{"pedal.returns", p(0.15, 0.85), p(0.03, 0.97)},
		},
		Here: []Show{{"wheel.check", p(0.4, 0.6, 0), p(0.1, 0.9, 0)}, {"wheel.heat", p(0.45, 0.55, 0), p(0.15, 0.85, 0)}}},
	{
		ID:    "pedal bush worn out",
		Known: "pedal.bush_worn",
		Share: 8,
		On:    pedal,
		Does:  func(s *system.System, _ string, bad float64) { s.Pedal.FreePlayMM += between(4, 12, bad) },
		Shows: []Show{
			yes("pedal.low", 0.3, 0.7),
			yes("pedal.dead_first_travel", 0.5, 0.8),
			yes("pedal.side_play", 0.7, 0.97),
			{"pedal.free_play_mm", p(0.1, 0, 0.9), p(0.03, 0, 0.97)},
			{"clutch.releases", p(0.6, 0.4, 0), p(0.25, 0.6, 0.15)},
		},
	},
	{ID: "bearing knocks the pads back", Share: 10, On: car, Does: func(s *system.System, _ string, bad float64) {
		s.Wheels[0].Brake.ClearanceMM *= between(3, 8, bad)
	}, Shows: []Show{yes("pedal.low", 0.6, 0.85), {"pedal.pumps_up", p(0.2, 0.1, 0.7), p(0.05, 0.1, 0.85)}, yes("pedal.dead_first_travel", 0.2, 0.5)}},
	{ID: "load valve stuck", Share: 8, Hurts: true, On: car, Reaches: rear, Shows: []Show{
		{"brakes.weak", p(0.5, 0.1, 0, 0.4), p(0.2, 0.2, 0, 0.6)},
	}, Here: []Show{{"pressure.at_bleeder", p(0.15, 0.8, 0.05), p(0.03, 0.77, 0.2)}, {"wheel.heat", p(0.6, 0, 0.4), p(0.3, 0, 0.7)}}},
	{ID: "residual valve stuck", Share: 6, On: drums, Reaches: rear, Shows: []Show{
		{"brakes.drag", p(0.3, 0.2, 0.45, 0.05), p(0.1, 0.2, 0.65, 0.05)}, {"drag.released_by", p(0.05, 0.3, 0.65), p(0.02, 0.28, 0.7)},
	}, Here: []Show{{"wheel.check", p(0.35, 0.65, 0), p(0.1, 0.9, 0)}, {"wheel.heat", p(0.4, 0.6, 0), p(0.15, 0.85, 0)}}},
	{ID: "clutch drinks from the same tank", Share: 6, On: car, Shows: []Show{
		{"level.falls", p(0.1, 0.9, 0), p(0.03, 0.9, 0.07)}, {"fluid.level", p(0.3, 0.7, 0), p(0.1, 0.75, 0.15)},
	}},
	{
		ID:    "clutch disc worn",
		Share: 12,
		On:    clutch,
		Shows: []Show{yes("clutch.slips", 0.75, 0.97), {"clutch.releases", p(0.9, 0.1, 0), p(0.85, 0.13, 0.02)}},
	},
	{ID: "drums full of water", Share: 12, Hurts: true, On: trailer, Shows: []Show{
		{"brakes.weak", p(0.2, 0.8, 0, 0), p(0.03, 0.97, 0, 0)}, {"coupler.wheels_held", p(0.3, 0.5, 0.2), p(0.05, 0.45, 0.5)},
	}},
}

// Troubles are all of them.
var Troubles = append(append(append(append(append([]Trouble{}, cylinder...), help...), lines...), towed...), others...)
