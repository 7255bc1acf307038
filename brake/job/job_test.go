package job

import (
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/match"
	"geminate/brake/system"
)

func newJob(t *testing.T, pattern string, scope match.Scope) *Job {
	t.Helper()
	s, err := system.FromPattern(pattern)
	require.NoError(t, err)
	j := &Job{Format: Format, ID: "j1", CreatedAt: time.Date(2026, 11, 1, 8, 0, 0, 0, time.UTC),
		Intake:  Intake{Complaint: "sinks", Vehicle: "Pickup", Pattern: pattern, System: s, DistanceKM: 100000, Hands: 2},
		Choices: DefaultChoices(s), Events: []Event{}}
	j.Choices.Scope = scope
	return j
}

func yes() *bool { b := true; return &b }

// add appends an event after the check the server makes.
func (j *Job) add(t *testing.T, kind string, d Data) Event {
	t.Helper()
	e := Event{ID: fmt.Sprintf("e%d", len(j.Events)), Kind: kind, At: j.CreatedAt.Add(time.Duration(len(j.Events)) * time.Minute), By: "test", Data: d}
	require.NoError(t, j.CheckEvent(e))
	j.Events = append(j.Events, e)
	return e
}

func TestUndoTakesBackAndCanBeTakenBack(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	j.add(t, KindBleedStroke, Data{Wheel: "RR"})
	two := j.add(t, KindBleedStroke, Data{Wheel: "RR"})
	undo := j.add(t, KindUndo, Data{Of: two.ID})
	st := j.Fold()
	assert.Equal(t, 1, st.BleedStrokes["RR"])
	assert.Equal(t, "e0", st.LastStroke["bleed"], "the next undo takes the stroke before")
	j.add(t, KindUndo, Data{Of: undo.ID})
	st = j.Fold()
	assert.Equal(t, 2, st.BleedStrokes["RR"])
}

func TestFindingIsReplacedAndWithdrawn(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	j.add(t, KindFinding, Data{Phase: PhaseDiagnose, Finding: "pedal.sinks", Value: json.RawMessage(`"slow"`)})
	j.add(t, KindFinding, Data{Phase: PhaseDiagnose, Finding: "pedal.sinks", Value: json.RawMessage(`"fast"`)})
	assert.JSONEq(t, `"fast"`, string(j.Case().Findings[0].Value))
	j.add(t, KindFinding, Data{Phase: PhaseDiagnose, Finding: "pedal.sinks"})
	assert.Empty(t, j.Case().Findings)
}

