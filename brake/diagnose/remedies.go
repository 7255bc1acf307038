package diagnose

import (
	"encoding/json"
	"maps"
	"math"
	"slices"
	"sort"
	"strings"
)

// remedy is one or two actions done together.
type remedy struct {
	acts     []string
	price    float64   // its own minutes and parts
	left     []float64 // by fault: what it costs that the fault stays; 0 where it is cured
	stays    []float64 // by fault: the same whether it is cured or not
	again    []float64 // by fault: the right work done after all, the part of stays that is sure
	needless []float64 // by action: what it costs where nothing it cures is wrong
	cures    [][]bool  // by action, by fault
}

// remedies lists every single action and every sensible pair of a system, priced. What a remedy leaves
// behind costs the comeback, the cheapest right work done after all, and the danger in between.
func (e *engine) remedies(c *Costs) []remedy {
	var acts []*action
	for i := range actionTable {
		if a := &actionTable[i]; a.applies == nil || a.applies(e.sys) {
			acts = append(acts, a)
		}
	}
	stays, again := make([]float64, len(e.faults)), make([]float64, len(e.faults))
	for i, f := range e.faults {
		again[i] = math.Inf(1)
		for _, a := range acts {
			if slices.Contains(a.cures, f.fault.ID) {
				again[i] = math.Min(again[i], c.own(a.id))
			}
		}
		stays[i] = again[i] + c.Comeback
		switch {
		case f.fault.ID == "fluid.wet" || f.fault.ID == "fluid.low": // seen and told, not a comeback
			stays[i] = again[i] + c.Comeback/4
		case f.fault.Unsafe:
			stays[i] += c.Unsafe
		}
	}
	make1 := func(list ...*action) remedy {
		r := remedy{left: slices.Clone(stays), stays: stays, again: again}
		for _, a := range list {
			r.acts = append(r.acts, a.id)
			r.price += c.own(a.id)
			does := make([]bool, len(e.faults))
			for i, f := range e.faults {
				if does[i] = slices.Contains(a.cures, f.fault.ID); does[i] {
					r.left[i] = 0
				}
			}
			r.cures = append(r.cures, does)
			wasted := c.Needless * c.own(a.id)
			if a.id == actNothing {
				wasted = 0
			}
			r.needless = append(r.needless, wasted)
		}
		if slices.Contains(r.acts, "change_bore") { // where the bore was right, another is a new fault
			r.price += c.Comeback
			for i, f := range e.faults {
				if f.fault.ID == "mc.bore_too_small" || f.fault.ID == "mc.bore_too_large" {
					r.left[i] -= c.Comeback
				}
			}
		}
		if len(list) == 2 && list[0].opens && list[1].opens { // one bleed serves both
			r.price -= 0.8 * math.Min(c.own(actBleed), math.Min(c.own(list[0].id), c.own(list[1].id)))
		}
		return r
	}
	var out []remedy
	for _, a := range acts {
		out = append(out, make1(a))
	}
	for i, a := range acts[1:] {
		for _, b := range acts[i+2:] {
			if within1(a.cures, b.cures) || within1(b.cures, a.cures) || unitPair(a.id, b.id) {
				continue
			}
			out = append(out, make1(a, b))
		}
	}
	return out
}

func within1(a, b []string) bool {
	for _, x := range a {
		if !slices.Contains(b, x) {
			return false
		}
	}
	return true
}

// unitPair is a pair that is an action of its own or nonsense.
func unitPair(a, b string) bool {
	units := 0
	for _, id := range []string{a, b} {
		if strings.HasPrefix(id, "replace_") || id == "change_bore" {
			units++
		}
	}
	return units == 2 && a != "replace_booster" && b != "replace_booster" || (a == "replace_master_cylinder" && b == "replace_booster")
}

// foundAtVerify is the chance that a fault left behind, of a kind that Verify can see, is found there: no vehicle is
// handed over without a measured hold, the pedal's curve, the assist, the wheels turned and every joint seen dry.
// Assumption; the trial counts what comes of it.
const foundAtVerify = 0.95

// wrongFirst is what of that stays where the work done cured nothing at all: the vehicle is diagnosed a second time,
// by someone who has just been wrong. Assumption.
const wrongFirst = 0.5

// heals says whether a remedy rids hypothesis h of a fault for good: what cures an effect and leaves its cause does
// not, the effect comes again.
func (e *engine) heals(r *remedy, h hypothesis, fault int) bool {
	if r.left[fault] > 0 {
		return false
	}
	for _, other := range h {
		if other != fault && r.left[other] > 0 && e.brings[other][fault] {
			return false
		}
	}
	return true
}

// unseen is the share of a fault that Verify does not show. What is lost into an effect that hides it is not seen;
// where it goes elsewhere, every joint is looked at.
func (e *engine) unseen(h hypothesis, fault int) float64 {
	share := e.faults[fault].fault.Unseen
	if share > 0 && e.hiddenBy[fault] != nil && !slices.ContainsFunc(h, func(f int) bool { return e.hiddenBy[fault][f] }) {
		return 0
	}
	return share
}

