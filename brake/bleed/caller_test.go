package bleed

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func said(t *testing.T, c Calling, words ...any) (Calling, Outcome) {
	t.Helper()
	var last Outcome
	for i := 0; i < len(words); i += 2 {
		next, outcome, err := c.Say(words[i].(Who), words[i+1].(Call), false)
		require.NoError(t, err, "%v at %s", words[i+1], c.At)
		c, last = next, outcome
	}
	return c, last
}

// How trade has it (9.2, no source): pump, hold, "holding", open, follow, closed, "up".
func TestOneOpeningCalled(t *testing.T) {
	c, outcome := said(t, NewCalling("RR", Pedal), AtBleeder, CallPump, AtBleeder, CallHold, InSeat, CallHolding, AtBleeder, CallOpen, AtBleeder, CallClosed, InSeat, CallUp)
	assert.Equal(t, OpeningDone, outcome)
	assert.Equal(t, 1, c.Openings)
	assert.Contains(t, c.May(AtBleeder, false), CallPump, "and again")
	hard, _ := said(t, NewCalling("RR", HoldHard), AtBleeder, CallHold)
	assert.Equal(t, CallHold, hard.At, "held hard without pumping")
	_, _, err := NewCalling("RR", HoldHard).Say(AtBleeder, CallPump, false)
	assert.Error(t, err)
}

func TestNothingIsOpenedOnSilence(t *testing.T) {
	c, _ := said(t, NewCalling("RR", Pedal), AtBleeder, CallPump, AtBleeder, CallHold)
	_, _, err := c.Say(AtBleeder, CallOpen, false)
	assert.Error(t, err)
	_, _, err = c.Say(AtBleeder, CallHolding, false)
	assert.Error(t, err, "the seat answers, not the one who calls")
	alone, _, err := c.Say(AtBleeder, CallHolding, true)
	require.NoError(t, err, "but one screen read aloud takes the answer that was heard")
	assert.Equal(t, CallHolding, alone.At)
	_, _, err = c.Say(InSeat, CallOpen, true)
	assert.Error(t, err, "the seat opens nothing")
}

func TestAFootLiftedEarlyLosesTheOpening(t *testing.T) {
	open, _ := said(t, NewCalling("RR", Pedal), AtBleeder, CallPump, AtBleeder, CallHold, InSeat, CallHolding, AtBleeder, CallOpen)
	c, outcome := said(t, open, InSeat, CallLifted, AtBleeder, CallClosed, InSeat, CallUp)
	assert.Equal(t, OpeningGone, outcome)
	assert.Zero(t, c.Openings)
	assert.Equal(t, 1, c.LostOpenings)
	assert.False(t, c.Lost, "the next one is a new one")
	stopped, _ := said(t, open, InSeat, CallStop)
	c, outcome = said(t, stopped, AtBleeder, CallGoOn)
	assert.Equal(t, OpeningGone, outcome, "stopped while open")
	assert.Equal(t, CallIdle, c.At)
	held, _ := said(t, NewCalling("RR", Pedal), AtBleeder, CallPump, AtBleeder, CallHold, InSeat, CallHolding, InSeat, CallLifted)
	assert.Equal(t, CallIdle, held.At, "nothing was open: nothing is lost")
	assert.Zero(t, held.LostOpenings)
}

// Whatever the two say in whatever order, the bleeder is open only after the foot was said to hold, and every opening is
// counted or lost.
func TestAnyTalkKeepsTheRules(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 2))
	words := []Call{CallPump, CallHold, CallHolding, CallOpen, CallClosed, CallUp, CallLifted, CallStop, CallFill, CallGoOn}
	for range 200 {
		c, opened, ended := NewCalling("RR", Pedal), 0, 0
		for range 300 {
			was := c
			who := []Who{AtBleeder, InSeat}[r.IntN(2)]
			next, outcome, err := c.Say(who, words[r.IntN(len(words))], r.IntN(3) == 0)
			if err != nil {
				assert.Equal(t, was, next, "a word that is not said changes nothing")
				continue
			}
			c = next
			if c.At == CallOpen {
				require.Equal(t, CallHolding, was.At)
				opened++
			}
			if outcome != NothingYet {
				ended++
			}
			require.Equal(t, was.N+1, c.N)
		}
		assert.LessOrEqual(t, opened-ended, 1)
		assert.Equal(t, ended, c.Openings+c.LostOpenings)
	}
}
