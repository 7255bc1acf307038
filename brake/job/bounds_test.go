package job

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/bleed"
	"geminate/brake/match"
	"geminate/brake/units"
)

// Every bound is a range, and each is refused just outside of it where the core itself asks.
func TestFieldBounds(t *testing.T) {
	for id, b := range FieldBounds() {
		assert.Less(t, b.Min, b.Max, id)
		require.NoError(t, inField("$.x", id, b.Min), id)
		require.NoError(t, inField("$.x", id, b.Max), id)
		assert.Error(t, inField("$.x", id, b.Max+1e-6), id)
		assert.Error(t, inField("$.x", id, b.Min-1e-6), id)
	}
	assert.Panics(t, func() { _ = inField("$.x", "nobody.knows", 1) }, "a field without a bound is a fault of ours")
}

// A pressure over 250 kPa bursts caps and reservoirs: common practice keeps under 2.5 bar at a reservoir, no source.
func TestDriveIsBounded(t *testing.T) {
	assert.Equal(t, units.Bound{Min: 1, Max: 250}, bleed.DriveKPA)
	assert.Equal(t, bleed.DriveKPA, FieldBounds()["bleed.drive_kpa"], "the field takes what the core takes")
}

// A foot that presses 4500 N is a decimal slipped: nobody's does. Old records are read all the same.
func TestAFootIsNoPress(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	told := func(n float64) error {
		f := &FindingMade{
			Phase:   PhaseDiagnose,
			Finding: "pedal.sink",
			Value:   json.RawMessage(fmt.Sprintf(`{"pedal_force_n": %v, "travel_mm": 1, "seconds": 30, "engine": "on"}`, n)),
		}
		return f.Check(j.Job)
	}
	require.NoError(t, told(450))
	assert.ErrorContains(t, told(4500), "range")
}

// A choice of a water content that cannot be is refused with its path.
func TestWaterOfAChoiceIsBounded(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	c := j.Choices
	w := 42.0
	c.Bottle.WaterPercent = &w
	assert.ErrorContains(t, CheckChoices(j.Intake.System, &c), "bottle.water_percent")
}

// Notes are bounded in all, so that a job can always be written: told as such, and nothing else of the job is refused.
func TestNotesAreBounded(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	long := strings.Repeat("ü", 1000)
	for range 400 {
		if err := j.tell(mara, &Noted{Text: long}); err != nil {
			require.ErrorContains(t, err, "fault.notes_full")
			require.Greater(t, len(j.State.Notes), 100)
			j.add(t, &FindingMade{Phase: PhaseDiagnose, Finding: "pedal.sinks", Value: json.RawMessage(`"slow"`)})
			return
		}
	}
	t.Fatal("notes without end")
}
