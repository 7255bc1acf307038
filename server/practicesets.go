package server

import (
	"cmp"
	"encoding/json"
	"math/rand/v2"
	"slices"
	"time"

	"github.com/google/uuid"

	"geminate/brake/job"
	"geminate/brake/strict"
	"geminate/brake/system"
	"geminate/ground/practice"
	"geminate/ground/practice/thirty"
	"geminate/store"
)

// What the lead sets, to everybody or to some, and who worked what.

// PracticeSetIn sets an exercise.
type PracticeSetIn struct {
	Exercise practice.ID  `json:"exercise"`
	Pattern  string       `json:"pattern,omitempty"`
	Hardness job.Hardness `json:"hardness,omitempty"`
	Seed     uint64       `json:"seed,omitempty"`
	DueOn    string       `json:"due_on,omitempty"` // 2026-12-24, "" without a day
	People   []string     `json:"people,omitempty"` // accounts; none is everybody
}

// PracticeSetView is one that is set. Its seed stays on the server.
type PracticeSetView struct {
	ID       string       `json:"id"`
	Exercise practice.ID  `json:"exercise"`
	Pattern  string       `json:"pattern"`
	Hardness job.Hardness `json:"hardness,omitempty"`
	DueOn    string       `json:"due_on"`
	People   []string     `json:"people"`
	SetBy    string       `json:"set_by"`
	SetAt    time.Time    `json:"set_at"`
}

const setsMost = 200

func (s *server) setExercise(c *call, in PracticeSetIn) (PracticeSetView, error) {
	if in.DueOn != "" {
		if _, err := time.Parse(time.DateOnly, in.DueOn); err != nil {
			return PracticeSetView{}, system.Faults{{Path: "$.due_on", Code: "fault.date", With: map[string]any{"value": in.DueOn}}}
		}
	}
	if len(in.People) > 200 {
		return PracticeSetView{}, system.Faults{
			{Path: "$.people", Code: "fault.count", With: map[string]any{"value": len(in.People), "min": 0, "max": 200}},
		}
	}
	// A seed of its own: what was worked before gives nothing away, and everybody works on the same vehicle.
	bay, err := thirty.Open(in.Exercise, in.Pattern, in.Hardness, cmp.Or(in.Seed, freeSeed(in.Exercise)))
	if err != nil {
		return PracticeSetView{}, err
	}
	raw, err := json.Marshal(append([]string{}, in.People...))
	if err != nil {
		return PracticeSetView{}, err
	}
	p := &store.PracticeSet{
		ID:       uuid.NewString(),
		Exercise: string(in.Exercise),
		Pattern:  bay.Exercise.Pattern,
		Hardness: string(bay.Exercise.Hardness),
		Seed:     bay.Seed,
		DueOn:    in.DueOn,
		People:   string(raw),
		SetBy:    c.user.Display,
		SetAt:    now(),
	}
	if err := s.Store.AddPracticeSet(c.Context(), p); err != nil {
		return PracticeSetView{}, err
	}
	s.audit(c, "exercise_set", "", map[string]string{"exercise": p.Exercise})
	return setView(p), nil
}

// freeSeed draws a seed for free practice; an exercise has one that is known to go out right.
func freeSeed(id practice.ID) uint64 {
	if id == practice.Free {
		return uint64(rand.Uint32()) + 1
	}
	return 0
}

func setView(p *store.PracticeSet) PracticeSetView {
	out := PracticeSetView{
		ID:       p.ID,
		Exercise: practice.ID(p.Exercise),
		Pattern:  p.Pattern,
		Hardness: job.Hardness(p.Hardness),
		DueOn:    p.DueOn,
		People:   []string{},
		SetBy:    p.SetBy,
		SetAt:    p.SetAt,
	}
	_ = strict.Decode([]byte(p.People), &out.People) // ours: none where it cannot be read
	return out
}

// setsOf are those set to who asks; the lead sees all.
func (s *server) setsOf(c *call) ([]PracticeSetView, error) {
	list, err := s.Store.PracticeSets(c.Context(), setsMost)
	out := []PracticeSetView{}
	for i := range list {
		v := setView(&list[i])
		switch {
		case c.user.Role.May(job.SetExercises):
		case !setTo(&v, c.user):
			continue
		default:
			v.People = []string{} // who else it is set to is the lead's to know
		}
		out = append(out, v)
	}
	return out, err
}

// setTo says whether an exercise is set to somebody: a guest has the one they came for.
func setTo(v *PracticeSetView, u *store.User) bool {
	if u.Role == job.Guest {
		return u.GuestOf != nil && *u.GuestOf == v.ID
	}
	return len(v.People) == 0 || slices.Contains(v.People, u.ID)
}

func (s *server) setFor(c *call, id string) (*store.PracticeSet, error) {
	list, err := s.Store.PracticeSets(c.Context(), setsMost)
	if err != nil {
		return nil, err
	}
	for i := range list {
		v := setView(&list[i])
		if v.ID == id && (setTo(&v, c.user) || c.user.Role.May(job.SetExercises)) {
			return &list[i], nil
		}
	}
	return nil, store.ErrNotFound
}

func (s *server) dropSet(c *call, _ none) (none, error) {
	return none{}, s.Store.DropPracticeSet(c.Context(), c.jobID())
}

// practiceResults are everybody's, for the lead.
func (s *server) practiceResults(c *call, _ none) ([]PracticeRow, error) {
	return s.practiceRows(c.Context(), "")
}
