package job

import (
	"bytes"
	"encoding/json"
	"errors"
	"math"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"geminate/brake/bleed"
	"geminate/brake/diagnose"
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

func fault(path, code string, with map[string]any) error {
	return system.Faults{{Path: path, Code: code, With: with}}
}

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
	return nil
}

// Check implements Body.
func (f *FindingMade) Check(j *Job) error {
	if f.withdrawn() {
		return nil
	}
	if f.Phase == PhaseVerify && slices.Contains(verify.Checks, f.Finding) {
		var v string
		if err := json.Unmarshal(f.Value, &v); err != nil || !slices.Contains([]string{"yes", "no", "alone"}, v) {
			return fault("$.data.value", "fault.enum", map[string]any{"value": clip(string(f.Value)), "allowed": "yes, no, alone"})
		}
		return nil
	}
	if f.Phase == PhaseVerify && (f.Finding == verify.Pump || f.Finding == verify.FirmHeight) {
		return verify.CheckByHand(f.Finding, f.Value)
	}
	err := diagnose.CheckFinding(j.Intake.System, diagnose.Finding{ID: f.Finding, Value: f.Value})
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
	if f.withdrawn() {
		delete(at, f.Finding)
		return
	}
	at[f.Finding] = Found{ID: f.Finding, Value: f.Value, Sure: f.Sure, Seq: e.Seq}
}

// ── strokes and fluid ──

// BenchStroked is strokes of the cylinder in the vice, with how it lay and how far it was pushed.
type BenchStroked struct {
	Strokes  int      `json:"strokes,omitempty"`
	StrokeMM *float64 `json:"stroke_mm,omitempty"`
	TiltDeg  *float64 `json:"tilt_deg,omitempty"`
	Fast     *bool    `json:"fast,omitempty"`
}

// Valid implements Body.
func (b *BenchStroked) Valid() error {
	return inRange("$.data.strokes", float64(b.Strokes), 0, mostStrokes)
}

// Check implements Body.
func (b *BenchStroked) Check(*Job) error { return nil }

// Settle keeps how the cylinder lies now.
func (b *BenchStroked) Settle(j *Job) {
	s := j.Choices.Bench
	b.StrokeMM, b.TiltDeg, b.Fast = &s.StrokeMM, &s.TiltDeg, &s.Fast
}

// Apply implements Body.
func (b *BenchStroked) Apply(j *Job, e *Event) {
	j.State.BenchStrokes += max(1, b.Strokes)
	j.State.counted("bench", e)
	j.State.WorkSeq = e.Seq
}

// BleedStroked is strokes of the foot with one bleeder open. What they moved is settled when they are stored:
// nothing that is chosen later rewrites it.
type BleedStroked struct {
	Wheel    string       `json:"wheel"`
	Strokes  int          `json:"strokes,omitempty"`
	Method   bleed.Method `json:"method,omitempty"`
	StrokeMM float64      `json:"stroke_mm,omitempty"`
	CM3      float64      `json:"cm3,omitempty"`
}

// Valid implements Body.
func (b *BleedStroked) Valid() error {
	if err := inRange("$.data.strokes", float64(b.Strokes), 0, mostStrokes); err != nil {
		return err
	}
	if err := inRange("$.data.cm3", b.CM3, 0, mostCM3*mostStrokes); err != nil {
		return err
	}
	return text("$.data.wheel", b.Wheel, nameMost)
}

// Check implements Body.
func (b *BleedStroked) Check(j *Job) error { return j.checkWheel(b.Wheel) }

// Settle works out what the strokes moved.
func (b *BleedStroked) Settle(j *Job) {
	b.Method, b.StrokeMM, b.CM3 = j.Choices.Bleed.Method, j.Choices.Bleed.StrokeMM, 0
	s := j.Fitted()
	if s.Wheel(b.Wheel) == nil {
		return
	}
	if v, err := bleed.StrokeCM3(s, s.CircuitOf(b.Wheel), b.StrokeMM); err == nil && b.Method == bleed.Pedal {
		b.CM3 = v * float64(max(1, b.Strokes))
	}
}

// Apply implements Body.
func (b *BleedStroked) Apply(j *Job, e *Event) {
	j.State.BleedStrokes[b.Wheel] += max(1, b.Strokes)
	j.moved(b.Wheel, b.Method, b.CM3, e)
}

// VolumeMoved is fluid carried through a bleeder by a method without strokes.
type VolumeMoved struct {
	Wheel     string       `json:"wheel"`
	VolumeCM3 float64      `json:"volume_cm3"`
	Method    bleed.Method `json:"method,omitempty"`
}

