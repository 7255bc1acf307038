package system

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func document(t testing.TB, pattern string) string {
	t.Helper()
	s, err := FromPattern(pattern)
	require.NoError(t, err)
	data, err := json.Marshal(s)
	require.NoError(t, err)
	return string(data)
}

func faultsOf(t *testing.T, doc string) []string {
	t.Helper()
	s, err := Parse([]byte(doc))
	require.Error(t, err)
	assert.Nil(t, s, "nothing may be partly accepted")
	var f Faults
	require.ErrorAs(t, err, &f)
	out := make([]string, len(f))
	for i := range f {
		out[i] = f[i].Path + " " + f[i].Code
	}
	return out
}

func TestEveryPatternReadsBackAsItself(t *testing.T) {
	for _, p := range Patterns {
		want := p.Build()
		got, err := Read(strings.NewReader(document(t, p.ID)))
		require.NoError(t, err, p.ID)
		assert.Equal(t, want, *got, p.ID)
		assert.Empty(t, want.Doubts(), p.ID)
	}
	_, err := FromPattern("hovercraft")
	assert.ErrorContains(t, err, "hovercraft")
}

func TestZeroSupplyAndZeroForcesSurviveWriting(t *testing.T) {
	s, _ := FromPattern("pickup-front-rear-vacuum")
	s.Booster.CutInN, s.Booster.Spring, *s.Booster.VacuumKPA = 0, 0, 0
	data, err := json.Marshal(s)
	require.NoError(t, err)
	got, err := Parse(data)
	require.NoError(t, err)
	assert.Equal(t, s, got)
}

func TestFaultsAreAllListedWithTheirPaths(t *testing.T) {
	base := document(t, "pickup-front-rear-vacuum")
	edit := func(pairs ...string) string {
		out := base
		for i := 0; i < len(pairs); i += 2 {
			require.Contains(t, out, pairs[i])
			out = strings.Replace(out, pairs[i], pairs[i+1], 1)
		}
		return out
	}
	for name, c := range map[string]struct {
		doc  string
		want []string
	}{
		"unknown field":        {edit(`"vehicle":{`, `"vehicle":{"colour":"red",`), []string{"$.vehicle.colour fault.unknown"}},
		"missing field":        {edit(`"bore_mm":26.9875,`, ``), []string{"$.master_cylinder.bore_mm fault.missing"}},
		"wrong type":           {edit(`"mass_kg":2750`, `"mass_kg":"heavy"`), []string{"$.vehicle.mass_kg fault.type"}},
		"null":                 {edit(`"mass_kg":2750`, `"mass_kg":null`), []string{"$.vehicle.mass_kg fault.type"}},
		"negative length":      {edit(`"length_mm":1100`, `"length_mm":-1100`), []string{"$.wheels[0].line.length_mm fault.range"}},
		"ratio of one":         {edit(`"ratio":6,`, `"ratio":1,`), []string{"$.booster.ratio fault.range_above"}},
		"wheel in two":         {edit(`["LR","RR"]`, `["LR","RF"]`), []string{"$.circuits[1].wheels[1] fault.wheel_in_two_circuits", "$.wheels[3] fault.wheel_in_no_circuit"}},
		"no such wheel":        {edit(`["LF","RF"]`, `["LF","XX"]`), []string{"$.circuits[0].wheels[1] fault.no_such_wheel", "$.wheels[1] fault.wheel_in_no_circuit"}},
		"chambers share":       {edit(`"circuit":"B"`, `"circuit":"A"`), []string{"$.master_cylinder.secondary.circuit fault.circuit_fed_twice", "$.circuits[1] fault.circuit_without_chamber"}},
		"cutoff past stroke":   {edit(`"cutoff_mm":1.2`, `"cutoff_mm":20`, `"stroke_mm":21`, `"stroke_mm":15`), []string{"$.master_cylinder.primary.cutoff_mm fault.cutoff_past_stroke"}},
		"given twice":          {edit(`"mass_kg":2750`, `"mass_kg":2750,"mass_kg":2751`), []string{"$.vehicle.mass_kg fault.twice"}},
		"field of other kind":  {edit(`"kind":"vacuum",`, `"kind":"vacuum","supply_mpa":10,`), []string{"$.booster.supply_mpa fault.unknown"}},
		"trailer with booster": {edit(`"kind":"truck"`, `"kind":"trailer"`), []string{"$.actuator fault.trailer_needs_actuator", "$.booster fault.not_on_trailer", "$.pedal fault.not_on_trailer"}},
		"past the atmosphere":  {edit(`"vacuum_kpa":65`, `"vacuum_kpa":105`), []string{"$.booster.vacuum_kpa fault.vacuum_past_atmosphere"}},
		"several at once": {edit(`"mass_kg":2750`, `"mass_kg":-1`, `"LR","RR"`, `"LR","LR"`, `"slope":0.37`, `"slop":0.37`),
			[]string{"$.vehicle.mass_kg fault.range", "$.proportioning.slop fault.unknown", "$.proportioning.slope fault.missing",
				"$.circuits[1].wheels[1] fault.wheel_in_two_circuits", "$.wheels[3] fault.wheel_in_no_circuit"}},
		"not JSON":   {`{"format": nope}`, []string{"$ fault.syntax"}},
		"cut short":  {base[:len(base)/2], []string{"$ fault.syntax"}},
		"two of one": {base + base, []string{"$ fault.syntax"}},
		"empty":      {``, []string{"$ fault.syntax"}},
		"null alone": {`null`, []string{"$ fault.type"}},
		"a list":     {`[]`, []string{"$ fault.type"}},
		"deep":       {strings.Repeat("[", 100000), []string{"$ fault.syntax"}},
	} {
		t.Run(name, func(t *testing.T) {
			got := faultsOf(t, c.doc)
			if c.doc == `[]` {
				assert.Contains(t, got, c.want[0])
				return
			}
			assert.ElementsMatch(t, c.want, got)
		})
	}
}

