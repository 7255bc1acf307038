package diagnose

import "strings"

// Kind says how a finding is entered and what it may hold.
type Kind struct {
	ID     string
	Shape  string // choice, number, list, sink, readings, placed, gauge, texts
	Values []string
	Min    float64
	Max    float64
}

// Kinds lists every finding the engine knows, from the same tables it reads them by.
func Kinds() []Kind {
	out := []Kind{{ID: "pedal.sink", Shape: "sink"}, {ID: "pedal.readings", Shape: "readings"}, {ID: "pressure.gauge", Shape: "gauge"},
		{ID: "wet.at", Shape: "list", Values: append([]string{"dry"}, Places...)}, {ID: "history.since", Shape: "list", Values: append([]string{"nothing"}, Events...)},
		{ID: "pressure.at_port", Shape: "placed", Values: []string{"ok", "low", "none"}}, {ID: "pressure.at_bleeder", Shape: "placed", Values: []string{"ok", "low", "none"}}}
	for i := range signs {
		s := &signs[i]
		switch r, number := numberRange[s.id]; {
		case strings.Contains(s.id, ":"):
		case number:
			out = append(out, Kind{ID: s.id, Shape: "number", Min: r[0], Max: r[1]})
		case s.id == "codes.present":
			out = append(out, Kind{ID: s.id, Shape: "texts"})
		default:
			out = append(out, Kind{ID: s.id, Shape: "choice", Values: s.values})
		}
	}
	for i := range out {
		if out[i].Values == nil {
			out[i].Values = []string{}
		}
	}
	return out
}
