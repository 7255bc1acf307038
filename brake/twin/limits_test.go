package twin

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/system"
)

// Source: the two branches of the booster's output, set equal by hand.
func TestKneeIsWhereBothBranchesMeet(t *testing.T) {
	for _, id := range []string{"pickup-front-rear-vacuum", "car-diagonal-vacuum", "pickup-hydraulic"} {
		s := pattern(t, id)
		m := New(s)
		knee, ok := m.KneePedalForceN()
		require.True(t, ok, id)
		rod := m.RodForceN(knee)
		u := rod - s.Booster.CutInN
		assert.InEpsilon(t, s.Booster.JumpIn+s.Booster.Ratio*u, m.OutputForceN(rod, true), 1e-9, id)
		// Below it the foot is multiplied by the ratio, beyond it newton for newton.
		slope := func(f float64) float64 { return m.OutputForceN(f+1, true) - m.OutputForceN(f, true) }
		assert.InDelta(t, s.Booster.Ratio, slope(rod-20), 1e-9, id)
		assert.InDelta(t, 1, slope(rod+20), 1e-9, id)
	}
	_, ok := New(pattern(t, "special-manual")).KneePedalForceN()
	assert.False(t, ok)
}

// Source: the how-it-computes, section 2: without assist the ceiling is −spring, with no vacuum too.
func TestNoVacuumIsNoAssist(t *testing.T) {
	s := pattern(t, "car-front-rear-vacuum")
	off := New(s).Apply(300, false)
	*s.Booster.VacuumKPA = 0
	dead := New(s).Apply(300, true)
	assert.Equal(t, off.TravelMM, dead.TravelMM)
	assert.Equal(t, off.PressureMPA, dead.PressureMPA)
	rod := New(s).RodForceN(300)
	assert.InDelta(t, rod-s.Booster.CutInN-s.Booster.Spring, dead.OutputForceN, 1e-9)
}

// Source: arithmetic. A chamber at its end holds the pressure that fills exactly what is left.
func TestBottomedChambersKeepTheirVolume(t *testing.T) {
	s := pattern(t, "pickup-front-rear-vacuum")
	s.Pedal.FloorMM = 400
	for i := range s.Circuits {
		s.Circuits[i].AirCM3 = 40
	}
	m := New(s)
	_, st := m.solve(500, true, [2]float64{})
	require.Equal(t, [2]bool{true, true}, st.bottomed)
	for k := 0; k < 2; k++ {
		c := &m.chambers[k]
		assert.InEpsilon(t, m.area*(c.stroke-c.cutoff), m.volume(c, st.p[k]), 1e-6)
		assert.Less(t, st.p[k], (m.efficiency*st.out-c.preload)/m.area)
	}
	assert.Equal(t, []string{"A", "B"}, m.Apply(500, true).Bottomed)
}

// Source: the how-it-computes, section 2: preload pre-advances the primary and covers its port.
func TestRodPreloadTakesCutoffAndStroke(t *testing.T) {
	s := pattern(t, "car-front-rear-vacuum")
	s.PushrodGapMM = 0
	flush := New(s).Apply(200, true)
	s.PushrodGapMM = -0.5
	pre := New(s).Apply(200, true)
	assert.InDelta(t, s.Pedal.Ratio*0.5, flush.TravelMM-pre.TravelMM, 1e-9)
	s.PushrodGapMM = -3
	m := New(s)
	assert.Zero(t, m.chambers[0].cutoff)
	assert.InDelta(t, s.MasterCylinder.Primary.StrokeMM-3, m.chambers[0].stroke, 1e-12)
	s.PushrodGapMM = 2
	gap := New(s).Apply(200, true)
	assert.InDelta(t, s.Pedal.Ratio*2, gap.TravelMM-flush.TravelMM, 1e-9)
	assert.Equal(t, flush.PressureMPA, gap.PressureMPA, "a gap costs travel, not pressure")
}

// Source: the how-it-computes: a residual valve keeps its pressure's volume in the circuit.
func TestResidualValveSparesTravel(t *testing.T) {
	s := pattern(t, "car-front-rear-vacuum")
	plain := New(s).Apply(200, true)
	r := 0.3
	s.Circuits[1].ResidualMPA = &r
	held := New(s).Apply(200, true)
	assert.Less(t, held.TravelMM, plain.TravelMM)
	m := New(s)
	assert.InDelta(t, m.rawVolume(&m.chambers[1], r), (plain.StrokeMM["B"]-held.StrokeMM["B"])*m.area, 1e-6)
}

