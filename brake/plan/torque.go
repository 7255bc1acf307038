package plan

import (
	"maps"
	"slices"

	"geminate/brake/system"
	"geminate/brake/units"
)

// Torque is the range a joint takes, N·m. Maker says that it is the maker's own; where none is given common practice
// stands.
type Torque struct {
	LowNM  float64 `json:"low_nm"`
	HighNM float64 `json:"high_nm"`
	Maker  bool    `json:"maker,omitempty"`
	// ByHand: where no wrench gets at it, hand feel may be stated instead, as a fault of the record.
	ByHand bool `json:"by_hand,omitempty"`
	// Fasteners are how many there are of it: a wrench clicks at each.
	Fasteners int `json:"fasteners"`
}

// fasteners are how many a joint is of: a cylinder hangs on two studs, a booster on four, a coupler on four bolts
// (common practice, no source; a joint that has fewer is typed), nuts and screws by the vehicle.
func fasteners(step string, s *system.System) int {
	switch step {
	case "fit.cylinder_nuts", "fit.pressure_lines":
		return 2
	case "fit.firewall_nuts", "fit.actuator_bolts":
		return 4
	case "fit.line_nuts":
		return len(s.Circuits)
	case "fit.modulator_lines":
		return len(s.Circuits) + len(s.Wheels)
	case "close.bleeder_screws":
		return len(s.Wheels)
	}
	return 1
}

// torques are common practice, no source: cylinder to booster 160–300 in·lbf by maker, booster to
// firewall about 21 ft·lbf, bleeders about 8 ft·lbf; line nuts and coupler bolts: assumption.
var torques = map[string]Torque{
	"fit.cylinder_nuts":    {LowNM: 18, HighNM: 34},
	"fit.firewall_nuts":    {LowNM: 22, HighNM: 34},
	"fit.line_nuts":        {LowNM: 13, HighNM: 20, ByHand: true},
	"fit.modulator_lines":  {LowNM: 13, HighNM: 20, ByHand: true},
	"fit.actuator_bolts":   {LowNM: 40, HighNM: 70},
	"fit.pressure_lines":   {LowNM: 20, HighNM: 34, ByHand: true},
	"close.bleeder_screws": {LowNM: 8, HighNM: 13},
}

// A maker's own range lies within what such a joint can take at all: from so much of common practice's least to so much
// of its most, and no wider than makers print one. Assumptions: an M10 nut gives way at three times what it is
// tightened to, a hollow bleeder sooner.
const (
	makerLeast, makerMost = 0.4, 2.0
	makerWidest           = 2.5
)

// TorqueBounds are the least and the most a maker's range of a step may say, N·m.
func TorqueBounds(step string) (least, most float64) {
	t := torques[step]
	return makerLeast * t.LowNM, makerMost * t.HighNM
}

// Plausible says whether a range can be a maker's for a step.
func Plausible(step string, lowNM, highNM float64) bool {
	least, most := TorqueBounds(step)
	return lowNM >= least && highNM <= most && lowNM <= highNM && highNM <= makerWidest*lowNM
}

// TorqueSteps are the steps that have a torque.
func TorqueSteps() []string { return slices.Sorted(maps.Keys(torques)) }

func torqueOf(step string, maker map[string]Torque, s *system.System) *Torque {
	t, ok := torques[step]
	if !ok {
		return nil
	}
	if own, said := maker[step]; said {
		t.LowNM, t.HighNM, t.Maker = own.LowNM, own.HighNM, true
	}
	t.Fasteners = fasteners(step, s)
	return &t
}

// Judge holds a torque against the range, knowing the unit it was read in.
func (t Torque) Judge(torqueNM float64, unit string) (units.TorqueVerdict, error) {
	return units.JudgeTorque(torqueNM, t.LowNM, t.HighNM, unit)
}
