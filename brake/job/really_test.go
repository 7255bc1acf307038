package job

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/match"
)

// The old unit taken apart, part by part, speaks for what it was; it is told after the release too, and counts for
// right or wrong of the diagnosis.
func TestWhatItReallyWas(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	j.add(t, &FindingMade{Phase: PhaseDiagnose, Finding: "pedal.sinks", Value: []byte(`"slow"`)})
	assert.Empty(t, j.spoken())
	j.add(t, &PartLookedAt{Unit: "cylinder", Part: "reservoir", State: "sound"})
	j.add(t, &PartLookedAt{Unit: "cylinder", Part: "primary_cup", State: "worn", Note: "lip rolled"})
	assert.Contains(t, j.spoken(), "mc.primary_cup_bypass")
	assert.ErrorContains(t, j.tell(mara, &PartLookedAt{Unit: "cylinder", Part: "wing", State: "worn"}), "no_such_part")
	assert.ErrorContains(t, j.tell(mara, &PartLookedAt{Unit: "cylinder", Part: "bore", State: "so so"}), "enum")
	r, err := j.Record(t.Context(), j.now())
	require.NoError(t, err)
	assert.Equal(t, "mc.primary_cup_bypass", r.MayBe[0])
	assert.Equal(t, "cap_seal", r.Apart[0].ID, "in the order it comes apart")
	assert.Error(t, j.tell(sunny, &ReallyWas{Fault: "mc.primary_cup_bypass"}), "a technician says what it was")
	assert.ErrorContains(t, j.tell(mara, &ReallyWas{Fault: "hydraulic.supply_low"}), "enum", "this vehicle cannot have it")
	assert.ErrorContains(t, j.tell(mara, &ReallyWas{Fault: OtherFault}), "missing")
	j.add(t, &ReallyWas{Fault: "mc.primary_cup_bypass"})
	f := j.Facts(t.Context())
	assert.Equal(t, "mc.primary_cup_bypass", f.Was)
	require.NotNil(t, f.Right)
	assert.True(t, *f.Right)
	assert.False(t, f.First, "not released")
	assert.Equal(t, "8TK22", PlateKey("8tk-2 2"))
}

// Minutes go to the station at which something was told, and none to a shop that went home.
func TestTimeIsSpentWhereSomethingIsTold(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.BleedOnly)
	j.add(t, &DrawnOff{})
	j.add(t, &Filled{})
	j.add(t, &BleedStroked{Wheel: "RR"})
	assert.InDelta(t, 2, j.State.Minutes["bleed"], 1e-9, "one a minute, the first begins")
	e := Event{At: j.State.LastAt.Add(3 * time.Hour), Body: &BleedStroked{Wheel: "RR"}}
	j.spend(&e)
	assert.InDelta(t, 2, j.State.Minutes["bleed"], 1e-9)
}

func TestSettingsAreChecked(t *testing.T) {
	ok := DefaultSettings()
	require.NoError(t, ok.Check())
	for name, change := range map[string]func(*Settings){
		"paper": func(s *Settings) { s.Paper = "a3" }, "years": func(s *Settings) { s.DueYears = 9 }, "role": func(s *Settings) { s.ReleaseBy = Trainee },
		"mark": func(s *Settings) { s.Mark = "https://elsewhere" }, "days": func(s *Settings) { s.ComebackDays = 0 },
	} {
		s := DefaultSettings()
		change(&s)
		assert.Error(t, s.Check(), name)
	}
	j := newJob(t, "pickup-front-rear-vacuum", match.BleedOnly)
	three := DefaultSettings()
	three.DueYears = 3
	j.Dress(Dress{Settings: &three})
	assert.Equal(t, "2029-11-24", j.NextDue(time.Date(2026, 11, 24, 0, 0, 0, 0, time.UTC)).AtDate)
}
