// Package photo measures on a picture: distances and circles that lie in one plane beside a thing of known size, each
// with the interval that holds the truth in 95 of 100. What a picture cannot tell it says: a plane that is seen too
// slanted, a thing that is too small, corners that are no card's. How-it-computes, section 15.
//
// Points are in the picture, px, x to the right and y down. Lengths are mm, angles degrees.
package photo

import (
	"fmt"
	"math"
	"slices"

	"geminate/brake/strict"
	"geminate/brake/units"
)

// Point is a place in the picture, px.
type Point struct {
	X float64 `json:"x"`
	Y float64 `json:"y"`
}

func (p Point) minus(q Point) Point   { return Point{p.X - q.X, p.Y - q.Y} }
func (p Point) plus(q Point) Point    { return Point{p.X + q.X, p.Y + q.Y} }
func (p Point) by(k float64) Point    { return Point{k * p.X, k * p.Y} }
func (p Point) long() float64         { return math.Hypot(p.X, p.Y) }
func (p Point) cross(q Point) float64 { return p.X*q.Y - p.Y*q.X }
func (p Point) finite(most float64) bool {
	return math.Abs(p.X) <= most && math.Abs(p.Y) <= most // NaN too
}

// Tap is a point as a finger put it.
type Tap struct {
	Point
	// Fine says that it was put under the magnifier.
	Fine bool `json:"fine,omitempty"`
	// Scale is how many px of the picture lay under one of the screen; 0 takes one.
	Scale float64 `json:"scale,omitempty"`
}

// Error of a tap, px of the picture, one standard deviation in each direction: assumptions.
const (
	tapPX  = 1.5
	finePX = 0.5
	// MagnifierX is how many times slower a point goes under the magnifier than the finger that moves it.
	MagnifierX = 4
	scaleMost  = 50
)

func (t Tap) errorPX() float64 {
	if t.Fine {
		return finePX * math.Max(1, t.Scale/MagnifierX)
	}
	return tapPX * math.Max(1, t.Scale)
}

// Reference is the thing of known size that lies in the plane.
type Reference string

// References.
const (
	Card   Reference = "card"   // ISO/IEC 7810 ID-1
	A4     Reference = "a4"     // ISO 216
	Target Reference = "target" // printed by Geminate
)

// References lists them.
var References = []Reference{Card, A4, Target}

// size is what is known of a reference: its long and its short side, mm, each with its error (one standard deviation),
// its thickness and the radius of its corners.
type size struct {
	longMM, shortMM           float64
	longErrorMM, shortErrorMM float64
	thickMM, cornerMM         float64
}

// sizes. ISO/IEC 7810:2019: 85.47 to 85.72 by 53.92 to 54.03 mm, 0.76 thick, corners of 3.18. ISO 216:2007: 210 and 297
// mm, each ±2; cut paper is rarely off by more than one, so an error of 0.7 is taken (assumption). The target's marks
// are as its bar was measured.
var sizes = map[Reference]size{
	Card:   {longMM: 85.60, shortMM: 53.98, longErrorMM: 0.0625, shortErrorMM: 0.0275, thickMM: 0.76, cornerMM: 3.18},
	A4:     {longMM: 297, shortMM: 210, longErrorMM: 0.7, shortErrorMM: 0.7, thickMM: 0.1},
	Target: {longMM: TargetLongMM, shortMM: TargetShortMM, thickMM: 0.1},
}

// The printed target: its four marks are the corners of a rectangle, its bar is measured once with a rule, since
// printers shrink. It fits a page of A4 and of Letter with 20 mm to spare. Our own.
const (
	TargetLongMM  = 160.0
	TargetShortMM = 100.0
	TargetBarMM   = 150.0
	// barErrorMM is what a rule is read to over the bar: assumption.
	barErrorMM = 0.25
)

// BarMM bounds what a printed bar may measure: a printer that fits a page scales by a few hundredths.
var BarMM = units.Bound{Min: 130, Max: 170}

