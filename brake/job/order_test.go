package job

import (
	"encoding/json"
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/match"
	"geminate/brake/plan"
	"geminate/brake/stand"
	"geminate/brake/verify"
)

// late tells an event of an earlier moment, from a device that had seen the log up to base.
func (j *testJob) late(t *testing.T, by Actor, base int64, at time.Time, b Body) error {
	t.Helper()
	data, err := json.Marshal(b)
	require.NoError(t, err)
	j.n++
	out, err := j.Append(j, by, j.now(),
		[]In{{ID: fmt.Sprintf("late%d", j.n), Kind: kindOf(b), At: at, Base: base, Device: "of " + by.ID, Data: data}})
	j.Events = append(j.Events, out...)
	return err
}

// A hybrid logical clock (Kulkarni and others, 2014), by hand: nothing before what its teller had seen, nothing of a
// device before what it told earlier, else by the clock; and whoever folds it gets the same.
func TestTheOrderOfHands(t *testing.T) {
	at := func(s int) time.Time { return began.Add(time.Duration(s) * time.Second) }
	e := func(seq int64, s int, base int64, device string) Event {
		return Event{ID: fmt.Sprint(seq), Seq: seq, At: at(s), Base: base, Device: device, Body: &Noted{Text: "x"}}
	}
	order := func(list ...Event) (out []string) {
		for _, x := range inOrder(list) {
			out = append(out, x.ID)
		}
		return out
	}
	assert.Equal(t, []string{"1", "3", "2"}, order(e(1, 0, 0, "a"), e(2, 600, 1, "a"), e(3, 300, 1, "b")), "told late, done before")
	assert.Equal(t, []string{"1", "2", "3"}, order(e(1, 0, 0, "a"), e(2, 600, 1, "a"), e(3, 300, 2, "b")),
		"its teller had seen it: a clock that is slow")
	assert.Equal(t, []string{"1", "2", "3"}, order(e(1, 0, 0, "a"), e(2, 600, 1, "a"), e(3, 300, 1, "a")), "a device keeps its own order")
	assert.Equal(t, []string{"1", "3", "2"}, order(e(1, 0, 0, ""), e(2, 600, 0, ""), e(3, 300, 0, "")), "nobody said: by the clock")
	assert.Equal(t, []string{"1", "2", "3"}, order(e(1, 0, 0, ""), e(2, 600, 0, ""), e(3, 590, 0, "")), "but for what clocks are in doubt")
	chose := e(3, 900, 2, "")
	chose.Kind, chose.Body, chose.By = KindChoices, &ChoicesChanged{}, mara
	did := e(4, 400, 1, "b")
	did.By = mara
	assert.Equal(t, []string{"1", "2", "3", "4"}, order(e(1, 0, 0, "a"), e(2, 600, 1, "a"), chose, did),
		"one's own choice goes out before what was done after it")
	did.By = piet
	assert.Equal(t, []string{"1", "4", "2", "3"}, order(e(1, 0, 0, "a"), e(2, 600, 1, "a"), chose, did), "somebody else's does not")
	list := inOrder([]Event{e(1, 0, 0, "a"), e(2, 600, 1, "a"), e(3, 300, 1, "b")})
	assert.False(t, list[0].late)
	assert.True(t, list[1].late)
	assert.False(t, list[2].late)
}

// Told one by one or folded whole, in whatever order of arrival: the same vehicle.
func TestOneByOneIsAsWhole(t *testing.T) {
	j := newJob(t, pickupVacuum, match.CylinderOnly)
	j.doUntil(t, "strip.cylinder_off")
	seen := j.Head
	early := j.now().Add(-10 * time.Minute)
	j.doUntil(t, "fit.line_nuts")
	for _, b := range []Body{&Noted{Text: "late"}, &Ticked{Step: "strip.sensor_plug"}, &BleedStroked{Wheel: "RR"}} {
		_ = j.late(t, piet, seen, early, b)
	}
	whole := Replay(j.ID, j.CreatedAt, j.Events)
	is, err := json.Marshal(j.View())
	require.NoError(t, err)
	want, err := json.Marshal(whole.View())
	require.NoError(t, err)
	assert.JSONEq(t, string(want), string(is))
	other := &Book{Job: Replay(j.ID, j.CreatedAt, j.Events[:seen]), Events: append([]Event{}, j.Events[:seen]...)}
	require.NoError(t, other.Take(j.Events[seen:]...))
	is, err = json.Marshal(other.View())
	require.NoError(t, err)
	assert.JSONEq(t, string(want), string(is))
}

