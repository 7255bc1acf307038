package trace

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Three points by hand: slopes of (0,0), (1,2), (2,3) are 2, 1.5 and 1, their median 1.5.
func TestTheilSenByHand(t *testing.T) {
	got := theilSen(Series{{0, 0}, {1, 2}, {2, 3}}, Slope{})
	assert.InDelta(t, 1.5, got.PerS, 1e-12)
	assert.InDelta(t, 1, got.Low, 1e-12)
	assert.InDelta(t, 2, got.High, 1e-12)
}

func held(rate, noise float64, seed uint64, outliers bool) Series {
	rnd := rand.New(rand.NewPCG(seed, 1))
	var x Series
	for i := range 50 * 50 { // fifty seconds at fifty readings a second
		s := float64(i) / 50
		v := 70 + rate*s + noise*rnd.NormFloat64()
		if s < 3 { // the foot is still going down
			v -= 10 * (3 - s)
		}
		if outliers && i%97 == 0 {
			v += 25
		}
		x = append(x, Sample{s, v})
	}
	return x
}

// A held pedal's rate is found within a tenth through noise, outliers, gaps, doubles and disorder, and its interval
// holds the truth as often as it says.
func TestASinkIsFound(t *testing.T) {
	inside, all := 0, 300
	for seed := range all {
		x := held(0.2, 0.3, uint64(seed), seed%3 == 0)
		got, err := robust(x, settleS)
		require.NoError(t, err)
		assert.InEpsilon(t, 0.2, got.PerS, 0.1)
		if got.Low <= 0.2 && 0.2 <= got.High {
			inside++
		}
	}
	assert.InDelta(t, 0.9, float64(inside)/float64(all), 0.06)

	x := held(0.2, 0.3, 7, false)
	whole, err := robust(x, settleS)
	require.NoError(t, err)
	var worse Series
	for i, p := range x {
		if i%5 == 0 { // lost
			continue
		}
		worse = append(worse, p)
		if i%4 == 0 { // doubled
			worse = append(worse, p)
		}
	}
	rand.New(rand.NewPCG(1, 1)).Shuffle(len(worse), func(i, k int) { worse[i], worse[k] = worse[k], worse[i] })
	got, err := robust(worse, settleS)
	require.NoError(t, err)
	assert.InDelta(t, whole.PerS, got.PerS, 0.005)
	mm, low, high := whole.SinkMM(45)
	assert.InDelta(t, 9, mm, 0.4)
	assert.Less(t, low, mm)
	assert.Greater(t, high, mm)
}

func TestAHoldThatIsNone(t *testing.T) {
	for _, x := range []Series{nil, {{0, 1}}, held(0.2, 0.3, 1, false)[:500]} {
		_, err := robust(x, settleS)
		require.ErrorIs(t, err, ErrShort)
	}
	still, err := robust(held(0, 0.3, 3, false), settleS)
	require.NoError(t, err)
	assert.InDelta(t, 0, still.PerS, 0.01)
	assert.LessOrEqual(t, still.Low, 0.0)
}

// Thinned, a trace keeps its extremes, its mean and its length; sixty seconds at fifty readings a second stay under 20
// kB.
func TestThinKeepsExtremes(t *testing.T) {
	x := held(0.2, 0.3, 5, true)
	b := x.Thin(240)
	assert.LessOrEqual(t, len(b), 240)
	low, high, n := b[0].Min, b[0].Max, 0
	for _, k := range b {
		low, high, n = min(low, k.Min), max(high, k.Max), n+k.N
	}
	assert.Equal(t, len(x), n)
	wantLow, wantHigh := x[0].V, x[0].V
	for _, p := range x {
		wantLow, wantHigh = min(wantLow, p.V), max(wantHigh, p.V)
	}
	assert.InDelta(t, wantLow, low, 1e-4)
	assert.InDelta(t, wantHigh, high, 1e-4)
}

// Force and travel of different moments make one curve: travel is a straight 0.1 mm a newton here.
func TestACurve(t *testing.T) {
	var force, travel Series
	for i := range 100 {
		s := float64(i) / 20
		force = append(force, Sample{s, 80 * s})
		travel = append(travel, Sample{s + 0.013, 8 * (s + 0.013)})
	}
	for i := range 20 { // and up again
		s := 5 + float64(i)/20
		force, travel = append(force, Sample{s, 390 - 300*(s-5)}), append(travel, Sample{s, 45})
	}
	got, lost, err := Curve(force, travel, 25)
	require.NoError(t, err)
	assert.Greater(t, len(got), 10)
	for _, p := range got {
		assert.InDelta(t, 0.1*p.ForceN, p.TravelMM, 0.01)
	}
	assert.Zero(t, lost)
	_, _, err = Curve(force[:2], travel, 25)
	require.ErrorIs(t, err, ErrFew)
}

func TestGrams(t *testing.T) {
	assert.InDelta(t, 100, CM3OfGrams(106, 20, false), 1e-9)
	assert.InDelta(t, 100, CM3OfGrams(104.3, 40, false), 1e-9)
	assert.InDelta(t, 100, CM3OfGrams(96, 20, true), 1e-9)
}

func TestAReadingHasItsUnit(t *testing.T) {
	m, ok := MeasureOf(Travel)
	require.True(t, ok)
	x, err := m.Read("m", 0.0712)
	require.NoError(t, err)
	assert.InDelta(t, 71.2, x, 1e-9)
	_, err = m.Read("mm", 71.2)
	require.ErrorIs(t, err, ErrUnit)
	_, err = m.Read("m", 71.2)
	require.ErrorIs(t, err, ErrRange)
	_, ok = MeasureOf("thumb")
	assert.False(t, ok)
}
