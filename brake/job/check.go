package job

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"sort"
	"strings"
	"time"
	"unicode/utf8"

	"geminate/brake/bleed"
	"geminate/brake/diagnose"
	"geminate/brake/match"
	"geminate/brake/plan"
	"geminate/brake/system"
	"geminate/brake/twin"
	"geminate/brake/units"
	"geminate/brake/verify"
)

func sortedKeys[V any](m map[string]V) []string {
	out := make([]string, 0, len(m))
	for k := range m {
		out = append(out, k)
	}
	sort.Strings(out)
	return out
}

const longText = 4000

// CheckIntake lists everything wrong with an intake, each fault naming its field.
func CheckIntake(in *Intake) error {
	var out system.Faults
	add := func(path, code string, with map[string]any) {
		out = append(out, system.Fault{Path: path, Code: code, With: with})
	}
	for path, v := range map[string]string{"$.customer": in.Customer, "$.complaint": in.Complaint, "$.vehicle": in.Vehicle, "$.plate": in.Plate, "$.done_before": in.DoneBefore, "$.maker_notes": in.MakerTorqueNotes} {
		if utf8.RuneCountInString(v) > longText {
			add(path, "fault.too_long", map[string]any{"max": longText})
		}
	}
	if strings.TrimSpace(in.Vehicle) == "" {
		add("$.vehicle", "fault.missing", nil)
	}
	if !(in.DistanceKM >= 0 && in.DistanceKM <= 5e6) {
		add("$.distance_km", "fault.range", map[string]any{"value": in.DistanceKM, "min": 0, "max": 5e6})
	}
	if !(in.LastServiceKM >= 0 && in.LastServiceKM <= 5e6) {
		add("$.last_service_km", "fault.range", map[string]any{"value": in.LastServiceKM, "min": 0, "max": 5e6})
	} else if in.LastServiceKM > in.DistanceKM && in.DistanceKM > 0 {
		add("$.last_service_km", "fault.after_now", map[string]any{"value": in.LastServiceKM, "now": in.DistanceKM})
	}
	if in.LastServiceAt != "" {
		if _, err := time.Parse(time.DateOnly, in.LastServiceAt); err != nil {
			add("$.last_service_at", "fault.date", map[string]any{"value": in.LastServiceAt})
		}
	}
	if in.Hands < 0 || in.Hands > 4 {
		add("$.hands", "fault.range", map[string]any{"value": in.Hands, "min": 1, "max": 4})
	}
	tools := []string{}
	if in.Tools != nil {
		tools = *in.Tools
	}
	for i, t := range tools {
		if !slices.Contains(diagnose.Tools, t) {
			add(fmt.Sprintf("$.tools[%d]", i), "fault.enum", map[string]any{"value": t, "allowed": strings.Join(diagnose.Tools, ", ")})
		}
	}
	if in.System == nil {
		add("$.system", "fault.missing", nil)
	}
	return out.Err()
}

// CheckChoices says what is wrong with the choices for a system.
func CheckChoices(s *system.System, c *Choices) error {
	var out system.Faults
	add := func(path, code string, with map[string]any) {
		out = append(out, system.Fault{Path: path, Code: code, With: with})
	}
	if !slices.Contains(match.Scopes(s), c.Scope) {
		add("$.scope", "fault.enum", map[string]any{"value": c.Scope, "allowed": fmt.Sprint(match.Scopes(s))})
	}
	for name, u := range map[string]*match.Unit{"old_unit": c.Old, "unit": c.Unit, "own_unit": c.Own, "old_booster": c.OldBooster, "booster": c.Booster} {
		if u != nil {
			checkUnit("$."+name, u, add)
		}
	}
	if c.Costs != nil {
		costs := (&Job{Choices: *c}).Costs()
		var faults system.Faults
		if errors.As(costs.Check(), &faults) {
			for _, f := range faults {
				add("$.costs"+strings.TrimPrefix(f.Path, "$"), f.Code, f.With)
			}
		}
	}
	if err := checkBench(s, c); err != nil {
		add("$.bench", "fault.detail", map[string]any{"detail": err.Error()})
	}
	if b := c.Bench; !(b.TiltDeg >= -45 && b.TiltDeg <= 45) {
		add("$.bench.tilt_deg", "fault.range", map[string]any{"value": b.TiltDeg, "min": -45, "max": 45})
	} else if !(b.StrokeMM > 0 && b.StrokeMM <= 100) {
		add("$.bench.stroke_mm", "fault.range", map[string]any{"value": b.StrokeMM, "min": 1, "max": 100})
	}
	if c.Scope.OpensHydraulics() {
		if _, err := bleed.Make(s, c.Bleed.options()); err != nil {
			add("$.bleed", "fault.detail", map[string]any{"detail": err.Error()})
		}
	}
	return out.Err()
}

func checkUnit(path string, u *match.Unit, add func(string, string, map[string]any)) {
	for _, f := range match.CheckUnit(u) {
		add(path+strings.TrimPrefix(f.Path, "$"), f.Code, f.With)
	}
}

