package bleed

import (
	"fmt"
	"time"
)

// The calls between the one under the vehicle and the one in the seat (how trade has it, 9.2, no source): one gives
// them, one answers, nothing is opened on silence. Either may say stop.

// Call is a word of the two, or where they stand.
type Call string

// Calls and answers.
const (
	CallIdle    Call = "idle"
	CallPump    Call = "pump"    // three or four slow ones, then hold
	CallHold    Call = "hold"    // at once
	CallHolding Call = "holding" // the answer: the foot holds
	CallOpen    Call = "open"    // the pedal goes down: follow it, do not lift
	CallClosed  Call = "closed"  // now it may come up
	CallUp      Call = "up"      // the answer
	CallLifted  Call = "lifted"  // the foot came up with the bleeder open
	CallStop    Call = "stop"
	CallFill    Call = "fill" // the reservoir
	CallGoOn    Call = "go_on"
)

// CallWords lists them all: each has to have words.
func CallWords() []Call {
	return []Call{CallIdle, CallPump, CallHold, CallHolding, CallOpen, CallClosed, CallUp, CallLifted, CallStop, CallFill, CallGoOn}
}

// Pumps is how often the foot pumps before it holds.
const Pumps = 3

// Times of the calls, s; assumptions. A second word of the same one sooner than CallGapS is the same tap: a glove that
// bounces. A bleeder that was open for less than OpenLeastS let nothing through. A screen that was not heard of for
// CallSilentS is not there, and neither is a call that was not heard for so long.
const (
	CallGapS    = 0.4
	OpenLeastS  = 1.0
	CallSilentS = 2.5
)

// Who says something.
type Who string

// The two of them.
const (
	Nobody Who = "" // has said anything yet

	AtBleeder Who = "bleeder"
	InSeat    Who = "seat"
)

// Calling is where the two stand. Each word makes a new one; N counts them, so that a screen knows the later.
type Calling struct {
	// ID is of this calling at this wheel: with N it names every opening once.
	ID    string `json:"id"`
	At    Call   `json:"at"`
	N     int    `json:"n"`
	Wheel string `json:"wheel"`
	// Pump says whether this method pumps before it holds.
	Pump bool `json:"pump"`
	// Auto: the answers in the seat come from a switch at the foot, and the answer opens.
	Auto bool `json:"auto"`
	// GoesOn: after "up" the next opening is called at once.
	GoesOn bool `json:"goes_on"`
	// Lost: the opening in hand does not count. Openings and LostOpenings are those since the calling began.
	Lost         bool `json:"lost"`
	Openings     int  `json:"openings"`
	LostOpenings int  `json:"lost_openings"`
	// By said the last word, at SaidAt; SeatSaid is how many words came from the seat's own screen.
	By       Who       `json:"by"`
	SaidAt   time.Time `json:"said_at"`
	SeatSaid int       `json:"seat_said"`
}

// Other is whether the other one's screen is there.
type Other string

// The other one's screen.
const (
	OtherNone Other = "none" // never was
	OtherHere Other = "here"
	OtherGone Other = "gone" // not heard of for CallSilentS: shout
)

// Outcome is what a word brought to its end.
type Outcome string

// Outcomes.
const (
	NothingYet  Outcome = ""
	OpeningDone Outcome = "opening"
	OpeningGone Outcome = "lost"
)

// callsFrom is what may be said where: by whom, and where it leads.
var callsFrom = map[Call]map[Call]Who{
	CallIdle:    {CallPump: AtBleeder, CallHold: AtBleeder, CallFill: AtBleeder},
	CallPump:    {CallHolding: InSeat},
	CallHold:    {CallHolding: InSeat},
	CallHolding: {CallOpen: AtBleeder, CallLifted: InSeat},
	CallOpen:    {CallClosed: AtBleeder, CallLifted: InSeat},
	CallLifted:  {CallClosed: AtBleeder},
	CallClosed:  {CallUp: InSeat, CallLifted: InSeat}, // it came up before: told late
	CallUp:      {CallPump: AtBleeder, CallHold: AtBleeder, CallFill: AtBleeder},
	CallFill:    {CallGoOn: AtBleeder},
	CallStop:    {CallGoOn: AtBleeder},
}

