package bleed

import (
	"errors"
	"math"

	"geminate/brake/system"
)

// Stuck says whether it is the vehicle that a way comes to nothing on, not a figure out of its bounds.
func Stuck(err error) bool {
	var long ErrStrokeTooLong
	var many ErrTooMany
	var none ErrNoFlow
	return errors.As(err, &long) || errors.As(err, &many) || errors.As(err, &none)
}

// Why names what a plan is stuck on, with its figures, as a fault whose code is a key of the words.
func Why(err error) system.Fault {
	var long ErrStrokeTooLong
	var many ErrTooMany
	var none ErrNoFlow
	switch {
	case errors.As(err, &long):
		return system.Fault{
			Path: "$.bleed.stroke_mm",
			Code: "bleed_stuck.stroke_too_long",
			With: map[string]any{"stroke_cm3": long.CM3, "gives_cm3": long.GivesCM3},
		}
	case errors.As(err, &many):
		return system.Fault{Path: "$.bleed", Code: "bleed_stuck.too_many", With: map[string]any{"wheel": many.Wheel, "count": many.Most}}
	case errors.As(err, &none):
		return system.Fault{Path: "$.bleed.method", Code: "bleed_stuck.no_flow", With: map[string]any{"wheel": none.Wheel}}
	}
	return system.Fault{Path: "$.bleed", Code: "bleed_stuck.way", With: map[string]any{"detail": err.Error()}}
}

// VolumeCM3 is about what a bleed takes where no plan can be made of it: each wheel's exchange, or its path where that
// is more.
func VolumeCM3(s *system.System, o Options) (sum float64) {
	for _, id := range o.wheels(s) {
		w := s.Wheel(id)
		if w == nil {
			continue
		}
		path := w.PipeCM3() + w.Brake.CavityCM3
		if o.Purpose != ForAir {
			path = math.Max(path, WashoutCM3(w.PipeCM3(), w.Brake.CavityCM3, o.OldFraction))
		}
		sum += path
	}
	return sum
}
