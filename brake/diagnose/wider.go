package diagnose

import (
	"slices"

	"geminate/brake/system"
)

// Look is a test worth its time on a vehicle whose work is done, before it is let go: for what may still be on it.
type Look struct {
	Test    string  `json:"test"`
	Minutes float64 `json:"minutes"`
	// Asks are the findings it is told by.
	Asks []string `json:"asks"`
	// For are the faults it is done for, the most telling first, each with the chance that it is still there.
	For []LookFor `json:"for"`
	// Saves is what it is expected to save, its own time paid, in the shop's currency.
	Saves float64 `json:"saves"`
	// Unsafe says that one of them can take the brakes away.
	Unsafe bool `json:"unsafe"`
}

// LookFor is a fault that may still be there, and how likely.
type LookFor struct {
	Suspect
	Probability float64 `json:"probability"`
}

const (
	// overlooked is the chance that a vehicle about to be let go has a fault on it that the diagnosis, by a table that
	// is not the world, has no idea of. Assumption; the trial says what comes of it.
	overlooked = 0.15
	// afterGate is how many times dearer a fault that can take the brakes away is once nobody looks again: a shop's
	// price for one is of one found at the gate. Assumption.
	afterGate = 6
	// lookMost is how many looks are asked for: a list that does not end is not worked through. Assumption.
	lookMost = 5
	// lookForMost are named with each.
	lookForMost = 2
)

// Wider are the looks worth their time before a vehicle is let go, in the order they are best done: the acts done on it
// are taken as done well, what the diagnosis found is carried on, and what Verify has read since is counted in. Each
// look is reckoned as if those before it had found nothing. The value of information is that of the diagnosis, its own
// best action being to let the vehicle go (how-it-computes, section 10).
//
// own are the tests that the gate asks for anyway: they are reckoned with, and are none of the looks.
func Wider(c *Case, acts, at []string, now []Finding, costs *Costs, own ...string) ([]Look, error) {
	e := engineFor(c.System, c.Experience)
	b, err := e.weigh(c)
	if err != nil {
		return nil, err
	}
	after := *c
	after.Findings = now
	read, err := e.weigh(&after)
	if err != nil {
		return nil, err
	}
	// What is believed says how likely a fault is; what is looked for leaves room for a table that is not the world.
	believed := e.leftAfter(b.posterior(""), acts, at)
	w := e.doubt(slices.Clone(believed), overlooked)
	for _, l := range read.likes() {
		for i := range w {
			w[i] *= l[i]
			believed[i] *= l[i]
		}
	}
	known := read.known
	for id, v := range b.known { // what was looked at before tells the same again, unless it was what was put right
		if _, ok := known[id]; !ok && b.calm(id) {
			known[id] = v
		}
	}
	last := *costs
	last.Unsafe *= afterGate
	costs = &last
	p := e.price(costs)
	out := e.dip(&after, acts, known, b.posterior(""))
	for range out {
		known["wet.at:inside_booster"] = "no"
	}
	for n := 0; len(out) < lookMost && n < lookMost+len(own); n++ {
		if !normalise(w) || !normalise(believed) {
			break
		}
		o := e.outlook(w, p, e.read(nil))
		l, telling := o.bestLook(&after, costs, known, believed)
		if l == nil {
			break
		}
		if !slices.Contains(own, l.Test) {
			out = append(out, *l)
		}
		for x := range telling { // it finds nothing: then what is next
			value, like := o.calmOf(&telling[x])
			known[telling[x].finding] = value
			for i := range w {
				w[i] *= like[i]
				believed[i] *= like[i]
			}
		}
		for _, id := range TestOf(l.Test).Yields {
			if _, ok := known[id]; !ok {
				known[id] = ""
			}
		}
	}
	return out, nil
}

// dipFrom is the chance of a rear seal that leaked from which the booster is dipped into once the cylinder was changed:
// what ran into it stays and eats the diaphragm, and no other test of the gate shows it. Assumption.
const dipFrom = 0.1

// dip asks for a look into the booster where a cylinder was changed on one and its rear seal may have leaked.
func (e *engine) dip(c *Case, acts []string, known map[string]string, before []float64) []Look {
	t := TestOf("booster_dip")
	cylinder := slices.Contains(acts, "replace_master_cylinder") || slices.Contains(acts, "change_bore")
	_, looked := known["wet.at:inside_booster"]
	if !cylinder || looked || slices.Contains(acts, "replace_both") || slices.Contains(acts, "replace_booster") || !e.allowed(t, c) {
		return []Look{}
	}
	p := 0.0
	for i, h := range e.hyps {
		if slices.ContainsFunc(h, func(f int) bool {
			return e.faults[f].fault.ID == "mc.rear_seal_leak" || e.faults[f].fault.ID == "vacuum.fluid_inside"
		}) {
			p += before[i]
		}
	}
	if p <= dipFrom {
		return []Look{}
	}
	return []Look{{Test: t.ID, Minutes: t.Minutes, Asks: t.asks(), For: []LookFor{{Suspect{ID: "vacuum.fluid_inside"}, p}}, Unsafe: false}}
}

