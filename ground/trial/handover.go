package trial

import (
	"encoding/json"
	"maps"
	"slices"

	"geminate/brake/diagnose"
	"geminate/brake/twin"
	"geminate/brake/verify"
)

// Handover is one vehicle worked on until Verify lets it go: what was done is done, Verify is read from the repaired
// vehicle, and what it shows is worked on.
type Handover struct {
	// Released: Verify found nothing more. A vehicle that is not released in mostRounds is parked.
	Released bool
	// Right: released, and nothing is left that was there.
	Right bool
	// Unsafe: released with a fault left that can take the brakes away.
	Unsafe bool
	// Told: the diagnosis said that nothing it knows explains what is seen; it is handed on, not let go.
	Told       bool
	WrongUnits int
	Minutes    float64
	Rounds     int
	Left       []diagnose.Suspect
	Did        []string
}

const (
	mostRounds    = 4
	verifyMinutes = 20.0 // of the whole of Verify; assumption
	readAgain     = 3.0  // minutes to read one point a second time; assumption
)

// chooser lets a way of working decide what to do about a case; it returns what came of it.
type chooser func(v *Vehicle, c *diagnose.Case) (Outcome, error)

// ToHandover works a vehicle until it is let go.
func (v *Vehicle) ToHandover(costs diagnose.Costs, choose chooser) (Handover, error) {
	var h Handover
	c := v.newCase()
	for h.Rounds = 1; h.Rounds <= mostRounds; h.Rounds++ {
		o, err := choose(v, c)
		if err != nil {
			return h, err
		}
		a := o.Action
		if o.Beyond.Wins { // nothing is done by guess: somebody who knows it looks on
			h.Minutes += o.Minutes
			h.Told = true
			break
		}
		h.Minutes += o.Minutes + verifyMinutes
		for _, id := range a.Inner() {
			h.Minutes += costs.Minutes[id]
		}
		if wrong := diagnose.Judge(v.System, costs, v.Truth, a).WrongUnit; wrong {
			h.WrongUnits++
		}
		h.Did = append(h.Did, name(a))
		v.Truth = diagnose.Left(v.Truth, a)
		v.become()
		shown, passed, again := v.verify()
		h.Minutes += again
		if len(shown) == 0 {
			wider, took, err := v.wider(c, a, passed, costs)
			if err != nil {
				return h, err
			}
			h.Minutes += took
			shown = wider
		}
		if len(shown) == 0 {
			h.Released = true
			break
		}
		next := v.newCase()
		next.Findings = append(v.history(a), shown...)
		next.After = &diagnose.Work{Acts: a.Inner(), Before: c}
		c = next
	}
	h.Left = v.filled(v.Truth)
	h.Right = h.Released && len(h.Left) == 0 && v.Unnamed() == "" || h.Told && v.Unnamed() != ""
	h.Unsafe = h.Released && v.hurts(h.Left)
	return h, nil
}

// history is what is known of a vehicle that was just worked on.
func (v *Vehicle) history(a diagnose.ActionCost) []diagnose.Finding {
	since := []string{}
	for _, id := range a.Inner() {
		switch id {
		case "replace_master_cylinder", "change_bore":
			since = append(since, "cylinder_fitted", "hydraulics_opened")
		case "replace_booster":
			since = append(since, "booster_fitted")
		case "replace_both":
			since = append(since, "cylinder_fitted", "booster_fitted", "hydraulics_opened")
		case "bleed", "bleed_with_routine", "repair_line", "repair_modulator", "change_fluid", "change_fluid_and_rubber":
			since = append(since, "hydraulics_opened")
		}
	}
	slices.Sort(since)
	if since = slices.Compact(since); len(since) == 0 {
		return nil
	}
	return []diagnose.Finding{Told("history.since", since)}
}

// shownAt are the signs Verify and the drive before hand-over look at, and what passes. Besides, whatever was
// complained of must have gone.
var shownAt = map[string]string{
	"assist.pedal_falls_on_start": "yes",
	"assist.reserve_applies":      "enough",
	"pedal.free_play_mm":          "normal",
	"leak.seen":                   "none",
	"codes.present":               "none",
	"brakes.drag":                 "no",
	"brakes.weak":                 "no",
	"pedal.springy":               "no",
	"pedal.hard":                  "no",
	"hose.swells":                 "no",
	"actuator.rod_moves":          "yes",
	"actuator.holds":              "yes",
	"coupler.travel":              "normal",
	"coupler.bangs":               "no",
}

