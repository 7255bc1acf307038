package thirty_test

import (
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/job"
	"geminate/ground/practice"
	"geminate/ground/practice/thirty"
	"geminate/ground/proving"
)

// walk works an exercise the engine's own way through the bay, told and done as it went, and gives the bay and the job
// at the end.
func walk(t *testing.T, b *practice.Bay, change func(int, proving.Act) []proving.Act) *job.Job {
	t.Helper()
	c, err := b.OwnWay(t.Context())
	require.NoError(t, err)
	all := c.Outcome.Book.Events
	from := 0
	handed, err := b.Handed(t.Context())
	require.NoError(t, err)
	book := &job.Book{Job: job.Replay("x", c.Outcome.Book.CreatedAt, all[:1]), Events: slices.Clone(all[:1])}
	if handed != nil {
		from = c.HalfActs
		require.NoError(t, book.Forward(all, c.HalfHead))
	}
	for n, a := range c.Acts[from:] {
		require.NoError(t, book.Forward(all, a.Head))
		for _, x := range change(n, a.Act) {
			if _, err := b.Do(book.Job, x); err != nil {
				require.ErrorIs(t, err, practice.ErrStopped)
			}
		}
	}
	require.NoError(t, book.Forward(all, int64(len(all))))
	return book.Job
}

func asItIs(_ int, a proving.Act) []proving.Act { return []proving.Act{a} }

// ended is a walk's end.
func ended(t *testing.T, b *practice.Bay, j *job.Job) *practice.Result {
	t.Helper()
	c, err := b.OwnWay(t.Context())
	require.NoError(t, err)
	r, err := b.End(t.Context(), j, c.Outcome.Book.Events)
	require.NoError(t, err)
	return r
}

func opened(t *testing.T, id practice.ID) *practice.Bay {
	t.Helper()
	b, err := thirty.Open(id, "", "", 0)
	require.NoError(t, err)
	return b
}

// Worked as the product says, every exercise goes out right with full marks, by its own vehicle and by nobody's word;
// what was seen is what was seen the first time.
func TestEveryExerciseCanBeWorkedRight(t *testing.T) {
	assert.Len(t, thirty.Exercises, 30)
	for i := range thirty.Exercises {
		ex := &thirty.Exercises[i]
		t.Run(string(ex.ID), func(t *testing.T) {
			t.Parallel()
			b := opened(t, ex.ID)
			r := ended(t, b, walk(t, b, asItIs))
			assert.True(t, r.Right, "%+v", r.Ninety)
			assert.Equal(t, 100.0, r.Total, "%+v %+v %+v", r.Marks, r.Yours, r.Engine)
			assert.InDelta(t, r.Engine.Minutes, r.Yours.Minutes, 3, "the same acts take the same minutes, give or take a hand")
			assert.Empty(t, r.Sound)
			assert.Len(t, r.Way, len(b.Did))
			assert.NotEmpty(t, r.Own)
		})
	}
}

