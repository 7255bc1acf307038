package system

import "math"

// The shape of a geminate.system/1 file, stated once: the reader walks it, and docs are made from it.

type kind int

const (
	kNumber kind = iota
	kString
	kBool
	kObject
	kList
	kMap // object with free keys
)

// shape is one value's type, range and, for objects, fields.
type shape struct {
	kind     kind
	min, max float64 // inclusive; for lists the count
	above    bool    // min is exclusive
	enum     []string
	fields   []field
	item     *shape
	// variants chooses extra fields by the value of the "kind" field.
	variants map[string][]field
}

type field struct {
	name     string
	required bool
	shape    shape
}

func num(min, max float64) shape { return shape{kind: kNumber, min: min, max: max} }
func pos(max float64) shape      { return shape{kind: kNumber, min: 0, max: max, above: true} }
func text() shape                { return shape{kind: kString} }
func oneOf(v ...string) shape    { return shape{kind: kString, enum: v} }
func flag() shape                { return shape{kind: kBool} }
func obj(f ...field) shape       { return shape{kind: kObject, fields: f} }
func list(min, max float64, item shape) shape {
	return shape{kind: kList, min: min, max: max, item: &item}
}
func req(name string, s shape) field { return field{name, true, s} }
func opt(name string, s shape) field { return field{name, false, s} }

func byKind(common []field, variants map[string][]field) shape {
	return shape{kind: kObject, fields: common, variants: variants}
}

// powered are the fields a hydraulic and an electro-hydraulic booster share.
var powered = []field{
	req("ratio", shape{kind: kNumber, min: 1, max: 20, above: true}), req("cut_in_n", num(0, 1000)), req("jump_in_n", num(0, 3000)),
	req("power_area_mm2", pos(20000)), req("supply_mpa", num(0, 40)), req("spring_n", num(0, 1000)),
	opt("accumulator", obj(req("gas_cm3", pos(5000)), req("precharge_mpa", pos(40)), req("charged_mpa", pos(40)), req("use_cm3", pos(500)))),
}

var chamberShape = obj(req("circuit", text()), req("stroke_mm", pos(100)), req("cutoff_mm", num(0, 20)), req("preload_n", num(0, 1000)))

// Ranges are wide on purpose: they catch slips of a decimal or of a unit, not unusual vehicles.
var systemShape = obj(
	req("format", oneOf(Format)),
	req("name", text()),
	req("vehicle", obj(req("kind", oneOf("car", "truck", "trailer", "motorcycle")), req("mass_kg", num(50, 60000)), req("tire_radius_mm", num(100, 900)))),
	req("ambient", obj(req("atmosphere_kpa", num(50, 110)), req("temperature_c", num(-50, 60)))),
	opt("pedal", obj(req("ratio", num(1, 15)), req("free_play_mm", num(0, 30)), req("return_force_n", num(0, 500)), req("floor_mm", num(20, 400)))),
	opt("actuator", obj(req("kind", oneOf("surge")), req("ratio", num(0.2, 15)), req("cut_in_n", num(0, 5000)), req("floor_mm", num(10, 400)))),
	opt("pushrod_gap_mm", num(-10, 30)),
	opt("booster", byKind([]field{req("kind", oneOf(BoosterNone, BoosterVacuum, BoosterHydraulic, BoosterElectroHydraulic))}, map[string][]field{
		BoosterNone: {},
		BoosterVacuum: {
			req("ratio", shape{kind: kNumber, min: 1, max: 20, above: true}), req("cut_in_n", num(0, 1000)), req("jump_in_n", num(0, 3000)),
			req("effective_area_mm2", pos(300000)), req("efficiency", shape{kind: kNumber, min: 0, max: 1, above: true}), req("spring_n", num(0, 1000)),
			req("vacuum_kpa", num(0, 110)), req("chamber_cm3", pos(50000)), req("stroke_to_release_cm3", num(0, 50000)),
		},
		BoosterHydraulic:        powered,
		BoosterElectroHydraulic: append(append([]field{}, powered...), opt("simulator", obj(req("stiffness_n_per_mm", pos(1000)), req("free_mm", num(0, 100))))),
	})),
	req("master_cylinder", obj(req("bore_mm", num(8, 80)), req("efficiency", shape{kind: kNumber, min: 0, max: 1, above: true}),
		opt("compensating_port_mm", num(0.1, 5)), req("primary", chamberShape), opt("secondary", chamberShape))),
	req("fluid", obj(req("class", oneOf("DOT 3", "DOT 4", "DOT 5", "DOT 5.1")), req("bulk_modulus_mpa", num(100, 5000)), req("water_percent", num(0, 20)), opt("density_kg_m3", num(700, 1300)))),
	req("circuits", list(1, 2, obj(req("id", text()), req("wheels", list(1, 12, text())), req("air_cm3", num(0, 500)), req("open", flag()),
		req("bypass_mm3_s_mpa", num(0, 1e6)), req("leak_mm3_s_mpa", num(0, 1e6)), opt("residual_mpa", num(0, 1))))),
	req("wheels", list(1, 12, obj(req("id", text()), opt("tire_radius_mm", num(100, 900)),
		req("line", obj(req("length_mm", num(0, 30000)), req("bore_mm", num(1, 20)))),
		req("hose", obj(req("length_mm", num(0, 5000)), req("expansion_mm3_per_m_mpa", num(0, 2000)), opt("bore_mm", num(1, 20)))),
		req("brake", byKind([]field{req("kind", oneOf("disc", "drum")), req("clearance_mm", num(0, 5)), req("take_up_mpa", pos(3)), req("compliance_mm3_per_mpa", num(0, 3000)), req("cavity_cm3", num(0, 1000))}, map[string][]field{
			"disc": {req("pistons_mm", list(1, 6, num(10, 120))), req("fixed", flag()), req("friction", num(0.01, 1)), req("effective_radius_mm", num(30, 400))},
			"drum": {req("cylinder_mm", num(8, 80)), req("brake_factor", num(0.1, 10)), req("drum_radius_mm", num(50, 400))},
		})),
		opt("bleeder", obj(req("bore_mm", num(0.3, 10)), req("length_mm", num(0.5, 100))))))),
	opt("proportioning", obj(req("wheels", list(1, 12, text())), req("knee_mpa", num(0, 20)), req("slope", num(0, 1)))),
	opt("reservoir", obj(req("full_cm3", num(1, 5000)), req("lowest_port_cm3", num(0, 5000)),
		opt("circuits", shape{kind: kMap, item: &shape{kind: kNumber, min: 1, max: 5000}}))),
	opt("modulator", obj(req("kind", text()), req("volume_cm3", num(0, math.MaxFloat64)))),
)
