package bleed

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"geminate/brake/system"
)

// Source: common practice, no source: bubbles at a vacuum pump mean the thread first; two wheels of one circuit share
// what is ahead of them; a caliper on the wrong side has its bleeder at the bottom.
func TestWhyAWheelWillNotClear(t *testing.T) {
	s := load(t, "car-front-rear-vacuum")
	disc, drum := &system.Wheel{ID: "LF"}, &system.Wheel{ID: "LR"}
	disc.Brake.Kind, drum.Brake.Kind = "disc", "drum"
	first := func(w *system.Wheel, m Method, bothOff, others bool) NotClear {
		return NotClearFrom(s, w, m, bothOff, others)[0]
	}
	assert.Equal(t, ThreadDraws, first(disc, Vacuum, false, false))
	assert.Equal(t, HoseLoose, first(disc, Pedal, false, false))
	assert.Equal(t, BleederLow, first(disc, Pedal, true, false))
	assert.Equal(t, AirAhead, first(disc, Pressure, false, true))
	assert.Contains(t, NotClearFrom(s, drum, Pedal, false, false), CupLifts)
	assert.NotContains(t, NotClearFrom(s, disc, Pedal, false, false), CupLifts)
	assert.NotContains(t, NotClearFrom(s, drum, Pedal, true, false), BleederLow, "a wheel cylinder does not go on upside down")
	assert.NotContains(t, NotClearFrom(s, disc, Pressure, false, false), PedalUp)
	for _, m := range []Method{Pedal, HoldHard, Bottle, Pressure, Vacuum, Gravity, Reverse, ScanTool} {
		seen := map[NotClear]bool{}
		for _, c := range NotClearFrom(s, disc, m, true, true) {
			assert.False(t, seen[c], "%s twice", c)
			seen[c] = true
		}
	}
	assert.False(t, StillBubbles(30, 20), "its own air may still be on the way")
	assert.True(t, StillBubbles(40, 20))
	assert.False(t, StillBubbles(40, 0))
}
