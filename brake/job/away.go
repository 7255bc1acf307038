package job

import (
	"strings"
	"time"
)

// A job nobody goes on with is put away: out of the bay, never deleted, and taken up again when it is wanted.

// StandsAway is a job that was put away.
const StandsAway Standing = "away"

// AwayState is since when, by whom, and why.
type AwayState struct {
	At  time.Time `json:"at"`
	By  string    `json:"by"`
	Why string    `json:"why"`
}

// PutAway puts a job away. Only where nothing was done to the vehicle: one whose brakes were touched is released or
// parked.
type PutAway struct {
	Why string `json:"why"`
}

// Valid implements Body.
func (p *PutAway) Valid() error {
	if strings.TrimSpace(p.Why) == "" {
		return fault("$.data.why", "fault.missing", nil)
	}
	return text("$.data.why", p.Why, 4*nameMost)
}

// Check implements Body.
func (p *PutAway) Check(j *Job) error {
	if j.State.Parked != nil || j.State.opened() || len(j.account().Epochs) > 0 {
		return fault("$.data", "fault.work_begun", nil)
	}
	return nil
}

// Apply implements Body.
func (p *PutAway) Apply(j *Job, e *Event) {
	j.State.Away = &AwayState{At: e.At, By: e.By.Name, Why: strings.TrimSpace(p.Why)}
}

// TakenUp brings it back.
type TakenUp struct{}

// Valid implements Body.
func (*TakenUp) Valid() error { return nil }

// Check implements Body.
func (*TakenUp) Check(*Job) error { return nil }

// Apply implements Body.
func (*TakenUp) Apply(j *Job, _ *Event) { j.State.Away = nil }
