package job

import (
	"context"
	"slices"
	"time"

	"geminate/brake/diagnose"
	"geminate/brake/fluid"
	"geminate/brake/match"
	"geminate/brake/plan"
	"geminate/brake/system"
	"geminate/brake/twin"
)

// MatchView is the Match station.
type MatchView struct {
	Scopes   []match.Scope `json:"scopes"`
	Proposed match.Scope   `json:"proposed"` // what the diagnosis asks for, "" while it asks for none
	// Take: it opens as Diagnose has settled it; nobody has said otherwise, and nothing is done yet.
	Take       bool               `json:"take"`
	Candidates []CandidateView    `json:"candidates"`
	LookAlikes []match.LookAlike  `json:"look_alikes"`
	Boosters   []CandidateView    `json:"boosters"`
	Bores      []match.BoreChoice `json:"bores"`
	Limits     match.Limits       `json:"limits"`
	Kit        []match.Item       `json:"kit"`
	Fluid      match.FluidNeed    `json:"fluid"`
	Bottle     BottleView         `json:"bottle"`
	Present    []CurvePoint       `json:"present"`
	Now        match.Performance  `json:"now"`
	Opens      bool               `json:"opens_hydraulics"`
	Cylinder   bool               `json:"fits_cylinder"`
	Booster    bool               `json:"fits_booster"`
	// Rebuilt says whether the old unit can be rebuilt: yes, no, ask.
	Rebuilt string `json:"old_rebuildable"`
	// FromVehicle is the old unit as far as the vehicle's own figures tell it.
	FromVehicle match.Unit `json:"from_vehicle"`
}

// CandidateView is one unit with its fit, the pedal it would give and what it is expected to cost.
type CandidateView struct {
	match.Result
	Curve       []CurvePoint      `json:"curve"`
	TravelMM    float64           `json:"travel_mm"` // at the force of Normal
	PressureMPA float64           `json:"pressure_mpa"`
	ForceAt6MPA *float64          `json:"force_at_6mpa_n"`
	Performance match.Performance `json:"performance"`
	Worth       match.Worth       `json:"worth"`
	Fitted      bool              `json:"chosen"`
}

// BottleView says whether the bottle in hand may be used.
type BottleView struct {
	Fitness fluid.Fitness      `json:"fitness"`
	Allowed bool               `json:"allowed"`
	Water   fluid.WaterVerdict `json:"water"`
	BoilC   *float64           `json:"boil_c"`
	// OpenDays is how long it has stood open; nil where no date was given.
	OpenDays *int            `json:"open_days"`
	Age      fluid.BottleAge `json:"age"` // "" without a date
}

// Match compares the shelf with the old unit, at a moment: a bottle's age hangs on it.
func (j *Job) Match(ctx context.Context, shelf []match.Unit, now time.Time) (*MatchView, error) {
	s, c, scope := j.asFitted(), j.Choices, j.scope()
	v := &MatchView{Scopes: match.Scopes(s), Candidates: []CandidateView{}, Boosters: []CandidateView{}, LookAlikes: []match.LookAlike{}, Bores: []match.BoreChoice{},
		Opens: scope.OpensHydraulics(), Cylinder: scope.FitsCylinder(), Booster: scope.FitsBooster(), Limits: match.DefaultLimits(s), FromVehicle: match.FromSystem(s)}
	if len(j.Case().Findings) > 0 {
		d, err := j.Diagnose(ctx)
		if err != nil {
			return nil, err
		}
		a := &d.Result.Action
		if p := match.ScopeOf(s, append([]string{a.Best}, a.Also...), a.Opens); slices.Contains(v.Scopes, p) {
			v.Proposed = p
			v.Take = a.Settled && p != c.Scope && !j.State.ScopeChosen && c.Unit == nil && c.Booster == nil && len(j.State.Ticks) == 0
		}
	}
	if c.Own != nil {
		shelf = append([]match.Unit{*c.Own}, shelf...)
	}
	sound := match.Sound(s)
	v.Present, v.Now = Curve(sound, true), match.Perform(sound)
	old, oldBooster := match.Unit{}, match.Unit{}
	if c.Old != nil {
		old = *c.Old
	}
	if c.OldBooster != nil {
		oldBooster = *c.OldBooster
	}
	if t := diagnose.TeardownOf(j.Case().Findings); t != nil && old.Rebuildable == nil { // seen beats asked
		yes := t.Rebuildable == "yes"
		old.Rebuildable = &yes
	}
	v.Rebuilt = match.CanBeRebuilt(old)
	var points []match.Point
	var results []match.Result
	costs := j.Costs()
	for _, u := range shelf {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		cylinder := u.KindOf() == match.MasterCylinder
		switch {
		case cylinder && scope.FitsCylinder():
			cv := view(s, sound, old, u, &costs)
			cv.Fitted = c.Unit != nil && c.Unit.ID == u.ID
			if cv.Fitted {
				points = append(points, cv.Points...)
			}
			v.Candidates, results = append(v.Candidates, cv), append(results, cv.Result)
		case !cylinder && scope.FitsBooster():
			cv := view(s, sound, oldBooster, u, &costs)
			cv.Fitted = c.Booster != nil && c.Booster.ID == u.ID
			if cv.Fitted {
				points = append(points, cv.Points...)
			}
			v.Boosters, results = append(v.Boosters, cv), append(results, cv.Result)
		}
	}
	v.LookAlikes = match.LookAlikes(results)
	for _, list := range [][]CandidateView{v.Candidates, v.Boosters} { // what fits first, within it as on the shelf
		slices.SortStableFunc(list, func(a, b CandidateView) int {
			switch {
			case match.Graver(a.Verdict, b.Verdict):
				return 1
			case match.Graver(b.Verdict, a.Verdict):
				return -1
			}
			return 0
		})
	}
	if v.Cylinder {
		v.Bores = match.WhichBore(s, v.Limits)
	}
	var seen *[]plan.Feature
	if c.Joint != nil {
		seen = c.Joint.Present
	}
	v.Kit = plan.Kit(match.Kit(s, scope, c.Unit, c.Booster, points), scope, c.Old, c.Unit, plan.Here(s, c.Unit, seen))
	need, err := j.FluidNeed()
	if err != nil {
		return nil, err
	}
	v.Fluid = need
	v.Bottle = j.bottle(now)
	return v, nil
}

