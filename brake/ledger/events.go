package ledger

import (
	"errors"
	"fmt"
	"io"

	"geminate/brake/strict"
	"geminate/brake/system"
)

// Kind names what was done.
type Kind string

// Kinds of events.
const (
	KindDrain       Kind = "drain"
	KindFill        Kind = "fill"
	KindNewCylinder Kind = "new_cylinder"
	KindDraw        Kind = "draw"
	KindPush        Kind = "push"
	KindLost        Kind = "lost"
)

// Event is one thing done, as files have it.
type Event struct {
	Kind    Kind     `json:"kind"`
	LeftCM3 *float64 `json:"left_cm3,omitempty"`
	ToCM3   *float64 `json:"to_cm3,omitempty"`
	Wheel   string   `json:"wheel,omitempty"`
	CM3     float64  `json:"cm3,omitempty"`
	// Fed: a bottle stood on the reservoir and kept it full. Dry: the new cylinder was not bench bled and holds air.
	Fed bool `json:"fed,omitempty"`
	Dry bool `json:"dry,omitempty"`
}

// Events is a file of them.
type Events struct {
	Events []Event `json:"events"`
}

// Bounds of a file.
const (
	maxBytes  = 8 << 20
	maxEvents = 100_000
)

// Read reads a file of events.
func Read(r io.Reader) (*Events, error) {
	data, err := io.ReadAll(io.LimitReader(r, maxBytes+1))
	if err != nil {
		return nil, fmt.Errorf("ledger: reading: %w", err)
	}
	var out Events
	if len(data) > maxBytes {
		return nil, system.Faults{{Path: "$", Code: "fault.too_large", With: map[string]any{"max_bytes": maxBytes}}}
	}
	if err := strict.Decode(data, &out); err != nil {
		return nil, err
	}
	if len(out.Events) > maxEvents {
		return nil, system.Faults{
			{Path: "$.events", Code: "fault.count", With: map[string]any{"value": len(out.Events), "min": 0, "max": maxEvents}},
		}
	}
	return &out, nil
}

// Apply takes one event down.
func (l *Ledger) Apply(e Event) error {
	switch e.Kind {
	case KindDrain:
		return l.Drain(e.LeftCM3)
	case KindFill:
		return l.Fill(e.ToCM3)
	case KindNewCylinder:
		l.NewCylinder(e.Dry)
		return nil
	case KindDraw:
		if e.Fed {
			return l.Feed(e.Wheel, e.CM3)
		}
		return l.Draw(e.Wheel, e.CM3)
	case KindLost:
		return l.Lose(e.Wheel, e.CM3)
	case KindPush:
		return l.Push(e.Wheel, e.CM3)
	}
	return errors.New("ledger: kind " + fmt.Sprintf("%.40q", string(e.Kind)) + ": drain, fill, new_cylinder, draw or push")
}

// Run gives the state after each event of a system that begins full of old fluid.
func Run(s *system.System, events []Event) ([]State, error) {
	l := New(s)
	out := make([]State, 0, len(events))
	for i, e := range events {
		if err := l.Apply(e); err != nil {
			return nil, fmt.Errorf("$.events[%d]: %w", i, err)
		}
		out = append(out, l.State())
	}
	return out, nil
}
