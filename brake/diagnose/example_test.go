package diagnose_test

import (
	"encoding/json"
	"fmt"

	"geminate/brake/diagnose"
	"geminate/brake/system"
)

// A pedal that sinks slowly with the fluid full and all dry: what it most likely is, and what to test before anything
// is done.
func ExampleCase() {
	s, err := system.FromPattern("pickup-front-rear-vacuum")
	if err != nil {
		fmt.Println(err)
		return
	}
	c := &diagnose.Case{
		System: s,
		Hands:  2,
		Findings: []diagnose.Finding{
			{ID: "pedal.sinks", Value: json.RawMessage(`"slow"`)},
			{ID: "level.falls", Value: json.RawMessage(`"no"`)},
		},
	}
	r, err := diagnose.Run(c, diagnose.DefaultCosts())
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Println(r.Faults[0].ID, r.TestFirst)
	// Output: mc.primary_cup_bypass hold
}