func TestEventsThatMakeNoSenseAreRefused(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	bad := -1.0
	for name, e := range map[string]Event{
		"no id":             {Kind: KindRefill},
		"unknown kind":      {ID: "x", Kind: "dance"},
		"forged release":    {ID: "x", Kind: KindReleased},
		"unknown wheel":     {ID: "x", Kind: KindBleedStroke, Data: Data{Wheel: "XX"}},
		"many strokes":      {ID: "x", Kind: KindBleedStroke, Data: Data{Wheel: "RR", Strokes: 5000}},
		"volume":            {ID: "x", Kind: KindBleedVolume, Data: Data{Wheel: "RR", VolumeCM3: -4}},
		"phase":             {ID: "x", Kind: KindFinding, Data: Data{Phase: "later", Finding: "pedal.sinks"}},
		"finding":           {ID: "x", Kind: KindFinding, Data: Data{Phase: PhaseDiagnose, Finding: "nose.itches", Value: json.RawMessage(`1`)}},
		"value":             {ID: "x", Kind: KindFinding, Data: Data{Phase: PhaseDiagnose, Finding: "pedal.sinks", Value: json.RawMessage(`7`)}},
		"check value":       {ID: "x", Kind: KindFinding, Data: Data{Phase: PhaseVerify, Finding: "check.level", Value: json.RawMessage(`"perhaps"`)}},
		"step":              {ID: "x", Kind: KindTick, Data: Data{Step: "make.coffee"}},
		"undo":              {ID: "x", Kind: KindUndo, Data: Data{Of: "nothing"}},
		"check at diagnose": {ID: "x", Kind: KindFinding, Data: Data{Phase: PhaseDiagnose, Finding: "check.level", Value: json.RawMessage(`"yes"`)}},
		"huge value":        {ID: "x", Kind: KindFinding, Data: Data{Phase: PhaseDiagnose, Finding: "codes.present", Value: json.RawMessage(`["` + strings.Repeat("x", 20000) + `"]`)}},
		"empty note":        {ID: "x", Kind: KindNote, Data: Data{Text: "  "}},
	} {
		assert.Error(t, j.CheckEvent(e), name)
	}
	var gate ErrGate
	require.ErrorAs(t, j.CheckEvent(Event{ID: "x", Kind: KindTick, Data: Data{Step: "strip.lines_off"}}), &gate)
	assert.Contains(t, gate.Missing, "safe.pump_empty")
	p, err := j.Plan()
	require.NoError(t, err)
	for _, s := range p.Steps {
		if s.ID == "rod.measure" {
			break
		}
		j.add(t, KindTick, Data{Step: s.ID, Done: yes()})
	}
	assert.Error(t, j.CheckEvent(Event{ID: "x", Kind: KindTick, Data: Data{Step: "rod.measure"}}), "the rod needs its two depths")
	j.add(t, KindTick, Data{Step: "rod.measure", Rod: &Rod{PocketMM: 12.4, GasketMM: 0.8, ProtrusionMM: 12.9, PitchMM: 1, TargetMM: 0.25}})
	assert.Error(t, j.CheckEvent(Event{ID: "x", Kind: KindTick, Data: Data{Step: "fit.cylinder_nuts", TorqueNM: &bad}}))
	v, err := j.Replace()
	require.NoError(t, err)
	assert.InDelta(t, 0.3, v.Rod.GapMM, 1e-9)
}

// A vehicle goes back to released only through its gate: neither a release nor a reopening is undone.
func TestReleaseIsNotUndone(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	j.Events = append(j.Events, Event{ID: "rel", Kind: KindReleased, At: j.CreatedAt}, Event{ID: "re", Kind: KindReopened, At: j.CreatedAt})
	for _, of := range []string{"rel", "re"} {
		assert.ErrorContains(t, j.CheckEvent(Event{ID: "u", Kind: KindUndo, Data: Data{Of: of}}), "release_not_undone")
	}
}

func TestFindingsOfAnotherSystemAreLeftOutNotFatal(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	j.add(t, KindFinding, Data{Phase: PhaseDiagnose, Finding: "pedal.free_play_mm", Value: json.RawMessage(`2`)})
	j.add(t, KindFinding, Data{Phase: PhaseDiagnose, Finding: "pressure.at_bleeder", Value: json.RawMessage(`{"LF":"low"}`)})
	j.add(t, KindFinding, Data{Phase: PhaseDiagnose, Finding: "brakes.weak", Value: json.RawMessage(`"all"`)})
	trailer, err := system.FromPattern("trailer-surge")
	require.NoError(t, err)
	j.Intake.System, j.Intake.Pattern = trailer, "trailer-surge"
	v, err := j.Diagnose()
	require.NoError(t, err)
	assert.Equal(t, []string{"pedal.free_play_mm", "pressure.at_bleeder"}, v.LeftOut)
	assert.Equal(t, 1, v.Count)
	// What an imported file may hold is passed over in the same way.
	j.Events = append(j.Events, Event{ID: "odd", Kind: KindFinding, Data: Data{Phase: PhaseDiagnose, Finding: "nose.itches", Value: json.RawMessage(`{}`)}},
		Event{ID: "tick", Kind: KindTick, Data: Data{Step: "no.such.step"}}, Event{ID: "w", Kind: KindBleedStroke, Data: Data{Wheel: "LF"}})
	_, err = j.Diagnose()
	require.NoError(t, err)
	_, err = j.Verify()
	require.NoError(t, err)
	j.Status()
}

