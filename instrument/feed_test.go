package instrument

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/trace"
)

func pack(t *testing.T, now time.Time, text string) []Record {
	t.Helper()
	r, err := ReadPack([]byte(text), now)
	require.NoError(t, err)
	return r
}

func reading(at time.Time, mm float64) string {
	return fmt.Sprintf(`[{"n":"travel","u":"m","t":%.3f,"v":%g}]`, float64(at.UnixNano())/1e9, mm/1000)
}

// Lost, late, doubled, out of order: nothing is counted twice, nothing is silently missing.
func TestAFeedKeepsOrder(t *testing.T) {
	m, _ := trace.MeasureOf(trace.Travel)
	f := NewFeed()
	for _, i := range []int{0, 1, 3, 2, 2, 3, 5} {
		at := now.Add(time.Duration(i) * 20 * time.Millisecond)
		f.Take(m, pack(t, now, reading(at, 70+float64(i))), now.Add(100*time.Millisecond))
	}
	x := f.Between(now, now.Add(time.Second))
	require.Len(t, x, 5)
	for k, want := range []float64{70, 71, 72, 73, 75} {
		assert.InDelta(t, want, x[k].V, 1e-9)
	}
	f.Take(m, pack(t, now, reading(now.Add(-10*time.Minute), 70)), now.Add(time.Second))
	f.Take(m, pack(t, now, `[{"n":"travel","u":"mm","v":70}]`), now)
	_, c, problem, ok := f.Last()
	assert.True(t, ok)
	assert.Equal(t, Counts{Taken: 5, Doubled: 2, Late: 1, Refused: 1}, c, "one old pack is late, and sets no clock")
	assert.Equal(t, WrongUnit, problem)
}

// A clock that is a year off is set right by ours, and the distances stay its own; an instrument that restarts goes on.
func TestAWrongClock(t *testing.T) {
	m, _ := trace.MeasureOf(trace.Travel)
	f := NewFeed()
	for i := range 50 {
		own := now.AddDate(-1, 0, 0).Add(time.Duration(i) * 20 * time.Millisecond)
		f.Take(m, pack(t, now, reading(own, 70)), now.Add(time.Duration(i)*21*time.Millisecond))
	}
	x := f.Between(now.Add(-time.Second), now.Add(2*time.Second))
	require.Len(t, x, 50)
	assert.InDelta(t, 0.98, x[49].S-x[0].S, 1e-6)
	r, _, _, _ := f.Last()
	assert.WithinDuration(t, now.Add(time.Second), r.At, time.Second)
}

func TestAFloodIsRefused(t *testing.T) {
	m, _ := trace.MeasureOf(trace.Travel)
	f := NewFeed()
	for i := range 1000 {
		f.Take(m, pack(t, now, reading(now.Add(time.Duration(i)*time.Millisecond), 70)), now)
	}
	_, c, _, _ := f.Last()
	assert.EqualValues(t, perSecond, c.Taken)
	assert.EqualValues(t, 1000-perSecond, c.Refused)
}
