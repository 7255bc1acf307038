package job

import (
	"slices"

	"geminate/brake/plan"
	"geminate/brake/stand"
)

// CameOff is a part that came off once more: the step that says so, and those that are told with it, in the order of
// hands, because they lie before it and are not off.
type CameOff struct {
	Step string   `json:"step"`
	Also []string `json:"also"`
}

// cameOffAgain gives it for every done step whose part is on: "came off again" is as easy to tell as the first time.
func (j *Job) cameOffAgain(p *plan.Plan, done map[string]bool) map[string]CameOff {
	out := map[string]CameOff{}
	off := map[stand.Thing]string{}
	for i := range p.Steps {
		if act := stand.Find(p.Steps[i].ID); act != nil && act.Takes() && p.Steps[i].Phase == plan.Strip {
			off[act.Thing] = p.Steps[i].ID
		}
	}
	for i := range p.Steps {
		act := stand.Find(p.Steps[i].ID)
		if act == nil || !done[p.Steps[i].ID] {
			continue
		}
		if step, there := off[act.Thing]; there && j.onAgain(act.Thing) {
			out[p.Steps[i].ID] = CameOff{Step: step, Also: j.cameOffWith(p, step)}
		}
	}
	return out
}

// cameOffWith are the steps that are told before one that takes something off once more.
func (j *Job) cameOffWith(p *plan.Plan, step string) []string {
	out := []string{}
	var before func(string)
	before = func(id string) {
		missing, err := p.Missing(id, j.before(p, id))
		if err != nil {
			return
		}
		for _, m := range missing {
			if s := p.Find(m); s == nil || s.Measure != "" || slices.Contains(out, m) {
				continue // what is measured is told by its figure
			}
			if act := stand.Find(m); act != nil && act.Takes() {
				before(m)
				if !slices.Contains(out, m) {
					out = append(out, m)
				}
			}
		}
	}
	before(step)
	return out
}

// DoubtAsked is a thing of which nobody can say from the log how it is: both tellings.
type DoubtAsked struct {
	Thing  stand.Thing   `json:"thing"`
	Late   stand.Telling `json:"late"`
	Before stand.Telling `json:"before"`
	// States are what a look may show.
	States []SeenState `json:"states"`
}

func (j *Job) doubtsAsked() []DoubtAsked {
	out := []DoubtAsked{}
	for _, t := range j.account().OpenDoubts() {
		d := j.account().Doubts[t]
		out = append(out, DoubtAsked{Thing: t, Late: d.Late, Before: d.Before, States: SeenStates})
	}
	return out
}

// wetInBooster says whether fluid was seen in the booster's mouth.
func (j *Job) wetInBooster() bool { return j.State.Ticks["strip.look_in_booster"].Seen == SeenWet }
