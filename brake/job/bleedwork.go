package job

import (
	"math"
	"slices"

	"geminate/brake/bleed"
	"geminate/brake/ledger"
	"geminate/brake/stand"
	"geminate/brake/system"
)

// bleedWork is where the bleed stands: what every screen and the gate ask, without the plan of what is to come.
type bleedWork struct {
	j      *Job
	s      *system.System
	st     *State
	l      *ledger.Ledger
	o      bleed.Options
	with   bleed.With
	steps  []bleed.Step
	wheels map[string]WheelState
	now    *bleed.Step
	// foul: a fluid that should not be there stands in the reservoir.
	foul bool
}

// drain says whether the old fluid is to be drawn off first: filled up as it stands, the reservoir would hold more of
// it than may leave a wheel.
func (w *bleedWork) drain() bool {
	if w.o.Method == bleed.Reverse && !w.foul { // it comes up to the brim
		return w.drawDown(w.s.Circuits[0].ID)
	}
	return !w.st.OldFluid && (w.o.Purpose != bleed.ForAir && w.dirty() || w.foul)
}

// drawDown says whether one more syringe pushed up would spill.
func (w *bleedWork) drawDown(circuit string) bool {
	level, full, _ := w.l.Level(circuit)
	return level+math.Min(bleed.SyringeCM3, full-bleed.KeepCM3(w.l, circuit)) > full+1e-9
}

// dirty says whether a tank filled up as it stands would hold more old fluid than may leave a wheel.
func (w *bleedWork) dirty() bool {
	for _, c := range w.s.Circuits {
		if level, full, _ := w.l.Level(c.ID); level/full*w.l.InReservoir(c.ID) > w.o.OldFraction {
			return true
		}
	}
	return false
}

// bleedWork works it out.
func (j *Job) bleedWork() (*bleedWork, error) {
	s := j.Fitted()
	w := &bleedWork{j: j, s: s, st: &j.State, l: j.fluid(), o: j.bleedOptions(s), wheels: map[string]WheelState{}, foul: j.drawOffFirst()}
	order, err := bleed.Route(s, w.o)
	if err != nil {
		return nil, err
	}
	for i := range s.Wheels {
		w.o.DirtyUp = w.o.DirtyUp || w.l.InPath(s.Wheels[i].ID) > w.o.OldFraction
	}
	w.with = bleed.With{
		Drain:   w.drain(),
		Routine: j.routine(),
		Up:      w.o.Method == bleed.Reverse,
		Pumped:  w.o.Method == bleed.Gravity && !s.IsTrailer() && !w.st.OldFluid,
	}
	affected := w.o.Wheels
	order = slices.DeleteFunc(order, func(id string) bool { return affected != nil && !slices.Contains(affected, id) })
	w.steps = bleed.Programme(s, order, w.with)
	for i := range s.Wheels {
		id := s.Wheels[i].ID
		w.wheels[id] = w.wheel(&s.Wheels[i], affected == nil || slices.Contains(affected, id))
	}
	w.whyNotClear()
	for i := range w.steps {
		if !w.doneStep(w.steps[i]) {
			w.now = &w.steps[i]
			break
		}
	}
	return w, nil
}

