package job

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/match"
	"geminate/brake/plan"
)

// Assumption (how-it-computes, section 7): two rods that cannot be set are the same within a quarter of a millimetre,
// half of what a rod's window is.
func TestTwoRodsAreTheSameWithinAQuarter(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	step := &plan.Step{ID: "rod.compare", Measure: plan.MeasureCompare}
	for by, same := range map[float64]bool{0: true, 0.24: true, -0.24: true, 0.26: false, -0.26: false, 0.7: false} {
		err := (&Ticked{Step: step.ID, Rods: &Rods{OldMM: 30, NewMM: 30 + by}}).checkMeasure(j.Job, step)
		assert.Equal(t, same, err == nil, "%v mm: %v", by, err)
	}
}

// Assumption: a joint takes no more than twice common practice's most, no less than two fifths of its least, and no
// maker prints a range wider than two and a half. Cylinder nuts: 18 to 34 N·m, so 7.2 to 68. Beyond it, it is a wrong
// unit.
func TestAMakersRangeHasBounds(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	for _, c := range []struct {
		low, high float64
		ok        bool
	}{{20, 40, true}, {7.2, 18, true}, {7.1, 17, false}, {27.5, 68, true}, {28, 69, false}, {2, 200, false}, {10, 26, false}, {30, 20, false}} {
		err := j.joined(mara, func(s *JointSetup) {
			s.Torques = map[string]MakerTorque{"fit.cylinder_nuts": {LowNM: c.low, HighNM: c.high}}
		})
		assert.Equal(t, c.ok, err == nil, "%v to %v: %v", c.low, c.high, err)
	}
}

// Common practice: whoever opens high voltage is trained. Each act that makes a vehicle dead or live again is refused
// to a trainee, the service plug's among them.
func TestHighVoltageIsNoTraineesWork(t *testing.T) {
	j := newJob(t, "hybrid-electro-hydraulic", match.CylinderOnly)
	trainee := Actor{ID: "t", Name: "Tilda", Role: Trainee}
	p, err := j.Plan()
	require.NoError(t, err)
	want := []string{
		"safe.scan_tool_release",
		"safe.negative_off",
		"safe.service_plug",
		"safe.isolate_high_voltage",
		"close.service_plug",
		"close.negative_on",
	}
	found := 0
	for _, s := range p.Steps {
		for _, w := range want {
			if s.ID != w {
				continue
			}
			found++
			err := j.tell(trainee, &Ticked{Step: w})
			var role ErrRole
			require.ErrorAs(t, err, &role, w)
			assert.Equal(t, TickHighVoltage, role.Command)
		}
	}
	assert.Equal(t, len(want), found, "all of them are in a hybrid's plan")
}
