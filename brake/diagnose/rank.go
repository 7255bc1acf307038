package diagnose

import (
	"math"
	"sort"
)

// Because is one finding's weight for (positive) or against a fault, and where the weight comes from.
type Because struct {
	Finding string `json:"finding"`
	// Value is what was found, for a finding of one word.
	Value string  `json:"value,omitempty"`
	Bits  float64 `json:"bits"`
	// Times is how many times likelier the finding is with this fault than without it, or where For is false the
	// other way round: the same weight in words a technician uses.
	Times float64 `json:"times"`
	For   bool    `json:"for"`
	// With and Without are P(finding) with this fault and without it, as if it were sure and stood alone: for
	// a reading a density, so only their ratio tells.
	With    float64 `json:"with"`
	Without float64 `json:"without"`
	Origin  Origin  `json:"origin"`
	// Less says why the bits are fewer than that: unsure, or told_by_measurement; "" where they are not.
	Less string `json:"less,omitempty"`
}

// Ranked is one fault with its probability, alone or in a pair, and the evidence.
type Ranked struct {
	ID          string    `json:"id"`
	At          string    `json:"at,omitempty"`
	Probability float64   `json:"probability"`
	Part        string    `json:"part"`
	Because     []Because `json:"because"`
	// BroughtBy is the fault it most likely came from.
	BroughtBy *Suspect `json:"brought_by,omitempty"`
}

// leastShown is the probability under which a fault is not listed.
const leastShown = 0.001

// rank lists the faults by probability and weighs each finding for them, over all hypotheses. asSure holds
// the same evidence as if every finding were sure and stood alone.
func (e *engine) rank(post, marginals []float64, ev, asSure []evidence) []Ranked {
	out := []Ranked{}
	counted, alone := make([][2][]float64, len(ev)), make([][2][]float64, len(ev))
	for k := range ev {
		counted[k] = e.withAndWithout(ev[k].like)
		alone[k] = e.withAndWithout(asSure[k].like)
	}
	for i, f := range e.faults {
		if marginals[i] < leastShown {
			continue
		}
		r := Ranked{
			ID:          f.fault.ID,
			At:          f.at,
			Part:        f.fault.Part,
			Probability: marginals[i],
			Because:     []Because{},
			BroughtBy:   e.broughtBy(i, post),
		}
		byID := map[string]int{}
		for k := range ev {
			b := Because{Finding: ev[k].obs.finding, With: alone[k][0][i], Without: alone[k][1][i], Origin: ev[k].origin(f.fault.ID)}
			b.Bits = math.Log2(counted[k][0][i] / counted[k][1][i])
			if o := &ev[k].obs; o.sign != nil && o.sign.ID == o.finding {
				b.Value = o.value
			}
			switch {
			case !ev[k].obs.sure:
				b.Less = "unsure"
			case ev[k].obs.weight != 1:
				b.Less = "told_by_measurement"
			}
			if at, ok := byID[b.Finding]; ok { // a list is one finding: its places add up
				o := &r.Because[at]
				o.Bits += b.Bits
				o.With *= b.With
				o.Without *= b.Without
				if b.Origin != Guess {
					o.Origin = b.Origin
				}
				continue
			}
			byID[b.Finding] = len(r.Because)
			r.Because = append(r.Because, b)
		}
		kept := r.Because[:0]
		for _, b := range r.Because {
			if math.Abs(b.Bits) >= 0.05 {
				b.Times, b.For = math.Exp2(math.Abs(b.Bits)), b.Bits > 0
				kept = append(kept, b)
			}
		}
		r.Because = kept
		sort.SliceStable(r.Because, func(i, j int) bool { return math.Abs(r.Because[i].Bits) > math.Abs(r.Because[j].Bits) })
		out = append(out, r)
	}
	sort.SliceStable(out, func(i, j int) bool { return out[i].Probability > out[j].Probability })
	return out
}

// withAndWithout is P(observation | fault) and P(observation | no such fault), by fault.
func (e *engine) withAndWithout(like []float64) [2][]float64 {
	with, without, total := make([]float64, len(e.faults)), make([]float64, len(e.faults)), 0.0
	for i, h := range e.hyps {
		x := e.prior[i] * like[i]
		total += x
		for _, k := range h {
			with[k] += x
		}
	}
	prior := e.marginals(e.prior)
	for i := range without {
		without[i] = (total - with[i]) / (1 - prior[i])
		with[i] /= prior[i]
	}
	return [2][]float64{with, without}
}

// evidence is one observation with its likelihoods.
type evidence struct {
	obs  observation
	like []float64
}

// origin of an observation's weight for a fault.
func (v *evidence) origin(fault string) Origin {
	switch {
	case v.obs.probe != nil:
		return Twin
	case v.obs.placed != nil:
		if g, ok := v.obs.placed.Given[fault]; ok {
			return g.Origin
		}
		return Guess
	}
	if g, ok := v.obs.sign.Given[fault]; ok {
		return g.Origin
	}
	return Guess
}
