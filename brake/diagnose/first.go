package diagnose

import (
	"strings"

	"geminate/brake/system"
)

// firstSigns are what an owner says or a foot feels before any tool is out, the most telling first; common practice,
// no source. A trailer has no pedal: what its brakes and its actuator do comes first; of a clutch, how it lets go.
var (
	firstSigns = []string{
		"pedal.sinks",
		"pedal.low",
		"pedal.hard",
		"pedal.springy",
		"level.falls",
		"history.since",
		"brakes.weak",
		"brakes.drag",
	}
	firstTrailerSigns = []string{
		"brakes.weak",
		"brakes.drag",
		"coupler.bangs",
		"coupler.breakaway",
		"coupler.lockout",
		"actuator.rod_moves",
		"coupler.travel",
		"actuator.holds",
		"level.falls",
		"history.since",
	}
	firstClutchSigns = []string{
		"clutch.releases",
		"clutch.slips",
		"pedal.sinks",
		"pedal.low",
		"pedal.springy",
		"level.falls",
		"history.since",
	}
)

// speaksOf is what a sign speaks of, by the beginning of its name: where the vehicle has no such thing the sign cannot
// show.
var speaksOf = []struct {
	begins string
	trait  system.Trait
}{
	{"pedal.", system.HasFoot}, {"rod.", system.HasFoot}, {"reservoir.spurts", system.HasFoot},
	{"assist.", system.HasBooster}, {"paint.peeling_on_booster", system.HasBooster},
	{"vacuum.", system.HasVacuum}, {"check_valve.", system.HasVacuum}, {"sound.rush_of_air", system.HasVacuum},
	{"steering.", system.HasSteering}, {"modulator.", system.HasModulator}, {"codes.", system.HasCodes},
	{"brakes.", system.HasBrakes}, {"drag.", system.HasBrakes}, {"wheel.", system.HasBrakes},
	{"actuator.", system.HasCoupler}, {"coupler.", system.HasCoupler}, {"clutch.", system.HasClutch},
	{"parking.", system.HasFoot}, {"parking.", system.HasBrakes}, {"linings.", system.HasBrakes},
}

// valueSpeaksOf is the same for a place that is looked at and for what happened since.
var valueSpeaksOf = map[string]system.Trait{
	"inside_booster":         system.HasVacuum,
	"booster_housing":        system.HasPressure,
	"cabin_floor":            system.HasHood,
	"booster_fitted":         system.HasBooster,
	"larger_calipers":        system.HasParkingBrake,
	"pads_or_shoes_fitted":   system.HasBrakes,
	"modulator_ran_dry":      system.HasModulator,
	"with_modulator_routine": system.HasModulator,
	"steering":               system.HasHood,
}

// ValuesOf are those of a list that a system can show: places that are there, what can have happened to it.
func ValuesOf(s *system.System, values []string) []string {
	out := []string{}
	for _, v := range values {
		if t, speaks := valueSpeaksOf[v]; !speaks || s.Has(t) {
			out = append(out, v)
		}
	}
	return out
}

// FirstSigns are the signs asked about first on a system, in order.
func FirstSigns(s *system.System) []string {
	switch s.VehicleKind() {
	case system.Trailer:
		return firstTrailerSigns
	case system.Clutch:
		return firstClutchSigns
	}
	return firstSigns
}

// SignShows says whether a sign can show on a system at all.
func SignShows(s *system.System, id string) bool {
	for _, p := range speaksOf {
		if strings.HasPrefix(id, p.begins) && !s.Has(p.trait) {
			return false
		}
	}
	return true
}
