package job

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/match"
	"geminate/brake/photo"
	"geminate/ground/darkroom"
)

// tapped is an ask about a made picture of a flange with 80 mm between its bolts.
func tapped() photo.Ask {
	r := rand.New(rand.NewPCG(1, 1))
	cam := darkroom.Camera{WidePX: 1280, HighPX: 960, FieldDeg: 70, AwayMM: 250, SlantDeg: 15, RoundDeg: 250}
	tap := func(x, y float64) photo.Tap {
		return photo.Tap{Point: photo.Point{X: x + 0.3*r.NormFloat64(), Y: y + 0.3*r.NormFloat64()}, Fine: true}
	}
	a := photo.Ask{WidePX: 1280, HighPX: 960, Reference: photo.Card, Plane: photo.Flat}
	for _, c := range darkroom.SheetCorners(-42, -56, 3, 85.60, 53.98) {
		a.Corners = append(a.Corners, tap(cam.Draws(c[0], c[1], 0.4)))
	}
	w := photo.Wanted{ID: string(match.PhotoStuds), Kind: photo.Distance}
	for _, side := range []float64{-1, 1} {
		x, y := darkroom.HoleAt(0, 34, 0, 80, side)
		w.Points = append(w.Points, tap(cam.Draws(x, y, 0)))
	}
	a.Want = []photo.Wanted{w}
	return a
}

// A figure from a photo goes onto the record with its points, worked out again before it is let in: not of a picture
// that is not there, not another figure than the points come to, not of a bore.
func TestAFigureFromAPhoto(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	snap := j.add(t, &Photographed{JPEG: picture(t)})
	ask := tapped()
	m, err := photo.Measure(ask)
	require.NoError(t, err)
	f := m.Figures[0]
	assert.InDelta(t, 80, f.TakeMM, f.TakeHalfMM)
	good := PhotoMeasured{Photo: snap.ID, Field: match.PhotoStuds, Ask: ask, MM: f.TakeMM, HalfMM: f.TakeHalfMM}
	for code, change := range map[string]func(*PhotoMeasured){
		"fault.no_such_photo":   func(p *PhotoMeasured) { p.Photo = "another" },
		"fault.photo_says_else": func(p *PhotoMeasured) { p.MM += 0.4 },
		"fault.enum":            func(p *PhotoMeasured) { p.Field = "bore_mm" },
		"fault.range":           func(p *PhotoMeasured) { p.HalfMM = 0 },
		"fault.missing":         func(p *PhotoMeasured) { p.Photo = "" },
	} {
		bad := good
		change(&bad)
		assert.ErrorContains(t, j.tell(mara, &bad), code)
	}
	narrow := good
	narrow.HalfMM = 0.1
	assert.ErrorContains(t, j.tell(mara, &narrow), "fault.photo_says_else", "nobody makes a doubt smaller")
	e := j.add(t, &good)
	require.Len(t, j.State.PhotoFigures, 1)
	assert.Equal(t, f.TakeMM, j.State.PhotoFigures[0].MM)
	raw, err := WriteFile(j.Job, j.Events)
	require.NoError(t, err)
	file, err := ReadFile(raw, j.now())
	require.NoError(t, err)
	assert.Equal(t, good, *file.Events[2].Body.(*PhotoMeasured))
	j.add(t, &Undone{Of: e.ID})
	assert.Empty(t, j.State.PhotoFigures)
}
