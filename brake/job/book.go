package job

import (
	"encoding/json"
	"errors"
	"fmt"
	"time"
)

// Book is a job with its whole log in memory: for a place without a database, and for tests.
type Book struct {
	*Job
	Events []Event
}

// Forward folds on what a whole log has beyond this, up to where it stood at head.
func (b *Book) Forward(all []Event, head int64) error {
	for _, e := range all {
		if e.Seq > b.Head && e.Seq <= head {
			if err := b.Take(e); err != nil {
				return err
			}
		}
	}
	return nil
}

// Find implements Log.
func (b *Book) Find(ids []string) (map[string]Event, error) {
	want := make(map[string]bool, len(ids))
	for _, id := range ids {
		want[id] = true
	}
	out := map[string]Event{}
	for _, e := range b.Events {
		if want[e.ID] {
			out[e.ID] = e
		}
	}
	return out, nil
}

// Since implements Log.
func (b *Book) Since(seq int64, kind Kind) ([]Event, error) {
	var out []Event
	for _, e := range b.Events {
		if e.Seq > seq && e.Kind == kind {
			out = append(out, e)
		}
	}
	return out, nil
}

// All implements Log.
func (b *Book) All() ([]Event, error) { return append([]Event(nil), b.Events...), nil }

// OpenBook begins a job in memory.
func OpenBook(by Actor, now time.Time, o Opening) (*Book, error) {
	j, events, err := Open(by, now, o)
	if err != nil {
		return nil, err
	}
	return &Book{j, events}, nil
}

// ErrGap says that events of a log are missing here: what is asked needs them first.
var ErrGap = errors.New("job: the log is not whole here")

// Take folds events that were judged and stored elsewhere, each the next of the log; one that is here already is passed
// over. What reaches back (backwards) needs the whole log, from its first event on. On an error the book is as it was
// before the event.
func (b *Book) Take(events ...Event) error {
	for i := range events {
		e := &events[i]
		switch {
		case e.Seq <= b.Head:
			continue
		case e.Seq != b.Head+1:
			return ErrGap
		}
		if !b.backwards(e) {
			b.apply(e)
			b.Events = append(b.Events, *e)
			continue
		}
		if int64(len(b.Events)) != e.Seq-1 {
			return ErrGap
		}
		b.Events = append(b.Events, *e)
		b.refold(b.Events)
	}
	b.freshen()
	return nil
}

// backwards says whether an event reaches back: it takes something back, or lies further back in the order of hands.
func (b *Book) backwards(e *Event) bool {
	if _, undo := e.Body.(*Undone); undo {
		return true
	}
	if t, ok := e.Body.(*Ticked); ok && t.off() && len(t.Also) == 0 {
		return true
	}
	_, last := b.State.Tail.key(e, b.Head)
	return !last
}

// Tell appends one event as a screen would.
func (b *Book) Tell(by Actor, now time.Time, id string, kind Kind, body any) error {
	data, err := json.Marshal(body)
	if err != nil {
		return fmt.Errorf("job: %w", err)
	}
	events, err := b.Append(b, by, now, []In{{ID: id, Kind: kind, At: now, Data: data}})
	if err == nil {
		b.Events = append(b.Events, events...)
	}
	return err
}
