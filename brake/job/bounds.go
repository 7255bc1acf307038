package job

import (
	"geminate/brake/bench"
	"geminate/brake/bleed"
	"geminate/brake/diagnose"
	"geminate/brake/match"
	"geminate/brake/motion"
	"geminate/brake/photo"
	"geminate/brake/units"
	"geminate/brake/verify"
)

// fieldBounds are the figures people type at the stations, by field. Units are in the names. They catch a slip of a
// decimal or of a unit and are wide enough for the smallest trailer and the largest truck: assumptions, where no other
// bound stands beside them. What the core refuses and what a field takes is this one list; the figures of a unit are
// match.UnitFigures.
var fieldBounds = map[string]units.Bound{
	"intake.distance_km": {Min: 0, Max: 5e6},

	"bench.tilt_deg":   {Min: -45, Max: 45},
	"bench.stroke_mm":  {Min: 1, Max: 100},
	"bench.port_mm":    {Min: 0, Max: bench.MostLengthMM},
	"bench.plugged_mm": {Min: 0, Max: 100},

	"bleed.stroke_mm":     bleed.StrokeMM,
	"bleed.head_mm":       {Min: -bleed.MostHeadMM, Max: bleed.MostHeadMM}, // a reservoir below is said to be no way, not refused
	"bleed.drive_kpa":     bleed.DriveKPA,
	"bleed.temperature_c": bleed.TemperatureC,
	"bleed.old_percent":   {Min: 100 * bleed.LeastOld, Max: 100 * bleed.MostOld},
	"bleed.water_percent": diagnose.WaterPercent,
	"bleed.moved_cm3":     {Min: 0, Max: mostCM3},

	"bottle.water_percent": diagnose.WaterPercent,

	"repair.set_mm": {Min: 0, Max: 60},

	"photo.focal35_mm": photo.Focal35MM,
	"photo.bar_mm":     photo.BarMM,
	"pedal.radius_mm":  motion.RadiusMM,

	"rod.pocket_mm":     match.UnitFigures["pocket_mm"],
	"rod.gasket_mm":     {Min: 0, Max: 10},
	"rod.protrusion_mm": match.UnitFigures["booster.protrusion_mm"],
	"rod.pitch_mm":      {Min: 0.5, Max: 2},
	"rods.length_mm":    {Min: 0, Max: 300},

	"pressed.foot_n": diagnose.FootN, "pressed.coupler_n": diagnose.CouplerN,
	"hold.travel_mm":  diagnose.TravelMM,
	"hold.seconds":    diagnose.HoldS,
	"pedal.height_mm": {Min: 0, Max: verify.HeightMostMM},

	"cost": diagnose.CostBound,

	"wait.minutes": {Min: 1, Max: timerMostS / 60},
}

// FieldBounds gives them, for whoever draws the fields.
func FieldBounds() map[string]units.Bound { return fieldBounds }

// inField is inRange by the table of fields.
func inField(path, field string, v float64) error {
	b, known := fieldBounds[field]
	if !known {
		panic("job: no bound for " + field)
	}
	return inRange(path, v, b.Min, b.Max)
}
