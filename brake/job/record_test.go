package job

import (
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"geminate/brake/bleed"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/match"
	"geminate/brake/system"
)

// passGate ticks, bleeds and reads everything a pickup's gate asks for.
func passGate(t *testing.T, j *testJob) {
	t.Helper()
	j.doUntil(t, "")
	for range 2000 {
		v, err := j.Bleed()
		require.NoError(t, err)
		if v.Current == "" {
			break
		}
		j.bleedOn(t, v)
	}
	j.doUntil(t, "") // what the bleed let fall
	v, err := j.Verify()
	require.NoError(t, err)
	for range 3 {
		for _, i := range v.ToDo {
			j.readItem(t, i)
		}
		v, err = j.Verify()
		require.NoError(t, err)
	}
	require.True(t, v.Gate.Passable, "%+v", v.ToDo)
}

// bleedOn does the next thing of a bleed as its screen asks for it.
func (j *testJob) bleedOn(t *testing.T, v *BleedView) {
	t.Helper()
	w := v.Wheels[v.Current]
	switch {
	case v.Now == "drain":
		j.add(t, &DrawnOff{})
	case v.DrawDownNow:
		j.add(t, &DrawnOff{LeftCM3: &v.DrawDownTo})
	case v.RefillNow:
		j.add(t, &Filled{})
	case v.Method == bleed.ScanTool:
		j.add(t, &VolumeMoved{Wheel: v.Current, VolumeCM3: 40})
		j.add(t, &WheelSeen{Wheel: v.Current})
	case !v.Method.Strokes():
		j.add(t, &VolumeMoved{Wheel: v.Current, VolumeCM3: min(30, max(2, w.LeftCM3))})
		if w.LeftCM3 <= 60 {
			j.add(t, &WheelSeen{Wheel: v.Current})
		}
	default:
		j.add(t, &BleedStroked{Wheel: v.Current})
		if w.Strokes+1 >= w.Needed-1 {
			j.add(t, &WheelSeen{Wheel: v.Current})
		}
	}
}

func TestReleaseStandsUntilAReopeningThatStaysOnTheRecord(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	_, err := j.Release(mara, j.now(), "rel")
	var open ErrRelease
	require.ErrorAs(t, err, &open)
	assert.Contains(t, open.Open, "pedal.sink")
	passGate(t, j)
	events, err := j.Release(sunny, j.now(), "rel")
	require.ErrorIs(t, err, ErrRole{ReleaseJob})
	assert.Empty(t, events)
	events, err = j.Release(mara, j.now(), "rel")
	require.NoError(t, err)
	j.Events = append(j.Events, events...)
	gate := events[0].Body.(*Released).Gate
	assert.NotEmpty(t, gate, "what was proven is kept with the release")
	assert.Equal(t, StandsReleased, j.Status().Standing)

	// The record stands: no reading, tick, edit, undo; a note may be added.
	require.ErrorIs(t, j.tell(piet, &BleedStroked{Wheel: "RR"}), ErrReleased)
	require.ErrorIs(t, j.tell(piet, &Undone{Of: "e1"}), ErrReleased)
	_, err = j.ChangeIntake(j, piet, j.now(), "x", j.IntakeSeq, j.Intake)
	require.ErrorIs(t, err, ErrReleased)
	_, err = j.Release(mara, j.now(), "rel2")
	require.ErrorIs(t, err, ErrReleased)
	j.add(t, &Noted{Text: "seen"})

	_, err = j.Reopen(sunny, j.now(), "re", "I feel like it")
	require.ErrorIs(t, err, ErrRole{ReopenJob})
	_, err = j.Reopen(mara, j.now(), "re", "   ")
	require.Error(t, err, "without a reason")
	events, err = j.Reopen(piet, j.now(), "re", "Pedal soft after the drive")
	require.NoError(t, err)
	j.Events = append(j.Events, events...)
	require.Len(t, j.State.Reopenings, 1)
	assert.Equal(t, "Pedal soft after the drive", j.State.Reopenings[0].Reason)
	assert.Equal(t, "Mara", j.State.Reopenings[0].ReleasedBy)
	for _, of := range []string{"rel", "re"} {
		assert.ErrorContains(t, j.tell(piet, &Undone{Of: of}), "release_not_undone",
			"a vehicle goes back to released only through its gate")
	}
	_, err = j.Reopen(piet, j.now(), "re2", "again")
	require.ErrorIs(t, err, ErrNotReleased)
	assert.Equal(t, j.State, Replay(j.ID, began, j.Events).State)
}

