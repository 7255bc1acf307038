package job

import (
	"cmp"
	"context"
	"slices"
	"strings"
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
	// Settled: the diagnosis is; until then what it proposes is what is likeliest, and testing goes on.
	Settled bool `json:"settled"`
	// Nothing: no unit here fits, of the cylinders or of the boosters the scope asks for; Near are the nearest and what
	// each would need.
	Nothing bool       `json:"nothing_fits"`
	Near    []NearUnit `json:"near"`
	// Unexplained are facts of the diagnosis that the chosen work does not put right.
	Unexplained []diagnose.Fact `json:"unexplained"`
	// Routine: the modulator's routine belongs to the bleed of it.
	Routine bool `json:"routine"`
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

// NearUnit is a unit that does not fit as it is, with what stands between.
type NearUnit struct {
	ID    string        `json:"id"`
	Name  string        `json:"name"`
	Needs []match.Point `json:"needs"`
}

// nearMost units are told of. Assumption: what one reads.
const nearMost = 3

// nearest says whether none of a list fits, and which come nearest: those with the fewest points that do not, then with
// the fewest that differ at all.
func nearest(list []CandidateView) (nothing bool, near []NearUnit) {
	near = []NearUnit{}
	for _, c := range list {
		if c.Verdict != match.DoesNotFit {
			return false, near
		}
	}
	type far struct {
		NearUnit
		not int
	}
	var all []far
	for _, c := range list {
		f := far{NearUnit: NearUnit{ID: c.Unit.ID, Name: strings.TrimSpace(c.Unit.Maker + " " + c.Unit.Number), Needs: []match.Point{}}}
		for _, p := range c.Points {
			if p.Verdict == match.Same {
				continue
			}
			f.Needs = append(f.Needs, p)
			if p.Verdict == match.DoesNotFit {
				f.not++
			}
		}
		slices.SortStableFunc(f.Needs,
			func(a, b match.Point) int { return match.ByGravity(b.Verdict, a.Verdict) }) // what keeps it off first
		all = append(all, f)
	}
	slices.SortStableFunc(all, func(a, b far) int {
		return cmp.Or(cmp.Compare(a.not, b.not), cmp.Compare(len(a.Needs), len(b.Needs)))
	})
	for _, f := range all[:min(nearMost, len(all))] {
		near = append(near, f.NearUnit)
	}
	return true, near
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
	v := &MatchView{
		Scopes:      match.Scopes(s),
		Candidates:  []CandidateView{},
		Boosters:    []CandidateView{},
		LookAlikes:  []match.LookAlike{},
		Bores:       []match.BoreChoice{},
		Opens:       scope.OpensHydraulics(),
		Cylinder:    scope.FitsCylinder(),
		Booster:     scope.FitsBooster(),
		Limits:      match.DefaultLimits(s),
		FromVehicle: match.FromSystem(s),
	}
	if err := v.propose(ctx, j, s); err != nil {
		return nil, err
	}
	v.Unexplained = j.unexplained()
	if c.Own != nil {
		shelf = append([]match.Unit{*c.Own}, shelf...)
	}
	if c.OwnBooster != nil {
		shelf = append([]match.Unit{*c.OwnBooster}, shelf...)
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
		slices.SortStableFunc(list, func(a, b CandidateView) int { return match.ByGravity(a.Verdict, b.Verdict) })
	}
	v.nothingFits()
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

// propose takes what the diagnosis asks for.
func (v *MatchView) propose(ctx context.Context, j *Job, s *system.System) error {
	if len(j.Case().Findings) == 0 {
		return nil
	}
	d, err := j.Diagnose(ctx)
	if err != nil {
		return err
	}
	a, c := &d.Result.Action, &j.Choices
	if p := match.ScopeOf(s, append([]string{a.Best}, a.Also...), a.Opens); slices.Contains(v.Scopes, p) {
		v.Proposed, v.Settled, v.Routine = p, a.Settled, a.ModulatorRoutine
		untouched := !j.State.ScopeChosen && c.Unit == nil && c.Booster == nil && len(j.State.Ticks) == 0
		v.Take = a.Settled && untouched && (p != c.Scope || v.Routine && !c.Bleed.Routine)
	}
	return nil
}

// nothingFits says so where none does of what the scope asks for, with the nearest.
func (v *MatchView) nothingFits() {
	v.Near = []NearUnit{}
	for _, l := range []struct {
		asked bool
		list  []CandidateView
	}{{v.Cylinder, v.Candidates}, {v.Booster, v.Boosters}} {
		if nothing, near := nearest(l.list); l.asked && nothing {
			v.Nothing, v.Near = true, append(v.Near, near...)
		}
	}
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
	v := CandidateView{
		Result:      match.Compare(s, old, u),
		Curve:       Curve(fitted, true),
		TravelMM:    p.TravelMM,
		PressureMPA: p.PressureMPA[s.MasterCylinder.Primary.Circuit],
		Performance: match.Perform(fitted),
		Worth:       match.WorthOf(u, old, costs.Comeback+costs.Minutes[redo]*costs.PerMinute),
	}
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
		v.Age = fluid.JudgeAge(days, j.shop().BottleDays, b.WaterPercent != nil)
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
