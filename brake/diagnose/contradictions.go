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
// explained better. like holds the likelihoods as if all findings were sure.
func (e *engine) contradictions(faults []Ranked, findings []string, sure []bool, like [][]float64) []Contradiction {
	const (
		likely   = 0.05
		speaks   = 1.5  // bits for or against
		apart    = -0.7 // bits by which the pair is rarer than by chance
		heaviest = 3
	)
	weight := func(l []float64) (sum float64) {
		for i, h := range e.hyps {
			sum += h.prior * l[i]
		}
		return sum
	}
	out := []Contradiction{}
	seen := map[[2]int]bool{}
	for _, f := range faults {
		if f.Probability < likely {
			break
		}
		var pro, con []int
		for k, l := range like {
			switch b := e.bits(f.ID, f.At, l); {
			case b >= speaks:
				pro = append(pro, k)
			case b <= -speaks:
				con = append(con, k)
			}
		}
		for _, a := range pro {
			for _, b := range con {
				if findings[a] == findings[b] || seen[[2]int{a, b}] {
					continue
				}
				both := 0.0
				for i, h := range e.hyps {
					both += h.prior * like[a][i] * like[b][i]
				}
				bits := math.Log2(both / (weight(like[a]) * weight(like[b])))
				if bits > apart {
					continue
				}
				seen[[2]int{a, b}] = true
				c := Contradiction{Findings: [2]string{findings[a], findings[b]}, Bits: bits, Repeat: findings[a]}
				switch {
				case sure[a] != sure[b]:
					if sure[a] {
						c.Repeat = findings[b]
					}
				case e.evidence(like, b)/weight(like[a]) > e.evidence(like, a)/weight(like[b]):
					c.Repeat = findings[b]
				}
				out = append(out, c)
			}
		}
	}
	sort.SliceStable(out, func(i, j int) bool { return out[i].Bits < out[j].Bits })
	return out[:min(len(out), heaviest)]
}

// evidence is P(all observations but one).
func (e *engine) evidence(like [][]float64, but int) float64 {
	sum := 0.0
	for i, h := range e.hyps {
		p := h.prior
		for k, l := range like {
			if k != but {
				p *= l[i]
			}
		}
		sum += p
	}
	return sum
}
