package diagnose

import (
	"math"

	"geminate/brake/twin"
)

// gridPoints is how many severities a fault is looked at over, after straight lines have filled the
// coarse grid in, so that a reading between two of its points is not taken for one no severity explains.
const (
	gridPoints = 33
	pairPoints = 17 // per fault of a pair
)

var severities = []float64{0, 0.25, 0.5, 0.75, 1}

// grid is what a probe would read: in the sound system, under each fault over its severities, and
// under the pairs of faults that both move it.
type grid struct {
	probe  *probe
	sound  float64
	single [][]float64 // by fault; nil where it does not move this reading
	pair   [][]float64 // by hypothesis, filled in by pairRow
}

// compile builds the twins of the sound system and of every fault over the coarse severities, once.
// The caller holds the lock.
func (e *engine) compile() {
	if e.sound != nil {
		return
	}
	e.sound = twin.New(e.sys)
	e.models = make([][]*twin.Model, len(e.faults))
	for i, f := range e.faults {
		if f.fault.Physics == nil {
			continue
		}
		for _, v := range severities {
			s := e.sys.Clone()
			f.fault.Physics(s, f.at, v)
			e.models[i] = append(e.models[i], twin.New(s))
		}
	}
}

// pairModels are the twins of a pair at no, middle and full severity of each.
func (e *engine) pairModels(i int) *[9]*twin.Model {
	if m := e.both[i]; m != nil {
		return m
	}
	var out [9]*twin.Model
	a, b := e.faults[e.hyps[i].a], e.faults[e.hyps[i].b]
	for k := range out {
		s := e.sys.Clone()
		a.fault.Physics(s, a.at, float64(k/3)/2)
		b.fault.Physics(s, b.at, float64(k%3)/2)
		out[k] = twin.New(s)
	}
	e.both[i] = &out
	return &out
}

const keepGrids = 48

// gridOf predicts a probe. A fault that does not move a reading is left out of it, which spares most of
// the work and changes nothing. For two that both do, the twin is asked at nine pairs of severities;
// between them stands the sum of both effects, corrected by straight lines.
func (e *engine) gridOf(p *probe) *grid {
	e.mu.Lock()
	defer e.mu.Unlock()
	if g, ok := e.grids[p.key]; ok {
		return g
	}
	if len(e.grids) >= keepGrids {
		clear(e.grids)
	}
	e.compile()
	g := &grid{probe: p, sound: p.eval(e.sound), single: make([][]float64, len(e.faults)), pair: make([][]float64, len(e.hyps))}
	for i, models := range e.models {
		coarse := make([]float64, len(models))
		moves := false
		for k, m := range models {
			coarse[k] = p.eval(m)
			moves = moves || math.Abs(coarse[k]-g.sound) > 0.02*p.sigma(g.sound)
		}
		if moves {
			g.single[i] = refine(coarse, gridPoints)
		}
	}
	e.grids[p.key] = g
	return g
}

// pairRow is what a probe would read under pair i, row by the first's severity; nil where not both
// faults move it. It is worked out when first asked for: the choice of the next test needs few of them.
func (e *engine) pairRow(g *grid, i int) []float64 {
	h := e.hyps[i]
	if h.b < 0 || g.single[h.a] == nil || g.single[h.b] == nil {
		return nil
	}
	e.mu.Lock()
	defer e.mu.Unlock()
	if g.pair[i] != nil {
		return g.pair[i]
	}
	var off [9]float64 // by how much the pair is not the sum of both
	sa, sb := g.single[h.a], g.single[h.b]
	for k, m := range e.pairModels(i) {
		off[k] = g.probe.eval(m) - (sa[(k/3)*16] + sb[(k%3)*16] - g.sound)
	}
	row := make([]float64, pairPoints*pairPoints)
	for x := 0; x < pairPoints; x++ {
		for y := 0; y < pairPoints; y++ {
			row[x*pairPoints+y] = sa[2*x] + sb[2*y] - g.sound + bilinear(&off, float64(x)/(pairPoints-1), float64(y)/(pairPoints-1))
		}
	}
	g.pair[i] = row
	return row
}

// bilinear reads a 3 by 3 table at (x, y) in the unit square.
func bilinear(t *[9]float64, x, y float64) float64 {
	i, j := min(1, int(2*x)), min(1, int(2*y))
	u, v := 2*x-float64(i), 2*y-float64(j)
	return t[3*i+j]*(1-u)*(1-v) + t[3*i+3+j]*u*(1-v) + t[3*i+j+1]*(1-u)*v + t[3*i+j+4]*u*v
}

