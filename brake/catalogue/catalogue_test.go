package catalogue_test

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/catalogue"
	"geminate/brake/match"
	"geminate/demo"
)

func TestTablesComeBackAsTheyWent(t *testing.T) {
	want := demo.Catalogue(400)
	var csv, js bytes.Buffer
	require.NoError(t, catalogue.WriteCSV(&csv, want))
	require.NoError(t, writeJSON(&js, want))
	for name, data := range map[string][]byte{"csv": csv.Bytes(), "json": js.Bytes()} {
		got, err := catalogue.Read(data)
		require.NoError(t, err, name)
		require.Len(t, got, len(want), name)
		for i := range want {
			require.InDelta(t, val(want[i].BoreMM), val(got[i].BoreMM), 1e-9, name)
			got[i].BoreMM = want[i].BoreMM
			require.Equal(t, want[i], got[i], name)
		}
	}
}

func val(x *float64) float64 {
	if x == nil {
		return -1
	}
	return *x
}

func TestEveryBadRowIsToldAndNothingTaken(t *testing.T) {
	doc := strings.Join([]string{
		"id,bore,studs,stud_spacing_mm,sensor,price",
		"a,15/16,2,85,two_pin,100",
		"b,banana,2,85,two_pin,100",
		"a,1,2,85,two_pin,100",
		"c,1,2,9000,five_pin,-4",
		",1,2,85,none,1",
		"d,1,2",
		`e,"1 1/8",2.5,85,none,1`,
	}, "\n")
	units, err := catalogue.Read([]byte(doc))
	assert.Nil(t, units)
	var bad *catalogue.Error
	require.True(t, errors.As(err, &bad))
	told := []string{}
	for _, r := range bad.Rows {
		told = append(told, fmt.Sprintf("%d %s %s", r.Line, r.What.Path, r.What.Code))
	}
	assert.Equal(
		t,
		[]string{
			"3 $.bore fault.cell",
			"4 $.id fault.row_twice",
			"5 $.stud_spacing_mm fault.range",
			"5 $.sensor fault.enum",
			"5 $.price fault.range",
			"6 $.id fault.missing",
			"7 $ fault.columns",
			"8 $.studs fault.cell",
		},
		told,
	)
}

func TestHeadersAndDocumentsAreStrict(t *testing.T) {
	for name, c := range map[string]struct{ doc, path, code string }{
		"empty":          {"", "$", "fault.no_header"},
		"no id":          {"bore\n1", "$.id", "fault.missing"},
		"unknown column": {"id,mood\na,b", "$.mood", "fault.unknown"},
		"bad quotes":     {"id,maker\na,\"x", "$", "fault.syntax"},
		"not json":       {"{", "$", "fault.syntax"},
		"other format":   {`{"format":"x","units":[]}`, "$", "fault.enum"},
		"unknown field":  {`{"format":"geminate.units/1","units":[{"id":"a","mood":1}]}`, "$", "fault.syntax"},
	} {
		_, err := catalogue.Read([]byte(c.doc))
		var bad *catalogue.Error
		require.True(t, errors.As(err, &bad), name)
		assert.Equal(t, c.path+" "+c.code, bad.Rows[0].What.Path+" "+bad.Rows[0].What.Code, name)
	}
	some, err := catalogue.Read([]byte("\xef\xbb\xbfid,bore,port_rear_thread\nx, 1 1/8 ,M10x1\n"))
	require.NoError(t, err)
	assert.Equal(t, match.Port{Position: "rear", Thread: "M10x1"}, some[0].Ports[0])
	assert.Nil(t, some[0].StudSpacingMM, "an empty cell is not known")
}

func FuzzRead(f *testing.F) {
	f.Add([]byte("id,bore\na,15/16\n"))
	f.Add([]byte("id,bore\n0\"0"))
	f.Add([]byte(`{"format":"geminate.units/1","units":[{"id":"a","bore_mm":25.4}]}`))
	f.Fuzz(func(t *testing.T, data []byte) {
		units, err := catalogue.Read(data)
		if err != nil {
			return
		}
		var b bytes.Buffer
		if catalogue.WriteCSV(&b, units) != nil {
			t.Fatal("what was read cannot be written")
		}
	})
}

func BenchmarkRead50000(b *testing.B) {
	var csv bytes.Buffer
	require.NoError(b, catalogue.WriteCSV(&csv, demo.Catalogue(50_000)))
	b.SetBytes(int64(csv.Len()))
	for b.Loop() {
		if _, err := catalogue.Read(csv.Bytes()); err != nil {
			b.Fatal(err)
		}
	}
}

// writeJSON writes units as a geminate.units/1 document.
func writeJSON(w io.Writer, units []match.Unit) error {
	return json.NewEncoder(w).Encode(map[string]any{"format": catalogue.Format, "units": units})
}
