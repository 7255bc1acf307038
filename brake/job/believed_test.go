package job

import (
	"encoding/json"
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/bleed"
	"geminate/brake/match"
	"geminate/brake/plan"
	"geminate/brake/stand"
	"geminate/brake/system"
	"geminate/brake/verify"
)

// What is believed done: each of these sequences was once released. They are made as a screen would, against a job that
// would have been let go, and none may be; the same job is let go again once what the slip undid has been done.

// choose edits the choices as a screen would.
func (j *testJob) choose(t *testing.T, change func(*Choices)) {
	t.Helper()
	c := j.Choices
	change(&c)
	j.n++
	events, err := j.ChangeChoices(j, mara, j.now(), fmt.Sprintf("c%d", j.n), j.ChoicesSeq, c)
	require.NoError(t, err)
	j.Events = append(j.Events, events...)
}

func (j *testJob) passes(t *testing.T) bool {
	t.Helper()
	g, err := j.Gate()
	require.NoError(t, err)
	return g.Passable
}

// state gives an item of the gate, "" where it is not asked.
func (j *testJob) item(t *testing.T, id string) verify.Item {
	t.Helper()
	g, err := j.Gate()
	require.NoError(t, err)
	for _, i := range g.Items {
		if i.ID == id {
			return i
		}
	}
	return verify.Item{}
}

// left are the steps of the plan that stand open.
func (j *testJob) left(t *testing.T) []string {
	t.Helper()
	v, err := j.Replace()
	require.NoError(t, err)
	return v.Open
}

func otherUnit(t *testing.T, j *testJob) *match.Unit {
	t.Helper()
	u := match.FromSystem(j.Intake.System)
	u.ID, u.Number, u.ResidualMPA = "other", "S 2", f(0)
	return &u
}