func TestReservoirLevelFollowsStrokesAndRefills(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	v, err := j.Bleed()
	require.NoError(t, err)
	assert.Equal(t, "RR", v.Current)
	full, per, first := v.LevelCM3, v.Plan.Wheels[0].StrokeCM3, v.RefillIn
	for i := 0; i < first; i++ {
		j.add(t, KindBleedStroke, Data{Wheel: "RR"})
	}
	v, _ = j.Bleed()
	assert.InDelta(t, full-float64(first)*per, v.LevelCM3, 1e-9)
	assert.True(t, v.RefillNow)
	assert.Greater(t, v.LevelCM3, v.LowestCM3, "told in time, with a margin")
	j.add(t, KindRefill, Data{})
	v, _ = j.Bleed()
	assert.Equal(t, full, v.LevelCM3)
	assert.False(t, v.RefillNow)
}

func TestWheelIsDoneByVolumeAndSeenClear(t *testing.T) {
	j := newJob(t, "car-diagonal-vacuum", match.CylinderOnly)
	v, _ := j.Bleed()
	need := v.Plan.Wheels[0].Strokes
	j.add(t, KindBleedStroke, Data{Wheel: "RR", Strokes: need})
	v, _ = j.Bleed()
	assert.Equal(t, "RR", v.Current, "the volume is through but no one has seen it clear")
	j.add(t, KindWheelClear, Data{Wheel: "RR", Done: yes()})
	v, _ = j.Bleed()
	assert.Equal(t, "LF", v.Current, "circuit by circuit on a diagonal split")
}

func TestBoosterAsideNeedsNoBleedingAnywhere(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.BoosterAside)
	b, err := j.Bleed()
	require.NoError(t, err)
	assert.False(t, b.Applies)
	bench, err := j.Bench()
	require.NoError(t, err)
	assert.False(t, bench.Applies)
	states := map[string]string{}
	for _, s := range j.Status().Stations {
		states[s.ID] = s.State
	}
	assert.Equal(t, "not_needed", states["bench"])
	assert.Equal(t, "not_needed", states["bleed"])
	m, err := j.Match(nil)
	require.NoError(t, err)
	assert.Zero(t, m.Fluid.TotalCM3)
	v, err := j.Verify()
	require.NoError(t, err)
	for _, i := range v.Gate.Items {
		assert.NotEqual(t, "bleed", i.ID)
	}
}

func TestTrailerShowsNoBooster(t *testing.T) {
	j := newJob(t, "trailer-surge", match.CylinderOnly)
	m, err := j.Match(nil)
	require.NoError(t, err)
	assert.Equal(t, []match.Scope{match.CylinderOnly, match.BleedOnly, match.Elsewhere}, m.Scopes)
	d, err := j.Diagnose()
	require.NoError(t, err)
	for _, f := range d.Result.Faults {
		assert.NotEqual(t, "booster", f.Part)
	}
	b, err := j.Bench()
	require.NoError(t, err)
	assert.Len(t, b.Chambers, 1)
}

func TestStatusWalksTheStations(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	assert.Equal(t, "diagnose", j.Status().At)
	j.add(t, KindFinding, Data{Phase: PhaseDiagnose, Finding: "pedal.sinks", Value: json.RawMessage(`"slow"`)})
	assert.Equal(t, "match", j.Status().At)
	j.Choices.Unit = &match.Unit{ID: "u"}
	assert.Equal(t, "replace", j.Status().At)
	p, _ := j.Plan()
	for _, s := range p.Steps {
		if s.ID == "close.bleeder_screws" {
			break
		}
		j.add(t, KindTick, Data{Step: s.ID, Rod: &Rod{PocketMM: 12.4, ProtrusionMM: 12.2, PitchMM: 1}})
	}
	assert.Equal(t, "bleed", j.Status().At)
	assert.Equal(t, "RR", j.Status().Detail)
	empty := &Job{}
	assert.Equal(t, "intake", empty.Status().At)
}

