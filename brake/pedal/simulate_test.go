package pedal

import (
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"strconv"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/system"
	"geminate/brake/twin"
)

// simulations is how many vehicles each case draws; GEMINATE_PEDAL asks for more.
func simulations() int {
	if n, err := strconv.Atoi(os.Getenv("GEMINATE_PEDAL")); err == nil {
		return n
	}
	return 200
}

// vehicle draws one from the priors of section 9 with some air, and reads it as the instruments would.
func vehicle(s *system.System, r *rand.Rand, airCM3 float64, baseline bool, by string, forces []float64) Readings {
	f := fit{m: twin.New(s), baseline: baseline}
	b0 := f.m.Sweep(0).ConstantMM3
	constant, compliance := 1+f.sdConstant()*r.NormFloat64(), 1+f.sdCompliance()*r.NormFloat64()
	loss := boosterLossN * r.NormFloat64()
	sd := gaugeN
	if by == ByScale {
		sd = scaleN
	}
	in := Readings{Baseline: baseline}
	for _, force := range forces {
		d := f.m.Sweep(math.Max(0, f.m.OutputForceN(f.m.RodForceN(force), false)+loss))
		v := b0*constant + d.ElasticMM3*compliance + airCM3*1000*d.MeanMPA/(d.MeanMPA+f.m.AtmosphereMPA())
		travel := v/f.m.AreaMM2()*f.m.PedalRatio() + ruleMM*r.NormFloat64()
		in.Readings = append(in.Readings, Reading{PedalForceN: math.Round(force + sd*r.NormFloat64()), TravelMM: math.Max(0, travel), By: by})
	}
	return in
}

// How-it-computes, section 9: the 90 % interval covers 88 to 92 of 100, of 100 sound vehicles at most two are said to have
// air, and none with more than 2 cm³ is called clear. Run longer with GEMINATE_PEDAL=5000.
func TestTheFitIsHonestOverVehiclesDrawnFromItsPriors(t *testing.T) {
	n := simulations()
	for _, c := range []struct {
		pattern  string
		baseline bool
		by       string
	}{{"pickup-front-rear-vacuum", false, ""}, {"pickup-front-rear-vacuum", true, ""}, {"car-diagonal-vacuum", false, ByScale}, {"special-manual", true, ByScale}} {
		name := fmt.Sprint(c.pattern, " baseline ", c.baseline, " ", c.by)
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			s := pattern(t, c.pattern)
			forces := []float64{150, 230, 310, 390}
			var mu sync.Mutex
			var wait sync.WaitGroup
			covered, drawn, falseAir, wrongClear := 0, 0, 0, 0
			for hand := range uint64(2) {
				wait.Go(func() {
					r := rand.New(rand.NewPCG(hand, 9))
					for range n / 2 {
						// With the air its prior gives it, as the interval supposes; and with none.
						air := math.Abs(priorAirMM3/1000) * math.Abs(r.NormFloat64())
						airy, err := Estimate(s, vehicle(s, r, air, c.baseline, c.by, forces))
						assert.NoError(t, err)
						sound, err := Estimate(s, vehicle(s, r, 0, c.baseline, c.by, forces))
						assert.NoError(t, err)
						mu.Lock()
						if airy.IntervalCM3 != nil {
							drawn++
							if airy.IntervalCM3[0] <= air && air <= airy.IntervalCM3[1] {
								covered++
							}
						}
						if airy.Verdict == Clear && air > 2 {
							wrongClear++
						}
						if sound.Verdict == Air {
							falseAir++
						}
						mu.Unlock()
					}
				})
			}
			wait.Wait()
			require.Greater(t, drawn, n/2)
			share := float64(covered) / float64(drawn)
			// Three standard errors of so many draws on top of the two points either way.
			slack := 0.02 + 3*math.Sqrt(0.09/float64(drawn))
			assert.InDelta(t, 0.90, share, slack, "covered")
			assert.LessOrEqual(t, float64(falseAir)/float64(n), 0.02+3*math.Sqrt(0.0196/float64(n)), "sound vehicles said to have air")
			assert.Zero(t, wrongClear)
			t.Logf("covered %.3f of %d, false air %.3f", share, drawn, float64(falseAir)/float64(n))
		})
	}
}
