package job

import (
	"maps"
	"strings"

	"geminate/brake/plan"
	"geminate/brake/verify"
)

// touches says what a step of the plan works at, by its parts; nothing for what only prepares.
func touches(step *plan.Step) []verify.Work {
	if step.Phase == plan.Prepare || step.Phase == plan.MakeSafe {
		return nil
	}
	if strings.HasPrefix(step.ID, "elsewhere.") {
		return verify.Works // anywhere: nothing read before it stands
	}
	var out []verify.Work
	for _, p := range step.Parts {
		switch p {
		case "lines", "modulator_lines", "remote_hoses", "reservoir", "port_fitting", "side_plugs":
			out = append(out, verify.WorkLine)
		case "cylinder", "stacked_bracket", "actuator_bolts":
			out = append(out, verify.WorkCylinder)
		case "firewall_nuts", "vacuum_hose", "pressure_lines", "pressure_lines_on_floor", "pressure_plate", "booster_face":
			out = append(out, verify.WorkBooster)
		case "pedal_end":
			out = append(out, verify.WorkPedal)
		case "rod", "shoe_and_rod":
			out = append(out, verify.WorkRod)
		case "sensor_plug", "pressure_sensors", "battery":
			out = append(out, verify.WorkElectric)
		}
	}
	switch step.ID {
	case "close.fill", "close.bleeder_screws":
		out = append(out, verify.WorkLine)
	case "close.steering_bleed":
		out = append(out, verify.WorkBooster)
	case "close.service_plug", "close.negative_on":
		out = append(out, verify.WorkElectric)
	}
	return out
}

// worked takes down that something was done to the vehicle.
func (j *Job) worked(e *Event, what string, at ...verify.Work) {
	j.State.WorkSeq, j.State.Away = e.Seq, nil // whoever works on it has taken it up
	if len(at) == 0 {
		return
	}
	for _, f := range j.State.Findings[PhaseVerify] {
		if f.Seq > j.State.LoopSeq {
			j.State.Loops, j.State.LoopSeq = j.State.Loops+1, e.Seq
			break
		}
	}
	next := maps.Clone(j.State.Work)
	if next == nil {
		next = map[verify.Work]verify.Done{}
	}
	for _, w := range at {
		next[w] = verify.Done{Seq: e.Seq, What: what}
	}
	j.State.Work = next
}

// workedStep is the same for a step of the plan. A step the plan no longer has touched what nobody can say any more:
// everything.
func (j *Job) workedStep(e *Event, id string) {
	p, err := j.Plan()
	if err != nil {
		j.State.WorkSeq = e.Seq
		return
	}
	if step := p.Find(id); step != nil {
		j.worked(e, id, touches(step)...)
		return
	}
	j.worked(e, id, verify.Works...)
}
