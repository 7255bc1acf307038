package job

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/match"
)

// A wheel that goes on showing bubbles when more went through than it holds says what to look at; not before, and no
// more when it has run clear. What to look at first hangs on the method and on what was off in this job.
func TestAWheelThatWillNotClearSaysWhy(t *testing.T) {
	j := newJob(t, "car-front-rear-vacuum", match.BleedOnly)
	j.choose(t, func(c *Choices) { c.Bottle.OpenedAt = "2026-11-20" })
	no, first := false, 0
	var at string
	for i := range 200 {
		v, err := j.Bleed()
		require.NoError(t, err)
		if at == "" {
			if at = v.Current; at == "" {
				j.bleedOn(t, v)
				continue
			}
		}
		w := v.Wheels[at]
		if len(w.NotClear) > 0 {
			first = i
			break
		}
		if v.RefillNow || v.DrawDownNow || v.Current == "" || v.Current != at {
			j.bleedOn(t, v)
			continue
		}
		require.NoError(t, j.tell(mara, &BleedStroked{Wheel: at, Strokes: 1}))
		require.NoError(t, j.tell(mara, &WheelSeen{Wheel: at, Done: &no}))
	}
	require.Positive(t, first, "it is never said")
	w := mustBleed(t, j).Wheels[at]
	path := j.Intake.System.Wheel(at).PipeCM3() + j.Intake.System.Wheel(at).Brake.CavityCM3
	assert.GreaterOrEqual(t, w.CM3, 2*path, "its own way holds that")
	require.NoError(t, j.tell(mara, &BleedStroked{Wheel: at, Strokes: 1}))
	require.NoError(t, j.tell(mara, &WheelSeen{Wheel: at}))
	assert.Empty(t, mustBleed(t, j).Wheels[at].NotClear)
}

func mustBleed(t *testing.T, j *testJob) *BleedView {
	t.Helper()
	v, err := j.Bleed()
	require.NoError(t, err)
	return v
}
