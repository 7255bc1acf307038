package practice

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/job"
	"geminate/brake/proving"
)

// walk works an exercise the engine's own way through the bay, told and done as it went, and gives the bay and the job at the end.
func walk(t *testing.T, b *Bay, change func(int, proving.Act) []proving.Act) *job.Job {
	t.Helper()
	c, err := b.ownWay(t.Context())
	require.NoError(t, err)
	all := c.Outcome.Book.Events
	from := 0
	handed, err := b.Handed(t.Context())
	require.NoError(t, err)
	book := &job.Book{Job: job.Replay("x", c.Outcome.Book.CreatedAt, all[:1]), Events: slices.Clone(all[:1])}
	if handed != nil {
		from = c.HalfActs
		require.NoError(t, forward(book, all, c.HalfHead))
	}
	for n, a := range c.Acts[from:] {
		require.NoError(t, forward(book, all, a.Head))
		for _, x := range change(n, a.Act) {
			if _, err := b.Do(book.Job, x); err != nil {
				require.ErrorIs(t, err, ErrStopped)
			}
		}
	}
	require.NoError(t, forward(book, all, int64(len(all))))
	return book.Job
}

func asItIs(_ int, a proving.Act) []proving.Act { return []proving.Act{a} }

// Worked as the product says, every exercise goes out right, by its own vehicle and by nobody's word.
func TestEveryExerciseCanBeWorkedRight(t *testing.T) {
	for i := range Exercises {
		ex := &Exercises[i]
		t.Run(string(ex.ID), func(t *testing.T) {
			t.Parallel()
			b, err := Open(ex.ID, "", 0)
			require.NoError(t, err)
			own, err := b.ownWay(t.Context())
			require.NoError(t, err)
			require.True(t, own.Outcome.Right, "%+v", own.Outcome.Unsafe)
			j := walk(t, b, asItIs)
			out := b.body.End(j, true)
			assert.Empty(t, out.Unsafe)
			assert.Empty(t, out.Back, "truth %v", b.body.Truth())
			assert.Equal(t, own.Outcome.Right, out.Right)
			t.Log(len(b.Did), "acts,", int(b.body.Vehicle().Seconds/60), "minutes")
		})
	}
}
