package bleed

import (
	"math"

	"geminate/brake/memo"
)

// WashoutCM3 is the fluid that must enter a path before what leaves holds no more than oldFraction
// of the old: a laminar pipe, whose exit carries 1/(4N²) old fluid after N of its volumes (N ≥ 1/2),
// then a well-mixed cavity.
//
// Source: E(t) = t̄²/(2t³), Levenspiel, Chemical Reaction Engineering (from memory), integrated.
func WashoutCM3(pipeCM3, cavityCM3, oldFraction float64) float64 {
	return washout([3]float64{pipeCM3, cavityCM3, oldFraction})
}

// washout is asked for the same wheels at every stroke.
var washout = memo.Func(1024, func(k [3]float64) float64 { return washoutCM3(k[0], k[1], k[2]) })

func washoutCM3(pipeCM3, cavityCM3, oldFraction float64) float64 {
	pipeExit := func(v float64) float64 {
		if pipeCM3 <= 0 {
			return 0
		}
		if n := v / pipeCM3; n > 0.5 {
			return 1 / (4 * n * n)
		}
		return 1
	}
	if cavityCM3 <= 0 {
		return pipeCM3 / (2 * math.Sqrt(oldFraction))
	}
	step := (pipeCM3 + cavityCM3) / 4000
	keep := math.Exp(-step / cavityCM3)
	c, v := 1.0, 0.0
	for c > oldFraction {
		in := pipeExit(v + step/2)
		next := in + (c-in)*keep
		if next <= oldFraction {
			return v + step*(c-oldFraction)/(c-next)
		}
		c = next
		v += step
	}
	return v
}
