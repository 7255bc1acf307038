package diagnose

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const pickup = "pickup-front-rear-vacuum"

func raw(id, value string) string { return `{"id":"` + id + `","value":` + value + `}` }

// The cases of this file are common practice without a source: what a technician would do. Their probabilities are
// not; only which way they point is asserted.

func TestABoosterThatDrankTakesTheCylinderWithIt(t *testing.T) {
	drunk := []string{
		raw("wet.at", `["inside_booster"]`),
		sign1("wet.fluid", "brake"),
		sign1("level.falls", "slowly"),
		sign1("pedal.hard", "always"),
		sign1("sound.rush_of_air", "always"),
	}
	r := run(t, pickup, drunk...)
	assert.Equal(t, "replace_both", r.Action.ID, "the new booster would drink next")
	assert.Greater(t, chance(r, "mc.rear_seal_leak"), 0.8)
	assert.Greater(t, chance(r, "vacuum.fluid_inside"), 0.8)
	for _, f := range r.Faults {
		if f.ID == "vacuum.fluid_inside" {
			require.NotNil(t, f.BroughtBy)
			assert.Equal(t, "mc.rear_seal_leak", f.BroughtBy.ID, "the booster has drunk because the seal passes")
		}
	}
	assert.LessOrEqual(t, len(r.Carries), 3)
	// Where the cylinder was changed before, what is in the booster is the old one's.
	r = run(
		t,
		pickup,
		append(drunk[:2:2], sign1("level.falls", "no"), sign1("pedal.hard", "always"), sign1("sound.rush_of_air", "always"),
			raw("history.since", `["cylinder_fitted"]`))...)
	assert.Equal(t, "replace_booster", r.Action.Best)
}

func TestALeakIntoTheBoosterIsNotSeenFromOutside(t *testing.T) {
	seen := []string{
		sign1("level.falls", "slowly"),
		raw("wet.at", `["dry"]`),
		sign1("leak.seen", "none"),
		sign1("pedal.hard", "no"),
		sign1("pedal.low", "no"),
		sign1("pedal.springy", "no"),
	}
	r := run(t, pickup, seen...)
	assert.Greater(t, chance(r, "mc.rear_seal_leak"), r.Healthy)
	assert.False(t, r.Action.Settled && r.Action.ID == "nothing")
	var dips bool
	for _, n := range r.NextTests[:2] {
		dips = dips || n.ID == "booster_dip" || n.ID == "look"
	}
	assert.True(t, dips, "the inside of the booster is what to look at: %v", r.NextTests[0].ID)
	dipped := run(t, pickup,
		append(seen, raw("looked.at", `["inside_booster","behind_cylinder","line_joint","wheel","under_reservoir"]`))...)
	assert.Less(t, chance(dipped, "vacuum.fluid_inside"), chance(r, "vacuum.fluid_inside")/3, "dipped and dry")
}

func TestOnlyWhatWasLookedAtIsDry(t *testing.T) {
	of := func(findings ...string) map[string]string {
		obs, err := observeAll(caseOf(t, pickup).System, caseOf(t, pickup, findings...).Findings)
		require.NoError(t, err)
		out := map[string]string{}
		for _, o := range obs {
			out[o.sign.ID] = o.value
		}
		return out
	}
	assert.Equal(t, map[string]string{"wet.at:wheel": "yes"}, of(raw("wet.at", `["wheel"]`)), "one place wet says nothing of the others")
	dry := of(raw("wet.at", `["dry"]`))
	assert.Len(t, dry, len(Outside))
	assert.NotContains(t, dry, "wet.at:inside_booster")
	assert.Equal(t, map[string]string{"wet.at:wheel": "yes", "wet.at:inside_booster": "no"},
		of(raw("looked.at", `["inside_booster","wheel"]`), raw("wet.at", `["wheel"]`)))
}

