package job

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/bleed"
	"geminate/brake/match"
	"geminate/brake/plan"
	"geminate/brake/system"
)

// finalBleed leaves the bench bleed for the final one.
var finalBleed = map[plan.School]string{plan.BenchWhen: plan.BenchFinal}

// onTheSame is a bleed of a pattern with a reservoir of its own, one of the movers, and what goes with it.
func onTheSame(t *testing.T, pattern string, reservoir float64, m bleed.Method, change func(*Choices)) *testJob {
	t.Helper()
	j := newJob(t, pattern, match.BleedOnly)
	r := j.Intake.System.Reservoir
	if r != nil {
		r.FullCM3, r.LowestPortCM3 = r.FullCM3*reservoir, r.LowestPortCM3*reservoir
		for c := range r.Circuits {
			r.Circuits[c] *= reservoir
		}
	}
	j.Choices.Bleed.Method = m
	if kpa := bleed.UsualDriveKPA(m); kpa > 0 {
		j.Choices.Bleed.DriveKPA = kpa
	}
	if change != nil {
		change(&j.Choices)
	}
	return j
}

// Whatever mover, in whatever reservoir: whoever taps the main button, several strokes counted aloud, all bleeders
// together, or a lost opening, and fills or draws down where that is asked for, never runs a circuit dry and never
// spills.
func TestNoMoverRunsDryOrOverUnannounced(t *testing.T) {
	r := rand.New(rand.NewPCG(25, 1))
	movers := []bleed.Method{bleed.Pedal, bleed.HoldHard, bleed.Bottle, bleed.Pressure, bleed.Vacuum, bleed.Gravity, bleed.Reverse}
	taps := 0
	for n := 0; taps < 10_000; n++ {
		pattern, m := system.Patterns[r.IntN(len(system.Patterns))].ID, movers[r.IntN(len(movers))]
		j := onTheSame(t, pattern, []float64{0.12, 0.35, 0.6, 1, 2}[r.IntN(5)], m, func(c *Choices) { c.Bleed.FeedBottle = r.IntN(6) == 0 })
		if bleed.Impossible(j.Intake.System, m) != "" {
			taps++
			continue
		}
		at := fmt.Sprint(n, " ", pattern, " ", m)
		for range 50 {
			taps++
			v, w, err := j.bleeding()
			require.NoError(t, err, at)
			if !v.Applies || v.Current == "" {
				break
			}
			switch {
			case v.DrawDownNow:
				j.add(t, &DrawnOff{LeftCM3: &v.DrawDownTo})
			case v.RefillNow:
				j.add(t, &Filled{})
				if v, _, _ = j.bleeding(); v.RefillNow {
					j.Choices.Bleed.FeedBottle = true // one stroke is more than it has to give: the page says so
				}
			case m.Strokes() && r.IntN(8) == 0:
				j.add(t, &OpeningLost{Wheel: v.Current})
			case m.Strokes():
				most := max(1, min(aloudMost, v.Ahead.Steps))
				if v.Ahead.Steps < 0 {
					most = aloudMost
				}
				j.add(t, &BleedStroked{Wheel: v.Current, Strokes: 1 + r.IntN(most)})
			case m == bleed.Gravity && r.IntN(2) == 0:
				if g := w.together(w.wheels, v.OpenWheels); g != nil {
					for id, cm3 := range g.CM3 {
						j.wait += int(cm3 / flowMostCM3S)
						j.add(t, &VolumeMoved{Wheel: id, VolumeCM3: cm3})
					}
				}
			case v.Ahead.StepCM3 > 0:
				j.wait += int(v.Ahead.StepCM3 / flowMostCM3S)
				j.add(t, &VolumeMoved{Wheel: v.Current, VolumeCM3: v.Ahead.StepCM3})
			default:
				bears := v.Ahead.CM3
				if bears < 0 {
					bears = 300
				}
				j.wait += int(bears / flowMostCM3S)
				j.add(t, &VolumeMoved{Wheel: v.Current, VolumeCM3: bears * r.Float64()})
			}
			if r.IntN(4) == 0 {
				j.add(t, &WheelSeen{Wheel: v.Current, Done: yes()})
			}
			v, _, err = j.bleeding()
			require.NoError(t, err)
			require.False(t, v.RanDry || v.Spilled, "%s: level %v of %v, ahead %+v", at, v.LevelCM3, v.FullCM3, v.Ahead)
		}
	}
}

// Found: planned with no refills, dry at stroke 41.
func TestAFeedBottleIsInTheLedger(t *testing.T) {
	j := onTheSame(t, "pickup-front-rear-vacuum", 1, bleed.Pedal, func(c *Choices) { c.Bleed.FeedBottle = true })
	for range 60 {
		j.add(t, &BleedStroked{Wheel: "RR"})
	}
	v, err := j.Bleed()
	require.NoError(t, err)
	assert.False(t, v.RanDry)
	assert.Equal(t, v.FullCM3, v.LevelCM3)
	assert.Equal(t, -1, v.Ahead.Steps, "nothing is announced: it keeps full")
	assert.Positive(t, v.CountAloud)
}

