package server

import (
	"context"
	"encoding/json"
	"errors"
	"math/rand/v2"
	"net/http"
	"reflect"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/google/uuid"

	"geminate/brake/job"
	"geminate/brake/system"
	"geminate/ground/practice"
	"geminate/ground/practice/thirty"
	"geminate/ground/proving"
	"geminate/store"
)

// The practice bay: a job like any other, whose vehicle is simulated here. What is done to it is asked here; its truth
// is in no answer before the exercise has ended.

// bays keeps the vehicles that are being worked on in hand: one that is not here is built again from what was done to
// it.
type bays struct {
	mu   sync.Mutex
	each map[string]*inHand
}

// inHand is one vehicle; whoever works on it waits for the one before.
type inHand struct {
	mu   sync.Mutex
	bay  *practice.Bay
	used time.Time
}

// handsMost vehicles are kept in hand; the one longest untouched is put away.
const handsMost = 64

func (b *bays) of(id string) *inHand {
	b.mu.Lock()
	defer b.mu.Unlock()
	if b.each == nil {
		b.each = map[string]*inHand{}
	}
	h := b.each[id]
	if h == nil {
		if len(b.each) >= handsMost {
			oldest := ""
			for k, x := range b.each {
				if oldest == "" || x.used.Before(b.each[oldest].used) {
					oldest = k
				}
			}
			delete(b.each, oldest)
		}
		h = &inHand{}
		b.each[id] = h
	}
	h.used = time.Now()
	return h
}

// PracticeIn begins an exercise: one of the list, one that is set, or free practice on a kind of vehicle.
type PracticeIn struct {
	Exercise practice.ID  `json:"exercise"`
	Pattern  string       `json:"pattern,omitempty"`
	Hardness job.Hardness `json:"hardness,omitempty"` // of free practice
	Seed     uint64       `json:"seed,omitempty"`     // 0 takes one by chance, of an exercise its own
	Set      string       `json:"set,omitempty"`
}

// ActIn is one thing to do; After is how many were done before it as the screen knows, so that one that is sent twice
// is done once.
type ActIn struct {
	After int         `json:"after"`
	Act   proving.Act `json:"act"`
}

// learns says whether somebody may ask this of the request's job because it is their own practice vehicle.
func (s *server) learns(c fiber.Ctx, command job.Command, who *store.User) bool {
	if !job.PracticeRole(who.Role).May(command) {
		return false
	}
	p, err := s.Store.PracticeOf(c.Context(), strings.Clone(c.Params("id")))
	return err == nil && p.UserID == who.ID
}

// mayWatch refuses a stream of the request's job to whoever may not read it.
func (s *server) mayWatch(c fiber.Ctx, who *store.User) error {
	if who.Role.May(job.ReadJobs) || s.learns(c, job.ReadJobs, who) {
		return nil
	}
	return job.ErrRole{Command: job.ReadJobs}
}

var (
	errEnded = fiber.NewError(http.StatusConflict, "problem.practice_ended")
	errOther = fiber.NewError(http.StatusConflict, "problem.practice_other")
)

func (s *server) beginPractice(c *call, in PracticeIn) (practice.View, error) {
	p := &store.Practice{JobID: uuid.NewString(), UserID: c.user.ID, UserName: c.user.Display, StartedAt: now(), Did: "[]"}
	if in.Set != "" {
		set, err := s.setFor(c, in.Set)
		if err != nil {
			return practice.View{}, err
		}
		// Once: whoever has seen how it ends knows what it was.
		switch begun, err := s.Store.PracticeOfSet(c.Context(), set.ID, c.user.ID); {
		case err == nil && begun.EndedAt != nil:
			return practice.View{}, errEnded
		case err == nil:
			return s.practiceOf(c, begun.JobID)
		case !errors.Is(err, store.ErrNotFound):
			return practice.View{}, err
		}
		in.Exercise, in.Pattern, in.Hardness, in.Seed, p.SetID = practice.ID(
			set.Exercise,
		), set.Pattern, job.Hardness(
			set.Hardness,
		), set.Seed, &set.ID
	}
	if c.user.Role == job.Guest && in.Set == "" { // who came for one exercise works that
		return practice.View{}, store.ErrNotFound
	}
	if in.Exercise == practice.Free && in.Seed == 0 {
		in.Seed = uint64(rand.Uint32()) + 1
	}
	if in.Exercise != practice.Free {
		in.Pattern, in.Hardness = "", ""
	}
	bay, err := thirty.Open(in.Exercise, in.Pattern, in.Hardness, in.Seed)
	if err != nil {
		return practice.View{}, err
	}
	p.Exercise, p.Pattern, p.Hardness, p.Seed = string(in.Exercise), bay.Exercise.Pattern, string(bay.Exercise.Hardness), bay.Seed
	j, events, err := s.handed(c, bay, p.JobID)
	if err != nil {
		return practice.View{}, err
	}
	if err := s.Store.AddPractice(c.Context(), p, j, events); err != nil {
		return practice.View{}, err
	}
	h := s.bays.of(p.JobID)
	h.mu.Lock()
	defer h.mu.Unlock()
	h.bay = bay
	return practiceView(p, bay, j), nil
}

