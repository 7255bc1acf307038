package job

import "slices"

// Band is what a job in the bay waits for, in the order somebody looking across the shop should see it.
type Band string

// Bands. A job that is over has none.
const (
	// BandParked is not to be driven, and not to be lost sight of.
	BandParked Band = "parked"
	// BandTime waits for a clock that runs: a soak, a hold, a look at joints after the pressure stood.
	BandTime Band = "time"
	// BandSecond waits for somebody else's eyes.
	BandSecond Band = "second"
	// BandHands waits for the next step, wheel or check.
	BandHands Band = "hands"
	// BandPart waits for the unit: chosen, got, and held against the old one.
	BandPart Band = "part"
	// BandDecision waits for what is wrong or what to do.
	BandDecision Band = "decision"
	// BandPlanned is put down for a later day.
	BandPlanned Band = "planned"
)

// Bands lists them in the bay's order.
var Bands = []Band{BandParked, BandTime, BandSecond, BandHands, BandPart, BandDecision, BandPlanned}

// partSteps are the steps that wait for the new unit to lie on the bench.
var partSteps = []string{"prepare.compare_on_bench"}

// band says which band a job stands in, from what it waits for.
func (j *Job) band(s *Status) Band {
	limited := func(t Timer) bool { return t.Seconds > 0 }
	switch {
	case s.Standing == StandsParked:
		return BandParked
	case s.Standing != StandsOpen:
		return ""
	case slices.ContainsFunc(j.State.Running(), limited):
		return BandTime
	case s.WaitsFor == "waits.check" && s.Detail == secondLook:
		return BandSecond
	case s.At == "match", s.WaitsFor == "waits.step" && slices.Contains(partSteps, s.Detail):
		return BandPart
	case s.At == "intake", s.At == "diagnose":
		return BandDecision
	}
	return BandHands
}
