// Package simulate is a vehicle that can be worked on. It knows what hands did and what came of it: fluid and air in
// cells of its own, every fastener's real torque, the real gap of the rod, which parts are on, what was spoilt on the
// way. It is read by feel, eye, rule or instrument, and after ninety days it says what came back and what would have
// hurt somebody.
//
// It is independent of the job: it imports the system and the twin alone, nothing that plans, counts or judges. What is
// told of the work it never hears. Same seed, same vehicle, on every machine. All rates and consequences are
// assumptions (how-it-computes, section 14).
package simulate

import (
	"maps"
	"math"
	"math/rand/v2"
	"slices"

	"geminate/brake/system"
	"geminate/brake/twin"
)

// Fault is something the vehicle came in with. Physics makes a system what the fault makes of it; nil where it is felt
// or seen and nothing of the twin's. Unsafe faults can take the brakes away.
type Fault struct {
	ID, At  string
	In      []Part // what cures it when it is changed
	Physics func(*system.System)
	Unsafe  bool
}

// Vehicle is one vehicle with its truth.
type Vehicle struct {
	// Seconds are what the work on it has taken.
	Seconds float64

	found  *system.System // as it would be without its faults
	faults []Fault
	rnd    *rand.Rand

	tanks    []*tank
	chambers map[string]*stirred
	trunks   map[string]*pipe // what a circuit's lines have in common
	paths    map[string]*path
	wheels   []string
	air      air
	poured   float64

	parts   map[Part]*state
	order   []Part  // of parts, so that a seed always gives the same
	rodMM   float64 // the real gap, less than nothing is preload
	crossed bool    // two lines exchanged
	alike   bool    // the unit on it is the look-alike, not the one that fits
	benched bool    // the cylinder in hand was bled in the vice
	wiped   bool    // joints are dry, so that a weep shows
	stored  bool    // vacuum or pressure is stored
	live    bool    // high voltage
	marks   []Mark
	openAt  []string // the wheels at which a joint elsewhere was opened
}

// Mark is something that happened to it, in order.
type Mark struct {
	What Happened
	At   string
}

// Happened is what can happen to a vehicle that leaves something behind.
type Happened string

// What happened.
const (
	RanDry     Happened = "ran_dry"
	FootUp     Happened = "foot_up"
	WrongFluid Happened = "wrong_fluid"
	Jet        Happened = "jet"   // opened with pressure stored: fluid at 100 bar and more
	Shock      Happened = "shock" // high voltage not proven off
	Spoilt     Happened = "spoilt"
	Stripped   Happened = "stripped"
)

func (v *Vehicle) mark(what Happened, at string) {
	if n := len(v.marks); n > 0 && v.marks[n-1] == (Mark{what, at}) {
		return
	}
	v.marks = append(v.marks, Mark{what, at})
}

// Marks are what happened to it.
func (v *Vehicle) Marks() []Mark { return v.marks }

// Shake makes a vehicle out of a pattern: no two are alike. Spreads are assumptions.
func Shake(rnd *rand.Rand, s *system.System) {
	by := func(x *float64, spread float64) { *x *= math.Exp(spread * rnd.NormFloat64()) }
	for i := range s.Wheels {
		b := &s.Wheels[i].Brake
		by(&b.ClearanceMM, 0.15)
		by(&b.ComplianceMM3, 0.12)
		by(&s.Wheels[i].Hose.ExpansionMM3PerMPA, 0.1)
	}
	by(&s.MasterCylinder.Primary.PreloadN, 0.1)
	s.PushrodGapMM = math.Max(0, s.PushrodGapMM+0.15*rnd.NormFloat64())
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

// New is a vehicle as it came in: s without its faults, and the faults.
func New(s *system.System, faults []Fault, seed uint64) *Vehicle {
	v := &Vehicle{
		found:    s.Clone(),
		faults:   append([]Fault{}, faults...),
		rnd:      rand.New(rand.NewPCG(seed, 0x51)),
		chambers: map[string]*stirred{},
		trunks:   map[string]*pipe{},
		paths:    map[string]*path{},
		parts:    map[Part]*state{},
		air: air{
			chambers: map[string]float64{},
			cavities: map[string]float64{},
			pipes:    map[string][]bubble{},
		},
		rodMM:  s.PushrodGapMM,
		stored: s.Assist().Powered(),
		live:   s.Assist().OnePiece,
	}
	v.fillCells(s)
	v.mount(s)
	v.order = slices.Sorted(maps.Keys(v.parts))
	with := s.Clone()
	for _, f := range v.faults {
		if f.Physics != nil {
			f.Physics(with)
		}
	}
	v.rodMM = with.PushrodGapMM
	// Air it came in with lies where it collects: in the brakes and in the chamber.
	for _, c := range with.Circuits {
		if more := c.AirCM3; more > 0 && len(c.Wheels) > 0 {
			v.air.chambers[c.ID] += 0.3 * more
			for _, w := range c.Wheels {
				v.air.cavities[w] += 0.7 * more / float64(len(c.Wheels))
			}
		}
	}
	return v
}

func (v *Vehicle) spend(seconds float64) { v.Seconds += seconds * (0.85 + 0.3*v.rnd.Float64()) }

// Spend lets time pass.
func (v *Vehicle) Spend(seconds float64) { v.Seconds += seconds }

// Faults are those still there.
func (v *Vehicle) Faults() []Fault { return v.faults }

// cure takes away what was in a part that was changed.
func (v *Vehicle) cure(p Part) {
	kept := v.faults[:0]
	for _, f := range v.faults {
		in := false
		for _, x := range f.In {
			in = in || x == p
		}
		if !in {
			kept = append(kept, f)
		}
	}
	v.faults = kept
}

// Now is the system as it really stands: what is left of its faults, the air, what weeps, the rod.
func (v *Vehicle) Now() *system.System {
	s := v.found.Clone()
	for _, f := range v.faults {
		if f.Physics != nil {
			f.Physics(s)
		}
	}
	s.PushrodGapMM = v.rodMM
	for i := range s.Circuits {
		c := &s.Circuits[i]
		c.AirCM3 = v.AirCM3(c.ID)
		for _, p := range v.order {
			st, f := v.parts[p], fitOf(p)
			if !f.wet || !v.feeds(p, c) || !st.wrong(f) {
				continue
			}
			if st.off || f.loose > 0 && st.nm < 1 {
				c.Open = true
			} else {
				c.LeakMM3SMPA += 8 + 10*(f.loose-math.Min(f.loose, st.nm)) // a weep to a run
			}
		}
	}
	if b := s.Booster; b != nil && v.noAssist() {
		zero := 0.0
		if b.VacuumKPA != nil {
			b.VacuumKPA = &zero
		}
		if b.SupplyMPA != nil {
			b.SupplyMPA = &zero
		}
	}
	return s
}

// feeds says whether a wet part belongs to a circuit.
func (v *Vehicle) feeds(p Part, c *system.Circuit) bool {
	if p == At(Line, c.ID) || p == RemoteHose {
		return true
	}
	for _, w := range c.Wheels {
		if p == At(Bleeder, w) {
			return true
		}
	}
	return p == Elsewhere && v.found.Circuits[0].ID == c.ID
}

func (v *Vehicle) noAssist() bool {
	for _, p := range []Part{VacuumHose, PressureLine, Connector} {
		if st := v.parts[p]; st != nil && st.off {
			return true
		}
	}
	return false
}

func (v *Vehicle) model() *twin.Model { return twin.New(v.Now()) }