// mistakes are what each exercise is about, made on purpose on the engine's own way: which acts are left out or done
// otherwise, what is done besides at the end, and what the end names.
var mistakes = map[practice.ID]struct {
	leave []string // of steps, tests or doings
	other func(proving.Act) proving.Act
	more  []proving.Act
	named string
}{
	"finding_1":   {more: fitCylinder, named: "sound:master_cylinder"},
	"finding_2":   {leave: []string{"unit"}, named: "fault_left"},
	"finding_3":   {leave: []string{"mend", "repair"}, more: fitCylinder, named: "sound:master_cylinder"},
	"finding_4":   {leave: []string{"unit"}, named: "fault_left"},
	"finding_5":   {more: fitCylinder, named: "sound:master_cylinder"},
	"finding_6":   {leave: []string{"mend", "repair"}, named: "fault_left"},
	"finding_7":   {leave: []string{"mend", "repair", "rod.measure", "rod.touch_and_turn", "rod.compare"}, named: "fault_left"},
	"finding_8":   {leave: []string{"mend", "repair"}, named: "fault_left"},
	"finding_9":   {leave: []string{"unit"}, named: "fault_left"},
	"deciding_1":  {more: fitCylinder, named: "sound:master_cylinder"},
	"deciding_2":  {more: fitCylinder, named: "sound:master_cylinder"},
	"deciding_3":  {leave: []string{"fit.firewall_nuts"}, named: "unit_loose"},
	"deciding_4":  {leave: []string{"mend", "repair"}, named: "fault_left"},
	"deciding_5":  {leave: []string{"stroke", "draw", "fill", "empty", "push"}, named: "fault_left"},
	"choosing_1":  {leave: []string{"prepare.compare_on_bench"}, named: "look_alike_fitted"},
	"choosing_2":  {leave: []string{"prepare.compare_on_bench"}, named: "look_alike_fitted"},
	"choosing_3":  {leave: []string{"prepare.compare_on_bench"}, named: "look_alike_fitted"},
	"doing_1":     {leave: []string{"fit.check_valve_hose"}, named: "no_assist"},
	"doing_2":     {leave: []string{"safe.pump_empty", "safe.discharge_accumulator", "safe.engine_off"}, named: "stopped:jet"},
	"doing_3":     {leave: []string{"safe.isolate_high_voltage"}, named: "stopped:shock"},
	"doing_4":     {leave: []string{"fit.shoe_and_rod"}, named: "pedal_off"},
	"doing_5":     {leave: []string{"fill"}, named: "runs_low"},
	"doing_6":     {other: inchPounds, named: "unit_loose"},
	"doing_7":     {more: []proving.Act{{Do: proving.DoExchange}}, named: "lines_crossed"},
	"bleeding_1":  {other: slack, named: "joint_leaks"},
	"bleeding_2":  {leave: []string{"fill"}, named: "ran_dry"},
	"bleeding_3":  {leave: []string{"routine"}, named: "fault_left"},
	"verifying_1": {leave: everything, named: "joint_leaks"},
	"verifying_2": {leave: everything, named: "unit_loose"},
	"verifying_3": {leave: everything, named: "no_assist"},
}

var (
	fitCylinder = []proving.Act{
		{Do: proving.DoUnit, ID: proving.UnitCylinder},
		{Do: proving.DoBench, N: 12},
		{Do: proving.DoStep, ID: "fit.cylinder_nuts", NM: 26},
	}
	everything = []string{"*"}
)

func inchPounds(a proving.Act) proving.Act {
	if a.ID == "fit.cylinder_nuts" {
		a.NM /= 8.85
	}
	return a
}

func slack(a proving.Act) proving.Act {
	if a.ID == "close.bleeder_screws" {
		a.NM = 2
	}
	return a
}

// Each exercise's mistake, made on purpose, is named in the end, and costs marks.
func TestEveryMistakeIsNamed(t *testing.T) {
	for i := range thirty.Exercises {
		id := thirty.Exercises[i].ID
		t.Run(string(id), func(t *testing.T) {
			t.Parallel()
			m, known := mistakes[id]
			require.True(t, known)
			b := opened(t, id)
			j := walk(t, b, func(_ int, a proving.Act) []proving.Act {
				if slices.Contains(m.leave, string(a.Do)) || slices.Contains(m.leave, a.ID) && a.ID != "" || slices.Contains(m.leave, "*") {
					return nil
				}
				if m.other != nil {
					a = m.other(a)
				}
				return []proving.Act{a}
			})
			for _, a := range m.more {
				_, err := b.Do(j, a)
				require.NoError(t, err)
			}
			r := ended(t, b, j)
			named := []string{"stopped:" + r.Stopped}
			for _, l := range append(slices.Clone(r.Ninety), r.Unsafe...) {
				named = append(named, l.What)
			}
			for _, u := range r.Sound {
				named = append(named, "sound:"+u)
			}
			assert.Contains(t, named, m.named)
			assert.Less(t, r.Total, 100.0)
			assert.NotEmpty(t, r.Dear)
		})
	}
}

// Put away and taken up again, a vehicle is as it was; the same seed is the same vehicle; another is another.
func TestAVehicleIsTakenUpAgain(t *testing.T) {
	b := opened(t, "finding_2")
	j := walk(t, b, asItIs)
	c, err := b.OwnWay(t.Context())
	require.NoError(t, err)
	again := opened(t, "finding_2")
	require.NoError(t, again.Again(j, c.Outcome.Book.Events, b.Did))
	assert.Equal(t, b.Stands(), again.Stands())
	assert.Equal(t, b.Last(), again.Last())
	one, err := thirty.Open(practice.Free, "truck-hydraulic", "", 4711)
	require.NoError(t, err)
	two, err := thirty.Open(practice.Free, "truck-hydraulic", "", 4711)
	require.NoError(t, err)
	assert.Equal(t, one.Truth(), two.Truth())
	assert.Equal(t, one.Reports(), two.Reports())
}