func TestWhatIsBelievedDone(t *testing.T) {
	pickup := func(scope match.Scope) func(t *testing.T) *testJob {
		return func(t *testing.T) *testJob { return newJob(t, "pickup-front-rear-vacuum", scope) }
	}
	schools := func(j *testJob, t *testing.T, s map[plan.School]string) {
		t.Helper()
		require.NoError(t, j.joined(mara, func(x *JointSetup) { x.Schools = s }))
	}
	for name, c := range map[string]struct {
		job  func(t *testing.T) *testJob
		slip func(t *testing.T, j *testJob)
		asks []string // steps or items that stand open then, among others
	}{
		"a wheel opened again for bubbles": {pickup(match.BleedOnly), func(t *testing.T, j *testJob) { j.add(t, &WheelAgain{Wheel: "RR"}) }, []string{"close.bleed", "bleed"}},
		"bubbles seen at the end":          {pickup(match.BleedOnly), func(t *testing.T, j *testJob) { j.add(t, &WheelSeen{Wheel: "RR", Done: no()}) }, []string{"close.bleed"}},
		"a foot that came up":              {pickup(match.BleedOnly), func(t *testing.T, j *testJob) { j.add(t, &OpeningLost{Wheel: "LF"}) }, []string{"close.bleed"}},
		"run dry in a second round": {
			pickup(match.BleedOnly),
			func(t *testing.T, j *testJob) {
				j.wait += 300
				j.add(t, &BleedStroked{Wheel: "RR", Strokes: 100})
				j.wait += 300
				j.add(t, &BleedStroked{Wheel: "RR", Strokes: 100})
			},
			[]string{"close.bleed", "ran_dry"},
		},
		"a bleeder opened after its torque": {pickup(match.BleedOnly), func(t *testing.T, j *testJob) { j.add(t, &BleedStroked{Wheel: "RR"}) }, []string{"close.bleeder_screws"}},
		"lines off again after the bleed": {
			pickup(match.CylinderOnly),
			func(t *testing.T, j *testJob) {
				j.add(t, &Ticked{Step: "safe.engine_off"})
				j.add(t, &Ticked{Step: "safe.pump_empty"})
				j.add(t, &Ticked{Step: "safe.empty_reservoir"})
				j.add(t, &Ticked{Step: "strip.lines_off"})
			},
			[]string{"fit.line_nuts", "close.fill", "close.bleed"},
		},
		"the cylinder off again": {
			pickup(match.CylinderOnly),
			func(t *testing.T, j *testJob) {
				j.add(t, &Ticked{Step: "safe.engine_off"})
				j.add(t, &Ticked{Step: "safe.pump_empty"})
				for _, step := range []string{"safe.empty_reservoir", "strip.lines_off"} {
					j.add(t, &Ticked{Step: step})
				}
				var gate ErrGate
				require.ErrorAs(t, j.tell(mara, &Ticked{Step: "strip.cylinder_off"}), &gate, "the second time as the first")
				require.Equal(t, []string{"strip.sensor_plug"}, gate.Missing)
				j.add(t, &Ticked{Step: "strip.sensor_plug"})
				j.add(t, &Ticked{Step: "strip.cylinder_off"})
			},
			[]string{"fit.cylinder_nuts", "fit.face_seal", "fit.line_nuts", "fit.sensor_plug"},
		},
		"another unit after the work": {
			pickup(match.CylinderOnly),
			func(t *testing.T, j *testJob) {
				other := otherUnit(t, j)
				j.choose(t, func(c *Choices) { c.Unit = other })
			},
			[]string{"prepare.compare_on_bench", "fit.bench_bled", "rod.measure", "strip.lines_off", "strip.cylinder_off", "fit.cylinder_nuts"},
		},
		"the bleed put off and the school kept": {
			pickup(match.CylinderOnly),
			func(t *testing.T, j *testJob) {
				schools(j, t, map[plan.School]string{plan.BleedWhen: plan.BleedPutOff})
			},
			[]string{"put_off"},
		},
		"a wheel left undone, then gone from the system": {
			pickup(match.BleedOnly),
			func(t *testing.T, j *testJob) {
				j.add(t, &WheelLeft{Wheel: "RR", Why: LeftSeized})
				in := j.Intake
				s := in.System.Clone()
				s.Wheels = s.Wheels[:3]
				for i := range s.Circuits {
					s.Circuits[i].Wheels = filter(s.Circuits[i].Wheels, "RR")
				}
				in.System = s
				events, err := j.ChangeIntake(j, piet, j.now(), "sys", j.IntakeSeq, in)
				require.NoError(t, err)
				j.Events = append(j.Events, events...)
			},
			[]string{"wheels_gone"},
		},
		"the maker's range typed after the figure": {
			pickup(match.CylinderOnly),
			func(t *testing.T, j *testJob) {
				require.NoError(t, j.joined(mara, func(s *JointSetup) { s.Torques = map[string]MakerTorque{"fit.cylinder_nuts": {55, 65}} }))
			},
			[]string{"fit.cylinder_nuts", "torque"},
		},
		"parked":                      {pickup(match.BleedOnly), func(t *testing.T, j *testJob) { j.add(t, &Parked{Why: []ParkReason{ParkPart}}) }, []string{"parked"}},
		"a reservoir drawn off again": {pickup(match.BleedOnly), func(t *testing.T, j *testJob) { j.add(t, &DrawnOff{}) }, []string{"level"}},
		"a hold that failed, then one that says otherwise": {
			pickup(match.BleedOnly),
			func(t *testing.T, j *testJob) {
				j.wait += 60
				j.reads(t, "pedal.sink", `{"pedal_force_n":450,"travel_mm":8,"seconds":60,"engine":"on"}`, nil)
				j.wait += 60
				j.reads(t, "pedal.sink", `{"pedal_force_n":450,"travel_mm":0.5,"seconds":60,"engine":"on"}`, nil)
			},
			[]string{"pedal.sink"},
		},
		"a hold that failed, and was undone": {
			pickup(match.BleedOnly),
			func(t *testing.T, j *testJob) {
				j.wait += 60
				e := j.add(t, &FindingMade{Phase: PhaseVerify, Finding: "pedal.sink", Value: json.RawMessage(`{"pedal_force_n":450,"travel_mm":8,"seconds":60,"engine":"on"}`)})
				j.add(t, &Undone{Of: e.ID})
			},
			[]string{"pedal.sink"},
		},
		"a pump test that failed, then no gauge here": {
			pickup(match.BleedOnly),
			func(t *testing.T, j *testJob) {
				j.reads(t, verify.Pump, `{"first_mm":90,"second_mm":110,"fourth_mm":130}`, nil)
				j.reads(t, verify.NoGauge, `"yes"`, nil)
				j.reads(t, verify.Pump, `{"first_mm":110,"second_mm":111,"fourth_mm":112}`, nil)
			},
			[]string{verify.Pump},
		},
		"a sign against it, withdrawn": {
			pickup(match.BleedOnly),
			func(t *testing.T, j *testJob) {
				j.reads(t, "pedal.sinks", `"slow"`, nil)
				j.reads(t, "pedal.sinks", "", nil)
			},
			[]string{"pedal.sinks"},
		},
		"a bottle of three years, corrected after pouring": {
			pickup(match.BleedOnly),
			func(t *testing.T, j *testJob) {
				j.choose(t, func(c *Choices) { c.Bottle.OpenedAt = "2023-05-01" })
				j.add(t, &DrawnOff{})
				j.add(t, &Filled{})
				j.choose(t, func(c *Choices) { c.Bottle.OpenedAt = "2026-10-30" })
			},
			[]string{"fluid"},
		},
		"silicone poured under another class": {
			pickup(match.BleedOnly),
			func(t *testing.T, j *testJob) {
				class := func(to string) {
					in := j.Intake
					s := in.System.Clone()
					s.Fluid.Class = to
					in.System = s
					events, err := j.ChangeIntake(j, piet, j.now(), "class"+to, j.IntakeSeq, in)
					require.NoError(t, err)
					j.Events = append(j.Events, events...)
				}
				was := j.Intake.System.Fluid.Class
				class("DOT 5")
				j.choose(t, func(c *Choices) { c.Bottle.Class = "DOT 5" })
				j.add(t, &DrawnOff{})
				j.add(t, &Filled{})
				class(was)
				j.choose(t, func(c *Choices) { c.Bottle.Class = was })
			},
			[]string{"fluid"},
		},
	} {
		t.Run(name, func(t *testing.T) {
			j := c.job(t)
			passGate(t, j)
			c.slip(t, j)
			require.False(t, j.passes(t), "let go")
			open := j.left(t)
			g, err := j.Gate()
			require.NoError(t, err)
			for _, i := range g.ToDo() {
				open = append(open, i.ID)
			}
			for _, id := range c.asks {
				assert.Contains(t, open, id)
			}
			// From a file it is the same: nothing of it hangs on having been refused.
			r := Replay(j.ID, j.CreatedAt, j.Events)
			again, err := r.Gate()
			require.NoError(t, err)
			assert.Equal(t, g, again)
		})
	}
}

