package diagnose

import (
	"math"
	"slices"
	"sort"
	"strings"

	"geminate/brake/system"
)

// Costs are the shop's figures, in its own currency. Every one can be set.
type Costs struct {
	PerMinute float64            `json:"per_minute"`
	Parts     map[string]float64 `json:"parts"`    // by action
	Minutes   map[string]float64 `json:"minutes"`  // by action
	Comeback  float64            `json:"comeback"` // a vehicle that returns with the same complaint
	Unsafe    float64            `json:"unsafe"`   // one released with a fault that can take the brakes away
}

// DefaultCosts are assumptions to start from.
func DefaultCosts() Costs {
	return Costs{
		PerMinute: 1.6, Comeback: 300, Unsafe: 1200, // unsafe: most are still caught at the release gate
		Parts: map[string]float64{"replace_master_cylinder": 180, "replace_booster": 260, "replace_both": 440, "bleed": 18, "repair_wheel": 90,
			"repair_line": 60, "repair_supply": 70, "set_rod": 5, "change_fluid": 30, "change_bore": 190, "nothing": 0},
		Minutes: map[string]float64{"replace_master_cylinder": 110, "replace_booster": 120, "replace_both": 170, "bleed": 45, "repair_wheel": 60,
			"repair_line": 70, "repair_supply": 50, "set_rod": 35, "change_fluid": 50, "change_bore": 115, "nothing": 5},
	}
}

// fixes lists what each action cures, by fault id or by a prefix ending in a dot. An action that
// opens the hydraulics ends with a bleed, so it cures air and old fluid as well.
var fixes = map[string][]string{
	"nothing":                 {},
	"replace_master_cylinder": {"mc.", "circuit.air", "fluid.wet", "fluid.low", "rod."},
	"replace_booster": {"vacuum.diaphragm_leak", "vacuum.valve_leak", "vacuum.fluid_inside", "vacuum.check_valve_leak", "hydraulic.input_seal_leak",
		"hydraulic.housing_leak", "hydraulic.accumulator_lost", "hydraulic.valve_stuck", "electro.", "rod.", "steering.air"},
	"replace_both":  {"mc.", "circuit.air", "fluid.wet", "fluid.low", "rod.", "vacuum.diaphragm_leak", "vacuum.valve_leak", "vacuum.fluid_inside", "vacuum.check_valve_leak", "hydraulic.input_seal_leak", "hydraulic.housing_leak", "hydraulic.accumulator_lost", "hydraulic.valve_stuck", "steering.air"},
	"bleed":         {"circuit.air", "circuit.modulator_air", "fluid.wet", "fluid.low"},
	"repair_wheel":  {"wheel.", "circuit.air", "fluid.wet", "fluid.low"},
	"repair_line":   {"circuit.line_leak", "circuit.hose_expands", "circuit.hose_blocked", "circuit.air", "fluid.wet", "fluid.low"},
	"repair_supply": {"vacuum.check_valve_leak", "vacuum.supply_low", "hydraulic.supply_low", "steering.air"},
	"set_rod":       {"rod."},
	"change_fluid":  {"fluid.wet", "fluid.low", "circuit.air"},
	"change_bore":   {"mc.bore_too_small", "mc.bore_too_large", "circuit.air", "fluid.wet", "fluid.low"},
}

// cures says whether an action removes a fault.
func cures(action, fault string) bool {
	if action == "replace_master_cylinder" && strings.HasPrefix(fault, "mc.bore_too") {
		return false // the same size again is no cure
	}
	for _, f := range fixes[action] {
		if f == fault || (strings.HasSuffix(f, ".") && strings.HasPrefix(fault, f)) {
			return true
		}
	}
	return false
}

// actionsFor lists the actions a system can need.
func actionsFor(s *system.System) []string {
	var out []string
	for a := range fixes {
		hasBooster := s.BoosterKind() != system.BoosterNone
		if (a == "replace_booster" || a == "replace_both" || a == "repair_supply") && !hasBooster {
			continue
		}
		if a == "set_rod" && s.IsTrailer() {
			continue
		}
		out = append(out, a)
	}
	slices.Sort(out)
	return out
}

// cost is what an action costs when a hypothesis is true: its own minutes and parts, and, where it
// leaves a fault behind, the comeback, the right work done after all and the danger in between.
func (e *engine) cost(c *Costs, action string, h *hypothesis) float64 {
	own := func(a string) float64 { return c.Minutes[a]*c.PerMinute + c.Parts[a] }
	total := own(action)
	for _, f := range h.faults {
		if f.fault.ID == "trailer.actuator_seized" && strings.HasPrefix(action, "replace_master") {
			continue // the unit and its actuator are one on a trailer
		}
		if cures(action, f.fault.ID) {
			continue
		}
		again := math.Inf(1)
		for a := range fixes {
			if cures(a, f.fault.ID) {
				again = math.Min(again, own(a))
			}
		}
		if math.IsInf(again, 1) {
			again = own("replace_master_cylinder")
		}
		total += again
		switch f.fault.ID {
		case "fluid.wet", "fluid.low": // seen and told, not a comeback
			total += c.Comeback / 4
		default:
			total += c.Comeback
		}
		if f.fault.Unsafe {
			total += c.Unsafe
		}
	}
	return total
}

// ActionCost is one action with its expected cost.
type ActionCost struct {
	ID           string  `json:"id"`
	ExpectedCost float64 `json:"expected_cost"`
}

// Action is the proposal.
type Action struct {
	ID           string       `json:"id"`
	ExpectedCost float64      `json:"expected_cost"`
	Alternatives []ActionCost `json:"alternatives"`
	Settled      bool         `json:"settled"`
	// ModulatorRoutine says that the scan tool's routine belongs to a bleed.
	ModulatorRoutine bool `json:"modulator_routine,omitempty"`
}

// costTable is the cost of each action under each hypothesis.
func (e *engine) costTable(c *Costs, actions []string) [][]float64 {
	out := make([][]float64, len(actions))
	for a, id := range actions {
		out[a] = make([]float64, len(e.hyps))
		for i := range e.hyps {
			out[a][i] = e.cost(c, id, &e.hyps[i])
		}
	}
	return out
}

func expected(table [][]float64, post []float64) []float64 {
	out := make([]float64, len(table))
	for a := range table {
		for i, p := range post {
			out[a] += p * table[a][i]
		}
	}
	return out
}

func sortedActions(actions []string, costs []float64) []ActionCost {
	out := make([]ActionCost, len(actions))
	for i := range actions {
		out[i] = ActionCost{actions[i], costs[i]}
	}
	sort.SliceStable(out, func(i, j int) bool { return out[i].ExpectedCost < out[j].ExpectedCost })
	return out
}
