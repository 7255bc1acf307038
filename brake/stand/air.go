package stand

import (
	"maps"
	"slices"
	"time"
)

// From is where the air of a mark can have got in, and so which volume has to leave the bleeder before it is gone.
type From string

// Where air gets in.
const (
	FromCylinder From = "cylinder" // ahead of the line: the whole way to the bleeder
	FromBrake    From = "brake"    // at the wheel: its hose and its brake
)

// Mark says that air may be on a wheel's way.
type Mark struct {
	Seq int64  `json:"seq"`
	Why string `json:"why"`
	// AtCM3 is what had gone through the wheel by then, NeedCM3 what has to follow: the volume between there and the
	// bleeder, as the vehicle was known then.
	AtCM3   float64 `json:"at_cm3"`
	NeedCM3 float64 `json:"need_cm3"`
}

// Look is what was seen to run out of a bleeder, with what had gone through by then.
type Look struct {
	At    time.Time `json:"at"`
	Clear bool      `json:"clear"`
	CM3   float64   `json:"cm3"`
}

// Round is a wheel worked at once: from its first opening, or from where air got in, to the next such.
type Round struct {
	Seq     int64   `json:"seq"`
	Why     string  `json:"why,omitempty"`
	CM3     float64 `json:"cm3"`
	Strokes int     `json:"strokes,omitempty"`
	Lost    int     `json:"lost,omitempty"`
	// ToldAfter: some of it was counted in the head and told together.
	ToldAfter bool   `json:"told_after,omitempty"`
	Looks     []Look `json:"looks,omitempty"`
}

// roundsKept and looksKept bound what an endless log can add up to: the last are kept.
const roundsKept, looksKept = 20, 12

// Wheel is a wheel's way: where air may be on it, what has gone through, what was seen.
type Wheel struct {
	ThroughCM3 float64       `json:"through_cm3"`
	Strokes    int           `json:"strokes,omitempty"`
	Marks      map[From]Mark `json:"marks,omitempty"`
	// Row is how often in a row it ran clear, each time after something had run; RowAtCM3 what had gone through at the
	// last but one of them, LookedAtCM3 at the last look.
	Row         int     `json:"row,omitempty"`
	RowAtCM3    float64 `json:"row_at_cm3,omitempty"`
	LookedAtCM3 float64 `json:"looked_at_cm3,omitempty"`
	Clear       bool    `json:"clear,omitempty"`
	Rounds      []Round `json:"rounds,omitempty"`
}

func (w Wheel) clone() Wheel {
	w.Marks, w.Rounds = maps.Clone(w.Marks), slices.Clone(w.Rounds)
	for i := range w.Rounds {
		w.Rounds[i].Looks = slices.Clone(w.Rounds[i].Looks)
	}
	return w
}

// Round is the round in hand, counted from 1; 0 before the first.
func (w *Wheel) Round() int { return len(w.Rounds) }

// Now is the round in hand.
func (w *Wheel) Now() Round {
	if n := len(w.Rounds); n > 0 {
		return w.Rounds[n-1]
	}
	return Round{}
}

// Worked says whether anything was done or seen at it.
func (w *Wheel) Worked() bool { return w.ThroughCM3 > 0 || w.Strokes > 0 || len(w.Rounds) > 0 }

// wheel hands a wheel out to be changed, and keeps what comes of it.
func (a *Account) wheel(id string, change func(*Wheel)) {
	w := a.Wheels[id].clone()
	change(&w)
	set(&a.Wheels, id, w)
}

func (w *Wheel) begin(seq int64, why string) {
	w.Rounds = append(w.Rounds, Round{Seq: seq, Why: why})
	if len(w.Rounds) > roundsKept {
		w.Rounds = w.Rounds[len(w.Rounds)-roundsKept:]
	}
}

func (w *Wheel) mark(from From, seq int64, why string, needCM3 float64) {
	if w.Marks == nil {
		w.Marks = map[From]Mark{}
	}
	w.Marks[from] = Mark{seq, why, w.ThroughCM3, needCM3}
	w.Row, w.Clear = 0, false
}

// Air marks a wheel: air may have got in, and so much has to leave its bleeder before it is out. What had gone through
// and was seen before counts for the fluid, not for this air. A wheel that was begun is begun anew.
func (a *Account) Air(seq int64, wheel string, from From, why string, needCM3 float64) {
	a.wheel(wheel, func(w *Wheel) {
		w.mark(from, seq, why, needCM3)
		if len(w.Rounds) > 0 {
			w.begin(seq, why)
		}
	})
}

// Unmark takes the marks of a reason off every wheel but those named: nobody had said where it was.
func (a *Account) Unmark(why string, but ...string) {
	for id := range a.Wheels {
		if !slices.Contains(but, id) {
			a.wheel(id, func(w *Wheel) { maps.DeleteFunc(w.Marks, func(_ From, m Mark) bool { return m.Why == why }) })
		}
	}
}