func TestHugeFileIsRefusedUnread(t *testing.T) {
	_, err := Read(strings.NewReader(strings.Repeat(" ", 50<<20)))
	assert.ErrorContains(t, err, "fault.too_large")
}

func TestEndlessListIsToldOnce(t *testing.T) {
	got := faultsOf(t, `{"wheels":[`+strings.Repeat(`{"id":"a","x":1},`, 40000)+`{}]}`)
	assert.Contains(t, got, "$.wheels fault.count")
	assert.Less(t, len(got), 400)
}

func TestDoubts(t *testing.T) {
	s, _ := FromPattern("car-diagonal-vacuum")
	s.PushrodGapMM, s.Fluid.Class = -1.3, "DOT 5"
	s.Circuits[0].ResidualMPA = ptr(0.5)
	s.Pedal.FreePlayMM = 29
	s.Pedal.FloorMM = 100
	codes := []string{}
	for _, f := range s.Doubts() {
		codes = append(codes, f.Code)
	}
	assert.Subset(t, codes,
		[]string{"doubt.port_covered", "doubt.silicone_with_modulator", "doubt.residual_holds_brake", "doubt.floor_before_contact"})
}

func TestCloneIsDeep(t *testing.T) {
	s, _ := FromPattern("pickup-hydraulic")
	c := s.Clone()
	*c.Booster.SupplyMPA, c.Booster.Accumulator.GasCM3, c.Circuits[0].AirCM3, c.MasterCylinder.Secondary.StrokeMM = 1, 1, 9, 1
	again, _ := FromPattern("pickup-hydraulic")
	assert.Equal(t, again, s)
}

func FuzzParse(f *testing.F) {
	for _, p := range Patterns {
		s := p.Build()
		data, _ := json.Marshal(s)
		f.Add(data)
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		s, err := Parse(data)
		if (s == nil) == (err == nil) {
			t.Fatal("either a system or its faults, never both, never neither")
		}
	})
}
