package demo

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/job"
)

// Every job of the invented years went through the gate, and the same years come every time.
func TestTheYearsAreHonest(t *testing.T) {
	now := time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC)
	began := time.Now()
	books, err := history(24, now)
	require.NoError(t, err)
	t.Logf("%v each", time.Since(began)/24)
	again, err := history(24, now)
	require.NoError(t, err)
	kinds := map[string]bool{}
	for i, b := range books {
		assert.NotNil(t, b.State.ReleasedAt)
		assert.NotNil(t, b.State.Really)
		assert.Equal(t, b.Intake.Plate, again[i].Intake.Plate)
		assert.Equal(t, b.State.Really.Fault, again[i].State.Really.Fault)
		kinds[b.Intake.Pattern] = true
		assert.Equal(t, job.StandsReleased, b.Status().Standing)
	}
	assert.Greater(t, len(kinds), 3, "honest variety")
}

// Found: from 147 jobs on they lay in the future.
func TestTheYearsLieBehindUs(t *testing.T) {
	now := time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC)
	for _, n := range []int{1, 2, 24, 146, 147, 400, 20_000, 1_000_000} {
		last := time.Time{}
		for i := 0; i < n; i += max(1, n/1000) {
			at := openedAt(i, n, now)
			assert.True(t, at.Before(now.AddDate(0, 0, -4)), "%d of %d: %v", i, n, at)
			assert.True(t, at.After(now.AddDate(-2, 0, -2)), "%d of %d: %v", i, n, at)
			assert.False(t, at.Before(last))
			last = at
		}
	}
}
