package photo

import (
	"fmt"
	"math"

	"geminate/brake/strict"
)

// Seen are edges found in a picture: what was tapped only says where to look. They are kept beside the taps, so that
// whoever has no picture any more works the same figure out.
type Seen struct {
	// Sides are points of the reference's sides, each from one of the corners, in their order round, to the next; empty
	// where its edges were not clear.
	Sides [][]Point `json:"sides,omitempty"`
	// Circles are points on the edges of circles, by the id of what is wanted: one list a circle.
	Circles map[string][][]Point `json:"circles,omitempty"`
}

// A side is known by at least sideLeast points, a circle by circleLeast; more than foundMost nobody keeps.
const (
	sideLeast, circleLeast = 8, 12
	foundMost              = 64
)

func (s *Seen) check(a *Ask) error {
	if s == nil {
		return nil
	}
	if len(s.Sides) != 0 && len(s.Sides) != 4 {
		return strict.FaultAt("$.seen.sides", "fault.count", map[string]any{"value": len(s.Sides), "min": 4, "max": 4})
	}
	list := func(path string, points []Point, least int) error {
		if len(points) < least || len(points) > foundMost {
			return strict.FaultAt(path, "fault.count", map[string]any{"value": len(points), "min": least, "max": foundMost})
		}
		for _, p := range points {
			if !p.finite(mostPX) || !a.holds(p) {
				return strict.FaultAt(path, "fault.outside_picture", nil)
			}
		}
		return nil
	}
	for i, side := range s.Sides {
		if err := list(fmt.Sprintf("$.seen.sides[%d]", i), side, sideLeast); err != nil {
			return err
		}
	}
	for id, circles := range s.Circles {
		for _, c := range circles {
			if err := list("$.seen.circles."+strict.Clip(id), c, circleLeast); err != nil {
				return err
			}
		}
	}
	return nil
}

// sided says whether all four sides were found.
func (s *Seen) sided() bool { return s != nil && len(s.Sides) == 4 }

// of are the points a wanted thing is worked out from: its edges where they were found, else its taps.
func (s *Seen) of(w Wanted) (taps []Tap, found bool) {
	if s == nil || w.Kind.Circles() == 0 || len(s.Circles[w.ID]) != w.Kind.Circles() {
		return w.Points, false
	}
	circles := s.Circles[w.ID]
	n := math.MaxInt
	for _, c := range circles {
		n = min(n, len(c))
	}
	for _, c := range circles { // as many of each: the kind parts them by half
		for i := range n {
			taps = append(taps, Tap{Point: c[i*len(c)/n]})
		}
	}
	return taps, true
}

// foundPX is the error of each of n points of a circle's edge: however many there are, its centre is not known better
// than to a fifth of a px. Assumption: light from one side moves an edge.
func foundPX(n int) float64 { return 0.2 * math.Sqrt(float64(n)/2) }
