// Package units converts between the core's units and the ones people read.
//
// The core holds mm, mm², mm³, N, MPa (gauge), s, °C, N·m, cm³, g, km and, for vacuum, kPa below
// atmosphere. Every other unit is a display of one of these; conversion happens at the edge.
//
// Factors are exact by definition or from NIST SP 811 (from memory; checked against GNU units in
// the tests).
package units

import (
	"fmt"
	"math"
)

// Unit is one display unit of a quantity. Core value = displayed·Factor + Offset.
type Unit struct {
	ID       string  `json:"id"`
	Quantity string  `json:"quantity"`
	System   string  `json:"system"` // "metric" or "us"
	Factor   float64 `json:"factor"`
	Offset   float64 `json:"offset"`
	Decimals int     `json:"decimals"` // digits worth showing after the point
}

const (
	newtonPerPoundForce   = 4.4482216152605 // NIST SP 811
	pascalPerPSI          = 6894.757293168
	newtonMetrePerFootLbf = 1.3558179483314004
	kilopascalPerInHg     = 3.386389
	cm3PerUSQuart         = 946.352946
	cm3PerUSFluidOunce    = cm3PerUSQuart / 32
	kmPerMile             = 1.609344
	kgPerPound            = 0.45359237
)

// Table lists every unit the program offers, the core's own first within each quantity.
var Table = []Unit{
	{"mm", "length", "metric", 1, 0, 1},
	{"in", "length", "us", 25.4, 0, 3},
	{"m", "distance_short", "metric", 1, 0, 2},
	{"ft", "distance_short", "us", 0.3048, 0, 1},
	{"N", "force", "metric", 1, 0, 0},
	{"lbf", "force", "us", newtonPerPoundForce, 0, 0},
	{"MPa", "pressure", "metric", 1, 0, 2},
	{"bar", "pressure", "metric", 0.1, 0, 1},
	{"psi", "pressure", "us", pascalPerPSI / 1e6, 0, 0},
	{"N·m", "torque", "metric", 1, 0, 1},
	{"ft·lbf", "torque", "us", newtonMetrePerFootLbf, 0, 1},
	{"in·lbf", "torque", "us", newtonMetrePerFootLbf / 12, 0, 0},
	{"cm³", "volume", "metric", 1, 0, 1},
	{"fl oz", "volume", "us", cm3PerUSFluidOunce, 0, 2},
	{"qt", "volume_large", "us", cm3PerUSQuart, 0, 2},
	{"mL", "volume_large", "metric", 1, 0, 0},
	{"mL/min", "flow", "metric", 1, 0, 2},
	{"fl oz/min", "flow", "us", cm3PerUSFluidOunce, 0, 3},
	{"°C", "temperature", "metric", 1, 0, 0},
	{"°F", "temperature", "us", 5.0 / 9.0, -160.0 / 9.0, 0},
	{"kPa", "vacuum", "metric", 1, 0, 0},
	{"inHg", "vacuum", "us", kilopascalPerInHg, 0, 1},
	{"km", "distance", "metric", 1, 0, 0},
	{"mi", "distance", "us", kmPerMile, 0, 0},
	{"m/s²", "acceleration", "metric", 1, 0, 1},
	{"ft/s²", "acceleration", "us", 0.3048, 0, 1},
	{"mm/s", "speed", "metric", 1, 0, 1},
	{"in/s", "speed", "us", 25.4, 0, 3},
	{"kg", "mass", "metric", 1, 0, 0},
	{"lb", "mass", "us", kgPerPound, 0, 0},
}

// Digits is how many digits after the point a value in this unit is worth: one more below one, where a gap of 0.25 mm
// is not 0.3; of a volume no more than three figures in all, because nobody pours to a tenth of a cm³ out of half a
// litre.
func (u Unit) Digits(v float64) int {
	v = math.Abs(v)
	switch {
	case u.Decimals > 0 && u.Decimals < 3 && v != 0 && v < 1:
		return u.Decimals + 1
	case u.Quantity == "volume" && v >= 10:
		return max(0, min(u.Decimals, 2-int(math.Log10(v))))
	}
	return u.Decimals
}

// Find returns the unit with this id.
func Find(id string) (Unit, error) {
	for _, u := range Table {
		if u.ID == id {
			return u, nil
		}
	}
	return Unit{}, fmt.Errorf("units: unknown unit %q", id)
}

// Convert turns value from one unit into another of the same quantity.
func Convert(value float64, from, to string) (float64, error) {
	f, err := Find(from)
	if err != nil {
		return 0, err
	}
	t, err := Find(to)
	if err != nil {
		return 0, err
	}
	if base(f.Quantity) != base(t.Quantity) {
		return 0, fmt.Errorf("units: %s is a %s, %s is a %s", from, f.Quantity, to, t.Quantity)
	}
	return (value*f.Factor + f.Offset - t.Offset) / t.Factor, nil
}

