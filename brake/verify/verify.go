// Package verify judges the finished work: readings against the twin, and the gate a vehicle must
// pass before it is handed over.
package verify

import (
	"encoding/json"
	"math"

	"geminate/brake/diagnose"
	"geminate/brake/pedal"
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
// vehicle of this pattern can lie in. ok is false where the foot is too light for every brake to have
// taken up, or a chamber has bottomed: such a reading says too little to be judged.
func Band(s *system.System, forceN float64) (e Expected, ok bool) {
	m := twin.New(s)
	e = BandOf(m, forceN, false)
	d := m.Sweep(m.OutputForceN(m.RodForceN(forceN), false))
	return e, !d.Bottomed && e.TravelMM < m.FloorMM() && d.MeanMPA >= m.TakeUpMPA()
}

// BandOf is the band alone, with or without assist: 15 % on the part that does not hang on pressure and
// 20 % on the part that does, nine cases in ten (model page, section 9, no baseline), and the rule's 2 mm.
func BandOf(m *twin.Model, forceN float64, assist bool) Expected {
	travel := m.Travel(forceN, assist)
	d := m.Sweep(m.OutputForceN(m.RodForceN(forceN), assist))
	grow := math.Min(travel, math.Max(0, d.ElasticMM3/m.AreaMM2()*m.PedalRatio()))
	half := math.Hypot(1.645*math.Hypot(bandConstant*(travel-grow), bandCompliance*grow), ruleMM)
	return Expected{forceN, travel, math.Max(0, travel-half), travel + half}
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
		if r := in.Air(); r != nil {
			add(airItem(r))
		}
	}
	if k := in.System.BoosterKind(); k == system.BoosterVacuum || k == system.BoosterHydraulic {
		add(in.yesNo("assist.pedal_falls_on_start", "yes"))
		add(in.reserve())
	}
	for _, id := range checksFor(in.System) {
		add(in.yesNo(id, "yes"))
	}
	if in.Opened {
		add(in.yesNo("check.level", "yes"))
	}
	g.Passable = g.Missing == 0 && g.Failed == 0
	return g
}

// Baseline is the finding that the system's figures were set from a known-good curve of this very
// vehicle: the pedal fit then tells finer.
const Baseline = "pedal.baseline"

// Checks lists the yes/no findings of this station, which belong to no fault table.
var Checks = []string{"check.free_play", "check.wheels_free", "check.dry_joints", "check.brake_lamps", "check.lamps_out", "check.wheels_torqued", "check.clutch_releases",
	"check.level", "check.walking_stops", "check.second_look", Baseline}

// checksFor lists the checks a system is held to; the level is asked for where hydraulics were opened.
func checksFor(s *system.System) []string {
	switch {
	case s.IsClutch():
		return []string{"check.free_play", "check.dry_joints", "check.clutch_releases", "check.second_look"}
	case s.IsTrailer():
		return []string{"check.wheels_free", "check.dry_joints", "check.brake_lamps", "check.wheels_torqued", "check.walking_stops", "check.second_look"}
	}
	return []string{"check.free_play", "check.wheels_free", "check.dry_joints", "check.brake_lamps", "check.lamps_out", "check.wheels_torqued", "check.walking_stops", "check.second_look"}
}

// Air is what the readings say of the air left (model page, section 9), nil while none can be used.
func (in *Input) Air() *pedal.Result {
	f, ok := in.Findings["pedal.readings"]
	var v []diagnose.Reading
	if !ok || in.System.Pedal == nil || decode(f, &v) != nil || len(v) == 0 {
		return nil
	}
	_, state, _, _ := in.yesNo(Baseline, "yes")
	r, err := pedal.Estimate(in.System, pedal.Readings{Readings: v, Baseline: state == OK})
	if err != nil || (r.Used == 0 && r.AtLeastCM3 == nil) {
		return nil
	}
	return &r
}

func airItem(r *pedal.Result) (string, State, string, map[string]any) {
	with := map[string]any{}
	if r.AirCM3 != nil {
		with["air_cm3"], with["low_cm3"], with["high_cm3"], with["cost_mm"] = *r.AirCM3, r.IntervalCM3[0], r.IntervalCM3[1], *r.PedalCostMM
	}
	switch {
	case r.Verdict == pedal.Air && r.AirCM3 == nil:
		with["at_least_cm3"] = *r.AtLeastCM3
		return "pedal.air", Failed, "gate.air.at_least", with
	case r.Verdict == pedal.Air:
		return "pedal.air", Failed, "gate.air.air", with
	case r.Verdict == pedal.Clear:
		return "pedal.air", OK, "gate.air.clear", with
	case r.AirCM3 == nil:
		return "pedal.air", Missing, "gate.missing", nil
	}
	// What the band lets pass and no reading without a baseline can find: told, not held against the work.
	return "pedal.air", OK, "gate.air.cannot_tell", with
}

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
