package job

import (
	"slices"

	"geminate/brake/fluid"
	"geminate/brake/match"
	"geminate/brake/twin"
)

// MatchView is the Match station.
type MatchView struct {
	Scopes     []match.Scope   `json:"scopes"`
	Proposed   match.Scope     `json:"proposed"` // what the diagnosis asks for, "" while it asks for none
	Candidates []CandidateView `json:"candidates"`
	Kit        []match.Item    `json:"kit"`
	Fluid      match.FluidNeed `json:"fluid"`
	Bottle     BottleView      `json:"bottle"`
	Present    []CurvePoint    `json:"present"`
	Opens      bool            `json:"opens_hydraulics"`
	Cylinder   bool            `json:"fits_cylinder"`
}

// CandidateView is one unit with its fit and the pedal it would give.
type CandidateView struct {
	match.Result
	Curve       []CurvePoint `json:"curve"`
	TravelMM    float64      `json:"travel_mm"` // at the force of Normal
	PressureMPA float64      `json:"pressure_mpa"`
	ForceAt6MPA *float64     `json:"force_at_6mpa_n"`
	Fitted      bool         `json:"chosen"`
}

// BottleView says whether the bottle in hand may be used.
type BottleView struct {
	Fitness fluid.Fitness      `json:"fitness"`
	Allowed bool               `json:"allowed"`
	Water   fluid.WaterVerdict `json:"water"`
	BoilC   *float64           `json:"boil_c"`
}

// Match compares the shelf with the old unit.
func (j *Job) Match(shelf []match.Unit) (*MatchView, error) {
	s := j.Intake.System
	c := j.Choices
	v := &MatchView{Scopes: match.Scopes(s), Candidates: []CandidateView{}, Opens: c.Scope.OpensHydraulics(), Cylinder: c.Scope.FitsCylinder()}
	if len(j.Case().Findings) > 0 {
		d, err := j.Diagnose()
		if err != nil {
			return nil, err
		}
		action := d.Result.Action.ID
		if action == "keep_testing" {
			action = d.Result.Action.Alternatives[0].ID
		}
		if p := match.ScopeOf(action); slices.Contains(v.Scopes, p) {
			v.Proposed = p
		}
	}
	if c.Own != nil {
		shelf = append([]match.Unit{*c.Own}, shelf...)
	}
	sound := match.Sound(s)
	v.Present = Curve(sound, true)
	force := 300.0
	if s.IsTrailer() {
		force = 2500
	}
	old := match.Unit{}
	if c.Old != nil {
		old = *c.Old
	}
	var points []match.Point
	if c.Scope.FitsCylinder() {
		for _, u := range shelf {
			r := match.Compare(s, old, u)
			fitted := match.Fitted(sound, u)
			m := twin.New(fitted)
			p := m.Apply(force, true)
			cv := CandidateView{Result: r, Curve: Curve(fitted, true), TravelMM: p.TravelMM, PressureMPA: p.PressureMPA[s.MasterCylinder.Primary.Circuit], Fitted: c.Unit != nil && c.Unit.ID == u.ID}
			if f, ok := m.ForceForPressure(6, true, force*5); ok {
				cv.ForceAt6MPA = &f
			}
			if cv.Fitted {
				points = r.Points
			}
			v.Candidates = append(v.Candidates, cv)
		}
	}
	v.Kit = match.Kit(s, c.Scope, c.Unit, points)
	need, err := match.Fluid(j.Fitted(), c.Scope, c.Bleed.StrokeMM)
	if err != nil {
		return nil, err
	}
	v.Fluid = need
	v.Bottle = j.bottle()
	return v, nil
}

func (j *Job) bottle() BottleView {
	var v BottleView
	b := j.Choices.Bottle
	if f, err := fluid.MayReplace(j.Intake.System.Fluid.Class, b.Class); err == nil {
		v.Fitness, v.Allowed = f, f.Allowed()
	}
	if class, err := fluid.Find(b.Class); err == nil && b.WaterPercent != nil {
		if w, err := fluid.JudgeWater(*b.WaterPercent); err == nil {
			boil := class.BoilingC(*b.WaterPercent)
			v.Water, v.BoilC = w, &boil
		}
	}
	return v
}
