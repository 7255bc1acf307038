// Package ledger follows the brake fluid, old and new, through reservoir, cylinder, pipes and cavities as it is moved
// (how-it-computes, section 8.1). Volumes in cm³; fractions are of old fluid, 0 to 1. What was moved is put in as it
// was: nothing that is chosen later changes it.
package ledger

import (
	"fmt"
	"math"
	"slices"

	"geminate/brake/system"
)

// RestShare of the full reservoir is what a syringe does not reach. Assumption.
const RestShare = 0.05

// sameShare: inlets of a pipe that differ by less are kept as one, which keeps a long bleed short.
const sameShare = 1e-5

// Ledger is the fluid of one system as it stands. It is not safe for concurrent use.
type Ledger struct {
	tanks    []*tank
	tankOf   map[string]*tank // by circuit
	chambers map[string]*mixed
	// trunks are the lines that a circuit's wheels have in common; a circuit whose wheels have their own has one that
	// holds nothing.
	trunks   map[string]*pipe
	wheels   map[string]*way
	order    []string // of the wheels
	circuits []string
	over     float64
	dry      []string
	out      float64 // old fluid that has left: at bleeders, drawn off, spilled
	poured   float64 // fresh fluid that was filled in
	// levels alone are kept where nobody asks what is old: a stroke is then nothing but a sum.
	levelsOnly bool
}

// tank is a reservoir, or a circuit's part of a divided one, well mixed.
type tank struct {
	level, full, lowest float64
	old                 float64
}

// mixed is a well-mixed volume: a cylinder chamber or a brake's cavity. Of a chamber that was put on dry a part is air
// yet.
type mixed struct{ volume, old, air float64 }

// fill lets fluid into what is air yet: what comes in pushes as much of it out.
func (m *mixed) fill(cm3 float64) { m.air = math.Max(0, m.air-cm3) }

// flow passes dv of a constant share through it and gives the mean share of what leaves (exact: the share inside
// nears the inlet's by e^(−dv/V)).
func (m *mixed) flow(dv, inlet float64) (outlet float64) {
	if m.volume <= 0 {
		m.old = inlet
		return inlet
	}
	before := m.old
	m.old = inlet + (before-inlet)*math.Exp(-dv/m.volume)
	return inlet + (before-m.old)*m.volume/dv
}

// way is a wheel's pipe and cavity.
type way struct {
	circuit string
	pipe    pipe
	cavity  mixed
	through float64
}

// State is the ledger after an event.
type State struct {
	LevelCM3     float64          `json:"level_cm3"`
	ReservoirOld float64          `json:"reservoir_old"`
	OverCM3      float64          `json:"over_cm3"` // spilled over the brim so far
	Dry          []string         `json:"dry"`      // circuits that have run dry
	Wheels       map[string]Wheel `json:"wheels"`
}

// Wheel is a wheel's way as it stands.
type Wheel struct {
	ThroughCM3 float64 `json:"through_cm3"`
	LeavingOld float64 `json:"leaving_old"` // of what would leave its bleeder now
}

// New is a system full of old fluid.
func New(s *system.System) *Ledger {
	l := &Ledger{tankOf: map[string]*tank{}, chambers: map[string]*mixed{}, trunks: map[string]*pipe{}, wheels: map[string]*way{}}
	for _, t := range s.Tanks() {
		l.tanks = append(l.tanks, &tank{t.FullCM3, t.FullCM3, t.LowestCM3, 1})
		for _, c := range t.Circuits {
			l.tankOf[c] = l.tanks[len(l.tanks)-1]
		}
	}
	for _, c := range s.Circuits {
		l.circuits = append(l.circuits, c.ID)
		l.chambers[c.ID] = &mixed{s.ChamberCM3(c.ID), 1, 0}
		trunk := newPipe(s.SharedCM3(c.ID))
		l.trunks[c.ID] = &trunk
	}
	for i := range s.Wheels {
		w := &s.Wheels[i]
		l.order = append(l.order, w.ID)
		l.wheels[w.ID] = &way{
			circuit: s.CircuitOf(w.ID),
			pipe:    newPipe(w.PipeCM3() - s.SharedCM3(s.CircuitOf(w.ID))),
			cavity:  mixed{w.Brake.CavityCM3, 1, 0},
		}
	}
	return l
}

// Levels is a ledger that follows what stands in the reservoir and what went through, and not what of it is old.
func Levels(s *system.System) *Ledger {
	l := New(s)
	l.levelsOnly = true
	return l
}

