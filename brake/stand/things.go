package stand

import "slices"

// Thing is one thing on, at or in the vehicle that work can change. Where a thing is a part of the joint its name is
// the part's.
type Thing string

// State is how a thing is.
type State string

// States. A thing nobody has touched is AsFound.
const (
	AsFound State = "as_found"
	Off     State = "off"     // not where it belongs: taken off, open, drawn out, let out, switched off
	Aside   State = "aside"   // off its studs, hanging on its lines
	Started State = "started" // its thread caught by hand, not tight
	Back    State = "back"    // where it belongs and fast: on, tight, connected, filled, switched on
	Done    State = "done"    // what had to be made sure of was
	Loose   State = "loose"   // back once, and opened, cracked or moved since
	Absent  State = "absent"  // this vehicle has none
)

// The things.
const (
	Vehicle   Thing = "vehicle" // chocked
	Paint     Thing = "paint"   // covered
	Coupling  Thing = "coupling"
	Box       Thing = "box"      // unpacked against the list
	Compared  Thing = "compared" // new against old
	Tags      Thing = "tags"
	Penetrant Thing = "penetrant"

	Engine       Thing = "engine"
	Vacuum       Thing = "vacuum"        // stored in the booster
	Accumulator  Thing = "accumulator"   // pressure stored in a hydraulic booster
	LinePressure Thing = "line_pressure" // held by an electro-hydraulic unit
	Power        Thing = "power"         // the negative terminal of a hybrid
	Plug         Thing = "service_plug"
	Voltage      Thing = "voltage" // proven gone
	Batteries    Thing = "battery" // of a vehicle with two

	Reservoir Thing = "reservoir" // what stands in it
	Fluid     Thing = "fluid"     // in circuits and reservoir: any that was moved
	Joints    Thing = "joints"    // washed and wiped dry
	Tools     Thing = "tools"     // counted out again

	Lines           Thing = "lines"
	LineCaps        Thing = "line_caps"
	RemoteHoses     Thing = "remote_hoses"
	ModulatorLines  Thing = "modulator_lines"
	NeighbourLine   Thing = "neighbour_line"
	SensorPlug      Thing = "sensor_plug"
	PressureSensors Thing = "pressure_sensors"
	MainConnector   Thing = "main_connector" // of an electro-hydraulic unit
	StackedBracket  Thing = "stacked_bracket"
	Shoe            Thing = "shoe_and_rod" // of a trailer
	ActuatorBolts   Thing = "actuator_bolts"
	Cylinder        Thing = "cylinder"
	Mouth           Thing = "booster_mouth" // looked into with the cylinder off
	Plate           Thing = "pressure_plate"
	VacuumHose      Thing = "vacuum_hose"
	PressureLines   Thing = "pressure_lines"
	KickPanel       Thing = "kick_panel"
	PedalEnd        Thing = "pedal_end"
	Firewall        Thing = "firewall_nuts" // the booster on its wall
	Face            Thing = "booster_face"  // seal between cylinder and booster
	FacePaper       Thing = "face_paper"

	Coupler       Thing = "coupler" // rod coupler, clip and collar out of the old unit
	Rod           Thing = "rod"
	ActuatorFree  Thing = "actuator"
	Bench         Thing = "bench" // the new cylinder bled in the vice, or on the vehicle
	ReservoirBody Thing = "reservoir_body"
	PortFitting   Thing = "port_fitting"
	SidePlugs     Thing = "side_plugs"

	Bleeders   Thing = "bleeders"
	RoadWheels Thing = "road_wheels"
	Wheels     Thing = "wheels" // bled: what every wheel's own marks come to
	Steering   Thing = "steering"
	Modulator  Thing = "modulator"
	Simulator  Thing = "simulator"
	Learn      Thing = "learn"
	Codes      Thing = "codes"
	Elsewhere  Thing = "elsewhere" // what was repaired at another place: a wheel, a line, the supply
	Level      Thing = "level"     // seen unchanged where nothing was opened
	SmallParts Thing = "small_parts"
)

// Entry is one thing with what it may be.
type Entry struct {
	Thing  Thing
	States []State
}

var (
	connection = []State{AsFound, Off, Started, Back, Loose, Absent}
	removable  = []State{AsFound, Off, Back, Absent}
	made       = []State{AsFound, Done}
	energy     = []State{AsFound, Off, Back}
)

