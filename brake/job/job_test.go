package job

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/match"
	"geminate/brake/plan"
	"geminate/brake/system"
)

var (
	mara  = Actor{ID: "u1", Name: "Mara", Role: Technician}
	piet  = Actor{ID: "u2", Name: "Piet", Role: Lead}
	sunny = Actor{ID: "u3", Name: "Sunny", Role: Trainee}
	began = time.Date(2026, 11, 1, 8, 0, 0, 0, time.UTC)
)

// testJob is a job in memory whose events are told one a minute.
type testJob struct {
	*Book
	n    int
	wait int // seconds waited for, beside a minute an event
}

func newJob(t *testing.T, pattern string, scope match.Scope) *testJob {
	t.Helper()
	s, err := system.FromPattern(pattern)
	require.NoError(t, err)
	c := DefaultChoices(s)
	c.Scope = scope
	// What an honest shop has in hand: the units, measured, and a bottle opened this week.
	same := match.FromSystem(s)
	old := same
	same.ID, same.Number, same.ResidualMPA, old.ResidualMPA = "same", "S 1", f(0), f(0)
	c.Unit, c.Old, c.Bottle.OpenedAt = &same, &old, "2026-10-30"
	if s.BoosterKind() != system.BoosterNone {
		c.Booster = &match.Unit{
			ID:            "boost",
			Number:        "B 1",
			Kind:          match.BoosterKind(s),
			StudSpacingMM: f(85),
			Studs:         2,
			Ports:         []match.Port{},
			Contents:      []string{},
		}
		c.OldBooster = &match.Unit{Kind: match.BoosterKind(s), StudSpacingMM: f(85), Studs: 2, Ports: []match.Port{}, Contents: []string{}}
	}
	b, err := OpenBook(mara, began, Opening{ID: "j1", EventID: "open", Choices: &c,
		Intake: Intake{Complaint: "sinks", Vehicle: "Pickup", Pattern: pattern, System: s, DistanceKM: 100000, Hands: 2}})
	require.NoError(t, err)
	return &testJob{Book: b}
}

func yes() *bool { b := true; return &b }

func (j *testJob) now() time.Time {
	return began.Add(time.Duration(len(j.Events))*time.Minute + time.Duration(j.wait)*time.Second)
}

// tell is add with the error given back.
func (j *testJob) tell(by Actor, b Body) error {
	j.n++
	return j.Tell(by, j.now(), fmt.Sprintf("e%d", j.n-1), kindOf(b), b)
}

// add appends an event as a technician's screen would and gives it as stored.
func (j *testJob) add(t *testing.T, b Body) Event {
	t.Helper()
	require.NoError(t, j.tell(mara, b))
	return j.Events[len(j.Events)-1]
}

// do does a step of the plan as it should be done: measured, waited for, tight.
func (j *testJob) do(t *testing.T, s plan.Step) {
	t.Helper()
	tick := &Ticked{Step: s.ID}
	if s.Torque != nil {
		tick.TorqueNM, tick.TorqueUnit = f((s.Torque.LowNM+s.Torque.HighNM)/2), "N·m"
	}
	switch s.Measure {
	case plan.MeasurePushrod:
		tick.Rod = &Rod{PocketMM: 12.4, GasketMM: 0.8, ProtrusionMM: 12.9, PitchMM: 1, TargetMM: 0.25}
	case plan.MeasureTouch:
		tick.TouchMM = f(0)
	case plan.MeasureCompare:
		tick.Rods = &Rods{OldMM: 30, NewMM: 30}
	case plan.MeasureVolts:
		tick.Volts, tick.Trained = f(0), "Mara"
	}
	if s.Wait != "" {
		j.add(t, &TimerStarted{Clock: Clock(s.Wait)})
		j.wait += 3600
	}
	switch s.ID {
	case "prepare.compare_on_bench":
		tick.Compared = j.Unmeasured()
	case "fit.bench_bled":
		b, err := j.Bench()
		require.NoError(t, err)
		if left := b.Needed - b.Strokes; left > 0 {
			j.add(t, &BenchStroked{Strokes: left})
		}
	case "fit.bled_on_vehicle":
		for _, p := range j.portCracks() {
			for range cracksAPort {
				j.add(t, &PortCracked{Port: p.Port})
			}
		}
	case "close.bleed":
		j.bleedWhole(t)
		return
	case "close.steering_bleed":
		j.add(t, &TimerStarted{Clock: ClockFoam})
		j.wait += 600
		j.add(t, &SteeringCycled{})
	}
	j.add(t, tick)
}

