package bleed

import "fmt"

// The calls between the one under the vehicle and the one in the seat (how trade has it, 9.2, no source): one gives them,
// one answers, nothing is opened on silence. Either may say stop.

// Call is a word of the two, or where they stand.
type Call string

// Calls and answers.
const (
	CallIdle    Call = "idle"
	CallPump    Call = "pump"    // three or four slow ones
	CallHold    Call = "hold"    //
	CallHolding Call = "holding" // the answer: the foot holds
	CallOpen    Call = "open"    // the pedal goes down: follow it, do not lift
	CallClosed  Call = "closed"  // now it may come up
	CallUp      Call = "up"      // the answer
	CallLifted  Call = "lifted"  // the foot came up with the bleeder open
	CallStop    Call = "stop"
	CallFill    Call = "fill" // the reservoir
	CallGoOn    Call = "go_on"
)

// CallWords lists them all.
func CallWords() []Call {
	return []Call{CallIdle, CallPump, CallHold, CallHolding, CallOpen, CallClosed, CallUp, CallLifted, CallStop, CallFill, CallGoOn}
}

// Pumps is how often the foot pumps before it holds.
const Pumps = 3

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
	// Lost: the opening in hand does not count. Openings and LostOpenings are those since the calling began.
	Lost         bool `json:"lost"`
	Openings     int  `json:"openings"`
	LostOpenings int  `json:"lost_openings"`
	// By said the last word.
	By Who `json:"by"`
}

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
	CallPump:    {CallHold: AtBleeder},
	CallHold:    {CallHolding: InSeat},
	CallHolding: {CallOpen: AtBleeder, CallLifted: InSeat},
	CallOpen:    {CallClosed: AtBleeder, CallLifted: InSeat},
	CallLifted:  {CallClosed: AtBleeder},
	CallClosed:  {CallUp: InSeat},
	CallUp:      {CallPump: AtBleeder, CallHold: AtBleeder, CallFill: AtBleeder},
	CallFill:    {CallGoOn: AtBleeder},
	CallStop:    {CallGoOn: AtBleeder},
}

// NewCalling begins at a wheel.
func NewCalling(wheel string, m Method) Calling {
	return Calling{At: CallIdle, Wheel: wheel, Pump: m != HoldHard}
}

// CallIn is a word said, or (Begin) a wheel begun at.
type CallIn struct {
	Word  Call   `json:"word,omitempty"`
	Begin string `json:"begin,omitempty"` // a wheel
	With  Method `json:"with,omitempty"`
	// After is the N the screen saw: a word said to what has changed since is not taken.
	After int `json:"after"`
}

// CallAlone is the same with where the calling stands, for one screen without a server.
type CallAlone struct {
	CallIn
	ID      string   `json:"id,omitempty"`
	Calling *Calling `json:"calling,omitempty"`
}

// CallNow is what one of the two sees of it.
type CallNow struct {
	Calling Calling `json:"calling"`
	May     []Call  `json:"may"`
	// Outcome is what the last word brought to its end; Pumps how often the foot pumps.
	Outcome Outcome `json:"outcome"`
	Pumps   int     `json:"pumps"`
}

// Step says a word alone, or begins.
func (in CallAlone) Step() (CallNow, error) {
	if in.Begin != "" || in.Calling == nil {
		c := NewCalling(in.Begin, in.With)
		c.ID = in.ID
		return CallNow{c, c.May(AtBleeder, true), NothingYet, Pumps}, nil
	}
	c, outcome, err := in.Calling.Say(AtBleeder, in.Word, true)
	return CallNow{c, c.May(AtBleeder, true), outcome, Pumps}, err
}

// May lists what someone may say now; alone is one who reads the calls aloud and taps the answers heard.
func (c Calling) May(who Who, alone bool) []Call {
	out := []Call{}
	for _, w := range []Call{CallPump, CallHold, CallHolding, CallOpen, CallClosed, CallUp, CallLifted, CallFill, CallGoOn} {
		by, ok := callsFrom[c.At][w]
		switch {
		case !ok, by != who && (!alone || who != AtBleeder):
		case w == CallPump && !c.Pump, w == CallHold && c.Pump && c.At != CallPump:
		default:
			out = append(out, w)
		}
	}
	if c.At != CallStop && c.At != CallIdle {
		out = append(out, CallStop)
	}
	return out
}

// Say takes a word. "Open" is not said before "holding" was answered; a foot that came up, or a stop, with the bleeder
// open loses that opening.
func (c Calling) Say(who Who, word Call, alone bool) (Calling, Outcome, error) {
	ok := false
	for _, w := range c.May(who, alone) {
		ok = ok || w == word
	}
	if !ok {
		return c, NothingYet, fmt.Errorf("bleed: %.20q is not said at %q by the one at the %s", string(word), string(c.At), who)
	}
	open := c.At == CallOpen
	next := c
	next.N++
	next.By = who
	next.At = word
	outcome := NothingYet
	switch word {
	case CallLifted:
		next.Lost = open
		if !open { // before anything was opened nothing is lost: begin again
			next.At = CallIdle
		}
	case CallStop:
		if open || c.At == CallLifted {
			next.Lost = true
		}
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
