package system

import "geminate/brake/strict"

// The shape of a geminate.system/1 file, stated once: the reader walks it, and the schema is made from it.

var chamberShape = strict.Obj(strict.Req("circuit", strict.Text()), strict.Req("stroke_mm", strict.Num(1, 100)),
	strict.Req("cutoff_mm", strict.Num(0, 20)), strict.Req("preload_n", strict.Num(0, 1000)))

// Ranges are wide on purpose: they catch slips of a decimal or of a unit, not unusual vehicles. Their
// lower ends are as physical as the upper ones (no chamber is a thousandth of a millimetre long, no
// cavity holds nothing): what every loop of the core takes its own bound from.
var systemShape = strict.Obj(
	strict.Req("format", strict.OneOf(Format)),
	strict.Req("name", strict.Text()),
	strict.Req(
		"vehicle",
		strict.Obj(strict.Req("kind", strict.OneOf("car", "truck", "trailer", "motorcycle")),
			strict.Req("mass_kg", strict.Num(50, 60000)), strict.Req("tire_radius_mm", strict.Num(100, 900))),
	),
	strict.Req("ambient", strict.Obj(strict.Req("atmosphere_kpa", strict.Num(50, 110)), strict.Req("temperature_c", strict.Num(-50, 60)))),
	strict.Opt(
		"pedal",
		strict.Obj(strict.Req("ratio", strict.Num(1, 15)), strict.Req("free_play_mm", strict.Num(0, 30)),
			strict.Req("return_force_n", strict.Num(0, 500)), strict.Req("floor_mm", strict.Num(20, 400))),
	),
	strict.Opt(
		"actuator",
		strict.Obj(strict.Req("kind", strict.OneOf("surge")), strict.Req("ratio", strict.Num(0.2, 15)),
			strict.Req("cut_in_n", strict.Num(0, 5000)), strict.Req("floor_mm", strict.Num(10, 400))),
	),
	strict.Opt("pushrod_gap_mm", strict.Num(-10, 30)),
	strict.Opt("booster", boosterShape()),
	strict.Req("master_cylinder", strict.Obj(strict.Req("bore_mm", strict.Num(8, 80)),
		strict.Req("efficiency", strict.Num(0.1, 1)), strict.Opt("compensating_port_mm", strict.Num(0.1, 5)),
		strict.Req("primary", chamberShape), strict.Opt("secondary", chamberShape))),
	strict.Req(
		"fluid",
		strict.Obj(strict.Req("class", strict.OneOf("DOT 3", "DOT 4", "DOT 5", "DOT 5.1")),
			strict.Req("bulk_modulus_mpa", strict.Num(100, 5000)), strict.Req("water_percent", strict.Num(0, 20)),
			strict.Opt("density_kg_m3", strict.Num(700, 1300))),
	),
	strict.Req(
		"circuits",
		strict.List(1, 2, strict.Obj(strict.Req("id", strict.Text()), strict.Req("wheels", strict.List(1, 12, strict.Text())),
			strict.Req("air_cm3", strict.Num(0, 500)), strict.Req("open", strict.Flag()),
			strict.Req("bypass_mm3_s_mpa", strict.Num(0, 1e6)), strict.Req("leak_mm3_s_mpa", strict.Num(0, 1e6)),
			strict.Opt("residual_mpa", strict.Num(0, 1)), strict.Opt("shared_mm", strict.Num(0, 20000)))),
	),
	strict.Req("wheels", strict.List(1, 12, strict.Obj(
		strict.Req("id", strict.Text()),
		strict.Opt("tire_radius_mm", strict.Num(100, 900)),
		strict.Req("line", strict.Obj(strict.Req("length_mm", strict.Num(1, 30000)), strict.Req("bore_mm", strict.Num(1, 20)))),
		strict.Req(
			"hose",
			strict.Obj(strict.Req("length_mm", strict.Num(0, 5000)), strict.Req("expansion_mm3_per_m_mpa", strict.Num(0, 2000)),
				strict.Opt("bore_mm", strict.Num(1, 20))),
		),
		strict.Req(
			"brake",
			strict.ByKind(
				[]strict.Field{
					strict.Req("kind", strict.OneOf("disc", "drum")),
					strict.Req("clearance_mm", strict.Num(0, 5)),
					strict.Req("take_up_mpa", strict.Num(0.001, 3)),
					strict.Req("compliance_mm3_per_mpa", strict.Num(0, 3000)),
					strict.Req("cavity_cm3", strict.Num(0.1, 1000)),
				},
				map[string][]strict.Field{
					"disc": {
						strict.Req("pistons_mm", strict.List(1, 6, strict.Num(10, 120))),
						strict.Req("fixed", strict.Flag()),
						strict.Req("friction", strict.Num(0.01, 1)),
						strict.Req("effective_radius_mm", strict.Num(30, 400)),
					},
					"drum": {
						strict.Req("cylinder_mm", strict.Num(8, 80)),
						strict.Req("brake_factor", strict.Num(0, 10)),
						strict.Req("drum_radius_mm", strict.Num(50, 400)),
					},
				},
			),
		),
		strict.Opt("bleeder", strict.Obj(strict.Req("bore_mm", strict.Num(0.3, 10)), strict.Req("length_mm", strict.Num(0.5, 100)))),
	))),
	strict.Opt(
		"proportioning",
		strict.Obj(strict.Req("wheels", strict.List(1, 12, strict.Text())), strict.Req("knee_mpa", strict.Num(0, 20)),
			strict.Req("slope", strict.Num(0, 1))),
	),
	strict.Opt("reservoir", strict.Obj(strict.Req("full_cm3", strict.Num(5, 5000)), strict.Req("lowest_port_cm3", strict.Num(0, 5000)),
		strict.Opt("circuits", strict.MapOf(strict.Num(5, 5000))))),
	strict.Opt("modulator", strict.Obj(strict.Req("kind", strict.Text()), strict.Req("volume_cm3", strict.Num(0, 5000)))),
)
