// Package darkroom makes pictures of things nobody photographed: a flange with its studs, and something of known size
// beside it, as a pinhole with a lens, a shaking hand and a noisy sensor would draw them. It shares nothing with what
// measures on pictures: its camera is told by where it stands and what it looks at, its lens bends the other way round,
// its light is worked out ray by ray.
//
// Lengths mm, angles degrees, points of the picture px, x to the right and y down.
package darkroom

import (
	"image"
	"image/color"
	"math"
	"math/rand/v2"
	"sync"
)

// Camera is one picture's.
type Camera struct {
	WidePX, HighPX int
	// FieldDeg is its field of view across the longer side.
	FieldDeg float64
	// AwayMM is how far it is from what it looks at; SlantDeg how far from straight above, RoundDeg in which direction
	// of the table, RollDeg how it is turned about its own axis.
	AwayMM, SlantDeg, RoundDeg, RollDeg float64
	// AtXMM, AtYMM is the point of the table it looks at.
	AtXMM, AtYMM float64
	// Bend is the lens: a ray at the tangent r from the axis is drawn at r(1 + Bend·r²).
	Bend float64
	// BlurPX is the spread of the blur, NoiseOf255 that of a pixel's noise.
	BlurPX, NoiseOf255 float64
	Seed               uint64
}

// Thing is what a picture shows: how light it is at a point of a height over the table, negative where it is not there.
type Thing struct {
	HeightMM float64
	Light    func(x, y float64) float64
}

type vec [3]float64

func (a vec) plus(b vec, k float64) vec { return vec{a[0] + k*b[0], a[1] + k*b[1], a[2] + k*b[2]} }
func (a vec) dot(b vec) float64         { return a[0]*b[0] + a[1]*b[1] + a[2]*b[2] }
func (a vec) cross(b vec) vec {
	return vec{a[1]*b[2] - a[2]*b[1], a[2]*b[0] - a[0]*b[2], a[0]*b[1] - a[1]*b[0]}
}
func (a vec) unit() vec { return vec{}.plus(a, 1/math.Sqrt(a.dot(a))) }

// pose is where the camera stands and how it is turned: eye, right, down, forward. The table is z = 0, z up.
func (c *Camera) pose() (eye, right, down, ahead vec) {
	sl, cl := math.Sincos(c.SlantDeg * math.Pi / 180)
	sr, cr := math.Sincos(c.RoundDeg * math.Pi / 180)
	at := vec{c.AtXMM, c.AtYMM, 0}
	eye = at.plus(vec{sl * cr, sl * sr, cl}, c.AwayMM)
	ahead = at.plus(eye, -1).unit()
	up := vec{-cr, -sr, 0} // away from the eye along the table, so that slant 0 has a top as well
	if sl == 0 {
		up = vec{0, 1, 0}
	}
	right = ahead.cross(up).unit()
	down = ahead.cross(right)
	so, co := math.Sincos(c.RollDeg * math.Pi / 180)
	r := vec{}.plus(right, co).plus(down, so)
	d := vec{}.plus(right, -so).plus(down, co)
	return eye, r, d, ahead
}

func (c *Camera) focalPX() float64 {
	return math.Max(float64(c.WidePX), float64(c.HighPX)) / 2 / math.Tan(c.FieldDeg/2*math.Pi/180)
}

// Draws is where a point (x, y of the table, z over it) is drawn, px.
func (c *Camera) Draws(x, y, z float64) (px, py float64) {
	eye, right, down, ahead := c.pose()
	d := vec{x, y, z}.plus(eye, -1)
	nx, ny := d.dot(right)/d.dot(ahead), d.dot(down)/d.dot(ahead)
	k := 1 + c.Bend*(nx*nx+ny*ny)
	f := c.focalPX()
	return float64(c.WidePX)/2 + f*nx*k, float64(c.HighPX)/2 + f*ny*k
}

// ray is the direction that is drawn at a point: the lens is turned round.
func (c *Camera) ray(px, py float64, right, down, ahead vec) vec {
	f := c.focalPX()
	x, y := (px-float64(c.WidePX)/2)/f, (py-float64(c.HighPX)/2)/f
	far := math.Hypot(x, y)
	r := far
	for range 8 { // Newton's steps on r(1 + Bend·r²) = far
		r -= (r*(1+c.Bend*r*r) - far) / (1 + 3*c.Bend*r*r)
	}
	if far > 0 {
		x, y = x*r/far, y*r/far
	}
	return ahead.plus(right, x).plus(down, y)
}

// Take draws the things, the highest first, over a grey table.
func (c *Camera) Take(things ...Thing) *image.Gray {
	const sub = 2 // rays a side of a pixel
	eye, right, down, ahead := c.pose()
	light := make([]float64, c.WidePX*c.HighPX)
	var rows sync.WaitGroup
	for y := range c.HighPX {
		rows.Go(func() {
			for x := range c.WidePX {
				var sum float64
				for s := range sub * sub {
					d := c.ray(float64(x)+(float64(s%sub)+0.5)/sub, float64(y)+(float64(s/sub)+0.5)/sub, right, down, ahead)
					sum += lightAt(eye, d, things)
				}
				light[y*c.WidePX+x] = sum / sub / sub
			}
		})
	}
	rows.Wait()
	light = blurred(light, c.WidePX, c.HighPX, c.BlurPX)
	noise := rand.New(rand.NewPCG(c.Seed, 7))
	out := image.NewGray(image.Rect(0, 0, c.WidePX, c.HighPX))
	for i, v := range light {
		out.SetGray(i%c.WidePX, i/c.WidePX, color.Gray{Y: uint8(math.Max(0, math.Min(255, v+c.NoiseOf255*noise.NormFloat64())))})
	}
	return out
}

func lightAt(eye, d vec, things []Thing) float64 {
	for _, t := range things {
		s := (t.HeightMM - eye[2]) / d[2]
		if s <= 0 {
			continue
		}
		p := eye.plus(d, s)
		if v := t.Light(p[0], p[1]); v >= 0 {
			return v
		}
	}
	s := -eye[2] / d[2]
	p := eye.plus(d, s)
	return 96 + 6*math.Sin(p[0]/7)*math.Sin(p[1]/11) // a bench that is not quite even
}

// blurred spreads light by a bell of so many px, across and down.
func blurred(in []float64, wide, high int, px float64) []float64 {
	if px <= 0 {
		return in
	}
	n := int(math.Ceil(3 * px))
	bell := make([]float64, 2*n+1)
	var sum float64
	for i := range bell {
		bell[i] = math.Exp(-float64((i-n)*(i-n)) / 2 / px / px)
		sum += bell[i]
	}
	pass := func(in []float64, dx, dy int) []float64 {
		out := make([]float64, len(in))
		for y := range high {
			for x := range wide {
				var v float64
				for i, b := range bell {
					xx, yy := max(0, min(wide-1, x+(i-n)*dx)), max(0, min(high-1, y+(i-n)*dy))
					v += b * in[yy*wide+xx]
				}
				out[y*wide+x] = v / sum
			}
		}
		return out
	}
	return pass(pass(in, 1, 0), 0, 1)
}
