package diagnose

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/system"
)

// Whatever is wrong, one or two faults: who knows it does what cures all of it, fits no unit that is sound,
// and pays no more than for any other way.
func TestTheRightRemedyCuresAndWastesNothing(t *testing.T) {
	for _, pattern := range system.Patterns {
		s := pattern.Build()
		e := newEngine(&s, nil)
		costs := DefaultCosts()
		p := e.price(&costs)
		for i, h := range e.hyps {
			r := &p.remedies[p.right[i]]
			if len(h) == 3 {
				continue // two actions at once may leave one of three
			}
			for _, k := range h {
				require.True(t, e.heals(r, h, k), "%s: %s left by %v", pattern.ID, e.faults[k].fault.ID, r.acts)
			}
			if len(h) == 0 {
				require.Equal(t, []string{actNothing}, r.acts, pattern.ID)
				continue
			}
			var truth []Suspect
			for _, k := range h {
				truth = append(truth, Suspect{e.faults[k].fault.ID, e.faults[k].at})
			}
			require.False(t, wrongUnit(truth, r.acts), "%s: %v for %v", pattern.ID, r.acts, truth)
		}
	}
}

func TestRemediesArePricedTogether(t *testing.T) {
	s, _ := system.FromPattern("pickup-front-rear-vacuum")
	e := newEngine(s, nil)
	costs := DefaultCosts()
	price := map[string]float64{}
	for _, r := range e.remedies(&costs) {
		id := r.acts[0]
		if len(r.acts) == 2 {
			id += "+" + r.acts[1]
		}
		_, twice := price[id]
		require.False(t, twice, id)
		price[id] = r.price
	}
	assert.InDelta(t, 110*1.6+180, price["replace_master_cylinder"], 1e-9)
	assert.Less(t, price["replace_master_cylinder+repair_line"], price["replace_master_cylinder"]+price["repair_line"],
		"one bleed serves both")
	assert.InDelta(t, price["replace_booster"]+price["repair_wheel"], price["replace_booster+repair_wheel"], 1e-9,
		"a booster swung aside opens nothing")
	assert.NotContains(t, price, "replace_master_cylinder+replace_booster", "that is replace_both")
	assert.NotContains(t, price, "replace_master_cylinder+bleed", "a bleed is part of it")
	assert.Greater(t, price["change_bore"], price["replace_master_cylinder"]+costs.Comeback-1,
		"another bore where the bore was right is a new fault")
	manual, _ := system.FromPattern("special-manual")
	for _, r := range newEngine(manual, nil).remedies(&costs) {
		assert.NotContains(t, r.acts, "replace_booster")
		assert.NotContains(t, r.acts, "repair_supply")
	}
}

// Source: information theory. What a test tells lies between nothing and what there is to know; a test of
// something already decided tells nothing about what to do; more findings never tell less.
func TestInformationIsBounded(t *testing.T) {
	s, _ := system.FromPattern("car-diagonal-vacuum")
	e := newEngine(s, nil)
	costs := DefaultCosts()
	c := caseOf(t, "car-diagonal-vacuum", sign1("pedal.springy", "yes"), sign1("pedal.low", "yes"))
	b, err := e.weigh(c)
	require.NoError(t, err)
	o := e.outlook(b.posterior(""), e.price(&costs), e.read(b.readings))
	entropy, sum := 0.0, 0.0
	for _, w := range o.w {
		sum += w
		if w > 0 {
			entropy -= w * math.Log2(w)
		}
	}
	assert.InDelta(t, 1, sum, 1e-9)
	checked := 0
	for i := range Tests {
		outcomes := o.outcomes(&Tests[i], b.known)
		if len(outcomes) == 0 {
			continue
		}
		action, fault, saves, turns := o.joint(outcomes)
		require.True(t, turns >= 0 && turns <= 1+1e-9, Tests[i].ID)
		require.True(t, action >= 0 && action <= fault+1e-9, "%s: what it tells about the action it tells about the fault", Tests[i].ID)
		require.LessOrEqual(t, fault, entropy+1e-9, Tests[i].ID)
		require.GreaterOrEqual(t, saves, -1e-9, "%s: knowing more never costs more, its time aside", Tests[i].ID)
		_, first, _, _ := o.joint(outcomes[:1])
		require.GreaterOrEqual(t, fault, first-1e-9, Tests[i].ID)
		checked++
	}
	assert.Greater(t, checked, 12)
	assert.True(t, o.sure() > 0 && o.sure() <= 1+1e-9)
	// Looking two tests ahead never promises less than nothing, and names a test that can be done.
	list := o.nextTests(c, &costs, b.known)
	for _, n := range list {
		assert.NotEqual(t, "crack_line", n.ID, "not before something is known to drag")
	}
}

// Source: hand. A test that settles between two equal remedies saves half the difference of being wrong.
func TestSavingsByHand(t *testing.T) {
	o := &outlook{
		hyps:     []int{0, 1},
		w:        []float64{0.5, 0.5},
		remedies: make([]remedy, 2),
		cost:     [][]float64{{100, 500}, {500, 100}},
		class:    []int{0, 1},
		drops:    []bool{false, true},
	}
	sure := outcome{values: []string{"a", "b"}, p: [][]float64{{1, 0}, {0, 1}}, bits: 1}
	action, fault, saves, turns := o.joint([]outcome{sure})
	assert.InDelta(t, 0.5, turns, 1e-12, "one answer in two is for the other")
	assert.InDelta(t, 1, action, 1e-12)
	assert.InDelta(t, 1, fault, 1e-12)
	assert.InDelta(t, 200, saves, 1e-9, "300 on average before, 100 after")
	half := outcome{values: []string{"a", "b"}, p: [][]float64{{0.8, 0.2}, {0.2, 0.8}}, bits: 0.3}
	_, _, saves, _ = o.joint([]outcome{half})
	assert.InDelta(t, 120, saves, 1e-9)
	blind := outcome{values: []string{"a", "b"}, p: [][]float64{{0.5, 0.5}, {0.5, 0.5}}, bits: 0.5}
	action, _, saves, turns = o.joint([]outcome{blind})
	assert.Zero(t, turns)
	assert.InDelta(t, 0, action+saves, 1e-9)
}
