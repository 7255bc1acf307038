// Package trial puts the diagnosis to the proof: it draws vehicles with hidden faults and noisy
// readings from a world that is not quite the engine's own, lets the engine work on them, and counts
// what comes out, beside two ways of working without it on the same vehicles.
//
// The world differs from the engine's beliefs in four ways: every prior and every likelihood is bent by
// a random factor (Off), a faint fault shows less than a gross one, the vehicle's measures are not its
// pattern's, and readings are taken with instruments that err. All of it is invented data.
package trial

import (
	"maps"
	"math"
	"math/rand/v2"
	"slices"
	"strings"

	"geminate/brake/diagnose"
	"geminate/brake/system"
	"geminate/brake/twin"
	"geminate/ground/mechanic"
	"geminate/ground/simulate"
)

// World is one bent set of likelihoods, and what its vehicles are drawn from.
type World struct {
	// Off is the standard deviation of the natural logarithm of the factor every probability is bent by.
	Off    float64
	rnd    *rand.Rand
	signs  map[string]*diagnose.Sign
	placed map[string]*diagnose.PlacedSign
	factor map[string]float64 // by fault, of its prior
	brings []float64          // by line of diagnose.Causes
	// second draws from the mechanic's shape; bent is how far each of its chances is bent, by trouble, sign and value.
	second bool
	bent   map[[2]string][]float64
}

// NewWorld bends the engine's tables.
func NewWorld(off float64, seed uint64) *World {
	w := &World{
		Off:    off,
		rnd:    rand.New(rand.NewPCG(seed, 0x6e)),
		signs:  map[string]*diagnose.Sign{},
		placed: map[string]*diagnose.PlacedSign{},
		factor: map[string]float64{},
	}
	for i := range diagnose.Signs {
		s := diagnose.Signs[i]
		s.Base, s.Given = w.bend(s.Base), w.bendAll(s.Given)
		w.signs[s.ID] = &s
	}
	for i := range diagnose.PlacedSigns {
		p := diagnose.PlacedSigns[i]
		p.Base, p.Given = w.bend(p.Base), w.bendAll(p.Given)
		w.placed[p.ID] = &p
	}
	for _, f := range diagnose.Faults {
		w.factor[f.ID] = math.Exp(off * w.rnd.NormFloat64())
	}
	for _, c := range diagnose.Causes { // bent in the odds, so that it stays a chance
		odds := c.P / (1 - c.P) * math.Exp(off*w.rnd.NormFloat64())
		w.brings = append(w.brings, odds/(1+odds))
	}
	return w
}

// bendAll goes through the faults in order, so that a seed always gives the same world.
func (w *World) bendAll(given map[string]diagnose.Given) map[string]diagnose.Given {
	out := map[string]diagnose.Given{}
	for _, id := range slices.Sorted(maps.Keys(given)) {
		out[id] = diagnose.Given{P: w.bend(given[id].P), Origin: given[id].Origin}
	}
	return out
}

// bend multiplies each probability by a random factor and makes them add up to one again.
func (w *World) bend(p []float64) []float64 {
	out := make([]float64, len(p))
	sum := 0.0
	for i, x := range p {
		out[i] = x * math.Exp(w.Off*w.rnd.NormFloat64())
		sum += out[i]
	}
	for i := range out {
		out[i] /= sum
	}
	return out
}

// mix of patterns on the lift. Assumption.
var mix = []struct {
	id    string
	share float64
}{{"pickup-front-rear-vacuum", 0.22}, {"car-diagonal-vacuum", 0.22}, {"car-front-rear-vacuum", 0.16}, {"pickup-hydraulic", 0.12}, {"truck-hydraulic", 0.08},
	{"special-vacuum", 0.06}, {"special-manual", 0.05}, {"hybrid-electro-hydraulic", 0.05}, {"trailer-surge", 0.04}}

// Vehicle is one vehicle with its hidden faults and all it would show.
type Vehicle struct {
	Pattern string
	System  *system.System // as its pattern says: what the technician knows
	Truth   []diagnose.Suspect
	Tools   []string
	Hands   int

	rnd    *rand.Rand
	world  *World
	itself *system.System // the vehicle without its faults
	real   *twin.Model    // the vehicle as it stands
	seed   uint64
	// strange: it was brought in with something the diagnosis has no name for, if its kind can have any.
	strange bool
	had     []mechanic.Had // of the second world: what it came with, named by the diagnosis or not
	// severity is that of each fault it came with.
	severity map[diagnose.Suspect]float64
	shows    map[string]string
	reports  []diagnose.Finding
	shop     *diagnose.Experience // what the shop that has it in hand has learnt
}

