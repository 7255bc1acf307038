// Package bleed plans the bleeding of the circuits: the route, the fluid and strokes each wheel
// takes, the time a method needs, and where the reservoir has to be filled up. How-it-computes, section 8.
//
// Lengths mm, volumes cm³, pressures kPa for the drive, times minutes.
package bleed

import (
	"fmt"
	"math"
	"slices"

	"geminate/brake/fluid"
	"geminate/brake/memo"
	"geminate/brake/system"
)

// Method is how the fluid is moved.
type Method string

const (
	Gravity  Method = "gravity"
	Vacuum   Method = "vacuum"
	Pressure Method = "pressure"
	Pedal    Method = "pedal" // a trailer's coupler counts as one
	Reverse  Method = "reverse"
)

// Methods lists them in the order they are offered.
var Methods = []Method{Pedal, Pressure, Vacuum, Gravity, Reverse}

// Order is the school of the route.
type Order string

const (
	Longest   Order = "longest" // longest line first
	ByCircuit Order = "circuit" // one circuit whole, then the other, longest line first within each
	Listed    Order = "listed"  // as the system file lists the wheels
	Maker     Order = "maker"   // as the maker says: Options.Given
)

// Common practice or assumption, no source, unless a line says otherwise.
const (
	bleederBoreMM, bleederLengthMM = 1.8, 8
	hoseBoreMM                     = 3.2
	compensatingPortMM             = 0.7
	densityKGM3                    = 1050
	surfaceTensionNM               = 0.035 // glycol brake fluid, assumption
	secondsPerPedalStroke          = 8     // pump, hold, open, close, release
	pushSeconds                    = 2     // the part of it in which fluid moves
	reservoirMargin                = 0.2   // of the usable volume, kept above the lowest port
	marginFluid                    = 1.25  // spills, purging the hose, a second round at one wheel
	BottleCM3                      = 500
	gravityMS2                     = 9.80665
)

// Bounds of what can be asked for. The target share of old fluid and the pressure on a reservoir are the
// how-it-computes' (sections 8.2 and 8.3); under the least head or drive hardly anything flows. A stroke that
// moves less than leastStrokeCM3 is play in the rod, not pumping. Assumptions.
const (
	leastOld, mostOld           = 0.02, 0.5
	leastHeadMM                 = 10
	leastDriveKPA, mostDriveKPA = 1, 250
	leastStrokeCM3              = 0.02
	// mostStrokes of one wheel: beyond it the way is not pumping. Fifty times a long pickup's.
	mostStrokes = 1000
)

// Options are the choices of one plan.
type Options struct {
	Method       Method
	DriveKPA     float64 // vacuum at the bleeder or pressure at the reservoir or wheel
	HeadMM       float64 // gravity: reservoir level above the bleeder
	TemperatureC float64
	OldFraction  float64 // of old fluid still leaving the bleeder when a wheel counts as done
	StrokeMM     float64 // of the open chamber's piston, the part the foot uses
	Order        Order
	Given        []string // the maker's order
}

// Wheel is the plan for one bleeder.
type Wheel struct {
	ID                 string  `json:"id"`
	Circuit            string  `json:"circuit"`
	PathCM3            float64 `json:"path_cm3"`
	VolumeCM3          float64 `json:"volume_cm3"`
	Minutes            float64 `json:"minutes"`
	Strokes            int     `json:"strokes"` // pedal only
	StrokeCM3          float64 `json:"stroke_cm3"`
	RefillsAfterStroke []int   `json:"refills_after_strokes"`
	// RefillsAfterCM3 is the same for methods without strokes.
	RefillsAfterCM3 []float64 `json:"refills_after_cm3,omitempty"`
	BubblesMove     bool      `json:"bubbles_move"`
	FlowMMS         float64   `json:"flow_mm_s"` // speed of the fluid in the line
	RiseMMS         float64   `json:"rise_mm_s"` // speed at which a bubble climbs in it
}

// Plan is the whole route.
type Plan struct {
	Order    []string `json:"order"`
	Wheels   []Wheel  `json:"wheels"`
	TotalCM3 float64  `json:"total_cm3"`
	Bottles  int      `json:"bottles"` // of BottleCM3, margin included
	// UsableCM3 is what may leave the reservoir between two fillings; AssumedReservoir says the
	// system gave none and a small one was taken.
	UsableCM3        float64 `json:"usable_cm3"`
	AssumedReservoir bool    `json:"assumed_reservoir"`
}

