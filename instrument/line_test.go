package instrument

import (
	"bufio"
	"context"
	"os"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/trace"
)

// A stand-in on a cable says lines that are read again as what it says.
func TestAStandInOnACable(t *testing.T) {
	path, send, closing, err := OnCable()
	require.NoError(t, err)
	defer closing()
	cable, err := os.OpenFile(path, os.O_RDWR, 0)
	require.NoError(t, err)
	defer func() { _ = cable.Close() }()
	ctx, cancel := context.WithTimeout(t.Context(), 3*time.Second)
	defer cancel()
	go func() {
		_ = StandIn{Kind: trace.Travel}.RunTo(ctx, Play{HZ: 50, Serial: true}, func(float64, float64) float64 { return 71.5 }, 1, send)
	}()
	lines := bufio.NewScanner(cable)
	m, _ := trace.MeasureOf(trace.Travel)
	for range 5 {
		require.True(t, lines.Scan())
		if lines.Text() == "" {
			continue
		}
		r, err := Line(m, lines.Text(), time.Now())
		require.NoError(t, err, lines.Text())
		assert.InDelta(t, 0.0715, r.Value, 1e-9)
	}
}

// A line is a figure and its unit; what has none, or another kind's, is refused and never guessed at. Conversions by
// hand: 1 in = 25.4 mm, 1 psi = 6.894757 kPa, 1 ft·lbf = 1.355818 N·m, 212 °F = 100 °C, 1 inHg = 3.38639 kPa (standard
// factors, from memory).
func TestALineIsAFigureAndItsUnit(t *testing.T) {
	at := time.Now()
	for _, c := range []struct {
		kind trace.Kind
		line string
		want float64 // ours
	}{
		{trace.Travel, "71.2 mm", 71.2}, {trace.Travel, " +71,2mm\r\n", 71.2}, {trace.Travel, "2.8 in", 71.12}, {trace.Force, "300 N", 300}, {trace.Force, "0.3 kN", 300},
		{trace.PressureA, "1000 psi", 6.894757}, {trace.PressureB, "80 bar", 8}, {trace.PressureA, "8000 kPa", 8}, {trace.Vacuum, "20 inHg", 67.7278}, {trace.Vacuum, "650 mbar", 65},
		{trace.Torque, "20 ft-lb", 27.11636}, {trace.Torque, "28 Nm", 28}, {trace.Scale, "104.5 g", 104.5}, {trace.Scale, "1.2 kg", 1200}, {trace.Thermometer, "212 F", 100},
		{trace.Water, "1.5 %", 1.5}, {trace.Voltmeter, "340 mV", 0.34}, {trace.FootSwitch, "12", 12},
	} {
		m, ok := trace.MeasureOf(c.kind)
		require.True(t, ok)
		r, err := Line(m, c.line, at)
		require.NoError(t, err, c.line)
		got, err := m.Read(r.Unit, r.Value)
		require.NoError(t, err, c.line)
		assert.InEpsilon(t, c.want, got, 1e-4, c.line)
	}
	travel, _ := trace.MeasureOf(trace.Travel)
	for _, bad := range []string{"", "71.2", "71.2 N", "mm", "71.2 mm 3", "1e9 mm", "71.2.3 mm", "; DROP", string(make([]byte, 300))} {
		_, err := Line(travel, bad, at)
		require.Error(t, err, "%q", bad)
	}
	_, err := Line(travel, "71.2", at)
	require.ErrorIs(t, err, ErrNoUnit)
	scan, _ := trace.MeasureOf(trace.ScanTool)
	r, err := Line(scan, "C1234, U0100", at)
	require.NoError(t, err)
	assert.Equal(t, "C1234, U0100", r.Text)
}