// refine fills a coarse grid in with straight lines to n points.
func refine(coarse []float64, n int) []float64 {
	out := make([]float64, n)
	for k := range out {
		x := float64(k) / float64(n-1) * float64(len(coarse)-1)
		i := min(len(coarse)-2, int(x))
		out[k] = coarse[i] + (coarse[i+1]-coarse[i])*(x-float64(i))
	}
	return out
}

// chance is P(reading | prediction), an unsure reading mixed with no evidence.
func (o *observation) chance(predicted float64) float64 {
	d := o.probe.densityAt(o.number, predicted)
	if !o.sure {
		d = (1-guess)*d + guess/o.probe.span
	}
	return d
}

// readingsLikelihood is P(all readings | hypothesis): every reading is of one vehicle, so they share its
// severity, and the product is integrated over the severities, not each reading by itself.
func (e *engine) readingsLikelihood(readings []*observation) []float64 {
	out := make([]float64, len(e.hyps))
	grids := make([]*grid, len(readings))
	sound := make([]float64, len(readings))
	all := 1.0
	for r, o := range readings {
		grids[r] = e.gridOf(o.probe)
		sound[r] = o.chance(grids[r].sound)
		all *= sound[r]
	}
	// along[i][k] is the product over the readings fault i moves, at its k-th severity; rest[i] the
	// product over those it does not.
	along := make([][]float64, len(e.faults))
	rest := make([]float64, len(e.faults))
	for i := range e.faults {
		rest[i] = 1
		for r, o := range readings {
			row := grids[r].single[i]
			if row == nil {
				rest[i] *= sound[r]
				continue
			}
			if along[i] == nil {
				along[i] = ones(gridPoints)
			}
			for k, x := range row {
				along[i][k] *= o.chance(x)
			}
		}
	}
	for i, h := range e.hyps {
		switch {
		case h.a < 0:
			out[i] = all
		case h.b < 0:
			out[i] = rest[h.a] * mean(along[h.a])
		case along[h.a] == nil && along[h.b] == nil:
			out[i] = all
		case along[h.b] == nil:
			out[i] = rest[h.a] * mean(along[h.a])
		case along[h.a] == nil:
			out[i] = rest[h.b] * mean(along[h.b])
		default:
			w := e.pairWeights(i, readings, grids, sound)
			out[i] = mean(w)
		}
	}
	return out
}

// pairWeights is P(readings | pair i) over the grid of both severities.
func (e *engine) pairWeights(i int, readings []*observation, grids []*grid, sound []float64) []float64 {
	h := e.hyps[i]
	w := ones(pairPoints * pairPoints)
	for r, o := range readings {
		sa, sb := grids[r].single[h.a], grids[r].single[h.b]
		switch {
		case sa == nil && sb == nil:
			scale(w, sound[r])
		case sa != nil && sb != nil:
			for k, x := range e.pairRow(grids[r], i) {
				w[k] *= o.chance(x)
			}
		default:
			var line [pairPoints]float64
			for k := range line {
				if sa != nil {
					line[k] = o.chance(sa[2*k])
				} else {
					line[k] = o.chance(sb[2*k])
				}
			}
			for k := range w {
				if sa != nil {
					w[k] *= line[k/pairPoints]
				} else {
					w[k] *= line[k%pairPoints]
				}
			}
		}
	}
	return w
}

// forecast is what a probe would read under hypothesis i as predictions with weights, the severity
// weighed by the readings taken so far.
func (e *engine) forecast(i int, p *probe, readings []*observation) (predicted, weights []float64) {
	g := e.gridOf(p)
	h := e.hyps[i]
	grids := make([]*grid, len(readings))
	sound := make([]float64, len(readings))
	for r, o := range readings {
		grids[r] = e.gridOf(o.probe)
		sound[r] = o.chance(grids[r].sound)
	}
	if row := e.pairRow(g, i); row != nil {
		return row, e.pairWeights(i, readings, grids, sound)
	}
	k := h.a
	if k < 0 || (g.single[k] == nil && h.b >= 0) {
		k = h.b
	}
	if k < 0 || g.single[k] == nil {
		return []float64{g.sound}, []float64{1}
	}
	w := ones(gridPoints)
	for r, o := range readings {
		if row := grids[r].single[k]; row != nil {
			for v := range w {
				w[v] *= o.chance(row[v])
			}
		}
	}
	return g.single[k], w
}

func ones(n int) []float64 {
	out := make([]float64, n)
	for i := range out {
		out[i] = 1
	}
	return out
}

func scale(w []float64, by float64) {
	for i := range w {
		w[i] *= by
	}
}

// mean of nothing is one: a fault that moves none of the readings leaves them as they are.
func mean(w []float64) float64 {
	if len(w) == 0 {
		return 1
	}
	sum := 0.0
	for _, x := range w {
		sum += x
	}
	return sum / float64(len(w))
}
