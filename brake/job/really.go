package job

import (
	"maps"
	"slices"
	"strings"
	"time"

	"geminate/brake/diagnose"
)

// What it really was: told by whoever took the old unit apart, or by what cured it. It may be told after the release.

// Reality is what it really was.
type Reality struct {
	// Fault is the id of what it was; OtherFault with words where the table has none.
	Fault string    `json:"fault"`
	At    string    `json:"at,omitempty"` // a circuit or a wheel
	Note  string    `json:"note,omitempty"`
	When  time.Time `json:"when"`
	By    string    `json:"by"`
}

// OtherFault is something the table does not know.
const OtherFault = "other"

// ReallyWas tells it.
type ReallyWas struct {
	Fault string `json:"fault"`
	At    string `json:"at,omitempty"`
	Note  string `json:"note,omitempty"`
}

// Valid implements Body.
func (r *ReallyWas) Valid() error {
	if r.Fault == "" || r.Fault == OtherFault && strings.TrimSpace(r.Note) == "" {
		return fault("$.data.note", "fault.missing", nil)
	}
	for path, s := range map[string]string{"fault": r.Fault, "at": r.At, "note": r.Note} {
		if err := text("$.data."+path, s, 4*nameMost); err != nil {
			return err
		}
	}
	return nil
}

// Check implements Body: a system has only what it can have.
func (r *ReallyWas) Check(j *Job) error {
	if r.Fault != OtherFault && !diagnose.CanHave(j.Intake.System, r.Fault) {
		return fault("$.data.fault", "fault.enum", map[string]any{"value": clip(r.Fault), "allowed": "-"})
	}
	return nil
}

// Apply implements Body.
func (r *ReallyWas) Apply(j *Job, e *Event) {
	j.State.Really = &Reality{Fault: r.Fault, At: r.At, Note: strings.TrimSpace(r.Note), When: e.At, By: e.By.Name}
}

// PartSeen is one part of the old unit as it was found.
type PartSeen struct {
	State diagnose.PartState `json:"state"`
	Note  string             `json:"note,omitempty"`
	At    time.Time          `json:"at"`
	By    string             `json:"by"`
}

// PartLookedAt tells one.
type PartLookedAt struct {
	Unit  string             `json:"unit"`
	Part  string             `json:"part"`
	State diagnose.PartState `json:"state"`
	Note  string             `json:"note,omitempty"`
}

// Valid implements Body.
func (p *PartLookedAt) Valid() error {
	if !slices.Contains(diagnose.PartStates, p.State) {
		return fault("$.data.state", "fault.enum", map[string]any{"value": clip(string(p.State)), "allowed": diagnose.PartStates})
	}
	return text("$.data.note", p.Note, 4*nameMost)
}

// Check implements Body.
func (p *PartLookedAt) Check(j *Job) error {
	for _, x := range diagnose.PartsOf(j.Intake.System, p.Unit) {
		if x.ID == p.Part {
			return nil
		}
	}
	return fault("$.data.part", "fault.no_such_part", map[string]any{"value": clip(p.Part)})
}

// Apply implements Body.
func (p *PartLookedAt) Apply(j *Job, e *Event) {
	next := maps.Clone(j.State.Apart)
	if next == nil {
		next = map[string]PartSeen{}
	}
	next[p.Unit+"."+p.Part] = PartSeen{State: p.State, Note: p.Note, At: e.At, By: e.By.Name}
	j.State.Apart = next
}

// ApartView is one part of the old unit on the bench: as it was found, and what it then speaks for.
type ApartView struct {
	diagnose.ApartPart
	Seen *PartSeen `json:"seen"`
	// PointsTo is what the state it was found in points to.
	PointsTo diagnose.PartCause `json:"points_to"`
}

// apart lists the parts of what came off, in the order they come apart.
func (j *Job) apart() []ApartView {
	out := []ApartView{}
	for _, unit := range []string{UnitCylinder, UnitBooster} {
		if !slices.Contains(j.unitsOff(), unit) {
			continue
		}
		for _, p := range diagnose.PartsOf(j.Intake.System, unit) {
			v := ApartView{ApartPart: p}
			if seen, there := j.State.Apart[unit+"."+p.ID]; there {
				v.Seen, v.PointsTo = &seen, diagnose.PointsTo(seen.State)
			}
			out = append(out, v)
		}
	}
	return out
}

// spoken are the faults the parts found worn or damaged speak for, those with the most parts first.
func (j *Job) spoken() []string {
	count := map[string]int{}
	for _, v := range j.apart() {
		if v.Seen == nil || v.Seen.State == diagnose.PartSound {
			continue
		}
		for i, id := range v.SpeaksFor(v.Seen.State, j.Intake.System) { // the first it speaks for most
			count[id]++
			if i == 0 {
				count[id]++
			}
		}
	}
	ids := sortedKeys(count)
	slices.SortStableFunc(ids, func(a, b string) int { return count[b] - count[a] })
	return ids
}
