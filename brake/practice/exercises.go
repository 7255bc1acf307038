// Package practice is the bay in which a simulated vehicle is worked on by somebody's own decisions: the exercises, what hands
// do and what they see of it, and at the end what it came to beside the engine's own way on the same vehicle.
//
// A practice job is a job like any other; what is told of the work goes there. What is done to the vehicle is done here, and
// the two may differ. The vehicle's truth never leaves this package before the exercise ends.
package practice

import (
	"geminate/brake/diagnose"
	"geminate/brake/simulate"
	"geminate/brake/system"
)

// Step is what an exercise is of.
type Step string

// The steps, in the order they are learnt.
const (
	Finding   Step = "finding"
	Deciding  Step = "deciding"
	Choosing  Step = "choosing"
	Doing     Step = "doing"
	Bleeding  Step = "bleeding"
	Verifying Step = "verifying"
	OnesOwn   Step = "free" // free practice, of no step
)

// Steps lists those exercises are of.
var Steps = []Step{Finding, Deciding, Choosing, Doing, Bleeding, Verifying}

// ID names an exercise by its step and place: what it is about is told in the end.
type ID string

// Exercise is one made-up vehicle with something to learn by it. All of them are invented.
type Exercise struct {
	ID      ID     `json:"id"`
	Step    Step   `json:"step"`
	Pattern string `json:"pattern"`
	// faults are what it has; boxed: a look-alike lies in the box; slips are what somebody left who says it is finished.
	faults []diagnose.Suspect
	boxed  bool
	slips  []slip
	seed   uint64
}

// slip is something left wrong by somebody else: what is done to the vehicle, and the part the end names it by.
type slip struct {
	part simulate.Part
	do   func(*simulate.Vehicle)
}

func at(id, where string) diagnose.Suspect { return diagnose.Suspect{ID: id, At: where} }

func off(p simulate.Part) slip {
	return slip{p, func(v *simulate.Vehicle) { v.Off(p) }}
}

// fingers leaves a nut as tight as fingers turn it.
func fingers(p simulate.Part) slip {
	return slip{p, func(v *simulate.Vehicle) { v.Start(p, false) }}
}

func tight(p simulate.Part, nm float64) slip {
	return slip{p, func(v *simulate.Vehicle) { v.DoUp(p, nm) }}
}

// The patterns, by short names.
const (
	pickup, diagonal, car       = "pickup-front-rear-vacuum", "car-diagonal-vacuum", "car-front-rear-vacuum"
	heavy, truck, hybrid        = "pickup-hydraulic", "truck-hydraulic", "hybrid-electro-hydraulic"
	manual, floor, surge, hyclu = "special-manual", "special-vacuum", "trailer-surge", "clutch-hydraulic"
)

