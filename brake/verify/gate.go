package verify

import (
	"slices"

	"geminate/brake/diagnose"
	"geminate/brake/pedal"
	"geminate/brake/stand"
	"geminate/brake/system"
	"geminate/brake/twin"
)

// Place is where an item of the gate is done.
type Place string

// Places in the order one gets to them: the work itself; in the seat with the engine off, on, and stopped again; at the
// wheels; lamps and codes; on the road; the second look.
const (
	AtWork    Place = "work"
	EngineOff Place = "engine_off"
	EngineOn  Place = "engine_on"
	Stopped   Place = "stopped"
	AtWheels  Place = "wheels"
	Lamps     Place = "lamps"
	OnRoad    Place = "road"
	Second    Place = "second"
)

// Places lists them.
var Places = []Place{AtWork, EngineOff, EngineOn, Stopped, AtWheels, Lamps, OnRoad, Second}

// placeOf says where each item is done; what is not in it is the work itself.
var placeOf = map[string]Place{
	Pump: EngineOff, "pedal.readings": EngineOff, FirmHeight: EngineOff, "check.free_play": EngineOff, "pedal.air": EngineOff, "check.clutch_releases": EngineOff,
	"assist.pedal_falls_on_start": EngineOn, "pedal.sink": EngineOn, "assist.reserve_applies": Stopped,
	"check.wheels_free": AtWheels, "check.wheels_hot": AtWheels, "check.dry_joints": AtWheels, "check.level": AtWheels, "check.wheels_torqued": AtWheels,
	"check.coupler_strokes": AtWheels, "check.coupler_holds": AtWheels, "check.coupler_releases": AtWheels, "check.breakaway": Lamps,
	"check.brake_lamps": Lamps, "check.lamps_out": Lamps, "check.walking_stops": OnRoad, secondLook: Second,
}

// rule is one line of the gate: whether it is asked of this vehicle, and how it stands.
type rule struct {
	asked func(*Input) bool
	judge func(*Input) (id string, st State, code string, with map[string]any)
}

func has(in *Input) bool { return in.System.Pedal != nil }

// brakes says whether the pedal works brakes: a clutch is not pumped and stops nothing.
func brakes(in *Input) bool { return has(in) && !in.System.IsClutch() }

func assisted(in *Input) bool {
	k := in.System.BoosterKind()
	return k == system.BoosterVacuum || k == system.BoosterHydraulic
}

// rules are the gate, in the order of the work.
var rules = []rule{
	{func(in *Input) bool { return in.Parked }, func(*Input) (string, State, string, map[string]any) { return "parked", Missing, "gate.parked", nil }},
	{func(in *Input) bool { return in.NoUnit }, func(*Input) (string, State, string, map[string]any) { return "unit", Missing, "gate.unit.missing", nil }},
	{always, (*Input).plan},
	{func(in *Input) bool { return len(in.Unfit) > 0 }, func(in *Input) (string, State, string, map[string]any) {
		return "fit", Failed, "gate.fit.does_not", map[string]any{"units": in.Unfit}
	}},
	{func(in *Input) bool { return in.Rod != nil }, (*Input).rod},
	{func(in *Input) bool { return len(in.NoTorque)+len(in.ByHand)+len(in.Torques) > 0 }, (*Input).torque},
	{func(in *Input) bool { return in.RanDry }, func(*Input) (string, State, string, map[string]any) { return "ran_dry", Failed, "gate.ran_dry", nil }},
	{func(in *Input) bool { return in.Opened }, (*Input).bleed},
	{func(in *Input) bool { return in.PutOff }, func(*Input) (string, State, string, map[string]any) { return "put_off", Missing, "gate.put_off", nil }},
	{func(in *Input) bool { return len(in.GoneWheels) > 0 }, func(in *Input) (string, State, string, map[string]any) {
		return "wheels_gone", Failed, "gate.wheels_gone", map[string]any{"wheels": in.GoneWheels}
	}},
	{func(in *Input) bool { return in.Opened && in.Bottle != "" }, func(in *Input) (string, State, string, map[string]any) {
		if in.Bottle == BottleUnknown {
			return "fluid", Missing, in.Bottle, nil
		}
		return "fluid", Failed, in.Bottle, nil
	}},
	{func(in *Input) bool { return in.Opened && in.LowLevel }, func(*Input) (string, State, string, map[string]any) {
		return "level", Missing, "gate.level.low", nil
	}},
	{func(in *Input) bool { return len(in.contradicts()) > 0 }, func(in *Input) (string, State, string, map[string]any) {
		return "contradicts", Failed, "gate.contradicts", map[string]any{"findings": in.contradicts()}
	}},
	{has, (*Input).hold},
	{func(in *Input) bool { return brakes(in) && !in.clear() }, (*Input).pump},
	{func(in *Input) bool { return has(in) && in.noGauge() }, (*Input).firm},
	{func(in *Input) bool { return has(in) && !in.noGauge() }, (*Input).readings},
	{func(in *Input) bool { return has(in) && !in.noGauge() && in.airStands() }, func(in *Input) (string, State, string, map[string]any) { return airItem(in.AirLeft) }},
	{assisted, func(in *Input) (string, State, string, map[string]any) {
		return in.yesNo("assist.pedal_falls_on_start", "yes")
	}},
	{assisted, (*Input).reserve},
	{func(in *Input) bool { return in.Time.HadS < in.Time.SpentS }, (*Input).time},
}

