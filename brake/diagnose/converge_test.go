package diagnose

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/system"
	"geminate/brake/twin"
)

// bruteSteps is how many severities the exact integral is taken over.
const bruteSteps = 3000

// brute is every prediction of a probe the plain way: the twin asked at each of so many severities.
func brute(e *engine, p *probe) (sound float64, single [][]float64) {
	sound, single = p.eval(twin.New(e.sys)), make([][]float64, len(e.faults))
	for i, f := range e.faults {
		if f.fault.Physics == nil {
			continue
		}
		row := make([]float64, bruteSteps)
		for k := range row {
			s := e.sys.Clone()
			f.fault.Physics(s, f.at, (float64(k)+0.5)/bruteSteps)
			row[k] = p.eval(twin.New(s))
		}
		single[i] = row
	}
	return sound, single
}

// Source: numerical integration by brute force, as the how-it-computes (section 10) asks: the integral over severity no
// longer changes. Every reading the twin judges, over the whole range it can have, for every single fault: the
// posterior stays within 1 %.
func TestTheSeverityIntegralIsConverged(t *testing.T) {
	for name, c := range map[string]struct {
		pattern string
		probe   *probe
		least   float64
		most    float64
	}{
		"sink, engine off":   {"car-diagonal-vacuum", sinkProbe(200, 30, false), 0, 60},
		"sink, engine on":    {pickup, sinkProbe(200, 60, true), 0, 120},
		"sink, no booster":   {"special-manual", sinkProbe(250, 60, false), 0, 100},
		"travel":             {pickup, travelProbe([]float64{100, 200, 300}), 5, 150},
		"travel, one":        {"pickup-hydraulic", travelProbe([]float64{250}), 5, 150},
		"pressure, engine":   {pickup, pressureProbe("LF", 200, true), 0, 14},
		"pressure, by foot":  {"car-diagonal-vacuum", pressureProbe("A", 300, false), 0, 9},
		"pressure, trailing": {"truck-hydraulic", pressureProbe("LR", 250, true), 0, 16},
	} {
		s, err := system.FromPattern(c.pattern)
		require.NoError(t, err)
		e := newEngine(s, nil)
		sound, exact := brute(e, c.probe)
		worst := 0.0
		for step := range 61 {
			o := &observation{finding: "x", probe: c.probe, sure: true, weight: 1, number: c.least + (c.most-c.least)*float64(step)/60}
			like := e.readingsLikelihood([]*observation{o})
			// Over healthy and the single faults, whose exact integrals are known.
			n := 1 + len(e.faults)
			got, want := make([]float64, n), make([]float64, n)
			var gotSum, wantSum float64
			for i := range n {
				l := o.chance(sound)
				if i > 0 && exact[i-1] != nil {
					l = 0
					for _, x := range exact[i-1] {
						l += o.chance(x) / bruteSteps
					}
				}
				got[i], want[i] = e.prior[i]*like[i], e.prior[i]*l
				gotSum, wantSum = gotSum+got[i], wantSum+want[i]
			}
			for i := range n {
				worst = math.Max(worst, math.Abs(got[i]/gotSum-want[i]/wantSum))
			}
		}
		assert.Less(t, worst, 0.01, name)
		t.Logf("%s: within %.5f", name, worst)
	}
}

// The same for two faults that both move a reading: the twin asked at every pair of forty severities of each. Between
// them stand straight lines at three severities, so the bound is on the likelihood beside the best of all.
func TestTwoFaultsTogetherAreNearTheTwin(t *testing.T) {
	s, err := system.FromPattern("car-diagonal-vacuum")
	require.NoError(t, err)
	e := newEngine(s, nil)
	for name, probe := range map[string]*probe{"sink": sinkProbe(200, 30, false), "travel": travelProbe([]float64{100, 200, 300})} {
		const n = 40
		readings := []float64{3, 8, 14, 25, 40, 70}
		worst, checked := 0.0, 0
		for _, h := range e.hyps {
			if len(h) != 2 || e.faults[h[0]].fault.Physics == nil || e.faults[h[1]].fault.Physics == nil ||
				e.mixtureOf(e.gridOf(probe), h[0], h[1]) == nil {
				continue
			}
			checked++
			if checked%5 != 0 {
				continue // a fifth of them: each asks the twin 1600 times
			}
			var exact [n * n]float64
			a, b := e.faults[h[0]], e.faults[h[1]]
			for k := range exact {
				c := s.Clone()
				a.fault.Physics(c, a.at, (float64(k/n)+0.5)/n)
				b.fault.Physics(c, b.at, (float64(k%n)+0.5)/n)
				exact[k] = probe.eval(twin.New(c))
			}
			for _, x := range readings {
				o := &observation{probe: probe, sure: true, weight: 1, number: x}
				want := 0.0
				for _, y := range exact {
					want += o.chance(y) / (n * n)
				}
				got := e.together(e.read([]*observation{o}), h[0], h[1])
				peak := o.chance(x)
				worst = math.Max(worst, math.Abs(got-want)/peak)
			}
		}
		assert.Greater(t, checked, 20, name)
		assert.Less(t, worst, 0.1, "%s: of a perfect fit", name)
		t.Logf("%s: %d pairs, within %.3f of a perfect fit", name, checked, worst)
	}
}

// Source: physics. A pedal that sinks further is no better reason to think the cylinder sound.
func TestMoreSinkDoesNotClearTheCylinder(t *testing.T) {
	held := func(mm float64) float64 {
		c := caseOf(t, "car-diagonal-vacuum")
		c.Findings = []Finding{
			{ID: "pedal.sink", Value: []byte(`{"pedal_force_n":200,"travel_mm":` + trim(mm) + `,"seconds":30,"engine":"off"}`)},
		}
		r, err := Run(c, DefaultCosts())
		require.NoError(t, err)
		return chance(r, "mc.primary_cup_bypass") + chance(r, "mc.secondary_cup_bypass") + chance(r, "mc.bore_corroded")
	}
	before := 0.0
	for mm := 0.0; mm <= 24; mm += 2 {
		now := held(mm)
		t.Logf("%v mm: %.3f", mm, now)
		assert.Greater(t, now, before-0.02, "at %v mm", mm)
		before = math.Max(before, now)
	}
}