// Every role, every command: the table is asked, and each row of it is held here by its own words.
func TestRolesAreOneTable(t *testing.T) {
	allowed := func(r Role) []string {
		var out []string
		for _, c := range r.Rights() {
			out = append(out, string(c))
		}
		return out
	}
	trainee := []string{
		"count_stroke",
		"edit_intake",
		"look_up",
		"open_job",
		"practise",
		"read_jobs",
		"set_own_preferences",
		"set_up",
		"take_reading",
		"tick_step",
		"undo_own",
		"write_note",
	}
	technician := []string{
		"ask_chain",
		"bring_job_in",
		"change_system",
		"decide",
		"release_job",
		"reopen_job",
		"set_shelf",
		"tick_high_voltage",
		"undo_others",
	}
	lead := []string{"import_catalogue", "manage_accounts", "manage_settings", "read_audit", "set_costs", "set_exercises", "take_fit"}
	assert.ElementsMatch(t, trainee, allowed(Trainee))
	assert.ElementsMatch(t, slices.Concat(trainee, technician), allowed(Technician))
	assert.ElementsMatch(t, slices.Concat(trainee, technician, lead), allowed(Lead))
	assert.Empty(t, Role("").Rights())
	assert.ElementsMatch(t, []string{"read_chain", "set_own_preferences"}, allowed(Owner), "of a chain: its figures, nobody's jobs")
	assert.False(t, Lead.May("fly"))
	for _, k := range kinds {
		assert.Contains(t, Commands(), k.command, k.kind)
	}
}

func TestATraineeReadsAndCountsButDoesNotDecide(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	change := func(by Actor, f func(*Choices)) error {
		c := j.Choices
		f(&c)
		events, err := j.ChangeChoices(j, by, j.now(), fmt.Sprint("c", len(j.Events)), j.ChoicesSeq, c)
		j.Events = append(j.Events, events...)
		return err
	}
	require.NoError(t, j.tell(sunny, &BleedStroked{Wheel: "RR"}))
	require.NoError(t, change(sunny, func(c *Choices) { c.Bleed.StrokeMM = 20 }))
	require.ErrorIs(t, change(sunny, func(c *Choices) { c.Scope = match.BleedOnly }), ErrRole{Decide})
	require.ErrorIs(t, change(sunny, func(c *Choices) { c.Unit = &match.Unit{ID: "x"} }), ErrRole{Decide})
	rate := 1.0
	require.ErrorIs(t, change(mara, func(c *Choices) { c.Costs = &ShopFigures{PerMinute: &rate} }), ErrRole{SetCosts})
	require.NoError(t, change(piet, func(c *Choices) { c.Costs = &ShopFigures{PerMinute: &rate} }))
	in := j.Intake
	in.Pattern = "other"
	_, err := j.ChangeIntake(j, sunny, j.now(), "i", j.IntakeSeq, in)
	require.ErrorIs(t, err, ErrRole{ChangeSystem})
	mine := j.add(t, &BleedStroked{Wheel: "RR"})
	require.ErrorIs(t, j.tell(sunny, &Undone{Of: mine.ID}), ErrRole{UndoOthers})
	require.NoError(t, j.tell(sunny, &Undone{Of: "e0"}), "one's own")
	hv := newJob(t, "hybrid-electro-hydraulic", match.Both)
	hv.doUntil(t, "safe.scan_tool_release")
	require.ErrorIs(t, hv.tell(sunny, &Ticked{Step: "safe.scan_tool_release"}), ErrRole{TickHighVoltage})
	require.NoError(t, hv.tell(mara, &Ticked{Step: "safe.scan_tool_release"}))
	require.ErrorIs(t, hv.tell(sunny, &Ticked{Step: "safe.isolate_high_voltage"}), ErrRole{TickHighVoltage})
}

func TestAnIDMeansOneThing(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	send := func(by Actor, id, data string) ([]Event, error) {
		out, err := j.Append(j, by, j.now(), []In{{ID: id, Kind: KindBleedStroke, At: j.now(), Data: []byte(data)}})
		j.Events = append(j.Events, out...)
		return out, err
	}
	out, err := send(mara, "s", `{"wheel":"RR"}`)
	require.NoError(t, err)
	require.Len(t, out, 1)
	out, err = send(mara, "s", `{"wheel":"RR"}`)
	require.NoError(t, err, "a retry counts once")
	assert.Empty(t, out)
	_, err = send(mara, "s", `{"wheel":"LR"}`)
	require.ErrorIs(t, err, ErrIDTaken, "other contents")
	_, err = send(piet, "s", `{"wheel":"RR"}`)
	require.ErrorIs(t, err, ErrIDTaken, "another person")
	_, err = send(mara, "S", `{"wheel":"LR"}`)
	require.NoError(t, err, "ids that differ by case are two")
	assert.Equal(t, map[string]int{"RR": 1, "LR": 1}, j.State.BleedStrokes)
}

