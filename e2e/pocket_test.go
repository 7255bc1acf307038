package e2e

import (
	"fmt"
	"image/jpeg"
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/ground/darkroom"
)

// flangeShot is a picture of an old cylinder's flange, its bolts 82 mm apart, with a card beside it; nobody took it.
func flangeShot(t *testing.T) (darkroom.Camera, string) {
	t.Helper()
	c := darkroom.Camera{
		WidePX:     1280,
		HighPX:     960,
		FieldDeg:   69,
		AwayMM:     260,
		SlantDeg:   16,
		RoundDeg:   250,
		RollDeg:    8,
		BlurPX:     0.8,
		NoiseOf255: 3,
		Seed:       5,
	}
	img := c.Take(darkroom.Sheet(-42, -56, 4, 85.60, 53.98, 3.18, 0.76, 226), darkroom.Flange(0, 34, -6, 82, 11, 34))
	path := filepath.Join(t.TempDir(), "flange.jpg")
	f, err := os.Create(path)
	require.NoError(t, err)
	require.NoError(t, jpeg.Encode(f, img, &jpeg.Options{Quality: 92}))
	require.NoError(t, f.Close())
	return c, path
}

// cylinderJob opens a job whose cylinder is replaced, at Match.
func cylinderJob(p *page) {
	signIn(p)
	newJob(p, "Pocket job", "car-diagonal-vacuum")
	p.goTo("match")
	p.click("scope-change")
	p.click("scope-cylinder")
}

// tapAt taps a point of the picture.
func (p *page) tapAt(x, y float64) {
	p.t.Helper()
	where, err := chromedp.Run(
		p.ctx,
		chromedp.Evaluate[[]float64](fmt.Sprintf(`(() => { const s = document.querySelector('[data-testid="photo-tap"]');
		s.scrollIntoView({block: 'center'}); const q = new DOMPoint(%f, %f).matrixTransform(s.getScreenCTM()); return [q.x, q.y] })()`, x, y)),
	)
	require.NoError(p.t, err)
	p.do(chromedp.MouseClickXY(where[0], where[1]))
}

// A stud spacing is measured on a photo: four rough taps at a card's corners, three on the edge of each hole; the
// figure goes into its field with its doubt, the picture and the figure onto the record; what a caliper then reads
// takes the doubt away.
func TestMeasuredOnAPhoto(t *testing.T) {
	t.Parallel()
	camera, file := flangeShot(t)
	a := start(t, t.TempDir(), freePort(t))
	p := open(t, a.url, 1280, 800)
	cylinderJob(p)
	p.see("old-studs")
	p.click("by-photo-stud_spacing_mm")
	p.see("photo-plane-flat")
	p.shot("photo-begin")
	p.click("photo-plane-flat")
	p.do(chromedp.SetUploadFiles(id("photo-measure-file"), []string{file}))
	p.has("photo-next", "corner 1 of 4")
	for i, c := range darkroom.SheetCorners(-42, -56, 4, 85.60, 53.98) {
		x, y := camera.Draws(c[0], c[1], 0.76)
		p.tapAt(x+2, y-2)
		if i < 3 {
			p.has("photo-next", fmt.Sprintf("corner %d of 4", i+2))
		}
	}
	p.shot("photo-corners")
	for i, side := range []float64{-1, 1} {
		hx, hy := darkroom.HoleAt(0, 34, -6, 82, side)
		for k, at := range [][2]float64{{5.5, 0}, {-3, 4.6}, {-3, -4.6}} {
			p.has("photo-next", fmt.Sprintf("%d of 2: tap its edge, %d of 3", i+1, k+1))
			p.tapAt(camera.Draws(hx+at[0], hy+at[1], 0))
		}
	}
	p.see("photo-figure")
	p.shot("photo-figure")
	var mm, half float64
	_, err := fmt.Sscanf(p.text("photo-figure"), "%f mm ± %f mm", &mm, &half)
	require.NoError(t, err, p.text("photo-figure"))
	assert.InDelta(t, 82, mm, half)
	assert.LessOrEqual(t, half, 0.8)
	p.click("photo-take")
	p.until("the field",
		fmt.Sprintf(`document.querySelector('[data-testid=old-studs] input, input[data-testid=old-studs]').value == "%.1f"`, mm))
	p.has("old-unit", "by photo, ±")
	p.shot("photo-taken")
	p.stored()
	p.until("the record", fmt.Sprintf(`fetch(location.pathname.replace(/^\/jobs\/([^/]+).*/, '/api/jobs/$1')).then(r => r.json())
		.then(j => j.state.photos.length == 1 && j.state.photo_figures.length == 1 && j.state.photo_figures[0].mm == %g)`, mm))
	p.fill("old-studs", "82")
	p.until("no doubt", `!document.querySelector('[data-testid=old-unit]').innerText.includes("by photo, ±")`)
}

