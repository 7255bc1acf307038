package diagnose

import (
	"math"
	"slices"
	"strconv"
)

// A further test is worth its time where it is expected to save more than this share of the expected cost and more
// than this many minutes of work, its own time paid: the figures it is reckoned from are no finer. From evenChance on
// the best action is named as the proposal even before that. Assumptions.
const (
	worthwhileShare   = 0.05
	worthwhileMinutes = 10
	evenChance        = 0.5
)

// Result is what geminate diagnose prints.
type Result struct {
	Faults    []Ranked   `json:"faults"`
	Healthy   float64    `json:"healthy"`
	Action    Action     `json:"action"`
	NextTests []NextTest `json:"next_tests"`
	// TestFirst is the test worth its time before anything is done, "" where none is; FirstWhy is why.
	TestFirst string `json:"test_first"`
	FirstWhy  Before `json:"first_why,omitempty"`
	// OnTheWay are quick tests that are not worth stopping for but tell something while one is there, by id.
	OnTheWay       []string        `json:"on_the_way"`
	Contradictions []Contradiction `json:"contradictions"`
	// Carries are the two or three findings the verdict stands on.
	Carries []Carry `json:"carries"`
	// WheelWork are the figures of a wheel's repair, where clearance is what is wrong there.
	WheelWork []WheelWork `json:"wheel_work"`
	// RestsOn lists the findings without which something else would be done or lead.
	RestsOn []Rest `json:"rests_on"`
	// Unexplained are facts that the proposed action would not put right.
	Unexplained []Fact `json:"unexplained"`
	// Beyond is the chance that nothing the table knows is what is wrong.
	Beyond Beyond `json:"beyond"`
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
	e := engineFor(c.System, c.Experience)
	b, err := e.weigh(c)
	if err != nil {
		return nil, err
	}
	post := b.posterior("")
	marginals := e.marginals(post)
	r := &Result{Faults: e.rank(post, marginals, b.ev, b.asSure), Healthy: post[0], Contradictions: b.contradictions(post)}

	remedies := e.price(&costs)
	ranked := e.ranked(remedies, post)
	look := e.outlook(post, remedies, e.read(b.readings))
	r.NextTests = look.nextTests(c, &costs, b.known)
	best := ranked[0]
	r.Action = e.propose(look, ranked, marginals, &costs)
	first, why := look.testFirst(r.NextTests, best.ExpectedCost, &costs), BeforeSaves
	if first == "" {
		first, why = look.first(b, r.NextTests, post, &costs)
	}
	r.Action.Settled = len(r.Contradictions) == 0 && first == ""
	if !r.Action.Settled && r.Action.Chance < evenChance && len(r.NextTests) > 0 {
		r.Action.ID = actKeepTesting
	}
	if !r.Action.Settled {
		r.TestFirst = first
		if first != "" {
			r.FirstWhy = why
		}
	}
	if err := r.withoutHabit(c, costs); err != nil {
		return nil, err
	}
	r.OnTheWay = onTheWay(r.NextTests, r.Action.Settled)
	r.RestsOn = b.restsOn(remedies, marginals, best.ID)
	r.Unexplained = b.unexplained(post, append([]string{best.ID}, best.Also...), r.Action.At)
	r.CannotFinish = obstacles(c, &best)
	r.Carries = carriers(r.Faults)
	lead := ""
	if len(r.Faults) > 0 {
		lead = r.Faults[0].ID
	}
	r.Beyond = c.beyond(append([]string{best.ID}, best.Also...), lead)
	r.WheelWork, err = wheelWork(c, &r.Action, r.Faults)
	return r, err
}

// withoutHabit asks the table where a shop's own experience has settled a case: what a shop is used to finding orders
// what is believed, it spares no test that the table would ask for. A shop that has always written one thing is not
// proof of it.
func (r *Result) withoutHabit(c *Case, costs Costs) error {
	if !r.Action.Settled || c.Experience == nil {
		return nil
	}
	plain := *c
	plain.Experience = nil
	table, err := Run(&plain, costs)
	if err != nil || table.TestFirst == "" {
		return err
	}
	r.Action.Settled, r.TestFirst, r.FirstWhy, r.NextTests = false, table.TestFirst, BeforeHabit, table.NextTests
	return nil
}