// BottleUnknown is a bottle of which nobody said how old or how wet it is.
const BottleUnknown = "gate.fluid.unknown"

func placeOrWork(id string) Place {
	if where := placeOf[id]; where != "" {
		return where
	}
	return AtWork
}

func always(*Input) bool { return true }

// Judge runs the gate. Nothing is passed over in silence: what does not apply to a system is left
// out, everything else is ok, missing or failed.
func Judge(in Input) Gate {
	g := Gate{Items: []Item{}}
	if in.Stand == nil {
		in.Stand = stand.New()
	}
	add := func(id string, st State, code string, with map[string]any) {
		g.Items = append(g.Items, Item{id, st, code, with, placeOrWork(id)})
	}
	for _, r := range rules {
		if r.asked(&in) {
			add(r.judge(&in))
		}
	}
	for _, id := range checksFor(in.System) {
		if id == "check.wheels_torqued" && in.AsSupplied {
			add(in.yesNo("check.wheels_hot", "yes"))
		}
		add(in.yesNo(id, "yes"))
	}
	if in.Opened {
		add(in.yesNo("check.level", "yes"))
	}
	in.doubted(&g)
	for _, i := range g.Items {
		switch i.State {
		case Missing:
			g.Missing++
		case Failed:
			g.Failed++
		}
	}
	g.Passable = g.Missing == 0 && g.Failed == 0
	return g
}

// ToDo are the items that stand open in the order one does them: the work, then from the seat outward.
func (g *Gate) ToDo() []Item {
	out := []Item{}
	for _, at := range Places {
		for _, i := range g.Items {
			if i.Where == at && i.State != OK {
				out = append(out, i)
			}
		}
	}
	return out
}

func (in *Input) plan() (string, State, string, map[string]any) {
	if in.PlanLeft > 0 {
		return "plan", Missing, "gate.plan.left", map[string]any{"count": in.PlanLeft}
	}
	return "plan", OK, "gate.plan.ok", nil
}

func (in *Input) torque() (string, State, string, map[string]any) {
	switch wrong := in.wrongTorques(); {
	case len(wrong) > 0:
		return "torque", Failed, "gate.torque.wrong", map[string]any{"steps": wrong}
	case len(in.NoTorque) > 0:
		return "torque", Missing, "gate.torque.missing", map[string]any{"steps": in.NoTorque}
	case len(in.ByHand) > 0:
		return "torque", OK, "gate.torque.by_hand", map[string]any{"steps": in.ByHand}
	}
	return "torque", OK, "gate.torque.ok", map[string]any{"count": len(in.Torques)}
}

func (in *Input) bleed() (string, State, string, map[string]any) {
	switch {
	case len(in.LeftWheels) > 0:
		return "bleed", Failed, "gate.bleed.undone", map[string]any{"wheels": in.LeftWheels}
	case len(in.OpenWheels) > 0:
		return "bleed", Missing, "gate.bleed.left", map[string]any{"wheels": in.OpenWheels}
	case len(in.BleedSteps) > 0:
		return "bleed", Missing, "gate.bleed.steps", map[string]any{"bleed_steps": in.BleedSteps}
	}
	return "bleed", OK, "gate.bleed.ok", nil
}

// airStands says whether the fit of the readings still speaks of this vehicle.
func (in *Input) airStands() bool {
	_, dead := in.killed("pedal.readings")
	return in.AirLeft != nil && !dead
}

// clear says whether force and travel against this vehicle's own known-good curve have shown no air: then there is
// nothing to pump up.
func (in *Input) clear() bool {
	return !in.noGauge() && in.airStands() && in.AirLeft.Verdict == pedal.Clear
}

