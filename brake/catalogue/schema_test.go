package catalogue_test

import (
	"bytes"
	"os"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/catalogue"
	"geminate/demo"
)

// The published schema and the reader take and refuse the same documents.
func TestSchemaAgreesWithTheReader(t *testing.T) {
	want, err := catalogue.Schema()
	require.NoError(t, err)
	have, err := os.ReadFile("../../docs/units.schema.json")
	require.NoError(t, err)
	assert.Equal(t, string(want), strings.TrimRight(string(have), "\n"), "run `make docs`")
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(want))
	require.NoError(t, err)
	c := jsonschema.NewCompiler()
	require.NoError(t, c.AddResource("units.json", doc))
	schema, err := c.Compile("units.json")
	require.NoError(t, err)

	var good bytes.Buffer
	require.NoError(t, writeJSON(&good, demo.Catalogue(300)))
	for text, ok := range map[string]bool{
		good.String(): true,
		`{"format":"geminate.units/1","units":[]}`:                                          true,
		`{"format":"geminate.units/1","units":[{"id":"a","bore_mm":null}]}`:                 true,
		`{"format":"x","units":[]}`:                                                         false,
		`{"units":[]}`:                                                                      false,
		`{"format":"geminate.units/1","units":[{"id":"a","mood":1}]}`:                       false,
		`{"format":"geminate.units/1","units":[{"id":"a","bore_mm":"wide"}]}`:               false,
		`{"format":"geminate.units/1","units":[{"id":"a","sensor":"five_pin"}]}`:            false,
		`{"format":"geminate.units/1","units":[{"id":"a","booster":{"check_valve":"up"}}]}`: false,
	} {
		v, err := jsonschema.UnmarshalJSON(strings.NewReader(text))
		require.NoError(t, err)
		_, readErr := catalogue.Read([]byte(text))
		assert.Equal(t, ok, readErr == nil, "reader: %.120s", text)
		assert.Equal(t, ok, schema.Validate(v) == nil, "schema: %.120s %v", text, schema.Validate(v))
	}
}
