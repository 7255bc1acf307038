// Package station is what a job is asked: each station's view and each computation at one, by its name. The server's
// routes, its description and the types of the page, and the desk in the browser, are all made from this one list.
package station

import (
	"context"
	"encoding/json"
	"time"

	"geminate/brake/diagnose"
	"geminate/brake/job"
	"geminate/brake/match"
	"geminate/brake/strict"
	"geminate/brake/system"
)

// With is what is handed in beside a question: the units that come into question, and the time.
type With struct {
	Shelf []match.Unit
	Now   time.Time
}

// Question is one thing a job is asked.
type Question struct {
	// Name is the end of its address, ID its name in the API.
	Name, ID, Summary string
	// In is an empty input, nil where nothing is handed in; Out an empty answer.
	In, Out any
	// Shelf: the shop's units and the nearest of its catalogue are handed in.
	Shelf bool
	ask   func(context.Context, *job.Job, With, json.RawMessage) (any, error)
}

// Ask answers it, from its input as JSON. A wrong input is told as system.Faults.
func (q *Question) Ask(ctx context.Context, j *job.Job, with With, in json.RawMessage) (any, error) {
	return q.ask(ctx, j, with, in)
}

// view is a question with nothing handed in.
func view[Out any](name, summary string, ask func(context.Context, *job.Job, With) (Out, error)) Question {
	var out Out
	return Question{
		Name:    name,
		ID:      name,
		Summary: summary,
		Out:     out,
		ask: func(ctx context.Context, j *job.Job, with With, _ json.RawMessage) (any, error) {
			return ask(ctx, j, with)
		},
	}
}

// of is a view that hangs on the job alone.
func of[Out any](ask func(*job.Job) (Out, error)) func(context.Context, *job.Job, With) (Out, error) {
	return func(_ context.Context, j *job.Job, _ With) (Out, error) { return ask(j) }
}

// about is a question with something handed in.
func about[In, Out any](name, id, summary string, ask func(context.Context, *job.Job, In) (Out, error)) Question {
	var in In
	var out Out
	return Question{
		Name:    name,
		ID:      id,
		Summary: summary,
		In:      in,
		Out:     out,
		ask: func(ctx context.Context, j *job.Job, _ With, raw json.RawMessage) (any, error) {
			var in In
			if err := strict.Decode(raw, &in); err != nil {
				return nil, err
			}
			return ask(ctx, j, in)
		},
	}
}

func shelved(q Question) Question {
	q.Shelf = true
	return q
}

// Questions are all of them, in the order of the work.
var Questions = []Question{
	view("normal", "What the twin says a sound system does", of(normal)),
	about("twin", "play", "Try a scenario on the twin; nothing is stored",
		func(ctx context.Context, j *job.Job, in job.PlayIn) (*job.PlayView, error) { return j.Play(ctx, in) }),
	view("diagnose", "The Diagnose station",
		func(ctx context.Context, j *job.Job, _ With) (*job.DiagnoseView, error) { return j.Diagnose(ctx) }),
	about(
		"diagnose",
		"whatIf",
		"Diagnose as if some findings had not been entered",
		func(ctx context.Context, j *job.Job, in job.DiagnoseIn) (*job.DiagnoseView, error) {
			return j.DiagnoseWithout(ctx, in.Without)
		},
	),
	about(
		"measure",
		"measure",
		"Compute a guided test from its figures",
		func(_ context.Context, j *job.Job, in job.MeasureIn) (*diagnose.Measured, error) {
			return j.Measure(in)
		},
	),
	shelved(view("match", "The Match station", func(ctx context.Context, j *job.Job, with With) (*job.MatchView, error) {
		return j.Match(ctx, with.Shelf, with.Now)
	})),
	view("replace", "The Replace station", of((*job.Job).Replace)),
	about("pushrod", "pushrod", "Work a pushrod gap out",
		func(_ context.Context, j *job.Job, in job.Rod) (job.PushrodOut, error) { return j.Pushrod(&in) }),
	about("torque", "torque", "Judge a torque for a step",
		func(_ context.Context, j *job.Job, in job.TorqueIn) (job.TorqueRead, error) { return j.Torque(in) }),
	about("preview", "preview", "What a change of mind would ask for, before it is stored",
		func(_ context.Context, j *job.Job, in job.PreviewIn) (*job.PreviewView, error) { return j.Preview(in) }),
	view("bench", "The Bench bleed station", of((*job.Job).Bench)),
	view("bleed", "The Bleed station", of((*job.Job).Bleed)),
	view("verify", "The Verify station", of((*job.Job).Verify)),
	view("record", "The Record station", func(ctx context.Context, j *job.Job, with With) (*job.RecordView, error) {
		return j.Record(ctx, with.Now)
	}),
}

// Find gives the question of a name, with or without something handed in; nil where there is none.
func Find(name string, in bool) *Question {
	for i := range Questions {
		if q := &Questions[i]; q.Name == name && (q.In != nil) == in {
			return q
		}
	}
	return nil
}

func normal(j *job.Job) (job.Normal, error) {
	if j.Intake.System == nil {
		return job.Normal{}, system.Faults{{Path: "$.intake.system", Code: "fault.missing"}}
	}
	return job.NormalOf(j.Intake.System), nil
}
