// Package thirty lists the exercises that are set, with what each vehicle has. It is the server's alone: nothing a
// browser is given may import it.
package thirty

import (
	"geminate/brake/diagnose"
	"geminate/brake/job"
	"geminate/brake/system"
	"geminate/ground/practice"
	"geminate/ground/simulate"
)

func at(id, where string) diagnose.Suspect { return diagnose.Suspect{ID: id, At: where} }

func off(p simulate.Part) practice.Slip {
	return practice.Slip{Part: p, Do: func(v *simulate.Vehicle) { v.Off(p) }}
}

// fingers leaves a nut as tight as fingers turn it.
func fingers(p simulate.Part) practice.Slip {
	return practice.Slip{Part: p, Do: func(v *simulate.Vehicle) { v.Start(p, false) }}
}

func tight(p simulate.Part, nm float64) practice.Slip {
	return practice.Slip{Part: p, Do: func(v *simulate.Vehicle) { v.DoUp(p, nm) }}
}

// The patterns, by short names.
const (
	pickup, diagonal, car       = "pickup-front-rear-vacuum", "car-diagonal-vacuum", "car-front-rear-vacuum"
	heavy, truck, hybrid        = "pickup-hydraulic", "truck-hydraulic", "hybrid-electro-hydraulic"
	manual, floor, surge, hyclu = "special-manual", "special-vacuum", "trailer-surge", "clutch-hydraulic"
)