// complaints are the signs an owner brings; the rest takes a technician.
var complaints = []string{
	"pedal.sinks",
	"pedal.to_floor",
	"pedal.springy",
	"pedal.low",
	"pedal.soft_when_hot",
	"pedal.dead_first_travel",
	"pedal.hard",
	"brakes.weak",
	"brakes.drag",
	"sound.rush_of_air",
	"steering.groan",
	"steering.heavy",
	"level.falls",
	"coupler.bangs",
}

// Draw draws a vehicle that someone has a complaint about. It has a source of its own: however it is worked on, the
// next one is the same, so that two runs see the same vehicles.
func (w *World) Draw() *Vehicle { return w.DrawOf("", rand.New(rand.NewPCG(w.rnd.Uint64(), 3))) }

// DrawOf draws one of a pattern ("" takes the mix of the lift), from a source of its own: the same whatever was drawn
// before.
func (w *World) DrawOf(pattern string, rnd *rand.Rand) *Vehicle {
	strange := w.second && rnd.Float64() < mechanic.Unnamed
	for {
		if v := w.draw(pattern, rnd, strange); v.brought() {
			return v
		}
	}
}

// With draws one that has these faults and no other, with every tool to hand: a vehicle made on purpose.
func (w *World) With(pattern string, truth []diagnose.Suspect, rnd *rand.Rand) *Vehicle {
	for {
		if v := w.make(pattern, truth, rnd, false); len(v.reports) > 0 {
			v.Tools, v.Hands = slices.Clone(diagnose.Tools), 2
			return v
		}
	}
}

func (w *World) draw(pattern string, rnd *rand.Rand, strange bool) *Vehicle {
	return w.make(pattern, nil, rnd, strange)
}

// make draws a vehicle; its faults as well where they are not given.
func (w *World) make(pattern string, truth []diagnose.Suspect, rnd *rand.Rand, strange bool) *Vehicle {
	v := &Vehicle{world: w, strange: strange, rnd: rnd, seed: rnd.Uint64(), shows: map[string]string{}}
	if v.Pattern = pattern; pattern == "" {
		v.Pattern = drawPattern(rnd.Float64())
	}
	v.System, _ = system.FromPattern(v.Pattern)
	if w.second {
		v.drawTroubles()
	} else if truth == nil {
		v.drawFaults()
	} else {
		v.Truth = slices.Clone(truth)
	}
	v.itself = v.System.Clone()
	simulate.Shake(v.rnd, v.itself)
	v.severity = map[diagnose.Suspect]float64{}
	for _, t := range v.Truth {
		v.severity[t] = rnd.Float64()
	}
	v.become()
	v.drawShop()
	v.report()
	return v
}

// drawPattern is that of a share of the lift, 0 to 1.
func drawPattern(x float64) (id string) {
	for _, m := range mix {
		if id = m.id; x < m.share {
			break
		}
		x -= m.share
	}
	return id
}

func findFault(id string) *diagnose.Fault {
	for i := range diagnose.Faults {
		if diagnose.Faults[i].ID == id {
			return &diagnose.Faults[i]
		}
	}
	return nil
}

// drawFaults draws what is wrong: first what comes by itself, every fault by its own prior, then what it brings, by
// the table of cause and effect with the world's own figures, effects of effects as well. More than two are drawn
// again but for chains of cause and effect, and a sound vehicle is kept as seldom as the engine takes it to be
// brought in.
func (v *Vehicle) drawFaults() {
	own := v.later()
	for {
		v.Truth = nil
		for _, f := range v.possible() {
			rnd := v.rnd
			if slices.Contains(laterFaults, f.ID) {
				rnd = own
			}
			if rnd.Float64() < math.Min(0.3, v.world.factor[f.ID]*findFault(f.ID).PriorAt(v.System, f.At)) {
				v.Truth = append(v.Truth, f)
			}
		}
		chain := v.bring()
		n := len(v.Truth)
		if n == 1 || n == 2 || n == 3 && chain || n == 0 && v.rnd.Float64() < diagnose.SoundShare {
			return
		}
	}
}

// again is the same vehicle as it came in, to be worked on another way: what is drawn while it is worked on comes
// from a source of its own.
func (v *Vehicle) again(truth []diagnose.Suspect) *Vehicle {
	w := *v
	w.Truth, w.shows = slices.Clone(truth), maps.Clone(v.shows)
	w.rnd = rand.New(rand.NewPCG(v.seed, 1))
	return &w
}

