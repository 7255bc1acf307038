// Package bench computes a bench bleed: the air a cylinder's shape traps at a tilt, what is left
// after each stroke, and when to stop. Lengths in mm, volumes in mm³ unless the name says cm³.
package bench

import (
	"fmt"
	"math"

	"gonum.org/v1/gonum/integrate/quad"

	"geminate/brake/memo"
)

// Port says where the outlet stands on the bore.
type Port string

const (
	Top  Port = "top"
	Side Port = "side"
)

// Chamber is one half of a cylinder in the vice.
type Chamber struct {
	BoreMM   float64 `json:"bore_mm"`
	LengthMM float64 `json:"length_mm"` // ahead of the piston at rest
	PortMM   float64 `json:"port_mm"`   // front edge of the outlet, behind the chamber's front wall
	Port     Port    `json:"port"`
}

// Exchange is the share of a stroke's volume that is really exchanged: with slow strokes, and with
// fast ones, whose foam is drawn back in (how-it-computes, section 7; assumption).
const (
	ExchangeSlow = 0.8
	ExchangeFast = 0.5
)

// DoneMM3 is how near the trapped pocket counts as all that will come out: 50 mm³, a bubble of some
// 4.6 mm. Assumption.
const DoneMM3 = 50

// MostLengthMM is the longest a chamber is, mm: a third over the longest truck's. Assumption.
const MostLengthMM = 300.0

// Check returns an error naming the first figure that cannot be.
func (c Chamber) Check() error {
	switch {
	case !(c.BoreMM >= 8 && c.BoreMM <= 80):
		return fmt.Errorf("bench: bore_mm %v: a cylinder's bore is 8 to 80 mm", c.BoreMM)
	case !(c.LengthMM > 0 && c.LengthMM <= MostLengthMM):
		return fmt.Errorf("bench: length_mm %v: the chamber is up to %v mm long", c.LengthMM, MostLengthMM)
	case !(c.PortMM >= 0 && c.PortMM <= c.LengthMM):
		return fmt.Errorf("bench: port_mm %v: the port lies between the front wall (0) and the piston (%v)", c.PortMM, c.LengthMM)
	case c.Port != Top && c.Port != Side:
		return fmt.Errorf("bench: port %q: say top or side", c.Port)
	}
	return nil
}

// VolumeMM3 is what the chamber holds with the piston at rest.
func (c Chamber) VolumeMM3() float64 { return math.Pi * c.BoreMM * c.BoreMM / 4 * c.LengthMM }

// segment is the area in mm² of a circular segment of height h in a bore d.
func segment(h, d float64) float64 {
	r := d / 2
	h = math.Max(0, math.Min(d, h))
	return r*r*math.Acos((r-h)/r) - (r-h)*math.Sqrt(math.Max(0, 2*r*h-h*h))
}

// PocketMM is the trapped pocket of a top port in section: points along the bore from the front wall (z) and down from
// its top (y), mm, closed by going back to the first. nil where nothing is trapped, or the port is on the side.
func (c Chamber) PocketMM(tiltDeg, strokeMM float64) []Point {
	tan := math.Tan(math.Abs(tiltDeg) * math.Pi / 180)
	if tan == 0 || c.Port != Top {
		return nil
	}
	from, length, dir := 0.0, c.PortMM, 1.0
	if tiltDeg < 0 { // behind the port, to the cup
		from, length, dir = c.LengthMM-strokeMM, math.Max(0, c.LengthMM-c.PortMM-strokeMM), -1
	}
	h, z := math.Min(c.BoreMM, length*tan), math.Min(length, c.BoreMM/tan)
	return []Point{{from, 0}, {from + dir*length, 0}, {from + dir*(length-z), h}, {from, h}}
}

// Point is a place in the section of a chamber, mm.
type Point struct {
	Z float64 `json:"z_mm"`
	Y float64 `json:"y_mm"`
}

// TrappedMM3 is the pocket that no stroke brings out at a tilt in degrees, nose (front) up
// positive, with the piston stroked by strokeMM. How-it-computes, section 7: a top port leaves the wedge
// ahead of it (nose up) or behind it to the cup (nose down); a side port leaves what lies above the
// higher of its own and the compensating port's level plane. The side port is taken at the bore's
// centre line and the compensating port on top of the bore at the piston.
func (c Chamber) TrappedMM3(tiltDeg, strokeMM float64) (float64, error) {
	if err := c.Check(); err != nil {
		return 0, err
	}
	if !(math.Abs(tiltDeg) <= 60) {
		return 0, fmt.Errorf("bench: tilt_deg %v: between −60 and 60 degrees", tiltDeg)
	}
	return trapped(trapping{c, tiltDeg, strokeMM}), nil
}

func (c Chamber) trappedMM3(tiltDeg, strokeMM float64) float64 {
	tan := math.Tan(math.Abs(tiltDeg) * math.Pi / 180)
	if c.Port == Top {
		length := c.PortMM
		if tiltDeg < 0 {
			length = math.Max(0, c.LengthMM-c.PortMM-math.Max(0, strokeMM))
		}
		return wedge(length, c.BoreMM, func(z float64) float64 { return z * tan })
	}
	theta := tiltDeg * math.Pi / 180
	plane := math.Max(-c.PortMM*math.Sin(theta), -c.LengthMM*math.Sin(theta)+c.BoreMM/2*math.Cos(theta))
	return wedge(c.LengthMM, c.BoreMM, func(z float64) float64 {
		return c.BoreMM/2 - (plane+z*math.Sin(theta))/math.Cos(theta)
	})
}

