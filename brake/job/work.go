package job

import "geminate/brake/stand"

// worked takes down that something was done to the vehicle: what was read of these things before proves nothing any
// more.
func (j *Job) worked(e *Event, what string, things ...stand.Thing) {
	j.account().Change(e.when(), what, things...)
	j.handsOn(e)
}

// handsOn says that somebody had hands on the vehicle.
func (j *Job) handsOn(e *Event) {
	j.State.WorkSeq, j.State.Away = e.place, nil // whoever works on it has taken it up
	j.account().Unaware(e.when())
	if !e.By.Elsewhere {
		j.account().Worked(e.By.ID, e.By.Name)
	}
	for _, f := range j.State.Findings[PhaseVerify] {
		if f.Seq > j.State.LoopSeq {
			j.State.Loops, j.State.LoopSeq = j.State.Loops+1, e.place
			break
		}
	}
}

// moved are the things that fluid going through a bleeder changes.
var movedThings = []stand.Thing{stand.Fluid, stand.Bleeders}
