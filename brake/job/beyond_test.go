package job

import (
	"encoding/json"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/diagnose"
	"geminate/brake/match"
)

// What a repair is said to put right is a fault that the diagnosis knows.
func TestARepairMendsWhatTheDiagnosisKnows(t *testing.T) {
	for i := range repairs {
		assert.NotEmpty(t, repairs[i].mends, repairs[i].work)
		for _, f := range repairs[i].mends {
			assert.True(
				t,
				slices.ContainsFunc(diagnose.Faults, func(x diagnose.Fault) bool { return x.ID == f }),
				"%s: %s",
				repairs[i].work,
				f,
			)
		}
	}
}

// Work that was told and did not help is asked for again: then Verify names no part (common practice, no source).
func TestVerifySaysThatItIsSomethingElse(t *testing.T) {
	found := func(j *testJob, phase, id string, value any) {
		raw, err := json.Marshal(value)
		require.NoError(t, err)
		require.NoError(t, j.tell(mara, &FindingMade{Phase: phase, Finding: id, Value: raw}))
	}
	drags := map[string]string{"LF": "free", "RF": "free", "LR": "drags", "RR": "drags"}
	at := func(work RepairWork, wheel string) bool {
		j := newJob(t, "car-front-rear-vacuum", match.Elsewhere)
		for id, v := range map[string]any{"brakes.drag": "one_wheel", "wheel.check": drags, "drag.released_by": "nothing",
			"rubber.swollen": "no", "fluid.water_percent": 0.5} {
			found(j, PhaseDiagnose, id, v)
		}
		require.NoError(t, j.tell(mara, &RepairTold{Work: work, At: wheel}))
		found(j, PhaseVerify, "brakes.drag", "one_wheel")
		found(j, PhaseVerify, "wheel.check", drags)
		v, err := j.Verify()
		require.NoError(t, err)
		require.Positive(t, v.Gate.Failed)
		if v.Beyond.Wins {
			assert.Equal(t, []string{"brakes.drag", "wheel.check"}, v.Beyond.Left)
		}
		return v.Beyond.Wins
	}
	// A cylinder that is planned and not fitted was no work in vain.
	j := newJob(t, "car-front-rear-vacuum", match.CylinderOnly)
	found(j, PhaseDiagnose, "pedal.sinks", "slow")
	found(j, PhaseDiagnose, "ports_plugged.pedal", "sinks")
	found(j, PhaseVerify, "pedal.sinks", "slow")
	found(j, PhaseVerify, "ports_plugged.pedal", "sinks")
	v, err := j.Verify()
	require.NoError(t, err)
	require.Positive(t, v.Gate.Failed)
	require.NotEmpty(t, v.Now)
	assert.Equal(t, diagnose.Beyond{Left: []string{}}, v.Beyond)
	assert.True(t, at(WorkParkingCable, ""), "the same once more")
	assert.False(t, at(WorkFreed, "LR"), "a wheel was freed: the cable comes next")
	assert.False(t, at(WorkSupply, ""))
}
