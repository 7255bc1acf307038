package job

import (
	"strings"

	"geminate/brake/plan"
)

// Met is what was found at the joint of vehicles of the same kind before.
type Met struct {
	Jobs int `json:"jobs"` // that told what is there
	// Features is in how many of them each was there.
	Features map[plan.Feature]int `json:"features"`
	// Own are the steps technicians added of their own, the last first.
	Own []string `json:"own"`
}

// sameKind says whether two vehicles go by the same name and pattern: as they are written, capitals and gaps apart.
func sameKind(a, b *Intake) bool {
	name := func(in *Intake) string { return strings.ToLower(strings.Join(strings.Fields(in.Vehicle), " ")) }
	return name(a) != "" && name(a) == name(b) && a.Pattern == b.Pattern
}

// MetBefore gathers it from other jobs.
func (j *Job) MetBefore(others []*Job) Met {
	out := Met{Features: map[plan.Feature]int{}, Own: []string{}}
	for _, o := range others {
		joint := o.Choices.Joint
		if o.ID == j.ID || joint == nil || joint.Present == nil || !sameKind(&j.Intake, &o.Intake) {
			continue
		}
		out.Jobs++
		for _, f := range *joint.Present {
			out.Features[f]++
		}
		for _, own := range joint.Own {
			out.Own = append(out.Own, own.Text)
		}
	}
	out.Own = out.Own[:min(len(out.Own), ownMost)]
	return out
}
