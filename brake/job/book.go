package job

import (
	"encoding/json"
	"fmt"
	"time"
)

// Book is a job with its whole log in memory: for a place without a database, and for tests.
type Book struct {
	*Job
	Events []Event
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
