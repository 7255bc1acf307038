package job

import (
	"bytes"
	"encoding/json"
	"errors"
	"maps"
	"math"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"geminate/brake/diagnose"
	"geminate/brake/stand"
	"geminate/brake/strict"
	"geminate/brake/system"
	"geminate/brake/verify"
)

// Bounds of one event, each far beyond what a person does in one go: a hundred strokes before the count is
// sent, five litres from one bleeder.
const (
	mostStrokes = 100
	mostCM3     = 5000
	longText    = 4000 // characters
	nameMost    = 120  // characters
)

// How the whole package tells of a fault.
var fault, clip = strict.FaultAt, strict.Clip

func inRange(path string, v, lo, hi float64) error {
	if !(v >= lo && v <= hi) { // NaN too
		shown := any(v)
		if math.IsNaN(v) || math.IsInf(v, 0) {
			shown = "?"
		}
		return fault(path, "fault.range", map[string]any{"value": shown, "min": lo, "max": hi})
	}
	return nil
}

func text(path, s string, most int) error {
	if utf8.RuneCountInString(s) > most || !utf8.ValidString(s) {
		return fault(path, "fault.too_long", map[string]any{"max": most})
	}
	return nil
}

// ── readings ──

// Phases a finding can belong to.
const (
	PhaseDiagnose = "diagnose"
	PhaseVerify   = "verify"
)

// FindingMade is something seen, asked or measured; without a value it is withdrawn.
type FindingMade struct {
	Phase   string          `json:"phase"`
	Finding string          `json:"finding"`
	Value   json.RawMessage `json:"value,omitempty"`
	Sure    *bool           `json:"sure,omitempty"`
	// Again: the same reading, taken a second time in the same way; what was read before is kept beside it.
	Again bool `json:"again,omitempty"`
	// Witness is who had the second look.
	Witness string `json:"witness,omitempty"`
	// Base is the head of the log whoever read it had seen: work by others that came after it is not what was read.
	Base int64 `json:"base,omitempty"`
	// Measured is what it was read with, where an instrument told it and nobody typed it.
	Measured *Measured `json:"measured,omitempty"`
}

func (f *FindingMade) withdrawn() bool { return len(f.Value) == 0 || string(f.Value) == "null" }

// Valid implements Body.
func (f *FindingMade) Valid() error {
	const longest = 16 << 10 // bytes; the longest real one is a list of readings
	switch {
	case f.Phase != PhaseDiagnose && f.Phase != PhaseVerify:
		return fault("$.data.phase", "fault.enum", map[string]any{"value": clip(f.Phase), "allowed": "diagnose, verify"})
	case f.Finding == "" || len(f.Finding) > 64:
		return fault("$.data.finding", "fault.missing", nil)
	case len(f.Value) > longest:
		return fault("$.data.value", "fault.too_large", map[string]any{"max_bytes": longest})
	}
	if len(f.Value) > 0 { // one way to write it: a file's indents are no part of what was found
		var b bytes.Buffer
		if err := json.Compact(&b, f.Value); err != nil {
			return fault("$.data.value", "fault.type", map[string]any{"want": "value"})
		}
		f.Value = b.Bytes()
	}
	if err := f.Measured.valid(); err != nil {
		return err
	}
	return text("$.data.witness", f.Witness, nameMost)
}

// Check implements Body.
func (f *FindingMade) Check(j *Job) error {
	if f.withdrawn() {
		return nil
	}
	if err := f.checkSource(j); err != nil {
		return err
	}
	if f.Phase == PhaseVerify && verify.IsCheck(f.Finding) {
		var v string
		if err := json.Unmarshal(f.Value, &v); err != nil || !slices.Contains([]string{"yes", "no", "alone"}, v) {
			return fault("$.data.value", "fault.enum", map[string]any{"value": clip(string(f.Value)), "allowed": "yes, no, alone"})
		}
		return nil
	}
	if f.Phase == PhaseVerify && (f.Finding == verify.Pump || f.Finding == verify.FirmHeight) {
		return verify.CheckByHand(f.Finding, f.Value)
	}
	told := diagnose.Finding{ID: f.Finding, Value: f.Value}
	err := diagnose.CheckFinding(j.Intake.System, told)
	if err == nil {
		err = diagnose.CheckPressed(j.Intake.System, told)
	}
	var one system.Fault
	if errors.As(err, &one) {
		one.Path = "$.data" + strings.TrimPrefix(one.Path, "$")
		return system.Faults{one}
	}
	return err
}

// Apply implements Body.
func (f *FindingMade) Apply(j *Job, e *Event) {
	if f.Phase == PhaseVerify && (f.Finding == "pedal.readings" || f.Finding == verify.Baseline) {
		j.State.Air, j.airStale = nil, true
	}
	at := j.State.Findings[f.Phase]
	if at == nil {
		return
	}
	f.remember(j, e, false)
	if f.withdrawn() {
		delete(at, f.Finding)
		return
	}
	after := f.Phase == PhaseDiagnose && j.afterWork(f.Finding, e.place)
	var earlier []diagnose.Finding
	if was, read := at[f.Finding]; read && f.another(was) && j.account().Since(f.Finding, e.place).Seq <= was.Seq {
		earlier = append(slices.Clone(was.Earlier), diagnose.Finding{ID: was.ID, Value: was.Value, Sure: was.Sure})
		earlier = earlier[max(0, len(earlier)-earlierKept):]
	}
	j.tested(f.Finding, f.Value, e)
	at[f.Finding] = Found{
		ID:        f.Finding,
		Value:     f.Value,
		Sure:      f.Sure,
		Seq:       e.place,
		At:        e.At,
		By:        e.By.Name,
		ByID:      e.By.ID,
		Base:      max(e.Base, f.Base),
		Arrived:   e.Seq,
		AfterWork: after,
		Witness:   strings.TrimSpace(f.Witness),
		Measured:  f.Measured,
		On:        j.unitsOnNow(),
		Earlier:   earlier,
	}
	if ev := stand.EvidenceOf(f.Finding); ev != nil && ev.EngineRuns != nil && ev.EngineRuns(f.Value) {
		j.account().EngineRan(e.when())
	}
	if f.Phase == PhaseVerify {
		j.account().Took(verify.TakesS(f.Finding, f.Value))
	}
}

