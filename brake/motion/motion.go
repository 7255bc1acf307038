// Package motion reads what a phone's motion sensor felt: how a thing lies, how far a pedal went, how a vehicle
// stopped. Each figure comes with the interval that holds it in 95 of 100, or with why there is none. How-it-computes,
// section 16.
//
// A sample is what the sensor calls acceleration with gravity in it, m/s², in the phone's own axes: x to the right of
// its screen, y to its upper edge, z out of the screen. At rest it points up and is 9.81 long. Angles are degrees,
// lengths mm.
package motion

import (
	"cmp"
	"math"
	"slices"

	"geminate/brake/strict"
)

// Sample is one reading, S seconds since the first.
type Sample struct {
	S float64 `json:"s"`
	X float64 `json:"x"`
	Y float64 `json:"y"`
	Z float64 `json:"z"`
}

func (a Sample) vec() vec { return vec{a.X, a.Y, a.Z} }

type vec [3]float64

func (a vec) plus(b vec) vec    { return vec{a[0] + b[0], a[1] + b[1], a[2] + b[2]} }
func (a vec) minus(b vec) vec   { return vec{a[0] - b[0], a[1] - b[1], a[2] - b[2]} }
func (a vec) by(k float64) vec  { return vec{k * a[0], k * a[1], k * a[2]} }
func (a vec) dot(b vec) float64 { return a[0]*b[0] + a[1]*b[1] + a[2]*b[2] }
func (a vec) long() float64     { return math.Sqrt(a.dot(a)) }
func (a vec) unit() vec         { return a.by(1 / math.Max(a.long(), 1e-12)) }
func (a vec) cross(b vec) vec {
	return vec{a[1]*b[2] - a[2]*b[1], a[2]*b[0] - a[0]*b[2], a[0]*b[1] - a[1]*b[0]}
}

// angle between two vectors, radians.
func (a vec) angle(b vec) float64 { return math.Atan2(a.cross(b).long(), a.dot(b)) }

// Gravity, m/s², and how far a phone's own scale may be off before what it says is no gravity.
const (
	gravity    = 9.81
	gravityOff = 0.7
)

// Bounds of a recording: a minute and a half at the fastest a phone tells; acceleration no phone's sensor goes beyond.
const (
	samplesMost = 30000
	mostMPS2    = 160.0
)

// confidence is how many standard deviations half an interval of 95 of 100 is.
const confidence = 1.959964

// Refused says why a recording gives no figure.
type Refused = strict.Refused

// ordered checks a recording, sorts it by time and drops what is there twice.
func ordered(path string, in []Sample) ([]Sample, error) {
	if len(in) > samplesMost {
		return nil, strict.FaultAt(path, "fault.count", map[string]any{"value": len(in), "min": 0, "max": samplesMost})
	}
	for _, a := range in {
		for _, v := range []float64{a.X, a.Y, a.Z} {
			if !(math.Abs(v) <= mostMPS2) {
				return nil, strict.FaultAt(path, "fault.range", map[string]any{"value": "?", "min": -mostMPS2, "max": mostMPS2})
			}
		}
		if !(math.Abs(a.S) <= 1e6) {
			return nil, strict.FaultAt(path, "fault.range", map[string]any{"value": "?", "min": 0, "max": 1e6})
		}
	}
	out := slices.Clone(in)
	slices.SortStableFunc(out, func(a, b Sample) int { return cmp.Compare(a.S, b.S) })
	return slices.CompactFunc(out, func(a, b Sample) bool { return a.S == b.S }), nil
}

func between(x []Sample, from, to float64) []Sample {
	at := func(s float64) int {
		i, _ := slices.BinarySearchFunc(x, s, func(a Sample, s float64) int { return cmp.Compare(a.S, s) })
		return i
	}
	return x[at(from):at(to)]
}

// rest is gravity as a phone at rest felt it.
type rest struct {
	up vec
	// errDeg is what its direction is off by for what moved while it was felt (one standard deviation), shake the
	// spread of the readings, m/s².
	errDeg, shake float64
}

// A phone is at rest while its readings spread by no more than this, m/s², and means of blocks of blockS lie by each
// other within blockOff; a figure at rest takes so long and so many readings. Assumptions: a phone on a bench spreads
// by 0.01 to 0.05, in a hand by ten times that.
const (
	shakeMost   = 0.25
	blockS      = 0.25
	restFew     = 12
	restOffMost = 0.15
)

// atRest is gravity by readings of a phone that was still; the error from the means of blocks, so that readings that
// lean on each other count as what they are.
func atRest(x []Sample, leastS float64) (rest, error) {
	if len(x) < restFew || x[len(x)-1].S-x[0].S < 0.9*leastS {
		return rest{}, strict.Refuse("motion.short", map[string]any{"seconds": leastS})
	}
	var out rest
	for _, a := range x {
		out.up = out.up.plus(a.vec().by(1 / float64(len(x))))
	}
	var sum float64
	for _, a := range x {
		d := a.vec().minus(out.up)
		sum += d.dot(d) / 3
	}
	out.shake = math.Sqrt(sum / float64(len(x)))
	var blocks []vec
	for from := x[0].S; from+blockS <= x[len(x)-1].S+blockS/4; from += blockS {
		b := between(x, from, from+blockS)
		if len(b) == 0 {
			continue
		}
		var m vec
		for _, a := range b {
			m = m.plus(a.vec().by(1 / float64(len(b))))
		}
		blocks = append(blocks, m)
	}
	var off, far float64
	for _, b := range blocks {
		d := b.minus(out.up)
		off, far = off+d.dot(d)/2, math.Max(far, d.long())
	}
	switch n := float64(len(blocks)); {
	case out.shake > shakeMost || far > restOffMost:
		return out, strict.Refuse("motion.moving", nil)
	case math.Abs(out.up.long()-gravity) > gravityOff:
		return out, strict.Refuse("motion.no_gravity", map[string]any{"value": out.up.long()})
	default:
		out.errDeg = math.Sqrt(off/math.Max(1, n*(n-1))) / gravity * 180 / math.Pi
	}
	return out, nil
}
