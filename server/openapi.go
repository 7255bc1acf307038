package server

import (
	"encoding/json"
	"reflect"
	"strings"

	"github.com/swaggest/jsonschema-go"
	"github.com/swaggest/openapi-go"
	"github.com/swaggest/openapi-go/openapi3"

	"geminate/brake/job"
)

// anyJSON stands for a value of any shape.
type anyJSON struct{}

// JSONSchema says that anything is allowed.
func (anyJSON) JSONSchema() (jsonschema.Schema, error) { return jsonschema.Schema{}, nil }

type idInPath struct {
	ID string `path:"id"`
}

type passInPath struct {
	Pass string `path:"pass"`
}

type photoInPath struct {
	Photo string `path:"photo"`
}

// Description returns the OpenAPI document of the API, made from the route table.
func Description() ([]byte, error) {
	r := openapi3.NewReflector()
	r.Spec.Info.WithTitle("Geminate").WithVersion("1").WithDescription("The API of Geminate, made from the Go code.")
	r.AddTypeMapping(json.RawMessage{}, anyJSON{})
	r.AddTypeMapping(rawCard{}, job.Card{})
	r.AddTypeMapping(job.Event{}, EventView{})
	r.DefaultOptions = append(r.DefaultOptions,
		// A field is there unless it says omitempty, and a list is a list, never null.
		jsonschema.InterceptProp(func(p jsonschema.InterceptPropParams) error {
			if p.Processed && !strings.Contains(p.Field.Tag.Get("json"), "omit") && p.Field.Tag.Get("json") != "" && p.ParentSchema != nil {
				p.ParentSchema.Required = append(p.ParentSchema.Required, p.Name)
				if p.Field.Type.Kind() == reflect.Pointer && p.PropertySchema.Ref != nil {
					// A pointer that is always written is null where there is nothing.
					p.PropertySchema.AllOf = []jsonschema.SchemaOrBool{(&jsonschema.Schema{Ref: p.PropertySchema.Ref}).ToSchemaOrBool()}
					p.PropertySchema.Ref = nil
					p.PropertySchema.AddType(jsonschema.Null)
				}
			}
			return nil
		}),
		// An id is one of those there are.
		jsonschema.InterceptSchema(func(p jsonschema.InterceptSchemaParams) (bool, error) {
			if list, ok := ids[p.Value.Type()]; ok && p.Processed {
				p.Schema.WithEnum(list...)
			}
			return false, nil
		}),
		jsonschema.InterceptNullability(func(p jsonschema.InterceptNullabilityParams) {
			if k := p.Type.Kind(); k == reflect.Slice || k == reflect.Map || k == reflect.Array {
				p.Schema.RemoveType(jsonschema.Null)
			}
		}),
	)
	for _, rt := range (&server{}).routes() {
		oc, err := r.NewOperationContext(rt.method, "/api"+rt.path)
		if err != nil {
			return nil, err
		}
		oc.SetID(rt.id)
		oc.SetSummary(rt.summary)
		if strings.Contains(rt.path, "{id}") {
			oc.AddReqStructure(new(idInPath))
		}
		if strings.Contains(rt.path, "{photo}") {
			oc.AddReqStructure(new(photoInPath))
		}
		if strings.Contains(rt.path, "{pass}") {
			oc.AddReqStructure(new(passInPath))
		}
		if rt.query != nil {
			oc.AddReqStructure(rt.query)
		}
		if _, empty := rt.in.(none); !empty {
			oc.AddReqStructure(rt.in)
		}
		if rt.binary != "" {
			oc.AddRespStructure(nil, openapi.WithContentType(rt.binary), openapi.WithHTTPStatus(200))
		} else {
			out := rt.out
			if rt.told != nil {
				out = rt.told
			}
			oc.AddRespStructure(out, openapi.WithHTTPStatus(200))
		}
		oc.AddRespStructure(Problem{}, func(cu *openapi.ContentUnit) { cu.IsDefault = true })
		if err := r.AddOperation(oc); err != nil {
			return nil, err
		}
	}
	return json.MarshalIndent(r.Spec, "", "  ")
}
