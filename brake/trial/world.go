// Package trial puts the diagnosis to the proof: it draws vehicles with hidden faults and noisy
// readings from a world that is not quite the engine's own, lets the engine work on them, and counts
// what comes out, beside two ways of working without it on the same vehicles.
//
// The world differs from the engine's beliefs in four ways: every prior and every likelihood is bent by
// a random factor (Off), a faint fault shows less than a gross one, the vehicle's measures are not its
// pattern's, and readings are taken with instruments that err. All of it is invented data.
package trial

import (
	"encoding/json"
	"maps"
	"math"
	"math/rand/v2"
	"slices"
	"strings"

	"geminate/brake/diagnose"
	"geminate/brake/system"
	"geminate/brake/twin"
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
}

// NewWorld bends the engine's tables.
func NewWorld(off float64, seed uint64) *World {
	w := &World{Off: off, rnd: rand.New(rand.NewPCG(seed, 0x6e)), signs: map[string]*diagnose.Sign{}, placed: map[string]*diagnose.PlacedSign{}, factor: map[string]float64{}}
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
	// severity is that of each fault it came with.
	severity map[diagnose.Suspect]float64
	shows    map[string]string
	reports  []diagnose.Finding
}

// complaints are the signs an owner brings; the rest takes a technician.
var complaints = []string{"pedal.sinks", "pedal.to_floor", "pedal.springy", "pedal.low", "pedal.soft_when_hot", "pedal.dead_first_travel", "pedal.hard", "brakes.weak", "brakes.drag",
	"sound.rush_of_air", "steering.groan", "steering.heavy", "level.falls"}

// Draw draws a vehicle that someone has a complaint about.
func (w *World) Draw() *Vehicle {
	for {
		if v := w.draw(); len(v.reports) > 0 {
			return v
		}
	}
}

