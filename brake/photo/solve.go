package photo

import (
	"math"
)

// residuals are what a camera at some parameters leaves between what it would draw and what is in the picture, each by
// its error.
type residuals func(p *[params]float64, out []float64) []float64

// byCorners takes the corners as they were tapped.
func (a *Ask) byCorners(c *camera, quad [4]Tap) residuals {
	return func(p *[params]float64, out []float64) []float64 {
		v := c.at(p)
		for i, k := range v.corners() {
			d := v.draw(k.X, k.Y, 0)
			t := quad[c.sides[i]]
			out = append(out, (d.X-t.X)/t.errorPX(), (d.Y-t.Y)/t.errorPX())
		}
		return out
	}
}

// off is how far a point of the picture lies off one of the reference's sides, mm: along y = 0, x = long, y = short, x
// = 0.
func (v *view) off(side int, q Point) float64 {
	at := v.onPlane(q, 0)
	switch side {
	case 0:
		return at.Y
	case 1:
		return at.X - v.longMM
	case 2:
		return at.Y - v.shortMM
	}
	return at.X
}

// byEdges takes the sides as they were found. What a px is across a side changes little from where it begins: it is
// taken there.
func (a *Ask) byEdges(c *camera) residuals {
	v := c.at(&c.p)
	var across [4][]float64
	for i, s := range c.sides {
		for _, q := range a.Seen.Sides[s] {
			e := v.off(i, q)
			dx, dy := v.off(i, Point{q.X + 0.5, q.Y})-e, v.off(i, Point{q.X, q.Y + 0.5})-e
			across[i] = append(across[i], 2*math.Hypot(dx, dy)+1e-12)
		}
	}
	return func(p *[params]float64, out []float64) []float64 {
		v := c.at(p)
		for i, s := range c.sides {
			for k, q := range a.Seen.Sides[s] {
				out = append(out, v.off(i, q)/across[i][k]/edgePX)
			}
		}
		return out
	}
}

// solve finds the parameters of least distance (Levenberg and Marquardt's steps) and their covariance: the inverse of
// the normal matrix where it ends. It gives the sum of squares left.
func (c *camera) solve(left residuals) float64 {
	all := func(p *[params]float64, out []float64) []float64 {
		out = left(p, out)
		for i, k := range c.prior {
			if k.err > 0 {
				out = append(out, (p[i]-k.mean)/k.err)
			} else if i >= pFocal { // known as it is
				out = append(out, (p[i]-k.mean)/1e-6)
			}
		}
		return out
	}
	sum := func(r []float64) (s float64) {
		for _, x := range r {
			s += x * x
		}
		return s
	}
	r := all(&c.p, nil)
	cost, damp := sum(r), 1e-3
	steps := [params]float64{1e-6, 1e-6, 1e-6, 1e-4, 1e-4, 1e-4, 1e-6, 1e-6, 1e-4, 1e-4, 1e-6, 1e-6}
	var normal symmetric
	side := make([]float64, 0, len(r))
	jac := make([][params]float64, len(r))
	for range 60 {
		for k := range params {
			p := c.p
			p[k] += steps[k]
			side = all(&p, side[:0])
			for i := range r {
				jac[i][k] = (side[i] - r[i]) / steps[k]
			}
		}
		normal = symmetric{}
		var slope [params]float64
		for n := range r {
			for i := range params {
				slope[i] += jac[n][i] * r[n]
				for j := range params {
					normal[i][j] += jac[n][i] * jac[n][j]
				}
			}
		}
		better := false
		for range 12 {
			damped := normal
			for k := range params {
				damped[k][k] = normal[k][k]*(1+damp) + 1e-12
			}
			lower, ok := damped.cholesky()
			if !ok {
				damp *= 10
				continue
			}
			p, step := c.p, lower.solve(slope)
			for k := range params {
				p[k] -= step[k]
			}
			next := all(&p, side[:0])
			if s := sum(next); s < cost {
				better = cost-s > 1e-7*(1+cost)
				c.p, cost, damp = p, s, damp/5
				r = append(r[:0], next...)
				break
			}
			damp *= 5
		}
		if !better {
			break
		}
	}
	lower, ok := normal.cholesky()
	if math.IsNaN(cost) || !ok {
		return math.Inf(1)
	}
	for k := range params { // the inverse, a column at a time
		var one [params]float64
		one[k] = 1
		column := lower.solve(one)
		for i := range params {
			c.cov[i][k] = column[i]
		}
	}
	return cost
}

// stands is how far away the camera was, how slanted it saw the plane, and what a px is there.
func (c *camera) stands() (awayMM, slantDeg, fineMM float64) {
	v := c.at(&c.p)
	mx, my := v.longMM/2, v.shortMM/2
	x := v.r[0]*mx + v.r[1]*my + v.t[0]
	y := v.r[3]*mx + v.r[4]*my + v.t[1]
	z := v.r[6]*mx + v.r[7]*my + v.t[2]
	awayMM = math.Sqrt(x*x + y*y + z*z)
	along := (v.normal[0]*x + v.normal[1]*y + v.normal[2]*z) / awayMM
	return awayMM, math.Acos(math.Min(1, math.Abs(along))) * 180 / math.Pi, z / v.f
}

// shortestSidePX is the shortest side of the reference in the picture.
func (c *camera) shortestSidePX(corners []Tap) float64 {
	v := c.at(&c.p)
	k := v.corners()
	least := math.Inf(1)
	for i := range k {
		one, two := v.draw(k[i].X, k[i].Y, 0), v.draw(k[(i+1)%4].X, k[(i+1)%4].Y, 0)
		least = math.Min(least, two.minus(one).long())
	}
	return least
}

// square is the map from the picture to the plane, without the lens.
func (c *camera) square() [9]float64 {
	v := c.at(&c.p)
	k := v.corners()
	var seen [4]Point
	for i, q := range k {
		seen[i] = v.draw(q.X, q.Y, 0)
	}
	h, _ := Homography(seen, k)
	return h
}
