package stand

import (
	"encoding/json"
	"slices"
)

// Evidence is one finding of the release check: what it speaks of, which value speaks against letting the vehicle go, and
// what taking it takes.
type Evidence struct {
	ID string
	// Of are the things it speaks of: while one of them changes it proves nothing any more. Everything is any act at all.
	Of         []Thing
	Everything bool
	// Against says whether a value speaks against a release; nil where it is judged elsewhere or says nothing of it.
	Against func(json.RawMessage) bool
	// Judged: the gate has a rule of its own for it.
	Judged bool
	// LeastS is the least time it takes, s, beside what its own value tells. Assumption.
	LeastS float64
	// EngineRuns: taking it takes a running engine, and so stores energy again.
	EngineRuns func(json.RawMessage) bool
}

// Values.
func is(bad ...string) func(json.RawMessage) bool {
	return func(raw json.RawMessage) bool {
		var v string
		return json.Unmarshal(raw, &v) == nil && slices.Contains(bad, v)
	}
}

// not takes anything but these for bad; a place named with it ({"one_wheel": "LF"}) is bad too.
func not(good ...string) func(json.RawMessage) bool {
	return func(raw json.RawMessage) bool {
		var v string
		return json.Unmarshal(raw, &v) != nil || !slices.Contains(good, v)
	}
}

func below(least float64) func(json.RawMessage) bool {
	return func(raw json.RawMessage) bool {
		var v float64
		return json.Unmarshal(raw, &v) == nil && v < least
	}
}

func atLeast(most float64) func(json.RawMessage) bool {
	return func(raw json.RawMessage) bool {
		var v float64
		return json.Unmarshal(raw, &v) == nil && v >= most
	}
}

func outside(lo, hi float64) func(json.RawMessage) bool {
	return func(raw json.RawMessage) bool {
		var v float64
		return json.Unmarshal(raw, &v) == nil && (v < lo || v > hi)
	}
}

// anyBut takes a list, or places with their values, that holds anything else for bad.
func anyBut(good ...string) func(json.RawMessage) bool {
	return func(raw json.RawMessage) bool {
		var list []string
		if json.Unmarshal(raw, &list) == nil {
			return slices.ContainsFunc(list, func(x string) bool { return !slices.Contains(good, x) })
		}
		var at map[string]string
		if json.Unmarshal(raw, &at) != nil {
			return false
		}
		for _, v := range at {
			if !slices.Contains(good, v) {
				return true
			}
		}
		return false
	}
}

func running(raw json.RawMessage) bool {
	var v struct {
		Engine string `json:"engine"`
	}
	return json.Unmarshal(raw, &v) == nil && v.Engine == "on"
}

func runs(json.RawMessage) bool { return true }

// Limits of what may be found on a vehicle that goes out. Common practice, no source, but for the free play (assumption).
const (
	VacuumLeastKPA    = 50.0 // at the hose, idling: 16 inHg and more is usual, less than 15 is none
	WaterMostPercent  = 3.0  // change now
	FreePlayLeastMM   = 0.1
	RodLeast, RodMost = -0.005, 0.505 // mm: a depth gauge's last place either side of 0 to 0.5
)

