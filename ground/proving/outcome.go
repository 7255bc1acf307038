package proving

import (
	"errors"
	"slices"

	"geminate/brake/diagnose"
	"geminate/brake/job"
	"geminate/brake/match"
	"geminate/ground/simulate"
)

// Cause is something that went wrong on the way, and of which part or act.
type Cause struct {
	Slip Slip   `json:"slip"`
	Of   string `json:"of"` // a step, a reading or a part
	part simulate.Part
}

// Outcome is what came of a job.
type Outcome struct {
	Seed       uint64
	Pattern    string
	Technician string
	Scopes     []match.Scope
	Released   bool
	Parked     bool
	DeadEnd    string // why it could not go on, "" where it could
	// Right: nothing is left that was there, and nothing was done to it.
	Right      bool
	Clean      bool // nothing is wrong with it, released or not
	Sound      bool // it came with nothing wrong
	Unsafe     []simulate.After
	Back       []simulate.After
	Hurt       []simulate.Mark // jets and shocks on the way
	Causes     []Cause
	WrongUnits int
	Refused    int
	Rounds     int
	Minutes    float64
	Taps       Taps
	// FluidCM3 was poured, NeedCM3 is what the job said it would take when the bleed began.
	FluidCM3, NeedCM3 float64
	Needless          []string // steps told for what is not there
	Truth             []diagnose.Suspect
	Book              *job.Book
}

// Taps are what a technician taps and types.
type Taps struct{ Ticks, Strokes, Looks, Figures, Readings, Other int }

// All is their sum.
func (t Taps) All() int { return t.Ticks + t.Strokes + t.Looks + t.Figures + t.Readings + t.Other }

// blame takes down what went wrong, for the end.
func (t *tech) blame(s Slip, of string, p simulate.Part) {
	t.out.Causes = append(t.out.Causes, Cause{s, of, p})
}

// truth is what is wrong with the vehicle now, as the signs know it: the faults left and what hands brought in.
func (t *tech) truth() (out []diagnose.Suspect) {
	for _, f := range t.v.Faults() {
		if !t.gone(f.ID) {
			out = append(out, diagnose.Suspect{ID: f.ID, At: f.At})
		}
	}
	for _, c := range t.Intake.System.Circuits {
		if t.v.AirCM3(c.ID) > 1.2 {
			out = append(out, diagnose.Suspect{ID: "circuit.air", At: c.ID})
		}
	}
	return out
}

// gone says whether a fault is none any more though no part was changed for it: air is counted by what is there, wet
// and low fluid were changed or filled.
func (t *tech) gone(id string) bool {
	return id == "circuit.air" || id == "fluid.wet" && t.fluidNew() || id == "fluid.low" && t.v.LevelShare() > 0.6
}

func (t *tech) fluidNew() bool { old, all := t.v.OldCM3(); return old < 0.3*all }

// end takes down what came of it.
func (t *tech) end(err error) {
	o := &t.out
	o.FluidCM3 = t.v.PouredCM3()
	o.Minutes = t.At.Sub(t.CreatedAt).Minutes()
	var stuck errStuck
	switch {
	case errors.Is(err, errParked):
		o.Parked = true
	case errors.As(err, &stuck):
		o.DeadEnd = stuck.why
	case err != nil:
		o.DeadEnd = err.Error()
	}
	for _, m := range t.v.Marks() {
		if m.What == simulate.Jet || m.What == simulate.Shock {
			o.Hurt = append(o.Hurt, m)
		}
	}
	for _, a := range t.v.Ninety() {
		if a.Harm == simulate.FaultLeft && t.gone(a.Of) {
			continue
		}
		switch {
		case a.Kind == simulate.Unsafe && o.Released:
			o.Unsafe = append(o.Unsafe, a)
		case a.Kind != simulate.Unsafe:
			o.Back = append(o.Back, a)
		}
	}
	o.Clean = len(t.v.Ninety()) == 0 ||
		!slices.ContainsFunc(t.v.Ninety(), func(a simulate.After) bool { return !(a.Harm == simulate.FaultLeft && t.gone(a.Of)) })
	o.Right = o.Released && len(o.Unsafe) == 0 &&
		!slices.ContainsFunc(o.Back, func(a simulate.After) bool { return a.Harm == simulate.FaultLeft })
}

// Why is what a consequence goes back to: the last slip or lie on its part, else of its kind.
func (o *Outcome) Why(a simulate.After) Cause {
	if a.Harm == simulate.FaultLeft {
		return Cause{Slip: LeftByDiagnose, Of: a.Of}
	}
	for _, c := range slices.Backward(o.Causes) {
		if string(c.part) != "" && string(c.part) == a.Of {
			return c
		}
	}
	for _, c := range slices.Backward(o.Causes) {
		if slices.Contains(leadsTo[c.Slip], a.Harm) || c.part != "" && slices.Contains(partLeads[c.part], a.Harm) {
			return c
		}
	}
	return Cause{Slip: Unexplained, Of: string(a.Harm) + " " + a.Of}
}

// leadsTo are the consequences of slips that are of no part.
var leadsTo = map[Slip][]simulate.Harm{
	SlipFootUp:    {simulate.AirTakes, simulate.AirSoft},
	SlipLevel:     {simulate.AirTakes, simulate.AirSoft, simulate.RunsLow},
	SlipBench:     {simulate.AirTakes, simulate.AirSoft},
	SlipWheel:     {simulate.AirTakes, simulate.AirSoft},
	SlipCount:     {simulate.AirTakes, simulate.AirSoft},
	SlipDoubleTap: {simulate.AirTakes, simulate.AirSoft},
	LieLook:       {simulate.AirTakes, simulate.AirSoft},
	SlipExchanged: {simulate.LinesCrossed},
	SlipAlike:     {simulate.WrongUnit},
	SlipBottle:    {simulate.CupsSwell},
	SlipRod:       {simulate.Drags, simulate.RodShort},
	LieReading:    {simulate.Drags, simulate.RodShort, simulate.AirTakes, simulate.AirSoft, simulate.RunsLow, simulate.JointLeaks},
}

// partLeads are those of a part that is none of the vehicle's own.
var partLeads = map[simulate.Part][]simulate.Harm{
	"air":   {simulate.AirTakes, simulate.AirSoft},
	"rod":   {simulate.Drags, simulate.RodShort},
	"paint": {simulate.Peels},
	"level": {simulate.RunsLow},
}
