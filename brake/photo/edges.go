package photo

import (
	"math"
	"slices"

	"geminate/brake/strict"
)

// Luma is a picture's brightness, row by row, 0 to 255.
type Luma struct {
	WidePX, HighPX int
	Y              []byte
}

// at is the brightness between pixels, by the four around it; the edge goes on outside.
func (l *Luma) at(p Point) float64 {
	x, y := math.Max(0, math.Min(p.X-0.5, float64(l.WidePX-1))), math.Max(0, math.Min(p.Y-0.5, float64(l.HighPX-1)))
	x0, y0 := int(x), int(y)
	x1, y1 := min(x0+1, l.WidePX-1), min(y0+1, l.HighPX-1)
	fx, fy := x-float64(x0), y-float64(y0)
	v := func(x, y int) float64 { return float64(l.Y[y*l.WidePX+x]) }
	return (v(x0, y0)*(1-fx)+v(x1, y0)*fx)*(1-fy) + (v(x0, y1)*(1-fx)+v(x1, y1)*fx)*fy
}

// How edges are looked for. Assumptions, tried on made pictures: so many places along a side; a reach about the line
// that was tapped of a twenty-fifth of the side, within bounds; so steep, in brightness a px, to be an edge; of one
// edge while within onePX of it.
const (
	sidePlaces, circlePlaces  = 28, 40
	reachLeastPX, reachMostPX = 5, 16
	steepLeast                = 4.0
	onePX                     = 1.5
	enoughShare               = 0.6
	// blurMostPX is how wide the step of a reference's edge may be before a hand must have shaken.
	blurMostPX = 9
	// cornerKeepMM is kept off a corner beside its radius.
	cornerKeepMM = 3
)

// step is the steepest place on a way across an edge.
type step struct {
	at    Point
	slope float64 // brightness a px, with its sign from the inside out
	wide  float64 // px from dark to light
}

// across finds the steepest step on the way from p along the unit vector d, reach px both ways, of one sign where sign
// is not 0.
func (l *Luma) across(p, d Point, reach float64, sign float64) (step, bool) {
	const every = 0.5
	n := int(2*reach/every) + 1
	along := Point{-d.Y, d.X}
	v := make([]float64, n+4) // a mean of three beside each other: noise has no direction
	for i := range v {
		at := p.plus(d.by((float64(i)-2)*every - reach))
		v[i] = (l.at(at) + l.at(at.plus(along)) + l.at(at.minus(along))) / 3
	}
	slope := func(i int) float64 { return (v[i+2] - v[i-2]) / (4 * every) }
	best := -1
	for i := 3; i < len(v)-3; i++ {
		s := slope(i)
		if sign*s < 0 {
			continue
		}
		if best < 0 || math.Abs(s) > math.Abs(slope(best)) {
			best = i
		}
	}
	if best < 0 || math.Abs(slope(best)) < steepLeast {
		return step{}, false
	}
	// The middle of the slope about its steepest, by weight: half a px each way of what is steeper than half of it.
	top := math.Abs(slope(best))
	var sum, mid float64
	for i := max(2, best-8); i <= min(len(v)-3, best+8); i++ {
		if s := math.Abs(slope(i)); s > top/2 && slope(i)*slope(best) > 0 {
			sum, mid = sum+s, mid+s*float64(i)
		}
	}
	lo, hi := best, best
	for lo > 2 && math.Abs(slope(lo)) > top/4 {
		lo--
	}
	for hi < len(v)-3 && math.Abs(slope(hi)) > top/4 {
		hi++
	}
	at := (mid/sum-2)*every - reach
	return step{p.plus(d.by(at)), slope(best), float64(hi-lo) * every}, true
}

