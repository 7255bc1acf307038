package strict

import "math"

// Schema gives a shape as a JSON Schema (draft 2020-12) object.
func Schema(s Shape) map[string]any {
	switch s.kind {
	case kNumber:
		out := map[string]any{"type": "number"}
		if s.above {
			out["exclusiveMinimum"] = s.min
		} else {
			out["minimum"] = s.min
		}
		if s.max < math.MaxFloat64 {
			out["maximum"] = s.max
		}
		return out
	case kString:
		out := map[string]any{"type": "string"}
		if s.enum != nil {
			out["enum"] = s.enum
		} else if s.max > 0 {
			out["maxLength"] = s.max
		}
		return out
	case kBool:
		return map[string]any{"type": "boolean"}
	case kList:
		return map[string]any{"type": "array", "minItems": s.min, "maxItems": s.max, "items": Schema(*s.item)}
	case kMap:
		return map[string]any{"type": "object", "additionalProperties": Schema(*s.item)}
	}
	out := objectSchema(s.fields)
	out["type"] = "object"
	if s.variants == nil {
		out["additionalProperties"] = false
		return out
	}
	var rules []any
	for _, k := range s.fields[0].shape.enum { // in the order the kinds are listed
		then := objectSchema(s.variants[k])
		rules = append(rules, map[string]any{
			"if":   map[string]any{"required": []string{"kind"}, "properties": map[string]any{"kind": map[string]any{"const": k}}},
			"then": then,
		})
	}
	out["allOf"] = rules
	out["unevaluatedProperties"] = false
	return out
}

func objectSchema(fields []Field) map[string]any {
	properties, required := map[string]any{}, []string{}
	for _, f := range fields {
		properties[f.name] = Schema(f.shape)
		if f.required {
			required = append(required, f.name)
		}
	}
	return map[string]any{"properties": properties, "required": required}
}
