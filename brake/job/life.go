package job

import (
	"strings"
	"time"

	"geminate/brake/verify"
)

// The events of a job's life: opened, changed, released, reopened, brought in.

// Opened is how a job began.
type Opened struct {
	Intake  Intake  `json:"intake"`
	Choices Choices `json:"choices"`
}

// Valid implements Body.
func (o *Opened) Valid() error { return CheckIntake(&o.Intake) }

// Check implements Body.
func (o *Opened) Check(*Job) error { return nil }

// Apply implements Body.
func (o *Opened) Apply(j *Job, e *Event) {
	j.Intake, j.Choices = o.Intake, o.Choices
	j.IntakeSeq, j.ChoicesSeq = e.Seq, e.Seq
	j.OpenedBy = e.By
	j.State.FirstPair = j.pair()
	j.State.ScopeChosen = o.Choices.Scope != DefaultChoices(o.Intake.System).Scope
	j.State.Air, j.airStale = nil, true
}

// IntakeChanged is an edit of the intake, field by field, with what stood there before.
type IntakeChanged struct {
	Changes []Change `json:"changes"`
}

// Valid implements Body.
func (c *IntakeChanged) Valid() error { return validChanges(c.Changes) }

// Check implements Body.
func (c *IntakeChanged) Check(*Job) error { return nil }

// Apply implements Body.
func (c *IntakeChanged) Apply(j *Job, e *Event) {
	if in, err := patched(j.Intake, c.Changes); err == nil {
		j.Intake = in
	}
	j.IntakeSeq = e.Seq
	j.edited(c.Changes, e)
	j.State.Air, j.airStale = nil, true
}

// ChoicesChanged is an edit of the choices. Because says why where it was not a person's wish of its own
// ("system_changed": these choices no longer made sense).
type ChoicesChanged struct {
	Changes []Change `json:"changes"`
	Because string   `json:"because,omitempty"`
}

// Valid implements Body.
func (c *ChoicesChanged) Valid() error {
	if err := text("$.data.because", c.Because, nameMost); err != nil {
		return err
	}
	return validChanges(c.Changes)
}

// Check implements Body.
func (c *ChoicesChanged) Check(*Job) error { return nil }

// Apply implements Body.
func (c *ChoicesChanged) Apply(j *Job, e *Event) {
	before := j.pair()
	if ch, err := patched(j.Choices, c.Changes); err == nil {
		j.Choices = ch
	}
	j.ChoicesSeq = e.Seq
	j.rechosen(c.Changes, before, e)
	j.namesWheels(e)
	for _, x := range c.Changes {
		j.State.ScopeChosen = j.State.ScopeChosen || x.Path == "/scope"
	}
	if c.Because == BecauseSystem {
		j.State.Dropped = nil
		for _, x := range c.Changes {
			j.State.Dropped = append(j.State.Dropped, x.Path)
		}
	}
	j.State.Air, j.airStale = nil, true
}

// BecauseSystem marks choices that a change of the system took with it.
const BecauseSystem = "system_changed"

// Released is the vehicle handed over: the gate as it stood, item by item.
type Released struct {
	Gate []verify.Item `json:"gate,omitempty"`
}

// Valid implements Body.
func (r *Released) Valid() error {
	if len(r.Gate) > 100 {
		return fault("$.data.gate", "fault.count", map[string]any{"value": len(r.Gate), "min": 0, "max": 100})
	}
	return nil
}

// Check implements Body.
func (r *Released) Check(j *Job) error {
	v, err := j.Verify()
	if err != nil {
		return err
	}
	if !v.Gate.Passable {
		open := ErrRelease{}
		for _, i := range v.Gate.Items {
			if i.State != verify.OK {
				open.Open = append(open.Open, i.ID)
			}
		}
		return open
	}
	return nil
}

// Settle keeps the gate as it stands.
func (r *Released) Settle(j *Job) {
	if v, err := j.Verify(); err == nil {
		r.Gate = v.Gate.Items
	}
}

