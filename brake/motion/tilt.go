package motion

import "math"

// TiltIn is a phone laid along a thing, its long edge on it, and the same phone laid on what counts as level.
type TiltIn struct {
	Samples []Sample `json:"samples"`
	// Zero is what it felt on the vehicle's floor or sill, in the same direction; nil takes true level.
	Zero []Sample `json:"zero,omitempty"`
}

// Tilt is how a thing lies: its end under the phone's upper edge is so many degrees higher.
type Tilt struct {
	Deg     float64 `json:"deg"`
	LowDeg  float64 `json:"low_deg"`
	HighDeg float64 `json:"high_deg"`
	// SpreadDeg is the spread of single readings that was seen.
	SpreadDeg float64 `json:"spread_deg"`
	Zeroed    bool    `json:"zeroed"`
}

// TiltS is how long it is felt. A phone's own sensor is off by some tenths of a degree, which a zero on the spot takes
// away but for half a degree, the edge against the thing included; without a zero by a degree. Assumptions, half
// intervals.
const (
	TiltS      = 2.0
	zeroedDeg  = 0.5
	notZeroDeg = 1.0
)

// TiltOf works it out.
func TiltOf(in TiltIn) (Tilt, error) {
	deg, err, spread, fail := edge("$.samples", in.Samples)
	if fail != nil {
		return Tilt{}, fail
	}
	out, half := Tilt{Deg: deg, SpreadDeg: spread}, notZeroDeg
	if len(in.Zero) > 0 {
		zero, zeroErr, _, fail := edge("$.zero", in.Zero)
		if fail != nil {
			return Tilt{}, fail
		}
		out.Deg, out.Zeroed, half = deg-zero, true, zeroedDeg
		err = math.Hypot(err, zeroErr)
	}
	half = math.Hypot(half, confidence*err)
	out.LowDeg, out.HighDeg = out.Deg-half, out.Deg+half
	return out, nil
}

// edge is how the phone's long edge lies, degrees, its error and spread.
func edge(path string, samples []Sample) (deg, errDeg, spreadDeg float64, err error) {
	x, err := ordered(path, samples)
	if err != nil {
		return 0, 0, 0, err
	}
	r, err := atRest(x, TiltS)
	if err != nil {
		return 0, 0, 0, err
	}
	return math.Asin(r.up.unit()[1]) * 180 / math.Pi, r.errDeg, r.shake / gravity * 180 / math.Pi, nil
}
