package ledger

import "math"

// A pipe carries its fluid in layers, the middle twice as fast as the mean: after N of its volumes a share F(N) of
// what leaves has come through since. F is 0 for N < 1/2 and 1 − 1/(4N²) from there (laminar flow, Taylor 1953, the
// convective limit; how-it-computes, section 8.1).

// through is the volume, in pipe volumes, of what came in at the start and has left after N: the integral of F.
func through(n float64) float64 {
	if n <= 0.5 {
		return 0
	}
	return n + 1/(4*n) - 1
}

// nothingCM3 is a pipe that holds nothing to speak of: what comes in leaves.
const nothingCM3 = 1e-6

const (
	forward  = 1
	backward = -1
)

// inlet is what came in from at on: a constant share, until the next inlet's at.
type inlet struct{ at, old float64 }

type pipe struct {
	volume  float64
	content float64 // old fluid in it, by balance
	start   float64 // share it was filled with when the flow began this way
	at      float64 // moved since then
	way     int
	inlets  []inlet
}

func newPipe(volume float64) pipe { return pipe{volume: volume, content: volume, start: 1} }

// turn lets it flow one way. One that flowed the other way begins again from its mean content.
func (p *pipe) turn(way int) {
	if p.way != 0 && p.way != way && p.volume > 0 {
		p.start = p.content / p.volume
		p.at, p.inlets = 0, p.inlets[:0]
	}
	p.way = way
}

// flow moves dv in of a constant share and gives the mean share of what leaves, exact for it.
func (p *pipe) flow(dv, old float64) float64 {
	if p.volume <= nothingCM3 {
		return old
	}
	if n := len(p.inlets); n == 0 || math.Abs(p.inlets[n-1].old-old) > sameShare {
		p.inlets = append(p.inlets, inlet{p.at, old})
	}
	a, b := p.at, p.at+dv
	// come is how much of what entered after s leaves between a and b.
	come := func(s float64) float64 { return p.volume * (through((b-s)/p.volume) - through((a-s)/p.volume)) }
	since := come(0)
	left := p.start * (dv - since)
	for i, in := range p.inlets {
		entered := since
		since = 0
		if i+1 < len(p.inlets) {
			since = come(p.inlets[i+1].at)
		}
		left += in.old * (entered - since)
	}
	p.at = b
	p.content += dv*old - left
	return left / dv
}
