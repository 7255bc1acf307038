package system

import (
	"bytes"
	"encoding/json"
	"fmt"
	"maps"
	"math/rand/v2"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func compiled(t *testing.T) *jsonschema.Schema {
	t.Helper()
	data, err := Schema()
	require.NoError(t, err)
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(data))
	require.NoError(t, err)
	c := jsonschema.NewCompiler()
	require.NoError(t, c.AddResource("system.json", doc))
	s, err := c.Compile("system.json")
	require.NoError(t, err)
	return s
}

func TestPublishedSchemaIsTheReadersOwn(t *testing.T) {
	want, err := Schema()
	require.NoError(t, err)
	got, err := os.ReadFile("../../docs/system.schema.json")
	require.NoError(t, err, "run: make docs")
	assert.Equal(t, string(want)+"\n", string(got), "docs/system.schema.json is stale: run make docs")
}

// beyondSchema are the reader's faults that no schema of single fields can tell.
func beyondSchema(f Fault) bool {
	switch f.Code {
	case "fault.id_twice", "fault.no_such_wheel", "fault.wheel_in_two_circuits", "fault.wheel_in_no_circuit", "fault.no_such_circuit",
		"fault.circuit_fed_twice", "fault.circuit_without_chamber", "fault.cutoff_past_stroke", "fault.preload_past_stroke", "fault.release_past_chamber",
		"fault.vacuum_past_atmosphere", "fault.precharge_past_charge", "fault.brake_larger_than_tire", "fault.port_above_full", "fault.twice":
		return true
	}
	return false
}

// The schema and the reader must agree on every document: here each pattern, and each pattern with
// one to three of its fields broken at random (dropped, renamed, of another type, out of range).
func TestSchemaAgreesWithReader(t *testing.T) {
	schema := compiled(t)
	rnd := rand.New(rand.NewPCG(7, 11))
	refused := 0
	for n := 0; n < 2000; n++ {
		p := Patterns[n%len(Patterns)]
		var doc any
		require.NoError(t, json.Unmarshal([]byte(document(t, p.ID)), &doc))
		var did []string
		for k := 0; n >= len(Patterns) && k <= rnd.IntN(3); k++ {
			doc = breakOne(rnd, doc, &did)
		}
		data, err := json.Marshal(doc)
		require.NoError(t, err)
		_, err = Parse(data)
		byReader := false
		if faults, ok := err.(Faults); ok {
			for _, f := range faults {
				byReader = byReader || !beyondSchema(f)
			}
		}
		bySchema := schema.Validate(doc) != nil
		require.Equal(t, byReader, bySchema, "%s %v: reader says %v, schema %v", p.ID, did, err, schema.Validate(doc))
		if byReader {
			refused++
		}
	}
	assert.Greater(t, refused, 500, "the breaking must break things")
}

// breakOne changes one value somewhere in the document.
func breakOne(rnd *rand.Rand, v any, did *[]string) any {
	switch x := v.(type) {
	case map[string]any:
		keys := slices.Sorted(maps.Keys(x)) // map order is random in Go; the choice must not be
		if len(keys) == 0 {
			return x
		}
		k := keys[rnd.IntN(len(keys))]
		switch rnd.IntN(5) {
		case 0:
			delete(x, k)
			*did = append(*did, "drop "+k)
		case 1:
			x["x_"+k] = x[k]
			*did = append(*did, "add x_"+k)
		default:
			x[k] = breakOne(rnd, x[k], did)
		}
		return x
	case []any:
		if len(x) > 0 && rnd.IntN(4) > 0 {
			i := rnd.IntN(len(x))
			x[i] = breakOne(rnd, x[i], did)
			return x
		}
		*did = append(*did, "empty list")
		return []any{}
	}
	choice := []any{-1.0, 0.0, 1e9, "text", true, nil, []any{}, map[string]any{}, "vacuum", "drum", "trailer", 0.5}
	c := choice[rnd.IntN(len(choice))]
	*did = append(*did, fmt.Sprintf("%v becomes %v", v, c))
	return c
}

// What a program writes that is no JSON number is told where it stands, with everything else.
func TestNonNumbersAreToldAtTheirPaths(t *testing.T) {
	doc := document(t, "pickup-front-rear-vacuum")
	for _, e := range [][2]string{{`"mass_kg":2750`, `"mass_kg":NaN`}, {`"bore_mm":26.9875`, `"bore_mm":-Infinity`}, {`"ratio":3.9`, `"ratio":99`},
		{`"DOT 3"`, `"DOT \"NaN"`}, {`"id":"LF"`, `"id":Infinity`}} {
		require.Contains(t, doc, e[0])
		doc = strings.Replace(doc, e[0], e[1], 1)
	}
	got := faultsOf(t, doc)
	for _, want := range []string{"$.vehicle.mass_kg fault.not_finite", "$.master_cylinder.bore_mm fault.not_finite", "$.pedal.ratio fault.range", "$.fluid.class fault.enum", "$.wheels[0].id fault.type"} {
		assert.Contains(t, got, want)
	}
}

// Every figure of every pattern says where it comes from, and no row of the table is idle.
func TestEveryPatternFigureHasAnOrigin(t *testing.T) {
	used := map[string]bool{}
	var walk func(id, path string, v any)
	walk = func(id, path string, v any) {
		switch x := v.(type) {
		case map[string]any:
			for k, y := range x {
				walk(id, strings.TrimPrefix(path+"."+k, "."), y)
			}
		case []any:
			for i, y := range x {
				walk(id, fmt.Sprintf("%s.%d", path, i), y)
			}
		default:
			if last := path[strings.LastIndex(path, ".")+1:]; last == "kind" || path == "format" || path == "name" {
				return
			}
			r, err := originOf(path)
			require.NoError(t, err, id)
			used[r.Path] = true
			assert.Equal(t, r.Origin == FromMemory, r.Source != "", "what is from memory names its publication: %s", r.Path)
		}
	}
	for _, p := range Patterns {
		var doc any
		require.NoError(t, json.Unmarshal([]byte(document(t, p.ID)), &doc))
		walk(p.ID, "", doc)
	}
	for _, r := range Origins {
		assert.True(t, used[r.Path], "no pattern uses the row %s", r.Path)
	}
}

// originOf returns where a pattern's figure at a path comes from; the path is written with dots
// ("wheels.0.hose.length_mm").
func originOf(path string) (OriginRow, error) {
	parts := strings.Split(path, ".")
	for _, r := range Origins {
		want := strings.Split(r.Path, ".")
		if len(want) != len(parts) {
			continue
		}
		same := true
		for i := range want {
			same = same && (want[i] == "*" || want[i] == parts[i])
		}
		if same {
			return r, nil
		}
	}
	return OriginRow{}, fmt.Errorf("system: no origin is stated for %s", path)
}
