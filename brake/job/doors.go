package job

import (
	"encoding/json"
	"slices"
	"strings"

	"geminate/brake/plan"
	"geminate/brake/stand"
)

// Other doors. What happens to the vehicle is an act wherever it is told: a test that opens, starts or drives, an edit
// of the figures work was judged by, a step of one's own, a small part. Nothing that is edited forgets what was opened,
// ran dry or got air.

// effect is what taking a reading does to this vehicle: the things it opens, and the circuits or wheels at which air
// can get in.
func (j *Job) effect(id string, value json.RawMessage) (opens []stand.Thing, from stand.From, at []string) {
	ev := stand.EvidenceOf(id)
	switch {
	case id == "pressure.gauge":
		for _, place := range gaugesAt(value) {
			if j.wheelOf(place) != nil {
				return []stand.Thing{stand.Bleeders}, stand.FromBrake, gaugesAt(value)
			}
		}
		return []stand.Thing{stand.Lines}, stand.FromCylinder, gaugesAt(value)
	case id == "drag.released_by":
		kind, where := located(value)
		switch kind {
		case "bleeder_at_wheel":
			return []stand.Thing{stand.Bleeders}, stand.FromBrake, where
		case "line_at_cylinder":
			return []stand.Thing{stand.Lines}, stand.FromCylinder, nil
		}
		return nil, "", nil
	case ev == nil || ev.Does == nil:
		return nil, "", nil
	case ev.Does.At:
		return ev.Does.Opens, ev.Does.Air, places(value)
	}
	return ev.Does.Opens, ev.Does.Air, nil
}

// gaugesAt are where a gauge was screwed in: one reading, or a list of them.
func gaugesAt(value json.RawMessage) (at []string) {
	type reading struct {
		At string `json:"at"`
	}
	var list []reading
	if json.Unmarshal(value, &list) != nil {
		var one reading
		if json.Unmarshal(value, &one) == nil {
			list = []reading{one}
		}
	}
	for _, r := range list {
		at = append(at, r.At)
	}
	return at
}

// located is a value that may name its place: "yes" or {"yes": "LF"}.
func located(value json.RawMessage) (kind string, at []string) {
	if json.Unmarshal(value, &kind) == nil {
		return kind, nil
	}
	var m map[string]string
	if json.Unmarshal(value, &m) == nil {
		for k, v := range m {
			return k, []string{v}
		}
	}
	return "", nil
}

// places are the keys of a value told by place; the place of one that names it.
func places(value json.RawMessage) []string {
	var m map[string]string
	if json.Unmarshal(value, &m) != nil {
		return nil
	}
	return sortedKeys(m)
}

// tested does to the vehicle what taking a reading did, whatever station it was told at.
func (j *Job) tested(id string, value json.RawMessage, e *Event) {
	opens, from, at := j.effect(id, value)
	if j.Intake.System == nil || len(opens) == 0 {
		return
	}
	_, told := j.account().Acts["strip.lines_off"]
	if told && slices.Equal(opens, []stand.Thing{stand.Lines}) && j.account().IsOff(stand.Lines) {
		opens = nil // read with the lines off as they are: nothing more was opened, and air gets in as it did
	} else {
		j.account().OpenedBeside(e.when(), id, opens...)
		j.handsOn(e)
	}
	circuits, wheels := []string{}, []string{}
	for _, x := range at {
		if j.wheelOf(x) != nil {
			wheels = append(wheels, x)
		} else if j.Intake.System.Circuit(x) != nil {
			circuits = append(circuits, x)
		}
	}
	switch {
	case from == stand.FromCylinder:
		j.airFromCylinder(e.place, id, circuits...)
	case from == stand.FromBrake && len(wheels) > 0:
		for _, w := range wheels {
			j.airAtBrake(e.place, w, id)
		}
	case from == stand.FromBrake:
		for i := range j.Intake.System.Wheels {
			j.airAtBrake(e.place, j.Intake.System.Wheels[i].ID, id)
		}
	}
}

// ── small parts ──

// partThings are what a place's small parts hold.
var partThings = map[string]stand.Thing{stand.AtPedal: stand.PedalEnd, stand.AtStud: stand.Cylinder, stand.AtOldUnit: stand.Coupler}

// opensPlace: with a small part off, what it holds is not fast any more.
func (j *Job) opensPlace(place string, e *Event) {
	a := j.account()
	if t, ok := partThings[place]; ok {
		switch s := a.StateOf(t); {
		case s == stand.Back:
			a.Move(e.when(), t)
			j.worked(e, string(e.Kind), t)
		case s == stand.Done:
			a.Change(e.when(), string(e.Kind), t)
		}
	}
	j.worked(e, string(e.Kind), stand.SmallParts)
}

// ── steps of one's own ──

