package job

import (
	"cmp"
	"maps"
	"slices"
	"time"
)

// The order of hands. A log is kept in the order in which it arrived; the vehicle lives in the order in which hands
// worked on it. Every event carries the clock of whoever tells it (set right by what was heard of the server's), the
// head of the log its teller had seen (Base) and its device. From these alone everybody works out the same order: by
// the clock, but nothing before what its teller had seen, and nothing before what the same device told earlier. A
// hybrid logical clock (Kulkarni and others, 2014):
//
//	key(e) = max(clock(e), key(all the teller had seen) + 1 ms, key(the device's event before) + 1 ms)
//
// What somebody chose or corrected goes out before what they did after it, with the time it arrived: their own acts
// come after it. Where nobody said what was seen (old logs, programs of somebody's own) the clock alone says; what lies
// behind the last by less than clocks are in doubt comes as it arrived.

// tick is the least that parts two events in the order, ms.
const tick = int64(1)

// clockDoubt is how far two devices' clocks may be apart though both were set right: what happened nearer together than
// this, told by two who had not seen each other's, may have been the other way round. Assumption.
const clockDoubt = 2 * time.Minute

// keys gives the key of each event, ms, and before each arrival the greatest of all that had arrived by then.
func keys(events []Event) (own, upTo []int64) {
	own, upTo = make([]int64, len(events)), make([]int64, len(events)+1)
	device, edits := map[string]int64{}, map[string]int64{}
	for i := range events {
		e := &events[i]
		k := e.At.UnixMilli()
		if e.Base > 0 {
			k = max(k, upTo[min(e.Base, int64(i))]+tick)
		} else {
			k = fellBack(k, upTo[i])
		}
		if e.Device != "" {
			k = max(k, device[e.Device]+tick)
			device[e.Device] = k
		}
		k = max(k, edits[e.By.ID])
		if isEdit(e) {
			edits[e.By.ID] = k + tick
		}
		own[i], upTo[i+1] = k, max(upTo[i], k)
	}
	return own, upTo
}

// isEdit says whether an event is somebody's edit of intake or choices.
func isEdit(e *Event) bool { return e.Kind == KindIntake || e.Kind == KindChoices }

// fellBack puts what is told behind the last, where it lies before it by less than clocks are in doubt.
func fellBack(k, last int64) int64 {
	if k <= last && last-k < clockDoubt.Milliseconds() {
		return last + tick
	}
	return k
}

// inOrder gives a log in the order of hands, each event with its place in it. What it is given is left as it is.
func inOrder(events []Event) []Event {
	own, upTo := keys(events)
	at := make([]int, len(events))
	sorted := true
	for i := range at {
		at[i] = i
		sorted = sorted && own[i] >= upTo[i]
	}
	if !sorted {
		slices.SortStableFunc(at, func(a, b int) int { return cmp.Compare(own[a], own[b]) })
	}
	out := make([]Event, len(events))
	for place, i := range at {
		out[place] = events[i]
		out[place].place = int64(place + 1)
	}
	first := int64(len(events)) + 1 // late: something that had arrived before it lies after it
	for i := len(out) - 1; i >= 0; i-- {
		out[i].late = out[i].Seq > first
		first = min(first, out[i].Seq)
	}
	return out
}

// Tail is what is kept of the order to tell whether the next event comes last in it.
type Tail struct {
	// KeyMS is the greatest key of all.
	KeyMS int64 `json:"key_ms"`
	// Edits is where what each person tells begins, after their own last edit.
	Edits map[string]int64 `json:"edits,omitempty"`
	// Device told everything from From on.
	Device string `json:"device,omitempty"`
	From   int64  `json:"from"`
}

// key is where an event that arrives now lies; last says whether that is behind everything else.
func (t *Tail) key(e *Event, head int64) (k int64, last bool) {
	k = e.At.UnixMilli()
	switch {
	case e.Base <= 0:
		k = max(fellBack(k, t.KeyMS), t.Edits[e.By.ID])
		return k, k >= t.KeyMS
	case e.Base >= head, e.Device != "" && e.Device == t.Device && e.Base >= t.From-1:
		return max(k, t.KeyMS+tick), true
	}
	k = max(k, t.Edits[e.By.ID])
	return k, k > t.KeyMS
}

// take moves the tail behind an event that is.
func (t *Tail) take(e *Event, k int64) {
	t.KeyMS = max(t.KeyMS, k)
	if isEdit(e) {
		next := maps.Clone(t.Edits)
		if next == nil {
			next = map[string]int64{}
		}
		next[e.By.ID] = k + tick
		t.Edits = next
	}
	if e.Device == "" || e.Device != t.Device {
		t.Device, t.From = e.Device, e.Seq
	}
}

// tailOf is the tail of a whole log.
func tailOf(events []Event) (t Tail) {
	own, _ := keys(events)
	for i := range events {
		t.take(&events[i], own[i])
	}
	return t
}

// slipWithin is how soon something is taken back for it to be a slip: done by mistake, seen at once, nothing else told
// between. Assumption.
const slipWithin = 2 * time.Minute
