package job

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/bleed"
	"geminate/brake/match"
	"geminate/brake/plan"
	"geminate/brake/system"
)

// bleedWhole goes on as the screen asks until the wheels and steps are done, and gives how many things it took.
func (j *testJob) bleedWhole(t *testing.T) (taps int) {
	t.Helper()
	for ; taps < 600; taps++ {
		v, err := j.Bleed()
		require.NoError(t, err)
		if v.Now == "" {
			return taps
		}
		if i := indexOf(bleed.TickedSteps, v.Now); i >= 0 {
			if v.Now == bleed.StepRelearn {
				assert.ErrorContains(t, j.tell(mara, &BleedStepped{Step: v.Now}), "still_waiting")
				j.add(t, &TimerStarted{Clock: ClockRelearn})
				j.wait += 120
			}
			j.add(t, &BleedStepped{Step: v.Now})
			continue
		}
		if v.Now == bleed.StepFill {
			j.add(t, &Filled{})
			continue
		}
		if v.Now == bleed.StepDrainAfter {
			j.add(t, &DrawnOff{})
			continue
		}
		require.NotEmpty(t, v.Current, v.Now)
		j.bleedOn(t, v)
	}
	v, _ := j.Bleed()
	t.Fatalf("never ends: %s %s %+v level %v", j.Intake.Pattern, v.Now, v.Wheels[v.Current], v.LevelCM3)
	return taps
}

func indexOf(list []bleed.StepID, x bleed.StepID) int {
	for i, v := range list {
		if v == x {
			return i
		}
	}
	return -1
}

// Every pattern is bled to its end as its screen asks, and then no wheel leaves more old fluid than was asked for.
func TestEveryPatternIsBledToItsEnd(t *testing.T) {
	for _, pattern := range system.Patterns {
		for _, scope := range []match.Scope{match.BleedOnly, match.CylinderOnly} {
			j := newJob(t, pattern.ID, scope)
			j.doUntil(t, "close.bleed")
			taps := j.bleedWhole(t)
			v, err := j.Bleed()
			require.NoError(t, err)
			assert.Empty(t, v.OpenWheels, pattern.ID)
			assert.Empty(t, v.StepsLeft, pattern.ID)
			assert.False(t, v.RanDry, pattern.ID)
			assert.False(t, v.Spilled, pattern.ID)
			assert.Less(t, taps, 400, pattern.ID)
			if v.Method == bleed.ScanTool {
				continue // the tool moves what it moves
			}
			for id, w := range v.Wheels {
				assert.LessOrEqual(t, w.Old, 0.1+1e-9, "%s %s", pattern.ID, id)
			}
		}
	}
}

// Found: changing method or stroke multiplied all earlier strokes anew.
func TestWhatWasMovedStaysMoved(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.BleedOnly)
	j.add(t, &DrawnOff{})
	j.add(t, &Filled{})
	j.add(t, &BleedStroked{Wheel: "RR", Strokes: 20})
	before, err := j.Bleed()
	require.NoError(t, err)
	j.Choices.Bleed.Method, j.Choices.Bleed.StrokeMM = bleed.Vacuum, 5
	after, err := j.Bleed()
	require.NoError(t, err)
	assert.InDelta(t, before.UsedCM3, after.UsedCM3, 1e-12)
	assert.InDelta(t, before.LevelCM3, after.LevelCM3, 1e-12)
	assert.Equal(t, before.Wheels["RR"].Old, after.Wheels["RR"].Old)
}

// Found: after a caliper three openings do, and only there; the lines off at the cylinder mean every wheel.
func TestWhatWasOpenedIsWhatIsBled(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.ElsewhereOpened)
	j.Choices.Bleed.Wheels = []string{"LF"}
	v, err := j.Bleed()
	require.NoError(t, err)
	assert.Equal(t, bleed.ForAir, v.Purpose)
	assert.Equal(t, []string{"LF"}, v.OpenWheels)
	assert.LessOrEqual(t, v.Wheels["LF"].Needed, 13)
	cylinder := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	cylinder.Choices.Bleed.Wheels, cylinder.Choices.Bleed.Purpose = []string{"LF"}, bleed.ForAir
	v, err = cylinder.Bleed()
	require.NoError(t, err)
	assert.Len(t, v.OpenWheels, 4)
}

