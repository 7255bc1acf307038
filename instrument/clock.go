package instrument

import (
	"cmp"
	"slices"
	"time"
)

// An instrument's clock against ours. A pack is as late as the line made it, never early: of the last eight packs the
// one that came with the least delay says most (the clock filter of RFC 5905, section 10). A clock that is right and
// sends what it held back is late for a while and then not any more; one that is wrong stays so; one that was set
// steps.

const (
	samplesKept = 8
	// steadySpread is how far the delays of a clock that is off lie apart, and steadyFor over how long they are seen.
	// Assumptions.
	steadySpread = 2 * time.Second
	steadyFor    = 4 * time.Second
	// betterBy is what a lesser delay is worth setting a clock anew for.
	betterBy = 50 * time.Millisecond
)

type sample struct {
	off  time.Duration // arrival less the newest reading's own time
	came time.Time
}

type clock struct {
	samples []sample
	offset  time.Duration // added to its own times
	set     bool
	steps   int // how often it was set meanwhile
}

// hear learns from a pack whose newest reading is of own, arrived at came. It says by how much what arrived since a
// moment is to be moved.
func (c *clock) hear(own, came time.Time) (by time.Duration, since time.Time) {
	off := came.Sub(own)
	if n := len(c.samples); n > 0 && came.Sub(c.samples[n-1].came) > keepFor {
		c.samples = nil // after a long silence nothing of before speaks for it
	}
	c.samples = append(c.samples, sample{off, came})
	c.samples = c.samples[max(0, len(c.samples)-samplesKept):]
	switch d := off - c.offset; {
	case !c.set:
		c.set = true
		if off < -clockSlack || off > keepFor { // it cannot have been so long under way
			c.offset = off
		}
	case d < -clockSlack: // out of the future: it was set forward
		c.step(off)
	case c.offset != 0 && d < -betterBy: // less late than any before: so much nearer is its clock
		c.offset = off
		return d, time.Time{}
	case d > keepFor: // more than any line is late, three times running: it was set back
		if least, ok := c.steady(3); ok && least-c.offset > keepFor {
			c.step(least)
		}
	case d > clockSlack:
		first := c.samples[0]
		if least, ok := c.steady(samplesKept); ok && least-c.offset > clockSlack && came.Sub(first.came) >= steadyFor {
			by = least - c.offset
			c.step(least)
			return by, first.came
		}
	}
	return 0, time.Time{}
}

// steady is the least delay of the last n packs, where they lie close together.
func (c *clock) steady(n int) (least time.Duration, ok bool) {
	if len(c.samples) < n {
		return 0, false
	}
	byDelay := func(a, b sample) int { return cmp.Compare(a.off, b.off) }
	last := c.samples[len(c.samples)-n:]
	least = slices.MinFunc(last, byDelay).off
	return least, slices.MaxFunc(last, byDelay).off-least < steadySpread
}

func (c *clock) step(to time.Duration) {
	c.offset = to
	c.steps++
	c.samples = c.samples[len(c.samples)-1:]
}