// Make plans the bleeding of a system.
func Make(s *system.System, o Options) (*Plan, error) {
	if err := check(s, o); err != nil {
		return nil, err
	}
	order, err := route(s, o)
	if err != nil {
		return nil, err
	}
	p := &Plan{Order: order}
	p.UsableCM3, p.AssumedReservoir = usable(s)
	left := p.UsableCM3
	for _, id := range order {
		w, err := planWheel(s, s.Wheel(id), o)
		if err != nil {
			return nil, err
		}
		left = placeRefills(&w, o.Method, left, p.UsableCM3)
		p.Wheels = append(p.Wheels, w)
		p.TotalCM3 += w.VolumeCM3
	}
	p.Bottles = int(math.Ceil(p.TotalCM3 * marginFluid / BottleCM3))
	return p, nil
}

func check(s *system.System, o Options) error {
	if !slices.Contains(Methods, o.Method) {
		return fmt.Errorf("bleed: method %q: one of gravity, vacuum, pressure, pedal, reverse", o.Method)
	}
	if !(o.OldFraction >= leastOld && o.OldFraction <= mostOld) {
		return fmt.Errorf("bleed: old_fraction %v: between %v and %v", o.OldFraction, leastOld, mostOld)
	}
	if !(o.TemperatureC >= -40 && o.TemperatureC <= 80) {
		return fmt.Errorf("bleed: temperature_c %v: between −40 and 80 °C", o.TemperatureC)
	}
	switch o.Method {
	case Pedal:
		if !(o.StrokeMM > 0 && o.StrokeMM <= 100) {
			return fmt.Errorf("bleed: stroke_mm %v: above 0 and up to 100 mm", o.StrokeMM)
		}
	case Gravity:
		if !(o.HeadMM >= leastHeadMM && o.HeadMM <= 3000) {
			return fmt.Errorf("bleed: head_mm %v: from %v to 3000 mm", o.HeadMM, leastHeadMM)
		}
	default:
		if !(o.DriveKPA >= leastDriveKPA && o.DriveKPA <= mostDriveKPA) {
			return fmt.Errorf("bleed: drive_kpa %v: from %v to %v kPa: beyond it reservoirs and caps burst", o.DriveKPA, leastDriveKPA, mostDriveKPA)
		}
		if o.Method == Vacuum && o.DriveKPA > s.Ambient.AtmosphereKPA {
			return fmt.Errorf("bleed: drive_kpa %v: no vacuum goes past the atmosphere (%v kPa)", o.DriveKPA, s.Ambient.AtmosphereKPA)
		}
	}
	return nil
}

func lengthOf(w *system.Wheel) float64 { return w.Line.LengthMM + w.Hose.LengthMM }

func route(s *system.System, o Options) ([]string, error) {
	var ids []string
	for _, w := range s.Wheels {
		ids = append(ids, w.ID)
	}
	far := func(a, b string) int {
		switch la, lb := lengthOf(s.Wheel(a)), lengthOf(s.Wheel(b)); {
		case la > lb:
			return -1
		case la < lb:
			return 1
		}
		return 0
	}
	switch o.Order {
	case Longest:
		slices.SortStableFunc(ids, far)
	case ByCircuit:
		slices.SortStableFunc(ids, far)
		var circuits []string // in the order of their longest line
		for _, id := range ids {
			if c := s.CircuitOf(id); !slices.Contains(circuits, c) {
				circuits = append(circuits, c)
			}
		}
		slices.SortStableFunc(ids, func(a, b string) int {
			return slices.Index(circuits, s.CircuitOf(a)) - slices.Index(circuits, s.CircuitOf(b))
		})
	case Listed:
	case Maker:
		given := slices.Clone(o.Given)
		slices.Sort(given)
		want := slices.Clone(ids)
		slices.Sort(want)
		if !slices.Equal(given, want) {
			return nil, fmt.Errorf("bleed: the maker's order must name each wheel once: %v, got %v", want, o.Given)
		}
		return slices.Clone(o.Given), nil
	default:
		return nil, fmt.Errorf("bleed: order %q: one of longest, circuit, listed, maker", o.Order)
	}
	return ids, nil
}

// smallReservoirCM3 is usable where the system gives no reservoir: a small car's, so that the plan errs to early
// refills. Assumption.
const smallReservoirCM3 = 100

// ReservoirCM3 gives where a reservoir's mark and its lowest port stand; the smallest part of one that is
// divided by circuit counts for all.
func ReservoirCM3(s *system.System) (full, lowest float64) {
	if s.Reservoir == nil {
		return smallReservoirCM3, 0
	}
	full = s.Reservoir.FullCM3
	for _, c := range s.Reservoir.Circuits {
		full = math.Min(full, c)
	}
	// A part no larger than the whole's lowest port still feeds something.
	return full, math.Min(s.Reservoir.LowestPortCM3, full-1/(1-reservoirMargin))
}