// Found: running dry had no consequence and passed the gate.
func TestRunningDryBeginsTheCircuitAnew(t *testing.T) {
	j := newJob(t, "car-diagonal-vacuum", match.BleedOnly)
	j.Intake.System.Modulator = &system.Modulator{Kind: "abs", VolumeCM3: 30}
	j.add(t, &DrawnOff{})
	j.add(t, &Filled{})
	j.add(t, &BleedStroked{Wheel: "RR", Strokes: 12})
	assert.ErrorContains(t, j.tell(mara, &BleedStroked{Wheel: "RR", Strokes: 100}), "too_fast")
	j.wait += 100
	j.add(t, &BleedStroked{Wheel: "RR", Strokes: 100})
	v, err := j.Bleed()
	require.NoError(t, err)
	assert.True(t, v.RanDry)
	assert.Zero(t, v.Wheels["RR"].Strokes, "begun anew")
	assert.Equal(t, 2, v.Wheels["RR"].ClearOf)
	assert.True(t, j.State.ModulatorAir)
	assert.Contains(t, v.StepsLeft, string(bleed.StepRoutine))
	g, err := j.Gate()
	require.NoError(t, err)
	states := map[string]string{}
	for _, i := range g.Items {
		states[i.ID] = string(i.State)
	}
	assert.Equal(t, "failed", states["ran_dry"])
	// Filled and bled again, with the routine and every wheel once more after it, it is whole.
	j.add(t, &Filled{})
	j.bleedWhole(t)
	v, err = j.Bleed()
	require.NoError(t, err)
	assert.False(t, v.RanDry)
	assert.False(t, j.State.ModulatorAir)
	assert.Equal(t, 2, v.Wheels["RF"].Round, "after the routine each wheel runs clear again")
}

// Found: reverse ran the reservoir backwards and asked to fill while it was overflowing.
func TestReverseDrawsTheReservoirDown(t *testing.T) {
	j := newJob(t, "clutch-hydraulic", match.BleedOnly)
	v, err := j.Bleed()
	require.NoError(t, err)
	assert.Equal(t, bleed.Reverse, v.Method)
	assert.True(t, v.DrawDownNow, "full, and about to be pushed over")
	assert.False(t, v.RefillNow)
	assert.NotEmpty(t, v.Plan.Wheels[0].DrawDownsAfterCM3)
	j.add(t, &VolumeMoved{Wheel: v.Current, VolumeCM3: 30})
	v, err = j.Bleed()
	require.NoError(t, err)
	assert.True(t, v.Spilled, "on the paint: rinse now")
}

func TestAWheelLeftUndoneHoldsTheRelease(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.BleedOnly)
	assert.ErrorContains(t, j.tell(mara, &WheelLeft{Wheel: "RR", Why: "tired"}), "enum")
	assert.ErrorContains(t, j.tell(mara, &WheelLeft{Wheel: "RR", Why: LeftOther}), "missing")
	j.add(t, &WheelLeft{Wheel: "RR", Why: LeftSeized})
	v, err := j.Bleed()
	require.NoError(t, err)
	assert.Equal(t, []string{"RR"}, v.LeftWheels)
	assert.Equal(t, "LR", v.Current, "the work goes on at the next")
	g, err := j.Gate()
	require.NoError(t, err)
	for _, i := range g.Items {
		if i.ID == "bleed" {
			assert.Equal(t, "gate.bleed.undone", i.Code)
		}
	}
	j.add(t, &BleedStroked{Wheel: "RR"})
	assert.Empty(t, j.State.Wheels["RR"].Left, "opened after all")
}

func TestAFootLiftedEarlyCountsForNothing(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.BleedOnly)
	j.add(t, &BleedStroked{Wheel: "RR"})
	j.add(t, &WheelSeen{Wheel: "RR"})
	j.add(t, &OpeningLost{Wheel: "RR"})
	v, err := j.Bleed()
	require.NoError(t, err)
	w := v.Wheels["RR"]
	assert.Equal(t, 1, w.Lost)
	assert.Zero(t, w.ClearRow)
	assert.Equal(t, 2, w.ClearOf, "air was drawn in at the bleeder")
	assert.Positive(t, w.AirLeftCM3)
	assert.Equal(t, 1, w.Strokes)
	j.add(t, &WheelAgain{Wheel: "RR"})
	v, err = j.Bleed()
	require.NoError(t, err)
	w = v.Wheels["RR"]
	assert.Equal(t, 2, w.Round)
	assert.Zero(t, w.Strokes)
	assert.Equal(t, 1, w.TotalStrokes, "what was moved stays moved")
	assert.Len(t, w.Rounds, 2)
}

// How trade has it (9.4, no source): right rear, left rear, fronts, simulator, fronts again, relearn, codes twice; not
// without the tool.
func TestAnElectroHydraulicBleedIsTheTools(t *testing.T) {
	j := newJob(t, "hybrid-electro-hydraulic", match.BleedOnly)
	v, err := j.Bleed()
	require.NoError(t, err)
	var ids []string
	for _, s := range v.Steps {
		ids = append(ids, string(s.ID))
	}
	assert.Equal(
		t,
		[]string{
			"charger",
			"drain",
			"fill",
			"wheel.RR",
			"wheel.LR",
			"wheel.LF",
			"wheel.RF",
			"simulator",
			"wheel.LF.2",
			"wheel.RF.2",
			"codes_read",
			"relearn",
			"codes_cleared",
			"codes_again",
		},
		ids,
	)
	assert.Empty(t, v.Cannot)
	assert.ErrorContains(t, j.tell(mara, &BleedStepped{Step: bleed.StepSimulator}), "step_before")
	j.bleedWhole(t)
	assert.ErrorContains(t, j.tell(mara, &BleedStepped{Step: bleed.StepCodesAgain, Codes: []string{"offset"}}), "codes_back")
	none := []string{}
	j.Intake.Tools = &none
	v, err = j.Bleed()
	require.NoError(t, err)
	assert.Equal(t, "bleed_stop.tool_leads", v.Cannot)
}