// Things lists every thing and its states; what lies over the joint follows from Over.
var Things = append([]Entry{
	{Vehicle, made},
	{Paint, made},
	{Coupling, energy},
	{Box, made},
	{Compared, made},
	{Tags, made},
	{Penetrant, []State{AsFound, Done, Absent}},
	{Engine, energy},
	{Vacuum, energy},
	{Accumulator, energy},
	{LinePressure, energy},
	{Power, energy},
	{Plug, energy},
	{Voltage, made},
	{Batteries, energy},
	{Reservoir, []State{AsFound, Off, Back, Loose}},
	{Fluid, []State{AsFound, Loose}},
	{Joints, []State{AsFound, Done, Loose}},
	{Tools, []State{AsFound, Done, Loose}},
	{Lines, connection},
	{LineCaps, made},
	{RemoteHoses, connection},
	{ModulatorLines, connection},
	{NeighbourLine, removable},
	{SensorPlug, removable},
	{PressureSensors, removable},
	{MainConnector, removable},
	{StackedBracket, removable},
	{Shoe, removable},
	{ActuatorBolts, connection},
	{Cylinder, []State{AsFound, Off, Aside, Back}},
	{Mouth, made},
	{Plate, removable},
	{VacuumHose, removable},
	{PressureLines, connection},
	{KickPanel, removable},
	{PedalEnd, removable},
	{Firewall, connection},
	{Face, []State{AsFound, Done, Loose}},
	{FacePaper, []State{AsFound, Done, Absent}},
	{Coupler, made},
	{Rod, made},
	{ActuatorFree, made},
	{Bench, []State{AsFound, Done, Loose}},
	{ReservoirBody, made},
	{PortFitting, made},
	{SidePlugs, made},
	{Bleeders, []State{AsFound, Back, Loose}},
	{RoadWheels, []State{AsFound, Loose}},
	{Wheels, made},
	{Steering, []State{AsFound, Done, Loose}},
	{Modulator, made},
	{Simulator, made},
	{Learn, made},
	{Codes, made},
	{Elsewhere, []State{AsFound, Off, Done}},
	{Level, []State{AsFound, Done, Loose}},
	{SmallParts, []State{AsFound, Off, Back}},
}, overEntries()...)

// Over are the things that may lie over the joint, in the order they come off.
var Over = []Thing{"air_box", "neighbour_bracket", "wiper_cowl", "linkage_tray", "strut_brace", "dipstick_tube", "floor_tray"}

func overEntries() []Entry {
	out := make([]Entry, 0, len(Over))
	for _, t := range Over {
		out = append(out, Entry{t, removable})
	}
	return out
}

// Sets of things that evidence speaks of together.
var (
	connections = []Thing{Lines, RemoteHoses, ModulatorLines, PortFitting, SidePlugs, ReservoirBody, Bleeders}
	boosterSide = []Thing{Firewall, VacuumHose, PressureLines, Plate, Face, Steering, Elsewhere}
	hydraulics  = join(connections, boosterSide,
		[]Thing{Reservoir, Fluid, Cylinder, StackedBracket, ActuatorBolts, Bench, Rod, Coupler, Modulator, Simulator})
	rodSide = []Thing{
		Rod,
		Coupler,
		Shoe,
		ActuatorFree,
		PedalEnd,
		SmallParts,
		Firewall,
		VacuumHose,
		PressureLines,
		Plate,
		Face,
		Elsewhere,
	}
	electrics = []Thing{SensorPlug, PressureSensors, MainConnector, Batteries, Power, Plug, Modulator, Learn, Codes, Elsewhere}
	assist    = join(boosterSide, []Thing{Rod, Coupler})
)

func join(lists ...[]Thing) []Thing {
	var out []Thing
	for _, l := range lists {
		out = append(out, l...)
	}
	return out
}

// Figures are the things whose evidence is judged by the figures of the system and of the units on it: with other
// figures what was read is judged anew.
var Figures = func() []Thing {
	out := []Thing{}
	for _, list := range [][]Thing{hydraulics, boosterSide, rodSide, electrics} {
		for _, t := range list {
			if !slices.Contains(out, t) {
				out = append(out, t)
			}
		}
	}
	return append(out, RoadWheels)
}()
