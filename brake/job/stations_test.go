package job

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/match"
)

func f(x float64) *float64 { return &x }

// Source: Q = A·(Δx/Δt)/ratio by hand for the pickup's bore and pedal.
func TestMeasuredSinkBecomesAFlow(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	v, err := j.Diagnose(t.Context())
	require.NoError(t, err)
	assert.Nil(t, v.Sink)
	assert.Zero(t, v.Count)
	j.add(
		t,
		&FindingMade{
			Phase:   PhaseDiagnose,
			Finding: "pedal.sink",
			Value:   json.RawMessage(`{"pedal_force_n":200,"travel_mm":14,"seconds":20,"engine":"off"}`),
		},
	)
	v, err = j.Diagnose(t.Context())
	require.NoError(t, err)
	const area = 3.14159265358979 * 26.9875 * 26.9875 / 4
	assert.InEpsilon(t, area*14/20/3.9*60/1000, v.Sink.CM3PerMin, 1e-9)
	assert.InEpsilon(t, 0.7, v.Sink.MMPerS, 1e-12)
	assert.InEpsilon(t, v.Sink.CM3PerMin/3, v.Sink.CM3Held, 1e-9)
}

func TestToolsAndClosedLinesReachTheDiagnosis(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	assert.Nil(t, j.Case().Tools, "not stated: every tool")
	j.Intake.Tools, j.Intake.KeepLinesClosed = &[]string{}, true
	v, err := j.Diagnose(t.Context())
	require.NoError(t, err)
	for _, n := range v.Result.NextTests {
		assert.Empty(t, n.Needs)
		assert.False(t, n.OpensHydraulics)
	}
}

func TestMatchShowsThePedalOfEachUnit(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	j.Intake.System.Circuits[0].BypassMM3SMPA = 50 // the fault is repaired by the new unit
	large := match.Unit{ID: "large", BoreMM: f(30), Ports: []match.Port{}, Contents: []string{}}
	same := match.Unit{ID: "same", BoreMM: f(26.9875), Ports: []match.Port{}, Contents: []string{}}
	j.Choices.Old, j.Choices.Unit = &match.Unit{BoreMM: f(26.9875)}, &same
	v, err := j.Match(t.Context(), []match.Unit{same, large}, began)
	require.NoError(t, err)
	require.Len(t, v.Candidates, 2)
	assert.True(t, v.Candidates[0].Fitted)
	assert.Less(t, v.Candidates[1].TravelMM, v.Candidates[0].TravelMM)
	assert.Less(t, v.Candidates[1].PressureMPA, v.Candidates[0].PressureMPA)
	assert.Greater(t, *v.Candidates[1].ForceAt6MPA, *v.Candidates[0].ForceAt6MPA)
	assert.Equal(t, v.Present, v.Candidates[0].Curve, "the same bore gives the same pedal")
	assert.Equal(t, match.Unknown, v.Candidates[0].Verdict, "what was not measured is not passed over")
	j.Choices.Bottle = Bottle{Class: "DOT 5", WaterPercent: f(1.5)}
	v, err = j.Match(t.Context(), nil, began)
	require.NoError(t, err)
	assert.False(t, v.Bottle.Allowed)
	assert.EqualValues(t, "plan_change", v.Bottle.Water)
}

func TestDiagnosisProposesTheScopeAndAnOwnUnitIsCompared(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	v, err := j.Match(t.Context(), nil, began)
	require.NoError(t, err)
	assert.Empty(t, v.Proposed, "nothing entered, nothing proposed")
	for id, value := range map[string]string{"pedal.springy": `"yes"`, "pedal.pumps_up": `"stays"`, "history.since": `["hydraulics_opened"]`, "level.falls": `"no"`, "pedal.sinks": `"no"`} {
		j.add(t, &FindingMade{Phase: PhaseDiagnose, Finding: id, Value: json.RawMessage(value)})
	}
	j.Choices.Own = &match.Unit{ID: "own", Maker: "Box", BoreMM: f(25.4), Ports: []match.Port{}, Contents: []string{}}
	v, err = j.Match(t.Context(), nil, began)
	require.NoError(t, err)
	assert.Equal(t, match.BleedOnly, v.Proposed)
	j.Choices.Unit, j.Choices.Booster = nil, nil
	d, err := j.Diagnose(t.Context())
	require.NoError(t, err)
	v, err = j.Match(t.Context(), nil, began)
	require.NoError(t, err)
	assert.Equal(t, d.Result.Action.Settled, v.Take, "Match opens on what Diagnose settled")
	j.State.ScopeChosen = true
	v, err = j.Match(t.Context(), nil, began)
	require.NoError(t, err)
	assert.False(t, v.Take, "what a person chose stands")
	require.Len(t, v.Candidates, 1)
	assert.Equal(t, "own", v.Candidates[0].Unit.ID)
}