// felt has the page's sensor feel gravity from now on.
func (p *page) felt(x, y, z float64) {
	p.t.Helper()
	p.do(
		chromedp.Evaluate[chromedp.Void](
			fmt.Sprintf(
				`(() => { clearInterval(window.__felt); window.__feltFrom = performance.now(); window.__felt = setInterval(() => window.dispatchEvent(
		new DeviceMotionEvent('devicemotion', { accelerationIncludingGravity: { x: %f + 0.02 * Math.random(), y: %f + 0.02 * Math.random(), z: %f } })), 16) })()`,
				x,
				y,
				z,
			),
		),
	)
}

// A tilt by the phone: zeroed on a sill that falls by 2°, then along a cylinder that lies 7° up: 9° to the vehicle. A
// device that feels nothing says so.
func TestATiltByThePhone(t *testing.T) {
	t.Parallel()
	a := start(t, t.TempDir(), freePort(t))
	p := open(t, a.url, 390, 800)
	cylinderJob(p)
	p.goTo("bench")
	p.click("by-phone")
	p.see("phone-none")
	p.key("\x1b")
	p.felt(0, -0.3424, 9.804)
	p.click("by-phone")
	p.until("a figure", `document.querySelector('[data-testid="phone-tilt"] strong')`)
	p.click("phone-zero")
	p.see("phone-take")
	p.felt(0, 1.1955, 9.737)
	p.has("phone-tilt", "9° ± 0.5°")
	p.shot("phone-tilt")
	p.do(chromedp.Evaluate[chromedp.Void](`clearInterval(window.__felt)`)) // taken away half-way
	p.see("phone-none")
	p.felt(0, 1.1955, 9.737)
	p.has("phone-tilt", "9° ± 0.5°")
	p.click("phone-take")
	p.until("the field", `document.querySelector('[data-testid=tilt] input, input[data-testid=tilt]').value == "9"`)
}

// The pedal's travel by the phone on its arm, 300 mm from the pivot: 11.46° of turning are 60 mm; the gate then asks
// that it is off.
func TestAPedalByThePhone(t *testing.T) {
	t.Parallel()
	a := start(t, t.TempDir(), freePort(t))
	p := open(t, a.url, 390, 800)
	signIn(p)
	newJob(p, "Pedal job", "car-diagonal-vacuum")
	p.goTo("verify")
	p.click("no-gauge-yes")
	p.see("firm")
	p.felt(0, 9.81, 0)
	p.click("by-phone")
	p.fill("phone-radius", "300")
	p.click("phone-begin")
	p.has("phone-travel", "hold for a second")
	p.felt(0, 9.6144, 1.949)
	p.until("a foot that has held for a moment", "performance.now() - window.__feltFrom > 1500")
	p.click("phone-end")
	p.has("phone-travel", "±")
	p.shot("phone-pedal")
	p.click("phone-take")
	p.until(
		"the field",
		`Math.abs(Number((document.querySelector('[data-testid=firm] input') ?? document.querySelector('input[data-testid=firm]')).value) - 60) < 1`,
	)
	p.click("firm-store")
	p.until("the gate asks", `document.body.innerText.includes("Phone off the pedal")`)
}

// An iPhone asks by a tap, and tells gravity the other way round: the same tilt comes of it; not allowed, the page says what to do.
// Held by a stub: there is none here.
func TestATiltByAnIPhone(t *testing.T) {
	t.Parallel()
	a := start(t, t.TempDir(), freePort(t))
	p := open(t, a.url, 390, 800)
	cylinderJob(p)
	p.goTo("bench")
	p.do(
		chromedp.Evaluate[chromedp.Void](
			`(() => { window.__says = 'denied'; DeviceMotionEvent.requestPermission = () => Promise.resolve(window.__says) })()`,
		),
	)
	p.felt(0, -1.1955, -9.737)
	p.click("by-phone")
	p.see("phone-allow")
	p.shot("phone-allow")
	p.click("phone-allow")
	p.has("phone-none", "not allowed")
	p.key("\x1b")
	p.do(chromedp.Evaluate[chromedp.Void](`window.__says = 'granted'`))
	p.click("by-phone")
	p.click("phone-allow")
	p.click("phone-skip")
	p.until("7 degrees up", `/^(6\.9|7|7\.1)° ± 1°/.test(document.querySelector('[data-testid="phone-tilt"] strong')?.textContent)`)
}
