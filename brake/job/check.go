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
	addAll := func(under string, err error) { out = append(out, faultsUnder(under, err)...) }
	for path, v := range map[string]string{"$.customer": in.Customer, "$.complaint": in.Complaint, "$.vehicle": in.Vehicle, "$.plate": in.Plate, "$.done_before": in.DoneBefore, "$.maker_notes": in.MakerTorqueNotes} {
		if utf8.RuneCountInString(v) > longText {
			add(path, "fault.too_long", map[string]any{"max": longText})
		}
	}
	if strings.TrimSpace(in.Vehicle) == "" {
		add("$.vehicle", "fault.missing", nil)
	}
	if err := inField("$.distance_km", "intake.distance_km", in.DistanceKM); err != nil {
		addAll("", err)
	}
	if err := inField("$.last_service_km", "intake.distance_km", in.LastServiceKM); err != nil {
		addAll("", err)
	} else if in.LastServiceKM > in.DistanceKM && in.DistanceKM > 0 {
		add("$.last_service_km", "fault.after_now", map[string]any{"value": in.LastServiceKM, "now": in.DistanceKM})
	}
	if in.LastServiceAt != "" {
		if _, err := time.Parse(time.DateOnly, in.LastServiceAt); err != nil {
			add("$.last_service_at", "fault.date", map[string]any{"value": in.LastServiceAt})
		}
	}
	out = append(out, in.Planned.check()...)
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
	addAll := func(under string, err error) { out = append(out, faultsUnder(under, err)...) }
	if !slices.Contains(match.Scopes(s), match.Resolve(s, c.Scope)) {
		add("$.scope", "fault.enum", map[string]any{"value": c.Scope, "allowed": fmt.Sprint(match.Scopes(s))})
	}
	for name, u := range map[string]*match.Unit{"old_unit": c.Old, "unit": c.Unit, "own_unit": c.Own, "own_booster": c.OwnBooster, "old_booster": c.OldBooster, "booster": c.Booster} {
		if u != nil {
			checkUnit("$."+name, u, add)
		}
	}
	if c.Costs != nil {
		costs := (&Job{Choices: *c}).Costs()
		addAll("$.costs", costs.Check())
	}
	checkJoint(s, c.Joint, add)
	if err := checkBench(s, c); err != nil {
		add("$.bench", "fault.detail", map[string]any{"detail": err.Error()})
	}
	addAll("", inField("$.bench.tilt_deg", "bench.tilt_deg", c.Bench.TiltDeg))
	addAll("", inField("$.bench.stroke_mm", "bench.stroke_mm", c.Bench.StrokeMM))
	for path, w := range map[string]*float64{"bottle.water_percent": c.Bottle.WaterPercent, "bleed.water_percent": c.Bleed.WaterPercent} {
		if w != nil {
			addAll("", inField("$."+path, path, *w))
		}
	}
	if match.Resolve(s, c.Scope).OpensHydraulics() {
		if _, err := bleed.Make(s, c.Bleed.options(s, 0)); err != nil &&
			!bleed.Stuck(err) { // what a vehicle makes of a way is told where it is worked
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
	o := bleed.Options{
		Method:       b.Method,
		DriveKPA:     b.DriveKPA,
		HeadMM:       b.HeadMM,
		TemperatureC: b.TemperatureC,
		OldFraction:  b.OldFraction,
		StrokeMM:     b.StrokeMM,
		Order:        b.Order,
		Given:        b.Given,
		Purpose:      b.Purpose,
		FeedBottle:   b.FeedBottle,
	}
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

// faultsUnder are the faults of an error, their paths put under a path ("$.costs") where one is given.
func faultsUnder(under string, err error) (out system.Faults) {
	var faults system.Faults
	if !errors.As(err, &faults) {
		return nil
	}
	for _, f := range faults {
		if under != "" {
			f.Path = under + strings.TrimPrefix(f.Path, "$")
		}
		out = append(out, f)
	}
	return out
}
