package job

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/ledger"
	"geminate/brake/match"
)

// Source: the ledger itself, run from its first move. Whatever is moved, made longer, taken back or done on another
// unit, what is kept is what the whole would come to.
func TestWhatIsKeptOfTheFluidIsTheWhole(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 7))
	a := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	b := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly) // the same vehicle: it shares what is kept
	history := map[*testJob][][]ledger.Event{}
	for range 600 {
		j := []*testJob{a, b}[r.IntN(2)]
		switch r.IntN(9) {
		case 0:
			j.State.moves(ledger.Event{Kind: ledger.KindFill})
		case 1:
			left := float64(r.IntN(60))
			j.State.moves(ledger.Event{Kind: ledger.KindDrain, LeftCM3: &left})
		case 2: // the last is taken back, or several
			if h := history[j]; len(h) > 0 {
				n := r.IntN(len(h))
				j.State.Moves, history[j] = h[n], h[:n]
			}
		default:
			j.State.moves(ledger.Event{Kind: ledger.KindDraw, Wheel: []string{"RR", "RR", "LF"}[r.IntN(3)], CM3: 3 + float64(r.IntN(5))})
		}
		history[j] = append(history[j], j.State.Moves)
		want := ledger.New(j.Fitted())
		for _, e := range j.State.Moves {
			_ = want.Apply(e)
		}
		require.Equal(t, want.State(), j.fluid().State())
		if r.IntN(3) == 0 {
			require.Equal(t, want.State().LevelCM3, j.levels().State().LevelCM3)
		}
	}
	wets.Lock()
	defer wets.Unlock()
	assert.LessOrEqual(t, len(wets.kept), wetMost)
}
