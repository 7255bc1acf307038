package match

import (
	"slices"
	"strings"

	"geminate/brake/system"
)

// Words a unit's choices may hold; the empty one is "not known".
var (
	UnitKinds  = []string{MasterCylinder, VacuumBooster, HydraulicBooster, ElectroBooster}
	Conditions = []string{"new", "rebuilt", "used"}
	Positions  = []string{"front", "rear", "third"}
	Sides      = []string{"left", "right", "below"}
	Seats      = []string{"inverted_flare", "bubble", "banjo"}
	FaceSeals  = []string{"o_ring", "gasket", "none"}
	Sensors    = []string{"none", "two_pin", "three_pin"}
	Variants   = []string{"plain", "abs"}
	Reservoirs = []string{"included", "reuse", "remote"}
	BrakeKinds = []string{"disc", "drum", "disc_drum"}
	Valves     = []string{"left", "right", "top", "none"}
)

// CheckUnit lists what is wrong with a unit, each fault with its JSON path.
func CheckUnit(u *Unit) system.Faults {
	var out system.Faults
	num := func(field string, v *float64, lo, hi float64) {
		if v != nil && !(*v >= lo && *v <= hi) {
			out = append(out, system.Fault{Path: "$." + field, Code: "fault.range", With: map[string]any{"value": *v, "min": lo, "max": hi}})
		}
	}
	word := func(field, v string, allowed []string) {
		if v != "" && !slices.Contains(allowed, v) {
			out = append(out, system.Fault{Path: "$." + field, Code: "fault.enum", With: map[string]any{"value": v, "allowed": strings.Join(allowed, ", ")}})
		}
	}
	count := func(field string, v, hi int) {
		if v < 0 || v > hi {
			out = append(out, system.Fault{Path: "$." + field, Code: "fault.range", With: map[string]any{"value": v, "min": 0, "max": hi}})
		}
	}
	word("kind", u.Kind, UnitKinds)
	word("condition", u.Condition, Conditions)
	num("bore_mm", u.BoreMM, 8, 80)
	num("stroke_mm", u.StrokeMM, 5, 150)
	num("stud_spacing_mm", u.StudSpacingMM, 20, 300)
	num("pocket_mm", u.PocketMM, 0, 150)
	num("residual_mpa", u.ResidualMPA, 0, 1)
	count("studs", u.Studs, 8)
	word("face_seal", u.FaceSeal, FaceSeals)
	word("sensor", u.Sensor, Sensors)
	word("variant", u.Variant, Variants)
	word("reservoir", u.Reservoir, Reservoirs)
	word("brakes", u.Brakes, BrakeKinds)
	num("price", &u.Price, 0, 1e6)
	num("core", &u.Core, 0, 1e6)
	if u.RemotePorts != nil {
		count("remote_ports", *u.RemotePorts, 4)
	}
	if len(u.Ports) > 6 {
		out = append(out, system.Fault{Path: "$.ports", Code: "fault.count", With: map[string]any{"value": len(u.Ports), "min": 1, "max": 6}})
	}
	for _, p := range u.Ports {
		word("ports."+p.Position+".seat", p.Seat, Seats)
		word("ports."+p.Position+".side", p.Side, Sides)
		num("ports."+p.Position+".run_mm", p.RunMM, 20, 10000)
	}
	for field, s := range map[string]string{"maker": u.Maker, "number": u.Number, "connector": u.Connector, "material": u.Material} {
		if len(s) > 120 {
			out = append(out, system.Fault{Path: "$." + field, Code: "fault.too_long", With: map[string]any{"max": 120}})
		}
	}
	if b := u.Booster; b != nil {
		num("booster.firewall_spacing_mm", b.FirewallSpacingMM, 20, 400)
		num("booster.shell_mm", b.ShellMM, 50, 600)
		num("booster.protrusion_mm", b.ProtrusionMM, -50, 100)
		num("booster.return_mm", b.ReturnMM, 3, 40)
		num("booster.ratio", b.Ratio, 1.01, 20)
		num("booster.effective_area_mm2", b.EffectiveAreaMM2, 1000, 200000)
		num("booster.power_area_mm2", b.PowerAreaMM2, 100, 10000)
		count("booster.firewall_studs", b.FirewallStuds, 8)
		word("booster.check_valve", b.CheckValve, Valves)
	}
	return out
}
