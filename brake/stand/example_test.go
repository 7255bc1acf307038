package stand_test

import (
	"fmt"
	"time"

	"geminate/brake/stand"
)

// Line nuts are made tight, then the lines come off again: the nuts are not tight any more, whoever ticked them.
func ExampleAccount() {
	a, at := stand.New(), time.Date(2026, 11, 28, 9, 0, 0, 0, time.UTC)
	for i, step := range []string{"strip.lines_off", "fit.line_nuts", "strip.lines_off"} {
		a.Do(step, stand.When{Seq: int64(i + 1), At: at.Add(time.Duration(i) * time.Minute), By: "mara"}, stand.Pair{}, true)
		fmt.Println(step, a.Stands("fit.line_nuts", stand.Pair{}))
	}
	// Output:
	// strip.lines_off false
	// fit.line_nuts true
	// strip.lines_off false
}
