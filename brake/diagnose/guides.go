package diagnose

// Input is one figure a guided test asks for.
type Input struct {
	ID       string  `json:"id"`
	Quantity string  `json:"quantity"` // n, mm, s, kpa, mpa, percent, count
	Min      float64 `json:"min"`
	Max      float64 `json:"max"`
	Optional bool    `json:"optional"`
	// Circuit: asked once for each circuit, as id:circuit.
	Circuit bool `json:"circuit"`
}

// Guide is how a test is carried out: its steps and cautions by id, its clock and what is read.
type Guide struct {
	Test     string
	Steps    []string
	Cautions []string
	TimerS   float64 // what the clock runs to; 0 where the test has none
	// ClockFor is the input that takes the clock's seconds.
	ClockFor string
	// Counts: the test's figure is counted by tapping.
	Counts bool
	Inputs []Input
}

func in(id, quantity string, lo, hi float64) Input {
	return Input{ID: id, Quantity: quantity, Min: lo, Max: hi}
}

func optional(i Input) Input   { i.Optional = true; return i }
func perCircuit(i Input) Input { i.Circuit = true; return i }

// Guides is the table. Tests without inputs are answered by their findings directly.
var Guides = []Guide{
	{Test: "ask", Steps: []string{"ask_since", "ask_bled", "ask_hot"}},
	{Test: "pedal_feel", Steps: []string{"engine_running", "press_slowly", "feel_first", "listen"}, Cautions: []string{"stand_still"}},
	{
		Test:     "look",
		Steps:    []string{"level_colour", "under_reservoir", "boot_back", "booster_dip", "carpet", "wheels_lines"},
		Cautions: []string{"fluid_paint"},
	},
	{Test: "booster_dip", Steps: []string{"booster_dip"}, Cautions: []string{"fluid_paint"}},
	{
		Test:     "wipe_and_press",
		Steps:    []string{"wipe_dry", "press_hard_minute", "look_again"},
		Cautions: []string{"fluid_paint", "glasses"},
		TimerS:   60,
	},
	{Test: "water", Steps: []string{"tester_clean", "tester_reservoir", "tester_bottle"}, Cautions: []string{"steering_apart"},
		Inputs: []Input{in("vehicle", "percent", 0, 20), optional(in("bottle", "percent", 0, 20))}},
	{
		Test:     "hold",
		Steps:    []string{"hold_engine", "steady_foot", "height_start", "height_end"},
		Cautions: []string{"stand_still"},
		TimerS:   HoldSeconds,
	},
	{Test: "pump", Steps: []string{"pump_rest", "pump_four", "pump_wait"}, TimerS: 10,
		Inputs: []Input{
			in("first", "mm", 0, 300),
			optional(in("second", "mm", 0, 300)),
			in("fourth", "mm", 0, 300),
			optional(in("after_rest", "mm", 0, 300)),
		}},
	{Test: "assist_start", Steps: []string{"pump_out", "hold_foot", "start_engine", "pedal_falls"}, Cautions: []string{"stand_still"}},
	{
		Test:   "reserve",
		Steps:  []string{"run_minute", "stop_wait", "count_assisted"},
		Counts: true,
		Inputs: []Input{in("count", "count", 0, 50)},
	},
	{Test: "loaded_hold", Steps: []string{"foot_on_running", "stop_engine", "watch_30"}, TimerS: 30},
	{
		Test:     "vacuum_gauge",
		Steps:    []string{"gauge_at_booster", "idle_reading", "stop_and_time"},
		Cautions: []string{"moving_parts"},
		TimerS:   60,
		ClockFor: "seconds",
		Inputs:   []Input{in("idle", "kpa", 0, 105), optional(in("later", "kpa", 0, 105)), optional(in("seconds", "s", 1, 3600))},
	},
	{Test: "hose_pinch", Steps: []string{"gauge_teed", "pinch_hose", "vacuum_rises"}, Cautions: []string{"moving_parts"}},
	{Test: "check_valve", Steps: []string{"hose_off", "valve_holds"}},
	{Test: "free_play", Steps: []string{"pump_out", "press_by_hand"}},
	{Test: "wheels", Steps: []string{"lift_safely", "spin_each", "slack_each"}, Cautions: []string{"stands"}},
	{Test: "drive", Steps: []string{"walking_stops", "short_drive", "heat_each"}, Cautions: []string{"drive_only_if", "hot"}},
	{Test: "reservoir_watch", Steps: []string{"cap_off", "press_gently", "see_spurt"}, Cautions: []string{"glasses", "fluid_paint"}},
	{Test: "hose_watch", Steps: []string{"helper_presses", "watch_hoses"}},
	{Test: "unit_check", Steps: []string{"read_stamp", "compare_data"}},
	{Test: "steering_check", Steps: []string{"steer_feel", "steer_level", "belt"}, Cautions: []string{"moving_parts"}},
	{Test: "pump_pressure", Steps: []string{"gauge_in_line", "pressure_at_idle"}, Cautions: []string{"high_pressure", "never_hold_lock"}},
	{
		Test:     "bleeder_pressure",
		Steps:    []string{"helper_holds", "crack_each", "close_before"},
		Cautions: []string{"glasses", "fluid_paint", "bleed_follows"},
	},
	{
		Test:     "hose_pressure",
		Steps:    []string{"helper_holds", "line_at_hose", "close_before"},
		Cautions: []string{"glasses", "fluid_paint", "bleed_follows"},
	},
	{
		Test:     "bleeder_air",
		Steps:    []string{"hose_in_fluid", "crack_each", "watch_bubbles", "close_before"},
		Cautions: []string{"glasses", "fluid_paint"},
	},
	{
		Test:     "port_pressure",
		Steps:    []string{"line_off_port", "thumb_or_plug", "each_port"},
		Cautions: []string{"glasses", "fluid_paint", "bleed_follows"},
	},
	{
		Test:     "isolation.plug_ports",
		Steps:    []string{"lines_off", "plug_ports", "press_plugged"},
		Cautions: []string{"glasses", "fluid_paint", "bleed_follows"},
	},
	{Test: "pedal_stop", Steps: []string{"pedal_back", "lamp_switch_clear", "pedal_sideways"}},
	{Test: "slack_cable", Steps: []string{"lift_safely", "feel_drag", "cable_slack", "turn_again"}, Cautions: []string{"stands"}},
	{Test: "linings_look", Steps: []string{"lift_safely", "wheel_off", "linings_light"}, Cautions: []string{"stands", "dust"}},
	{Test: "crack_line", Steps: []string{"make_drag", "crack_at_cylinder", "crack_at_wheel"}, Cautions: []string{"glasses", "fluid_paint"}},
	{
		Test:     "gauge",
		Steps:    []string{"gauges_in", "bleed_gauges", "known_foot", "read_both"},
		Cautions: []string{"high_pressure", "bleed_follows"},
		Inputs:   []Input{in("force", "n", 20, 500), perCircuit(in("mpa", "mpa", 0, 25))},
	},
	{Test: "force_travel", Steps: []string{"pump_out", "zero_rule", "three_forces"}},
	{Test: "rod_gauge", Steps: []string{"cylinder_forward", "depth_pocket", "depth_rod", "rod_sum"}},
	{Test: "scan", Steps: []string{"read_codes", "note_codes"}},
	{Test: "modulator_cycle", Steps: []string{"foot_held", "cycle_valves", "watch_drop"}, Cautions: []string{"tool_leads"}},
	{Test: "coupler_look", Steps: []string{"trailer_chocked", "lever_home", "lockout_clear"}},
	{Test: "actuator_push", Steps: []string{"trailer_chocked", "push_coupler", "hold_coupler", "comes_back"}},
	{Test: "rod_alone", Steps: []string{"trailer_chocked", "rod_off_slide", "push_rod"}},
	{Test: "wheels_held", Steps: []string{"trailer_chocked", "strap_coupler", "lift_safely", "turn_held"}, Cautions: []string{"stands"}},
	{
		Test:     "teardown",
		Steps:    []string{"drain_unit", "cap_reservoir", "bore_light", "cups_clip"},
		Cautions: []string{"glasses", "fluid_paint"},
	},
}

// FindGuide returns a test's guide, or nil.
func FindGuide(test string) *Guide {
	for i := range Guides {
		if Guides[i].Test == test {
			return &Guides[i]
		}
	}
	return nil
}