// body is the evidence of one case, weighed.
type body struct {
	e        *engine
	start    []float64  // what was believed before anything here was found
	ev       []evidence // each observation by itself, as it counts
	asSure   []evidence // the same, as if every finding were sure
	sure     []bool
	readings []*observation
	together []float64 // the likelihood of all readings, worked out once
	known    map[string]string
}

func (e *engine) weigh(c *Case) (*body, error) {
	b := &body{e: e, known: map[string]string{}}
	var err error
	if b.start, err = e.startOf(c); err != nil {
		return nil, err
	}
	all, err := observeAll(c.System, c.Findings)
	if err != nil {
		return nil, err
	}
	for _, f := range c.Findings {
		b.known[f.ID] = plain(f.Value)
	}
	measured := slices.ContainsFunc(all, func(o observation) bool { return o.finding == "pedal.sink" && o.sure })
	for i := range all {
		o := &all[i]
		o.weight = 1
		if o.sign != nil {
			b.known[o.sign.ID] = o.value
			if o.sign.ID == "pedal.sinks" && measured {
				o.weight = felt
			}
		}
		certain := *o
		certain.sure, certain.weight = true, 1
		plainly := evidence{certain, e.likelihood(&certain)}
		counted := plainly
		if !o.sure || o.weight != 1 {
			counted = evidence{*o, e.likelihood(o)}
		}
		b.ev, b.asSure = append(b.ev, counted), append(b.asSure, plainly)
		b.sure = append(b.sure, o.sure)
		if o.probe != nil {
			b.readings = append(b.readings, o)
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
			b.together = b.readingsTogether(readings)
		}
		like = append(like, b.together)
	}
	return b.e.posteriorFrom(b.start, like)
}

// readingsTogether is the likelihood of all readings; of one alone it is known already.
func (b *body) readingsTogether(readings []*observation) []float64 {
	if len(readings) == 1 && readings[0].sure {
		for k := range b.ev {
			if b.ev[k].obs.probe == readings[0].probe {
				return b.ev[k].like
			}
		}
	}
	return b.e.readingsLikelihood(readings)
}

// restsOn leaves each finding out in turn.
func (b *body) restsOn(remedies *priced, marginals []float64, action string) []Rest {
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
		r := Rest{Finding: id, Action: b.e.proposed(remedies, post), Probability: post[0]}
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

// propose states the best action as things stand.
func (e *engine) propose(look *outlook, ranked []ActionCost, marginals []float64, costs *Costs) Action {
	best := ranked[0]
	acts := append([]string{best.ID}, best.Also...)
	a := Action{
		ID:               best.ID,
		Best:             best.ID,
		ExpectedCost:     best.ExpectedCost,
		Chance:           look.whole,
		Also:             best.Also,
		ModulatorRoutine: best.ModulatorRoutine,
		ReplaceRubber:    best.ReplaceRubber,
		At:               e.placesOf(acts, marginals),
		Opens:            e.opensThere(acts, marginals),
		Alternatives:     ranked[1:min(4, len(ranked))],
	}
	a.Price = look.chosen.price
	for _, id := range look.chosen.acts {
		a.Minutes += costs.Minutes[id]
	}
	return a
}

// testFirst is the first test that is worth its time, "" where none is.
func (o *outlook) testFirst(tests []NextTest, cost float64, costs *Costs) string {
	least := math.Max(worthwhileShare*cost, worthwhileMinutes*costs.PerMinute)
	if o.sure() < evenChance { // more likely wrong than right: any test that pays for itself
		least = 0
	}
	for i := range tests {
		if tests[i].Saves > least {
			return tests[i].ID
		}
	}
	return ""
}

// onTheWay are the tests of a few minutes that open nothing and still tell something about what is wrong.
func onTheWay(tests []NextTest, settled bool) []string { // tests holds those alone whose tools are to hand
	const (
		quick  = 3    // minutes
		tells  = 0.01 // bits about the fault
		fewest = 4
	)
	out := []string{}
	for i := range tests {
		t := &tests[i]
		if settled && t.Minutes <= quick && !t.OpensHydraulics && t.FaultBits >= tells && len(out) < fewest {
			out = append(out, t.ID)
		}
	}
	return out
}
