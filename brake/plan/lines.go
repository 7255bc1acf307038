package plan

import (
	"cmp"
	"slices"

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
	// Fitting names what has to be had or made, "" where the old line goes on as it is: adapter, line.
	Fitting string `json:"fitting,omitempty"`
	Flare   string `json:"flare,omitempty"` // of a line to make
	// CutMM is what to cut for a line to make, nut on first; nil while the way was not measured.
	CutMM *float64 `json:"cut_mm,omitempty"`
}

// LineMap maps every port of the old unit over its circuit to the port of the new one. Where nothing was measured the
// chambers say which is which: primary at the rear (booster end) as tandem units are built. Where the cylinder itself
// is not changed a line goes back where it came from.
func LineMap(s *system.System, old, unit *match.Unit, changes bool) []Line {
	out := []Line{}
	if isElectro(s) {
		return unitLines(s)
	}
	for _, p := range oldPorts(s, old) {
		c := s.Circuit(p.Circuit)
		if c == nil {
			continue
		}
		l := Line{Tag: len(out) + 1, Circuit: p.Circuit, Position: p.Position, Thread: p.Thread, Wheels: c.Wheels, Differs: []string{}}
		if old != nil && len(old.Ports) > 0 {
			port := p
			l.Old = &port
		}
		out = append(out, l)
	}
	if unit == nil || !changes {
		return out
	}
	taken := map[int]bool{}
	for i := range out {
		l := &out[i]
		at := portFor(unit.Ports, taken, l)
		if at < 0 {
			continue
		}
		taken[at] = true
		p := unit.Ports[at]
		l.New = &p
		l.Swapped = p.Position != l.Position
		l.compare()
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

// portFor finds the new port of a line's circuit: at the same place and side where there is one.
func portFor(ports []match.Port, taken map[int]bool, l *Line) int {
	best, mark := -1, -1
	for i, p := range ports {
		if taken[i] || p.Circuit != l.Circuit {
			continue
		}
		n := 0
		if p.Position == l.Position {
			n += 2
		}
		if l.Old != nil && p.Side == l.Old.Side {
			n++
		}
		if n > mark {
			best, mark = i, n
		}
	}
	return best
}

// compare says what parts the ports and what is needed for it.
func (l *Line) compare() {
	if l.Old == nil || l.New == nil {
		return
	}
	for _, d := range []struct{ what, old, unit string }{{"thread", l.Old.Thread, l.New.Thread}, {"seat", l.Old.Seat, l.New.Seat}, {"side", l.Old.Side, l.New.Side}} {
		if d.old != "" && d.unit != "" && d.old != d.unit {
			l.Differs = append(l.Differs, d.what)
		}
	}
	switch {
	case slices.Contains(l.Differs, "seat"), l.Swapped || slices.Contains(l.Differs, "side"):
		l.Fitting, l.Flare = "line", match.FlareFor(cmp.Or(l.New.Seat, l.Old.Seat))
		l.CutMM = match.CutMM(l.Old.RunMM, l.Swapped || slices.Contains(l.Differs, "side"))
	case slices.Contains(l.Differs, "thread"):
		l.Fitting = "adapter"
	}
}

// unitLines are the lines of an electro-hydraulic unit: one to each wheel, and the one that feeds it from its pump's store.
// Each is marked; none may be changed for another.
func unitLines(s *system.System) []Line {
	out := []Line{}
	for i := range s.Wheels {
		id := s.Wheels[i].ID
		out = append(out, Line{Tag: len(out) + 1, Circuit: s.CircuitOf(id), Position: "wheel", Wheels: []string{id}, Differs: []string{}})
	}
	return append(out, Line{Tag: len(out) + 1, Position: "store", Wheels: []string{}, Differs: []string{}})
}