func TestForceForPressureInvertsApply(t *testing.T) {
	m := New(pattern(t, "pickup-hydraulic"))
	for _, p := range []float64{1, 3, 6, 10} {
		f, ok := m.ForceForPressure(p, true, 1500)
		require.True(t, ok)
		assert.InDelta(t, p, m.Apply(f, true).PressureMPA["A"], 1e-4)
	}
	_, ok := m.ForceForPressure(30, false, 500)
	assert.False(t, ok, "the foot alone does not get there")
	// On an open circuit no foot does.
	s := pattern(t, "special-manual")
	s.Circuits[0].Open = true
	_, ok = New(s).ForceForPressure(1, true, 5000)
	assert.False(t, ok)
}

// Decision, stated in solve: with assist a simulator's spring carries the pedal, without it the
// cylinder does.
func TestSimulatorCarriesThePedal(t *testing.T) {
	s := pattern(t, "pickup-hydraulic")
	s.Booster.Kind = system.BoosterElectroHydraulic
	s.Booster.Simulator = &system.Simulator{StiffnessNPerMM: 80, FreeMM: 2}
	m := New(s)
	p := m.Apply(200, true)
	assert.InEpsilon(t, s.Pedal.Ratio*(s.Pedal.FreePlayMM+2+m.RodForceN(200)/80), p.TravelMM, 1e-12)
	assert.Greater(t, p.PressureMPA["A"], 3.0)
	plain := pattern(t, "pickup-hydraulic")
	assert.Equal(t, New(plain).Apply(200, false).TravelMM, m.Apply(200, false).TravelMM)
	assert.True(t, m.Apply(5000, true).Floored)
}

// A hold that meets the floor says when, and the pedal stays there.
func TestHoldMeetsTheFloorOnce(t *testing.T) {
	s := pattern(t, "car-front-rear-vacuum")
	s.Circuits[0].BypassMM3SMPA, s.Pedal.FloorMM = 80, 85
	m := New(s)
	h, err := m.Hold(200, 120, 13, true)
	require.NoError(t, err)
	require.NotNil(t, h.TimeToFloorS)
	at := *h.TimeToFloorS
	for _, x := range h.Samples {
		if x.TimeS >= at {
			assert.InDelta(t, s.Pedal.FloorMM, x.TravelMM, 1e-6)
		} else {
			assert.Less(t, x.TravelMM, s.Pedal.FloorMM)
		}
	}
	// The same moment, however the hold is sampled.
	again, err := m.Hold(200, 120, 200, true)
	require.NoError(t, err)
	assert.InEpsilon(t, at, *again.TimeToFloorS, 1e-6)
	tight, err := New(pattern(t, "car-front-rear-vacuum")).Hold(200, 60, 2, true)
	require.NoError(t, err)
	assert.Nil(t, tight.TimeToFloorS)
	assert.Zero(t, tight.SinkMMPerMin)
	s.Pedal.FloorMM = 30
	at0, err := New(s).Hold(200, 10, 2, true)
	require.NoError(t, err)
	assert.Zero(t, *at0.TimeToFloorS, "floored at once")
}

func TestNothingIsNaNOnWildButLegalSystems(t *testing.T) {
	for _, p := range system.Patterns {
		s := p.Build()
		for i := range s.Circuits {
			s.Circuits[i].AirCM3, s.Circuits[i].LeakMM3SMPA = 500, 1e6
		}
		for i := range s.Wheels {
			s.Wheels[i].Brake.ComplianceMM3, s.Wheels[i].Hose.ExpansionMM3PerMPA = 0, 0
		}
		m := New(&s)
		for _, f := range []float64{0, 1, 100, 1e4, 1e6} {
			for _, assist := range []bool{true, false} {
				x := m.Apply(f, assist)
				assert.False(t, math.IsNaN(x.TravelMM) || math.IsInf(x.TravelMM, 0), "%s at %v", p.ID, f)
				assert.False(t, math.IsNaN(x.DecelerationMPS2))
			}
			h, err := m.Hold(f, 60, 7, true)
			require.NoError(t, err)
			for _, x := range h.Samples {
				assert.False(t, math.IsNaN(x.TravelMM) || math.IsNaN(x.ReservoirChangeCM3), "%s at %v", p.ID, f)
				assert.LessOrEqual(t, x.ReservoirChangeCM3, 0.0)
			}
		}
	}
}