// asFitted is the system a unit is held against. Where the residual valves sit down the lines they stay there: the
// unit itself has none.
func (j *Job) asFitted() *system.System {
	s := j.Intake.System
	p, err := j.Plan()
	if err != nil || !slices.Contains(p.Present, plan.ResidualInLine) {
		return s
	}
	out := s.Clone()
	for i := range out.Circuits {
		out.Circuits[i].ResidualMPA = nil
	}
	return out
}

// view holds one unit against the old one and works out its pedal.
func view(s, sound *system.System, old, u match.Unit, costs *diagnose.Costs) CandidateView {
	fitted, redo := match.Fitted(sound, u), "replace_master_cylinder"
	if u.KindOf() != match.MasterCylinder {
		fitted, redo = match.FittedBooster(sound, u), "replace_booster"
	}
	m := twin.New(fitted)
	force := 300.0
	if s.IsTrailer() {
		force = 2500
	}
	p := m.Apply(force, true)
	v := CandidateView{Result: match.Compare(s, old, u), Curve: Curve(fitted, true), TravelMM: p.TravelMM, PressureMPA: p.PressureMPA[s.MasterCylinder.Primary.Circuit],
		Performance: match.Perform(fitted), Worth: match.WorthOf(u, old, costs.Comeback+costs.Minutes[redo]*costs.PerMinute)}
	for _, a := range v.Performance.At {
		if a.MPA == 6 {
			v.ForceAt6MPA = a.ForceN
		}
	}
	return v
}

func (j *Job) bottle(now time.Time) BottleView { return j.bottleView(j.Choices.Bottle, now) }

// bottleView judges a bottle as it was at a moment.
func (j *Job) bottleView(b Bottle, now time.Time) BottleView {
	var v BottleView
	if f, err := fluid.MayReplace(j.Intake.System.Fluid.Class, b.Class); err == nil {
		v.Fitness, v.Allowed = f, f.Allowed()
	}
	if class, err := fluid.Find(b.Class); err == nil && b.WaterPercent != nil {
		if w, err := fluid.JudgeWater(*b.WaterPercent); err == nil {
			boil := class.BoilingC(*b.WaterPercent)
			v.Water, v.BoilC = w, &boil
		}
	}
	if opened, err := time.Parse(time.DateOnly, b.OpenedAt); err == nil {
		days := int(now.Sub(opened).Hours() / 24)
		v.OpenDays = &days
		v.Age = fluid.JudgeAge(days, b.WaterPercent != nil)
	}
	return v
}

// Nearest are the units to look for in a catalogue: what is measured of the old ones that the scope replaces.
// Without a measure of its mounting nothing is looked for: everything would be near.
func (j *Job) Nearest() (out []match.Unit) {
	c, scope := j.Choices, j.scope()
	if scope.FitsCylinder() && c.Old != nil && c.Old.StudSpacingMM != nil && c.Old.BoreMM != nil {
		out = append(out, *c.Old)
	}
	if scope.FitsBooster() && c.OldBooster != nil && c.OldBooster.Firewall() != nil {
		b := *c.OldBooster
		b.Kind = match.BoosterKind(j.Intake.System)
		out = append(out, b)
	}
	return out
}

// FluidNeed is the brake fluid this job takes, the same at every station that speaks of it.
func (j *Job) FluidNeed() (match.FluidNeed, error) {
	s := j.Fitted()
	return match.Fluid(s, j.scope(), j.bleedOptions(s))
}