// Through takes fluid through a wheel.
func (a *Account) Through(seq int64, wheel string, cm3 float64, strokes int) {
	a.wheel(wheel, func(w *Wheel) {
		if len(w.Rounds) == 0 {
			w.begin(seq, "")
		}
		w.ThroughCM3, w.Strokes = w.ThroughCM3+cm3, w.Strokes+strokes
		r := &w.Rounds[len(w.Rounds)-1]
		r.CM3, r.Strokes, r.ToldAfter = r.CM3+cm3, r.Strokes+strokes, r.ToldAfter || strokes > 1
	})
}

// Lost is an opening that does not count: the foot came up and drew air in at the bleeder. brakeCM3 are its hose and
// brake.
func (a *Account) Lost(seq int64, wheel string, brakeCM3 float64) {
	a.wheel(wheel, func(w *Wheel) {
		if len(w.Rounds) == 0 {
			w.begin(seq, "")
		}
		w.Rounds[len(w.Rounds)-1].Lost++
		w.mark(FromBrake, seq, "opening_lost", brakeCM3)
	})
}

// same: what is less than this apart went through at once, cm³.
const same = 1e-9

// WhyBubbles is the reason of a mark that was set by what was seen.
const WhyBubbles = "bubbles"

// Saw is a look at what runs out. The same opening looked at twice is one look: something must have run since the last.
// Bubbles where no air was reckoned with any more are a mark of their own; brakeCM3 are the wheel's hose and brake.
func (a *Account) Saw(seq int64, wheel string, clear bool, at time.Time, brakeCM3 float64) {
	a.wheel(wheel, func(w *Wheel) {
		if len(w.Rounds) == 0 {
			w.begin(seq, "")
		}
		w.Clear = clear
		ran := w.Unseen()
		switch {
		case !clear:
			w.Row = 0
			if w.leftCM3() == 0 {
				w.mark(FromBrake, seq, WhyBubbles, brakeCM3)
			}
		case ran:
			w.Row++
			w.RowAtCM3 = w.LookedAtCM3
		}
		if !clear || ran {
			w.LookedAtCM3 = w.ThroughCM3
		}
		r := &w.Rounds[len(w.Rounds)-1]
		r.Looks = append(r.Looks, Look{at, clear, r.CM3})
		if len(r.Looks) > looksKept {
			r.Looks = r.Looks[len(r.Looks)-looksKept:]
		}
	})
}

// Paused: looks from before a long pause are none in a row with those after it.
func (a *Account) Paused() {
	for id := range a.Wheels {
		a.wheel(id, func(w *Wheel) { w.Row, w.Clear = 0, false })
	}
}

// ClearTwice: bubbles come in a row with clear fluid between them, so a wheel bled of air runs clear twice.
const ClearTwice = 2

// leftCM3 is what still has to leave for the marks there are.
func (w *Wheel) leftCM3() float64 {
	left := 0.0
	for _, m := range w.Marks {
		left = max(left, w.LeftCM3(m))
	}
	return left
}

// LeftCM3 is what still has to leave the bleeder for a mark; a thousandth is no matter.
func (w *Wheel) LeftCM3(m Mark) float64 {
	if left := m.NeedCM3*0.999 - (w.ThroughCM3 - m.AtCM3); left > same {
		return left
	}
	return 0
}

// LookLeastCM3 is the least that has to have run for there to be anything new to look at: about the hose's own length
// of bubbles, a fifth of a stroke. Assumption.
const LookLeastCM3 = 1.0

// Unseen says whether something worth a look has run since the last.
func (w *Wheel) Unseen() bool {
	return w.ThroughCM3-w.LookedAtCM3 >= LookLeastCM3 || w.LookedAtCM3 == 0 && w.ThroughCM3 > same
}

// CarriedOut says whether, since a mark was set, the volume between it and the bleeder has left there and the last two
// looks were clear, the first of them with at least half of that volume behind it.
func (w *Wheel) CarriedOut(m Mark) bool {
	return w.LeftCM3(m) == 0 && w.SeenClear(m)
}

// SeenClear is the second half of that.
func (w *Wheel) SeenClear(m Mark) bool {
	return w.Row >= ClearTwice && w.RowAtCM3-m.AtCM3 >= m.NeedCM3*0.999/2-same
}

// SeenOnce is a single clear look with half of the volume behind it: where a tool says when.
func (w *Wheel) SeenOnce(m Mark) bool {
	return w.Row >= 1 && w.LookedAtCM3-m.AtCM3 >= m.NeedCM3*0.999/2-same
}