// ownTouches are the things a step of one's own touches, as it says; one that says nothing touches all.
func (j *Job) ownTouches(step string) []stand.Thing {
	own := j.Choices.Joint
	if own == nil {
		return plan.TouchedBy(plan.TouchesAll)
	}
	for _, o := range own.Own {
		if o.ID == step {
			return plan.TouchedBy(o.Touches)
		}
	}
	return plan.TouchedBy(plan.TouchesAll)
}

// ── edits ──

// figureless are the parts of a system that nothing is judged by.
var figureless = []string{"/system/name", "/system/format", "/system/note"}

// edited raises the epoch of whatever was judged by what an edit changed. Before anything was done or read there is
// nothing to raise.
func (j *Job) edited(changes []Change, e *Event) {
	if j.account().Last.Seq == 0 && len(j.State.Read) == 0 {
		return
	}
	for _, c := range changes {
		if (c.Path == "/pattern" || strings.HasPrefix(c.Path, "/system")) &&
			!slices.ContainsFunc(figureless, func(p string) bool { return strings.HasPrefix(c.Path, p) }) {
			j.account().Change(e.when(), string(e.Kind), stand.Figures...)
			return
		}
	}
}

// rechosen raises the epoch of what a choice changes: another unit is another compare, kit and curve; a maker's range
// another tight.
func (j *Job) rechosen(changes []Change, before stand.Pair, e *Event) {
	now := j.pair()
	if before != now {
		j.State.Pairs = append(slices.Clone(j.State.Pairs), PairChosen{Arrived: e.Seq, By: e.By.ID, Pair: now})
	}
	if j.account().Last.Seq == 0 && len(j.State.Read) == 0 {
		return
	}
	for _, c := range changes {
		switch {
		case strings.HasPrefix(c.Path, "/unit"), strings.HasPrefix(c.Path, "/booster"), strings.HasPrefix(c.Path, "/old_"):
			if before != now || j.fittedBy(c.Path) {
				j.account().Change(e.when(), string(e.Kind), stand.Figures...)
				return
			}
		}
	}
}

// namesWheels: a joint elsewhere that was opened before anybody said at which wheel is now at those that are named.
// Named already, another name opens that one too; what was opened stays opened.
func (j *Job) namesWheels(e *Event) {
	named := j.openedWheels()
	if !j.account().Touched(stand.Elsewhere) || len(named) == 0 || j.Intake.System == nil {
		return
	}
	if len(j.State.OpenedAt) == 0 {
		j.account().Unmark("elsewhere.opened", named...)
		j.State.OpenedAt = slices.Clone(named)
		return
	}
	for _, w := range named {
		if !slices.Contains(j.State.OpenedAt, w) {
			j.State.OpenedAt = append(slices.Clone(j.State.OpenedAt), w)
			j.airAtBrake(e.place, w, "elsewhere.opened")
		}
	}
}

// fittedBy says whether the pedal is reckoned by what stands at a path.
func (j *Job) fittedBy(path string) bool {
	for _, p := range []string{"/bore_mm", "/stroke_mm", "/booster"} {
		if strings.Contains(path, p) {
			return j.putsOnCylinder() || j.putsOnBooster()
		}
	}
	return false
}

// PairChosen is a pair of units the work was for from an event on.
type PairChosen struct {
	Arrived int64      `json:"arrived"`
	By      string     `json:"by,omitempty"`
	Pair    stand.Pair `json:"pair"`
}

// pairSeen is the pair an event was told for: the one its teller had seen chosen.
func (j *Job) pairSeen(e *Event) stand.Pair {
	if e.Base <= 0 {
		return j.pair()
	}
	pair := j.State.FirstPair
	unseen := false
	for _, p := range j.State.Pairs {
		if p.Arrived > e.Base && p.Arrived < e.Seq && p.By != e.By.ID { // chosen by somebody whose choice its teller had not seen
			unseen = true
			continue
		}
		pair = p.Pair
	}
	if !unseen {
		return j.pair()
	}
	return pair
}

// ── what was found after the work ──

// afterWork says whether a finding of the diagnosis was told of the vehicle as work had left it: then it is evidence
// like any other.
func (j *Job) afterWork(id string, place int64) bool {
	ev := stand.EvidenceOf(id)
	return ev != nil && ev.Fact || j.account().Since(id, place).Seq > 0
}

// evidence are the findings the gate judges: those of the release check, and those told at the diagnosis once work had
// changed what they speak of. Of one told at both the later.
func (j *Job) evidence() map[string]Found {
	out := make(map[string]Found, len(j.State.Findings[PhaseVerify]))
	for id, f := range j.State.Findings[PhaseVerify] {
		out[id] = f
	}
	for id, f := range j.State.Findings[PhaseDiagnose] {
		if v, there := out[id]; f.AfterWork && (!there || v.Seq < f.Seq) {
			out[id] = f
		}
	}
	return out
}
