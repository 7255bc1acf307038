package system

import "slices"

// VehicleKind is what the cylinder works, and what pushes it.
type VehicleKind string

// Kinds of vehicles.
const (
	Road    VehicleKind = "road"    // brakes, by a foot
	Trailer VehicleKind = "trailer" // brakes, by a coupler: nobody sits in it
	Clutch  VehicleKind = "clutch"  // a clutch, by a foot: nothing here brakes
)

// VehicleKinds lists them.
var VehicleKinds = []VehicleKind{Road, Trailer, Clutch}

// Trait is a thing that a vehicle has or has not: what a sign, a step or a sentence may speak of.
type Trait string

// Traits.
const (
	HasFoot         Trait = "foot" // a pedal and somebody in a seat before it
	HasHood         Trait = "hood" // what is under it, and a cabin behind the firewall
	HasParkingBrake Trait = "parking_brake"
	HasBrakes       Trait = "brakes"
	HasCoupler      Trait = "coupler"
	HasClutch       Trait = "clutch"
	HasBooster      Trait = "booster"
	HasVacuum       Trait = "vacuum"
	HasPressure     Trait = "pressure"
	HasSteering     Trait = "steering"
	HasModulator    Trait = "modulator"
	HasCodes        Trait = "codes" // a computer that stores them
)

// AllTraits lists them.
var AllTraits = []Trait{
	HasFoot,
	HasHood,
	HasParkingBrake,
	HasBrakes,
	HasCoupler,
	HasClutch,
	HasBooster,
	HasVacuum,
	HasPressure,
	HasSteering,
	HasModulator,
	HasCodes,
}

// kinds is what each kind of vehicle has, whatever helps the foot.
var kinds = map[VehicleKind][]Trait{
	Road:    {HasFoot, HasHood, HasParkingBrake, HasBrakes},
	Trailer: {HasBrakes, HasCoupler},
	Clutch:  {HasFoot, HasHood, HasClutch, HasParkingBrake},
}

// VehicleKind is the kind of this system's vehicle.
func (s *System) VehicleKind() VehicleKind {
	switch {
	case s.IsTrailer():
		return Trailer
	case s.IsClutch():
		return Clutch
	}
	return Road
}

// Unassisted is how a text that speaks of no booster is told apart, beside the kinds of vehicles.
const Unassisted = "unassisted"

// Spoken is how words speak of this vehicle: a text that differs by it has one of its own for the first of these that
// it has.
func (s *System) Spoken() []string {
	out := []string{}
	if k := s.VehicleKind(); k != Road {
		out = append(out, string(k))
	}
	if !s.Assist().Powered() {
		out = append(out, Unassisted)
	}
	return out
}

// Has says whether the vehicle has a thing.
func (s *System) Has(t Trait) bool {
	a := s.Assist()
	switch t {
	case HasBooster:
		return a.Powered()
	case HasVacuum:
		return a.Vacuum
	case HasPressure:
		return a.Pressure
	case HasSteering:
		return a.Steering
	case HasModulator:
		return s.Modulator != nil
	case HasCodes:
		return s.Modulator != nil || a.ToolLed
	}
	return slices.Contains(kinds[s.VehicleKind()], t)
}
