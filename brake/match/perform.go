package match

import (
	"math"

	"geminate/brake/system"
	"geminate/brake/twin"
)

// Performance is what a cylinder makes of the pedal on this system, bled and tight.
type Performance struct {
	At []AtPressure `json:"at"` // 3, 6 and 10 MPa
	// Failed are the circuits failed one at a time, at 500 N with assist.
	Failed []FailedCircuit `json:"failed"`
	// Unassisted is 500 N on the pedal with no assist; nil on a trailer and on a system without booster.
	Unassisted *Unassisted `json:"unassisted"`
	FootN      float64     `json:"foot_n"` // at which both are
}

// AtPressure is the foot and the pedal at one pressure of the primary circuit; ForceN nil where it is not
// to be had (bottom, floor or too little foot).
type AtPressure struct {
	MPA      float64  `json:"mpa"`
	ForceN   *float64 `json:"force_n"`
	TravelMM float64  `json:"travel_mm"`
	// StrokeUsed and StrokeLeftMM are of the fuller chamber.
	StrokeUsed   float64 `json:"stroke_used"`
	StrokeLeftMM float64 `json:"stroke_left_mm"`
	Floored      bool    `json:"floored"`
}

// FailedCircuit is what is left with one circuit open.
type FailedCircuit struct {
	Circuit          string  `json:"circuit"`
	TravelMM         float64 `json:"travel_mm"`
	Floored          bool    `json:"floored"`
	DecelerationMPS2 float64 `json:"deceleration_mps2"`
	// StrokeLeftMM is what the whole circuit's chamber has left.
	StrokeLeftMM float64 `json:"stroke_left_mm"`
}

// Unassisted is the pedal without assist.
type Unassisted struct {
	DecelerationMPS2 float64 `json:"deceleration_mps2"`
	// NeedMPS2 is what UN R13-H asks of a passenger car; nil where it does not reach this vehicle.
	NeedMPS2 *float64 `json:"need_mps2"`
	Meets    *bool    `json:"meets"`
}

// Pressures are those a performance is stated at, in MPa.
var Pressures = []float64{3, 6, 10}

// footLimitN is the most a service brake test asks of a foot. Source: 49 CFR 571.135 (from memory).
const footLimitN = 500

// forceRange is how far the foot (a trailer: the coupler) is tried, in N.
func forceRange(s *system.System) float64 {
	if s.IsTrailer() {
		return 20000
	}
	return 2000
}

// Perform works a system out. Give it Sound and Fitted.
func Perform(s *system.System) Performance {
	m := twin.New(s)
	out := Performance{At: []AtPressure{}, Failed: []FailedCircuit{}}
	strokes := map[string]float64{s.MasterCylinder.Primary.Circuit: s.MasterCylinder.Primary.StrokeMM}
	if c := s.MasterCylinder.Secondary; c != nil {
		strokes[c.Circuit] = c.StrokeMM
	}
	fuller := func(p twin.Point) (used, left float64) {
		left = math.Inf(1)
		for id, all := range strokes {
			used = math.Max(used, p.StrokeMM[id]/all)
			left = math.Min(left, all-p.StrokeMM[id])
		}
		return used, left
	}
	for _, mpa := range Pressures {
		a := AtPressure{MPA: mpa}
		at := forceRange(s)
		if f, ok := m.ForceForPressure(mpa, true, at); ok {
			a.ForceN, at = &f, f
		}
		p := m.Apply(at, true)
		a.TravelMM, a.Floored = p.TravelMM, p.Floored
		a.StrokeUsed, a.StrokeLeftMM = fuller(p)
		out.At = append(out.At, a)
	}
	foot := float64(footLimitN)
	if s.IsTrailer() {
		foot = 5000
	}
	out.FootN = foot
	if len(s.Circuits) > 1 {
		for _, c := range s.Circuits {
			f := s.Clone()
			f.Circuit(c.ID).Open = true
			p := twin.New(f).Apply(foot, true)
			left := math.Inf(1)
			for id, all := range strokes {
				if id != c.ID {
					left = math.Min(left, all-p.StrokeMM[id])
				}
			}
			out.Failed = append(out.Failed, FailedCircuit{c.ID, p.TravelMM, p.Floored, p.DecelerationMPS2, left})
		}
	}
	if !s.IsTrailer() && !s.IsClutch() && s.Assist().Powered() {
		u := &Unassisted{DecelerationMPS2: m.Apply(footLimitN, false).DecelerationMPS2}
		if s.Vehicle.Kind == "car" { // UN R13-H reaches category M1 only
			need := twin.R13HMPS2
			meets := u.DecelerationMPS2 >= need
			u.NeedMPS2, u.Meets = &need, &meets
		}
		out.Unassisted = u
	}
	return out
}