func (w *World) draw() *Vehicle {
	v := &Vehicle{world: w, rnd: w.rnd, seed: w.rnd.Uint64(), shows: map[string]string{}}
	x := w.rnd.Float64()
	for _, m := range mix {
		if v.Pattern = m.id; x < m.share {
			break
		}
		x -= m.share
	}
	v.System, _ = system.FromPattern(v.Pattern)
	v.drawFaults()
	v.itself = v.System.Clone()
	v.shake(v.itself)
	v.severity = map[diagnose.Suspect]float64{}
	for _, t := range v.Truth {
		v.severity[t] = w.rnd.Float64()
	}
	v.become()
	v.drawShop()
	v.report()
	return v
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
	for {
		v.Truth = nil
		for _, f := range v.possible() {
			if v.rnd.Float64() < math.Min(0.3, v.world.factor[f.ID]*findFault(f.ID).PriorAt(v.System, f.At)) {
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
		if f := findFault(t.ID); f.Physics != nil {
			f.Physics(real, t.At, v.severity[t])
		}
	}
	v.real = twin.New(real)
	for i := range diagnose.Signs {
		v.shows[diagnose.Signs[i].ID] = v.sample(diagnose.Signs[i].ID)
	}
}

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

// shake makes a vehicle out of a pattern: no two are alike. Spreads are assumptions.
func (v *Vehicle) shake(s *system.System) {
	by := func(x *float64, spread float64) { *x *= math.Exp(spread * v.rnd.NormFloat64()) }
	for i := range s.Wheels {
		b := &s.Wheels[i].Brake
		by(&b.ClearanceMM, 0.15)
		by(&b.ComplianceMM3, 0.12)
		by(&s.Wheels[i].Hose.ExpansionMM3PerMPA, 0.1)
	}
	by(&s.MasterCylinder.Primary.PreloadN, 0.1)
	s.PushrodGapMM = math.Max(0, s.PushrodGapMM+0.15*v.rnd.NormFloat64())
	if s.Pedal != nil {
		by(&s.Pedal.Ratio, 0.03)
		by(&s.Pedal.FreePlayMM, 0.1)
	} else {
		s.PushrodGapMM = 0
	}
	if s.Booster != nil && s.Booster.VacuumKPA != nil {
		by(s.Booster.VacuumKPA, 0.05)
	}
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

// drawShop says what is to hand. Assumption.
func (v *Vehicle) drawShop() {
	v.Tools = []string{}
	for i, p := range []float64{0.9, 0.85, 0.6, 0.7, 0.85, 0.9, 0.7, 0.6} {
		if v.rnd.Float64() < p {
			v.Tools = append(v.Tools, diagnose.Tools[i])
		}
	}
	v.Hands = 1
	if v.rnd.Float64() < 0.6 {
		v.Hands = 2
	}
}

// report is what is known when the vehicle comes in: most of what is wrong to feel, little of what is
// not, the history more often than not, one in ten "I think so".
func (v *Vehicle) report() {
	add := func(id string) {
		f := v.finding(id)
		if v.rnd.Float64() < 0.1 {
			unsure := false
			f.Sure = &unsure
		}
		v.reports = append(v.reports, f)
	}
	for _, id := range complaints {
		if !v.applies(id) {
			continue
		}
		abnormal := v.shows[id] != diagnose.SignOf(id).Values[0]
		if x := v.rnd.Float64(); abnormal && x < 0.8 {
			add(id)
		}
	}
	if len(v.reports) == 0 {
		return
	}
	for _, id := range []string{"pedal.hard", "level.falls", "brakes.weak"} {
		if v.applies(id) && v.shows[id] == diagnose.SignOf(id).Values[0] && v.rnd.Float64() < 0.3 {
			add(id)
		}
	}
	if v.rnd.Float64() < 0.7 {
		v.reports = append(v.reports, v.finding("history.since"))
	}
	if v.rnd.Float64() < 0.4 {
		v.reports = append(v.reports, v.finding("history.bled"))
	}
}

func (v *Vehicle) applies(id string) bool {
	if v.System.IsTrailer() {
		return !strings.HasPrefix(id, "pedal.") && !strings.HasPrefix(id, "steering.") && !strings.HasPrefix(id, "sound.")
	}
	if strings.HasPrefix(id, "steering.") {
		return v.System.BoosterKind() == system.BoosterHydraulic
	}
	return true
}

// number is drawn inside the range a sign's value stands for.
var numbers = map[string]map[string][2]float64{
	"fluid.water_percent":    {"good": {0, 0.99}, "plan": {1, 2.9}, "now": {3, 3.9}, "danger": {4, 7}},
	"assist.reserve_applies": {"enough": {2, 5.99}, "few": {0, 1.99}},
	"vacuum.at_hose_kpa":     {"normal": {52, 72}, "low": {0, 48}},
	"pedal.free_play_mm":     {"none": {0, 0.09}, "normal": {0.2, 1.5}, "large": {4, 9}},
	"rod.gap_mm":             {"preload": {-2, -0.1}, "right": {0, 0.9}, "large": {1.2, 6}},
}

// finding is what is seen or read, as a finding of the case.
func (v *Vehicle) finding(id string) diagnose.Finding {
	value := func(x any) diagnose.Finding {
		raw, _ := json.Marshal(x)
		return diagnose.Finding{ID: id, Value: raw}
	}
	noise := func(sd float64) float64 { return sd * v.rnd.NormFloat64() }
	stray := v.rnd.Float64() < 0.01 // misread, slipped foot, wrong line
	switch id {
	case "wet.at":
		return value(v.list(id, diagnose.Places, "dry"))
	case "looked.at":
		return value(diagnose.Places)
	case "history.since":
		return value(v.list(id, diagnose.Events, "nothing"))
	case "codes.present":
		return value(map[string][]string{"none": {}, "other": {"stored"}, "pressure": {"pressure source"}, "offset": {"valve offset"}}[v.shows[id]])
	case "pedal.sink":
		on := diagnose.HoldEngine(v.System)
		x := math.Max(0, v.real.SinkMM(diagnose.HoldForceN, diagnose.HoldSeconds, on)*(1+noise(0.05))+noise(1.2))
		if stray {
			x = 80 * v.rnd.Float64()
		}
		return value(diagnose.Sink{PedalForceN: diagnose.HoldForceN, TravelMM: math.Round(x), Seconds: diagnose.HoldSeconds, Engine: map[bool]string{true: "on", false: "off"}[on]})
	case "pedal.readings":
		var out []diagnose.Reading
		for _, force := range []float64{100, 200, 300} {
			out = append(out, diagnose.Reading{PedalForceN: force, TravelMM: math.Round(math.Max(0, v.real.Travel(force+noise(5), false)+noise(1.5)))})
		}
		return value(out)
	case "pressure.gauge":
		var out []diagnose.Gauge
		for _, c := range v.System.Circuits {
			p := v.real.Apply(200+noise(6), true).WheelMPA[c.Wheels[0]]
			out = append(out, diagnose.Gauge{At: c.Wheels[0], PedalForceN: 200, MPA: math.Max(0, p+noise(0.15)), Engine: "on"})
		}
		return value(out)
	}
	if p, ok := v.world.placed[id]; ok {
		out := map[string]string{}
		for _, at := range p.Places(v.System) {
			out[at] = p.Values[v.pick(p.PlacedChance(v.System, v.Truth, at))]
		}
		return value(out)
	}
	if r, ok := numbers[id]; ok {
		lim := r[v.shows[id]]
		return value(math.Round(100*(lim[0]+(lim[1]-lim[0])*v.rnd.Float64())) / 100)
	}
	return value(v.shows[id])
}

func (v *Vehicle) list(id string, all []string, none string) (out []string) {
	for _, place := range all {
		if v.shows[id+":"+place] == "yes" {
			out = append(out, place)
		}
	}
	if len(out) == 0 {
		return []string{none}
	}
	return out
}

// Reports are what the owner and a first look say of the vehicle.
func (v *Vehicle) Reports() []diagnose.Finding { return append([]diagnose.Finding{}, v.reports...) }