func filter(list []string, not string) (out []string) {
	for _, x := range list {
		if x != not {
			out = append(out, x)
		}
	}
	return out
}

// The way on from a slip is what the plan says, and it ends in a release.
func TestWhatWasUndoneIsDoneAgain(t *testing.T) {
	for name, slip := range map[string]func(j *testJob){
		"lines off again": func(j *testJob) {
			for _, s := range []string{"safe.engine_off", "safe.pump_empty", "safe.empty_reservoir", "strip.lines_off"} {
				j.add(t, &Ticked{Step: s})
			}
		},
		"another unit": func(j *testJob) {
			other := otherUnit(t, j)
			j.choose(t, func(c *Choices) { c.Unit = other })
		},
		"only a bleed after all":  func(j *testJob) { j.choose(t, func(c *Choices) { c.Scope = match.BleedOnly }) },
		"the booster as well":     func(j *testJob) { j.choose(t, func(c *Choices) { c.Scope = match.Both }) },
		"bubbles":                 func(j *testJob) { j.add(t, &WheelAgain{Wheel: "LF"}) },
		"the reservoir drawn off": func(j *testJob) { j.add(t, &DrawnOff{}) },
	} {
		j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
		passGate(t, j)
		slip(j)
		for range 3 {
			j.doUntil(t, "")
			j.readAll(t)
		}
		g, err := j.Gate()
		require.NoError(t, err)
		assert.True(t, g.Passable, "%s: %v %+v", name, j.left(t), g.ToDo())
	}
}

