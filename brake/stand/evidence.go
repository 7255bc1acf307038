package stand

import (
	"encoding/json"
	"slices"
)

// Evidence is one finding of the release check: what it speaks of, which value speaks against letting the vehicle go,
// and what taking it takes.
type Evidence struct {
	ID string
	// Of are the things it speaks of: while one of them changes it proves nothing any more. Everything is any act at
	// all.
	Of         []Thing
	Everything bool
	// Against says whether a value speaks against a release; nil where it is judged elsewhere or says nothing of it.
	Against func(json.RawMessage) bool
	// ByAir: its figure is a difference to the air around; its limit is said for sea level and goes with it.
	ByAir bool
	// Judged: the gate has a rule of its own for it.
	Judged bool
	// LeastS is the least time it takes, s, beside what its own value tells. Assumption.
	LeastS float64
	// EngineRuns: taking it takes a running engine, and so stores energy again.
	EngineRuns func(json.RawMessage) bool
	// AgeH is how long it holds on a vehicle that only stood, h; 0 is for good. Assumptions.
	AgeH float64
	// Cure is what can make right what it showed; nothing said is any work on what it speaks of.
	Cure *Cure
	// ReadBy are findings that read the same: good, they count as this one read again.
	ReadBy []string
	// Does is what taking it does to the vehicle.
	Does *Effect
	// Fact is something about the vehicle that no work takes away by the way: it counts whenever and wherever it was
	// told.
	Fact bool
}

// Cure is the work that can make right what a failed reading showed. Until some of it was done after the reading, and
// the vehicle then read well, it stays failed: a vehicle does not heal (how-it-computes, section 12).
type Cure struct {
	// Anew are things that came off and are back; Fast those that were made fast, set or done; Wet those that were made
	// fast where something was told wet before.
	Anew, Fast, Wet []Thing
	// Touched are those any act on which will do.
	Touched []Thing
	// Bled is volume through a wheel with clear looks; Exchanged the old fluid washed out of all of them.
	Bled, Exchanged bool
}

// Effect is what taking a reading does to the vehicle: which things it opens, and closes again; where air can get in.
// At says that its value names circuits or wheels: those alone.
type Effect struct {
	Opens []Thing
	Air   From
	At    bool
}

var (
	holdCure = &Cure{
		Anew: []Thing{Cylinder, ActuatorBolts, Firewall},
		Fast: []Thing{Elsewhere, Rod},
		Wet:  join(connections, []Thing{Modulator}),
	}
	airCure    = &Cure{Anew: []Thing{Cylinder, ActuatorBolts}, Fast: []Thing{Elsewhere, Rod}, Bled: true}
	wetCure    = &Cure{Anew: []Thing{Cylinder, Firewall}, Fast: join(connections, []Thing{ActuatorBolts, PressureLines, Elsewhere})}
	levelCure  = &Cure{Anew: []Thing{Cylinder}, Fast: join(connections, []Thing{Elsewhere}), Touched: []Thing{Reservoir}}
	assistCure = &Cure{Fast: []Thing{Firewall, VacuumHose, PressureLines, Face, Steering, Elsewhere}}
	dragCure   = &Cure{Anew: []Thing{Cylinder}, Fast: []Thing{Rod, PedalEnd, Coupler, Shoe, ActuatorFree, Firewall, Elsewhere, Reservoir}}
	fluidCure  = &Cure{Exchanged: true}
)

// Since is what was told or went through beside acts: whether something was told wet before a failed reading, and
// whether so much went through after it that bleeding, or an exchange, can have cured it.
type Since struct{ Wet, Bled, Exchanged bool }

