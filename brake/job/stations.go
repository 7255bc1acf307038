package job

import (
	"geminate/brake/verify"
)

// Stations in the order of the work.
var Stations = []string{"intake", "diagnose", "match", "replace", "bench", "bleed", "verify", "record"}

// Progress of one station.
type Progress struct {
	ID    string `json:"id"`
	State string `json:"state"` // open, started, done, not_needed
	Left  int    `json:"left"`
}

// Standing is where a job stands as a whole.
type Standing string

// Standings.
const (
	StandsOpen     Standing = "open"
	StandsReleased Standing = "released"
	// StandsHistory is a file brought in on which nothing has been done here: its own claims, nothing proven.
	StandsHistory Standing = "history"
)

// Standings lists them.
var Standings = []Standing{StandsOpen, StandsParked, StandsReleased, StandsHistory, StandsAway}

// Status is where a job stands and what it waits for.
type Status struct {
	Stations []Progress `json:"stations"`
	At       string     `json:"at"`         // the station to open
	WaitsFor string     `json:"waits_for"`  // words key
	Detail   string     `json:"waits_what"` // id the words key speaks of: a wheel, a step
	Released bool       `json:"released"`
	Standing Standing   `json:"standing"`
	// Band is what it waits for, as the bay sorts it; "" where it is over.
	Band Band `json:"band,omitempty"`
}

func (s *Status) set(id, state string, left int) {
	s.Stations = append(s.Stations, Progress{id, state, left})
}

// wait takes down the first thing a job waits for.
func (s *Status) wait(station, code, detail string) {
	if s.WaitsFor == "" {
		s.At, s.WaitsFor, s.Detail = station, code, detail
	}
}

// Status works out each station's progress without running the heavy parts of the core: it is asked at every
// stroke.
func (j *Job) Status() Status {
	out := j.progress()
	out.Band = j.band(&out)
	return out
}

func (j *Job) progress() Status {
	out := Status{Released: j.State.ReleasedAt != nil, Standing: j.standing()}
	if j.Intake.System == nil {
		for _, id := range Stations {
			out.set(id, "open", 0)
		}
		out.wait("intake", "waits.system", "")
		return out
	}
	if j.Intake.Complaint == "" {
		out.set("intake", "started", 1)
		out.wait("intake", "waits.complaint", "")
	} else {
		out.set("intake", "done", 0)
	}
	j.statusDiagnose(&out)
	j.statusWork(&out)
	if out.Released {
		out.set("record", "done", 0)
		out.At, out.WaitsFor, out.Detail = "record", "waits.nothing", ""
	} else {
		out.set("record", "open", 1)
		out.wait("verify", "waits.release", "")
	}
	return out
}

func (j *Job) standing() Standing {
	switch {
	case j.State.ReleasedAt != nil:
		return StandsReleased
	case j.State.Parked != nil: // before all else that is open: it is not to be driven, and not to be lost sight of
		return StandsParked
	case j.State.Away != nil:
		return StandsAway
	case j.State.History != nil && j.State.WorkSeq == 0:
		return StandsHistory
	}
	return StandsOpen
}

func (j *Job) statusDiagnose(out *Status) {
	st, chosen := &j.State, !j.noUnit()
	switch n := len(st.Findings[PhaseDiagnose]); {
	case n == 0 && len(st.Ticks) == 0:
		out.set("diagnose", "open", 1)
		out.wait("diagnose", "waits.findings", "")
	case len(st.Ticks) > 0 || j.Choices.Unit != nil || j.Choices.Booster != nil:
		out.set("diagnose", "done", 0)
	default:
		out.set("diagnose", "started", 0)
	}
	if chosen {
		out.set("match", "done", 0)
	} else {
		out.set("match", "open", 1)
		out.wait("match", "waits.unit", "")
	}
}

func (j *Job) statusWork(out *Status) {
	rv, err := j.Replace()
	if err != nil {
		rv = &ReplaceView{}
	}
	switch {
	case rv.Left == 0:
		out.set("replace", "done", 0)
	case rv.Left < len(rv.Plan.Steps):
		out.set("replace", "started", rv.Left)
	default:
		out.set("replace", "open", rv.Left)
	}
	next := rv.Plan.Find(rv.Next)
	if next != nil && next.ID != "close.bleed" {
		out.wait("replace", "waits.step", rv.Next)
	}
	if rv.Plan.PutOff && j.State.Parked == nil {
		out.wait("replace", "waits.park", "")
	}
	out.set("bench", j.statusBench(rv), 0)
	bv, _, err := j.bleeding()
	switch {
	case err != nil:
		bv = &BleedView{}
		out.set("bleed", "not_needed", 0)
	case !bv.Applies:
		out.set("bleed", "not_needed", 0)
	case len(bv.OpenWheels)+len(bv.LeftWheels)+len(bv.StepsLeft) == 0:
		out.set("bleed", "done", 0)
	default:
		state := "open"
		if bv.UsedCM3 > 0 {
			state = "started"
		}
		out.set("bleed", state, len(bv.OpenWheels)+len(bv.LeftWheels)+len(bv.StepsLeft))
		switch {
		case rv.Next != "close.bleed" && rv.Next != "": // something comes before it
		case bv.Current != "":
			out.wait("bleed", "waits.wheel", bv.Current)
		case len(bv.StepsLeft) > 0:
			out.wait("bleed", "waits.bleed_step", bv.StepsLeft[0])
		default:
			out.wait("bleed", "waits.wheel", bv.LeftWheels[0])
		}
	}
	if rv.Next != "" && rv.Next != "close.bleed" {
		out.wait("replace", "waits.step", rv.Next)
	}
	statusVerify(out, verify.Judge(j.judged(rv, bv)))
}

// statusBench is the bench bleed: a step of the plan done at its own station.
func (j *Job) statusBench(rv *ReplaceView) string {
	if !rv.Plan.NeedsBench {
		return "not_needed"
	}
	v, err := j.bench(&rv.Plan)
	switch {
	case err != nil:
		return "not_needed"
	case v.Strokes >= v.Needed:
		return "done"
	case v.Strokes > 0:
		return "started"
	}
	return "open"
}

func statusVerify(out *Status, g verify.Gate) {
	if g.Passable {
		out.set("verify", "done", 0)
		return
	}
	state := "open"
	for _, i := range g.Items {
		if i.State == verify.OK && i.ID != "plan" && i.ID != "bleed" && i.ID != "rod" {
			state = "started"
		}
	}
	out.set("verify", state, g.Missing+g.Failed)
	if todo := g.ToDo(); len(todo) > 0 { // what the station itself says comes next
		out.wait("verify", "waits.check", todo[0].ID)
	}
}
