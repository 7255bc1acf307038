package stand

import "slices"

// Of is which unit an act was done for: with another unit it was not done.
type Of int

// What an act is of.
const (
	OfVehicle  Of = iota
	OfCylinder    // the cylinder that goes on
	OfBooster
	OfPair // cylinder and booster together
)

// Proof is what shows, beside its being told, that an act was really done. It counts only where what the act needs
// stood when it was told.
type Proof int

// Proofs.
const (
	ByWord       Proof = iota // whoever did it says so
	BySideBySide              // new held against old, none of them not fitting
	ByMeter                   // next to no volts, the wait over, by somebody trained
	ByGap                     // the rod's gap, measured and in its limits
	ByTouch                   // the rod set by touch and turn, inside its window
	ByNoWrongGap              // no figure that says the rod is wrong
	ByStrokes                 // the bench's strokes
	ByCracks                  // each port cracked under the foot
	ByCycles                  // lock to lock until no foam came
	ByBottle                  // the bottle that was poured is known and good
)

// Places small parts come off.
const (
	AtPedal   = "pedal_pin"
	AtStud    = "stud"
	AtOldUnit = "old_unit"
	AtElse    = "elsewhere"
)

// Act is one thing hands do that a person tells: a step of the plan.
type Act struct {
	Step  string
	Thing Thing
	// To is how the thing is afterwards.
	To State
	Of Of
	// Needs are the acts that must stand for it, where the plan at hand has them.
	Needs []string
	// After: it was done only if none of these has been opened, loosened, moved or poured out since.
	After []Thing
	// Opens: brake fluid comes out, air can get in.
	Opens bool
	// Proof is what shows that it was really done. Counted is read from what was counted and never told.
	Proof   Proof
	Counted bool
	// Parts are where small parts came off that go back on with it.
	Parts []string
	// Absent: a vehicle may be without it.
	Absent bool
	// LeastS is the least it takes, s. Assumptions, each far below what a practised hand needs: a minute cannot hold
	// three.
	LeastS float64
}

// Times acts take at the least, s. Assumption.
const (
	aLook  = 3.0
	aGrip  = 8.0
	aPart  = 15.0
	aJoint = 30.0
)

// off and on are a part's two acts, with what it takes.
func off(step string, t Thing, s float64) Act { return Act{Step: step, Thing: t, To: Off, LeastS: s} }
func on(step string, t Thing, s float64) Act  { return Act{Step: step, Thing: t, To: Back, LeastS: s} }

func (a Act) absent() Act               { a.Absent = true; return a }
func (a Act) opens() Act                { a.Opens = true; return a }
func (a Act) of(o Of) Act               { a.Of = o; return a }
func (a Act) needs(steps ...string) Act { a.Needs = steps; return a }
func (a Act) after(things ...Thing) Act { a.After = things; return a }
func (a Act) proof(by Proof) Act        { a.Proof = by; return a }
func (a Act) parts(at ...string) Act    { a.Parts = at; return a }
func made1(step string, t Thing, s float64) Act {
	return Act{Step: step, Thing: t, To: Done, LeastS: s}
}

// opened are the connections and units whose opening asks for washing and counting anew.
var opened = []Thing{Lines, RemoteHoses, ModulatorLines, PressureLines, Cylinder, ActuatorBolts, Firewall, PedalEnd, Elsewhere}

