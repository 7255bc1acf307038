package diagnose

import (
	"strings"

	"geminate/brake/system"
)

// PlacedSign is a sign read at several places: at wheels or at the cylinder's ports.
type PlacedSign struct {
	ID     string
	Values []string // the unremarkable one first
	Base   []float64
	Given  map[string]Given // at a place the fault reaches
	// AtWheels: read at each wheel; else at each circuit's port.
	AtWheels bool
	// OnlyCylinder: with its line off a port shows the cylinder's own faults alone.
	OnlyCylinder bool
}

// PlacedSigns is the table; its figures are of the same kind as those of Signs.
var PlacedSigns = []PlacedSign{
	{
		ID:           "pressure.at_port",
		Values:       []string{"ok", "low", "none"},
		Base:         []float64{0.98, 0.015, 0.005},
		OnlyCylinder: true,
		Given: rows{
			"mc.primary_cup_bypass":   n(0.3, 0.55, 0.15),
			"mc.secondary_cup_bypass": n(0.3, 0.55, 0.15),
			"mc.piston_seized":        f(0.1, 0.3, 0.6),
			"mc.bore_corroded":        f(0.45, 0.45, 0.1),
			"mc.rear_seal_leak":       f(0.6, 0.35, 0.05),
			"mc.wrong_variant":        g(0.5, 0.3, 0.2),
		},
	},
	{
		ID:       "pressure.at_bleeder",
		Values:   []string{"ok", "low", "none"},
		Base:     []float64{0.98, 0.015, 0.005},
		AtWheels: true,
		Given: rows{
			"mc.primary_cup_bypass":   n(0.3, 0.55, 0.15),
			"mc.secondary_cup_bypass": n(0.3, 0.55, 0.15),
			"mc.piston_seized":        f(0.1, 0.3, 0.6),
			"mc.bore_corroded":        f(0.45, 0.45, 0.1),
			"mc.rear_seal_leak":       f(0.6, 0.35, 0.05),
			"mc.wrong_variant":        g(0.5, 0.3, 0.2),
			"circuit.line_leak":       n(0.2, 0.5, 0.3),
			"circuit.air":             f(0.4, 0.55, 0.05),
			"circuit.hose_blocked":    n(0.4, 0.35, 0.25),
			"wheel.leak":              n(0.4, 0.5, 0.1),
			"circuit.modulator_leak":  f(0.35, 0.55, 0.1),
		},
	},
	// The line loosened where it meets the hose splits what a dead bleeder leaves open: what lies before shows here, a
	// blocked hose does not. Common practice, no source; the figures are those of the bleeder without what lies beyond.
	{
		ID:       "pressure.before_hose",
		Values:   []string{"ok", "low", "none"},
		Base:     []float64{0.98, 0.015, 0.005},
		AtWheels: true,
		Given: rows{
			"mc.primary_cup_bypass":   n(0.3, 0.55, 0.15),
			"mc.secondary_cup_bypass": n(0.3, 0.55, 0.15),
			"mc.piston_seized":        f(0.1, 0.3, 0.6),
			"mc.bore_corroded":        f(0.45, 0.45, 0.1),
			"mc.rear_seal_leak":       f(0.6, 0.35, 0.05),
			"mc.wrong_variant":        g(0.5, 0.3, 0.2),
			"circuit.line_leak":       n(0.2, 0.5, 0.3),
			"circuit.air":             f(0.4, 0.55, 0.05),
			"wheel.leak":              f(0.45, 0.47, 0.08),
		},
	},
	{
		ID:       "wheel.check",
		Values:   []string{"free", "drags", "slack"},
		Base:     []float64{0.992, 0.005, 0.003},
		AtWheels: true,
		Given: rows{
			"wheel.seized":            n(0.03, 0.965, 0.005),
			"wheel.excess_clearance":  n(0.03, 0.005, 0.965),
			"circuit.hose_blocked":    n(0.6, 0.38, 0.02),
			"wheel.parking_brake":     n(0.12, 0.86, 0.02),
			"pedal.held_down":         n(0.5, 0.48, 0.02),
			"rod.too_long":            n(0.5, 0.48, 0.02),
			"mc.port_blocked":         n(0.5, 0.48, 0.02),
			"fluid.petroleum":         f(0.7, 0.28, 0.02),
			"mc.piston_seized":        g(0.75, 0.23, 0.02),
			"hydraulic.valve_stuck":   g(0.7, 0.28, 0.02),
			"trailer.actuator_seized": g(0.8, 0.18, 0.02),
			"trailer.breakaway_on":    n(0.05, 0.93, 0.02),
			"trailer.shoes_far":       n(0.2, 0.01, 0.79),
		},
	},
	{
		ID:       "wheel.heat",
		Values:   []string{"even", "hot", "cold"},
		Base:     []float64{0.98, 0.012, 0.008},
		AtWheels: true,
		Given: rows{
			"wheel.seized":           f(0.1, 0.62, 0.28),
			"circuit.hose_blocked":   f(0.45, 0.3, 0.25),
			"wheel.excess_clearance": g(0.7, 0.02, 0.28),
			"wheel.parking_brake":    n(0.25, 0.73, 0.02),
			"pedal.held_down":        n(0.3, 0.68, 0.02),
			"rod.too_long":           n(0.3, 0.68, 0.02),
			"mc.port_blocked":        n(0.3, 0.68, 0.02),
			"mc.piston_seized":       g(0.7, 0.1, 0.2),
			"fluid.petroleum":        g(0.6, 0.38, 0.02),
			"wheel.leak":             g(0.75, 0.02, 0.23),
		},
	},
}