// another says whether this is the reading taken once more and not the one before put right: told so, or drawn by an
// instrument in a trace of its own. Whether it is still the same vehicle, the account says.
func (f *FindingMade) another(was Found) bool {
	if f.Phase != PhaseDiagnose {
		return false
	}
	drawn := f.Finding == "pedal.sink" && f.Measured != nil && f.Measured.Trace != "" &&
		(was.Measured == nil || was.Measured.Trace != f.Measured.Trace)
	return f.Again || drawn
}

// earlierKept is how many earlier readings of one kind count beside the last.
const earlierKept = 2

// readsKept bounds what an endless log adds up to.
const readsKept = 20

// remember keeps a reading of the release check as it was told, whatever comes after it.
func (f *FindingMade) remember(j *Job, e *Event, undone bool) {
	if f.withdrawn() || f.Phase == PhaseDiagnose && !j.afterWork(f.Finding, e.place) {
		return
	}
	j.keepRead(
		f.Finding,
		verify.Read{
			Value:     f.Value,
			Sure:      f.Sure,
			When:      e.when(),
			Base:      max(e.Base, f.Base),
			Withdrawn: undone,
			Through:   j.throughNow(f.Finding),
		},
	)
}

// keepRead keeps a reading as it was told.
func (j *Job) keepRead(id string, r verify.Read) {
	next := maps.Clone(j.State.Read)
	if next == nil {
		next = map[string][]verify.Read{}
	}
	list := append(slices.Clone(next[id]), r)
	next[id] = list[max(0, len(list)-readsKept):]
	j.State.Read = next
}

// throughNow is what had gone through each wheel when something was read that bleeding can cure.
func (j *Job) throughNow(id string) map[string]float64 {
	ev := stand.EvidenceOf(id)
	if ev == nil || ev.Cure == nil || !ev.Cure.Bled && !ev.Cure.Exchanged {
		return nil
	}
	out := map[string]float64{}
	for w, at := range j.account().Wheels {
		out[w] = at.ThroughCM3
	}
	return out
}

// withdraw marks a reading that was taken back: it was told all the same.
func (j *Job) withdraw(id string, place int64) {
	list := slices.Clone(j.State.Read[id])
	for i := range list {
		if list[i].Seq == place {
			list[i].Withdrawn = true
			j.State.Read = maps.Clone(j.State.Read)
			j.State.Read[id] = list
		}
	}
}

// ── words and undoing ──

// Noted is a remark.
type Noted struct {
	Text string `json:"text"`
	Step string `json:"step,omitempty"` // of the plan it is about
}

// Valid implements Body.
func (n *Noted) Valid() error {
	if strings.TrimSpace(n.Text) == "" {
		return fault("$.data.text", "fault.missing", nil)
	}
	return errors.Join(text("$.data.text", n.Text, longText), text("$.data.step", n.Step, nameMost))
}

// notesMost is how much a job's notes may come to, kB: they are in its view, which is written whole. Assumption: a
// hundred closely written pages.
const notesMost = 300

// Check implements Body.
func (n *Noted) Check(j *Job) error {
	sum := len(n.Text)
	for _, t := range j.State.Notes {
		sum += len(t)
	}
	for _, t := range j.State.StepNotes {
		sum += len(t.Text)
	}
	if sum > notesMost<<10 {
		return fault("$.data.text", "fault.notes_full", map[string]any{"most": notesMost})
	}
	return nil
}

// Apply implements Body.
func (n *Noted) Apply(j *Job, e *Event) {
	if n.Step != "" {
		j.State.StepNotes = append(slices.Clone(j.State.StepNotes),
			StepNote{Step: n.Step, Text: n.Text, At: e.At, By: e.By.Name, EventID: e.ID})
		return
	}
	j.State.Notes = append(j.State.Notes, n.Text)
}

// StepNote is a remark at a step of the plan.
type StepNote struct {
	Step    string    `json:"step"`
	Text    string    `json:"text"`
	At      time.Time `json:"at"`
	By      string    `json:"by"`
	EventID string    `json:"event_id"`
}

// Undone takes an earlier event back; it stays on the record, but counts for nothing.
type Undone struct {
	Of string `json:"of"`
}

// Valid implements Body.
func (u *Undone) Valid() error {
	var f system.Faults
	if errors.As(validID(u.Of), &f) {
		f[0].Path = "$.data.of"
		return f
	}
	return nil
}

// Check implements Body. What it undoes is looked up by the command: it may lie far back in the log.
func (u *Undone) Check(*Job) error { return nil }

// Apply implements Body: a fold passes over what was undone (see Replay); met singly there is nothing to do.
func (u *Undone) Apply(*Job, *Event) {}
