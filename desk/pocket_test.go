package desk

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/photo"
	"geminate/ground/darkroom"
	"geminate/ground/felt"
)

func called(t *testing.T, d *Desk, method string, in any) (out struct {
	OK      json.RawMessage `json:"ok"`
	Problem *Problem        `json:"problem"`
}) {
	t.Helper()
	raw, err := json.Marshal(in)
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(d.Call(method, raw), &out))
	return out
}

// A picture is handed over once; taps on it are answered with edges and figures, or with why not. A phone's motion the
// same way.
func TestToolsInThePocket(t *testing.T) {
	cam := darkroom.Camera{
		WidePX:     800,
		HighPX:     600,
		FieldDeg:   70,
		AwayMM:     240,
		SlantDeg:   12,
		RoundDeg:   250,
		BlurPX:     0.7,
		NoiseOf255: 2,
		Seed:       1,
	}
	img := cam.Take(darkroom.Sheet(-42, -50, 3, 85.60, 53.98, 3.18, 0.76, 226))
	d := New()
	require.Nil(t, called(t, d, "picture", Pictured{800, 600, img.Pix}).Problem)
	ask := photo.Ask{WidePX: 800, HighPX: 600, Reference: photo.Card, Plane: photo.Flat, Want: []photo.Wanted{}}
	for _, c := range darkroom.SheetCorners(-42, -50, 3, 85.60, 53.98) {
		x, y := cam.Draws(c[0], c[1], 0.76)
		ask.Corners = append(ask.Corners, photo.Tap{Point: photo.Point{X: x + 2, Y: y - 2}})
	}
	var on OnPhoto
	require.NoError(t, json.Unmarshal(called(t, d, "tap", Tapped{ask}).OK, &on))
	assert.True(t, on.Edges)
	require.NotNil(t, on.Seen)
	assert.InDelta(t, 240, on.AwayMM, 15)
	ask.Corners[0] = ask.Corners[2]
	p := called(t, d, "tap", Tapped{ask}).Problem
	require.NotNil(t, p)
	assert.Equal(t, "photo.no_rectangle", p.Faults[0].Code)

	var samples []any
	for _, r := range (felt.Sensor{HZ: 60, Noise: 0.02}).Lying(2, 5, 0) {
		samples = append(samples, map[string]float64{"s": r.S, "x": r.X, "y": r.Y, "z": r.Z})
	}
	var tilt struct {
		Deg float64 `json:"deg"`
	}
	got := called(t, d, "pocket", map[string]any{"tool": "tilt", "in": map[string]any{"samples": samples}})
	require.NoError(t, json.Unmarshal(got.OK, &tilt))
	assert.InDelta(t, 5, tilt.Deg, 0.3)
	p = called(t, d, "pocket", map[string]any{"tool": "tilt", "in": map[string]any{"samples": samples[:9]}}).Problem
	require.NotNil(t, p)
	assert.Equal(t, "motion.short", p.Faults[0].Code)
	assert.NotNil(t, called(t, d, "pocket", map[string]any{"tool": "hammer", "in": nil}).Problem)
}