// sides finds the reference's sides; nil where one of them is not clear.
func (l *Luma) sides(quad [4]Tap, c *camera) ([][]Point, error) {
	v := c.at(&c.p)
	var out [][]Point
	var wide []float64
	clear := true
	for i := range 4 {
		a, b := quad[i].Point, quad[(i+1)%4].Point
		long := b.minus(a).long()
		along := b.minus(a).by(1 / long)
		outward := Point{along.Y, -along.X} // the corners go clockwise
		reach := math.Max(reachLeastPX, math.Min(long/25, reachMostPX))
		mm := v.onPlane(b, 0).minus(v.onPlane(a, 0)).long()
		keep := math.Min(0.3, (c.size.cornerMM+cornerKeepMM)/mm)
		found, all := l.alongLine(a, b, outward, reach, keep)
		for _, s := range all {
			wide = append(wide, s.wide)
		}
		clear = clear && found != nil
		var points []Point
		for _, s := range found {
			points = append(points, s.at)
		}
		out = append(out, points)
	}
	slices.Sort(wide)
	if len(wide) > sidePlaces && wide[len(wide)/2] > blurMostPX {
		return nil, strict.Refuse("photo.blurred", map[string]any{"px": wide[len(wide)/2], "most": blurMostPX})
	}
	if !clear {
		return nil, nil
	}
	return out, nil
}

// alongLine finds the points of one edge near the line from a to b: of all steps found, those that most of them share a
// line with; nil where they are too few.
func (l *Luma) alongLine(a, b, outward Point, reach, keep float64) (line, all []step) {
	find := func(sign float64) (line, all []step) {
		for k := range sidePlaces {
			f := keep + (1-2*keep)*(float64(k)+0.5)/sidePlaces
			if s, ok := l.across(a.plus(b.minus(a).by(f)), outward, reach, sign); ok {
				all = append(all, s)
			}
		}
		return onOneLine(all), all
	}
	// Lighter or darker outside: the one of which more lies on a line.
	line, all = find(1)
	if two, others := find(-1); len(two) > len(line) || len(two) == len(line) && strength(two) > strength(line) {
		line, all = two, others
	}
	if float64(len(line)) < enoughShare*sidePlaces {
		line = nil
	}
	return line, all
}

func strength(steps []step) (sum float64) {
	for _, s := range steps {
		sum += math.Abs(s.slope)
	}
	return sum
}

// onOneLine are those that lie within onePX of the line through two of them that has the most such.
func onOneLine(all []step) []step {
	var best []step
	for i := range all {
		for j := i + sidePlaces/4; j < len(all); j++ {
			d := all[j].at.minus(all[i].at)
			long := d.long()
			var on []step
			for _, s := range all {
				if math.Abs(d.cross(s.at.minus(all[i].at)))/long <= onePX {
					on = append(on, s)
				}
			}
			if len(on) > len(best) {
				best = on
			}
		}
	}
	return best
}

// circle finds the points of an edge near a tapped circle; nil where it is not clear.
func (l *Luma) circle(v *view, below float64, taps []Tap) []Point {
	on := make([]Point, len(taps))
	for i, t := range taps {
		on[i] = v.onPlane(t.Point, below)
	}
	centre, r := FitCircle(on)
	if math.IsNaN(r) {
		return nil
	}
	find := func(sign float64) []Point {
		var out, plane []Point
		for k := range circlePlaces {
			s, c := math.Sincos(2 * math.Pi * float64(k) / circlePlaces)
			in := v.draw(centre.X+0.9*r*c, centre.Y+0.9*r*s, below)
			edge := v.draw(centre.X+r*c, centre.Y+r*s, below)
			d := edge.minus(in)
			if d.long() == 0 {
				return nil
			}
			reach := math.Max(2, math.Min(3.5*d.long(), reachMostPX)) // a third of the radius
			if st, ok := l.across(edge, d.by(1/d.long()), reach, sign); ok {
				out, plane = append(out, st.at), append(plane, v.onPlane(st.at, below))
			}
		}
		return onOneCircle(v, out, plane)
	}
	one, two := find(1), find(-1)
	if len(two) > len(one) {
		one = two
	}
	if float64(len(one)) < enoughShare*circlePlaces {
		return nil
	}
	return one
}

