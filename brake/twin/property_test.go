package twin

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/system"
)

// randomSystem is a pattern with its figures shaken and, now and then, something wrong with it.
func randomSystem(rnd *rand.Rand) *system.System {
	s := system.Patterns[rnd.IntN(len(system.Patterns))].Build()
	shake := func(x *float64) { *x *= 0.6 + 0.9*rnd.Float64() }
	shake(&s.MasterCylinder.BoreMM)
	shake(&s.MasterCylinder.Primary.StrokeMM)
	shake(&s.MasterCylinder.Primary.PreloadN)
	s.PushrodGapMM = -0.8 + 2*rnd.Float64()
	if s.Pedal != nil {
		shake(&s.Pedal.FloorMM)
		s.Pedal.ReturnForceN = 40 * rnd.Float64()
	} else {
		s.PushrodGapMM = 0
	}
	for i := range s.Wheels {
		shake(&s.Wheels[i].Brake.ComplianceMM3)
		shake(&s.Wheels[i].Brake.ClearanceMM)
	}
	for i := range s.Circuits {
		c := &s.Circuits[i]
		if rnd.IntN(3) == 0 {
			c.AirCM3 = 15 * rnd.Float64()
		}
		if rnd.IntN(3) == 0 {
			c.BypassMM3SMPA = math.Pow(10, 3*rnd.Float64())
		}
		if rnd.IntN(3) == 0 {
			c.LeakMM3SMPA = math.Pow(10, 3*rnd.Float64())
		}
		c.Open = rnd.IntN(12) == 0
		if rnd.IntN(6) == 0 {
			r := 0.1 * rnd.Float64()
			c.ResidualMPA = &r
		}
	}
	return &s
}

func forces(s *system.System) (step, most float64) {
	if s.IsTrailer() {
		return 60, 6000
	}
	return 8, 800
}

// Whatever the system: more foot never gives less pedal or less pressure, nothing is negative, no piston
// passes its end, the pedal never passes the floor. Source: monotonicity and limits of the how-it-computes.
func TestAnySystemIsMonotoneAndWithinItsLimits(t *testing.T) {
	rnd := rand.New(rand.NewPCG(1, 2))
	for n := 0; n < 400; n++ {
		s := randomSystem(rnd)
		m := New(s)
		step, most := forces(s)
		for _, assist := range []bool{true, false} {
			var last state
			for f := 0.0; f <= most; f += step {
				_, st := m.solve(f, assist, [2]float64{})
				require.GreaterOrEqual(t, st.travel, last.travel-1e-6, "%s at %v N", s.Name, f)
				require.LessOrEqual(t, st.travel, m.floor+1e-9)
				for k := 0; k < m.n; k++ {
					require.GreaterOrEqual(t, st.p[k], last.p[k]-1e-6, "%s at %v N, chamber %d", s.Name, f, k)
					require.LessOrEqual(t, st.y[k], m.chambers[k].stroke+1e-9)
					require.GreaterOrEqual(t, st.y[k], 0.0)
				}
				last = st
			}
		}
	}
}

// Whatever the system, through a minute's hold: what the pistons swept is what the circuits took and what
// was lost, at every step; what left for good is what the reservoir lacks. Source: conservation of fluid.
func TestAnyHoldConservesFluid(t *testing.T) {
	rnd := rand.New(rand.NewPCG(3, 4))
	moved, floored := 0, 0
	for n := 0; n < 150; n++ {
		s := randomSystem(rnd)
		m := New(s)
		_, most := forces(s)
		h := holder{m: m, force: most * (0.1 + 0.4*rnd.Float64()), assist: rnd.IntN(2) == 0}
		h.s = h.at(h.lost)
		leaked := [2]float64{} // by the trapezoid of what each sample says leaves
		const steps, dt = 600, 0.1
		for i := 1; i <= steps; i++ {
			before := h.s
			h.advance(float64(i) * dt)
			require.GreaterOrEqual(t, h.s.travel, before.travel-1e-6, s.Name)
			for k := 0; k < m.n; k++ {
				c := &m.chambers[k]
				leaked[k] += (c.bypass + c.leak) * (before.p[k] + h.s.p[k]) / 2 * dt
				if c.open || h.s.p[k] < 1e-6 {
					continue
				}
				require.InDelta(t, m.area*(h.s.y[k]-c.cutoff), m.volume(c, h.s.p[k])+h.lost[k], 0.5+1e-4*h.lost[k],
					"%s chamber %d at %v s", s.Name, k, h.t)
			}
		}
		sample, lost := h.sample(h.t), 0.0
		for k := 0; k < m.n; k++ {
			c := &m.chambers[k]
			assert.InDelta(t, leaked[k], h.lost[k], 20+0.02*h.lost[k], "%s chamber %d: the loss is what the pressure drove out", s.Name, k)
			if c.bypass+c.leak > 0 {
				lost += h.lost[k] * c.leak / (c.bypass + c.leak)
			}
			if c.open && h.s.y[k] > 0 {
				lost += m.area * (c.stroke - c.cutoff)
			}
			if h.lost[k] > 100 {
				moved++
			}
		}
		if h.s.floored {
			floored++
		}
		assert.InDelta(t, -lost/1000, sample.ReservoirChangeCM3, 1e-9)
	}
	assert.Greater(t, moved, 40, "the cases must lose fluid")
	assert.Greater(t, floored, 10, "and some must end on the floor")
}
