package photo

import (
	"math"

	"geminate/brake/strict"
)

// The camera: a pinhole with one radial term, looking at a plane of which a rectangle is known. With four corners the
// map of the plane follows from them alone (Hartley and Zisserman, Multiple View Geometry, 2nd ed., algorithm 4.2:
// normalised direct linear transformation). It begins what follows: the parameters of least distance in the picture
// (their algorithm 4.3), here with what is known of the camera and the reference beforehand, so that the doubt in each
// comes out with it.

// Parameters, in this order: a turn (three, radians), where the reference's first corner is seen from the camera
// (three, mm), the logarithm of the focal length (px), the radial term, the middle of the lens beside that of the
// picture (px, two), and what the reference is longer than its standard (mm, two).
const (
	pTurn, pAt, pFocal, pRadial, pMidX, pMidY, pLong, pShort, params = 0, 3, 6, 7, 8, 9, 10, 11, 12
)

// What is known of a camera beforehand, one standard deviation each; assumptions. A phone's own program straightens its
// lens but for a few thousandths; a picture may be cut to a part. A field of view that was told is rounded, and told
// for another side.
const (
	fieldDeg       = 70.0 // across the longer side: phones' first lenses have 65 to 75
	focalError     = 0.15
	focalToldError = 0.04
	radialError    = 0.045
	midError       = 0.015 // of the longer side
	edgePX         = 0.2   // a point of a side as it was found, by itself
	bleedPX        = 0.15  // what all points of a side are off by alike: light spills over an edge
	restShare      = 0.001 // of a length: what one radial term leaves of a lens
)

// camera is a picture's camera with the doubt left in it.
type camera struct {
	wide, high float64
	size       size
	base       [9]float64 // the turn it began with, by rows
	sides      [4]int     // which of the corners, in their order round, is the first of the reference's, and so on
	p          [params]float64
	prior      [params]struct{ mean, err float64 }
	cov        symmetric // of p
}

// rotation is the turn by a vector (Rodrigues) after the one it began with.
func (c *camera) rotation(p *[params]float64) [9]float64 {
	return times(rodrigues(p[pTurn], p[pTurn+1], p[pTurn+2]), c.base)
}

func rodrigues(x, y, z float64) [9]float64 {
	a := math.Sqrt(x*x + y*y + z*z)
	if a < 1e-12 {
		return [9]float64{1, -z, y, z, 1, -x, -y, x, 1}
	}
	x, y, z = x/a, y/a, z/a
	s, k := math.Sin(a), 1-math.Cos(a)
	return [9]float64{
		1 - k*(y*y+z*z), k*x*y - s*z, k*x*z + s*y,
		k*x*y + s*z, 1 - k*(x*x+z*z), k*y*z - s*x,
		k*x*z - s*y, k*y*z + s*x, 1 - k*(x*x+y*y),
	}
}

func times(a, b [9]float64) (out [9]float64) {
	for i := range 3 {
		for j := range 3 {
			for k := range 3 {
				out[3*i+j] += a[3*i+k] * b[3*k+j]
			}
		}
	}
	return out
}

// view is a camera at one set of its parameters, ready to be asked.
type view struct {
	r               [9]float64
	t               [3]float64
	f, k, mx, my    float64
	longMM, shortMM float64
	normal          [3]float64
	planeAt         float64
}

func (c *camera) at(p *[params]float64) view {
	v := view{r: c.rotation(p), t: [3]float64{p[pAt], p[pAt+1], p[pAt+2]}, f: math.Exp(p[pFocal]), k: p[pRadial],
		mx: c.wide/2 + p[pMidX], my: c.high/2 + p[pMidY], longMM: c.size.longMM + p[pLong], shortMM: c.size.shortMM + p[pShort]}
	v.normal = [3]float64{v.r[2], v.r[5], v.r[8]}
	v.planeAt = v.normal[0]*v.t[0] + v.normal[1]*v.t[1] + v.normal[2]*v.t[2]
	return v
}

// draw is where a point of the plane (mm; z is away from the camera) is seen.
func (v *view) draw(x, y, z float64) Point {
	cx := v.r[0]*x + v.r[1]*y + v.r[2]*z + v.t[0]
	cy := v.r[3]*x + v.r[4]*y + v.r[5]*z + v.t[1]
	cz := v.r[6]*x + v.r[7]*y + v.r[8]*z + v.t[2]
	nx, ny := cx/cz, cy/cz
	d := 1 + v.k*(nx*nx+ny*ny)
	return Point{v.mx + v.f*nx*d, v.my + v.f*ny*d}
}

