package job

import (
	"math"
	"slices"
	"time"
)

// WaterAt is one reading of the water in a vehicle's fluid.
type WaterAt struct {
	At      time.Time `json:"at"`
	Percent float64   `json:"percent"`
}

// WaterLine is the water of a vehicle over its jobs: a line through its own readings where there are two or more.
type WaterLine struct {
	Readings []WaterAt `json:"readings"`
	// AYear is the rise in percent a year with its standard deviation; nil where nothing can be said.
	AYear  *float64 `json:"a_year"`
	Spread *float64 `json:"spread"`
	// DueAt is when it reaches LimitPercent at its own rise, from the last release; nil where nothing can be said.
	// Without readings AssumedAYear is taken.
	DueAt        *time.Time `json:"due_at"`
	AssumedAYear float64    `json:"assumed_a_year"`
	LimitPercent float64    `json:"limit_percent"`
}

// Water lays the line through what the jobs of one vehicle left behind, the first job first.
func Water(jobs []Facts) WaterLine {
	out := WaterLine{Readings: []WaterAt{}, AssumedAYear: WaterAYear, LimitPercent: WaterLimit}
	for _, f := range jobs {
		if f.WaterBefore != nil {
			out.Readings = append(out.Readings, WaterAt{f.OpenedAt, *f.WaterBefore})
		}
	}
	if out.AYear, out.Spread = WaterTrend(out.Readings); out.AYear == nil {
		return out
	}
	for _, f := range slices.Backward(jobs) {
		if f.ReleasedAt != nil && f.WaterAfter != nil {
			out.DueAt = WaterDue(*f.ReleasedAt, *f.WaterAfter, *out.AYear)
			break
		}
	}
	return out
}

// WaterTrend is a straight line through a vehicle's own readings (least squares): the rise in percent a year, and its
// standard deviation where there are three readings or more. nil where there are not two on different days. A fall is a
// change of fluid in between: then the line begins anew after it.
func WaterTrend(at []WaterAt) (aYear, spread *float64) {
	from := 0
	for i := 1; i < len(at); i++ {
		if at[i].Percent < at[i-1].Percent-0.2 { // more than a tester's last place: the fluid was changed
			from = i
		}
	}
	at = at[from:]
	if len(at) < 2 {
		return nil, nil
	}
	n := float64(len(at))
	var sx, sy, sxx, sxy float64
	x := make([]float64, len(at))
	for i, a := range at {
		x[i] = a.At.Sub(at[0].At).Hours() / 24 / daysOfOneYear
		sx, sy, sxx, sxy = sx+x[i], sy+a.Percent, sxx+x[i]*x[i], sxy+x[i]*a.Percent
	}
	d := n*sxx - sx*sx
	if d < 1e-9 {
		return nil, nil
	}
	slope := (n*sxy - sx*sy) / d
	aYear = &slope
	if len(at) < 3 {
		return aYear, nil
	}
	rest := 0.0
	for i, a := range at {
		r := a.Percent - (sy-slope*sx)/n - slope*x[i]
		rest += r * r
	}
	sd := math.Sqrt(rest / (n - 2) * n / d)
	return aYear, &sd
}

// WaterDue is when fluid that holds so many percent on a day reaches WaterLimit, at a rise of its own in percent a
// year; nil where it does not rise.
func WaterDue(from time.Time, percent, aYear float64) *time.Time {
	if aYear <= 0 {
		return nil
	}
	days := math.Max(0, (WaterLimit-percent)/aYear*daysOfOneYear)
	at := from.AddDate(0, 0, int(math.Min(days, 100*daysOfOneYear)))
	return &at
}
