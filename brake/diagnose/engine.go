package diagnose

import (
	"math"
	"slices"
	"sort"

	"geminate/brake/system"
	"geminate/brake/twin"
)

// observation is one piece of evidence: a sign with its value, a value at a place, or a reading.
type observation struct {
	finding string
	sure    bool

	sign  *sign
	value string

	placed bool
	atPort bool
	at     string

	probe  *probe
	number float64
}

// guess is the share of an unsure finding that is taken as no evidence at all.
const guess = 0.5

// placedFault is a fault with the circuit or wheel it sits on.
type placedFault struct {
	fault *Fault
	at    string
}

type hypothesis struct {
	faults []placedFault
	ids    []string
	prior  float64
	single [2]int // indices of its single-fault hypotheses; −1 where there is none
}

type engine struct {
	sys  *system.System
	hyps []hypothesis
	// pred caches the twin's predictions by probe and hypothesis.
	pred map[string][][]float64
	// models are the compiled twins of healthy and of every single fault, by severity; nil where the
	// fault has no physics.
	models [][]*twin.Model
}

// newEngine enumerates healthy, every single fault and every pair. Faults are independent before
// any evidence, so a hypothesis weighs the product of its faults' odds.
func newEngine(s *system.System) *engine {
	e := &engine{sys: s, pred: map[string][][]float64{}}
	e.hyps = []hypothesis{{prior: 1, single: [2]int{-1, -1}}}
	var singles []placedFault
	for i := range Faults {
		f := &Faults[i]
		if f.Applies != nil && !f.Applies(s) {
			continue
		}
		switch f.Place {
		case Whole:
			singles = append(singles, placedFault{f, ""})
		case AtCircuit:
			for _, c := range s.Circuits {
				singles = append(singles, placedFault{f, c.ID})
			}
		case AtWheel:
			for _, w := range s.Wheels {
				singles = append(singles, placedFault{f, w.ID})
			}
		}
	}
	odds := func(f *Fault) float64 { return f.Prior / (1 - f.Prior) }
	for i, f := range singles {
		e.hyps = append(e.hyps, hypothesis{[]placedFault{f}, []string{f.fault.ID}, odds(f.fault), [2]int{i + 1, -1}})
	}
	for i, a := range singles {
		for j := i + 1; j < len(singles); j++ {
			b := singles[j]
			e.hyps = append(e.hyps, hypothesis{[]placedFault{a, b}, []string{a.fault.ID, b.fault.ID}, odds(a.fault) * odds(b.fault), [2]int{i + 1, j + 1}})
		}
	}
	total := 0.0
	for _, h := range e.hyps {
		total += h.prior
	}
	for i := range e.hyps {
		e.hyps[i].prior /= total
	}
	return e
}

var (
	severities     = []float64{0, 0.25, 0.5, 0.75, 1}
	pairSeverities = []float64{0.1, 0.5, 0.9}
)

// compile builds the twins of healthy and of every single fault over the severity grid, once.
func (e *engine) compile() {
	if e.models != nil {
		return
	}
	e.models = make([][]*twin.Model, 1, len(e.hyps))
	e.models[0] = []*twin.Model{twin.New(e.sys)}
	for i := range e.hyps {
		if len(e.hyps[i].faults) != 1 {
			continue
		}
		var row []*twin.Model
		if f := e.hyps[i].faults[0]; f.fault.Physics != nil {
			for _, v := range severities {
				s := e.sys.Clone()
				f.fault.Physics(s, f.at, v)
				row = append(row, twin.New(s))
			}
		}
		e.models = append(e.models, row) // singles follow healthy without a gap
	}
}