// hold judges the held pedal: long enough, hard enough that a passing cup shows, and how far it went down. The leak that
// would just pass is told.
func (in *Input) hold() (string, State, string, map[string]any) {
	var v diagnose.Sink
	if code, with, ok := in.evidence("pedal.sink", &v); !ok {
		return "pedal.sink", Missing, code, with
	}
	limit := HoldLimitMM(v.Seconds)
	with := map[string]any{"travel_mm": v.TravelMM, "seconds": v.Seconds, "pedal_force_n": v.PedalForceN, "limit_mm": limit}
	m := twin.New(in.System)
	if _, q, err := m.LeakFromSink(limit, v.Seconds); err == nil {
		with["leak_limit_cm3_min"] = q
	}
	simulator := in.System.BoosterKind() == system.BoosterElectroHydraulic
	least := in.holdLeastN(m, v.Engine == "on")
	switch {
	case v.Seconds < HoldLeastSeconds || v.PedalForceN < HoldLeastN && !in.firmHold(v):
		with["least_s"], with["least_n"] = HoldLeastSeconds, HoldLeastN
		return "pedal.sink", Missing, "gate.hold.too_short", with
	case simulator && v.Engine == "on": // its simulator hides a sink
		return "pedal.sink", Missing, "gate.hold.simulator", with
	case v.PedalForceN < least && !in.firmHold(v):
		with["least_n"], with["least_mpa"] = least, HoldLeastMPA
		code := "gate.hold.light"
		if assisted(in) && v.Engine != "on" {
			code = "gate.hold.engine"
		}
		return "pedal.sink", Missing, code, with
	case v.TravelMM > limit:
		if _, q, err := m.LeakFromSink(v.TravelMM, v.Seconds); err == nil {
			with["leak_cm3_min"] = q
		}
		return "pedal.sink", Failed, "gate.hold.sinks", with
	case v.PedalForceN < HoldLeastN:
		return "pedal.sink", OK, "gate.hold.firm", with
	}
	return "pedal.sink", OK, "gate.hold.ok", with
}

// holdLeastN is the least foot that presses a passing cup hard enough, and no less than HoldLeastN. Where no foot gets
// there (a pedal held with its power off, a clutch) the least force is what there is.
func (in *Input) holdLeastN(m *twin.Model, engineOn bool) float64 {
	if in.System.IsClutch() || in.System.BoosterKind() == system.BoosterElectroHydraulic {
		return HoldLeastN
	}
	for f := HoldLeastN; f <= holdMostN; f += 10 {
		if m.Sweep(m.OutputForceN(m.RodForceN(f), engineOn)).MeanMPA >= HoldLeastMPA {
			return f
		}
	}
	if assisted(in) && !engineOn {
		return holdMostN + 10 // not without its assist
	}
	return HoldLeastN
}

// Ways back: where to go with what failed.

// Way is one item that failed and the shortest way back to work.
type Way struct {
	Item    string `json:"item"`
	Code    string `json:"code"` // words key
	Station string `json:"station"`
}

// Back names the way back for each item that failed (how trade has it, no source): soft after a proper bleed on a vehicle
// with a modulator is the modulator's routine; free play gone is the rod; low and pumping up is clearance, air where the
// pedal is soft as well.
func Back(in Input, g Gate) []Way {
	out := []Way{}
	failed := func(id string) *Item {
		i := slices.IndexFunc(g.Items, func(x Item) bool { return x.ID == id && x.State == Failed })
		if i < 0 {
			return nil
		}
		return &g.Items[i]
	}
	long := func(id string) bool { i := failed(id); return i != nil && i.Code == "gate.readings.long" }
	soft := failed("pedal.air") != nil || slices.Contains(in.contradicts(), "pedal.springy")
	low := long("pedal.readings") || long(FirmHeight)
	pumps := failed(Pump) != nil || slices.Contains(in.contradicts(), "pedal.pumps_up")
	switch {
	case soft && in.System.Modulator != nil:
		out = append(out, Way{"pedal.air", "back.modulator", "bleed"})
	case soft:
		out = append(out, Way{"pedal.air", "back.air", "bleed"})
	case pumps:
		out = append(out, Way{Pump, "back.clearance", "diagnose"})
	case low:
		out = append(out, Way{"pedal.readings", "back.low", "diagnose"})
	}
	for _, w := range []Way{{"check.free_play", "back.rod", "replace"}, {"check.wheels_free", "back.rod", "replace"}, {"check.wheels_hot", "back.rod", "replace"}, {"rod", "back.rod", "replace"},
		{"pedal.sink", "back.sinks", "diagnose"}, {"check.dry_joints", "back.joints", "replace"}, {"torque", "back.torque", "replace"}, {"bleed", "back.bleed", "bleed"}, {"ran_dry", "back.bleed", "bleed"},
		{"fluid", "back.fluid", "match"}, {"fit", "back.fit", "match"}, {"assist.pedal_falls_on_start", "back.assist", "diagnose"}, {"assist.reserve_applies", "back.assist", "diagnose"},
		{"check.lamps_out", "back.codes", "diagnose"}, {"check.walking_stops", "back.diagnose", "diagnose"}} {
		if failed(w.Item) != nil {
			out = append(out, w)
		}
	}
	return out
}
