package server

import (
	"geminate/brake/diagnose"
	"geminate/brake/job"
	"geminate/brake/system"
	"geminate/store"
	"slices"
	"strconv"
	"strings"
	"time"
)

// What closed jobs come to, and what the shop has learned.

type statisticsAsked struct {
	Days int `query:"days"`
}

func (s *server) statistics(c *call, _ none) (store.Statistics, error) {
	set, err := s.Store.Settings(c.Context())
	if err != nil {
		return store.Statistics{}, err
	}
	return s.Store.Statistics(c.Context(), since(c), set.ComebackDays)
}

// since is the day asked from: two years ago unless somebody says otherwise.
func since(c *call) time.Time {
	days := queryInt(c, "days")
	if days <= 0 || days > 36500 {
		days = 730
	}
	return now().AddDate(0, 0, -days)
}

type figureAsked struct {
	Days int           `query:"days"`
	Kind job.TallyKind `query:"kind"`
	Of   string        `query:"of"`
	// Month takes only those of a month, 2026-11.
	Month string `query:"month"`
	// Value 0 or 1 takes only the jobs that count so.
	Value string `query:"value"`
}

// figureJobsMost of one figure are listed.
const figureJobsMost = 100

// figureJobs lists the jobs a figure rests on.
func (s *server) figureJobs(c *call, _ none) ([]rawCard, error) {
	q := store.TallyQuery{Kind: job.TallyKind(c.Query("kind")), Of: strings.Clone(c.Query("of")), Since: since(c), Limit: figureJobsMost}
	if !slices.Contains(job.TallyKinds, q.Kind) {
		return nil, store.ErrNotFound
	}
	if m, err := time.Parse("2006-01", c.Query("month")); err == nil {
		q.Since, q.Until = m, m.AddDate(0, 1, 0)
	}
	if v, err := strconv.ParseFloat(c.Query("value"), 64); err == nil {
		q.Value = &v
	}
	if q.Kind == job.TallyBack {
		set, err := s.Store.Settings(c.Context())
		if err != nil {
			return nil, err
		}
		q.Most = job.BackOf(set.ComebackDays)
	}
	cards, err := s.Store.TalliedJobs(c.Context(), q)
	out := make([]rawCard, len(cards))
	for i, c := range cards {
		out[i] = rawCard(c)
	}
	return out, err
}

// ExperienceView is what the shop has found, by kind of vehicle, and how it moves the priors.
type ExperienceView struct {
	Format string                           `json:"format"`
	On     bool                             `json:"on"`
	Kinds  map[string]diagnose.Experience   `json:"kinds"`
	Priors map[string][]diagnose.PriorShown `json:"priors"`
	// Signs are what signs showed here where it was told what it really was.
	Signs map[string][]diagnose.SignShown `json:"signs"`
}

const experienceFormat = "geminate.experience/1"

func (s *server) experience(c *call, _ none) (*ExperienceView, error) {
	set, err := s.Store.Settings(c.Context())
	if err != nil {
		return nil, err
	}
	x, err := s.Store.Experience(c.Context())
	if err != nil {
		return nil, err
	}
	out := &ExperienceView{experienceFormat, set.Experience, x, map[string][]diagnose.PriorShown{}, map[string][]diagnose.SignShown{}}
	for kind, e := range x {
		if e.Jobs >= job.LeastJobs {
			out.Priors[kind], out.Signs[kind] = e.Shown(), e.SignsShown()
		}
	}
	return out, nil
}

// ExperienceIn is another shop's; no kinds take it out again.
type ExperienceIn struct {
	Format string                         `json:"format"`
	Kinds  map[string]diagnose.Experience `json:"kinds"`
}

func (s *server) bringExperience(c *call, in ExperienceIn) (*ExperienceView, error) {
	if in.Format != experienceFormat || len(in.Kinds) > 100 {
		return nil, system.Faults{
			{Path: "$.format", Code: "fault.enum", With: map[string]any{"value": in.Format, "allowed": experienceFormat}},
		}
	}
	for kind, x := range in.Kinds {
		sum := 0
		for id, n := range x.Counts {
			if n < 0 || n > 1_000_000 || !diagnose.Known(id) && id != job.OtherFault {
				return nil, system.Faults{{Path: "$.kinds", Code: "fault.enum", With: map[string]any{"value": id, "allowed": "-"}}}
			}
			sum += n
		}
		if !x.CheckSigns(1_000_000) {
			return nil, system.Faults{{Path: "$.kinds", Code: "fault.enum", With: map[string]any{"value": kind, "allowed": "-"}}}
		}
		if _, err := system.FromPattern(kind); err != nil || x.Jobs < 0 || x.Jobs > 1_000_000 || sum > 3*x.Jobs {
			return nil, system.Faults{
				{Path: "$.kinds", Code: "fault.range", With: map[string]any{"value": x.Jobs, "min": 0, "max": 1_000_000}},
			}
		}
	}
	if err := s.Store.PutBrought(c.Context(), in.Kinds,
		s.auditLine(c, "experience_brought", "", map[string]int{"kinds": len(in.Kinds)})); err != nil {
		return nil, err
	}
	return s.experience(c, none{})
}
