package desk

import (
	"encoding/json"
	"fmt"

	"geminate/brake/photo"
	"geminate/brake/station"
)

// Pictured is a picture's brightness, row by row, handed over once so that taps on it are answered at once.
type Pictured struct {
	WidePX int    `json:"wide_px"`
	HighPX int    `json:"high_px"`
	Luma   []byte `json:"luma"`
}

// Picture keeps a picture to look for edges in; the one before it is let go.
func (d *Desk) Picture(in Pictured) (any, error) {
	d.picture = &photo.Luma{WidePX: in.WidePX, HighPX: in.HighPX, Y: in.Luma}
	return struct{}{}, nil
}

// Tapped is an ask about the picture that was handed over.
type Tapped struct {
	Ask photo.Ask `json:"ask"`
}

// OnPhoto is what a picture comes to, with the edges it was worked out from.
type OnPhoto struct {
	photo.Measured
	Seen *photo.Seen `json:"seen"`
}

// Tap looks for edges near what was tapped and measures.
func (d *Desk) Tap(in Tapped) (any, error) {
	a := in.Ask
	if d.picture != nil {
		seen, err := photo.Find(d.picture, a)
		if err != nil {
			return nil, err
		}
		a.Seen = seen
	}
	m, err := photo.Measure(a)
	if err != nil {
		return nil, err
	}
	return OnPhoto{m, a.Seen}, nil
}

// Pocketed is a question to one of the tools in the pocket.
type Pocketed struct {
	Tool string          `json:"tool"`
	In   json.RawMessage `json:"in"`
}

// Pocket answers it.
func (d *Desk) Pocket(in Pocketed) (any, error) {
	t := station.FindTool(in.Tool)
	if t == nil {
		return nil, fmt.Errorf("desk: no tool %q", in.Tool)
	}
	return t.Use(in.In)
}
