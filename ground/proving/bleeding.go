package proving

import (
	"slices"
	"time"

	"geminate/brake/bleed"
	"geminate/brake/job"
	"geminate/brake/match"
	"geminate/ground/simulate"
)

// later lets time pass on the clock and on the vehicle.
func (t *tech) later(seconds float64) {
	t.At = t.At.Add(time.Duration(seconds * float64(time.Second)))
	t.v.Spend(seconds)
	t.toldS += seconds
}

func (t *tech) scope() match.Scope { return match.Resolve(t.Intake.System, t.Choices.Scope) }

// bleed does the one thing the bleed asks for now.
func (t *tech) bleed() error {
	v, err := t.Bleed()
	if err != nil {
		return err
	}
	if t.out.NeedCM3 == 0 {
		t.out.NeedCM3 = v.Need.TotalCM3
	}
	if !t.wheelsUp && !t.Intake.System.IsClutch() {
		t.wheelsOff()
	}
	if err := t.borrow(v); err != nil {
		return err
	}
	at := v.Wheels[v.Current]
	switch {
	case v.Now == bleed.StepRelearn:
		if err := t.wait(job.ClockRelearn, 120); err != nil {
			return err
		}
		return t.tell(job.KindBleedStep, job.BleedStepped{Step: v.Now}, &t.out.Taps.Ticks)
	case ticked(v.Now):
		switch {
		case t.spec.Without["bleed."+string(v.Now)], t.skips():
			t.blame(LieStep, "bleed."+string(v.Now), "air")
		case v.Now == bleed.StepRoutine, v.Now == bleed.StepSimulator:
			t.routine()
		}
		return t.tell(job.KindBleedStep, job.BleedStepped{Step: v.Now}, &t.out.Taps.Ticks)
	case v.Now == bleed.StepDrain, v.Now == bleed.StepDrainAfter:
		if !t.skips() {
			t.empty(nil)
		}
		return t.tell(job.KindDrawnOff, job.DrawnOff{}, &t.out.Taps.Other)
	case v.DrawDownNow:
		t.empty(&v.DrawDownTo)
		return t.tell(job.KindDrawnOff, job.DrawnOff{LeftCM3: &v.DrawDownTo}, &t.out.Taps.Other)
	case v.RefillNow, v.Now == bleed.StepFill:
		if t.slips(SlipLevel) {
			t.blame(SlipLevel, "refill", "level")
		} else {
			t.fill()
		}
		return t.tell(job.KindRefill, job.Filled{}, &t.out.Taps.Other)
	case v.Current == "" && len(v.LeftWheels) > 0:
		return t.move(v.LeftWheels[0], v, v.Wheels[v.LeftWheels[0]])
	case v.Current == "":
		return errStuck{"nothing to bleed: " + string(v.Now) + " " + v.Cannot}
	}
	return t.move(v.Current, v, at)
}

// borrow fetches the tool a step asks for from next door, where the shop has none: the step is not ticked without.
func (t *tech) borrow(v *job.BleedView) error {
	i := slices.IndexFunc(v.Steps, func(s job.BleedStep) bool { return s.ID == v.Now })
	if i < 0 || v.Steps[i].Tool == "" || t.Intake.Tools == nil || slices.Contains(*t.Intake.Tools, v.Steps[i].Tool) ||
		!slices.Contains(job.Tools, v.Steps[i].Tool) {
		return nil
	}
	in, tools := t.Intake, append(slices.Clone(*t.Intake.Tools), v.Steps[i].Tool)
	in.Tools = &tools
	t.later(1800)
	t.out.Taps.Other++
	events, err := t.ChangeIntake(t.Book, worker, t.At, t.ID(), t.IntakeSeq, in)
	t.Events = append(t.Events, events...)
	return known(err)
}

func (t *tech) wheelsOff() {
	defer t.did(Act{Do: DoWheelsOff})()
	t.wheelsUp = true
	t.v.Off(simulate.RoadWheels)
}

func (t *tech) routine() {
	defer t.did(Act{Do: DoRoutine})()
	t.v.Routine(true)
}

func (t *tech) empty(to *float64) {
	defer t.did(Act{Do: DoEmpty, Value: to})()
	t.v.Empty(to)
}

