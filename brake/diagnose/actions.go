package diagnose

import (
	"slices"

	"geminate/brake/system"
)

// Costs are the shop's figures, in its own currency. Every one can be set.
type Costs struct {
	PerMinute float64            `json:"per_minute"`
	Parts     map[string]float64 `json:"parts"`    // by action
	Minutes   map[string]float64 `json:"minutes"`  // by action
	Comeback  float64            `json:"comeback"` // a vehicle that returns with the same complaint
	Unsafe    float64            `json:"unsafe"`   // one released with a fault that can take the brakes away
	// Needless is the share of an action's own cost that no one pays where nothing it cures was wrong.
	Needless float64 `json:"needless"`
}

// The actions as the engine weighs them. Two of them leave the package under another's id: a bleed with
// the modulator's routine as "bleed", a change of fluid and all rubber as "change_fluid".
const (
	actNothing     = "nothing"
	actKeepTesting = "keep_testing"
	actBleed       = "bleed"
	actRoutine     = "bleed_with_routine"
	actFluid       = "change_fluid"
	actRubber      = "change_fluid_and_rubber"
)

// action is one row of the table of repairs.
type action struct {
	id             string
	minutes, parts float64 // assumptions to start from; the shop sets its own
	opens          bool    // opens the hydraulics: a bleed is part of it, and done once for two such actions
	cures          []string
	applies        func(*system.System) bool
}

var (
	hasBooster = func(s *system.System) bool { return s.Assist().Powered() }
	boosterIn  = []string{
		"vacuum.diaphragm_leak",
		"vacuum.valve_leak",
		"vacuum.fluid_inside",
		"vacuum.check_valve_leak",
		"hydraulic.input_seal_leak",
		"hydraulic.housing_leak",
		"hydraulic.accumulator_lost",
		"hydraulic.valve_stuck",
		"electro.pressure_source",
		"rod.too_long",
		"rod.too_short",
		"pedal.held_down",
		"pedal.bush_worn",
		"steering.air",
	}
	cylinderIn = []string{
		"mc.primary_cup_bypass",
		"mc.secondary_cup_bypass",
		"mc.rear_seal_leak",
		"mc.reservoir_leak",
		"mc.port_blocked",
		"mc.piston_seized",
		"mc.bore_corroded",
		"mc.wrong_variant",
		"circuit.air",
		"fluid.wet",
		"fluid.low",
		"rod.too_long",
		"rod.too_short",
		"pedal.held_down",
		"pedal.bush_worn",
	}
	// Every seal, cup, hose and boot that petroleum reached is renewed, and so every fault of one is gone.
	rubberIn = []string{
		"fluid.petroleum",
		"mc.primary_cup_bypass",
		"mc.secondary_cup_bypass",
		"mc.rear_seal_leak",
		"mc.reservoir_leak",
		"mc.port_blocked",
		"circuit.hose_expands",
		"circuit.hose_blocked",
		"wheel.leak",
		"wheel.seized",
	}
	withBleed = []string{"circuit.air", "fluid.wet", "fluid.low"}
)

func also(lists ...[]string) (out []string) {
	for _, l := range lists {
		out = append(out, l...)
	}
	return out
}

// actions is the table. A cylinder of the same size is no cure for a wrong bore; one of another size cures whatever
// else the old one had. A new unit or line ends with a bleed of the whole, so it cures air and old fluid as well; a
// wheel's repair bleeds, if anything, that wheel, and a bleed drives air out, not all old fluid. A trailer's cylinder
// is changed with its slide greased, so that work frees a seized slide as well; nobody buys one for that.
var actionTable = []action{
	{id: actNothing, minutes: 5},
	{id: "replace_master_cylinder", minutes: 110, parts: 180, opens: true, cures: also(cylinderIn, []string{"trailer.actuator_seized"})},
	{
		id:      "free_coupler",
		minutes: 45,
		parts:   20,
		cures:   []string{"trailer.actuator_seized", "trailer.lockout", "trailer.breakaway_on", "trailer.damper_empty"},
		applies: trailerOnly,
	},
	{id: "replace_booster", minutes: 120, parts: 260, cures: boosterIn, applies: hasBooster},
	{id: "replace_both", minutes: 170, parts: 440, opens: true, cures: also(cylinderIn, boosterIn), applies: hasBooster},
	{id: actBleed, minutes: 45, parts: 18, opens: true, cures: []string{"circuit.air", "fluid.low"}},
	{
		id:      actRoutine,
		minutes: 70,
		parts:   25,
		opens:   true,
		cures: also([]string{"circuit.air", "fluid.low"},
			[]string{"circuit.modulator_air", "electro.simulator_air", "electro.offset_unlearned"}),
		applies: needsRoutine,
	},
	{
		id:      "repair_wheel",
		minutes: 60,
		parts:   90,
		opens:   true,
		cures: []string{
			"wheel.leak",
			"wheel.seized",
			"wheel.excess_clearance",
			"wheel.parking_brake",
			"wheel.linings",
			"trailer.wheels_seized",
			"trailer.shoes_far",
			"fluid.low",
		},
	},
	{
		id:      "repair_line",
		minutes: 70,
		parts:   60,
		opens:   true,
		cures:   also(withBleed, []string{"circuit.line_leak", "circuit.hose_expands", "circuit.hose_blocked"}),
	},
	{
		id:      "repair_supply",
		minutes: 50,
		parts:   70,
		cures:   []string{"vacuum.check_valve_leak", "vacuum.supply_low", "hydraulic.supply_low", "steering.air"},
		applies: hasBooster,
	},
	{
		id:      "set_rod",
		minutes: 35,
		parts:   5,
		cures:   []string{"rod.too_long", "rod.too_short", "pedal.held_down", "pedal.bush_worn"},
		applies: withPedal,
	},
	{id: actFluid, minutes: 50, parts: 30, opens: true, cures: withBleed},
	{
		id:      "repair_modulator",
		minutes: 110,
		parts:   420,
		opens:   true,
		cures:   also(withBleed, []string{"circuit.modulator_air", "circuit.modulator_leak"}),
		applies: hasModulator,
	},
	{id: actRubber, minutes: 300, parts: 700, opens: true, cures: also(withBleed, rubberIn)},
	{
		id:      "change_bore",
		minutes: 115,
		parts:   190,
		opens:   true,
		cures:   also(cylinderIn, []string{"mc.bore_too_small", "mc.bore_too_large", "trailer.actuator_seized"}),
	},
}

// needsRoutine says whether a scan tool's routine belongs to the bleeding of this system.
func needsRoutine(s *system.System) bool {
	return s.Modulator != nil || s.Assist().ToolLed
}

func findAction(id string) *action {
	for i := range actionTable {
		if actionTable[i].id == id {
			return &actionTable[i]
		}
	}
	return nil
}

// cures says whether an action removes a fault.
func cures(action, fault string) bool {
	a := findAction(action)
	return a != nil && slices.Contains(a.cures, fault)
}
