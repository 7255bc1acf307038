package verify

import (
	"slices"

	"geminate/brake/diagnose"
	"geminate/brake/pedal"
	"geminate/brake/stand"
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

// BottleUnknown is a bottle of which nobody said how old or how wet it is.
const BottleUnknown = "gate.fluid.unknown"

// Judge runs the gate. Nothing is passed over in silence: what does not apply to a system is left
// out, everything else is ok, missing or failed.
func Judge(in Input) Gate {
	g := Gate{Items: []Item{}}
	if in.Stand == nil {
		in.Stand = stand.New()
	}
	for i := range table {
		r := &table[i]
		if r.Asked(&in) {
			st, code, with := r.judge(&in)
			g.Items = append(g.Items, Item{r.ID, st, code, with, r.Where, r.Station})
		}
	}
	in.inOrder(&g)
	in.doubted(&g)
	for i := range g.Items {
		// What it read may be right; whether that is enough is somebody's to say.
		if w, worn := in.OutOfDate[g.Items[i].ID]; worn && g.Items[i].State == OK {
			g.Items[i].State, g.Items[i].Code, g.Items[i].With = Missing, "gate.out_of_date", map[string]any{"name": w.Name, "day": w.Until}
		}
	}
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

func (in *Input) plan() (State, string, map[string]any) {
	if in.PlanLeft > 0 {
		return Missing, "gate.plan.left", map[string]any{"count": in.PlanLeft}
	}
	return OK, "gate.plan.ok", nil
}

func (in *Input) torque() (State, string, map[string]any) {
	switch wrong := in.wrongTorques(); {
	case len(wrong) > 0:
		return Failed, "gate.torque.wrong", map[string]any{"steps": wrong}
	case len(in.NoTorque) > 0:
		return Missing, "gate.torque.missing", map[string]any{"steps": in.NoTorque}
	case len(in.ByHand) > 0:
		return OK, "gate.torque.by_hand", map[string]any{"steps": in.ByHand}
	}
	return OK, "gate.torque.ok", map[string]any{"count": len(in.Torques)}
}

func (in *Input) bleed() (State, string, map[string]any) {
	switch {
	case len(in.LeftWheels) > 0:
		return Failed, "gate.bleed.undone", map[string]any{"wheels": in.LeftWheels}
	case len(in.OpenWheels) > 0:
		return Missing, "gate.bleed.left", map[string]any{"wheels": in.OpenWheels}
	case len(in.BleedSteps) > 0:
		return Missing, "gate.bleed.steps", map[string]any{"bleed_steps": in.BleedSteps}
	}
	return OK, "gate.bleed.ok", nil
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

// hold judges the held pedal: long enough, hard enough that a passing cup shows, and how far it went down. The leak
// that would just pass is told.
func (in *Input) hold() (State, string, map[string]any) {
	var v diagnose.Sink
	if code, with, ok := in.evidence("pedal.sink", &v); !ok {
		return Missing, code, with
	}
	limit := HoldLimitMM(v.Seconds)
	with := map[string]any{"travel_mm": v.TravelMM, "seconds": v.Seconds, "pedal_force_n": v.PedalForceN, "limit_mm": limit}
	m := twin.New(in.System)
	if _, q, err := m.LeakFromSink(limit, v.Seconds); err == nil {
		with["leak_limit_cm3_min"] = q
	}
	simulator := in.System.Assist().Simulator
	least := in.holdLeastN(m, v.Engine == "on")
	switch {
	case v.TravelMM > HoldLimitMM(max(v.Seconds, HoldLeastSeconds)): // lightly, shortly or without its engine: it sinks
		if _, q, err := m.LeakFromSink(v.TravelMM, v.Seconds); err == nil {
			with["leak_cm3_min"] = q
		}
		return Failed, "gate.hold.sinks", with
	case v.Seconds < HoldLeastSeconds || v.PedalForceN < HoldLeastN && !in.firmHold(v):
		with["least_s"], with["least_n"] = HoldLeastSeconds, HoldLeastN
		return Missing, "gate.hold.too_short", with
	case simulator && v.Engine == "on": // its simulator hides a sink
		return Missing, "gate.hold.simulator", with
	case v.PedalForceN < least && !in.firmHold(v):
		with["least_n"], with["least_mpa"] = least, HoldLeastMPA
		code := "gate.hold.light"
		if assisted(in) && v.Engine != "on" {
			code = "gate.hold.engine"
		}
		return Missing, code, with
	case v.PedalForceN < HoldLeastN:
		return OK, "gate.hold.firm", with
	}
	return OK, "gate.hold.ok", with
}

// holdLeastN is the least foot that presses a passing cup hard enough, and no less than HoldLeastN. Where no foot gets
// there (a pedal held with its power off, a clutch) the least force is what there is.
func (in *Input) holdLeastN(m *twin.Model, engineOn bool) float64 {
	if in.System.IsClutch() || in.System.Assist().Simulator {
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

// Back names the way back for each item that failed (how trade has it, no source): soft after a proper bleed on a
// vehicle with a modulator is the modulator's routine; free play gone is the rod; low and pumping up is clearance, air
// where the pedal is soft as well.
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
	for _, r := range table {
		if r.Back != (WayBack{}) && failed(r.ID) != nil {
			out = append(out, Way{r.ID, r.Back.Code, r.Back.Station})
		}
	}
	return out
}
