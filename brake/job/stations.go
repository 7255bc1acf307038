package job

import (
	"geminate/brake/plan"
)

// Stations in the order of the work.
var Stations = []string{"intake", "diagnose", "match", "replace", "bench", "bleed", "verify", "record"}

// Progress of one station.
type Progress struct {
	ID    string `json:"id"`
	State string `json:"state"` // open, started, done, not_needed
	Left  int    `json:"left"`
}

// Status is where a job stands and what it waits for.
type Status struct {
	Stations []Progress `json:"stations"`
	At       string     `json:"at"`         // the station to open
	WaitsFor string     `json:"waits_for"`  // words key
	Detail   string     `json:"waits_what"` // id the words key speaks of: a wheel, a step
	Released bool       `json:"released"`
}

// Status works out each station's progress without running the heavy parts of the core.
func (j *Job) Status() Status {
	st := j.Fold()
	out := Status{Released: st.ReleasedAt != nil}
	set := func(id, state string, left int) {
		out.Stations = append(out.Stations, Progress{id, state, left})
	}
	wait := func(station, code, detail string) {
		if out.WaitsFor == "" {
			out.At, out.WaitsFor, out.Detail = station, code, detail
		}
	}
	if j.Intake.System == nil {
		for _, id := range Stations {
			set(id, "open", 0)
		}
		wait("intake", "waits.system", "")
		return out
	}
	if j.Intake.Complaint == "" {
		set("intake", "started", 1)
		wait("intake", "waits.complaint", "")
	} else {
		set("intake", "done", 0)
	}
	j.statusDiagnose(&st, set, wait)
	j.statusWork(&st, set, wait)
	j.statusVerify(set, wait)
	if out.Released {
		set("record", "done", 0)
		out.At, out.WaitsFor, out.Detail = "record", "waits.nothing", ""
	} else {
		set("record", "open", 1)
		wait("verify", "waits.release", "")
	}
	return out
}

func (j *Job) statusDiagnose(st *State, set func(string, string, int), wait func(string, string, string)) {
	chosen := j.Choices.Unit != nil || !j.Choices.Scope.FitsCylinder()
	switch n := len(st.Findings[PhaseDiagnose]); {
	case n == 0 && len(st.Ticks) == 0:
		set("diagnose", "open", 1)
		wait("diagnose", "waits.findings", "")
	case len(st.Ticks) > 0 || j.Choices.Unit != nil:
		set("diagnose", "done", 0)
	default:
		set("diagnose", "started", 0)
	}
	if chosen {
		set("match", "done", 0)
	} else {
		set("match", "open", 1)
		wait("match", "waits.unit", "")
	}
}

func (j *Job) statusWork(st *State, set func(string, string, int), wait func(string, string, string)) {
	p, err := j.Plan()
	if err != nil {
		p = &plan.Plan{}
	}
	done := st.Done()
	left := 0
	for _, s := range p.Steps {
		if !done[s.ID] {
			left++
		}
	}
	// The bench bleed is a step of the plan done at its own station; bleeding closes the plan.
	bench, bleedLeft := "not_needed", 0
	if p.NeedsBench {
		if v, err := j.Bench(); err == nil {
			bench = "open"
			if v.Strokes > 0 {
				bench = "started"
			}
			if v.Strokes >= v.Needed {
				bench = "done"
			}
		}
	}
	next := p.Next(done)
	switch {
	case left == 0:
		set("replace", "done", 0)
	case len(done) > 0:
		set("replace", "started", left)
	default:
		set("replace", "open", left)
	}
	if next != "" && next != "close.fill" && next != "close.bleeder_screws" && next != "close.wash" {
		wait("replace", "waits.step", next)
	}
	set("bench", bench, 0)
	v, err := j.Bleed()
	switch {
	case err != nil || !v.Applies:
		set("bleed", "not_needed", 0)
	case len(v.OpenWheels) == 0:
		set("bleed", "done", 0)
	default:
		bleedLeft = len(v.OpenWheels)
		state := "open"
		if v.UsedCM3 > 0 {
			state = "started"
		}
		set("bleed", state, bleedLeft)
		if next != "close.fill" {
			wait("bleed", "waits.wheel", v.Current)
		}
	}
	if next != "" {
		wait("replace", "waits.step", next)
	}
}

func (j *Job) statusVerify(set func(string, string, int), wait func(string, string, string)) {
	v, err := j.Verify()
	switch {
	case err != nil:
		set("verify", "open", 1)
	case v.Gate.Passable:
		set("verify", "done", 0)
	default:
		state := "open"
		for _, i := range v.Gate.Items {
			if i.State == "ok" && i.ID != "plan" && i.ID != "bleed" {
				state = "started"
			}
		}
		set("verify", state, v.Gate.Missing+v.Gate.Failed)
		for _, i := range v.Gate.Items {
			if i.State != "ok" {
				wait("verify", "waits.check", i.ID)
				break
			}
		}
	}
}