func TestToldLateIsLaidInAtItsTime(t *testing.T) {
	// A bleeder made tight at twenty past closes none that was opened at half past.
	j := newJob(t, pickupVacuum, match.BleedOnly)
	passGate(t, j)
	seen, early := j.Head, j.now()
	j.wait += 1800
	j.add(t, &BleedStroked{Wheel: "RR"})
	require.NoError(t, j.late(t, piet, seen, early, &Ticked{Step: "close.bleeder_screws", TorqueNM: f(10), TorqueUnit: "N·m"}))
	kept(j, t, "close.bleeder_screws")
	// Nor does the same from a program that says neither base nor device.
	j = newJob(t, pickupVacuum, match.BleedOnly)
	passGate(t, j)
	early = j.now()
	j.wait += 1800
	j.add(t, &BleedStroked{Wheel: "RR"})
	data, _ := json.Marshal(&Ticked{Step: "close.bleeder_screws", TorqueNM: f(10), TorqueUnit: "N·m"})
	out, err := j.Append(j, piet, j.now(), []In{{ID: "bare", Kind: KindTick, At: early, Data: data}})
	require.NoError(t, err)
	j.Events = append(j.Events, out...)
	kept(j, t, "close.bleeder_screws")

	// Read at eight thirty-eight by one who had not seen the foot that came up at thirty-five: dead, whatever the
	// reader did since.
	j = newJob(t, pickupVacuum, match.BleedOnly)
	passGate(t, j)
	seen = j.Head
	j.wait += 60
	require.NoError(t, j.tell(piet, &OpeningLost{Wheel: "LF"}))
	require.NoError(t, j.late(t, mara, seen, j.now(), &Filled{}))
	require.NoError(
		t,
		j.late(
			t,
			mara,
			seen,
			j.now().Add(time.Minute),
			&FindingMade{
				Phase:   PhaseVerify,
				Finding: "pedal.sink",
				Value:   json.RawMessage(`{"pedal_force_n":450,"travel_mm":0.5,"seconds":60,"engine":"on"}`),
			},
		),
	)
	assert.Equal(t, "gate.stale", j.item(t, "pedal.sink").Code)
}

func TestWhatTwoTellOtherwiseIsLookedAt(t *testing.T) {
	j := newJob(t, pickupVacuum, match.CylinderOnly)
	j.doUntil(t, "close.bleed")
	seen, early := j.Head, j.now().Add(-30*time.Second)
	j.doUntil(t, "")
	// Piet, cut off, says that the plug came off at five past; nobody knew, and work went on.
	require.NoError(t, j.late(t, piet, seen, early, &Ticked{Step: "strip.sensor_plug"}))
	v, err := j.Replace()
	require.NoError(t, err)
	if assert.Len(t, v.Doubts, 1) {
		assert.Equal(t, stand.SensorPlug, v.Doubts[0].Thing)
		assert.Equal(t, "Piet", v.Doubts[0].Late.Name)
	}
	assert.Equal(t, verify.Missing, j.item(t, "told_late").State)
	assert.ErrorContains(t, j.tell(mara, &ThingSeen{Thing: stand.Lines, State: SeenOn}), "no_such_thing", "of that nobody asked")
	require.NoError(t, j.tell(mara, &ThingSeen{Thing: stand.SensorPlug, State: SeenUnknown}))
	assert.Equal(t, stand.Off, j.account().StateOf(stand.SensorPlug), "not to be told is off")
	assert.Contains(t, j.left(t), "fit.sensor_plug")
	v, _ = j.Replace()
	assert.Empty(t, v.Doubts)
	passGate2(t, j)
	assert.True(t, j.passes(t), "%v", j.left(t))
}

