package main

import (
	"fmt"
	"strings"

	"geminate/brake/system"
	"geminate/brake/twin"
)

// patternPage is docs/patterns.md: what each pattern does when healthy, and where its figures come from.
func patternPage() string {
	var b strings.Builder
	b.WriteString(`# The patterns, healthy

Made by ` + "`geminate pattern --page`" + ` (` + "`make docs`" + `) and held against the program by a test. A pattern is where a job starts; the
figures of the vehicle on the lift replace it one by one.

| pattern | at | pedal, mm | pressure, MPa | demand, m/s² | full assist to, N | assist failed, 500 N: m/s² | and mm | assisted applies after the engine stops |
|---|---|---|---|---|---|---|---|---|
`)
	or := func(ok bool, format string, v ...any) string {
		if !ok {
			return "–"
		}
		return fmt.Sprintf(format, v...)
	}
	for _, p := range system.Patterns {
		s := p.Build()
		f := twin.FiguresOf(&s)
		brakes := !s.IsClutch()
		fmt.Fprintf(&b, "| %s | %.0f N | %.1f | %.2f | %s | %s | %s | %s | %s |\n", p.ID, f.ForceN, f.TravelMM, f.PressureMPA,
			or(brakes, "%.1f", f.DecelerationMPS2), or(f.KneeN > 0, "%.0f", f.KneeN),
			or(brakes && !s.IsTrailer(), "%.2f", f.FailedDecelerationMPS2), or(!s.IsTrailer(), "%.1f", f.FailedTravelMM),
			or(f.HardOnPump > 0, "%d, hard on pump %d", f.Applications, f.HardOnPump))
	}
	fmt.Fprintf(&b, `
The demand is what the brakes ask of the tyres; grip may give less, and the interface caps what it shows. At the trailer the force is the
coupler's. The hybrid's pedal works a stroke simulator while there is power; its figures without assist are those of the cylinder.

**Assist failed.** UN Regulation 13-H, Annex 3, asks of passenger cars (category M1) at least %.2f m/s² at no more than 500 N (from memory). Every
car pattern meets it. The rule does not reach pickups, trucks, trailers or clutches: the two trucks with a hydraulic booster fall short of
it at full weight because they are heavy for one foot, and that is no fault in them. A real one of their class is held to other rules, with
a reserve pump or an accumulator counted in.

**Hard on the fourth to sixth pump** is the trade's sign of an emptied vacuum booster; all vacuum patterns are hard on the fifth. A hydraulic
booster's store is spent after the applications shown, which the trade counts otherwise: discharge it by pumping until the pedal no longer changes.

## Where the figures come from

No figure is a maker's. Each is common practice without a source, from memory of a named publication, or an assumption chosen so that the whole
behaves as a vehicle of its class does. * stands for any one.

| field | origin | source |
|---|---|---|
`, twin.R13HMPS2)
	origin := map[system.Origin]string{
		system.CommonPractice: "common practice, no source",
		system.FromMemory:     "from memory",
		system.Assumption:     "assumption",
	}
	for _, r := range system.Origins {
		fmt.Fprintf(&b, "| `%s` | %s | %s |\n", r.Path, origin[r.Origin], r.Source)
	}
	return b.String()
}
