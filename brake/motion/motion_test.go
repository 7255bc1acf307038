package motion_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/motion"
	"geminate/brake/system"
	"geminate/brake/trace"
	"geminate/ground/felt"
)

func samples(in []felt.Reading) []motion.Sample {
	var out []motion.Sample
	for _, r := range in {
		out = append(out, motion.Sample(r))
	}
	return out
}

func sensor(seed uint64) felt.Sensor {
	r := rand.New(rand.NewPCG(seed, 8))
	return felt.Sensor{HZ: 60, Noise: 0.02, Seed: seed, Scale: 1 + 0.004*r.NormFloat64(),
		Bias: [3]float64{0.03 * r.NormFloat64(), 0.03 * r.NormFloat64(), 0.03 * r.NormFloat64()}}
}

func refusedFor(t *testing.T, code string, err error) {
	t.Helper()
	var r *motion.Refused
	if assert.ErrorAs(t, err, &r, code) {
		assert.Equal(t, code, r.Code)
	}
}

// Tilt, by made gravity with a noise of 0.02 m/s²: within 0.3° in two seconds once zeroed, whichever way it is rolled;
// the interval says half a degree (assumption: what a zero on the spot leaves).
func TestTilt(t *testing.T) {
	for seed := range uint64(200) {
		r := rand.New(rand.NewPCG(seed, 2))
		want, slope, roll := 24*r.Float64()-12, 6*r.Float64()-3, 20*r.Float64()-10
		s := sensor(seed)
		got, err := motion.TiltOf(motion.TiltIn{Samples: samples(s.Lying(2, want+slope, roll)), Zero: samples(s.Lying(2, slope, roll))})
		require.NoError(t, err)
		assert.InDelta(t, want, got.Deg, 0.3)
		assert.LessOrEqual(t, got.LowDeg, want)
		assert.GreaterOrEqual(t, got.HighDeg, want)
		assert.InDelta(t, 0.5, (got.HighDeg-got.LowDeg)/2, 0.05)
		assert.InDelta(t, 0.02/9.81*180/math.Pi, got.SpreadDeg, 0.05)
	}
	s := sensor(1)
	_, err := motion.TiltOf(motion.TiltIn{Samples: samples(s.Lying(0.5, 3, 0))})
	refusedFor(t, "motion.short", err)
	s.Noise = 0.6 // in a hand
	_, err = motion.TiltOf(motion.TiltIn{Samples: samples(s.Lying(2, 3, 0))})
	refusedFor(t, "motion.moving", err)
	moved := append(samples(sensor(2).Lying(1, 0, 0)), motion.Sample{})
	for _, a := range samples(sensor(2).Lying(1, 4, 0)) {
		a.S += 1.01
		moved = append(moved, a)
	}
	_, err = motion.TiltOf(motion.TiltIn{Samples: moved})
	refusedFor(t, "motion.moving", err)
	weightless := samples(sensor(3).Lying(2, 0, 0))
	for i := range weightless {
		weightless[i].Z -= 9
	}
	_, err = motion.TiltOf(motion.TiltIn{Samples: weightless})
	refusedFor(t, "motion.no_gravity", err)
	weightless[4].X = math.NaN()
	_, err = motion.TiltOf(motion.TiltIn{Samples: weightless})
	var faults system.Faults
	require.ErrorAs(t, err, &faults)
}

