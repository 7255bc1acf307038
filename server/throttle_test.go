package server

import (
	"context"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/internal/testdb"
	"geminate/store"
)

// Twelve who guess at one account, each from an address of its own, fill its lane; its owner, on a device that is new
// and from an address that has guessed at nothing, still gets a try, slowed like theirs. A guesser gets no second one
// that way.
func TestGuessersDoNotKeepTheOwnerOut(t *testing.T) {
	st, err := store.Open(t.Context(), testdb.DSN(t))
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, st.Close()) })
	th := newThrottle(st.WebState("try"))
	var slept atomic.Int64
	hold := make(chan struct{})
	th.sleep = func(_ context.Context, d time.Duration) { slept.Store(int64(d)); <-hold }
	lanes := func(address string) []string { return []string{"account mara", "address " + address} }
	guesser := func(n int) string { return "10.0.0." + string(rune('a'+n)) }
	for n := range 12 {
		require.NoError(t, th.wrong(t.Context(), lanes(guesser(n))))
	}
	for n := range mostWaits {
		go func() { _, _ = th.enter(t.Context(), lanes(guesser(n))) }()
	}
	require.Eventually(t, func() bool {
		th.mu.Lock()
		defer th.mu.Unlock()
		return th.waiting["account mara"] == mostWaits
	}, 10*time.Second, 10*time.Millisecond)
	_, err = th.enter(t.Context(), lanes(guesser(7)))
	require.Error(t, err, "one more guesser comes back later")
	close(hold)
	leave, err := th.enter(t.Context(), lanes("10.0.0.owner"))
	require.NoError(t, err)
	assert.Greater(t, slept.Load(), int64(time.Second), "slowed all the same")
	leave()
}
