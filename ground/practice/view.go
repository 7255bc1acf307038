package practice

import (
	"geminate/brake/diagnose"
	"geminate/brake/job"
	"geminate/brake/system"
	"geminate/ground/proving"
)

// View is a practice vehicle as whoever works on it sees it.
type View struct {
	Job      string             `json:"job"`
	Exercise ID                 `json:"exercise"`
	Step     Step               `json:"step"`
	Pattern  string             `json:"pattern"`
	Stands   Stands             `json:"stands"`
	Offer    Offer              `json:"offer"`
	Reports  []diagnose.Finding `json:"reports"` // what the owner says
	Ended    bool               `json:"ended"`
	// Seen is what the act that was asked for gave, and Done the act as it was kept.
	Seen *proving.Seen `json:"seen,omitempty"`
	Done *proving.Done `json:"done,omitempty"`
	// Own is what it takes to go on by oneself, where no server can be reached: of free practice that nobody set.
	Own *Own `json:"own,omitempty"`
}

// Own is free practice with what was done in it: the same everywhere.
type Own struct {
	Pattern  string         `json:"pattern"`
	Hardness job.Hardness   `json:"hardness"`
	Seed     uint64         `json:"seed"`
	Did      []proving.Done `json:"did"`
}

// View tells it.
func (b *Bay) View(j *job.Job) View {
	return View{
		Job:      j.ID,
		Exercise: b.Exercise.ID,
		Step:     b.Exercise.Step,
		Pattern:  b.Exercise.Pattern,
		Stands:   b.Stands(),
		Offer:    b.Offer(j),
		Reports:  b.Reports(),
	}
}

// Own gives it with what was done in it so far.
func (b *Bay) Own() *Own {
	return &Own{Pattern: b.Exercise.Pattern, Hardness: b.Exercise.Hardness, Seed: b.Seed, Did: append([]proving.Done{}, b.Did...)}
}

// OwnMost acts may have been done by oneself.
const OwnMost = 3000

// Bay takes free practice up where it stands: with the job's log as it was at each act.
func (o *Own) Bay(j *job.Job, all []job.Event) (*Bay, error) {
	if s := float64(o.Seed); s < Limits.Seed[0] || s > Limits.Seed[1] {
		return nil, system.Faults{
			{Path: "$.seed", Code: "fault.range", With: map[string]any{"value": o.Seed, "min": Limits.Seed[0], "max": Limits.Seed[1]}},
		}
	}
	ex, err := AnyOf(o.Pattern, o.Hardness, o.Seed)
	if err != nil {
		return nil, err
	}
	b := Open(ex, o.Seed)
	if len(o.Did) == 0 {
		return b, nil
	}
	return b, b.Again(j, all, o.Did)
}