// onOneCircle drops, again and again, what lies off the circle of the rest.
func onOneCircle(v *view, out, plane []Point) []Point {
	for range 6 {
		if len(plane) < circleLeast {
			return nil
		}
		c, r := FitCircle(plane)
		off := make([]float64, len(plane))
		for i, p := range plane {
			off[i] = math.Abs(p.minus(c).long() - r)
		}
		sorted := slices.Sorted(slices.Values(off))
		px := v.onPlane(out[0], 0).minus(v.onPlane(out[0].plus(Point{1, 0}), 0)).long()
		most := math.Max(2.5*sorted[len(sorted)/2], 0.5*px)
		var keepOut, keep []Point
		for i := range plane {
			if off[i] <= most {
				keepOut, keep = append(keepOut, out[i]), append(keep, plane[i])
			}
		}
		same := len(keep) == len(plane)
		out, plane = keepOut, keep
		if same {
			break
		}
	}
	return out
}

// Find looks for edges near what was tapped. What is not clear is left as it was tapped; a picture that is blurred is
// refused.
func Find(l *Luma, a Ask) (*Seen, error) {
	a.Seen = nil
	if err := a.Check(); err != nil {
		return nil, err
	}
	if l.WidePX != a.WidePX || l.HighPX != a.HighPX || len(l.Y) != a.WidePX*a.HighPX {
		return nil, strict.FaultAt("$.picture", "fault.picture_size", nil)
	}
	quad, err := a.quad()
	if err != nil {
		return nil, err
	}
	c, err := a.camera()
	if err != nil {
		return nil, err
	}
	out := &Seen{Circles: map[string][][]Point{}}
	// Twice: the second time from corners where the first found the sides to cross, so that the reach lies about the
	// edge.
	for range 2 {
		sides, err := l.sides(quad, c)
		if err != nil {
			return nil, err
		}
		out.Sides = rounded(sides)
		if sides == nil {
			break
		}
		for i := range quad {
			quad[i].Point = crossing(sides[(i+3)%4], sides[i])
		}
	}
	a.Seen = out
	if c, err = a.camera(); err != nil { // the edges are of something else: the taps stand
		out.Sides = nil
		if c, err = a.camera(); err != nil {
			return nil, err
		}
	}
	v := c.at(&c.p)
	below, _ := a.Plane.below(c.size)
	for _, w := range a.Want {
		n := w.Kind.Circles()
		if n == 0 {
			continue
		}
		var circles [][]Point
		for i := range n {
			taps := w.Points[i*len(w.Points)/n : (i+1)*len(w.Points)/n]
			if found := l.circle(&v, below, taps); found != nil {
				circles = append(circles, found)
			}
		}
		if len(circles) == n {
			out.Circles[w.ID] = rounded(circles)
		}
	}
	return out, nil
}

// rounded keeps hundredths of a px: finer is noise.
func rounded(lists [][]Point) [][]Point {
	for _, l := range lists {
		for i, p := range l {
			l[i] = Point{math.Round(100*p.X) / 100, math.Round(100*p.Y) / 100}
		}
	}
	return lists
}

// crossing is where the lines along two lists of points cross.
func crossing(a, b []Point) Point {
	pa, da := lineOf(a)
	pb, db := lineOf(b)
	s := pb.minus(pa).cross(db) / da.cross(db)
	return pa.plus(da.by(s))
}

// lineOf is the line of least distance through points: its middle and its direction.
func lineOf(points []Point) (mid, along Point) {
	for _, p := range points {
		mid = mid.plus(p.by(1 / float64(len(points))))
	}
	var xx, yy, xy float64
	for _, p := range points {
		d := p.minus(mid)
		xx, yy, xy = xx+d.X*d.X, yy+d.Y*d.Y, xy+d.X*d.Y
	}
	s, c := math.Sincos(math.Atan2(2*xy, xx-yy) / 2)
	return mid, Point{c, s}
}
