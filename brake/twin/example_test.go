package twin_test

import (
	"fmt"

	"geminate/brake/system"
	"geminate/brake/twin"
)

// A vehicle's brakes from a pattern, pressed with 300 N at the pedal, the engine running: what each circuit gets.
func ExampleModel_Apply() {
	s, err := system.FromPattern("pickup-front-rear-vacuum")
	if err != nil {
		fmt.Println(err)
		return
	}
	p := twin.New(s).Apply(300, true)
	fmt.Printf("A %.2f MPa, B %.2f MPa, pedal %.0f mm\n", p.PressureMPA["A"], p.PressureMPA["B"], p.TravelMM)
	// Output: A 7.90 MPa, B 7.86 MPa, pedal 66 mm
}
