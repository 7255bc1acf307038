package job

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/match"
)

// Strokes counted aloud: five at once while the wheel is far from its looks and the level bears them, one by one at the
// end; and five told at once are five told one by one.
func TestStrokesCountedAloud(t *testing.T) {
	one, five := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly), newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	seen := map[int]bool{}
	for {
		v, err := five.Bleed()
		require.NoError(t, err)
		at := v.Wheels["RR"]
		seen[v.CountAloud] = true
		assert.LessOrEqual(t, v.CountAloud, max(0, v.RefillIn), "never more than the level bears")
		assert.LessOrEqual(t, at.Strokes+v.CountAloud, max(at.Strokes, at.Needed-1), "the last is looked at")
		if v.CountAloud == 0 {
			break
		}
		five.add(t, &BleedStroked{Wheel: "RR", Strokes: v.CountAloud})
		for range v.CountAloud {
			one.add(t, &BleedStroked{Wheel: "RR"})
		}
	}
	assert.True(t, seen[aloudMost] && seen[0])
	a, err := one.Bleed()
	require.NoError(t, err)
	b, err := five.Bleed()
	require.NoError(t, err)
	assert.Equal(t, a.Wheels["RR"].Strokes, b.Wheels["RR"].Strokes)
	assert.InDelta(t, a.LevelCM3, b.LevelCM3, 1e-9)
	assert.InDelta(t, a.Wheels["RR"].Old, b.Wheels["RR"].Old, 1e-9)
}

// What the diagnosis says of the modulator's routine reaches the bleed with the scope: found by the proving ground,
// where a bleed without it let the air stay.
func TestTheRoutineIsProposedWithTheScope(t *testing.T) {
	j := newJob(t, "car-diagonal-vacuum", match.CylinderOnly)
	require.NotNil(t, j.Intake.System.Modulator)
	j.Choices.Unit, j.State.ScopeChosen = nil, false
	for id, v := range map[string]string{"modulator.pedal_drops": `"yes"`, "pedal.springy": `"yes"`, "history.bled": `"properly"`, "pedal.sink": `{"pedal_force_n":200,"travel_mm":0,"seconds":45,"engine":"on"}`} {
		_ = j.tell(piet, &FindingMade{Phase: PhaseDiagnose, Finding: id, Value: []byte(v)})
	}
	d, err := j.Diagnose(t.Context())
	require.NoError(t, err)
	v, err := j.Match(t.Context(), nil, j.now())
	require.NoError(t, err)
	assert.Equal(t, d.Result.Action.ModulatorRoutine, v.Routine)
	assert.True(t, v.Routine, "air in the modulator is bled with its routine: %v", d.Result.Action)
	j.Choices.Bleed.Routine, j.Choices.Scope = true, v.Proposed
	v, err = j.Match(t.Context(), nil, j.now())
	require.NoError(t, err)
	assert.False(t, v.Take, "taken, it is not offered again")
}

// A wheel that is opened once more may have been off again: its nuts' torque is asked for again. Found by the proving
// ground, where every wheel was bled a second time after its torque had been told.
func TestRoadWheelsAreAskedForAfterEveryRound(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.BleedOnly)
	j.add(t, &BleedStroked{Wheel: "RR", Strokes: 3})
	torqued := func() bool {
		g, err := j.Gate()
		require.NoError(t, err)
		for _, i := range g.Items {
			if i.ID == "check.wheels_torqued" {
				return i.State == "ok"
			}
		}
		return false
	}
	j.add(t, &FindingMade{Phase: PhaseVerify, Finding: "check.wheels_torqued", Value: []byte(`"yes"`)})
	require.True(t, torqued())
	j.add(t, &BleedStroked{Wheel: "RR", Strokes: 1})
	assert.False(t, torqued())
}
