package match

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func studs(mm, half float64) Unit {
	u := Unit{StudSpacingMM: &mm, Studs: 2}
	if half > 0 {
		u.ByPhoto = map[PhotoField]float64{PhotoStuds: half}
	}
	return u
}

// A figure by a picture is told the same or apart only where its whole interval lies on one side of the tolerance of
// half a millimetre; else which caliper reading would tell.
func TestAPhotoTellsWhatItCan(t *testing.T) {
	for _, c := range []struct {
		old, unit Unit
		verdict   Verdict
		code      string
	}{
		{studs(80, 0), studs(80.4, 0), Same, "match.same_mm"},
		{studs(80, 0.4), studs(80.1, 0), Same, "match.same_mm"},
		{studs(80, 0.4), studs(80.2, 0), Unknown, "match.photo_old"},
		{studs(80, 0), studs(80.8, 0.5), Unknown, "match.photo_new"},
		{studs(80, 0.4), studs(80.8, 0.5), Unknown, "match.photo_new"},
		{studs(81.9, 0.5), studs(85, 0), DoesNotFit, "match.mounting.spacing"},
		{studs(80, 6), studs(85, 0), Unknown, "match.photo_old"},
	} {
		p := compareMounting(c.old, c.unit)
		assert.Equal(t, c.verdict, p.Verdict, "%v %v", p.Code, p.With)
		assert.Equal(t, c.code, p.Code)
	}
	s := pickup(t)
	wide, bolts := 100.0, 100.8
	o, n := Unit{Kind: VacuumBooster, Booster: &BoosterSpec{FirewallSpacingMM: &wide, FirewallStuds: 4, ShellMM: &wide}},
		Unit{Kind: VacuumBooster, Booster: &BoosterSpec{FirewallSpacingMM: &bolts, FirewallStuds: 4, ShellMM: &bolts}}
	verdict := func() map[string]Verdict {
		out := map[string]Verdict{}
		for _, p := range Compare(s, o, n).Points {
			out[p.ID] = p.Verdict
		}
		return out
	}
	assert.Equal(t, Same, verdict()["firewall"])
	o.ByPhoto = map[PhotoField]float64{PhotoFirewall: 0.5, PhotoShell: 6}
	assert.Equal(t, Unknown, verdict()["firewall"])
	assert.Equal(t, Unknown, verdict()["shell"])
}

// One of 85 for one of 80 is never called the same, in ten thousand, however wide the picture's interval and however
// far off in it.
func TestEightyFiveIsNeverEighty(t *testing.T) {
	r := rand.New(rand.NewPCG(85, 80))
	for range 10000 {
		half := 0.1 + 8*r.Float64()
		read := 80 + half/2*r.NormFloat64()
		assert.NotEqual(t, Same, compareMounting(studs(read, half), studs(85, 0)).Verdict, "%.2f ± %.2f", read, half)
	}
}

func TestAWronglyToldPhotoFigure(t *testing.T) {
	for _, u := range []Unit{
		{ByPhoto: map[PhotoField]float64{PhotoStuds: 0.4}}, // of a figure that is not there
		studs(80, 99),
		{StudSpacingMM: studs(80, 0).StudSpacingMM, ByPhoto: map[PhotoField]float64{"bore_mm": 0.2}},
	} {
		faults := CheckUnit(&u)
		require.NotEmpty(t, faults)
		assert.Equal(t, "fault.not_by_photo", faults[0].Code)
	}
	good := studs(80, 0.4)
	assert.Empty(t, CheckUnit(&good))
}