func TestTimesLieInsideTheJobsLife(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	now := began.Add(time.Hour)
	for i, c := range []struct{ at, want time.Time }{
		{time.Date(1970, 1, 1, 0, 0, 0, 0, time.UTC), began}, {time.Time{}, now}, {now.Add(48 * time.Hour), now}, {began.Add(time.Minute), began.Add(time.Minute)},
	} {
		out, err := j.Append(j, mara, now, []In{{ID: fmt.Sprint("t", i), Kind: KindRefill, At: c.at}})
		require.NoError(t, err)
		assert.Equal(t, c.want, out[0].At, c.at)
		assert.Equal(t, now, out[0].StoredAt)
	}
}

func TestWhatWasMovedIsNotRewritten(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	e := j.add(t, &BleedStroked{Wheel: "RR", Strokes: 3, CM3: 4000})
	b := e.Body.(*BleedStroked)
	assert.Less(t, b.CM3, 100.0, "worked out here, whatever the screen says")
	before := j.State.BleedCM3["RR"]
	c := j.Choices
	c.Bleed.Method, c.Bleed.StrokeMM = "vacuum", 5
	events, err := j.ChangeChoices(j, mara, j.now(), "c", j.ChoicesSeq, c)
	require.NoError(t, err)
	j.Events = append(j.Events, events...)
	assert.Equal(t, before, j.State.BleedCM3["RR"])
	assert.Equal(t, before, Replay(j.ID, began, j.Events).State.BleedCM3["RR"])
}

func TestACircuitThatRanDryIsDoneAgain(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	j.add(t, &BleedStroked{Wheel: "LF", Strokes: 5})
	for range 5 {
		j.add(t, &BleedStroked{Wheel: "RR", Strokes: 20})
	}
	v, err := j.Bleed()
	require.NoError(t, err)
	assert.True(t, v.RanDry)
	assert.Equal(t, v.LowestCM3, v.LevelCM3, "what is below the lowest port stays")
	assert.Zero(t, v.Wheels["RR"].CM3, "air from the cylinder on: the wheel starts again")
	assert.Positive(t, v.Wheels["LF"].CM3, "the other circuit was not drawn from")
	g, err := j.Gate()
	require.NoError(t, err)
	found := false
	for _, i := range g.Items {
		found = found || i.ID == "ran_dry" && i.State == "failed"
	}
	assert.True(t, found)
}

func TestEditsLeaveATraceAndMergeFieldByField(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	base, version := j.Intake, j.IntakeSeq
	edit := func(by Actor, version int64, f func(*Intake)) error {
		in := base
		in.System = base.System.Clone()
		f(&in)
		events, err := j.ChangeIntake(j, by, j.now(), fmt.Sprint("i", len(j.Events)), version, in)
		j.Events = append(j.Events, events...)
		return err
	}
	require.NoError(t, edit(mara, version, func(in *Intake) { in.Plate = "A 1"; in.System.MasterCylinder.BoreMM = 25.4 }))
	changed := j.Events[len(j.Events)-1]
	assert.Equal(t, mara, changed.By)
	var paths []string
	for _, c := range changed.Body.(*IntakeChanged).Changes {
		paths = append(paths, c.Path)
	}
	assert.Equal(t, []string{"/plate", "/system/master_cylinder/bore_mm"}, paths)
	assert.JSONEq(t, `26.9875`, string(changed.Body.(*IntakeChanged).Changes[1].From), "what was before")
	// Piet began from the same page and touches other fields: both stay.
	require.NoError(t, edit(piet, version, func(in *Intake) { in.Customer = "Hollin"; in.System.Pedal.Ratio = 4.2 }))
	assert.Equal(t, "A 1", j.Intake.Plate)
	assert.Equal(t, 25.4, j.Intake.System.MasterCylinder.BoreMM)
	assert.Equal(t, 4.2, j.Intake.System.Pedal.Ratio)
	// The same field, otherwise: told, nothing stored.
	var stale ErrStale
	require.ErrorAs(t, edit(piet, version, func(in *Intake) { in.Plate = "B 2" }), &stale)
	assert.Equal(t, "/plate", stale.Clashes[0].Path)
	require.ErrorIs(t, edit(piet, j.IntakeSeq, func(in *Intake) { *in = j.Intake }), ErrNothing)
	require.ErrorAs(t, edit(piet, j.IntakeSeq+5, func(*Intake) {}), &stale, "a version there never was")
	assert.Equal(t, j.Intake, Replay(j.ID, began, j.Events).Intake)
}