// wheel judges one: the old fluid is through where it was to be, and every mark of air is gone.
func (w *bleedWork) wheel(at *system.Wheel, affected bool) WheelState {
	st, log, way := w.st, w.st.Wheels[at.ID], w.j.account().Wheels[at.ID]
	now := way.Now()
	out := WheelState{
		Strokes:      now.Strokes,
		CM3:          now.CM3,
		TotalStrokes: way.Strokes,
		TotalCM3:     way.ThroughCM3,
		Rounds:       append([]stand.Round{}, way.Rounds...),
		Old:          w.l.Leaving(at.ID),
		Clear:        st.Clear[at.ID],
		ClearRow:     way.Row,
		ClearOf:      1,
		Round:        max(1, way.Round()),
		Lost:         now.Lost,
		Left:         log.Left,
		LeftNote:     log.LeftNote,
		Affected:     affected,
	}
	if v, err := bleed.StrokeCM3(w.s, w.s.CircuitOf(at.ID), w.j.Choices.Bleed.StrokeMM); err == nil {
		out.WeighedCM3, out.CountedCM3, out.Disagrees, out.DoubtfulG = log.WeighedCM3, log.CountedCM3, log.disagrees(v), log.DoubtfulG
	}
	if st.OldFluid { // bled before its fluid was followed: by what went through in all, and one look
		out.Strokes, out.CM3 = way.Strokes, way.ThroughCM3
		out.Enough = out.CM3 >= bleed.WashoutCM3(at.PipeCM3(), at.Brake.CavityCM3, w.o.OldFraction)*0.999
		out.Done = out.Enough && st.Clear[at.ID]
		return out
	}
	out.Enough = w.o.Purpose == bleed.ForAir || w.o.Method == bleed.ScanTool || bleed.Reached(w.l, at.ID, w.o.OldFraction)
	out.Enough = out.Enough && way.ThroughCM3 > 0 // no volume, no clearing
	marks := w.marks(at, &way)
	seen := way.Row >= 1
	tool := w.o.Method == bleed.ScanTool // its own pump spurts: it says when, and one look behind the volume does
	if len(marks) > 0 && !tool {
		out.ClearOf, seen = clearTwice, true
	}
	for _, m := range marks {
		out.AirLeftCM3 = math.Max(out.AirLeftCM3, way.LeftCM3(m))
		seen = seen && (way.SeenClear(m) || tool && way.SeenOnce(m))
	}
	out.FlushLeftCM3 = math.Max(0, w.j.flushLeftCM3(at))
	out.Enough = out.Enough && out.AirLeftCM3 == 0 && out.FlushLeftCM3 == 0
	out.Done = out.Enough && seen
	return out
}

// stillBubbles says whether a wheel's last look showed bubbles that its own way does not explain any more.
func (w *bleedWork) stillBubbles(at *system.Wheel) bool {
	way := w.j.account().Wheels[at.ID]
	looks := way.Now().Looks
	if len(looks) == 0 || looks[len(looks)-1].Clear || way.Marks[stand.FromBrake].Why != stand.WhyBubbles {
		return false
	}
	path := at.PipeCM3() + at.Brake.CavityCM3
	for _, m := range way.Marks {
		path = math.Max(path, m.NeedCM3)
	}
	return bleed.StillBubbles(way.Now().CM3, path)
}

// whyNotClear names the causes at the wheels that go on showing bubbles.
func (w *bleedWork) whyNotClear() {
	still := map[string]bool{}
	for i := range w.s.Wheels {
		still[w.s.Wheels[i].ID] = w.stillBubbles(&w.s.Wheels[i])
	}
	for i := range w.s.Wheels {
		at := &w.s.Wheels[i]
		if !still[at.ID] {
			continue
		}
		others := false
		for _, c := range w.s.Circuits {
			if slices.Contains(c.Wheels, at.ID) {
				others = others || slices.ContainsFunc(c.Wheels, func(id string) bool { return id != at.ID && still[id] })
			}
		}
		state := w.wheels[at.ID]
		state.NotClear = bleed.NotClearFrom(w.s, at, w.o.Method, w.bothOff(at), others)
		w.wheels[at.ID] = state
	}
}

// bothOff says whether this wheel's brake and another of the same make were off in this job: only then can they have
// been exchanged.
func (w *bleedWork) bothOff(at *system.Wheel) bool {
	off := func(id string) bool {
		_, renewed := w.st.Renewed[RubberPart("brake:"+id)]
		return renewed || slices.Contains(w.st.OpenedAt, id) ||
			slices.ContainsFunc(w.st.Repairs, func(r RepairDone) bool { return r.At == id && r.Work == WorkCaliper })
	}
	return off(at.ID) && slices.ContainsFunc(w.s.Wheels, func(o system.Wheel) bool {
		return o.ID != at.ID && o.Brake.Kind == at.Brake.Kind && o.Brake.CavityCM3 == at.Brake.CavityCM3 && off(o.ID)
	})
}

// marks are the wheel's own, and before any of them the one that the work itself is going to set: a new cylinder, a
// circuit opened by the scope.
func (w *bleedWork) marks(at *system.Wheel, way *stand.Wheel) []stand.Mark {
	var out []stand.Mark
	for _, m := range way.Marks {
		out = append(out, m)
	}
	if _, marked := way.Marks[stand.FromCylinder]; !marked && w.o.Purpose != bleed.ForExchange {
		need := w.j.fromCylinderCM3(at.ID, w.j.dryCylinder())
		if least, told := w.o.LeastCM3[at.ID]; told {
			need = least
		}
		out = append(out, stand.Mark{NeedCM3: need})
	}
	return out
}

