// Package verify judges the finished work: readings against the twin, and the gate a vehicle must
// pass before it is handed over.
package verify

import (
	"encoding/json"
	"math"

	"geminate/brake/diagnose"
	"geminate/brake/system"
	"geminate/brake/twin"
)

// Limits, common practice or assumption: a rule at the pad reads to a millimetre or so; the hold
// must be long enough to show a slow leak.
const (
	HoldLeastSeconds = 15.0
	HoldLeastN       = 100.0
	SinkLimitMM      = 2.0 // over a hold of up to a minute
	ReserveLeast     = 2.0 // assisted applications after the engine stops
	bandConstant     = 0.15
	bandCompliance   = 0.20
	ruleMM           = 2.0
	leastReadings    = 2
)

// State of one gate item.
type State string

const (
	OK      State = "ok"
	Missing State = "missing"
	Failed  State = "failed"
)

// Item is one line of the release gate.
type Item struct {
	ID    string         `json:"id"`
	State State          `json:"state"`
	Code  string         `json:"code"` // words key
	With  map[string]any `json:"with,omitempty"`
}

// Gate is the release verdict.
type Gate struct {
	Items    []Item `json:"items"`
	Missing  int    `json:"missing"`
	Failed   int    `json:"failed"`
	Passable bool   `json:"passable"`
}

// Expected is where the twin sees the pedal, engine off and assist exhausted.
type Expected struct {
	PedalForceN float64 `json:"pedal_force_n"`
	TravelMM    float64 `json:"travel_mm"`
	LowMM       float64 `json:"low_mm"`
	HighMM      float64 `json:"high_mm"`
}

// Band gives the travel to expect at a pedal force with the assist exhausted, and the band a sound
// vehicle of this pattern can lie in: 15 % on the part that does not hang on pressure and 20 % on
// the part that does, nine cases in ten (model page, section 9, no baseline), and the rule's 2 mm.
// ok is false where the foot is too light for every brake to have taken up, or a chamber has
// bottomed: such a reading says too little to be judged.
func Band(s *system.System, forceN float64) (e Expected, ok bool) {
	const firm, firmer = 350, 500 // N, where every brake has taken up and the curve is straight
	m := twin.New(s)
	mean := func(p twin.Point) (sum float64) {
		for _, x := range p.PressureMPA {
			sum += x / float64(len(p.PressureMPA))
		}
		return sum
	}
	at, a, b := m.Apply(forceN, false), m.Apply(firm, false), m.Apply(firmer, false)
	perMPA := 0.0
	if d := mean(b) - mean(a); d > 0 {
		perMPA = math.Max(0, (b.TravelMM-a.TravelMM)/d)
	}
	grow := math.Min(at.TravelMM, perMPA*mean(at))
	half := math.Hypot(1.645*math.Hypot(bandConstant*(at.TravelMM-grow), bandCompliance*grow), ruleMM)
	ok = !at.Floored && len(at.Bottomed) == 0
	for _, w := range s.Wheels {
		ok = ok && at.WheelMPA[w.ID] >= w.Brake.TakeUpMPA
	}
	return Expected{forceN, at.TravelMM, math.Max(0, at.TravelMM-half), at.TravelMM + half}, ok
}

// Input is everything the gate looks at.
type Input struct {
	System     *system.System // as finished: fitted, bled, tight
	Findings   map[string]diagnose.Finding
	PlanLeft   int      // steps not ticked
	OpenWheels []string // wheels not bled to the end; nil where nothing was opened
	Opened     bool     // the hydraulics were opened
	NoUnit     bool     // a cylinder is to be fitted but none has been chosen
}

