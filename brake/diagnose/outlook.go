package diagnose

import (
	"math"
	"slices"
	"sort"
)

const (
	keepHypotheses = 48  // by posterior; the others together are too rare to steer a test
	jointLimit     = 192 // outcomes of one test looked at together
	aheadLimit     = 12  // the same for each of two tests
	faultShare     = 0.1 // weight of a bit about the fault beside a bit about the action
)

// outlook is the situation the next test is chosen in: the likeliest hypotheses, the remedies that could
// be best and what each costs under each hypothesis.
type outlook struct {
	e        *engine
	hyps     []int
	w        []float64 // posterior of the hypotheses kept, made to add up to one
	remedies []remedy
	cost     [][]float64 // by remedy, by hypothesis kept
	class    []int       // by hypothesis kept: the remedy that is right for it
	readings *read
	// chosen is the remedy that is proposed, over all hypotheses, not those kept alone: what every word about the
	// proposal is of; whole is its chance to be all that is wanted and nothing more.
	chosen *remedy
	whole  float64
	drops  []bool // by remedy: it does not do all that the chosen one does
}

func (e *engine) outlook(post []float64, p *priced, readings *read) *outlook {
	remedies := p.remedies
	o := &outlook{e: e, readings: readings}
	idx := make([]int, len(post))
	for i := range idx {
		idx[i] = i
	}
	sort.SliceStable(idx, func(i, j int) bool { return post[idx[i]] > post[idx[j]] })
	o.hyps = idx[:min(keepHypotheses, len(idx))]
	total := 0.0
	for _, i := range o.hyps {
		total += post[i]
	}
	for _, i := range o.hyps {
		o.w = append(o.w, post[i]/total)
	}
	// Only a remedy that is right for some hypothesis kept, or among the best as things stand, can win.
	use := map[int]bool{}
	right := make([]int, len(o.hyps))
	for k, i := range o.hyps {
		right[k] = p.right[i]
		use[right[k]] = true
	}
	costs, whole := p.expected(post), p.wholeOf(post)
	at := choose(costs, whole)
	o.chosen, o.whole = &remedies[at], whole[at]
	use[at] = true
	order := make([]int, len(remedies))
	for r := range order {
		order[r] = r
	}
	sort.SliceStable(order, func(i, j int) bool {
		return costs[order[i]] < costs[order[j]]
	})
	for _, r := range order[:min(6, len(order))] {
		use[r] = true
	}
	place := map[int]int{}
	for r := range remedies {
		if !use[r] {
			continue
		}
		place[r] = len(o.remedies)
		o.remedies = append(o.remedies, remedies[r])
		row := make([]float64, len(o.hyps))
		for k, i := range o.hyps {
			row[k] = p.cost[r][i]
		}
		o.cost = append(o.cost, row)
	}
	for _, r := range right {
		o.class = append(o.class, place[r])
	}
	for r := range o.remedies {
		o.drops = append(o.drops, o.leavesOut(&o.remedies[r]))
	}
	return o
}

// sure is the chance that the remedy that costs least as things stand is right, or does all that is needed
// but for a second fault.
func (o *outlook) sure() float64 {
	acts, sum := o.chosen.acts, 0.0
	for k, w := range o.w {
		right := o.remedies[o.class[k]].acts
		if !slices.ContainsFunc(acts, func(a string) bool { return !slices.Contains(right, a) }) {
			sum += w
		}
	}
	return sum
}

// best is the cheapest remedy over weights of the hypotheses kept, and what it costs.
func (o *outlook) best(row []float64) (int, float64) {
	at, least := 0, math.Inf(1)
	for r := range o.cost {
		x := 0.0
		for k, c := range o.cost[r] {
			x += row[k] * c
		}
		if x < least {
			at, least = r, x
		}
	}
	return at, least
}

// information is the mutual information in bits between hypothesis and value.
func information(p [][]float64, w []float64) float64 {
	bits := 0.0
	for v := range p {
		pv := 0.0
		for k, x := range p[v] {
			pv += w[k] * x
		}
		for k, x := range p[v] {
			if x > 0 && w[k] > 0 {
				bits += w[k] * x * math.Log2(x/pv)
			}
		}
	}
	return math.Max(0, bits)
}

// ahead looks two tests ahead: where no single test pays for itself, two together may. It returns the
// test to begin with and what the two are expected to save, their time paid; "" where no two do.
func (o *outlook) ahead(tests []NextTest, outcomes map[string][]outcome, cost func(*NextTest) float64) (string, float64) {
	const most = 6 // tests looked at, the most telling per minute
	first, top := "", 0.0
	_, now := o.best(o.w)
	cut := func(id string) [][]float64 { return o.combine(outcomes[id], aheadLimit) }
	rows := map[string][][]float64{}
	n := min(most, len(tests))
	for i := range n {
		rows[tests[i].ID] = cut(tests[i].ID)
	}
	buf := make([]float64, len(o.w))
	for i := range n {
		for j := i + 1; j < n; j++ {
			a, b := &tests[i], &tests[j]
			saves := now - cost(a) - cost(b)
			for _, ra := range rows[a.ID] {
				for _, rb := range rows[b.ID] {
					for k := range buf {
						buf[k] = ra[k] * rb[k] / math.Max(o.w[k], 1e-300)
					}
					_, least := o.best(buf)
					saves -= least
				}
			}
			if saves > top+1e-9 && !(a.later && b.later) {
				if first, top = a.ID, saves; a.later {
					first = b.ID
				}
			}
		}
	}
	return first, top
}

// joint enumerates a test's findings together: its information in bits about the action and about the fault, by how
// much it lowers the expected cost of the best remedy, and the chance of an answer that leaves out some of the work now
// proposed (what it would only add, Verify asks for as well). Where the outcomes are too many, the least telling
// findings are left out, so that all four err to the low side.
func (o *outlook) joint(outcomes []outcome) (action, fault, saves, turns float64) {
	combos := o.combine(outcomes, jointLimit)
	prior := make([]float64, len(o.remedies))
	for k, w := range o.w {
		prior[o.class[k]] += w
	}
	by := make([]float64, len(o.remedies))
	_, saves = o.best(o.w)
	for _, row := range combos {
		clear(by)
		sum := 0.0
		for k, x := range row {
			sum += x
			by[o.class[k]] += x
		}
		for k, x := range row {
			if x > 0 {
				fault += x * math.Log2(x/(sum*o.w[k]))
			}
		}
		for c, x := range by {
			if x > 0 {
				action += x * math.Log2(x/(sum*prior[c]))
			}
		}
		at, least := o.best(row)
		saves -= least
		if o.drops[at] {
			turns += sum
		}
	}
	return math.Max(0, action), math.Max(0, fault), saves, turns
}

// combine is P(hypothesis, outcome) for a test's findings taken together, up to a number of outcomes.
func (o *outlook) combine(outcomes []outcome, limit int) [][]float64 {
	combos := [][]float64{o.w} // P(hypothesis, outcome so far)
	for _, x := range outcomes {
		if len(combos)*len(x.values) > limit || x.bits < 0.001 {
			break
		}
		next := make([][]float64, 0, len(combos)*len(x.values))
		for _, c := range combos {
			for v := range x.values {
				row := make([]float64, len(c))
				sum := 0.0
				for k := range c {
					row[k] = c[k] * x.p[v][k]
					sum += row[k]
				}
				if sum > 1e-9 {
					next = append(next, row)
				}
			}
		}
		combos = next
	}
	return combos
}
