package job

import (
	"slices"

	"geminate/brake/match"
	"geminate/brake/system"
	"geminate/brake/verify"
)

// PreviewIn is a change of mind that is not stored yet: the choices or the intake as they would be.
type PreviewIn struct {
	Choices *Choices `json:"choices,omitempty"`
	Intake  *Intake  `json:"intake,omitempty"`
}

// PreviewView is what would follow: steps that stand and would have to be done again, steps that would come in, and
// open ones that would fall out. What still stands is kept and not named.
type PreviewView struct {
	Again []string `json:"again"`
	More  []string `json:"more"`
	Less  []string `json:"less"`
}

// Preview says what a change of mind would ask for, before it is stored.
func (j *Job) Preview(in PreviewIn) (*PreviewView, error) {
	next := *j
	if in.Choices != nil {
		next.Choices = *in.Choices
	}
	if in.Intake != nil {
		next.Intake = *in.Intake
	}
	if next.Intake.System == nil {
		return nil, system.Faults{{Path: "$.intake.system", Code: "fault.missing"}}
	}
	if err := CheckChoices(next.Intake.System, &next.Choices); err != nil {
		next.Choices = adapted(next.Intake.System, next.Choices) // as it would be adapted
	}
	was, err := j.Plan()
	if err != nil {
		return nil, err
	}
	will, err := next.Plan()
	if err != nil {
		return nil, err
	}
	done, stays := j.done(was), next.done(will)
	out := &PreviewView{Again: []string{}, More: []string{}, Less: []string{}}
	for _, s := range will.Steps {
		switch {
		case stays[s.ID]:
		case done[s.ID]:
			out.Again = append(out.Again, s.ID)
		case was.Find(s.ID) == nil:
			out.More = append(out.More, s.ID)
		}
	}
	for _, s := range was.Steps {
		if !done[s.ID] && will.Find(s.ID) == nil {
			out.Less = append(out.Less, s.ID)
		}
	}
	return out, nil
}

// Unmeasured are the points of the units that go on that nobody measured on both: held side by side they are seen to be
// the same, or not.
func (j *Job) Unmeasured() []string {
	out := []string{}
	for _, u := range j.compared() {
		if u.unit == nil {
			continue
		}
		for _, p := range match.Compare(j.asFitted(), u.old, *u.unit).Points {
			if p.Verdict == match.Unknown && p.ID != "bore" && !slices.Contains(out, p.ID) { // a bore is measured, never seen
				out = append(out, p.ID)
			}
		}
	}
	return out
}

// lookers are the people who may have the second look, and whether the shop works alone.
func (j *Job) lookers() (people []verify.Person, alone bool) {
	in := j.verifyInput()
	return append([]verify.Person{}, in.Free()...), len(j.People) <= 1
}
