package diagnose

import (
	"encoding/json"
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/system"
)

// Every figure is walked through its limits in steps of a tenth of its own error: nothing that is said of any fault may
// jump. Far from every limit a figure says what its value always said. The bound is arithmetic: over such a step the
// shares move by no more than 0.04 (0.1/√2π), and no likelihood of the tables is further from another than that lets a
// probability move.
func TestNoFigureHasACliff(t *testing.T) {
	for _, pattern := range []string{"pickup-front-rear-vacuum", "car-diagonal-vacuum", "truck-hydraulic"} {
		s, err := system.FromPattern(pattern)
		require.NoError(t, err)
		for _, id := range numeric {
			if !SignShows(s, id) {
				continue
			}
			g, err := gradeOf(id, s)
			require.NoError(t, err)
			e := engineFor(s, nil)
			at := func(x float64) []float64 {
				raw, _ := json.Marshal(x)
				obs, err := observe(s, Finding{ID: id, Value: raw})
				require.NoError(t, err)
				obs[0].weight = 1
				return e.marginals(e.posterior([][]float64{e.likelihood(&obs[0])}))
			}
			for _, limit := range g.limits {
				from := max(numberRange[id].Min, limit-5*g.sigma)
				was := at(from)
				for x := from + g.sigma/10; x < limit+5*g.sigma; x += g.sigma / 10 {
					now := at(x)
					for i := range now {
						assert.LessOrEqual(t, math.Abs(now[i]-was[i]), 0.1,
							fmt.Sprintf("%s: %s at %.3f: %s", pattern, id, x, e.faults[i].fault.ID))
					}
					was = now
				}
			}
		}
	}
}

// The shares are those of the normal distribution (from memory: a half at the mean, 0.841 within one standard error on
// one side).
func TestSharesAtALimit(t *testing.T) {
	g := grade{limits: []float64{1, 3, 4}, sigma: 0.35}
	for x, want := range map[float64][]float64{3: {0, 0.5, 0.498, 0.002}, 3.35: {0, 0.159, 0.81, 0.032}, 0: {0.998, 0.002, 0, 0}, 9: {0, 0, 0, 1}} {
		got := g.shares(x)
		sum := 0.0
		for i := range got {
			assert.InDelta(t, want[i], got[i], 0.002, "%v", x)
			sum += got[i]
		}
		assert.InDelta(t, 1, sum, 1e-12)
	}
}
