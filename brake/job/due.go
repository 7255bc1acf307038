package job

import (
	"encoding/json"
	"math"
	"time"
)

// Due is when the fluid is next due, whichever comes first.
type Due struct {
	AtDate     string  `json:"at_date"`
	AtKM       float64 `json:"at_km"`
	WaterDate  string  `json:"water_date"` // when the water trend reaches 3 %, "" where nothing is known of it
	First      string  `json:"first"`      // date, water; distance is whichever the odometer reaches
	WaterNow   float64 `json:"water_now_percent"`
	WaterAYear float64 `json:"water_a_year_percent"`
	// WaterOwn says that the rise is by this vehicle's own readings, not assumed.
	WaterOwn bool `json:"water_own"`
}

// WaterAYear (percent a year) and WaterLimit (percent at which fluid is due).
//
// Change by about two years, check every 25 000 miles: common practice, no source. Water gained by
// fluid in a vehicle: 1 to 2 % a year is commonly said; 1.5 is taken. Assumption.
const (
	changeYears   = 2
	checkKM       = 25000 * 1.609344
	WaterAYear    = 1.5
	WaterLimit    = 3.0
	freshWater    = 0.1
	daysOfOneYear = 365.25
)

// Day is the day that comes first.
func (d Due) Day() string {
	if d.First == "water" {
		return d.WaterDate
	}
	return d.AtDate
}

// Due is the next service: from the release where there was one, not from the moment of looking.
func (j *Job) Due(now time.Time) Due {
	if at := j.State.ReleasedAt; at != nil {
		now = *at
	}
	return j.NextDue(now)
}

// NextDue works the next service out from a day.
func (j *Job) NextDue(now time.Time) Due {
	water := j.waterNow()
	d := Due{
		AtDate:     now.AddDate(j.shop().DueYears, 0, 0).Format(time.DateOnly),
		AtKM:       dueKM(j.Intake.DistanceKM),
		WaterNow:   water,
		WaterAYear: WaterAYear,
	}
	if own := j.OwnWaterAYear; own != nil && *own > 0 {
		d.WaterAYear, d.WaterOwn = *own, true
	}
	days := math.Min(100*daysOfOneYear, math.Max(0, (WaterLimit-water)/d.WaterAYear*daysOfOneYear))
	d.WaterDate = now.AddDate(0, 0, int(days)).Format(time.DateOnly)
	d.First = "date"
	if d.WaterDate < d.AtDate {
		d.First = "water"
	}
	return d
}

// waterBefore is the water in the fluid before the work, percent: measured where it was, the system's figure otherwise.
func (j *Job) waterBefore() float64 {
	var measured float64
	if f, ok := j.State.Findings[PhaseDiagnose]["fluid.water_percent"]; ok && json.Unmarshal(f.Value, &measured) == nil {
		return measured
	}
	return j.Intake.System.Fluid.WaterPercent
}

// waterInBottle is the water in the fluid that is filled in, percent.
func (j *Job) waterInBottle() float64 {
	if j.Choices.Bottle.WaterPercent != nil {
		return *j.Choices.Bottle.WaterPercent
	}
	return freshWater
}

// waterNow is the water in the fluid as it stands, percent: measured after the work where it was, else what is old of
// it and what is new (how-it-computes, section 8.1).
func (j *Job) waterNow() float64 {
	var measured float64
	if f, ok := j.State.Findings[PhaseVerify]["fluid.water_percent"]; ok && json.Unmarshal(f.Value, &measured) == nil {
		return measured
	}
	if j.State.OldFluid && j.Choices.Scope.OpensHydraulics() { // from before the fluid was followed: taken as all new
		return j.waterInBottle()
	}
	old := j.fluid().Mean()
	return old*j.waterBefore() + (1-old)*j.waterInBottle()
}

// dueKM is by distance, 0 where no odometer was read.
func dueKM(at float64) float64 {
	if at <= 0 {
		return 0
	}
	return at + checkKM
}