func TestChangingTheSystemKeepsWhatStillMakesSense(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.BoosterAside)
	bore, rate := 26.9875, 2.5
	c := j.Choices
	c.Old, c.Own = &match.Unit{ID: "old", BoreMM: &bore}, &match.Unit{ID: "own", BoreMM: &bore}
	c.Booster = &match.Unit{ID: "b", Kind: match.VacuumBooster}
	c.Bottle = Bottle{Class: "DOT 4", OpenedAt: "2026-10-01"}
	c.Costs = &ShopFigures{PerMinute: &rate}
	events, err := j.ChangeChoices(j, piet, j.now(), "c", j.ChoicesSeq, c)
	require.NoError(t, err)
	j.Events = append(j.Events, events...)
	in := j.Intake
	in.Pattern = "trailer-surge"
	in.System, err = system.FromPattern(in.Pattern)
	require.NoError(t, err)
	events, err = j.ChangeIntake(j, mara, j.now(), "i", j.IntakeSeq, in)
	require.NoError(t, err)
	require.Len(t, events, 2)
	assert.Equal(t, match.CylinderOnly, j.Choices.Scope)
	assert.Nil(t, j.Choices.Booster)
	assert.Equal(t, "own", j.Choices.Own.ID)
	assert.Equal(t, "DOT 4", j.Choices.Bottle.Class)
	assert.Equal(t, rate, *j.Choices.Costs.PerMinute)
	assert.Contains(t, j.State.Dropped, "/scope")
	assert.Contains(t, j.State.Dropped, "/booster")
	assert.NotContains(t, strings.Join(j.State.Dropped, " "), "/costs")
	require.NoError(t, CheckChoices(j.Intake.System, &j.Choices))
}

// A stroke folded onto the kept view comes to the same as the whole log folded anew, over random work.
func TestIncrementalFoldIsTheWholeFold(t *testing.T) {
	for seed := range uint64(6) {
		r := rand.New(rand.NewPCG(seed, 9))
		j := newJob(t, system.Patterns[int(seed)%len(system.Patterns)].ID, match.CylinderOnly)
		people := []Actor{mara, piet, sunny}
		for range 120 {
			wheel := j.Intake.System.Wheels[r.IntN(len(j.Intake.System.Wheels))].ID
			by := people[r.IntN(3)]
			bodies := []Body{
				&BleedStroked{Wheel: wheel, Strokes: r.IntN(8)},
				&Filled{},
				&WheelSeen{Wheel: wheel},
				&BenchStroked{Strokes: r.IntN(4)},
				&VolumeMoved{Wheel: wheel, VolumeCM3: r.Float64() * 90},
				&FindingMade{
					Phase:   PhaseDiagnose,
					Finding: "fluid.water_percent",
					Value:   json.RawMessage(fmt.Sprintf("%.2f", r.Float64()*4)),
				},
				&Ticked{Step: "prepare.chock"},
				&Noted{Text: "n"},
				&Undone{Of: j.Events[r.IntN(len(j.Events))].ID},
			}
			_ = j.tell(by, bodies[r.IntN(len(bodies))]) // refusals change nothing, which is held below too
			if r.IntN(10) == 0 {
				c := j.Choices
				c.Bleed.OldFraction = 0.02 + 0.4*r.Float64()
				if events, err := j.ChangeChoices(j, mara, j.now(), fmt.Sprint("c", len(j.Events)), j.ChoicesSeq, c); err == nil {
					j.Events = append(j.Events, events...)
				}
			}
			kept, err := json.Marshal(j.View())
			require.NoError(t, err)
			back, err := ReadView(kept)
			require.NoError(t, err)
			again, err := json.Marshal(Replay(j.ID, began, j.Events).View())
			require.NoError(t, err)
			require.JSONEq(t, string(again), string(kept), "seed %d", seed)
			third, _ := json.Marshal(back.View())
			require.JSONEq(t, string(kept), string(third))
		}
	}
	old := []byte(`{"fold":0}`)
	_, err := ReadView(old)
	require.ErrorIs(t, err, ErrOldFold)
}

