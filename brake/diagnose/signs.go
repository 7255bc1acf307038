package diagnose

import (
	"fmt"
	"slices"

	"geminate/brake/system"
)

// dist is a distribution over a sign's values. Values left out share what remains evenly.
type dist map[string]float64

// sign is one observation with a closed set of values.
type sign struct {
	id     string
	values []string        // the unremarkable one first
	base   dist            // in a vehicle without a fault that shows here
	given  map[string]dist // by fault id
}

// yes is the distribution of a yes/no sign.
func yes(p float64) dist { return dist{"yes": p, "no": 1 - p} }

func yesNo(id string, base float64, given map[string]float64) sign {
	s := sign{id: id, values: []string{"no", "yes"}, base: yes(base), given: map[string]dist{}}
	for f, p := range given {
		s.given[f] = yes(p)
	}
	return s
}

// p is P(value | hypothesis without places).
func (s *sign) p(value string, d dist) float64 {
	if x, ok := d[value]; ok {
		return x
	}
	rest, left := 1.0, 0
	for _, v := range s.values {
		if x, ok := d[v]; ok {
			rest -= x
		} else {
			left++
		}
	}
	return max(0, rest) / float64(max(1, left))
}

// likelihood is P(value | faults). Two faults that both show combine as independent causes: the
// unremarkable value needs both to stay hidden, the others are shared in proportion.
func (s *sign) likelihood(value string, faults []string) float64 {
	var shown []dist
	for _, f := range faults {
		if d, ok := s.given[f]; ok {
			shown = append(shown, d)
		}
	}
	switch len(shown) {
	case 0:
		return s.p(value, s.base)
	case 1:
		return s.p(value, shown[0])
	}
	calm := s.values[0]
	hidden := s.p(calm, shown[0]) * s.p(calm, shown[1]) / max(0.02, s.p(calm, s.base))
	hidden = min(hidden, s.p(calm, shown[0]), s.p(calm, shown[1]))
	if value == calm {
		return hidden
	}
	a, b, sum := s.p(value, shown[0]), s.p(value, shown[1]), 0.0
	for _, v := range s.values[1:] {
		sum += s.p(v, shown[0]) + s.p(v, shown[1])
	}
	return (1 - hidden) * (a + b) / max(1e-9, sum)
}

// wet builds the yes/no sign of one wet place; "wet.at" is a list, so each place is a sign.
func wet(place string, base float64, given map[string]float64) sign {
	return yesNo("wet.at:"+place, base, given)
}

func since(event string, base float64, given map[string]float64) sign {
	return yesNo("history.since:"+event, base, given)
}

// Places and Events list what "wet.at" and "history.since" may hold besides dry and nothing.
var (
	Places = []string{"behind_cylinder", "inside_booster", "cabin_floor", "under_reservoir", "line_joint", "wheel", "booster_housing"}
	Events = []string{"booster_fitted", "cylinder_fitted", "larger_calipers", "hydraulics_opened", "modulator_ran_dry", "stood_outdoors", "wrong_fluid_added"}
)