// After a release it opens nothing by itself; it is on the record, and whoever let the vehicle go is told.
func TestToldAfterTheRelease(t *testing.T) {
	j := newJob(t, pickupVacuum, match.BleedOnly)
	passGate(t, j)
	seen, early := j.Head, j.now().Add(-30*time.Second)
	j.wait += 120
	events, err := j.Release(mara, j.now(), "let-go")
	require.NoError(t, err)
	j.Events = append(j.Events, events...)
	assert.ErrorIs(t, j.tell(mara, &BleedStroked{Wheel: "RR"}), ErrReleased, "what is done now asks for a reopening")
	require.NoError(t, j.late(t, piet, seen, early, &OpeningLost{Wheel: "LF"}))
	assert.NotNil(t, j.State.ReleasedAt)
	require.Len(t, j.State.Afterwards, 1)
	assert.Equal(t, "Piet", j.State.Afterwards[0].By)
	assert.Contains(t, j.State.CalledBack, "bleed")
	v, err := j.Verify()
	require.NoError(t, err)
	assert.True(t, v.Gate.Passable, "what stood then")
	assert.NotEmpty(t, v.CalledBack)
	assert.Equal(t, 1, len(Replay(j.ID, j.CreatedAt, j.Events).State.Afterwards))
}

// Seen at once it never was; later, what came out stays out (model 13.2). Undo and untick are one rule.
func TestBackFromIt(t *testing.T) {
	for name, c := range map[string]struct {
		did  Body
		stay func(j *testJob) bool
	}{
		"lines off":     {&Ticked{Step: "strip.lines_off"}, func(j *testJob) bool { return j.account().TookOff(stand.Lines) && j.account().Opened() }},
		"a foot up":     {&OpeningLost{Wheel: "RR"}, func(j *testJob) bool { return len(j.account().Wheels["RR"].Marks) > 0 }},
		"a wrong fluid": {&Filled{Poured: PouredOther}, func(j *testJob) bool { return j.bottleFault() != "" && len(j.RubberLeft()) > 0 }},
		"bubbles":       {&WheelSeen{Wheel: "RR", Done: no()}, func(j *testJob) bool { return len(j.account().Wheels["RR"].Rounds) > 0 }},
		"a small part":  {&PartOff{Place: stand.AtPedal, Part: "pin"}, func(j *testJob) bool { return j.account().Epochs[stand.SmallParts].Seq > 0 }},
		"strokes counted": {
			&BleedStroked{Wheel: "RR"},
			func(j *testJob) bool {
				level, full, _ := j.levels().Level("A")
				return level < full && j.account().Wheels["RR"].ThroughCM3 == 0 // out of the reservoir, and through nothing
			},
		},
	} {
		for _, laterS := range []int{0, 3600} {
			j := newJob(t, pickupVacuum, match.BoosterOpened)
			j.add(t, &Ticked{Step: "prepare.chock"})
			if name == "lines off" {
				j.doUntil(t, "strip.lines_off")
			}
			before, off := len(j.State.Moves), j.account().TookOff(stand.Lines)
			e := j.add(t, c.did)
			if laterS > 0 {
				j.wait += laterS
				j.add(t, &Ticked{Step: "prepare.cover_paint"})
			}
			j.add(t, &Undone{Of: e.ID})
			if laterS > 0 {
				assert.True(t, c.stay(j), "%s, an hour later", name)
				continue
			}
			assert.Len(t, j.State.Moves, before, "%s: a slip moved nothing", name)
			assert.Empty(t, j.account().Wheels["RR"].Marks, name)
			assert.Equal(t, off, j.account().TookOff(stand.Lines), name)
		}
	}
	// Parking is taken back where its reasons are shown.
	j := newJob(t, pickupVacuum, match.BleedOnly)
	e := j.add(t, &Parked{Why: []ParkReason{ParkPart}})
	j.add(t, &Noted{Text: "tea"})
	assert.ErrorContains(t, j.tell(mara, &Undone{Of: e.ID}), "not_undone")
}