// How trade has it (9.3, no source): until the level stays and no foam is left; without a pump it stands in between.
func TestTheSteeringSideIsBledInCycles(t *testing.T) {
	j := newJob(t, "pickup-hydraulic", match.BoosterAside)
	j.doUntil(t, "close.steering_bleed")
	assert.ErrorContains(t, j.tell(mara, &Ticked{Step: "close.steering_bleed"}), "steering_cycles")
	j.add(t, &SteeringCycled{LevelFell: true, Foam: true})
	assert.ErrorContains(t, j.tell(mara, &SteeringCycled{}), "still_waiting", "the foam has to clear")
	assert.ErrorContains(t, j.tell(mara, &TimerStarted{Clock: ClockFoam, Seconds: 1}), "wait_short")
	j.add(t, &TimerStarted{Clock: ClockFoam})
	j.wait += 600
	j.add(t, &SteeringCycled{})
	j.add(t, &Ticked{Step: "close.steering_bleed"})
	j.add(t, &SteeringCycled{LevelFell: true})
	assert.ErrorContains(t, j.tell(mara, &SteeringCycled{}), "still_waiting", "a wait before does for no later cycle")
	vacuum := newJob(t, "pickup-hydraulic", match.BoosterAside)
	vacuum.add(t, &SteeringCycled{Vacuum: true})
	assert.False(t, vacuum.steeringGood(), "the engine never ran")
	vacuum.add(t, &SteeringCycled{LevelFell: true})
	vacuum.add(t, &SteeringCycled{Vacuum: true})
	assert.True(t, vacuum.steeringGood())
	assert.ErrorContains(t, newJob(t, "clutch-hydraulic", match.BleedOnly).tell(mara, &SteeringCycled{}), "no_steering_side")
}

// Filling the reservoir at the bleed is the plan's step of filling it; a wrong class never goes in.
func TestFillingIsFilling(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	j.doUntil(t, "close.fill")
	v, err := j.Bleed()
	require.NoError(t, err)
	assert.Zero(t, v.LevelCM3, "the new reservoir is empty until it is filled")
	assert.EqualValues(t, bleed.StepFill, v.Now)
	j.add(t, &Filled{})
	assert.True(t, j.Done()["close.fill"])
	v, err = j.Bleed()
	require.NoError(t, err)
	assert.InDelta(t, v.FullCM3, v.LevelCM3, 1e-9)
	assert.Zero(t, v.Fluid.Reservoir["A"])
	assert.Zero(t, v.Fluid.Chamber["A"], "bench bled with fresh fluid")
	j.Choices.Bottle.Class = "DOT 5"
	assert.ErrorContains(t, j.tell(mara, &Filled{}), "fluid_class")
	assert.ErrorContains(t, j.tell(mara, &Filled{ToCM3: 4000}), "range")
}

// How trade has it (no source): about ten times a port with the pedal propped, or clear twice in a row.
func TestBledOnTheVehiclePortByPort(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	require.NoError(t, j.joined(mara, func(s *JointSetup) { s.Schools = map[plan.School]string{plan.BenchWhen: plan.BenchOnVehicle} }))
	j.doUntil(t, "fit.bled_on_vehicle")
	assert.ErrorContains(t, j.tell(mara, &Ticked{Step: "fit.bled_on_vehicle"}), "port_cracks")
	assert.ErrorContains(t, j.tell(mara, &PortCracked{Port: "roof"}), "no_such_port")
	v, err := j.Bench()
	require.NoError(t, err)
	require.NotEmpty(t, v.Ports)
	for i, p := range v.Ports {
		if i == 0 {
			j.add(t, &PortCracked{Port: p.Port, Clear: true})
			j.add(t, &PortCracked{Port: p.Port, Clear: true})
			continue
		}
		for range cracksAPort {
			j.add(t, &PortCracked{Port: p.Port})
		}
	}
	j.add(t, &Ticked{Step: "fit.bled_on_vehicle"})
}

// One folded view or a whole replay: the same fluid.
func TestTheFluidSurvivesAReplay(t *testing.T) {
	j := newJob(t, "car-diagonal-vacuum", match.BleedOnly)
	j.bleedWhole(t)
	a, err := j.Bleed()
	require.NoError(t, err)
	b, err := Replay(j.ID, began, j.Events).Bleed()
	require.NoError(t, err)
	assert.Equal(t, a.Fluid, b.Fluid)
	assert.Less(t, len(j.State.Moves), 60, "draws at one wheel are put together")
	assert.WithinDuration(t, began, j.CreatedAt, time.Second)
}
