package diagnose

import (
	"errors"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/system"
)

func measured(t *testing.T, pattern, test string, v map[string]float64) *Measured {
	t.Helper()
	s, err := system.FromPattern(pattern)
	require.NoError(t, err)
	m, err := Measure(s, test, v)
	require.NoError(t, err)
	return m
}

func (m *Measured) value(id string) float64 {
	for _, f := range m.Figures {
		if f.ID == id {
			return f.Value
		}
	}
	return math.NaN()
}

func (m *Measured) said(id string) string {
	for _, f := range m.Findings {
		if f.ID == id {
			return string(f.Value)
		}
	}
	return ""
}

func TestGuidedTestsCompute(t *testing.T) {
	const car = "car-diagonal-vacuum"
	// Source: arithmetic. Pads that stand 30 mm higher on the fourth and keep most of it.
	m := measured(t, car, "pump", map[string]float64{"first": 60, "fourth": 90, "after_rest": 85})
	assert.Equal(t, `"stays"`, m.said("pedal.pumps_up"))
	assert.InDelta(t, 30, m.value("pump_rise"), 1e-12)
	assert.InDelta(t, 25./30, m.value("pump_kept"), 1e-12)
	assert.Equal(t, `"for_a_moment"`,
		measured(t, car, "pump", map[string]float64{"first": 60, "fourth": 90, "after_rest": 66}).said("pedal.pumps_up"))
	assert.Equal(t, `"no"`, measured(t, car, "pump", map[string]float64{"first": 60, "fourth": 62}).said("pedal.pumps_up"))
	m = measured(t, car, "pump", map[string]float64{"first": 60, "fourth": 90})
	assert.Equal(t, []string{"pump_rest_missing"}, m.Notes)
	assert.Empty(t, m.Findings, "half a reading is none")

	// Source: the exponential of the how-it-computes, section 4: half lost in 60 s is a time constant of 60/ln 2.
	m = measured(t, car, "vacuum_gauge", map[string]float64{"idle": 64, "later": 32, "seconds": 60})
	assert.InDelta(t, 60/math.Ln2, m.value("time_constant"), 1e-9)
	assert.InDelta(t, 32, m.value("lost_in_a_minute"), 1e-9)
	assert.Equal(t, []string{"vacuum_leaks_down"}, m.Notes)
	assert.Equal(t, `"yes"`,
		measured(t, car, "vacuum_gauge", map[string]float64{"idle": 64, "later": 63, "seconds": 60}).said("check_valve.holds"))
	assert.Equal(t, "64", measured(t, car, "vacuum_gauge", map[string]float64{"idle": 64}).said("vacuum.at_hose_kpa"))

	// Source: 49 CFR 571.116, from memory: DOT 4 dry at least 230 °C; more water boils sooner.
	dry, wet := measured(t, car, "water",
		map[string]float64{"vehicle": 0.2, "bottle": 0.1}), measured(t, car, "water", map[string]float64{"vehicle": 4.5, "bottle": 0.8})
	assert.Greater(t, dry.value("boils_at"), wet.value("boils_at"))
	assert.Empty(t, dry.Notes)
	assert.Equal(t, []string{"water_not_hard", "bottle_wet"}, wet.Notes)

	// Source: the twin. A pair with one circuit far under what the twin expects.
	m = measured(t, car, "gauge", map[string]float64{"force": 200, "mpa:A": 5, "mpa:B": 2})
	assert.Equal(t, []string{"pair_apart:B"}, m.Notes)
	assert.InDelta(t, m.value("twin_mpa:A"), m.value("twin_mpa:B"), 1)
	assert.Contains(t, m.said("pressure.gauge"), `"at":"B"`)
	assert.InDelta(t, 4, measured(t, car, "reserve", map[string]float64{"count": 2}).value("twin_applies"), 0)
	// What a guided test finds can be entered as it stands.
	s, _ := system.FromPattern(car)
	for _, f := range m.Findings {
		assert.NoError(t, CheckFinding(s, f))
	}
}

