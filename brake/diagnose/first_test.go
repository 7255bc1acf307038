package diagnose

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"geminate/brake/system"
)

func TestFirstSignsAreSignsThatCanShow(t *testing.T) {
	known := map[string]bool{}
	for _, k := range Kinds() {
		known[k.ID] = true
	}
	for _, p := range system.Patterns {
		s := p.Build()
		first := FirstSigns(&s)
		assert.GreaterOrEqual(t, len(first), 5)
		for _, id := range first {
			assert.True(t, known[id], "%s: %s", p.ID, id)
			assert.True(t, SignShows(&s, id), "%s: %s", p.ID, id)
		}
		assert.Equal(t, s.IsTrailer(), SignShows(&s, "actuator.rod_moves"))
		assert.NotEqual(t, s.IsTrailer(), SignShows(&s, "pedal.sinks"))
	}
}
