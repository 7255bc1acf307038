package job

import (
	"cmp"
	"maps"
	"slices"
	"time"

	"geminate/brake/match"
	"geminate/brake/stand"
	"geminate/brake/units"
	"geminate/brake/verify"
)

// What shows, beside its being told, that a step was really done: by the kinds of proof in brake/stand.

// proven says whether a tick brings about what it tells: its figure is inside its limits, and what it takes stood. It
// is asked when it is folded, of a file's ticks too.
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
		return !j.rodKnownWrong()
	case stand.ByStrokes, stand.ByCracks, stand.ByCycles:
		return j.checkCounted(act.Proof) == nil
	}
	return true
}

// provenDead: the power was off and the plug out, the wait has run since the plug came out, the meter reads next to
// nothing, and whoever did it is trained and named.
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

// rodWrong is the rod as last measured for these units, where that was out of its limits: no school makes it right but
// one that measures it again or sets it. That it was so is not taken back with the tick.
func (j *Job) rodWrong() *Tick {
	t, wrong := j.State.RodWrong[pairKey(j.pair())]
	if !wrong {
		return nil
	}
	return &t
}

func pairKey(p stand.Pair) string { return p.Cylinder + "|" + p.Booster }

// rodTold keeps a rod that was measured out of its limits until it is measured inside them, or set by touch and turn.
func (j *Job) rodTold(t *Ticked, e *Event, proven bool) {
	key := pairKey(j.pairSeen(e))
	next := maps.Clone(j.State.RodWrong)
	switch {
	case t.Step == "rod.measure" && !proven:
		if next == nil {
			next = map[string]Tick{}
		}
		next[key] = Tick{At: e.At, By: e.By.Name, Rod: t.Rod, Gap: t.Gap, EventID: e.ID}
	case proven && (t.Step == "rod.measure" || t.Step == "rod.touch_and_turn"):
		delete(next, key)
	default:
		return
	}
	j.State.RodWrong = next
}

// fits is the cylinder that goes on, nil where none does or none is chosen.
func (j *Job) fits() *match.Unit {
	if u := j.Choices.Unit; j.putsOnCylinder() && u != nil && u.KindOf() == match.MasterCylinder {
		return u
	}
	return nil
}

// gasketMostMM is the thickest a gasket between cylinder and booster is, mm. Assumption.
const gasketMostMM = 1.0

// RodByFigures is the gap that the units' own figures come to, with the thinnest and the thickest seal between them,
// mm; ok is false where they are not known.
func (j *Job) RodByFigures() (least, most float64, ok bool) {
	unit, booster := j.Choices.Old, j.Choices.OldBooster
	if j.putsOnCylinder() {
		unit = j.Choices.Unit
	}
	if j.putsOnBooster() {
		booster = j.Choices.Booster
	}
	if unit == nil || unit.PocketMM == nil || booster == nil || booster.Booster == nil || booster.Booster.ProtrusionMM == nil {
		return 0, 0, false
	}
	gap := *unit.PocketMM - *booster.Booster.ProtrusionMM
	return gap, gap + gasketMostMM, true
}

// rodKnownWrong says whether the rod cannot be right as it comes: measured so, or by the units' own figures whatever
// seal is between them.
func (j *Job) rodKnownWrong() bool {
	if j.rodWrong() != nil {
		return true
	}
	least, most, ok := j.RodByFigures()
	return ok && (verify.RodVerdict(most, nil) == verify.RodPreloaded || verify.RodVerdict(least, nil) == verify.RodLarge)
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

// checkCompared: the units are there, something is known of them or was held side by side, and none of them does not
// fit.
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

// checkHeld asks whoever tells it now for every point nobody measured on both: a port and a mouth agree on paper, and a
// stop that was never held against the old one does not. A file's tick is not asked again; what it was told by is what
// it had.
func (j *Job) checkHeld(t *Ticked) error {
	if u := j.fits(); u != nil && u.BoreMM == nil {
		return fault("$.data.compared", "fault.bore_unknown", nil)
	}
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
