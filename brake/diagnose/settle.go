package diagnose

import (
	"cmp"
	"math"
	"slices"
)

// A unit is bought on something a hand saw or measured at that unit, or that isolates it from the rest. What the owner
// tells orders the tests and settles nothing (common practice, no source).

// buys are the actions that buy a unit, with the parts of the vehicle they are for.
var buys = map[string][]string{
	"replace_master_cylinder": {"master_cylinder"},
	"change_bore":             {"master_cylinder"},
	"replace_booster":         {"booster"},
	"replace_both":            {"master_cylinder", "booster"},
}

// provedAt are the tests whose findings are seen or measured at a unit, or tell it from its neighbours. Common
// practice, no source.
var provedAt = map[string][]string{
	"master_cylinder": {
		"hold",
		"look",
		"wipe_and_press",
		"isolation.plug_ports",
		"port_pressure",
		"bleeder_pressure",
		"hose_pressure",
		"crack_line",
		"rod_gauge",
		"unit_check",
		"teardown",
		"gauge",
		"force_travel",
		"reservoir_watch",
		"booster_dip",
		"rod_alone",
		"wheels_held",
	},
	"booster": {
		"assist_start",
		"reserve",
		"loaded_hold",
		"vacuum_gauge",
		"hose_pinch",
		"check_valve",
		"booster_dip",
		"look",
		"wipe_and_press",
		"scan",
		"pump_pressure",
		"rod_gauge",
		"force_travel",
	},
}

const (
	quickMinutes = 2    // a test of so few that could change what is done comes before any remedy of longWork; common practice, no source
	longWork     = 30   // minutes
	turnsLeast   = 0.02 // chance of an answer that leaves out some of the work, below which nobody would walk round the vehicle again. Assumption
	unitChance   = 0.9  // below it a unit is bought after the most telling test only. Assumption, tried in the trial
	tellsLeast   = 0.02 // bits about what to do that such a test is to tell at least. Assumption
	tellsMinutes = 20   // a test that takes longer is no test before a unit comes off, it is the work. Assumption
	strayMM      = 3    // a sink above it, read once, is read again before a cylinder is bought: what 1 in 100 slips of a foot would show. Assumption
)

// unitsOf are the parts a remedy buys anew.
func unitsOf(acts []string) (out []string) {
	for _, a := range acts {
		for _, u := range buys[a] {
			if !slices.Contains(out, u) {
				out = append(out, u)
			}
		}
	}
	return out
}

// first is the test that comes before a remedy whatever it saves, "" where none does or none can be done here. why says
// which rule asks for it.
func (o *outlook) first(b *body, tests []NextTest, post []float64, costs *Costs) (id string, why Before) {
	bought := unitsOf(o.chosen.acts)
	minutes := 0.0
	for _, a := range o.chosen.acts {
		minutes += costs.Minutes[a]
	}
	for _, u := range bought {
		if b.proved(o.e, u, post, "") {
			if t := o.apart(b, tests, u, post); t != nil {
				return t.ID, BeforeUnit
			}
			continue
		}
		if t := most(tests, func(t *NextTest) float64 {
			if !slices.Contains(provedAt[u], t.ID) || t.Minutes > tellsMinutes {
				return 0
			}
			x := (t.Bits + faultShare*t.FaultBits) / t.Minutes
			if t.OpensHydraulics {
				x /= 10 // what opens nothing is tried first
			}
			return x
		}); t != nil {
			return t.ID, BeforeUnit
		}
	}
	if slices.Contains(bought, "master_cylinder") && b.sinkOnce(strayMM) {
		if t := most(tests, func(t *NextTest) float64 {
			if t.Again {
				return 1
			}
			return 0
		}); t != nil && b.carriedBySink(o, post) {
			return t.ID, BeforeAgain
		}
	}
	if minutes > longWork {
		if t := most(tests, func(t *NextTest) float64 {
			if t.Minutes > quickMinutes || t.OpensHydraulics || t.turns < turnsLeast {
				return 0
			}
			return t.turns
		}); t != nil {
			return t.ID, BeforeQuick
		}
	}
	if len(bought) > 0 && o.sure() < unitChance {
		if t := most(tests, func(t *NextTest) float64 {
			if t.Bits < tellsLeast || t.Minutes > tellsMinutes {
				return 0
			}
			return t.Bits
		}); t != nil {
			return t.ID, BeforeDoubt
		}
	}
	return "", ""
}

// alike are the parts whose faults a pedal tells as it tells a unit's: a modulator that leaks back lets it sink as a
// cup does. Common practice, no source: whoever doubts plugs the ports.
var alike = map[string]string{"master_cylinder": "modulator"}

// alikeLeast is how likely the fault of the like part is to be, beside the unit's, to be told apart before the unit is
// bought. Assumption: below it the test costs more than the units it saves.
const alikeLeast = 0.05

