package diagnose

import (
	"slices"

	"geminate/brake/system"
)

// The old unit taken apart on the bench: its parts in the order they come off, and what each speaks for when it is worn
// or damaged (common practice, no source).

// Units a teardown is of.
const (
	ApartCylinder = "cylinder"
	ApartBooster  = "booster"
)

// PartState is a part of the old unit as it was found.
type PartState string

// States of a part. Damaged is what records from before say; it is not offered any more.
const (
	PartSound    PartState = "sound"
	PartWorn     PartState = "worn"
	PartCorroded PartState = "corroded"
	PartSwollen  PartState = "swollen"
	PartScored   PartState = "scored"
	PartHardened PartState = "hardened"
	PartMissing  PartState = "missing"
	PartNotThis  PartState = "not_this_ones"
	PartDamaged  PartState = "damaged"
)

// PartStates lists them.
var PartStates = []PartState{
	PartSound,
	PartWorn,
	PartCorroded,
	PartSwollen,
	PartScored,
	PartHardened,
	PartMissing,
	PartNotThis,
	PartDamaged,
}

// PartCause is what a state of a part points to.
type PartCause string

// Causes.
const (
	CauseNone      PartCause = ""
	CauseUse       PartCause = "use"
	CauseWater     PartCause = "water"
	CausePetroleum PartCause = "petroleum"
	CauseDirt      PartCause = "dirt"
	CauseAge       PartCause = "age"
	CauseLeftOut   PartCause = "left_out"
	CauseWrongPart PartCause = "wrong_part"
)

// pointsTo is what each state points to, and the fault it speaks for besides its part's own (common practice, no
// source: oil swells the rubber, water rusts the metal, heat and years harden the rubber, dirt scores).
var pointsTo = map[PartState]struct {
	cause PartCause
	fault string
}{
	PartSound:    {},
	PartWorn:     {CauseUse, ""},
	PartDamaged:  {},
	PartCorroded: {CauseWater, "fluid.wet"},
	PartSwollen:  {CausePetroleum, "fluid.petroleum"},
	PartScored:   {CauseDirt, ""},
	PartHardened: {CauseAge, ""},
	PartMissing:  {CauseLeftOut, "mc.wrong_variant"},
	PartNotThis:  {CauseWrongPart, "mc.wrong_variant"},
}

// PointsTo is what a state points to; "" where it points to nothing.
func PointsTo(s PartState) PartCause { return pointsTo[s].cause }

// SpeaksFor are the faults a part speaks for as it was found, what it speaks for most first; none where it is sound.
func (p ApartPart) SpeaksFor(state PartState, s *system.System) []string {
	out := []string{}
	if state == PartSound {
		return out
	}
	if own := pointsTo[state].fault; own != "" && CanHave(s, own) {
		out = append(out, own)
	}
	if state != PartMissing && state != PartNotThis { // what is not there has not failed
		for _, id := range p.Speaks {
			if !slices.Contains(out, id) {
				out = append(out, id)
			}
		}
	}
	return out
}

// ApartPart is one part that is looked at.
type ApartPart struct {
	Unit string `json:"unit"`
	ID   string `json:"id"`
	// Speaks are the faults it speaks for.
	Speaks []string `json:"speaks"`
	// States it can be found in.
	States []PartState `json:"states"`
	rubber bool
	has    func(*system.System) bool
}

// What rubber and what metal can be found as.
var (
	ofRubber = []PartState{PartSound, PartWorn, PartSwollen, PartHardened, PartMissing, PartNotThis}
	ofMetal  = []PartState{PartSound, PartWorn, PartCorroded, PartScored, PartMissing, PartNotThis}
)

// ApartParts lists them in the order they come apart.
var ApartParts = []ApartPart{
	{Unit: ApartCylinder, ID: "cap_seal", Speaks: []string{"fluid.wet"}, rubber: true},
	{Unit: ApartCylinder, ID: "strainer", Speaks: []string{"mc.port_blocked", "fluid.petroleum"}},
	{Unit: ApartCylinder, ID: "reservoir", Speaks: []string{"mc.reservoir_leak"}},
	{Unit: ApartCylinder, ID: "union", Speaks: []string{"mc.reservoir_leak"}},
	{Unit: ApartCylinder, ID: "grommets", Speaks: []string{"mc.reservoir_leak", "fluid.petroleum"}, rubber: true},
	{Unit: ApartCylinder, ID: "hoses_clamps", Speaks: []string{"mc.reservoir_leak"}, rubber: true},
	{Unit: ApartCylinder, ID: "outside", Speaks: []string{"circuit.line_leak"}},
	{Unit: ApartCylinder, ID: "circlip", Speaks: []string{"mc.piston_seized"}},
	{Unit: ApartCylinder, ID: "stop_pin", Speaks: []string{"mc.piston_seized"}, has: tandemOnly},
	{Unit: ApartCylinder, ID: "rear_seal", Speaks: []string{"mc.rear_seal_leak"}, rubber: true},
	{Unit: ApartCylinder, ID: "primary_cup", Speaks: []string{"mc.primary_cup_bypass", "fluid.petroleum"}, rubber: true},
	{
		Unit:   ApartCylinder,
		ID:     "secondary_cup",
		Speaks: []string{"mc.secondary_cup_bypass", "fluid.petroleum"},
		rubber: true,
		has:    tandemOnly,
	},
	{Unit: ApartCylinder, ID: "springs", Speaks: []string{"mc.piston_seized"}},
	{Unit: ApartCylinder, ID: "bore", Speaks: []string{"mc.bore_corroded"}},
	{Unit: ApartBooster, ID: "shell", Speaks: []string{"hydraulic.housing_leak"}},
	{Unit: ApartBooster, ID: "diaphragm", Speaks: []string{"vacuum.diaphragm_leak", "vacuum.fluid_inside"}, rubber: true, has: withVacuum},
	{Unit: ApartBooster, ID: "valve", Speaks: []string{"vacuum.valve_leak", "hydraulic.valve_stuck"}},
	{Unit: ApartBooster, ID: "input_seal", Speaks: []string{"hydraulic.input_seal_leak"}, rubber: true, has: withPressure},
	{Unit: ApartBooster, ID: "rod", Speaks: []string{"rod.too_long", "rod.too_short"}},
}

// PartsOf are the parts of a unit of this system, each speaking only for what the system can have.
func PartsOf(s *system.System, unit string) []ApartPart {
	var out []ApartPart
	for _, p := range ApartParts {
		if p.Unit != unit || p.has != nil && !p.has(s) {
			continue
		}
		q := p
		q.Speaks, q.States = []string{}, ofMetal
		if p.rubber {
			q.States = ofRubber
		}
		for _, id := range p.Speaks {
			if f := findFault(id); f != nil && (f.Applies == nil || f.Applies(s)) {
				q.Speaks = append(q.Speaks, id)
			}
		}
		out = append(out, q)
	}
	return out
}

// CanHave says whether a system can have a fault of this name.
func CanHave(s *system.System, id string) bool {
	f := findFault(id)
	return f != nil && (f.Applies == nil || f.Applies(s))
}

// Known says whether there is a fault of this name.
func Known(id string) bool { return findFault(id) != nil }