// Half-way through, a change of mind loses no step: what is off is off.
func TestAChangeOfScopeLosesNoStep(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.BoosterOpened)
	j.doUntil(t, "strip.firewall_nuts")
	j.choose(t, func(c *Choices) { c.Scope = match.BoosterAside })
	open := j.left(t)
	assert.Contains(t, open, "fit.line_nuts")
	assert.Contains(t, open, "close.fill")
	assert.Contains(t, open, "close.bleed")
	assert.NotContains(t, open, "strip.lines_off", "they are off")
	v, err := j.Replace()
	require.NoError(t, err)
	assert.Contains(t, v.Off, "lines", "the drawing shows them off")
	assert.Nil(t, v.Plan.Find("close.level_unchanged"))
	// A new cylinder on, its rod preloaded, then only a bleed: nuts and rod are asked for all the same.
	j = newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	j.doUntil(t, "rod.measure")
	j.add(t, &Ticked{Step: "rod.measure", Rod: &Rod{PocketMM: 12.4, ProtrusionMM: 14.4, PitchMM: 1}})
	require.NoError(t, j.joined(mara, func(s *JointSetup) { s.Schools = map[plan.School]string{plan.Rod: plan.RodAsSupplied} }))
	assert.Contains(t, j.left(t), "rod.measure", "a figure out of its limits stays what it is, whatever school is chosen later")
	assert.Equal(t, verify.Failed, j.item(t, "rod").State)
	j.choose(t, func(c *Choices) { c.Scope = match.BleedOnly })
	open = j.left(t)
	assert.Contains(t, open, "fit.cylinder_nuts", "it is off")
	assert.Contains(t, open, "fit.line_nuts")
}

