package diagnose

import (
	"strings"

	"geminate/brake/system"
)

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
	When            func(known map[string]string) bool // only where what is known makes it sensible
}

const gateDepressurise = "depressurise_booster"

// gates are what must be safe first on this system: an electro-hydraulic booster is not emptied by
// pumping, its tool does it, and high voltage is isolated by trained people.
func (t *Test) gates(s *system.System) []string {
	if !s.Assist().ToolLed {
		return t.Gates
	}
	var out []string
	for _, g := range t.Gates {
		if g == gateDepressurise {
			out = append(out, "release_line_pressure", "isolate_high_voltage")
			continue
		}
		out = append(out, g)
	}
	if t.OpensHydraulics && len(t.Gates) == 0 {
		out = append(out, "release_line_pressure", "isolate_high_voltage")
	}
	return out
}

// HoldEngine is whether the hold test is done with the engine on: where there is assist it presses a
// passing cup far harder, and a cup that passes little shows.
func HoldEngine(s *system.System) bool {
	return s.Assist().AtPedal()
}

// Of the hold test as proposed: the foot in N and the time in s.
const (
	HoldForceN  = 200
	HoldSeconds = 60
)

var wetPlaces = func() (out []string) {
	for _, p := range Places {
		out = append(out, "wet.at:"+p)
	}
	return
}()

var sinceEvents = func() (out []string) {
	for _, p := range Events {
		out = append(out, "history.since:"+p)
	}
	return
}()

// fitToMove: a vehicle whose pedal fails is not driven to learn more; it is not moved before the pedal
// is known to hold.
func fitToMove(known map[string]string) bool {
	for id, calm := range map[string]string{"pedal.to_floor": "no", "pedal.sinks": "no", "pedal.hard": "no", "fluid.level": "ok"} {
		if known[id] != calm {
			return false
		}
	}
	return true
}

// weak says that less stops than should: then linings are worth a wheel off.
func weak(known map[string]string) bool {
	v, ok := known["brakes.weak"]
	return ok && v != "no"
}

func drags(known map[string]string) bool {
	v, ok := known["brakes.drag"]
	return ok && v != "no" || strings.Contains(known["wheel.check"], "drags")
}

// deadBleeder says that too little, or nothing, came at some bleeder: then where it is lost is worth opening a line
// for.
func deadBleeder(known map[string]string) bool {
	at := known["pressure.at_bleeder"]
	return strings.Contains(at, "low") || strings.Contains(at, "none")
}

// pumped are the vehicles whose assist is felt and counted at the pedal.
func pumped(s *system.System) bool { return s.Assist().AtPedal() }

