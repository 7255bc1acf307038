package job

import (
	"encoding/json"
	"fmt"
	"time"

	"geminate/brake/system"
)

// FoldVersion rises whenever the fold of a log comes to something else than before: views kept under an older
// one are then made anew from the log.
const FoldVersion = 12

// View is a job as folded: what screens read, and what the next event is folded onto.
type View struct {
	ID             string    `json:"id"`
	CreatedAt      time.Time `json:"created_at"`
	UpdatedAt      time.Time `json:"updated_at"`
	Head           int64     `json:"head"` // seq of the last event in it
	Fold           int       `json:"fold"`
	OpenedBy       Actor     `json:"opened_by"`
	Intake         Intake    `json:"intake"`
	IntakeVersion  int64     `json:"intake_version"` // seq of the event that last changed it
	Choices        Choices   `json:"choices"`
	ChoicesVersion int64     `json:"choices_version"`
	State          State     `json:"state"`
	Status         Status    `json:"status"`
	// Vehicle is the kind of it; Spoken is how words that differ by it speak of it.
	Vehicle system.VehicleKind `json:"vehicle_kind"`
	Spoken  []string           `json:"spoken"`
}

// View puts the job as it stands together.
func (j *Job) View() *View {
	kind, spoken := system.Road, []string{}
	if s := j.Intake.System; s != nil {
		kind, spoken = s.VehicleKind(), s.Spoken()
	}
	return &View{
		Vehicle:        kind,
		Spoken:         spoken,
		ID:             j.ID,
		CreatedAt:      j.CreatedAt,
		UpdatedAt:      j.UpdatedAt,
		Head:           j.Head,
		Fold:           FoldVersion,
		OpenedBy:       j.OpenedBy,
		Intake:         j.Intake,
		IntakeVersion:  j.IntakeSeq,
		Choices:        j.Choices,
		ChoicesVersion: j.ChoicesSeq,
		State:          j.State,
		Status:         j.Status(),
	}
}

// Card is a job as lists show it.
type Card struct {
	ID        string         `json:"id"`
	Vehicle   string         `json:"vehicle"`
	Plate     string         `json:"plate"`
	Customer  string         `json:"customer"`
	Complaint string         `json:"complaint"`
	CreatedAt time.Time      `json:"created_at"`
	UpdatedAt time.Time      `json:"updated_at"`
	Status    Status         `json:"status"`
	Timers    []Timer        `json:"timers,omitempty"` // those that run
	Parked    *ParkedState   `json:"parked,omitempty"`
	System    *system.System `json:"system"`
	Planned
}

// Card gives the job's card.
func (v *View) Card() Card {
	in := v.Intake
	return Card{
		ID:        v.ID,
		Vehicle:   in.Vehicle,
		Plate:     in.Plate,
		Customer:  in.Customer,
		Complaint: in.Complaint,
		CreatedAt: v.CreatedAt,
		UpdatedAt: v.UpdatedAt,
		Status:    v.Status,
		Timers:    v.State.Running(),
		Parked:    v.State.Parked,
		System:    in.System,
		Planned:   in.Planned,
	}
}

// Job is the view as a job that goes on.
func (v *View) Job() *Job {
	return &Job{
		ID:         v.ID,
		CreatedAt:  v.CreatedAt,
		UpdatedAt:  v.UpdatedAt,
		Head:       v.Head,
		OpenedBy:   v.OpenedBy,
		Intake:     v.Intake,
		IntakeSeq:  v.IntakeVersion,
		Choices:    v.Choices,
		ChoicesSeq: v.ChoicesVersion,
		State:      v.State,
	}
}

// ErrOldFold says that a kept view was folded by other rules than today's: fold the log anew.
var ErrOldFold = fmt.Errorf("job: folded by an older program")

// ReadView reads a view back as it was kept.
func ReadView(raw []byte) (*Job, error) {
	var v View
	if err := json.Unmarshal(raw, &v); err != nil {
		return nil, fmt.Errorf("job: kept view: %w", err)
	}
	if v.Fold != FoldVersion {
		return nil, ErrOldFold
	}
	return v.Job(), nil
}
