package sheet

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/job"
	"geminate/brake/trace"
)

// What an instrument drew is on the sheet with its rate and interval, by whose instrument, and that its calibration had
// run out.
func TestATraceIsPrinted(t *testing.T) {
	j := sample(t).Job
	var x trace.Series
	for i := range 400 {
		s := float64(i) / 10
		x = append(x, trace.Sample{S: s, V: 70 + 0.2*s})
	}
	slope := trace.Slope{PerS: 0.2, Low: 0.199, High: 0.201, Seconds: 35, Readings: 350, SettledS: 5}
	j.State.Traces = []job.Trace{
		{
			ID: "t",
			At: time.Date(2026, 11, 2, 9, 0, 0, 0, time.UTC),
			Traced: job.Traced{Finding: "pedal.sink", Seconds: 40, Slope: &slope,
				Channels: []job.Channel{
					{Of: job.Measured{Name: "Rule 7", Kind: trace.Travel, HoldsUntil: "2026-01-01"}, Buckets: x.Thin(job.BucketsMost)},
				}},
		},
	}
	pdf, err := PDF(t.Context(), j, "metric", time.Date(2026, 11, 2, 10, 0, 0, 0, time.UTC))
	require.NoError(t, err)
	said := text(t, pdf)
	for _, want := range []string{"Drawn by instruments", "Rule 7", "has run out", "12 mm/min"} {
		assert.Contains(t, said, want)
	}
	// A vacuum that falls is in its own unit, not in a pedal's.
	j.State.Traces[0].Finding, j.State.Traces[0].Channels[0].Of.Kind = trace.FindFall, trace.Vacuum
	pdf, err = PDF(t.Context(), j, "metric", time.Date(2026, 11, 2, 10, 0, 0, 0, time.UTC))
	require.NoError(t, err)
	said = text(t, pdf)
	assert.Contains(t, said, "12 kPa/min")
	assert.NotContains(t, said, "mm/min")
}
