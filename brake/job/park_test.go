package job

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/match"
	"geminate/brake/plan"
)

func TestAParkedVehicleStandsApartAndIsNotReleasedByIt(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	assert.Error(t, j.tell(sunny, &Parked{}), "why?")
	assert.Error(t, j.tell(sunny, &Parked{Why: []ParkReason{"rain"}}))
	assert.Error(t, j.tell(sunny, &Parked{Why: []ParkReason{ParkOther}}), "what other reason?")
	require.NoError(t, j.tell(sunny, &Parked{Why: []ParkReason{ParkPart}, Note: "reservoir on order"}), "anyone may make it safer")
	assert.Equal(t, StandsParked, j.Status().Standing)
	assert.Equal(t, "Sunny", j.View().Card().Parked.By)
	require.ErrorIs(t, j.tell(sunny, &Unparked{}), ErrRole{Decide})
	require.NoError(t, j.tell(mara, &Unparked{}))
	assert.Equal(t, StandsOpen, j.Status().Standing)
	g, err := j.Gate()
	require.NoError(t, err)
	assert.False(t, g.Passable)
}

func TestABleedPutOffEndsParked(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	require.NoError(t, j.joined(mara, func(s *JointSetup) { s.Schools = map[plan.School]string{plan.BleedWhen: plan.BleedPutOff} }))
	j.add(t, &FindingMade{Phase: PhaseDiagnose, Finding: "pedal.sinks", Value: []byte(`"slow"`)})
	j.doUntil(t, "")
	assert.Equal(t, "waits.park", j.Status().WaitsFor)
	_, err := j.Release(mara, j.now(), "r")
	var open ErrRelease
	require.ErrorAs(t, err, &open)
	assert.Contains(t, open.Open, "bleed")
	j.add(t, &Parked{Why: []ParkReason{ParkBleedPutOff}})
	assert.Equal(t, "waits.wheel", j.Status().WaitsFor, "what it waits for is named")
}