// usable returns the cm³ that may leave the reservoir between fillings, margin kept back.
func usable(s *system.System) (float64, bool) {
	full, lowest := ReservoirCM3(s)
	return (full - lowest) * (1 - reservoirMargin), s.Reservoir == nil
}

// PipeCM3 is what a wheel's line and hose hold.
func PipeCM3(w *system.Wheel) float64 {
	hoseBore := hoseBoreMM
	if w.Hose.BoreMM != nil {
		hoseBore = *w.Hose.BoreMM
	}
	return (area(w.Line.BoreMM)*w.Line.LengthMM + area(hoseBore)*w.Hose.LengthMM) / 1000
}

// ChamberCM3 is what the cylinder's chamber of a circuit holds: its area times its stroke.
func ChamberCM3(s *system.System, circuit string) float64 {
	c := s.MasterCylinder.Primary
	if sec := s.MasterCylinder.Secondary; sec != nil && sec.Circuit == circuit {
		c = *sec
	}
	return area(s.MasterCylinder.BoreMM) * c.StrokeMM / 1000
}

func planWheel(s *system.System, w *system.Wheel, o Options) (Wheel, error) {
	pipe := PipeCM3(w)
	out := Wheel{ID: w.ID, Circuit: s.CircuitOf(w.ID), PathCM3: pipe + w.Brake.CavityCM3, RefillsAfterStroke: []int{}}
	out.VolumeCM3 = WashoutCM3(pipe, w.Brake.CavityCM3, o.OldFraction)
	var flowCM3S float64
	if o.Method == Pedal {
		stroke, err := StrokeCM3(s, out.Circuit, o.StrokeMM)
		if err != nil {
			return out, err
		}
		out.StrokeCM3 = stroke
		out.Strokes = int(math.Ceil(out.VolumeCM3/stroke - 1e-9))
		if out.Strokes > mostStrokes {
			return out, fmt.Errorf("bleed: stroke_mm %v: %s would take %d strokes: use longer ones, or another method", o.StrokeMM, w.ID, out.Strokes)
		}
		out.VolumeCM3 = float64(out.Strokes) * stroke
		out.Minutes = float64(out.Strokes) * secondsPerPedalStroke / 60
		flowCM3S = stroke / pushSeconds
	} else {
		flowCM3S = FlowCM3S(s, w, o)
		out.Minutes = out.VolumeCM3 / flowCM3S / 60
	}
	out.FlowMMS = flowCM3S * 1000 / area(w.Line.BoreMM)
	out.RiseMMS = BubbleRiseMMS(s, w.Line.BoreMM, o.TemperatureC)
	// A bubble that climbs has to be outrun; one that is stuck moves with any real flow.
	out.BubblesMove = out.FlowMMS > math.Max(1, out.RiseMMS)
	return out, nil
}

func area(bore float64) float64 { return math.Pi * bore * bore / 4 }

// StrokeCM3 is the fluid one stroke of strokeMM moves in a circuit with its bleeder open:
// A·(s − cutoff), s no more than the chamber has.
func StrokeCM3(s *system.System, circuit string, strokeMM float64) (float64, error) {
	c := s.MasterCylinder.Primary
	if sec := s.MasterCylinder.Secondary; sec != nil && sec.Circuit == circuit {
		c = *sec
	}
	v := area(s.MasterCylinder.BoreMM) * (math.Min(strokeMM, c.StrokeMM) - c.CutoffMM) / 1000
	if v < leastStrokeCM3 {
		return 0, fmt.Errorf("bleed: stroke_mm %v: the port closes at %v mm, a shorter stroke moves nothing", strokeMM, c.CutoffMM)
	}
	return v, nil
}

// placeRefills marks where the reservoir must be filled up and returns what is left in it after.
func placeRefills(w *Wheel, m Method, left, full float64) float64 {
	switch m {
	case Reverse: // fluid comes up into the reservoir: it is drawn down, not filled
		return full
	case Pedal:
		for n := 1; n <= w.Strokes; n++ {
			if left < w.StrokeCM3 {
				w.RefillsAfterStroke = append(w.RefillsAfterStroke, n-1)
				left = full
			}
			left -= w.StrokeCM3
		}
	default:
		done := 0.0
		for w.VolumeCM3-done > left {
			done += left
			w.RefillsAfterCM3 = append(w.RefillsAfterCM3, done)
			left = full
		}
		left -= w.VolumeCM3 - done
	}
	return left
}

