package diagnose

import (
	"encoding/json"
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