// A second time is as the first: what lies before it is off, what it proved is dead, and it ends the same.
func TestTheSecondTimeIsAsTheFirst(t *testing.T) {
	for name, c := range map[string]struct {
		pattern string
		scope   match.Scope
		again   string
		missing []string
	}{
		"the cylinder":            {pickupVacuum, match.CylinderOnly, "strip.cylinder_off", []string{"strip.lines_off"}},
		"the booster":             {pickupVacuum, match.Both, "strip.firewall_nuts", []string{"strip.cylinder_off", "strip.pedal_end", "strip.vacuum_hose"}},
		"a trailer's actuator":    {"trailer-surge", match.CylinderOnly, "strip.actuator_bolts", []string{"strip.shoe_and_rod", "strip.lines_off"}},
		"a cylinder on its pedal": {"special-manual", match.CylinderOnly, "strip.cylinder_off", []string{"strip.pedal_end", "strip.lines_off"}},
	} {
		j := newJob(t, c.pattern, c.scope)
		passGate2(t, j)
		require.True(t, j.passes(t), "%s: %v", name, j.left(t))
		var gate ErrGate
		require.ErrorAs(t, j.tell(mara, &Ticked{Step: c.again}), &gate, name)
		assert.Subset(t, append(gate.Missing, "safe.empty_reservoir"), []string{c.missing[0]}, name)
		v, err := j.Replace()
		require.NoError(t, err)
		var off CameOff
		for _, o := range v.Again {
			if o.Step == c.again {
				off = o
			}
		}
		require.Equal(t, c.again, off.Step, name)
		assert.Subset(t, off.Also, c.missing, name)
		for _, step := range append(off.Also, off.Step) { // by one tap, each at its own moment
			require.NoError(t, j.tell(mara, &Ticked{Step: step}), "%s: %s of %v", name, step, off.Also)
		}
		kept(j, t, "close.bleed")
		for range 2 {
			passGate2(t, j)
		}
		assert.True(t, j.passes(t), "%s: the way on ends: %v", name, j.left(t))
	}
	// A trailer is coupled again.
	trailer := newJob(t, "trailer-surge", match.CylinderOnly)
	assert.Contains(t, trailer.left(t), "close.couple")
	// A plate that carries the pipes is on before them.
	p, err := plan.Make(newJob(t, "pickup-hydraulic", match.Both).Intake.System,
		plan.Choices{Scope: match.Both, Present: &[]plan.Feature{plan.PressurePlate}})
	require.NoError(t, err)
	at := map[string]int{}
	for i, s := range p.Steps {
		at[s.ID] = i
	}
	assert.Less(t, at["fit.pressure_plate"], at["fit.pressure_lines"])
	assert.Less(t, at["strip.pressure_lines"], at["strip.pressure_plate"])
}

func BenchmarkAHundredUndos(b *testing.B) {
	j := benchJob(b, 2000)
	var in []In
	for k := range 100 {
		data, _ := json.Marshal(Undone{Of: j.Events[len(j.Events)-1-k].ID})
		in = append(in, In{ID: fmt.Sprintf("u%d", k), Kind: KindUndo, At: j.UpdatedAt, Data: data})
	}
	for b.Loop() {
		next := &Book{Job: j.View().Job(), Events: j.Events[:len(j.Events):len(j.Events)]}
		if _, err := next.Append(next, mara, next.UpdatedAt, in); err != nil {
			b.Fatal(err)
		}
	}
}

// benchJob is a job of so many events: notes and strokes.
func benchJob(b *testing.B, n int) *testJob {
	b.Helper()
	j := newJob(&testing.T{}, pickupVacuum, match.BleedOnly)
	for len(j.Events) < n {
		var body Body = &BleedStroked{Wheel: "RR"}
		if len(j.Events)%5 == 0 {
			body = &Noted{Text: "x"}
		}
		if len(j.Events)%30 == 7 {
			body = &Filled{}
		}
		if err := j.tell(mara, body); err != nil {
			b.Fatal(err)
		}
	}
	return j
}

func BenchmarkStatus(b *testing.B) {
	j := benchJob(b, 400)
	for b.Loop() {
		j.Status()
	}
}
