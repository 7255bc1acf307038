package twin

import (
	"encoding/json"
	"fmt"
	"math"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/system"
)

type reference struct {
	Pattern string         `json:"pattern"`
	Changes map[string]any `json:"changes"`
	Heat    []struct {
		RiseK       float64 `json:"rise_k"`
		PressureMPA float64 `json:"pressure_mpa"`
	} `json:"heat"`
	Reserve []float64 `json:"reserve"`
	Apply   []struct {
		PedalForceN float64   `json:"pedal_force_n"`
		Assist      bool      `json:"assist"`
		OutputN     float64   `json:"output_force_n"`
		TravelMM    float64   `json:"pedal_travel_mm"`
		Floored     bool      `json:"floored"`
		PressureMPA []float64 `json:"pressure_mpa"`
		StrokeMM    []float64 `json:"stroke_mm"`
	} `json:"apply"`
	Hold struct {
		ForceN  float64 `json:"force_n"`
		Seconds float64 `json:"seconds"`
		Samples []struct {
			TimeS              float64   `json:"t_s"`
			TravelMM           float64   `json:"pedal_travel_mm"`
			PressureMPA        []float64 `json:"pressure_mpa"`
			ReservoirChangeCM3 float64   `json:"reservoir_change_cm3"`
		} `json:"samples"`
	} `json:"hold"`
}

// changed is a pattern with some fields set by dotted path, through JSON as a user would.
func changed(t *testing.T, pattern string, changes map[string]any) *system.System {
	t.Helper()
	s, err := system.FromPattern(pattern)
	require.NoError(t, err)
	data, err := json.Marshal(s)
	require.NoError(t, err)
	var tree any
	require.NoError(t, json.Unmarshal(data, &tree))
	for path, v := range changes {
		at, keys := tree, strings.Split(path, ".")
		for i, k := range keys {
			switch node := at.(type) {
			case []any:
				var n int
				_, err := fmt.Sscan(k, &n)
				require.NoError(t, err)
				at = node[n]
			case map[string]any:
				if i == len(keys)-1 {
					node[k] = v
				}
				at = node[k]
			}
		}
	}
	data, err = json.Marshal(tree)
	require.NoError(t, err)
	out, err := system.Parse(data)
	require.NoError(t, err)
	return out
}

// Source: SciPy's brentq and solve_ivp through testdata/reference.py, an implementation of its own.
// Tolerances: the model's agreement bound, 0.5 % or 0.2 mm for apply, 1 % for hold; here tighter.
func TestAgainstSciPy(t *testing.T) {
	data, err := os.ReadFile("testdata/reference.json")
	require.NoError(t, err)
	var cases []reference
	require.NoError(t, json.Unmarshal(data, &cases))
	require.NotEmpty(t, cases)
	close := func(t *testing.T, want, got, rel, abs float64, msg string) {
		t.Helper()
		assert.LessOrEqual(t, math.Abs(want-got), math.Max(abs, rel*math.Abs(want)), "%s: reference %v, twin %v", msg, want, got)
	}
	for _, c := range cases {
		t.Run(fmt.Sprint(c.Pattern, c.Changes), func(t *testing.T) {
			m := New(changed(t, c.Pattern, c.Changes))
			for _, a := range c.Apply {
				_, s := m.solve(a.PedalForceN, a.Assist, [2]float64{})
				at := fmt.Sprintf("%v N assist %v", a.PedalForceN, a.Assist)
				close(t, a.TravelMM, s.travel, 1e-6, 1e-6, at+" travel")
				close(t, a.OutputN, s.out, 1e-6, 1e-5, at+" output")
				assert.Equal(t, a.Floored, s.floored, at)
				for k := range a.PressureMPA {
					close(t, a.PressureMPA[k], s.p[k], 1e-6, 1e-6, at+" pressure")
					if !s.floored {
						close(t, a.StrokeMM[k], s.y[k], 1e-6, 1e-6, at+" stroke")
					}
				}
			}
			for _, w := range c.Heat {
				got, err := m.TrappedHeat(m.chambers[0].circuit, w.RiseK)
				require.NoError(t, err)
				close(t, w.PressureMPA, got.PressureMPA, 1e-6, 1e-6, fmt.Sprintf("trapped, %v K warmer", w.RiseK))
			}
			r := m.Reserve()
			for i, want := range c.Reserve {
				if got := append(r.VacuumKPA, r.SupplyMPA...); i < len(got) {
					close(t, want, got[i], 1e-6, 1e-6, "reserve")
				}
			}
			h, err := m.Hold(c.Hold.ForceN, c.Hold.Seconds, 7, true)
			require.NoError(t, err)
			for i, want := range c.Hold.Samples {
				got := h.Samples[i]
				at := fmt.Sprintf("hold at %v s", want.TimeS)
				close(t, want.TravelMM, got.TravelMM, 1e-3, 0.01, at+" travel")
				close(t, want.ReservoirChangeCM3, got.ReservoirChangeCM3, 1e-3, 1e-4, at+" reservoir")
				for k := range want.PressureMPA {
					close(t, want.PressureMPA[k], got.PressureMPA[m.chambers[k].circuit], 2e-3, 1e-3, at+" pressure")
				}
			}
		})
	}
}
