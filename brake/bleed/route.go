package bleed

import (
	"fmt"
	"slices"
	"strings"

	"geminate/brake/system"
)

func lengthOf(w *system.Wheel) float64 { return w.Line.LengthMM + w.Hose.LengthMM }

// Route gives the order of the wheels, all of them.
func Route(s *system.System, o Options) ([]string, error) {
	var ids []string
	for _, w := range s.Wheels {
		ids = append(ids, w.ID)
	}
	far := func(a, b string) int {
		switch la, lb := lengthOf(s.Wheel(a)), lengthOf(s.Wheel(b)); {
		case la > lb:
			return -1
		case la < lb:
			return 1
		}
		return 0
	}
	switch o.Order {
	case Longest:
		slices.SortStableFunc(ids, far)
	case FarthestAxle:
		// Both sides of an axle, then the next one forward; the longer line of the two first.
		slices.SortStableFunc(ids, far)
		var axles []string
		for _, id := range ids {
			if a := axleOf(id); !slices.Contains(axles, a) {
				axles = append(axles, a)
			}
		}
		slices.SortStableFunc(ids, func(a, b string) int { return slices.Index(axles, axleOf(a)) - slices.Index(axles, axleOf(b)) })
	case ToolLed: // the scan tool's: right rear, left rear, left front, right front (how trade has it, no source)
		rank := func(id string) int {
			if i := slices.Index([]string{"RR", "LR", "LF", "RF"}, id); i >= 0 {
				return i
			}
			return len(ids)
		}
		slices.SortStableFunc(ids, func(a, b string) int { return rank(a) - rank(b) })
	case ByCircuit:
		slices.SortStableFunc(ids, far)
		var circuits []string // in the order of their longest line
		for _, id := range ids {
			if c := s.CircuitOf(id); !slices.Contains(circuits, c) {
				circuits = append(circuits, c)
			}
		}
		slices.SortStableFunc(ids, func(a, b string) int {
			return slices.Index(circuits, s.CircuitOf(a)) - slices.Index(circuits, s.CircuitOf(b))
		})
	case Listed:
	case Maker:
		// A maker may send one round to some wheels again, never leave one out.
		for _, id := range o.Given {
			if !slices.Contains(ids, id) {
				return nil, fmt.Errorf("bleed: the maker's order names %.20q: the wheels are %v", id, ids)
			}
		}
		for _, id := range ids {
			if !slices.Contains(o.Given, id) {
				return nil, fmt.Errorf(
					"bleed: the maker's order must name each wheel, some more than once where the maker says so: %s is missing",
					id,
				)
			}
		}
		if len(o.Given) > 4*len(ids) {
			return nil, fmt.Errorf("bleed: the maker's order is too long: %d wheels at most", 4*len(ids))
		}
		return slices.Clone(o.Given), nil
	default:
		return nil, fmt.Errorf("bleed: order %q: one of longest, circuit, listed, maker, farthest_axle, tool", o.Order)
	}
	return ids, nil
}

// axleOf is what is left of a wheel's name without its side: F, R, or a trailer's axle number.
func axleOf(id string) string { return strings.Trim(id, "LR") + tail(id) }

// tail tells rear from front where the name has no number: LR and RR end in R.
func tail(id string) string {
	if len(id) == 2 && (id[1] == 'F' || id[1] == 'R') {
		return id[1:]
	}
	return ""
}
