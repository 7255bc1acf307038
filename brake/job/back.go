package job

import (
	"time"

	"geminate/brake/bleed"
	"geminate/brake/ledger"
	"geminate/brake/stand"
)

// Taken back. "I had not done it" and "undo" are one thing. Seen at once, with nothing else told in between, it was a
// slip and leaves no trace in the account (it does in the log). Later the state is as it was before, but what came out,
// went in or was seen stays: fluid let out, air let in, a foot that came up, bubbles, a wrong fluid, a figure out of
// its limits, a failed look.

// fate is what becomes of an event in the fold.
type fate int

const (
	told fate = iota
	slip      // passed over
	back      // taken back later
)

// fates are those of a log: of each event by id, and what each event that takes back takes back.
type fates struct {
	of    map[string]fate
	takes map[string]*Event
}

// backer is a body that stands until it is taken back, and says what that comes to; remainer one that leaves something
// behind from its own place on. What is neither is passed over, whenever it is taken back.
type backer interface {
	TakenBack(j *Job, back, of *Event)
}

type remainer interface{ Remains(j *Job, e *Event) }

// fatesOf works them out of events in the order of hands.
func fatesOf(ordered []Event) fates {
	f := fates{of: map[string]fate{}, takes: map[string]*Event{}}
	at := make(map[string]int, len(ordered))
	undone, any := map[string]bool{}, false
	for i := len(ordered) - 1; i >= 0; i-- {
		e := &ordered[i]
		at[e.ID] = i
		if u, ok := e.Body.(*Undone); ok {
			any = true
			if !undone[e.ID] {
				undone[u.Of] = true
			}
		}
	}
	last := map[string]int{} // of each step, where it was last ticked
	for i := range ordered {
		e := &ordered[i]
		if any && undone[e.ID] {
			if _, undo := e.Body.(*Undone); undo { // what it took back stands again
				f.of[e.ID] = slip
				continue
			}
		}
		switch b := e.Body.(type) {
		case *Undone:
			k, there := at[b.Of]
			if !there || k > i || f.of[b.Of] != told {
				continue
			}
			if f.slipped(ordered, k, i) {
				f.of[b.Of], f.of[e.ID] = slip, slip
				continue
			}
			f.of[b.Of] = back
			f.takes[e.ID] = &ordered[k]
		case *Ticked:
			if undone[e.ID] {
				continue
			}
			k, there := last[b.Step]
			if b.off() && len(b.Also) == 0 && there && ordered[k].By.ID == e.By.ID && f.slipped(ordered, k, i) {
				f.of[ordered[k].ID], f.of[e.ID] = slip, slip
			}
			if !b.off() {
				last[b.Step] = i
			}
		}
	}
	return f
}

// slipped says whether what was told at k and taken back at i was a slip.
func (f *fates) slipped(ordered []Event, k, i int) bool {
	if ordered[i].At.Sub(ordered[k].At) > slipWithin {
		return false
	}
	for n := k + 1; n < i; n++ {
		if f.of[ordered[n].ID] != slip && touches(&ordered[n]) {
			return false
		}
	}
	return true
}

// touches says whether an event tells of the vehicle: a note, a photo and a clock do not.
func touches(e *Event) bool {
	switch e.Body.(type) {
	case *Noted, *Photographed, *TimerStarted, *TimerStopped, *PartLookedAt, *OldUnitWent:
		return false
	}
	return true
}

// TakenBack implements backer.
func (t *Ticked) TakenBack(j *Job, back, of *Event) {
	if t.off() {
		return
	}
	j.takeBack([]string{t.Step}, back, of.By.ID)
}

// takeBack takes steps back for one of those who told them.
func (j *Job) takeBack(steps []string, e *Event, teller string) {
	for _, step := range steps {
		if j.account().TakeBack(step, e.when(), teller) {
			delete(j.State.Ticks, step)
		}
	}
	j.handsOn(e)
}

// TakenBack implements backer: the reading goes, that it was read stays.
func (f *FindingMade) TakenBack(j *Job, _, of *Event) {
	at := j.State.Findings[f.Phase]
	if x, there := at[f.Finding]; there && x.Seq == of.place {
		delete(at, f.Finding)
	}
	if f.Phase == PhaseVerify {
		j.State.Air, j.airStale = nil, true
	}
	j.withdraw(f.Finding, of.place)
}

