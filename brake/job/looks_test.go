package job

import (
	"encoding/json"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/diagnose"
	"geminate/brake/match"
	"geminate/brake/verify"
)

// What is worth a look at Verify is offered, stays in sight once it was read, and speaks against the gate where it
// shows.
func TestWhatIsWorthALookBeforeItIsLetGo(t *testing.T) {
	j := newJob(t, "car-front-rear-vacuum", match.BoosterAside)
	view := func() *VerifyView {
		v, err := j.Verify()
		require.NoError(t, err)
		return v
	}
	assert.Empty(t, view().Looks.Worth, "nothing was diagnosed: nothing is known of what may be left")
	j.add(t, &FindingMade{Phase: PhaseDiagnose, Finding: "pedal.hard", Value: json.RawMessage(`"always"`)})
	assert.Empty(t, view().Looks.Worth, "nor is the work done")
	j.doUntil(t, "")
	worth := func() (ids []string) {
		for _, l := range view().Looks.Worth {
			ids = append(ids, l.Test)
		}
		return ids
	}
	require.Contains(t, worth(), "vacuum_gauge", "the supply may still be low")
	for _, r := range required {
		asked := slices.ContainsFunc(view().Gate.Items, func(i verify.Item) bool { return i.ID == r.Item })
		assert.False(t, asked && slices.Contains(worth(), r.Test), "%s is the gate's own", r.Test)
	}
	j.add(t, &FindingMade{Phase: PhaseVerify, Finding: "vacuum.at_hose_kpa", Value: json.RawMessage(`30`)})
	v := view()
	assert.NotContains(t, worth(), "vacuum_gauge")
	assert.Equal(t, []string{"vacuum.at_hose_kpa"}, v.Looks.Read)
	against := slices.IndexFunc(v.Gate.Items, func(i verify.Item) bool { return i.ID == "contradicts" })
	require.GreaterOrEqual(t, against, 0, "a low supply is not let go")
	assert.Equal(t, verify.Failed, v.Gate.Items[against].State)
}

// Every row of what the gate requires names an item and a test that are there, and what it says can be said.
func TestWhatTheGateRequiresIsThere(t *testing.T) {
	s := newJob(t, "trailer-surge", match.CylinderOnly).Intake.System
	for _, r := range required {
		assert.True(t, slices.ContainsFunc(verify.Rows(), func(row verify.Row) bool { return row.ID == r.Item }), r.Item)
		assert.True(t, slices.ContainsFunc(diagnose.Tests, func(x diagnose.Test) bool { return x.ID == r.Test }), r.Test)
		for id, value := range r.Says {
			assert.NoError(t, diagnose.CheckFinding(s, diagnose.Finding{ID: id, Value: json.RawMessage(value)}), id)
		}
	}
}

// Diagnosed anew after work, a wheel that drags still is rather its hose.
func TestTheDiagnosisAfterWorkKnowsTheWork(t *testing.T) {
	j := newJob(t, "car-front-rear-vacuum", match.Elsewhere)
	assert.Nil(t, j.workDone())
	j.add(t, &FindingMade{Phase: PhaseDiagnose, Finding: "wheel.check", Value: json.RawMessage(`{"RR":"drags"}`)})
	w := j.workDone()
	require.NotNil(t, w)
	assert.Contains(t, w.Acts, "repair_wheel")
	assert.Len(t, w.Before.Findings, 1)
}