// doUntil does the plan up to a step, "" to its end.
func (j *testJob) doUntil(t *testing.T, step string) {
	t.Helper()
	p, err := j.Plan()
	require.NoError(t, err)
	for _, s := range p.Steps {
		if s.ID == step {
			return
		}
		if !j.Done()[s.ID] {
			j.do(t, s)
		}
	}
}

func TestUndoTakesBackAndCanBeTakenBack(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	j.add(t, &BleedStroked{Wheel: "RR"})
	two := j.add(t, &BleedStroked{Wheel: "RR"})
	undo := j.add(t, &Undone{Of: two.ID})
	st := j.State
	assert.Equal(t, 1, st.BleedStrokes["RR"])
	assert.Equal(t, "e0", st.LastStroke["bleed"], "the next undo takes the stroke before")
	j.add(t, &Undone{Of: undo.ID})
	st = j.State
	assert.Equal(t, 2, st.BleedStrokes["RR"])
}

func TestFindingIsReplacedAndWithdrawn(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	j.add(t, &FindingMade{Phase: PhaseDiagnose, Finding: "pedal.sinks", Value: json.RawMessage(`"slow"`)})
	j.add(t, &FindingMade{Phase: PhaseDiagnose, Finding: "pedal.sinks", Value: json.RawMessage(`"fast"`)})
	assert.JSONEq(t, `"fast"`, string(j.Case().Findings[0].Value))
	j.add(t, &FindingMade{Phase: PhaseDiagnose, Finding: "pedal.sinks"})
	assert.Empty(t, j.Case().Findings)
}

func TestEventsThatMakeNoSenseAreRefused(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	for name, c := range map[string]struct {
		id   string
		kind Kind
		data string
	}{
		"no id":             {"", KindRefill, `{}`},
		"an id with spaces": {"a b", KindRefill, `{}`},
		"an accented id":    {"é1", KindRefill, `{}`},
		"a long id":         {strings.Repeat("x", 65), KindRefill, `{}`},
		"unknown kind":      {"x", "dance", `{}`},
		"a long kind":       {"x", Kind(strings.Repeat("x", 5000)), `{}`},
		"forged release":    {"x", KindReleased, `{}`},
		"forged reopening":  {"x", KindReopened, `{"reason":"x"}`},
		"forged opening":    {"x", KindOpened, `{}`},
		"forged edit":       {"x", KindIntake, `{"changes":[{"path":"/plate","to":"x"}]}`},
		"unknown wheel":     {"x", KindBleedStroke, `{"wheel":"XX"}`},
		"many strokes":      {"x", KindBleedStroke, `{"wheel":"RR","strokes":5000}`},
		"strokes undone":    {"x", KindBleedStroke, `{"wheel":"RR","strokes":-5}`},
		"bench backwards":   {"x", KindBenchStroke, `{"strokes":-5}`},
		"volume":            {"x", KindBleedVolume, `{"wheel":"RR","volume_cm3":-4}`},
		"an ocean":          {"x", KindBleedVolume, `{"wheel":"RR","volume_cm3":1e308}`},
		"text in a refill":  {"x", KindRefill, `{"text":"` + strings.Repeat("x", 1000) + `"}`},
		"phase":             {"x", KindFinding, `{"phase":"later","finding":"pedal.sinks"}`},
		"finding":           {"x", KindFinding, `{"phase":"diagnose","finding":"nose.itches","value":1}`},
		"value":             {"x", KindFinding, `{"phase":"diagnose","finding":"pedal.sinks","value":7}`},
		"check value":       {"x", KindFinding, `{"phase":"verify","finding":"check.level","value":"perhaps"}`},
		"step":              {"x", KindTick, `{"step":"make.coffee"}`},
		"undo":              {"x", KindUndo, `{"of":"nothing"}`},
		"check at diagnose": {"x", KindFinding, `{"phase":"diagnose","finding":"check.level","value":"yes"}`},
		"huge value":        {"x", KindFinding, `{"phase":"diagnose","finding":"codes.present","value":["` + strings.Repeat("x", 20000) + `"]}`},
		"empty note":        {"x", KindNote, `{"text":"  "}`},
		"not JSON":          {"x", KindNote, `{"text"`},
	} {
		_, err := j.Append(j, mara, j.now(), []In{{ID: c.id, Kind: c.kind, At: j.now(), Data: []byte(c.data)}})
		var f system.Faults
		assert.ErrorAs(t, err, &f, name)
	}
	assert.Len(t, j.Events, 1)
	var gate ErrGate
	require.ErrorAs(t, j.tell(mara, &Ticked{Step: "strip.lines_off"}), &gate)
	assert.Contains(t, gate.Missing, "safe.pump_empty")
	j.doUntil(t, "rod.measure")
	assert.Error(t, j.tell(mara, &Ticked{Step: "rod.measure"}), "the rod needs its two depths")
	j.add(t, &Ticked{Step: "rod.measure", Rod: &Rod{PocketMM: 12.4, GasketMM: 0.8, ProtrusionMM: 12.9, PitchMM: 1, TargetMM: 0.25}})
	bad := -1.0
	assert.Error(t, j.tell(mara, &Ticked{Step: "fit.cylinder_nuts", TorqueNM: &bad}))
	v, err := j.Replace()
	require.NoError(t, err)
	assert.InDelta(t, 0.3, v.Rod.GapMM, 1e-9)
}

