package bleed

import (
	"fmt"
	"math"

	"geminate/brake/ledger"
	"geminate/brake/system"
)

// planWheel runs the ledger forward at one wheel until what it is bled for is reached. again is a second visit: the
// wheel has its exchange behind it and is opened for the air.
func planWheel(s *system.System, w *system.Wheel, o Options, l *ledger.Ledger, again bool) (Wheel, error) {
	out := Wheel{ID: w.ID, Circuit: s.CircuitOf(w.ID), PathCM3: w.PipeCM3() + w.Brake.CavityCM3, RefillsAfterStroke: []int{}}
	least := 0.0
	if o.Purpose.airs() {
		var told bool
		if least, told = o.LeastCM3[w.ID]; !told {
			least = out.PathCM3
		}
	}
	if again {
		least = out.PathCM3
	}
	r := run{s: s, w: w, o: o, l: l, out: &out, least: least, portion: portionCM3, again: again}
	if o.Method.Strokes() {
		stroke, err := StrokeCM3(s, out.Circuit, o.StrokeMM)
		if err != nil {
			return out, err
		}
		out.StrokeCM3, r.portion = stroke, stroke
	}
	if err := r.carry(); err != nil {
		return out, err
	}
	out.LeavingOld = l.Leaving(w.ID)
	minutes, _ := wheelMinutes(s, w, o, out.VolumeCM3)
	if math.IsInf(minutes, 0) {
		return out, fmt.Errorf("bleed: nothing flows at %s this way: use another method", w.ID)
	}
	out.Minutes = minutes
	flow := FlowCM3S(s, w, o)
	if o.Method.Strokes() {
		flow = out.StrokeCM3 / math.Max(pushSeconds, out.StrokeCM3/math.Max(flow, inertCM3S))
	}
	out.FlowMMS = flow * 1000 / area(w.Line.BoreMM)
	out.RiseMMS = BubbleRiseMMS(s, w.Line.BoreMM, o.TemperatureC)
	// A bubble that climbs has to be outrun; one that is stuck moves with any real flow.
	out.BubblesMove = o.Method == ScanTool || out.FlowMMS > math.Max(1, out.RiseMMS)
	return out, nil
}

// run is one wheel being planned.
type run struct {
	s       *system.System
	w       *system.Wheel
	o       Options
	l       *ledger.Ledger
	out     *Wheel
	least   float64
	portion float64
	again   bool
}

func (r *run) done(n int) bool {
	if r.out.VolumeCM3 < r.least-1e-9 || r.o.Purpose == ForAir && r.o.Method.Strokes() && n < leastOpenings {
		return false
	}
	return r.o.Purpose == ForAir || r.again || Reached(r.l, r.w.ID, r.o.OldFraction)
}

// carry moves portion by portion: a stroke, or a cubic centimetre.
func (r *run) carry() error {
	most := mostPortions
	if r.o.Method.Strokes() {
		most = mostStrokes
	}
	for n := 0; !r.done(n); n++ {
		if n >= most {
			if r.o.Method.Strokes() {
				return fmt.Errorf("bleed: stroke_mm %v: %s would take more than %d strokes: use longer ones, another method, or draw the old fluid out of the reservoir first", r.o.StrokeMM, r.w.ID, most)
			}
			return fmt.Errorf("bleed: %s would take more than %d cm³: draw the old fluid out of the reservoir first", r.w.ID, most)
		}
		if err := r.ready(n); err != nil {
			return err
		}
		if err := r.move(); err != nil {
			return err
		}
		r.out.VolumeCM3 += r.portion
		if r.o.Method.Strokes() {
			r.out.Strokes = n + 1
		}
	}
	return nil
}

// ready fills the reservoir, or draws it down, before a portion that would take it past its bounds.
func (r *run) ready(n int) error {
	level, full, lowest := r.l.Level(r.out.Circuit)
	keep := keepCM3(full, lowest)
	if r.o.Method == Reverse {
		if level+r.portion <= full+1e-9 {
			return nil
		}
		r.out.DrawDownsAfterCM3 = append(r.out.DrawDownsAfterCM3, r.out.VolumeCM3)
		return drawDown(r.s, r.l, r.out.Circuit)
	}
	if level-r.portion >= keep-1e-9 {
		return nil
	}
	if full-r.portion < keep-1e-9 {
		if r.o.FeedBottle {
			return r.l.Fill(nil)
		}
		return fmt.Errorf("bleed: stroke_mm %v: one stroke moves %.1f cm³ and the reservoir has %.1f to give: shorter strokes, or a feed bottle on it", r.o.StrokeMM, r.portion, full-keep)
	}
	if !r.o.FeedBottle {
		if r.o.Method.Strokes() {
			r.out.RefillsAfterStroke = append(r.out.RefillsAfterStroke, n)
		} else {
			r.out.RefillsAfterCM3 = append(r.out.RefillsAfterCM3, r.out.VolumeCM3)
		}
	}
	return r.l.Fill(nil)
}

// drawDown draws the whole reservoir down to where the tank of a circuit stands at what it keeps.
func drawDown(s *system.System, l *ledger.Ledger, circuit string) error {
	to := DrawDownTo(s, l, circuit)
	return l.Drain(&to)
}

// DrawDownTo is the mark to which the reservoir is drawn down before more is pushed up into it, of the whole, cm³.
func DrawDownTo(s *system.System, l *ledger.Ledger, circuit string) float64 {
	_, full, lowest := l.Level(circuit)
	whole := 0.0
	for _, t := range s.Tanks() {
		whole += t.FullCM3
	}
	return whole * keepCM3(full, lowest) / full
}

func (r *run) move() error {
	if r.o.Method == Reverse {
		return r.l.Push(r.w.ID, r.portion)
	}
	if !r.o.FeedBottle {
		return r.l.Draw(r.w.ID, r.portion)
	}
	// The bottle feeds while it is drawn: in parts no larger than what is there.
	for left := r.portion; left > 1e-12; {
		level, full, lowest := r.l.Level(r.out.Circuit)
		dv := math.Min(left, math.Max(0.01, level-keepCM3(full, lowest)))
		if err := r.l.Draw(r.w.ID, dv); err != nil {
			return err
		}
		if err := r.l.Fill(nil); err != nil {
			return err
		}
		left -= dv
	}
	return nil
}