// Exercises lists them all, in the order they are learnt.
var Exercises = []practice.Exercise{
	{ID: "finding_1", Step: practice.Finding, Pattern: car, Faults: []diagnose.Suspect{}, Seed: 11, Teaches: practice.LearnLeaveSound},
	{
		ID:      "finding_2",
		Step:    practice.Finding,
		Pattern: pickup,
		Faults:  []diagnose.Suspect{at("mc.primary_cup_bypass", "")},
		Seed:    12,
		Teaches: practice.LearnBypass,
	},
	{
		ID:      "finding_3",
		Step:    practice.Finding,
		Pattern: pickup,
		Faults:  []diagnose.Suspect{at("circuit.line_leak", "B")},
		Seed:    13,
		Teaches: practice.LearnOutside,
	},
	{
		ID:      "finding_4",
		Step:    practice.Finding,
		Pattern: car,
		Faults:  []diagnose.Suspect{at("mc.rear_seal_leak", "")},
		Seed:    14,
		Teaches: practice.LearnRearSeal,
	},
	{
		ID:      "finding_5",
		Step:    practice.Finding,
		Pattern: diagonal,
		Faults:  []diagnose.Suspect{at("vacuum.diaphragm_leak", "")},
		Seed:    15,
		Teaches: practice.LearnBooster,
	},
	{
		ID:      "finding_6",
		Step:    practice.Finding,
		Pattern: pickup,
		Faults:  []diagnose.Suspect{at("vacuum.check_valve_leak", "")},
		Seed:    16,
		Teaches: practice.LearnCheckValve,
	},
	{
		ID:      "finding_7",
		Step:    practice.Finding,
		Pattern: car,
		Faults:  []diagnose.Suspect{at("rod.too_long", "")},
		Seed:    17,
		Teaches: practice.LearnRod,
	},
	{
		ID:      "finding_8",
		Step:    practice.Finding,
		Pattern: pickup,
		Faults:  []diagnose.Suspect{at("wheel.leak", "LR")},
		Seed:    18,
		Teaches: practice.LearnWheel,
	},
	{
		ID:      "finding_9",
		Step:    practice.Finding,
		Pattern: pickup,
		Faults:  []diagnose.Suspect{at("mc.secondary_cup_bypass", ""), at("circuit.air", "A")},
		Seed:    19,
		Teaches: practice.LearnMasked,
	},

	{
		ID:      "deciding_1",
		Step:    practice.Deciding,
		Pattern: diagonal,
		Faults:  []diagnose.Suspect{at("circuit.air", "A")},
		Seed:    21,
		Teaches: practice.LearnAirIsNoUnit,
	},
	{
		ID:      "deciding_2",
		Step:    practice.Deciding,
		Pattern: heavy,
		Faults:  []diagnose.Suspect{at("hydraulic.accumulator_lost", "")},
		Seed:    122,
		Teaches: practice.LearnAccumulator,
	},
	{
		ID:      "deciding_3",
		Step:    practice.Deciding,
		Pattern: pickup,
		Faults:  []diagnose.Suspect{at("mc.rear_seal_leak", ""), at("vacuum.fluid_inside", "")},
		Seed:    23,
		Teaches: practice.LearnBoth,
	},
	{
		ID:      "deciding_4",
		Step:    practice.Deciding,
		Pattern: heavy,
		Faults:  []diagnose.Suspect{at("hydraulic.supply_low", "")},
		Seed:    24,
		Teaches: practice.LearnElsewhere,
	},
	{
		ID:      "deciding_5",
		Step:    practice.Deciding,
		Pattern: car,
		Faults:  []diagnose.Suspect{at("fluid.wet", "")},
		Seed:    25,
		Teaches: practice.LearnFluid,
	},

	{
		ID:      "choosing_1",
		Step:    practice.Choosing,
		Pattern: pickup,
		Faults:  []diagnose.Suspect{at("mc.primary_cup_bypass", "")},
		Boxed:   true,
		Seed:    31,
		Teaches: practice.LearnLookAlike,
	},
	{
		ID:      "choosing_2",
		Step:    practice.Choosing,
		Pattern: diagonal,
		Faults:  []diagnose.Suspect{at("mc.bore_corroded", "")},
		Boxed:   true,
		Seed:    32,
		Teaches: practice.LearnLookAlike,
	},
	{
		ID:      "choosing_3",
		Step:    practice.Choosing,
		Pattern: car,
		Faults:  []diagnose.Suspect{at("mc.bore_too_large", "")},
		Boxed:   true,
		Seed:    33,
		Teaches: practice.LearnBore,
	},

	{
		ID:      "doing_1",
		Step:    practice.Doing,
		Pattern: diagonal,
		Faults:  []diagnose.Suspect{at("vacuum.valve_leak", "")},
		Seed:    41,
		Teaches: practice.LearnVacuumUnit,
	},
	{
		ID:      "doing_2",
		Step:    practice.Doing,
		Pattern: truck,
		Faults:  []diagnose.Suspect{at("hydraulic.housing_leak", "")},
		Seed:    42,
		Teaches: practice.LearnPressure,
	},
	{
		ID:      "doing_3",
		Step:    practice.Doing,
		Pattern: hybrid,
		Faults:  []diagnose.Suspect{at("electro.pressure_source", "")},
		Seed:    43,
		Teaches: practice.LearnVoltage,
	},
	{
		ID:      "doing_4",
		Step:    practice.Doing,
		Pattern: surge,
		Faults:  []diagnose.Suspect{at("mc.piston_seized", "")},
		Seed:    44,
		Teaches: practice.LearnTrailer,
	},
	{
		ID:      "doing_5",
		Step:    practice.Doing,
		Pattern: hyclu,
		Faults:  []diagnose.Suspect{at("mc.primary_cup_bypass", "")},
		Seed:    45,
		Teaches: practice.LearnClutch,
	},
	{
		ID:      "doing_6",
		Step:    practice.Doing,
		Pattern: manual,
		Faults:  []diagnose.Suspect{at("mc.primary_cup_bypass", "")},
		Seed:    46,
		Teaches: practice.LearnTorque,
	},
	{
		ID:      "doing_7",
		Step:    practice.Doing,
		Pattern: floor,
		Faults:  []diagnose.Suspect{at("mc.rear_seal_leak", "")},
		Seed:    47,
		Teaches: practice.LearnPorts,
	},

	{
		ID:      "bleeding_1",
		Step:    practice.Bleeding,
		Pattern: pickup,
		Faults:  []diagnose.Suspect{at("circuit.air", "B")},
		Seed:    51,
		Teaches: practice.LearnBleeders,
	},
	{
		ID:      "bleeding_2",
		Step:    practice.Bleeding,
		Pattern: car,
		Faults:  []diagnose.Suspect{at("fluid.low", ""), at("circuit.air", "A")},
		Seed:    52,
		Teaches: practice.LearnDry,
	},
	{
		ID:      "bleeding_3",
		Step:    practice.Bleeding,
		Pattern: hybrid,
		Faults:  []diagnose.Suspect{at("electro.simulator_air", "")},
		Seed:    53,
		Teaches: practice.LearnRoutine,
	},

	{
		ID:      "verifying_1",
		Step:    practice.Verifying,
		Pattern: pickup,
		Faults:  []diagnose.Suspect{at("mc.primary_cup_bypass", "")},
		Seed:    61,
		Teaches: practice.LearnSecondLook,
		Slips:   []practice.Slip{tight(simulate.At(simulate.Bleeder, "LR"), 2), off(simulate.SensorPlug), fingers(simulate.Cylinder)},
	},
	{
		ID:      "verifying_2",
		Step:    practice.Verifying,
		Pattern: heavy,
		Faults:  []diagnose.Suspect{at("hydraulic.input_seal_leak", "")},
		Seed:    62,
		Teaches: practice.LearnSecondLook,
		Slips:   []practice.Slip{fingers(simulate.PressureLine), off(simulate.SmallPart), fingers(simulate.Booster)},
	},
	{
		ID:      "verifying_3",
		Step:    practice.Verifying,
		Pattern: diagonal,
		Faults:  []diagnose.Suspect{at("vacuum.diaphragm_leak", "")},
		Seed:    63,
		Teaches: practice.LearnSecondLook,
		Slips: []practice.Slip{
			off(simulate.VacuumHose),
			{Part: "rod", Do: func(v *simulate.Vehicle) { v.SetRod(-1) }},
			fingers(simulate.Booster),
		},
	},
}

// Of gives an exercise by its id; nil where there is none.
func Of(id practice.ID) *practice.Exercise {
	for i := range Exercises {
		if Exercises[i].ID == id {
			return &Exercises[i]
		}
	}
	return nil
}

// Open stands somebody in front of an exercise of the list, or of free practice. seed 0 takes the exercise's own; the
// same seed gives everybody the same.
func Open(id practice.ID, pattern string, hardness job.Hardness, seed uint64) (*practice.Bay, error) {
	if id == practice.Free {
		ex, err := practice.AnyOf(pattern, hardness, seed)
		if err != nil {
			return nil, err
		}
		return practice.Open(ex, seed), nil
	}
	ex := Of(id)
	if ex == nil {
		return nil, system.Faults{{Path: "$.exercise", Code: "fault.not_here", With: map[string]any{"value": id}}}
	}
	return practice.Open(ex, seed), nil
}