// Exercises lists them all, in the order they are learnt.
var Exercises = []Exercise{
	{ID: "finding_1", Step: Finding, Pattern: car, faults: []diagnose.Suspect{}, seed: 11},
	{ID: "finding_2", Step: Finding, Pattern: pickup, faults: []diagnose.Suspect{at("mc.primary_cup_bypass", "")}, seed: 12},
	{ID: "finding_3", Step: Finding, Pattern: pickup, faults: []diagnose.Suspect{at("circuit.line_leak", "B")}, seed: 13},
	{ID: "finding_4", Step: Finding, Pattern: car, faults: []diagnose.Suspect{at("mc.rear_seal_leak", "")}, seed: 14},
	{ID: "finding_5", Step: Finding, Pattern: diagonal, faults: []diagnose.Suspect{at("vacuum.diaphragm_leak", "")}, seed: 15},
	{ID: "finding_6", Step: Finding, Pattern: pickup, faults: []diagnose.Suspect{at("vacuum.check_valve_leak", "")}, seed: 16},
	{ID: "finding_7", Step: Finding, Pattern: car, faults: []diagnose.Suspect{at("rod.too_long", "")}, seed: 17},
	{ID: "finding_8", Step: Finding, Pattern: pickup, faults: []diagnose.Suspect{at("wheel.leak", "LR")}, seed: 18},
	{ID: "finding_9", Step: Finding, Pattern: pickup, faults: []diagnose.Suspect{at("mc.secondary_cup_bypass", ""), at("circuit.air", "A")}, seed: 19},

	{ID: "deciding_1", Step: Deciding, Pattern: diagonal, faults: []diagnose.Suspect{at("circuit.air", "A")}, seed: 21},
	{ID: "deciding_2", Step: Deciding, Pattern: heavy, faults: []diagnose.Suspect{at("hydraulic.accumulator_lost", "")}, seed: 122},
	{ID: "deciding_3", Step: Deciding, Pattern: pickup, faults: []diagnose.Suspect{at("mc.rear_seal_leak", ""), at("vacuum.fluid_inside", "")}, seed: 23},
	{ID: "deciding_4", Step: Deciding, Pattern: heavy, faults: []diagnose.Suspect{at("hydraulic.supply_low", "")}, seed: 24},
	{ID: "deciding_5", Step: Deciding, Pattern: car, faults: []diagnose.Suspect{at("fluid.wet", "")}, seed: 25},

	{ID: "choosing_1", Step: Choosing, Pattern: pickup, faults: []diagnose.Suspect{at("mc.primary_cup_bypass", "")}, boxed: true, seed: 31},
	{ID: "choosing_2", Step: Choosing, Pattern: diagonal, faults: []diagnose.Suspect{at("mc.bore_corroded", "")}, boxed: true, seed: 32},
	{ID: "choosing_3", Step: Choosing, Pattern: car, faults: []diagnose.Suspect{at("mc.bore_too_large", "")}, boxed: true, seed: 33},

	{ID: "doing_1", Step: Doing, Pattern: diagonal, faults: []diagnose.Suspect{at("vacuum.valve_leak", "")}, seed: 41},
	{ID: "doing_2", Step: Doing, Pattern: truck, faults: []diagnose.Suspect{at("hydraulic.housing_leak", "")}, seed: 42},
	{ID: "doing_3", Step: Doing, Pattern: hybrid, faults: []diagnose.Suspect{at("electro.pressure_source", "")}, seed: 43},
	{ID: "doing_4", Step: Doing, Pattern: surge, faults: []diagnose.Suspect{at("trailer.actuator_seized", "")}, seed: 44},
	{ID: "doing_5", Step: Doing, Pattern: hyclu, faults: []diagnose.Suspect{at("mc.primary_cup_bypass", "")}, seed: 45},
	{ID: "doing_6", Step: Doing, Pattern: manual, faults: []diagnose.Suspect{at("mc.primary_cup_bypass", "")}, seed: 46},
	{ID: "doing_7", Step: Doing, Pattern: floor, faults: []diagnose.Suspect{at("mc.rear_seal_leak", "")}, seed: 47},

	{ID: "bleeding_1", Step: Bleeding, Pattern: pickup, faults: []diagnose.Suspect{at("circuit.air", "B")}, seed: 51},
	{ID: "bleeding_2", Step: Bleeding, Pattern: car, faults: []diagnose.Suspect{at("fluid.low", ""), at("circuit.air", "A")}, seed: 52},
	{ID: "bleeding_3", Step: Bleeding, Pattern: hybrid, faults: []diagnose.Suspect{at("electro.simulator_air", "")}, seed: 53},

	{ID: "verifying_1", Step: Verifying, Pattern: pickup, faults: []diagnose.Suspect{at("mc.primary_cup_bypass", "")}, seed: 61,
		slips: []slip{tight(simulate.At(simulate.Bleeder, "LR"), 2), off(simulate.SensorPlug), fingers(simulate.Cylinder)}},
	{ID: "verifying_2", Step: Verifying, Pattern: heavy, faults: []diagnose.Suspect{at("hydraulic.input_seal_leak", "")}, seed: 62,
		slips: []slip{fingers(simulate.PressureLine), off(simulate.SmallPart), fingers(simulate.Booster)}},
	{ID: "verifying_3", Step: Verifying, Pattern: diagonal, faults: []diagnose.Suspect{at("vacuum.diaphragm_leak", "")}, seed: 63,
		slips: []slip{off(simulate.VacuumHose), {"rod", func(v *simulate.Vehicle) { v.SetRod(-1) }}, fingers(simulate.Booster)}},
}

// Of gives an exercise by its id; nil where there is none.
func Of(id ID) *Exercise {
	for i := range Exercises {
		if Exercises[i].ID == id {
			return &Exercises[i]
		}
	}
	return nil
}

// Free is practice on a vehicle drawn by a seed: of a kind, with the faults the world gives.
const Free = "free"

// free is that as an exercise.
func free(pattern string, seed uint64) *Exercise {
	if _, err := system.FromPattern(pattern); err != nil {
		pattern = pickup
	}
	return &Exercise{ID: Free, Step: OnesOwn, Pattern: pattern, seed: seed}
}