// Shows says whether a finding is more than what a sound vehicle now and then shows: of one value or place, no more
// often than a fact may be (rare). A reading of the twin is judged by its own band, and never here.
func Shows(s *system.System, f Finding) bool {
	all, err := observeAll(s, []Finding{f})
	if err != nil {
		return false
	}
	for i := range all {
		o := &all[i]
		var values []string
		var base []float64
		switch {
		case o.placed != nil:
			values, base = o.placed.Values, o.placed.Base
		case o.sign != nil:
			values, base = o.sign.Values, o.sign.Base
		default:
			continue
		}
		if v := slices.Index(values, o.value); v >= 0 && base[v] <= rare && base[v] < slices.Max(base) {
			return true
		}
	}
	return false
}

// likes are the likelihoods of all that was observed, the readings together.
func (b *body) likes() (out [][]float64) {
	for k := range b.ev {
		if b.ev[k].obs.probe == nil {
			out = append(out, b.ev[k].like)
		}
	}
	if len(b.readings) > 0 {
		out = append(out, b.readingsTogether(b.readings))
	}
	return out
}

// calm says whether a finding of this case was what a sound vehicle shows most, or was never read as a sign.
func (b *body) calm(id string) bool {
	for k := range b.ev {
		o := &b.ev[k].obs
		if o.finding != id && (o.sign == nil || o.sign.ID != id) {
			continue
		}
		switch {
		case o.placed != nil && o.value != o.placed.Values[0], o.sign != nil && o.value != o.sign.Values[0]:
			return false
		}
	}
	return true
}

// bestLook is the test that saves most as things stand, nil where none saves anything, with what it may tell.
func (o *outlook) bestLook(c *Case, costs *Costs, known map[string]string, believed []float64) (best *Look, telling []outcome) {
	for i := range Tests {
		t := &Tests[i]
		if t.OpensHydraulics || t.ID == "ask" || !o.e.allowed(t, c) || t.When != nil && !t.When(known) {
			continue
		}
		outcomes := o.outcomes(t, known)
		if len(outcomes) == 0 {
			continue
		}
		_, _, saves, _ := o.joint(outcomes)
		if saves -= t.Minutes * costs.PerMinute; saves > 0 && (best == nil || saves > best.Saves) {
			best, telling = &Look{Test: t.ID, Minutes: t.Minutes, Saves: saves, Asks: t.asks()}, outcomes
		}
	}
	if best == nil {
		return nil, nil
	}
	best.For = o.shownBy(telling, costs, believed)
	for _, f := range best.For {
		best.Unsafe = best.Unsafe || findFault(f.ID).Unsafe
	}
	return best, telling
}

// calmOf is what a sound vehicle shows most, and P(that | hypothesis) for every hypothesis: those that are too rare to
// steer a look keep their weight.
func (o *outlook) calmOf(x *outcome) (string, []float64) {
	at, top := 0, 0.0
	for v := range x.p {
		for k, i := range o.hyps {
			if len(o.e.hyps[i]) == 0 && x.p[v][k] > top {
				at, top = v, x.p[v][k]
			}
		}
	}
	out := ones(len(o.e.hyps))
	for k, i := range o.hyps {
		out[i] = x.p[at][k]
	}
	return x.values[at], out
}

// shownBy are the faults that findings tell most of: by how likely they are to be there and to show, more than a sound
// vehicle shows.
func (o *outlook) shownBy(outcomes []outcome, costs *Costs, believed []float64) []LookFor {
	there, shown := o.e.marginals(believed), map[int]float64{}
	quiet := ones(len(o.e.hyps))
	for x := range outcomes {
		_, like := o.calmOf(&outcomes[x])
		for i := range quiet {
			quiet[i] *= like[i]
		}
	}
	for k, i := range o.hyps {
		for _, f := range o.e.hyps[i] {
			shown[f] += o.w[k] * (quiet[0] - quiet[i])
		}
	}
	var list []int
	for f, x := range shown {
		if x > 0 {
			list = append(list, f)
		}
	}
	weight := func(f int) float64 {
		if o.e.faults[f].fault.Unsafe {
			return shown[f] * (costs.Comeback + costs.Unsafe)
		}
		return shown[f] * costs.Comeback
	}
	slices.SortFunc(list, func(a, b int) int {
		if weight(a) != weight(b) {
			return map[bool]int{true: -1, false: 1}[weight(a) > weight(b)]
		}
		return a - b
	})
	out := []LookFor{}
	for _, f := range list[:min(lookForMost, len(list))] {
		out = append(out, LookFor{Suspect{o.e.faults[f].fault.ID, o.e.faults[f].at}, there[f]})
	}
	return out
}

// asks are the findings a test is told by: a list is one, and what is wet is asked only once something is.
func (t *Test) asks() []string {
	out := []string{}
	for _, id := range t.Yields {
		if list := ListOf(id); list != "" {
			id = list
		}
		if id != "wet.fluid" && !slices.Contains(out, id) {
			out = append(out, id)
		}
	}
	return out
}
