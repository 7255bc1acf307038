package match

import (
	"fmt"
	"math"
	"strconv"
	"strings"
)

// mmPerInch is exact (NIST SP 811).
const mmPerInch = 25.4

// Bore is a bore as it was stamped or measured.
type Bore struct {
	MM float64 `json:"mm"`
	// Read says how it was taken: fraction, decimal_inch, metric.
	Read string `json:"read"`
	// Nearest is the standard bore it stands for, "" where none is within what a calliper tells.
	Nearest string `json:"nearest"`
}

// StandardBore is a bore master cylinders are made with.
type StandardBore struct {
	Name string  `json:"name"`
	MM   float64 `json:"mm"`
}

// StandardBores are the sizes in common use, in steps of a sixteenth of an inch and in the whole and half
// millimetres common beside them. Common practice, no source.
var StandardBores = standardBores()

func standardBores() (out []StandardBore) {
	inch := func(name string, x float64) { out = append(out, StandardBore{name + " in", x * mmPerInch}) }
	for _, b := range []struct {
		name string
		in   float64
	}{{"5/8", 0.625}, {"11/16", 0.6875}, {"3/4", 0.75}, {"13/16", 0.8125}, {"7/8", 0.875}, {"15/16", 0.9375}, {"1", 1}, {"1 1/32", 1.03125}, {"1 1/16", 1.0625}, {"1 1/8", 1.125}, {"1 3/16", 1.1875}, {"1 1/4", 1.25}, {"1 5/16", 1.3125}, {"1 3/8", 1.375}, {"1 1/2", 1.5}} {
		inch(b.name, b.in)
	}
	return out
}

// stampTolMM is what rounding leaves between a stamp and its standard bore: 1.030 in is none, though 1 1/32
// is near.
const stampTolMM = 0.025

// ReadBore reads a bore stamp: a fraction or a mixed number is inches, a decimal under 3 is inches, anything
// else millimetres; a unit written behind it (in, ", mm) wins. 15/16, 0.9375, 23.81 and 23.8 are one bore.
func ReadBore(text string) (Bore, error) {
	bad := fmt.Errorf("match: %q is not a bore: write 15/16, 0.9375 or 23.81", text)
	s := strings.ToLower(strings.TrimSpace(strings.ReplaceAll(text, ",", ".")))
	unit := ""
	for _, u := range []string{"inches", "inch", "in", `"`, "mm"} {
		if strings.HasSuffix(s, u) {
			unit, s = u, strings.TrimSpace(strings.TrimSuffix(s, u))
			break
		}
	}
	b := Bore{Read: "metric"}
	whole, fraction := 0.0, s
	if i := strings.LastIndexAny(s, " -"); i > 0 && strings.Contains(s, "/") {
		x, err := strconv.ParseFloat(strings.TrimSpace(s[:i]), 64)
		if err != nil {
			return b, bad
		}
		whole, fraction = x, s[i+1:]
	}
	if top, bottom, ok := strings.Cut(fraction, "/"); ok {
		n, err1 := strconv.ParseFloat(top, 64)
		d, err2 := strconv.ParseFloat(bottom, 64)
		if err1 != nil || err2 != nil || d <= 0 || unit == "mm" {
			return b, bad
		}
		b.MM, b.Read = (whole+n/d)*mmPerInch, "fraction"
	} else {
		x, err := strconv.ParseFloat(s, 64)
		if err != nil {
			return b, bad
		}
		b.MM = x
		if unit != "mm" && (unit != "" || x < 3) {
			b.MM, b.Read = x*mmPerInch, "decimal_inch"
		}
	}
	if !(b.MM >= 10 && b.MM <= 60) {
		return b, bad
	}
	b.Nearest = NearestBore(b.MM)
	return b, nil
}

// NearestBore names the standard bore of a measured one, "" where none is near enough.
func NearestBore(mm float64) string {
	best := StandardBores[0]
	for _, s := range StandardBores {
		if math.Abs(s.MM-mm) < math.Abs(best.MM-mm) {
			best = s
		}
	}
	if math.Abs(best.MM-mm) > stampTolMM {
		return ""
	}
	return best.Name
}

// Thread is a standard thread of ports and tube nuts.
type Thread struct {
	ID         string  `json:"id"`
	DiameterMM float64 `json:"diameter_mm"` // major, of the male thread
	PitchMM    float64 `json:"pitch_mm"`
	Seat       string  `json:"seat"` // the seat it usually goes with
	Tube       string  `json:"tube"` // the tube it usually holds
}

// Threads are the common ones. Source: SAE J512 and ISO 4038 for what they hold (from memory); M12×1 and
// the 9/16-18 of larger units common practice, no source.
var Threads = []Thread{
	{"3/8-24", 9.525, mmPerInch / 24, "inverted_flare", "3/16 in"},
	{"7/16-24", 11.1125, mmPerInch / 24, "inverted_flare", "1/4 in"},
	{"1/2-20", 12.7, mmPerInch / 20, "inverted_flare", "5/16 in"},
	{"9/16-18", 14.2875, mmPerInch / 18, "inverted_flare", "3/8 in"},
	{"M10x1", 10, 1, "bubble", "4.75 mm"},
	{"M12x1", 12, 1, "bubble", "6 mm"},
	{"M13x1.5", 13, 1.5, "bubble", "6 mm"},
}

// NearThread is a standard thread near what was measured.
type NearThread struct {
	Thread
	OffDiameterMM float64 `json:"off_diameter_mm"`
	OffPitchMM    float64 `json:"off_pitch_mm"`
	// Sure: nothing else is near, so that a calliper and a gauge settle it.
	Sure bool `json:"sure"`
}

// What a worn crest takes off a diameter, and how far a pitch gauge may be misread. Assumptions.
const (
	threadTolMM = 0.35
	pitchTolMM  = 0.06
)

// NameThread names the standard thread of a measured diameter and, where it was gauged, pitch (0: not).
// A male thread's crests measure a little under its nominal diameter, never over by much. The nearest is
// first; several are returned where the measurement cannot tell.
func NameThread(diameterMM, pitchMM float64) ([]NearThread, error) {
	if !(diameterMM > 4 && diameterMM < 40) || !(pitchMM >= 0 && pitchMM < 4) {
		return nil, fmt.Errorf(
			"match: a thread of %v mm with a pitch of %v mm: measure the crests (4 to 40 mm) and gauge the pitch, 0 where it was not gauged",
			diameterMM,
			pitchMM,
		)
	}
	out := []NearThread{}
	for _, t := range Threads {
		n := NearThread{Thread: t, OffDiameterMM: diameterMM - t.DiameterMM}
		if pitchMM > 0 {
			n.OffPitchMM = pitchMM - t.PitchMM
		}
		if n.OffDiameterMM > 0.1 || n.OffDiameterMM < -threadTolMM || math.Abs(n.OffPitchMM) > pitchTolMM {
			continue
		}
		out = append(out, n)
	}
	for i := range out {
		for j := i; j > 0 && math.Abs(out[j].OffDiameterMM) < math.Abs(out[j-1].OffDiameterMM); j-- {
			out[j], out[j-1] = out[j-1], out[j]
		}
	}
	for i := range out {
		out[i].Sure = len(out) == 1 && pitchMM > 0
	}
	return out, nil
}

// FindThread returns a thread by id, or nil.
func FindThread(id string) *Thread {
	for i := range Threads {
		if Threads[i].ID == id {
			return &Threads[i]
		}
	}
	return nil
}