// singles gives what a probe would read in a healthy system and under each single fault, over the
// severity grid, and which faults move it at all.
func (e *engine) singles(p *probe) (rows [][]float64, moves []bool) {
	e.compile()
	rows, moves = make([][]float64, len(e.models)), make([]bool, len(e.models))
	rows[0] = []float64{p.eval(e.models[0][0])}
	for i, models := range e.models[1:] {
		if models == nil {
			rows[i+1] = rows[0]
			continue
		}
		row := make([]float64, len(models))
		for k, m := range models {
			row[k] = p.eval(m)
			moves[i+1] = moves[i+1] || math.Abs(row[k]-rows[0][0]) > 0.02*p.sigma(rows[0][0])
		}
		rows[i+1] = row
	}
	return rows, moves
}

// predictions gives what the twin says a probe would read under each hypothesis, over a severity
// grid. A fault that does not move this reading is left out of pairs, which spares most of the work
// and changes nothing.
func (e *engine) predictions(p *probe) [][]float64 {
	if out, ok := e.pred[p.key]; ok {
		return out
	}
	out := make([][]float64, len(e.hyps))
	rows, moves := e.singles(p)
	for i := range rows {
		out[i] = refine(rows[i])
	}
	for i, h := range e.hyps {
		if len(h.faults) != 2 {
			continue
		}
		a, b := h.single[0], h.single[1]
		switch {
		case moves[a] && moves[b]:
			for _, v := range pairSeverities {
				var row []float64
				for _, w := range pairSeverities {
					s := e.sys.Clone()
					h.faults[0].fault.Physics(s, h.faults[0].at, v)
					h.faults[1].fault.Physics(s, h.faults[1].at, w)
					row = append(row, p.eval(twin.New(s)))
				}
				out[i] = append(out[i], refine(row)...)
			}
		case moves[b]:
			out[i] = out[b]
		default:
			out[i] = out[a]
		}
	}
	e.pred[p.key] = out
	return out
}

// refine fills a coarse severity grid in with straight lines, so that a reading between two of its
// points is not taken for one that no severity explains.
func refine(grid []float64) []float64 {
	const parts = 8
	out := make([]float64, 0, parts*(len(grid)-1)+1)
	for i := 1; i < len(grid); i++ {
		for k := 0; k < parts; k++ {
			out = append(out, grid[i-1]+(grid[i]-grid[i-1])*float64(k)/parts)
		}
	}
	return append(out, grid[len(grid)-1])
}

// placedGiven is P(ok, low, none) at a place that a fault reaches. Assumption, as the sign table.
var placedGiven = map[string][3]float64{
	"mc.primary_cup_bypass": {0.3, 0.55, 0.15}, "mc.secondary_cup_bypass": {0.3, 0.55, 0.15}, "mc.piston_seized": {0.1, 0.3, 0.6},
	"mc.bore_corroded": {0.45, 0.45, 0.1}, "mc.rear_seal_leak": {0.6, 0.35, 0.05}, "circuit.line_leak": {0.2, 0.5, 0.3},
	"circuit.air": {0.4, 0.55, 0.05}, "circuit.hose_blocked": {0.1, 0.5, 0.4}, "wheel.leak": {0.4, 0.5, 0.1},
}

// reaches says whether a fault shows in the pressure at a place. At the cylinder's port with its
// line off, only the cylinder's own faults can.
func (e *engine) reaches(f placedFault, at string, atPort bool) bool {
	circuit := at
	if e.sys.Circuit(at) == nil {
		circuit = e.sys.CircuitOf(at)
	}
	switch f.fault.ID {
	case "mc.primary_cup_bypass", "mc.rear_seal_leak":
		return circuit == primary(e.sys)
	case "mc.secondary_cup_bypass":
		return circuit == secondary(e.sys)
	case "mc.piston_seized", "mc.bore_corroded":
		return true
	}
	if atPort {
		return false
	}
	return f.at == at || f.at == circuit || (f.fault.Place == AtWheel && e.sys.CircuitOf(f.at) == at)
}

