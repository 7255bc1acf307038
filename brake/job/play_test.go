package job

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/match"
	"geminate/brake/system"
	"geminate/brake/twin"
)

func TestPlayShowsTheScenarioBesideTheSoundSystem(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	v, err := j.Play(t.Context(), PlayIn{Assist: true})
	require.NoError(t, err)
	require.Len(t, v.Points, 101)
	assert.Nil(t, v.Severity)
	m := twin.New(j.Intake.System)
	for _, p := range v.Points {
		assert.Equal(t, m.Travel(p.ForceN, true), p.TravelMM)
		assert.Equal(t, p.SoundTravel, p.TravelMM)
		assert.True(t, p.LowMM <= p.TravelMM && p.TravelMM <= p.HighMM)
		assert.Zero(t, p.SinkMM)
	}
	v, err = j.Play(t.Context(), PlayIn{Assist: false, Failed: []string{"B"}, AirCM3: map[string]float64{"A": 3}})
	require.NoError(t, err)
	at := v.Points[60]
	assert.Contains(t, at.Bottomed, "B")
	assert.Zero(t, at.PressureMPA["B"])
	assert.Greater(t, at.TravelMM, at.SoundTravel)
	assert.Less(t, at.DecelMPS2, at.SoundDecel)
	assert.Zero(t, j.Intake.System.Circuits[0].AirCM3, "the job's own system is not touched")
}

func TestPlaySetsTheSeverityByTheReading(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	in := PlayIn{Assist: false, Fault: "mc.primary_cup_bypass"}
	v, err := j.Play(t.Context(), in)
	require.NoError(t, err)
	assert.False(t, v.Measured)
	assert.InDelta(t, 0.5, *v.Severity, 1e-12, "nothing read: the middle")
	j.add(
		t,
		&FindingMade{
			Phase:   PhaseDiagnose,
			Finding: "pedal.sink",
			Value:   json.RawMessage(`{"pedal_force_n":200,"travel_mm":12,"seconds":20,"engine":"off"}`),
		},
	)
	v, err = j.Play(t.Context(), in)
	require.NoError(t, err)
	assert.True(t, v.Measured)
	at := v.Points[40]
	require.InDelta(t, 200, at.ForceN, 0)
	assert.InDelta(t, 12, at.SinkMM, 1.5, "the fault shown sinks as the vehicle did")
	v, err = j.Play(t.Context(), PlayIn{Assist: true, Fault: "fluid.wet"})
	require.NoError(t, err)
	assert.False(t, v.Physical, "water changes no pressure")
}

func TestPlayRefusesWhatTheSystemDoesNotHave(t *testing.T) {
	j := newJob(t, "trailer-surge", match.CylinderOnly)
	_, err := j.Play(t.Context(), PlayIn{Failed: []string{"B"}, AirCM3: map[string]float64{"A": -1, "Q": 2}})
	var f system.Faults
	require.ErrorAs(t, err, &f)
	assert.Len(t, f, 3)
	for _, in := range []PlayIn{{Fault: "rod.too_long"}, {Fault: "nonsense"}, {Fault: "circuit.air"}, {Fault: "circuit.air", At: "Z"}, {Fault: "mc.rear_seal_leak", At: "A"}} {
		_, err := j.Play(t.Context(), in)
		assert.Error(t, err, in)
	}
	v, err := j.Play(t.Context(), PlayIn{Fault: "circuit.air", At: "A"})
	require.NoError(t, err)
	assert.InDelta(t, 5000, v.Points[100].ForceN, 1e-9, "a coupler is pushed harder than a pedal")
}
