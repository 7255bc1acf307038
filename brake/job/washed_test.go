package job

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/bleed"
	"geminate/brake/match"
	"geminate/brake/verify"
)

// What a simulated vehicle showed that the account had missed (walk/truth.go): each of these was once let go.

// oily is a job into which mineral oil was poured and drawn through one wheel.
func oily(t *testing.T, scope match.Scope) *testJob {
	t.Helper()
	j := newJob(t, pickupVacuum, scope)
	j.add(t, &Filled{Poured: PouredOther})
	j.wait += 100
	j.add(t, &BleedStroked{Wheel: "RR", Strokes: 5})
	return j
}

// Petroleum is drawn off twice, for a syringe leaves a twentieth, and washed out at every wheel (common practice, no
// source; shares are assumptions): the page and the gate say how much is left.
func TestWhatWasPouredByMistakeIsWashedOut(t *testing.T) {
	j := oily(t, match.BoosterAside) // nothing was to be bled
	v, err := j.Bleed()
	require.NoError(t, err)
	assert.True(t, v.Applies, "it is to be bled now")
	assert.Equal(t, bleed.StepDrain, v.Now)
	assert.Equal(t, "gate.fluid.draw_off", j.item(t, "fluid").Code)
	j.add(t, &DrawnOff{LeftCM3: f(200)})
	assert.Equal(t, "gate.fluid.draw_off", j.item(t, "fluid").Code, "drawn down is not drawn off")
	j.add(t, &DrawnOff{})
	j.add(t, &Filled{})
	assert.Equal(t, "gate.fluid.draw_again", j.item(t, "fluid").Code)
	j.add(t, &DrawnOff{})
	j.add(t, &Filled{})
	i := j.item(t, "fluid")
	assert.Equal(t, "gate.fluid.wash", i.Code)
	v, err = j.Bleed()
	require.NoError(t, err)
	sum := 0.0
	for _, w := range v.Wheels {
		assert.Positive(t, w.FlushLeftCM3)
		assert.GreaterOrEqual(t, w.LeftCM3, w.FlushLeftCM3-1e-9, "the plan's volume takes it in")
		sum += w.FlushLeftCM3
	}
	assert.InDelta(t, sum, i.With["wash_cm3"], 1e-9)
	for _, w := range j.Intake.System.Wheels {
		left := v.Wheels[w.ID].FlushLeftCM3
		j.wait += 200
		j.add(t, &VolumeMoved{Wheel: w.ID, VolumeCM3: left + 1})
		j.add(t, &Filled{})
	}
	assert.Empty(t, j.foul())
}

// The same cylinder, taken off and put back, has its old cups.
func TestTheSameCylinderHasItsOldCups(t *testing.T) {
	j := newJob(t, pickupVacuum, match.CylinderOnly)
	passGate2(t, j)
	j.add(t, &Filled{Poured: PouredOther})
	assert.Contains(t, j.RubberLeft(), RubberCylinder)
	again := func() {
		for _, s := range []string{"safe.engine_off", "safe.pump_empty", "safe.empty_reservoir", "strip.sensor_plug", "strip.lines_off", "strip.cylinder_off"} {
			require.NoError(t, j.tell(mara, &Ticked{Step: s}), s)
		}
		j.doUntil(t, "close.bleed")
	}
	again()
	assert.Contains(t, j.RubberLeft(), RubberCylinder, "off and on again")
	other := otherUnit(t, j)
	j.choose(t, func(c *Choices) { c.Unit = other })
	j.doUntil(t, "close.bleed")
	assert.NotContains(t, j.RubberLeft(), RubberCylinder, "another one has cups of its own")
}

// A small part that came off is an item of the gate, in whatever scope, and is no less off for an undo an hour later.
func TestASmallPartStaysOffUntilItIsOn(t *testing.T) {
	j := newJob(t, pickupVacuum, match.Elsewhere)
	e := j.add(t, &PartOff{Place: "pedal_pin", Part: "washer"})
	j.wait += 3600
	j.add(t, &Undone{Of: e.ID})
	passGate2(t, j)
	assert.Equal(t, verify.Missing, j.item(t, "small_parts").State)
	kept(j, t, "small_parts")
	require.NoError(t, j.tell(mara, &PartOn{Of: e.ID}))
	g, err := j.Gate()
	require.NoError(t, err)
	for _, i := range g.Items {
		assert.NotEqual(t, "small_parts", i.ID)
	}
}

// A foot at the pedal is a foot, whatever way of bleeding was chosen: with the reservoir empty it draws air.
func TestAFootIsAFootUnderAnyMethod(t *testing.T) {
	j := newJob(t, pickupVacuum, match.BleedOnly)
	j.choose(t, func(c *Choices) { c.Bleed.Method = bleed.Vacuum })
	j.add(t, &DrawnOff{})
	j.wait += 60
	e := j.add(t, &BleedStroked{Wheel: "RR", Strokes: 20})
	s := e.Body.(*BleedStroked)
	assert.Equal(t, bleed.Pedal, s.Method)
	assert.Positive(t, s.CM3)
	assert.True(t, j.State.Dry[j.Intake.System.CircuitOf("RR")])
}

// A pedal that sinks is a pedal that sinks, however it was held.
func TestASinkHeldTheWrongWayFailsAllTheSame(t *testing.T) {
	j := newJob(t, pickupVacuum, match.BleedOnly)
	passGate2(t, j)
	sink := func(engine string, n, mm, s float64) {
		raw, err := json.Marshal(map[string]any{"engine": engine, "pedal_force_n": n, "travel_mm": mm, "seconds": s})
		require.NoError(t, err)
		j.wait += 60
		j.add(t, &FindingMade{Phase: PhaseVerify, Finding: "pedal.sink", Value: raw})
	}
	sink("off", 300, 9, 45) // this vehicle is held with its engine on
	assert.Equal(t, "gate.hold.sinks", j.item(t, "pedal.sink").Code)
	sink("on", 450, 0.5, 45)
	assert.Equal(t, "gate.read_again", j.item(t, "pedal.sink").Code[:len("gate.read_again")],
		"one good reading by the same hand does not undo it")
}

// Read with the lines off again, after they were bled: air gets in as it did the first time.
func TestAPortReadWithLinesOffLetsAirIn(t *testing.T) {
	j := newJob(t, pickupVacuum, match.CylinderOnly)
	passGate2(t, j)
	no := false
	j.wait += 3600
	j.add(t, &Ticked{Step: "fit.line_nuts", Done: &no})
	circuit := j.Intake.System.Circuits[0]
	raw, err := json.Marshal(map[string]string{circuit.ID: "ok"})
	require.NoError(t, err)
	j.add(t, &FindingMade{Phase: PhaseDiagnose, Finding: "pressure.at_port", Value: raw})
	v, err := j.Bleed()
	require.NoError(t, err)
	for _, w := range circuit.Wheels {
		assert.Positive(t, v.Wheels[w].AirLeftCM3, w)
	}
}