// Valid implements Body.
func (v *VolumeMoved) Valid() error {
	if err := inRange("$.data.volume_cm3", v.VolumeCM3, 0, mostCM3); err != nil {
		return err
	}
	return text("$.data.wheel", v.Wheel, nameMost)
}

// Check implements Body.
func (v *VolumeMoved) Check(j *Job) error { return j.checkWheel(v.Wheel) }

// Settle keeps the method of the moment.
func (v *VolumeMoved) Settle(j *Job) { v.Method = j.Choices.Bleed.Method }

// Apply implements Body.
func (v *VolumeMoved) Apply(j *Job, e *Event) { j.moved(v.Wheel, v.Method, v.VolumeCM3, e) }

func (j *Job) checkWheel(id string) error {
	if j.Intake.System.Wheel(id) == nil {
		return fault("$.data.wheel", "fault.no_such_wheel", map[string]any{"value": clip(id)})
	}
	return nil
}

// moved takes fluid through a wheel and out of the reservoir (reverse: into it). Where the level falls to the
// lowest port, air goes in from the cylinder on: that circuit's wheels have to be done again.
func (j *Job) moved(wheel string, m bleed.Method, cm3 float64, e *Event) {
	st := &j.State
	st.BleedCM3[wheel] += cm3
	st.counted("bleed", e)
	j.worked(e, string(e.Kind), verify.WorkLine)
	if m == bleed.Reverse {
		st.DrawnCM3 = max(0, st.DrawnCM3-cm3)
		return
	}
	st.DrawnCM3 += cm3
	s := j.Intake.System
	if s == nil {
		return
	}
	full, lowest := bleed.ReservoirCM3(s)
	if full-st.DrawnCM3 >= lowest-1e-9 {
		return
	}
	st.DrawnCM3 = full - lowest // what is below the lowest port stays: air comes instead
	circuit := s.CircuitOf(wheel)
	st.Dry[circuit] = true
	if c := s.Circuit(circuit); c != nil {
		for _, w := range c.Wheels {
			delete(st.BleedCM3, w)
			delete(st.BleedStrokes, w)
			delete(st.Clear, w)
		}
	}
}

// Filled is the reservoir filled to its mark.
type Filled struct {
	ToCM3 float64 `json:"to_cm3,omitempty"`
}

// Valid implements Body.
func (f *Filled) Valid() error { return inRange("$.data.to_cm3", f.ToCM3, 0, mostCM3) }

// Check implements Body: nothing of a class that may not go in is poured in.
func (f *Filled) Check(j *Job) error { return j.checkBottle() }

func (j *Job) checkBottle() error {
	if b := j.bottle(j.UpdatedAt); !b.Allowed {
		return fault("$.data", "fault.fluid_class", map[string]any{"class": j.Choices.Bottle.Class, "wanted": j.Intake.System.Fluid.Class, "why": string(b.Fitness)})
	}
	return nil
}

// Settle keeps where the mark is.
func (f *Filled) Settle(j *Job) { f.ToCM3, _ = bleed.ReservoirCM3(j.Intake.System) }

// Apply implements Body.
func (f *Filled) Apply(j *Job, e *Event) {
	j.State.Refills++
	j.State.DrawnCM3 = 0
	j.State.counted("bleed", e)
	j.worked(e, string(e.Kind), verify.WorkLine)
}

// WheelSeen is a wheel seen to run clear, or (Done false) not clear after all.
type WheelSeen struct {
	Wheel string `json:"wheel"`
	Done  *bool  `json:"done,omitempty"`
}

// Valid implements Body.
func (w *WheelSeen) Valid() error { return text("$.data.wheel", w.Wheel, nameMost) }

// Check implements Body.
func (w *WheelSeen) Check(j *Job) error { return j.checkWheel(w.Wheel) }

// Apply implements Body.
func (w *WheelSeen) Apply(j *Job, e *Event) {
	j.State.Clear[w.Wheel] = w.Done == nil || *w.Done
	j.State.counted("bleed", e)
	j.worked(e, string(e.Kind), verify.WorkLine)
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

// Check implements Body.
func (n *Noted) Check(*Job) error { return nil }

// Apply implements Body.
func (n *Noted) Apply(j *Job, e *Event) {
	if n.Step != "" {
		j.State.StepNotes = append(slices.Clone(j.State.StepNotes), StepNote{Step: n.Step, Text: n.Text, At: e.At, By: e.By.Name, EventID: e.ID})
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