// Acts are all of them.
var Acts = slices.Concat([]Act{
	made1("prepare.chock", Vehicle, aGrip),
	made1("prepare.cover_paint", Paint, aGrip).absent(),
	made1("prepare.unpack", Box, aPart).of(OfPair),
	made1("prepare.tag_lines", Tags, aGrip).absent(),
	made1("prepare.penetrant", Penetrant, aGrip).absent(),
	made1("prepare.compare_on_bench", Compared, aPart).of(OfPair).proof(BySideBySide),

	off("safe.uncouple", Coupling, aPart), on("close.couple", Coupling, aPart),
	off("safe.engine_off", Engine, aLook),
	off("safe.pump_empty", Vacuum, aGrip).needs("safe.engine_off"),
	off("safe.discharge_accumulator", Accumulator, aJoint).needs("safe.engine_off"),
	off("safe.scan_tool_release", LinePressure, aJoint),
	off("safe.negative_off", Power, aPart),
	off("safe.service_plug", Plug, aPart).needs("safe.negative_off"),
	made1("safe.isolate_high_voltage", Voltage, aPart).needs("safe.negative_off", "safe.service_plug").after(Power, Plug).proof(ByMeter),
	off("safe.batteries_off", Batteries, aPart),
	off("safe.empty_reservoir", Reservoir, aPart),

	off("strip.shoe_and_rod", Shoe, aPart), on("fit.shoe_and_rod", Shoe, aPart),
	off("strip.sensor_plug", SensorPlug, aGrip).absent(), on("fit.sensor_plug", SensorPlug, aGrip).absent(),
	off("strip.pressure_sensors", PressureSensors, aGrip).absent(), on("fit.pressure_sensors", PressureSensors, aGrip).absent(),
	off("strip.main_connector", MainConnector, aGrip), on("fit.main_connector", MainConnector, aGrip),
	off("strip.remote_hoses", RemoteHoses, aPart).opens().absent(), on("fit.remote_hoses", RemoteHoses, aPart).absent(),
	off("strip.neighbour_line", NeighbourLine, aPart).absent(), on("fit.neighbour_line", NeighbourLine, aPart).absent(),
	off("strip.modulator_lines", ModulatorLines, aJoint).opens().absent(), on("fit.modulator_lines", ModulatorLines, aJoint).absent(),
	off("strip.lines_off", Lines, aJoint).opens(), on("fit.line_nuts", Lines, aJoint),
	made1("strip.plug_lines", LineCaps, aGrip).after(Lines),
	{Step: "fit.start_nuts_snug", Thing: Lines, To: Started, LeastS: aPart},
	{Step: "fit.start_nuts_loose", Thing: Lines, To: Started, LeastS: aPart},
	off("strip.stacked_bracket", StackedBracket, aPart).absent(), on("fit.stacked_bracket", StackedBracket, aPart).absent(),
	off("strip.actuator_bolts", ActuatorBolts, aJoint), on("fit.actuator_bolts", ActuatorBolts, aJoint).of(OfCylinder),
	off("strip.cylinder_off", Cylinder, aJoint),
	{Step: "strip.cylinder_aside", Thing: Cylinder, To: Aside, LeastS: aJoint},
	on("fit.cylinder_nuts", Cylinder, aJoint).of(OfCylinder).parts(AtStud, AtOldUnit),
	made1("strip.look_in_booster", Mouth, aLook),
	off("strip.pressure_plate", Plate, aPart).absent(), on("fit.pressure_plate", Plate, aPart).absent(),
	off("strip.vacuum_hose", VacuumHose, aGrip), on("fit.check_valve_hose", VacuumHose, aGrip),
	off("strip.pressure_lines", PressureLines, aJoint), on("fit.pressure_lines", PressureLines, aJoint),
	off("strip.kick_panel", KickPanel, aPart).absent(), on("fit.kick_panel", KickPanel, aPart).absent(),
	off("strip.pedal_end", PedalEnd, aJoint), on("fit.pedal_end", PedalEnd, aJoint).parts(AtPedal),
	off("strip.firewall_nuts", Firewall, aJoint), on("fit.firewall_nuts", Firewall, aJoint).of(OfBooster),
	made1("fit.face_paper", FacePaper, aLook).of(OfBooster).absent(),
	made1("fit.face_seal", Face, aGrip).after(Cylinder, Firewall),

	made1("rod.coupler_moved", Coupler, aGrip).of(OfPair),
	made1("rod.actuator_free", ActuatorFree, aGrip).of(OfCylinder),
	made1("rod.measure", Rod, aJoint).of(OfPair).after(Coupler).proof(ByGap),
	made1("rod.touch_and_turn", Rod, aJoint).of(OfPair).after(Coupler).needs("fit.firewall_nuts").proof(ByTouch),
	made1("rod.as_supplied", Rod, aLook).of(OfPair).after(Coupler).proof(ByNoWrongGap),
	made1("rod.compare", Rod, aPart).of(OfPair).after(Coupler).proof(ByNoWrongGap),
	made1("rod.reservoir_moved", ReservoirBody, aPart).of(OfCylinder),
	made1("rod.port_fitting", PortFitting, aPart).of(OfCylinder),
	made1("rod.side_plugs", SidePlugs, aGrip).of(OfCylinder),
	made1("fit.bench_bled", Bench, aLook).of(OfCylinder).after(PortFitting, SidePlugs, ReservoirBody).proof(ByStrokes),
	made1("fit.bled_on_vehicle", Bench, aLook).of(OfCylinder).after(Cylinder, Lines).needs("close.fill").proof(ByCracks),

	{Step: "close.fill", Thing: Reservoir, To: Back, LeastS: aPart, Proof: ByBottle},
	{Step: "close.bleed", Thing: Wheels, To: Done, Counted: true},
	on("close.bleeder_screws", Bleeders, aPart),
	made1("close.wash", Joints, aPart).after(append([]Thing{Fluid}, opened...)...),
	made1("close.count_out", Tools, aLook).after(opened...),
	made1("close.level_unchanged", Level, aLook).after(append([]Thing{Fluid}, opened...)...),
	made1("close.steering_bleed", Steering, aLook).after(PressureLines).needs("close.batteries_on").proof(ByCycles),
	on("close.batteries_on", Batteries, aPart),
	on("close.service_plug", Plug, aPart),
	on("close.negative_on", Power, aPart).needs("close.service_plug", "fit.main_connector", "fit.sensor_plug", "fit.pressure_sensors"),

	off("elsewhere.opened", Elsewhere, aPart).opens(),
	made1("elsewhere.repaired", Elsewhere, aPart),
}, overActs())

func overActs() []Act {
	var out []Act
	for _, t := range Over {
		out = append(out, off("strip."+string(t), t, aPart).absent(), on("fit."+string(t), t, aPart).absent())
	}
	return out
}

var byStep = func() map[string]*Act {
	out := make(map[string]*Act, len(Acts))
	for i := range Acts {
		out[Acts[i].Step] = &Acts[i]
	}
	return out
}()

var byThing = func() map[Thing][]*Act {
	out := map[Thing][]*Act{}
	for i := range Acts {
		out[Acts[i].Thing] = append(out[Acts[i].Thing], &Acts[i])
	}
	return out
}()

// Find gives the act of a step; nil for a step of the technician's own.
func Find(step string) *Act { return byStep[step] }

// Takes says whether an act leaves its thing off or aside.
func (a *Act) Takes() bool { return a.To == Off || a.To == Aside }
