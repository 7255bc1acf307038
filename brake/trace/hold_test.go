package trace

import (
	"errors"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// made is a pedal under a foot, made up with a known truth: travel is 30 mm and 0.03 mm a newton, and what has leaked
// since the foot came.
type made struct {
	seconds, hz, noiseMM, noiseN float64
	leak                         float64 // mm/s
	floor                        float64 // mm; 0 for none
	foot                         func(s float64) float64
	wild                         float64 // share of readings that are wild
	gapAt                        float64 // two seconds of silence from here, 0 for none
}

func pedal(n float64) float64 { return 30 + 0.03*n }

func (m made) draw(seed uint64) (force, travel Series) {
	r := rand.New(rand.NewPCG(seed, 17))
	leaked := 0.0
	step := 1 / m.hz
	for s := 0.0; s < m.seconds; s += step {
		n := math.Max(0, m.foot(s))
		mm := 0.0
		if n > 20 {
			leaked += m.leak * step
			mm = pedal(n) + leaked
			if m.floor > 0 {
				mm = math.Min(mm, m.floor)
			}
		}
		if m.gapAt > 0 && s > m.gapAt && s < m.gapAt+2 {
			continue
		}
		fv, tv := n+m.noiseN*r.NormFloat64(), mm+m.noiseMM*r.NormFloat64()
		if r.Float64() < m.wild {
			tv += 40 * r.NormFloat64()
		}
		if r.Float64() < m.wild {
			fv += 600 * r.Float64()
		}
		force, travel = append(force, Sample{s, fv}), append(travel, Sample{s + 0.3*step, tv})
	}
	return force, travel
}

// steadily comes down over a second and stays.
func steadily(n float64) func(float64) float64 {
	return func(s float64) float64 { return n * math.Min(1, s) }
}

// Four hundred made holds with known truth: noise, wild readings, drift of the foot within a tenth, gaps, one to fifty
// readings a second, and a curve that is off by up to a fifth. Of those that are honest nearly all are read, and the
// interval (90 %) holds the truth.
func TestFourHundredHolds(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 400))
	accepted, inside, all := 0, 0, 400
	for i := range all {
		n, drift, wave := 180+220*r.Float64(), 0.14*(r.Float64()-0.5), 0.02*r.Float64()
		m := made{
			seconds: 45,
			hz:      []float64{1, 2, 5, 10, 20, 50}[r.IntN(6)],
			noiseMM: 0.05 + 0.95*r.Float64(),
			noiseN:  1 + 4*r.Float64(),
			leak:    []float64{0, 0, 0.02, 0.1, 0.2, 0.4}[r.IntN(6)],
			wild:    0.01 * r.Float64(),
		}
		if r.IntN(3) == 0 {
			m.gapAt = 10 + 20*r.Float64()
		}
		m.foot = func(s float64) float64 {
			return n * math.Min(1, s) * (1 + drift*(s/45-0.5) + wave*math.Sin(0.7*s))
		}
		force, travel := m.draw(uint64(i))
		off := 0.8 + 0.4*r.Float64()
		known := Pedal{TravelMM: func(f float64) float64 { return 30 + 0.03*off*f }}
		if r.IntN(4) == 0 {
			known = Pedal{}
		}
		got, _, err := Hold(force, travel, known)
		if err != nil {
			continue
		}
		accepted++
		if got.Low <= m.leak && m.leak <= got.High {
			inside++
		}
	}
	t.Logf("%d of %d read, truth inside %.1f %%", accepted, all, 100*float64(inside)/float64(accepted))
	assert.GreaterOrEqual(t, float64(accepted)/float64(all), 0.95)
	assert.InDelta(t, 0.925, float64(inside)/float64(accepted), 0.045, "88 to 97 of 100")
}

// What was no hold is told as none, or for what it was.
func TestWhatIsNoHold(t *testing.T) {
	base := made{seconds: 45, hz: 20, noiseMM: 0.1, noiseN: 2, leak: 0.2}
	for name, c := range map[string]struct {
		change func(*made)
		code   string
	}{
		"the foot eases":          {func(m *made) { m.foot = func(s float64) float64 { return 300 - 4*s } }, "trace.eased"},
		"the foot is off at half": {func(m *made) { m.foot = func(s float64) float64 { return map[bool]float64{true: 300}[s < 18] } }, "trace.eased"},
		"nobody at the pedal":     {func(m *made) { m.foot = func(float64) float64 { return 0 } }, "trace.no_foot"},
		"a foot that rests":       {func(m *made) { m.foot = func(float64) float64 { return 30 } }, "trace.no_foot"},
		"a foot that pumps":       {func(m *made) { m.foot = func(s float64) float64 { return 300 * math.Abs(math.Sin(s)) } }, "trace.eased"},
	} {
		m := base
		c.change(&m)
		force, travel := m.draw(5)
		_, _, err := Hold(force, travel, Pedal{})
		var refused *Refused
		require.True(t, errors.As(err, &refused), "%s: %v", name, err)
		assert.Equal(t, c.code, refused.Code, name)
	}
	_, travel := made{seconds: 45, hz: 20, noiseMM: 0.1, foot: func(float64) float64 { return 0 }}.draw(1)
	_, _, err := Hold(nil, travel, Pedal{})
	require.Error(t, err, "nobody at the pedal, and no force measured")
}