// Plane says how what is measured lies to the reference.
type Plane string

// Planes.
const (
	Flat    Plane = "flat"    // the reference lies on it
	Within3 Plane = "within3" // within 3 mm of the same height
	NotSure Plane = "unknown"
)

// Planes lists them.
var Planes = []Plane{Flat, Within3, NotSure}

// below is how far the plane lies below the reference's upper face, mm, with its error. A reference that lies on the
// face is above it by its thickness, unless it lies in a recess or beside: half of it, give or take that half, and a
// bump (assumption). Within 3 mm is any height of those alike (uniform: 3/√3). Unknown: a hand's guess is off by a
// centimetre (assumption).
func (p Plane) below(z size) (mm, errorMM float64) {
	switch p {
	case Flat:
		return z.thickMM / 2, math.Hypot(z.thickMM/2/math.Sqrt(3), 0.2)
	case Within3:
		return 0, 3 / math.Sqrt(3)
	}
	return 0, 10
}

// Kind is what is wanted of some points.
type Kind string

// Kinds.
const (
	Distance Kind = "distance" // two points
	Circle   Kind = "circle"   // the diameter of a circle, three points on its edge or more
	Centres  Kind = "centres"  // between the centres of two circles: half of the points on each
	FromLine Kind = "line"     // from the line through the first two points to the third
)

// Kinds lists them.
var Kinds = []Kind{Distance, Circle, Centres, FromLine}

// Circles is how many circles a kind is made of.
func (k Kind) Circles() int { return map[Kind]int{Circle: 1, Centres: 2}[k] }

// Points is how many points it takes at least.
func (k Kind) Points() int { return map[Kind]int{Distance: 2, Circle: 3, Centres: 6, FromLine: 3}[k] }

// Wanted is one thing to measure.
type Wanted struct {
	ID     string `json:"id"`
	Kind   Kind   `json:"kind"`
	Points []Tap  `json:"points"`
}

// Ask is a picture to measure on.
type Ask struct {
	WidePX int `json:"wide_px"`
	HighPX int `json:"high_px"`
	// FieldDeg is the camera's field of view across the longer side of the picture, degrees; nil where nothing told it.
	FieldDeg *float64 `json:"field_deg,omitempty"`
	// Focal35MM is the lens's focal length as of a camera for film of 35 mm, as pictures carry it; it wins over none.
	Focal35MM *float64  `json:"focal35_mm,omitempty"`
	Reference Reference `json:"reference"`
	// Corners of the reference as tapped, in any order.
	Corners []Tap `json:"corners"`
	// BarMM is the target's bar as measured with a rule.
	BarMM *float64 `json:"bar_mm,omitempty"`
	Plane Plane    `json:"plane"`
	Want  []Wanted `json:"want"`
	// Seen are the edges found in the picture near what was tapped, nil where none were looked for.
	Seen *Seen `json:"seen,omitempty"`
}

// Bounds of an ask. A picture under 200 px shows nothing to measure on; more than wantMost things are nobody's.
const (
	leastPX, mostPX = 200, 12000
	wantMost        = 12
	pointsMost      = 24
	idMost          = 64
)

// FieldDeg bounds a field of view: a long tele to the widest lens that still draws straight lines straight.
var FieldDeg = units.Bound{Min: 5, Max: 120}

// Focal35MM bounds the same told as a focal length.
var Focal35MM = units.Bound{Min: 8, Max: 400}

