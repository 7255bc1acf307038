package diagnose

import (
	"math"
	"sort"
)

// Contradiction is a pair of findings that hardly go together, and which one to repeat.
type Contradiction struct {
	Findings [2]string `json:"findings"`
	Bits     float64   `json:"bits"`
	Repeat   string    `json:"repeat"`
}

// contradictions looks for findings that pull a likely fault both ways: one speaks well for it,
// another well against it, and the two are rarer together than apart over everything that could be
// wrong. The one to repeat is the one marked unsure, else the one without which the rest is
// explained better. ev holds the likelihoods as if all findings were sure; sure says which are.
func (e *engine) contradictions(marginals []float64, ev []evidence, sure []bool) []Contradiction {
	const (
		likely   = 0.05
		speaks   = 1.5  // bits for or against
		apart    = -0.7 // bits by which the pair is rarer than by chance
		heaviest = 3
	)
	weight := func(l []float64) (sum float64) {
		for i := range e.hyps {
			sum += e.prior[i] * l[i]
		}
		return sum
	}
	out := []Contradiction{}
	seen := map[[2]int]bool{}
	for f, p := range marginals {
		if p < likely {
			continue
		}
		var pro, con []int
		for k := range ev {
			switch b := e.bits(f, ev[k].like); {
			case b >= speaks:
				pro = append(pro, k)
			case b <= -speaks:
				con = append(con, k)
			}
		}
		for _, a := range pro {
			for _, b := range con {
				if ev[a].obs.finding == ev[b].obs.finding || seen[[2]int{a, b}] || seen[[2]int{b, a}] {
					continue
				}
				both := 0.0
				for i := range e.hyps {
					both += e.prior[i] * ev[a].like[i] * ev[b].like[i]
				}
				wa, wb := weight(ev[a].like), weight(ev[b].like)
				bits := math.Log2(both / (wa * wb))
				if bits > apart {
					continue
				}
				seen[[2]int{a, b}] = true
				c := Contradiction{Findings: [2]string{ev[a].obs.finding, ev[b].obs.finding}, Bits: bits, Repeat: ev[a].obs.finding}
				switch {
				case sure[a] != sure[b]:
					if sure[a] {
						c.Repeat = ev[b].obs.finding
					}
				case e.without(ev, b)/wa > e.without(ev, a)/wb:
					c.Repeat = ev[b].obs.finding
				}
				out = append(out, c)
			}
		}
	}
	sort.SliceStable(out, func(i, j int) bool { return out[i].Bits < out[j].Bits })
	return out[:min(len(out), heaviest)]
}

// without is P(all observations but one).
func (e *engine) without(ev []evidence, but int) float64 {
	sum := 0.0
	for i, p := range e.prior {
		for k := range ev {
			if k != but {
				p *= ev[k].like[i]
			}
		}
		sum += p
	}
	return sum
}
