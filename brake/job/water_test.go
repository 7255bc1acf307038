package job

import (
	"testing"
	"time"

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
	// Due: from 0.5 percent at 1 percent a year it is two and a half years; what falls or is over already is nil and now.
	due := WaterDue(day, 0.5, 1)
	require.NotNil(t, due)
	assert.InDelta(t, 2.5*daysOfOneYear, due.Sub(day).Hours()/24, 1)
	assert.Nil(t, WaterDue(day, 0.5, 0))
	assert.Equal(t, day, *WaterDue(day, 4, 1))
}