// Tests is the table.
var Tests = []Test{
	{ID: "ask", Minutes: 2, Hands: 1, Yields: append(sinceEvents, "history.bled", "pedal.soft_when_hot")},
	{
		ID:      "pedal_feel",
		Minutes: 2,
		Hands:   1,
		Yields:  []string{"pedal.hard", "pedal.low", "pedal.springy", "pedal.dead_first_travel", "pedal.to_floor", "sound.rush_of_air"},
		Applies: withPedal,
	},
	{ID: "wheels", Minutes: 8, Hands: 1, Gates: []string{"wheels_chocked"}, Yields: []string{"wheel.check"}, Applies: withBrakes},
	{ID: "drive", Minutes: 8, Hands: 1, Yields: []string{"brakes.weak", "brakes.drag", "wheel.heat"}, Applies: withBrakes, When: fitToMove},
	{ID: "reservoir_watch", Minutes: 2, Hands: 2, Yields: []string{"reservoir.spurts"}, Applies: withPedal},
	{ID: "hose_watch", Minutes: 4, Hands: 2, Yields: []string{"hose.swells"}},
	{ID: "unit_check", Minutes: 5, Hands: 1, Yields: []string{"unit.is_right"}},
	{ID: "wipe_and_press", Minutes: 7, Hands: 1, Yields: []string{"leak.seen"}},
	{ID: "bleeder_air", Minutes: 8, Hands: 2, OpensHydraulics: true, Yields: []string{"bleeder.bubbles"}},
	{
		ID:      "modulator_cycle",
		Minutes: 8,
		Hands:   2,
		Needs:   []string{"scan_tool"},
		Yields:  []string{"modulator.pedal_drops"},
		Applies: hasModulator,
	},
	{
		ID:      "pump_pressure",
		Minutes: 15,
		Hands:   1,
		Needs:   []string{"steering_gauge"},
		Gates:   []string{"engine_off"},
		Yields:  []string{"steering.pump_pressure"},
		Applies: withSteering,
	},
	{
		ID:      "look",
		Minutes: 5,
		Hands:   1,
		Yields: append(
			[]string{
				"fluid.level",
				"level.falls",
				"wet.fluid",
				"paint.peeling_on_booster",
				"fluid.colour",
				"fluid.debris",
				"rubber.swollen",
			},
			wetPlaces...),
	},
	{
		ID:      "booster_dip",
		Minutes: 3,
		Hands:   1,
		Gates:   []string{"engine_off"},
		Yields:  []string{"wet.at:inside_booster"},
		Applies: withVacuum,
	},
	{ID: "water", Minutes: 2, Hands: 1, Needs: []string{"water_tester"}, Yields: []string{"fluid.water_percent"}},
	{ID: "hold", Minutes: 2, Hands: 1, Yields: []string{"pedal.sink", "pedal.sinks"}, Applies: withPedal},
	{ID: "pump", Minutes: 1, Hands: 1, Yields: []string{"pedal.pumps_up", "pedal.springy"}, Applies: withPedal},
	{
		ID:      "assist_start",
		Minutes: 2,
		Hands:   1,
		Gates:   []string{"wheels_chocked"},
		Yields:  []string{"assist.pedal_falls_on_start"},
		Applies: pumped,
	},
	{ID: "reserve", Minutes: 4, Hands: 1, Yields: []string{"assist.reserve_applies"}, Applies: hasBooster},
	{ID: "loaded_hold", Minutes: 2, Hands: 1, Yields: []string{"assist.loaded_hold"}, Applies: withVacuum},
	{
		ID:      "vacuum_gauge",
		Minutes: 4,
		Hands:   1,
		Needs:   []string{"vacuum_gauge"},
		Yields:  []string{"vacuum.at_hose_kpa"},
		Applies: withVacuum,
	},
	{ID: "hose_pinch", Minutes: 3, Hands: 1, Needs: []string{"vacuum_gauge"}, Yields: []string{"vacuum.hose_pinched"}, Applies: withVacuum},
	{ID: "check_valve", Minutes: 3, Hands: 1, Gates: []string{"engine_off"}, Yields: []string{"check_valve.holds"}, Applies: withVacuum},
	{
		ID:      "pedal_stop",
		Minutes: 2,
		Hands:   1,
		Gates:   []string{"engine_off"},
		Yields:  []string{"pedal.returns", "pedal.side_play"},
		Applies: withPedal,
	},
	{
		ID:      "slack_cable",
		Minutes: 5,
		Hands:   1,
		Gates:   []string{"wheels_chocked"},
		Yields:  []string{"parking.slack"},
		Applies: withFootBrakes,
		When:    drags,
	},
	{
		ID:      "linings_look",
		Minutes: 15,
		Hands:   1,
		Gates:   []string{"wheels_chocked"},
		Yields:  []string{"linings.seen"},
		Applies: withBrakes,
		When:    weak,
	},
	{ID: "free_play", Minutes: 2, Hands: 1, Gates: []string{"engine_off"}, Yields: []string{"pedal.free_play_mm"}, Applies: withPedal},
	{ID: "bleeder_pressure", Minutes: 8, Hands: 2, OpensHydraulics: true, Yields: []string{"pressure.at_bleeder"}},
	{ID: "hose_pressure", Minutes: 10, Hands: 2, OpensHydraulics: true, Yields: []string{"pressure.before_hose"}, When: deadBleeder},
	{
		ID:              "port_pressure",
		Minutes:         10,
		Hands:           2,
		Gates:           []string{gateDepressurise},
		OpensHydraulics: true,
		Yields:          []string{"pressure.at_port"},
	},
	{
		ID:      "rod_gauge",
		Minutes: 20,
		Hands:   1,
		Needs:   []string{"depth_gauge"},
		Gates:   []string{gateDepressurise},
		Yields:  []string{"rod.gap_mm"},
		Applies: withPedal,
	},
	{
		ID:              "isolation.plug_ports",
		Minutes:         15,
		Hands:           1,
		Needs:           []string{"line_plugs"},
		Gates:           []string{gateDepressurise},
		OpensHydraulics: true,
		Yields:          []string{"ports_plugged.pedal"},
	},
	{
		ID:              "crack_line",
		Minutes:         5,
		Hands:           2,
		Gates:           []string{gateDepressurise},
		OpensHydraulics: true,
		Yields:          []string{"drag.released_by"},
		When:            drags,
	},
	{
		ID:              "gauge",
		Minutes:         12,
		Hands:           2,
		Needs:           []string{"pressure_gauge", "pedal_force_gauge"},
		OpensHydraulics: true,
		Yields:          []string{"pressure.gauge"},
	},
	{
		ID:      "force_travel",
		Minutes: 6,
		Hands:   1,
		Needs:   []string{"pedal_force_gauge"},
		Gates:   []string{gateDepressurise},
		Yields:  []string{"pedal.readings"},
		Applies: withPedal,
	},
	{
		ID:      "steering_check",
		Minutes: 4,
		Hands:   1,
		Yields:  []string{"steering.groan", "steering.heavy", "steering.foam"},
		Applies: withSteering,
	},
	{ID: "scan", Minutes: 6, Hands: 1, Needs: []string{"scan_tool"}, Yields: []string{"codes.present"}, Applies: needsRoutine},
	{
		ID:      "coupler_look",
		Minutes: 2,
		Hands:   1,
		Gates:   []string{"wheels_chocked"},
		Yields:  []string{"coupler.breakaway", "coupler.lockout"},
		Applies: trailerOnly,
	},
	{
		ID:      "actuator_push",
		Minutes: 2,
		Hands:   1,
		Gates:   []string{"wheels_chocked"},
		Yields:  []string{"actuator.rod_moves", "actuator.holds", "coupler.travel", "coupler.bangs"},
		Applies: trailerOnly,
	},
	{ID: "rod_alone", Minutes: 5, Hands: 1, Gates: []string{"wheels_chocked"}, Yields: []string{"coupler.rod_alone"}, Applies: trailerOnly},
	{
		ID:      "wheels_held",
		Minutes: 12,
		Hands:   1,
		Gates:   []string{"wheels_chocked"},
		Yields:  []string{"coupler.wheels_held"},
		Applies: trailerOnly,
	},
	{ID: "teardown", Minutes: 40, Hands: 1, Gates: []string{gateDepressurise}, OpensHydraulics: true, Yields: []string{"teardown.bore"}},
}

// Tools lists every tool a test may need.
var Tools = []string{
	"vacuum_gauge",
	"line_plugs",
	"pressure_gauge",
	"pedal_force_gauge",
	"depth_gauge",
	"water_tester",
	"scan_tool",
	"steering_gauge",
}

// TestOf is the row of a test, nil where there is none.
func TestOf(id string) *Test {
	for i := range Tests {
		if Tests[i].ID == id {
			return &Tests[i]
		}
	}
	return nil
}