// WashoutCM3 is the fluid that must enter a path before what leaves holds no more than oldFraction
// of the old: a laminar pipe, whose exit carries 1/(4N²) old fluid after N of its volumes (N ≥ 1/2),
// then a well-mixed cavity.
//
// Source: E(t) = t̄²/(2t³), Levenspiel, Chemical Reaction Engineering (from memory), integrated.
func WashoutCM3(pipeCM3, cavityCM3, oldFraction float64) float64 {
	return washout([3]float64{pipeCM3, cavityCM3, oldFraction})
}

// washout is asked for the same wheels at every stroke.
var washout = memo.Func(1024, func(k [3]float64) float64 { return washoutCM3(k[0], k[1], k[2]) })

func washoutCM3(pipeCM3, cavityCM3, oldFraction float64) float64 {
	pipeExit := func(v float64) float64 {
		if pipeCM3 <= 0 {
			return 0
		}
		if n := v / pipeCM3; n > 0.5 {
			return 1 / (4 * n * n)
		}
		return 1
	}
	if cavityCM3 <= 0 {
		return pipeCM3 / (2 * math.Sqrt(oldFraction))
	}
	step := (pipeCM3 + cavityCM3) / 4000
	keep := math.Exp(-step / cavityCM3)
	c, v := 1.0, 0.0
	for c > oldFraction {
		in := pipeExit(v + step/2)
		next := in + (c-in)*keep
		if next <= oldFraction {
			return v + step*(c-oldFraction)/(c-next)
		}
		c = next
		v += step
	}
	return v
}

// FlowCM3S is the steady flow out of an open bleeder in cm³/s: laminar line, hose and bleeder in
// series (Hagen–Poiseuille, any fluid mechanics handbook) and the compensating port as an orifice.
func FlowCM3S(s *system.System, w *system.Wheel, o Options) float64 {
	class, err := fluid.Find(s.Fluid.Class)
	if err != nil {
		class = fluid.Classes[0]
	}
	rho := density(s)
	mu := class.ViscosityMM2S(o.TemperatureC) * 1e-6 * rho // Pa·s
	resist := func(lengthMM, boreMM float64) float64 {     // Pa·s/m³
		return 128 * mu * lengthMM / 1000 / (math.Pi * math.Pow(boreMM/1000, 4))
	}
	hoseBore, bBore, bLen, port := hoseBoreMM, bleederBoreMM, float64(bleederLengthMM), compensatingPortMM
	if w.Hose.BoreMM != nil {
		hoseBore = *w.Hose.BoreMM
	}
	if w.Bleeder != nil {
		bBore, bLen = w.Bleeder.BoreMM, w.Bleeder.LengthMM
	}
	if p := s.MasterCylinder.CompensatingPortMM; p != nil {
		port = *p
	}
	linear := resist(w.Line.LengthMM, w.Line.BoreMM) + resist(w.Hose.LengthMM, hoseBore) + resist(bLen, bBore)
	square := rho / 2 / math.Pow(0.65*area(port)*1e-6, 2)
	drive := o.DriveKPA * 1000
	if o.Method == Gravity {
		drive = rho * gravityMS2 * o.HeadMM / 1000
	}
	q := 2 * drive / (linear + math.Sqrt(linear*linear+4*square*drive)) // the stable root
	return q * 1e6
}

func density(s *system.System) float64 {
	if s.Fluid.DensityKGM3 != nil {
		return *s.Fluid.DensityKGM3
	}
	return densityKGM3
}

// BubbleRiseMMS is the speed at which a bubble that fills a line climbs in it, in mm/s, zero where
// it is stuck.
//
// Source: Bretherton, J. Fluid Mech. 10 (1961) 166 (from memory):
// Bo − 0.842 = 1.25·Ca^(2/9) + 2.24·Ca^(1/3), Bo = ρgR²/σ, Ca = μU/σ.
func BubbleRiseMMS(s *system.System, boreMM, temperatureC float64) float64 {
	class, err := fluid.Find(s.Fluid.Class)
	if err != nil {
		class = fluid.Classes[0]
	}
	rho := density(s)
	r := boreMM / 2000
	excess := rho*gravityMS2*r*r/surfaceTensionNM - 0.842
	if excess <= 0 {
		return 0
	}
	lo, hi := 0.0, 1.0 // in Ca
	for i := 0; i < 80; i++ {
		ca := (lo + hi) / 2
		if 1.25*math.Pow(ca, 2./9)+2.24*math.Cbrt(ca) < excess {
			lo = ca
		} else {
			hi = ca
		}
	}
	mu := class.ViscosityMM2S(temperatureC) * 1e-6 * rho
	u := lo * surfaceTensionNM / mu * 1000
	if u < 1 { // stuck for any practical purpose (how-it-computes, section 8)
		return 0
	}
	return u
}
