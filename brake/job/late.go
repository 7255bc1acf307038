package job

import (
	"slices"

	"geminate/brake/stand"
)

// What is told late and changes how a thing stands is asked about (stand.Doubt): both tellings are shown, and somebody
// looks.

// toldOf takes an act down, and whether it has to be asked about.
func (j *Job) toldOf(step string, e *Event, do func()) {
	a, act := j.account(), stand.Find(step)
	if act == nil || act.Counted {
		do()
		return
	}
	was := a.StateOf(act.Thing)
	last, others := j.tellingOf(act.Thing, e)
	do()
	now := a.StateOf(act.Thing)
	near := others && was != now && e.At.Sub(last.At).Abs() <= clockDoubt
	switch {
	case e.late && was != now, near:
		a.ToldLate(act.Thing, stand.Telling{Step: step, At: e.At, By: e.By.ID, Name: e.By.Name}, last, e.when(), was, near)
	default:
		a.Knows(act.Thing, e.when())
	}
}

// tellingOf is what was told last of a thing, and whether that was somebody else's of which the teller of an event had
// not seen.
func (j *Job) tellingOf(t stand.Thing, e *Event) (last stand.Telling, unseen bool) {
	for step, told := range j.account().Acts {
		if x := stand.Find(step); x != nil && x.Thing == t && (last.Step == "" || told.At.After(last.At)) {
			last = stand.Telling{Step: step, At: told.At, By: told.By, Name: j.account().Hands[told.By]}
			unseen = told.By != e.By.ID && e.Base > 0 && told.Arrived > e.Base
		}
	}
	return last, unseen
}

// ThingSeen is a look at a thing of which two tellings did not agree.
type ThingSeen struct {
	Thing stand.Thing `json:"thing"`
	// State is on, off or unknown; what cannot be told counts as off.
	State SeenState `json:"state"`
}

// SeenState is what such a look shows.
type SeenState string

// What it shows.
const (
	SeenOn      SeenState = "on"
	SeenOff     SeenState = "off"
	SeenUnknown SeenState = "unknown"
)

// SeenStates lists them.
var SeenStates = []SeenState{SeenOn, SeenOff, SeenUnknown}

// Valid implements Body.
func (t *ThingSeen) Valid() error {
	if !slices.Contains(SeenStates, t.State) {
		return fault("$.data.state", "fault.enum", map[string]any{"value": clip(string(t.State)), "allowed": SeenStates})
	}
	if !slices.ContainsFunc(stand.Things, func(e stand.Entry) bool { return e.Thing == t.Thing }) {
		return fault("$.data.thing", "fault.no_such_thing", map[string]any{"value": clip(string(t.Thing))})
	}
	return nil
}

// Check implements Body: only what nobody can say from the log is settled so.
func (t *ThingSeen) Check(j *Job) error {
	if _, asked := j.account().Doubts[t.Thing]; !asked {
		return fault("$.data.thing", "fault.no_such_thing", map[string]any{"value": clip(string(t.Thing))})
	}
	return nil
}

// Apply implements Body.
func (t *ThingSeen) Apply(j *Job, e *Event) {
	d, asked := j.account().Doubts[t.Thing]
	if !asked {
		return
	}
	s := stand.Off
	if t.State == SeenOn {
		if s = d.Was; s != stand.Back && s != stand.Done && s != stand.AsFound { // on by the other telling, or by this one
			s = stand.Back
		}
	}
	j.account().LookedAt(t.Thing, s, e.when(), string(e.Kind))
	j.handsOn(e)
}
