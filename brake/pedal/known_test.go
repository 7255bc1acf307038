package pedal

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/system"
	"geminate/brake/twin"
)

// A vehicle of its own: clearances a fifth larger, elasticity a quarter. Its curve read by a rule gives a system whose
// twin stands within the rule's millimetre of it at every force, and on which air is then told from none. Invented
// vehicle; the truth is the twin itself.
func TestAKnownGoodCurveIsTheVehiclesOwn(t *testing.T) {
	s, err := system.FromPattern("pickup-front-rear-vacuum")
	require.NoError(t, err)
	own := s.Clone()
	scale(own, 1.2, 1.25)
	read := func(s *system.System) (out []Reading) {
		m := twin.New(s)
		for _, f := range []float64{200, 300, 400} {
			out = append(out, Reading{PedalForceN: f, TravelMM: m.Apply(f, false).TravelMM})
		}
		return out
	}
	known, err := Known(s, read(own))
	require.NoError(t, err)
	a, b := twin.New(known), twin.New(own)
	for _, f := range []float64{150, 250, 350, 450} {
		assert.InDelta(t, b.Apply(f, false).TravelMM, a.Apply(f, false).TravelMM, 1, "at %v N", f)
	}
	before, err := Estimate(s, Readings{Readings: read(own)})
	require.NoError(t, err)
	assert.NotEqual(t, Clear, before.Verdict, "by the pattern's figures nobody can say it is clear")
	after, err := Estimate(known, Readings{Readings: read(own), Baseline: true})
	require.NoError(t, err)
	assert.NotEqual(t, Air, after.Verdict)
	assert.Less(t, after.IntervalCM3[1], before.IntervalCM3[1], "told finer than before")
	aired := own.Clone()
	aired.Circuits[0].AirCM3 = 6
	after, err = Estimate(known, Readings{Readings: read(aired), Baseline: true})
	require.NoError(t, err)
	assert.Equal(t, Air, after.Verdict)
}

func TestACurveThatCannotBeTheVehiclesIsRefused(t *testing.T) {
	s, err := system.FromPattern("pickup-front-rear-vacuum")
	require.NoError(t, err)
	_, err = Known(s, []Reading{{PedalForceN: 300, TravelMM: 42}})
	assert.ErrorContains(t, err, "takes 2")
	_, err = Known(s, []Reading{{PedalForceN: 200, TravelMM: 5}, {PedalForceN: 300, TravelMM: 6}})
	assert.ErrorIs(t, err, ErrFar)
	trailer, err := system.FromPattern("trailer-surge")
	require.NoError(t, err)
	_, err = Known(trailer, nil)
	assert.Error(t, err)
}
