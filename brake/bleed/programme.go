package bleed

import (
	"strconv"
	"strings"

	"geminate/brake/system"
)

// A programme is the bleed step by step: the reservoir, the wheels in their order, and what some vehicles need beside
// (how trade has it, no source: modulators, electro-hydraulic boosters).

// StepID names a step of the programme; a wheel's are WheelStep.
// An open list: each wheel has its own besides.
type StepID string

// Steps beside the wheels.
const (
	StepDrain        StepID = "drain"             // old fluid out of the reservoir
	StepFill         StepID = "fill"              // to the mark
	StepDrainAfter   StepID = "drain_after"       // what was pushed up, out of the reservoir
	StepPumped       StepID = "pumped_round"      // after gravity: the foot at each wheel once more, clear
	StepCharger      StepID = "charger"           // the pump of an electro-hydraulic unit must not run the battery down
	StepSimulator    StepID = "simulator"         // the pedal simulator's own bleeder
	StepRoutine      StepID = "modulator_routine" // the tool's, valve by valve
	StepCodesRead    StepID = "codes_read"
	StepRelearn      StepID = "relearn" // of the valve offset
	StepCodesCleared StepID = "codes_cleared"
	StepCodesAgain   StepID = "codes_again" // none come back
)

// TickedSteps are those a person says are done.
var TickedSteps = []StepID{
	StepPumped,
	StepCharger,
	StepSimulator,
	StepRoutine,
	StepCodesRead,
	StepRelearn,
	StepCodesCleared,
	StepCodesAgain,
}

// WheelStep is a visit of a wheel: the first, or a later one of the same programme.
func WheelStep(wheel string, visit int) StepID {
	if visit < 2 {
		return StepID("wheel." + wheel)
	}
	return StepID("wheel." + wheel + "." + strconv.Itoa(visit))
}

// Step is one step of the programme.
type Step struct {
	ID    StepID `json:"id"`
	Wheel string `json:"wheel,omitempty"`
	Visit int    `json:"visit,omitempty"`
	// Tool it takes; Wait is the clock that has to have run.
	Tool string `json:"tool,omitempty"`
	Wait string `json:"wait,omitempty"`
}

// With is what the programme follows from beside the vehicle.
type With struct {
	// Drain: the reservoir's old fluid is to go first.
	Drain bool
	// Routine: air can be in the modulator.
	Routine bool
	// Pumped: gravity brought it, and a pumped round checks it.
	Pumped bool
	// Up: the fluid is pushed up into the reservoir, which is drawn down before and filled after.
	Up bool
}

// Programme lays the order of the wheels out as steps.
func Programme(s *system.System, order []string, w With) []Step {
	var out []Step
	add := func(st Step) { out = append(out, st) }
	led := s.Assist().ToolLed
	if led {
		add(Step{ID: StepCharger, Tool: "battery_charger"})
	}
	if w.Drain {
		add(Step{ID: StepDrain})
	}
	if !w.Up {
		add(Step{ID: StepFill})
	}
	visits := map[string]int{}
	wheel := func(id string) {
		visits[id]++
		add(Step{ID: WheelStep(id, visits[id]), Wheel: id, Visit: visits[id]})
	}
	for _, id := range order {
		wheel(id)
	}
	if led {
		add(Step{ID: StepSimulator, Tool: ToolScan})
		for _, id := range order {
			if isFront(id) && visits[id] == 1 {
				wheel(id)
			}
		}
		add(Step{ID: StepCodesRead, Tool: ToolScan})
		add(Step{ID: StepRelearn, Tool: ToolScan, Wait: "relearn"})
		add(Step{ID: StepCodesCleared, Tool: ToolScan})
		add(Step{ID: StepCodesAgain, Tool: ToolScan})
		return out
	}
	if w.Up {
		add(Step{ID: StepDrainAfter})
		add(Step{ID: StepFill})
	}
	if w.Pumped {
		add(Step{ID: StepPumped})
	}
	if w.Routine {
		// Its valves let go of what they held: every wheel runs clear once more after it.
		add(Step{ID: StepRoutine, Tool: ToolScan})
	}
	return out
}

// isFront tells the front wheels by their ids.
func isFront(id string) bool { return strings.HasSuffix(id, "F") }

// Fronts are the wheels that what the simulator's bleeder lets go of reaches: they are bled once more after it.
func Fronts(s *system.System) (out []string) {
	for i := range s.Wheels {
		if isFront(s.Wheels[i].ID) {
			out = append(out, s.Wheels[i].ID)
		}
	}
	return out
}

// CannotFinish says why a bleed cannot be ended here with these means, before the first bleeder is opened; "" where it
// can.
func CannotFinish(s *system.System, w With, offers []Offer, means Means) string {
	switch {
	case s.Assist().ToolLed && !means.has(ToolScan):
		return "bleed_stop.tool_leads"
	case w.Routine && !means.has(ToolScan):
		return "bleed_stop.routine"
	case len(offers) > 0 && !offers[0].Fit:
		return "bleed_stop.no_method"
	}
	return ""
}