// cost is what a remedy costs when hypothesis h is true. What is left and Verify can see costs the right work done
// after all; what it cannot see, or what nobody verifies because nothing was done, comes back.
func (e *engine) cost(r *remedy, h hypothesis) float64 {
	x := r.price
	trust := wrongFirst
	if slices.ContainsFunc(h, func(f int) bool { return e.heals(r, h, f) }) {
		trust = 1
	}
	for _, f := range h {
		if e.heals(r, h, f) {
			x += math.Min(0, r.left[f])
			continue
		}
		found := trust * foundAtVerify * (1 - e.unseen(h, f))
		if r.acts[0] == actNothing {
			found = 0
		}
		x += r.again[f] + (1-found)*(r.stays[f]-r.again[f])
	}
	for k, does := range r.cures {
		if !slices.ContainsFunc(h, func(f int) bool { return does[f] }) {
			x += r.needless[k]
		}
	}
	return x
}

// priced are a system's remedies at one shop's figures, and what each costs under every hypothesis.
type priced struct {
	key      string
	remedies []remedy
	cost     [][]float64 // by remedy, by hypothesis
	right    []int       // by hypothesis: the remedy that costs least
	whole    [][]bool    // by remedy, by hypothesis: it is the right one, and heals all that is wrong
}

// price works the costs out once for the figures last asked with.
func (e *engine) price(c *Costs) *priced {
	raw, err := json.Marshal(c)
	if err != nil {
		raw = nil
	}
	key := string(raw)
	e.mu.Lock()
	defer e.mu.Unlock()
	if e.priced != nil && key != "" && e.priced.key == key {
		return e.priced
	}
	p := &priced{key: key, remedies: e.remedies(c), right: make([]int, len(e.hyps))}
	p.cost, p.whole = make([][]float64, len(p.remedies)), make([][]bool, len(p.remedies))
	for r := range p.cost {
		p.cost[r], p.whole[r] = make([]float64, len(e.hyps)), make([]bool, len(e.hyps))
		for i, h := range e.hyps {
			p.cost[r][i] = e.cost(&p.remedies[r], h)
			if p.cost[r][i] < p.cost[p.right[i]][i] {
				p.right[i] = r
			}
		}
	}
	for i, h := range e.hyps {
		p.whole[p.right[i]][i] = e.whole(&p.remedies[p.right[i]], h)
	}
	e.priced = p
	return p
}

// whole says whether a remedy heals all that is wrong in a hypothesis.
func (e *engine) whole(r *remedy, h hypothesis) bool {
	return !slices.ContainsFunc(h, func(f int) bool { return !e.heals(r, h, f) })
}

// wholeOf is each remedy's chance to be whole.
func (p *priced) wholeOf(post []float64) []float64 {
	out := make([]float64, len(p.remedies))
	for i, x := range post {
		if x < 1e-7 {
			continue
		}
		for r := range p.whole {
			if p.whole[r][i] {
				out[r] += x
			}
		}
	}
	return out
}

// likelier is how many times as likely to be whole another remedy must be to stand in place of the one that costs
// least, where neither is right with one half. Assumption.
const likelier = 2

// choose is the remedy that is proposed: the one that costs least, unless it is likelier needless or not enough than
// not and another is all that is wanted with one half and more, or far likelier. What an unlikely fault would cost
// orders tests; it buys no second unit.
func choose(costs, whole []float64) int {
	least, likeliest := 0, 0
	for r := range costs {
		if costs[r] < costs[least] {
			least = r
		}
	}
	for r := range whole {
		if whole[r] > whole[likeliest] || whole[r] == whole[likeliest] && costs[r] < costs[likeliest] {
			likeliest = r
		}
	}
	if whole[least] < evenChance && (whole[likeliest] >= evenChance || whole[likeliest] > likelier*whole[least]) {
		return likeliest
	}
	return least
}

// expected is each remedy's expected cost.
func (p *priced) expected(post []float64) []float64 {
	var live []int
	for i, x := range post {
		if x > 1e-7 { // the rest together is worth less than a coin
			live = append(live, i)
		}
	}
	out := make([]float64, len(p.remedies))
	for r, cost := range p.cost {
		for _, i := range live {
			out[r] += post[i] * cost[i]
		}
	}
	return out
}

// ActionCost is one action with its expected cost.
type ActionCost struct {
	ID               string   `json:"id"`
	ExpectedCost     float64  `json:"expected_cost"`
	Also             []string `json:"also,omitempty"` // done at the same time
	ModulatorRoutine bool     `json:"modulator_routine,omitempty"`
	ReplaceRubber    bool     `json:"replace_rubber,omitempty"`
}