// ownPractice is free practice as its learner began it by themselves.
func ownPractice(u *store.User, id string, in *job.New) (*store.Practice, error) {
	own := practice.Own{Pattern: in.Pattern, Hardness: in.PracticeHardness, Seed: in.PracticeSeed}
	bay, err := own.Bay(nil, nil)
	if err != nil {
		return nil, err
	}
	return &store.Practice{
		JobID:     id,
		Exercise:  practice.Free,
		Pattern:   in.Pattern,
		Hardness:  string(bay.Exercise.Hardness),
		Seed:      in.PracticeSeed,
		UserID:    u.ID,
		UserName:  u.Display,
		StartedAt: now(),
		Did:       "[]",
	}, nil
}

// handed is the job the exercise begins with: opened with the owner's complaint, or finished by somebody else.
func (s *server) handed(c *call, bay *practice.Bay, id string) (*job.Job, []job.Event, error) {
	intake, err := job.New{Vehicle: practiceVehicle, Pattern: bay.Exercise.Pattern, Complaint: "-", PracticeSeed: bay.Seed}.Intake()
	if err != nil {
		return nil, nil, err
	}
	j, events, err := job.Open(c.actor(), now(), job.Opening{ID: id, EventID: uuid.NewString(), Intake: intake})
	if err != nil {
		return nil, nil, err
	}
	before, err := bay.Handed(c.Context())
	if err != nil || len(before) == 0 {
		return j, events, err
	}
	// What somebody else told, under this job's own beginning; it all lies behind.
	first := events[0]
	before = slices.Clone(before)
	opened, _ := before[0].Body.(*job.Opened)
	opening := *opened
	opening.Intake.Practice, opening.Intake.Vehicle = true, intake.Vehicle
	before[0].Body, before[0].By = &opening, first.By
	shift := first.At.Sub(before[len(before)-1].At) - time.Second
	for i := range before {
		before[i].At = before[i].At.Add(shift)
		before[i].StoredAt = before[i].At
	}
	return job.Replay(id, before[0].At, before), before, nil
}

// practiceVehicle is what the vehicle of a practice job is called.
const practiceVehicle = "Practice"

// practiceView is the vehicle as its learner sees it. Of free practice nobody set it says what it takes to go on
// without the server.
func practiceView(p *store.Practice, bay *practice.Bay, j *job.Job) practice.View {
	out := bay.View(j)
	out.Ended = p.EndedAt != nil
	if ownWork(p) && !out.Ended {
		out.Own = bay.Own()
	}
	return out
}

// ownWork is free practice nobody set: its number is its learner's own.
func ownWork(p *store.Practice) bool { return p.Exercise == practice.Free && p.SetID == nil }

// worked gives a practice with its vehicle in hand to fn, and keeps what fn did to it.
func (s *server) worked(ctx context.Context, id string, fn func(*store.Practice, *practice.Bay, *job.Job) error) error {
	h := s.bays.of(id)
	h.mu.Lock()
	defer h.mu.Unlock()
	p, err := s.Store.PracticeOf(ctx, id)
	if err != nil {
		return err
	}
	j, err := s.Store.Job(ctx, id)
	if err != nil {
		return err
	}
	var did []proving.Done
	if err := json.Unmarshal([]byte(p.Did), &did); err != nil {
		return err
	}
	if h.bay == nil || len(h.bay.Did) != len(did) { // worked on elsewhere, put away, or an act that was not stored
		if h.bay, err = s.built(ctx, p, j, did); err != nil {
			h.bay = nil
			return err
		}
	}
	was, ended := p.Did, p.EndedAt
	if err := fn(p, h.bay, j); err != nil || len(h.bay.Did) == len(did) && p.EndedAt == ended {
		return err
	}
	raw, err := json.Marshal(h.bay.Did)
	if err != nil {
		return err
	}
	p.Did = string(raw)
	if err = s.Store.KeepPractice(ctx, p, was); errors.Is(err, store.ErrTaken) {
		h.bay, err = nil, errOther
	}
	return err
}