// likelihoods is P(observation | hypothesis) for each hypothesis.
func (e *engine) likelihoods(o *observation) []float64 {
	out := make([]float64, len(e.hyps))
	blank := 1.0
	switch {
	case o.probe != nil:
		blank = 1 / o.probe.span
		pred := e.predictions(o.probe)
		for i := range out {
			out[i] = o.probe.density(o.number, pred[i])
		}
	case o.placed:
		blank = 1. / 3
		k := slices.Index([]string{"ok", "low", "none"}, o.value)
		for i, h := range e.hyps {
			p := [3]float64{0.96, 0.03, 0.01}
			for _, f := range h.faults {
				if g, ok := placedGiven[f.fault.ID]; ok && e.reaches(f, o.at, o.atPort) && g[0] < p[0] {
					p = g
				}
			}
			out[i] = p[k]
		}
	default:
		blank = 1 / float64(len(o.sign.values))
		for i, h := range e.hyps {
			out[i] = math.Max(0.001, o.sign.likelihood(o.value, h.ids))
		}
	}
	if !o.sure {
		for i := range out {
			out[i] = (1-guess)*out[i] + guess*blank
		}
	}
	return out
}

// posterior multiplies and normalises.
func (e *engine) posterior(like [][]float64) []float64 {
	w := make([]float64, len(e.hyps))
	top := math.Inf(-1)
	for i, h := range e.hyps {
		w[i] = math.Log(h.prior)
		for _, l := range like {
			w[i] += math.Log(math.Max(1e-300, l[i]))
		}
		top = math.Max(top, w[i])
	}
	total := 0.0
	for i := range w {
		w[i] = math.Exp(w[i] - top)
		total += w[i]
	}
	for i := range w {
		w[i] /= total
	}
	return w
}

// Because is one finding's weight for (positive) or against a fault.
type Because struct {
	Finding string  `json:"finding"`
	Bits    float64 `json:"bits"`
}

// Ranked is one fault with its probability, alone or in a pair, and the evidence.
type Ranked struct {
	ID          string    `json:"id"`
	At          string    `json:"at,omitempty"`
	Probability float64   `json:"probability"`
	Part        string    `json:"part"`
	Because     []Because `json:"because"`
}

// rank sums hypotheses up by fault and weighs each finding for it.
func (e *engine) rank(post []float64, findings []string, like [][]float64) []Ranked {
	out := []Ranked{}
	for s := range e.hyps {
		if len(e.hyps[s].faults) != 1 {
			continue
		}
		f := e.hyps[s].faults[0]
		r := Ranked{ID: f.fault.ID, At: f.at, Part: f.fault.Part, Because: []Because{}}
		for i, h := range e.hyps {
			if h.single[0] == s || h.single[1] == s {
				r.Probability += post[i]
			}
		}
		if r.Probability < 0.001 {
			continue
		}
		bits := map[string]float64{}
		for k, l := range like {
			bits[findings[k]] += e.bits(f.fault.ID, f.at, l)
		}
		for id, b := range bits {
			if math.Abs(b) >= 0.05 {
				r.Because = append(r.Because, Because{id, b})
			}
		}
		sort.Slice(r.Because, func(i, j int) bool {
			a, b := math.Abs(r.Because[i].Bits), math.Abs(r.Because[j].Bits)
			return a > b || (a == b && r.Because[i].Finding < r.Because[j].Finding)
		})
		out = append(out, r)
	}
	sort.SliceStable(out, func(i, j int) bool { return out[i].Probability > out[j].Probability })
	return out
}

// bits is how much a likelihood speaks for a fault (positive) or against it, over all hypotheses.
func (e *engine) bits(id, at string, like []float64) float64 {
	with, without, pw, po := 0.0, 0.0, 0.0, 0.0
	for i, h := range e.hyps {
		has := false
		for _, f := range h.faults {
			has = has || (f.fault.ID == id && f.at == at)
		}
		if has {
			with += h.prior * like[i]
			pw += h.prior
		} else {
			without += h.prior * like[i]
			po += h.prior
		}
	}
	return math.Log2((with / pw) / (without / po))
}
