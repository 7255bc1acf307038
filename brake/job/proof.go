package job

import (
	"cmp"
	"slices"
	"time"

	"geminate/brake/match"
	"geminate/brake/stand"
	"geminate/brake/units"
	"geminate/brake/verify"
)

// What shows, beside its being told, that a step was really done: by the kinds of proof in brake/stand.

// proven says whether a tick brings about what it tells: its figure is inside its limits, and what it takes stood. It is
// asked when it is folded, of a file's ticks too.
func (j *Job) proven(t *Ticked, at time.Time) bool {
	if t.Verdict != "" && t.Verdict != units.TorqueOK {
		return false
	}
	act := stand.Find(t.Step)
	if act == nil || j.Intake.System == nil {
		return true
	}
	switch act.Proof {
	case stand.BySideBySide:
		return j.checkCompared(t) == nil
	case stand.ByMeter:
		return j.provenDead(t, at)
	case stand.ByGap:
		return t.Gap != nil && verify.RodVerdict(t.Gap.GapMM, t.Gap.Covered) == verify.RodRight
	case stand.ByTouch:
		return t.TouchMM != nil && *t.TouchMM >= -touchMM && *t.TouchMM <= touchMM
	case stand.ByNoWrongGap:
		return j.rodWrong() == nil
	case stand.ByStrokes, stand.ByCracks, stand.ByCycles:
		return j.checkCounted(act.Proof) == nil
	}
	return true
}

// provenDead: the power was off and the plug out, the wait has run since the plug came out, the meter reads next to nothing,
// and whoever did it is trained and named.
func (j *Job) provenDead(t *Ticked, at time.Time) bool {
	a := j.account()
	return t.Volts != nil && *t.Volts <= voltsMost && *t.Volts >= -voltsMost && t.Trained != "" &&
		a.StateOf(stand.Power) == stand.Off && a.StateOf(stand.Plug) == stand.Off && j.waited(ClockHighVoltage, at, stand.Plug)
}

// waited says whether a clock has run out by a moment, its least at least, begun after its thing was let go.
func (j *Job) waited(c Clock, at time.Time, since stand.Thing) bool {
	off := j.account().CameOff[since]
	for _, x := range j.State.Timers {
		if x.Clock == c && x.Over(at) && x.long() && (off.Seq == 0 || x.Seq > off.Seq && !x.StartedAt.Before(off.At)) {
			return true
		}
	}
	return false
}

// rodWrong is the rod as last measured for these units, where that was out of its limits: no school makes it right but one
// that measures it again or sets it.
func (j *Job) rodWrong() *Tick {
	told, ok := j.account().Acts["rod.measure"]
	t, ticked := j.State.Ticks["rod.measure"]
	if !ok || !ticked || !told.Unproven || told.Of != j.pair() {
		return nil
	}
	if set, ok := j.account().Acts["rod.touch_and_turn"]; ok && !set.Unproven && set.Seq > told.Seq && set.Of == told.Of {
		return nil
	}
	return &t
}

// checkCounted asks for the count a step closes.
func (j *Job) checkCounted(by stand.Proof) error {
	switch by {
	case stand.ByStrokes:
		b, err := j.Bench()
		switch {
		case err != nil:
			return err
		case b.Applies && b.Strokes < b.Needed:
			return fault("$.data.step", "fault.bench_strokes", map[string]any{"count": b.Strokes, "least": b.Needed})
		case b.Verdict == "bench.level_it":
			return fault("$.data.step", "fault.bench_level", nil)
		}
	case stand.ByCracks:
		if !j.cracked() {
			return fault("$.data.step", "fault.port_cracks", map[string]any{"least": cracksAPort})
		}
	case stand.ByCycles:
		if !j.steeringGood() {
			return fault("$.data.step", "fault.steering_cycles", nil)
		}
	}
	return nil
}

// checkCompared: the units are there, something is known of them or was held side by side, and none of them does not fit.
func (j *Job) checkCompared(t *Ticked) error {
	for _, u := range j.compared() {
		if u.unit == nil {
			return fault("$.data.step", "fault.nothing_to_compare", nil)
		}
		r := match.Compare(j.asFitted(), u.old, *u.unit)
		if r.Verdict == match.DoesNotFit {
			return fault("$.data.step", "fault.does_not_fit", map[string]any{"unit": cmp.Or(u.unit.Number, u.unit.ID)})
		}
		known := func(p match.Point) bool { return p.Verdict != match.Unknown }
		if len(t.Compared) == 0 && !measured(u.unit) && !slices.ContainsFunc(r.Points, known) {
			return fault("$.data.compared", "fault.nothing_compared", nil)
		}
	}
	return nil
}

// measured says whether anything is known of a unit that it could be compared by.
func measured(u *match.Unit) bool {
	return u.BoreMM != nil || len(u.Ports) > 0 || u.StudSpacingMM != nil || u.Booster != nil
}

// checkHeld asks whoever tells it now for every point nobody measured on both: a port and a mouth agree on paper, and a stop
// that was never held against the old one does not. A file's tick is not asked again; what it was told by is what it had.
func (j *Job) checkHeld(t *Ticked) error {
	left := slices.DeleteFunc(j.Unmeasured(), func(p string) bool { return slices.Contains(t.Compared, p) })
	if len(left) > 0 {
		return fault("$.data.compared", "fault.compare_points", map[string]any{"count": len(left), "points": left})
	}
	return nil
}

// heldAgainst is a unit that goes on and the one it is held against.
type heldAgainst struct {
	old  match.Unit
	unit *match.Unit
}

// compared are the units that go on, each with what it takes the place of.
func (j *Job) compared() (out []heldAgainst) {
	add := func(old, unit *match.Unit, kind string) {
		if old == nil {
			old = &match.Unit{Kind: kind}
		}
		out = append(out, heldAgainst{*old, unit})
	}
	if j.putsOnCylinder() {
		add(j.Choices.Old, j.Choices.Unit, "")
	}
	if j.putsOnBooster() {
		unit := j.newBooster()
		if unit != nil && unit.KindOf() == match.MasterCylinder {
			add(j.Choices.Old, unit, "")
		} else {
			add(j.Choices.OldBooster, unit, match.BoosterKind(j.Intake.System))
		}
	}
	return out
}
