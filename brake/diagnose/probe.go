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
	eval  func(*twin.Model) float64
	sigma func(predicted float64) float64 // the reading's accuracy, with what the model leaves out
	span  float64                         // of values the instrument can show
}

// Accuracies below are assumptions: a rule at the pad, a bathroom-scale pedal gauge, a dial gauge.

func sinkProbe(forceN, seconds float64, engineOn bool) *probe {
	return &probe{
		key:   fmt.Sprintf("sink %v %v %v", forceN, seconds, engineOn),
		eval:  func(m *twin.Model) float64 { return m.SinkMM(forceN, seconds, engineOn) },
		sigma: func(x float64) float64 { return math.Hypot(1.5, 0.1*x) },
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
		sigma: func(x float64) float64 { return math.Hypot(1.5, 0.12*x) },
		span:  200,
	}
}

func pressureProbe(at string, forceN float64, engineOn bool) *probe {
	return &probe{
		key: fmt.Sprintf("pressure %s %v %v", at, forceN, engineOn),
		eval: func(m *twin.Model) float64 {
			p := m.Apply(forceN, engineOn)
			if v, ok := p.PressureMPA[at]; ok {
				return v
			}
			return p.WheelMPA[at]
		},
		sigma: func(x float64) float64 { return math.Hypot(0.2, 0.08*x) },
		span:  20,
	}
}

// stray is the share of readings that are simply wrong: misread, slipped foot, wrong line.
const stray = 0.01

// density is P(reading | predictions), the predictions weighed evenly.
func (p *probe) density(reading float64, predicted []float64) float64 {
	sum := 0.0
	for _, x := range predicted {
		s := p.sigma(x)
		z := (reading - x) / s
		sum += math.Exp(-z*z/2) / (s * math.Sqrt(2*math.Pi))
	}
	return (1-stray)*sum/float64(len(predicted)) + stray/p.span
}

// share is P(lo < reading ≤ hi | predictions).
func (p *probe) share(lo, hi float64, predicted []float64) float64 {
	sum := 0.0
	for _, x := range predicted {
		s := p.sigma(x) * math.Sqrt2
		sum += (math.Erf((hi-x)/s) - math.Erf((lo-x)/s)) / 2
	}
	return (1-stray)*sum/float64(len(predicted)) + stray*(math.Min(hi, p.span)-math.Max(lo, 0))/p.span
}
