package main

import (
	"encoding/json"
	"image/png"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/motion"
	"geminate/brake/photo"
	"geminate/brake/strict"
	"geminate/ground/darkroom"
	"geminate/ground/felt"
	"geminate/instrument"
)

// pack writes readings as the three axes' packs laid one behind the other.
func pack(t *testing.T, readings []felt.Reading) string {
	t.Helper()
	began := time.Date(2026, 12, 1, 8, 0, 0, 0, time.UTC)
	at, by := []time.Time{}, map[string][]float64{}
	for _, r := range readings {
		at = append(at, began.Add(time.Duration(r.S*float64(time.Second))))
		by["x"], by["y"], by["z"] = append(by["x"], r.X), append(by["y"], r.Y), append(by["z"], r.Z)
	}
	var whole []json.RawMessage
	for _, axis := range []string{"x", "y", "z"} {
		raw, err := instrument.WritePack("phone:"+axis, "m/s2", at, by[axis])
		require.NoError(t, err)
		var list []json.RawMessage
		require.NoError(t, json.Unmarshal(raw, &list))
		whole = append(whole, list...)
	}
	raw, err := json.Marshal(whole)
	require.NoError(t, err)
	path := filepath.Join(t.TempDir(), "motion.json")
	require.NoError(t, os.WriteFile(path, raw, 0o600))
	return path
}

func TestMotionFromAFile(t *testing.T) {
	s := felt.Sensor{HZ: 60, Noise: 0.02, Seed: 1}
	level, err := readMotion([]string{pack(t, s.Lying(2, 2, 0))})
	require.NoError(t, err)
	lies, err := readMotion([]string{pack(t, s.Lying(2, 9, 0))})
	require.NoError(t, err)
	tilt, err := motion.TiltOf(motion.TiltIn{Samples: lies, Zero: level})
	require.NoError(t, err)
	assert.InDelta(t, 7, tilt.Deg, 0.3)

	c := motionCommand()
	c.SilenceErrors, c.SilenceUsage = true, true
	c.SetArgs([]string{"--want", "stop", pack(t, s.Lying(4, 0, 0))})
	var refused *strict.Refused
	require.ErrorAs(t, c.Execute(), &refused)
	assert.Equal(t, "motion.no_rest_after", refused.Code)

	raw, err := instrument.WritePack("phone:x", "m/s2", []time.Time{time.Now()}, []float64{1})
	require.NoError(t, err)
	half := filepath.Join(t.TempDir(), "half.json")
	require.NoError(t, os.WriteFile(half, raw, 0o600))
	_, err = readMotion([]string{half})
	assert.ErrorContains(t, err, "missing")
}

// The command finds edges in the picture beside its file, and says why a picture tells nothing.
func TestAPhotoFromAFile(t *testing.T) {
	dir := t.TempDir()
	cam := darkroom.Camera{
		WidePX:     900,
		HighPX:     700,
		FieldDeg:   70,
		AwayMM:     240,
		SlantDeg:   15,
		RoundDeg:   250,
		BlurPX:     0.7,
		NoiseOf255: 2,
		Seed:       1,
	}
	f, err := os.Create(filepath.Join(dir, "p.png"))
	require.NoError(t, err)
	require.NoError(t,
		png.Encode(f, cam.Take(darkroom.Sheet(-42, -56, 3, 85.60, 53.98, 3.18, 0.76, 226), darkroom.Flange(0, 34, 0, 80, 11, 34))))
	require.NoError(t, f.Close())
	field := 70.0
	in := photoFile{
		Format: photoFormat,
		Image:  "p.png",
		Ask:    photo.Ask{WidePX: 900, HighPX: 700, FieldDeg: &field, Reference: photo.Card, Plane: photo.Flat},
	}
	for _, c := range darkroom.SheetCorners(-42, -56, 3, 85.60, 53.98) {
		x, y := cam.Draws(c[0], c[1], 0.76)
		in.Corners = append(in.Corners, photo.Tap{Point: photo.Point{X: x + 1.5, Y: y - 1}})
	}
	w := photo.Wanted{ID: "studs", Kind: photo.Centres}
	for _, side := range []float64{-1, 1} {
		hx, hy := darkroom.HoleAt(0, 34, 0, 80, side)
		for _, at := range [][2]float64{{5.5, 0}, {-3, 4.6}, {-3, -4.6}} {
			x, y := cam.Draws(hx+at[0], hy+at[1], 0)
			w.Points = append(w.Points, photo.Tap{Point: photo.Point{X: x, Y: y}})
		}
	}
	in.Want = []photo.Wanted{w}
	write := func(in photoFile) *os.File {
		raw, err := json.Marshal(in)
		require.NoError(t, err)
		require.NoError(t, os.WriteFile(filepath.Join(dir, "ask.json"), raw, 0o600))
		out, err := os.CreateTemp(dir, "out")
		require.NoError(t, err)
		return out
	}
	out := write(in)
	stdout := os.Stdout
	os.Stdout = out
	c := photoCommand()
	c.SetArgs([]string{filepath.Join(dir, "ask.json")})
	err = c.Execute()
	os.Stdout = stdout
	require.NoError(t, err)
	raw, err := os.ReadFile(out.Name())
	require.NoError(t, err)
	var m photo.Measured
	require.NoError(t, json.Unmarshal(raw, &m), string(raw))
	require.Len(t, m.Figures, 1)
	assert.True(t, m.Edges)
	assert.InDelta(t, 80, m.Figures[0].MM, m.Figures[0].HalfMM())

	in.Format = "else"
	write(in)
	c = photoCommand()
	c.SilenceErrors, c.SilenceUsage = true, true
	c.SetArgs([]string{filepath.Join(dir, "ask.json")})
	var bad badInput
	require.ErrorAs(t, c.Execute(), &bad)
}
