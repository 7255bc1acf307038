package bleed

import (
	"math/rand/v2"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// clock is a moment that goes on two seconds a word: no bounce, and no opening too short.
var clock = time.Date(2026, 5, 4, 8, 0, 0, 0, time.UTC)

func said(t *testing.T, c Calling, words ...any) (Calling, Outcome) {
	t.Helper()
	var last Outcome
	for i := 0; i < len(words); i += 2 {
		clock = clock.Add(2 * time.Second)
		next, outcome, err := c.Say(Said{By: words[i].(Who), Word: words[i+1].(Call), At: clock})
		require.NoError(t, err, "%v at %s", words[i+1], c.At)
		c, last = next, outcome
	}
	return c, last
}

func refused(t *testing.T, c Calling, who Who, w Call, alone bool) {
	t.Helper()
	clock = clock.Add(2 * time.Second)
	next, _, err := c.Say(Said{By: who, Word: w, Alone: alone, At: clock})
	assert.Error(t, err)
	assert.Equal(t, c, next, "a word that is not said changes nothing")
}

// How trade has it (9.2, no source): pump and hold, "holding", open, follow, closed, "up". The one at the bleeder says
// two words an opening: what comes next is called with "closed".
func TestOneOpeningCalled(t *testing.T) {
	c, _ := said(t, NewCalling("RR", Pedal), AtBleeder, CallPump)
	for i := range 3 {
		c, _ = said(t, c, InSeat, CallHolding, AtBleeder, CallOpen)
		clock = clock.Add(2 * time.Second)
		next, _, err := c.Say(Said{By: AtBleeder, Word: CallClosed, At: clock, Next: i < 2})
		require.NoError(t, err)
		var outcome Outcome
		c, outcome = said(t, next, InSeat, CallUp)
		assert.Equal(t, OpeningDone, outcome)
		assert.Equal(t, i+1, c.Openings)
		assert.Equal(t, map[bool]Call{true: CallPump, false: CallUp}[i < 2], c.At)
	}
	hard, _ := said(t, NewCalling("RR", HoldHard), AtBleeder, CallHold)
	assert.Equal(t, CallHold, hard.At, "held hard without pumping")
	refused(t, NewCalling("RR", HoldHard), AtBleeder, CallPump, false)
}

// A switch at the foot answers: the answer opens, and the one at the bleeder says one word an opening.
func TestASwitchAtTheFootLeavesOneWord(t *testing.T) {
	c := NewCalling("RR", Pedal)
	c.Auto = true
	c, _ = said(t, c, AtBleeder, CallPump)
	c, _ = said(t, c, InSeat, CallHolding)
	assert.Equal(t, CallOpen, c.At)
	clock = clock.Add(2 * time.Second)
	c, _, err := c.Say(Said{By: AtBleeder, Word: CallClosed, At: clock, Next: true})
	require.NoError(t, err)
	c, outcome := said(t, c, InSeat, CallUp)
	assert.Equal(t, OpeningDone, outcome)
	assert.Equal(t, CallPump, c.At)
}

func TestNothingIsOpenedOnSilence(t *testing.T) {
	c, _ := said(t, NewCalling("RR", Pedal), AtBleeder, CallPump)
	refused(t, c, AtBleeder, CallOpen, false)
	refused(t, c, AtBleeder, CallHolding, false) // the seat answers, not the one who calls
	refused(t, c, InSeat, CallOpen, true)        // the seat opens nothing
	clock = clock.Add(2 * time.Second)
	alone, _, err := c.Say(Said{By: AtBleeder, Word: CallHolding, Alone: true, At: clock})
	require.NoError(t, err, "but one screen read aloud takes the answer that was heard, and opens on it")
	assert.Equal(t, CallOpen, alone.At)
}

func TestAFootLiftedEarlyLosesTheOpening(t *testing.T) {
	open, _ := said(t, NewCalling("RR", Pedal), AtBleeder, CallPump, InSeat, CallHolding, AtBleeder, CallOpen)
	c, outcome := said(t, open, InSeat, CallLifted, AtBleeder, CallClosed, InSeat, CallUp)
	assert.Equal(t, OpeningGone, outcome)
	assert.Zero(t, c.Openings)
	assert.Equal(t, 1, c.LostOpenings)
	assert.False(t, c.Lost, "the next one is a new one")
	stopped, _ := said(t, open, InSeat, CallStop)
	c, outcome = said(t, stopped, AtBleeder, CallGoOn)
	assert.Equal(t, OpeningGone, outcome, "stopped while open")
	assert.Equal(t, CallIdle, c.At)
	held, _ := said(t, NewCalling("RR", Pedal), AtBleeder, CallPump, InSeat, CallHolding, InSeat, CallLifted)
	assert.Equal(t, CallIdle, held.At, "nothing was open: nothing is lost")
	assert.Zero(t, held.LostOpenings)
}

// A foot that came up is told until it is heard: while the opening is in hand it loses it, closed or not; after it, air
// went in all the same.
func TestAFootThatCameUpIsHeardLate(t *testing.T) {
	closed, _ := said(t, NewCalling("RR", Pedal), AtBleeder, CallPump, InSeat, CallHolding, AtBleeder, CallOpen, AtBleeder, CallClosed)
	c, _ := said(t, closed, InSeat, CallLifted)
	assert.Equal(t, CallClosed, c.At)
	c, outcome := said(t, c, InSeat, CallUp)
	assert.Equal(t, OpeningGone, outcome)
	assert.Zero(t, c.Openings)
	over, _ := said(t, closed, InSeat, CallUp)
	clock = clock.Add(2 * time.Second)
	after, outcome, err := over.Say(Said{By: InSeat, Word: CallLifted, At: clock, Late: true})
	require.NoError(t, err)
	assert.Equal(t, OpeningGone, outcome)
	assert.Equal(t, over.At, after.At)
	assert.Equal(t, 1, after.LostOpenings)
	refused(t, over, InSeat, CallLifted, false) // said now, it is not about an opening
}

// A bounced tap is one tap; a stop and a foot that came up are never a bounce. An opening of less than a second let
// nothing through (assumption).
func TestABouncedTapIsOne(t *testing.T) {
	c, _ := said(t, NewCalling("RR", Pedal), AtBleeder, CallPump, InSeat, CallHolding)
	clock = clock.Add(2 * time.Second)
	open, _, err := c.Say(Said{By: AtBleeder, Word: CallOpen, At: clock})
	require.NoError(t, err)
	bounced, _, err := open.Say(Said{By: AtBleeder, Word: CallClosed, At: clock.Add(390 * time.Millisecond)})
	require.NoError(t, err)
	assert.Equal(t, open, bounced)
	stopped, _, err := open.Say(Said{By: AtBleeder, Word: CallStop, At: clock.Add(100 * time.Millisecond)})
	require.NoError(t, err)
	assert.Equal(t, CallStop, stopped.At)
	short, _, err := open.Say(Said{By: AtBleeder, Word: CallClosed, At: clock.Add(900 * time.Millisecond)})
	require.NoError(t, err)
	_, outcome := said(t, short, InSeat, CallUp)
	assert.Equal(t, OpeningGone, outcome)
}

// Two that went on apart: what only one knew of never makes an opening.
func TestApartAndTogetherAgain(t *testing.T) {
	held, _ := said(t, NewCalling("RR", Pedal), AtBleeder, CallPump, InSeat, CallHolding)
	alone := func(c Calling, words ...Call) Calling {
		for _, w := range words {
			clock = clock.Add(2 * time.Second)
			next, _, err := c.Say(Said{By: AtBleeder, Word: w, Alone: true, At: clock})
			require.NoError(t, err)
			c = next
		}
		return c
	}
	open := alone(held, CallOpen)
	for name, c := range map[string]struct {
		kept, mine Calling
		at         Call
		lost       bool
	}{
		"the seat said nothing":                {held, open, CallOpen, false},
		"the seat said nothing, one was done":  {held, alone(open, CallClosed, CallUp), CallUp, false},
		"the foot came up unheard":             {first(said(t, held, InSeat, CallLifted)), open, CallLifted, true},
		"stop was said unheard":                {first(said(t, held, InSeat, CallStop)), open, CallLifted, true},
		"the foot came up, then it was closed": {first(said(t, open, InSeat, CallLifted)), alone(open, CallClosed), CallLifted, true},
		"up before anything was open":          {first(said(t, held, InSeat, CallLifted)), held, CallIdle, false},
		"stop on both sides":                   {first(said(t, open, InSeat, CallStop)), alone(open, CallStop), CallStop, true},
	} {
		got := c.kept.Merge(c.mine, clock)
		assert.Equal(t, c.at, got.At, name)
		assert.Equal(t, c.lost, got.Lost, name)
		assert.Greater(t, got.N, max(c.kept.N, c.mine.N), name)
	}
	other := NewCalling("LF", Pedal) // begun elsewhere meanwhile
	other.ID = "other"
	assert.Equal(t, CallLifted, other.Merge(open, clock).At, "a bleeder that may be open is open")
	assert.Equal(t, "RR", other.Merge(open, clock).Wheel)
}

func first(c Calling, _ Outcome) Calling { return c }

// Whatever the two say in whatever order and however fast, together and apart, the bleeder is open only after the foot
// was said to hold, every opening is counted or lost, and what one side alone knew of is never counted.
func TestAnyTalkKeepsTheRules(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 2))
	words := []Call{CallPump, CallHold, CallHolding, CallOpen, CallClosed, CallUp, CallLifted, CallStop, CallFill, CallGoOn}
	for range 300 {
		c, opened, ended := NewCalling("RR", Pedal), 0, 0
		c.Auto = r.IntN(3) == 0
		var openedAt time.Time
		for range 300 {
			was := c
			clock = clock.Add(time.Duration(r.IntN(1500)) * time.Millisecond)
			w := Said{
				By:    []Who{AtBleeder, InSeat}[r.IntN(2)],
				Word:  words[r.IntN(len(words))],
				Alone: r.IntN(3) == 0,
				At:    clock,
				Next:  r.IntN(2) == 0,
			}
			next, outcome, err := c.Say(w)
			if err != nil || next == was {
				assert.Equal(t, was, next, "a word that is not said changes nothing")
				continue
			}
			c = next
			if c.At == CallOpen {
				require.Contains(t, []Call{CallHolding, CallPump, CallHold}, was.At)
				require.True(t, was.At == CallHolding || w.Word == CallHolding, "on the answer alone")
				opened++
				openedAt = clock
			}
			if c.At == CallClosed && clock.Sub(openedAt).Seconds() < OpenLeastS {
				require.True(t, c.Lost)
			}
			if outcome != NothingYet {
				ended++
			}
			require.Equal(t, was.N+1, c.N)
		}
		require.LessOrEqual(t, opened-ended, 1)
		assert.Equal(t, ended, c.Openings+c.LostOpenings)
	}
}