func TestFileReadsBackAsItself(t *testing.T) {
	j := newJob(t, "trailer-surge", match.CylinderOnly)
	j.add(t, KindFinding, Data{Phase: PhaseDiagnose, Finding: "actuator.rod_moves", Value: json.RawMessage(`"no"`)})
	j.add(t, KindBenchStroke, Data{Strokes: 3})
	data, err := json.Marshal(j)
	require.NoError(t, err)
	back, err := Parse(data)
	require.NoError(t, err)
	again, err := json.Marshal(back)
	require.NoError(t, err)
	assert.JSONEq(t, string(data), string(again))
}

func TestBadFilesAreTold(t *testing.T) {
	good, _ := json.Marshal(newJob(t, "trailer-surge", match.CylinderOnly))
	var m map[string]any
	require.NoError(t, json.Unmarshal(good, &m))
	m["intake"].(map[string]any)["system"].(map[string]any)["vehicle"].(map[string]any)["mass_kg"] = -4
	m["intake"].(map[string]any)["distance_km"] = -1
	m["format"] = "other"
	m["events"] = []any{map[string]any{"id": "a", "kind": "note", "at": "2026-01-01T00:00:00Z", "by": "x", "data": map[string]any{"text": "a"}}, map[string]any{"id": "a", "kind": "note", "at": "2026-01-01T00:00:00Z", "by": "x", "data": map[string]any{"text": "b"}}}
	data, _ := json.Marshal(m)
	_, err := Parse(data)
	var f system.Faults
	require.True(t, errors.As(err, &f))
	paths := []string{}
	for _, x := range f {
		paths = append(paths, x.Path)
	}
	assert.Subset(t, paths, []string{"$.format", "$.intake.system.vehicle.mass_kg", "$.intake.distance_km", "$.events[1].id"})
	for _, doc := range []string{"", "{", "[]", `{"format":"geminate.job/1","surprise":1}`, string(good) + "x"} {
		_, err := Parse([]byte(doc))
		assert.Error(t, err, doc)
	}
}

func TestIntakeAndChoicesAreChecked(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	require.NoError(t, CheckIntake(&j.Intake))
	require.NoError(t, CheckChoices(j.Intake.System, &j.Choices))
	in := j.Intake
	in.Vehicle, in.LastServiceAt, in.LastServiceKM, in.Tools, in.System = " ", "yesterday", 2e5, &[]string{"spoon"}, nil
	err := CheckIntake(&in)
	for _, path := range []string{"$.vehicle", "$.last_service_at", "$.last_service_km", "$.tools[0]", "$.system"} {
		assert.ErrorContains(t, err, path+":")
	}
	c := j.Choices
	bore := 2000.0
	c.Scope, c.Old, c.Bench.TiltDeg, c.Bleed.StrokeMM = "roof", &match.Unit{BoreMM: &bore}, 80, 0
	err = CheckChoices(j.Intake.System, &c)
	for _, path := range []string{"$.scope", "$.old_unit.bore_mm", "$.bench.tilt_deg", "$.bleed"} {
		assert.ErrorContains(t, err, path+":")
	}
}

// Common practice, no source: two years, 25 000 miles, water at 3 %.
func TestNextDue(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	now := time.Date(2026, 11, 24, 0, 0, 0, 0, time.UTC)
	d := j.NextDue(now)
	assert.Equal(t, "2028-11-24", d.AtDate)
	assert.InDelta(t, 100000+40233.6, d.AtKM, 0.1)
	assert.Equal(t, "water", d.First, "from 0.1 % at 1.5 % a year, 3 % comes just before two years")
	wet := 2.5
	j.Choices.Bottle.WaterPercent = &wet
	assert.Equal(t, "2027-03-25", j.NextDue(now).WaterDate)
	j.Choices.Scope = match.BoosterAside
	assert.Equal(t, 0.5, j.NextDue(now).WaterNow, "the old fluid stays in")
}

func TestNormalFigures(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	j.Intake.System.Circuits[0].AirCM3 = 9
	n := NormalOf(j.Intake.System)
	clean, _ := system.FromPattern("pickup-front-rear-vacuum")
	assert.Equal(t, NormalOf(clean).At300TravelMM, n.At300TravelMM, "normal is without the fault")
	assert.Equal(t, 4, n.Reserve)
	assert.Len(t, n.WithAssist, 81)
}
