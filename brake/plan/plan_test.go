package plan

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/match"
	"geminate/brake/system"
)

func make1(t *testing.T, pattern string, c Choices) *Plan {
	t.Helper()
	s, err := system.FromPattern(pattern)
	require.NoError(t, err)
	p, err := Make(s, c)
	require.NoError(t, err)
	return p
}

func ids(p *Plan) (out []string) {
	for _, s := range p.Steps {
		out = append(out, s.ID)
	}
	return
}

// Common practice, no source: vacuum pumped out first; flare nut wrench always; rod before bolting up.
func TestCylinderOnPickup(t *testing.T) {
	p := make1(t, "pickup-front-rear-vacuum", Choices{Scope: match.CylinderOnly})
	got := ids(p)
	before := func(a, b string) {
		require.Contains(t, got, a)
		require.Contains(t, got, b)
		assert.Less(t, slices.Index(got, a), slices.Index(got, b), "%s before %s", a, b)
	}
	before("safe.pump_empty", "strip.lines_off")
	before("prepare.compare_on_bench", "strip.lines_off")
	before("rod.measure", "fit.cylinder_nuts")
	before("fit.start_nuts_snug", "fit.cylinder_nuts")
	before("fit.cylinder_nuts", "fit.line_nuts")
	assert.True(t, p.NeedsBleeding)
	assert.True(t, p.NeedsBench)
	for _, s := range p.Steps {
		if s.ID == "strip.lines_off" {
			assert.Contains(t, s.Tools, "flare_nut_wrench")
		}
		if s.ID == "fit.cylinder_nuts" {
			assert.Equal(t, &Torque{LowNM: 18, HighNM: 34, Fasteners: 2}, s.Torque)
		}
	}
	assert.Equal(t, []Line{{Tag: 1, Circuit: "B", Position: "front", Wheels: []string{"LR", "RR"}, Differs: []string{}},
		{Tag: 2, Circuit: "A", Position: "rear", Wheels: []string{"LF", "RF"}, Differs: []string{}}}, p.Lines)
	assert.Len(t, got, len(slices.Compact(slices.Sorted(slices.Values(got)))), "each step once")
}

func TestBoosterWithCylinderAsideNeedsNoBleeding(t *testing.T) {
	p := make1(t, "pickup-front-rear-vacuum", Choices{Scope: match.BoosterAside})
	assert.False(t, p.NeedsBleeding)
	assert.False(t, p.NeedsBench)
	assert.NotEmpty(t, p.NoBleedingWhy)
	for _, s := range p.Steps {
		assert.NotContains(t,
			[]string{"strip.lines_off", "fit.line_nuts", "close.fill", "close.bleeder_screws", "safe.empty_reservoir"}, s.ID)
	}
	assert.Contains(t, ids(p), "safe.pump_empty")
	opened := make1(t, "pickup-front-rear-vacuum", Choices{Scope: match.BoosterOpened})
	assert.True(t, opened.NeedsBleeding)
}

func TestRepairElsewhereLeavesTheUnitsAlone(t *testing.T) {
	p := make1(t, "car-diagonal-vacuum", Choices{Scope: match.Elsewhere})
	assert.Equal(t, []string{"prepare.chock", "prepare.cover_paint", "elsewhere.repaired", "close.level_unchanged"}, ids(p))
	assert.False(t, p.NeedsBleeding)
	assert.Empty(t, p.Lines)
}

func TestTrailerHasNoBooster(t *testing.T) {
	p := make1(t, "trailer-surge", Choices{Scope: match.CylinderOnly})
	for _, id := range ids(p) {
		assert.NotContains(t, []string{"safe.engine_off", "safe.pump_empty", "rod.measure", "strip.vacuum_hose"}, id)
	}
	s, _ := system.FromPattern("trailer-surge")
	_, err := Make(s, Choices{Scope: match.BoosterAside})
	assert.ErrorContains(t, err, "booster_aside")
}

func TestGatesCannotBeSkipped(t *testing.T) {
	p := make1(t, "pickup-front-rear-vacuum", Choices{Scope: match.CylinderOnly})
	missing, err := p.Missing("strip.lines_off", map[string]bool{"prepare.chock": true})
	require.NoError(t, err)
	assert.Equal(t, []string{"prepare.compare_on_bench", "fit.bench_bled", "safe.engine_off", "safe.pump_empty"}, missing)
	done := map[string]bool{}
	for id := p.Next(done); id != ""; id = p.Next(done) {
		missing, err := p.Missing(id, done)
		require.NoError(t, err)
		assert.Empty(t, missing, "the plan's own order never meets a closed gate")
		done[id] = true
	}
	assert.Len(t, done, len(p.Steps))
	_, err = p.Missing("make.coffee", done)
	assert.Error(t, err)
}

func TestHydraulicBoosterIsDischargedAndItsFluidKeptApart(t *testing.T) {
	p := make1(t, "pickup-hydraulic",
		Choices{Scope: match.Both, Schools: map[School]string{LineNuts: NutsLoose, BenchWhen: BenchOnVehicle}})
	got := ids(p)
	assert.Contains(t, got, "safe.discharge_accumulator")
	assert.Contains(t, got, "close.steering_bleed")
	assert.Contains(t, got, "fit.start_nuts_loose")
	assert.NotContains(t, got, "fit.bench_bled")
}
