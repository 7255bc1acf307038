package desk

import (
	"time"

	"geminate/brake/job"
)

// Opening is a job opened where the server cannot be reached: its ids are made in the browser, and the server opens it
// under the same ones when it hears of it.
type Opening struct {
	ID      string    `json:"id"`
	EventID string    `json:"event_id"`
	By      job.Actor `json:"by"`
	Now     time.Time `json:"now"`
	Job     job.New   `json:"job"`
}

// OpenedHere is the job as it was opened, with the event it began with.
type OpenedHere struct {
	View  *job.View `json:"view"`
	Event job.Event `json:"event"`
}

// Open begins a job here. Nothing is stored: the page keeps it until the server has it.
func (d *Desk) Open(in Opening) (OpenedHere, error) {
	intake, err := in.Job.Intake()
	if err != nil {
		return OpenedHere{}, err
	}
	b, err := job.OpenBook(in.By, in.Now, job.Opening{ID: in.ID, EventID: in.EventID, Intake: intake})
	if err != nil {
		return OpenedHere{}, err
	}
	return OpenedHere{b.View(), b.Events[0]}, nil
}
