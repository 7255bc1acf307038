package diagnose

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Common practice, no source: where the work that the signs ask for has been done and they ask for it again, something else is
// wrong, and no second part is bought for it.
func TestWorkDoneInVainSaysThatItIsSomethingElse(t *testing.T) {
	costs := DefaultCosts()
	cable := []string{sign1("brakes.drag", "one_wheel"), sign1("drag.released_by", "nothing"),
		`{"id":"wheel.check","value":{"LF":"free","RF":"free","LR":"drags","RR":"drags"}}`,
		sign1("rubber.swollen", "no"), `{"id":"fluid.water_percent","value":0.5}`, sign1("pedal.soft_when_hot", "no")}
	drags := caseOf(t, "car-front-rear-vacuum", cable...)
	run := func(c *Case) *Result {
		r, err := Run(c, costs)
		require.NoError(t, err)
		return r
	}
	first := run(drags)
	assert.Equal(t, BeyondPrior, first.Beyond.Probability, "before any work it is what it is on every vehicle")
	assert.False(t, first.Beyond.Wins)
	assert.Empty(t, first.Beyond.Left)
	again := func(acts []string, before *Case) *Case {
		c := caseOf(t, "car-front-rear-vacuum", cable...)
		c.After = &Work{Acts: acts, Before: before}
		return c
	}
	// Other work than what is asked for now: the second thing is tried, and says nothing yet.
	other := again([]string{"set_rod"}, drags)
	second := run(other)
	assert.False(t, second.Beyond.Wins)
	assert.Greater(t, second.Beyond.Probability, first.Beyond.Probability)
	// The same once more.
	asked := append([]string{second.Action.Best}, second.Action.Also...)
	same := run(again(asked, drags))
	require.Contains(t, asked, same.Action.Best, "asked for again")
	assert.True(t, same.Beyond.Wins)
	assert.Equal(t, []string{"brakes.drag", "wheel.check"}, same.Beyond.Left)
	// Three in a row is more than two, whatever they were.
	third := again([]string{"repair_line"}, other)
	assert.Greater(t, run(third).Beyond.Probability, second.Beyond.Probability)
}

// Common practice, no source: a second bleed is nothing unusual.
func TestASecondBleedIsNothingUnusual(t *testing.T) {
	before := caseOf(t, "car-front-rear-vacuum", sign1("pedal.springy", "yes"), sign1("pedal.pumps_up", "stays"))
	c := caseOf(t, "car-front-rear-vacuum", sign1("pedal.springy", "yes"), sign1("pedal.pumps_up", "stays"))
	c.After = &Work{Acts: []string{"bleed"}, Before: before}
	r, err := Run(c, DefaultCosts())
	require.NoError(t, err)
	require.Equal(t, "bleed", r.Action.Best)
	assert.False(t, r.Beyond.Wins)
}

// A leak that was seen is a fact, as a wet place is: it is put right whatever the complaint comes from.
func TestASeenLeakIsAFact(t *testing.T) {
	c := caseOf(
		t,
		"car-front-rear-vacuum",
		sign1("pedal.springy", "yes"),
		sign1("pedal.pumps_up", "stays"),
		sign1("leak.seen", "line_joint"),
	)
	facts, err := Unexplained(c, []string{"replace_booster"}, nil)
	require.NoError(t, err)
	require.Len(t, facts, 1)
	assert.Equal(t, Fact{Finding: "leak.seen", Value: "line_joint", Act: "repair_line"}, facts[0])
	none, err := Unexplained(c, []string{"repair_line"}, nil)
	require.NoError(t, err)
	assert.Empty(t, none)
}