// signs is the table of P(sign | fault). Every figure is an assumption put from the trade brief's
// section 3 ("speaks for / against") into numbers; none is a published frequency. They are written
// for ratios, not for their own sake: what a sign tells is how much likelier it is under one fault
// than under another.
var signs = []sign{
	{"pedal.sinks", []string{"no", "slow", "fast"}, dist{"no": 0.96, "slow": 0.03}, map[string]dist{
		"mc.primary_cup_bypass": {"no": 0.06, "slow": 0.74}, "mc.secondary_cup_bypass": {"no": 0.08, "slow": 0.72},
		"mc.rear_seal_leak": {"no": 0.4, "slow": 0.52}, "mc.bore_corroded": {"no": 0.25, "slow": 0.6},
		"circuit.line_leak": {"no": 0.15, "slow": 0.4}, "wheel.leak": {"no": 0.35, "slow": 0.52},
		"circuit.air": {"no": 0.86, "slow": 0.12}, "fluid.petroleum": {"no": 0.5, "slow": 0.4}}},
	{"pedal.to_floor", []string{"no", "sometimes", "yes"}, dist{"no": 0.975, "sometimes": 0.02}, map[string]dist{
		"mc.primary_cup_bypass": {"no": 0.45, "sometimes": 0.3}, "mc.secondary_cup_bypass": {"no": 0.5, "sometimes": 0.3},
		"mc.bore_corroded": {"no": 0.55, "sometimes": 0.3}, "circuit.line_leak": {"no": 0.4, "sometimes": 0.2},
		"circuit.air": {"no": 0.6, "sometimes": 0.25}, "wheel.excess_clearance": {"no": 0.75, "sometimes": 0.18},
		"fluid.low": {"no": 0.6, "sometimes": 0.25}, "mc.bore_too_small": {"no": 0.6, "sometimes": 0.3}, "mc.rear_seal_leak": {"no": 0.8, "sometimes": 0.15}}},
	{"pedal.pumps_up", []string{"no", "for_a_moment", "stays"}, dist{"no": 0.93, "for_a_moment": 0.03}, map[string]dist{
		"mc.primary_cup_bypass": {"no": 0.3, "for_a_moment": 0.65}, "mc.secondary_cup_bypass": {"no": 0.35, "for_a_moment": 0.6},
		"mc.bore_corroded": {"no": 0.45, "for_a_moment": 0.5}, "circuit.air": {"no": 0.2, "for_a_moment": 0.2},
		"wheel.excess_clearance": {"no": 0.2, "for_a_moment": 0.1}, "mc.bore_too_small": {"no": 0.5, "for_a_moment": 0.1},
		"circuit.modulator_air": {"no": 0.4, "for_a_moment": 0.2}, "fluid.low": {"no": 0.4, "for_a_moment": 0.3}}},
	yesNo("pedal.springy", 0.04, map[string]float64{"circuit.air": 0.82, "circuit.modulator_air": 0.75, "circuit.hose_expands": 0.6,
		"fluid.low": 0.5, "mc.bore_too_small": 0.35, "wheel.excess_clearance": 0.12}),
	yesNo("pedal.low", 0.05, map[string]float64{"circuit.air": 0.6, "wheel.excess_clearance": 0.8, "rod.too_short": 0.85, "mc.bore_too_small": 0.85,
		"mc.primary_cup_bypass": 0.4, "mc.secondary_cup_bypass": 0.4, "circuit.line_leak": 0.6, "fluid.low": 0.5, "circuit.modulator_air": 0.5, "circuit.hose_expands": 0.4}),
	yesNo("pedal.soft_when_hot", 0.02, map[string]float64{"fluid.wet": 0.35}),
	yesNo("pedal.dead_first_travel", 0.03, map[string]float64{"rod.too_short": 0.88, "wheel.excess_clearance": 0.4}),
	{"pedal.hard", []string{"no", "first_applies", "always"}, dist{"no": 0.96, "first_applies": 0.01}, map[string]dist{
		"vacuum.diaphragm_leak": {"no": 0.1, "first_applies": 0.05}, "vacuum.valve_leak": {"no": 0.35, "first_applies": 0.1},
		"vacuum.supply_low": {"no": 0.1, "first_applies": 0.08}, "vacuum.check_valve_leak": {"no": 0.2, "first_applies": 0.75},
		"vacuum.fluid_inside": {"no": 0.55, "first_applies": 0.1}, "mc.bore_too_large": {"no": 0.15, "first_applies": 0.01},
		"hydraulic.supply_low": {"no": 0.1, "first_applies": 0.05}, "hydraulic.accumulator_lost": {"no": 0.35, "first_applies": 0.55},
		"hydraulic.valve_stuck": {"no": 0.2, "first_applies": 0.1}, "mc.piston_seized": {"no": 0.2, "first_applies": 0.02},
		"steering.air": {"no": 0.7, "first_applies": 0.1}, "trailer.actuator_seized": {"no": 0.5, "first_applies": 0.01}}},
	{"brakes.weak", []string{"no", "all", "one_wheel", "one_circuit"}, dist{"no": 0.93, "all": 0.04, "one_wheel": 0.02}, map[string]dist{
		"vacuum.diaphragm_leak": {"no": 0.15, "all": 0.83}, "vacuum.supply_low": {"no": 0.15, "all": 0.83}, "vacuum.valve_leak": {"no": 0.35, "all": 0.63},
		"hydraulic.supply_low": {"no": 0.1, "all": 0.88}, "hydraulic.valve_stuck": {"no": 0.3, "all": 0.68}, "mc.bore_too_large": {"no": 0.2, "all": 0.77},
		"mc.piston_seized": {"no": 0.05, "all": 0.75, "one_wheel": 0.01}, "wheel.seized": {"no": 0.3, "all": 0.05, "one_wheel": 0.63},
		"circuit.hose_blocked": {"no": 0.25, "all": 0.05, "one_wheel": 0.55}, "circuit.line_leak": {"no": 0.35, "all": 0.15, "one_wheel": 0.05},
		"circuit.air": {"no": 0.6, "all": 0.25, "one_wheel": 0.03}, "mc.secondary_cup_bypass": {"no": 0.6, "all": 0.15, "one_wheel": 0.02},
		"mc.primary_cup_bypass": {"no": 0.65, "all": 0.15, "one_wheel": 0.02}, "wheel.leak": {"no": 0.5, "all": 0.1, "one_wheel": 0.32},
		"fluid.petroleum": {"no": 0.5, "all": 0.4}, "trailer.actuator_seized": {"no": 0.03, "all": 0.95}}},
	{"brakes.drag", []string{"no", "one_wheel", "all", "all_when_hot"}, dist{"no": 0.96, "one_wheel": 0.025}, map[string]dist{
		"rod.too_long": {"no": 0.15, "one_wheel": 0.02, "all": 0.33}, "mc.port_blocked": {"no": 0.1, "one_wheel": 0.03, "all": 0.5},
		"wheel.seized": {"no": 0.35, "one_wheel": 0.62}, "circuit.hose_blocked": {"no": 0.45, "one_wheel": 0.5},
		"fluid.petroleum": {"no": 0.35, "one_wheel": 0.1, "all": 0.4}, "vacuum.valve_leak": {"no": 0.8, "one_wheel": 0.01, "all": 0.15},
		"hydraulic.valve_stuck": {"no": 0.75, "one_wheel": 0.01, "all": 0.2}}},
	{"drag.released_by", []string{"nothing", "bleeder_at_wheel", "line_at_cylinder"}, dist{"nothing": 0.8, "bleeder_at_wheel": 0.1}, map[string]dist{
		"rod.too_long": {"nothing": 0.05, "bleeder_at_wheel": 0.05}, "mc.port_blocked": {"nothing": 0.04, "bleeder_at_wheel": 0.06},
		"circuit.hose_blocked": {"nothing": 0.1, "bleeder_at_wheel": 0.85}, "wheel.seized": {"nothing": 0.9, "bleeder_at_wheel": 0.08},
		"fluid.petroleum": {"nothing": 0.3, "bleeder_at_wheel": 0.2}}},
	{"sound.rush_of_air", []string{"no", "cold_only", "always"}, dist{"no": 0.97, "cold_only": 0.01}, map[string]dist{
		"vacuum.diaphragm_leak": {"no": 0.2, "cold_only": 0.3}, "vacuum.valve_leak": {"no": 0.2, "cold_only": 0.2}, "vacuum.fluid_inside": {"no": 0.75, "cold_only": 0.1}}},
	yesNo("steering.groan", 0.03, map[string]float64{"steering.air": 0.85, "hydraulic.supply_low": 0.5, "hydraulic.valve_stuck": 0.1}),
	yesNo("steering.heavy", 0.02, map[string]float64{"hydraulic.supply_low": 0.8, "steering.air": 0.3}),
	yesNo("steering.foam", 0.03, map[string]float64{"steering.air": 0.85, "hydraulic.supply_low": 0.25}),
	{"level.falls", []string{"no", "slowly", "fast"}, dist{"no": 0.95, "slowly": 0.045}, map[string]dist{
		"mc.rear_seal_leak": {"no": 0.06, "slowly": 0.84}, "mc.reservoir_leak": {"no": 0.1, "slowly": 0.8},
		"circuit.line_leak": {"no": 0.05, "slowly": 0.45}, "wheel.leak": {"no": 0.08, "slowly": 0.8}, "fluid.low": {"no": 0.4, "slowly": 0.55}}},
	wet("behind_cylinder", 0.02, map[string]float64{"mc.rear_seal_leak": 0.75, "mc.bore_corroded": 0.15}),
	wet("inside_booster", 0.01, map[string]float64{"mc.rear_seal_leak": 0.5, "vacuum.fluid_inside": 0.93}),
	wet("cabin_floor", 0.01, map[string]float64{"hydraulic.input_seal_leak": 0.92}),
	wet("under_reservoir", 0.02, map[string]float64{"mc.reservoir_leak": 0.9, "mc.rear_seal_leak": 0.08}),
	wet("line_joint", 0.015, map[string]float64{"circuit.line_leak": 0.88}),
	wet("wheel", 0.015, map[string]float64{"wheel.leak": 0.92}),
	wet("booster_housing", 0.01, map[string]float64{"hydraulic.housing_leak": 0.9, "hydraulic.input_seal_leak": 0.1}),
	{"wet.fluid", []string{"brake", "steering", "unknown"}, dist{"brake": 0.35, "steering": 0.15}, map[string]dist{
		"mc.rear_seal_leak": {"brake": 0.9, "steering": 0.01}, "mc.reservoir_leak": {"brake": 0.9, "steering": 0.01},
		"circuit.line_leak": {"brake": 0.9, "steering": 0.01}, "wheel.leak": {"brake": 0.85, "steering": 0.01},
		"hydraulic.input_seal_leak": {"brake": 0.02, "steering": 0.9}, "hydraulic.housing_leak": {"brake": 0.02, "steering": 0.9}, "vacuum.fluid_inside": {"brake": 0.9, "steering": 0.01}}},
	yesNo("paint.peeling_on_booster", 0.01, map[string]float64{"mc.rear_seal_leak": 0.6, "mc.reservoir_leak": 0.35, "vacuum.fluid_inside": 0.4}),
	yesNo("rubber.swollen", 0.005, map[string]float64{"fluid.petroleum": 0.92}),
	{"fluid.colour", []string{"clear", "amber", "dark", "black"}, dist{"clear": 0.3, "amber": 0.45, "dark": 0.2}, map[string]dist{
		"mc.bore_corroded": {"clear": 0.05, "amber": 0.2, "dark": 0.4}, "fluid.wet": {"clear": 0.1, "amber": 0.4, "dark": 0.4}, "fluid.petroleum": {"clear": 0.05, "amber": 0.25, "dark": 0.4}}},
	{"fluid.debris", []string{"none", "sludge", "crust"}, dist{"none": 0.95, "sludge": 0.04}, map[string]dist{
		"mc.bore_corroded": {"none": 0.3, "sludge": 0.4}, "fluid.petroleum": {"none": 0.5, "sludge": 0.45}, "mc.port_blocked": {"none": 0.5, "sludge": 0.4}}},
	yesNo("assist.pedal_falls_on_start", 0.97, map[string]float64{"vacuum.diaphragm_leak": 0.15, "vacuum.valve_leak": 0.5, "vacuum.supply_low": 0.1,
		"vacuum.fluid_inside": 0.7, "hydraulic.supply_low": 0.1, "hydraulic.valve_stuck": 0.3}),
	yesNo("assist.loaded_hold", 0.95, map[string]float64{"vacuum.diaphragm_leak": 0.2, "vacuum.valve_leak": 0.3, "vacuum.check_valve_leak": 0.35,
		"mc.primary_cup_bypass": 0.3, "mc.secondary_cup_bypass": 0.35, "circuit.line_leak": 0.3}),
	yesNo("check_valve.holds", 0.96, map[string]float64{"vacuum.check_valve_leak": 0.06}),
	{"assist.reserve_applies", []string{"enough", "few"}, dist{"few": 0.04}, map[string]dist{
		"vacuum.check_valve_leak": {"few": 0.9}, "vacuum.diaphragm_leak": {"few": 0.85}, "vacuum.valve_leak": {"few": 0.6}, "vacuum.supply_low": {"few": 0.85},
		"hydraulic.accumulator_lost": {"few": 0.96}, "hydraulic.supply_low": {"few": 0.4}}},
	{"vacuum.at_hose_kpa", []string{"normal", "low"}, dist{"low": 0.03}, map[string]dist{"vacuum.supply_low": {"low": 0.95}, "vacuum.diaphragm_leak": {"low": 0.15}}},
	{"fluid.water_percent", []string{"good", "plan", "now", "danger"}, dist{"good": 0.5, "plan": 0.47, "now": 0.02}, map[string]dist{
		"fluid.wet": {"good": 0.01, "plan": 0.05, "now": 0.44}, "mc.bore_corroded": {"good": 0.1, "plan": 0.45, "now": 0.3}}},
	{"pedal.free_play_mm", []string{"normal", "none", "large"}, dist{"normal": 0.93, "none": 0.03}, map[string]dist{
		"rod.too_long": {"normal": 0.15, "none": 0.84}, "rod.too_short": {"normal": 0.35, "none": 0.01}}},
	{"rod.gap_mm", []string{"right", "preload", "large"}, dist{"right": 0.95, "preload": 0.02}, map[string]dist{
		"rod.too_long": {"right": 0.02, "preload": 0.97}, "rod.too_short": {"right": 0.02, "preload": 0.01}}},
	{"ports_plugged.pedal", []string{"hard", "sinks", "springy"}, dist{"hard": 0.95, "sinks": 0.02}, map[string]dist{
		"mc.primary_cup_bypass": {"hard": 0.03, "sinks": 0.95}, "mc.secondary_cup_bypass": {"hard": 0.03, "sinks": 0.95},
		"mc.bore_corroded": {"hard": 0.12, "sinks": 0.85}, "mc.rear_seal_leak": {"hard": 0.35, "sinks": 0.62}}},
	since("booster_fitted", 0.02, map[string]float64{"rod.too_long": 0.4, "rod.too_short": 0.4, "steering.air": 0.3}),
	since("cylinder_fitted", 0.03, map[string]float64{"rod.too_long": 0.35, "rod.too_short": 0.35, "mc.bore_too_small": 0.5, "mc.bore_too_large": 0.6, "circuit.air": 0.25, "circuit.modulator_air": 0.3}),
	since("larger_calipers", 0.01, map[string]float64{"mc.bore_too_small": 0.5}),
	since("hydraulics_opened", 0.06, map[string]float64{"circuit.air": 0.55, "circuit.modulator_air": 0.6}),
	since("modulator_ran_dry", 0.01, map[string]float64{"circuit.modulator_air": 0.5, "circuit.air": 0.15}),
	since("stood_outdoors", 0.08, map[string]float64{"trailer.actuator_seized": 0.8, "mc.piston_seized": 0.5, "mc.bore_corroded": 0.3, "wheel.seized": 0.3}),
	since("wrong_fluid_added", 0.005, map[string]float64{"fluid.petroleum": 0.6}),
	{"history.bled", []string{"no", "normally", "with_modulator_routine"}, dist{"no": 0.85, "normally": 0.12}, map[string]dist{
		"circuit.modulator_air": {"no": 0.25, "normally": 0.72}, "circuit.air": {"no": 0.75, "normally": 0.22}}},
	{"actuator.rod_moves", []string{"yes", "no"}, dist{"yes": 0.97}, map[string]dist{"trailer.actuator_seized": {"yes": 0.06}, "mc.piston_seized": {"yes": 0.1}}},
	yesNo("codes.present", 0.05, map[string]float64{"circuit.modulator_air": 0.15}),
	{"teardown.bore", []string{"good", "worn", "scratched", "corroded"}, dist{"good": 0.85, "worn": 0.1}, map[string]dist{
		"mc.bore_corroded": {"good": 0.03, "worn": 0.1, "scratched": 0.12}, "mc.primary_cup_bypass": {"good": 0.35, "worn": 0.4}, "mc.secondary_cup_bypass": {"good": 0.35, "worn": 0.4}}},
}

