package match

import (
	"slices"
	"strings"

	"geminate/brake/system"
	"geminate/brake/units"
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
	Materials  = []string{"iron", "aluminium"}
)

// UnitFigures are the bounds of a unit's figures, by field: what a calliper, a gauge or a scale can have read there.
// Assumptions, wide enough for the smallest trailer's and the largest truck's.
var UnitFigures = map[string]units.Bound{
	"bore_mm":                     {Min: 8, Max: 80},
	"stroke_mm":                   {Min: 5, Max: 150},
	"stud_spacing_mm":             {Min: 20, Max: 300},
	"pocket_mm":                   {Min: 0, Max: 150},
	"residual_mpa":                {Min: 0, Max: 1},
	"studs":                       {Min: 0, Max: 8},
	"remote_ports":                {Min: 0, Max: 4},
	"price":                       {Min: 0, Max: 1e6},
	"core":                        {Min: 0, Max: 1e6},
	"run_mm":                      {Min: 20, Max: 10000},
	"booster.firewall_spacing_mm": {Min: 20, Max: 400},
	"booster.shell_mm":            {Min: 50, Max: 600},
	"booster.protrusion_mm":       {Min: -50, Max: 100},
	"booster.return_mm":           {Min: 3, Max: 40},
	"booster.ratio":               {Min: 1.01, Max: 20},
	"booster.effective_area_mm2":  {Min: 1000, Max: 200000},
	"booster.power_area_mm2":      {Min: 100, Max: 10000},
	"booster.firewall_studs":      {Min: 0, Max: 8},
	"thread.diameter_mm":          {Min: 6, Max: 22},
	"thread.pitch_mm":             {Min: 0.5, Max: 2},
}

// ResidualUsualMPA is what a residual valve holds where there is one and nobody measured it: about 10 psi, common
// practice, no source.
const ResidualUsualMPA = 0.07

// UnitVocabulary is what a unit is entered from.
type UnitVocabulary struct {
	Figures          map[string]units.Bound `json:"figures"`
	Words            map[string][]string    `json:"words"`
	Threads          []string               `json:"threads"`
	ResidualUsualMPA float64                `json:"residual_usual_mpa"`
	Photo            PhotoVocabulary        `json:"photo"`
}

// Vocabulary gives it.
func Vocabulary() UnitVocabulary {
	v := UnitVocabulary{
		Figures:          UnitFigures,
		Words:            unitWords,
		ResidualUsualMPA: ResidualUsualMPA,
		Photo:            photoVocabulary(),
	}
	for _, t := range Threads {
		v.Threads = append(v.Threads, t.ID)
	}
	return v
}

var unitWords = map[string][]string{
	"kind":        UnitKinds,
	"condition":   Conditions,
	"face_seal":   FaceSeals,
	"sensor":      Sensors,
	"variant":     Variants,
	"reservoir":   Reservoirs,
	"brakes":      BrakeKinds,
	"material":    Materials,
	"seat":        Seats,
	"side":        Sides,
	"check_valve": Valves,
	"position":    Positions,
}

// CheckUnit lists what is wrong with a unit, each fault with its JSON path.
func CheckUnit(u *Unit) system.Faults {
	var out system.Faults
	within := func(path, field string, v *float64) {
		if b := UnitFigures[field]; v != nil && !b.Holds(*v) {
			out = append(out,
				system.Fault{Path: "$." + path, Code: "fault.range", With: map[string]any{"value": *v, "min": b.Min, "max": b.Max}})
		}
	}
	num := func(field string, v *float64) { within(field, field, v) }
	word := func(path, field, v string) {
		allowed := unitWords[field]
		if v != "" && !slices.Contains(allowed, v) {
			out = append(
				out,
				system.Fault{
					Path: "$." + path,
					Code: "fault.enum",
					With: map[string]any{"value": v, "allowed": strings.Join(allowed, ", ")},
				},
			)
		}
	}
	count := func(field string, v int) {
		x := float64(v)
		num(field, &x)
	}
	for f, half := range u.ByPhoto {
		if !slices.Contains(PhotoFields, f) || u.Figure(f) == nil || !PhotoHalfMM.Holds(half) {
			out = append(out, system.Fault{Path: "$.by_photo." + string(f), Code: "fault.not_by_photo"})
		}
	}
	word("kind", "kind", u.Kind)
	word("condition", "condition", u.Condition)
	num("bore_mm", u.BoreMM)
	num("stroke_mm", u.StrokeMM)
	num("stud_spacing_mm", u.StudSpacingMM)
	num("pocket_mm", u.PocketMM)
	num("residual_mpa", u.ResidualMPA)
	count("studs", u.Studs)
	word("face_seal", "face_seal", u.FaceSeal)
	word("sensor", "sensor", u.Sensor)
	word("variant", "variant", u.Variant)
	word("reservoir", "reservoir", u.Reservoir)
	word("brakes", "brakes", u.Brakes)
	num("price", &u.Price)
	num("core", &u.Core)
	if u.RemotePorts != nil {
		count("remote_ports", *u.RemotePorts)
	}
	if len(u.Ports) > 6 {
		out = append(out,
			system.Fault{Path: "$.ports", Code: "fault.count", With: map[string]any{"value": len(u.Ports), "min": 1, "max": 6}})
	}
	for _, p := range u.Ports {
		word("ports."+p.Position+".seat", "seat", p.Seat)
		word("ports."+p.Position+".side", "side", p.Side)
		within("ports."+p.Position+".run_mm", "run_mm", p.RunMM)
	}
	for field, s := range map[string]string{"maker": u.Maker, "number": u.Number, "connector": u.Connector, "material": u.Material} {
		if len(s) > 120 {
			out = append(out, system.Fault{Path: "$." + field, Code: "fault.too_long", With: map[string]any{"max": 120}})
		}
	}
	if b := u.Booster; b != nil {
		num("booster.firewall_spacing_mm", b.FirewallSpacingMM)
		num("booster.shell_mm", b.ShellMM)
		num("booster.protrusion_mm", b.ProtrusionMM)
		num("booster.return_mm", b.ReturnMM)
		num("booster.ratio", b.Ratio)
		num("booster.effective_area_mm2", b.EffectiveAreaMM2)
		num("booster.power_area_mm2", b.PowerAreaMM2)
		count("booster.firewall_studs", b.FirewallStuds)
		word("booster.check_valve", "check_valve", b.CheckValve)
	}
	return out
}
