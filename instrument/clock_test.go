package instrument

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/trace"
)

// packs of twenty readings a second, told once a second with the delays given, s; own gives the instrument's own time
// at a real one.
func played(t *testing.T, f *Feed, delays []float64, own func(time.Time) time.Time) {
	t.Helper()
	m, _ := trace.MeasureOf(trace.Travel)
	for k, late := range delays {
		real := now.Add(time.Duration(k) * time.Second)
		text := "["
		for i := range 20 {
			if i > 0 {
				text += ","
			}
			text += fmt.Sprintf(`{"n":"t","u":"m","v":%g,"t":%.3f}`, 0.07,
				float64(own(real.Add(time.Duration(i-19)*50*time.Millisecond)).UnixNano())/1e9)
		}
		f.Take(m, pack(t, now, text+"]"), real.Add(time.Duration(late*float64(time.Second))))
	}
}

func ticking(at time.Time) time.Time { return at }

// A first pack that is a backlog comes from a good clock: what it tells stays where it was.
func TestABacklogIsNoWrongClock(t *testing.T) {
	f := NewFeed()
	played(t, f, []float64{20, 19, 18, 0.1, 0.1, 0.1, 0.1, 0.1, 0.1, 0.1}, ticking)
	x := f.Between(now.Add(-time.Second), now.Add(10*time.Second))
	require.Len(t, x, 200)
	assert.InDelta(t, 0.05, x[0].S, 0.011, "the first of them a second before")
	_, c, _, _ := f.Last()
	assert.Zero(t, c.ClockSteps)
	assert.InDelta(t, 0, c.ClockS, 0.2)
}

// A clock that is slow by half a minute is found within some packs, and what came meanwhile is laid where it belongs;
// one set back by ten seconds in mid-work likewise, and told; one set forward at once.
func TestAClockThatIsSet(t *testing.T) {
	slow := NewFeed()
	delays := make([]float64, 12)
	played(t, slow, delays, func(at time.Time) time.Time { return at.Add(-30 * time.Second) })
	x := slow.Between(now.Add(-time.Second), now.Add(12*time.Second))
	assert.Len(t, x, 240)
	_, c, _, _ := slow.Last()
	assert.InDelta(t, 30, c.ClockS, 0.1)

	for _, by := range []time.Duration{-10 * time.Second, 10 * time.Second, -time.Hour} {
		f := NewFeed()
		played(t, f, make([]float64, 30), func(at time.Time) time.Time {
			if at.Sub(now) > 9500*time.Millisecond {
				return at.Add(by)
			}
			return at
		})
		last, c, _, _ := f.Last()
		assert.WithinDuration(t, now.Add(29*time.Second), last.At, 200*time.Millisecond, "%v", by)
		assert.Equal(t, 1, c.ClockSteps, "%v", by)
	}
}

// A text, a switch, a sum and what lies in time to come are no readings; what is no SenML is told; a battery is told
// beside.
func TestWhatIsNoFigure(t *testing.T) {
	m, _ := trace.MeasureOf(trace.Force)
	f := NewFeed()
	for i, text := range []string{`[{"n":"f","u":"N","vs":"300"}]`, `[{"n":"f","u":"N","vb":true}]`, `[{"n":"f","u":"N","s":300}]`} {
		f.Take(m, pack(t, now, text), now)
		_, c, problem, ok := f.Last()
		assert.False(t, ok, text)
		assert.EqualValues(t, i+1, c.Refused)
		assert.Equal(t, NoFigure, problem)
	}
	f.Take(m, pack(t, now, `[{"n":"f","u":"N","v":300,"t":60}]`), now)
	_, c, problem, ok := f.Last()
	assert.False(t, ok, "a minute from now")
	assert.EqualValues(t, 4, c.Refused)
	assert.Equal(t, Ahead, problem)
	f.Take(m, pack(t, now, `[{"n":"battery","u":"%EL","v":17}]`), now)
	_, c, _, _ = f.Last()
	require.NotNil(t, c.Battery)
	assert.InDelta(t, 17, *c.Battery, 1e-9)
	f.Refuse(NoPack)
	_, c, problem, _ = f.Last()
	assert.EqualValues(t, 5, c.Refused)
	assert.Equal(t, NoPack, problem)
}
