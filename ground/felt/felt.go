// Package felt makes what a phone's motion sensor would feel: laid along a thing, strapped to a pedal's arm, in the
// mount of a vehicle that stops. It begins from the world (which way is up, where the thing goes) and ends in the
// phone's axes; what reads motion begins from those, and shares nothing with it.
//
// Acceleration m/s², angles degrees, lengths mm unless a name says otherwise.
package felt

import (
	"math"
	"math/rand/v2"
)

// Reading is one of the sensor: acceleration with gravity in it, in the phone's axes.
type Reading struct{ S, X, Y, Z float64 }

// Sensor is a phone's: so many readings a second, each off by Noise, all by Bias, and longer by Scale.
type Sensor struct {
	HZ, Noise float64
	Bias      [3]float64
	Scale     float64
	Seed      uint64
}

const g = 9.81

// turn is a turn about an axis (0, 1, 2) by degrees, applied to v.
func turn(axis int, deg float64, v [3]float64) [3]float64 {
	s, c := math.Sincos(deg * math.Pi / 180)
	a, b := (axis+1)%3, (axis+2)%3
	out := v
	out[a], out[b] = c*v[a]-s*v[b], s*v[a]+c*v[b]
	return out
}

// read samples a function of time that tells, in the phone's axes, what it would feel.
func (n Sensor) read(seconds float64, feels func(s float64) [3]float64) []Reading {
	r := rand.New(rand.NewPCG(n.Seed, 3))
	scale := n.Scale
	if scale == 0 {
		scale = 1
	}
	var out []Reading
	for i := range int(seconds*n.HZ) + 1 {
		s := float64(i) / n.HZ
		v := feels(s)
		for k := range v {
			v[k] = scale*v[k] + n.Bias[k] + n.Noise*r.NormFloat64()
		}
		out = append(out, Reading{s, v[0], v[1], v[2]})
	}
	return out
}

// Lying is a phone on a thing that lies so many degrees up towards the phone's upper edge, and rolled about it.
func (n Sensor) Lying(seconds, upDeg, rollDeg float64) []Reading {
	return n.read(seconds, func(float64) [3]float64 {
		up := [3]float64{0, 0, g}                    // flat on its back
		return turn(1, rollDeg, turn(0, -upDeg, up)) // the world as the phone sees it turns the other way
	})
}

// Pedal is a phone on an arm that hangs from its pivot, restDeg forward of hanging straight, and goes by travelMM(s) at
// radiusMM. strapped turns the phone about the arm: 0 faces the driver, 90 lies on the arm's side.
func (n Sensor) Pedal(seconds, radiusMM, restDeg, strappedDeg float64, travelMM func(s float64) float64) []Reading {
	return n.read(seconds, func(s float64) [3]float64 {
		up := [3]float64{0, g, 0} // hanging, upper edge to the pivot
		return turn(1, strappedDeg, turn(0, restDeg+travelMM(s)/radiusMM*180/math.Pi, up))
	})
}

// Stop is one run: rest, up to speed, a moment of it, brakes that build up over BuildS to MPS2, rest.
type Stop struct {
	FromKMH, RunUpMPS2, MPS2, BuildS float64
	// SlopePercent is how much the road falls ahead, CamberPercent to the right; RightMPS2 what the brakes push it to
	// the right.
	SlopePercent, CamberPercent, RightMPS2 float64
	// The phone in its mount: pitched back, rolled and turned in the vehicle.
	PitchDeg, RollDeg, YawDeg float64
	// DivePerG is how many degrees the body dives at 1 g.
	DivePerG float64
}

// Stop is what it feels over it. What it decelerates by is MPS2 along the road, whatever the road's slope.
func (n Sensor) Stop(r Stop) []Reading {
	v0 := r.FromKMH / 3.6
	const rest, steady = 1.5, 0.6
	t1 := rest + v0/r.RunUpMPS2
	t2 := t1 + steady
	// Speed falls by MPS2·t²/2/BuildS while it builds up, then evenly.
	lost := r.MPS2 * r.BuildS / 2
	t3 := t2 + r.BuildS + (v0-lost)/r.MPS2
	ahead := func(s float64) float64 {
		switch {
		case s < rest, s >= t3:
			return 0
		case s < t1:
			return r.RunUpMPS2
		case s < t2:
			return 0
		case s < t2+r.BuildS:
			return -r.MPS2 * (s - t2) / r.BuildS
		}
		return -r.MPS2
	}
	sl, cl := math.Sincos(math.Atan(r.SlopePercent / 100))
	cb, _ := math.Sincos(math.Atan(r.CamberPercent / 100))
	return n.read(t3+rest, func(s float64) [3]float64 {
		a := ahead(s)
		side := 0.0
		if a < 0 {
			side = -a / r.MPS2 * r.RightMPS2
		}
		// The vehicle's axes: x to the right, y ahead, z up. Up, as it lies on the road: less of it ahead where the
		// road falls.
		f := [3]float64{side - g*cb, a - g*sl, g * cl}
		dive := a / g * r.DivePerG // the nose goes down while it brakes
		f = turn(0, -dive, f)
		return turn(2, r.YawDeg, turn(1, r.RollDeg, turn(0, r.PitchDeg, f)))
	})
}
