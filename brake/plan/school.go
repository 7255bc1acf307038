package plan

import (
	"slices"

	"geminate/brake/match"
	"geminate/brake/system"
)

// Schools are the ways practitioners differ in (common practice, no source); each entry of a table, the first is
// what is taken where nothing was said.

// School is one question on which practitioners differ.
type School string

// Schools.
const (
	BenchWhen    School = "bench"
	BoosterLines School = "booster_lines"
	OffFirst     School = "off_first"
	Rod          School = "rod"
	LineNuts     School = "line_nuts"
	BleedWhen    School = "bleed_when"
)

// Answers of the schools.
const (
	BenchBefore    = "before"     // bled before the old unit comes off: the lines stand open for minutes
	BenchAfter     = "after"      // bled with the old unit off
	BenchOnVehicle = "on_vehicle" // bled on the vehicle: prop and crack
	BenchFinal     = "final"      // left for the final bleed of a system that is being rebuilt

	LinesOnVehicle = "on_vehicle" // broken loose while the booster is bolted
	LinesOnFloor   = "on_floor"   // with the unit on the floor

	FirstCylinder = "cylinder" // with the booster still plumbed
	FirstLines    = "pressure_lines"

	RodDepths     = "depths"         // two depths and a gasket
	RodTouch      = "touch_and_turn" // by hand until the face just meets the booster
	RodAsSupplied = "as_supplied"    // proven by free play and free wheels hot
	RodFixed      = "not_adjustable" // old and new compared

	NutsSnug  = "first_snug"
	NutsLoose = "loose"

	BleedNow    = "now"
	BleedPutOff = "put_off" // the vehicle is parked, not to be driven
)

// SchoolEntry is one school: its answers, and where it is asked.
type SchoolEntry struct {
	ID      School
	Answers []string
	Asked   func(*system.System, match.Scope) bool
}

// opensAtJoint says whether brake lines come off at the cylinder.
func opensAtJoint(scope match.Scope) bool {
	return scope.OpensHydraulics() && scope != match.BleedOnly && !scope.OnlyElsewhere()
}

// Schools lists them in the order of the work.
var Schools = []SchoolEntry{
	{
		BenchWhen,
		[]string{BenchBefore, BenchAfter, BenchOnVehicle, BenchFinal},
		func(_ *system.System, c match.Scope) bool { return c.FitsCylinder() },
	},
	{
		BoosterLines,
		[]string{LinesOnVehicle, LinesOnFloor},
		func(s *system.System, c match.Scope) bool { return hasSteering(s) && c.FitsBooster() },
	},
	{
		OffFirst,
		[]string{FirstCylinder, FirstLines},
		func(s *system.System, c match.Scope) bool { return hasSteering(s) && c.FitsBooster() },
	},
	{
		Rod,
		[]string{RodDepths, RodTouch, RodAsSupplied, RodFixed},
		func(s *system.System, c match.Scope) bool {
			return !s.IsTrailer() && !isOnePiece(s) && (c.FitsCylinder() || c.FitsBooster())
		},
	},
	{LineNuts, []string{NutsSnug, NutsLoose}, func(s *system.System, c match.Scope) bool { return opensAtJoint(c) && !s.IsTrailer() }},
	{BleedWhen, []string{BleedNow, BleedPutOff}, func(_ *system.System, c match.Scope) bool { return c.OpensHydraulics() }},
}

// FindSchool gives a school's entry, nil for none.
func FindSchool(id School) *SchoolEntry {
	for i := range Schools {
		if Schools[i].ID == id {
			return &Schools[i]
		}
	}
	return nil
}

// answer is what was chosen, or the first of the table.
func (e *SchoolEntry) answer(chosen map[School]string) string {
	if a := chosen[e.ID]; slices.Contains(e.Answers, a) {
		return a
	}
	return e.Answers[0]
}
