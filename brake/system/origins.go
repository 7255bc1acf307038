package system

// Origin says where a pattern's figure comes from, so that nobody takes it for a maker's.
type Origin string

const (
	// CommonPractice is usual in the trade, with no published source.
	CommonPractice Origin = "common"
	// FromMemory is recalled from a named publication that could not be opened when it was written.
	FromMemory Origin = "memory"
	// Assumption is ours, chosen so that the whole system behaves as a real one of its class does.
	Assumption Origin = "assumption"
)

// OriginRow gives the origin of the fields whose path matches: * stands for one list entry or id. Source
// names the publication of what is from memory.
type OriginRow struct {
	Path   string `json:"path"`
	Origin Origin `json:"origin"`
	Source string `json:"source,omitempty"`
}

// Origins is the table; the first row that matches a path counts.
var Origins = []OriginRow{
	{"vehicle.*", Assumption, ""},
	{"ambient.atmosphere_kpa", FromMemory, "ISO 2533, standard atmosphere at sea level"},
	{"ambient.temperature_c", Assumption, ""},
	{"pedal.ratio", CommonPractice, ""},
	{"pedal.free_play_mm", CommonPractice, ""},
	{"pedal.*", Assumption, ""},
	{"actuator.*", Assumption, ""},
	{"pushrod_gap_mm", CommonPractice, ""},
	{"booster.ratio", CommonPractice, ""},
	{"booster.cut_in_n", CommonPractice, ""},
	{"booster.jump_in_n", CommonPractice, ""},
	{"booster.spring_n", CommonPractice, ""},
	{"booster.vacuum_kpa", CommonPractice, ""},
	{"booster.effective_area_mm2", CommonPractice, ""},
	{"booster.chamber_cm3", CommonPractice, ""},
	{"booster.stroke_to_release_cm3", CommonPractice, ""},
	{"booster.*", Assumption, ""},
	{"booster.accumulator.*", Assumption, ""},
	{"booster.simulator.*", Assumption, ""},
	{"master_cylinder.bore_mm", CommonPractice, ""},
	{"master_cylinder.*.cutoff_mm", CommonPractice, ""},
	{"master_cylinder.*.preload_n", CommonPractice, ""},
	{"master_cylinder.efficiency", Assumption, ""},
	{"master_cylinder.*.*", Assumption, ""},
	{"fluid.class", CommonPractice, ""},
	{"fluid.bulk_modulus_mpa", FromMemory, "handbook value for glycol brake fluid, about 1.9 GPa at room temperature"},
	{"fluid.water_percent", Assumption, ""},
	{"circuits.*.residual_mpa", CommonPractice, ""},
	{"circuits.*.*", Assumption, ""},
	{"circuits.*.wheels.*", Assumption, ""},
	{"wheels.*.id", Assumption, ""},
	{"wheels.*.line.bore_mm", FromMemory, "SAE J527, 3/16 in (4.76 mm) tube of 0.7 mm wall"},
	{"wheels.*.line.length_mm", Assumption, ""},
	{"wheels.*.hose.expansion_mm3_per_m_mpa", CommonPractice, ""},
	{"wheels.*.hose.length_mm", Assumption, ""},
	{"wheels.*.brake.clearance_mm", CommonPractice, ""},
	{"wheels.*.brake.take_up_mpa", CommonPractice, ""},
	{"wheels.*.brake.compliance_mm3_per_mpa", CommonPractice, ""},
	{"wheels.*.brake.friction", CommonPractice, ""},
	{"wheels.*.brake.*", Assumption, ""},
	{"wheels.*.brake.pistons_mm.*", Assumption, ""},
	{"proportioning.*", Assumption, ""},
	{"proportioning.wheels.*", Assumption, ""},
	{"reservoir.*", Assumption, ""},
	{"modulator.*", Assumption, ""},
}