// Free practice is as hard as it was asked for, the same number the same vehicle at each.
func TestFreePracticeIsAsHardAsAsked(t *testing.T) {
	many := map[job.Hardness][]int{}
	for seed := uint64(1); seed <= 12; seed++ {
		for _, h := range job.Hardnesses {
			b, err := thirty.Open(practice.Free, "pickup-front-rear-vacuum", h, seed)
			require.NoError(t, err)
			many[h] = append(many[h], len(b.Truth()))
		}
	}
	for i := range many[job.Plain] {
		assert.Equal(t, 1, many[job.Plain][i])
		assert.Greater(t, many[job.Hard][i], 1)
	}
	assert.Subset(t, many[job.Usual], []int{1, 2}, "as they come")
	_, err := thirty.Open(practice.Free, "no such", "", 1)
	require.Error(t, err)
	_, err = thirty.Open(practice.Free, "truck-hydraulic", "cruel", 1)
	require.Error(t, err)
}

// What cannot be done is refused with a word, and nothing is done.
func TestWhatCannotBeDoneIsRefused(t *testing.T) {
	b := opened(t, "finding_2")
	c, err := b.OwnWay(t.Context())
	require.NoError(t, err)
	before := b.Stands()
	big := 1e9
	for _, a := range []proving.Act{{}, {Do: "fly"}, {Do: proving.DoTest, ID: "no such test"}, {Do: proving.DoStroke, At: "moon", N: 3}, {Do: proving.DoStroke, At: "LF"}, {Do: proving.DoDraw, At: "LF"},
		{Do: proving.DoPress, Value: &big}, {Do: proving.DoStep, ID: "fit.line_nuts", NM: -4}, {Do: proving.DoMend, Places: []string{"engine"}}} {
		_, err := b.Do(c.Outcome.Book.Job, a)
		require.Error(t, err, "%+v", a)
	}
	assert.Equal(t, before, b.Stands())
}

func line(what, of, kind string) practice.Line {
	return practice.Line{What: what, Of: of, Kind: kind}
}

// Three ends held against the truth, worked out by hand. A leaking primary cup nobody touched: it leaks still, and that
// is all; it can take the brakes away, so it is unsafe. A sound car with a new cylinder put on dry, its two nuts right:
// the reservoir's air lies in its chambers and takes the pedal, the cylinder was sound. A finished pickup signed as it
// stands: the slack bleeder weeps, the plug lights no lamp, the finger-tight unit works loose, and so do the road
// wheels, which whoever signs does up last.
func TestThreeEndsByHand(t *testing.T) {
	untouched := opened(t, "finding_2")
	c, err := untouched.OwnWay(t.Context())
	require.NoError(t, err)
	begun := c.Outcome.Book.Events[:1]
	end := func(b *practice.Bay, log []job.Event) *practice.Result {
		r, err := b.End(t.Context(), job.Replay("x", c.Outcome.Book.CreatedAt, log), log)
		require.NoError(t, err)
		return r
	}
	assert.Equal(t, []practice.Line{line("fault_left", "mc.primary_cup_bypass", "unsafe")}, end(untouched, begun).Ninety)

	sound := opened(t, "finding_1")
	j := job.Replay("x", c.Outcome.Book.CreatedAt, begun)
	for _, a := range []proving.Act{{Do: proving.DoUnit, ID: proving.UnitCylinder}, {Do: proving.DoStep, ID: "fit.cylinder_nuts", NM: 26}} {
		_, err := sound.Do(j, a)
		require.NoError(t, err)
	}
	r := end(sound, begun)
	assert.Equal(t, []string{"master_cylinder"}, r.Sound)
	assert.Equal(t, []practice.Line{line("air_takes_the_pedal", "", "unsafe")}, r.Ninety)

	signed := opened(t, "verifying_1")
	_, err = signed.Handed(t.Context())
	require.NoError(t, err)
	got := end(signed, begun).Ninety
	assert.ElementsMatch(
		t,
		[]practice.Line{
			line("joint_leaks", "bleeder:LR", "unsafe"),
			line("unit_loose", "cylinder", "unsafe"),
			line("wheel_loose", "road_wheels", "unsafe"),
			line("lamp_out", "sensor_plug", "comes_back"),
		},
		got,
	)

	// The engine's own way ends knowing what it was among what it may be: this one shows signs of a short rod as well.
	own := end(opened(t, "finding_2"), begun).Own
	last := own[len(own)-1]
	assert.True(t,
		slices.ContainsFunc(last.Knew, func(k practice.Believed) bool { return k.ID == "mc.primary_cup_bypass" && k.P > 0.3 }),
		"%+v", last.Knew)
	for i := range own[1:] {
		assert.GreaterOrEqual(t, own[i+1].Minute, own[i].Minute)
	}
}

