package plan

import (
	"maps"
	"slices"
)

// alone are the plain steps that are told one by one all the same, each with the words of why: what comes of it where
// nobody asks (docs/proving.md). Looks and counts have an answer of their own and need no word.
var alone = map[string]string{
	"strip.plug_lines":      "ask_why.air_back",
	"strip.look_in_booster": "",
	"rod.coupler_moved":     "ask_why.rod_centred",
	"rod.actuator_free":     "ask_why.moves",
	"fit.face_seal":         "ask_why.face",
	"fit.face_paper":        "ask_why.face",
	"fit.pedal_end":         "ask_why.brakes_off",
	"fit.shoe_and_rod":      "ask_why.brakes_off",
	"fit.check_valve_hose":  "ask_why.assist",
	"fit.main_connector":    "ask_why.assist",
	"fit.remote_hoses":      "ask_why.fluid_lost",
	"close.fill":            "ask_why.bottle",
	"close.bleed":           "",
	"close.steering_bleed":  "",
	"close.count_out":       "ask_why.left_over",
	"elsewhere.repaired":    "ask_why.fault_left",
}

// plain says whether a step is only ticked, and stands or falls with its neighbours.
func (s *Step) plain() bool {
	return !s.Gate && s.Torque == nil && s.Measure == "" && s.Wait == "" && s.Own == "" && !s.alone()
}

// AskWhys are the words of why a step is asked on its own.
func AskWhys() (keys []string) {
	for _, id := range slices.Sorted(maps.Keys(alone)) {
		if why := alone[id]; why != "" {
			keys = append(keys, why)
		}
	}
	return keys
}

func (s *Step) alone() bool { _, is := alone[s.ID]; return is }

// togetherMost is how many steps one tap tells at the most: what a person can look over. Assumption.
const togetherMost = 6

// Together are the next steps that may be told by one tap, "as planned, up to here": a run of plain ones from the first
// that is open. None where there would be fewer than two.
func (p *Plan) Together(done map[string]bool) (ids []string) {
	for i := range p.Steps {
		s := &p.Steps[i]
		if done[s.ID] {
			continue
		}
		if !s.plain() || len(ids) == togetherMost {
			break
		}
		ids = append(ids, s.ID)
	}
	if len(ids) < 2 {
		return nil
	}
	return ids
}
