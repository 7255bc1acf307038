package job

import (
	"maps"
	"math"
	"slices"
	"strings"

	"geminate/brake/stand"
)

// Mineral oil: petroleum swells brake rubber in days, and flushing takes it out of nothing it has soaked into. Every
// rubber part it reached is replaced, named one by one, and then the system is flushed (common practice, no source).

// RubberPart is a rubber part, or a part that comes with its rubber: "cylinder", "reservoir", "modulator", or a wheel's
// hose or brake: "hose:LF", "brake:LF". It is an open list: wheels are named as the vehicle names them.
type RubberPart string

// Rubber parts that are no wheel's.
const (
	RubberCylinder  RubberPart = "cylinder"
	RubberReservoir RubberPart = "reservoir"
	RubberModulator RubberPart = "modulator"
)

// RubberRenewed is one of them replaced.
type RubberRenewed struct {
	Part RubberPart `json:"part"`
}

// Valid implements Body.
func (r *RubberRenewed) Valid() error {
	if r.Part == "" || len(r.Part) > nameMost {
		return fault("$.data.part", "fault.missing", nil)
	}
	return nil
}

// Check implements Body: it is a part of this vehicle.
func (r *RubberRenewed) Check(j *Job) error {
	if all := j.rubberOf(func(string) bool { return true }); !slices.Contains(all, r.Part) {
		return fault("$.data.part", "fault.no_such_part", map[string]any{"value": clip(string(r.Part))})
	}
	for _, p := range j.State.Poured {
		if p.Bottle.Class == PouredOther && p.DrawnAt == 0 {
			return fault("$.data.part", "fault.draw_off_first", nil)
		}
	}
	return nil
}

// Apply implements Body: its line, hose or brake was open.
func (r *RubberRenewed) Apply(j *Job, e *Event) {
	next := maps.Clone(j.State.Renewed)
	if next == nil {
		next = map[RubberPart]int64{}
	}
	next[r.Part] = e.place
	j.State.Renewed = next
	j.worked(e, string(e.Kind), movedThings...)
	j.account().Move(e.when(), movedThings...)
	switch _, wheel, at := strings.Cut(string(r.Part), ":"); {
	case at:
		j.airAtBrake(e.place, wheel, string(e.Kind))
	default:
		j.airFromCylinder(e.place, string(e.Kind))
	}
}

// rubberOf are the rubber parts a fluid reached: reservoir, cylinder and modulator, and of the wheels those it went out
// at.
func (j *Job) rubberOf(reached func(wheel string) bool) []RubberPart {
	out := []RubberPart{RubberReservoir, RubberCylinder}
	if j.Intake.System.Modulator != nil {
		out = append(out, RubberModulator)
	}
	for i := range j.Intake.System.Wheels {
		if id := j.Intake.System.Wheels[i].ID; reached(id) {
			out = append(out, RubberPart("hose:"+id), RubberPart("brake:"+id))
		}
	}
	return out
}

// RubberLeft are the parts that are still to be replaced because mineral oil reached them, in the order of the fluid. A
// cylinder that was put on since came with its own.
func (j *Job) RubberLeft() []RubberPart {
	out := []RubberPart{}
	if j.Intake.System == nil {
		return out
	}
	left := func(since int64, on *stand.Pair, reached func(wheel string) bool) {
		for _, part := range j.rubberOf(reached) {
			if !j.renewed(part, since, on) && !slices.Contains(out, part) {
				out = append(out, part)
			}
		}
	}
	for _, p := range j.State.Poured {
		if p.Bottle.Class == PouredOther {
			since := p.DrawnAt
			if since == 0 { // it stands in the reservoir yet: whatever is renewed now stands in it again
				since = math.MaxInt64
			}
			left(since, p.On, func(w string) bool { return j.account().Wheels[w].ThroughCM3 > p.Through[w] })
		}
	}
	if f := j.swollen(); f != nil { // how far it went nobody knows
		left(f.Seq, f.On, func(string) bool { return true })
	}
	return out
}

// renewed says whether a part was replaced since. Another cylinder that was put on since came with its own rubber; the
// same one, taken off and put back, did not. on is what was on then.
func (j *Job) renewed(part RubberPart, since int64, on *stand.Pair) bool {
	if j.State.Renewed[part] > since {
		return true
	}
	a := j.account()
	anew := func(t stand.Thing) bool { return a.TakenSince(t, since) && a.BackSince(t, since) }
	if on == nil {
		on = &stand.Pair{}
	}
	other := j.account().On()
	cylinder := other.Cylinder != "" && other.Cylinder != on.Cylinder && (anew(stand.Cylinder) || anew(stand.ActuatorBolts))
	return part == RubberCylinder &&
		(cylinder || j.Intake.System.Assist().OnePiece && other.Booster != "" && other.Booster != on.Booster && anew(stand.Firewall))
}

// swollen is the finding of swollen rubber, nil where there is none.
func (j *Job) swollen() *Found {
	const id = "rubber.swollen"
	for _, phase := range []string{PhaseVerify, PhaseDiagnose} {
		if f, told := j.State.Findings[phase][id]; told && stand.EvidenceOf(id).Against(f.Value) && (f.Sure == nil || *f.Sure) {
			return &f
		}
	}
	return nil
}
