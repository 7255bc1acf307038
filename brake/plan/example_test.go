package plan_test

import (
	"fmt"

	"geminate/brake/match"
	"geminate/brake/plan"
	"geminate/brake/system"
)

// The steps for a new cylinder on a pickup, in the order they are done; here the first of each phase.
func ExampleMake() {
	s, err := system.FromPattern("pickup-front-rear-vacuum")
	if err != nil {
		fmt.Println(err)
		return
	}
	p, err := plan.Make(s, plan.Choices{Scope: match.CylinderOnly})
	if err != nil {
		fmt.Println(err)
		return
	}
	phase := plan.Phase("")
	for _, step := range p.Steps {
		if step.Phase != phase {
			phase = step.Phase
			fmt.Println(phase, step.ID)
		}
	}
	// Output:
	// prepare prepare.chock
	// make_safe safe.engine_off
	// strip strip.sensor_plug
	// set_rod rod.coupler_moved
	// fit fit.face_seal
	// close close.fill
}
