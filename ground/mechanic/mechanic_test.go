package mechanic

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/system"
)

// Every row is a chance, from faint to gross, and every trouble can be had by some vehicle.
func TestTheTroublesAreWhole(t *testing.T) {
	seen := map[string]bool{}
	for _, trouble := range Troubles {
		assert.False(t, seen[trouble.ID], "%s stands twice", trouble.ID)
		seen[trouble.ID] = true
		assert.Positive(t, trouble.Share, trouble.ID)
		assert.NotEmpty(t, append(trouble.Shows, trouble.Here...), "%s shows nothing", trouble.ID)
		for _, s := range append(append([]Show{}, trouble.Shows...), trouble.Here...) {
			require.Len(t, s.Gross, len(s.Faint), "%s %s", trouble.ID, s.Sign)
			for _, bad := range []float64{0, 0.5, 1} {
				sum := 0.0
				for _, x := range s.At(bad) {
					assert.GreaterOrEqual(t, x, 0.0, "%s %s", trouble.ID, s.Sign)
					sum += x
				}
				assert.InDelta(t, 1, sum, 1e-9, "%s %s", trouble.ID, s.Sign)
			}
			if s.Sign == "wet.fluid" { // its first value is brake fluid, and no sign of being well
				continue
			}
			assert.LessOrEqual(t, s.Gross[0], s.Faint[0]+0.07, "%s %s: what is worse shows more", trouble.ID, s.Sign)
		}
		had := 0
		for _, p := range system.Patterns {
			s, err := system.FromPattern(p.ID)
			require.NoError(t, err)
			if trouble.On == nil || trouble.On(s) {
				had++
				for _, at := range trouble.places(s) {
					if trouble.Does != nil {
						trouble.Does(s.Clone(), at, 0.5)
					}
				}
			}
		}
		assert.Positive(t, had, "%s: no vehicle can have it", trouble.ID)
		for other := range trouble.Brings {
			assert.NotNil(t, Of(other), "%s brings %s", trouble.ID, other)
		}
	}
	assert.Nil(t, Of("nothing of the kind"))
}

// One vehicle in twenty has what the diagnosis has no name for; most have one thing; the same seed gives the same.
func TestWhatIsDrawn(t *testing.T) {
	s, err := system.FromPattern("car-front-rear-vacuum")
	require.NoError(t, err)
	unnamed, one, many, sound := 0, 0, 0, 0
	rnd, same := rand.New(rand.NewPCG(1, 2)), rand.New(rand.NewPCG(1, 2))
	const n = 4000
	for range n {
		had := Draw(s, rnd, rnd.Float64() < Unnamed)
		assert.Equal(t, len(had), len(Draw(s, same, same.Float64() < Unnamed)))
		strange := 0
		for _, h := range had {
			if h.Known == "" {
				strange++
			}
			assert.True(t, h.Bad >= 0 && h.Bad <= 1)
		}
		assert.LessOrEqual(t, strange, 1)
		unnamed += strange
		switch len(had) {
		case 0:
			sound++
		case 1:
			one++
		default:
			many++
		}
	}
	assert.InDelta(t, Unnamed, float64(unnamed)/n, 0.012)
	assert.Greater(t, one, 3*many)
	assert.Greater(t, many, n/20)
	assert.Greater(t, sound, n/100)
}

// A trouble at a circuit is felt at its wheels and at no other; one at a wheel there; one that sits in the rear brakes behind.
func TestWhatReachesWhere(t *testing.T) {
	s, err := system.FromPattern("car-front-rear-vacuum")
	require.NoError(t, err)
	joint, hose, cable := Of("joint weeps"), Of("hose closed inside"), Of("parking cable does not come back")
	at := s.CircuitOf("LF")
	assert.True(t, joint.Reach(s, at, "LF"))
	assert.False(t, joint.Reach(s, at, "LR"))
	assert.True(t, hose.Reach(s, "LF", "LF"))
	assert.False(t, hose.Reach(s, "LF", "RF"))
	assert.True(t, cable.Reach(s, "", "LR"))
	assert.False(t, cable.Reach(s, "", "LF"))
}
