package job

import (
	"errors"
	"slices"
	"strings"
	"time"
)

// ParkReason says why a vehicle is not to be driven.
type ParkReason string

// Reasons. What the vehicle waits for follows from its gate; the reason is what a person says.
const (
	ParkBleedPutOff ParkReason = "bleed_put_off"
	ParkPart        ParkReason = "part"
	ParkTool        ParkReason = "tool"
	ParkScanTool    ParkReason = "scan_tool"
	ParkHelper      ParkReason = "helper"
	ParkFailed      ParkReason = "failed_test"
	ParkOther       ParkReason = "other"
)

// ParkReasons lists them.
var ParkReasons = []ParkReason{ParkBleedPutOff, ParkPart, ParkTool, ParkScanTool, ParkHelper, ParkFailed, ParkOther}

// Standing of a vehicle that is parked, not to be driven.
const StandsParked Standing = "parked"

// ErrNotParked is a tag asked for of a vehicle that nobody has parked.
var ErrNotParked = errors.New("job: not parked")

// ParkedState is a vehicle that is not to be driven: since when, by whom said, and why.
type ParkedState struct {
	At   time.Time    `json:"at"`
	By   string       `json:"by"`
	Why  []ParkReason `json:"why"`
	Note string       `json:"note,omitempty"`
}

// Parked says that the vehicle stands and is not to be driven. Anyone may say so: it only ever makes things safer.
type Parked struct {
	Why  []ParkReason `json:"why"`
	Note string       `json:"note,omitempty"`
}

// Valid implements Body.
func (p *Parked) Valid() error {
	if len(p.Why) == 0 || len(p.Why) > len(ParkReasons) {
		return fault("$.data.why", "fault.missing", nil)
	}
	for _, w := range p.Why {
		if !slices.Contains(ParkReasons, w) {
			return fault("$.data.why", "fault.enum", map[string]any{"value": clip(string(w)), "allowed": ParkReasons})
		}
		if w == ParkOther && strings.TrimSpace(p.Note) == "" {
			return fault("$.data.note", "fault.missing", nil)
		}
	}
	return text("$.data.note", p.Note, 4*nameMost)
}

// Check implements Body.
func (p *Parked) Check(*Job) error { return nil }

// Apply implements Body.
func (p *Parked) Apply(j *Job, e *Event) {
	j.State.Parked = &ParkedState{At: e.At, By: e.By.Name, Why: p.Why, Note: p.Note}
}

// Unparked takes that back: the work goes on. It does not release anything.
type Unparked struct{}

// Valid implements Body.
func (u *Unparked) Valid() error { return nil }

// Check implements Body.
func (u *Unparked) Check(*Job) error { return nil }

// Apply implements Body. What stood for a day or more with its circuits open to bleed has its level looked at anew: it
// may have seeped, or somebody else may have had it.
func (u *Unparked) Apply(j *Job, e *Event) {
	if p := j.State.Parked; p != nil && len(j.State.Moves) > 0 {
		j.State.StoodDays = max(j.State.StoodDays, int(e.At.Sub(p.At).Hours()/24))
	}
	j.State.Parked = nil
}
