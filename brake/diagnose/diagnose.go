package diagnose

import (
	"math"
	"strconv"
)

// worthwhile is the share of the expected cost that a test must be expected to save, its time paid, to
// be proposed before acting: the figures it is reckoned from are no finer. Where the proposed action is
// right with a chance of sureEnough, it must save more: what is left to find is then mostly a second
// fault, which Verify looks for anyway. Assumptions.
const (
	worthwhile     = 0.01
	worthwhileSure = 0.03
	sureEnough     = 0.9
)

// Result is what geminate diagnose prints.
type Result struct {
	Faults         []Ranked        `json:"faults"`
	Healthy        float64         `json:"healthy"`
	Action         Action          `json:"action"`
	NextTests      []NextTest      `json:"next_tests"`
	Contradictions []Contradiction `json:"contradictions"`
	// RestsOn lists the findings without which something else would be done or lead.
	RestsOn []Rest `json:"rests_on"`
	// CannotFinish says why this vehicle may not be finished with the tools at hand.
	CannotFinish []Obstacle `json:"cannot_finish"`
}

// Rest is what would stand without one finding.
type Rest struct {
	Finding     string  `json:"finding"`
	Fault       string  `json:"fault"` // "" = healthy
	At          string  `json:"at,omitempty"`
	Probability float64 `json:"probability"`
	Action      string  `json:"action"`
}

// Run ranks the faults of a checked case by exact enumeration of healthy, every single fault and
// every pair, and says what to do next.
func Run(c *Case, costs Costs) (*Result, error) {
	if c.System == nil {
		if err := c.Check(); err != nil {
			return nil, err
		}
	}
	e := engineFor(c.System)
	b, err := e.weigh(c)
	if err != nil {
		return nil, err
	}
	post := b.posterior("")
	marginals := e.marginals(post)
	r := &Result{Faults: e.rank(marginals, b.ev, b.asSure), Healthy: post[0], Contradictions: b.contradictions(marginals)}

	remedies := e.remedies(&costs)
	ranked := e.ranked(remedies, post)
	look := e.outlook(post, remedies, b.readings)
	r.NextTests = look.nextTests(c, &costs, b.known)
	best := ranked[0]
	r.Action = Action{ID: best.ID, ExpectedCost: best.ExpectedCost, Also: best.Also, ModulatorRoutine: best.ModulatorRoutine, ReplaceRubber: best.ReplaceRubber,
		Alternatives: ranked[1:min(4, len(ranked))], Settled: true}
	least := worthwhile * best.ExpectedCost
	if look.sure() >= sureEnough {
		least = worthwhileSure * best.ExpectedCost
	}
	for i := range r.NextTests {
		if r.NextTests[i].Saves > least {
			r.Action = Action{ID: actKeepTesting, ExpectedCost: best.ExpectedCost, Alternatives: ranked[:min(4, len(ranked))]}
			break
		}
	}
	r.RestsOn = b.restsOn(remedies, marginals, best.ID)
	r.CannotFinish = obstacles(c, &best)
	return r, nil
}

// body is the evidence of one case, weighed.
type body struct {
	e        *engine
	ev       []evidence // each observation by itself, as it counts
	asSure   []evidence // the same, as if every finding were sure
	sure     []bool
	readings []*observation
	together []float64 // the likelihood of all readings, worked out once
	known    map[string]string
}

func (e *engine) weigh(c *Case) (*body, error) {
	b := &body{e: e, known: map[string]string{}}
	measured := false
	for _, f := range c.Findings {
		measured = measured || (f.ID == "pedal.sink" && f.isSure())
	}
	for _, f := range c.Findings {
		obs, err := observe(c.System, f)
		if err != nil {
			return nil, err
		}
		b.known[f.ID] = plain(f.Value)
		for i := range obs {
			o := &obs[i]
			o.weight = 1
			if o.sign != nil {
				b.known[o.sign.ID] = o.value
				if o.sign.ID == "pedal.sinks" && measured {
					o.weight = felt
				}
			}
			b.ev = append(b.ev, evidence{*o, e.likelihood(o)})
			certain := *o
			certain.sure, certain.weight = true, 1
			b.asSure = append(b.asSure, evidence{certain, e.likelihood(&certain)})
			b.sure = append(b.sure, o.sure)
			if o.probe != nil {
				b.readings = append(b.readings, o)
			}
		}
	}
	return b, nil
}

// posterior takes all findings but one; "" leaves none out.
func (b *body) posterior(but string) []float64 {
	var like [][]float64
	for k := range b.ev {
		if o := &b.ev[k].obs; o.probe == nil && o.finding != but {
			like = append(like, b.ev[k].like)
		}
	}
	var readings []*observation
	for _, o := range b.readings {
		if o.finding != but {
			readings = append(readings, o)
		}
	}
	switch {
	case len(readings) == 0:
	case len(readings) < len(b.readings):
		like = append(like, b.e.readingsLikelihood(readings))
	default:
		if b.together == nil {
			b.together = b.e.readingsLikelihood(readings)
		}
		like = append(like, b.together)
	}
	return b.e.posterior(like)
}

func (b *body) contradictions(marginals []float64) []Contradiction {
	return b.e.contradictions(marginals, b.asSure, b.sure)
}

// restsOn leaves each finding out in turn.
func (b *body) restsOn(remedies []remedy, marginals []float64, action string) []Rest {
	out := []Rest{}
	lead := leading(marginals)
	done := map[string]bool{}
	for k := range b.ev {
		id := b.ev[k].obs.finding
		if done[id] {
			continue
		}
		done[id] = true
		post := b.posterior(id)
		m := b.e.marginals(post)
		r := Rest{Finding: id, Action: b.e.ranked(remedies, post)[0].ID, Probability: post[0]}
		at := leading(m)
		if at >= 0 && m[at] > post[0] {
			r.Fault, r.At, r.Probability = b.e.faults[at].fault.ID, b.e.faults[at].at, m[at]
		}
		if r.Action != action || at != lead {
			out = append(out, r)
		}
	}
	return out
}

func leading(marginals []float64) int {
	at, most := -1, math.Inf(-1)
	for i, p := range marginals {
		if p > most {
			at, most = i, p
		}
	}
	return at
}

func trim(x float64) string { return strconv.FormatFloat(x, 'f', -1, 64) }
