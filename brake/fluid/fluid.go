// Package fluid knows brake fluid: its classes, what may replace or meet what, what its water means
// and how thick it is when cold.
package fluid

import (
	"fmt"
	"math"
)

// Class is one brake fluid class with the limits its standard sets.
//
// Source: 49 CFR 571.116 S5.1.1–S5.1.3 (from memory).
type Class struct {
	ID                 string  `json:"id"`
	Base               string  `json:"base"` // "glycol" or "silicone"
	Rank               int     `json:"rank"` // higher boils higher, within one base
	DryBoilC           float64 `json:"dry_boil_c"`
	WetBoilC           float64 `json:"wet_boil_c"`
	ViscosityMaxCold   float64 `json:"viscosity_max_m40_mm2_s"` // at −40 °C
	ViscosityTypicalM  float64 `json:"viscosity_typical_m40_mm2_s"`
	ViscosityTypicalHi float64 `json:"viscosity_typical_100_mm2_s"`
}

// Classes in order of rank. Typical viscosities: DOT 3 from the project's how-it-computes, the others
// assumption, scaled by each class's legal maximum at −40 °C.
var Classes = []Class{
	{"DOT 3", "glycol", 1, 205, 140, 1500, 1200, 2.2},
	{"DOT 4", "glycol", 2, 230, 155, 1800, 1400, 2.2},
	{"DOT 5.1", "glycol", 3, 260, 180, 900, 800, 2.1},
	{"DOT 5", "silicone", 1, 260, 180, 900, 300, 15},
}

// WetTestWaterPercent is the water content the wet boiling point stands for. Source: about 3.7 %
// by mass after the humidification of 49 CFR 571.116 S6.2 (from memory).
const WetTestWaterPercent = 3.7

// Find returns the class with this id.
func Find(id string) (Class, error) {
	for _, c := range Classes {
		if c.ID == id {
			return c, nil
		}
	}
	return Class{}, fmt.Errorf("fluid: unknown class %q (know DOT 3, DOT 4, DOT 5, DOT 5.1)", id)
}

// Fitness says whether a bottle may go into a system that asks for a class.
type Fitness string

const (
	Same      Fitness = "same"
	Higher    Fitness = "higher"     // glycol of a higher class: allowed
	LowerBoil Fitness = "lower_boil" // glycol of a lower class: not allowed
	OtherBase Fitness = "other_base" // silicone and glycol never mix
)

// Allowed reports whether the fitness permits use.
func (f Fitness) Allowed() bool { return f == Same || f == Higher }

// MayReplace compares a bottle's class with the class the reservoir cap asks for.
// Common practice, no source: glycol may go up, not down; silicone mixes with none.
func MayReplace(required, bottle string) (Fitness, error) {
	r, err := Find(required)
	if err != nil {
		return "", err
	}
	b, err := Find(bottle)
	if err != nil {
		return "", err
	}
	switch {
	case r.Base != b.Base:
		return OtherBase, nil
	case r.Rank == b.Rank:
		return Same, nil
	case b.Rank > r.Rank:
		return Higher, nil
	}
	return LowerBoil, nil
}

// WaterVerdict is what a measured water content asks for.
type WaterVerdict string

const (
	WaterUnread    WaterVerdict = "" // nobody measured it
	WaterGood      WaterVerdict = "good"
	WaterPlan      WaterVerdict = "plan_change"
	WaterChangeNow WaterVerdict = "change_now"
	WaterDanger    WaterVerdict = "change_before_driving"
)

// JudgeWater grades a water content in percent by mass. Below 1 good, to 3 plan a change, from 3
// change now, from 4 before driving hard. Common practice, no source.
func JudgeWater(percent float64) (WaterVerdict, error) {
	switch {
	case math.IsNaN(percent) || percent < 0 || percent > 20:
		return "", fmt.Errorf("fluid: water %v %% is outside what a tester reads (0 to 20)", percent)
	case percent < 1:
		return WaterGood, nil
	case percent < 3:
		return WaterPlan, nil
	case percent < 4:
		return WaterChangeNow, nil
	}
	return WaterDanger, nil
}

// BottleAge is what the time a bottle has stood open asks for.
type BottleAge string

const (
	AgeUnsaid BottleAge = ""        // nobody said when it was opened
	AgeFresh  BottleAge = "fresh"   // use it
	AgeTest   BottleAge = "test_it" // read its water before it is used
	AgeTested BottleAge = "tested"  // old, and its own water reading decides
	AgeFuture BottleAge = "future"  // the date cannot be
	AgeOld    BottleAge = "old"     // open longer than the shop uses any bottle, whatever it reads
)

// unreadDays is how long an open bottle is used without a reading of its own: a month. Common practice is
// "a sealed, fresh, small bottle"; the figure is an assumption.
const unreadDays = 30

// OpenMostDays is how long a bottle may have stood open where the shop has not set its own. Assumption: a year.
const OpenMostDays = 365

// JudgeAge grades a bottle by the days it has stood open and the most the shop allows; tested says that its own water
// is known.
func JudgeAge(days, most int, tested bool) BottleAge {
	switch {
	case days < -1:
		return AgeFuture
	case days > most:
		return AgeOld
	case days <= unreadDays:
		return AgeFresh
	case tested:
		return AgeTested
	}
	return AgeTest
}

// BoilingC estimates the boiling point in °C at a water content in percent: a straight line through
// the class's dry (0 %) and wet (3.7 %) minimum, carried on beyond it, never below 100 °C. The line
// is an assumption and is to be shown as one.
func (c Class) BoilingC(waterPercent float64) float64 {
	slope := (c.WetBoilC - c.DryBoilC) / WetTestWaterPercent
	return math.Max(100, c.DryBoilC+slope*waterPercent)
}

// ViscosityMM2S returns the kinematic viscosity in mm²/s at a temperature in °C by the Walther
// equation through the class's typical values at −40 and 100 °C.
//
// Source: ASTM D341 (from memory): log10 log10(ν + 0.7) = a − b·log10(T/K).
func (c Class) ViscosityMM2S(temperatureC float64) float64 {
	z := func(nu float64) float64 { return math.Log10(math.Log10(nu + 0.7)) }
	t1, t2 := math.Log10(233.15), math.Log10(373.15)
	b := (z(c.ViscosityTypicalM) - z(c.ViscosityTypicalHi)) / (t2 - t1)
	a := z(c.ViscosityTypicalM) + b*t1
	return math.Pow(10, math.Pow(10, a-b*math.Log10(temperatureC+273.15))) - 0.7
}
