package pedal

import (
	"encoding/json"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/system"
	"geminate/brake/twin"
)

func pattern(t testing.TB, id string) *system.System {
	t.Helper()
	s, err := system.FromPattern(id)
	require.NoError(t, err)
	return s
}

// read gives the twin's own readings of a system with air in one circuit, engine off.
func read(s *system.System, circuit int, air float64, forces ...float64) Readings {
	c := s.Clone()
	c.Circuits[circuit].AirCM3 = air
	m := twin.New(c)
	var out Readings
	for _, f := range forces {
		out.Readings = append(out.Readings, Reading{PedalForceN: f, TravelMM: m.Travel(f, false)})
	}
	return out
}

// Source: SciPy lsq_linear on the same problem (testdata/fit.py, which names its own assumptions). The
// script linearises the booster's loss, this package integrates over it: hence the tolerance.
func TestAgainstLsqLinear(t *testing.T) {
	data, err := os.ReadFile("testdata/fit.json")
	require.NoError(t, err)
	var cases []struct {
		Pattern  string    `json:"pattern"`
		Baseline bool      `json:"baseline"`
		Readings []Reading `json:"readings"`
		Air      float64   `json:"air_cm3"`
		SD       float64   `json:"sd_cm3"`
		Used     int       `json:"used"`
	}
	require.NoError(t, json.Unmarshal(data, &cases))
	require.Len(t, cases, 9)
	for _, c := range cases {
		got, err := Estimate(pattern(t, c.Pattern), Readings{c.Readings, c.Baseline})
		require.NoError(t, err)
		assert.Equal(t, c.Used, got.Used, c.Pattern)
		assert.InDelta(t, c.Air, *got.AirCM3, 0.03+0.005*c.Air, "%s baseline %v", c.Pattern, c.Baseline)
		if c.Air > 2*c.SD { // away from zero the interval is the Gaussian's
			assert.InDelta(t, c.Air-1.645*c.SD, got.IntervalCM3[0], 0.05+0.03*c.SD, c.Pattern)
			assert.InDelta(t, c.Air+1.645*c.SD, got.IntervalCM3[1], 0.05+0.03*c.SD, c.Pattern)
		}
	}
}

// Source: the how-it-computes, section 9: under about 2 cm³ without a baseline the honest verdict is that
// it cannot be told, and what would tell is named.
func TestVerdictsAreHonest(t *testing.T) {
	forces := []float64{150, 200, 250, 300, 350, 400}
	for _, id := range []string{"pickup-front-rear-vacuum", "car-diagonal-vacuum", "special-manual"} {
		s := pattern(t, id)
		for _, c := range []struct {
			air      float64
			baseline bool
			want     string
		}{{0, false, CannotTell}, {1, false, CannotTell}, {5, false, Air}, {0, true, Clear}, {3, true, Air}} {
			in := read(s, 0, c.air, forces...)
			in.Baseline = c.baseline
			r, err := Estimate(s, in)
			require.NoError(t, err)
			assert.Equal(t, c.want, r.Verdict, "%s %v cm³ baseline %v: %v %v", id, c.air, c.baseline, *r.AirCM3, *r.IntervalCM3)
			assert.True(t, r.IntervalCM3[0] <= c.air && c.air <= r.IntervalCM3[1], "the truth lies inside: %s %v in %v", id,
				c.air, *r.IntervalCM3)
			if c.want == CannotTell {
				require.NotNil(t, r.Further, id)
				assert.Equal(t, "baseline", r.Further.Kind)
			}
		}
	}
}

// Source: arithmetic (Boyle's law at the pressure of 300 N without assist).
func TestCostIsWhatTheTwinLosesToThatAir(t *testing.T) {
	s := pattern(t, "car-front-rear-vacuum")
	r, err := Estimate(s, read(s, 0, 4, 200, 250, 300, 350))
	require.NoError(t, err)
	airy := s.Clone()
	airy.Circuits[0].AirCM3 = *r.AirCM3
	assert.InDelta(t, twin.New(airy).Travel(300, false)-twin.New(s).Travel(300, false), *r.PedalCostMM, 0.2)
}

