package diagnose

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Common practice, no source: a unit is bought on what a hand saw or measured at it; what the owner tells orders the
// tests.
func TestNoUnitOnSomebodysWord(t *testing.T) {
	for name, c := range map[string]struct {
		pattern  string
		findings []string
	}{
		"trailer that stood, weak":    {"trailer-surge", []string{sign1("brakes.weak", "all"), raw("history.since", `["stood_outdoors"]`)}},
		"trailer, weak alone":         {"trailer-surge", []string{sign1("brakes.weak", "all")}},
		"hard pedal told":             {pickup, []string{sign1("pedal.hard", "always"), sign1("brakes.weak", "all")}},
		"sinks, told":                 {pickup, []string{sign1("pedal.sinks", "slow"), sign1("pedal.to_floor", "sometimes"), sign1("level.falls", "no")}},
		"weak after a long standing":  {"car-diagonal-vacuum", []string{sign1("brakes.weak", "one_circuit"), raw("history.since", `["stood_outdoors"]`)}},
		"level falls, nothing looked": {pickup, []string{sign1("level.falls", "slowly")}},
	} {
		r := run(t, c.pattern, c.findings...)
		if len(unitsOf(append([]string{r.Action.Best}, r.Action.Also...))) > 0 {
			assert.False(t, r.Action.Settled, "%s: %s", name, r.Action.Best)
		}
		assert.NotEmpty(t, r.TestFirst, name)
		assert.NotEmpty(t, r.FirstWhy, name)
	}
}

// A rod pushed in freely that stays where it is held says nothing is seized: the slide and the piston are out of it.
func TestWhatMovesIsNotSeized(t *testing.T) {
	told := []string{sign1("brakes.weak", "all"), raw("history.since", `["stood_outdoors"]`)}
	r := run(t, "trailer-surge",
		append(told, sign1("actuator.rod_moves", "yes"), sign1("coupler.travel", "normal"), sign1("actuator.holds", "yes"))...)
	assert.Less(t, chance(r, "trailer.actuator_seized"), 0.1)
	assert.Less(t, chance(r, "mc.piston_seized"), 0.05)
	assert.NotEqual(t, "replace_master_cylinder", r.Action.Best)
}

// One slip of a foot in a hundred reads like a cup that passes: what one reading carries is read again, and both count.
func TestOneReadingIsReadAgain(t *testing.T) {
	hold := `{"id":"pedal.sink","value":{"pedal_force_n":200,"travel_mm":%s,"seconds":60,"engine":"on"}%s}`
	one := func(mm, more string) string { return fmt.Sprintf(hold, mm, more) }
	calm := []string{
		sign1("pedal.springy", "no"),
		sign1("level.falls", "no"),
		raw("wet.at", `["dry"]`),
		sign1("leak.seen", "none"),
		sign1("pedal.pumps_up", "no"),
		sign1("pedal.hard", "no"),
		sign1("assist.pedal_falls_on_start", "yes"),
	}
	r := run(t, pickup, append(calm, one("9", ""))...)
	require.False(t, r.Action.Settled)
	held := run(t, pickup, append(calm, one("9", ""), one("10", `,"again":true`))...)
	slip := run(t, pickup, append(calm, one("9", ""), one("0", `,"again":true`))...)
	cups := func(r *Result) float64 {
		return chance(r, "mc.primary_cup_bypass") + chance(r, "mc.secondary_cup_bypass")
	}
	assert.Greater(t, cups(held), cups(r), "the second says the same")
	assert.Less(t, cups(slip), 0.3*cups(r), "the second says the first was a slip")
	again := run(t, pickup, append(calm, one("9", ""), one("10", ""))...)
	assert.InDelta(t, cups(run(t, pickup, append(calm, one("10", ""))...)), cups(again), 1e-9, "typed anew it takes the place of the first")
	for _, n := range held.NextTests {
		assert.False(t, n.Again, "read twice is enough")
	}
}

// The headline is what puts everything right with nothing needless: water by itself is no cylinder, a hiss no pair of
// units.
func TestTheHeadlineIsWhole(t *testing.T) {
	water := run(t, pickup, raw("fluid.water_percent", "4.3"), sign1("pedal.soft_when_hot", "yes"))
	assert.Equal(t, "change_fluid", water.Action.Best)
	hiss := run(t, pickup, sign1("sound.rush_of_air", "cold_only"), sign1("assist.pedal_falls_on_start", "no"),
		sign1("pedal.hard", "always"), raw("vacuum.at_hose_kpa", "65"))
	assert.Equal(t, "replace_booster", hiss.Action.Best)
	assert.Empty(t, hiss.Action.Also)
	hard := run(t, pickup, sign1("pedal.hard", "always"))
	assert.NotEqual(t, "replace_both", hard.Action.ID, "an even chance of nothing is a test first")
	if hard.Action.Chance < evenChance {
		assert.Equal(t, actKeepTesting, hard.Action.ID)
	}
}

