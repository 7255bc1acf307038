// Package practice is the bay in which a simulated vehicle is worked on by somebody's own decisions: what hands do and
// what they see of it, and at the end what it came to beside the engine's own way on the same vehicle. The exercises
// that are set are in a package of their own (thirty), which no browser is given.
//
// A practice job is a job like any other; what is told of the work goes there. What is done to the vehicle is done
// here, and the two may differ. The vehicle's truth never leaves this package before the exercise ends.
package practice

import (
	"slices"

	"geminate/brake/diagnose"
	"geminate/brake/job"
	"geminate/brake/system"
	"geminate/ground/simulate"
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
	// Faults are what it has; Boxed: a look-alike lies in the box; Slips are what somebody left who says it is
	// finished.
	Faults []diagnose.Suspect `json:"-"`
	Boxed  bool               `json:"-"`
	Slips  []Slip             `json:"-"`
	Seed   uint64             `json:"-"`
	// Teaches is what there is to learn by it, told in the end.
	Teaches Topic `json:"-"`
	// Hardness is of free practice.
	Hardness job.Hardness `json:"-"`
}

// Slip is something left wrong by somebody else: what is done to the vehicle, and the part the end names it by.
type Slip struct {
	Part simulate.Part
	Do   func(*simulate.Vehicle)
}

// Topic is what is learnt by an exercise.
type Topic string

// Topics of the exercises.
const (
	LearnLeaveSound  Topic = "leave_sound"
	LearnBypass      Topic = "bypass"
	LearnOutside     Topic = "outside"
	LearnRearSeal    Topic = "rear_seal"
	LearnBooster     Topic = "booster"
	LearnCheckValve  Topic = "check_valve"
	LearnRod         Topic = "rod"
	LearnWheel       Topic = "wheel"
	LearnMasked      Topic = "masked"
	LearnAirIsNoUnit Topic = "air_is_no_unit"
	LearnAccumulator Topic = "accumulator"
	LearnBoth        Topic = "both"
	LearnElsewhere   Topic = "elsewhere"
	LearnFluid       Topic = "fluid"
	LearnLookAlike   Topic = "look_alike"
	LearnBore        Topic = "bore"
	LearnVacuumUnit  Topic = "vacuum_unit"
	LearnPressure    Topic = "pressure"
	LearnVoltage     Topic = "voltage"
	LearnTrailer     Topic = "trailer"
	LearnClutch      Topic = "clutch"
	LearnTorque      Topic = "torque"
	LearnPorts       Topic = "ports"
	LearnBleeders    Topic = "bleeders"
	LearnDry         Topic = "dry"
	LearnRoutine     Topic = "routine"
	LearnSecondLook  Topic = "second_look"
	LearnFree        Topic = "free"
)

// Topics lists them.
var Topics = []Topic{
	LearnLeaveSound,
	LearnBypass,
	LearnOutside,
	LearnRearSeal,
	LearnBooster,
	LearnCheckValve,
	LearnRod,
	LearnWheel,
	LearnMasked,
	LearnAirIsNoUnit,
	LearnAccumulator,
	LearnBoth,
	LearnElsewhere,
	LearnFluid,
	LearnLookAlike,
	LearnBore,
	LearnVacuumUnit,
	LearnPressure,
	LearnVoltage,
	LearnTrailer,
	LearnClutch,
	LearnTorque,
	LearnPorts,
	LearnBleeders,
	LearnDry,
	LearnRoutine,
	LearnSecondLook,
	LearnFree,
}

// Free is practice on a vehicle drawn by a seed: of a kind, with the faults the world gives.
const Free = "free"

// AnyOf is that as an exercise; a kind nobody knows is a fault.
func AnyOf(pattern string, hardness job.Hardness, seed uint64) (*Exercise, error) {
	if _, err := system.FromPattern(pattern); err != nil {
		return nil, system.Faults{{Path: "$.pattern", Code: "fault.not_here", With: map[string]any{"value": pattern}}}
	}
	if hardness == "" {
		hardness = job.Usual
	}
	if !slices.Contains(job.Hardnesses, hardness) {
		return nil, system.Faults{{Path: "$.hardness", Code: "fault.not_here", With: map[string]any{"value": hardness}}}
	}
	return &Exercise{ID: Free, Step: OnesOwn, Pattern: pattern, Seed: seed, Teaches: LearnFree, Hardness: hardness}, nil
}
