package diagnose

import (
	"slices"
	"strconv"
)

// Result is what geminate diagnose prints.
type Result struct {
	Faults         []Ranked        `json:"faults"`
	Healthy        float64         `json:"healthy"`
	Action         Action          `json:"action"`
	NextTests      []NextTest      `json:"next_tests"`
	Contradictions []Contradiction `json:"contradictions"`
}

// Run ranks the faults of a checked case by exact enumeration of healthy, every single fault and
// every pair, and says what to do next.
func Run(c *Case, costs Costs) (*Result, error) {
	if c.System == nil {
		if err := c.Check(); err != nil {
			return nil, err
		}
	}
	e := newEngine(c.System)
	var like, asSure [][]float64
	var findings []string
	var sure []bool
	known := map[string]bool{}
	for _, f := range c.Findings {
		obs, err := observe(c.System, f)
		if err != nil {
			return nil, err
		}
		known[f.ID] = true
		for i := range obs {
			o := &obs[i]
			if o.sign != nil {
				known[o.sign.id] = true
			}
			l := e.likelihoods(o)
			like = append(like, l)
			if !o.sure {
				certain := *o
				certain.sure = true
				l = e.likelihoods(&certain)
			}
			asSure = append(asSure, l)
			findings = append(findings, o.finding)
			sure = append(sure, o.sure)
		}
	}
	post := e.posterior(like)
	r := &Result{Faults: e.rank(post, findings, like), Healthy: post[0]}
	r.Contradictions = e.contradictions(r.Faults, findings, sure, asSure)

	actions := actionsFor(c.System)
	table := e.costTable(&costs, actions)
	ranked := sortedActions(actions, expected(table, post))
	r.NextTests = e.nextTests(c, &costs, table, post, known)
	best := ranked[0]
	r.Action = Action{ID: best.ID, ExpectedCost: best.ExpectedCost, Alternatives: ranked[1:min(4, len(ranked))], Settled: true}
	// Another test is worth doing while it saves more than its time costs. Tests that open the
	// hydraulics cost a bleed as well.
	for _, t := range r.NextTests {
		saves := t.Saves
		if t.OpensHydraulics {
			saves -= costs.Minutes["bleed"]*costs.PerMinute + costs.Parts["bleed"]
		}
		if saves > 0 {
			r.Action.Settled = false
		}
	}
	if !r.Action.Settled {
		r.Action.Alternatives = ranked[:min(4, len(ranked))]
		r.Action.ID = "keep_testing"
	}
	routine := r.Action.ID == "bleed"
	r.Action.ModulatorRoutine = routine && slices.ContainsFunc(r.Faults, func(f Ranked) bool { return f.ID == "circuit.modulator_air" && f.Probability > 0.2 })
	return r, nil
}

func trim(x float64) string { return strconv.FormatFloat(x, 'f', -1, 64) }