// A foot that creeps up on a sound pedal: what the force moves it is taken out. With the rest in the interval, none of
// it is a leak.
func TestACreepingFootIsNoLeak(t *testing.T) {
	m := made{seconds: 45, hz: 20, noiseMM: 0.1, noiseN: 2, foot: func(s float64) float64 { return 200 + 100*s/45 }}
	force, travel := m.draw(2)
	got, u, err := Hold(force, travel, Pedal{TravelMM: pedal})
	require.NoError(t, err)
	assert.LessOrEqual(t, got.Low, 0.0)
	assert.Less(t, got.PerS*got.Seconds, 0.5)
	assert.Greater(t, u.CorrectedMM, 0.5)
	assert.LessOrEqual(t, u.ForceHighN, 1.12*u.ForceN)
	assert.GreaterOrEqual(t, u.ForceLowN, 0.88*u.ForceN)
}

// A pedal on its floor after twenty seconds: the rate of what came before, by hand 1.2 mm/s, with the floor known and
// without.
func TestAPedalOnItsFloor(t *testing.T) {
	m := made{seconds: 45, hz: 20, noiseMM: 0.1, noiseN: 2, leak: 1.2, floor: 63, foot: steadily(300)} // 39 mm and 24 of leak
	force, travel := m.draw(3)
	for name, p := range map[string]Pedal{"known": {FloorMM: 63, TravelMM: pedal}, "unknown": {}} {
		got, u, err := Hold(force, travel, p)
		require.NoError(t, err, name)
		assert.InDelta(t, 20, u.FlooredS, 2.5, name)
		assert.InDelta(t, 1.2, got.PerS, 0.06, name)
	}
}

// A pedal that comes up for certain is said to.
func TestAPedalThatComesUp(t *testing.T) {
	force, travel := made{seconds: 45, hz: 20, noiseMM: 0.1, noiseN: 2, leak: -0.05, foot: steadily(300)}.draw(4)
	c, err := Read(FindSink, map[Kind]Series{Force: force, Travel: travel}, Pedal{TravelMM: pedal})
	require.NoError(t, err)
	assert.True(t, c.Under.Rises)
	assert.Less(t, c.Sink.MM, 0.0)
}

// A lift in mid-hold ends the stretch: the longer part is read.
func TestALiftEndsIt(t *testing.T) {
	force, travel := made{
		seconds: 45,
		hz:      20,
		noiseMM: 0.1,
		leak:    0.2,
		foot: func(s float64) float64 {
			if s > 12 && s < 13 {
				return 0
			}
			return 300 * math.Min(1, s)
		},
	}.draw(6)
	for _, f := range []Series{force, nil} {
		got, u, err := Hold(f, travel, Pedal{})
		require.NoError(t, err)
		assert.Greater(t, u.FromS, 13.0)
		assert.InDelta(t, 0.2, got.PerS, 0.03)
	}
}

// A curve: one spike of 900 N in a ramp and readings that tremble by 5 N move none of its points by more than a fifth
// of a millimetre (500 made ones).
func TestACurveThroughSpikesAndTremble(t *testing.T) {
	far, all := 0, 0
	for seed := range uint64(500) {
		r := rand.New(rand.NewPCG(seed, 5))
		var force, travel Series
		for i := range 400 {
			s := float64(i) / 50
			n := 50 * s
			fv := n + 5*r.NormFloat64()
			if i == 150 {
				fv = 900
			}
			force, travel = append(force, Sample{s, fv}), append(travel, Sample{s + 0.004, pedal(n) + 0.1*r.NormFloat64()})
		}
		got, lost, err := Curve(force, travel, 20)
		require.NoError(t, err)
		assert.GreaterOrEqual(t, lost, 1)
		require.Greater(t, len(got), 15)
		for _, p := range got[1 : len(got)-1] {
			if all++; math.Abs(p.TravelMM-pedal(p.ForceN)) > 0.2 {
				far++
			}
		}
	}
	assert.Less(t, float64(far)/float64(all), 0.02)
}

// Quick applies that were not alike, or not quick, are none; a vacuum somebody used, or an engine raised, does not only
// leak.
func TestWhatIsNoPumpTestAndNoFall(t *testing.T) {
	refused := func(finding string, by map[Kind]Series, code string) {
		_, err := Read(finding, by, Pedal{})
		var r *Refused
		require.True(t, errors.As(err, &r), "%v", err)
		assert.Equal(t, code, r.Code)
	}
	refused(FindPump,
		map[Kind]Series{Force: drawn(9, 50, 1, 1, pumped(300, 300, 120, 300)), Travel: drawn(9, 50, 0.2, 2, pumped(80, 60, 50, 45))},
		"trace.uneven")
	_, err := Read(FindPump,
		map[Kind]Series{Force: drawn(9, 50, 1, 1, pumped(300, 290, 310, 300)), Travel: drawn(9, 50, 0.2, 2, pumped(80, 60, 50, 45))},
		Pedal{})
	require.NoError(t, err)
	refused(FindFall,
		map[Kind]Series{Vacuum: drawn(60, 10, 0.1, 1, func(s float64) float64 { return 68 - s*3/60 - map[bool]float64{true: 12}[s > 30] })},
		"trace.applied")
	refused(FindFall, map[Kind]Series{Vacuum: drawn(60, 10, 0.1, 1, func(s float64) float64 { return 55 + s*3/60 })}, "trace.engine")
}