func TestFindingsOfAnotherSystemAreLeftOutNotFatal(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	j.add(t, &FindingMade{Phase: PhaseDiagnose, Finding: "pedal.free_play_mm", Value: json.RawMessage(`2`)})
	j.add(t, &FindingMade{Phase: PhaseDiagnose, Finding: "pressure.at_bleeder", Value: json.RawMessage(`{"LF":"low"}`)})
	j.add(t, &FindingMade{Phase: PhaseDiagnose, Finding: "brakes.weak", Value: json.RawMessage(`"all"`)})
	trailer, err := system.FromPattern("trailer-surge")
	require.NoError(t, err)
	j.Intake.System, j.Intake.Pattern = trailer, "trailer-surge"
	v, err := j.Diagnose(t.Context())
	require.NoError(t, err)
	assert.Equal(t, []string{"pedal.free_play_mm", "pressure.at_bleeder"}, v.LeftOut)
	assert.Equal(t, 1, v.Count)
	// What a file from elsewhere may hold is passed over in the same way.
	events := append(
		j.Events,
		Event{ID: "odd", Kind: KindFinding, Body: &FindingMade{Phase: PhaseDiagnose, Finding: "nose.itches", Value: json.RawMessage(`{}`)}},
		Event{
			ID:   "tick",
			Kind: KindTick,
			Body: &Ticked{Step: "no.such.step"},
		},
		Event{ID: "w", Kind: KindBleedStroke, Body: &BleedStroked{Wheel: "ZZ"}},
	)
	odd := Replay("j", began, events)
	_, err = odd.Diagnose(t.Context())
	require.NoError(t, err)
	_, err = odd.Verify()
	require.NoError(t, err)
	odd.Status()
}

func TestReservoirLevelFollowsStrokesAndRefills(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	v, err := j.Bleed()
	require.NoError(t, err)
	assert.Equal(t, "RR", v.Current)
	full, per, first := v.LevelCM3, v.Plan.Wheels[0].StrokeCM3, v.RefillIn
	for i := 0; i < first; i++ {
		j.add(t, &BleedStroked{Wheel: "RR"})
	}
	v, _ = j.Bleed()
	assert.InDelta(t, full-float64(first)*per, v.LevelCM3, 1e-9)
	assert.True(t, v.RefillNow)
	assert.Greater(t, v.LevelCM3, v.LowestCM3, "told in time, with a margin")
	j.add(t, &Filled{})
	v, _ = j.Bleed()
	assert.Equal(t, full, v.LevelCM3)
	assert.False(t, v.RefillNow)
}