func TestAFileFromElsewhereReleasesNothing(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	passGate(t, j)
	events, err := j.Release(mara, j.now(), "rel")
	require.NoError(t, err)
	raw, err := WriteFile(j.Job, append(j.Events, events...))
	require.NoError(t, err)
	now := j.now().Add(time.Hour)
	f, err := ReadFile(raw, now)
	require.NoError(t, err)
	_, _, err = BringIn(sunny, now, f, "here", "in")
	require.ErrorIs(t, err, ErrRole{BringJobIn})
	in, log, err := BringIn(piet, now, f, "here", "in")
	require.NoError(t, err)
	assert.Nil(t, in.State.ReleasedAt)
	assert.Equal(t, StandsHistory, in.Status().Standing)
	require.NotNil(t, in.State.History)
	assert.NotNil(t, in.State.History.ReleasedAt, "shown as the file's claim")
	assert.Equal(t, "Mara", in.State.History.ReleasedBy)
	g, err := in.Gate()
	require.NoError(t, err)
	assert.False(t, g.Passable)
	assert.Empty(t, in.State.Ticks)
	for _, e := range log[:len(log)-1] {
		assert.True(t, e.By.Elsewhere, "names are as the file says")
		assert.Empty(t, e.By.ID)
	}
	assert.Equal(t, piet, log[len(log)-1].By)
	// Nothing of it is undone from here, and it goes out and comes in again.
	book := &Book{in, log}
	assert.ErrorContains(t, book.Tell(piet, now, "u", KindUndo, Undone{Of: "e3"}), "fault.not_undone")
	raw, err = WriteFile(in, log)
	require.NoError(t, err)
	f, err = ReadFile(raw, now)
	require.NoError(t, err)
	twice, _, err := BringIn(piet, now, f, "there", "in2")
	require.NoError(t, err)
	assert.Nil(t, twice.State.ReleasedAt)
}

func TestHostileFilesAreRefusedWithTheirPaths(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	j.add(t, &BleedStroked{Wheel: "RR"})
	now := j.now()
	good, err := WriteFile(j.Job, j.Events)
	require.NoError(t, err)
	_, err = ReadFile(good, now)
	require.NoError(t, err)
	change := func(f func(m map[string]any, events []any)) []byte {
		var m map[string]any
		require.NoError(t, json.Unmarshal(good, &m))
		events := m["events"].([]any)
		f(m, events)
		raw, _ := json.Marshal(m)
		return raw
	}
	event := func(i int, f func(e map[string]any)) func(map[string]any, []any) {
		return func(_ map[string]any, events []any) { f(events[i].(map[string]any)) }
	}
	data := func(i int, key string, v any) func(map[string]any, []any) {
		return event(i, func(e map[string]any) { e["data"].(map[string]any)[key] = v })
	}
	for name, c := range map[string]struct {
		file []byte
		path string
	}{
		"format":         {change(func(m map[string]any, _ []any) { m["format"] = "other" }), "$.format"},
		"a long id":      {change(func(m map[string]any, _ []any) { m["id"] = strings.Repeat("x", 999) }), "$.id"},
		"year 0":         {change(func(m map[string]any, _ []any) { m["created_at"] = "0000-01-01T00:00:00Z" }), "$.created_at"},
		"the future":     {change(event(1, func(e map[string]any) { e["at"] = "2099-01-01T00:00:00Z" })), "$.events[1].at"},
		"before it was":  {change(event(1, func(e map[string]any) { e["at"] = "1970-01-01T00:00:00Z" })), "$.events[1].at"},
		"an ocean":       {change(data(1, "cm3", 1e308)), "$.events[1].data.cm3"},
		"many strokes":   {change(data(1, "strokes", 9e15)), "$.events[1].data.strokes"},
		"minus strokes":  {change(data(1, "strokes", -4)), "$.events[1].data.strokes"},
		"unknown kind":   {change(event(1, func(e map[string]any) { e["kind"] = strings.Repeat("k", 4000) })), "$.events[1].kind"},
		"unknown field":  {change(data(1, "surprise", 1)), "$.events[1].data"},
		"an id twice":    {change(event(1, func(e map[string]any) { e["id"] = "open" })), "$.events[1].id"},
		"a long name":    {change(event(1, func(e map[string]any) { e["by"].(map[string]any)["name"] = strings.Repeat("n", 999) })), "$.events[1].by.name"},
		"a bent system":  {change(func(_ map[string]any, ev []any) { bend(ev, "bore_mm", -5) }), "$.events[0].data.intake.system.master_cylinder.bore_mm"},
		"no beginning":   {change(func(m map[string]any, ev []any) { m["events"] = ev[1:] }), "$.events[0].kind"},
		"two beginnings": {change(func(m map[string]any, ev []any) { m["events"] = append(ev, rename(ev[0])) }), "$.events[2].kind"},
		"no events":      {change(func(m map[string]any, _ []any) { m["events"] = []any{} }), "$.events"},
		"a vehicle patched away": {
			change(func(m map[string]any, ev []any) {
				m["events"] = append(ev, map[string]any{"id": "p", "seq": 3, "kind": "intake_changed", "at": now, "stored_at": now, "by": map[string]any{"id": "", "name": "x", "role": ""},
					"data": map[string]any{"changes": []any{map[string]any{"path": "/system/master_cylinder/bore_mm", "to": 1e300}}}})
			}),
			"$.intake.system.master_cylinder.bore_mm",
		},
		"nothing":         {nil, "$"},
		"half":            {good[:len(good)/2], "$"},
		"something after": {append(slices.Clone(good), 'x'), "$"},
	} {
		_, err := ReadFile(c.file, now)
		var f system.Faults
		require.ErrorAs(t, err, &f, name)
		var paths []string
		for _, x := range f {
			paths = append(paths, x.Path)
		}
		assert.Contains(t, paths, c.path, name)
	}
}

