package job

import (
	"encoding/json"
	"errors"
	"slices"
	"strings"
	"time"

	"geminate/brake/match"
	"geminate/brake/pedal"
	"geminate/brake/system"
)

// The known-good pedal of a vehicle: the readings of a good job, kept with one tap once it is released.

// KnownGood says that this vehicle's pedal, as it was read before the release, is its own.
type KnownGood struct{}

// Valid implements Body.
func (*KnownGood) Valid() error { return nil }

// Check implements Body: only what was released is known to be good, and only readings can be fitted to.
func (*KnownGood) Check(j *Job) error {
	if j.State.ReleasedAt == nil {
		return ErrNotReleased
	}
	if a := j.State.Air; a != nil && a.Verdict == pedal.Air {
		return fault("$.data", "fault.known_air", nil)
	}
	_, err := j.fitKnown()
	return err
}

// Apply implements Body.
func (*KnownGood) Apply(j *Job, e *Event) {
	at := e.At
	j.State.KnownGoodAt = &at
}

// fitKnown is the system with its pedal as it was read. Where the vehicle's pedal is known already and its wheels were
// left alone, the oldest link of the chain stands and nothing is fitted anew: what a fit could not tell last time would
// else be taken over as elasticity each time, and air hidden in it for good.
func (j *Job) fitKnown() (*system.System, error) {
	var readings []pedal.Reading
	f, there := j.State.Findings[PhaseVerify]["pedal.readings"]
	if !there || json.Unmarshal(f.Value, &readings) != nil {
		return nil, fault("$.data", "fault.known_readings", nil)
	}
	s, err := pedal.Known(j.Fitted(), readings)
	if err == nil && j.pedalKnown() {
		return j.Fitted(), nil
	}
	switch {
	case errors.Is(err, pedal.ErrFar):
		return nil, fault("$.data", "fault.known_far", nil)
	case err != nil:
		return nil, fault("$.data", "fault.known_readings", nil)
	}
	return s, nil
}

// KnownSystem is the system as a later job of this vehicle begins with, and from which day its pedal is known ("" where
// it is not), the oldest since its wheels were last worked at: the figures as last corrected, with what was fitted, and
// where a good pedal was kept with that pedal.
func (j *Job) KnownSystem() (*system.System, string) {
	if j.pedalKnown() { // the chain holds, whether this job's pedal was kept or not
		if j.State.ReleasedAt != nil {
			return j.Fitted(), j.Intake.PedalFrom
		}
		return j.Intake.System, j.Intake.PedalFrom
	}
	if j.State.KnownGoodAt != nil {
		if s, err := j.fitKnown(); err == nil {
			return s, j.State.ReleasedAt.Format(time.DateOnly)
		}
	}
	if j.State.ReleasedAt != nil {
		return j.Fitted(), ""
	}
	return j.Intake.System, ""
}

// pedalKnown says whether this job may be held against the vehicle's known-good pedal: its figures were set from it,
// and the wheels, whose clearances and elasticity they are, are not what is worked at.
func (j *Job) pedalKnown() bool {
	s := j.Choices.Scope
	return j.Intake.PedalFrom != "" && s != match.Elsewhere && s != match.ElsewhereOpened
}

// Again is the intake of another job on the same vehicle: what it is and has, nothing of what was wrong or done.
func (j *Job) Again() Intake {
	in := j.Intake
	s, from := j.KnownSystem()
	return Intake{
		Customer:  in.Customer,
		Vehicle:   in.Vehicle,
		Plate:     in.Plate,
		VIN:       in.VIN,
		Pattern:   in.Pattern,
		System:    s,
		PedalFrom: from,
		Tools:     in.Tools,
		Hands:     in.Hands,
		Practice:  in.Practice,
	}
}

// mayKeepPedal says whether this job's pedal can be kept as the vehicle's own.
func (j *Job) mayKeepPedal() bool {
	return j.State.KnownGoodAt == nil && (&KnownGood{}).Check(j) == nil
}

// NotedFigure is a figure that was measured or set on the vehicle.
type NotedFigure struct {
	Step  string  `json:"step,omitempty"` // of the plan, where a torque was set
	NM    float64 `json:"nm,omitempty"`
	MM    float64 `json:"mm,omitempty"`
	Which string  `json:"which,omitempty"` // of what was measured: a point compared
}

// noted gathers the sizes measured and the torques set, for the vehicle's page.
func (j *Job) noted() []NotedFigure {
	out := []NotedFigure{}
	if o := j.Choices.Old; o != nil {
		for which, v := range map[string]*float64{"bore": o.BoreMM, "mounting": o.StudSpacingMM, "pocket": o.PocketMM} {
			if v != nil {
				out = append(out, NotedFigure{Which: which, MM: *v})
			}
		}
	}
	for step, t := range j.State.Ticks {
		if t.TorqueNM != nil {
			out = append(out, NotedFigure{Step: step, NM: *t.TorqueNM})
		}
	}
	slices.SortFunc(out, func(a, b NotedFigure) int { return strings.Compare(a.Which+a.Step, b.Which+b.Step) })
	return out
}
