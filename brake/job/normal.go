package job

import (
	"geminate/brake/diagnose"
	"geminate/brake/match"
	"geminate/brake/system"
	"geminate/brake/twin"
)

// CurvePoint is one point of a pedal curve for a plot.
type CurvePoint struct {
	ForceN      float64 `json:"force_n"`
	TravelMM    float64 `json:"travel_mm"`
	PressureA   float64 `json:"pressure_a_mpa"`
	PressureB   float64 `json:"pressure_b_mpa"`
	DecelMPS2   float64 `json:"deceleration_mps2"`
	BottomedAny bool    `json:"bottomed"`
	Floored     bool    `json:"floored"`
}

// Curve is a pedal curve from nothing to a firm foot (or a hard push at the coupler).
func Curve(s *system.System, assist bool) []CurvePoint {
	m := twin.New(s)
	most, n := 400.0, 80
	if s.IsTrailer() {
		most = 5000
	}
	out := make([]CurvePoint, 0, n+1)
	for i := 0; i <= n; i++ {
		p := m.Apply(most*float64(i)/float64(n), assist)
		c := CurvePoint{
			ForceN:      p.PedalForceN,
			TravelMM:    p.TravelMM,
			DecelMPS2:   p.DecelerationMPS2,
			BottomedAny: len(p.Bottomed) > 0,
			Floored:     p.Floored,
		}
		c.PressureA = p.PressureMPA[s.MasterCylinder.Primary.Circuit]
		if sec := s.MasterCylinder.Secondary; sec != nil {
			c.PressureB = p.PressureMPA[sec.Circuit]
		}
		out = append(out, c)
	}
	return out
}

// Normal is what the twin says a sound system of this kind does.
type Normal struct {
	At300TravelMM float64            `json:"at_300n_travel_mm"`
	At300MPA      map[string]float64 `json:"at_300n_mpa"`
	ForceN        float64            `json:"force_n"` // 300, or 2500 at a coupler
	// HoldEngine is how the hold test is done on this vehicle: engine "on" where there is assist, else "off".
	HoldEngine      string             `json:"hold_engine"`
	FailedDecel     float64            `json:"assist_failed_500n_mps2"`
	KneeN           float64            `json:"knee_n"`
	Reserve         int                `json:"reserve"`
	WheelMPA        map[string]float64 `json:"wheel_mpa"`
	WithAssist      []CurvePoint       `json:"with_assist"`
	WithoutAssist   []CurvePoint       `json:"without_assist"`
	DecelerationCap bool               `json:"deceleration_beyond_grip"` // more than tyres commonly hold
	Doubts          system.Faults      `json:"doubts"`
}

// gripMPS2 is about what a dry road gives; a demand beyond it is shown capped. Assumption.
const gripMPS2 = 9.0

// NormalOf computes the sound figures of a system.
func NormalOf(s *system.System) Normal {
	sound := match.Sound(s)
	m := twin.New(sound)
	n := Normal{ForceN: 300, Doubts: s.Doubts(), WithAssist: Curve(sound, true), WithoutAssist: Curve(sound, false)}
	if n.Doubts == nil {
		n.Doubts = system.Faults{}
	}
	if s.IsTrailer() {
		n.ForceN = 2500
	}
	if n.HoldEngine = "off"; diagnose.HoldEngine(s) {
		n.HoldEngine = "on"
	}
	p := m.Apply(n.ForceN, true)
	n.At300TravelMM, n.At300MPA, n.WheelMPA, n.DecelerationCap = p.TravelMM, p.PressureMPA, p.WheelMPA, p.DecelerationMPS2 > gripMPS2
	n.FailedDecel = m.Apply(500, false).DecelerationMPS2
	n.KneeN, _ = m.KneePedalForceN()
	n.Reserve = m.Reserve().Applications
	return n
}
