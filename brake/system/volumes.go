package system

import "math"

// Volumes that follow from a system's lengths and bores, cm³ (arithmetic).

// hoseBoreMM is taken where a hose's bore is not given: 1/8 in hose. Common practice, no source.
const hoseBoreMM = 3.2

// BoreOrUsualMM is a hose's bore.
func (h *Hose) BoreOrUsualMM() float64 {
	if h.BoreMM != nil {
		return *h.BoreMM
	}
	return hoseBoreMM
}

func area(boreMM float64) float64 { return math.Pi * boreMM * boreMM / 4 }

// HoseCM3 is what a wheel's hose holds.
func (w *Wheel) HoseCM3() float64 { return area(w.Hose.BoreOrUsualMM()) * w.Hose.LengthMM / 1000 }

// PipeCM3 is what a wheel's line and hose hold.
func (w *Wheel) PipeCM3() float64 {
	return area(w.Line.BoreMM)*w.Line.LengthMM/1000 + w.HoseCM3()
}

// SharedCM3 is what the line holds that a circuit's wheels have in common: no more than the shortest of their lines. 0
// where each has its own from the cylinder on.
func (s *System) SharedCM3(circuit string) float64 {
	c := s.Circuit(circuit)
	if c == nil || c.SharedMM == nil || len(c.Wheels) < 2 {
		return 0
	}
	least := math.Inf(1)
	for _, id := range c.Wheels {
		if w := s.Wheel(id); w != nil {
			least = math.Min(least, area(w.Line.BoreMM)*math.Min(*c.SharedMM, w.Line.LengthMM)/1000)
		}
	}
	if math.IsInf(least, 1) {
		return 0
	}
	return least
}

// ChamberOf is the cylinder's chamber of a circuit: the primary where no secondary feeds it.
func (s *System) ChamberOf(circuit string) Chamber {
	if sec := s.MasterCylinder.Secondary; sec != nil && sec.Circuit == circuit {
		return *sec
	}
	return s.MasterCylinder.Primary
}

// ChamberCM3 is what the cylinder's chamber of a circuit holds: its area times its stroke.
func (s *System) ChamberCM3(circuit string) float64 {
	return area(s.MasterCylinder.BoreMM) * s.ChamberOf(circuit).StrokeMM / 1000
}

// smallReservoirCM3 is taken where the system gives no reservoir: a small car's, so that refills come early.
// Assumption.
const smallReservoirCM3 = 100

// Tank is a reservoir, or a circuit's part of a divided one. FullCM3 is its mark, LowestCM3 its lowest port.
type Tank struct {
	FullCM3, LowestCM3 float64
	Circuits           []string
}

// Tanks are the reservoir as the circuits draw from it: one, or a part for each circuit with its share of what lies
// below the lowest port.
func (s *System) Tanks() []Tank {
	var all []string
	for _, c := range s.Circuits {
		all = append(all, c.ID)
	}
	if s.Reservoir == nil {
		return []Tank{{smallReservoirCM3, 0, all}}
	}
	if len(s.Reservoir.Circuits) < 2 {
		return []Tank{{s.Reservoir.FullCM3, s.Reservoir.LowestPortCM3, all}}
	}
	var out []Tank
	for _, c := range s.Circuits {
		part := s.Reservoir.Circuits[c.ID]
		out = append(out, Tank{part, s.Reservoir.LowestPortCM3 * part / s.Reservoir.FullCM3, []string{c.ID}})
	}
	return out
}
