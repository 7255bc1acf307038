package stand

import (
	"encoding/json"
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var t0 = time.Date(2026, 11, 1, 8, 0, 0, 0, time.UTC)

func at(seq int64) When {
	return When{Seq: seq, At: t0.Add(time.Duration(seq) * time.Minute), By: "u1"}
}

// The three tables speak of the same things.
func TestTheTablesAreOfOneVehicle(t *testing.T) {
	states := map[Thing][]State{}
	for _, e := range Things {
		_, twice := states[e.Thing]
		assert.False(t, twice, "%s twice", e.Thing)
		states[e.Thing] = e.States
	}
	seen := map[string]bool{}
	for _, a := range Acts {
		assert.False(t, seen[a.Step], "%s twice", a.Step)
		seen[a.Step] = true
		assert.Contains(t, states[a.Thing], a.To, a.Step)
		assert.True(t, a.Counted || a.LeastS > 0, "%s takes no time", a.Step)
		for _, n := range a.Needs {
			require.NotNil(t, Find(n), "%s needs %s", a.Step, n)
		}
		for _, x := range a.After {
			assert.Contains(t, states, x, a.Step)
		}
		if a.Takes() && states[a.Thing] != nil && a.Thing != Elsewhere {
			back := slices.ContainsFunc(Acts, func(b Act) bool { return b.Thing == a.Thing && !b.Takes() })
			assert.True(t, back || letOut[a.Thing], "%s comes off and nothing puts it back", a.Thing)
		}
	}
	for _, ev := range Evidences {
		for _, x := range ev.Of {
			assert.Contains(t, states, x, ev.ID)
		}
	}
}

// letOut is what comes back by itself: energy that is stored again when the engine runs, a trailer that is coupled.
var letOut = map[Thing]bool{Engine: true, Vacuum: true, Accumulator: true, LinePressure: true, Coupling: true}

func TestWhatWasUndoneLastDoesNotStand(t *testing.T) {
	a, units := New(), Pair{Cylinder: "S 1"}
	do := func(seq int64, step string) { a.Do(step, at(seq), units, true) }
	for i, step := range []string{"strip.lines_off", "strip.cylinder_off", "fit.face_seal", "fit.start_nuts_snug", "fit.cylinder_nuts", "fit.line_nuts"} {
		do(int64(i+1), step)
	}
	assert.Equal(t, Back, a.StateOf(Lines))
	for _, step := range []string{"strip.lines_off", "fit.face_seal", "fit.start_nuts_snug", "fit.cylinder_nuts", "fit.line_nuts"} {
		assert.True(t, a.Stands(step, units), step)
	}
	assert.False(t, a.Stands("fit.cylinder_nuts", Pair{Cylinder: "S 2"}), "another unit is not on")
	a.Move(at(10), Lines) // cracked
	assert.False(t, a.Stands("fit.line_nuts", units))
	assert.Equal(t, Loose, a.StateOf(Lines))
	do(11, "fit.line_nuts")
	do(12, "strip.cylinder_off")
	assert.False(t, a.Stands("fit.face_seal", units), "a new seal each time it comes off")
	assert.False(t, a.Stands("fit.cylinder_nuts", units))
	assert.True(t, a.Stands("fit.line_nuts", units), "nobody touched the lines")
	// Taken back, it stays known to have come off.
	do(22, "strip.firewall_nuts")
	do(23, "strip.pedal_end")
	a.TakeBack("strip.firewall_nuts", at(24), "")
	assert.True(t, a.Touched(Firewall))
}

func TestThePowerComesBackAndTheProofIsGone(t *testing.T) {
	a := New()
	for i, step := range []string{"safe.negative_off", "safe.service_plug", "safe.isolate_high_voltage"} {
		a.Do(step, at(int64(i+1)), Pair{}, true)
	}
	assert.True(t, a.Stands("safe.isolate_high_voltage", Pair{}))
	a.Do("close.service_plug", at(5), Pair{}, true)
	assert.False(t, a.Stands("safe.isolate_high_voltage", Pair{}))
	assert.Equal(t, Back, a.StateOf(Plug))
	assert.Equal(t, Off, a.StateOf(Power))
	a.Do("safe.pump_empty", at(6), Pair{}, true)
	a.EngineRan(at(7))
	assert.Equal(t, Back, a.StateOf(Vacuum), "stored again")
}

func TestNotHereIsSaidOnlyOfWhatCanBeAbsent(t *testing.T) {
	a := New()
	for step, may := range map[string]bool{"strip.air_box": true, "fit.sensor_plug": true, "fit.face_seal": false, "rod.coupler_moved": false, "fit.start_nuts_snug": false, "close.steering_bleed": false, "own.1": true} {
		assert.Equal(t, may, a.MayBeAbsent(step), step)
	}
	a.Do("strip.sensor_plug", at(1), Pair{}, true)
	assert.False(t, a.MayBeAbsent("fit.sensor_plug"), "it came off")
	a.NotHere("fit.sensor_plug", at(2)) // a file may say so all the same
	assert.False(t, a.Stands("fit.sensor_plug", Pair{}))
}

// Air: so much has to leave the bleeder since the mark, and the last two looks be clear, the first of them with half of
// it behind it. Volumes by hand.
func TestAMarkOfAirGoesWithItsVolumeAndTwoLooks(t *testing.T) {
	a := New()
	a.Air(1, "RR", FromCylinder, "strip.lines_off", 60)
	seq := int64(1)
	stroke := func(cm3 float64, clear bool) {
		seq++
		a.Through(seq, "RR", cm3, 1)
		seq++
		a.Saw(seq, "RR", clear, t0, 30)
	}
	gone := func() bool { w := a.Wheels["RR"]; return w.CarriedOut(w.Marks[FromCylinder]) }
	stroke(20, true)
	stroke(45, true)
	assert.False(t, gone(), "65 of 60 are through, and the first of the two looks came at 20: less than half")
	stroke(5, true)
	assert.True(t, gone(), "the last two at 65 and 70")
	a.Saw(seq+1, "RR", true, t0, 30)
	assert.Equal(t, 3, a.Wheels["RR"].Row, "the same opening looked at twice is one")
	stroke(5, false)
	w := a.Wheels["RR"]
	assert.Equal(t, "bubbles", w.Marks[FromBrake].Why, "where no air was reckoned with any more it is a mark of its own")
	assert.InDelta(t, 30, w.LeftCM3(w.Marks[FromBrake]), 0.1)
	a.Lost(seq+5, "RR", 30)
	w = a.Wheels["RR"]
	assert.Equal(t, "opening_lost", w.Marks[FromBrake].Why)
	assert.InDelta(t, 75, w.ThroughCM3, 1e-9, "what was moved stays moved")
}

func TestAnAccountIsKeptAndReadBack(t *testing.T) {
	a := New()
	a.Do("strip.lines_off", at(1), Pair{Cylinder: "S 1"}, true)
	a.Air(1, "RR", FromCylinder, "strip.lines_off", 60)
	a.Through(2, "RR", 12, 2)
	raw, err := json.Marshal(a)
	require.NoError(t, err)
	var back Account
	require.NoError(t, json.Unmarshal(raw, &back))
	assert.Equal(t, *a, back)
	copied := a.Clone()
	copied.Through(3, "RR", 100, 1)
	copied.Do("fit.line_nuts", at(4), Pair{}, true)
	assert.InDelta(t, 12, a.Wheels["RR"].ThroughCM3, 1e-9, "a copy is one's own")
	assert.Equal(t, Off, a.StateOf(Lines))
}

// An account is told act by act, and asked what stands.
func ExampleAccount() {
	a, units := New(), Pair{Cylinder: "the new one"}
	when := func(seq int64) When { return When{Seq: seq} }
	a.Do("close.bleeder_screws", when(1), units, true)
	fmt.Println(a.Stands("close.bleeder_screws", units))
	a.Move(when(2), Bleeders) // one was opened again
	fmt.Println(a.Stands("close.bleeder_screws", units), a.StateOf(Bleeders))
	// Output:
	// true
	// false loose
}
