package bleed

import (
	"fmt"
	"math"

	"geminate/brake/ledger"
	"geminate/brake/system"
)

// ErrStrokeTooLong is one stroke that takes more than the reservoir has to give: shorter strokes, or a feed bottle on
// it.
type ErrStrokeTooLong struct{ CM3, GivesCM3 float64 }

func (e ErrStrokeTooLong) Error() string {
	return fmt.Sprintf("bleed: one stroke moves %.1f cm³ and the reservoir has %.1f to give: shorter strokes, or a feed bottle on it",
		e.CM3, e.GivesCM3)
}

// ErrTooMany is a wheel that would take more than is pumping: Most strokes, or cm³ where strokes do not count.
type ErrTooMany struct {
	Wheel   string
	Most    int
	Strokes bool
}

func (e ErrTooMany) Error() string {
	what := "cm³"
	if e.Strokes {
		what = "strokes"
	}
	return fmt.Sprintf(
		"bleed: %s would take more than %d %s: longer strokes, another method, or draw the old fluid out of the reservoir first",
		e.Wheel,
		e.Most,
		what,
	)
}

// ErrNoFlow is a wheel where nothing flows this way.
type ErrNoFlow struct{ Wheel string }

func (e ErrNoFlow) Error() string {
	return fmt.Sprintf("bleed: nothing flows at %s this way: use another method", e.Wheel)
}

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
		return out, ErrNoFlow{w.ID}
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

// reached says whether the fluid and the air that had to leave are through.
func (r *run) reached() bool {
	if r.out.VolumeCM3 < r.least-1e-9 {
		return false
	}
	return r.o.Purpose == ForAir || r.again || Reached(r.l, r.w.ID, r.o.OldFraction)
}

// looks are the openings that follow for the looks alone: the one that brings the last of it is looked at itself.
func (r *run) looks() int {
	if n, told := r.o.Looks[r.w.ID]; told {
		return n
	}
	if r.o.Purpose.airs() || r.again {
		return clearLooks - 1
	}
	return 0
}

// carry moves portion by portion: a stroke, or a cubic centimetre.
func (r *run) carry() error {
	most := mostPortions
	if r.o.Method.Strokes() {
		most = mostStrokes
	}
	after := 0
	for n := 0; ; n++ {
		switch {
		case !r.reached():
		case r.out.Certain == nil:
			certain := n
			r.out.Certain = &certain
			fallthrough
		default:
			if !r.o.Method.Strokes() || after >= r.looks() {
				return nil
			}
			after++
		}
		if n >= most {
			return ErrTooMany{r.w.ID, most, r.o.Method.Strokes()}
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
	if r.o.FeedBottle || level-r.portion >= keep-1e-9 {
		return nil
	}
	if full-r.portion < keep-1e-9 {
		return ErrStrokeTooLong{CM3: r.portion, GivesCM3: full - keep}
	}
	if r.o.Method.Strokes() {
		r.out.RefillsAfterStroke = append(r.out.RefillsAfterStroke, n)
	} else {
		r.out.RefillsAfterCM3 = append(r.out.RefillsAfterCM3, r.out.VolumeCM3)
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
	return r.l.Feed(r.w.ID, r.portion)
}
