package diagnose

import (
	"encoding/json"
	"math"
	"slices"
	"sort"
)

// Contradiction is a pair of findings that hardly go together, and which one to repeat.
type Contradiction struct {
	Findings [2]string `json:"findings"`
	// Bits is by how much the pair is rarer together than each by itself, as a power of two; 0 where the trade calls
	// them opposites whatever the tables say.
	Bits   float64 `json:"bits"`
	Repeat string  `json:"repeat"`
}

const (
	likelyShare   = 0.02 // of the posterior: a hypothesis that counts as likely
	rareTogether  = 0.01 // rarer than this, under every likely hypothesis, is a contradiction (how-it-computes, section 10)
	apartBits     = -0.7 // the pair must be rarer than by chance, or the one finding alone is what is rare
	contradicting = 3    // told at most
)

// contradictions looks at every pair of findings. Two contradict where under every likely hypothesis they are
// together rarer than rareTogether, each beside the likeliest thing it could have been, or where the trade calls
// them opposites. The one to repeat is the one marked unsure, else the one that was felt rather than measured, else
// the one without which the rest is explained better. asSure holds the likelihoods as if all findings were sure.
func (b *body) contradictions(post []float64) []Contradiction {
	e, ev := b.e, b.asSure
	var likely []int
	for i, p := range post {
		if p >= likelyShare {
			likely = append(likely, i)
		}
	}
	weight := func(l []float64) (sum float64) {
		for i := range e.hyps {
			sum += e.prior[i] * l[i]
		}
		return sum
	}
	out := b.opposites()
	told := func(x, y string) bool {
		return slices.ContainsFunc(out, func(c Contradiction) bool {
			return c.Findings == [2]string{x, y} || c.Findings == [2]string{y, x}
		})
	}
	expected := make([][]float64, len(ev))
	whole := make([]float64, len(ev))
	for k := range ev {
		expected[k], whole[k] = e.expectedness(&ev[k], likely), weight(ev[k].like)
	}
	for x := range ev {
		for y := x + 1; y < len(ev); y++ {
			fx, fy := ev[x].obs.finding, ev[y].obs.finding
			if fx == fy || told(fx, fy) || len(likely) == 0 {
				continue
			}
			rare := true
			for k := range likely {
				rare = rare && expected[x][k]*expected[y][k] < rareTogether
			}
			if !rare {
				continue
			}
			both := 0.0
			for i := range e.hyps {
				both += e.prior[i] * ev[x].like[i] * ev[y].like[i]
			}
			if bits := math.Log2(both / (whole[x] * whole[y])); bits <= apartBits {
				out = append(out, Contradiction{[2]string{fx, fy}, bits, b.repeat(x, y, whole[x], whole[y])})
			}
		}
	}
	sort.SliceStable(out, func(i, j int) bool { return out[i].Bits < out[j].Bits })
	return out[:min(len(out), contradicting)]
}

// expectedness is, under each of some hypotheses, how likely a finding is beside the likeliest thing it could have
// been; of a reading, beside what the hypothesis that explains it best gives it.
func (e *engine) expectedness(v *evidence, hyps []int) []float64 {
	out := make([]float64, len(hyps))
	var table [][]float64
	switch o := &v.obs; {
	case o.sign != nil && o.at == "":
		table = e.signLikelihoods(o.sign)
	case o.placed != nil:
		table = e.placedLikelihoods(o.placed, o.at)
	default:
		top := slices.Max(v.like)
		for k, i := range hyps {
			out[k] = v.like[i] / top
		}
		return out
	}
	for k, i := range hyps {
		top := 0.0
		for _, row := range table {
			top = math.Max(top, row[i])
		}
		out[k] = v.like[i] / top
	}
	return out
}

