package job

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/match"
	"geminate/brake/plan"
)

func TestWhatBecameOfTheOldUnit(t *testing.T) {
	b := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	b.add(t, &OldUnitWent{Unit: UnitCylinder, Went: WentReturned, Note: "Kessandra van, receipt 118"})
	o := b.Job.State.OldUnits[UnitCylinder]
	assert.Equal(t, WentReturned, o.Went)
	assert.NotEmpty(t, o.By)
	assert.False(t, o.At.IsZero())
	assert.ErrorContains(t, b.tell(mara, &OldUnitWent{Unit: UnitBooster, Went: WentKept}), "not_taken_off")
	assert.ErrorContains(t, b.tell(mara, &OldUnitWent{Unit: UnitCylinder, Went: "sold"}), "enum")
}

func TestNotesAtAStep(t *testing.T) {
	b := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	b.add(t, &Noted{Text: "Nut on LF rounded", Step: "strip.lines_off"})
	b.add(t, &Noted{Text: "All of it"})
	require.Len(t, b.Job.State.StepNotes, 1)
	assert.Equal(t, "strip.lines_off", b.Job.State.StepNotes[0].Step)
	assert.Equal(t, []string{"All of it"}, b.Job.State.Notes)
}

// What was met on the same kind of vehicle counts; another kind, the job itself and one where nobody looked do not.
func TestWhatWasMetBefore(t *testing.T) {
	one := func(id, vehicle string, have *[]plan.Feature) *Job {
		b := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
		b.Job.ID, b.Job.Intake.Vehicle = id, vehicle
		b.Job.Choices.Joint = &JointSetup{Present: have, Own: []plan.OwnStep{{ID: "own.1", Text: "Drain the washer bottle"}}}
		return b.Job
	}
	cowl := &[]plan.Feature{plan.WiperCowl}
	here := one("a", "Corrigan 4 ton", cowl)
	m := here.MetBefore(
		[]*Job{
			here,
			one("b", "corrigan  4 ton", cowl),
			one("c", "Corrigan 4 ton", &[]plan.Feature{plan.WiperCowl, plan.AirBox}),
			one("d", "Corrigan", nil),
			one("e", "Marrow", cowl),
		},
	)
	assert.Equal(t, 2, m.Jobs)
	assert.Equal(t, map[plan.Feature]int{plan.WiperCowl: 2, plan.AirBox: 1}, m.Features)
	assert.Len(t, m.Own, 2)
	assert.Zero(t, one("f", "", nil).MetBefore([]*Job{one("g", "", cowl)}).Jobs, "no name is no kind")
}
