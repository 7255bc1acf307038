package ledger_test

import (
	"fmt"

	"geminate/brake/ledger"
	"geminate/brake/system"
)

// The reservoir is emptied and filled with fresh fluid, and 100 cm³ is bled at the farthest wheel: how much old fluid
// leaves there, and how far the level fell.
func ExampleLedger() {
	s, err := system.FromPattern("pickup-front-rear-vacuum")
	if err != nil {
		fmt.Println(err)
		return
	}
	l := ledger.New(s)
	for _, e := range []ledger.Event{{Kind: ledger.KindDrain}, {Kind: ledger.KindFill}, {Kind: ledger.KindDraw, Wheel: "RR", CM3: 100}} {
		if err := l.Apply(e); err != nil {
			fmt.Println(err)
			return
		}
	}
	level, _, _ := l.Level("B")
	fmt.Printf("%.0f cm³ left, %.2f of what leaves is old\n", level, l.Leaving("RR"))
	// Output: 320 cm³ left, 0.21 of what leaves is old
}