// carry moves fluid by pressure or suction, and gives the air that came out.
func (t *tech) carry(wheel string, cm3 float64, reverse bool) (bubbles float64) {
	do := DoDraw
	if reverse {
		do = DoPush
	}
	defer t.did(Act{Do: do, At: wheel, Value: &cm3})()
	t.at(wheel)
	if reverse {
		t.v.Push(wheel, cm3, t.bottle)
		return 0
	}
	return t.v.Draw(wheel, cm3, 0.9)
}

// strokes are so many openings of a bleeder; slip says of each whether the foot comes up first. It ends where one is
// told.
func (t *tech) strokes(wheel string, n int, slip func() (up, told bool)) (cm3, bubbles float64, lost bool) {
	defer t.did(Act{Do: DoStroke, At: wheel, N: n})()
	t.at(wheel)
	for range n {
		up, told := slip()
		c, b := t.v.Stroke(wheel, t.Choices.Bleed.StrokeMM, up)
		if cm3, bubbles = cm3+c, b; told {
			return cm3, bubbles, true
		}
	}
	return cm3, bubbles, false
}

// at opens a wheel's bleeder, and closes the one before.
func (t *tech) at(wheel string) {
	if t.open == wheel {
		return
	}
	if t.open != "" {
		if t.slips(SlipSlack) {
			t.v.CloseBleeder(t.open, 2)
			t.blame(SlipSlack, "close.bleed", simulate.At(simulate.Bleeder, t.open))
		} else {
			t.v.CloseBleeder(t.open, 9)
		}
	}
	t.open = wheel
	t.v.OpenBleeder(wheel)
}

// move carries fluid through a wheel, and looks where the end is near.
func (t *tech) move(wheel string, v *job.BleedView, at job.WheelState) error {
	real := wheel
	if t.slips(SlipWheel) {
		list := t.Intake.System.Wheels
		real = list[t.rnd.IntN(len(list))].ID
		t.blame(SlipWheel, "close.bleed", "air")
	}
	if !v.Method.Strokes() {
		cm3 := min(40, max(4, at.LeftCM3, at.AirLeftCM3))
		t.later(30)
		bubbles := t.carry(real, cm3, v.Method == bleed.Reverse)
		if err := t.tell(job.KindBleedVolume, job.VolumeMoved{Wheel: wheel, VolumeCM3: cm3}, &t.out.Taps.Figures); err != nil ||
			max(at.LeftCM3, at.AirLeftCM3) > 80 {
			return err
		}
		return t.look(wheel, bubbles)
	}
	n := max(1, v.CountAloud) // counted aloud and told at once, as far as the job lets it
	t.later(2 * float64(n))
	moved := n
	if t.slips(SlipCount) {
		moved = max(0, n-1-t.rnd.IntN(2))
		t.blame(SlipCount, "close.bleed", "air")
	}
	_, bubbles, lost := t.strokes(real, moved, func() (up, told bool) {
		if up = t.slips(SlipFootUp); up {
			t.blame(SlipFootUp, "close.bleed", "air")
			told = t.way.ID == Slipping.ID && t.rnd.IntN(2) == 0 // felt, and told
		}
		return up, told
	})
	if lost {
		t.out.Taps.Strokes++
		return t.tell(job.KindOpeningLost, job.OpeningLost{Wheel: wheel}, &t.out.Taps.Other)
	}
	if t.slips(SlipDoubleTap) {
		n++
		t.blame(SlipDoubleTap, "close.bleed", "air")
	}
	if err := t.tell(job.KindBleedStroke, job.BleedStroked{Wheel: wheel, Strokes: n}, &t.out.Taps.Strokes); err != nil ||
		at.Strokes+n < at.Needed-1 {
		return err
	}
	return t.look(wheel, bubbles)
}

// seenCM3 is the air in an opening that an eye sees in a clear hose. Assumption.
const seenCM3 = 0.05

// look looks whether it ran clear, and tells.
func (t *tech) look(wheel string, bubbles float64) error {
	clear := bubbles < seenCM3
	if t.spec.Without["look"] || t.skips() {
		if !clear {
			t.blame(LieLook, "bleed.clear", "air")
		}
		clear = true
	}
	return t.tell(job.KindWheelClear, job.WheelSeen{Wheel: wheel, Done: &clear}, &t.out.Taps.Looks)
}
