package job

import (
	"fmt"
	"math"
	"strconv"
	"strings"
)

// LeastJobs is how many jobs a shop's figure rests on at the least: below it nothing is said. Assumption.
const LeastJobs = 5

// TallyKind is one thing that is counted over many jobs.
type TallyKind string

// What is counted of a job. Of all but TallyWater the day is that of the release.
const (
	TallyReleased TallyKind = "released" // 1 where it was right first time
	TallyNamed    TallyKind = "named"    // 1 where the diagnosis put first what it really was
	TallyMinutes  TallyKind = "minutes"  // the whole job
	TallyPattern  TallyKind = "pattern"  // of a pattern: 1 where right first time
	TallyWas      TallyKind = "was"      // of what it really was: 1
	TallyMaker    TallyKind = "maker"    // of a maker: 1 where the vehicle came back
	TallyBack     TallyKind = "back"     // of days after the release, three digits: 1
	TallyStation  TallyKind = "station"  // of a station: minutes
	TallyWheel    TallyKind = "wheel"    // of a wheel: minutes of its bleeding
	TallyMethod   TallyKind = "method"   // of a bleeding method: minutes a wheel
	TallyStroke   TallyKind = "stroke"   // of a bleeding method: seconds a stroke or opening
	TallySign     TallyKind = "sign"     // of a sign that was read: 1 where it spoke against what it was
	TallySeen     TallyKind = "seen"     // of a pattern, what it really was, a sign and what it showed, as SeenOf writes them: 1
	TallyWater    TallyKind = "water"    // of the fluid's age in whole years: percent found, on the day of the intake
)

// TallyKinds lists them.
var TallyKinds = []TallyKind{
	TallyReleased,
	TallyNamed,
	TallyMinutes,
	TallyPattern,
	TallyWas,
	TallyMaker,
	TallyBack,
	TallyStation,
	TallyWheel,
	TallyMethod,
	TallyStroke,
	TallySign,
	TallySeen,
	TallyWater,
}

// BackMostDays is how long after a release a vehicle that is back is counted at all; a shop's own limit is shorter.
const BackMostDays = 365

// Tally is one count of one job.
type Tally struct {
	Kind  TallyKind
	Of    string
	Value float64
}

// Tallies are what a job adds to the shop's figures. backDays is after how many days its vehicle came back, nil where
// it did not.
func (f *Facts) Tallies(backDays *int) []Tally {
	var out []Tally
	add := func(k TallyKind, of string, v float64) { out = append(out, Tally{k, of, v}) }
	yes := func(b bool) float64 {
		if b {
			return 1
		}
		return 0
	}
	if f.WaterBefore != nil && f.FluidDays != nil {
		add(TallyWater, strconv.Itoa(int(math.Floor(*f.FluidDays/daysOfOneYear))), *f.WaterBefore)
	}
	if f.ReleasedAt == nil {
		return out
	}
	add(TallyReleased, "", yes(f.First))
	add(TallyPattern, f.Pattern, yes(f.First))
	back := backDays != nil && *backDays <= BackMostDays
	if back {
		add(TallyBack, BackOf(*backDays), 1)
	}
	if f.UnitMaker != "" {
		add(TallyMaker, f.UnitMaker, yes(back))
	}
	sum := 0.0
	for _, s := range sortedKeys(f.Minutes) {
		add(TallyStation, s, f.Minutes[s])
		sum += f.Minutes[s]
	}
	if sum > 0 {
		add(TallyMinutes, "", sum)
	}
	for _, w := range sortedKeys(f.WheelMinutes) {
		add(TallyWheel, w, f.WheelMinutes[w])
	}
	for _, m := range sortedKeys(f.MethodMinutes) {
		add(TallyMethod, m, f.MethodMinutes[m])
	}
	for _, m := range sortedKeys(f.StrokeS) {
		add(TallyStroke, m, f.StrokeS[m])
	}
	if f.Was == "" {
		return out
	}
	add(TallyWas, f.Was, 1)
	if f.Right != nil {
		add(TallyNamed, "", yes(*f.Right))
	}
	for _, s := range sortedKeys(f.Seen) {
		add(TallySeen, SeenOf(f.Pattern, f.Was, s, f.Seen[s]), 1)
	}
	for _, s := range f.Spoke {
		add(TallySign, s, 0)
	}
	for _, s := range f.Lied {
		add(TallySign, s, 1)
	}
	return out
}

// BackOf is what a TallyBack is of: days in three digits, so that as text they stand in their order.
func BackOf(days int) string { return fmt.Sprintf("%03d", days) }

// seenSep stands between the parts of what a TallySeen is of: no id has it.
const seenSep = "|"

// SeenOf writes what a TallySeen is of.
func SeenOf(pattern, was, sign, value string) string {
	return strings.Join([]string{pattern, was, sign, value}, seenSep)
}

// SeenFrom reads it again.
func SeenFrom(of string) (pattern, was, sign, value string, ok bool) {
	p := strings.Split(of, seenSep)
	if len(p) != 4 {
		return "", "", "", "", false
	}
	return p[0], p[1], p[2], p[3], true
}
