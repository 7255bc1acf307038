package plan

import "geminate/brake/stand"

// Touches is what a step of the technician's own touches: what was read of it before proves nothing any more.
type Touches string

// What such a step may touch.
const (
	TouchesNothing Touches = "nothing"
	TouchesWheel   Touches = "wheel"
	TouchesJoint   Touches = "joint"
	TouchesPedal   Touches = "pedal"
	TouchesFluid   Touches = "fluid"
	TouchesWiring  Touches = "wiring"
	TouchesAll     Touches = "all"
)

// AllTouches lists them, the widest last: that is what an own step touches where nobody said.
var AllTouches = []Touches{TouchesNothing, TouchesWheel, TouchesJoint, TouchesPedal, TouchesFluid, TouchesWiring, TouchesAll}

// touchedThings are the things of the account behind each.
var touchedThings = map[Touches][]stand.Thing{
	TouchesNothing: {},
	TouchesWheel:   {stand.Elsewhere, stand.RoadWheels, stand.Bleeders},
	TouchesJoint:   {stand.Lines, stand.Cylinder, stand.Firewall, stand.Face, stand.VacuumHose, stand.PressureLines, stand.ActuatorBolts},
	TouchesPedal:   {stand.Rod, stand.PedalEnd, stand.SmallParts},
	TouchesFluid:   {stand.Reservoir, stand.Fluid},
	TouchesWiring:  {stand.SensorPlug, stand.PressureSensors, stand.MainConnector, stand.Batteries},
}

// TouchedBy are the things an own step touches.
func TouchedBy(t Touches) []stand.Thing {
	if things, known := touchedThings[t]; known {
		return things
	}
	return stand.Figures
}