func findSign(id string) *sign {
	for i := range signs {
		if signs[i].id == id {
			return &signs[i]
		}
	}
	return nil
}

// bin puts a number into a sign's values. Limits: common practice, no source, unless noted.
func bin(id string, x float64, s *system.System) (string, error) {
	switch id {
	case "fluid.water_percent":
		return []string{"good", "plan", "now", "danger"}[step(x, 1, 3, 4)], nil
	case "assist.reserve_applies":
		return []string{"few", "enough"}[step(x, 2)], nil
	case "vacuum.at_hose_kpa": // idle 16–22 inHg; a shade under it to allow for height above the sea
		return []string{"low", "normal"}[step(x, 50)], nil
	case "pedal.free_play_mm": // at the rod, against the system's own figure
		return []string{"none", "normal", "large"}[step(x, 0.1, s.Pedal.FreePlayMM+2)], nil
	case "rod.gap_mm": // none to slight clearance, 0 to 0.5 mm, never preload
		return []string{"preload", "right", "large"}[step(x, -0.05, 1)], nil
	}
	return "", fmt.Errorf("diagnose: %s is not a number", id)
}

func step(x float64, limits ...float64) int {
	n, _ := slices.BinarySearch(limits, x)
	if n < len(limits) && limits[n] == x {
		n++
	}
	return n
}
