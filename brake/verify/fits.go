package verify

import (
	"math"

	"geminate/brake/system"
	"geminate/brake/twin"
)

// Fits is what goes on held against what was on, by figures: the core judges, before and without any tap.
type Fits struct {
	// Asked: a cylinder or booster goes on.
	Asked bool
	// NoBore: nobody knows the bore of the cylinder that goes on. What was on is the vehicle's own, stated at intake.
	NoBore bool
	// Before and After are the vehicle with what was on and with what goes on; nil where the same bore and stroke go
	// on.
	Before, After *system.System
	// Reason is why a pedal that changed more than it may is taken all the same, said by a lead; By whom.
	Reason, By string
}

// At a firm foot the new pedal gives the old pressure and travel within a tenth, or a lead says why not. Assumption.
const (
	fitsAtN        = 300.0
	fitsAtCouplerN = 2500.0
	fitsShare      = 0.10
)

// Changes is how a pedal changed at a firm foot.
type Changes struct {
	PressureRatio, TravelRatio float64
}

// PedalChange works it out.
func PedalChange(before, after *system.System) Changes {
	a, b := twin.New(before), twin.New(after)
	at := fitsAtN
	if before.IsTrailer() {
		at = fitsAtCouplerN
	}
	p := func(m *twin.Model) float64 { return m.Sweep(m.OutputForceN(m.RodForceN(at), true)).MeanMPA }
	ratio := func(x, y float64) float64 {
		if y <= 0 {
			return 1
		}
		return x / y
	}
	return Changes{PressureRatio: ratio(p(b), p(a)), TravelRatio: ratio(b.Travel(at, true), a.Travel(at, true))}
}

// Beyond says whether it changed more than it may.
func (c Changes) Beyond() bool {
	return math.Abs(c.PressureRatio-1) > fitsShare || math.Abs(c.TravelRatio-1) > fitsShare
}

func (in *Input) fits() (State, string, map[string]any) {
	f := &in.Fits
	if f.NoBore {
		return Missing, "gate.fits.bore_new", nil
	}
	if f.Before == nil || f.After == nil {
		return OK, "gate.fits.ok", nil
	}
	c := PedalChange(f.Before, f.After)
	with := map[string]any{
		"pressure_percent": math.Round(100 * (c.PressureRatio - 1)),
		"travel_percent":   math.Round(100 * (c.TravelRatio - 1)),
		"most_percent":     100 * fitsShare,
	}
	switch {
	case !c.Beyond():
		return OK, "gate.fits.ok", nil
	case f.Reason != "":
		with["reason"], with["by"] = f.Reason, f.By
		return OK, "gate.fits.reason", with
	}
	return Failed, "gate.fits.changes", with
}
