package job

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/bleed"
	"geminate/brake/match"
)

// A job is put away with a reason and taken up again; never one whose brakes were touched.
func TestAJobIsPutAway(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	require.Error(t, j.tell(mara, &PutAway{}), "why?")
	j.add(t, &PutAway{Why: "The owner sold it"})
	assert.Equal(t, StandsAway, j.Status().Standing)
	j.add(t, &Parked{Why: []ParkReason{ParkPart}})
	assert.Equal(t, StandsParked, j.Status().Standing, "not to be driven comes first, put away or not")
	j.add(t, &Unparked{})
	j.add(t, &TakenUp{})
	assert.Equal(t, StandsOpen, j.Status().Standing)
	j.add(t, &Parked{Why: []ParkReason{ParkPart}})
	require.ErrorContains(t, j.tell(mara, &PutAway{Why: "x"}), "work_begun", "a parked vehicle stays in sight")
	j.add(t, &Unparked{})
	j.doUntil(t, "strip.lines")
	require.ErrorContains(t, j.tell(mara, &PutAway{Why: "x"}), "work_begun")
}

// A shop that is quicker or slower than the method's own time sees its own minutes.
func TestTheShopsOwnTimeOfAStrokeMovesThePlan(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.BleedOnly)
	plain, err := j.Bleed()
	require.NoError(t, err)
	m := plain.Method
	j.Dress(Dress{StrokeS: map[bleed.Method]float64{m: 30}})
	slow, err := j.Bleed()
	require.NoError(t, err)
	assert.Greater(t, slow.Plan.Wheels[0].Minutes, plain.Plan.Wheels[0].Minutes)
	assert.Equal(t, plain.Plan.Wheels[0].Strokes, slow.Plan.Wheels[0].Strokes, "how much fluid it takes is no matter of speed")
}