func (b BleedSetup) options() bleed.Options {
	return bleed.Options{Method: b.Method, DriveKPA: b.DriveKPA, HeadMM: b.HeadMM, TemperatureC: b.TemperatureC, OldFraction: b.OldFraction, StrokeMM: b.StrokeMM, Order: b.Order, Given: b.Given}
}

// ErrGate is a step that may not be ticked yet; Missing names what stands before it.
type ErrGate struct{ Missing []string }

func (e ErrGate) Error() string { return "job: gates open: " + strings.Join(e.Missing, ", ") }

// CheckEvent says whether an event makes sense for the job as it stands.
func (j *Job) CheckEvent(e Event) error {
	bad := func(path, code string, with map[string]any) error {
		return system.Faults{{Path: path, Code: code, With: with}}
	}
	if e.ID == "" || len(e.ID) > 64 {
		return bad("$.id", "fault.event_id", nil)
	}
	d := e.Data
	s := j.Intake.System
	if s == nil {
		return bad("$", "fault.no_system", nil)
	}
	switch e.Kind {
	case KindFinding:
		return j.checkFinding(d)
	case KindTick:
		return j.checkTick(d)
	case KindBenchStroke:
		if d.Strokes < 0 || d.Strokes > 100 {
			return bad("$.data.strokes", "fault.range", map[string]any{"value": d.Strokes, "min": 1, "max": 100})
		}
	case KindBleedStroke, KindBleedVolume, KindWheelClear:
		if s.Wheel(d.Wheel) == nil {
			return bad("$.data.wheel", "fault.no_such_wheel", map[string]any{"value": d.Wheel})
		}
		if d.Strokes < 0 || d.Strokes > 100 {
			return bad("$.data.strokes", "fault.range", map[string]any{"value": d.Strokes, "min": 1, "max": 100})
		}
		if d.VolumeCM3 < 0 || d.VolumeCM3 > 5000 {
			return bad("$.data.volume_cm3", "fault.range", map[string]any{"value": d.VolumeCM3, "min": 0, "max": 5000})
		}
	case KindRefill, KindReopened:
	case KindNote:
		if strings.TrimSpace(d.Text) == "" || utf8.RuneCountInString(d.Text) > longText {
			return bad("$.data.text", "fault.too_long", map[string]any{"max": longText})
		}
	case KindUndo:
		i := slices.IndexFunc(j.Events, func(x Event) bool { return x.ID == d.Of })
		if i < 0 {
			return bad("$.data.of", "fault.no_such_event", map[string]any{"value": d.Of})
		}
		// Undoing a reopening would release a vehicle past its gate.
		if k := j.Events[i].Kind; k == KindReleased || k == KindReopened {
			return bad("$.data.of", "fault.release_not_undone", nil)
		}
	default:
		return bad("$.kind", "fault.enum", map[string]any{"value": e.Kind, "allowed": "finding, tick, bench_stroke, bleed_stroke, bleed_volume, refill, wheel_clear, note, undo, reopened"})
	}
	return nil
}

func (j *Job) checkFinding(d Data) error {
	bad := func(path, code string, with map[string]any) error {
		return system.Faults{{Path: path, Code: code, With: with}}
	}
	if d.Phase != PhaseDiagnose && d.Phase != PhaseVerify {
		return bad("$.data.phase", "fault.enum", map[string]any{"value": d.Phase, "allowed": "diagnose, verify"})
	}
	if len(d.Value) == 0 || string(d.Value) == "null" {
		return nil // withdrawn
	}
	const longest = 16 << 10 // bytes; the longest real one is a list of readings
	if len(d.Value) > longest {
		return bad("$.data.value", "fault.too_large", map[string]any{"max_bytes": longest})
	}
	if d.Phase == PhaseVerify && slices.Contains(verify.Checks, d.Finding) {
		var v string
		if err := json.Unmarshal(d.Value, &v); err != nil || !slices.Contains([]string{"yes", "no", "alone"}, v) {
			return bad("$.data.value", "fault.enum", map[string]any{"value": string(d.Value), "allowed": "yes, no, alone"})
		}
		return nil
	}
	err := diagnose.CheckFinding(j.Intake.System, diagnose.Finding{ID: d.Finding, Value: d.Value})
	var f system.Fault
	if errors.As(err, &f) {
		f.Path = "$.data" + strings.TrimPrefix(f.Path, "$")
		return system.Faults{f}
	}
	return err
}

