package diagnose

import (
	"math"
	"slices"
	"sort"
)

// NextTest is a test worth doing, best first.
type NextTest struct {
	ID              string   `json:"id"`
	Minutes         float64  `json:"minutes"`
	Bits            float64  `json:"bits"`
	BitsPerMinute   float64  `json:"bits_per_minute"`
	Needs           []string `json:"needs"`
	OpensHydraulics bool     `json:"opens_hydraulics"`
	Gates           []string `json:"gates"`
	// Saves is what the test is expected to save, its own time paid, in the shop's currency.
	Saves float64 `json:"saves"`
	// Answers is what its most telling finding would change.
	Answers []Answer `json:"answers"`
}

// Answer is one outcome of a test: how likely it is and the fault that would then lead.
type Answer struct {
	Finding     string  `json:"finding"`
	Value       string  `json:"value"`
	Probability float64 `json:"probability"`
	ThenFault   string  `json:"then_fault"` // "" = healthy
	ThenAt      string  `json:"then_at,omitempty"`
	ThenChance  float64 `json:"then_probability"`
}

// outcome is a finding a test may yield, as a table of P(value | hypothesis).
type outcome struct {
	finding string
	values  []string
	p       [][]float64 // by value, by hypothesis kept
	bits    float64
}

const (
	keepHypotheses = 80   // by posterior; the rest is under a thousandth in any case worth a test
	jointLimit     = 2048 // outcomes of one test looked at together
)

// nextTests weighs every test that can be done by the information it is expected to give about the
// fault per minute, tests that open the hydraulics after all others.
func (e *engine) nextTests(c *Case, costs *Costs, table [][]float64, post []float64, known map[string]bool) []NextTest {
	keep := e.keep(post)
	w := make([]float64, len(keep))
	total := 0.0
	for k, i := range keep {
		w[k] = post[i]
		total += post[i]
	}
	for k := range w {
		w[k] /= total
	}
	out := []NextTest{}
	for _, t := range Tests {
		if !e.allowed(&t, c) {
			continue
		}
		outcomes := e.outcomes(&t, keep, w, known)
		if len(outcomes) == 0 {
			continue
		}
		bits, saves := e.joint(outcomes, keep, w, table)
		if bits < 0.005 {
			continue
		}
		n := NextTest{ID: t.ID, Minutes: t.Minutes, Bits: bits, BitsPerMinute: bits / t.Minutes, Needs: orEmpty(t.Needs), Gates: orEmpty(t.Gates),
			OpensHydraulics: t.OpensHydraulics, Saves: saves - t.Minutes*costs.PerMinute, Answers: e.answers(&outcomes[0], keep, w)}
		out = append(out, n)
	}
	sort.SliceStable(out, func(i, j int) bool {
		if out[i].OpensHydraulics != out[j].OpensHydraulics {
			return !out[i].OpensHydraulics
		}
		return out[i].BitsPerMinute > out[j].BitsPerMinute
	})
	return out
}

func orEmpty(s []string) []string {
	if s == nil {
		return []string{}
	}
	return s
}

