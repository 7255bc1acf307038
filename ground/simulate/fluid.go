package simulate

import (
	"math"

	"geminate/brake/system"
)

// Fluid in cells: tanks, chambers and cavities are stirred, a pipe is a bundle of streamtubes each of which moves as a
// plug. That gives the layers of laminar flow (the middle twice as fast as the mean, Taylor 1953, from memory) without
// the closed form anybody else may use: a tube that takes the share dq of the flow at quantile q of the residence time
// stays θ(q) = 1/(2·√(1−q)) pipe volumes.

const (
	tubesAPipe = 60   // streamtubes, equal in flow
	stepCM3    = 0.25 // what is moved at once; small against every cell
)

// tank is a reservoir or a circuit's part of one. Volumes cm³, old a share 0 to 1, foreign the share of a fluid that
// does not belong in it.
type tank struct {
	cm3, full, lowest, old, foreign float64
	circuits                        []string
}

// stirred is a cell that mixes at once.
type stirred struct {
	cm3, old, foreign float64
	// touched is the most of a foreign fluid its rubber has stood in, 0 to 1.
	touched float64
	// anew: its rubber was renewed since; what it meets while it is washed out does it no harm, what it stands in does.
	anew bool
}

// flow lets dv of a constant share through and gives what leaves, by exact balance.
func (c *stirred) flow(dv, old, foreign float64) (float64, float64) {
	if c.cm3 <= 0 {
		return old, foreign
	}
	left := math.Exp(-dv / c.cm3)
	nextOld, nextForeign := old+(c.old-old)*left, foreign+(c.foreign-foreign)*left
	outOld, outForeign := old+(c.old-nextOld)*c.cm3/dv, foreign+(c.foreign-nextForeign)*c.cm3/dv
	c.old, c.foreign = nextOld, nextForeign
	c.touched = math.Max(c.touched, nextForeign)
	return outOld, outForeign
}

// plug is a length of one kind of fluid in a streamtube.
type plug struct{ cm3, old, foreign float64 }

// pipe is a line with its hose. The front of each tube is at the cylinder.
type pipe struct {
	cm3   float64
	tubes [][]plug
}

func newPipe(cm3, old float64) *pipe {
	p := &pipe{cm3: cm3}
	for i := range tubesAPipe { // the mean of θ over a tube's share of the flow, so that together they hold the pipe
		from, to := 1-float64(i)/tubesAPipe, 1-float64(i+1)/tubesAPipe
		p.tubes = append(p.tubes, []plug{{cm3 * (math.Sqrt(from) - math.Sqrt(to)), old, 0}})
	}
	return p
}

// push moves dv in at the cylinder's end (or, backward, at the wheel's) and gives what leaves at the other.
func (p *pipe) push(dv, old, foreign float64, backward bool) (outOld, outForeign float64) {
	if p.cm3 <= 1e-6 {
		return old, foreign
	}
	each := dv / tubesAPipe
	for i := range p.tubes {
		o, f := pushTube(&p.tubes[i], each, old, foreign, backward)
		outOld, outForeign = outOld+o/dv, outForeign+f/dv
	}
	return outOld, outForeign
}

// sameShare is how near two plugs are alike enough to be one.
const sameShare = 1e-4

func pushTube(t *[]plug, dv, old, foreign float64, backward bool) (outOld, outForeign float64) {
	list := *t
	in := 0
	if backward {
		in = len(list) - 1
	}
	switch {
	case math.Abs(list[in].old-old) < sameShare && math.Abs(list[in].foreign-foreign) < sameShare:
		list[in].cm3 += dv
	case backward:
		list = append(list, plug{dv, old, foreign})
	default:
		list = append([]plug{{dv, old, foreign}}, list...)
	}
	for left := dv; left > 1e-12 && len(list) > 0; {
		out := len(list) - 1
		if backward {
			out = 0
		}
		x := math.Min(left, list[out].cm3)
		outOld, outForeign = outOld+x*list[out].old, outForeign+x*list[out].foreign
		left -= x
		switch list[out].cm3 -= x; {
		case list[out].cm3 > 1e-12 || len(list) == 1:
		case backward:
			list = list[1:]
		default:
			list = list[:out]
		}
	}
	*t = list
	return outOld, outForeign
}

// content is the old fluid in it, cm³.
func (p *pipe) content() (old, foreign float64) {
	for _, t := range p.tubes {
		for _, x := range t {
			old, foreign = old+x.cm3*x.old, foreign+x.cm3*x.foreign
		}
	}
	return old, foreign
}

// path is a wheel's way: its pipe and its brake's cavity.
type path struct {
	circuit string
	pipe    *pipe   // from where it branches off
	way     float64 // cm³ from the cylinder to its cavity, what the circuit's lines have in common in it
	cavity  stirred
	// leaves is the share of old fluid in what last left the bleeder.
	leaves, through float64
	touched         float64 // as of a cell, of its hose and brake
	anew            bool
}

func (v *Vehicle) fillCells(s *system.System) {
	for _, t := range s.Tanks() {
		v.tanks = append(v.tanks, &tank{cm3: t.FullCM3, full: t.FullCM3, lowest: t.LowestCM3, old: 1, circuits: t.Circuits})
	}
	for _, c := range s.Circuits {
		v.chambers[c.ID] = &stirred{cm3: s.ChamberCM3(c.ID), old: 1}
		v.trunks[c.ID] = newPipe(s.SharedCM3(c.ID), 1)
	}
	for i := range s.Wheels {
		w := &s.Wheels[i]
		v.wheels = append(v.wheels, w.ID)
		v.paths[w.ID] = &path{
			circuit: s.CircuitOf(w.ID),
			pipe:    newPipe(w.PipeCM3()-s.SharedCM3(s.CircuitOf(w.ID)), 1),
			cavity:  stirred{cm3: w.Brake.CavityCM3, old: 1},
			leaves:  1,
			way:     w.PipeCM3(),
		}
	}
}

