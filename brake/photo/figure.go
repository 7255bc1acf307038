package photo

import (
	"math"

	"geminate/brake/strict"
)

// figure works one wanted thing out, with its interval: the doubt of camera, reference, height and taps through the
// slope of the figure by each (first order), the camera's with what its parameters share.
func (a *Ask) figure(c *camera, w Wanted) (Figure, error) {
	taps, found := a.Seen.of(w)
	errPX := make([]float64, len(taps))
	for i, t := range taps {
		errPX[i] = t.errorPX()
		if found {
			errPX[i] = foundPX(len(taps) / w.Kind.Circles())
		}
	}
	below, belowErr := a.Plane.below(c.size)
	mm := func(p *[params]float64, below float64, taps []Tap) float64 {
		v := c.at(p)
		return w.Kind.of(&v, below, taps)
	}
	f := Figure{ID: w.ID, Kind: w.Kind, MM: mm(&c.p, below, taps), Found: found}
	if math.IsNaN(f.MM) || math.IsInf(f.MM, 0) || f.MM > farMostMM {
		return f, strict.Refuse("photo.points", map[string]any{"id": w.ID})
	}

	var slope [params]float64
	for k := range params {
		step := math.Sqrt(c.cov[k][k]) / 4
		if step == 0 {
			continue
		}
		more, less := c.p, c.p
		more[k] += step
		less[k] -= step
		slope[k] = (mm(&more, below, taps) - mm(&less, below, taps)) / (2 * step)
	}
	all := c.spread(slope)
	// What the lens alone would leave with the reference known as it is: the rest is the reference's.
	lens := 0.0
	for _, k := range []int{pFocal, pRadial, pMidX, pMidY} {
		lens += slope[k] * slope[k] * c.cov[k][k]
	}
	lens = math.Min(lens, all) + math.Pow(restShare*f.MM, 2)
	all += math.Pow(restShare*f.MM, 2)
	var tapped float64
	for i := range taps {
		for _, d := range []Point{{1, 0}, {0, 1}} {
			moved := append([]Tap{}, taps...)
			moved[i].Point = taps[i].plus(d.by(0.5))
			more := mm(&c.p, below, moved)
			moved[i].Point = taps[i].minus(d.by(0.5))
			s := (more - mm(&c.p, below, moved)) * errPX[i]
			tapped += s * s
		}
	}
	h := (mm(&c.p, below+belowErr, taps) - mm(&c.p, below-belowErr, taps)) / 2
	f.Doubt = Doubt{TapsMM: confidence * math.Sqrt(tapped), ReferenceMM: confidence * math.Sqrt(all-lens),
		LensMM: confidence * math.Sqrt(lens), HeightMM: confidence * math.Abs(h)}
	half := confidence * math.Sqrt(tapped+all+h*h)
	f.LowMM, f.HighMM, f.Most = math.Max(0, f.MM-half), f.MM+half, f.Doubt.most()
	f.taken()
	return f, nil
}

// farMostMM is farther than anything on a unit or a sheet lies from anything else: beyond it the points lie near the
// horizon.
const farMostMM = 2000

// spread is the variance of a figure with this slope.
func (c *camera) spread(slope [params]float64) float64 {
	var sum float64
	for i := range params {
		for j := range params {
			sum += slope[i] * slope[j] * c.cov[i][j]
		}
	}
	return math.Max(0, sum)
}

// of works the figure of a kind out of points of the picture.
func (k Kind) of(v *view, below float64, taps []Tap) float64 {
	on := make([]Point, len(taps))
	for i, t := range taps {
		on[i] = v.onPlane(t.Point, below)
	}
	switch k {
	case Circle:
		_, r := FitCircle(on)
		return 2 * r
	case Centres:
		one, _ := FitCircle(on[:len(on)/2])
		two, _ := FitCircle(on[len(on)/2:])
		return two.minus(one).long()
	case FromLine:
		along := on[1].minus(on[0])
		return math.Abs(along.cross(on[2].minus(on[0]))) / along.long()
	}
	return on[1].minus(on[0]).long()
}

// FitCircle is the circle through points by Taubin's fit (G. Taubin, IEEE PAMI 13, 1991, solved by Newton's steps):
// through three it goes, of more it is the one that is off least, and short arcs do not pull it in. NaN where they lie
// on a line.
func FitCircle(points []Point) (centre Point, radius float64) {
	n := float64(len(points))
	var mid Point
	for _, p := range points {
		mid = mid.plus(p.by(1 / n))
	}
	var xx, yy, xy, xz, yz, zz float64
	for _, p := range points {
		d := p.minus(mid)
		z := d.X*d.X + d.Y*d.Y
		xx, yy, xy = xx+d.X*d.X/n, yy+d.Y*d.Y/n, xy+d.X*d.Y/n
		xz, yz, zz = xz+d.X*z/n, yz+d.Y*z/n, zz+z*z/n
	}
	z, cov := xx+yy, xx*yy-xy*xy
	a3, a2 := 4*z, -3*z*z-zz
	a1 := zz*z + 4*cov*z - xz*xz - yz*yz - z*z*z
	a0 := xz*xz*yy + yz*yz*xx - zz*cov - 2*xz*yz*xy + z*z*cov
	x := 0.0
	for range 30 {
		step := (a0 + x*(a1+x*(a2+x*a3))) / (a1 + x*(2*a2+3*a3*x))
		if math.IsNaN(step) || math.IsInf(step, 0) {
			break
		}
		x -= step
		if math.Abs(step) < 1e-12*(1+math.Abs(x)) {
			break
		}
	}
	det := x*x - x*z + cov
	if math.Abs(det) < 1e-9*z*z {
		return Point{math.NaN(), math.NaN()}, math.NaN()
	}
	c := Point{(xz*(yy-x) - yz*xy) / det / 2, (yz*(xx-x) - xz*xy) / det / 2}
	return mid.plus(c), math.Sqrt(c.X*c.X + c.Y*c.Y + z)
}
