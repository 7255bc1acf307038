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

// hypothesis is what may be wrong: none, one, two, or where a cause and its effect are among them three of the
// engine's faults, in order.
type hypothesis []int

func (h hypothesis) has(fault int) bool { return slices.Contains(h, fault) }

// engine is a system compiled for diagnosis: its hypotheses and, filled in as they are asked for, what
// signs and probes would show under each. It is safe for concurrent use.
type engine struct {
	sys    *system.System
	shop   *Experience    // what this shop has met; nil takes the table
	at     map[string]int // how many places each fault has here
	faults []placedFault
	own    []float64    // by fault: how likely it is by itself, here
	hyps   []hypothesis // healthy, every fault in order, then every pair, then the threes
	prior  []float64

	brings   [][]bool             // by cause, by effect
	hiddenBy map[int]map[int]bool // by cause: the effects that take what it loses out of sight; empty where the system has none
	priced   *priced

	mu     sync.Mutex
	signs  map[*Sign][][]float64  // by value, by hypothesis
	places map[string][][]float64 // by place, by value, by hypothesis
	grids  map[string]*grid
	likes  map[string][]float64 // of sets of readings, by hypothesis
	models [][]*twin.Model      // by fault, by step of severity
	sound  *twin.Model
	both   map[[2]int]*[9]*twin.Model // twins of two faults at three severities each
}

// newEngine enumerates healthy, every single fault, every pair, and every pair of cause and effect with a third. A
// hypothesis weighs the chance that just its faults are there, by their own priors and by what causes what, beside
// the chance that none is; healthy weighs SoundShare.
func newEngine(s *system.System, shop *Experience) *engine {
	e := &engine{
		sys:    s,
		shop:   shop,
		at:     map[string]int{},
		signs:  map[*Sign][][]float64{},
		places: map[string][][]float64{},
		grids:  map[string]*grid{},
		likes:  map[string][]float64{},
		both:   map[[2]int]*[9]*twin.Model{},
	}
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
	n := len(e.faults)
	for _, f := range e.faults {
		e.at[f.fault.ID]++
	}
	for _, f := range e.faults {
		e.own = append(e.own, e.shop.Moved(f.fault, f.fault.PriorAt(e.sys, f.at), e.at[f.fault.ID]))
	}
	e.link()
	add := func(h hypothesis) { e.hyps, e.prior = append(e.hyps, h), append(e.prior, e.weight(h)) }
	add(hypothesis{})
	e.prior[0] = SoundShare
	for i := range n {
		add(hypothesis{i})
	}
	for i := range n {
		for j := i + 1; j < n; j++ {
			add(hypothesis{i, j})
		}
	}
	seen := map[[3]int]bool{}
	for i := range n {
		for j := range n {
			if !e.brings[i][j] {
				continue
			}
			for k := range n {
				if k == i || k == j {
					continue
				}
				h := hypothesis{i, j, k}
				slices.Sort(h)
				if key := [3]int(h); !seen[key] {
					seen[key] = true
					add(h)
				}
			}
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

// link looks up in the table of cause and effect which of the engine's faults brings which.
func (e *engine) link() {
	e.brings, e.hiddenBy = make([][]bool, len(e.faults)), map[int]map[int]bool{}
	for i := range e.faults {
		e.brings[i] = make([]bool, len(e.faults))
		for k := range Causes {
			c := &Causes[k]
			if c.Cause != e.faults[i].fault.ID {
				continue
			}
			for j := range e.faults {
				if e.faults[j].fault.ID == c.Effect {
					e.brings[i][j] = true
				}
			}
			if len(c.Hides) > 0 {
				e.hiddenBy[i] = map[int]bool{}
				for j, b := range e.brings[i] {
					e.hiddenBy[i][j] = b && e.faults[j].fault.ID == c.Effect
				}
			}
		}
	}
}

// ids lists a hypothesis by fault ids.
func (e *engine) ids(h hypothesis) []string {
	out := make([]string, len(h))
	for k, i := range h {
		out[k] = e.faults[i].fault.ID
	}
	return out
}

// weight is P(just these faults) over P(none).
func (e *engine) weight(h hypothesis) float64 {
	present := e.ids(h)
	w := 1.0
	for i, f := range e.faults {
		own := e.own[i]
		there := h.has(i)
		if !there && !effects[f.fault.ID] {
			continue
		}
		chance, _ := Chance(own, f.fault.ID, present, (*Cause).chance)
		if there {
			w *= chance / (1 - own)
		} else {
			w *= (1 - chance) / (1 - own)
		}
	}
	return w
}

// compiled keeps the engines of the systems last asked for: a changed finding finds its tables ready.
var compiled = struct {
	sync.Mutex
	engines map[string]*engine
	order   []string
}{engines: map[string]*engine{}}

const keepEngines = 16

func engineFor(s *system.System, shop *Experience) *engine {
	key, err := json.Marshal(s)
	if err != nil {
		return newEngine(s, shop)
	}
	compiled.Lock()
	defer compiled.Unlock()
	k := string(key) + shop.key()
	if e, ok := compiled.engines[k]; ok {
		return e
	}
	e := newEngine(s.Clone(), shop)
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
		if g, ok := s.Given[f.fault.ID]; ok {
			given[i] = e.shop.Seen(s, f.fault.ID, g.P)
		}
	}
	bent := s.bentByCauses()
	rows, doubt := make([][]float64, 0, 3), s.doubts()
	for i, h := range e.hyps {
		rows = rows[:0]
		if bent {
			present := e.ids(h)
			for _, id := range present {
				if g, ok := s.Shown(id, present); ok {
					if own, there := s.Given[id]; there && &own.P[0] == &g.P[0] { // the table's own row, bent by no cause
						g.P = e.shop.Seen(s, id, g.P)
					}
					rows = append(rows, g.P)
				}
			}
		} else {
			for _, k := range h {
				if given[k] != nil {
					rows = append(rows, given[k])
				}
			}
		}
		for v, p := range s.Combine(rows...) {
			out[v][i] = doubt(v, p)
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
		if o.shares != nil {
			out = e.graded(o)
		} else {
			out = e.signLikelihoods(o.sign)[slices.Index(o.sign.Values, o.value)]
		}
		if o.at != "" {
			share := e.shareAt(o.sign, o.value, o.at)
			placed := make([]float64, len(out))
			for i := range out {
				placed[i] = out[i] * share[i]
			}
			out = placed
		}
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
func (e *engine) posterior(like [][]float64) []float64 { return e.posteriorFrom(e.prior, like) }

func (e *engine) posteriorFrom(start []float64, like [][]float64) []float64 {
	w := slices.Clone(start)
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

// marginals is the probability of each fault, alone or with others.
func (e *engine) marginals(post []float64) []float64 {
	out := make([]float64, len(e.faults))
	for i, h := range e.hyps {
		for _, k := range h {
			out[k] += post[i]
		}
	}
	return out
}
