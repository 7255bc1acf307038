package job

import (
	"testing"
	"time"

	"geminate/brake/match"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Source: least squares by hand over four readings a year apart; the standard error of a slope is s/√Σ(x−x̄)².
func TestAVehiclesOwnWaterMakesItsLine(t *testing.T) {
	day := time.Date(2022, 1, 1, 0, 0, 0, 0, time.UTC)
	year := func(n float64) time.Time { return day.Add(time.Duration(n * daysOfOneYear * 24 * float64(time.Hour))) }
	aYear, spread := WaterTrend([]WaterAt{{year(0), 0.5}, {year(1), 1.6}, {year(2), 2.4}, {year(3), 3.5}})
	require.NotNil(t, aYear)
	assert.InDelta(t, 0.98, *aYear, 1e-9)
	require.NotNil(t, spread)
	assert.InDelta(t, 0.04243, *spread, 1e-4) // residuals −0.03, 0.09, −0.09, 0.03: s = 0.0949, √5 = 2.236
	// Fluid changed in between: the line begins anew, and one reading makes none.
	aYear, _ = WaterTrend([]WaterAt{{year(0), 0.5}, {year(1), 3.0}, {year(2), 0.8}})
	assert.Nil(t, aYear)
	aYear, spread = WaterTrend([]WaterAt{{year(0), 3.0}, {year(1), 0.5}, {year(2), 1.7}})
	require.NotNil(t, aYear)
	assert.InDelta(t, 1.2, *aYear, 1e-9)
	assert.Nil(t, spread, "two readings have no spread")
	// The same day twice is one point.
	aYear, _ = WaterTrend([]WaterAt{{year(0), 1}, {year(0), 1.1}})
	assert.Nil(t, aYear)
	// Due: from 0.5 percent at 1 percent a year it is two and a half years; what falls or is over already is nil and
	// now.
	due := WaterDue(day, 0.5, 1)
	require.NotNil(t, due)
	assert.InDelta(t, 2.5*daysOfOneYear, due.Sub(day).Hours()/24, 1)
	assert.Nil(t, WaterDue(day, 0.5, 0))
	assert.Equal(t, day, *WaterDue(day, 4, 1))
}

// The line of a vehicle comes from what its jobs left behind: what was measured at each intake, and the fluid after the
// last release, not after a job that is still open.
func TestWaterOverTheJobsOfAVehicle(t *testing.T) {
	day := time.Date(2022, 1, 1, 0, 0, 0, 0, time.UTC)
	job := func(years int, before, after float64, released bool) Facts {
		f := Facts{OpenedAt: day.AddDate(years, 0, 0), WaterBefore: &before, WaterAfter: &after}
		if at := f.OpenedAt.AddDate(0, 0, 1); released {
			f.ReleasedAt = &at
		}
		return f
	}
	none := Water(nil)
	assert.NotNil(t, none.Readings)
	assert.Nil(t, none.AYear)
	assert.Nil(t, none.DueAt)
	w := Water([]Facts{job(0, 0.5, 0.4, true), {}, job(1, 1.5, 1, true), job(2, 2.5, 0.2, false)})
	assert.Len(t, w.Readings, 3, "a job without a reading adds none")
	require.NotNil(t, w.AYear)
	assert.InDelta(t, 1, *w.AYear, 0.01)
	require.NotNil(t, w.DueAt)
	assert.InDelta(t, 2*daysOfOneYear, w.DueAt.Sub(day.AddDate(1, 0, 1)).Hours()/24, 8, "from 1 percent at the last release, two years")
}

// A vehicle's own rise moves its next service; where it has none of its own, or does not rise, the assumption stands.
func TestTheOwnRiseMovesWhatIsDue(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.BleedOnly)
	at := time.Date(2026, 11, 25, 0, 0, 0, 0, time.UTC)
	assumed := j.NextDue(at)
	assert.False(t, assumed.WaterOwn)
	fast, falls := 3*WaterAYear, -0.1
	j.Dress(Dress{WaterAYear: &fast})
	own := j.NextDue(at)
	assert.True(t, own.WaterOwn)
	assert.Less(t, own.WaterDate, assumed.WaterDate)
	assert.Equal(t, own.WaterDate, own.Day())
	j.Dress(Dress{WaterAYear: &falls})
	assert.Equal(t, assumed, j.NextDue(at))
}
