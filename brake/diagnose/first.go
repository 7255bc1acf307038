package diagnose

import (
	"strings"

	"geminate/brake/system"
)

// firstSigns are what an owner says or a foot feels before any tool is out, the most telling first; common practice,
// no source. A trailer has no pedal: what its brakes and its actuator do comes first.
var (
	firstSigns        = []string{"pedal.sinks", "pedal.low", "pedal.hard", "pedal.springy", "level.falls", "history.since", "brakes.weak", "brakes.drag"}
	firstTrailerSigns = []string{"brakes.weak", "actuator.rod_moves", "level.falls", "history.since", "brakes.drag"}
)

// notOnTrailers begin the signs of what a trailer has not got; onTrailersAlone those of what only a trailer has.
var (
	notOnTrailers   = []string{"pedal.", "assist.", "vacuum.", "check_valve.", "steering.", "sound.", "rod.", "reservoir.", "modulator."}
	onTrailersAlone = []string{"actuator."}
)

// FirstSigns are the signs asked about first on a system, in order.
func FirstSigns(s *system.System) []string {
	if s.IsTrailer() {
		return firstTrailerSigns
	}
	return firstSigns
}

// SignShows says whether a sign can show on a system at all.
func SignShows(s *system.System, id string) bool {
	not := onTrailersAlone
	if s.IsTrailer() {
		not = notOnTrailers
	}
	for _, p := range not {
		if strings.HasPrefix(id, p) {
			return false
		}
	}
	return true
}