// NewCalling begins at a wheel.
func NewCalling(wheel string, m Method) Calling {
	return Calling{At: CallIdle, Wheel: wheel, Pump: m != HoldHard}
}

// begin is the word an opening begins with.
func (c Calling) begin() Call {
	if c.Pump {
		return CallPump
	}
	return CallHold
}

// MayBeOpen says whether the bleeder can be open as this stands.
func (c Calling) MayBeOpen() bool {
	return c.At == CallOpen || c.At == CallLifted || c.At == CallStop && c.Lost
}

// May lists what someone may say now; alone is one who reads the calls aloud and taps the answers heard.
func (c Calling) May(who Who, alone bool) []Call {
	out := []Call{}
	for _, w := range []Call{CallPump, CallHold, CallHolding, CallOpen, CallClosed, CallUp, CallLifted, CallFill, CallGoOn} {
		by, ok := callsFrom[c.At][w]
		switch {
		case !ok, by != who && (!alone || who != AtBleeder):
		case (w == CallPump || w == CallHold) && w != c.begin():
		default:
			out = append(out, w)
		}
	}
	if c.At != CallStop && c.At != CallIdle {
		out = append(out, CallStop)
	}
	return out
}

// Said is a word, by whom and when.
type Said struct {
	By   Who
	Word Call
	// Alone is one screen read aloud: it takes the answers that were heard, and what is heard opens.
	Alone bool
	At    time.Time
	// Next says with "closed" that the next opening follows at once.
	Next bool
	// Late is a foot that came up, told again because it was not heard when it did.
	Late bool
}

// late is a foot that came up in an opening that is over by now, and was counted by one who could not hear it: air went
// in at that wheel all the same.
func (c Calling) late(w Said) (Calling, Outcome, bool) {
	inHand := c.MayBeOpen() || c.At == CallHolding || c.At == CallClosed
	if !w.Late || w.Word != CallLifted || w.By != InSeat || inHand {
		return c, NothingYet, false
	}
	c.N++
	c.SeatSaid++
	c.LostOpenings++
	c.By, c.SaidAt = w.By, w.At
	return c, OpeningGone, true
}

// Say takes a word. "Open" is not said before "holding" was answered; a foot that came up, or a stop, with the bleeder
// open loses that opening, and so does one that was open for too short a time. A bounced tap changes nothing.
func (c Calling) Say(w Said) (Calling, Outcome, error) {
	if next, outcome, late := c.late(w); late {
		return next, outcome, nil
	}
	ok := false
	for _, may := range c.May(w.By, w.Alone) {
		ok = ok || may == w.Word
	}
	since := w.At.Sub(c.SaidAt).Seconds()
	if w.By == c.By && !c.SaidAt.IsZero() && since >= 0 && since < CallGapS && w.Word != CallStop && w.Word != CallLifted {
		return c, NothingYet, nil
	}
	if !ok {
		return c, NothingYet, fmt.Errorf("bleed: %.20q is not said at %q by the one at the %s", string(w.Word), string(c.At), w.By)
	}
	open := c.At == CallOpen
	next := c
	next.N++
	next.By, next.At, next.SaidAt = w.By, w.Word, w.At
	if w.By == InSeat {
		next.SeatSaid++
	}
	outcome := NothingYet
	switch w.Word {
	case CallHolding:
		if c.Auto || w.Alone {
			next.At = CallOpen
		}
	case CallClosed:
		next.Lost = c.Lost || open && since < OpenLeastS
		next.GoesOn = w.Next
	case CallLifted:
		next.Lost = open || c.At == CallClosed
		if c.At == CallClosed {
			next.At = CallClosed
		} else if !open { // before anything was opened nothing is lost: begin again
			next.At = CallIdle
		}
	case CallStop:
		next.Lost = open || c.At == CallLifted || c.At == CallClosed || c.Lost
	case CallGoOn:
		next.At = CallIdle
		if next.Lost {
			outcome = OpeningGone
		}
	case CallUp:
		outcome = OpeningDone
		if next.Lost {
			outcome = OpeningGone
		}
		if c.GoesOn && !next.Lost {
			next.At = c.begin()
		}
	}
	switch outcome {
	case OpeningDone:
		next.Openings++
	case OpeningGone:
		next.LostOpenings++
		next.Lost = false
	}
	return next, outcome, nil
}

