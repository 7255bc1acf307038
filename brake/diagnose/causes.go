package diagnose

import (
	"slices"

	"geminate/brake/system"
)

// Cause is one line of the table of cause and effect: a fault that brings another with it.
type Cause struct {
	Cause, Effect string
	// P is the chance that the effect is there where the cause is. Every figure is an assumption: the trade says that
	// one brings the other, no published frequency is known.
	P      float64
	Origin Origin
	// Repaired is the event that explains the effect without its cause: the cause was put right before. It is then
	// told with chance RepairedTold; "" where the effect comes by itself as well, at its own prior.
	Repaired string
	// Hides lists the signs of the cause that fade where the effect is there: what goes into a booster does not show
	// outside.
	Hides []string
}

// repairedTold is the chance that a repair that explains an effect is told of. Assumption.
const repairedTold = 0.9

// Causes is the table. Priors, remedies (a cause is cured with its effect), explanations and the trial's world all
// read it. Causes that are events (hydraulics opened, a unit changed) stand in the sign table as history.since.
var Causes = []Cause{
	{Cause: "mc.rear_seal_leak", Effect: "vacuum.fluid_inside", P: 0.4, Origin: Named, Repaired: "history.since:cylinder_fitted",
		Hides: []string{"wet.at:behind_cylinder", "leak.seen", "paint.peeling_on_booster"}},
	{Cause: "vacuum.fluid_inside", Effect: "vacuum.diaphragm_leak", P: 0.1, Origin: Named},
	{Cause: "fluid.petroleum", Effect: "mc.primary_cup_bypass", P: 0.35, Origin: Named},
	{Cause: "fluid.petroleum", Effect: "mc.secondary_cup_bypass", P: 0.3, Origin: Named},
	{Cause: "fluid.petroleum", Effect: "mc.port_blocked", P: 0.2, Origin: Follows},
	{Cause: "fluid.low", Effect: "circuit.air", P: 0.25, Origin: Named},
	{Cause: "fluid.low", Effect: "circuit.modulator_air", P: 0.1, Origin: Named},
	{Cause: "mc.bore_corroded", Effect: "mc.primary_cup_bypass", P: 0.25, Origin: Named},
	{Cause: "mc.bore_corroded", Effect: "mc.secondary_cup_bypass", P: 0.25, Origin: Named},
	{Cause: "fluid.wet", Effect: "mc.bore_corroded", P: 0.05, Origin: Named},
}

func (c *Cause) chance() float64 { return c.P }

// effects are the faults that another may bring.
var effects = func() map[string]bool {
	out := map[string]bool{}
	for _, c := range Causes {
		out[c.Effect] = true
	}
	return out
}()

// Brings says whether one fault brings another.
func Brings(cause, effect string) bool {
	return slices.ContainsFunc(Causes, func(c Cause) bool { return c.Cause == cause && c.Effect == effect })
}

// bentByCauses says whether what a fault shows in this sign depends on what else is there.
func (s *Sign) bentByCauses() bool {
	return slices.ContainsFunc(Causes, func(c Cause) bool { return c.Repaired == s.ID || slices.Contains(c.Hides, s.ID) })
}

// causesOf are the lines whose effect a fault is.
func causesOf(effect string) (out []*Cause) {
	for i := range Causes {
		if Causes[i].Effect == effect {
			out = append(out, &Causes[i])
		}
	}
	return out
}

// Chance is the chance that a fault is there, by its own prior and by the causes among these faults: each brings it
// independently of the others. chain says whether one of them can.
func Chance(own float64, effect string, present []string, p func(*Cause) float64) (chance float64, chain bool) {
	missed := 1 - own
	for _, c := range causesOf(effect) {
		for _, id := range present {
			if id == c.Cause {
				missed *= 1 - p(c)
				chain = true
			}
		}
	}
	return 1 - missed, chain
}

// Shown is what a fault shows in a sign beside the others that are there: an effect whose cause was repaired tells of
// the repair, and a cause whose effect takes what it loses does not show it. ok is false where it does not show.
func (s *Sign) Shown(fault string, present []string) (Given, bool) {
	for i := range Causes {
		c := &Causes[i]
		if c.Effect == fault && c.Repaired == s.ID && !slices.Contains(present, c.Cause) {
			return Given{[]float64{1 - repairedTold, repairedTold}, c.Origin}, true
		}
		if c.Cause == fault && slices.Contains(present, c.Effect) && slices.Contains(c.Hides, s.ID) {
			return Given{}, false
		}
	}
	g, ok := s.Given[fault]
	return g, ok
}

// PriorAt is a fault's own prior at a place of a system: running clearance is lost by drums, whose adjusters seize or
// are set wrong, far more than by discs, which follow their pads. Assumption.
func (f *Fault) PriorAt(s *system.System, at string) float64 {
	if f.ID != "wheel.excess_clearance" {
		return f.Prior
	}
	if w := s.Wheel(at); w != nil && w.Brake.Kind == "drum" {
		return 2 * f.Prior
	}
	return f.Prior / 4
}
