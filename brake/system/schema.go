package system

import (
	"encoding/json"

	"geminate/brake/strict"
)

// Schema returns the JSON Schema (draft 2020-12) of a geminate.system/1 file, made from the table the
// reader walks. It says what each field may hold; what fields must not say together (a wheel in two
// circuits, a cutoff beyond its stroke) only the reader can tell.
func Schema() ([]byte, error) {
	root := strict.Schema(systemShape)
	root["$schema"] = "https://json-schema.org/draft/2020-12/schema"
	root["title"] = Format
	root["description"] = "One brake system. Units are in the field names; every field is described in docs/formats.md."
	// A trailer has an actuator in the place of pedal and booster.
	trailer := map[string]any{
		"required": []string{"vehicle"},
		"properties": map[string]any{"vehicle": map[string]any{
			"required": []string{"kind"}, "properties": map[string]any{"kind": map[string]any{"const": "trailer"}}}},
	}
	none := func(names ...string) map[string]any {
		p := map[string]any{}
		for _, n := range names {
			p[n] = false
		}
		return p
	}
	root["if"] = trailer
	root["then"] = map[string]any{"required": []string{"actuator"}, "properties": none("pedal", "booster")}
	root["else"] = map[string]any{"required": []string{"pedal", "booster", "pushrod_gap_mm"}, "properties": none("actuator")}
	return json.MarshalIndent(root, "", "  ")
}
