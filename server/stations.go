package server

import (
	"context"
	_ "embed"
	"encoding/json"
	"errors"

	"geminate/brake/diagnose"
	"geminate/brake/fluid"
	"geminate/brake/job"
	"geminate/brake/match"
	"geminate/brake/motion"
	"geminate/brake/station"
	"geminate/brake/system"
	"geminate/brake/trace"
	"geminate/brake/units"
	"geminate/brake/verify"
	"geminate/store"
)

// questions are the routes of what a job is asked: each loads the job and computes, within the budget of a request.
func (s *server) questions() (out []route) {
	for i := range station.Questions {
		q := &station.Questions[i]
		r := get("/jobs/{id}/"+q.Name, q.ID, q.Summary)
		if q.In == nil {
			r = handle(s, r, func(c *call, _ none) (raw, error) { return s.ask(c, q, nil) })
		} else {
			r = handle(s, post(r.path, q.ID, q.Summary).needs(job.ReadJobs), func(c *call, in raw) (raw, error) { return s.ask(c, q, in) })
			r.in = q.In
		}
		r.out = q.Out
		out = append(out, r)
	}
	return out
}

// recordingMost is what a phone records in a minute and a half at its fastest, bytes.
const recordingMost = 3 << 20

// pocket are the routes of the tools in the pocket, for a browser in which the core does not run.
func (s *server) pocket() (out []route) {
	for i := range station.Pocket {
		t := &station.Pocket[i]
		r := handle(
			s,
			post("/pocket/"+t.Name, t.ID, t.Summary).needs(job.ReadJobs).upTo(recordingMost),
			func(c *call, in raw) (raw, error) {
				return compute(s, c, func(context.Context) (raw, error) {
					answer, err := t.Use(in)
					if err != nil {
						return nil, err
					}
					return json.Marshal(answer)
				})
			},
		)
		r.in, r.out = t.In, t.Out
		out = append(out, r)
	}
	return out
}

func (s *server) ask(c *call, q *station.Question, in raw) (raw, error) {
	j, err := s.Store.Job(c.Context(), c.jobID())
	if err != nil {
		return nil, err
	}
	with := station.With{Now: now()}
	if q.Shelf {
		if with.Shelf, err = s.shelf(c, j); err != nil {
			return nil, err
		}
	}
	return compute(s, c, func(ctx context.Context) (raw, error) {
		answer, err := q.Ask(ctx, j, with, in)
		if err != nil {
			return nil, err
		}
		return json.Marshal(answer)
	})
}

// shelf are the shop's units, and the nearest of its catalogue.
func (s *server) shelf(c *call, j *job.Job) ([]match.Unit, error) {
	units, err := s.Store.Shelf(c.Context())
	if err != nil {
		return nil, err
	}
	near, err := s.nearest(c, j)
	return append(units, near...), err
}

// jobShelf hands the shelf out by itself: the core in the browser holds the units against the old one there.
func (s *server) jobShelf(c *call, _ none) (ShelfView, error) {
	j, err := s.Store.Job(c.Context(), c.jobID())
	if err != nil {
		return ShelfView{}, err
	}
	units, err := s.shelf(c, j)
	return ShelfView{append([]match.Unit{}, units...)}, err
}

func (s *server) nearest(c *call, j *job.Job) ([]match.Unit, error) {
	var out []match.Unit
	for _, q := range j.Nearest() {
		found, err := s.Store.Search(
			c.Context(),
			store.Query{Kind: q.KindOf(), BoreMM: q.BoreMM, StudSpacingMM: q.StudSpacingMM, PocketMM: nil,
				FirewallSpacingMM: q.Firewall(), WithinMM: match.NearMM, Limit: match.NearMost, NotShelf: true},
		)
		if err != nil {
			return nil, err
		}
		out = append(out, found...)
	}
	return out, nil
}

// dress is what a job is looked at with that is its shop's; the shop's picture stays here.
func (s *server) dress(c *call, _ none) (job.Dress, error) {
	d, err := s.Store.Dress(c.Context(), c.jobID())
	if d.Settings != nil {
		lean := *d.Settings
		lean.Mark = ""
		d.Settings = &lean
	}
	return d, err
}

func (s *server) checkSystem(_ *call, in json.RawMessage) (SystemCheck, error) {
	sys, err := system.Parse(in)
	var f system.Faults
	if errors.As(err, &f) {
		return SystemCheck{Faults: f}, nil
	}
	if err != nil {
		return SystemCheck{}, err
	}
	n := job.NormalOf(sys)
	return SystemCheck{Faults: []system.Fault{}, Normal: &n}, nil
}

// described is the description as it was made when the program was built: anybody may read it, and making it anew takes
// seconds.
//
//go:embed openapi.json
var described []byte

func (s *server) description(_ *call, _ none) (json.RawMessage, error) { return described, nil }

func (s *server) vocabulary(c *call, _ none) (Vocabulary, error) {
	own, err := s.Store.OwnPatterns(c.Context())
	if err != nil {
		return Vocabulary{}, err
	}
	v := Vocabulary{
		OwnPatterns: own,
		Tools:       job.Tools,
		Units:       units.Table,
		Checks:      verify.Checks(),
		Origins:     system.Origins,
		Findings:    []FindingKind{},
		Tests:       []TestKind{},
		Fluids:      []string{},
		Scopes:      match.AllScopes,
		Assists:     system.Assists(),
		Bounds:      job.FieldBounds(),
		Unit:        match.Vocabulary(),
		SmallPlaces: job.SmallPlaces,
		Went:        job.Went,
		SmallParts:  job.SmallParts,
		ParkReasons: job.ParkReasons,
		Bands:       job.Bands,
		Standings:   job.Standings,
		PhotoMost:   job.PhotoMost,
		TiltS:       motion.TiltS,
		RestS:       motion.RestS,
		PhoneID:     job.PhoneID,
		Tells:       trace.Tells,
		Drawable:    trace.Drawable,
	}
	for _, p := range system.Patterns {
		sys := p.Build()
		v.Patterns = append(v.Patterns, PatternView{p.ID, &sys})
	}
	for _, k := range diagnose.Kinds() {
		v.Findings = append(v.Findings, FindingKind(k))
	}
	for _, t := range diagnose.Tests {
		kind := TestKind{ID: t.ID, Yields: t.Yields, Steps: []string{}, Cautions: []string{}, Inputs: []diagnose.Input{}}
		if g := diagnose.FindGuide(t.ID); g != nil {
			kind.Steps, kind.Cautions = append(kind.Steps, g.Steps...), append(kind.Cautions, g.Cautions...)
			kind.Inputs, kind.TimerS, kind.ClockFor, kind.Counts = append(kind.Inputs, g.Inputs...), g.TimerS, g.ClockFor, g.Counts
		}
		v.Tests = append(v.Tests, kind)
	}
	for _, c := range fluid.Classes {
		v.Fluids = append(v.Fluids, c.ID)
	}
	return v, nil
}

// met tells what was found on vehicles of the same kind.
func (s *server) met(c *call, _ none) (*job.Met, error) {
	j, err := s.Store.Job(c.Context(), c.jobID())
	if err != nil {
		return nil, err
	}
	others, err := s.Store.Alike(c.Context(), j.Intake.Vehicle)
	if err != nil {
		return nil, err
	}
	m := j.MetBefore(others)
	return &m, nil
}
