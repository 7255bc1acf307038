package stand

import "time"

// Two tellings that do not agree. What is told late is laid in where hands did it. Where that changes how a thing
// stands now, though others have worked on since without having seen it, or where two told otherwise of one thing
// within what their clocks are in doubt, nobody can say from the log how the vehicle is: both tellings are shown and
// somebody looks. Until then the thing counts as off.

// Telling is who told what of a thing.
type Telling struct {
	Step string    `json:"step"`
	At   time.Time `json:"at"`
	By   string    `json:"by"`
	Name string    `json:"name"`
}

// Doubt is a thing of which nobody can say from the log how it stands.
type Doubt struct {
	Seq    int64   `json:"seq"`
	Late   Telling `json:"late"`
	Before Telling `json:"before,omitzero"`
	// Was is how it stood without the late one; Open: somebody has worked on since who had not seen it.
	Was  State `json:"was"`
	Open bool  `json:"open,omitempty"`
	// Near: another told otherwise of it within what clocks are in doubt.
	Near bool `json:"near,omitempty"`
	// arrival of the late telling
	Arrived int64 `json:"arrived"`
}

// Seen is what a look at such a thing showed.
type Seen struct {
	When
	State State `json:"state"`
}

// ToldLate takes down that an act was told late: name is who told it, was how the thing stood before it, near whether
// another told otherwise of it within what clocks are in doubt.
func (a *Account) ToldLate(t Thing, late, before Telling, w When, was State, near bool) {
	set(&a.Doubts, t, Doubt{Seq: w.Seq, Late: late, Before: before, Was: was, Open: near, Near: near, Arrived: w.Arrived})
}

// Unaware opens the doubts somebody worked on in who had not seen what they rest on.
func (a *Account) Unaware(w When) {
	for t, d := range a.Doubts {
		if !d.Open && w.Seq > d.Seq && w.Arrived < d.Arrived && w.By != d.Late.By {
			d.Open = true
			set(&a.Doubts, t, d)
		}
	}
}

// Knows closes the doubt of a thing that was told of once more: by one who knew, or later in the order of hands by
// whomever, unless the two lie so near together that either may have been first.
func (a *Account) Knows(t Thing, w When) {
	if d, there := a.Doubts[t]; there && (w.Arrived > d.Arrived || w.Seq > d.Seq && !d.Near) {
		delete(a.Doubts, t)
	}
}

// LookedAt is the look that settles it: on, off, or not to be told, which is off.
func (a *Account) LookedAt(t Thing, s State, w When, what string) {
	delete(a.Doubts, t)
	set(&a.Looked, t, Seen{w, s})
	if s == Off {
		set(&a.CameOff, t, w)
	}
	a.Change(w, what, t)
}

// OpenDoubts are the things somebody has to look at, in the order of the table.
func (a *Account) OpenDoubts() []Thing {
	var out []Thing
	for _, e := range Things {
		if d, there := a.Doubts[e.Thing]; there && d.Open {
			out = append(out, e.Thing)
		}
	}
	return out
}