// Travel at an arm of 300 mm: half an interval of at most 0.8 mm (the aim), and the truth in it; however the phone is
// strapped and whichever way the arm hangs. Down is down.
func TestTravel(t *testing.T) {
	held := 0
	for seed := range uint64(100) {
		r := rand.New(rand.NewPCG(seed, 4))
		want := 20 + 70*r.Float64()
		in := motion.TravelIn{
			RadiusMM: 300,
			Samples: samples(sensor(seed).Pedal(9, 300, 40*r.Float64()-20, 90*r.Float64(), func(s float64) float64 {
				return want * math.Max(0, math.Min(1, s-3))
			})),
		}
		got, err := motion.TravelOf(in)
		require.NoError(t, err)
		assert.LessOrEqual(t, (got.HighMM-got.LowMM)/2, 0.8+0.004*want, "of %.0f mm", want)
		if got.LowMM <= want && want <= got.HighMM {
			held++
		}
		assert.InDelta(t, 0, got.Travel[3].V, 1.2)
	}
	assert.GreaterOrEqual(t, held, 92)
	flat := func(float64) float64 { return 0 }
	_, err := motion.TravelOf(motion.TravelIn{RadiusMM: 300, Samples: samples(sensor(1).Pedal(6, 300, 10, 0, flat))})
	refusedFor(t, "motion.nothing_moved", err)
	upright := 6.0
	_, err = motion.TravelOf(motion.TravelIn{RadiusMM: 300, AxisDeg: &upright, Samples: samples(sensor(1).Pedal(6, 300, 10, 0, flat))})
	refusedFor(t, "motion.upright", err)
	_, err = motion.TravelOf(motion.TravelIn{RadiusMM: 300})
	refusedFor(t, "motion.short", err)
	_, err = motion.TravelOf(motion.TravelIn{RadiusMM: 3})
	var faults system.Faults
	require.ErrorAs(t, err, &faults)
	_, err = motion.TravelOf(motion.TravelIn{
		RadiusMM: 300,
		Samples: samples(sensor(1).Pedal(6, 300, 10, 0, func(s float64) float64 {
			return 40 * math.Sin(3*s) // a foot on it while it was to rest
		})),
	})
	refusedFor(t, "motion.moving", err)
}

// It is a trace as any instrument's: a sink of 1 mm a minute told from none in 60 s in 90 of 100, and none told for one
// in no more than 2 of 100, under a foot whose force a gauge held steady.
func TestASinkByThePhone(t *testing.T) {
	told := func(perMin float64, n uint64) (found int) {
		for seed := range n {
			in := motion.TravelIn{
				RadiusMM: 300,
				Samples: samples(sensor(seed+uint64(1000*perMin)).Pedal(68, 300, 10, 0, func(s float64) float64 {
					return 60*math.Max(0, math.Min(1, s-2.5)) + perMin*math.Max(0, s-3.5)/60
				})),
			}
			got, err := motion.TravelOf(in)
			require.NoError(t, err)
			force := trace.Series{}
			r := rand.New(rand.NewPCG(seed, 6))
			for _, p := range got.Travel {
				force = append(force, trace.Sample{S: p.S, V: 200*math.Max(0, math.Min(1, p.S-2.5)) + 0.5*r.NormFloat64()})
			}
			came, err := trace.Read(trace.FindSink, map[trace.Kind]trace.Series{trace.Travel: got.Travel, trace.Force: force},
				trace.Pedal{})
			require.NoError(t, err)
			if motion.Sinks(*came.Slope) {
				found++
			}
		}
		return found
	}
	assert.GreaterOrEqual(t, told(1, 100), 90)
	assert.LessOrEqual(t, told(0, 100), 2)
}

