package main

import (
	"math"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/strict"
	"geminate/brake/trace"
	"geminate/instrument"
)

// packed writes fifty seconds of a hold at twenty readings a second as one pack a kind, laid one behind the other.
func packed(t *testing.T, force func(s float64) float64) string {
	t.Helper()
	began := time.Date(2026, 12, 1, 8, 0, 0, 0, time.UTC)
	var at []time.Time
	var mm, n []float64
	for i := range 1000 {
		s := float64(i) / 20
		at = append(at, began.Add(time.Duration(s*float64(time.Second))))
		n, mm = append(n, force(s)), append(mm, (40+0.2*s)/1000)
	}
	f, err := instrument.WritePack("force", "N", at, n)
	require.NoError(t, err)
	tr, err := instrument.WritePack("travel", "m", at, mm)
	require.NoError(t, err)
	path := filepath.Join(t.TempDir(), "hold.json")
	require.NoError(t, os.WriteFile(path, []byte(string(f[:len(f)-1])+","+string(tr[1:])), 0o600))
	return path
}

// The command reads what the server reads: a hold, or why it is none.
func TestATraceFromAFile(t *testing.T) {
	series, err := readSeries([]string{packed(t, func(float64) float64 { return 300 })})
	require.NoError(t, err)
	require.Len(t, series[trace.Force], 1000)
	came, err := readTrace(trace.FindSink, "", series)
	require.NoError(t, err)
	assert.InDelta(t, 0.2, came.Slope.PerS, 0.005)
	assert.InDelta(t, 300, came.Under.ForceN, 1)

	series, err = readSeries([]string{packed(t, func(s float64) float64 { return math.Max(0, 300-8*s) })})
	require.NoError(t, err)
	c := traceCommand()
	c.SetArgs([]string{packed(t, func(s float64) float64 { return math.Max(0, 300-8*s) })})
	c.SilenceErrors, c.SilenceUsage = true, true
	var refused *strict.Refused
	require.ErrorAs(t, c.Execute(), &refused)
	assert.Equal(t, "trace.eased", refused.Code)
	_, err = readTrace(trace.FindPump, "", series)
	require.Error(t, err)
	c = traceCommand()
	c.SetArgs([]string{"--want", "thumb"})
	c.SilenceErrors, c.SilenceUsage = true, true
	var bad badInput
	require.ErrorAs(t, c.Execute(), &bad)
}
