package fluid

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Source: 49 CFR 571.116 S5.1.1–S5.1.3, from memory.
func TestClassLimits(t *testing.T) {
	want := map[string][3]float64{
		"DOT 3":   {205, 140, 1500},
		"DOT 4":   {230, 155, 1800},
		"DOT 5":   {260, 180, 900},
		"DOT 5.1": {260, 180, 900},
	}
	for id, w := range want {
		c, err := Find(id)
		require.NoError(t, err)
		assert.Equal(t, w, [3]float64{c.DryBoilC, c.WetBoilC, c.ViscosityMaxCold}, id)
		assert.LessOrEqual(t, c.ViscosityTypicalM, c.ViscosityMaxCold, "a typical fluid must be legal: "+id)
		assert.GreaterOrEqual(t, c.ViscosityTypicalHi, 1.5, "legal minimum at 100 °C: "+id)
	}
	_, err := Find("DOT 6")
	assert.ErrorContains(t, err, "DOT 6")
}

// Common practice, no source: glycol mixes upward, silicone with none.
func TestMayReplace(t *testing.T) {
	for _, c := range []struct {
		required, bottle string
		want             Fitness
		allowed          bool
	}{
		{"DOT 3", "DOT 3", Same, true}, {"DOT 3", "DOT 4", Higher, true}, {"DOT 4", "DOT 5.1", Higher, true},
		{"DOT 4", "DOT 3", LowerBoil, false}, {"DOT 3", "DOT 5", OtherBase, false}, {"DOT 5", "DOT 5.1", OtherBase, false},
	} {
		got, err := MayReplace(c.required, c.bottle)
		require.NoError(t, err)
		assert.Equal(t, c.want, got, c)
		assert.Equal(t, c.allowed, got.Allowed(), c)
	}
	_, err := MayReplace("water", "DOT 3")
	assert.Error(t, err)
	_, err = MayReplace("DOT 3", "ATF")
	assert.Error(t, err)
}

// Common practice, no source: 1 good, 3 change, 4 before driving.
func TestJudgeWater(t *testing.T) {
	for pc, want := range map[float64]WaterVerdict{0: WaterGood, 0.9: WaterGood, 1: WaterPlan, 2.9: WaterPlan, 3: WaterChangeNow, 3.9: WaterChangeNow, 4: WaterDanger, 9: WaterDanger} {
		got, err := JudgeWater(pc)
		require.NoError(t, err)
		assert.Equal(t, want, got, pc)
	}
	for _, bad := range []float64{-0.1, math.NaN(), 25} {
		_, err := JudgeWater(bad)
		assert.Error(t, err)
	}
}

// Common practice: a bottle that stood open is used within a month; the figure is an assumption (how-it-computes,
// section 8).
func TestAnOpenBottleIsGoodForAMonth(t *testing.T) {
	for days, want := range map[int]BottleAge{-2: AgeFuture, 0: AgeFresh, 30: AgeFresh, 31: AgeTest, 89: AgeTest, 365: AgeTest, 366: AgeOld, 400: AgeOld} {
		assert.Equal(t, want, JudgeAge(days, OpenMostDays, false), days)
	}
	assert.Equal(t, AgeTested, JudgeAge(31, OpenMostDays, true), "its own water reading decides")
	assert.Equal(t, AgeFresh, JudgeAge(30, OpenMostDays, true))
	assert.Equal(t, AgeOld, JudgeAge(366, OpenMostDays, true), "no reading makes an old bottle a fresh one")
	assert.Equal(t, AgeOld, JudgeAge(15, 14, false), "a shop may be stricter than the month")
}

// FMVSS 571.116, S5.1.2: the wet boiling point is taken after humidification, to about 3.7 % water (the share from
// memory). So a DOT 4 of 230/155 °C stands at 155 there, and by the straight line between at 189.5 half way.
func TestTheWetPointStandsAtItsWater(t *testing.T) {
	c, err := Find("DOT 4")
	require.NoError(t, err)
	assert.InDelta(t, 155, c.BoilingC(3.7), 1e-9)
	assert.InDelta(t, (230+155)/2.0, c.BoilingC(1.85), 3)
}

func TestBoilingAndViscosity(t *testing.T) {
	c, _ := Find("DOT 3")
	assert.InDelta(t, 205, c.BoilingC(0), 1e-9)
	assert.InDelta(t, 140, c.BoilingC(WetTestWaterPercent), 1e-9)
	assert.Equal(t, 100.0, c.BoilingC(15))
	// Source: the two anchor points of the Walther line (ASTM D341, from memory) and the fact that
	// oil-like fluids thin monotonically.
	assert.InEpsilon(t, 1200, c.ViscosityMM2S(-40), 1e-9)
	assert.InEpsilon(t, 2.2, c.ViscosityMM2S(100), 1e-9)
	last := math.Inf(1)
	for temp := -40.0; temp <= 120; temp += 5 {
		v := c.ViscosityMM2S(temp)
		assert.Less(t, v, last)
		last = v
	}
}
