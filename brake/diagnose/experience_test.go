package diagnose

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/system"
)

// How-it-computes, section 10: (α·table + counts)/(α + n) with α = 200; the safety cases keep their floors.
func TestExperienceMovesThePriorsAndKeepsTheFloors(t *testing.T) {
	f := findFault("mc.rear_seal_leak")
	require.NotNil(t, f)
	x := &Experience{Jobs: 100, Counts: map[string]int{f.ID: 30}}
	assert.InDelta(t, (200*f.Prior+30)/300, x.Moved(f, f.Prior, 1), 1e-12)
	assert.Equal(t, f.Prior, (*Experience)(nil).Moved(f, f.Prior, 1))
	never := &Experience{Jobs: 100000, Counts: map[string]int{}}
	for i := range Faults {
		f := &Faults[i]
		least := 0.1
		if f.Unsafe {
			least = 0.5
		}
		assert.InDelta(t, least*f.Prior, never.Moved(f, f.Prior, 1), 1e-12, "%s is looked for however seldom it was met", f.ID)
	}
	always := &Experience{Jobs: 100000, Counts: map[string]int{f.ID: 100000}}
	assert.InDelta(t, 0.4, always.Moved(f, f.Prior, 1), 1e-12, "no fault leaves no room for another")
	// What a shop has met often comes forward; without it nothing changes.
	s, err := system.FromPattern("pickup-front-rear-vacuum")
	require.NoError(t, err)
	at := func(x *Experience) float64 {
		c := &Case{Format: CaseFormat, System: s, Experience: x, Findings: []Finding{{ID: "pedal.sinks", Value: json.RawMessage(`"slow"`)}}}
		r, err := Run(c, DefaultCosts())
		require.NoError(t, err)
		for _, f := range r.Faults {
			if f.ID == "mc.secondary_cup_bypass" {
				return f.Probability
			}
		}
		return 0
	}
	assert.Greater(t, at(&Experience{Jobs: 200, Counts: map[string]int{"mc.secondary_cup_bypass": 60}}), 1.5*at(nil))
	assert.Len(t, x.Shown(), len(Faults))
}

// The parts of a unit come apart in their order, and speak only for what the system can have.
func TestPartsSpeakForWhatTheSystemCanHave(t *testing.T) {
	for _, p := range system.Patterns {
		s := p.Build()
		for _, unit := range []string{ApartCylinder, ApartBooster} {
			for _, part := range PartsOf(&s, unit) {
				for _, id := range part.Speaks {
					assert.True(t, CanHave(&s, id), "%s %s", p.ID, id)
				}
			}
		}
	}
	one, err := system.FromPattern("clutch-hydraulic")
	require.NoError(t, err)
	for _, p := range PartsOf(one, ApartCylinder) {
		assert.NotEqual(t, "secondary_cup", p.ID)
	}
}

// How-it-computes, section 10: (α·table + counts)/(α + n) with α = 50, above the floors; counts alone go out.
func TestSightingsMoveTheLikelihoodsAndKeepTheFloors(t *testing.T) {
	s := findSign("steering.groan")
	require.NotNil(t, s)
	const pump = "hydraulic.supply_low"
	table := s.Given[pump].P
	x := Experience{}
	assert.Equal(t, table, x.Seen(s, pump, table), "nothing seen")
	assert.Equal(t, table, (*Experience)(nil).Seen(s, pump, table))
	x.See(pump, map[string]string{s.ID: s.Values[1]}, 9)
	x.See(pump, map[string]string{s.ID: s.Values[0], "no.such": "yes"}, 2)
	want := []float64{(50*table[0] + 2) / 61, (50*table[1] + 9) / 61}
	for v, p := range x.Seen(s, pump, table)[:2] {
		assert.InDelta(t, want[v], p, 1e-9)
	}
	shown := x.SignsShown()
	require.Len(t, shown, 1)
	assert.Equal(t, 9, shown[0].Seen)
	assert.Equal(t, 11, shown[0].Of)
	// Against any number of sightings, what can take the brakes away keeps half the table's share of showing.
	for i := range Signs {
		s := &Signs[i]
		for fault, g := range s.Given {
			never := Experience{}
			never.See(fault, map[string]string{s.ID: s.Values[0]}, 100_000)
			p := never.Seen(s, fault, g.P)
			sum := 0.0
			least := 0.1
			if findFault(fault).Unsafe {
				least = 0.5
			}
			for v := range p {
				sum += p[v]
				assert.GreaterOrEqual(t, p[v], 0.5*least*g.P[v], "%s %s", s.ID, fault)
			}
			assert.InDelta(t, 1, sum, 1e-9)
		}
	}
	// What goes out is ids of the vocabulary and whole numbers, and nothing else: no vehicle can be read out of it.
	raw, err := json.Marshal(map[string]Experience{"pickup-hydraulic": x})
	require.NoError(t, err)
	assert.JSONEq(
		t,
		`{"pickup-hydraulic":{"jobs":0,"counts":null,"signs":{"steering.groan":{"hydraulic.supply_low":[2,9`+strings.Repeat(",0",
			len(s.Values)-2)+`]}}}}`,
		string(raw),
	)
	assert.True(t, x.CheckSigns(100))
	assert.False(t, x.CheckSigns(5), "more than can be")
	x.Signs["Mara Oduya"] = map[string][]int{pump: {1, 2}}
	assert.False(t, x.CheckSigns(100), "a name is no sign")
}

// A kind of vehicle a shop has met often speaks for itself; of one it hardly knows, what all showed counts.
func TestSignsOfAllKindsCountWhereOneIsHardlyKnown(t *testing.T) {
	groan := func(n int) Experience {
		x := Experience{Jobs: n, Counts: map[string]int{"hydraulic.supply_low": n}}
		x.See("hydraulic.supply_low", map[string]string{"steering.groan": "yes"}, n)
		return x
	}
	s := findSign("steering.groan")
	all := map[string]Experience{"pickup-hydraulic": groan(200), "truck-hydraulic": groan(3)}
	sum := func(x *Experience) (n int) {
		for _, c := range x.Signs[s.ID]["hydraulic.supply_low"] {
			n += c
		}
		return n
	}
	assert.Equal(t, 200, sum(ExperienceOf("pickup-hydraulic", all)))
	assert.Equal(t, 203, sum(ExperienceOf("truck-hydraulic", all)))
	assert.Equal(t, 3, ExperienceOf("truck-hydraulic", all).Jobs, "how often a fault is met stays its own")
	assert.Nil(t, ExperienceOf("car-diagonal-vacuum", map[string]Experience{}))
}
