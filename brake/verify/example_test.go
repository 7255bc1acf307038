package verify_test

import (
	"fmt"

	"geminate/brake/system"
	"geminate/brake/verify"
)

// A trailer on which nothing has been read yet is not to be released; what is to be read first, by where one stands.
func ExampleJudge() {
	s, err := system.FromPattern("trailer-surge")
	if err != nil {
		fmt.Println(err)
		return
	}
	g := verify.Judge(verify.Input{System: s})
	fmt.Println(g.Passable, g.Missing)
	for _, i := range g.ToDo()[:3] {
		fmt.Println(i.Where, i.ID)
	}
	// Output:
	// false 12
	// wheels check.coupler_strokes
	// wheels check.coupler_holds
	// wheels check.coupler_releases
}