// Check says what is wrong with how an ask is told.
func (a *Ask) Check() error {
	switch {
	case min(a.WidePX, a.HighPX) < leastPX || max(a.WidePX, a.HighPX) > mostPX:
		return strict.FaultAt("$.wide_px", "fault.range", map[string]any{"value": a.WidePX, "min": leastPX, "max": mostPX})
	case a.FieldDeg != nil && !FieldDeg.Holds(*a.FieldDeg):
		return strict.FaultAt("$.field_deg", "fault.range", map[string]any{"value": *a.FieldDeg, "min": FieldDeg.Min, "max": FieldDeg.Max})
	case a.Focal35MM != nil && !Focal35MM.Holds(*a.Focal35MM):
		return strict.FaultAt("$.focal35_mm", "fault.range",
			map[string]any{"value": *a.Focal35MM, "min": Focal35MM.Min, "max": Focal35MM.Max})
	case !slices.Contains(References, a.Reference):
		return strict.FaultAt("$.reference", "fault.enum",
			map[string]any{"value": strict.Clip(string(a.Reference)), "allowed": "card, a4, target"})
	case !slices.Contains(Planes, a.Plane):
		return strict.FaultAt("$.plane", "fault.enum",
			map[string]any{"value": strict.Clip(string(a.Plane)), "allowed": "flat, within3, unknown"})
	case a.Reference == Target && a.BarMM == nil:
		return strict.FaultAt("$.bar_mm", "fault.missing", nil)
	case a.Reference == Target && !BarMM.Holds(*a.BarMM):
		return strict.FaultAt("$.bar_mm", "fault.range", map[string]any{"value": *a.BarMM, "min": BarMM.Min, "max": BarMM.Max})
	case len(a.Corners) != 4:
		return strict.FaultAt("$.corners", "fault.count", map[string]any{"value": len(a.Corners), "min": 4, "max": 4})
	case len(a.Want) > wantMost:
		return strict.FaultAt("$.want", "fault.count", map[string]any{"value": len(a.Want), "min": 0, "max": wantMost})
	}
	for i, c := range a.Corners {
		if !a.tapped(c) {
			return strict.FaultAt(fmt.Sprintf("$.corners[%d]", i), "fault.outside_picture", nil)
		}
	}
	for i, w := range a.Want {
		if err := a.checkWanted(fmt.Sprintf("$.want[%d]", i), w); err != nil {
			return err
		}
	}
	return a.Seen.check(a)
}

// holds says whether a point lies in the picture.
func (a *Ask) holds(p Point) bool {
	return p.X >= 0 && p.Y >= 0 && p.X <= float64(a.WidePX) && p.Y <= float64(a.HighPX)
}

func (a *Ask) tapped(t Tap) bool { return a.holds(t.Point) && t.Scale >= 0 && t.Scale <= scaleMost }

func (a *Ask) checkWanted(path string, w Wanted) error {
	switch n := w.Kind.Points(); {
	case n == 0:
		return strict.FaultAt(path+".kind", "fault.enum",
			map[string]any{"value": strict.Clip(string(w.Kind)), "allowed": "distance, circle, centres, line"})
	case w.ID == "" || len(w.ID) > idMost:
		return strict.FaultAt(path+".id", "fault.missing", nil)
	case len(w.Points) < n || len(w.Points) > pointsMost,
		w.Kind.Circles() == 0 && len(w.Points) != n,
		w.Kind == Centres && len(w.Points)%2 != 0:
		return strict.FaultAt(path+".points", "fault.count", map[string]any{"value": len(w.Points), "min": n, "max": n})
	}
	for i, p := range w.Points {
		if !a.tapped(p) {
			return strict.FaultAt(fmt.Sprintf("%s.points[%d]", path, i), "fault.outside_picture", nil)
		}
	}
	return nil
}

// Refused says why a picture cannot be measured on; its words say what to do about it.
type Refused = strict.Refused

// Figure is one thing measured: with the interval that holds it in 95 of 100.
type Figure struct {
	ID     string  `json:"id"`
	Kind   Kind    `json:"kind"`
	MM     float64 `json:"mm"`
	LowMM  float64 `json:"low_mm"`
	HighMM float64 `json:"high_mm"`
	// Doubt is what makes the interval, each as its own half width, mm.
	Doubt Doubt `json:"doubt"`
	// Most is the greatest of them: what would narrow it.
	Most DoubtOf `json:"most"`
	// Found says that its edges were found in the picture.
	Found bool `json:"found,omitempty"`
	// TakeMM and TakeHalfMM are what a field takes of it: tenths, the interval no narrower for it.
	TakeMM     float64 `json:"take_mm"`
	TakeHalfMM float64 `json:"take_half_mm"`
}

