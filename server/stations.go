package server

import (
	"context"
	"encoding/json"
	"errors"

	"geminate/brake/diagnose"
	"geminate/brake/fluid"
	"geminate/brake/job"
	"geminate/brake/match"
	"geminate/brake/system"
	"geminate/brake/units"
	"geminate/brake/verify"
	"geminate/store"
)

// station loads a job and computes one station's view of it, within the budget of a request.
func station[T any](s *server, c *call, view func(context.Context, *job.Job) (T, error)) (T, error) {
	j, err := s.Store.Job(c.Context(), c.jobID())
	if err != nil {
		var zero T
		return zero, err
	}
	return compute(s, c, func(ctx context.Context) (T, error) { return view(ctx, j) })
}

// light is a view that is quick whatever the job.
func light[T any](view func(*job.Job) (T, error)) func(context.Context, *job.Job) (T, error) {
	return func(_ context.Context, j *job.Job) (T, error) { return view(j) }
}

func (s *server) normal(c *call, _ none) (job.Normal, error) {
	return station(s, c, light(func(j *job.Job) (job.Normal, error) { return job.NormalOf(j.Intake.System), nil }))
}

func (s *server) diagnose(c *call, _ none) (*job.DiagnoseView, error) {
	return station(s, c, func(ctx context.Context, j *job.Job) (*job.DiagnoseView, error) { return j.Diagnose(ctx) })
}

func (s *server) whatIf(c *call, in job.DiagnoseIn) (*job.DiagnoseView, error) {
	return station(s, c, func(ctx context.Context, j *job.Job) (*job.DiagnoseView, error) {
		return j.DiagnoseWithout(ctx, in.Without)
	})
}

func (s *server) measure(c *call, in job.MeasureIn) (*diagnose.Measured, error) {
	return station(s, c, light(func(j *job.Job) (*diagnose.Measured, error) { return j.Measure(in) }))
}

func (s *server) match(c *call, _ none) (*job.MatchView, error) {
	units, err := s.Store.Shelf(c.Context())
	if err != nil {
		return nil, err
	}
	return station(s, c, func(ctx context.Context, j *job.Job) (*job.MatchView, error) {
		near, err := s.nearest(c, j)
		if err != nil {
			return nil, err
		}
		return j.Match(ctx, append(units, near...), now())
	})
}

func (s *server) nearest(c *call, j *job.Job) ([]match.Unit, error) {
	var out []match.Unit
	for _, q := range j.Nearest() {
		found, err := s.Store.Search(c.Context(), store.Query{Kind: q.KindOf(), BoreMM: q.BoreMM, StudSpacingMM: q.StudSpacingMM, PocketMM: nil,
			FirewallSpacingMM: q.Firewall(), WithinMM: match.NearMM, Limit: match.NearMost, NotShelf: true})
		if err != nil {
			return nil, err
		}
		out = append(out, found...)
	}
	return out, nil
}

func (s *server) replace(c *call, _ none) (*job.ReplaceView, error) {
	return station(s, c, light((*job.Job).Replace))
}

func (s *server) bench(c *call, _ none) (*job.BenchView, error) {
	return station(s, c, light((*job.Job).Bench))
}

func (s *server) bleed(c *call, _ none) (*job.BleedView, error) {
	return station(s, c, light((*job.Job).Bleed))
}

func (s *server) verify(c *call, _ none) (*job.VerifyView, error) {
	return station(s, c, light((*job.Job).Verify))
}

func (s *server) play(c *call, in job.PlayIn) (*job.PlayView, error) {
	return station(s, c, func(ctx context.Context, j *job.Job) (*job.PlayView, error) { return j.Play(ctx, in) })
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

func (s *server) record(c *call, _ none) (*job.RecordView, error) {
	return station(s, c, func(ctx context.Context, j *job.Job) (*job.RecordView, error) { return j.Record(ctx, now()) })
}

func (s *server) pushrod(c *call, in job.Rod) (job.PushrodOut, error) {
	return station(s, c, light(func(j *job.Job) (job.PushrodOut, error) { return j.Pushrod(&in) }))
}

func (s *server) torque(c *call, in job.TorqueIn) (job.TorqueRead, error) {
	return station(s, c, light(func(j *job.Job) (job.TorqueRead, error) { return j.Torque(in) }))
}

func (s *server) preview(c *call, in job.PreviewIn) (*job.PreviewView, error) {
	return station(s, c, light(func(j *job.Job) (*job.PreviewView, error) { return j.Preview(in) }))
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

func (s *server) description(_ *call, _ none) (json.RawMessage, error) {
	return Description()
}

func (s *server) vocabulary(_ *call, _ none) (Vocabulary, error) {
	v := Vocabulary{Tools: job.Tools, Units: units.Table, Checks: verify.Checks(), Origins: system.Origins, Findings: []FindingKind{}, Tests: []TestKind{}, Fluids: []string{},
		Scopes: match.AllScopes, SmallPlaces: job.SmallPlaces, Went: job.Went, SmallParts: job.SmallParts, ParkReasons: job.ParkReasons, PhotoMost: job.PhotoMost}
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
