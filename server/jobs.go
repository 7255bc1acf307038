package server

import (
	"encoding/json"
	"errors"
	"net/http"
	"regexp"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"geminate/brake/job"
	"geminate/brake/system"
	"geminate/sheet"
	"geminate/store"
)

func view(st *store.Stored) JobView {
	return JobView{ID: st.Job.ID, CreatedAt: st.Job.CreatedAt, UpdatedAt: st.UpdatedAt, Intake: st.Job.Intake, IntakeVersion: st.IntakeVersion,
		Choices: st.Job.Choices, ChoicesVersion: st.ChoicesVersion, State: st.Job.Fold(), Status: st.Job.Status(), Events: len(st.Job.Events)}
}

func (s *server) bay(c *call, _ none) (Bay, error) {
	const most = 100
	all, err := s.Store.Jobs(c.Context(), most)
	if err != nil {
		return Bay{}, err
	}
	b := Bay{Jobs: make([]JobLine, len(all))}
	for i, st := range all {
		in := st.Job.Intake
		b.Jobs[i] = JobLine{ID: st.Job.ID, Vehicle: in.Vehicle, Plate: in.Plate, Customer: in.Customer, Complaint: in.Complaint, UpdatedAt: st.UpdatedAt, Status: st.Job.Status(), System: in.System}
	}
	return b, nil
}

func (s *server) newJob(c *call, in NewJob) (JobView, error) {
	sys, err := system.FromPattern(in.Pattern)
	if err != nil {
		return JobView{}, system.Faults{{Path: "$.pattern", Code: "fault.missing"}}
	}
	j := &job.Job{Format: job.Format, ID: uuid.NewString(), CreatedAt: time.Now().UTC().Truncate(time.Millisecond), Events: []job.Event{},
		Intake:  job.Intake{Customer: in.Customer, Complaint: in.Complaint, Vehicle: in.Vehicle, Plate: in.Plate, Pattern: in.Pattern, System: sys, Hands: 1},
		Choices: job.DefaultChoices(sys)}
	if err := job.CheckIntake(&j.Intake); err != nil {
		return JobView{}, err
	}
	if err := s.Store.AddJob(c.Context(), j); err != nil {
		return JobView{}, err
	}
	return s.job1(c, j.ID)
}

func (s *server) job1(c *call, id string) (JobView, error) {
	st, err := s.Store.Job(c.Context(), id)
	if err != nil {
		return JobView{}, err
	}
	return view(st), nil
}

func (s *server) job(c *call, _ none) (JobView, error) { return s.job1(c, c.jobID()) }

// precheck runs the system inside an intake through its own strict reader and holds the rest against
// the intake's rules, so that every fault is told at once, each with its path.
func (IntakeEdit) precheck(body []byte) error {
	var outer struct {
		Intake struct {
			System raw `json:"system"`
		} `json:"intake"`
	}
	var edit IntakeEdit
	if json.Unmarshal(body, &outer) != nil {
		return nil // decode says what is wrong with it
	}
	var faults system.Faults
	collect := func(err error, prefix string) {
		var f system.Faults
		if errors.As(err, &f) {
			for _, x := range f {
				x.Path = prefix + strings.TrimPrefix(x.Path, "$")
				faults = append(faults, x)
			}
		}
	}
	if s := outer.Intake.System; len(s) > 0 && string(s) != "null" {
		_, err := system.Parse(s)
		collect(err, "$.system")
	}
	if json.Unmarshal(body, &edit) == nil {
		collect(job.CheckIntake(&edit.Intake), "$")
	}
	return faults.Err()
}

func (s *server) saveIntake(c *call, in IntakeEdit) (JobView, error) {
	st, err := s.Store.SaveIntake(c.Context(), c.jobID(), in.Version, in.Intake, notReleased, func(j *job.Job) {
		// A different system may not allow the old choices: a trailer has no booster to replace.
		if job.CheckChoices(j.Intake.System, &j.Choices) != nil {
			old, unit := j.Choices.Old, j.Choices.Unit
			j.Choices = job.DefaultChoices(j.Intake.System)
			j.Choices.Old, j.Choices.Unit = old, unit
		}
	})
	return s.edited(st, err)
}

func (s *server) saveChoices(c *call, in ChoicesEdit) (JobView, error) {
	now, err := s.Store.Job(c.Context(), c.jobID())
	if err != nil {
		return JobView{}, err
	}
	if err := job.CheckChoices(now.Job.Intake.System, &in.Choices); err != nil {
		return JobView{}, err
	}
	st, err := s.Store.SaveChoices(c.Context(), c.jobID(), in.Version, in.Choices, notReleased)
	return s.edited(st, err)
}