// straighten takes the lens out of a point of the picture: the direction it is seen in. The radial term is turned round
// by going to where it no longer changes.
func (v *view) straighten(p Point) (nx, ny float64) {
	ux, uy := (p.X-v.mx)/v.f, (p.Y-v.my)/v.f
	nx, ny = ux, uy
	for range 6 {
		d := 1 + v.k*(nx*nx+ny*ny)
		if d < 0.2 { // far outside of what one term can tell
			break
		}
		nx, ny = ux/d, uy/d
	}
	return nx, ny
}

// onPlane is the point of a plane belowMM beyond the reference's that is seen there, mm.
func (v *view) onPlane(p Point, belowMM float64) Point {
	nx, ny := v.straighten(p)
	s := (v.planeAt + belowMM) / (v.normal[0]*nx + v.normal[1]*ny + v.normal[2])
	x, y, z := s*nx-v.t[0], s*ny-v.t[1], s-v.t[2]
	return Point{v.r[0]*x + v.r[3]*y + v.r[6]*z, v.r[1]*x + v.r[4]*y + v.r[7]*z}
}

// corners of the reference in its plane, the way its corners are told.
func (v *view) corners() [4]Point {
	return [4]Point{{0, 0}, {v.longMM, 0}, {v.longMM, v.shortMM}, {0, v.shortMM}}
}

// camera finds the camera of an ask.
func (a *Ask) camera() (*camera, error) {
	quad, err := a.quad()
	if err != nil {
		return nil, err
	}
	var best *camera
	least := math.Inf(1)
	for turn := range 2 { // which of its sides is the long one: the one that such a camera sees so, by its corners
		c := a.blank()
		var q [4]Point
		for i := range 4 {
			q[i] = quad[(i+turn)%4].Point
			c.sides[i] = (i + turn) % 4
		}
		if !c.begin(q) {
			continue
		}
		if cost := c.solve(a.byCorners(c, quad)); cost < least {
			best, least = c, cost
		}
	}
	if best == nil || math.IsInf(least, 1) {
		return nil, strict.Refuse("photo.no_rectangle", nil)
	}
	if a.Seen.sided() { // both edges of a side spill alike, and make it longer or shorter than it is
		_, _, fine := best.stands()
		spill := math.Sqrt2 * bleedPX * fine
		best.prior[pLong].err, best.prior[pShort].err = math.Hypot(best.prior[pLong].err, spill), math.Hypot(best.prior[pShort].err, spill)
		least = best.solve(a.byEdges(best))
	}
	if least > a.misfitMost() {
		return nil, strict.Refuse("photo.not_that", map[string]any{"reference": string(a.Reference)})
	}
	return best, nil
}

// misfitMost is the sum of squares beyond which what was tapped is not that reference seen by such a camera: with four
// corners two figures are left over, and 25 is met by chance once in 300 000; found edges have one more each, and are
// bent by what one term leaves.
func (a *Ask) misfitMost() float64 {
	if !a.Seen.sided() {
		return 25
	}
	n := 0
	for _, s := range a.Seen.Sides {
		n += len(s)
	}
	return 25 + 3*float64(n)
}

// quad are the corners in their order round, clockwise as seen in the picture.
func (a *Ask) quad() (quad [4]Tap, err error) {
	var mid Point
	for _, c := range a.Corners {
		mid = mid.plus(c.Point.by(0.25))
	}
	order := [4]int{0, 1, 2, 3}
	angle := func(i int) float64 { d := a.Corners[i].minus(mid); return math.Atan2(d.Y, d.X) }
	for i := range order { // four: by hand
		for j := i + 1; j < 4; j++ {
			if angle(order[j]) < angle(order[i]) {
				order[i], order[j] = order[j], order[i]
			}
		}
	}
	for i, k := range order {
		quad[i] = a.Corners[k]
	}
	for i := range 4 {
		one, two := quad[(i+1)%4].minus(quad[i].Point), quad[(i+2)%4].minus(quad[(i+1)%4].Point)
		if one.long() < 1 || one.cross(two) < 0.02*one.long()*two.long() {
			return quad, strict.Refuse("photo.no_rectangle", nil)
		}
	}
	return quad, nil
}

// blank is a camera of which nothing is known but what is known beforehand.
func (a *Ask) blank() *camera {
	c := &camera{wide: float64(a.WidePX), high: float64(a.HighPX), size: sizes[a.Reference]}
	if a.Reference == Target {
		scale := *a.BarMM / TargetBarMM
		c.size.longMM, c.size.shortMM = TargetLongMM*scale, TargetShortMM*scale
		c.size.longErrorMM, c.size.shortErrorMM = barErrorMM*TargetLongMM/TargetBarMM, barErrorMM*TargetShortMM/TargetBarMM
	}
	long := math.Max(c.wide, c.high)
	field, focal := fieldDeg, focalError
	if a.FieldDeg != nil {
		field, focal = *a.FieldDeg, focalToldError
	}
	c.p[pFocal] = math.Log(long / 2 / math.Tan(field/2*math.Pi/180))
	if a.Focal35MM != nil && a.FieldDeg == nil { // equivalent by the diagonal of 24 × 36 mm
		c.p[pFocal], focal = math.Log(*a.Focal35MM/math.Hypot(24, 36)*math.Hypot(c.wide, c.high)), focalToldError
	}
	for i := range c.prior {
		c.prior[i].mean = c.p[i]
	}
	c.prior[pFocal].err, c.prior[pRadial].err = focal, radialError
	c.prior[pMidX].err, c.prior[pMidY].err = midError*long, midError*long
	c.prior[pLong].err, c.prior[pShort].err = c.size.longErrorMM, c.size.shortErrorMM
	return c
}