// Clone is a ledger to try things on.
func (l *Ledger) Clone() *Ledger {
	c := *l
	c.tanks, c.tankOf, c.chambers, c.trunks, c.wheels, c.dry = nil, map[string]*tank{}, map[string]*mixed{}, map[string]*pipe{}, map[string]*way{}, slices.Clone(
		l.dry,
	)
	same := map[*tank]*tank{}
	for _, t := range l.tanks {
		n := *t
		same[t] = &n
		c.tanks = append(c.tanks, &n)
	}
	for id, t := range l.tankOf {
		c.tankOf[id] = same[t]
	}
	for id, m := range l.chambers {
		n := *m
		c.chambers[id] = &n
	}
	for id, p := range l.trunks {
		n := *p
		n.inlets = slices.Clone(p.inlets)
		c.trunks[id] = &n
	}
	for id, w := range l.wheels {
		n := *w
		n.pipe.inlets = slices.Clone(w.pipe.inlets)
		c.wheels[id] = &n
	}
	return &c
}

// State tells how it stands.
func (l *Ledger) State() State {
	out := State{OverCM3: l.over, Dry: append([]string{}, l.dry...), Wheels: map[string]Wheel{}}
	old := 0.0
	for _, t := range l.tanks {
		out.LevelCM3 += t.level
		old += t.level * t.old
	}
	if out.LevelCM3 > 0 {
		out.ReservoirOld = share(old / out.LevelCM3)
	}
	for id, w := range l.wheels {
		out.Wheels[id] = Wheel{w.through, share(w.cavity.old)}
	}
	return out
}

// share keeps what rounding leaves, a millionth either way, out of what is told.
func share(x float64) float64 { return math.Min(1, math.Max(0, x)) }

// Drain draws the reservoir down to a rest, left of the whole; nil takes what a syringe leaves.
func (l *Ledger) Drain(left *float64) error {
	full := 0.0
	for _, t := range l.tanks {
		full += t.full
	}
	if left != nil && !(*left >= 0 && *left <= full) {
		return fmt.Errorf("ledger: left_cm3 %v: between 0 and the %v the reservoir holds", *left, full)
	}
	share := RestShare
	if left != nil {
		share = *left / full
	}
	for _, t := range l.tanks {
		if to := share * t.full; to < t.level {
			l.out += (t.level - to) * t.old
			t.level = to
		}
	}
	return nil
}

// Fill fills with fresh fluid to a mark, of the whole; nil to the brim's mark. A mark below the level moves nothing.
func (l *Ledger) Fill(to *float64) error {
	full := 0.0
	for _, t := range l.tanks {
		full += t.full
	}
	if to != nil && !(*to > 0 && *to <= full) {
		return fmt.Errorf("ledger: to_cm3 %v: above 0 and no more than the %v the reservoir holds", *to, full)
	}
	for _, t := range l.tanks {
		mark := t.full
		if to != nil {
			mark *= *to / full
		}
		if mark > t.level {
			t.old *= t.level / mark
			l.poured += mark - t.level
			t.level = mark
		}
	}
	return nil
}

// NewCylinder puts on a cylinder that was bench bled with fresh fluid; dry, one that was not and holds air.
func (l *Ledger) NewCylinder(dry bool) {
	for _, c := range l.chambers {
		l.out += c.volume * c.old
		c.old, c.air = 0, 0
		if dry {
			c.air = c.volume
		}
	}
}

// Draw moves fluid from the reservoir out of a wheel's bleeder. At the lowest port it stops: from there on air comes.
func (l *Ledger) Draw(wheel string, cm3 float64) error {
	w, err := l.way(wheel, cm3)
	if err != nil {
		return err
	}
	t, c := l.tankOf[w.circuit], l.chambers[w.circuit]
	if there := math.Max(0, t.level-t.lowest); cm3 > there+1e-9 {
		cm3 = there
		l.ranDry(w.circuit)
	}
	l.through(w, c, t, cm3, false)
	t.level -= cm3
	return nil
}

// Lose is an opening that did not count: what the foot pushed out is gone from the reservoir, and what came back in at
// the bleeder as the foot rose brought nothing through. The brake's share stays as it was.
func (l *Ledger) Lose(wheel string, cm3 float64) error {
	w, err := l.way(wheel, cm3)
	if err != nil {
		return err
	}
	t := l.tankOf[w.circuit]
	if there := math.Max(0, t.level-t.lowest); cm3 > there+1e-9 {
		cm3 = there
		l.ranDry(w.circuit)
	}
	l.out += cm3 * t.old
	t.level -= cm3
	return nil
}