// A hose belongs to its wheel: that the others turn free says nothing against it.
func TestAHoseSitsAtItsWheel(t *testing.T) {
	r := run(t, pickup, raw("brakes.drag", `{"one_wheel":"LF"}`),
		raw("wheel.check", `{"LF":"drags","RF":"free","LR":"free","RR":"free"}`), sign1("drag.released_by", "bleeder_at_wheel"))
	require.NotEmpty(t, r.Faults)
	assert.Equal(t, "circuit.hose_blocked", r.Faults[0].ID)
	assert.Equal(t, "LF", r.Faults[0].At)
	assert.Greater(t, r.Faults[0].Probability, 0.5, "likelier than all else together")
}

// A joint may lose a drop a day: wet, a level that falls slowly and a hold that hardly sinks are a line's as well.
func TestAJointMayWeep(t *testing.T) {
	r := run(t, pickup, raw("wet.at", `["line_joint"]`), sign1("wet.fluid", "brake"), sign1("level.falls", "slowly"),
		`{"id":"pedal.sink","value":{"pedal_force_n":200,"travel_mm":2,"seconds":60,"engine":"on"}}`)
	assert.Equal(t, "circuit.line_leak", r.Faults[0].ID)
	assert.Equal(t, "repair_line", r.Action.Best)
}

// Ports plugged hard and a pedal that sinks with nothing lost: past the cylinder and inside, a valve of the modulator.
func TestAModulatorThatLeaksBack(t *testing.T) {
	r := run(t, "car-diagonal-vacuum", sign1("pedal.sinks", "slow"), sign1("level.falls", "no"), sign1("leak.seen", "none"),
		raw("wet.at", `["dry"]`), sign1("ports_plugged.pedal", "hard"),
		`{"id":"pedal.sink","value":{"pedal_force_n":200,"travel_mm":14,"seconds":60,"engine":"on"}}`)
	assert.Equal(t, "circuit.modulator_leak", r.Faults[0].ID, "%+v", r.Faults[0])
	assert.Equal(t, "repair_modulator", r.Action.Best)
}

// What a hose can show falls with the air around: follows from the gas law; trade: 50 kPa at the sea is 35 to 40 at 2
// 500 m.
func TestVacuumGoesWithTheAir(t *testing.T) {
	c := caseOf(t, pickup)
	g, err := gradeOf("vacuum.at_hose_kpa", c.System)
	require.NoError(t, err)
	assert.Equal(t, "low", g.bin(42))
	high := c.System.Clone()
	high.Ambient.AtmosphereKPA = 75 // 2 500 m, ISO 2533 from memory
	g, err = gradeOf("vacuum.at_hose_kpa", high)
	require.NoError(t, err)
	assert.Equal(t, "normal", g.bin(42))
	assert.InDelta(t, 37, g.limits[0], 2)
}

// A shop that has always written one thing is led astray by nobody's reading: what it is used to spares no test.
func TestHabitSettlesNothing(t *testing.T) {
	for name, c := range map[string]struct {
		sign, value, was string
		at               int
		more             []string
	}{
		"sinks booked as air":         {"pedal.sinks", "slow", "circuit.air", 1, nil},
		"hard pedals booked as units": {"pedal.hard", "always", "vacuum.diaphragm_leak", 2, []string{sign1("brakes.weak", "all")}},
	} {
		counts := make([]int, 3)
		counts[c.at] = 300
		shop := &Experience{Jobs: 300, Counts: map[string]int{c.was: 300}, Signs: map[string]map[string][]int{c.sign: {c.was: counts}}}
		x := caseOf(t, pickup, append(c.more, sign1(c.sign, c.value))...)
		x.Experience = shop
		r, err := Run(x, DefaultCosts())
		require.NoError(t, err)
		assert.False(t, r.Action.Settled, "%s: %s %.2f", name, r.Action.Best, r.Action.Chance)
		assert.NotEmpty(t, r.TestFirst, name)
		if c.was == "circuit.air" { // whatever else is asked, the hold comes before anything is settled
			asked := []string{}
			for !slices.Contains(asked, "hold") && len(asked) < 8 {
				require.NotEmpty(t, r.TestFirst, "%v", asked)
				asked = append(asked, r.TestFirst)
				for _, y := range TestOf(r.TestFirst).Yields {
					if s := findSign(y); s != nil && ListOf(y) == "" && len(numberRange) > 0 && numberRange[y].Max == 0 {
						x.Findings = append(x.Findings, caseOf(t, pickup, sign1(y, s.Values[0])).Findings...)
					}
				}
				r, err = Run(x, DefaultCosts())
				require.NoError(t, err)
			}
			assert.Contains(t, asked, "hold")
		}
	}
}