// Evidences are all findings there are, each once.
var Evidences = slices.Concat([]Evidence{
	// Held, pumped, pressed: every joint, chamber and wheel.
	{ID: "pedal.sink", Of: hydraulics, Judged: true, EngineRuns: running}, {ID: "pedal.pump", Of: hydraulics, Judged: true, LeastS: 5},
	{ID: "pedal.readings", Of: hydraulics, Judged: true, LeastS: 10}, {ID: "pedal.firm_travel", Of: hydraulics, Judged: true, LeastS: 3},
	{ID: "pedal.sinks", Of: hydraulics, Against: not("no")}, {ID: "pedal.to_floor", Of: hydraulics, Against: not("no")},
	{ID: "pedal.springy", Of: hydraulics, Against: not("no")}, {ID: "pedal.pumps_up", Of: hydraulics, Against: not("no")},
	{ID: "pedal.low", Of: hydraulics, Against: not("no")}, {ID: "pedal.soft_when_hot", Of: hydraulics, Against: not("no")},
	{ID: "ports_plugged.pedal", Of: hydraulics, Against: not("hard")}, {ID: "modulator.pedal_drops", Of: hydraulics, Against: not("no")},
	{ID: "pressure.at_port", Of: hydraulics, Against: anyBut("ok")}, {ID: "pressure.at_bleeder", Of: hydraulics, Against: anyBut("ok")}, {ID: "pressure.before_hose", Of: hydraulics, Against: anyBut("ok")},
	{ID: "clutch.releases", Of: hydraulics, Against: not("yes")}, {ID: "clutch.slips", Of: hydraulics, Against: not("no")},
	{ID: "pressure.gauge", Of: hydraulics}, {ID: "brakes.weak", Of: hydraulics, Against: not("no")},
	{ID: "bleeder.bubbles", Of: hydraulics, Against: not("no", "none")}, {ID: "hose.swells", Of: hydraulics, Against: not("no")}, {ID: "reservoir.spurts", Of: hydraulics, Against: is("no")},
	// Looked at.
	{ID: "check.dry_joints", Of: hydraulics, Judged: true, LeastS: 5}, {ID: "wet.at", Of: hydraulics, Against: anyBut("dry")}, {ID: "leak.seen", Of: hydraulics, Against: not("no", "none", "nowhere")},
	{ID: "check.hoses_firm", Of: hydraulics, Judged: true, LeastS: 10}, {ID: "check.bottle", Of: []Thing{Reservoir, Fluid}, Judged: true, LeastS: 3},
	{ID: "check.level", Of: hydraulics, Judged: true, LeastS: 1}, {ID: "level.falls", Of: hydraulics, Against: not("no")}, {ID: "fluid.level", Of: hydraulics, Against: is("low", "empty")},
	{ID: "fluid.water_percent", Of: []Thing{Reservoir, Fluid}, Against: atLeast(WaterMostPercent)}, {ID: "fluid.colour", Of: []Thing{Reservoir, Fluid}},
	{ID: "fluid.debris", Of: []Thing{Reservoir, Fluid}, Against: not("none")}, {ID: "rubber.swollen", Of: hydraulics, Against: not("no")},
	{ID: "paint.peeling_on_booster", Of: hydraulics}, {ID: "wet.fluid"}, {ID: "looked.at"}, {ID: "unit.is_right", Of: []Thing{Cylinder, Firewall, ActuatorBolts}, Against: not("yes")},
	// Assist.
	{ID: "assist.pedal_falls_on_start", Of: assist, Judged: true, LeastS: 5, EngineRuns: runs}, {ID: "assist.reserve_applies", Of: assist, Judged: true, LeastS: 5, EngineRuns: runs},
	{ID: "assist.loaded_hold", Of: assist, Against: not("yes"), EngineRuns: runs}, {ID: "check_valve.holds", Of: assist, Against: not("yes"), EngineRuns: runs},
	{ID: "vacuum.at_hose_kpa", Of: assist, Against: below(VacuumLeastKPA), EngineRuns: runs}, {ID: "vacuum.hose_pinched", Of: assist, Against: not("same"), EngineRuns: runs}, {ID: "sound.rush_of_air", Of: assist, Against: not("no")},
	{ID: "pedal.hard", Of: assist, Against: not("no")}, {ID: "steering.groan", Of: assist, Against: not("no")}, {ID: "steering.heavy", Of: assist, Against: not("no")},
	{ID: "steering.foam", Of: assist, Against: not("no")}, {ID: "steering.pump_pressure", Of: assist, Against: is("low", "none")},
	// Rod, drag.
	{ID: "check.free_play", Of: rodSide, Judged: true, LeastS: 2}, {ID: "check.wheels_free", Of: rodSide, Judged: true, LeastS: 10}, {ID: "check.wheels_hot", Of: rodSide, Judged: true, LeastS: 60},
	{ID: "pedal.free_play_mm", Of: rodSide, Against: below(FreePlayLeastMM)}, {ID: "rod.gap_mm", Of: rodSide, Against: outside(RodLeast, RodMost)}, {ID: "pedal.dead_first_travel", Of: rodSide, Against: not("no")},
	{ID: "brakes.drag", Of: rodSide, Against: not("no")}, {ID: "drag.released_by"}, {ID: "wheel.check", Of: rodSide, Against: anyBut("free")}, {ID: "wheel.heat", Of: rodSide, Against: anyBut("even")},
	// Lamps, codes.
	{ID: "check.brake_lamps", Of: join(electrics, []Thing{PedalEnd, SmallParts}), Judged: true, LeastS: 3}, {ID: "check.lamps_out", Of: electrics, Judged: true, LeastS: 3},
	{ID: "codes.present", Of: electrics, Against: anyBut()},
	// Trailer, clutch.
	{ID: "check.coupler_strokes", Of: join(hydraulics, []Thing{Shoe, ActuatorFree}), Judged: true, LeastS: 3}, {ID: "check.coupler_holds", Of: join(hydraulics, []Thing{Shoe, ActuatorFree}), Judged: true, LeastS: 3},
	{ID: "check.coupler_releases", Of: join(hydraulics, []Thing{Shoe, ActuatorFree}), Judged: true, LeastS: 3}, {ID: "check.breakaway", Of: join(electrics, []Thing{ActuatorBolts, Shoe}), Judged: true, LeastS: 3},
	{ID: "actuator.rod_moves", Of: []Thing{Shoe, ActuatorFree, ActuatorBolts}, Against: is("no")}, {ID: "actuator.holds", Of: join(hydraulics, []Thing{Shoe, ActuatorFree}), Against: is("no")},
	{ID: "check.clutch_releases", Everything: true, Judged: true, LeastS: 3},
	// Wheels, road, somebody else's eyes.
	{ID: "check.wheels_torqued", Of: []Thing{RoadWheels, Elsewhere}, Judged: true, LeastS: 20}, {ID: "check.walking_stops", Everything: true, Judged: true, LeastS: 20, EngineRuns: runs},
	{ID: "check.second_look", Everything: true, Judged: true, LeastS: 5}, {ID: "check.complaint_gone", Everything: true, Judged: true, LeastS: 5},
	// Told, and proving nothing of how the vehicle stands.
	{ID: "check.no_gauge"}, {ID: "pedal.baseline"}, {ID: "history.since"}, {ID: "history.bled"}, {ID: "teardown.bore"},
})

var evidenceByID = func() map[string]*Evidence {
	out := make(map[string]*Evidence, len(Evidences))
	for i := range Evidences {
		out[Evidences[i].ID] = &Evidences[i]
	}
	return out
}()

// EvidenceOf gives a finding's entry, nil for one the table does not know.
func EvidenceOf(id string) *Evidence { return evidenceByID[id] }
