package diagnose

import "geminate/brake/system"

// The old unit taken apart on the bench: its parts in the order they come off, and what each speaks for when it is worn or
// damaged (common practice, no source).

// Units a teardown is of.
const (
	ApartCylinder = "cylinder"
	ApartBooster  = "booster"
)

// States of a part.
const (
	PartSound   = "sound"
	PartWorn    = "worn"
	PartDamaged = "damaged"
)

// PartStates lists them.
var PartStates = []string{PartSound, PartWorn, PartDamaged}

// ApartPart is one part that is looked at.
type ApartPart struct {
	Unit string `json:"unit"`
	ID   string `json:"id"`
	// Speaks are the faults it speaks for.
	Speaks []string `json:"speaks"`
	has    func(*system.System) bool
}

// ApartParts lists them in the order they come apart.
var ApartParts = []ApartPart{
	{ApartCylinder, "cap_seal", []string{"fluid.wet"}, nil},
	{ApartCylinder, "strainer", []string{"mc.port_blocked", "fluid.petroleum"}, nil},
	{ApartCylinder, "reservoir", []string{"mc.reservoir_leak"}, nil},
	{ApartCylinder, "union", []string{"mc.reservoir_leak"}, nil},
	{ApartCylinder, "grommets", []string{"mc.reservoir_leak", "fluid.petroleum"}, nil},
	{ApartCylinder, "hoses_clamps", []string{"mc.reservoir_leak"}, nil},
	{ApartCylinder, "outside", []string{"circuit.line_leak"}, nil},
	{ApartCylinder, "circlip", []string{"mc.piston_seized"}, nil},
	{ApartCylinder, "stop_pin", []string{"mc.piston_seized"}, tandemOnly},
	{ApartCylinder, "rear_seal", []string{"mc.rear_seal_leak"}, nil},
	{ApartCylinder, "primary_cup", []string{"mc.primary_cup_bypass", "fluid.petroleum"}, nil},
	{ApartCylinder, "secondary_cup", []string{"mc.secondary_cup_bypass", "fluid.petroleum"}, tandemOnly},
	{ApartCylinder, "springs", []string{"mc.piston_seized"}, nil},
	{ApartCylinder, "bore", []string{"mc.bore_corroded"}, nil},
	{ApartBooster, "shell", []string{"hydraulic.housing_leak"}, nil},
	{ApartBooster, "diaphragm", []string{"vacuum.diaphragm_leak", "vacuum.fluid_inside"}, boosted(system.BoosterVacuum)},
	{ApartBooster, "valve", []string{"vacuum.valve_leak", "hydraulic.valve_stuck"}, nil},
	{ApartBooster, "input_seal", []string{"hydraulic.input_seal_leak"}, boosted(system.BoosterHydraulic, system.BoosterElectroHydraulic)},
	{ApartBooster, "rod", []string{"rod.too_long", "rod.too_short"}, nil},
}

// PartsOf are the parts of a unit of this system, each speaking only for what the system can have.
func PartsOf(s *system.System, unit string) []ApartPart {
	var out []ApartPart
	for _, p := range ApartParts {
		if p.Unit != unit || p.has != nil && !p.has(s) {
			continue
		}
		q := p
		q.Speaks = []string{}
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