func (b *body) repeat(x, y int, wx, wy float64) string {
	fx, fy := b.asSure[x].obs.finding, b.asSure[y].obs.finding
	switch {
	case b.sure[x] != b.sure[y]:
		if b.sure[x] {
			return fy
		}
	case feltNotMeasured(fx) != feltNotMeasured(fy):
		if feltNotMeasured(fy) {
			return fy
		}
	case b.e.without(b.asSure, y)/wx > b.e.without(b.asSure, x)/wy:
		return fy
	}
	return fx
}

// feltNotMeasured are the findings an owner or a foot tells.
func feltNotMeasured(id string) bool {
	return slices.Contains(
		[]string{
			"pedal.sinks",
			"pedal.to_floor",
			"pedal.hard",
			"pedal.low",
			"pedal.springy",
			"brakes.weak",
			"brakes.drag",
			"level.falls",
			"sound.rush_of_air",
		},
		id,
	)
}

// Limits of what the trade calls opposites: a pedal that "sinks fast" but was measured to stand, and the other way
// round. Assumptions.
const (
	standsMM = 2  // a hold of twenty seconds or more that lost no more than this stood still
	sankMM   = 10 // one that lost this much sank
	standsS  = 20
)

// opposites are the pairs the trade calls contradicting (how-it-computes, section 10), where nothing told explains
// both.
func (b *body) opposites() []Contradiction {
	out := []Contradiction{}
	add := func(x, y, repeat string) {
		out = append(out, Contradiction{[2]string{x, y}, 0, repeat})
	}
	is := func(id string, any ...string) bool { return slices.Contains(any, b.known[id]) }
	stood, sank := b.held()
	switch {
	case stood && is("pedal.sinks", "fast"), sank && is("pedal.sinks", "no"):
		add("pedal.sinks", "pedal.sink", b.unsureOf("pedal.sinks", "pedal.sink"))
	}
	outside := is("level.falls", "slowly", "fast") || is("fluid.level", "low", "empty") || is("wet.at:line_joint", "yes") ||
		is("wet.at:wheel", "yes") ||
		is("leak.seen", "line_joint", "wheel")
	if is("ports_plugged.pedal", "hard") && !outside {
		switch {
		case sank:
			add("ports_plugged.pedal", "pedal.sink", b.unsureOf("ports_plugged.pedal", "pedal.sink"))
		case is("pedal.sinks", "slow", "fast") && !stood:
			add("ports_plugged.pedal", "pedal.sinks", b.unsureOf("pedal.sinks", "ports_plugged.pedal"))
		}
	}
	if is("ports_plugged.pedal", "sinks") && stood {
		add("ports_plugged.pedal", "pedal.sink", b.unsureOf("pedal.sink", "ports_plugged.pedal"))
	}
	otherBore := is("unit.is_right", "bore_differs") || is("history.since:cylinder_fitted", "yes")
	if is("assist.pedal_falls_on_start", "yes") && is("pedal.hard", "always") && !otherBore {
		add("assist.pedal_falls_on_start", "pedal.hard", b.unsureOf("assist.pedal_falls_on_start", "pedal.hard"))
	}
	return out
}

// unsureOf is the one of two findings that is marked unsure, else the first.
func (b *body) unsureOf(first, second string) string {
	for k := range b.asSure {
		if b.asSure[k].obs.finding == second && !b.sure[k] {
			return second
		}
	}
	return first
}

// held says whether a measured hold stood or sank.
func (b *body) held() (stood, sank bool) {
	var s Sink
	raw, ok := b.known["pedal.sink"]
	if !ok || json.Unmarshal([]byte(raw), &s) != nil {
		return false, false
	}
	return s.TravelMM <= standsMM && s.Seconds >= standsS, s.TravelMM >= sankMM
}

// without is P(all observations but one).
func (e *engine) without(ev []evidence, but int) float64 {
	sum := 0.0
	for i, p := range e.prior {
		for k := range ev {
			if k != but {
				p *= ev[k].like[i]
			}
		}
		sum += p
	}
	return sum
}
