package diagnose

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Every finding is met somewhere, and in one place.
func TestEveryFindingIsMetInOnePlace(t *testing.T) {
	seen := map[string]Where{}
	for w, ids := range metAt {
		for _, id := range ids {
			assert.Empty(t, seen[id], "%s is met at %s and at %s", id, seen[id], w)
			seen[id] = w
		}
	}
	for _, k := range Kinds() {
		assert.NotEmpty(t, WhereOf(k.ID), k.ID)
	}
	assert.Len(t, seen, len(Kinds()), "nothing is listed that is no finding")
}

// A sign that parts the faults in question tells more than one that is alike in all. Worked by hand: two faults at one
// half each, a sign that is certain of one and ruled out by the other tells one bit.
func TestTelling(t *testing.T) {
	s := Sign{ID: "x", Values: []string{"no", "yes"}, Base: []float64{0.5, 0.5}, Given: map[string]Given{"a": f(1, 0), "b": f(0, 1)}}
	assert.InDelta(t, 1, s.tells([]Ranked{{ID: "a", Probability: 0.5}, {ID: "b", Probability: 0.5}}), 1e-12)
	assert.InDelta(t, 0, s.tells([]Ranked{{ID: "a", Probability: 1}}), 1e-12)
	ids := []string{"steering.groan", "pedal.sinks", "pedal.sink"}
	got := Telling(ids, []Ranked{{ID: "mc.primary_cup_bypass", Probability: 0.5}, {ID: "circuit.air", Probability: 0.5}})
	require.Len(t, got, 3)
	assert.Equal(t, "pedal.sinks", got[0])
	assert.Equal(t, 2, slices.Index(got, "pedal.sink"), "what is measured comes after")
}