// Judge runs the gate. Nothing is passed over in silence: what does not apply to a system is left
// out, everything else is ok, missing or failed.
func Judge(in Input) Gate {
	g := Gate{Items: []Item{}}
	add := func(id string, st State, code string, with map[string]any) {
		g.Items = append(g.Items, Item{id, st, code, with})
		switch st {
		case Missing:
			g.Missing++
		case Failed:
			g.Failed++
		}
	}
	if in.NoUnit {
		add("unit", Missing, "gate.unit.missing", nil)
	}
	if in.PlanLeft > 0 {
		add("plan", Missing, "gate.plan.left", map[string]any{"count": in.PlanLeft})
	} else {
		add("plan", OK, "gate.plan.ok", nil)
	}
	if in.Opened {
		if len(in.OpenWheels) > 0 {
			add("bleed", Missing, "gate.bleed.left", map[string]any{"wheels": in.OpenWheels})
		} else {
			add("bleed", OK, "gate.bleed.ok", nil)
		}
	}
	if in.System.Pedal != nil {
		add(in.hold())
		add(in.readings())
	}
	if k := in.System.BoosterKind(); k == system.BoosterVacuum || k == system.BoosterHydraulic {
		add(in.yesNo("assist.pedal_falls_on_start", "yes"))
		add(in.reserve())
	}
	checks := []string{"check.free_play", "check.wheels_free", "check.dry_joints", "check.brake_lamps", "check.lamps_out", "check.wheels_torqued", "check.walking_stops", "check.second_look"}
	for _, id := range checks {
		if in.System.IsTrailer() && (id == "check.lamps_out" || id == "check.free_play") {
			continue
		}
		add(in.yesNo(id, "yes"))
	}
	if in.Opened {
		add(in.yesNo("check.level", "yes"))
	}
	g.Passable = g.Missing == 0 && g.Failed == 0
	return g
}

// Checks lists the yes/no findings of this station, which belong to no fault table.
var Checks = []string{"check.free_play", "check.wheels_free", "check.dry_joints", "check.brake_lamps", "check.lamps_out", "check.wheels_torqued", "check.level", "check.walking_stops", "check.second_look"}

func (in *Input) yesNo(id, want string) (string, State, string, map[string]any) {
	f, ok := in.Findings[id]
	var v string
	if !ok || decode(f, &v) != nil {
		return id, Missing, "gate.missing", nil
	}
	if v == "alone" && id == "check.second_look" { // no one else there: told on the record, not hidden
		return id, OK, "gate.second_look.alone", nil
	}
	if v != want {
		return id, Failed, "gate.failed", nil
	}
	return id, OK, "gate.ok", nil
}

func (in *Input) hold() (string, State, string, map[string]any) {
	f, ok := in.Findings["pedal.sink"]
	var v diagnose.Sink
	if !ok || decode(f, &v) != nil {
		return "pedal.sink", Missing, "gate.missing", nil
	}
	with := map[string]any{"travel_mm": v.TravelMM, "seconds": v.Seconds, "pedal_force_n": v.PedalForceN, "limit_mm": SinkLimitMM}
	if v.Seconds < HoldLeastSeconds || v.PedalForceN < HoldLeastN {
		with["least_s"], with["least_n"] = HoldLeastSeconds, HoldLeastN
		return "pedal.sink", Missing, "gate.hold.too_short", with
	}
	if v.TravelMM > SinkLimitMM {
		if _, q, err := twin.New(in.System).LeakFromSink(v.TravelMM, v.Seconds); err == nil {
			with["leak_cm3_min"] = q
		}
		return "pedal.sink", Failed, "gate.hold.sinks", with
	}
	return "pedal.sink", OK, "gate.hold.ok", with
}

func (in *Input) readings() (string, State, string, map[string]any) {
	f, ok := in.Findings["pedal.readings"]
	var v []diagnose.Reading
	if !ok || decode(f, &v) != nil || len(v) == 0 {
		return "pedal.readings", Missing, "gate.missing", nil
	}
	usable := 0
	for _, r := range v {
		b, ok := Band(in.System, r.PedalForceN)
		if !ok {
			continue
		}
		usable++
		with := map[string]any{"pedal_force_n": r.PedalForceN, "travel_mm": r.TravelMM, "low_mm": b.LowMM, "high_mm": b.HighMM}
		if r.TravelMM > b.HighMM {
			return "pedal.readings", Failed, "gate.readings.long", with
		}
		if r.TravelMM < b.LowMM {
			return "pedal.readings", Failed, "gate.readings.short", with
		}
	}
	if usable < leastReadings {
		return "pedal.readings", Missing, "gate.readings.few", map[string]any{"count": usable, "least": leastReadings}
	}
	return "pedal.readings", OK, "gate.readings.ok", map[string]any{"count": usable}
}

func (in *Input) reserve() (string, State, string, map[string]any) {
	f, ok := in.Findings["assist.reserve_applies"]
	var n float64
	if !ok || decode(f, &n) != nil {
		return "assist.reserve_applies", Missing, "gate.missing", nil
	}
	with := map[string]any{"count": n, "least": ReserveLeast}
	if n < ReserveLeast {
		return "assist.reserve_applies", Failed, "gate.reserve.few", with
	}
	return "assist.reserve_applies", OK, "gate.reserve.ok", with
}
func decode(f diagnose.Finding, into any) error { return json.Unmarshal(f.Value, into) }
