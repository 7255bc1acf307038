package twin

import "geminate/brake/system"

// Figures are a system's headline numbers, by which one sees whether it is like a real vehicle.
type Figures struct {
	ForceN                 float64 `json:"force_n"` // 300 at the pedal, 2500 at a coupler
	TravelMM               float64 `json:"travel_mm"`
	PressureMPA            float64 `json:"pressure_mpa"` // in the primary's circuit
	DecelerationMPS2       float64 `json:"deceleration_mps2"`
	FailedDecelerationMPS2 float64 `json:"assist_failed_500n_mps2"`
	FailedTravelMM         float64 `json:"assist_failed_500n_mm"`
	KneeN                  float64 `json:"knee_n"`       // 0 where there is no knee
	Applications           int     `json:"applications"` // assisted, after the engine stops
	HardOnPump             int     `json:"hard_on_pump"` // 0 where there is no store to empty
	Bottomed               bool    `json:"bottomed"`
	Floored                bool    `json:"floored"`
}

// R13HMPS2 is the least mean deceleration of secondary braking at 500 N or less. Source: UN Regulation
// 13-H Annex 3, category M1 (passenger cars), from memory. It binds no truck, trailer or clutch.
const R13HMPS2 = 2.44

// FiguresOf computes a system's headline figures.
func FiguresOf(s *system.System) Figures {
	m := New(s)
	f := Figures{ForceN: 300}
	if s.IsTrailer() {
		f.ForceN = 2500
	}
	at := m.Apply(f.ForceN, true)
	f.TravelMM, f.DecelerationMPS2, f.Bottomed, f.Floored = at.TravelMM, at.DecelerationMPS2, len(at.Bottomed) > 0, at.Floored
	f.PressureMPA = at.PressureMPA[s.MasterCylinder.Primary.Circuit]
	if !s.IsTrailer() {
		failed := m.Apply(500, false)
		f.FailedDecelerationMPS2, f.FailedTravelMM = failed.DecelerationMPS2, failed.TravelMM
	}
	f.KneeN, _ = m.KneePedalForceN()
	if f.Applications = m.Reserve().Applications; f.Applications > 0 {
		f.HardOnPump = f.Applications + 1
	}
	return f
}