// Cured says whether something was done between two moments that can make right what a finding showed.
func (a *Account) Cured(id string, from, to int64, s Since) bool {
	ev := EvidenceOf(id)
	if ev == nil {
		return true
	}
	between := func(c Change) bool { return c.Seq > from && c.Seq < to }
	if ev.Cure == nil {
		return between(a.Road) || ev.Everything && a.Last.Seq > from ||
			slices.ContainsFunc(ev.Of, func(t Thing) bool { return a.Epochs[t].Seq > from })
	}
	c := ev.Cure
	// A rod taken as it came was not touched: that cures nothing.
	fast := func(t Thing) bool {
		return a.backBetween(t, from, to, func(x *Act) bool { return x.Proof != ByNoWrongGap })
	}
	anew := func(t Thing) bool { return a.TakenSince(t, from) && fast(t) }
	made := slices.ContainsFunc(c.Anew, anew) || slices.ContainsFunc(c.Fast, fast) || s.Wet && slices.ContainsFunc(c.Wet, fast)
	made = made || slices.ContainsFunc(c.Touched, func(t Thing) bool { return a.Epochs[t].Seq > from })
	return made || c.Bled && s.Bled || c.Exchanged && s.Exchanged
}

// Ages of readings on a vehicle that only stood, h. Assumptions.
const (
	aDay   = 24.0
	aMonth = 30 * 24.0
)

// more is said of some findings beside their entry.
type more struct {
	ids    []string
	cure   *Cure
	readBy []string
	ageH   float64
	does   *Effect
	fact   bool
}

// mores: cures, what reads the same, ages, and what taking a reading does.
var mores = []more{
	{ids: []string{"pedal.sink"}, cure: holdCure, ageH: aDay},
	{ids: []string{"pedal.sinks", "pedal.to_floor"}, cure: holdCure, readBy: []string{"pedal.sink"}, ageH: aDay},
	{ids: []string{"modulator.pedal_drops"}, cure: airCure},
	{ids: []string{"pedal.pump", "pedal.readings", "pedal.firm_travel"}, cure: airCure, ageH: aDay},
	{
		ids:    []string{"pedal.springy", "pedal.pumps_up", "pedal.low", "pedal.soft_when_hot"},
		cure:   airCure,
		readBy: []string{"pedal.pump", "pedal.readings"},
		ageH:   aDay,
	},
	{ids: []string{"check.dry_joints"}, cure: wetCure, ageH: aDay},
	{ids: []string{"wet.at", "leak.seen"}, cure: wetCure, readBy: []string{"check.dry_joints"}},
	{ids: []string{"check.level"}, cure: levelCure, ageH: aDay},
	{ids: []string{"fluid.level", "level.falls"}, cure: levelCure, readBy: []string{"check.level"}},
	{
		ids: []string{
			"assist.pedal_falls_on_start",
			"assist.reserve_applies",
			"assist.loaded_hold",
			"check_valve.holds",
			"vacuum.at_hose_kpa",
			"vacuum.hose_pinched",
			"sound.rush_of_air",
			"pedal.hard",
		},
		cure: assistCure,
	},
	{ids: []string{"check.wheels_free", "check.wheels_hot", "check.free_play"}, cure: dragCure},
	{ids: []string{"brakes.drag", "wheel.check", "wheel.heat"}, cure: dragCure, readBy: []string{"check.wheels_free"}},
	{ids: []string{"pedal.free_play_mm"}, cure: dragCure, readBy: []string{"check.free_play"}},
	{ids: []string{"fluid.water_percent", "fluid.colour", "fluid.debris"}, cure: fluidCure, ageH: aMonth},
	{ids: []string{"rubber.swollen"}, cure: fluidCure},
	{ids: []string{"fluid.water_percent", "rubber.swollen"}, fact: true},
	{ids: []string{"codes.present"}, readBy: []string{"check.lamps_out"}},

	{ids: []string{"pressure.at_port", "pressure.gauge"}, does: &Effect{Opens: []Thing{Lines}, Air: FromCylinder, At: true}},
	{ids: []string{"ports_plugged.pedal"}, does: &Effect{Opens: []Thing{Lines}, Air: FromCylinder}},
	{ids: []string{"teardown.bore"}, does: &Effect{Opens: []Thing{Lines, Cylinder}, Air: FromCylinder}},
	{ids: []string{"pressure.at_bleeder", "bleeder.bubbles"}, does: &Effect{Opens: []Thing{Bleeders}, Air: FromBrake, At: true}},
	{ids: []string{"pressure.before_hose"}, does: &Effect{Opens: []Thing{Bleeders}, Air: FromBrake, At: true}},
	{ids: []string{"steering.pump_pressure"}, does: &Effect{Opens: []Thing{PressureLines}}},
}

