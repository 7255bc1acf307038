// Package desk is the core's home where the hands are: it keeps the jobs a browser has seen with their logs, folds
// what waits to be sent onto them and answers every station's view from that, with no server to be reached. It is
// compiled to WebAssembly (cmd/core) and tested natively. It decides nothing: the server checks every event again.
package desk

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"geminate/brake/bleed"
	"geminate/brake/job"
	"geminate/brake/match"
	"geminate/brake/photo"
	"geminate/brake/station"
	"geminate/brake/strict"
	"geminate/brake/system"
	"geminate/brake/trace"
	"geminate/ground/practice"
)

// Desk holds the jobs. It is not safe for concurrent use: a worker asks one thing at a time.
type Desk struct {
	jobs map[string]*held
	// picture is the one that is being measured on, nil without one.
	picture *photo.Luma
}

// New gives an empty desk.
func New() *Desk { return &Desk{jobs: map[string]*held{}} }

// Problem is why something was refused, in the ids the server uses.
type Problem struct {
	Code    string         `json:"code"`
	Detail  string         `json:"detail,omitempty"`
	Faults  []system.Fault `json:"faults,omitempty"`
	Missing []string       `json:"missing,omitempty"`
}

// ProblemOf names what the core refused. The server's answers and the desk's come from here. ok is false for an
// error that is not the core's.
func ProblemOf(err error) (p Problem, ok bool) {
	var faults system.Faults
	var one system.Fault
	var refused *strict.Refused
	var gate job.ErrGate
	var open job.ErrRelease
	var role job.ErrRole
	switch {
	case errors.As(err, &faults):
		return Problem{Code: "problem.faults", Faults: faults}, true
	case errors.As(err, &one):
		return Problem{Code: "problem.faults", Faults: system.Faults{one}}, true
	case errors.As(err, &refused):
		return Problem{Code: "problem.faults", Faults: refused.At("$")}, true
	case errors.As(err, &gate):
		return Problem{Code: "problem.gate", Missing: gate.Missing}, true
	case errors.As(err, &open):
		return Problem{Code: "problem.release_gate", Missing: open.Open}, true
	case errors.As(err, &role):
		return Problem{Code: "problem.role", Detail: string(role.Command)}, true
	case errors.Is(err, job.ErrReleased):
		return Problem{Code: "problem.released"}, true
	case errors.Is(err, job.ErrNotReleased):
		return Problem{Code: "problem.not_released"}, true
	case errors.Is(err, job.ErrNotParked):
		return Problem{Code: "problem.not_parked"}, true
	case errors.Is(err, practice.ErrStopped):
		return Problem{Code: "problem.practice_stopped"}, true
	case errors.Is(err, job.ErrIDTaken):
		return Problem{Code: "problem.id_taken"}, true
	}
	return Problem{Code: "problem.server"}, false
}

// edit lays an edited intake or choices over the job. Whether it clashes with someone else's the server tells.
func edit(b *job.Book, by job.Actor, now time.Time, part string, value json.RawMessage) error {
	var events []job.Event
	var err error
	switch part {
	case "intake":
		var in job.Intake
		if err = strict.Decode(value, &in); err == nil {
			events, err = b.ChangeIntake(b, by, now, "edit-intake", b.IntakeSeq, in)
		}
	case "choices":
		var in job.Choices
		if err = strict.Decode(value, &in); err == nil {
			events, err = b.ChangeChoices(b, by, now, "edit-choices", b.ChoicesSeq, in)
		}
	default:
		return fmt.Errorf("desk: nothing called %q is edited", part)
	}
	if errors.Is(err, job.ErrNothing) {
		return nil
	}
	b.Events = append(b.Events, events...)
	return err
}

// Asked is a question about a job as it is shown: a station's view or a computation, by the name it has in the API.
type Asked struct {
	ID   string          `json:"id"`
	What string          `json:"what"`
	In   json.RawMessage `json:"in"`
	Now  time.Time       `json:"now"`
	// Shelf are the units the server last offered: the catalogue is not here.
	Shelf []match.Unit `json:"shelf"`
}

var errNotHere = errors.New("desk: this job is not here")

func decoded[T any](raw []byte, do func(T) (any, error)) (any, error) {
	var in T
	if err := strict.Decode(raw, &in); err != nil {
		return nil, err
	}
	return do(in)
}

// Ask answers.
func (d *Desk) Ask(a Asked) (any, error) {
	h := d.jobs[a.ID]
	if h == nil || h.base == nil {
		return nil, errNotHere
	}
	if err := h.showBase(); err != nil {
		return nil, err
	}
	if a.What == "call" { // between two people, of no job
		return decoded(a.In, func(in bleed.CallAlone) (any, error) { return in.Step() })
	}
	q := station.Find(a.What, len(a.In) > 0 && string(a.In) != "null")
	if q == nil {
		return nil, fmt.Errorf("desk: nothing is called %q", a.What)
	}
	h.shown.Now = a.Now
	return q.Ask(context.Background(), h.shown.Job, station.With{Shelf: a.Shelf, Now: a.Now}, a.In)
}

// Drawn is a travel as it is being drawn, of no job: which strokes have come up again after a moment.
type Drawn struct {
	Travel trace.Series `json:"travel"`
	AfterS float64      `json:"after_s"`
}

// answer is what goes back to the browser: one of the two.
type answer struct {
	OK      any      `json:"ok,omitempty"`
	Problem *Problem `json:"problem,omitempty"`
}

// Call answers one message: a method's name and its input as JSON.
func (d *Desk) Call(method string, in []byte) (out []byte) {
	defer func() {
		if r := recover(); r != nil { // a page must be told, not left waiting
			out = pack(answer{Problem: &Problem{Code: "problem.server", Detail: fmt.Sprint(r)}})
		}
	}()
	v, err := d.call(method, in)
	if err != nil {
		p, ok := ProblemOf(err)
		switch {
		case errors.Is(err, errNotHere):
			p = Problem{Code: "problem.not_found"}
		case !ok:
			p.Detail = err.Error()
		}
		return pack(answer{Problem: &p})
	}
	return pack(answer{OK: v})
}

func (d *Desk) call(method string, raw []byte) (any, error) {
	switch method {
	case "confirm":
		return decoded(raw, func(in Confirmed) (any, error) { return d.Confirm(in) })
	case "show":
		return decoded(raw, func(in Waiting) (any, error) { return d.Show(in) })
	case "open":
		return decoded(raw, func(in Opening) (any, error) { return d.Open(in) })
	case "practise":
		return decoded(raw, func(in Practised) (any, error) { return d.Practise(in) })
	case "strokes":
		return decoded(raw, func(in Drawn) (any, error) { return trace.StrokesAfter(in.Travel, in.AfterS), nil })
	case "picture":
		return decoded(raw, d.Picture)
	case "tap":
		return decoded(raw, d.Tap)
	case "pocket":
		return decoded(raw, d.Pocket)
	case "ask":
		return decoded(raw, func(in Asked) (any, error) { return d.Ask(in) })
	}
	return nil, fmt.Errorf("desk: no method %q", method)
}

func pack(a answer) []byte {
	out, err := json.Marshal(a)
	if err != nil {
		return []byte(`{"problem":{"code":"problem.server"}}`)
	}
	return out
}
