package trace

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// drawn is a series at so many readings a second with a little noise, by a function of time.
func drawn(seconds, hz, noise float64, seed uint64, f func(s float64) float64) Series {
	rnd := rand.New(rand.NewPCG(seed, 3))
	var x Series
	for i := range int(seconds * hz) {
		s := float64(i) / hz
		x = append(x, Sample{s, f(s) + noise*rnd.NormFloat64()})
	}
	return x
}

// pumped goes down to each height in turn, a second down and a second up.
func pumped(peaks ...float64) func(s float64) float64 {
	return func(s float64) float64 {
		k := int(s / 2)
		if k >= len(peaks) {
			return 0
		}
		return peaks[k] * math.Sin(math.Pi*(s-2*float64(k))/2)
	}
}

// By hand: applies of 80, 60, 50 and 45 mm are those heights in that order; a foot that comes back half the way between
// two strokes makes one of them; noise at the threshold makes none two.
func TestQuickAppliesAreRead(t *testing.T) {
	got, err := PumpUp(drawn(9, 50, 0.2, 1, pumped(80, 60, 50, 45)))
	require.NoError(t, err)
	assert.Equal(t, 4, got.Applies)
	assert.InDelta(t, 80, got.FirstMM, 0.6)
	assert.InDelta(t, 60, got.SecondMM, 0.6)
	assert.InDelta(t, 45, got.FourthMM, 0.6)
	for seed := range uint64(100) {
		list, err := Applies(drawn(9, 50, 0.4, seed, pumped(80, 60, 50, 45)))
		require.NoError(t, err)
		require.Len(t, list, 4)
	}
	// Drawn on and asked again as it grows, each stroke counts once, when it has come up again.
	for seed := range uint64(50) {
		whole, counted, upTo := drawn(9, 16, 0.3, seed, pumped(80, 60, 50, 45)), 0, -1.0
		for n := 4; n <= len(whole); n += 4 {
			s := StrokesAfter(whole[:n], upTo)
			counted, upTo = counted+s.N, s.UpToS
		}
		assert.Equal(t, 4, counted)
	}
	assert.Zero(t, StrokesAfter(nil, 3).N)
	half, err := Applies(drawn(4, 50, 0.2, 1, func(s float64) float64 { return 60 + 20*math.Sin(math.Pi*s) }))
	require.NoError(t, err)
	assert.NotEmpty(t, half)
	_, err = PumpUp(drawn(5, 50, 0.2, 1, pumped(80, 60)))
	require.ErrorIs(t, err, ErrFew)
	_, err = Applies(drawn(5, 50, 1, 1, func(float64) float64 { return 3 }))
	require.ErrorIs(t, err, ErrNoApply)
	_, err = Applies(nil)
	require.ErrorIs(t, err, ErrFew)
}

// Two applies at 200 N with help go 70 mm, then two with the leg alone 35 mm: two were in reserve.
func TestAReserveIsCounted(t *testing.T) {
	force := drawn(10, 50, 1, 1, pumped(200, 200, 200, 200))
	n, err := Reserve(force, drawn(10, 50, 0.1, 2, pumped(70, 68, 35, 34)))
	require.NoError(t, err)
	assert.Equal(t, 2, n)
	_, err = Reserve(force, drawn(10, 50, 0.1, 2, pumped(35, 35, 34, 35)))
	require.ErrorIs(t, err, ErrNoApply, "nothing was used up")
}

// By hand: 8 MPa at the one port, 7.6 at the other, held for eight seconds: 0.4 between them, and the interval holds it
// nine times in ten.
func TestTwoPortsAgainstEachOther(t *testing.T) {
	press := func(most float64) func(s float64) float64 {
		return func(s float64) float64 { return most * math.Min(1, math.Min(s, math.Max(0.06, (12-s)*2))) }
	}
	inside := 0
	for seed := range uint64(200) {
		a, b := drawn(16, 20, 0.03, 2*seed, press(8)), drawn(16, 20, 0.03, 2*seed+1, press(7.6))
		got, err := Read(FindGauge, map[Kind]Series{PressureA: a, PressureB: b}, Pedal{})
		require.NoError(t, err)
		if got.Balance.Low <= 0.4 && 0.4 <= got.Balance.High {
			inside++
		}
		require.InDelta(t, 0.4, got.Balance.V, 0.03)
		require.InDelta(t, 8, got.Level.V, 0.05)
	}
	assert.InDelta(t, 0.9, float64(inside)/200, 0.07)
	_, err := Balance(drawn(2, 20, 0.01, 1, press(8)), drawn(2, 20, 0.01, 2, press(8)))
	require.Error(t, err)
}

// By hand: from 8 MPa back along a straight second to 0.07 MPa: nine tenths to one tenth of it is 0.8 s, and 0.07 is
// left. One that is never let go says so.
func TestWhatIsLeftAndHowFastItGoes(t *testing.T) {
	x := drawn(16, 50, 0.005, 1, func(s float64) float64 {
		switch {
		case s < 1:
			return 0.07
		case s < 8:
			return 8
		case s < 9:
			return 8 - 7.93*(s-8)
		}
		return 0.07
	})
	got, err := Release(x)
	require.NoError(t, err)
	assert.InDelta(t, 0.8, got.Seconds, 0.05, "a reading either way")
	assert.InDelta(t, 0.07, got.Left.V, 0.005)
	assert.Less(t, got.Left.Low, got.Left.High)
	_, err = Release(x[:390])
	require.ErrorIs(t, err, ErrHeld)
}

// A vacuum that falls 3 kPa a minute: its rate within a tenth, and where it ended.
func TestAVacuumFalls(t *testing.T) {
	got, err := Read(FindFall, map[Kind]Series{Vacuum: drawn(60, 10, 0.1, 1, func(s float64) float64 { return 68 - s*3/60 })}, Pedal{})
	require.NoError(t, err)
	assert.InEpsilon(t, -0.05, got.Slope.PerS, 0.1)
	assert.InDelta(t, 65, got.Level.V, 0.2)
}

// Whatever comes in, nothing falls over, and what cannot be read is an error and no figure.
func TestHostileTraces(t *testing.T) {
	rnd := rand.New(rand.NewPCG(9, 9))
	for range 300 {
		by := map[Kind]Series{}
		for _, k := range []Kind{Force, Travel, PressureA, PressureB, Vacuum} {
			var x Series
			for range rnd.IntN(60) {
				x = append(x, Sample{math.Floor(10 * rnd.Float64()), math.Floor(rnd.NormFloat64() * math.Pow(10, float64(rnd.IntN(6))))})
			}
			by[k] = x
		}
		for _, d := range Drawable {
			c, err := Read(d.Finding, by, Pedal{FloorMM: 100})
			if err == nil && c.Balance != nil {
				assert.False(t, math.IsNaN(c.Balance.V) || math.IsInf(c.Balance.V, 0))
			}
		}
	}
}