// built makes the vehicle again, as it stands after what was done to it.
func (s *server) built(ctx context.Context, p *store.Practice, j *job.Job, did []proving.Done) (*practice.Bay, error) {
	bay, err := thirty.Open(practice.ID(p.Exercise), p.Pattern, job.Hardness(p.Hardness), p.Seed)
	if err != nil {
		return nil, err
	}
	if _, err := bay.Handed(ctx); err != nil {
		return nil, err
	}
	all, err := s.Store.Log(ctx, p.JobID, 0, 0)
	if err != nil {
		return nil, err
	}
	return bay, bay.Again(j, all, did)
}

// own refuses another's exercise; the lead may look.
func own(c *call, p *store.Practice) error {
	if p.UserID != c.user.ID && !c.user.Role.May(job.SetExercises) {
		return store.ErrNotFound
	}
	return nil
}

func (s *server) practice(c *call, _ none) (practice.View, error) { return s.practiceOf(c, c.jobID()) }

func (s *server) practiceOf(c *call, id string) (out practice.View, err error) {
	err = s.worked(c.Context(), id, func(p *store.Practice, bay *practice.Bay, j *job.Job) error {
		out = practiceView(p, bay, j)
		return own(c, p)
	})
	return out, err
}

func (s *server) practiceAct(c *call, in ActIn) (out practice.View, err error) {
	err = s.worked(c.Context(), c.jobID(), func(p *store.Practice, bay *practice.Bay, j *job.Job) error {
		switch {
		case p.UserID != c.user.ID:
			return store.ErrNotFound
		case p.EndedAt != nil:
			return errEnded
		case in.After != len(bay.Did):
			return errOther
		}
		seen, err := bay.Do(j, in.Act)
		if err != nil {
			return err
		}
		out = practiceView(p, bay, j)
		out.Seen, out.Done, out.Own = &seen, &bay.Did[len(bay.Did)-1], nil
		s.standInsFeel(c.Context(), p.JobID, &in.Act, &seen)
		return nil
	})
	return out, err
}

// bringPractice takes what was done to it where the server could not be reached: what is known here must be its
// beginning.
func (s *server) bringPractice(c *call, in practice.Own) (out practice.View, err error) {
	if len(in.Did) > practice.OwnMost {
		return out, system.Faults{
			{Path: "$.did", Code: "fault.count", With: map[string]any{"value": len(in.Did), "min": 0, "max": practice.OwnMost}},
		}
	}
	err = s.worked(c.Context(), c.jobID(), func(p *store.Practice, bay *practice.Bay, j *job.Job) error {
		switch {
		case p.UserID != c.user.ID || !ownWork(p):
			return store.ErrNotFound
		case p.EndedAt != nil:
			return errEnded
		case in.Seed != p.Seed || !begins(in.Did, bay.Did):
			return errOther
		}
		all, err := s.Store.Log(c.Context(), p.JobID, 0, 0)
		if err != nil {
			return err
		}
		// On a vehicle of its own: one that cannot be brought leaves this one as it was.
		own := bay.Own()
		own.Did = in.Did
		brought, err := own.Bay(j, all)
		if err != nil {
			return err
		}
		*bay = *brought
		out = practiceView(p, bay, j)
		return nil
	})
	return out, err
}

// begins says whether the acts known are the beginning of those told.
func begins(told, known []proving.Done) bool {
	return len(known) <= len(told) &&
		slices.EqualFunc(known, told[:len(known)], func(a, b proving.Done) bool { return reflect.DeepEqual(a.Act, b.Act) })
}

// endPractice ends it and says what it came to; asked again it says the same.
func (s *server) endPractice(c *call, _ none) (out json.RawMessage, err error) {
	err = s.worked(c.Context(), c.jobID(), func(p *store.Practice, bay *practice.Bay, j *job.Job) error {
		if err := own(c, p); err != nil {
			return err
		}
		if p.EndedAt == nil {
			if p.UserID != c.user.ID {
				return store.ErrNotFound
			}
			all, err := s.Store.Log(c.Context(), p.JobID, 0, 0)
			if err != nil {
				return err
			}
			r, err := bay.End(c.Context(), j, all)
			if err != nil {
				return err
			}
			raw, err := json.Marshal(r)
			if err != nil {
				return err
			}
			at := now()
			p.Result, p.Total, p.EndedAt = string(raw), &r.Total, &at
		}
		out = json.RawMessage(p.Result)
		return nil
	})
	return out, err
}