func TestPetroleumTakesEveryRubberPart(t *testing.T) {
	r := run(t, pickup, sign1("rubber.swollen", "yes"), raw("history.since", `["wrong_fluid_added"]`), sign1("pedal.sinks", "slow"),
		`{"id":"pedal.sink","value":{"pedal_force_n":200,"travel_mm":14,"seconds":20,"engine":"off"}}`, sign1("level.falls", "no"))
	assert.True(t, r.Action.ReplaceRubber, "new cups alone swell again: %+v", r.Action)
	for _, f := range []string{"mc.primary_cup_bypass", "mc.rear_seal_leak", "circuit.hose_blocked", "wheel.leak"} { // a remedy that names a part cures its faults
		assert.True(t, cures(actRubber, f), f)
	}
}

func TestAFindingGivenTwiceCountsOnceTheLater(t *testing.T) {
	once := run(t, pickup, sign1("pedal.sinks", "slow"), sign1("level.falls", "no"))
	twice := run(t, pickup, sign1("pedal.sinks", "slow"), sign1("level.falls", "no"), sign1("pedal.sinks", "slow"))
	assert.InDelta(t, once.Faults[0].Probability, twice.Faults[0].Probability, 1e-12)
	changed := run(t, pickup, sign1("pedal.sinks", "no"), sign1("level.falls", "no"), sign1("pedal.sinks", "slow"))
	assert.InDelta(t, once.Faults[0].Probability, changed.Faults[0].Probability, 1e-12)
}

func TestOppositesAreToldAndNothingIsSettled(t *testing.T) {
	still := `{"id":"pedal.sink","value":{"pedal_force_n":200,"travel_mm":0,"seconds":60,"engine":"off"}}`
	sunk := `{"id":"pedal.sink","value":{"pedal_force_n":200,"travel_mm":25,"seconds":60,"engine":"off"}}`
	for name, c := range map[string]struct {
		findings []string
		repeat   string
	}{
		"felt fast, measured nothing": {[]string{sign1("pedal.sinks", "fast"), still}, "pedal.sinks"},
		"plugged hard, yet it sinks":  {[]string{sign1("ports_plugged.pedal", "hard"), sunk}, "ports_plugged.pedal"},
		"falls, and always hard":      {[]string{sign1("assist.pedal_falls_on_start", "yes"), sign1("pedal.hard", "always")}, "assist.pedal_falls_on_start"},
	} {
		r := run(t, pickup, c.findings...)
		require.NotEmpty(t, r.Contradictions, name)
		assert.Equal(t, c.repeat, r.Contradictions[0].Repeat, name)
		assert.False(t, r.Action.Settled, name)
	}
	assert.Empty(t, run(t, pickup, sign1("ports_plugged.pedal", "hard"), sunk, sign1("level.falls", "fast")).Contradictions,
		"a leak outside explains both")
}

func TestNewShoesNameTheDrums(t *testing.T) {
	r := run(t, pickup, sign1("pedal.low", "yes"), sign1("pedal.pumps_up", "stays"),
		raw("history.since", `["pads_or_shoes_fitted"]`), sign1("pedal.springy", "no"))
	by := map[string]float64{}
	for _, f := range r.Faults {
		if f.ID == "wheel.excess_clearance" {
			by[f.At] = f.Probability
		}
	}
	assert.Greater(t, by["LR"], 5*by["LF"])
	assert.Equal(t, "repair_wheel", r.Action.Best)
	assert.Equal(t, []string{"LR", "RR"}, r.Action.At)
	require.Len(t, r.WheelWork, 2)
	w := r.WheelWork[0]
	assert.True(t, w.TakeUpMM > 0 && w.PedalGainMM > 1 && !w.Measured, "%+v", w)
	assert.Equal(t, "history.since", r.Carries[0].Finding)
}

