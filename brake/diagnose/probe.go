package diagnose

import (
	"fmt"
	"math"
	"strings"

	"geminate/brake/twin"
)

// probe is a measurement the twin can predict.
type probe struct {
	key   string
	at    string // where, for a pressure
	eval  func(*twin.Model) float64
	sigma func(predicted float64) float64 // the reading's accuracy, with what the model leaves out
	span  float64                         // of values the instrument can show
}

// Accuracies below are assumptions: a rule at the pad, a bathroom-scale pedal gauge, a dial gauge.

func sinkProbe(forceN, seconds float64, engineOn bool) *probe {
	return &probe{
		key:   fmt.Sprintf("sink %v %v %v", forceN, seconds, engineOn),
		eval:  func(m *twin.Model) float64 { return m.SinkMM(forceN, seconds, engineOn) },
		sigma: func(x float64) float64 { return both(1.5, 0.1*x) },
		span:  150,
	}
}

// travelProbe looks at the mean travel of a set of engine-off readings: their errors are mostly
// shared (the vehicle is not quite its pattern), so they count as one reading.
func travelProbe(forcesN []float64) *probe {
	return &probe{
		key: "travel " + strings.Trim(fmt.Sprint(forcesN), "[]"),
		eval: func(m *twin.Model) float64 {
			sum := 0.0
			for _, f := range forcesN {
				sum += m.Travel(f, false)
			}
			return sum / float64(len(forcesN))
		},
		sigma: func(x float64) float64 { return both(1.5, 0.12*x) },
		span:  200,
	}
}

func pressureProbe(at string, forceN float64, engineOn bool) *probe {
	return &probe{
		key: fmt.Sprintf("pressure %s %v %v", at, forceN, engineOn),
		at:  at,
		eval: func(m *twin.Model) float64 {
			p := m.Apply(forceN, engineOn)
			if v, ok := p.PressureMPA[at]; ok {
				return v
			}
			return p.WheelMPA[at]
		},
		sigma: func(x float64) float64 { return both(0.2, 0.08*x) },
		span:  20,
	}
}

// both adds two independent errors.
func both(a, b float64) float64 { return math.Sqrt(a*a + b*b) }

// stray is the share of readings that are simply wrong: misread, slipped foot, wrong line.
const stray = 0.01

// densityAt is P(reading | prediction).
func (p *probe) densityAt(reading, predicted float64) float64 {
	d := stray / p.span
	if math.IsInf(predicted, 0) {
		return d
	}
	s := p.sigma(predicted)
	z := (reading - predicted) / s
	if z*z < 80 {
		d += (1 - stray) * math.Exp(-z*z/2) / (s * math.Sqrt(2*math.Pi))
	}
	return d
}

// shares is P(reading between consecutive bounds | weighed predictions), the ends open.
func (p *probe) shares(bounds, predicted, weights []float64) []float64 {
	out := make([]float64, len(bounds)+1)
	total := 0.0
	for k, x := range predicted {
		w := weights[k]
		if w <= 0 {
			continue
		}
		total += w
		s, below := p.sigma(x)*math.Sqrt2, 0.0
		for b, edge := range bounds {
			upTo := (1 + math.Erf((edge-x)/s)) / 2
			out[b] += w * (upTo - below)
			below = upTo
		}
		out[len(bounds)] += w * (1 - below)
	}
	at := 0.0
	for b := range out {
		next := p.span
		if b < len(bounds) {
			next = math.Min(p.span, bounds[b])
		}
		out[b] = (1-stray)*out[b]/math.Max(total, 1e-300) + stray*math.Max(0, next-at)/p.span
		at = math.Max(at, next)
	}
	return out
}