func (j *Job) checkTick(d Data) error {
	bad := func(path, code string, with map[string]any) error {
		return system.Faults{{Path: path, Code: code, With: with}}
	}
	p, err := j.Plan()
	if err != nil {
		return err
	}
	st := j.Fold()
	missing, err := p.Missing(d.Step, st.Done())
	if err != nil {
		return bad("$.data.step", "fault.no_such_step", map[string]any{"value": d.Step})
	}
	if d.Done != nil && !*d.Done {
		return nil
	}
	if len(missing) > 0 {
		return ErrGate{missing}
	}
	i := slices.IndexFunc(p.Steps, func(s plan.Step) bool { return s.ID == d.Step })
	if p.Steps[i].Measure == "pushrod" {
		if d.Rod == nil {
			return bad("$.data.rod", "fault.missing", nil)
		}
		if _, err := j.Rod(d.Rod); err != nil {
			return bad("$.data.rod", "fault.detail", map[string]any{"detail": err.Error()})
		}
	}
	if d.TorqueNM != nil && !(*d.TorqueNM > 0 && *d.TorqueNM < 2000) {
		return bad("$.data.torque_nm", "fault.range", map[string]any{"value": *d.TorqueNM, "min": 0, "max": 2000})
	}
	if t := p.Steps[i].Torque; t != nil && d.TorqueNM != nil {
		// Inch-pounds taken for foot-pounds, or the reverse, is never a torque to store.
		if r := judge(*d.TorqueNM, t); r.Verdict == units.TorqueTwelveHigh || r.Verdict == units.TorqueTwelveLow {
			return bad("$.data.torque_nm", "torque."+string(r.Verdict), nil)
		}
	}
	return nil
}

// Rod computes a pushrod measurement on the job's vehicle.
func (j *Job) Rod(r *Rod) (twin.Pushrod, error) {
	s := j.Fitted()
	ratio := 1.0
	if s.Pedal != nil {
		ratio = s.Pedal.Ratio
	}
	return twin.PushrodGap(r.PocketMM, r.GasketMM, r.ProtrusionMM, r.PitchMM, r.TargetMM, ratio, s.MasterCylinder.Primary.CutoffMM)
}

// Plan makes the job's work plan.
func (j *Job) Plan() (*plan.Plan, error) {
	if j.Intake.System == nil {
		return nil, system.Faults{{Path: "$.intake.system", Code: "fault.missing"}}
	}
	return plan.Make(j.Intake.System, plan.Choices{Scope: j.Choices.Scope, Unit: j.Choices.Unit, Old: j.Choices.Old, BenchOnVehicle: j.Choices.BenchOnVehicle, LinesLoose: j.Choices.LinesLoose})
}

// Fitted is the vehicle as it will be: faults repaired, the chosen unit on.
func (j *Job) Fitted() *system.System {
	s := match.Sound(j.Intake.System)
	if j.Choices.Unit != nil && j.Choices.Scope.FitsCylinder() {
		s = match.Fitted(s, *j.Choices.Unit)
	}
	if j.Choices.Booster != nil && j.Choices.Scope.FitsBooster() {
		s = match.FittedBooster(s, *j.Choices.Booster)
	}
	return s
}

// MaxBytes is the largest job file the reader looks at.
const MaxBytes = 16 << 20

// Parse reads a geminate.job/1 file strictly: the system inside it passes the same reader as any
// other, and nothing is partly accepted. Events are history and are kept as they are, each under an
// id of its own; one that no longer fits the system counts for nothing when the job is folded.
func Parse(data []byte) (*Job, error) {
	if len(data) > MaxBytes {
		return nil, system.Faults{{Path: "$", Code: "fault.too_large", With: map[string]any{"max_bytes": MaxBytes}}}
	}
	var raw struct {
		Intake struct {
			System json.RawMessage `json:"system"`
		} `json:"intake"`
	}
	var j Job
	d := json.NewDecoder(bytes.NewReader(data))
	d.DisallowUnknownFields()
	err := d.Decode(&j)
	if err == nil {
		if _, e := d.Token(); !errors.Is(e, io.EOF) {
			err = errors.New("something follows the end of the document")
		}
	}
	if err == nil {
		err = json.Unmarshal(data, &raw)
	}
	if err != nil {
		return nil, system.Faults{{Path: "$", Code: "fault.syntax", With: map[string]any{"line": 1 + bytes.Count(data[:min(int(d.InputOffset()), len(data))], []byte("\n")), "detail": err.Error()}}}
	}
	var out system.Faults
	if j.Format != Format {
		out = append(out, system.Fault{Path: "$.format", Code: "fault.enum", With: map[string]any{"value": j.Format, "allowed": Format}})
	}
	under := func(prefix string, err error) {
		var ff system.Faults
		if errors.As(err, &ff) {
			for _, f := range ff {
				f.Path = prefix + strings.TrimPrefix(f.Path, "$")
				out = append(out, f)
			}
		} else if err != nil {
			out = append(out, system.Fault{Path: prefix, Code: "fault.detail", With: map[string]any{"detail": err.Error()}})
		}
	}
	if len(raw.Intake.System) > 0 && string(raw.Intake.System) != "null" {
		_, err := system.Parse(raw.Intake.System)
		under("$.intake.system", err)
	}
	under("$.intake", CheckIntake(&j.Intake))
	if len(out) == 0 {
		under("$.choices", CheckChoices(j.Intake.System, &j.Choices))
	}
	seen := map[string]bool{}
	for i, e := range j.Events {
		if seen[e.ID] || e.ID == "" {
			out = append(out, system.Fault{Path: fmt.Sprintf("$.events[%d].id", i), Code: "fault.event_id"})
		}
		seen[e.ID] = true
	}
	if len(out) > 0 {
		return nil, out
	}
	return &j, nil
}