// Found: a reservoir of 40 with its port at 36 answered nothing at all.
func TestAReservoirThatDoesNotBearAStrokeSaysSo(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.BleedOnly)
	j.Intake.System.Reservoir.FullCM3, j.Intake.System.Reservoir.LowestPortCM3 = 40, 36
	v, err := j.Bleed()
	require.NoError(t, err)
	require.NotNil(t, v.Stuck)
	assert.Equal(t, "bleed_stuck.stroke_too_long", v.Stuck.Code)
	assert.Greater(t, v.Stuck.With["stroke_cm3"], v.Stuck.With["gives_cm3"])
	j.choose(t, func(c *Choices) { c.Bleed.StrokeMM = 6 }) // and what it says can be done
	v, err = j.Bleed()
	require.NoError(t, err)
	assert.Nil(t, v.Stuck)
	_, err = j.FluidNeed()
	require.NoError(t, err)
}

// Found: ten openings lost brought the level under the port, unannounced.
func TestALostOpeningTakesFluid(t *testing.T) {
	j := onTheSame(t, "pickup-front-rear-vacuum", 1, bleed.Pedal, nil)
	before, _ := j.Bleed()
	j.add(t, &OpeningLost{Wheel: "RR"})
	after, err := j.Bleed()
	require.NoError(t, err)
	assert.InDelta(t, before.Ahead.StepCM3, before.LevelCM3-after.LevelCM3, 1e-9)
	assert.Equal(t, before.RefillIn-1, after.RefillIn)
	assert.Zero(t, after.Wheels["RR"].Strokes, "and does not count")
	assert.Zero(t, after.Wheels["RR"].CM3)
}

// Found: "needed" ran away at an air bleed, 97 of 99, 98 of 100, while enough was there.
func TestWhatIsNeededDoesNotRunAway(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.BleedOnly)
	j.choose(t, func(c *Choices) { c.Bleed.Purpose = bleed.ForAir })
	j.add(t, &Filled{})
	v, err := j.Bleed()
	require.NoError(t, err)
	need := v.Wheels["RR"].Needed
	for n := 1; n < need; n++ {
		j.add(t, &BleedStroked{Wheel: "RR"})
		if v, _ = j.Bleed(); v.RefillNow {
			j.add(t, &Filled{})
		}
		assert.Equal(t, need, v.Wheels["RR"].Needed, "after %d", n)
	}
	assert.True(t, v.Wheels["RR"].Enough)
	assert.Zero(t, v.Wheels["RR"].Certain)
	j.add(t, &WheelSeen{Wheel: "RR", Done: yes()})
	j.add(t, &BleedStroked{Wheel: "RR"})
	j.add(t, &WheelSeen{Wheel: "RR", Done: yes()})
	v, _ = j.Bleed()
	assert.Equal(t, need, v.Wheels["RR"].Strokes)
	assert.True(t, v.Wheels["RR"].Done, "as many as were told at the start, both looks in them")
}

// Found: the drain skipped by one stroke took 137 strokes for 23, got a tick, and only undo led back.
func TestTheReservoirCanBeDrawnOffAfterAnyStroke(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.BleedOnly)
	j.add(t, &BleedStroked{Wheel: "RR"})
	v, err := j.Bleed()
	require.NoError(t, err)
	require.NotNil(t, v.DrainFirst)
	assert.Greater(t, v.DrainFirst.Now.Strokes, v.DrainFirst.Drained.Strokes+50)
	assert.Greater(t, v.DrainFirst.Now.CM3, v.DrainFirst.Drained.CM3+200)
	assert.True(t, v.Steps[0].Passed, "passed over is not done")
	j.add(t, &DrawnOff{})
	j.add(t, &Filled{})
	v, err = j.Bleed()
	require.NoError(t, err)
	assert.Nil(t, v.DrainFirst)
	assert.False(t, v.Steps[0].Passed)
	assert.Less(t, v.Wheels["RR"].Needed, 40)
}

// Found: a cylinder left for the final bleed showed fresh fluid in it and planned the same strokes.
func TestACylinderThatWasNotBenchBledTakesItsAirOut(t *testing.T) {
	benched, dry := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly), newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	require.NoError(t, dry.joined(mara, func(s *JointSetup) { s.Schools = finalBleed }))
	for _, j := range []*testJob{benched, dry} {
		j.choose(t, func(c *Choices) { c.Bleed.Purpose = bleed.ForAir })
	}
	a, err := benched.Bleed()
	require.NoError(t, err)
	b, err := dry.Bleed()
	require.NoError(t, err)
	chamber := dry.Intake.System.ChamberCM3("B")
	assert.InDelta(t, chamber, b.Wheels["RR"].AirLeftCM3-a.Wheels["RR"].AirLeftCM3, 0.1)
	assert.Greater(t, b.Plan.TotalCM3, a.Plan.TotalCM3+2*chamber)
	assert.Equal(t, "new_cylinder", string(dry.fluidOf("fit.cylinder_nuts")[0].Kind))
	assert.True(t, dry.fluidOf("fit.cylinder_nuts")[0].Dry)
	assert.False(t, benched.fluidOf("fit.cylinder_nuts")[0].Dry)
}

