package plan

import (
	"slices"

	"geminate/brake/match"
)

// carried is a small part that hangs on what a vehicle has: it is in the kit where the feature is there, and not where
// it is not, whatever such vehicles usually have (common practice, no source).
type carried struct {
	with []Feature
	item string
	how  string // move_over, buy: where the unit's box does not hold it
	why  string
	on   func(match.Scope) bool
}

func eitherUnit(s match.Scope) bool { return s.FitsCylinder() || s.FitsBooster() }

// carries is the table: any one of the features brings the part.
var carries = []carried{
	{[]Feature{LevelSensor}, "level_sensor", "move_over", "kit.from_old", match.Scope.FitsCylinder},
	{[]Feature{RodCoupler, RodClip, Collar}, "rod_coupler", "move_over", "kit.from_old", eitherUnit},
	{[]Feature{Strainer}, "strainer", "move_over", "kit.from_old", match.Scope.FitsCylinder},
	{[]Feature{ResidualInLine}, "residual_valve", "move_over", "kit.from_old", match.Scope.FitsCylinder},
	{[]Feature{PortFitting}, "port_fitting_o_ring", "buy", "kit.always_new", match.Scope.FitsCylinder},
	{[]Feature{SidePlugs}, "port_plug", "move_over", "kit.from_old", match.Scope.FitsCylinder},
	{[]Feature{LampSwitch}, "lamp_switch_washers", "move_over", "kit.from_old", match.Scope.FitsBooster},
	{[]Feature{CheckValve}, "check_valve", "buy", "kit.old_stays_off", match.Scope.FitsBooster},
	{[]Feature{CheckValve}, "check_valve_grommet", "buy", "kit.old_stays_off", match.Scope.FitsBooster},
}

// Kit is the list of small parts with what this vehicle was seen to have, or such vehicles usually have: what is not
// there is not asked for, what is there comes along. base is match.Kit of the same scope and units.
func Kit(base []match.Item, scope match.Scope, old, unit *match.Unit, present []Feature) []match.Item {
	out := slices.Clone(base)
	for _, k := range carries {
		at := slices.IndexFunc(out, func(i match.Item) bool { return i.ID == k.item })
		here := slices.ContainsFunc(k.with, func(f Feature) bool { return slices.Contains(present, f) })
		switch {
		case !k.on(scope):
		case here && at < 0:
			out = append(out, match.Item{ID: k.item, How: k.how, Why: k.why})
		case !here && at >= 0 && out[at].How == k.how && out[at].Why == k.why: // asked for as usual; what a comparison or a box brings stays
			out = slices.Delete(out, at, at+1)
		}
	}
	plugs(out, old, unit)
	return out
}

// plugs tells of the plugs how many ports they close and in which threads: those of the new unit that no old line goes
// to. Nothing is told where the old unit's ports are not known.
func plugs(kit []match.Item, old, unit *match.Unit) {
	at := slices.IndexFunc(kit, func(i match.Item) bool { return i.ID == "port_plug" })
	if at < 0 || old == nil || unit == nil || len(old.Ports) == 0 || len(unit.Ports) <= len(old.Ports) {
		return
	}
	pairs, spare := match.PairPorts(old.Ports, unit.Ports)
	known := !slices.ContainsFunc(pairs, func(p match.Pair) bool { return p.Old.Thread == "" })
	threads := []string{}
	for _, p := range spare {
		if p.Thread != "" {
			threads = append(threads, p.Thread)
		}
	}
	with := map[string]any{"count": len(spare)}
	if known && len(threads) == len(spare) { // else which of them stays empty is not known
		with["threads"] = threads
	}
	kit[at].With = with
}
