package diagnose

import (
	"math"

	"geminate/brake/twin"
)

// A fault's severity runs from 0 to 1 by equal ratios. The twin is asked where the reading bends, on a grid of
// severitySteps, and between its answers stand straight lines no further from it than bendShare of the reading's
// accuracy; the integral over a step takes as many points as the reading's accuracy asks for.
const (
	severitySteps = 80
	firstStep     = 8 // of the grid the twin is asked on to begin with
	bendShare     = 0.1
	outerPoints   = 17 // severities of the first of two faults; the second is integrated as a single one is
	outerStep     = severitySteps / (outerPoints - 1)
)

// grid is what a probe would read: in the sound system, under each fault over its severities, and by how much two
// faults that both move it are not the sum of both.
type grid struct {
	probe  *probe
	sound  float64
	single [][]float64 // by fault, severitySteps+1 readings; nil where it does not move this one
	pair   map[[2]int]*mixture
}

// mixture is what two faults together read: the sum of both, held between the least and the most the twin gives,
// and a correction by straight lines between three severities of each.
type mixture struct {
	low, high float64
	off       [9]float64
}

// model is the twin of fault i at step k, made once. The caller holds the lock.
func (e *engine) model(i, k int) *twin.Model {
	if e.models == nil {
		e.models = make([][]*twin.Model, len(e.faults))
	}
	if e.models[i] == nil {
		e.models[i] = make([]*twin.Model, severitySteps+1)
	}
	if e.models[i][k] == nil {
		s := e.sys.Clone()
		f := e.faults[i]
		f.fault.Physics(s, f.at, float64(k)/severitySteps)
		e.models[i][k] = twin.New(s)
	}
	return e.models[i][k]
}

// pairModels are the twins of two faults at no, middle and full severity of each.
func (e *engine) pairModels(a, b int) *[9]*twin.Model {
	key := [2]int{a, b}
	if m := e.both[key]; m != nil {
		return m
	}
	var out [9]*twin.Model
	x, y := e.faults[a], e.faults[b]
	for k := range out {
		s := e.sys.Clone()
		x.fault.Physics(s, x.at, float64(k/3)/2)
		y.fault.Physics(s, y.at, float64(k%3)/2)
		out[k] = twin.New(s)
	}
	e.both[key] = &out
	return &out
}

// How many readings' predictions, and likelihoods of sets of readings, are kept at once.
const (
	keepGrids = 48
	keepLikes = 64
)

// gridOf predicts a probe. A fault that does not move a reading is left out of it, which spares most of the work and
// changes nothing.
func (e *engine) gridOf(p *probe) *grid {
	e.mu.Lock()
	defer e.mu.Unlock()
	if g, ok := e.grids[p.key]; ok {
		return g
	}
	if len(e.grids) >= keepGrids {
		clear(e.grids)
	}
	if e.sound == nil {
		e.sound = twin.New(e.sys)
	}
	g := &grid{probe: p, sound: p.eval(e.sound), single: make([][]float64, len(e.faults)), pair: map[[2]int]*mixture{}}
	for i := range e.faults {
		if e.faults[i].fault.Physics != nil {
			g.single[i] = e.curve(p, i, g.sound)
		}
	}
	e.grids[p.key] = g
	return g
}

// curve is what a probe reads along a fault's severities, nil where that never leaves the sound system's reading.
func (e *engine) curve(p *probe, fault int, sound float64) []float64 {
	row := make([]float64, severitySteps+1)
	moves := false
	for k := 0; k <= severitySteps; k += firstStep {
		row[k] = p.eval(e.model(fault, k))
		moves = moves || math.Abs(row[k]-sound) > 0.02*p.sigma(sound)
	}
	if !moves {
		return nil
	}
	var fill func(lo, hi int)
	fill = func(lo, hi int) {
		if hi-lo < 2 {
			return
		}
		mid := (lo + hi) / 2
		row[mid] = p.eval(e.model(fault, mid))
		if math.Abs(row[mid]-(row[lo]+row[hi])/2) <= bendShare*p.sigma(row[mid]) {
			line(row, lo, mid)
			line(row, mid, hi)
			return
		}
		fill(lo, mid)
		fill(mid, hi)
	}
	for k := 0; k < severitySteps; k += firstStep {
		fill(k, k+firstStep)
	}
	return row
}

// line fills a row in between two of its points.
func line(row []float64, lo, hi int) {
	for k := lo + 1; k < hi; k++ {
		row[k] = row[lo] + (row[hi]-row[lo])*float64(k-lo)/float64(hi-lo)
	}
}

// mixtureOf is what two faults read together; nil where not both of them move the probe. It is worked out when first
// asked for: the choice of the next test needs few of them.
func (e *engine) mixtureOf(g *grid, a, b int) *mixture {
	if g.single[a] == nil || g.single[b] == nil {
		return nil
	}
	e.mu.Lock()
	defer e.mu.Unlock()
	key := [2]int{a, b}
	if m := g.pair[key]; m != nil {
		return m
	}
	m := &mixture{low: math.Inf(1), high: math.Inf(-1)}
	var read [9]float64
	for k, t := range e.pairModels(a, b) {
		read[k] = g.probe.eval(t)
		m.low, m.high = math.Min(m.low, read[k]), math.Max(m.high, read[k])
	}
	for k := range read {
		m.off[k] = read[k] - m.sum(g, a, b, (k/3)*severitySteps/2, (k%3)*severitySteps/2)
	}
	g.pair[key] = m
	return m
}

// sum is the sum of what two faults change, held within what the twin gives.
func (m *mixture) sum(g *grid, a, b, ka, kb int) float64 {
	return math.Min(m.high, math.Max(m.low, g.single[a][ka]+g.single[b][kb]-g.sound))
}

// at is the reading under fault a at step ka and fault b at step kb.
func (m *mixture) at(g *grid, a, b, ka, kb int) float64 {
	return m.sum(g, a, b, ka, kb) + bilinear(&m.off, float64(ka)/severitySteps, float64(kb)/severitySteps)
}

// row fills in the readings under fault a at step ka along the severities of fault b.
func (m *mixture) row(g *grid, a, b, ka int, into []float64) {
	x := float64(ka) / severitySteps
	var off [3]float64
	for j := range off {
		off[j] = bilinear(&m.off, x, float64(j)/2)
	}
	const half = severitySteps / 2
	add := g.single[a][ka] - g.sound
	for kb, y := range g.single[b] {
		j := min(1, kb/half)
		v := float64(kb-j*half) / half
		into[kb] = math.Min(m.high, math.Max(m.low, add+y)) + off[j] + (off[j+1]-off[j])*v
	}
}

// bilinear reads a 3 by 3 table at (x, y) in the unit square.
func bilinear(t *[9]float64, x, y float64) float64 {
	i, j := min(1, int(2*x)), min(1, int(2*y))
	u, v := 2*x-float64(i), 2*y-float64(j)
	return t[3*i+j]*(1-u)*(1-v) + t[3*i+3+j]*u*(1-v) + t[3*i+j+1]*(1-u)*v + t[3*i+j+4]*u*v
}

// chance is P(reading | prediction), an unsure reading mixed with no evidence.
func (o *observation) chance(predicted float64) float64 {
	d := o.probe.densityAt(o.number, predicted)
	if !o.sure {
		d = (1-guess)*d + guess/o.probe.span
	}
	return d
}