func TestGuidedTestsRefuse(t *testing.T) {
	s, _ := system.FromPattern("car-diagonal-vacuum")
	for name, c := range map[string]struct {
		test   string
		values map[string]float64
		path   string
	}{
		"no such test":  {"dance", nil, "$.test"},
		"nothing read":  {"pump", map[string]float64{"first": 60}, "$.values.fourth"},
		"out of range":  {"water", map[string]float64{"vehicle": 40}, "$.values.vehicle"},
		"not a number":  {"water", map[string]float64{"vehicle": math.NaN()}, "$.values.vehicle"},
		"one circuit":   {"gauge", map[string]float64{"force": 200, "mpa:A": 5}, "$.values.mpa:B"},
		"unknown input": {"water", map[string]float64{"vehicle": 1, "mood": 1}, "$.values.mood"},
	} {
		_, err := Measure(s, c.test, c.values)
		var f system.Fault
		require.True(t, errors.As(err, &f), name)
		assert.Equal(t, c.path, f.Path, name)
	}
}

// Every guided test belongs to a test, and every test says how it is done.
func TestEveryTestIsGuided(t *testing.T) {
	for i := range Tests {
		g := FindGuide(Tests[i].ID)
		require.NotNil(t, g, Tests[i].ID)
		assert.NotEmpty(t, g.Steps, Tests[i].ID)
	}
	for _, g := range Guides {
		found := false
		for i := range Tests {
			found = found || Tests[i].ID == g.Test
		}
		assert.True(t, found, g.Test)
	}
}

func TestCostsAreReadStrictly(t *testing.T) {
	c, err := ReadCosts([]byte(`{"per_minute":2,"parts":{"replace_booster":400}}`))
	require.NoError(t, err)
	assert.Equal(t, 2.0, c.PerMinute)
	assert.Equal(t, 400.0, c.Parts["replace_booster"])
	assert.Equal(t, DefaultCosts().Minutes, c.Minutes, "what is left out keeps its default")
	for _, doc := range []string{`{"per_minute":-1}`, `{"mood":1}`, `{"parts":{"dance":1}}`, `[]`, `{"minutes":{"bleed":1e9}}`} {
		_, err := ReadCosts([]byte(doc))
		assert.Error(t, err, doc)
	}
}

// Common practice, no source: without the scan tool an electro-hydraulic booster or a modulator with air
// in it is not finished here, and that is said before a line is opened.
func TestWhatCannotBeFinishedHere(t *testing.T) {
	c := caseOf(t, "hybrid-electro-hydraulic", sign1("pedal.springy", "yes"), `{"id":"history.since","value":["hydraulics_opened"]}`)
	c.Tools = []string{"water_tester"}
	r, err := Run(c, DefaultCosts())
	require.NoError(t, err)
	require.NotEmpty(t, r.CannotFinish)
	assert.Equal(t, Obstacle{"electro_hydraulic", "scan_tool", true}, r.CannotFinish[0])
	c.Tools = []string{"scan_tool"}
	r, err = Run(c, DefaultCosts())
	require.NoError(t, err)
	assert.Empty(t, r.CannotFinish)
	for _, n := range r.NextTests {
		if n.OpensHydraulics {
			assert.Contains(t, n.Gates, "isolate_high_voltage", n.ID)
		}
	}
	c = caseOf(t, "car-diagonal-vacuum", sign1("pedal.springy", "yes"), `{"id":"history.since","value":["modulator_ran_dry"]}`,
		sign1("history.bled", "normally"), sign1("pedal.sinks", "no"))
	c.Tools = []string{}
	r, err = Run(c, DefaultCosts())
	require.NoError(t, err)
	require.NotEmpty(t, r.CannotFinish)
	assert.Equal(t, "modulator_routine", r.CannotFinish[0].Why)
	if assert.NotEmpty(t, r.Action.Alternatives) && r.Action.ID == "keep_testing" {
		assert.True(t, r.Action.Alternatives[0].ModulatorRoutine)
	}
}