// Homography takes points of a plane to points of a picture, or back, by four pairs. Rows of the 3 × 3 matrix, the last
// 1; false where the points do not carry one: three of them on a line. Hartley and Zisserman, algorithm 4.2, for the
// least number of points.
func Homography(from, to [4]Point) (h [9]float64, ok bool) {
	ft, fs := normalised(from)
	tt, ts := normalised(to)
	var m [8][9]float64
	for i := range 4 {
		p, q := fs[i], ts[i]
		m[2*i] = [9]float64{p.X, p.Y, 1, 0, 0, 0, -q.X * p.X, -q.X * p.Y, q.X}
		m[2*i+1] = [9]float64{0, 0, 0, p.X, p.Y, 1, -q.Y * p.X, -q.Y * p.Y, q.Y}
	}
	x, ok := eight(m)
	if !ok {
		return h, false
	}
	copy(h[:], x[:])
	h[8] = 1
	// Back from the normalised: inverse of the to's, times h, times the from's.
	inv := [9]float64{1 / tt[0], 0, -tt[1] / tt[0], 0, 1 / tt[0], -tt[2] / tt[0], 0, 0, 1}
	h = times(times(inv, h), [9]float64{ft[0], 0, ft[1], 0, ft[0], ft[2], 0, 0, 1})
	if math.Abs(h[8]) < 1e-15 {
		return h, false
	}
	for i := range h {
		h[i] /= h[8]
	}
	return h, true
}

// normalised moves points to their middle and to a mean distance of √2 of it: scale and shift, and the points so.
func normalised(points [4]Point) (t [3]float64, out [4]Point) {
	var mid Point
	for _, p := range points {
		mid = mid.plus(p.by(1 / float64(len(points))))
	}
	var far float64
	for _, p := range points {
		far += p.minus(mid).long() / float64(len(points))
	}
	s := math.Sqrt2 / math.Max(far, 1e-12)
	for i, p := range points {
		out[i] = p.minus(mid).by(s)
	}
	return [3]float64{s, -s * mid.X, -s * mid.Y}, out
}

// begin takes the first turn and place from the plane's map: its columns are the plane's axes as the camera sees them.
func (c *camera) begin(q [4]Point) bool {
	plane := [4]Point{{0, 0}, {c.size.longMM, 0}, {c.size.longMM, c.size.shortMM}, {0, c.size.shortMM}}
	h, ok := Homography(plane, q)
	if !ok {
		return false
	}
	f := math.Exp(c.p[pFocal])
	col := func(i int) [3]float64 {
		return [3]float64{(h[i] - c.wide/2*h[6+i]) / f, (h[3+i] - c.high/2*h[6+i]) / f, h[6+i]}
	}
	long := func(v [3]float64) float64 { return math.Sqrt(v[0]*v[0] + v[1]*v[1] + v[2]*v[2]) }
	a, b, t := col(0), col(1), col(2)
	s := math.Sqrt(long(a) * long(b))
	if s < 1e-15 || math.IsNaN(s) {
		return false
	}
	if t[2] < 0 {
		s = -s
	}
	for i := range 3 {
		a[i], b[i], t[i] = a[i]/s, b[i]/s, t[i]/s
	}
	// a and b made unit and square to each other, both turned alike
	la := long(a)
	for i := range 3 {
		a[i] /= la
	}
	dot := a[0]*b[0] + a[1]*b[1] + a[2]*b[2]
	for i := range 3 {
		b[i] -= dot * a[i]
	}
	lb := long(b)
	if lb < 1e-9 {
		return false
	}
	for i := range 3 {
		b[i] /= lb
	}
	n := [3]float64{a[1]*b[2] - a[2]*b[1], a[2]*b[0] - a[0]*b[2], a[0]*b[1] - a[1]*b[0]}
	c.base = [9]float64{a[0], b[0], n[0], a[1], b[1], n[1], a[2], b[2], n[2]}
	c.p[pAt], c.p[pAt+1], c.p[pAt+2] = t[0], t[1], t[2]
	return true
}
