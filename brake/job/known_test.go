package job

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/match"
	"geminate/brake/twin"
)

// A good pedal is kept once the vehicle is released, from its readings, and the next job begins with it.
func TestAGoodPedalIsKept(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.Elsewhere)
	require.ErrorIs(t, j.tell(mara, &KnownGood{}), ErrNotReleased)
	at := j.now()
	j.State.ReleasedAt = &at
	require.ErrorContains(t, j.tell(mara, &KnownGood{}), "known_readings")
	m := twin.New(j.Intake.System)
	readings := []map[string]float64{}
	for _, f := range []float64{200, 300} {
		readings = append(readings, map[string]float64{"pedal_force_n": f, "travel_mm": m.Apply(f, false).TravelMM + 2})
	}
	raw, err := json.Marshal(readings)
	require.NoError(t, err)
	j.State.Findings[PhaseVerify]["pedal.readings"] = Found{ID: "pedal.readings", Value: raw}
	assert.True(t, j.mayKeepPedal())
	require.ErrorAs(t, j.tell(sunny, &KnownGood{}), new(ErrRole), "a technician says so")
	require.NoError(t, j.tell(mara, &KnownGood{}))
	assert.False(t, j.mayKeepPedal(), "once")
	s, from := j.KnownSystem()
	assert.Equal(t, at.Format("2006-01-02"), from)
	own := twin.New(s)
	assert.InDelta(t, m.Apply(250, false).TravelMM+2, own.Apply(250, false).TravelMM, 1, "within the rule's millimetre")
	again := j.Again()
	assert.Equal(t, from, again.PedalFrom)
	assert.Equal(t, j.Intake.Vehicle, again.Vehicle)
	assert.Empty(t, again.Complaint, "nothing of what was wrong")
	require.NoError(t, CheckIntake(&again))
	far := newJob(t, "pickup-front-rear-vacuum", match.Elsewhere)
	far.State.ReleasedAt = &at
	far.State.Findings[PhaseVerify]["pedal.readings"] = Found{Value: json.RawMessage(`[{"pedal_force_n":200,"travel_mm":4},{"pedal_force_n":300,"travel_mm":5}]`)}
	require.ErrorContains(t, far.tell(mara, &KnownGood{}), "known_far")
}

// The known pedal counts while its figures stand and the wheels are left alone.
func TestTheKnownPedalEndsWithItsFigures(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	j.Intake.PedalFrom = "2026-11-24"
	assert.True(t, j.pedalKnown())
	j.Choices.Scope = match.Elsewhere
	assert.False(t, j.pedalKnown(), "the wheels are worked at")
	j.Choices.Scope = match.CylinderOnly
	next := j.Intake
	next.System = next.System.Clone()
	next.System.Wheels[0].Brake.ClearanceMM *= 1.5
	_, err := j.ChangeIntake(j, mara, j.now(), "edit", j.IntakeSeq, next)
	require.NoError(t, err)
	assert.Empty(t, j.Intake.PedalFrom)
	assert.False(t, j.pedalKnown())
}

// A job to practise on leaves nothing behind, and does not become a real one.
func TestPracticeCountsForNothing(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.BleedOnly)
	j.Intake.Practice, j.Intake.Plate = true, "8TK 2204"
	at := j.now()
	j.State.ReleasedAt = &at
	assert.Equal(t, Facts{}, j.Facts(t.Context()))
	j.State.ReleasedAt = nil
	next := j.Intake
	next.Practice, next.Complaint = false, "another"
	_, err := j.ChangeIntake(j, mara, j.now(), "edit", j.IntakeSeq, next)
	require.NoError(t, err)
	assert.True(t, j.Intake.Practice)
	assert.Equal(t, "another", j.Intake.Complaint)
}