// trapping is everything the trapped pocket hangs on.
type trapping struct {
	Chamber
	tiltDeg, strokeMM float64
}

// trapped is asked for the same two chambers at every stroke.
var trapped = memo.Func(1024, func(k trapping) float64 { return k.trappedMM3(k.tiltDeg, k.strokeMM) })

// wedge integrates the segment of height h(z) from 0 to length. The height has a kink where the
// segment fills or empties, so the length is cut into short pieces for the Gauss rule.
func wedge(length, bore float64, h func(float64) float64) float64 {
	const pieces = 64
	sum := 0.0
	for i := 0; i < pieces; i++ {
		a, b := length*float64(i)/pieces, length*float64(i+1)/pieces
		if b > a {
			sum += quad.Fixed(func(z float64) float64 { return segment(h(z), bore) }, a, b, 8, nil, 0)
		}
	}
	return sum
}

// Run is a bench bleed stroke by stroke.
type Run struct {
	TrappedMM3 float64   `json:"trapped_mm3"`
	AirMM3     []float64 `json:"air_mm3"` // after each stroke
}

// Stroke is one push as it was made: how far this chamber's own piston went, at which tilt, fast or slow.
type Stroke struct {
	StrokeMM float64
	TiltDeg  float64
	Fast     bool
}

// Share is how far each piston goes when the rod is pushed: both to their ends at a full push, and an inch-long one
// shares itself between them, half each with equal springs; what one cannot take the other does. One stroke in takes
// all of it. How-it-computes, section 7.
func Share(pushMM float64, strokesMM ...float64) []float64 {
	if len(strokesMM) == 1 {
		return []float64{math.Min(pushMM, strokesMM[0])}
	}
	a := math.Min(pushMM/2, strokesMM[0])
	b := math.Min(pushMM-a, strokesMM[1])
	return []float64{math.Min(pushMM-b, strokesMM[0]), b}
}

// After is the air left after one stroke, mm³. A tilt keeps what is trapped in it, and puts none in.
func (c Chamber) After(airMM3 float64, s Stroke) (float64, error) {
	if !(s.StrokeMM >= 0 && s.StrokeMM <= 300) {
		return 0, fmt.Errorf("bench: stroke_mm %v: 0 to 300 mm", s.StrokeMM)
	}
	trap, err := c.TrappedMM3(s.TiltDeg, s.StrokeMM)
	if err != nil {
		return 0, err
	}
	return after(c, airMM3, trap, s), nil
}

func after(c Chamber, airMM3, trapMM3 float64, s Stroke) float64 {
	e := ExchangeSlow
	if s.Fast {
		e = ExchangeFast
	}
	next := airMM3 * (1 - math.Min(1, s.StrokeMM/c.LengthMM)*e)
	return math.Max(next, math.Min(airMM3, trapMM3))
}

// Needed is how many strokes like this one it takes from some air until no more than what its tilt traps, and DoneMM3,
// is left; −1 where strokes so short never get there.
func (c Chamber) Needed(airMM3 float64, s Stroke) (int, error) {
	trap, err := c.TrappedMM3(s.TiltDeg, s.StrokeMM)
	if err != nil {
		return 0, err
	}
	const most = 500
	for n := 0; n <= most; n++ {
		if airMM3 <= trap+DoneMM3 {
			return n, nil
		}
		airMM3 = after(c, airMM3, trap, s)
	}
	return -1, nil
}

// PluggedCM3 is the air that a rod's remaining travel shows with the ports plugged: pressed together as good as whole
// by a hand on the rod (Boyle), cm³.
func PluggedCM3(boreMM, remainingMM float64) float64 {
	return math.Pi * boreMM * boreMM / 4 * remainingMM / 1000
}

// Bleed computes the air left after each of n strokes of strokeMM, from a chamber full of air.
func (c Chamber) Bleed(tiltDeg, strokeMM float64, n int, fast bool) (Run, error) {
	if !(strokeMM > 0 && strokeMM <= 300) {
		return Run{}, fmt.Errorf("bench: stroke_mm %v: above 0 and up to 300 mm", strokeMM)
	}
	if n < 0 || n > 10000 {
		return Run{}, fmt.Errorf("bench: strokes %d: 0 to 10000", n)
	}
	trapped, err := c.TrappedMM3(tiltDeg, strokeMM)
	if err != nil {
		return Run{}, err
	}
	r := Run{TrappedMM3: trapped, AirMM3: make([]float64, n)}
	air := c.VolumeMM3()
	for i := range r.AirMM3 {
		air = after(c, air, trapped, Stroke{strokeMM, tiltDeg, fast})
		r.AirMM3[i] = air
	}
	return r, nil
}

// StrokesNeeded is Needed from a chamber full of air.
func (c Chamber) StrokesNeeded(tiltDeg, strokeMM float64, fast bool) (int, error) {
	n, err := c.Needed(c.VolumeMM3(), Stroke{strokeMM, tiltDeg, fast})
	if err == nil && n < 0 {
		err = fmt.Errorf("bench: strokes of %v mm never clear this chamber: lengthen them", strokeMM)
	}
	return n, err
}
