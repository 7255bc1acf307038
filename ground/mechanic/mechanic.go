// Package mechanic is a second shape of what goes wrong, written from the vehicle and not from the diagnosis' tables: where
// a trouble sits, how bad it commonly is, what it does to the fluid and what a hand then sees, with troubles among them
// that the diagnosis has no name for. It knows a system and nothing of what judges it, so that a trial drawn from it can
// disagree. All its figures are assumptions from the trade brief's emphasis, made on their own; no count stands behind them.
package mechanic

import (
	"math"
	"math/rand/v2"
	"slices"

	"geminate/brake/system"
)

// Where a trouble sits.
type Where int

// The places.
const (
	Vehicle Where = iota
	Circuit
	Wheel
)

// Trouble is one thing that goes wrong.
type Trouble struct {
	ID string
	// Known is the diagnosis' name for it, "" where it has none.
	Known string
	// Share is how many of a thousand vehicles brought in have it, by place.
	Share float64
	Where Where
	// On says which vehicles can have it; nil: all.
	On func(*system.System) bool
	// Bad turns an even draw into how bad it is, 0 (can just be noticed) to 1 (nobody misses it); nil: even.
	Bad func(u float64) float64
	// Does is what it does to the vehicle; nil: nothing that moves fluid.
	Does func(s *system.System, at string, bad float64)
	// Shows are the signs it changes; Here those read at a wheel or a circuit that it reaches.
	Shows, Here []Show
	// Reaches says whether it is felt at a place; nil: where it sits, and at the wheels of its circuit.
	Reaches func(s *system.System, at, place string) bool
	// Hurts: the brakes can go without more warning.
	Hurts bool
	// Brings are troubles that come of it, with the chance.
	Brings map[string]float64
}

// Show is the chance of each value of a sign, in the sign's order, from a faint trouble to a gross one.
type Show struct {
	Sign         string
	Faint, Gross []float64
}

// At is the row in between.
func (s Show) At(bad float64) []float64 {
	out := make([]float64, len(s.Faint))
	for i := range out {
		out[i] = s.Faint[i] + (s.Gross[i]-s.Faint[i])*bad
	}
	return out
}

func p(chances ...float64) []float64 { return chances }

func yes(sign string, faint, gross float64) Show {
	return Show{sign, p(1-faint, faint), p(1-gross, gross)}
}

// Mostly faint, as what creeps up is; mostly gross, as what breaks is.
func creeps(u float64) float64 { return u * u }
func breaks(u float64) float64 { return math.Sqrt(u) }

func between(lo, hi, bad float64) float64 { return lo * math.Pow(hi/lo, bad) }

func tandem(s *system.System) bool    { return s.MasterCylinder.Secondary != nil }
func vacuum(s *system.System) bool    { return s.Assist().Vacuum }
func pressure(s *system.System) bool  { return s.Assist().Pressure }
func steering(s *system.System) bool  { return s.Assist().Steering }
func byWire(s *system.System) bool    { return s.Assist().Simulator }
func pedal(s *system.System) bool     { return s.Pedal != nil }
func trailer(s *system.System) bool   { return s.IsTrailer() }
func clutch(s *system.System) bool    { return s.IsClutch() }
func modulator(s *system.System) bool { return s.Modulator != nil }
func brakes(s *system.System) bool    { return !s.IsClutch() }
func car(s *system.System) bool       { return pedal(s) && brakes(s) }
func drums(s *system.System) bool {
	return car(s) && slices.ContainsFunc(s.Wheels, func(w system.Wheel) bool { return w.Brake.Kind == "drum" })
}

// rear says whether a wheel stands behind.
func rear(_ *system.System, _, place string) bool { return len(place) == 2 && place[1] == 'R' }

// Reach says whether a trouble at a place is felt at another.
func (t *Trouble) Reach(s *system.System, at, place string) bool {
	switch {
	case t.Reaches != nil:
		return t.Reaches(s, at, place)
	case t.Where == Vehicle:
		return true
	}
	return at == place || t.Where == Circuit && s.Wheel(place) != nil && s.CircuitOf(place) == at
}

// Trouble of an id, nil where there is none.
func Of(id string) *Trouble {
	for i := range Troubles {
		if Troubles[i].ID == id {
			return &Troubles[i]
		}
	}
	return nil
}

// Had is a trouble a vehicle has, where and how bad.
type Had struct {
	*Trouble
	At  string
	Bad float64
}

// sound is how many of a thousand vehicles brought in have nothing wrong.
const sound = 30

// Unnamed is how many of all vehicles brought in have a trouble that the diagnosis has no name for.
const Unnamed = 0.05

// Draw is what is wrong with a vehicle of a system that somebody complains of: one thing mostly, now and then another beside
// it, and what those bring. A strange one has a trouble without a name, where such vehicles can.
func Draw(s *system.System, rnd *rand.Rand, strange bool) (out []Had) {
	can := []Had{}
	total, unnamed := float64(sound), 0.0
	for i := range Troubles {
		t := &Troubles[i]
		if t.On != nil && !t.On(s) {
			continue
		}
		for _, at := range t.places(s) {
			can = append(can, Had{t, at, 0})
			if t.Known == "" {
				unnamed += t.Share
			} else {
				total += t.Share
			}
		}
	}
	strange = strange && unnamed > 0
	pick := func() {
		x, of := rnd.Float64()*total, func(h Had) bool { return h.Known != "" }
		if strange {
			x, of = rnd.Float64()*unnamed, func(h Had) bool { return h.Known == "" }
		}
		for _, h := range can {
			if !of(h) {
				continue
			}
			if x -= h.Share; x < 0 {
				out = with(out, h, rnd)
				return
			}
		}
	}
	pick()
	if strange = false; rnd.Float64() < 0.12 && len(out) > 0 { // a second thing beside the first
		pick()
	}
	for k := 0; k < len(out); k++ {
		for _, h := range can {
			if rnd.Float64() < out[k].Brings[h.ID] && len(out) < 3 {
				out = with(out, h, rnd)
			}
		}
	}
	return out
}

func with(out []Had, h Had, rnd *rand.Rand) []Had {
	for _, x := range out {
		if x.ID == h.ID && x.At == h.At {
			return out
		}
	}
	if h.Bad = rnd.Float64(); h.Trouble.Bad != nil {
		h.Bad = h.Trouble.Bad(h.Bad)
	}
	return append(out, h)
}

func (t *Trouble) places(s *system.System) (out []string) {
	switch t.Where {
	case Circuit:
		for _, c := range s.Circuits {
			out = append(out, c.ID)
		}
	case Wheel:
		for _, w := range s.Wheels {
			out = append(out, w.ID)
		}
	default:
		return []string{""}
	}
	return out
}
