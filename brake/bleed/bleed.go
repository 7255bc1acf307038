// Package bleed plans the bleeding of the circuits: the route, the fluid and strokes each wheel takes, the time a
// method needs, and where the reservoir has to be filled up or drawn down. A plan is the fluid ledger run forward from
// where it stands. How-it-computes, section 8.
//
// Lengths mm, volumes cm³, pressures kPa for the drive, times minutes.
package bleed

import (
	"fmt"
	"math"
	"slices"

	"geminate/brake/ledger"
	"geminate/brake/stand"
	"geminate/brake/system"
	"geminate/brake/units"
)

// Order is the programme of the route.
type Order string

// Orders.
const (
	Longest      Order = "longest"       // longest line first
	ByCircuit    Order = "circuit"       // one circuit whole, then the other, longest line first within each
	Listed       Order = "listed"        // as the system file lists the wheels
	Maker        Order = "maker"         // as the maker says: Options.Given
	FarthestAxle Order = "farthest_axle" // a trailer's: both sides of an axle, then forward
	ToolLed      Order = "tool"          // as the scan tool leads
)

// Orders lists them.
var Orders = []Order{Longest, ByCircuit, Listed, Maker, FarthestAxle, ToolLed}

// Purpose is what a bleed is for.
type Purpose string

// Purposes.
const (
	NoPurpose   Purpose = ""         // as it follows from what was done
	ForExchange Purpose = "exchange" // old fluid out
	ForAir      Purpose = "air"
	ForBoth     Purpose = "both"
)

// Purposes lists them.
var Purposes = []Purpose{ForExchange, ForAir, ForBoth}

func (p Purpose) airs() bool { return p == ForAir || p == ForBoth }

// Common practice or assumption, no source, unless a line says otherwise.
const (
	bleederBoreMM, bleederLengthMM = 1.8, 8
	compensatingPortMM             = 0.7
	densityKGM3                    = 1050
	surfaceTensionNM               = 0.035 // glycol brake fluid, assumption
	inertialRise                   = 0.345
	pushSeconds                    = 2   // the part of a stroke in which fluid moves
	reservoirMargin                = 0.2 // of the usable volume, kept above the lowest port
	BottleCM3                      = 500
	gravityMS2                     = 9.80665
	portionCM3                     = 1 // in which fluid that is not counted in strokes is planned
)

// FluidMargin is the share of what is needed that is in hand besides: spills, purging the hose, a second round at one
// wheel. A quarter: common practice, no source.
const FluidMargin = 0.25

// Bounds of what can be asked for. The target share of old fluid and the pressure on a reservoir are the
// how-it-computes' (sections 8.2 and 8.3); under the least drive hardly anything flows. A stroke that
// moves less than leastStrokeCM3 is play in the rod, not pumping. Assumptions.
const (
	LeastOld, MostOld = 0.02, 0.5
	leastHeadMM       = 10
	MostHeadMM        = 3000
	leastStrokeCM3    = 0.02
	// mostStrokes of one wheel: beyond it the way is not pumping. Fifty times a long pickup's.
	mostStrokes = 1000
	// mostPortions is the same for what is not counted in strokes, five litres at one wheel.
	mostPortions = 5000
	// clearLooks of a wheel that is bled of air: it is to run clear so often in a row.
	clearLooks = stand.ClearTwice
)

// What the figures of a way may be: a stroke no longer than a chamber, a drive under which hardly anything flows and
// over which reservoirs and caps burst, fluid as cold and as warm as a shop's.
var (
	StrokeMM     = units.Bound{Min: 1, Max: 100}
	DriveKPA     = units.Bound{Min: 1, Max: 250}
	TemperatureC = units.Bound{Min: -40, Max: 80}
)

// Options are the choices of one plan.
type Options struct {
	Method       Method
	DriveKPA     float64 // vacuum at the bleeder or pressure at the reservoir or wheel
	HeadMM       float64 // gravity: reservoir level above the bleeder, negative below it
	TemperatureC float64
	OldFraction  float64 // of old fluid still leaving the bleeder when a wheel counts as done
	StrokeMM     float64 // of the open chamber's piston, the part the foot uses
	Order        Order
	Given        []string // the maker's order; a wheel may come again
	Purpose      Purpose  // "" is an exchange
	// Wheels are those to be bled, nil all.
	Wheels []string
	// LeastCM3 is what has to go through a wheel yet for the air, cm³; a wheel that is not in it needs its whole path.
	LeastCM3 map[string]float64
	// Looks are the openings of a wheel that follow, for the looks alone, once all is through; a wheel that is not in
	// it has as many as its purpose asks for.
	Looks map[string]int
	// DirtyUp says that what would be pushed up is old fluid.
	DirtyUp bool
	// FeedBottle stands on the reservoir and keeps it full.
	FeedBottle bool
	// OwnSeconds are this shop's own times of a stroke or opening, by method.
	OwnSeconds map[Method]float64
	// Start is the fluid as it stands, nil a reservoir just drawn down and filled with fresh fluid.
	Start *ledger.Ledger
}

