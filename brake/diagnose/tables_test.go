package diagnose

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/system"
)

func TestTablesHangTogether(t *testing.T) {
	kinds := map[string]Kind{}
	for _, k := range Kinds() {
		assert.NotContains(t, kinds, k.ID, "each finding once")
		kinds[k.ID] = k
	}
	seen := map[string]bool{}
	for _, x := range Tests {
		assert.False(t, seen[x.ID], x.ID)
		seen[x.ID] = true
		assert.Positive(t, x.Minutes, x.ID)
		assert.Positive(t, x.Hands, x.ID)
		for _, y := range x.Yields {
			assert.Contains(t, kinds, strings.SplitN(y, ":", 2)[0], "%s yields %s", x.ID, y)
		}
		for _, n := range x.Needs {
			assert.Contains(t, Tools, n, x.ID)
		}
	}
	c := DefaultCosts()
	for _, id := range actionIDs() {
		assert.Positive(t, c.Minutes[id], id)
		assert.Contains(t, c.Parts, id)
		for _, fault := range findAction(id).cures {
			assert.NotNil(t, findFault(fault), "%s cures %s", id, fault)
		}
	}
	ids := map[string]bool{}
	for _, f := range Faults {
		assert.False(t, ids[f.ID], f.ID)
		ids[f.ID] = true
		assert.True(t, f.Prior > 0 && f.Prior < 0.5, f.ID)
		cured := slices.ContainsFunc(actionIDs(), func(a string) bool { return cures(a, f.ID) })
		assert.True(t, cured, "nothing cures %s", f.ID)
	}
	assert.False(t, cures("replace_master_cylinder", "mc.bore_too_small"), "the same size again is no cure")
	assert.False(t, cures("bleed", "mc.primary_cup_bypass"))
}

// A fault turned on must leave a system the twin can work with and the job's own copy untouched.
func TestPhysicsLeavesAValidSystem(t *testing.T) {
	for _, p := range system.Patterns {
		s := p.Build()
		before, err := json.Marshal(&s)
		require.NoError(t, err)
		e := newEngine(&s, nil)
		for _, f := range e.faults {
			if f.fault.Physics == nil {
				continue
			}
			for _, v := range []float64{0, 0.25, 0.5, 0.75, 1} {
				c := s.Clone()
				f.fault.Physics(c, f.at, v)
				data, err := json.Marshal(c)
				require.NoError(t, err)
				_, err = system.Parse(data)
				assert.NoError(t, err, "%s %s at severity %v", p.ID, f.fault.ID, v)
			}
		}
		after, err := json.Marshal(&s)
		require.NoError(t, err)
		assert.JSONEq(t, string(before), string(after))
	}
}

// Common practice, no source: a cylinder that leaked into the booster takes both.
func TestLeakIntoTheBoosterTakesBoth(t *testing.T) {
	r := run(t, "pickup-front-rear-vacuum", `{"id":"wet.at","value":["behind_cylinder","inside_booster"]}`,
		sign1("wet.fluid", "brake"), sign1("level.falls", "slowly"), sign1("paint.peeling_on_booster", "yes"),
		sign1("sound.rush_of_air", "always"), sign1("pedal.hard", "always"), sign1("assist.pedal_falls_on_start", "no"),
		`{"id":"vacuum.at_hose_kpa","value":65}`)
	assert.Equal(t, "replace_both", r.Action.ID)
	assert.Greater(t, chance(r, "mc.rear_seal_leak"), 0.8)
}

// Common practice, no source: no pressure at one port with its line off, good at the other, is the
// cylinder, and that half of it.
func TestPressureAtAPortNamesTheChamber(t *testing.T) {
	r := run(t, "car-diagonal-vacuum", `{"id":"pressure.at_port","value":{"A":"ok","B":"low"}}`, sign1("pedal.sinks", "slow"))
	assert.Equal(t, "mc.secondary_cup_bypass", r.Faults[0].ID)
	r = run(t, "car-diagonal-vacuum", `{"id":"pressure.at_port","value":{"A":"low","B":"ok"}}`, sign1("pedal.sinks", "slow"))
	assert.Equal(t, "mc.primary_cup_bypass", r.Faults[0].ID)
	// At a bleeder the wheel's own line may be it as well.
	r = run(t, "car-diagonal-vacuum", `{"id":"pressure.at_bleeder","value":{"LF":"ok","RR":"ok","RF":"low","LR":"ok"}}`,
		sign1("brakes.weak", "one_wheel"))
	assert.Contains(t, []string{"circuit.hose_blocked", "wheel.leak", "wheel.seized", "circuit.line_leak"}, r.Faults[0].ID)
}