// taken rounds a figure to tenths of a millimetre: finer no picture tells. The interval still holds what it held.
func (f *Figure) taken() {
	f.TakeMM = math.Round(10*f.MM) / 10
	f.TakeHalfMM = math.Ceil(10*(f.HalfMM()+math.Abs(f.TakeMM-f.MM))-1e-9) / 10
}

// HalfMM is half of its interval.
func (f Figure) HalfMM() float64 { return (f.HighMM - f.LowMM) / 2 }

// Doubt is half an interval by what it comes from, mm.
type Doubt struct {
	TapsMM      float64 `json:"taps_mm"`
	ReferenceMM float64 `json:"reference_mm"` // its corners as tapped or found, and its own tolerance
	LensMM      float64 `json:"lens_mm"`
	HeightMM    float64 `json:"height_mm"`
}

// DoubtOf names where a doubt comes from.
type DoubtOf string

// Doubts.
const (
	DoubtTaps      DoubtOf = "taps"
	DoubtReference DoubtOf = "reference"
	DoubtLens      DoubtOf = "lens"
	DoubtHeight    DoubtOf = "height"
)

// DoubtsOf lists them.
var DoubtsOf = []DoubtOf{DoubtTaps, DoubtReference, DoubtLens, DoubtHeight}

func (d Doubt) most() DoubtOf {
	most, of := d.TapsMM, DoubtTaps
	for _, x := range []struct {
		mm float64
		of DoubtOf
	}{{d.ReferenceMM, DoubtReference}, {d.LensMM, DoubtLens}, {d.HeightMM, DoubtHeight}} {
		if x.mm > most {
			most, of = x.mm, x.of
		}
	}
	return of
}

// Measured is what a picture comes to.
type Measured struct {
	Figures []Figure `json:"figures"`
	// AwayMM is how far the camera was from the middle of the reference, SlantDeg how far from straight above.
	AwayMM   float64 `json:"away_mm"`
	SlantDeg float64 `json:"slant_deg"`
	// FineMM is how much a px of the picture is at the reference, mm.
	FineMM float64 `json:"fine_mm"`
	// Edges says that the reference's own edges were found, not its corners alone as tapped.
	Edges bool `json:"edges"`
	// Square takes a point of the picture (x, y, 1) to the reference's plane, mm, by rows: to draw it square. Without
	// the lens.
	Square [9]float64 `json:"square"`
}

// confidence is how many standard deviations half an interval of 95 of 100 is.
const confidence = 1.959964

// Measure works it out. A *Refused says why a picture cannot be measured on; system.Faults that the ask is told
// wrongly.
func Measure(a Ask) (Measured, error) {
	if err := a.Check(); err != nil {
		return Measured{}, err
	}
	cam, err := a.camera()
	if err != nil {
		return Measured{}, err
	}
	out := Measured{Figures: []Figure{}, Edges: a.Seen.sided(), Square: cam.square()}
	out.AwayMM, out.SlantDeg, out.FineMM = cam.stands()
	switch {
	case out.SlantDeg > slantMostDeg:
		return Measured{}, strict.Refuse("photo.slanted", map[string]any{"value_deg": out.SlantDeg, "most_deg": slantMostDeg})
	case cam.shortestSidePX(a.Corners) < sideLeastPX:
		return Measured{}, strict.Refuse("photo.small", map[string]any{"px": cam.shortestSidePX(a.Corners), "least": sideLeastPX})
	}
	for _, w := range a.Want {
		f, err := a.figure(cam, w)
		if err != nil {
			return Measured{}, err
		}
		out.Figures = append(out.Figures, f)
	}
	return out, nil
}

// A plane seen at more than this from straight above is drawn into a sliver; a reference whose short side is less than
// this in the picture tells its size to a hundredth at best. Assumptions.
const (
	slantMostDeg = 65
	sideLeastPX  = 60
)
