package bleed

import "geminate/brake/system"

// NotClear is why a wheel goes on showing bubbles when all the air its own way can hold is out: air comes in anew, or
// some of it cannot leave. Each names the look that tells.
type NotClear string

// Causes.
const (
	BleederLow  NotClear = "bleeder_low"  // the bleeder sits below its cavity: calipers exchanged left for right
	ThreadDraws NotClear = "thread_draws" // air past the bleeder's thread: bubbles that mean nothing
	HoseLoose   NotClear = "hose_loose"   // off the bleeder, cracked, or its end out of the fluid
	CupLifts    NotClear = "cup_lifts"    // a wheel cylinder's cup lifts when the pedal comes back fast
	PedalUp     NotClear = "pedal_up"     // the pedal came up before the bleeder was shut
	AirAhead    NotClear = "air_ahead"    // it comes from the cylinder, or from the modulator
	JointDraws  NotClear = "joint_draws"  // a joint on its way that draws air when the fluid goes back
)

// notClearPaths is how many times the fluid on a wheel's way has gone through before bubbles are no longer its own air.
// Assumption: once pushes it all out, twice what was left in corners.
const notClearPaths = 2

// StillBubbles says whether a wheel shows bubbles beyond what its own way explains: moved and path in cm³.
func StillBubbles(movedCM3, pathCM3 float64) bool {
	return pathCM3 > 0 && movedCM3 >= notClearPaths*pathCM3
}

// NotClearFrom lists the causes for a wheel bled this way, the likeliest and quickest looked at first. bothOff: both
// brakes of its axle were off in this job; others: other wheels of its circuit do not run clear either. Common
// practice, no source.
func NotClearFrom(s *system.System, at *system.Wheel, m Method, bothOff, others bool) []NotClear {
	var out []NotClear
	disc := at.Brake.Kind == "disc"
	if bothOff && disc {
		out = append(out, BleederLow)
	}
	if others { // what two wheels share is ahead of both
		out = append(out, AirAhead)
	}
	switch m.mover() {
	case ByVacuum:
		out = append(out, ThreadDraws, HoseLoose)
	case ByFoot:
		out = append(out, HoseLoose, PedalUp)
		if !disc {
			out = append(out, CupLifts)
		}
		out = append(out, ThreadDraws)
	default:
		out = append(out, HoseLoose, ThreadDraws)
	}
	if !others {
		out = append(out, AirAhead)
	}
	out = append(out, JointDraws)
	if !bothOff && disc {
		out = append(out, BleederLow)
	}
	return out
}
