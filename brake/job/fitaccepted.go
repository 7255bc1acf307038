package job

import "strings"

// FitTaken is why a pedal that changes more than it may is taken all the same, for these units and no others.
type FitTaken struct {
	Pair   string `json:"pair"`
	Reason string `json:"reason"`
	By     string `json:"by"`
}

// FitAccepted says that a pedal which changes by the units that go on is wanted so: a lead's to say, with a reason that
// stays on the record.
type FitAccepted struct {
	Reason string `json:"reason"`
}

// reasonLeast characters say something. Assumption.
const reasonLeast = 8

// Valid implements Body.
func (f *FitAccepted) Valid() error { return text("$.data.reason", f.Reason, longText) }

// Check implements Body.
func (f *FitAccepted) Check(j *Job) error {
	if len([]rune(strings.TrimSpace(f.Reason))) < reasonLeast {
		return fault("$.data.reason", "fault.reason_short", nil)
	}
	if v := j.fitsByFigures(); !v.Asked || v.NoBore {
		return fault("$.data", "fault.bore_unknown", nil)
	}
	return nil
}

// Apply implements Body.
func (f *FitAccepted) Apply(j *Job, e *Event) {
	j.State.FitAccepted = &FitTaken{Pair: pairKey(j.pairSeen(e)), Reason: strings.TrimSpace(f.Reason), By: e.By.Name}
}
