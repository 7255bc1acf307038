package diagnose

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Common practice, no source: what is measured is put right or named, whatever else explains the complaint.
func TestWhatIsMeasuredStaysNamed(t *testing.T) {
	const car = "car-front-rear-vacuum"
	drags := `{"id":"wheel.check","value":{"RR":"drags"}}`
	left := func(acts []string, findings ...string) []Fact {
		out, err := Unexplained(caseOf(t, car, findings...), acts, nil)
		require.NoError(t, err)
		return out
	}
	wheel, wet, valve := Fact{
		"wheel.check",
		"drags",
		"RR",
		"repair_wheel",
	}, Fact{
		"fluid.water_percent",
		"danger",
		"",
		"change_fluid",
	}, Fact{
		"check_valve.holds",
		"no",
		"",
		"repair_supply",
	}
	assert.Equal(t, []Fact{wheel}, left([]string{"change_fluid"}, `{"id":"fluid.water_percent","value":4.4}`, drags),
		"the fluid alone leaves the wheel")
	assert.Equal(
		t,
		[]Fact{wet},
		left([]string{"repair_wheel"}, `{"id":"fluid.water_percent","value":4.4}`, drags,
			`{"id":"brakes.drag","value":{"one_wheel":"RR"}}`),
		"the wheel alone leaves the fluid",
	)
	assert.Equal(t, []Fact{wheel},
		left([]string{"repair_supply"}, sign1("check_valve.holds", "no"), sign1("pedal.hard", "first_applies"), drags))
	assert.Contains(t, left([]string{"repair_wheel"}, sign1("check_valve.holds", "no"), drags), valve)
	assert.Equal(t, []Fact{wheel}, left([]string{"replace_master_cylinder"}, `{"id":"fluid.water_percent","value":4.4}`, drags),
		"a new cylinder is filled afresh")
	assert.Empty(t, left([]string{"bleed"}, `{"id":"fluid.water_percent","value":2.5}`, sign1("pedal.springy", "yes")),
		"what many sound vehicles show is no fact, nor is what is felt")
	assert.Empty(t, left([]string{"bleed"}, `{"id":"wheel.check","value":{"RR":"drags"},"sure":false}`), "nor what was not sure")
	r := run(t, car, `{"id":"fluid.water_percent","value":4.4}`, drags)
	for _, f := range []Fact{wheel, wet} {
		named := false
		for _, x := range r.Unexplained {
			named = named || x == f
		}
		cured := r.Action.Best == "change_fluid" && f == wet || r.Action.Best == "repair_wheel" && f == wheel
		assert.True(t, named || cured || r.Action.Best == "replace_master_cylinder" && f == wet, "%v under %s", f, r.Action.Best)
	}
}
