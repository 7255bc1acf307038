package catalogue

import (
	"encoding/json"
	"slices"

	"github.com/swaggest/jsonschema-go"

	"geminate/brake/match"
)

// Schema returns the JSON Schema of a geminate.units/1 document, made from the Go type and the lists of words
// the reader checks by. What rows must not share (an id) only the reader can tell.
func Schema() ([]byte, error) {
	r := jsonschema.Reflector{}
	s, err := r.Reflect(file{}, jsonschema.InterceptProp(func(p jsonschema.InterceptPropParams) error {
		if !p.Processed || p.PropertySchema == nil {
			return nil
		}
		if words, ok := wordsOf[p.Name]; ok {
			p.PropertySchema.Enum = []any{}
			for _, w := range words {
				p.PropertySchema.Enum = append(p.PropertySchema.Enum, w)
			}
		}
		return nil
	}), jsonschema.InterceptSchema(func(p jsonschema.InterceptSchemaParams) (bool, error) {
		if p.Processed && p.Schema.HasType(jsonschema.Object) && len(p.Schema.Properties) > 0 {
			p.Schema.AdditionalProperties = (&jsonschema.SchemaOrBool{}).WithTypeBoolean(false)
		}
		return false, nil
	}))
	if err != nil {
		return nil, err
	}
	s.WithRequired("format", "units").WithTitle(Format)
	s.WithExtraPropertiesItem("$schema", "http://json-schema.org/draft-07/schema#")
	return json.MarshalIndent(s, "", "  ")
}

// wordsOf are the words a field may hold; the empty one is "not known".
var wordsOf = func() map[string][]string {
	out := map[string][]string{
		"kind":        match.UnitKinds,
		"condition":   match.Conditions,
		"face_seal":   match.FaceSeals,
		"sensor":      match.Sensors,
		"variant":     match.Variants,
		"reservoir":   match.Reservoirs,
		"brakes":      match.BrakeKinds,
		"check_valve": match.Valves,
		"side":        match.Sides,
		"seat":        match.Seats,
	}
	for k, v := range out {
		out[k] = append([]string{""}, slices.Clone(v)...)
	}
	out["format"] = []string{Format}
	return out
}()