// become makes the vehicle what its faults make of it: what it measures and what it shows.
func (v *Vehicle) become() {
	real := v.itself.Clone()
	for _, t := range v.Truth {
		if f := findFault(t.ID); f.Physics != nil && !v.world.second {
			f.Physics(real, t.At, v.severity[t])
		}
	}
	for _, h := range v.stillHad() {
		if h.Does != nil {
			h.Does(real, h.At, h.Bad)
		}
	}
	v.real = twin.New(real)
	v.showAll()
}

// showAll draws what every sign shows.
func (v *Vehicle) showAll() {
	rnd, own := v.rnd, v.later()
	for i := range diagnose.Signs {
		id := diagnose.Signs[i].ID
		if v.rnd = rnd; slices.Contains(laterSigns, id) {
			v.rnd = own
		}
		if v.applies(id) || !strings.HasPrefix(id, "coupler.") {
			v.shows[id] = v.sample(
				id,
			) // a coupler's signs came later: what has none draws as before, so that a seed gives the vehicle it gave
		}
	}
	v.rnd = rnd
}

// What came into the tables later is drawn from a source of its own, so that a seed gives the vehicle it gave.
var (
	laterFaults = []string{"wheel.parking_brake", "wheel.linings", "pedal.held_down", "pedal.bush_worn"}
	laterSigns  = []string{"parking.slack", "pedal.returns", "pedal.side_play", "linings.seen"}
)

func (v *Vehicle) later() *rand.Rand { return rand.New(rand.NewPCG(v.seed, 0x1a7e)) }

// possible lists every fault the system can have, at every place.
func (v *Vehicle) possible() (out []diagnose.Suspect) {
	for i := range diagnose.Faults {
		f := &diagnose.Faults[i]
		if f.Applies != nil && !f.Applies(v.System) {
			continue
		}
		switch f.Place {
		case diagnose.Whole:
			out = append(out, diagnose.Suspect{ID: f.ID})
		case diagnose.AtCircuit:
			for _, c := range v.System.Circuits {
				out = append(out, diagnose.Suspect{ID: f.ID, At: c.ID})
			}
		case diagnose.AtWheel:
			for _, w := range v.System.Wheels {
				out = append(out, diagnose.Suspect{ID: f.ID, At: w.ID})
			}
		}
	}
	return out
}

// bring adds what the faults there bring with them, and says whether they brought anything.
func (v *Vehicle) bring() (chain bool) {
	for k := 0; k < len(v.Truth) && len(v.Truth) < 6; k++ {
		for _, f := range v.possible() {
			if slices.Contains(v.Truth, f) {
				continue
			}
			for i := range diagnose.Causes {
				c := &diagnose.Causes[i]
				if c.Cause == v.Truth[k].ID && c.Effect == f.ID && v.rnd.Float64() < v.world.brings[i] {
					v.Truth, chain = append(v.Truth, f), true
					break
				}
			}
		}
	}
	for _, t := range v.Truth { // a cause and its effect that were drawn apart are a chain as well
		for _, u := range v.Truth {
			chain = chain || diagnose.Brings(t.ID, u.ID)
		}
	}
	return chain
}

// definition lists the signs that are the fault itself, measured: they do not fade with it.
var definition = map[string]bool{"fluid.water_percent": true, "rod.gap_mm": true, "unit.is_right": true}

// sample draws one sign. A faint fault shows less: its likelihood lies between the sound vehicle's and
// the table's.
func (v *Vehicle) sample(id string) string {
	s := v.world.signs[id]
	present := make([]string, len(v.Truth))
	for i, t := range v.Truth {
		present[i] = t.ID
	}
	if v.world.second {
		return s.Values[v.pick(s.Combine(v.troubled(id)...))]
	}
	var rows [][]float64
	for _, t := range v.Truth {
		g, ok := s.Shown(t.ID, present)
		if !ok {
			continue
		}
		faint := 1 - v.severity[t]
		share := 1 - 0.2*faint*faint
		if definition[id] {
			share = 1
		}
		p := make([]float64, len(g.P))
		for k := range p {
			p[k] = share*g.P[k] + (1-share)*s.Base[k]
		}
		rows = append(rows, p)
	}
	return s.Values[v.pick(s.Combine(rows...))]
}

func (v *Vehicle) pick(p []float64) int {
	x := v.rnd.Float64()
	for i, q := range p {
		if x < q {
			return i
		}
		x -= q
	}
	return len(p) - 1
}