func TestTheWeakWheelIsNamed(t *testing.T) {
	r := run(t, pickup, raw("brakes.weak", `{"one_wheel":"LF"}`))
	top := r.Faults[0]
	assert.Equal(t, "LF", top.At, "%+v", top)
	plain := run(t, pickup, sign1("brakes.weak", "one_wheel"))
	assert.InDelta(t, chance(plain, "wheel.seized"), chance(r, "wheel.seized"), 0.05, "which wheel says nothing of what")
	for _, bad := range []string{`{"one_wheel":"XX"}`, `{"all":"LF"}`, `{"one_wheel":"LF","one_circuit":"A"}`, `{}`} {
		assert.Error(t, CheckFinding(caseOf(t, pickup).System, Finding{ID: "brakes.weak", Value: []byte(bad)}), bad)
	}
}

// Where a technician would act, the engine does.
func TestActsWhereATechnicianWould(t *testing.T) {
	for name, c := range map[string]struct {
		pattern, action string
		findings        []string
	}{
		"a rod measured short after a booster swap": {pickup, "set_rod", []string{raw("history.since", `["booster_fitted"]`), sign1("pedal.low", "yes"), sign1("pedal.dead_first_travel", "yes"), raw("rod.gap_mm", "4")}},
		"oil on the driver's floor":                 {"pickup-hydraulic", "replace_booster", []string{raw("wet.at", `["cabin_floor"]`), sign1("wet.fluid", "steering"), sign1("level.falls", "no")}},
		"water":                                     {pickup, "change_fluid", []string{sign1("pedal.sinks", "no"), raw("fluid.water_percent", "4.5"), sign1("pedal.soft_when_hot", "yes")}},
		"lets go at the cylinder's line":            {pickup, "set_rod", []string{sign1("brakes.drag", "all_when_hot"), sign1("drag.released_by", "line_at_cylinder"), raw("history.since", `["booster_fitted"]`), raw("pedal.free_play_mm", "0")}},
	} {
		r := run(t, c.pattern, c.findings...)
		assert.Equal(t, c.action, r.Action.ID, "%s: %+v", name, r.Action)
		next := "nothing"
		if len(r.NextTests) > 0 {
			next = r.NextTests[0].ID
		}
		assert.True(t, r.Action.Settled, "%s: %.2f right, %s saves", name, r.Action.Chance, next)
		assert.Greater(t, r.Action.Chance, 0.5, name)
	}
}

// Common practice, no source: no pressure at a wheel's bleeder with good ports is the hose or the line, and opening the
// line where it meets the hose tells which.
func TestADeadBleederIsSplitBeforeTheHose(t *testing.T) {
	const car = "car-front-rear-vacuum"
	dead := []string{
		`{"id":"pressure.at_bleeder","value":{"RR":"none","LR":"ok","LF":"ok","RF":"ok"}}`,
		`{"id":"pressure.at_port","value":{"A":"ok","B":"ok"}}`,
	}
	offered := func(findings ...string) bool {
		for _, n := range run(t, car, findings...).NextTests {
			if n.ID == "hose_pressure" {
				return true
			}
		}
		return false
	}
	assert.True(t, offered(dead...))
	assert.False(t, offered(dead[1]), "no line is opened for it before a bleeder has been")
	of := func(r *Result, id string) (p float64) {
		for _, f := range r.Faults {
			if f.ID == id {
				p += f.Probability
			}
		}
		return p
	}
	before := run(t, car, dead...)
	hose := run(t, car, append(dead, `{"id":"pressure.before_hose","value":{"RR":"ok"}}`)...)
	line := run(t, car, append(dead, `{"id":"pressure.before_hose","value":{"RR":"none"}}`)...)
	odds := func(r *Result) float64 { return of(r, "circuit.hose_blocked") / of(r, "circuit.line_leak") }
	assert.Greater(t, odds(hose), 3*odds(before), "the hose rather than the line")
	assert.Greater(t, of(line, "circuit.line_leak"), of(before, "circuit.line_leak"))
	assert.Less(t, of(line, "circuit.hose_blocked"), 0.5*of(before, "circuit.hose_blocked"))
}