// told gives the end of an exercise whose log says all that the engine's own way told, with only those acts done that
// do lets through.
func toldAll(t *testing.T, id practice.ID, do func(proving.Act) bool) *practice.Result {
	t.Helper()
	b := opened(t, id)
	return ended(t, b, walk(t, b, func(_ int, a proving.Act) []proving.Act {
		if !do(a) {
			return nil
		}
		return []proving.Act{a}
	}))
}

// A mark has to be earned: what is told and not done shows nothing. No way without work comes above 20, a vehicle let
// go that would hurt somebody above 30, work on nothing found above 60.
func TestNoMarkWithoutWork(t *testing.T) {
	for i := range thirty.Exercises {
		ex := &thirty.Exercises[i]
		t.Run(string(ex.ID), func(t *testing.T) {
			t.Parallel()
			nothing := toldAll(t, ex.ID, func(proving.Act) bool { return false })
			assert.LessOrEqual(t, nothing.Total, 20.0, "all told, nothing done: %+v", nothing.Marks)
			assert.False(t, nothing.Certified)
			started := toldAll(t, ex.ID, func(a proving.Act) bool { return a.Do == proving.DoEngine || a.Do == proving.DoPress })
			assert.LessOrEqual(t, started.Total, 20.0, "the engine started: %+v", started.Marks)
			idle := ended(t, opened(t, ex.ID), job.Replay("x", time.Now(), nil))
			assert.LessOrEqual(t, idle.Total, 20.0, "ended at once: %+v", idle.Marks)
		})
	}
}

// Ways of having a mark without what it is for, on a vehicle with a fault in each step.
func TestWaysOfGamingAMark(t *testing.T) {
	is := func(do ...proving.Doing) func(proving.Act) bool {
		return func(a proving.Act) bool { return slices.Contains(do, a.Do) }
	}
	not := func(f func(proving.Act) bool) func(proving.Act) bool {
		return func(a proving.Act) bool { return !f(a) }
	}
	line := func(r *practice.Result, id practice.MarkID) float64 {
		for _, m := range r.Marks {
			if m.ID == id {
				return m.Got
			}
		}
		return -1
	}
	for _, id := range []practice.ID{"finding_2", "deciding_2", "doing_1"} {
		t.Run(string(id), func(t *testing.T) {
			t.Parallel()
			whole := toldAll(t, id, func(proving.Act) bool { return true })
			untested := toldAll(t, id, not(is(proving.DoTest, proving.DoLook)))
			assert.Less(t, line(untested, practice.MarkFound), line(whole, practice.MarkFound),
				"readings told and never taken are no finding")
			unproven := toldAll(t, id, not(is(proving.DoRead)))
			// A look beside the gate is a test, and is taken here: of all that was told it alone is shown.
			assert.LessOrEqual(t, line(unproven, practice.MarkProven), 1.0, "a release check that was made up: %+v", unproven.Marks)
			tested := toldAll(t, id, is(proving.DoTest, proving.DoLook))
			assert.Zero(t, line(tested, practice.MarkDone), "found, and then only told")
			if tested.Released && slices.ContainsFunc(tested.Ninety, func(l practice.Line) bool { return l.Kind == "unsafe" }) {
				assert.LessOrEqual(t, tested.Total, 30.0)
				assert.Equal(t, practice.CapUnsafe, tested.Capped)
			}
			skipped := toldAll(t, id, not(func(a proving.Act) bool { return a.Do == proving.DoStep && a.ID == "prepare.chock" }))
			assert.Less(t, line(skipped, practice.MarkDone), line(whole, practice.MarkDone), "a step told and not done")
		})
	}
}