// Merge is where two stand who went on apart, c as it is kept and mine as the screen at the bleeder went on with alone.
// Where the seat has said nothing since, mine is the later and holds. Otherwise the safe one does: a bleeder that may
// be open is open, an opening in doubt is lost, and nothing in hand goes on by itself.
func (c Calling) Merge(mine Calling, at time.Time) Calling {
	next := c
	switch {
	case mine.ID == c.ID && mine.SeatSaid == c.SeatSaid && mine.N >= c.N:
		next = mine
	case mine.ID == c.ID && mine.At == c.At && mine.Lost == c.Lost:
	case mine.MayBeOpen() || c.MayBeOpen():
		if mine.MayBeOpen() {
			next = mine
		}
		next.At, next.Lost = CallLifted, true
	case mine.At == CallClosed || c.At == CallClosed: // closed on one side alone: whether it was an opening nobody knows
		next.At, next.Lost = CallClosed, true
	default:
		next.At, next.Lost = CallIdle, false
	}
	if next.At == CallLifted || next.At == CallIdle {
		next.GoesOn = false
	}
	next.Openings, next.LostOpenings = max(c.Openings, mine.Openings), max(c.LostOpenings, mine.LostOpenings)
	next.N, next.By, next.SaidAt = max(c.N, mine.N)+1, Nobody, at
	next.SeatSaid = c.SeatSaid
	return next
}

// CallIn is a word said, a wheel begun at (Begin), or a sign that a screen is there (neither).
type CallIn struct {
	Word  Call   `json:"word,omitempty"`
	Begin string `json:"begin,omitempty"` // a wheel
	With  Method `json:"with,omitempty"`
	// Next says with "closed" that the next opening follows at once.
	Next bool `json:"next,omitempty"`
	// Late says with "lifted" that it was said before, and not heard.
	Late bool `json:"late,omitempty"`
	// Auto turns the switch at the foot on or off.
	Auto *bool `json:"auto,omitempty"`
	// After is the N the screen saw: a word said to what has changed since is not taken.
	After int `json:"after"`
	// Merge is where a screen that went on alone stands.
	Merge *Calling `json:"merge,omitempty"`
}

// CallAlone is the same with where the calling stands and the moment, for one screen without a server.
type CallAlone struct {
	CallIn
	ID      string    `json:"id,omitempty"`
	Calling *Calling  `json:"calling,omitempty"`
	Now     time.Time `json:"now"`
}

// CallNow is what one of the two sees of it.
type CallNow struct {
	Calling Calling `json:"calling"`
	May     []Call  `json:"may"`
	// Alone: the other's screen is not there, and this one is read aloud.
	Alone bool `json:"alone"`
	// Outcome is what the last word brought to its end; Pumps how often the foot pumps.
	Outcome Outcome `json:"outcome"`
	Pumps   int     `json:"pumps"`
	// LeastGapS and SilentS are CallGapS and CallSilentS.
	LeastGapS float64 `json:"least_gap_s"`
	SilentS   float64 `json:"silent_s"`
}

// NowOf is what someone sees.
func NowOf(c Calling, who Who, alone bool, o Outcome) CallNow {
	return CallNow{Calling: c, May: c.May(who, alone), Alone: alone, Outcome: o, Pumps: Pumps, LeastGapS: CallGapS, SilentS: CallSilentS}
}

// Step says a word alone, or begins.
func (in CallAlone) Step() (CallNow, error) {
	if in.Begin != "" || in.Calling == nil {
		c := NewCalling(in.Begin, in.With)
		c.ID = in.ID
		return NowOf(c, AtBleeder, true, NothingYet), nil
	}
	c, outcome, err := in.Calling.Say(Said{By: AtBleeder, Word: in.Word, Alone: true, At: in.Now, Next: in.Next})
	return NowOf(c, AtBleeder, true, outcome), err
}
