package diagnose

import "strings"

// Kind says how a finding is entered and what it may hold.
type Kind struct {
	ID     string
	Shape  string // choice, located (a choice that may name its wheel or circuit), number, list, places (wet ones, told with where was looked), looked (told with places), sink, readings, placed (by circuit), placed_wheels, gauge, texts
	Values []string
	Min    float64
	Max    float64
	Where  Where
}

// Kinds lists every finding the engine knows, from the same tables it reads them by.
func Kinds() []Kind {
	out := []Kind{
		{ID: "pedal.sink", Shape: "sink"},
		{ID: "pedal.readings", Shape: "readings"},
		{ID: "pressure.gauge", Shape: "gauge"},
		{ID: "wet.at", Shape: "places", Values: append([]string{"dry"}, Places...)},
		{ID: "looked.at", Shape: "looked", Values: Places},
		{ID: "history.since", Shape: "list", Values: append([]string{"nothing"}, Events...)},
	}
	for i := range PlacedSigns {
		p := &PlacedSigns[i]
		shape := "placed"
		if p.AtWheels {
			shape = "placed_wheels"
		}
		out = append(out, Kind{ID: p.ID, Shape: shape, Values: p.Values})
	}
	for i := range Signs {
		s := &Signs[i]
		switch r, number := numberRange[s.ID]; {
		case strings.Contains(s.ID, ":"):
		case number:
			out = append(out, Kind{ID: s.ID, Shape: "number", Min: r.Min, Max: r.Max})
		case s.ID == "codes.present":
			out = append(out, Kind{ID: s.ID, Shape: "texts"})
		case located[s.ID] != nil:
			out = append(out, Kind{ID: s.ID, Shape: "located", Values: s.Values})
		default:
			out = append(out, Kind{ID: s.ID, Shape: "choice", Values: s.Values})
		}
	}
	for i := range out {
		out[i].Where = WhereOf(out[i].ID)
		if out[i].Values == nil {
			out[i].Values = []string{}
		}
	}
	return out
}
