package diagnose

import (
	"math"
	"slices"
	"sort"
)

// NextTest is a test worth doing, best first.
type NextTest struct {
	ID      string  `json:"id"`
	Minutes float64 `json:"minutes"`
	// Bits is the information expected about what to do; FaultBits that about what is wrong.
	Bits            float64  `json:"bits"`
	FaultBits       float64  `json:"fault_bits"`
	BitsPerMinute   float64  `json:"bits_per_minute"`
	Needs           []string `json:"needs"`
	OpensHydraulics bool     `json:"opens_hydraulics"`
	Gates           []string `json:"gates"`
	// Saves is what the test is expected to save, its own time paid, in the shop's currency.
	Saves float64 `json:"saves"`
	// Answers is what its most telling finding would change.
	Answers []Answer `json:"answers"`

	// Again: this reading is there already; taken once more, the same way, it tells whether the first was a slip.
	Again bool `json:"again,omitempty"`

	later bool    // sensible only once something else is known
	turns float64 // chance of an answer that leaves out some of the work now proposed
}

// Answer is one outcome of a test: how likely it is, the fault that would then lead and what would
// then be done.
type Answer struct {
	Finding     string  `json:"finding"`
	Value       string  `json:"value"`
	Probability float64 `json:"probability"`
	ThenFault   string  `json:"then_fault"` // "" = healthy
	ThenAt      string  `json:"then_at,omitempty"`
	ThenChance  float64 `json:"then_probability"`
	ThenAction  string  `json:"then_action"`
}

// outcome is a finding a test may yield, as a table of P(value | hypothesis).
type outcome struct {
	finding string
	values  []string
	p       [][]float64 // by value, by hypothesis kept
	bits    float64
}

// nextTests weighs every test that can be done by the information it is expected to give per minute.
// Those that save more than they cost come first, those that open the hydraulics after all others.
func (o *outlook) nextTests(c *Case, costs *Costs, known map[string]string) []NextTest {
	out := []NextTest{}
	tells := map[string][]outcome{}
	price := func(n *NextTest) float64 {
		x := n.Minutes * costs.PerMinute
		if n.OpensHydraulics { // a bleed follows, unless the repair opens them anyway
			x += 0.5 * costs.own(actBleed)
		}
		return x
	}
	for i := range Tests {
		t := &Tests[i]
		if !o.e.allowed(t, c) {
			continue
		}
		outcomes := o.outcomes(t, known)
		if len(outcomes) == 0 {
			continue
		}
		tells[t.ID] = outcomes
		action, fault, saves, turns := o.joint(outcomes)
		if action < 0.002 && fault < 0.005 {
			continue
		}
		n := NextTest{
			ID:              t.ID,
			Minutes:         t.Minutes,
			Again:           o.again(t.ID),
			turns:           turns,
			Bits:            action,
			FaultBits:       fault,
			BitsPerMinute:   action / t.Minutes,
			Needs:           orEmpty(t.Needs),
			Gates:           orEmpty(t.gates(o.e.sys)),
			OpensHydraulics: t.OpensHydraulics,
			Answers:         o.answers(&outcomes[0]),
		}
		n.Saves = saves - price(&n)
		if n.later = t.When != nil && !t.When(known); n.later {
			n.Saves = math.Min(n.Saves, 0) // not yet; it counts for the look ahead
		}
		out = append(out, n)
	}
	rate := func(n *NextTest) float64 { return (n.Bits + faultShare*n.FaultBits) / (price(n) / costs.PerMinute) }
	sort.SliceStable(out, func(i, j int) bool { return rate(&out[i]) > rate(&out[j]) })
	if !slices.ContainsFunc(out, func(n NextTest) bool { return n.Saves > 0 }) {
		if id, saves := o.ahead(out, tells, price); id != "" {
			for i := range out {
				if out[i].ID == id {
					out[i].Saves = saves
				}
			}
		}
	}
	// Those worth their time first, those that open the hydraulics after all others.
	sort.SliceStable(out, func(i, j int) bool {
		a, b := &out[i], &out[j]
		if a.OpensHydraulics != b.OpensHydraulics {
			return !a.OpensHydraulics
		}
		return a.Saves > 0 && b.Saves <= 0
	})
	return slices.DeleteFunc(out, func(n NextTest) bool { return n.later })
}

func orEmpty(s []string) []string {
	if s == nil {
		return []string{}
	}
	return s
}

func (e *engine) allowed(t *Test, c *Case) bool {
	if t.Applies != nil && !t.Applies(e.sys) {
		return false
	}
	if c.Hands > 0 && t.Hands > c.Hands {
		return false
	}
	if t.OpensHydraulics && slices.Contains(c.DoNot, "open_hydraulics") {
		return false
	}
	if c.Tools != nil {
		for _, n := range t.Needs {
			if !slices.Contains(c.Tools, n) {
				return false
			}
		}
	}
	return true
}

