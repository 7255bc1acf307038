package proving

import (
	"context"

	"geminate/ground/simulate"
	"geminate/ground/trial"
)

// Done is an act with where the job's log stood when it was done, and how long the vehicle had been worked on.
type Done struct {
	Act
	Head      int64   `json:"head"`
	SecondsIn float64 `json:"seconds"`
}

// Course is how somebody worked a vehicle through: what was done, and the job with all that was told.
type Course struct {
	Acts    []Done
	Outcome Outcome
	Vehicle *simulate.Vehicle
	// Seconds are what the work on it took: what is told and waited beside it is in nobody's count.
	Seconds float64
	// HalfActs and HalfHead are where the work ended and the checks began.
	HalfActs int
	HalfHead int64
}

// CarefulCourse is the careful technician's, by what the job says comes next. slips is done to the vehicle between the
// work and the checks, where it is not nil: what somebody else left.
func CarefulCourse(ctx context.Context, shown *trial.Vehicle, seed uint64, boxed bool, slips func(*simulate.Vehicle)) (*Course, error) {
	t := newTech(Spec{Seed: seed, Pattern: shown.Pattern, Way: Careful}, shown, boxed)
	c := &Course{}
	t.rec = func(a Act) { c.Acts = append(c.Acts, Done{a, t.Head, t.v.Seconds - t.toldS}) }
	t.halfway = func() {
		c.HalfActs, c.HalfHead = len(c.Acts), t.Head
		if slips != nil {
			slips(t.v)
		}
	}
	if err := t.begin(); err != nil {
		return nil, err
	}
	t.end(t.through(ctx))
	c.Outcome, c.Vehicle, c.Seconds = t.out, t.v, t.v.Seconds-t.toldS
	return c, nil
}