func TestWhatAnActNeedsIsAsked(t *testing.T) {
	hybrid := newJob(t, "hybrid-electro-hydraulic", match.ElectroUnit)
	hybrid.doUntil(t, "safe.service_plug")
	// The wait runs from the plug out, and no wait is a minute.
	assert.ErrorContains(t, hybrid.tell(mara, &TimerStarted{Clock: ClockHighVoltage, Seconds: 60}), "wait_short")
	hybrid.add(t, &TimerStarted{Clock: ClockHighVoltage})
	hybrid.wait += 3600
	hybrid.add(t, &Ticked{Step: "safe.service_plug"})
	assert.ErrorContains(t, hybrid.tell(mara, &Ticked{Step: "safe.isolate_high_voltage", Volts: f(0), Trained: "Mara"}),
		"still_waiting", "it ran before the plug was out")
	hybrid.doUntil(t, "close.service_plug")
	var gate ErrGate
	require.ErrorAs(t, hybrid.tell(mara, &VolumeMoved{Wheel: "RR", VolumeCM3: 40}), &gate)
	assert.Equal(t, []string{"close.service_plug", "close.negative_on"}, gate.Missing, "a bleed the tool leads needs its power")
	p, err := hybrid.Plan()
	require.NoError(t, err)
	assert.Nil(t, p.Find("strip.cylinder_off"), "one piece")
	assert.Len(t, p.Lines, 5)
	// Opened again after the plug is back: the proof is gone.
	hybrid.doUntil(t, "close.bleed")
	assert.Equal(t, stand.Loose, hybrid.account().StateOf(stand.Voltage))

	pickup := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	pickup.choose(t, func(c *Choices) { c.Unit = nil })
	pickup.doUntil(t, "prepare.compare_on_bench")
	assert.ErrorContains(t, pickup.tell(mara, &Ticked{Step: "prepare.compare_on_bench"}), "nothing_to_compare")
	pickup.choose(t, func(c *Choices) { c.Unit = &match.Unit{ID: "x", Ports: []match.Port{}, Contents: []string{}} })
	assert.ErrorContains(t, pickup.tell(mara, &Ticked{Step: "prepare.compare_on_bench"}), "nothing_compared")
	// Ports and a mouth that agree on paper are not the stop, the lamp switch or the seal: each is held against the old
	// one.
	known := otherUnit(t, pickup)
	pickup.choose(t, func(c *Choices) { c.Unit = known })
	assert.ErrorContains(t, pickup.tell(mara, &Ticked{Step: "prepare.compare_on_bench"}), "compare_points")
	assert.ErrorContains(t, pickup.tell(mara, &Ticked{Step: "prepare.compare_on_bench", Compared: pickup.Unmeasured()[1:]}),
		"compare_points count=1")
	require.NotEmpty(t, pickup.Unmeasured())
	wrong := otherUnit(t, pickup)
	wrong.Variant = "abs"
	pickup.choose(t, func(c *Choices) { c.Unit = wrong; c.Old.Variant = "plain" })
	assert.ErrorContains(t, pickup.tell(mara, &Ticked{Step: "prepare.compare_on_bench"}), "does_not_fit", "before anything is opened")

	onVehicle := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	require.NoError(t,
		onVehicle.joined(mara, func(s *JointSetup) { s.Schools = map[plan.School]string{plan.BenchWhen: plan.BenchOnVehicle} }))
	onVehicle.doUntil(t, "close.fill")
	require.ErrorAs(t, onVehicle.tell(mara, &PortCracked{Port: "rear"}), &gate)
	assert.Equal(t, []string{"close.fill"}, gate.Missing, "on an empty reservoir it draws air")
	// Line nuts made tight, ports cracked: not tight.
	onVehicle.doUntil(t, "close.bleed")
	assert.True(t, onVehicle.Done()["fit.line_nuts"])
	onVehicle.add(t, &PortCracked{Port: "rear"})
	assert.False(t, onVehicle.Done()["fit.line_nuts"])

	lines := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	lines.doUntil(t, "strip.cylinder_off")
	require.ErrorAs(t, lines.tell(mara, &BleedStroked{Wheel: "RR"}), &gate)
	assert.Equal(t, []string{"fit.line_nuts"}, gate.Missing)
	for _, step := range []string{"fit.line_nuts", "fit.face_seal", "fit.start_nuts_snug", "rod.coupler_moved", "close.wash", "fit.sensor_plug", "strip.lines_off"} {
		err := lines.tell(mara, &Ticked{Step: step, NotHere: "never seen one"})
		assert.ErrorContains(t, err, "always_here", step)
	}
	lines.add(t, &BenchStroked{})
	assert.ErrorContains(t, lines.tell(mara, &BenchStroked{Strokes: 100}), "too_fast")
	assert.ErrorContains(t, lines.tell(mara, &Ticked{Step: "close.bleed"}), "counted_step")
}

func TestALookWithNothingBetweenIsNoSecond(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	j.choose(t, func(c *Choices) { c.Bleed.Purpose = bleed.ForAir })
	j.add(t, &WheelSeen{Wheel: "RR"})
	j.add(t, &BleedStroked{Wheel: "RR"})
	j.add(t, &WheelSeen{Wheel: "RR"})
	v, err := j.Bleed()
	require.NoError(t, err)
	assert.False(t, v.Wheels["RR"].Done, "clear at strokes 0 and 1 are not two in a row behind the way's volume")
	assert.Equal(t, 1, v.Wheels["RR"].ClearRow)
	// A method that moves nothing clears nothing.
	c := j.Choices
	c.Bleed.Method = bleed.ScanTool
	_, err = j.ChangeChoices(j, mara, j.now(), "tool", j.ChoicesSeq, c)
	assert.ErrorContains(t, err, "method_not_here")
	j.Choices.Bleed.Method = bleed.ScanTool // as a record from before may have it
	for range 5 {
		j.add(t, &WheelSeen{Wheel: "LF"})
	}
	v, err = j.Bleed()
	require.NoError(t, err)
	assert.False(t, v.Wheels["LF"].Done)
	assert.False(t, v.Wheels["LF"].Enough)
}

