package job

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"sort"
	"strings"
	"time"
	"unicode/utf8"

	"geminate/brake/bleed"
	"geminate/brake/match"
	"geminate/brake/system"
	"geminate/brake/twin"
)

func sortedKeys[V any](m map[string]V) []string {
	out := make([]string, 0, len(m))
	for k := range m {
		out = append(out, k)
	}
	sort.Strings(out)
	return out
}

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
	if in.PedalFrom != "" {
		if _, err := time.Parse(time.DateOnly, in.PedalFrom); err != nil {
			add("$.pedal_from", "fault.date", map[string]any{"value": clip(in.PedalFrom)})
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
		if !slices.Contains(Tools, t) {
			add(fmt.Sprintf("$.tools[%d]", i), "fault.enum", map[string]any{"value": t, "allowed": strings.Join(Tools, ", ")})
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
	if !slices.Contains(match.Scopes(s), match.Resolve(s, c.Scope)) {
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
	checkJoint(s, c.Joint, add)
	if err := checkBench(s, c); err != nil {
		add("$.bench", "fault.detail", map[string]any{"detail": err.Error()})
	}
	if b := c.Bench; !(b.TiltDeg >= -45 && b.TiltDeg <= 45) {
		add("$.bench.tilt_deg", "fault.range", map[string]any{"value": b.TiltDeg, "min": -45, "max": 45})
	} else if !(b.StrokeMM >= 1 && b.StrokeMM <= 100) {
		add("$.bench.stroke_mm", "fault.range", map[string]any{"value": b.StrokeMM, "min": 1, "max": 100})
	}
	if match.Resolve(s, c.Scope).OpensHydraulics() {
		if _, err := bleed.Make(s, c.Bleed.options(s, 0)); err != nil {
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

// options are the plan's as set up: what the job's own past adds comes with it.
func (b BleedSetup) options(s *system.System, hands int) bleed.Options {
	o := bleed.Options{Method: b.Method, DriveKPA: b.DriveKPA, HeadMM: b.HeadMM, TemperatureC: b.TemperatureC, OldFraction: b.OldFraction, StrokeMM: b.StrokeMM, Order: b.Order, Given: b.Given,
		Purpose: b.Purpose, FeedBottle: b.FeedBottle}
	if o.Method == "" {
		o.Method = bleed.ForSystem(s, hands)
		o.DriveKPA = cmp.Or(bleed.UsualDriveKPA(o.Method), o.DriveKPA)
	}
	return o
}

// ErrGate is a step that may not be ticked yet; Missing names what stands before it.
type ErrGate struct{ Missing []string }

func (e ErrGate) Error() string { return "job: gates open: " + strings.Join(e.Missing, ", ") }

// Rod computes a pushrod measurement on the job's vehicle.
func (j *Job) Rod(r *Rod) (twin.Pushrod, error) {
	s := j.Fitted()
	ratio := 1.0
	if s.Pedal != nil {
		ratio = s.Pedal.Ratio
	}
	return twin.PushrodGap(r.PocketMM, r.GasketMM, r.ProtrusionMM, r.PitchMM, r.TargetMM, ratio, s.MasterCylinder.Primary.CutoffMM)
}

// Fitted is the vehicle as it will be: faults repaired, the chosen unit on.
func (j *Job) Fitted() *system.System {
	s := match.Sound(j.Intake.System)
	unit, booster := j.unitsOn()
	if unit != nil {
		s = match.Fitted(s, *unit)
	}
	if booster != nil {
		s = match.FittedBooster(s, *booster)
	}
	return s
}

// unitsOn are the chosen units that the work puts on, nil where the old one stays or none is chosen.
func (j *Job) unitsOn() (unit, booster *match.Unit) {
	if j.putsOnCylinder() || j.scope() == match.ElectroUnit {
		unit = j.Choices.Unit
	}
	if j.putsOnBooster() {
		booster = j.Choices.Booster
	}
	return unit, booster
}