// base folds the display sizes of one quantity together: cm³ and qt are both volumes.
func base(quantity string) string {
	if quantity == "volume_large" {
		return "volume"
	}
	return quantity
}

// TorqueVerdict says what a wrench setting is, held against the range a joint takes.
type TorqueVerdict string

// Verdicts. A factor between units that brings a figure into the range names the slip it most likely is.
const (
	TorqueOK         TorqueVerdict = "ok"
	TorqueLow        TorqueVerdict = "low"
	TorqueHigh       TorqueVerdict = "high"
	TorqueTwelveHigh TorqueVerdict = "twelve_high" // in·lbf read as ft·lbf: would break the stud
	TorqueTwelveLow  TorqueVerdict = "twelve_low"  // ft·lbf read as in·lbf: would leave it loose
	TorqueInchAsNM   TorqueVerdict = "inch_as_nm"  // in·lbf read as N·m, 8.85 times too much
	TorqueNMAsInch   TorqueVerdict = "nm_as_inch"  // N·m read as in·lbf, 8.85 times too little
	TorqueFootAsNM   TorqueVerdict = "foot_as_nm"  // ft·lbf read as N·m, 1.36 times too little
	TorqueNMAsFoot   TorqueVerdict = "nm_as_foot"  // N·m read as ft·lbf, 1.36 times too much
)

// Factors between torque units, as written in the table above: 12 in in a foot, 0.1129848 N·m in an in·lbf.
const (
	inchesInFoot = 12
	inchInNM     = 8.8507458
	footInNM     = 1.3558179
)

// slips are what a figure may really be, by the unit it was read in: the factor that brings it back.
var slips = map[string][]struct {
	factor  float64
	verdict TorqueVerdict
	really  string // the unit it was
}{
	"N·m":    {{1 / inchInNM, TorqueInchAsNM, "in·lbf"}, {footInNM, TorqueFootAsNM, "ft·lbf"}},
	"ft·lbf": {{1.0 / inchesInFoot, TorqueTwelveHigh, "in·lbf"}, {1 / footInNM, TorqueNMAsFoot, "N·m"}},
	"in·lbf": {{inchesInFoot, TorqueTwelveLow, "ft·lbf"}, {inchInNM, TorqueNMAsInch, "N·m"}},
	"": {
		{1.0 / inchesInFoot, TorqueTwelveHigh, ""},
		{inchesInFoot, TorqueTwelveLow, ""},
		{1 / inchInNM, TorqueInchAsNM, ""},
		{inchInNM, TorqueNMAsInch, ""},
		{footInNM, TorqueFootAsNM, ""},
		{1 / footInNM, TorqueNMAsFoot, ""},
	},
}

// TorqueAlsoIn gives the units in which the very same number would be in the range too, N·m: where the range is wider
// than the step between two units, no figure can tell them apart, and the wrench has to be asked.
func TorqueAlsoIn(torqueNM, lowNM, highNM float64, unit string) []string {
	var out []string
	for _, s := range slips[unit] {
		if s.really != "" && inRange(torqueNM*s.factor, lowNM, highNM) {
			out = append(out, s.really)
		}
	}
	return out
}

// inRange allows the two per cent to which a wrench is read. Common practice, no source.
func inRange(torqueNM, lowNM, highNM float64) bool {
	return torqueNM >= lowNM*0.98 && torqueNM <= highNM*1.02
}

// Slipped says whether a verdict names a unit taken for another.
func (v TorqueVerdict) Slipped() bool {
	return v != TorqueOK && v != TorqueLow && v != TorqueHigh && v != ""
}

// JudgeTorque compares a torque with the joint's range, both in N·m; unit is the one it was read in, "" where that is
// not known. A figure outside the range that falls inside it by the factor between two units is called for what it
// most likely is. torque must be positive and finite.
func JudgeTorque(torqueNM, lowNM, highNM float64, unit string) (TorqueVerdict, error) {
	if !(torqueNM > 0) || math.IsInf(torqueNM, 0) {
		return "", fmt.Errorf("units: torque %v N·m must be a positive figure", torqueNM)
	}
	in := func(t float64) bool { return inRange(t, lowNM, highNM) }
	if in(torqueNM) {
		return TorqueOK, nil
	}
	known, ok := slips[unit]
	if !ok {
		known = slips[""]
	}
	for _, s := range known {
		if in(torqueNM * s.factor) {
			return s.verdict, nil
		}
	}
	if torqueNM < lowNM {
		return TorqueLow, nil
	}
	return TorqueHigh, nil
}
