package strict

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var shape = Obj(Req("n", Num(0, 10)), Opt("t", OneOf("a", "b")), Opt("l", List(1, 3, Obj(Req("x", Above(0, 5))))),
	Opt("m", MapOf(Flag())),
	Opt("k", ByKind([]Field{Req("kind", OneOf("one", "two"))}, map[string][]Field{"one": {Req("a", Num(0, 1))}, "two": {}})))

func codes(doc string) []string {
	out := []string{}
	for _, f := range Read([]byte(doc), shape).Faults {
		out = append(out, f.Path+" "+f.Code)
	}
	return out
}

func TestEveryFaultIsToldAtItsPath(t *testing.T) {
	for doc, want := range map[string][]string{
		`{"n":1}`:                                {},
		`{"n":11,"t":"c","z":1}`:                 {"$.n fault.range", "$.t fault.enum", "$.z fault.unknown"},
		`{"l":[],"m":{"q":1}}`:                   {"$.n fault.missing", "$.l fault.count", "$.m.q fault.type"},
		`{"n":1,"l":[{"x":0},{},{"x":1,"y":2}]}`: {"$.l[0].x fault.range_above", "$.l[1].x fault.missing", "$.l[2].y fault.unknown"},
		`{"n":1,"k":{"kind":"two","a":1}}`:       {"$.k.a fault.unknown"},
		`{"n":1,"k":{"kind":"three","a":1}}`:     {"$.k.kind fault.enum"},
		`{"n":NaN,"m":{"NaN":true}}`:             {"$.n fault.not_finite"},
		`{"n":1e999}`:                            {"$.n fault.range"},
		`{"n":1,"n":2}`:                          {"$.n fault.twice"},
		`[1]`:                                    {"$ fault.type"},
		`{"n":1} 2`:                              {"$ fault.syntax"},
	} {
		assert.ElementsMatch(t, want, codes(doc), doc)
	}
}

// What does not fit is left out of the clean copy, in its place in a list, so that checks across fields
// can still run over the rest.
func TestCleanKeepsWhatFits(t *testing.T) {
	r := Read([]byte(`{"n":99,"t":"a","l":[{"x":1},7,{"x":2}]}`), shape)
	assert.JSONEq(t, `{"t":"a","l":[{"x":1},null,{"x":2}]}`, string(r.Clean))
	assert.Len(t, r.Faults, 2)
}

func TestSizeIsLimited(t *testing.T) {
	assert.Equal(t, "fault.too_large", Read([]byte(strings.Repeat(" ", MaxBytes+1)), shape).Faults[0].Code)
}

func FuzzRead(f *testing.F) {
	for _, s := range []string{`{"n":1}`, `{"n":NaN}`, `{"n":"\"NaN"}`, `{"l":[{"x":-Infinity}]}`, `{"n`, `"`, `\`} {
		f.Add([]byte(s))
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		r := Read(data, shape)
		if len(r.Faults) > 0 {
			return
		}
		// Nothing wrong: then it is JSON, and the clean copy says the same.
		var want, got any
		if json.Unmarshal(data, &want) != nil || json.Unmarshal(r.Clean, &got) != nil {
			t.Fatalf("accepted %q", data)
		}
		assert.Equal(t, want, got)
	})
}

func TestDecodeTellsWhatAndWhere(t *testing.T) {
	var v struct{ A int }
	require.NoError(t, Decode([]byte(`{"A":3}`), &v))
	assert.Equal(t, 3, v.A)
	for in, line := range map[string]int{"{\"A\":1}\n{}": 2, "{\n\"B\":1}": 2, "{\n\n\"A\":\"x\"}": 3, "{\n!": 2, "": 1} {
		var f Faults
		require.ErrorAs(t, Decode([]byte(in), &v), &f, in)
		assert.Equal(t, "fault.syntax", f[0].Code)
		assert.Equal(t, line, f[0].With["line"], in)
	}
}