// Common practice, no source: two faults that need two repairs are told together.
func TestTwoFaultsAreRepairedTogether(t *testing.T) {
	r := run(t, "pickup-front-rear-vacuum", sign1("pedal.sinks", "slow"), sign1("level.falls", "no"),
		sign1("ports_plugged.pedal", "sinks"), sign1("pedal.hard", "always"), `{"id":"vacuum.at_hose_kpa","value":18}`,
		sign1("vacuum.hose_pinched", "same"), sign1("assist.pedal_falls_on_start", "no"), `{"id":"wet.at","value":["dry"]}`)
	best := r.Action.ID
	also := r.Action.Also
	if best == "keep_testing" {
		best, also = r.Action.Alternatives[0].ID, r.Action.Alternatives[0].Also
	}
	assert.ElementsMatch(t, []string{"replace_master_cylinder", "repair_supply"}, append(also, best))
}

// Leaving out the finding the verdict rests on changes it, and is told.
func TestWhatItRestsOn(t *testing.T) {
	r := run(t, "pickup-front-rear-vacuum", sign1("ports_plugged.pedal", "sinks"), sign1("brakes.weak", "no"),
		sign1("fluid.colour", "amber"))
	require.NotEmpty(t, r.RestsOn)
	assert.Equal(t, "ports_plugged.pedal", r.RestsOn[0].Finding)
	assert.NotEqual(t, "mc.primary_cup_bypass", r.RestsOn[0].Fault)
	for _, x := range r.RestsOn {
		assert.NotEqual(t, "fluid.colour", x.Finding, "nothing rests on the colour")
	}
	for _, b := range r.Faults[0].Because {
		assert.InDelta(t, math.Log2(b.With/b.Without), b.Bits, 1e-9)
		assert.NotEmpty(t, b.Origin)
	}
}

// What is shown beside a probability is the table's own figure, though the finding counts for less.
func TestReasonsShowTheTablesFigures(t *testing.T) {
	alone := run(t, "pickup-front-rear-vacuum", sign1("pedal.sinks", "slow"))
	felt := run(t, "pickup-front-rear-vacuum", sign1("pedal.sinks", "slow"),
		`{"id":"pedal.sink","value":{"pedal_force_n":200,"travel_mm":14,"seconds":20,"engine":"off"}}`)
	unsure := run(t, "pickup-front-rear-vacuum", `{"id":"pedal.sinks","value":"slow","sure":false}`)
	reason := func(r *Result) Because {
		for _, f := range r.Faults {
			for _, b := range f.Because {
				if f.ID == "mc.primary_cup_bypass" && b.Finding == "pedal.sinks" {
					return b
				}
			}
		}
		t.Fatal("no reason")
		return Because{}
	}
	a, b, c := reason(alone), reason(felt), reason(unsure)
	assert.InDelta(t, 0.7, a.With, 0.03, "the table's own")
	assert.Equal(t, "slow", a.Value)
	assert.Equal(t, [2]float64{a.With, a.Without}, [2]float64{b.With, b.Without})
	assert.Equal(t, [2]float64{a.With, a.Without}, [2]float64{c.With, c.Without})
	assert.Equal(t, []string{"", "told_by_measurement", "unsure"}, []string{a.Less, b.Less, c.Less})
	assert.True(t, b.Bits < a.Bits && c.Bits < a.Bits)
}

// Common practice, no source: what a teardown says of rebuilding.
func TestTeardownJudgesTheOldUnit(t *testing.T) {
	f := func(id, v string) Finding { return Finding{ID: id, Value: []byte(`"` + v + `"`)} }
	assert.Nil(t, TeardownOf([]Finding{f("pedal.sinks", "slow")}), "not opened, not judged")
	assert.Equal(t, &Teardown{"no", "bore", "corroded"}, TeardownOf([]Finding{f("teardown.bore", "corroded")}))
	assert.Equal(t, &Teardown{"yes", "bore", "worn"}, TeardownOf([]Finding{f("teardown.bore", "worn")}))
	assert.Equal(t, &Teardown{"no", "rubber", "yes"}, TeardownOf([]Finding{f("teardown.bore", "good"), f("rubber.swollen", "yes")}))
}