func TestReadingsThatCannotBeUsed(t *testing.T) {
	s := pattern(t, "pickup-front-rear-vacuum")
	in := read(s, 0, 0, 20, 60, 250)
	in.Readings = append(in.Readings, Reading{PedalForceN: 300, TravelMM: s.Pedal.FloorMM})
	r, err := Estimate(s, in)
	require.NoError(t, err)
	assert.Equal(t, []LeftOut{{0, TooLight}, {1, TooLight}, {3, Floored}}, r.LeftOut)
	assert.Equal(t, 1, r.Used)
	require.NotNil(t, r.AtLeastCM3, "a pedal on the floor says at least so much")
	assert.Equal(t, Air, r.Verdict)

	r, err = Estimate(s, read(s, 0, 0, 30))
	require.NoError(t, err)
	assert.Nil(t, r.AirCM3, "no figure is better than a made-up one")
	assert.Equal(t, CannotTell, r.Verdict)
	assert.Equal(t, "reading", r.Further.Kind)

	_, err = Estimate(pattern(t, "trailer-surge"), Readings{Readings: []Reading{{PedalForceN: 300, TravelMM: 20}}})
	assert.ErrorContains(t, err, "no pedal")
}

// More travel at the same force can only mean more air, never less.
func TestMoreTravelMoreAir(t *testing.T) {
	s := pattern(t, "car-diagonal-vacuum")
	last := -1.0
	for extra := -5.0; extra < 40; extra += 5 {
		in := read(s, 0, 0, 200, 250, 300)
		for i := range in.Readings {
			in.Readings[i].TravelMM += extra
		}
		r, err := Estimate(s, in)
		require.NoError(t, err)
		assert.GreaterOrEqual(t, *r.AirCM3, last-1e-9)
		assert.LessOrEqual(t, r.IntervalCM3[0], *r.AirCM3)
		assert.GreaterOrEqual(t, r.IntervalCM3[1], *r.AirCM3)
		last = *r.AirCM3
	}
	assert.Greater(t, last, 2.0)
}

func TestReadingsFileIsReadStrictly(t *testing.T) {
	_, err := Read(strings.NewReader(`{"readings":[{"pedal_force_n":-1,"travel_mm":NaN},{"pedal_force_n":10,"travel":3}],"base":true}`))
	for _, want := range []string{"$.readings[0].pedal_force_n", "$.readings[0].travel_mm", "$.readings[1].travel_mm: fault.missing", "$.readings[1].travel: fault.unknown", "$.base: fault.unknown"} {
		assert.ErrorContains(t, err, want)
	}
	in, err := Read(strings.NewReader(`{"readings":[{"pedal_force_n":100,"travel_mm":30}]}`))
	require.NoError(t, err)
	assert.False(t, in.Baseline)
}

func BenchmarkEstimate(b *testing.B) {
	s := pattern(b, "pickup-front-rear-vacuum")
	in := read(s, 0, 3, 150, 200, 250, 300, 350, 400)
	for b.Loop() {
		if _, err := Estimate(s, in); err != nil {
			b.Fatal(err)
		}
	}
}

func FuzzEstimate(f *testing.F) {
	f.Add(`{"readings":[{"pedal_force_n":200,"travel_mm":60}]}`)
	f.Add(`{"readings":[{"pedal_force_n":0,"travel_mm":0},{"pedal_force_n":5000,"travel_mm":500}],"baseline":true}`)
	s := pattern(f, "car-diagonal-vacuum")
	f.Fuzz(func(t *testing.T, doc string) {
		in, err := Read(strings.NewReader(doc))
		if err != nil {
			return
		}
		r, err := Estimate(s, *in)
		require.NoError(t, err)
		if r.AirCM3 != nil {
			assert.True(t, r.IntervalCM3[0] >= 0 && r.IntervalCM3[0] <= *r.AirCM3 && *r.AirCM3 <= r.IntervalCM3[1], "%v %v",
				*r.AirCM3, *r.IntervalCM3)
		}
	})
}
