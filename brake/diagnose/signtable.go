package diagnose

// Places and Events list what "wet.at" and "history.since" may hold besides dry and nothing.
var (
	Places = []string{"behind_cylinder", "inside_booster", "cabin_floor", "under_reservoir", "line_joint", "wheel", "booster_housing"}
	Events = []string{"booster_fitted", "cylinder_fitted", "larger_calipers", "pads_or_shoes_fitted", "hydraulics_opened", "modulator_ran_dry", "stood_outdoors", "wrong_fluid_added"}
)

// Outside are the places seen without taking anything off: "dry" alone speaks of these.
var Outside = []string{"behind_cylinder", "cabin_floor", "under_reservoir", "line_joint", "wheel", "booster_housing"}

type rows = map[string]Given

// Signs is the table of P(sign | fault). The trade says which sign speaks for which fault; every
// figure is an assumption that puts this into numbers, none is a published frequency. They are written
// for ratios, not for their own sake: what a sign tells is how much likelier it is under one fault than
// under another. What a technician measures or tries on purpose is taken to err once in 20 to 60 times; what
// an owner tells or a glance shows, far more often. n: named by the trade; f: follows from how the part works; g: guess.
var Signs = []Sign{
	{"pedal.sinks", []string{"no", "slow", "fast"}, []float64{0.98, 0.015, 0.005}, rows{
		"mc.primary_cup_bypass": n(0.12, 0.7, 0.18), "mc.secondary_cup_bypass": n(0.14, 0.68, 0.18),
		"mc.rear_seal_leak": n(0.45, 0.5, 0.05), "mc.bore_corroded": f(0.3, 0.57, 0.13),
		"circuit.line_leak": f(0.2, 0.4, 0.4), "wheel.leak": f(0.4, 0.5, 0.1),
		"circuit.air": g(0.88, 0.1, 0.02), "fluid.petroleum": f(0.5, 0.4, 0.1), "circuit.modulator_leak": n(0.14, 0.68, 0.18)}},
	{"pedal.to_floor", []string{"no", "sometimes", "yes"}, []float64{0.985, 0.012, 0.003}, rows{
		"mc.primary_cup_bypass": n(0.45, 0.3, 0.25), "mc.secondary_cup_bypass": n(0.5, 0.3, 0.2),
		"mc.bore_corroded": f(0.55, 0.3, 0.15), "circuit.line_leak": f(0.4, 0.2, 0.4), "circuit.modulator_leak": f(0.5, 0.3, 0.2),
		"circuit.air": n(0.6, 0.25, 0.15), "wheel.excess_clearance": n(0.72, 0.2, 0.08),
		"fluid.low": f(0.55, 0.3, 0.15), "mc.bore_too_small": n(0.6, 0.3, 0.1), "mc.rear_seal_leak": f(0.78, 0.17, 0.05),
		"fluid.wet": g(0.93, 0.06, 0.01)}},
	{"pedal.pumps_up", []string{"no", "for_a_moment", "stays"}, []float64{0.96, 0.015, 0.025}, rows{
		"mc.primary_cup_bypass": n(0.3, 0.62, 0.08), "mc.secondary_cup_bypass": n(0.34, 0.58, 0.08),
		"mc.bore_corroded": f(0.42, 0.5, 0.08), "circuit.air": n(0.18, 0.25, 0.57),
		"wheel.excess_clearance": n(0.18, 0.1, 0.72), "mc.bore_too_small": f(0.5, 0.12, 0.38),
		"circuit.modulator_air": n(0.4, 0.2, 0.4), "fluid.low": f(0.4, 0.35, 0.25), "circuit.line_leak": f(0.5, 0.4, 0.1), "circuit.modulator_leak": f(0.36, 0.56, 0.08)}},
	yesNo("pedal.springy", 0.02, rows{"circuit.air": n(0.82), "circuit.modulator_air": n(0.78), "circuit.hose_expands": f(0.6),
		"fluid.low": f(0.5), "mc.bore_too_small": n(0.4), "wheel.excess_clearance": g(0.12), "electro.simulator_air": n(0.85)}),
	yesNo("pedal.low", 0.025, rows{"circuit.air": n(0.6), "wheel.excess_clearance": n(0.82), "rod.too_short": n(0.88), "mc.bore_too_small": n(0.85),
		"mc.primary_cup_bypass": f(0.4), "mc.secondary_cup_bypass": f(0.4), "circuit.line_leak": f(0.6), "fluid.low": f(0.5), "circuit.modulator_air": f(0.5),
		"circuit.hose_expands": f(0.4), "electro.simulator_air": g(0.3), "mc.bore_corroded": g(0.25)}),
	yesNo("pedal.soft_when_hot", 0.01, rows{"fluid.wet": n(0.4), "fluid.petroleum": g(0.1)}),
	yesNo("pedal.dead_first_travel", 0.015, rows{"rod.too_short": n(0.9), "wheel.excess_clearance": f(0.4)}),
	{"pedal.hard", []string{"no", "first_applies", "always"}, []float64{0.98, 0.005, 0.015}, rows{
		"vacuum.diaphragm_leak": n(0.1, 0.05, 0.85), "vacuum.valve_leak": n(0.35, 0.1, 0.55),
		"vacuum.supply_low": n(0.1, 0.08, 0.82), "vacuum.check_valve_leak": n(0.18, 0.74, 0.08),
		"vacuum.fluid_inside": f(0.55, 0.1, 0.35), "mc.bore_too_large": n(0.12, 0.01, 0.87),
		"hydraulic.supply_low": n(0.1, 0.05, 0.85), "hydraulic.accumulator_lost": n(0.35, 0.55, 0.1),
		"hydraulic.valve_stuck": f(0.2, 0.1, 0.7), "mc.piston_seized": f(0.15, 0.02, 0.83),
		"steering.air": g(0.7, 0.1, 0.2), "trailer.actuator_seized": f(0.5, 0.01, 0.49),
		"electro.pressure_source": f(0.15, 0.1, 0.75), "fluid.petroleum": g(0.85, 0.01, 0.14)}},
	{"clutch.releases", []string{"yes", "grates", "no"}, []float64{0.97, 0.02, 0.01}, rows{
		"circuit.air": f(0.1, 0.45, 0.45), "mc.primary_cup_bypass": f(0.2, 0.45, 0.35), "mc.rear_seal_leak": f(0.45, 0.35, 0.2), "circuit.line_leak": f(0.15, 0.3, 0.55),
		"wheel.leak": f(0.25, 0.4, 0.35), "fluid.low": f(0.3, 0.4, 0.3), "rod.too_short": f(0.2, 0.5, 0.3), "circuit.hose_expands": f(0.35, 0.45, 0.2),
		"mc.bore_too_small": f(0.2, 0.45, 0.35), "mc.reservoir_leak": g(0.6, 0.25, 0.15)}},
	yesNo("clutch.slips", 0.02, rows{"rod.too_long": f(0.5), "mc.port_blocked": f(0.6), "circuit.hose_blocked": f(0.5)}),
	{"brakes.weak", []string{"no", "all", "one_wheel", "one_circuit"}, []float64{0.96, 0.022, 0.012, 0.006}, rows{
		"vacuum.diaphragm_leak": n(0.15, 0.83, 0.01, 0.01), "vacuum.supply_low": n(0.15, 0.83, 0.01, 0.01), "vacuum.valve_leak": f(0.35, 0.63, 0.01, 0.01),
		"hydraulic.supply_low": n(0.1, 0.88, 0.01, 0.01), "hydraulic.valve_stuck": f(0.3, 0.68, 0.01, 0.01), "mc.bore_too_large": n(0.2, 0.77, 0.02, 0.01),
		"mc.piston_seized": f(0.05, 0.7, 0.02, 0.23), "wheel.seized": n(0.28, 0.04, 0.66, 0.02),
		"circuit.hose_blocked": n(0.25, 0.05, 0.55, 0.15), "circuit.line_leak": n(0.35, 0.15, 0.05, 0.45),
		"circuit.air": g(0.62, 0.25, 0.03, 0.1), "mc.secondary_cup_bypass": n(0.6, 0.13, 0.02, 0.25),
		"mc.primary_cup_bypass": n(0.63, 0.13, 0.02, 0.22), "wheel.leak": n(0.5, 0.1, 0.32, 0.08),
		"fluid.petroleum": f(0.5, 0.4, 0.07, 0.03), "trailer.actuator_seized": n(0.03, 0.95, 0.01, 0.01),
		"electro.pressure_source": f(0.15, 0.83, 0.01, 0.01), "mc.wrong_variant": f(0.35, 0.2, 0.05, 0.4), "circuit.modulator_leak": g(0.62, 0.13, 0.02, 0.23),
		"trailer.lockout": n(0.04, 0.94, 0.01, 0.01), "trailer.wheels_seized": n(0.03, 0.93, 0.03, 0.01), "trailer.shoes_far": n(0.25, 0.65, 0.05, 0.05), "fluid.low": g(0.75, 0.21, 0.02, 0.02),
		"vacuum.fluid_inside": f(0.55, 0.43, 0.01, 0.01)}},
	{"brakes.drag", []string{"no", "one_wheel", "all", "all_when_hot"}, []float64{0.975, 0.016, 0.006, 0.003}, rows{
		"rod.too_long": n(0.15, 0.02, 0.33, 0.5), "mc.port_blocked": n(0.12, 0.03, 0.4, 0.45),
		"wheel.seized": n(0.3, 0.67, 0.02, 0.01), "circuit.hose_blocked": n(0.35, 0.58, 0.04, 0.03),
		"fluid.petroleum": f(0.4, 0.1, 0.3, 0.2), "vacuum.valve_leak": f(0.85, 0.02, 0.1, 0.03),
		"hydraulic.valve_stuck": f(0.65, 0.02, 0.28, 0.05), "mc.piston_seized": f(0.6, 0.03, 0.27, 0.1), "trailer.actuator_seized": f(0.75, 0.02, 0.22, 0.01), "trailer.breakaway_on": n(0.07, 0.02, 0.9, 0.01), "trailer.wheels_seized": f(0.85, 0.07, 0.07, 0.01),
		"mc.wrong_variant": f(0.8, 0.08, 0.08, 0.04)}},
	{"drag.released_by", []string{"nothing", "bleeder_at_wheel", "line_at_cylinder"}, []float64{0.85, 0.1, 0.05}, rows{
		"rod.too_long": n(0.03, 0.03, 0.94), "mc.port_blocked": n(0.03, 0.03, 0.94),
		"circuit.hose_blocked": n(0.05, 0.92, 0.03), "wheel.seized": n(0.94, 0.04, 0.02),
		"fluid.petroleum": f(0.3, 0.2, 0.5), "mc.piston_seized": f(0.2, 0.1, 0.7), "mc.wrong_variant": f(0.3, 0.1, 0.6),
		"hydraulic.valve_stuck": f(0.3, 0.2, 0.5), "trailer.actuator_seized": f(0.3, 0.2, 0.5)}},
	{"sound.rush_of_air", []string{"no", "cold_only", "always"}, []float64{0.985, 0.005, 0.01}, rows{
		"vacuum.diaphragm_leak": n(0.2, 0.3, 0.5), "vacuum.valve_leak": n(0.2, 0.2, 0.6), "vacuum.fluid_inside": f(0.75, 0.1, 0.15)}},
	yesNo("steering.groan", 0.02, rows{"steering.air": n(0.85), "hydraulic.supply_low": n(0.5), "hydraulic.valve_stuck": g(0.1)}),
	yesNo("steering.heavy", 0.02, rows{"hydraulic.supply_low": n(0.82), "steering.air": f(0.3)}),
	yesNo("steering.foam", 0.015, rows{"steering.air": n(0.85), "hydraulic.supply_low": g(0.25)}),
	{"level.falls", []string{"no", "slowly", "fast"}, []float64{0.98, 0.018, 0.002}, rows{
		"mc.rear_seal_leak": n(0.08, 0.84, 0.08), "mc.reservoir_leak": n(0.1, 0.8, 0.1),
		"circuit.line_leak": n(0.06, 0.45, 0.49), "wheel.leak": n(0.1, 0.8, 0.1), "fluid.low": f(0.4, 0.55, 0.05), "vacuum.fluid_inside": f(0.5, 0.46, 0.04)}},
	{"fluid.level", []string{"ok", "low", "empty"}, []float64{0.94, 0.055, 0.005}, rows{
		"fluid.low": f(0.04, 0.7, 0.26), "circuit.line_leak": n(0.15, 0.55, 0.3), "wheel.leak": n(0.35, 0.58, 0.07), "mc.rear_seal_leak": n(0.35, 0.58, 0.07),
		"mc.reservoir_leak": n(0.35, 0.58, 0.07), "vacuum.fluid_inside": f(0.6, 0.37, 0.03)}},
	holds("reservoir.spurts", 0.98, rows{"rod.too_long": n(0.04), "mc.port_blocked": n(0.04)}),
	yesNo("hose.swells", 0.006, rows{"circuit.hose_expands": n(0.94)}),
	{"unit.is_right", []string{"yes", "bore_differs", "other_variant"}, []float64{0.985, 0.008, 0.007}, rows{
		"mc.wrong_variant": n(0.03, 0.01, 0.96), "mc.bore_too_small": f(0.04, 0.95, 0.01), "mc.bore_too_large": f(0.03, 0.96, 0.01)}},
	{"steering.pump_pressure", []string{"ok", "low"}, []float64{0.97, 0.03}, rows{"hydraulic.supply_low": n(0.03, 0.97), "steering.air": g(0.75, 0.25)}},
	{"leak.seen", []string{"none", "line_joint", "wheel", "behind_cylinder", "under_reservoir", "cabin_floor", "booster_housing"},
		[]float64{0.988, 0.002, 0.002, 0.002, 0.002, 0.002, 0.002}, rows{
			"circuit.line_leak": n(0.02, 0.968, 0.004, 0.002, 0.002, 0.002, 0.002), "wheel.leak": n(0.02, 0.004, 0.968, 0.002, 0.002, 0.002, 0.002),
			"mc.rear_seal_leak": n(0.05, 0.004, 0.002, 0.935, 0.005, 0.002, 0.002), "mc.reservoir_leak": n(0.05, 0.002, 0.002, 0.01, 0.932, 0.002, 0.002),
			"hydraulic.input_seal_leak": n(0.03, 0.002, 0.002, 0.002, 0.002, 0.95, 0.012), "hydraulic.housing_leak": n(0.03, 0.002, 0.002, 0.002, 0.002, 0.012, 0.95)}},
	{"vacuum.hose_pinched", []string{"same", "rises"}, []float64{0.97, 0.03}, rows{"vacuum.diaphragm_leak": n(0.04, 0.96), "vacuum.valve_leak": f(0.08, 0.92), "vacuum.fluid_inside": g(0.85, 0.15)}},
	yesNo("bleeder.bubbles", 0.02, rows{"circuit.air": n(0.95), "circuit.modulator_air": g(0.2), "fluid.low": f(0.5)}),
	yesNo("modulator.pedal_drops", 0.02, rows{"circuit.modulator_air": f(0.9)}),
	wet("behind_cylinder", 0.02, rows{"mc.rear_seal_leak": n(0.75), "mc.bore_corroded": g(0.15)}),
	wet("inside_booster", 0.01, rows{"vacuum.fluid_inside": n(0.95)}),
	wet("cabin_floor", 0.005, rows{"hydraulic.input_seal_leak": n(0.92)}),
	wet("under_reservoir", 0.02, rows{"mc.reservoir_leak": n(0.9), "mc.rear_seal_leak": g(0.08)}),
	wet("line_joint", 0.015, rows{"circuit.line_leak": n(0.92)}),
	wet("wheel", 0.015, rows{"wheel.leak": n(0.92)}),
	wet("booster_housing", 0.01, rows{"hydraulic.housing_leak": n(0.9), "hydraulic.input_seal_leak": g(0.1)}),
	{"wet.fluid", []string{"brake", "steering", "unknown"}, []float64{0.35, 0.15, 0.5}, rows{
		"mc.rear_seal_leak": n(0.9, 0.01, 0.09), "mc.reservoir_leak": n(0.9, 0.01, 0.09),
		"circuit.line_leak": n(0.9, 0.01, 0.09), "wheel.leak": n(0.85, 0.01, 0.14),
		"hydraulic.input_seal_leak": n(0.02, 0.9, 0.08), "hydraulic.housing_leak": n(0.02, 0.9, 0.08), "vacuum.fluid_inside": n(0.9, 0.01, 0.09)}},
	yesNo("paint.peeling_on_booster", 0.01, rows{"mc.rear_seal_leak": n(0.6), "mc.reservoir_leak": n(0.35), "vacuum.fluid_inside": f(0.4)}),
	yesNo("rubber.swollen", 0.005, rows{"fluid.petroleum": n(0.92)}),
	{"fluid.colour", []string{"clear", "amber", "dark", "black"}, []float64{0.3, 0.45, 0.2, 0.05}, rows{
		"mc.bore_corroded": n(0.05, 0.2, 0.4, 0.35), "fluid.wet": g(0.1, 0.4, 0.4, 0.1), "fluid.petroleum": g(0.05, 0.25, 0.4, 0.3)}},
	{"fluid.debris", []string{"none", "sludge", "crust"}, []float64{0.95, 0.04, 0.01}, rows{
		"mc.bore_corroded": n(0.3, 0.4, 0.3), "fluid.petroleum": f(0.5, 0.45, 0.05), "mc.port_blocked": f(0.5, 0.4, 0.1)}},
	holds("assist.pedal_falls_on_start", 0.98, rows{"vacuum.diaphragm_leak": n(0.12), "vacuum.valve_leak": n(0.5), "vacuum.supply_low": n(0.08),
		"vacuum.fluid_inside": f(0.7), "hydraulic.supply_low": n(0.1), "hydraulic.valve_stuck": f(0.3)}),
	holds("assist.loaded_hold", 0.97, rows{"circuit.modulator_leak": f(0.35), "vacuum.diaphragm_leak": n(0.2), "vacuum.valve_leak": n(0.3), "vacuum.check_valve_leak": n(0.35),
		"mc.primary_cup_bypass": f(0.3), "mc.secondary_cup_bypass": f(0.35), "circuit.line_leak": f(0.3), "mc.bore_corroded": f(0.45)}),
	holds("check_valve.holds", 0.994, rows{"vacuum.check_valve_leak": n(0.04)}),
	{"assist.reserve_applies", []string{"enough", "few"}, []float64{0.98, 0.02}, rows{
		"vacuum.check_valve_leak": n(0.1, 0.9), "vacuum.diaphragm_leak": f(0.15, 0.85), "vacuum.valve_leak": f(0.4, 0.6), "vacuum.supply_low": f(0.15, 0.85),
		"hydraulic.accumulator_lost": n(0.04, 0.96), "hydraulic.supply_low": f(0.6, 0.4), "electro.pressure_source": f(0.25, 0.75)}},
	{"vacuum.at_hose_kpa", []string{"normal", "low"}, []float64{0.98, 0.02}, rows{"vacuum.supply_low": n(0.03, 0.97), "vacuum.diaphragm_leak": g(0.85, 0.15)}},
	{"fluid.water_percent", []string{"good", "plan", "now", "danger"}, []float64{0.525, 0.47, 0.003, 0.002}, rows{ // wet is what is measured: without it only a tester that errs shows it
		"fluid.wet": n(0.005, 0.02, 0.475, 0.5), "mc.bore_corroded": f(0.1, 0.45, 0.3, 0.15)}},
	{"pedal.free_play_mm", []string{"normal", "none", "large"}, []float64{0.93, 0.03, 0.04}, rows{
		"rod.too_long": n(0.15, 0.84, 0.01), "rod.too_short": f(0.35, 0.01, 0.64)}},
	{"rod.gap_mm", []string{"right", "preload", "large"}, []float64{0.99, 0.004, 0.006}, rows{
		"rod.too_long": n(0.02, 0.97, 0.01), "rod.too_short": n(0.02, 0.01, 0.97)}},
	{"ports_plugged.pedal", []string{"hard", "sinks", "springy"}, []float64{0.975, 0.01, 0.015}, rows{
		"mc.primary_cup_bypass": n(0.015, 0.975, 0.01), "mc.secondary_cup_bypass": n(0.015, 0.975, 0.01),
		"mc.bore_corroded": n(0.08, 0.9, 0.02), "mc.rear_seal_leak": f(0.35, 0.62, 0.03)}},
	since("booster_fitted", 0.02, rows{"rod.too_long": n(0.4), "rod.too_short": n(0.4), "steering.air": n(0.3), "electro.offset_unlearned": f(0.3), "electro.simulator_air": f(0.3)}),
	since("cylinder_fitted", 0.03, rows{"rod.too_long": n(0.35), "rod.too_short": n(0.35), "mc.bore_too_small": n(0.5), "mc.bore_too_large": n(0.7),
		"mc.wrong_variant": n(0.92), "circuit.air": f(0.25), "circuit.modulator_air": f(0.3)}),
	since("larger_calipers", 0.01, rows{"mc.bore_too_small": n(0.55)}),
	since("pads_or_shoes_fitted", 0.06, rows{"wheel.excess_clearance": n(0.5), "wheel.seized": g(0.1)}),
	since("hydraulics_opened", 0.06, rows{"circuit.air": n(0.55), "circuit.modulator_air": n(0.6), "electro.simulator_air": f(0.65), "electro.offset_unlearned": f(0.6)}),
	since("modulator_ran_dry", 0.01, rows{"circuit.modulator_air": n(0.5), "circuit.air": f(0.15)}),
	since("stood_outdoors", 0.08, rows{"trailer.actuator_seized": n(0.8), "trailer.wheels_seized": n(0.8), "trailer.lockout": g(0.3), "mc.piston_seized": f(0.5), "mc.bore_corroded": f(0.3), "wheel.seized": f(0.3)}),
	since("wrong_fluid_added", 0.005, rows{"fluid.petroleum": n(0.6)}),
	{"history.bled", []string{"no", "normally", "with_modulator_routine"}, []float64{0.85, 0.12, 0.03}, rows{
		"circuit.modulator_air": n(0.25, 0.72, 0.03), "circuit.air": g(0.72, 0.25, 0.03), "mc.bore_too_small": f(0.5, 0.45, 0.05),
		"electro.offset_unlearned": f(0.3, 0.67, 0.03), "electro.simulator_air": f(0.4, 0.57, 0.03)}},
	{"actuator.rod_moves", []string{"yes", "no"}, []float64{0.985, 0.015}, rows{"trailer.actuator_seized": n(0.03, 0.97), "mc.piston_seized": f(0.1, 0.9), "trailer.lockout": f(0.45, 0.55),
		"trailer.wheels_seized": n(0.5, 0.5), "trailer.breakaway_on": f(0.25, 0.75)}},
	// What tells a trailer's coupler, cylinder and wheels apart: common practice, from memory; every figure an assumption.
	{"coupler.rod_alone", []string{"yes", "no"}, []float64{0.985, 0.015}, rows{"mc.piston_seized": n(0.03, 0.97), "trailer.wheels_seized": f(0.85, 0.15)}},
	{"coupler.lockout", []string{"lockout_out", "lockout_in"}, []float64{0.985, 0.015}, rows{"trailer.lockout": n(0.08, 0.92)}},
	{"coupler.breakaway", []string{"lever_home", "lever_pulled"}, []float64{0.99, 0.01}, rows{"trailer.breakaway_on": n(0.04, 0.96)}},
	yesNo("coupler.bangs", 0.03, rows{"trailer.damper_empty": n(0.92), "trailer.actuator_seized": n(0.5), "trailer.shoes_far": f(0.3), "circuit.air": f(0.25)}),
	{"coupler.travel", []string{"normal", "far", "short"}, []float64{0.96, 0.025, 0.015}, rows{"trailer.shoes_far": n(0.08, 0.9, 0.02), "circuit.air": n(0.3, 0.68, 0.02), "fluid.low": n(0.25, 0.73, 0.02),
		"circuit.line_leak": f(0.4, 0.58, 0.02), "mc.primary_cup_bypass": f(0.5, 0.48, 0.02), "trailer.wheels_seized": n(0.2, 0.02, 0.78), "trailer.actuator_seized": f(0.08, 0.02, 0.9),
		"mc.piston_seized": f(0.1, 0.02, 0.88), "trailer.lockout": f(0.4, 0.05, 0.55), "trailer.breakaway_on": f(0.15, 0.05, 0.8), "trailer.damper_empty": g(0.8, 0.18, 0.02), "wheel.excess_clearance": g(0.7, 0.29, 0.01)}},
	{"coupler.wheels_held", []string{"all_held", "some_turn", "none_held"}, []float64{0.97, 0.02, 0.01}, rows{"trailer.wheels_seized": n(0.03, 0.15, 0.82), "trailer.shoes_far": f(0.3, 0.4, 0.3), "trailer.lockout": n(0.1, 0.1, 0.8),
		"trailer.actuator_seized": f(0.15, 0.1, 0.75), "mc.piston_seized": f(0.1, 0.15, 0.75), "mc.primary_cup_bypass": f(0.3, 0.3, 0.4), "mc.bore_corroded": f(0.4, 0.3, 0.3), "circuit.line_leak": f(0.2, 0.4, 0.4),
		"fluid.low": f(0.2, 0.25, 0.55), "wheel.seized": n(0.1, 0.88, 0.02), "wheel.excess_clearance": f(0.35, 0.63, 0.02), "circuit.hose_blocked": f(0.4, 0.58, 0.02), "circuit.air": f(0.45, 0.3, 0.25)}},
	// The hold test of a trailer: from memory, the figures those of a pedal that sinks.
	{"actuator.holds", []string{"yes", "no"}, []float64{0.97, 0.03}, rows{"mc.primary_cup_bypass": n(0.1, 0.9), "mc.bore_corroded": f(0.35, 0.65), "mc.piston_seized": f(0.9, 0.1),
		"mc.rear_seal_leak": f(0.45, 0.55), "wheel.leak": f(0.45, 0.55), "circuit.line_leak": f(0.45, 0.55), "fluid.petroleum": f(0.5, 0.5), "circuit.air": g(0.85, 0.15), "fluid.low": g(0.6, 0.4)}},
	{"codes.present", []string{"none", "other", "pressure", "offset"}, []float64{0.95, 0.044, 0.003, 0.003}, rows{
		"circuit.modulator_air": g(0.85, 0.13, 0.01, 0.01), "circuit.modulator_leak": g(0.8, 0.18, 0.01, 0.01), "electro.pressure_source": f(0.04, 0.16, 0.78, 0.02), "electro.offset_unlearned": n(0.05, 0.15, 0.02, 0.78),
		"electro.simulator_air": f(0.6, 0.3, 0.06, 0.04), "mc.wrong_variant": f(0.5, 0.48, 0.01, 0.01), "hydraulic.accumulator_lost": g(0.8, 0.12, 0.07, 0.01)}},
	{"teardown.bore", []string{"good", "worn", "scratched", "corroded"}, []float64{0.85, 0.1, 0.03, 0.02}, rows{
		"mc.bore_corroded": n(0.03, 0.1, 0.12, 0.75), "mc.primary_cup_bypass": f(0.35, 0.4, 0.2, 0.05), "mc.secondary_cup_bypass": f(0.35, 0.4, 0.2, 0.05)}},
}