func (w *bleedWork) doneStep(s bleed.Step) bool {
	switch {
	case s.Wheel != "" && s.Visit > 1: // once more after what came between
		return w.ticked(bleed.StepSimulator) && w.wheels[s.Wheel].Done
	case s.Wheel != "":
		return w.wheels[s.Wheel].Done ||
			w.ticked(bleed.StepSimulator) &&
				slices.ContainsFunc(w.steps, func(x bleed.Step) bool { return x.Wheel == s.Wheel && x.Visit > s.Visit })
	case s.ID == bleed.StepDrain:
		return !w.with.Drain || w.begun() && !w.foul
	case s.ID == bleed.StepFill && w.with.Up:
		return w.begun() && w.full()
	case s.ID == bleed.StepFill:
		return w.begun() || !w.low()
	case s.ID == bleed.StepDrainAfter:
		return w.begun() && (w.st.OldFluid || w.o.Purpose == bleed.ForAir || !w.dirty())
	}
	return w.ticked(s.ID)
}

func (w *bleedWork) ticked(id bleed.StepID) bool {
	_, done := w.st.BleedSteps[string(id)]
	return done
}

// begun says whether fluid has gone through a wheel.
func (w *bleedWork) begun() bool {
	for _, way := range w.j.account().Wheels {
		if way.ThroughCM3 > 0 {
			return true
		}
	}
	return false
}

// full says whether every tank stands at its mark.
func (w *bleedWork) full() bool {
	for _, c := range w.s.Circuits {
		if level, full, _ := w.l.Level(c.ID); level < full-1e-6 {
			return false
		}
	}
	return true
}

// low says whether some tank stands under the level at which it is filled.
func (w *bleedWork) low() bool {
	for _, c := range w.s.Circuits {
		if level, _, _ := w.l.Level(c.ID); level <= bleed.KeepCM3(w.l, c.ID)+1e-9 {
			return true
		}
	}
	return false
}

// levelShare is how far under its mark a reservoir may stand by what was drawn since it was filled and still be told to
// be at it. Assumption.
const levelShare = 0.5

// underMark says whether some tank stands so far under its mark that nobody can have seen it there.
func (w *bleedWork) underMark() bool {
	return slices.ContainsFunc(w.s.Circuits, func(c system.Circuit) bool {
		level, full, _ := w.l.Level(c.ID)
		return level < levelShare*full
	})
}

// openWheels are the affected wheels that are not done, in the order of the programme, and those left undone.
func (w *bleedWork) openWheels() (open, left []string) {
	open, left = []string{}, []string{}
	for _, s := range w.steps {
		if s.Wheel == "" || w.doneStep(s) || slices.Contains(open, s.Wheel) || slices.Contains(left, s.Wheel) {
			continue
		}
		if w.wheels[s.Wheel].Left != "" {
			left = append(left, s.Wheel)
			continue
		}
		open = append(open, s.Wheel)
	}
	return open, left
}

// Together is all bleeders that are left opened at once, where gravity moves the fluid.
type Together struct {
	// CM3 leaves each wheel in Minutes, until the reservoir is to be filled or the last of them has had enough.
	CM3     map[string]float64 `json:"cm3"`
	Minutes float64            `json:"minutes"`
}

// together works it out; nil where it is no way: nothing flows by itself, or fewer than two are left.
func (w *bleedWork) together(wheels map[string]WheelState, open []string) *Together {
	if w.o.Method != bleed.Gravity || len(open) < 2 {
		return nil
	}
	flow := bleed.TogetherCM3S(w.s, open, w.o)
	// Until the last has had enough, or a tank stands at the level at which it is filled.
	seconds := 0.0
	for _, id := range open {
		if flow[id] <= 0 {
			return nil
		}
		seconds = math.Max(seconds, wheels[id].LeftCM3/flow[id])
	}
	for _, t := range w.s.Tanks() {
		out, bears := 0.0, math.Inf(1)
		for _, id := range open {
			if c := w.s.CircuitOf(id); slices.Contains(t.Circuits, c) {
				level, _, _ := w.l.Level(c)
				out, bears = out+flow[id], math.Max(0, level-bleed.KeepCM3(w.l, c))
			}
		}
		if out > 0 && !w.o.FeedBottle {
			seconds = math.Min(seconds, bears/out)
		}
	}
	t := &Together{CM3: map[string]float64{}, Minutes: seconds / 60}
	for _, id := range open {
		t.CM3[id] = flow[id] * seconds
	}
	if seconds <= 0 {
		return nil
	}
	return t
}