// Remains implements remainer: what the foot pushed out is out of the reservoir, and counts for nothing else.
func (b *BleedStroked) Remains(j *Job, e *Event) { j.letOut(b.Wheel, b.CM3, b.Fed, b.Method, e) }

// Remains implements remainer.
func (v *VolumeMoved) Remains(j *Job, e *Event) { j.letOut(v.Wheel, v.VolumeCM3, v.Fed, v.Method, e) }

// letOut takes fluid out of the reservoir that washed nothing and carried nothing out.
func (j *Job) letOut(wheel string, cm3 float64, fed bool, m bleed.Method, e *Event) {
	j.worked(e, string(e.Kind), movedThings...)
	j.account().Move(e.when(), movedThings...)
	if cm3 > 0 && j.wheelOf(wheel) != nil && m != bleed.Reverse {
		j.drew(wheel, opening{method: m, cm3: cm3, fed: fed, lost: true}, e)
	}
}

// Remains implements remainer.
func (o *OpeningLost) Remains(j *Job, e *Event) { o.Apply(j, e) }

// Remains implements remainer: bubbles were seen; a clear look is as if nobody had looked.
func (w *WheelSeen) Remains(j *Job, e *Event) {
	if !w.clear() {
		w.Apply(j, e)
	}
}

// Remains implements remainer.
func (w *WheelAgain) Remains(j *Job, e *Event) { w.Apply(j, e) }

// Remains implements remainer: what went in is in; how far it filled the reservoir nobody knows.
func (f *Filled) Remains(j *Job, e *Event) {
	j.worked(e, string(e.Kind), stand.Reservoir, stand.Fluid)
	j.pour(e, f.Poured)
}

// Remains implements remainer.
func (d *DrawnOff) Remains(j *Job, e *Event) {
	j.State.moves(ledger.Event{Kind: ledger.KindDrain, LeftCM3: d.LeftCM3})
	j.worked(e, string(e.Kind), stand.Reservoir, stand.Fluid)
}

// Remains implements remainer: the line was cracked.
func (p *PortCracked) Remains(j *Job, e *Event) {
	j.worked(e, string(e.Kind), stand.Lines)
	j.account().Move(e.when(), stand.Lines)
}

// Remains implements remainer: it is off until it is told to be on, or a new one.
func (p *PartOff) Remains(j *Job, e *Event) { p.Apply(j, e) }

// Remains implements remainer: the engine ran.
func (s *SteeringCycled) Remains(j *Job, e *Event) {
	j.worked(e, string(e.Kind), stand.Steering)
	if !s.Vacuum {
		j.account().EngineRan(e.when())
	}
}

// ── told after a release ──

// Afterwards is something told after the release of what had been done before it.
type Afterwards struct {
	Seq    int64     `json:"seq"`
	Kind   Kind      `json:"kind"`
	At     time.Time `json:"at"`
	ToldAt time.Time `json:"told_at"`
	By     string    `json:"by"`
	Step   string    `json:"step,omitempty"`
}

// afterwardsMost bounds what is listed.
const afterwardsMost = 50

// toldAfterwards lists what was told after the release that stands, and says what of it would have held the vehicle: it
// opens nothing by itself; whoever released it is told.
func (j *Job) toldAfterwards(ordered []Event) {
	if j.State.ReleasedAt == nil {
		return
	}
	released := -1
	for i := range ordered {
		if ordered[i].Kind == KindReleased {
			released = i
		}
	}
	for i := range max(0, released) {
		e := &ordered[i]
		if e.Seq < ordered[released].Seq || !touches(e) || len(j.State.Afterwards) >= afterwardsMost {
			continue
		}
		a := Afterwards{Seq: e.Seq, Kind: e.Kind, At: e.At, ToldAt: e.StoredAt, By: e.By.Name}
		if t, ok := e.Body.(*Ticked); ok {
			a.Step = t.Step
		}
		j.State.Afterwards = append(j.State.Afterwards, a)
	}
	if len(j.State.Afterwards) == 0 {
		return
	}
	if g, err := j.Gate(); err == nil && !g.Passable {
		for _, i := range g.ToDo() {
			j.State.CalledBack = append(j.State.CalledBack, i.ID)
		}
	}
}
