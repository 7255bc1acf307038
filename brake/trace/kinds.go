package trace

import (
	"errors"
	"fmt"
	"math"
	"strings"
)

// Kind is a kind of instrument.
type Kind string

// The kinds.
const (
	Force       Kind = "force"       // at the pedal
	Travel      Kind = "travel"      // of the pedal
	PressureA   Kind = "pressure_a"  // at one port
	PressureB   Kind = "pressure_b"  // at the other
	Vacuum      Kind = "vacuum"      // at the booster's hose, under the air around
	Water       Kind = "water"       // fluid tester, percent of water
	Torque      Kind = "torque"      // wrench: the click
	Scale       Kind = "scale"       // under the catch bottle
	Thermometer Kind = "thermometer" // at a brake
	Voltmeter   Kind = "voltmeter"
	FootSwitch  Kind = "foot_switch" // counts strokes
	ScanTool    Kind = "scan_tool"   // codes, steps of a routine
)

// Measure is what a kind measures: its unit in SenML (RFC 8428's registry; what it has none for is stated in
// docs/instruments.md), ours, the factor between them, and the range a reading can have in ours.
type Measure struct {
	Kind   Kind    `json:"kind"`
	SenML  string  `json:"senml"`
	Ours   string  `json:"ours"` // the name figures of this sort are shown by
	Factor float64 `json:"factor"`
	Low    float64 `json:"low"`
	High   float64 `json:"high"`
}

// Kinds lists them. Ranges are what such an instrument can read on a brake, with room: assumptions.
var Kinds = []Measure{
	{Force, "N", "n", 1, -50, 3000},
	{Travel, "m", "mm", 1000, -50, 400},
	{PressureA, "Pa", "mpa", 1e-6, -0.2, 40},
	{PressureB, "Pa", "mpa", 1e-6, -0.2, 40},
	{Vacuum, "Pa", "kpa", 1e-3, -5, 105},
	{Water, "%", "percent", 1, 0, 20},
	{Torque, "N.m", "nm", 1, 0, 1000},
	{Scale, "kg", "g", 1000, -100, 20000},
	{Thermometer, "Cel", "c", 1, -60, 900},
	{Voltmeter, "V", "volt", 1, -1000, 1000},
	{FootSwitch, "1", "count", 1, 0, 1e9},
	{ScanTool, "", "text", 1, 0, 0},
}

// KindNames are their ids, for a refusal.
func KindNames() string {
	names := make([]string, len(Kinds))
	for i, m := range Kinds {
		names[i] = string(m.Kind)
	}
	return strings.Join(names, ", ")
}

// Errors of a reading.
var (
	ErrUnit  = errors.New("trace: a unit that is not this kind's")
	ErrRange = errors.New("trace: a figure that such an instrument cannot read")
)

// MeasureOf is a kind's; false where there is none.
func MeasureOf(k Kind) (Measure, bool) {
	for _, m := range Kinds {
		if m.Kind == k {
			return m, true
		}
	}
	return Measure{}, false
}

// Read turns a reading in a SenML unit into ours; ErrUnit or ErrRange where the unit or the figure cannot be.
func (m Measure) Read(unit string, v float64) (float64, error) {
	if unit != m.SenML {
		return 0, fmt.Errorf("%w: %q, not %q", ErrUnit, m.SenML, unit)
	}
	x := v * m.Factor
	if math.IsNaN(x) || x < m.Low || x > m.High {
		return 0, fmt.Errorf("%w: %v %s", ErrRange, v, unit)
	}
	return x, nil
}
