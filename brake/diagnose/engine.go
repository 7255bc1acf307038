package diagnose

import (
	"encoding/json"
	"math"
	"slices"
	"sync"

	"geminate/brake/system"
	"geminate/brake/twin"
)

// guess is the share of an unsure finding that is taken as no evidence at all.
const guess = 0.5

// felt is the weight of a felt sign beside a measurement of the same thing: how a pedal sinks is
// largely told already by the sink in mm. Assumption.
const felt = 0.3

// placedFault is a fault with the circuit or wheel it sits on.
type placedFault struct {
	fault *Fault
	at    string
}

// pair is a hypothesis: none (−1, −1), one (a, −1) or two of the engine's faults.
type pair struct{ a, b int }

// engine is a system compiled for diagnosis: its hypotheses and, filled in as they are asked for, what
// signs and probes would show under each. It is safe for concurrent use.
type engine struct {
	sys    *system.System
	faults []placedFault
	hyps   []pair // healthy, every fault in order, then every pair
	prior  []float64

	mu     sync.Mutex
	signs  map[*Sign][][]float64  // by value, by hypothesis
	places map[string][][]float64 // by place, by value, by hypothesis
	grids  map[string]*grid
	models [][]*twin.Model
	sound  *twin.Model
	both   map[int]*[9]*twin.Model // twins of a pair at three severities each
}

// newEngine enumerates healthy, every single fault and every pair. Faults are independent before any
// evidence, so a hypothesis weighs the product of its faults' odds; healthy weighs SoundShare.
func newEngine(s *system.System) *engine {
	e := &engine{sys: s, signs: map[*Sign][][]float64{}, places: map[string][][]float64{}, grids: map[string]*grid{}, both: map[int]*[9]*twin.Model{}}
	for i := range Faults {
		f := &Faults[i]
		if f.Applies != nil && !f.Applies(s) {
			continue
		}
		switch f.Place {
		case Whole:
			e.faults = append(e.faults, placedFault{f, ""})
		case AtCircuit:
			for _, c := range s.Circuits {
				e.faults = append(e.faults, placedFault{f, c.ID})
			}
		case AtWheel:
			for _, w := range s.Wheels {
				e.faults = append(e.faults, placedFault{f, w.ID})
			}
		}
	}
	odds := func(i int) float64 { p := e.faults[i].fault.Prior; return p / (1 - p) }
	add := func(h pair, weight float64) { e.hyps, e.prior = append(e.hyps, h), append(e.prior, weight) }
	add(pair{-1, -1}, SoundShare)
	for i := range e.faults {
		add(pair{i, -1}, odds(i))
	}
	for i := range e.faults {
		for j := i + 1; j < len(e.faults); j++ {
			add(pair{i, j}, odds(i)*odds(j))
		}
	}
	total := 0.0
	for _, p := range e.prior {
		total += p
	}
	for i := range e.prior {
		e.prior[i] /= total
	}
	return e
}

// compiled keeps the engines of the systems last asked for: a changed finding finds its tables ready.
var compiled = struct {
	sync.Mutex
	engines map[string]*engine
	order   []string
}{engines: map[string]*engine{}}

const keepEngines = 16

func engineFor(s *system.System) *engine {
	key, err := json.Marshal(s)
	if err != nil {
		return newEngine(s)
	}
	compiled.Lock()
	defer compiled.Unlock()
	k := string(key)
	if e, ok := compiled.engines[k]; ok {
		return e
	}
	e := newEngine(s.Clone())
	compiled.engines[k] = e
	compiled.order = append(compiled.order, k)
	if len(compiled.order) > keepEngines {
		delete(compiled.engines, compiled.order[0])
		compiled.order = compiled.order[1:]
	}
	return e
}

// signLikelihoods is P(value | hypothesis) by value.
func (e *engine) signLikelihoods(s *Sign) [][]float64 {
	e.mu.Lock()
	defer e.mu.Unlock()
	if out, ok := e.signs[s]; ok {
		return out
	}
	out := make([][]float64, len(s.Values))
	for v := range out {
		out[v] = make([]float64, len(e.hyps))
	}
	given := make([][]float64, len(e.faults))
	for i, f := range e.faults {
		given[i] = s.given(f.fault.ID)
	}
	for i, h := range e.hyps {
		var a, b []float64
		if h.a >= 0 {
			a = given[h.a]
		}
		if h.b >= 0 {
			b = given[h.b]
		}
		for v, p := range s.Combine(a, b) {
			out[v][i] = s.doubt(p)
		}
	}
	e.signs[s] = out
	return out
}

// likelihood is P(observation | hypothesis) for each hypothesis, by itself.
func (e *engine) likelihood(o *observation) []float64 {
	var out []float64
	blank := 1.0
	switch {
	case o.probe != nil:
		blank = 1 / o.probe.span
		out = e.readingsLikelihood([]*observation{{finding: o.finding, sure: true, probe: o.probe, number: o.number}})
	case o.placed != nil:
		blank = 1 / float64(len(o.placed.Values))
		out = e.placedLikelihoods(o.placed, o.at)[slices.Index(o.placed.Values, o.value)]
	default:
		blank = 1 / float64(len(o.sign.Values))
		out = e.signLikelihoods(o.sign)[slices.Index(o.sign.Values, o.value)]
	}
	if o.sure && o.weight == 1 {
		return out
	}
	mixed := make([]float64, len(out))
	for i, l := range out {
		if !o.sure {
			l = (1-guess)*l + guess*blank
		}
		if o.weight != 1 {
			l = math.Pow(l, o.weight)
		}
		mixed[i] = l
	}
	return mixed
}

// posterior multiplies prior and likelihoods and normalises.
func (e *engine) posterior(like [][]float64) []float64 {
	w := make([]float64, len(e.hyps))
	copy(w, e.prior)
	for _, l := range like {
		top := 0.0
		for i := range w {
			w[i] *= l[i]
			top = max(top, w[i])
		}
		if top < 1e-200 { // far from any underflow
			for i := range w {
				w[i] /= max(top, 1e-300)
			}
		}
	}
	total := 0.0
	for _, x := range w {
		total += x
	}
	for i := range w {
		w[i] /= total
	}
	return w
}

// marginals is the probability of each fault, alone or in a pair.
func (e *engine) marginals(post []float64) []float64 {
	out := make([]float64, len(e.faults))
	for i, h := range e.hyps {
		if h.a >= 0 {
			out[h.a] += post[i]
		}
		if h.b >= 0 {
			out[h.b] += post[i]
		}
	}
	return out
}
