package trial

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/diagnose"
)

// What a shop in a bent world is told brings its likelihoods nearer to that world than the table is: by Kullback and
// Leibler's divergence, over all signs a fault shows, after 300 sightings of each.
func TestSightingsComeNearerToABentWorld(t *testing.T) {
	w := NewWorld(1, 11)
	table, learnt := 0.0, 0.0
	for i := range diagnose.Signs {
		s := &diagnose.Signs[i]
		for fault, g := range s.Given {
			real := w.signs[s.ID].Given[fault].P
			v := &Vehicle{rnd: w.rnd}
			var x diagnose.Experience
			for range 300 {
				x.See(fault, map[string]string{s.ID: s.Values[v.pick(real)]}, 1)
			}
			now := x.Seen(s, fault, g.P)
			for k, p := range real {
				if p > 0 {
					table += p * math.Log(p/g.P[k])
					learnt += p * math.Log(p/now[k])
				}
			}
		}
	}
	t.Logf("divergence %.1f by the table, %.1f learnt", table, learnt)
	assert.Less(t, learnt, table/4)
}

// The course is the same for the same seed, and looks as often as it was asked to. What it comes to is in
// docs/trial.md.
func TestTheCourseOfAShop(t *testing.T) {
	l, err := Shops(1, 11, 2, 4, 2, 4)
	require.NoError(t, err)
	again, err := Shops(1, 11, 2, 4, 2, 4)
	require.NoError(t, err)
	assert.Equal(t, l, again)
	require.Len(t, l, 3)
	assert.Equal(t, []int{0, 2, 4}, []int{l[0].Jobs, l[1].Jobs, l[2].Jobs})
	for _, x := range l {
		assert.True(t, x.Truth < 0 && x.Right >= 0 && x.Right <= 1, "%+v", x)
	}
}