// Apply implements Body.
func (r *Released) Apply(j *Job, e *Event) {
	at := e.At
	j.State.ReleasedAt, j.State.ReleasedBy, j.State.ReleasedRole = &at, e.By.Name, e.By.Role
	j.State.Parked = nil
	j.State.ReleaseGate = r.Gate
}

// ErrRelease is a release the gate does not let through; Open are the items that hold it.
type ErrRelease struct{ Open []string }

func (e ErrRelease) Error() string { return "job: the gate is open: " + strings.Join(e.Open, ", ") }

// Reopened takes a release back, with why.
type Reopened struct {
	Reason string `json:"reason,omitempty"` // format 1 had none
}

// Valid implements Body.
func (r *Reopened) Valid() error { return text("$.data.reason", r.Reason, longText) }

// Check implements Body.
func (r *Reopened) Check(*Job) error {
	if strings.TrimSpace(r.Reason) == "" {
		return fault("$.reason", "fault.missing", nil)
	}
	return nil
}

// Reopening is one reopening as it stays on every later sheet.
type Reopening struct {
	At         time.Time  `json:"at"`
	By         string     `json:"by"`
	Reason     string     `json:"reason"`
	ReleasedAt *time.Time `json:"released_at"` // what was taken back
	ReleasedBy string     `json:"released_by"`
}

// Apply implements Body.
func (r *Reopened) Apply(j *Job, e *Event) {
	st := &j.State
	st.Reopenings = append(st.Reopenings,
		Reopening{At: e.At, By: e.By.Name, Reason: r.Reason, ReleasedAt: st.ReleasedAt, ReleasedBy: st.ReleasedBy})
	st.ReleasedAt, st.ReleasedBy, st.ReleasedRole = nil, "", ""
	st.Afterwards, st.CalledBack, st.ReleaseGate = nil, nil, nil
	j.account().OnTheRoad(e.when(), string(e.Kind))
}

// BroughtIn ends what a file told: everything before it happened elsewhere, and proves nothing here.
type BroughtIn struct {
	Format string `json:"format"`
	FileID string `json:"file_id"` // the job's id in the file
}

// Valid implements Body.
func (b *BroughtIn) Valid() error {
	if err := text("$.data.file_id", b.FileID, nameMost); err != nil {
		return err
	}
	return text("$.data.format", b.Format, nameMost)
}

// Check implements Body.
func (b *BroughtIn) Check(*Job) error { return nil }

// Apply implements Body: what the file says was done becomes its claim, and the work here starts anew. What was
// found before the repair stays: the diagnosis may rest on it, or ask again.
func (b *BroughtIn) Apply(j *Job, e *Event) {
	old := j.State
	claim := Claim{Format: b.Format, FileID: b.FileID, At: e.At, By: e.By.Name, ReleasedAt: old.ReleasedAt, ReleasedBy: old.ReleasedBy,
		Steps: len(old.Ticks), Readings: len(old.Findings[PhaseVerify]), BenchStrokes: old.BenchStrokes}
	for _, v := range old.BleedCM3 {
		claim.BledCM3 += v
	}
	j.State = newState()
	j.State.Reopenings = old.Reopenings // they stay on every later sheet
	j.State.Findings[PhaseDiagnose] = old.Findings[PhaseDiagnose]
	j.State.Notes = old.Notes
	j.State.History = &claim
	j.State.FirstPair = j.pair()
	j.airStale = true
}

// Claim is what a file said of a job's past elsewhere.
type Claim struct {
	Format       string     `json:"format"`
	FileID       string     `json:"file_id"`
	At           time.Time  `json:"at"` // brought in
	By           string     `json:"by"`
	ReleasedAt   *time.Time `json:"released_at"`
	ReleasedBy   string     `json:"released_by"`
	Steps        int        `json:"steps"`
	Readings     int        `json:"readings"`
	BenchStrokes int        `json:"bench_strokes"`
	BledCM3      float64    `json:"bled_cm3"`
}