// All open at once by gravity: together no faster a wheel than alone, together faster than one after the other.
func TestAllBleedersOpenAtOnce(t *testing.T) {
	j := onTheSame(t, "pickup-front-rear-vacuum", 1, bleed.Gravity, nil)
	j.add(t, &DrawnOff{})
	j.add(t, &Filled{})
	v, err := j.Bleed()
	require.NoError(t, err)
	require.NotNil(t, v.Together)
	assert.Len(t, v.Together.CM3, 4)
	s, o := j.Fitted(), j.bleedOptions(j.Fitted())
	sum := 0.0
	for id, cm3 := range v.Together.CM3 {
		assert.Less(t, cm3/v.Together.Minutes/60, bleed.FlowCM3S(s, s.Wheel(id), o), id)
		sum += cm3
	}
	assert.LessOrEqual(t, sum, v.Ahead.CM3+1e-6, "the reservoir bears it")
	assert.Greater(t, sum/v.Together.Minutes/60, bleed.FlowCM3S(s, s.Wheel("LF"), o))
}

// The tool's routine wheel by wheel: each is bled after its valves, before the next one's.
func TestTheRoutineGoesWheelByWheel(t *testing.T) {
	j := newJob(t, "car-diagonal-vacuum", match.BleedOnly)
	j.choose(t, func(c *Choices) { c.Bleed.Purpose, c.Bleed.Routine = bleed.ForAir, true })
	require.NotNil(t, j.Intake.System.Modulator)
	j.add(t, &Filled{})
	j.bleedUntil(t, bleed.StepRoutine)
	for i, w := range j.Intake.System.Wheels {
		j.add(t, &BleedStepped{Step: bleed.StepRoutine, Wheel: w.ID})
		v, err := j.Bleed()
		require.NoError(t, err)
		assert.Equal(t, w.ID, v.Current, "its wheel runs clear once more")
		if i == 0 {
			assert.ErrorContains(t, j.tell(mara, &BleedStepped{Step: bleed.StepRoutine, Wheel: j.Intake.System.Wheels[1].ID}),
				"step_before")
		}
		j.bleedUntil(t, bleed.StepRoutine)
	}
	v, _ := j.Bleed()
	assert.Empty(t, v.Now)
	assert.ErrorContains(t, j.tell(mara, &BleedStepped{Step: bleed.StepRoutine, Wheel: "XX"}), "no_such_wheel")
}

// bleedUntil goes on as the screen asks until a step is next, or nothing is.
func (j *testJob) bleedUntil(t *testing.T, step bleed.StepID) {
	t.Helper()
	for range 500 {
		v, err := j.Bleed()
		require.NoError(t, err)
		if v.Now == step || v.Now == "" {
			return
		}
		j.bleedOn(t, v)
	}
	t.Fatal("never ends")
}

// Another bottle's fluid that went in is told as the fact it is, and holds the release until it is flushed out.
func TestTheWrongBottleIsAFact(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.BleedOnly)
	j.add(t, &Filled{})
	assert.Empty(t, j.bottleFault())
	j.add(t, &Filled{Poured: "DOT 5"})
	assert.Equal(t, "gate.fluid.class", j.bottleFault())
	j.add(t, &Filled{})
	assert.Equal(t, "gate.fluid.class", j.bottleFault(), "the right one on top does not take it out")
	assert.ErrorContains(t, j.tell(mara, &Filled{Poured: "beer"}), "fault.enum")
	other := newJob(t, "pickup-front-rear-vacuum", match.BleedOnly)
	other.add(t, &Ticked{Step: "prepare.chock"})
	other.add(t, &Ticked{Step: "prepare.cover_paint"})
	other.add(t, &DrawnOff{})
	other.add(t, &Filled{Poured: PouredOther})
	assert.NotContains(t, other.State.Ticks, "close.fill", "the wrong fluid fills it, and is not the plan's filling")
	assert.Equal(t, "gate.fluid.class", other.bottleFault())
}

// Put off in the middle and taken up after days: the level is looked at before the first opening.
func TestTakenUpAfterDaysTheLevelIsLookedAt(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.BleedOnly)
	j.add(t, &DrawnOff{})
	j.add(t, &Filled{})
	j.add(t, &BleedStroked{Wheel: "RR"})
	j.add(t, &Parked{Why: []ParkReason{ParkBleedPutOff}})
	j.wait += 3 * 24 * 3600
	j.add(t, &Unparked{})
	v, err := j.Bleed()
	require.NoError(t, err)
	assert.Equal(t, 3, v.StoodDays)
	assert.True(t, v.RefillNow)
	j.add(t, &Filled{})
	v, _ = j.Bleed()
	assert.Zero(t, v.StoodDays)
	assert.False(t, v.RefillNow)
}
