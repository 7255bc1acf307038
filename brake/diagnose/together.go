package diagnose

import (
	"fmt"
	"math"
	"strings"
)

// track is one reading along a severity: what would be read at each step.
type track struct {
	o    *observation
	rows []float64
}

// far says whether what is read over a step is so far from the reading that only a stray one explains it.
func (t *track) far(k int) bool {
	const sigmas = 9
	lo, hi := t.rows[k], t.rows[k+1]
	if lo > hi {
		lo, hi = hi, lo
	}
	return t.o.number < lo-sigmas*t.o.probe.sigma(lo) || t.o.number > hi+sigmas*t.o.probe.sigma(hi)
}

// finest is into how many points a step is cut at most.
const finest = 24

// cells is, for each step of severity, the mean over it of P(all these readings): between two steps the reading runs
// along a straight line, looked at in so many points for each width of the narrowest accuracy.
func cells(tracks []track, perSigma float64) []float64 {
	out := make([]float64, severitySteps)
	for k := range out {
		if len(tracks) == 1 && tracks[0].far(k) {
			out[k] = tracks[0].o.chance(math.Inf(1))
			continue
		}
		points := 1
		for _, t := range tracks {
			a, b := t.rows[k], t.rows[k+1]
			if n := int(perSigma*math.Abs(b-a)/t.o.probe.sigma(math.Min(a, b))) + 1; n > points {
				points = n
			}
		}
		points = min(points, finest)
		sum := 0.0
		for i := range points {
			u := (float64(i) + 0.5) / float64(points)
			x := 1.0
			for _, t := range tracks {
				x *= t.o.chance(t.rows[k] + (t.rows[k+1]-t.rows[k])*u)
			}
			sum += x
		}
		out[k] = sum / float64(points)
	}
	return out
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

// read is a set of readings with their grids.
type read struct {
	readings []*observation
	grids    []*grid
	sound    []float64 // P(reading | sound)
	tracked  map[int]tracked
}

type tracked struct {
	w    []float64
	rest float64
}

func (e *engine) read(readings []*observation) *read {
	r := &read{readings: readings, tracked: map[int]tracked{}}
	for _, o := range readings {
		g := e.gridOf(o.probe)
		r.grids, r.sound = append(r.grids, g), append(r.sound, o.chance(g.sound))
	}
	return r
}

// along is P(readings | fault i) step by step, but for the readings it does not move, whose product is rest; nil
// where it moves none.
func (r *read) along(i int) (w []float64, rest float64) {
	if t, ok := r.tracked[i]; ok {
		return t.w, t.rest
	}
	rest = 1
	var tracks []track
	for k, o := range r.readings {
		if row := r.grids[k].single[i]; row != nil {
			tracks = append(tracks, track{o, row})
		} else {
			rest *= r.sound[k]
		}
	}
	if len(tracks) > 0 {
		w = cells(tracks, 2)
	}
	r.tracked[i] = tracked{w, rest}
	return w, rest
}

// moved are the faults of a hypothesis that move any of the readings, at most two: a third, which only a chain of
// cause and effect brings, adds nothing the twin could tell from them.
func (r *read) moved(h hypothesis) hypothesis {
	var out hypothesis
	for _, f := range h {
		for _, g := range r.grids {
			if g.single[f] != nil {
				out = append(out, f)
				break
			}
		}
	}
	return out[:min(2, len(out))]
}

// readingsLikelihood is P(all readings | hypothesis): every reading is of one vehicle, so they share its severity,
// and the product is integrated over the severities, not each reading by itself.
func (e *engine) readingsLikelihood(readings []*observation) []float64 {
	var key strings.Builder
	for _, o := range readings {
		fmt.Fprint(&key, o.probe.key, "=", o.number, o.sure, ";")
	}
	e.mu.Lock()
	out, ok := e.likes[key.String()]
	e.mu.Unlock()
	if ok {
		return out
	}
	out = e.integrate(readings)
	e.mu.Lock()
	defer e.mu.Unlock()
	if len(e.likes) >= keepLikes {
		clear(e.likes)
	}
	e.likes[key.String()] = out
	return out
}

func (e *engine) integrate(readings []*observation) []float64 {
	out := make([]float64, len(e.hyps))
	r := e.read(readings)
	all := 1.0
	for _, x := range r.sound {
		all *= x
	}
	single := make([]float64, len(e.faults))
	for i := range e.faults {
		w, rest := r.along(i)
		single[i] = rest * mean(w)
	}
	pairs := map[[2]int]float64{}
	for i, h := range e.hyps {
		switch m := r.moved(h); len(m) {
		case 0:
			out[i] = all
		case 1:
			out[i] = single[m[0]]
		default:
			key := [2]int{m[0], m[1]}
			x, ok := pairs[key]
			if !ok {
				x = e.together(r, m[0], m[1])
				pairs[key] = x
			}
			out[i] = x
		}
	}
	return out
}

// together is P(readings | faults a and b) over both severities.
func (e *engine) together(r *read, a, b int) float64 {
	tracks := make([]track, len(r.readings))
	buffers := make([][]float64, len(r.readings))
	mixed := make([]*mixture, len(r.readings))
	rest := 1.0
	for k := range r.readings {
		buffers[k] = make([]float64, severitySteps+1)
		mixed[k] = e.mixtureOf(r.grids[k], a, b)
		if r.grids[k].single[a] == nil && r.grids[k].single[b] == nil {
			rest *= r.sound[k]
		}
	}
	sum := 0.0
	for u := range outerPoints {
		ka := u * outerStep
		n, fixed := 0, 1.0
		for k, o := range r.readings {
			g := r.grids[k]
			switch {
			case mixed[k] != nil:
				mixed[k].row(g, a, b, ka, buffers[k])
				tracks[n] = track{o, buffers[k]}
				n++
			case g.single[b] != nil:
				tracks[n] = track{o, g.single[b]}
				n++
			case g.single[a] != nil:
				fixed *= o.chance(g.single[a][ka])
			}
		}
		x := fixed * mean(cells(tracks[:n], 1))
		if u == 0 || u == outerPoints-1 {
			x /= 2
		}
		sum += x
	}
	return rest * sum / (outerPoints - 1)
}

// forecast is what a probe would read under hypothesis i as predictions with weights, the severity weighed by the
// readings taken so far.
func (e *engine) forecast(i int, p *probe, r *read) (predicted, weights []float64) {
	g := e.gridOf(p)
	var moves hypothesis
	for _, f := range e.hyps[i] {
		if g.single[f] != nil {
			moves = append(moves, f)
		}
	}
	switch len(moves) {
	case 0:
		return []float64{g.sound}, []float64{1}
	case 1:
		w, _ := r.along(moves[0])
		row := g.single[moves[0]]
		predicted = make([]float64, severitySteps)
		for k := range predicted {
			predicted[k] = (row[k] + row[k+1]) / 2
		}
		if w == nil {
			w = ones(severitySteps)
		}
		return predicted, w
	}
	// Two that both move it: by the middles of some steps of each, each weighed by itself.
	a, b := moves[0], moves[1]
	m := e.mixtureOf(g, a, b)
	wa, _ := r.along(a)
	wb, _ := r.along(b)
	const jump = 4
	for ka := jump / 2; ka < severitySteps; ka += jump {
		for kb := jump / 2; kb < severitySteps; kb += jump {
			w := 1.0
			if wa != nil {
				w *= wa[ka]
			}
			if wb != nil {
				w *= wb[kb]
			}
			predicted = append(predicted, m.at(g, a, b, ka, kb))
			weights = append(weights, w)
		}
	}
	return predicted, weights
}

func ones(n int) []float64 {
	out := make([]float64, n)
	for i := range out {
		out[i] = 1
	}
	return out
}