// notReleased refuses an edit of a released vehicle's job: the record stands until it is reopened.
func notReleased(j *job.Job) error {
	if j.Fold().ReleasedAt != nil {
		return refuse(http.StatusConflict, Problem{Code: "problem.released"})
	}
	return nil
}

// edited answers an edit, with what is stored now where it came too late.
func (s *server) edited(st *store.Stored, err error) (JobView, error) {
	if errors.Is(err, store.ErrStale) && st != nil {
		current := view(st)
		return JobView{}, refuse(http.StatusConflict, Problem{Code: "problem.stale", Current: &current})
	}
	if err != nil {
		return JobView{}, err
	}
	return view(st), nil
}

func (s *server) append(c *call, in EventsIn) (JobView, error) {
	const most = 500
	if len(in.Events) == 0 || len(in.Events) > most {
		return JobView{}, system.Faults{{Path: "$.events", Code: "fault.count", With: map[string]any{"value": len(in.Events), "min": 1, "max": most}}}
	}
	now := time.Now().UTC()
	events := make([]job.Event, len(in.Events))
	for i, e := range in.Events {
		at := e.At.UTC().Truncate(time.Millisecond)
		if at.IsZero() || at.After(now.Add(time.Minute)) { // a client's clock may be wrong; ours is the later bound
			at = now.Truncate(time.Millisecond)
		}
		events[i] = job.Event{ID: e.ID, Kind: e.Kind, At: at, By: c.user.Display, Data: e.Data}
	}
	st, err := s.Store.Append(c.Context(), c.jobID(), events, func(j *job.Job, e job.Event) error {
		if e.Kind != job.KindReopened && e.Kind != job.KindNote {
			if err := notReleased(j); err != nil {
				return err
			}
		}
		return j.CheckEvent(e)
	})
	if err != nil {
		return JobView{}, err
	}
	return view(st), nil
}

func (s *server) release(c *call, _ none) (JobView, error) {
	if c.user.Role == store.RoleTrainee {
		return JobView{}, refuse(http.StatusForbidden, Problem{Code: "problem.trainee_release"})
	}
	e := job.Event{ID: uuid.NewString(), Kind: job.KindReleased, At: time.Now().UTC().Truncate(time.Millisecond), By: c.user.Display}
	st, err := s.Store.Append(c.Context(), c.jobID(), []job.Event{e}, func(j *job.Job, _ job.Event) error {
		v, err := j.Verify()
		if err != nil {
			return err
		}
		if v.Released {
			return refuse(http.StatusConflict, Problem{Code: "problem.released"})
		}
		if !v.Gate.Passable {
			var open []string
			for _, i := range v.Gate.Items {
				if i.State != "ok" {
					open = append(open, i.ID)
				}
			}
			return refuse(http.StatusConflict, Problem{Code: "problem.release_gate", Missing: open})
		}
		return nil
	})
	if err != nil {
		return JobView{}, err
	}
	return view(st), nil
}

func (s *server) importJob(c *call, _ none) (JobView, error) {
	j, err := job.Parse(c.BodyRaw())
	if err != nil {
		return JobView{}, err
	}
	// A file's word is no release: what it claims happened elsewhere, and the gate here starts open.
	j.Events = slices.DeleteFunc(j.Events, func(e job.Event) bool { return e.Kind == job.KindReleased || e.Kind == job.KindReopened })
	_, err = s.Store.Job(c.Context(), j.ID)
	if err == nil || j.ID == "" || len(j.ID) > 36 {
		j.ID = uuid.NewString() // the job is here already: the file comes in beside it, nothing is overwritten
	} else if !errors.Is(err, store.ErrNotFound) {
		return JobView{}, err
	}
	if err := s.Store.AddJob(c.Context(), j); err != nil {
		return JobView{}, err
	}
	return s.job1(c, j.ID)
}

var unsafeName = regexp.MustCompile(`[^a-zA-Z0-9]+`)

func fileName(j *job.Job, ext string) string {
	base := strings.Trim(unsafeName.ReplaceAllString(j.Intake.Vehicle+" "+j.Intake.Plate, "-"), "-")
	if base == "" {
		base = "job"
	}
	return "geminate-" + strings.ToLower(base) + ext
}

func (s *server) export(c *call, _ none) (file, error) {
	st, err := s.Store.Job(c.Context(), c.jobID())
	if err != nil {
		return file{}, err
	}
	data, err := json.MarshalIndent(st.Job, "", "  ")
	return file{fileName(&st.Job, ".json"), data}, err
}

func (s *server) sheet(c *call, _ none) (file, error) {
	st, err := s.Store.Job(c.Context(), c.jobID())
	if err != nil {
		return file{}, err
	}
	data, err := sheet.PDF(&st.Job, c.user.Units, time.Now().UTC())
	return file{fileName(&st.Job, ".pdf"), data}, err
}