func TestTorqueOffByTwelveIsNeverStored(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	for nm, c := range map[float64]string{28.2: "ok", 339: "twelve_high", 2.3: "twelve_low", 12: "low", 50: "high"} {
		r, err := j.Torque(
			TorqueIn{Step: "fit.cylinder_nuts", TorqueNM: nm, TorqueUnit: map[bool]string{true: "ft·lbf", false: "in·lbf"}[nm > 100]},
		)
		require.NoError(t, err)
		assert.EqualValues(t, c, r.Verdict, nm)
	}
	_, err := j.Torque(TorqueIn{Step: "prepare.chock", TorqueNM: 20})
	assert.ErrorContains(t, err, "fault.no_such_step")
	j.doUntil(t, "fit.cylinder_nuts")
	err = j.tell(mara, &Ticked{Step: "fit.cylinder_nuts", TorqueNM: f(339)})
	assert.ErrorContains(t, err, "torque.twelve_high")
	j.add(t, &Ticked{Step: "fit.cylinder_nuts", TorqueNM: f(28.2)})
	v, err := j.Replace()
	require.NoError(t, err)
	assert.EqualValues(t, "ok", v.Torque["fit.cylinder_nuts"].Verdict)
	// Unticking goes back over it.
	no := false
	j.add(t, &Ticked{Step: "fit.cylinder_nuts", Done: &no})
	v, _ = j.Replace()
	assert.NotContains(t, v.Torque, "fit.cylinder_nuts")
	assert.Equal(t, "fit.cylinder_nuts", v.Next)
}

func TestBenchFollowsTiltStrokesAndSchool(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	v, err := j.Bench()
	require.NoError(t, err)
	require.Len(t, v.Chambers, 2)
	assert.Equal(t, "bench.go_on", v.Verdict)
	j.add(t, &BenchStroked{Strokes: v.Needed})
	v, _ = j.Bench()
	assert.Equal(t, "bench.done", v.Verdict)
	j.Choices.Bench.TiltDeg = 15
	v, _ = j.Bench()
	assert.Equal(t, "bench.done", v.Verdict, "a tilt puts no air in")
	assert.Greater(t, v.Chambers[0].TrappedCM3, v.Chambers[0].LevelCM3)
	// Stroked on a tilt the air stays; levelling it afterwards takes none out until it is stroked again.
	j = newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	j.Choices.Bench.TiltDeg = 15
	v, _ = j.Bench()
	j.add(t, &BenchStroked{Strokes: v.Needed})
	v, _ = j.Bench()
	assert.Equal(t, "bench.level_it", v.Verdict)
	assert.ErrorContains(t, j.tell(mara, &Ticked{Step: "fit.bench_bled"}), "prepare")
	j.Choices.Bench.TiltDeg = 0
	v, _ = j.Bench()
	assert.Equal(t, "bench.go_on", v.Verdict)
	assert.Greater(t, v.Needed, v.Strokes)
	j.add(t, &BenchStroked{Strokes: v.Needed - v.Strokes})
	v, _ = j.Bench()
	assert.Equal(t, "bench.done", v.Verdict)
	// Plugged, what the rod still travels is air, whatever was computed.
	j.add(t, &BenchPlugged{RemainingMM: 3})
	v, _ = j.Bench()
	assert.Equal(t, "bench.air_felt", v.Verdict)
	assert.InDelta(t, 1.716, *v.PluggedCM3, 0.01)
	// Twice the strokes that should do, and bubbles still: drawing air.
	j.add(t, &BenchStroked{Strokes: 30})
	v, _ = j.Bench()
	assert.Equal(t, "bench.drawing_air", v.Verdict)
	// Another cylinder begins anew.
	bore, stroke := 31.75, 40.0
	j.Choices.Unit = &match.Unit{ID: "other", BoreMM: &bore, StrokeMM: &stroke}
	v, _ = j.Bench()
	assert.Equal(t, "bench.go_on", v.Verdict)
	j.Choices.BenchOnVehicle = true
	v, _ = j.Bench()
	assert.False(t, v.Applies)
	assert.Equal(t, "bench.on_vehicle", v.Why)
}

func TestBleedByVolumeHasNoStrokes(t *testing.T) {
	j := newJob(t, "car-diagonal-vacuum", match.BleedOnly)
	j.Choices.Bleed.Method, j.Choices.Bleed.DriveKPA = "pressure", 120
	v, err := j.Bleed()
	require.NoError(t, err)
	assert.Equal(t, -1, v.RefillIn)
	w := v.Plan.Wheels[0]
	j.add(t, &DrawnOff{})
	j.add(t, &Filled{})
	j.add(t, &VolumeMoved{Wheel: w.ID, VolumeCM3: w.VolumeCM3})
	j.add(t, &WheelSeen{Wheel: w.ID, Done: yes()})
	v, _ = j.Bleed()
	assert.True(t, v.Wheels[w.ID].Done)
	assert.InDelta(t, v.FullCM3-w.VolumeCM3, v.LevelCM3, 1e-9)
	j.Choices.Bleed.Order, j.Choices.Bleed.Given = "maker", []string{"LF"}
	_, err = j.Bleed()
	assert.ErrorContains(t, err, "RF is missing")
}

func TestReleaseShowsInTheStatus(t *testing.T) {
	j := newJob(t, "trailer-surge", match.BleedOnly)
	assert.False(t, j.Status().Released)
	j.fact(mara, j.now(), "r", &Released{})
	s := j.Status()
	assert.True(t, s.Released)
	assert.Equal(t, "record", s.At)
	v, err := j.Verify()
	require.NoError(t, err)
	assert.True(t, v.Released)
	assert.Empty(t, v.Expected, "no pedal, no pedal curve")
	j.fact(mara, j.now(), "o", &Reopened{Reason: "leaks"})
	assert.False(t, j.Status().Released)
}
