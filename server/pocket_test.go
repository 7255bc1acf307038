package server_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"geminate/ground/felt"
)

// Where the core does not run in the browser the server works the same out, for whoever is signed in; what cannot be
// told is told why.
func TestToolsInThePocketByTheServer(t *testing.T) {
	c, _ := shop(t)
	var samples []any
	for _, r := range (felt.Sensor{HZ: 60, Noise: 0.02}).Pedal(6, 300, 10, 20, func(s float64) float64 { return 50 * max(0, min(1, s-3)) }) {
		samples = append(samples, map[string]float64{"s": r.S, "x": r.X, "y": r.Y, "z": r.Z})
	}
	in := map[string]any{"samples": samples, "radius_mm": 300}
	c.send("POST", "/api/pocket/travel", map[string]any{"radius_mm": 300}, 401)
	got := c.as("mara").send("POST", "/api/pocket/travel", in, 200)
	assert.InDelta(t, 50, got["most_mm"], 1)
	told := toText(t, c.send("POST", "/api/pocket/stop", map[string]any{"samples": samples}, 422))
	assert.Contains(t, told, "motion.")
	assert.Contains(t, toText(t, c.send("POST", "/api/pocket/photo", map[string]any{"wide_px": 1}, 422)), "fault.")
}