// Action is the proposal.
type Action struct {
	// ID is the best thing to do as things stand; keep_testing only where a test is worth its time and no action is
	// right with a chance of one half.
	ID string `json:"id"`
	// Best is the best action even then.
	Best         string  `json:"best"`
	ExpectedCost float64 `json:"expected_cost"`
	// Chance is the chance that it is whole: it puts right all that is wrong, and nothing of it is needless.
	Chance float64 `json:"chance"`
	// Price is its own minutes and parts, and Minutes the hands' part of it.
	Price   float64 `json:"price"`
	Minutes float64 `json:"minutes"`
	// Opens says that what is likely wrong at its wheels or lines cannot be put right without opening them.
	Opens bool `json:"opens,omitempty"`
	// At names the wheels or circuits a repair there is for.
	At []string `json:"at,omitempty"`
	// Also lists what else is worth doing at the same time.
	Also         []string     `json:"also,omitempty"`
	Alternatives []ActionCost `json:"alternatives"`
	Settled      bool         `json:"settled"`
	// ModulatorRoutine says that the scan tool's routine belongs to the bleed.
	ModulatorRoutine bool `json:"modulator_routine,omitempty"`
	// ReplaceRubber says that everything made of rubber goes with the fluid.
	ReplaceRubber bool `json:"replace_rubber,omitempty"`
}

// closedWork are the wheel's faults that are put right with the hydraulics closed.
var closedWork = []string{"wheel.excess_clearance"}

// opensThere says whether a repair at wheels or lines more likely opens the hydraulics than not.
func (e *engine) opensThere(acts []string, marginals []float64) bool {
	opened, closed := 0.0, 0.0
	for i, f := range e.faults {
		switch {
		case slices.Contains(acts, "repair_line") && f.at != "" && cures("repair_line", f.fault.ID):
			opened += marginals[i]
		case slices.Contains(acts, "repair_wheel") && cures("repair_wheel", f.fault.ID):
			if slices.Contains(closedWork, f.fault.ID) {
				closed += marginals[i]
			} else {
				opened += marginals[i]
			}
		}
	}
	return opened > closed
}

// placesOf are the places an action is for: those whose faults it cures and that are at least half as likely as the
// likeliest.
func (e *engine) placesOf(acts []string, marginals []float64) (out []string) {
	top := 0.0
	by := map[string]float64{}
	for _, id := range acts {
		if id != "repair_wheel" && id != "repair_line" {
			continue
		}
		for i, f := range e.faults {
			if f.at != "" && cures(id, f.fault.ID) {
				by[f.at] += marginals[i]
				top = math.Max(top, by[f.at])
			}
		}
	}
	for _, at := range slices.Sorted(maps.Keys(by)) {
		if by[at] > 0.05 && by[at] >= top/2 {
			out = append(out, at)
		}
	}
	return out
}

// outward turns a remedy into the vocabulary's ids, the action that does most of the good first.
func (r *remedy) outward(e *engine, marginals []float64, cost float64) ActionCost {
	acts := slices.Clone(r.acts)
	good := func(id string) (x float64) {
		a := findAction(id)
		for i, f := range e.faults {
			if slices.Contains(a.cures, f.fault.ID) {
				x += marginals[i]
			}
		}
		return x
	}
	sort.SliceStable(acts, func(i, j int) bool { return good(acts[i]) > good(acts[j]) })
	out := ActionCost{ExpectedCost: cost}
	for i, id := range acts {
		switch id {
		case actRoutine:
			id, out.ModulatorRoutine = actBleed, true
		case actRubber:
			id, out.ReplaceRubber = actFluid, true
		}
		if i == 0 {
			out.ID = id
		} else {
			out.Also = append(out.Also, id)
		}
	}
	return out
}

// proposed is the first action of the remedy that is proposed.
func (e *engine) proposed(p *priced, post []float64) string {
	at := choose(p.expected(post), p.wholeOf(post))
	return p.remedies[at].outward(e, e.marginals(post), 0).ID
}

// ranked lists the remedies: the one proposed, then the others by expected cost; of several with the same first action
// only the best.
func (e *engine) ranked(p *priced, post []float64) []ActionCost {
	marginals := e.marginals(post)
	costs := p.expected(post)
	chosen := choose(costs, p.wholeOf(post))
	all := make([]ActionCost, 0, len(p.remedies))
	for i, x := range costs {
		if i != chosen {
			all = append(all, p.remedies[i].outward(e, marginals, x))
		}
	}
	sort.SliceStable(all, func(i, j int) bool { return all[i].ExpectedCost < all[j].ExpectedCost })
	first := p.remedies[chosen].outward(e, marginals, costs[chosen])
	out := []ActionCost{first}
	seen := map[string]bool{first.ID: true}
	for _, a := range all {
		if !seen[a.ID] {
			seen[a.ID] = true
			out = append(out, a)
		}
	}
	return out
}
