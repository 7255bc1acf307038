package diagnose

import (
	"slices"
	"strings"
)

// Fact is something measured that a sound vehicle does not show. It stands by itself: whatever else explains the
// complaint, it is named until what may have caused it is put right.
type Fact struct {
	Finding string `json:"finding"`
	Value   string `json:"value"`
	At      string `json:"at,omitempty"`
	// Act is the action that would put it right, at the likeliest cause it may have; "" where none is known.
	Act string `json:"act,omitempty"`
}

// facts are the findings that are measured or seen, not felt or told, by sign; "wet.at:" stands for every wet place.
var facts = []string{
	"fluid.water_percent",
	"vacuum.at_hose_kpa",
	"check_valve.holds",
	"rod.gap_mm",
	"wheel.check",
	"pressure.at_port",
	"leak.seen",
	"parking.slack",
	"pedal.returns",
	"linings.seen",
	"wet.at:",
}

// itself are findings that measure a fault directly, by finding and value: they are put right by what cures that fault,
// and by nothing else, however likely another cause makes the complaint.
var itself = map[[2]string]string{
	{"fluid.water_percent", "now"}:    "fluid.wet",
	{"fluid.water_percent", "danger"}: "fluid.wet",
	{"check_valve.holds", "no"}:       "vacuum.check_valve_leak",
	{"rod.gap_mm", "preload"}:         "rod.too_long",
	{"rod.gap_mm", "large"}:           "rod.too_short",
	{"parking.slack", "frees"}:        "wheel.parking_brake",
	{"pedal.returns", "no"}:           "pedal.held_down",
}

// rare is how seldom a sound vehicle shows a value for it to be a fact; shows how likely a fault must make it to be its
// cause; accounted how probable it must be that what the remedy cures is there and causes it. Assumptions.
const (
	rare      = 0.15
	shows     = 0.35
	accounted = 0.5
)

// fact names what an observation states as a fact; ok is false for what it does not.
func (o *observation) fact() (f Fact, ok bool) {
	if !o.sure {
		return f, false
	}
	id, values, base := o.finding, []string(nil), []float64(nil)
	switch {
	case o.placed != nil:
		id, values, base = o.placed.ID, o.placed.Values, o.placed.Base
	case o.sign != nil:
		id, values, base = o.sign.ID, o.sign.Values, o.sign.Base
	default:
		return f, false
	}
	known := slices.ContainsFunc(facts, func(k string) bool { return id == k || strings.HasSuffix(k, ":") && strings.HasPrefix(id, k) })
	i := slices.Index(values, o.value)
	if !known || i <= 0 || base[i] > rare {
		return f, false
	}
	finding, place, _ := strings.Cut(id, ":")
	if place != "" {
		return Fact{Finding: finding, Value: place, At: o.at}, true
	}
	return Fact{Finding: finding, Value: o.value, At: o.at}, true
}

// causes says whether a fault at its place makes an observation likely.
func (e *engine) causes(o *observation, f placedFault) bool {
	values, given := []string(nil), map[string]Given(nil)
	if o.placed != nil {
		values, given = o.placed.Values, o.placed.Given
		if !reaches(e.sys, f, o.at) {
			return false
		}
	} else {
		values, given = o.sign.Values, o.sign.Given
	}
	g, ok := given[f.fault.ID]
	return ok && g.P[slices.Index(values, o.value)] >= shows
}

// Unexplained are the facts of a case that actions would not put right: it is less likely than not that what they cure,
// at the places they are done at (nil: wherever), is there and causes them.
func Unexplained(c *Case, acts, at []string) ([]Fact, error) {
	e := engineFor(c.System, c.Experience)
	b, err := e.weigh(c)
	if err != nil {
		return nil, err
	}
	return b.unexplained(b.posterior(""), acts, at), nil
}

func (b *body) unexplained(post []float64, acts, at []string) []Fact {
	out := []Fact{}
	e := b.e
	cured := make([]bool, len(e.faults))
	for i, f := range e.faults {
		here := len(at) == 0 || f.at == "" || slices.Contains(at, f.at)
		cured[i] = here && slices.ContainsFunc(acts, func(a string) bool { return cures(a, f.fault.ID) })
	}
	for k := range b.asSure {
		o := &b.asSure[k].obs
		f, ok := o.fact()
		if !ok || !b.sure[k] {
			continue
		}
		if fault, direct := itself[[2]string{f.Finding, f.Value}]; direct {
			if !slices.ContainsFunc(acts, func(a string) bool { return cures(a, fault) }) {
				f.Act = leastAct(e, fault)
				out = append(out, f)
			}
			continue
		}
		p := 0.0
		for h, hyp := range e.hyps {
			if slices.ContainsFunc(hyp, func(i int) bool { return cured[i] && e.causes(o, e.faults[i]) }) {
				p += post[h]
			}
		}
		if p < accounted {
			f.Act = e.actFor(o, post)
			out = append(out, f)
		}
	}
	return out
}

// actFor is what puts the likeliest cause of an observation right.
func (e *engine) actFor(o *observation, post []float64) string {
	marginals := e.marginals(post)
	at, top := -1, 0.0
	for i, f := range e.faults {
		if marginals[i] > top && e.causes(o, f) {
			at, top = i, marginals[i]
		}
	}
	if at < 0 {
		return ""
	}
	return leastAct(e, e.faults[at].fault.ID)
}

// leastAct is the action of the fewest minutes that cures a fault on this system; "" where that is another unit: none
// is changed for one thing that was seen, a test comes first.
func leastAct(e *engine, fault string) string {
	var best *action
	for i := range actionTable {
		if a := &actionTable[i]; cures(a.id, fault) && (a.applies == nil || a.applies(e.sys)) && (best == nil || a.minutes < best.minutes) {
			best = a
		}
	}
	if best == nil || exchanges(best.id) {
		return ""
	}
	return best.id
}

// exchanges says whether an action puts another unit in.
func exchanges(act string) bool { return strings.HasPrefix(act, "replace_") || act == "change_bore" }

// isItself says whether a sign measures a fault directly.
func (s *Sign) isItself() bool {
	for k := range itself {
		if k[0] == s.ID {
			return true
		}
	}
	return false
}