func init() {
	for i := range mores {
		m := &mores[i]
		for _, id := range m.ids {
			ev := evidenceByID[id]
			if ev == nil {
				panic("stand: no finding " + id)
			}
			if m.cure != nil {
				ev.Cure = m.cure
			}
			if m.readBy != nil {
				ev.ReadBy = m.readBy
			}
			if m.ageH > 0 {
				ev.AgeH = m.ageH
			}
			if m.does != nil {
				ev.Does = m.does
			}
			ev.Fact = ev.Fact || m.fact
		}
	}
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

// Limits of what may be found on a vehicle that goes out. Common practice, no source, but for the free play
// (assumption).
const (
	VacuumLeastKPA    = 50.0 // at the hose, idling, at sea level: 16 inHg and more is usual, less than 15 is none
	WaterMostPercent  = 3.0  // change now
	FreePlayLeastMM   = 0.1
	RodLeast, RodMost = -0.005, 0.505 // mm: a depth gauge's last place either side of 0 to 0.5
)

// seaLevelKPA is the air around at sea level, absolute. ISO 2533, standard atmosphere; from memory.
const seaLevelKPA = 101.325

// VacuumLeastAt is the least vacuum at the hose, kPa, in this air (kPa, absolute): an engine leaves the same share of
// the air that is there, so that a difference to it falls with it (trade: about 1 kPa a hundred metres). Follows from
// the gas law.
func VacuumLeastAt(airKPA float64) float64 {
	if !(airKPA > 0) {
		return VacuumLeastKPA
	}
	return VacuumLeastKPA * airKPA / seaLevelKPA
}

// Speaks says whether a value of a finding speaks against a release in this air (kPa, absolute).
func (ev *Evidence) Speaks(raw json.RawMessage, airKPA float64) bool {
	if !ev.ByAir {
		return ev.Against(raw)
	}
	var v float64
	if !(airKPA > 0) || json.Unmarshal(raw, &v) != nil {
		return ev.Against(raw)
	}
	atSea, err := json.Marshal(v * seaLevelKPA / airKPA)
	return err != nil || ev.Against(atSea)
}

// Evidences are all findings there are, each once.
var Evidences = slices.Concat([]Evidence{
	// Held, pumped, pressed: every joint, chamber and wheel.
	{ID: "pedal.sink", Of: hydraulics, Judged: true, EngineRuns: running},
	{ID: "pedal.pump", Of: hydraulics, Judged: true, LeastS: 5},
	{ID: "pedal.readings", Of: hydraulics, Judged: true, LeastS: 10},
	{ID: "pedal.firm_travel", Of: hydraulics, Judged: true, LeastS: 3},
	{ID: "pedal.sinks", Of: hydraulics, Against: not("no")},
	{ID: "pedal.to_floor", Of: hydraulics, Against: not("no")},
	{ID: "pedal.springy", Of: hydraulics, Against: not("no")},
	{ID: "pedal.pumps_up", Of: hydraulics, Against: not("no")},
	{ID: "pedal.low", Of: hydraulics, Against: not("no")},
	{ID: "pedal.soft_when_hot", Of: hydraulics, Against: not("no")},
	{ID: "ports_plugged.pedal", Of: hydraulics, Against: not("hard")},
	{ID: "modulator.pedal_drops", Of: hydraulics, Against: not("no")},
	{ID: "pressure.at_port", Of: hydraulics, Against: anyBut("ok")},
	{ID: "pressure.at_bleeder", Of: hydraulics, Against: anyBut("ok")},
	{ID: "pressure.before_hose", Of: hydraulics, Against: anyBut("ok")},
	{ID: "clutch.releases", Of: hydraulics, Against: not("yes")},
	{ID: "clutch.slips", Of: hydraulics, Against: not("no")},
	{ID: "pressure.gauge", Of: hydraulics},
	{ID: "brakes.weak", Of: hydraulics, Against: not("no")},
	{ID: "bleeder.bubbles", Of: hydraulics, Against: not("no", "none")},
	{ID: "hose.swells", Of: hydraulics, Against: not("no")},
	{ID: "reservoir.spurts", Of: hydraulics, Against: is("no")},
	// Looked at.
	{ID: "check.dry_joints", Of: hydraulics, Judged: true, LeastS: 5},
	{ID: "wet.at", Of: hydraulics, Against: anyBut("dry")},
	{ID: "leak.seen", Of: hydraulics, Against: not("no", "none", "nowhere")},
	{ID: "check.hoses_firm", Of: hydraulics, Judged: true, LeastS: 10},
	{ID: "check.bottle", Of: []Thing{Reservoir, Fluid}, Judged: true, LeastS: 3},
	{ID: "check.level", Of: hydraulics, Judged: true, LeastS: 1},
	{ID: "level.falls", Of: hydraulics, Against: not("no")},
	{ID: "fluid.level", Of: hydraulics, Against: is("low", "empty")},
	{ID: "fluid.water_percent", Of: []Thing{Reservoir, Fluid}, Against: atLeast(WaterMostPercent)},
	{ID: "fluid.colour", Of: []Thing{Reservoir, Fluid}, Against: is("black")},
	{ID: "fluid.debris", Of: []Thing{Reservoir, Fluid}, Against: not("none")},
	{ID: "rubber.swollen", Of: hydraulics, Against: not("no")},
	{ID: "paint.peeling_on_booster", Of: hydraulics},
	{ID: "wet.fluid"},
	{ID: "looked.at"},
	{ID: "unit.is_right", Of: []Thing{Cylinder, Firewall, ActuatorBolts}, Against: not("yes")},
	// Assist.
	{ID: "assist.pedal_falls_on_start", Of: assist, Judged: true, LeastS: 5, EngineRuns: runs},
	{ID: "assist.reserve_applies", Of: assist, Judged: true, LeastS: 5, EngineRuns: runs},
	{ID: "assist.loaded_hold", Of: assist, Against: not("yes"), EngineRuns: runs},
	{ID: "check_valve.holds", Of: assist, Against: not("yes"), EngineRuns: runs},
	{
		ID:         "vacuum.at_hose_kpa",
		Of:         assist,
		Against:    below(VacuumLeastKPA),
		ByAir:      true,
		EngineRuns: runs,
	},
	{ID: "vacuum.hose_pinched", Of: assist, Against: not("same"), EngineRuns: runs},
	{ID: "sound.rush_of_air", Of: assist, Against: not("no")},
	{ID: "pedal.hard", Of: assist, Against: not("no")},
	{ID: "steering.groan", Of: assist, Against: not("no")},
	{ID: "steering.heavy", Of: assist, Against: not("no")},
	{ID: "steering.foam", Of: assist, Against: not("no")},
	{ID: "steering.pump_pressure", Of: assist, Against: is("low", "none")},
	// Rod, drag.
	{ID: "check.free_play", Of: rodSide, Judged: true, LeastS: 2},
	{ID: "check.wheels_free", Of: rodSide, Judged: true, LeastS: 10},
	{ID: "check.wheels_hot", Of: rodSide, Judged: true, LeastS: 60},
	{ID: "pedal.free_play_mm", Of: rodSide, Against: below(FreePlayLeastMM)},
	{ID: "pedal.returns", Of: rodSide, Against: is("no")},
	{ID: "pedal.side_play", Of: rodSide},
	{ID: "parking.slack"},
	{ID: "linings.seen", Of: rodSide, Against: is("oily")},
	{ID: "rod.gap_mm", Of: rodSide, Against: outside(RodLeast, RodMost)},
	{ID: "pedal.dead_first_travel", Of: rodSide, Against: not("no")},
	{ID: "brakes.drag", Of: rodSide, Against: not("no")},
	{ID: "drag.released_by"},
	{ID: "wheel.check", Of: rodSide, Against: anyBut("free")},
	{ID: "wheel.heat", Of: rodSide, Against: anyBut("even")},
	// Lamps, codes.
	{ID: "check.brake_lamps", Of: join(electrics, []Thing{PedalEnd, SmallParts}), Judged: true, LeastS: 3},
	{ID: "check.lamps_out", Of: electrics, Judged: true, LeastS: 3},
	{ID: "codes.present", Of: electrics, Against: anyBut()},
	// Trailer, clutch.
	{ID: "check.coupler_strokes", Of: join(hydraulics, []Thing{Shoe, ActuatorFree}), Judged: true, LeastS: 3},
	{ID: "check.coupler_holds", Of: join(hydraulics, []Thing{Shoe, ActuatorFree}), Judged: true, LeastS: 3},
	{ID: "check.coupler_releases", Of: join(hydraulics, []Thing{Shoe, ActuatorFree}), Judged: true, LeastS: 3},
	{ID: "check.breakaway", Of: join(electrics, []Thing{ActuatorBolts, Shoe}), Judged: true, LeastS: 3},
	{ID: "coupler.rod_alone", Of: []Thing{Cylinder, Shoe, ActuatorFree, ActuatorBolts}, Against: is("no")},
	{ID: "coupler.lockout", Of: []Thing{Shoe, ActuatorFree, ActuatorBolts}, Against: is("lockout_in")},
	{ID: "coupler.breakaway", Of: []Thing{Shoe, ActuatorFree, ActuatorBolts}, Against: is("lever_pulled")},
	{ID: "coupler.bangs", Of: []Thing{Shoe, ActuatorFree, ActuatorBolts}, Against: is("yes")},
	{ID: "coupler.travel", Of: join(hydraulics, []Thing{Shoe, ActuatorFree}), Against: is("far", "short")},
	{ID: "coupler.wheels_held", Of: join(hydraulics, []Thing{Shoe, ActuatorFree}), Against: is("some_turn", "none_held")},
	{ID: "actuator.rod_moves", Of: []Thing{Shoe, ActuatorFree, ActuatorBolts}, Against: is("no")},
	{ID: "actuator.holds", Of: join(hydraulics, []Thing{Shoe, ActuatorFree}), Against: is("no")},
	{ID: "check.clutch_releases", Everything: true, Judged: true, LeastS: 3},
	// Wheels, road, somebody else's eyes.
	{ID: "check.phone_off", Of: rodSide, Judged: true, LeastS: 1},
	{ID: "check.wheels_torqued", Of: []Thing{RoadWheels, Elsewhere}, Judged: true, LeastS: 20},
	{ID: "check.walking_stops", Everything: true, Judged: true, LeastS: 20, EngineRuns: runs},
	{ID: "check.second_look", Everything: true, Judged: true, LeastS: 5},
	{ID: "check.complaint_gone", Everything: true, Judged: true, LeastS: 5},
	// Told, and proving nothing of how the vehicle stands.
	{ID: "check.no_gauge"},
	{ID: "pedal.baseline"},
	{ID: "history.since"},
	{ID: "history.bled"},
	{ID: "teardown.bore"},
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
