package job

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/match"
)

func TestATimerIsTheSameOnEveryScreen(t *testing.T) {
	b := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly).Book
	require.NoError(t, b.Tell(mara, began, "t1", KindTimerStarted, TimerStarted{Clock: ClockTest, About: "wipe_and_press"}))
	require.Len(t, b.State.Timers, 1)
	timer := b.State.Timers[0]
	assert.Equal(t, 60.0, timer.Seconds, "the guided test's own time")
	assert.Equal(t, "Mara", timer.By)
	assert.False(t, timer.Over(began.Add(59*time.Second)))
	assert.True(t, timer.Over(began.Add(60*time.Second)))
	require.Len(t, b.View().Card().Timers, 1, "the bay shows it")
	// Another person stops it; it stands where it was.
	require.NoError(t, b.Tell(piet, began.Add(42*time.Second), "t2", KindTimerStopped, TimerStopped{Of: "t1"}))
	assert.Equal(t, 42.0, b.State.Timers[0].Elapsed(began.Add(time.Hour)))
	assert.Empty(t, b.View().Card().Timers)
	require.NoError(t, b.Tell(mara, began.Add(50*time.Second), "t3", KindTimerStopped, TimerStopped{Of: "t1"}),
		"two screens may stop the same")
	assert.Equal(t, 42.0, b.State.Timers[0].Elapsed(began.Add(time.Hour)))
	// Started anew it begins at nothing; one of another kind stands beside it; what the maker says wins.
	require.NoError(t,
		b.Tell(mara, began.Add(time.Minute), "t4", KindTimerStarted, TimerStarted{Clock: ClockTest, About: "wipe_and_press"}))
	require.NoError(t, b.Tell(mara, began.Add(time.Minute), "t5", KindTimerStarted, TimerStarted{Clock: ClockHighVoltage, Seconds: 600}))
	require.Len(t, b.State.Timers, 2)
	assert.Nil(t, b.State.Timers[0].StoppedAt)
	assert.Equal(t, 600.0, b.State.Timers[1].Seconds)
	require.NoError(t, b.Tell(mara, began.Add(time.Minute), "u", KindUndo, Undone{Of: "t5"}))
	assert.Equal(t, b.State.Timers, Replay(b.ID, began, b.Events).State.Timers)
	assert.Len(t, b.State.Running(), 1)
	assert.Error(t, b.Tell(mara, began, "x", KindTimerStarted, TimerStarted{Clock: "tea"}))
	assert.Error(t, b.Tell(mara, began, "x", KindTimerStarted, TimerStarted{Clock: ClockPot, Seconds: 1e9}))
	for _, c := range Clocks() {
		require.NoError(t, b.Tell(mara, began.Add(time.Hour), "c-"+string(c), KindTimerStarted, TimerStarted{Clock: c, About: "LF"}))
	}
}

func TestUndoKnowsWhoseItIs(t *testing.T) {
	b := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly).Book
	require.NoError(t, b.Tell(mara, began, "m1", KindBenchStroke, BenchStroked{}))
	require.NoError(t, b.Tell(piet, began, "p1", KindBenchStroke, BenchStroked{}))
	require.NoError(t, b.Tell(mara, began, "m2", KindBenchStroke, BenchStroked{}))
	assert.Equal(t, []LastDone{{"p1", piet.ID, piet.Name}, {"m2", mara.ID, mara.Name}}, b.State.LastBy["bench"])
	require.NoError(t, b.Tell(mara, began, "u", KindUndo, Undone{Of: "m2"}))
	assert.Equal(t, []LastDone{{"m1", mara.ID, mara.Name}, {"p1", piet.ID, piet.Name}}, b.State.LastBy["bench"])
}
