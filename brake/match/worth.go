package match

import "math"

// Worth is what a unit is expected to cost over its first year.
type Worth struct {
	// Expected is price, plus the chance of failing times a comeback and the work done again.
	Expected float64 `json:"expected"`
	Fails    float64 `json:"fails"` // the chance taken
	// Core comes back when the old unit is returned and can be rebuilt; it is not in Expected then.
	CoreBack bool `json:"core_back"`
}

// failing is the share of units that fail within a year, by condition. Assumptions.
var failing = map[string]float64{"new": 0.02, "rebuilt": 0.06, "used": 0.15}

// WorthOf weighs new against rebuilt: what it costs to buy, and what its failing is expected to cost.
// redo is the work of fitting and bleeding it again and the comeback, in the shop's currency.
func WorthOf(u, old Unit, redo float64) Worth {
	p, ok := failing[u.Condition]
	if !ok {
		p = failing["new"]
	}
	w := Worth{Fails: p, Expected: u.Price + p*redo, CoreBack: u.Core > 0 && CanBeRebuilt(old) != "no"}
	if u.Core > 0 && !w.CoreBack {
		w.Expected += u.Core
	}
	w.Expected = math.Round(100*w.Expected) / 100
	return w
}

// CanBeRebuilt says whether the old unit can be: yes, no, or ask where it is not known. A corroded bore is
// told by the teardown, not here.
func CanBeRebuilt(old Unit) string {
	switch {
	case old.Rebuildable == nil:
		return "ask"
	case *old.Rebuildable:
		return "yes"
	}
	return "no"
}
