package units

import (
	"math"
	"os/exec"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// gnuName maps our ids to the names GNU units knows.
var gnuName = map[string]string{
	"mm": "mm", "in": "in", "m": "m", "ft": "ft", "N": "N", "lbf": "lbf", "MPa": "MPa", "bar": "bar", "psi": "psi",
	"N·m": "N m", "ft·lbf": "ft lbf", "in·lbf": "in lbf", "cm³": "cm^3", "fl oz": "usfloz", "qt": "usquart", "mL": "ml",
	"mL/min": "ml/min", "fl oz/min": "usfloz/min", "kPa": "kPa", "inHg": "inHg", "km": "km", "mi": "mile", "kg": "kg", "lb": "lb",
	"m/s²": "m/s^2", "ft/s²": "ft/s^2", "mm/s": "mm/s", "in/s": "in/s",
	"°C": "tempC", "°F": "tempF",
}

// Source: GNU units (Debian package "units"), which follows NIST. inHg there is 3386.389 Pa.
func TestEveryConversionAgainstGNUUnits(t *testing.T) {
	bin, err := exec.LookPath("units")
	require.NoError(t, err, "install it with: apt-get install units")
	for _, from := range Table {
		for _, to := range Table {
			if base(from.Quantity) != base(to.Quantity) || from.ID == to.ID {
				continue
			}
			t.Run(from.ID+" to "+to.ID, func(t *testing.T) {
				have, want := "7.25 "+gnuName[from.ID], gnuName[to.ID]
				if from.Quantity == "temperature" {
					have = gnuName[from.ID] + "(7.25)"
				}
				out, err := exec.Command(bin, "-t", "-o", "%.12g", have, want).CombinedOutput()
				require.NoError(t, err, string(out))
				expected, err := strconv.ParseFloat(strings.TrimSpace(string(out)), 64)
				require.NoError(t, err)
				got, err := Convert(7.25, from.ID, to.ID)
				require.NoError(t, err)
				assert.InEpsilon(t, expected, got, 1e-6)
			})
		}
	}
}

func TestConvertRefusesMixedQuantitiesAndUnknownUnits(t *testing.T) {
	_, err := Convert(1, "mm", "N")
	assert.ErrorContains(t, err, "length")
	_, err = Convert(1, "furlong", "mm")
	assert.ErrorContains(t, err, "furlong")
	_, err = Convert(1, "mm", "furlong")
	assert.Error(t, err)
}

// Range: common practice, no source (cylinder to booster 160–300 in·lbf, 18–34 N·m).
func TestJudgeTorqueCatchesTheFactorOfTwelve(t *testing.T) {
	const lo, hi = 18, 34
	inlbf := func(v float64) float64 { nm, _ := Convert(v, "in·lbf", "N·m"); return nm }
	ftlbf := func(v float64) float64 { nm, _ := Convert(v, "ft·lbf", "N·m"); return nm }
	for name, c := range map[string]struct {
		nm   float64
		want TorqueVerdict
		unit string
	}{
		"160 in·lbf is right":             {inlbf(160), TorqueOK, "in·lbf"},
		"21 ft·lbf is right":              {ftlbf(21), TorqueOK, "ft·lbf"},
		"250 read as ft·lbf breaks studs": {ftlbf(250), TorqueTwelveHigh, "ft·lbf"},
		"21 read as in·lbf stays loose":   {inlbf(21), TorqueTwelveLow, "in·lbf"},
		"a little low":                    {12, TorqueLow, "N·m"},
		"a little high":                   {50, TorqueHigh, "N·m"},
		"in·lbf read as N·m":              {200, TorqueInchAsNM, "N·m"},
		"ft·lbf read as N·m":              {15, TorqueFootAsNM, "N·m"},
		"N·m read as ft·lbf":              {ftlbf(30), TorqueNMAsFoot, "ft·lbf"},
		"N·m read as in·lbf":              {inlbf(32), TorqueNMAsInch, "in·lbf"},
		"unit unknown":                    {ftlbf(250), TorqueTwelveHigh, ""},
	} {
		got, err := JudgeTorque(c.nm, lo, hi, c.unit)
		require.NoError(t, err, name)
		assert.Equal(t, c.want, got, name)
	}
	for _, bad := range []float64{0, -3, math.NaN(), math.Inf(1)} {
		_, err := JudgeTorque(bad, lo, hi, "")
		assert.Error(t, err)
	}
}

// A click wrench reads to about two parts in a hundred (ISO 6789 allows four; from memory): a figure that far over a
// range is in it.
func TestARangeEndsTwoPartsInAHundredOutside(t *testing.T) {
	for nm, want := range map[float64]TorqueVerdict{20 * 0.981: TorqueOK, 20 * 0.979: TorqueLow, 22 * 1.019: TorqueOK, 22 * 1.021: TorqueHigh, 20: TorqueOK, 22: TorqueOK} {
		got, err := JudgeTorque(nm, 20, 22, "N·m")
		require.NoError(t, err)
		assert.Equal(t, want, got, nm)
	}
	for v, slipped := range map[TorqueVerdict]bool{TorqueOK: false, TorqueLow: false, TorqueHigh: false, "": false, TorqueTwelveHigh: true, TorqueNMAsFoot: true} {
		assert.Equal(t, slipped, v.Slipped(), v)
	}
	// Each way a unit is taken for another, by the factor between them (12 in to the foot; 1 ft·lbf is 1.3558 N·m): a
	// joint of 20 to 22 N·m, the figure meant being 21 of it.
	for _, c := range []struct {
		nm   float64
		unit string
		want TorqueVerdict
	}{{21 * 12, "ft·lbf", TorqueTwelveHigh}, {21 / 12.0, "in·lbf", TorqueTwelveLow}, {21 * 1.355818, "ft·lbf", TorqueNMAsFoot}, {21 / 1.355818, "N·m", TorqueFootAsNM}, {21 * 12 / 1.355818, "N·m", TorqueInchAsNM}, {21 / 12.0 * 1.355818, "in·lbf", TorqueNMAsInch}} {
		got, err := JudgeTorque(c.nm, 20, 22, c.unit)
		require.NoError(t, err)
		assert.Equal(t, c.want, got, "%v read in %s", c.nm, c.unit)
	}
}

// The factors are those of the units' definitions (1 ft·lbf = 1.3558179 N·m); the ranges are made up.
func TestAFigureThatIsInRangeInTwoUnits(t *testing.T) {
	assert.Equal(t, []string{"ft·lbf"}, TorqueAlsoIn(20, 18, 28, "N·m"), "20 ft·lbf are 27.1 N·m")
	assert.Empty(t, TorqueAlsoIn(20, 18, 25, "N·m"))
	assert.Equal(t, []string{"N·m"}, TorqueAlsoIn(20*1.3558179, 18, 28, "ft·lbf"))
	assert.Empty(t, TorqueAlsoIn(20, 18, 28, ""), "where the unit is not known there is nothing to ask")
	assert.Empty(t, TorqueAlsoIn(200*0.1129848, 20, 25, "in·lbf"))
}

// Source: common practice, no source: nobody pours to a tenth of a cm³ out of half a litre; a gap of 0.25 mm is not
// 0.3.
func TestDigitsWorthShowing(t *testing.T) {
	for _, c := range []struct {
		unit string
		v    float64
		want int
	}{{"cm³", 634.5, 0}, {"cm³", 63.4, 1}, {"cm³", 6.3, 1}, {"cm³", 0.4, 2}, {"fl oz", 16.9, 1}, {"fl oz", 3.38, 2}, {"fl oz", 120, 0}, {"mm", 120.6, 1}, {"mm", -0.25, 2}, {"N", 700, 0}} {
		u, err := Find(c.unit)
		require.NoError(t, err)
		assert.Equal(t, c.want, u.Digits(c.v), "%v %s", c.v, c.unit)
	}
}