func (v *Vehicle) tankOf(circuit string) *tank {
	for _, t := range v.tanks {
		for _, c := range t.circuits {
			if c == circuit {
				return t
			}
		}
	}
	return v.tanks[0]
}

// Draw moves fluid from the reservoir through a wheel's bleeder, cm³, and gives the air that came out with it. Once the
// tank stands at its lowest port it is air that comes.
func (v *Vehicle) Draw(wheel string, cm3, carry float64) (bubbles float64) {
	p := v.paths[wheel]
	t, chamber := v.tankOf(p.circuit), v.chambers[p.circuit]
	for left := cm3; left > 1e-9; left -= stepCM3 {
		dv := math.Min(stepCM3, left)
		bubbles += v.carryAir(wheel, dv, carry)
		p.through += dv
		if t.cm3-dv < t.lowest {
			v.air.chambers[p.circuit] += dv
			v.mark(RanDry, p.circuit)
			continue
		}
		t.cm3 -= dv
		old, foreign := chamber.flow(dv, t.old, t.foreign)
		old, foreign = v.trunks[p.circuit].push(dv, old, foreign, false)
		old, foreign = p.pipe.push(dv, old, foreign, false)
		old, foreign = p.cavity.flow(dv, old, foreign)
		p.leaves = old
		p.touched = math.Max(p.touched, foreign)
	}
	return bubbles
}

// Push moves fluid in at a wheel's bleeder towards the reservoir, cm³; what goes over the brim is lost.
func (v *Vehicle) Push(wheel string, cm3 float64, b Bottle) {
	p := v.paths[wheel]
	t, chamber := v.tankOf(p.circuit), v.chambers[p.circuit]
	for left := cm3; left > 1e-9; left -= stepCM3 {
		dv := math.Min(stepCM3, left)
		v.pushAir(wheel, dv)
		p.through += dv
		old, foreign := p.cavity.flow(dv, 0, b.foreign())
		old, foreign = p.pipe.push(dv, old, foreign, true)
		old, foreign = v.trunks[p.circuit].push(dv, old, foreign, true)
		old, foreign = chamber.flow(dv, old, foreign)
		t.old, t.foreign = (t.cm3*t.old+dv*old)/(t.cm3+dv), (t.cm3*t.foreign+dv*foreign)/(t.cm3+dv)
		t.cm3 = math.Min(t.full, t.cm3+dv)
	}
	v.poured += cm3
}

// Bottle is what is poured from: its class belongs in this vehicle or not, and the water it holds.
type Bottle struct {
	Class        string
	Foreign      bool
	WaterPercent float64
}

func (b Bottle) foreign() float64 {
	if b.Foreign {
		return 1
	}
	return 0
}

// Fill fills every tank to its mark from a bottle.
func (v *Vehicle) Fill(b Bottle) {
	for _, t := range v.tanks {
		dv := math.Max(0, t.full-t.cm3)
		if t.cm3+dv > 0 {
			t.old, t.foreign = t.old*t.cm3/(t.cm3+dv), (t.foreign*t.cm3+b.foreign()*dv)/(t.cm3+dv)
		}
		t.cm3 += dv
		v.poured += dv
	}
	if b.Foreign {
		v.mark(WrongFluid, "")
		for _, x := range v.chambers {
			if x.anew {
				x.anew, x.touched = false, x.foreign
			}
		}
		for _, p := range v.paths {
			if p.anew {
				p.anew, p.touched = false, p.cavity.foreign
			}
		}
	}
	v.spend(25)
}

// Empty sucks the tanks down to what a syringe leaves: a twentieth (assumption), or to a mark.
func (v *Vehicle) Empty(to *float64) {
	for _, t := range v.tanks {
		rest := 0.05 * t.full
		if to != nil {
			rest = math.Min(t.cm3, *to*t.full/math.Max(1, v.fullCM3()))
		}
		t.cm3 = math.Min(t.cm3, rest)
	}
	v.spend(60)
}

func (v *Vehicle) fullCM3() (sum float64) {
	for _, t := range v.tanks {
		sum += t.full
	}
	return sum
}

// PouredCM3 is what was poured in all.
func (v *Vehicle) PouredCM3() float64 { return v.poured }

// Leaves is the share of old fluid in what last left a bleeder; Old that of all the fluid on the vehicle.
func (v *Vehicle) Leaves(wheel string) float64 { return v.paths[wheel].leaves }

// OldCM3 is the old fluid on the vehicle, and all of it.
func (v *Vehicle) OldCM3() (old, all float64) {
	for _, t := range v.tanks {
		old, all = old+t.cm3*t.old, all+t.cm3
	}
	for _, c := range v.found.Circuits {
		x := v.chambers[c.ID]
		o, _ := v.trunks[c.ID].content()
		old, all = old+x.cm3*x.old+o, all+x.cm3+v.trunks[c.ID].cm3
	}
	for _, w := range v.wheels {
		p := v.paths[w]
		o, _ := p.pipe.content()
		old, all = old+o+p.cavity.cm3*p.cavity.old, all+p.pipe.cm3+p.cavity.cm3
	}
	return old, all
}

// LevelShare is how full the emptiest tank is, 0 at its lowest port, 1 at its mark.
func (v *Vehicle) LevelShare() float64 {
	least := 1.0
	for _, t := range v.tanks {
		least = math.Min(least, (t.cm3-t.lowest)/math.Max(1e-9, t.full-t.lowest))
	}
	return least
}