func TestWheelIsDoneByVolumeAndSeenClear(t *testing.T) {
	j := newJob(t, "car-diagonal-vacuum", match.CylinderOnly)
	v, _ := j.Bleed()
	require.EqualValues(t, "drain", v.Now, "the old fluid goes out of the reservoir first")
	j.add(t, &DrawnOff{})
	j.add(t, &Filled{})
	v, _ = j.Bleed()
	need, certain := v.Plan.Wheels[0].Strokes, *v.Plan.Wheels[0].Certain
	assert.Equal(t, certain+1, need, "and one more for the second look")
	j.add(t, &BleedStroked{Wheel: "RR", Strokes: certain - 1})
	v, _ = j.Bleed()
	assert.Equal(t, need, v.Wheels["RR"].Needed, "what is made and what is left come to the same")
	assert.False(t, v.Wheels["RR"].Enough)
	j.add(t, &BleedStroked{Wheel: "RR"})
	v, _ = j.Bleed()
	assert.True(t, v.Wheels["RR"].Enough)
	assert.Equal(t, "RR", v.Current, "the volume is through but no one has seen it clear")
	assert.Equal(t, need, v.Wheels["RR"].Needed)
	assert.Zero(t, v.Wheels["RR"].Certain)
	j.add(t, &WheelSeen{Wheel: "RR", Done: yes()})
	j.add(t, &WheelSeen{Wheel: "RR", Done: yes()})
	v, _ = j.Bleed()
	assert.Equal(t, 1, v.Wheels["RR"].ClearRow, "the same opening looked at twice is one")
	assert.Equal(t, need, v.Wheels["RR"].Needed, "a look takes nothing from the count and adds nothing")
	j.add(t, &BleedStroked{Wheel: "RR"})
	j.add(t, &WheelSeen{Wheel: "RR", Done: yes()})
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
	m, err := j.Match(t.Context(), nil, began)
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
	m, err := j.Match(t.Context(), nil, began)
	require.NoError(t, err)
	assert.Equal(t, []match.Scope{match.CylinderOnly, match.BleedOnly, match.ElsewhereOpened, match.Elsewhere}, m.Scopes)
	d, err := j.Diagnose(t.Context())
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
	unit := j.Choices.Unit
	j.Choices.Unit = nil
	assert.Equal(t, "diagnose", j.Status().At)
	j.add(t, &FindingMade{Phase: PhaseDiagnose, Finding: "pedal.sinks", Value: json.RawMessage(`"slow"`)})
	assert.Equal(t, "match", j.Status().At)
	j.Choices.Unit = unit
	assert.Equal(t, "replace", j.Status().At)
	j.doUntil(t, "close.bleed")
	assert.Equal(t, "bleed", j.Status().At)
	assert.Equal(t, "RR", j.Status().Detail)
	empty := &Job{State: newState()}
	assert.Equal(t, "intake", empty.Status().At)
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
	assert.Equal(t, "water", d.First, "from 0.5 % at 1.5 % a year, 3 % comes before two years")
	assert.InDelta(t, 0.5, d.WaterNow, 1e-12, "the old fluid is in yet")
	j.add(t, &FindingMade{Phase: PhaseDiagnose, Finding: "fluid.water_percent", Value: json.RawMessage("2.5")})
	assert.Equal(t, "2027-03-25", j.NextDue(now).WaterDate)
	j.add(t, &DrawnOff{})
	j.add(t, &Filled{})
	assert.Less(t, j.NextDue(now).WaterNow, 1.5, "the reservoir holds most of it")
	j.add(t, &FindingMade{Phase: PhaseVerify, Finding: "fluid.water_percent", Value: json.RawMessage("0.3")})
	assert.InDelta(t, 0.3, j.NextDue(now).WaterNow, 1e-12, "what was measured after the work wins")
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
