package instrument

import (
	"errors"
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"time"

	"geminate/brake/trace"
	"geminate/brake/units"
)

// An instrument on a serial line says one reading a line: a figure and its unit, "71.2 mm". A foot switch says its
// count alone, a scan tool a text. A figure without its unit is refused, never guessed at.

// Errors of a line.
var (
	ErrLine   = errors.New("instrument: no reading: a line is a figure and its unit, as in 71.2 mm")
	ErrNoUnit = errors.New("instrument: a figure without its unit")
)

// lineMost is how long a line may be, in bytes.
const lineMost = 200

var figureLine = regexp.MustCompile(`^([+-]?\d{1,9}(?:[.,]\d{1,6})?)\s*(\S*)$`)

// as is a unit of the table of units, and how many of it one of what is written is.
type as struct {
	unit string
	many float64
}

// lineUnits are the ways a kind's unit may stand on a display. Of what no table has, the unit is ours.
var lineUnits = map[trace.Kind]map[string]as{
	trace.Force:     {"N": {"N", 1}, "kN": {"N", 1e3}, "lbf": {"lbf", 1}},
	trace.Travel:    {"mm": {"mm", 1}, "cm": {"mm", 10}, "in": {"in", 1}},
	trace.PressureA: pressures,
	trace.PressureB: pressures,
	trace.Vacuum:    {"kPa": {"kPa", 1}, "mbar": {"kPa", 0.1}, "bar": {"kPa", 100}, "inHg": {"inHg", 1}},
	trace.Torque: {
		"N·m":    {"N·m", 1},
		"Nm":     {"N·m", 1},
		"N.m":    {"N·m", 1},
		"ft·lbf": {"ft·lbf", 1},
		"ft.lbf": {"ft·lbf", 1},
		"ft-lb":  {"ft·lbf", 1},
		"in·lbf": {"in·lbf", 1},
		"in.lbf": {"in·lbf", 1},
		"in-lb":  {"in·lbf", 1},
	},
	trace.Scale:       {"g": {"kg", 1e-3}, "kg": {"kg", 1}, "lb": {"lb", 1}},
	trace.Thermometer: {"°C": {"°C", 1}, "C": {"°C", 1}, "°F": {"°F", 1}, "F": {"°F", 1}},
	trace.Water:       {"%": {"", 1}},
	trace.Voltmeter:   {"V": {"", 1}, "mV": {"", 1e-3}},
	trace.FootSwitch:  {"": {"", 1}},
}

var pressures = map[string]as{"MPa": {"MPa", 1}, "kPa": {"MPa", 1e-3}, "bar": {"bar", 1}, "psi": {"psi", 1}}

// lineOurs is the unit of the table that ours is, with how many of ours one of it is.
var lineOurs = map[trace.Kind]as{
	trace.Force:       {"N", 1},
	trace.Travel:      {"mm", 1},
	trace.PressureA:   {"MPa", 1},
	trace.PressureB:   {"MPa", 1},
	trace.Vacuum:      {"kPa", 1},
	trace.Torque:      {"N·m", 1},
	trace.Scale:       {"kg", 1e3},
	trace.Thermometer: {"°C", 1},
}

// Line reads one line of an instrument of a kind, told at a moment.
func Line(m trace.Measure, text string, at time.Time) (Record, error) {
	text = strings.TrimSpace(text)
	if text == "" || len(text) > lineMost {
		return Record{}, ErrLine
	}
	if m.Kind == trace.ScanTool {
		return Record{Name: string(m.Kind), Text: text, At: at, Relative: true}, nil
	}
	part := figureLine.FindStringSubmatch(text)
	if part == nil {
		return Record{}, fmt.Errorf("%w: %q", ErrLine, text)
	}
	v, err := strconv.ParseFloat(strings.ReplaceAll(part[1], ",", "."), 64)
	if err != nil {
		return Record{}, fmt.Errorf("%w: %q", ErrLine, text)
	}
	ours, err := toOurs(m.Kind, v, part[2])
	if err != nil {
		return Record{}, err
	}
	return Record{Name: string(m.Kind), Unit: m.SenML, Value: ours / m.Factor, Figure: true, At: at, Relative: true}, nil
}

func toOurs(k trace.Kind, v float64, unit string) (float64, error) {
	u, ok := lineUnits[k][unit]
	switch {
	case !ok && unit == "":
		return 0, ErrNoUnit
	case !ok:
		return 0, fmt.Errorf("%w: %q", trace.ErrUnit, unit)
	case u.unit == "":
		return v * u.many, nil
	}
	ours := lineOurs[k]
	x, err := units.Convert(v*u.many, u.unit, ours.unit)
	return x * ours.many, err
}
