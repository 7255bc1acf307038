package diagnose

import "geminate/brake/system"

// Test is one row of the table of tests. Minutes are assumptions for a practised hand.
type Test struct {
	ID              string
	Minutes         float64
	Hands           int
	Needs           []string // tools beyond a wrench, a lamp and a rule
	Gates           []string // what must be safe first
	OpensHydraulics bool
	Yields          []string // finding ids
	Applies         func(*system.System) bool
}

var wetPlaces = func() (out []string) {
	for _, p := range Places {
		out = append(out, "wet.at:"+p)
	}
	return
}()

// Tests is the table.
var Tests = []Test{
	{ID: "look", Minutes: 5, Hands: 1, Yields: append([]string{"level.falls", "wet.fluid", "paint.peeling_on_booster", "fluid.colour", "fluid.debris", "rubber.swollen"}, wetPlaces...)},
	{ID: "water", Minutes: 2, Hands: 1, Needs: []string{"water_tester"}, Yields: []string{"fluid.water_percent"}},
	{ID: "hold", Minutes: 2, Hands: 1, Yields: []string{"pedal.sink", "pedal.sinks"}, Applies: withPedal},
	{ID: "pump", Minutes: 1, Hands: 1, Yields: []string{"pedal.pumps_up", "pedal.springy"}, Applies: withPedal},
	{ID: "assist_start", Minutes: 2, Hands: 1, Gates: []string{"wheels_chocked"}, Yields: []string{"assist.pedal_falls_on_start"}, Applies: boosted(system.BoosterVacuum, system.BoosterHydraulic)},
	{ID: "reserve", Minutes: 4, Hands: 1, Yields: []string{"assist.reserve_applies"}, Applies: boosted(system.BoosterVacuum, system.BoosterHydraulic, system.BoosterElectroHydraulic)},
	{ID: "loaded_hold", Minutes: 2, Hands: 1, Yields: []string{"assist.loaded_hold"}, Applies: boosted(system.BoosterVacuum)},
	{ID: "vacuum_gauge", Minutes: 4, Hands: 1, Needs: []string{"vacuum_gauge"}, Yields: []string{"vacuum.at_hose_kpa"}, Applies: boosted(system.BoosterVacuum)},
	{ID: "check_valve", Minutes: 3, Hands: 1, Gates: []string{"engine_off"}, Yields: []string{"check_valve.holds"}, Applies: boosted(system.BoosterVacuum)},
	{ID: "rod_gauge", Minutes: 20, Hands: 1, Needs: []string{"depth_gauge"}, Gates: []string{"depressurise_booster"}, Yields: []string{"rod.gap_mm"}, Applies: withPedal},
	{ID: "isolation.plug_ports", Minutes: 15, Hands: 1, Needs: []string{"line_plugs"}, Gates: []string{"depressurise_booster"}, OpensHydraulics: true, Yields: []string{"ports_plugged.pedal"}},
	{ID: "crack_line", Minutes: 5, Hands: 2, Gates: []string{"depressurise_booster"}, OpensHydraulics: true, Yields: []string{"drag.released_by"}},
	{ID: "gauge", Minutes: 12, Hands: 2, Needs: []string{"pressure_gauge", "pedal_force_gauge"}, OpensHydraulics: true, Yields: []string{"pressure.gauge"}},
	{ID: "force_travel", Minutes: 6, Hands: 1, Needs: []string{"pedal_force_gauge"}, Gates: []string{"depressurise_booster"}, Yields: []string{"pedal.readings"}, Applies: withPedal},
	{ID: "steering_check", Minutes: 4, Hands: 1, Yields: []string{"steering.groan", "steering.heavy", "steering.foam"}, Applies: boosted(system.BoosterHydraulic)},
	{ID: "scan", Minutes: 6, Hands: 1, Needs: []string{"scan_tool"}, Yields: []string{"codes.present"}, Applies: hasModulator},
	{ID: "actuator_push", Minutes: 2, Hands: 1, Gates: []string{"wheels_chocked"}, Yields: []string{"actuator.rod_moves"}, Applies: trailerOnly},
	{ID: "teardown", Minutes: 40, Hands: 1, Gates: []string{"depressurise_booster"}, OpensHydraulics: true, Yields: []string{"teardown.bore"}},
}

// Tools lists every tool a test may need.
var Tools = []string{"vacuum_gauge", "line_plugs", "pressure_gauge", "pedal_force_gauge", "depth_gauge", "water_tester", "scan_tool"}
