package diagnose

import (
	"encoding/json"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/system"
)

// anyFinding makes a valid value for a kind of finding.
func anyFinding(r *rand.Rand, k Kind, s *system.System) (Finding, bool) {
	value := func(x any) (Finding, bool) {
		raw, err := json.Marshal(x)
		f := Finding{ID: k.ID, Value: raw}
		if r.IntN(4) == 0 {
			unsure := false
			f.Sure = &unsure
		}
		return f, err == nil && CheckFinding(s, f) == nil
	}
	pick := func() string { return k.Values[r.IntN(len(k.Values))] }
	on := []string{"on", "off"}[r.IntN(2)]
	switch k.Shape {
	case "choice":
		return value(pick())
	case "number":
		return value(k.Min + (k.Max-k.Min)*r.Float64())
	case "list":
		return value([]string{pick()})
	case "texts":
		return value([]string{"valve offset", "low pressure"}[:r.IntN(3)])
	case "placed", "placed_wheels":
		out := map[string]string{}
		for _, at := range findPlaced(k.ID).Places(s) {
			out[at] = pick()
		}
		return value(out)
	case "sink":
		return value(Sink{PedalForceN: 50 + 400*r.Float64(), TravelMM: 60 * r.Float64(), Seconds: 5 + 60*r.Float64(), Engine: on})
	case "readings":
		return value([]Reading{{PedalForceN: 100, TravelMM: 120 * r.Float64()}, {PedalForceN: 300, TravelMM: 150 * r.Float64()}})
	}
	return value([]Gauge{{At: s.Circuits[0].ID, PedalForceN: 200, MPA: 12 * r.Float64(), Engine: on}})
}

// Whatever is entered on whatever vehicle, however it contradicts itself: probabilities are probabilities,
// an action is named, costs are finite, tests that cannot be done are not proposed, and nothing panics.
func TestAnyFindingsGiveAVerdict(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 8))
	kinds := Kinds()
	for range 120 {
		p := system.Patterns[r.IntN(len(system.Patterns))]
		s := p.Build()
		c := &Case{Format: CaseFormat, System: &s, Hands: r.IntN(3)}
		seen := map[string]bool{}
		for range r.IntN(14) {
			k := kinds[r.IntN(len(kinds))]
			if f, ok := anyFinding(r, k, &s); ok && !seen[k.ID] {
				seen[k.ID] = true
				c.Findings = append(c.Findings, f)
			}
		}
		if r.IntN(2) == 0 {
			c.Tools, c.DoNot = []string{}, []string{"open_hydraulics"}
		}
		got, err := Run(c, DefaultCosts())
		require.NoError(t, err, p.ID)
		total := got.Healthy
		for _, f := range got.Faults {
			require.True(t, f.Probability >= 0 && f.Probability <= 1+1e-9, "%s %s %v", p.ID, f.ID, f.Probability)
			total += f.Probability
			for _, b := range f.Because {
				require.False(t, math.IsNaN(b.Bits) || math.IsInf(b.Bits, 0), "%s %s %s", p.ID, f.ID, b.Finding)
			}
		}
		assert.Greater(t, total, 0.95, p.ID)
		assert.NotEmpty(t, got.Action.ID)
		assert.False(t, math.IsNaN(got.Action.ExpectedCost) || math.IsInf(got.Action.ExpectedCost, 0))
		for _, n := range got.NextTests {
			require.True(t, n.Bits >= 0 && !math.IsNaN(n.Saves), n.ID)
			assert.False(t, c.Tools != nil && (len(n.Needs) > 0 || n.OpensHydraulics),
				"%s was proposed without its tools or with closed lines", n.ID)
		}
		_, err = json.Marshal(got)
		require.NoError(t, err)
		// The order in which things were found does not matter.
		r.Shuffle(len(c.Findings), func(i, j int) { c.Findings[i], c.Findings[j] = c.Findings[j], c.Findings[i] })
		again, err := Run(c, DefaultCosts())
		require.NoError(t, err)
		assert.InDelta(t, got.Healthy, again.Healthy, 1e-9, p.ID)
		assert.Equal(t, got.Action.ID, again.Action.ID, p.ID)
	}
}