// verify reads the points of the release gate from the vehicle as it stands. What does not pass is read a second
// time, as the gate asks; what fails twice is shown. It returns the readings that failed, with those that go with
// them, and the minutes the second readings took.
func (v *Vehicle) verify() (shown, passed []diagnose.Finding, minutes float64) {
	fail := func(read func() (diagnose.Finding, bool)) {
		f, ok := read()
		if !ok {
			minutes += readAgain
			f, ok = read()
		}
		if ok {
			passed = append(passed, f)
		} else {
			shown = append(shown, f)
		}
	}
	if v.System.Pedal != nil {
		fail(v.readHold)
		if slices.Contains(v.Tools, "pedal_force_gauge") {
			fail(v.readCurve)
		}
	}
	passes := maps.Clone(shownAt)
	for _, f := range v.reports {
		if slices.Contains(complaints, f.ID) && f.ID != "level.falls" { // that takes days
			passes[f.ID] = diagnose.SignOf(f.ID).Values[0]
		}
	}
	for _, id := range slices.Sorted(maps.Keys(passes)) {
		if !v.applies(id) || !v.testable(id) {
			continue
		}
		fail(func() (diagnose.Finding, bool) {
			v.shows[id] = v.sample(id)
			return v.finding(id), v.shows[id] == passes[id]
		})
	}
	fail(func() (diagnose.Finding, bool) {
		f := v.finding("wheel.check")
		var m map[string]string
		_ = json.Unmarshal(f.Value, &m)
		for _, x := range m {
			if x != "free" {
				return f, false
			}
		}
		return f, true
	})
	return shown, passed, minutes
}

// wider does the looks that are worth their time on this vehicle once Verify has passed: what shows twice is shown.
func (v *Vehicle) wider(c *diagnose.Case, a diagnose.ActionCost, passed []diagnose.Finding,
	costs diagnose.Costs) (shown []diagnose.Finding, minutes float64, err error) {
	looks, err := diagnose.Wider(c, a.Inner(), nil, passed, &costs)
	if err != nil {
		return nil, 0, err
	}
	for _, l := range looks {
		minutes += l.Minutes
		for again := range 2 {
			if again > 0 {
				minutes += readAgain
			}
			seen := v.newCase()
			seen.Findings = nil
			for _, y := range diagnose.TestOf(l.Test).Yields {
				if diagnose.SignOf(y) != nil {
					v.shows[y] = v.sample(y)
				}
			}
			v.do(seen, diagnose.TestOf(l.Test))
			if shown = slices.DeleteFunc(seen.Findings,
				func(f diagnose.Finding) bool { return !diagnose.Shows(v.System, f) }); len(shown) == 0 {
				break
			}
		}
		if len(shown) > 0 {
			return shown, minutes, nil
		}
	}
	return nil, minutes, nil
}

// testable says whether some test of this system yields a sign at all.
func (v *Vehicle) testable(id string) bool {
	if id == "leak.seen" || slices.Contains(complaints, id) {
		return true
	}
	for i := range diagnose.Tests {
		if t := &diagnose.Tests[i]; slices.Contains(t.Yields, id) && (t.Applies == nil || t.Applies(v.System)) {
			return id != "codes.present" || slices.Contains(v.Tools, "scan_tool")
		}
	}
	return false
}

func (v *Vehicle) readHold() (diagnose.Finding, bool) {
	f := v.finding("pedal.sink")
	var s diagnose.Sink
	_ = json.Unmarshal(f.Value, &s)
	return f, s.TravelMM <= verify.HoldLimitMM(s.Seconds)
}

func (v *Vehicle) readCurve() (diagnose.Finding, bool) {
	f := v.finding("pedal.readings")
	var list []diagnose.Reading
	_ = json.Unmarshal(f.Value, &list)
	m := twin.New(v.System)
	for _, r := range list {
		if e := verify.BandOf(m, r.PedalForceN, false); r.TravelMM > e.HighMM || r.TravelMM < e.LowMM {
			return f, false
		}
	}
	return f, true
}

// engineChooses lets the engine choose tests and action.
func engineChooses(costs diagnose.Costs) chooser {
	return func(v *Vehicle, c *diagnose.Case) (Outcome, error) { return v.engineOn(c, costs) }
}

// thumbChooses works the common order by rules of thumb.
func thumbChooses(costs diagnose.Costs) chooser {
	return func(v *Vehicle, c *diagnose.Case) (Outcome, error) { return v.orderOn(c, costs, RulesOfThumb) }
}

// orderChooses works the whole common order and lets the engine judge what it showed.
func orderChooses(costs diagnose.Costs) chooser {
	return func(v *Vehicle, c *diagnose.Case) (Outcome, error) { return v.orderOn(c, costs, EngineAtTheEnd) }
}
