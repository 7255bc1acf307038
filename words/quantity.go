package words

import (
	"math"
	"strconv"
	"strings"

	"geminate/brake/units"
)

// bySuffix gives, for a figure's field-name suffix, the metric and the US unit it is read in. The
// web app has the same table (web/src/lib/units.ts); a test there holds the two together.
var bySuffix = []struct{ suffix, core, metric, us string }{
	{"_cm3_min", "mL/min", "mL/min", "fl oz/min"},
	{"_cm3", "cm³", "cm³", "fl oz"},
	{"_mpa", "MPa", "MPa", "psi"},
	{"_kpa", "kPa", "kPa", "inHg"},
	{"_mm_s", "mm/s", "mm/s", "in/s"},
	{"_mm", "mm", "mm", "in"},
	{"_nm", "N·m", "N·m", "ft·lbf"},
	{"_mps2", "m/s²", "m/s²", "ft/s²"},
	{"_km", "km", "km", "mi"},
	{"_n", "N", "N", "lbf"},
}

// Quantity writes a figure in a person's units: metric, us or both.
func (b *Book) Quantity(value float64, core, metric, us, pref string) string {
	one := func(to string) string {
		u, err := units.Find(to)
		if err != nil {
			return b.trim(value, 2)
		}
		v, err := units.Convert(value, core, to)
		if err != nil {
			return b.trim(value, 2)
		}
		return b.trim(v, u.Digits(v)) + " " + to
	}
	switch pref {
	case "us":
		return one(us)
	case "both":
		return one(metric) + " (" + one(us) + ")"
	}
	return one(metric)
}

func (b *Book) trim(v float64, decimals int) string {
	// What a conversion left behind the ninth digit is no figure: 120.65 is written the same wherever it came from.
	if exact, err := strconv.ParseFloat(strconv.FormatFloat(v, 'g', 9, 64), 64); err == nil {
		v = exact
	}
	v = math.Round(v*math.Pow10(decimals)) / math.Pow10(decimals)
	if v == 0 {
		v = 0 // no minus before a zero
	}
	return b.number(strings.Replace(strconv.FormatFloat(v, 'f', decimals, 64), "-", "−", 1))
}

// Say is T with every figure whose name ends in a unit written in a person's units.
func (b *Book) Say(key string, with map[string]any, pref string) string {
	out := map[string]any{}
	for k, v := range with {
		out[k] = v
		x, ok := v.(float64)
		if !ok {
			continue
		}
		for _, s := range bySuffix {
			if strings.HasSuffix(k, s.suffix) {
				out[k] = b.Quantity(x, s.core, s.metric, s.us, pref)
				break
			}
		}
	}
	return b.T(key, out)
}

// By writes a figure by the suffix of its name: By("travel_mm", 12.5, "both").
func (b *Book) By(name string, value float64, pref string) string {
	for _, s := range bySuffix {
		if strings.HasSuffix(name, s.suffix) {
			return b.Quantity(value, s.core, s.metric, s.us, pref)
		}
	}
	return b.trim(value, 2)
}
