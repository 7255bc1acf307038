package diagnose

import (
	"math"
	"slices"
	"strings"

	"geminate/brake/system"
)

// Suspect is a fault and where it sits.
type Suspect struct {
	ID string `json:"id"`
	At string `json:"at,omitempty"`
}

// Judgement holds a proposal against what is really wrong.
type Judgement struct {
	// Right: it is the remedy that costs least to someone who knows the faults, or costs the same.
	Right bool
	// Part: it is part of the right remedy: what is done is needed, something needed is left.
	Part bool
	// WrongUnit: a cylinder or a booster is replaced that has nothing wrong with it.
	WrongUnit bool
	// Cured: nothing that is wrong stays.
	Cured bool
	// Regret is what it costs more than the right remedy, comebacks and danger priced.
	Regret float64
	// Best is the right remedy.
	Best ActionCost
}

// Judge prices a proposed action where these faults are known to be present.
func Judge(s *system.System, costs Costs, truth []Suspect, proposed ActionCost) Judgement {
	e := engineFor(s, nil)
	h := hypothesis{}
	marginals := make([]float64, len(e.faults))
	for i, f := range e.faults {
		for _, t := range truth {
			if t.ID != f.fault.ID || t.At != f.at {
				continue
			}
			marginals[i] = 1
			h = append(h, i)
		}
	}
	remedies := e.price(&costs).remedies
	least, paid := math.Inf(1), math.Inf(1)
	var j Judgement
	for i := range remedies {
		r := &remedies[i]
		x := e.cost(r, h)
		out := r.outward(e, marginals, x)
		if x < least {
			least, j.Best = x, out
		}
		if same(&out, &proposed) {
			paid = x
			j.Cured = !slices.ContainsFunc(h, func(f int) bool { return !e.heals(r, h, f) })
		}
	}
	if math.IsInf(paid, 1) { // an action this system cannot have: its price, and all that is wrong stays
		for i := range remedies {
			if remedies[i].acts[0] == actNothing {
				paid = e.cost(&remedies[i], h) + costs.own(proposed.ID)
			}
		}
	}
	j.Regret = paid - least
	j.Right = j.Regret < 1e-6
	j.Part = !j.Right && len(proposed.Also) == 0 && slices.Contains(append(j.Best.Also, j.Best.ID), proposed.ID)
	j.WrongUnit = wrongUnit(truth, append([]string{proposed.ID}, proposed.Also...))
	return j
}

// Left is what stays of some faults when actions are done together: what none of them cures, and an effect whose
// cause is left, which comes again.
func Left(truth []Suspect, acts ActionCost) (left []Suspect) {
	list := acts.Inner()
	cured := func(id string) bool {
		return slices.ContainsFunc(list, func(a string) bool { return cures(a, id) })
	}
	for _, t := range truth {
		again := slices.ContainsFunc(truth, func(c Suspect) bool { return Brings(c.ID, t.ID) && !cured(c.ID) })
		if !cured(t.ID) || again {
			left = append(left, t)
		}
	}
	return left
}

// Inner lists the actions by the ids a shop prices them under.
func (a *ActionCost) Inner() []string {
	out := append([]string{a.ID}, a.Also...)
	for i, id := range out {
		switch {
		case id == actBleed && a.ModulatorRoutine:
			out[i] = actRoutine
		case id == actFluid && a.ReplaceRubber:
			out[i] = actRubber
		}
	}
	return out
}

// same compares two actions as sets.
func same(a, b *ActionCost) bool {
	if a.ModulatorRoutine != b.ModulatorRoutine || a.ReplaceRubber != b.ReplaceRubber || len(a.Also) != len(b.Also) {
		return false
	}
	if len(a.Also) == 0 {
		return a.ID == b.ID
	}
	return a.ID == b.ID && a.Also[0] == b.Also[0] || a.ID == b.Also[0] && a.Also[0] == b.ID
}

func wrongUnit(truth []Suspect, acts []string) bool {
	faulty := map[string]bool{}
	for _, t := range truth {
		for _, unit := range []string{"master_cylinder", "booster"} {
			faulty[unit] = faulty[unit] || In(t.ID, unit)
		}
	}
	for _, id := range acts {
		cylinder := id == "replace_master_cylinder" || id == "replace_both" || id == "change_bore"
		booster := id == "replace_booster" || id == "replace_both"
		if cylinder && !faulty["master_cylinder"] || booster && !faulty["booster"] {
			return true
		}
	}
	return false
}

// SignOf is the table's row of a finding, or of one place of a list ("wet.at:wheel").
func SignOf(id string) *Sign { return findSign(id) }

// ListOf says which list a sign is an entry of, "" for none.
func ListOf(sign string) string {
	list, _, ok := strings.Cut(sign, ":")
	if !ok {
		return ""
	}
	return list
}

// In says whether a fault lies in a unit: "master_cylinder" or "booster". What a tool puts right is none of its
// booster's, what sits in a trailer's coupler none of its cylinder's.
func In(fault, unit string) bool {
	f := findFault(fault)
	if f == nil || fault == "electro.simulator_air" || fault == "electro.offset_unlearned" {
		return false
	}
	return f.Part == unit
}