// with is the same for another method, with a drive it can work with.
func (o Options) with(m Method) Options {
	if e := m.Find(); e != nil && m != o.Method {
		switch e.Mover {
		case ByPressure:
			o.DriveKPA = usualPressureKPA
		case ByVacuum:
			o.DriveKPA = usualVacuumKPA
		case ByPush:
			o.DriveKPA = usualPushKPA
		}
	}
	o.Method = m
	return o
}

// Drives that are usual, kPa: what most caps allow at the least, a hand pump, a syringe (how-it-computes, section 8.3).
const usualPressureKPA, usualVacuumKPA, usualPushKPA = 100, 70, 45

// UsualDriveKPA is what a method is driven with where nobody said.
func UsualDriveKPA(m Method) float64 { return Options{}.with(m).DriveKPA }

func (o Options) wheels(s *system.System) []string {
	if o.Wheels != nil {
		return o.Wheels
	}
	var out []string
	for _, w := range s.Wheels {
		out = append(out, w.ID)
	}
	return out
}

// Wheel is the plan for one bleeder.
type Wheel struct {
	ID        string  `json:"id"`
	Circuit   string  `json:"circuit"`
	PathCM3   float64 `json:"path_cm3"`
	VolumeCM3 float64 `json:"volume_cm3"`
	Minutes   float64 `json:"minutes"`
	Strokes   int     `json:"strokes"` // by the foot only
	// Certain are those of them that fluid and air take; what follows is for the looks, and depends on what is seen.
	Certain            *int    `json:"certain,omitempty"`
	StrokeCM3          float64 `json:"stroke_cm3"`
	RefillsAfterStroke []int   `json:"refills_after_strokes"`
	// RefillsAfterCM3 is the same for methods without strokes; DrawDownsAfterCM3 where the reservoir is drawn down
	// before more is pushed up into it.
	RefillsAfterCM3   []float64 `json:"refills_after_cm3,omitempty"`
	DrawDownsAfterCM3 []float64 `json:"draw_downs_after_cm3,omitempty"`
	LeavingOld        float64   `json:"leaving_old"` // when it is done
	BubblesMove       bool      `json:"bubbles_move"`
	FlowMMS           float64   `json:"flow_mm_s"` // speed of the fluid in the line
	RiseMMS           float64   `json:"rise_mm_s"` // speed at which a bubble climbs in it
}

// Plan is the whole route.
type Plan struct {
	Order    []string `json:"order"`
	Wheels   []Wheel  `json:"wheels"` // one for each entry of the order
	TotalCM3 float64  `json:"total_cm3"`
	// PouredCM3 is the fresh fluid that goes in on the way, the fillings; Bottles of BottleCM3 with the margin.
	PouredCM3 float64 `json:"poured_cm3"`
	Bottles   int     `json:"bottles"`
	// UsableCM3 is what may leave the reservoir between two fillings; AssumedReservoir says the
	// system gave none and a small one was taken.
	UsableCM3        float64 `json:"usable_cm3"`
	AssumedReservoir bool    `json:"assumed_reservoir"`
}

// Wheel gives the first entry of a wheel, nil where it is not on the route.
func (p *Plan) Wheel(id string) *Wheel {
	for i := range p.Wheels {
		if p.Wheels[i].ID == id {
			return &p.Wheels[i]
		}
	}
	return nil
}

// FlushedCM3 is what a reservoir that was drawn down takes before the plan of a nil Start begins.
func flushedCM3(s *system.System) (sum float64) {
	for _, t := range s.Tanks() {
		sum += t.FullCM3 * (1 - ledger.RestShare)
	}
	return sum
}

// Make plans the bleeding of a system.
func Make(s *system.System, o Options) (*Plan, error) {
	if err := check(s, o); err != nil {
		return nil, err
	}
	order, err := Route(s, o)
	if err != nil {
		return nil, err
	}
	p := &Plan{Order: []string{}, Wheels: []Wheel{}, AssumedReservoir: s.Reservoir == nil, UsableCM3: math.Inf(1)}
	for _, t := range s.Tanks() {
		p.UsableCM3 = math.Min(p.UsableCM3, (t.FullCM3-t.LowestCM3)*(1-reservoirMargin))
	}
	l := o.Start
	if l == nil {
		l = ledger.New(s)
		if err := l.Drain(nil); err != nil {
			return nil, err
		}
		if err := l.Fill(nil); err != nil {
			return nil, err
		}
	} else {
		l = l.Clone()
	}
	before := l.Poured()
	if o.Start == nil {
		before -= flushedCM3(s)
	}
	seen := map[string]bool{}
	for _, id := range order {
		if !slices.Contains(o.wheels(s), id) {
			continue
		}
		w, err := planWheel(s, s.Wheel(id), o, l, seen[id])
		if err != nil {
			return nil, err
		}
		seen[id] = true
		p.Order = append(p.Order, id)
		p.Wheels = append(p.Wheels, w)
		p.TotalCM3 += w.VolumeCM3
	}
	p.PouredCM3 = l.Poured() - before
	p.Bottles = int(math.Ceil(math.Max(p.TotalCM3, p.PouredCM3) * (1 + FluidMargin) / BottleCM3))
	return p, nil
}