// Stops from 25 km/h on a slope of up to 3 % either way, in a mount that is tilted by up to 10° and turned any way:
// deceleration within 5 % (the aim) and in its interval; 0.8 m/s² to a side is told, a road that falls to one side is
// no pull.
func TestAStop(t *testing.T) {
	const n = 200
	held := 0
	for seed := range uint64(n) {
		r := rand.New(rand.NewPCG(seed, 9))
		in := func(lo, hi float64) float64 { return lo + (hi-lo)*r.Float64() }
		run := felt.Stop{
			FromKMH:       25,
			RunUpMPS2:     in(1, 2.5),
			MPS2:          in(4, 7.5),
			BuildS:        in(0.15, 0.5),
			SlopePercent:  in(-3, 3),
			CamberPercent: in(-2, 2),
			PitchDeg:      in(-10, 10),
			RollDeg:       in(-10, 10),
			YawDeg:        in(-180, 180),
			DivePerG:      in(0, 2.2),
		}
		pull := []float64{0, 0.8, -0.8}[seed%3]
		run.RightMPS2 = pull
		got, err := motion.StopOf(motion.StopIn{Samples: samples(sensor(seed).Stop(run))})
		require.NoError(t, err, "%+v", run)
		assert.InEpsilon(t, run.MPS2, got.MFDD, 0.05, "%+v", run)
		assert.InDelta(t, 25, got.FromKMH, 1)
		assert.InDelta(t, 0.8*run.BuildS, got.BuildUpS, 0.12, "%+v", run)
		assert.Equal(t, map[float64]motion.Side{0: motion.Straight, 0.8: motion.ToRight, -0.8: motion.ToLeft}[pull], got.Pulls,
			"%+v %+v", run, got)
		if got.LowMFDD <= run.MPS2 && run.MPS2 <= got.HighMFDD {
			held++
		}
	}
	t.Logf("%d of %d held", held, n)
	assert.GreaterOrEqual(t, held, n*92/100)
}

// shaken is a recording in a hand for a while.
func shaken(x []motion.Sample, from, to int) []motion.Sample {
	out := append([]motion.Sample{}, x...)
	for i := from; i < to; i++ {
		out[i].X += 1.5 * math.Sin(float64(i))
	}
	return out
}

// A stop that is none says why: never at rest before or after, a phone that slipped, walking pace, too fast.
func TestAStopThatIsNone(t *testing.T) {
	good := felt.Stop{FromKMH: 25, RunUpMPS2: 2, MPS2: 6, BuildS: 0.2, DivePerG: 1}
	x := samples(sensor(1).Stop(good))
	_, err := motion.StopOf(motion.StopIn{Samples: x[150:]})
	refusedFor(t, "motion.slipped", err) // an even run-up feels like a slope: it lies otherwise than at the end
	_, err = motion.StopOf(motion.StopIn{Samples: x[:len(x)-100]})
	refusedFor(t, "motion.slipped", err)
	_, err = motion.StopOf(motion.StopIn{Samples: shaken(x, 0, 200)})
	refusedFor(t, "motion.no_rest_before", err)
	_, err = motion.StopOf(motion.StopIn{Samples: shaken(x, len(x)-200, len(x))})
	refusedFor(t, "motion.no_rest_after", err)
	_, err = motion.StopOf(motion.StopIn{})
	refusedFor(t, "motion.short", err)
	slipped := append([]motion.Sample{}, x...)
	for i := len(x) * 2 / 3; i < len(x); i++ {
		slipped[i].X += 2
	}
	_, err = motion.StopOf(motion.StopIn{Samples: slipped})
	refusedFor(t, "motion.slipped", err)
	for kmh, code := range map[float64]string{5: "motion.speed", 60: "motion.speed"} {
		run := good
		run.FromKMH = kmh
		_, err = motion.StopOf(motion.StopIn{Samples: samples(sensor(1).Stop(run))})
		refusedFor(t, code, err)
	}
}

// By hand: 5.5 down and 6.1 up are 5.8 on the level and a slope of (6.1 − 5.5)/2/9.81 = 3.06 %.
func TestBothWays(t *testing.T) {
	b := motion.BothWays(motion.Stop{MFDD: 5.5, LowMFDD: 5.3, HighMFDD: 5.7, SideMPS2: 0.5, SideHalfMPS2: 0.2},
		motion.Stop{MFDD: 6.1, LowMFDD: 5.9, HighMFDD: 6.3, SideMPS2: -0.4, SideHalfMPS2: 0.2})
	assert.InDelta(t, 5.8, b.MFDD, 1e-9)
	assert.InDelta(t, 3.06, b.SlopePercent, 0.01)
	assert.InDelta(t, 0.1414, b.HighMFDD-b.MFDD, 1e-3)
	assert.Equal(t, motion.Straight, b.Pulls)
}
