package diagnose

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Common practice, no source: before a vehicle is let go it is looked at for what the complaint would not have shown.
func TestALookIsWorthWhatItMayFind(t *testing.T) {
	costs := DefaultCosts()
	const car = "car-front-rear-vacuum"
	tests := func(c *Case, acts []string, now []Finding) []string {
		looks, err := Wider(c, acts, nil, now, &costs)
		require.NoError(t, err)
		var out []string
		for _, l := range looks {
			assert.Positive(t, l.Saves, l.Test)
			assert.NotEmpty(t, l.For, l.Test)
			for _, f := range l.For { // said as it is believed, not as it is looked for
				assert.Less(t, f.Probability, 0.12, "%s %s", l.Test, f.ID)
			}
			assert.NotEmpty(t, l.Asks, l.Test)
			assert.False(t, TestOf(l.Test).OpensHydraulics, "nothing is opened again for a look")
			out = append(out, l.Test)
		}
		return out
	}
	c := caseOf(t, car, sign1("pedal.springy", "yes"))
	passed := caseOf(t, car, sign1("pedal.springy", "no"), sign1("pedal.pumps_up", "no"), sign1("pedal.hard", "no"),
		sign1("pedal.low", "no"), sign1("pedal.to_floor", "no"), sign1("hose.swells", "no"), sign1("leak.seen", "none"),
		sign1("brakes.drag", "no"),
		`{"id":"pedal.sink","value":{"pedal_force_n":200,"travel_mm":1,"seconds":60,"engine":"on"}}`).Findings
	first := tests(c, []string{"bleed"}, passed)
	assert.Contains(t, first, "water", "two minutes, and nobody has tested it")
	assert.LessOrEqual(t, len(first), lookMost)
	assert.Len(t, slices.Compact(slices.Sorted(slices.Values(first))), len(first), "each once")

	assert.NotContains(t,
		tests(c, []string{"bleed"}, append(slices.Clone(passed), Finding{ID: "fluid.water_percent", Value: []byte("0.8")})),
		"water", "it has been tested")
	dry := caseOf(t, car, sign1("pedal.springy", "yes"), `{"id":"fluid.water_percent","value":0.8}`)
	assert.NotContains(t, tests(dry, []string{"bleed"}, passed), "water", "nor where the diagnosis tested it")
	bare := caseOf(t, car, sign1("pedal.springy", "yes"))
	bare.Tools = []string{}
	assert.NotContains(t, tests(bare, []string{"bleed"}, passed), "water", "without a tester")
	assert.NotContains(t, tests(c, []string{"replace_master_cylinder"}, passed), "water", "a new cylinder is filled afresh")
}

// What was done is taken as done: what it cures is no longer what is believed, what it does not cure is believed the
// more, and some doubt goes back to the table.
func TestWhatIsBelievedAfterWork(t *testing.T) {
	const car = "car-front-rear-vacuum"
	before := caseOf(t, car, `{"id":"brakes.drag","value":{"one_wheel":"RR"}}`, `{"id":"wheel.check","value":{"RR":"drags"}}`)
	of := func(r *Result, id string) (p float64) {
		for _, f := range r.Faults {
			if f.ID == id {
				p += f.Probability
			}
		}
		return p
	}
	first, err := Run(before, DefaultCosts())
	require.NoError(t, err)
	require.Greater(t, of(first, "wheel.seized"), of(first, "circuit.hose_blocked"))
	still := caseOf(t, car, `{"id":"brakes.drag","value":{"one_wheel":"RR"}}`, `{"id":"wheel.check","value":{"RR":"drags"}}`)
	still.After = &Work{Acts: []string{"repair_wheel"}, Before: before}
	then, err := Run(still, DefaultCosts())
	require.NoError(t, err)
	assert.Greater(t, of(then, "circuit.hose_blocked"), of(then, "wheel.seized"), "the wheel was repaired and drags still: the hose")
	assert.Greater(t, of(then, "wheel.seized"), 0.01, "but the work may not have been done well")
}

// Every hypothesis goes over into what is left of it, and no belief is lost on the way.
func TestLeftAfterKeepsAllBelief(t *testing.T) {
	c := caseOf(t, "pickup-front-rear-vacuum", sign1("pedal.springy", "yes"))
	e := engineFor(c.System, nil)
	for _, acts := range [][]string{nil, {"bleed"}, {"replace_both"}, {"repair_wheel", "change_fluid"}} {
		w := e.leftAfter(e.prior, acts, nil)
		sum := 0.0
		for i, x := range w {
			sum += x
			for _, f := range e.hyps[i] {
				again := slices.ContainsFunc(e.hyps[i], func(k int) bool { return e.brings[k][f] })
				if x > 0 && !again {
					assert.False(t, slices.ContainsFunc(acts, func(a string) bool { return cures(a, e.faults[f].fault.ID) }),
						"%v leaves %s", acts, e.faults[f].fault.ID)
				}
			}
		}
		assert.InDelta(t, 1, sum, 1e-9)
	}
}

func TestShowsIsMoreThanASoundVehicleNowAndThen(t *testing.T) {
	c := caseOf(t, "car-front-rear-vacuum")
	for raw, want := range map[string]bool{`{"id":"fluid.water_percent","value":4.4}`: true, `{"id":"fluid.water_percent","value":0.5}`: false, `{"id":"wheel.check","value":{"RR":"drags"}}`: true,
		`{"id":"wheel.check","value":{"RR":"free"}}`: false, `{"id":"hose.swells","value":"no"}`: false} {
		assert.Equal(t, want, Shows(c.System, caseOf(t, "car-front-rear-vacuum", raw).Findings[0]), raw)
	}
}

// A cylinder whose rear seal leaked was changed on a vacuum booster: nobody lets it go without a look into the booster
// (trade).
func TestTheBoosterIsDippedInto(t *testing.T) {
	costs := DefaultCosts()
	c := caseOf(t, "car-front-rear-vacuum", `{"id":"wet.at","value":["behind_cylinder"]}`, sign1("level.falls", "slowly"))
	asks := func(acts []string, now ...string) bool {
		looks, err := Wider(c, acts, nil, caseOf(t, "car-front-rear-vacuum", now...).Findings, &costs)
		require.NoError(t, err)
		return slices.ContainsFunc(looks, func(l Look) bool { return l.Test == "booster_dip" })
	}
	assert.True(t, asks([]string{"replace_master_cylinder"}, sign1("pedal.sinks", "no")))
	assert.False(t, asks([]string{"replace_both"}, sign1("pedal.sinks", "no")), "a new booster has drunk nothing")
	assert.False(t,
		asks([]string{"replace_master_cylinder"}, `{"id":"wet.at","value":["dry"]}`, `{"id":"looked.at","value":["inside_booster"]}`),
		"it was dipped into")
}