func (e *engine) keep(post []float64) []int {
	idx := make([]int, len(post))
	for i := range idx {
		idx[i] = i
	}
	sort.SliceStable(idx, func(i, j int) bool { return post[idx[i]] > post[idx[j]] })
	return idx[:min(keepHypotheses, len(idx))]
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
func (e *engine) outcomes(t *Test, keep []int, w []float64, known map[string]bool) []outcome {
	var out []outcome
	for _, id := range t.Yields {
		// A measured sink answers the felt one as well, and the other way round the test is still
		// worth doing: only the same finding counts as known.
		if known[id] || (id == "pedal.sinks" && t.ID == "hold") {
			continue
		}
		var o outcome
		if p, edges := e.probeOf(id); p != nil {
			pred := e.predictions(p)
			o = outcome{finding: id, values: make([]string, len(edges)+1), p: make([][]float64, len(edges)+1)}
			bounds := append(append([]float64{math.Inf(-1)}, edges...), math.Inf(1))
			for v := range o.values {
				o.values[v] = edgeName(bounds[v], bounds[v+1])
				for _, i := range keep {
					lo, hi := math.Max(bounds[v], -1e6), math.Min(bounds[v+1], 1e6)
					o.p[v] = append(o.p[v], p.share(lo, hi, pred[i]))
				}
			}
		} else if s := findSign(id); s != nil {
			o = outcome{finding: id, values: s.values, p: make([][]float64, len(s.values))}
			for v, value := range s.values {
				for _, i := range keep {
					o.p[v] = append(o.p[v], s.likelihood(value, e.hyps[i].ids))
				}
			}
		} else {
			continue
		}
		o.bits = information(o.p, w)
		out = append(out, o)
	}
	sort.SliceStable(out, func(i, j int) bool { return out[i].bits > out[j].bits })
	return out
}

// probeOf gives the measurement a test would take and the values at which its answer turns.
func (e *engine) probeOf(id string) (*probe, []float64) {
	switch id {
	case "pedal.sink":
		return sinkProbe(200, 20, false), []float64{3, 10, 30}
	case "pedal.readings":
		p := travelProbe([]float64{100, 200, 300})
		x := e.predictions(p)[0][0]
		return p, []float64{math.Round(0.8 * x), math.Round(1.2 * x), math.Round(1.6 * x)}
	case "pressure.gauge":
		at := e.sys.Wheels[0].ID
		p := pressureProbe(at, 200, true)
		x := e.predictions(p)[0][0]
		return p, []float64{0.5 * x, 0.85 * x, 1.15 * x}
	}
	return nil, nil
}

func edgeName(lo, hi float64) string {
	switch {
	case math.IsInf(lo, -1):
		return "<" + trim(hi)
	case math.IsInf(hi, 1):
		return ">" + trim(lo)
	}
	return trim(lo) + "–" + trim(hi)
}

// information is the mutual information in bits between hypothesis and value.
func information(p [][]float64, w []float64) float64 {
	bits := 0.0
	for v := range p {
		pv := 0.0
		for k, x := range p[v] {
			pv += w[k] * x
		}
		for k, x := range p[v] {
			if x > 0 && w[k] > 0 {
				bits += w[k] * x * math.Log2(x/pv)
			}
		}
	}
	return math.Max(0, bits)
}

// joint enumerates a test's findings together: its information in bits, and by how much it lowers
// the expected cost of the best action. Where the outcomes are too many, the least telling findings
// are left out, so that both figures err to the low side.
func (e *engine) joint(outcomes []outcome, keep []int, w []float64, table [][]float64) (bits, saves float64) {
	combos := [][]float64{w} // P(hypothesis, outcome so far)
	for _, o := range outcomes {
		if len(combos)*len(o.values) > jointLimit || o.bits < 0.001 {
			break
		}
		next := make([][]float64, 0, len(combos)*len(o.values))
		for _, c := range combos {
			for v := range o.values {
				row := make([]float64, len(c))
				sum := 0.0
				for k := range c {
					row[k] = c[k] * o.p[v][k]
					sum += row[k]
				}
				if sum > 1e-9 {
					next = append(next, row)
				}
			}
		}
		combos = next
	}
	best := func(row []float64) float64 {
		least := math.Inf(1)
		for a := range table {
			x := 0.0
			for k, i := range keep {
				x += row[k] * table[a][i]
			}
			least = math.Min(least, x)
		}
		return least
	}
	saves = best(w)
	for _, row := range combos {
		sum := 0.0
		for _, x := range row {
			sum += x
		}
		for k, x := range row {
			if x > 0 {
				bits += x * math.Log2(x/(sum*w[k]))
			}
		}
		saves -= best(row)
	}
	return math.Max(0, bits), saves
}

func (e *engine) answers(o *outcome, keep []int, w []float64) []Answer {
	var out []Answer
	for v, value := range o.values {
		pv := 0.0
		by := map[[2]string]float64{}
		for k, i := range keep {
			x := w[k] * o.p[v][k]
			pv += x
			if len(e.hyps[i].faults) == 0 {
				by[[2]string{}] += x
			}
			for _, f := range e.hyps[i].faults {
				by[[2]string{f.fault.ID, f.at}] += x
			}
		}
		a := Answer{Finding: o.finding, Value: value, Probability: pv}
		for key, x := range by {
			if c := x / pv; c > a.ThenChance || (c == a.ThenChance && key[0] < a.ThenFault) {
				a.ThenFault, a.ThenAt, a.ThenChance = key[0], key[1], c
			}
		}
		out = append(out, a)
	}
	return out
}