// outcomes lists what a test would newly tell, most telling first.
func (o *outlook) outcomes(t *Test, known map[string]string) []outcome {
	var out []outcome
	add := func(x outcome) {
		x.bits = information(x.p, o.w)
		out = append(out, x)
	}
	for _, id := range t.Yields {
		if _, ok := known[id]; ok && !(id == "pedal.sink" && o.again(t.ID)) {
			continue
		}
		switch id {
		case "pedal.sinks": // the measured sink tells it as well
			if t.ID == "hold" {
				continue
			}
		case "wet.fluid":
			if v, ok := known["wet.at"]; !ok || v == "dry" {
				continue
			}
		}
		if placed := findPlaced(id); placed != nil {
			for _, at := range placed.Places(o.e.sys) {
				like := o.e.placedLikelihoods(placed, at)
				x := outcome{finding: id + ":" + at, values: placed.Values, p: make([][]float64, len(like))}
				for v := range x.p {
					x.p[v] = o.pick(like[v])
				}
				add(x)
			}
			continue
		}
		if probes := o.probesOf(id); probes != nil {
			for _, p := range probes {
				add(o.forecasts(id, p))
			}
			continue
		}
		if s := findSign(id); s != nil {
			like := o.e.signLikelihoods(s)
			x := outcome{finding: id, values: s.Values, p: make([][]float64, len(s.Values))}
			for v := range x.p {
				x.p[v] = o.pick(like[v])
			}
			add(x)
		}
	}
	sort.SliceStable(out, func(i, j int) bool { return out[i].bits > out[j].bits })
	return out
}

// again says whether a test is one whose reading is there once and may be taken a second time: the hold alone, which
// one slip of a foot decides.
func (o *outlook) again(test string) bool {
	if test != "hold" || o.readings == nil {
		return false
	}
	n := 0
	for _, x := range o.readings.readings {
		if x.finding == "pedal.sink" {
			n++
		}
	}
	return n == 1
}

// leavesOut says whether another remedy does not do all that the chosen one does.
func (o *outlook) leavesOut(r *remedy) bool {
	for k := range o.chosen.cures {
		for f, does := range o.chosen.cures[k] {
			if does && !slices.ContainsFunc(r.cures, func(also []bool) bool { return also[f] }) {
				return true
			}
		}
	}
	return false
}

func (o *outlook) pick(like []float64) []float64 {
	out := make([]float64, len(o.hyps))
	for k, i := range o.hyps {
		out[k] = like[i]
	}
	return out
}

// probesOf gives the measurements a finding stands for, as a test would take them.
func (o *outlook) probesOf(id string) []*probe {
	switch id {
	case "pedal.sink":
		return []*probe{sinkProbe(HoldForceN, HoldSeconds, HoldEngine(o.e.sys))}
	case "pedal.readings":
		return []*probe{travelProbe([]float64{100, 200, 300})}
	case "pressure.gauge":
		var out []*probe
		for _, c := range o.e.sys.Circuits {
			out = append(out, pressureProbe(c.Wheels[0], 200, true))
		}
		return out
	}
	return nil
}

// forecasts is what a probe would read under each hypothesis kept, in four to five ranges around what
// is expected of the sound system.
func (o *outlook) forecasts(id string, p *probe) outcome {
	sound := o.e.gridOf(p).sound
	bounds := []float64{sound + 3, sound + 10, sound + 30}
	if id != "pedal.sink" {
		bounds = []float64{sig2(0.5 * sound), sig2(0.85 * sound), sig2(1.15 * sound), sig2(1.5 * sound)}
	}
	x := outcome{finding: id, values: make([]string, len(bounds)+1), p: make([][]float64, len(bounds)+1)}
	if p.at != "" {
		x.finding += ":" + p.at
	}
	for v := range x.values {
		switch {
		case v == 0:
			x.values[v] = "<" + trim(bounds[0])
		case v == len(bounds):
			x.values[v] = ">" + trim(bounds[v-1])
		default:
			x.values[v] = trim(bounds[v-1]) + "–" + trim(bounds[v])
		}
	}
	for _, i := range o.hyps {
		predicted, weights := o.e.forecast(i, p, o.readings)
		for v, s := range p.shares(bounds, predicted, weights) {
			x.p[v] = append(x.p[v], s)
		}
	}
	return x
}

// sig2 rounds to two significant figures: an edge of a range people read.
func sig2(x float64) float64 {
	if x == 0 {
		return 0
	}
	unit := math.Pow(10, math.Floor(math.Log10(math.Abs(x)))-1)
	return math.Round(math.Round(x/unit)*unit*1e6) / 1e6
}

func (o *outlook) answers(x *outcome) []Answer {
	out := []Answer{}
	for v, value := range x.values {
		pv := 0.0
		row := make([]float64, len(o.w))
		by := map[int]float64{} // by fault; −1 healthy
		for k, i := range o.hyps {
			row[k] = o.w[k] * x.p[v][k]
			pv += row[k]
			h := o.e.hyps[i]
			if len(h) == 0 {
				by[-1] += row[k]
			}
			for _, f := range h {
				by[f] += row[k]
			}
		}
		if !(pv > 0) {
			continue // no hypothesis allows this answer: nothing can be said of what would follow
		}
		lead := -1
		for f, y := range by {
			if y > by[lead] || (y == by[lead] && f < lead) {
				lead = f
			}
		}
		a := Answer{Finding: x.finding, Value: value, Probability: pv, ThenChance: by[lead] / pv}
		if lead >= 0 {
			a.ThenFault, a.ThenAt = o.e.faults[lead].fault.ID, o.e.faults[lead].at
		}
		for k := range row {
			row[k] /= pv
		}
		r, cost := o.best(row)
		marginals := make([]float64, len(o.e.faults))
		for f, y := range by {
			if f >= 0 {
				marginals[f] = y / pv
			}
		}
		a.ThenAction = o.remedies[r].outward(o.e, marginals, cost).ID
		out = append(out, a)
	}
	return out
}
