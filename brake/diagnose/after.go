package diagnose

import (
	"math"
	"slices"
)

// doubted is the share of belief that is given back to the table once work was done and something is still wrong: the
// diagnosis was mistaken in a way the table knows nothing of, or the work was not done well, or it brought something
// new. Assumption; the trial says what comes of it.
const doubted = 0.25

// startOf is what is believed of a case's vehicle before anything of it is found: the table's priors, or where work was
// done on it what was believed then, with what that work cures gone.
func (e *engine) startOf(c *Case) ([]float64, error) {
	if c.After == nil {
		return e.prior, nil
	}
	before := *c.After.Before
	before.System, before.Experience = c.System, c.Experience // places and faults are this engine's
	b, err := e.weigh(&before)
	if err != nil {
		return nil, err
	}
	w := e.leftAfter(b.posterior(""), c.After.Acts, c.After.At)
	return e.doubt(w, doubted), nil
}

// doubt gives a share of what is believed back to the table's faults.
func (e *engine) doubt(w []float64, share float64) []float64 {
	rest := 1 - e.prior[0]
	for i := range w {
		w[i] *= 1 - share
		if len(e.hyps[i]) > 0 {
			w[i] += share * e.prior[i] / rest
		}
	}
	return w
}

// leftAfter moves the weight of each hypothesis to what is left of it when acts are done, at places (nil: wherever):
// what none of them cures, and an effect whose cause stays.
func (e *engine) leftAfter(post []float64, acts, at []string) []float64 {
	index := map[string]int{}
	for i, h := range e.hyps {
		index[h.key()] = i
	}
	out := make([]float64, len(post))
	for i, h := range e.hyps {
		var left hypothesis
		gone := func(f int) bool {
			placed := e.faults[f].at == "" || len(at) == 0 || slices.Contains(at, e.faults[f].at)
			return placed && slices.ContainsFunc(acts, func(a string) bool { return cures(a, e.faults[f].fault.ID) })
		}
		for _, f := range h {
			again := slices.ContainsFunc(h, func(cause int) bool { return cause != f && e.brings[cause][f] && !gone(cause) })
			if !gone(f) || again {
				left = append(left, f)
			}
		}
		out[index[left.key()]] += post[i] // a part of a hypothesis is one: none, one of two, two of three
	}
	return out
}

// key names a hypothesis.
func (h hypothesis) key() string {
	out := make([]byte, 0, 2*len(h))
	for _, f := range h {
		out = append(out, byte(f), byte(f>>8))
	}
	return string(out)
}

func normalise(w []float64) bool {
	sum := 0.0
	for _, x := range w {
		sum += x
	}
	if !(sum > 0) || math.IsInf(sum, 0) {
		return false
	}
	for i := range w {
		w[i] /= sum
	}
	return true
}
