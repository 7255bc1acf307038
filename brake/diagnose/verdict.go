package diagnose

import (
	"math"
	"slices"

	"geminate/brake/system"
	"geminate/brake/twin"
)

// Carry is one of the findings a verdict stands on, and how many times likelier it is with the fault that leads.
type Carry struct {
	Finding string  `json:"finding"`
	Value   string  `json:"value,omitempty"`
	Fault   string  `json:"fault"`
	At      string  `json:"at,omitempty"`
	Times   float64 `json:"times"`
}

// carriers are the two or three findings that speak loudest for the fault that leads.
func carriers(faults []Ranked) []Carry {
	const most, loud = 3, 1.5 // findings; times likelier
	out := []Carry{}
	if len(faults) == 0 {
		return out
	}
	lead := &faults[0]
	for _, b := range lead.Because {
		if b.For && b.Times >= loud && len(out) < most {
			out = append(out, Carry{b.Finding, b.Value, lead.ID, lead.At, b.Times})
		}
	}
	return out
}

// broughtBy is the cause that a fault most likely came from, nil where it more likely came by itself.
func (e *engine) broughtBy(fault int, post []float64) *Suspect {
	const rather = 0.5
	total := 0.0
	with := make([]float64, len(e.faults))
	for i, h := range e.hyps {
		if !h.has(fault) {
			continue
		}
		total += post[i]
		for _, c := range h {
			if e.brings[c][fault] {
				with[c] += post[i]
			}
		}
	}
	at := leading(with)
	if at < 0 || with[at] <= rather*total {
		return nil
	}
	return &Suspect{ID: e.faults[at].fault.ID, At: e.faults[at].at}
}

// WheelWork is what setting the clearance of one wheel comes to.
type WheelWork struct {
	At string `json:"at"`
	// TakeUpMM is the running clearance too much, at the shoe or pad.
	TakeUpMM float64 `json:"take_up_mm"`
	// PedalGainMM is by how much the pedal then stands higher under the foot of AtForceN, assist exhausted; the twin's.
	PedalGainMM float64 `json:"pedal_gain_mm"`
	AtForceN    float64 `json:"at_force_n"`
	// Measured says whether a reading stands behind it; else it is the middle of what such a wheel may have.
	Measured bool `json:"measured"`
}

// wheelForceN is the foot the gain is told at: firm, and below what bottoms anything. Assumption.
const wheelForceN = 200

// wheelWork works the figures out for the wheels a repair is proposed at whose clearance is the likely fault.
func wheelWork(c *Case, a *Action, faults []Ranked) ([]WheelWork, error) {
	out := []WheelWork{}
	if a.Best != "repair_wheel" && !slices.Contains(a.Also, "repair_wheel") {
		return out, nil
	}
	for _, f := range faults {
		if f.ID != "wheel.excess_clearance" || !slices.Contains(a.At, f.At) {
			continue
		}
		p, err := Show(c, f.ID, f.At)
		if err != nil {
			return nil, err
		}
		out = append(out, WheelWork{At: f.At, Measured: p.Measured, AtForceN: wheelForceN,
			TakeUpMM:    p.System.Wheel(f.At).Brake.ClearanceMM - c.System.Wheel(f.At).Brake.ClearanceMM,
			PedalGainMM: gain(p.System, c.System)})
	}
	return out, nil
}

func gain(from, to *system.System) float64 {
	return math.Max(0, twin.New(from).Travel(wheelForceN, false)-twin.New(to).Travel(wheelForceN, false))
}