func check(s *system.System, o Options) error {
	e := o.Method.Find()
	if e == nil {
		return fmt.Errorf("bleed: method %.20q: one of %v", string(o.Method), MethodIDs())
	}
	if !(o.OldFraction >= LeastOld && o.OldFraction <= MostOld) {
		return fmt.Errorf("bleed: old_fraction %v: between %v and %v", o.OldFraction, LeastOld, MostOld)
	}
	if !TemperatureC.Holds(o.TemperatureC) {
		return fmt.Errorf("bleed: temperature_c %v: between %v and %v °C", o.TemperatureC, TemperatureC.Min, TemperatureC.Max)
	}
	if o.Purpose != "" && !slices.Contains(Purposes, o.Purpose) {
		return fmt.Errorf("bleed: purpose %.20q: one of %v", string(o.Purpose), Purposes)
	}
	for _, id := range o.Wheels {
		if s.Wheel(id) == nil {
			return fmt.Errorf("bleed: no wheel %.20q here", id)
		}
	}
	switch e.Mover {
	case ByFoot:
		if !(o.StrokeMM > 0 && o.StrokeMM <= StrokeMM.Max) {
			return fmt.Errorf("bleed: stroke_mm %v: above 0 and up to %v mm", o.StrokeMM, StrokeMM.Max)
		}
	case ByHead:
		if !(o.HeadMM >= leastHeadMM && o.HeadMM <= MostHeadMM) {
			return fmt.Errorf("bleed: head_mm %v: from %v to %v mm: a reservoir that is not above the bleeder feeds nothing",
				o.HeadMM, leastHeadMM, MostHeadMM)
		}
	case ByPressure, ByVacuum, ByPush:
		if !DriveKPA.Holds(o.DriveKPA) {
			return fmt.Errorf("bleed: drive_kpa %v: from %v to %v kPa: beyond it reservoirs and caps burst", o.DriveKPA,
				DriveKPA.Min, DriveKPA.Max)
		}
		if o.Method == Vacuum && o.DriveKPA > s.Ambient.AtmosphereKPA {
			return fmt.Errorf("bleed: drive_kpa %v: no vacuum goes past the atmosphere (%v kPa)", o.DriveKPA, s.Ambient.AtmosphereKPA)
		}
		if o.Method == Reverse && residualHolds(s, o) {
			return fmt.Errorf("bleed: drive_kpa %v: a residual valve holds against it: push harder, or bleed another way", o.DriveKPA)
		}
	}
	return nil
}

// keepCM3 is the level a tank is never drawn under: a fifth of what is usable above its lowest port.
func keepCM3(full, lowest float64) float64 { return lowest + (full-lowest)*reservoirMargin }

// KeepCM3 is the level at which the tank of a circuit is filled.
func KeepCM3(l *ledger.Ledger, circuit string) float64 {
	_, full, lowest := l.Level(circuit)
	return keepCM3(full, lowest)
}

// StrokeCM3 is the fluid one stroke of strokeMM moves in a circuit with its bleeder open:
// A·(s − cutoff), s no more than the chamber has.
func StrokeCM3(s *system.System, circuit string, strokeMM float64) (float64, error) {
	c := s.ChamberOf(circuit)
	v := area(s.MasterCylinder.BoreMM) * (math.Min(strokeMM, c.StrokeMM) - c.CutoffMM) / 1000
	if v < leastStrokeCM3 {
		return 0, fmt.Errorf("bleed: stroke_mm %v: the port closes at %v mm, a shorter stroke moves nothing", strokeMM, c.CutoffMM)
	}
	return v, nil
}

// Reached says whether a wheel has no more old fluid than a target. Where fluid came in at the wheel it leaves fresh
// there at once: then what is in the line counts too.
func Reached(l *ledger.Ledger, wheel string, target float64) bool {
	if l.Pushed(wheel) && l.InPipe(wheel) > target {
		return false
	}
	return l.Leaving(wheel) <= target
}