// Source: the twin. A gauge that reads what a vehicle without vacuum gives speaks for the booster's side.
func TestGaugeIsJudgedByTheTwin(t *testing.T) {
	gauge := func(mpa float64) *Result {
		return run(t, "car-front-rear-vacuum",
			fmt.Sprintf(`{"id":"pressure.gauge","value":{"at":"LF","pedal_force_n":200,"mpa":%v,"engine":"on"}}`, mpa),
			sign1("pedal.hard", "always"))
	}
	assistSide := func(r *Result) float64 {
		return chance(r, "vacuum.diaphragm_leak") + chance(r, "vacuum.supply_low") + chance(r, "vacuum.valve_leak")
	}
	assert.Greater(t, assistSide(gauge(1.5)), assistSide(gauge(6.5)))
	assert.Greater(t, assistSide(gauge(1.5)), 0.7)
}

func TestForceAndTravelTellAirFromNone(t *testing.T) {
	read := func(travel ...float64) *Result {
		return run(
			t,
			"special-manual",
			fmt.Sprintf(`{"id":"pedal.readings","value":[{"pedal_force_n":100,"travel_mm":%v},{"pedal_force_n":200,"travel_mm":%v}]}`,
				travel[0], travel[1]),
		)
	}
	assert.Greater(t, chance(read(100, 130), "circuit.air"), chance(read(48, 59), "circuit.air"))
	assert.Greater(t, read(48, 59).Healthy, read(100, 130).Healthy)
}

func TestNumbersFallIntoTheirBins(t *testing.T) {
	s, _ := system.FromPattern("pickup-front-rear-vacuum")
	for _, c := range []struct {
		id   string
		x    float64
		want string
	}{
		{"fluid.water_percent", 0.9, "good"}, {"fluid.water_percent", 1, "plan"}, {"fluid.water_percent", 3, "now"}, {"fluid.water_percent", 4, "danger"},
		{"assist.reserve_applies", 1, "few"}, {"assist.reserve_applies", 2, "enough"}, {"vacuum.at_hose_kpa", 49, "low"}, {"vacuum.at_hose_kpa", 60, "normal"},
		{"rod.gap_mm", -0.2, "preload"}, {"rod.gap_mm", 0, "right"}, {"rod.gap_mm", 1.4, "large"}, {"rod.gap_mm", 0.5, "right"}, {"rod.gap_mm", 0.51, "large"}, {"pedal.free_play_mm", 0, "none"}, {"pedal.free_play_mm", 0.5, "normal"},
	} {
		g, err := gradeOf(c.id, s)
		require.NoError(t, err)
		assert.Equal(t, c.want, g.bin(c.x), "%s %v", c.id, c.x)
	}
	_, err := gradeOf("pedal.sinks", s)
	assert.Error(t, err)
}

// A dearer mistake keeps testing longer; with everything free to redo, no test is worth its price, and only the rules
// ask for one.
func TestCostsMoveTheDecision(t *testing.T) {
	c := caseOf(t, "pickup-front-rear-vacuum", sign1("pedal.sinks", "slow"))
	dear, free := DefaultCosts(), DefaultCosts()
	dear.Comeback, dear.Unsafe = 3000, 10000
	free.Comeback, free.Unsafe, free.PerMinute = 0, 0, 0
	for k := range free.Parts {
		free.Parts[k] = 0
	}
	r, err := Run(c, dear)
	require.NoError(t, err)
	assert.False(t, r.Action.Settled)
	assert.Equal(t, BeforeSaves, r.FirstWhy)
	r, err = Run(c, free)
	require.NoError(t, err)
	assert.NotEqual(t, BeforeSaves, r.FirstWhy)
	assert.Zero(t, r.Action.ExpectedCost)
}

// actionIDs lists the actions a shop can price, by the engine's own ids.
func actionIDs() (out []string) {
	for _, a := range actionTable {
		out = append(out, a.id)
	}
	return out
}
