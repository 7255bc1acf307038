package server

import (
	"context"
	"encoding/json"
	"time"

	"geminate/brake/job"
	"geminate/ground/practice"
	"geminate/ground/practice/thirty"
)

// What there is to practise, and what was worked.

// PracticeRow is one exercise worked, in a list.
type PracticeRow struct {
	Job       string      `json:"job"`
	Exercise  practice.ID `json:"exercise"`
	Pattern   string      `json:"pattern"`
	Set       string      `json:"set"`
	Who       string      `json:"who"`
	StartedAt time.Time   `json:"started_at"`
	EndedAt   *time.Time  `json:"ended_at"`
	Total     *float64    `json:"total"`
	Right     bool        `json:"right"`
	Minutes   float64     `json:"minutes"`
	Own       float64     `json:"own"` // the engine's minutes
}

// PracticeList is what there is to work on and what was worked.
type PracticeList struct {
	Exercises []practice.Exercise `json:"exercises"`
	Mine      []PracticeRow       `json:"mine"`
	Sets      []PracticeSetView   `json:"sets"`
	Bounds    practice.Bounds     `json:"bounds"`
	Hardness  []job.Hardness      `json:"hardness"` // of free practice
}

// practicesMost are listed.
const practicesMost = 300

func (s *server) practices(c *call, _ none) (PracticeList, error) {
	out := PracticeList{Exercises: thirty.Exercises, Bounds: practice.Limits, Hardness: job.Hardnesses}
	if c.user.Role == job.Guest {
		out.Exercises, out.Hardness = []practice.Exercise{}, []job.Hardness{}
	}
	var err error
	if out.Mine, err = s.practiceRows(c.Context(), c.user.ID); err != nil {
		return out, err
	}
	out.Sets, err = s.setsOf(c)
	return out, err
}

func (s *server) practiceRows(ctx context.Context, user string) ([]PracticeRow, error) {
	list, err := s.Store.Practices(ctx, user, practicesMost)
	out := []PracticeRow{}
	for _, p := range list {
		row := PracticeRow{
			Job:       p.JobID,
			Exercise:  practice.ID(p.Exercise),
			Pattern:   p.Pattern,
			Who:       p.UserName,
			StartedAt: p.StartedAt,
			EndedAt:   p.EndedAt,
			Total:     p.Total,
		}
		if p.SetID != nil {
			row.Set = *p.SetID
		}
		var r practice.Result
		if p.Result != "" && json.Unmarshal([]byte(p.Result), &r) == nil {
			row.Right, row.Minutes, row.Own = r.Right, r.Yours.Minutes, r.Engine.Minutes
		}
		out = append(out, row)
	}
	return out, err
}