func bend(events []any, key string, v any) {
	intake := events[0].(map[string]any)["data"].(map[string]any)["intake"].(map[string]any)
	intake["system"].(map[string]any)["master_cylinder"].(map[string]any)[key] = v
}

func rename(e any) any {
	m := map[string]any{}
	for k, v := range e.(map[string]any) {
		m[k] = v
	}
	m["id"] = "again"
	return m
}

func TestOldHostileFilesAreRefusedOrTamed(t *testing.T) {
	for name, data := range map[string]string{
		"an ocean":      `{"wheel":"RR","volume_cm3":1e308}`,
		"minus strokes": `{"wheel":"RR","strokes":-1}`,
	} {
		_, err := ReadFile(old1(`{"id":"a","kind":"bleed_volume","at":"2026-11-01T09:00:00Z","by":"x","data":`+data+`}`),
			began.Add(48*time.Hour))
		if strings.Contains(data, "strokes") {
			_, err = ReadFile(old1(`{"id":"a","kind":"bleed_stroke","at":"2026-11-01T09:00:00Z","by":"x","data":`+data+`}`),
				began.Add(48*time.Hour))
		}
		assert.Error(t, err, name)
	}
	f, err := ReadFile(old1(`{"id":"a","kind":"refill","at":"1970-01-01T00:00:00Z","by":"x","data":{}}`), began.Add(48*time.Hour))
	require.NoError(t, err, "the old program let any clock pass")
	assert.Equal(t, began, f.Events[1].At)
}

func old1(events string) []byte {
	s, _ := system.FromPattern("pickup-front-rear-vacuum")
	in, _ := json.Marshal(Intake{Vehicle: "V", Pattern: "pickup-front-rear-vacuum", System: s})
	c, _ := json.Marshal(DefaultChoices(s))
	return fmt.Appendf(nil, `{"format":"geminate.job/1","id":"o","created_at":%q,"intake":%s,"choices":%s,"events":[%s]}`,
		began.Format(time.RFC3339), in, c, events)
}

func FuzzReadFile(f *testing.F) {
	s, _ := system.FromPattern("trailer-surge")
	b, _ := OpenBook(mara, began, Opening{ID: "j", EventID: "o", Intake: Intake{Vehicle: "V", Pattern: "trailer-surge", System: s}})
	raw, _ := WriteFile(b.Job, b.Events)
	f.Add(raw)
	f.Add(old1(`{"id":"a","kind":"undo","at":"2026-11-01T09:00:00Z","by":"x","data":{"of":"a"}}`))
	f.Fuzz(func(t *testing.T, doc []byte) {
		file, err := ReadFile(doc, began.Add(time.Hour))
		if err != nil {
			return
		}
		j, _, err := BringIn(piet, began.Add(time.Hour), file, "here", "in")
		require.NoError(t, err)
		if j.State.ReleasedAt != nil {
			t.Fatal("released by a file")
		}
		if _, err := json.Marshal(j.View()); err != nil && !errors.Is(err, nil) {
			t.Fatal(err)
		}
	})
}