// Feed is Draw with a bottle of fresh fluid on the reservoir that keeps it full: no circuit runs dry, and what leaves
// it is made up for as it leaves.
func (l *Ledger) Feed(wheel string, cm3 float64) error {
	w, err := l.way(wheel, cm3)
	if err != nil {
		return err
	}
	if err := l.Fill(nil); err != nil {
		return err
	}
	l.through(w, l.chambers[w.circuit], l.tankOf[w.circuit], cm3, true)
	l.poured += cm3
	return nil
}

// through carries fluid from a tank out of a wheel's bleeder; fed, fresh fluid comes into the tank as it leaves.
func (l *Ledger) through(w *way, c *mixed, t *tank, cm3 float64, fed bool) {
	w.through += cm3
	trunk := l.trunks[w.circuit]
	trunk.turn(forward)
	w.pipe.turn(forward)
	c.fill(cm3)
	for left := cm3; left > 0 && !l.levelsOnly; {
		dv := w.step(c, trunk, left)
		left -= dv
		leaves := t.old
		if fed {
			in := mixed{t.level, t.old, 0}
			leaves = in.flow(dv, 0)
			t.old = in.old
		}
		l.out += dv * w.cavity.flow(dv, w.pipe.flow(dv, trunk.flow(dv, c.flow(dv, leaves))))
	}
}

// Push moves fresh fluid in at a wheel's bleeder and up into the reservoir. Above the brim it spills.
func (l *Ledger) Push(wheel string, cm3 float64) error {
	w, err := l.way(wheel, cm3)
	if err != nil {
		return err
	}
	t, c := l.tankOf[w.circuit], l.chambers[w.circuit]
	trunk := l.trunks[w.circuit]
	trunk.turn(backward)
	w.pipe.turn(backward)
	c.fill(cm3)
	if l.levelsOnly {
		room := math.Min(cm3, math.Max(0, t.full-t.level))
		t.level += room
		l.over += cm3 - room
		w.through += cm3
		return nil
	}
	for left := cm3; left > 0; {
		dv := w.step(c, trunk, left)
		left -= dv
		up := c.flow(dv, trunk.flow(dv, w.pipe.flow(dv, w.cavity.flow(dv, 0))))
		l.into(t, dv, up)
	}
	w.through += cm3
	return nil
}

// into lets fluid come up into a tank. Above the brim it spills.
func (l *Ledger) into(t *tank, dv, old float64) {
	room := math.Min(dv, math.Max(0, t.full-t.level))
	if room > 0 {
		t.old = (t.old*t.level + old*room) / (t.level + room)
		t.level += room
	}
	if spill := dv - room; spill > 0 {
		brim := mixed{t.level, t.old, 0}
		l.out += spill * brim.flow(spill, old)
		t.old = brim.old
		l.over += spill
	}
}

func (l *Ledger) way(wheel string, cm3 float64) (*way, error) {
	w := l.wheels[wheel]
	switch {
	case w == nil:
		return nil, fmt.Errorf("ledger: no wheel %q here", wheel)
	case !(cm3 >= 0 && cm3 <= mostCM3):
		return nil, fmt.Errorf("ledger: cm3 %v: between 0 and %v in one go", cm3, mostCM3)
	}
	return w, nil
}

// mostCM3 is the most one event moves: five litres, more than anybody carries through one bleeder in one go.
const mostCM3 = 5000

// step is how much is moved with the inlet taken as constant: a fraction of the smallest volume on the way, so that
// what leaves the chamber and the cavity hardly changes within it.
func (w *way) step(chamber *mixed, trunk *pipe, left float64) float64 {
	const parts = 12
	small := math.Inf(1)
	for _, v := range []float64{chamber.volume, trunk.volume, w.cavity.volume, w.pipe.volume} {
		if v > 0 {
			small = math.Min(small, v)
		}
	}
	if math.IsInf(small, 1) {
		return left
	}
	n := math.Ceil(left / math.Max(small/parts, leastStepCM3))
	return left / n
}

// leastStepCM3 keeps a tiny cavity from making millions of steps.
const leastStepCM3 = 0.05

func (l *Ledger) ranDry(circuit string) {
	for _, c := range l.dry {
		if c == circuit {
			return
		}
	}
	l.dry = append(l.dry, circuit)
}

// OldCM3 is all the old fluid: inside, and what has left. It is the same at every step.
func (l *Ledger) OldCM3() float64 {
	sum := l.out
	for _, t := range l.tanks {
		sum += t.level * t.old
	}
	for _, id := range l.circuits {
		sum += l.chambers[id].volume*l.chambers[id].old + l.trunks[id].content
	}
	for _, id := range l.order {
		w := l.wheels[id]
		sum += w.pipe.content + w.cavity.volume*w.cavity.old
	}
	return sum
}
