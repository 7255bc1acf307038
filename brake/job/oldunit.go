package job

import (
	"maps"
	"slices"
	"time"
)

// What may become of a unit that came off: kept where spares are scarce, returned for its core charge, sent to be
// rebuilt and come back, thrown away (common practice, no source).
const (
	WentKept     = "kept"
	WentReturned = "core_returned"
	WentRebuild  = "to_rebuild"
	WentScrap    = "scrapped"
)

// Went lists them.
var Went = []string{WentReturned, WentKept, WentRebuild, WentScrap}

// The units a job takes off.
const (
	UnitCylinder = "cylinder"
	UnitBooster  = "booster"
)

// OldUnit is what became of one, by whom and when.
type OldUnit struct {
	Went string    `json:"went"`
	Note string    `json:"note,omitempty"` // to whom, which shelf, the receipt's number
	At   time.Time `json:"at"`
	By   string    `json:"by"`
}

// OldUnitWent tells it. It may still be told after the release: cores are returned when the van comes.
type OldUnitWent struct {
	Unit string `json:"unit"`
	Went string `json:"went"`
	Note string `json:"note,omitempty"`
}

// Valid implements Body.
func (o *OldUnitWent) Valid() error {
	if o.Unit != UnitCylinder && o.Unit != UnitBooster {
		return fault("$.data.unit", "fault.enum", map[string]any{"value": clip(o.Unit), "allowed": "cylinder, booster"})
	}
	if !slices.Contains(Went, o.Went) {
		return fault("$.data.went", "fault.enum", map[string]any{"value": clip(o.Went), "allowed": Went})
	}
	return text("$.data.note", o.Note, 4*nameMost)
}

// Check implements Body: what did not come off went nowhere.
func (o *OldUnitWent) Check(j *Job) error {
	if !slices.Contains(j.unitsOff(), o.Unit) {
		return fault("$.data.unit", "fault.not_taken_off", nil)
	}
	return nil
}

// Apply implements Body.
func (o *OldUnitWent) Apply(j *Job, e *Event) {
	next := maps.Clone(j.State.OldUnits)
	if next == nil {
		next = map[string]OldUnit{}
	}
	next[o.Unit] = OldUnit{Went: o.Went, Note: o.Note, At: e.At, By: e.By.Name}
	j.State.OldUnits = next
}

// unitsOff are the units this job replaces.
func (j *Job) unitsOff() []string {
	out := []string{}
	if j.putsOnCylinder() {
		out = append(out, UnitCylinder)
	}
	if j.putsOnBooster() {
		out = append(out, UnitBooster)
	}
	return out
}
