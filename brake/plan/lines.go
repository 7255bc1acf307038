package plan

import (
	"geminate/brake/match"
	"geminate/brake/system"
)

// Line is one line: the port of the old unit it comes from, the circuit it feeds, and the port of the new unit it goes
// to. The tag is the number on the tape.
type Line struct {
	Tag      int         `json:"tag"`
	Circuit  string      `json:"circuit"`
	Position string      `json:"position"` // on the old unit: front, rear, third
	Thread   string      `json:"thread"`   // of the old port
	Wheels   []string    `json:"wheels"`
	Old      *match.Port `json:"old,omitempty"`
	New      *match.Port `json:"new,omitempty"`
	// Swapped: the same circuit leaves the new unit at another place. The line goes where its circuit is, never
	// where it used to be.
	Swapped bool `json:"swapped,omitempty"`
	// What parts the new port from the old: thread, seat, side. Any of the first two asks for an adapter or a new line.
	Differs []string `json:"differs"`
	// How it gets there; ByPlace: the units do not both say which circuit the ports feed, the place decided.
	How     match.How `json:"how,omitempty"`
	ByPlace bool      `json:"by_place,omitempty"`
	// Fitting names what has to be had or made, "" where the old line goes on as it is: turn, adapter, line.
	Fitting string `json:"fitting,omitempty"`
	Flare   string `json:"flare,omitempty"` // of a line to make
	// CutMM is what to cut for a line to make, nut on first; nil while the way was not measured.
	CutMM *float64 `json:"cut_mm,omitempty"`
}

// LineMap maps every port of the old unit over its circuit to the port of the new one. Where nothing was measured the
// chambers say which is which: primary at the rear (booster end) as tandem units are built. Where the cylinder itself
// is not changed a line goes back where it came from.
func LineMap(s *system.System, old, unit *match.Unit, changes bool) []Line {
	out, from := []Line{}, []int{} // and which old port each comes from
	if isOnePiece(s) {
		return unitLines(s)
	}
	for i, p := range oldPorts(s, old) {
		c := s.Circuit(p.Circuit)
		if c == nil {
			continue
		}
		l := Line{Tag: len(out) + 1, Circuit: p.Circuit, Position: p.Position, Thread: p.Thread, Wheels: c.Wheels, Differs: []string{}}
		if old != nil && len(old.Ports) > 0 {
			port := p
			l.Old = &port
			if p.NewLine {
				l.How, l.Fitting, l.Flare, l.CutMM = match.NewLine, "line", match.FlareFor(p.Seat), match.CutMM(p.RunMM, false)
			}
		}
		out, from = append(out, l), append(from, i)
	}
	if unit == nil || !changes {
		return out
	}
	pairs, _ := match.PairPorts(oldPorts(s, old), unit.Ports)
	for i := range out {
		out[i].take(pairs[from[i]])
	}
	return out
}

func oldPorts(s *system.System, old *match.Unit) []match.Port {
	if old != nil && len(old.Ports) > 0 {
		return old.Ports
	}
	out := []match.Port{}
	if sec := s.MasterCylinder.Secondary; sec != nil {
		out = append(out, match.Port{Position: "front", Circuit: sec.Circuit})
	}
	return append(out, match.Port{Position: "rear", Circuit: s.MasterCylinder.Primary.Circuit})
}

// take puts what the pairing says into a line.
func (l *Line) take(p match.Pair) {
	l.New, l.Swapped, l.ByPlace, l.Differs, l.How = p.New, p.Swapped, p.ByPlace, p.Differs, p.How
	switch p.How {
	case match.NewLine:
		l.Fitting, l.Flare, l.CutMM = "line", p.Flare, p.CutMM
	case match.Adapter:
		l.Fitting = "adapter"
	case match.TurnIt:
		l.Fitting = "turn"
	}
}

// unitLines are the lines of an electro-hydraulic unit: one to each wheel, and the one that feeds it from its pump's
// store. Each is marked; none may be changed for another.
func unitLines(s *system.System) []Line {
	out := []Line{}
	for i := range s.Wheels {
		id := s.Wheels[i].ID
		out = append(out, Line{Tag: len(out) + 1, Circuit: s.CircuitOf(id), Position: "wheel", Wheels: []string{id}, Differs: []string{}})
	}
	return append(out, Line{Tag: len(out) + 1, Position: "store", Wheels: []string{}, Differs: []string{}})
}
