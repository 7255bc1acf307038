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
	{"kg", "mass", "metric", 1, 0, 0},
	{"lb", "mass", "us", kgPerPound, 0, 0},
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

const (
	TorqueOK         TorqueVerdict = "ok"
	TorqueLow        TorqueVerdict = "low"
	TorqueHigh       TorqueVerdict = "high"
	TorqueTwelveHigh TorqueVerdict = "twelve_high" // in·lbf read as ft·lbf: would break the stud
	TorqueTwelveLow  TorqueVerdict = "twelve_low"  // ft·lbf read as in·lbf: would leave it loose
)

// JudgeTorque compares a torque with the joint's range, both in N·m. A figure outside the range
// that falls inside it when divided or multiplied by twelve is called for what it almost certainly
// is: inch-pounds taken for foot-pounds or the reverse. torque must be positive and finite.
func JudgeTorque(torqueNM, lowNM, highNM float64) (TorqueVerdict, error) {
	if !(torqueNM > 0) || math.IsInf(torqueNM, 0) {
		return "", fmt.Errorf("units: torque %v N·m must be a positive figure", torqueNM)
	}
	in := func(t float64) bool { return t >= lowNM*0.98 && t <= highNM*1.02 }
	switch {
	case in(torqueNM):
		return TorqueOK, nil
	case in(torqueNM / 12):
		return TorqueTwelveHigh, nil
	case in(torqueNM * 12):
		return TorqueTwelveLow, nil
	case torqueNM < lowNM:
		return TorqueLow, nil
	}
	return TorqueHigh, nil
}