func TestAfterTheRoutineEveryWheelIsAskedAgain(t *testing.T) {
	j := newJob(t, "car-diagonal-vacuum", match.BleedOnly)
	j.choose(t, func(c *Choices) { c.Bleed.Routine = true })
	j.doUntil(t, "close.bleed")
	for range 600 {
		v, err := j.Bleed()
		require.NoError(t, err)
		if v.Now == bleed.StepRoutine {
			break
		}
		if v.Now == bleed.StepFill {
			j.add(t, &Filled{})
			continue
		}
		j.bleedOn(t, v)
	}
	j.add(t, &BleedStepped{Step: bleed.StepRoutine})
	v, err := j.Bleed()
	require.NoError(t, err)
	assert.Len(t, v.OpenWheels, 4, "what its valves let go of is in the wheels")
	assert.Zero(t, v.Wheels["RR"].CM3)
	assert.Positive(t, v.Wheels["RR"].TotalCM3)
	j.bleedWhole(t)
}

// One batch: what comes after an undo is judged without what was undone, and the shop's settings are still there.
func TestABatchWithAnUndoIsJudgedOneByOne(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	set := DefaultSettings()
	set.BottleDays, set.ReleaseBy = 30, Lead
	j.Dress(Dress{Settings: &set, People: []verify.Person{{ID: "u1", Name: "Mara"}}})
	j.doUntil(t, "strip.plug_lines")
	last := j.Events[len(j.Events)-1]
	in := func(id string, b Body) In {
		data, err := json.Marshal(b)
		require.NoError(t, err)
		return In{ID: id, Kind: kindOf(b), At: j.now(), Data: data}
	}
	_, err := j.Append(j, mara, j.now(), []In{in("u", &Undone{Of: last.ID}), in("p", &Ticked{Step: "strip.plug_lines"})})
	var gate ErrGate
	require.ErrorAs(t, err, &gate, "the lines are on again")
	assert.Equal(t, []string{"strip.lines_off"}, gate.Missing)
	j.refold(j.Events)
	j.add(t, &Undone{Of: last.ID})
	assert.Equal(t, 30, j.shop().BottleDays)
	assert.Equal(t, Lead, j.shop().ReleaseBy)
	assert.Len(t, j.People, 1)
}

// Everything at once, in three minutes.
func TestAMinuteCannotHoldThree(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.BoosterAside)
	passGate(t, j)
	began := j.CreatedAt
	for i := range j.Events { // the same, told within three minutes
		j.Events[i].At = began.Add(3 * time.Minute * time.Duration(i) / time.Duration(len(j.Events)))
	}
	r := Replay(j.ID, began, j.Events)
	g, err := r.Gate()
	require.NoError(t, err)
	assert.False(t, g.Passable)
	ids := []string{}
	for _, i := range g.ToDo() {
		ids = append(ids, i.ID)
	}
	assert.Contains(t, ids, "time")
}

// By following what now alone, every way of working on every pattern ends in a release.
func TestEveryWayOfWorkingEndsInARelease(t *testing.T) {
	for _, pattern := range system.Patterns {
		t.Run(pattern.ID, func(t *testing.T) {
			t.Parallel()
			everyWay(t, pattern.ID)
		})
	}
}

func everyWay(t *testing.T, id string) {
	t.Helper()
	s, err := system.FromPattern(id)
	require.NoError(t, err)
	ways := 0
	for _, scope := range match.Scopes(s) {
		sets := []map[plan.School]string{{}}
		for _, e := range plan.Schools {
			for _, a := range e.Answers[1:] {
				if e.Asked(s, scope) && a != plan.BleedPutOff {
					sets = append(sets, map[plan.School]string{e.ID: a})
				}
			}
		}
		for _, set := range sets {
			j := newJob(t, id, scope)
			if len(set) > 0 {
				require.NoError(t, j.joined(mara, func(x *JointSetup) { x.Schools = set }))
			}
			for range 3 {
				j.doUntil(t, "")
				j.readAll(t)
			}
			g, err := j.Gate()
			require.NoError(t, err)
			assert.True(t, g.Passable, "%s %s %v: %v %+v", id, scope, set, j.left(t), g.ToDo())
			ways++
		}
	}
	assert.Greater(t, ways, 3)
}