// tellsApart is how many times likelier a finding is to make the unit than the part that fails alike, to have told them
// apart. Assumption.
const tellsApart = 3

// apart is the test that tells a unit from the part that fails alike, nil where that part is out of question, is told
// apart, or no test would.
func (o *outlook) apart(b *body, tests []NextTest, unit string, post []float64) *NextTest {
	like := alike[unit]
	if like == "" {
		return nil
	}
	p, other := 0.0, 0.0
	for i := range post {
		switch {
		case o.e.inUnit(i, unit):
			p += post[i]
		case o.e.inUnit(i, like):
			other += post[i]
		}
	}
	if other < alikeLeast*p || b.proved(o.e, unit, post, like) {
		return nil
	}
	return most(tests, func(t *NextTest) float64 {
		if !slices.Contains(provedAt[unit], t.ID) || t.turns < turnsLeast || t.Minutes > tellsMinutes {
			return 0
		}
		return t.turns / t.Minutes
	})
}

// Before is why a test comes before the work, whatever it saves.
type Before string

// The reasons.
const (
	BeforeUnit  Before = "unit"  // nothing was seen or measured at the unit that would be bought
	BeforeAgain Before = "again" // one reading alone carries the decision
	BeforeQuick Before = "quick" // two minutes could change what is done
	BeforeDoubt Before = "doubt" // the unit is not yet likely enough
	BeforeHabit Before = "habit" // only what this shop is used to finding would spare it
	BeforeSaves Before = "saves" // it is expected to save more than it costs
)

// most is the test with the greatest of a figure above none, nil where none has any.
func most(tests []NextTest, figure func(*NextTest) float64) *NextTest {
	if len(tests) == 0 {
		return nil
	}
	best := slices.MaxFunc(seq(tests), func(a, b *NextTest) int { return cmp.Compare(figure(a), figure(b)) })
	if !(figure(best) > 0) {
		return nil
	}
	return best
}

func seq(tests []NextTest) []*NextTest {
	out := make([]*NextTest, len(tests))
	for i := range tests {
		out[i] = &tests[i]
	}
	return out
}

// proved says whether a sure finding of a test at the unit speaks for one of its faults: as things stand the unit is
// likelier faulty with it than without; beside a part, likelier than that part alone.
func (b *body) proved(e *engine, unit string, post []float64, beside string) bool {
	at, least := map[string]bool{}, 1.05
	if beside != "" {
		least = tellsApart
	}
	for _, id := range provedAt[unit] {
		if t := TestOf(id); t != nil {
			for _, y := range t.Yields {
				at[y] = true
			}
		}
	}
	for k := range b.ev {
		o := &b.ev[k].obs
		id := o.finding
		if o.sign != nil {
			id = o.sign.ID
		}
		if !o.sure || !at[id] || WhereOf(listOrSelf(id)) == WhereOwner || o.probe == nil && toldByFoot[id] {
			continue
		}
		var with, without, hadWith, hadWithout float64
		for i, p := range post {
			x := b.ev[k].like[i]
			if p < 1e-9 || x <= 0 {
				continue
			}
			if e.inUnit(i, unit) {
				with, hadWith = with+p, hadWith+p/x
			} else if beside == "" || e.inUnit(i, beside) {
				without, hadWithout = without+p, hadWithout+p/x
			}
		}
		if with > 0 && with*hadWithout > without*hadWith*least {
			return true
		}
	}
	return false
}

// toldByFoot are signs an owner tells as well as a test shows them: alone they buy nothing.
var toldByFoot = map[string]bool{"pedal.sinks": true, "pedal.springy": true, "level.falls": true, "pedal.hard": true}

// listOrSelf is the list a sign is an entry of, or the sign itself.
func listOrSelf(id string) string {
	if l := ListOf(id); l != "" {
		return l
	}
	return id
}

// inUnit says whether a hypothesis has a fault in a unit.
func (e *engine) inUnit(hyp int, unit string) bool {
	return slices.ContainsFunc(e.hyps[hyp], func(f int) bool { return In(e.faults[f].fault.ID, unit) })
}

// sinkOnce says whether the pedal's sink was measured once, and more than so many mm.
func (b *body) sinkOnce(mm float64) bool {
	n, most := 0, 0.0
	for _, o := range b.readings {
		if o.finding == "pedal.sink" {
			n, most = n+1, math.Max(most, o.number)
		}
	}
	return n == 1 && most > mm
}

// carriedBySink says whether without the measured sink another remedy would be chosen, or the cylinder would be worth
// less than unitChance.
func (b *body) carriedBySink(o *outlook, post []float64) bool {
	without := b.posterior("pedal.sink")
	p, before := 0.0, 0.0
	for i := range post {
		if o.e.inUnit(i, "master_cylinder") {
			p, before = p+post[i], before+without[i]
		}
	}
	return before < unitChance && p > before
}