func findPlaced(id string) *PlacedSign {
	for i := range PlacedSigns {
		if PlacedSigns[i].ID == id {
			return &PlacedSigns[i]
		}
	}
	return nil
}

// Places lists where a placed sign is read on a system.
func (p *PlacedSign) Places(s *system.System) (out []string) {
	if p.AtWheels {
		for _, w := range s.Wheels {
			out = append(out, w.ID)
		}
		return out
	}
	for _, c := range s.Circuits {
		out = append(out, c.ID)
	}
	return out
}

// reaches says whether a fault shows at a place.
func reaches(s *system.System, f placedFault, at string) bool {
	circuit := at
	if s.Circuit(at) == nil {
		circuit = s.CircuitOf(at)
	}
	switch f.fault.ID {
	case "wheel.parking_brake": // its cable pulls at the rear wheels
		return s.Wheel(at) != nil && rear(at)
	case "mc.primary_cup_bypass", "mc.rear_seal_leak":
		return circuit == primary(s)
	case "mc.secondary_cup_bypass":
		return circuit == secondary(s)
	}
	return f.fault.Place == Whole || f.at == at || f.at == circuit || (f.fault.Place == AtWheel && s.CircuitOf(f.at) == at)
}

// rear says whether a wheel's id is one of the rear axle.
func rear(wheel string) bool { return strings.HasSuffix(wheel, "R") && len(wheel) == 2 }

// placedLikelihoods is P(value at a place | hypothesis) by value. Of two faults that reach the place the
// worse one shows.
func (e *engine) placedLikelihoods(p *PlacedSign, at string) [][]float64 {
	key := p.ID + " " + at
	e.mu.Lock()
	defer e.mu.Unlock()
	if out, ok := e.places[key]; ok {
		return out
	}
	out := make([][]float64, len(p.Values))
	for v := range out {
		out[v] = make([]float64, len(e.hyps))
	}
	for i, h := range e.hyps {
		given := p.Base
		for _, k := range h {
			if g, ok := p.Given[e.faults[k].fault.ID]; ok && g.P[0] < given[0] && reaches(e.sys, e.faults[k], at) {
				given = g.P
			}
		}
		for v := range out {
			out[v][i] = (1-tableDoubt)*given[v] + tableDoubt*blank(p.Base, v)
		}
	}
	e.places[key] = out
	return out
}

// PlacedChance is P(value at a place) with these faults, by the table given (the engine's own or another).
func (p *PlacedSign) PlacedChance(s *system.System, truth []Suspect, at string) []float64 {
	given := p.Base
	for _, t := range truth {
		g, ok := p.Given[t.ID]
		if ok && g.P[0] < given[0] && reaches(s, placedFault{findFault(t.ID), t.At}, at) {
			given = g.P
		}
	}
	return given
}
