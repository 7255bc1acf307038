package bleed

import (
	"fmt"
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/ledger"
	"geminate/brake/system"
)

// play runs a plan on a ledger of its own and tells what the reservoir came to on the way.
type play struct {
	t       *testing.T
	s       *system.System
	l       *ledger.Ledger
	o       Options
	at      string
	through map[string]float64
}

func (p *play) within(circuit string) {
	level, full, lowest := p.l.Level(circuit)
	require.GreaterOrEqual(p.t, level, keepCM3(full, lowest)-1e-6, "%s: under what is kept", p.at)
	require.LessOrEqual(p.t, level, full+1e-6, "%s: over the brim", p.at)
}

func (p *play) wheel(w Wheel, last float64) {
	moved := 0.0
	portion := w.StrokeCM3
	if portion == 0 {
		portion = portionCM3
	}
	for n := 0; moved < w.VolumeCM3-last-1e-9; n++ {
		for _, r := range w.RefillsAfterStroke {
			if r == n {
				require.NoError(p.t, p.l.Fill(nil))
			}
		}
		for _, at := range w.RefillsAfterCM3 {
			if math.Abs(at-moved) < 1e-6 {
				require.NoError(p.t, p.l.Fill(nil))
			}
		}
		for _, at := range w.DrawDownsAfterCM3 {
			if math.Abs(at-moved) < 1e-6 {
				require.NoError(p.t, drawDown(p.s, p.l, w.Circuit))
			}
		}
		if p.o.Method == Reverse {
			require.NoError(p.t, p.l.Push(w.ID, portion))
		} else {
			require.NoError(p.t, p.l.Draw(w.ID, portion))
		}
		moved += portion
		p.within(w.Circuit)
	}
	p.through[w.ID] += moved
}

func drained(t *testing.T, s *system.System) *ledger.Ledger {
	t.Helper()
	l := ledger.New(s)
	require.NoError(t, l.Drain(nil))
	require.NoError(t, l.Fill(nil))
	return l
}

// How-it-computes, section 8: over patterns × methods × reservoirs × temperatures a plan keeps the reservoir between
// what is kept and the brim, reaches the target at every wheel, and one stroke less would miss it.
func TestPlansAreProvenByTheLedger(t *testing.T) {
	plans := 0
	for _, pattern := range system.Patterns {
		for _, reservoir := range []float64{0.4, 1, 2} {
			for _, o := range []Options{
				{Method: Pedal, StrokeMM: 13}, {Method: Bottle, StrokeMM: 8}, {Method: Pressure, DriveKPA: 100}, {Method: Vacuum, DriveKPA: 70},
				{Method: Gravity, HeadMM: 400}, {Method: Reverse, DriveKPA: 60},
			} {
				for _, temperature := range []float64{-5, 20} {
					s := pattern.Build()
					if s.Reservoir != nil {
						s.Reservoir.FullCM3 *= reservoir
						s.Reservoir.LowestPortCM3 *= reservoir
						for c := range s.Reservoir.Circuits {
							s.Reservoir.Circuits[c] *= reservoir
						}
					}
					o.TemperatureC, o.OldFraction, o.Order, o.Purpose = temperature, 0.1, Longest, ForBoth
					at := fmt.Sprint(pattern.ID, " ", reservoir, " ", o.Method, " ", temperature)
					p, err := Make(&s, o)
					if err != nil {
						assert.Regexp(t, "feed bottle|residual", err.Error(), at)
						continue
					}
					plans++
					run := play{t, &s, drained(t, &s), o, at, map[string]float64{}}
					for _, w := range p.Wheels {
						portion := w.StrokeCM3
						if portion == 0 {
							portion = portionCM3
						}
						before := run.l.Clone()
						less := portion
						if o.Method.Strokes() { // the openings after what is certain are for the looks
							assert.Equal(t, *w.Certain+clearLooks-1, w.Strokes, at)
							less *= clearLooks
						}
						run.wheel(w, less)
						short := !Reached(run.l, w.ID, 0.1) || w.VolumeCM3-less < w.PathCM3
						assert.True(t, short, "%s %s: one portion less would do", at, w.ID)
						run.l = before
						run.wheel(w, 0)
						assert.True(t, Reached(run.l, w.ID, 0.1), "%s %s: %v of old left", at, w.ID, run.l.Leaving(w.ID))
					}
				}
			}
		}
	}
	assert.Greater(t, plans, 300)
}

// Found: with the old fluid in the reservoir the first two wheels of a pickup were "flushed" with it.
func TestAPlanThatLeavesTheOldFluidShowsWhatItCosts(t *testing.T) {
	s := load(t, "pickup-front-rear-vacuum")
	fresh, err := Make(s, pedal())
	require.NoError(t, err)
	o := pedal()
	o.Start = ledger.New(s)
	old, err := Make(s, o)
	require.NoError(t, err)
	assert.Greater(t, old.Wheels[0].Strokes, 2*fresh.Wheels[0].Strokes)
	assert.Greater(t, old.TotalCM3, fresh.TotalCM3+300)
	// Common practice, no source: one to two quarts for a pickup, reservoir included.
	assert.InDelta(t, 1000, fresh.PouredCM3, 400)
}

// Found: after a caliper three openings do, not an exchange.
func TestAirAtOneWheelTakesAFewOpenings(t *testing.T) {
	s := load(t, "pickup-front-rear-vacuum")
	o := pedal()
	w := s.Wheel("LF")
	o.Purpose, o.Wheels, o.LeastCM3 = ForAir, []string{"LF"}, map[string]float64{"LF": w.HoseCM3() + 10}
	p, err := Make(s, o)
	require.NoError(t, err)
	require.Equal(t, []string{"LF"}, p.Order)
	assert.InDelta(t, 3, p.Wheels[0].Strokes, 1)
	o.LeastCM3 = map[string]float64{"LF": 1}
	p, err = Make(s, o)
	require.NoError(t, err)
	assert.Equal(t, clearLooks, p.Wheels[0].Strokes, "clear twice in a row")
}

// Found: a reservoir smaller than a stroke could never be bled.
func TestAReservoirSmallerThanAStrokeTakesAFeedBottle(t *testing.T) {
	s := load(t, "pickup-front-rear-vacuum")
	s.Reservoir.FullCM3, s.Reservoir.LowestPortCM3 = 8, 2
	o := pedal()
	_, err := Make(s, o)
	require.ErrorContains(t, err, "feed bottle")
	o.FeedBottle = true
	p, err := Make(s, o)
	require.NoError(t, err)
	assert.Positive(t, p.Wheels[0].Strokes)
	assert.Empty(t, p.Wheels[0].RefillsAfterStroke)
	o.FeedBottle, o.StrokeMM = false, 6
	_, err = Make(s, o)
	assert.NoError(t, err, "or shorter strokes")
}

func offerOf(t *testing.T, offers []Offer, id Method) Offer {
	t.Helper()
	for _, o := range offers {
		if o.ID == id {
			return o
		}
	}
	t.Fatal(id)
	return Offer{}
}

// How trade has it (9.1, common practice, no source), each reason by name.
func TestMethodsSayWhenTheyAreNoWay(t *testing.T) {
	at := func(pattern string, change func(*system.System, *Options), means Means) []Offer {
		s := load(t, pattern)
		o := pedal()
		o.HeadMM, o.DriveKPA = 450, 45
		if change != nil {
			change(s, &o)
		}
		return Offers(s, o, means)
	}
	all := Means{Hands: 2}
	why := func(offers []Offer, id Method) string { return offerOf(t, offers, id).Why }
	pickup := at("pickup-front-rear-vacuum", nil, all)
	assert.True(t, pickup[0].Best && pickup[0].Fit)
	assert.Equal(t, "method_why.no_routine", why(pickup, ScanTool))
	assert.True(t, offerOf(t, pickup, Pedal).Fit)
	alone := at("pickup-front-rear-vacuum", nil, Means{Hands: 1, Tools: []string{}})
	assert.Equal(t, "method_why.hands", why(alone, Pedal))
	assert.Equal(t, "method_why.tool", why(alone, Vacuum))
	assert.Equal(t, "method_why.below", why(at("special-manual", func(_ *system.System, o *Options) { o.HeadMM = -100 }, all), Gravity))
	hybrid := at("hybrid-electro-hydraulic", nil, all)
	assert.Equal(t, ScanTool, hybrid[0].ID)
	assert.Equal(t, "method_why.tool_leads", why(hybrid, Pedal))
	trailer := at("trailer-surge", nil, Means{Hands: 1})
	assert.True(t, offerOf(t, trailer, Pedal).Fit, "a bar strokes the coupler")
	assert.NotContains(t, offerOf(t, trailer, Pedal).Cautions, "never_lift_open", "nobody's foot is there to lift")
	assert.Equal(t, "method_why.no_pedal", why(trailer, HoldHard))
	// Found: gravity on a medium truck in the cold takes hours, and nobody said "not this way".
	cold := at("truck-hydraulic", func(_ *system.System, o *Options) { o.TemperatureC = -5 }, all)
	assert.Equal(t, "method_why.too_slow", why(cold, Gravity))
	assert.Greater(t, offerOf(t, cold, Gravity).LongestMinutes, 30.0)
	residual := at("special-manual", func(s *system.System, o *Options) {
		r := 0.07
		s.Circuits[1].ResidualMPA = &r
		o.Method = Reverse
	}, all)
	assert.Equal(t, "method_why.residual", why(residual, Reverse))
	dirty := at("car-diagonal-vacuum", func(s *system.System, o *Options) {
		s.Modulator, o.DirtyUp = &system.Modulator{Kind: "abs", VolumeCM3: 20}, true
	}, all)
	assert.Equal(t, "method_why.dirty_into_modulator", why(dirty, Reverse))
}

// Each method's minutes, by hand from its stated assumptions.
func TestMinutesFollowFromTheAssumptions(t *testing.T) {
	s := load(t, "pickup-front-rear-vacuum")
	o := pedal()
	w := s.Wheel("RR")
	stroke, err := StrokeCM3(s, "B", 15)
	require.NoError(t, err)
	for m, want := range map[Method]float64{Pedal: 1 + 10*10./60, HoldHard: 1 + 10*7./60, Bottle: 2 + 10*3./60} {
		got, carries := wheelMinutes(s, w, o.with(m), 10*stroke)
		assert.InDelta(t, want, got, 1e-9, m)
		assert.True(t, carries)
	}
	v := o.with(Vacuum)
	got, _ := wheelMinutes(s, w, v, 510)
	assert.InDelta(t, 1+510/FlowCM3S(s, w, v)/60+2*30./60, got, 1e-9, "two pots")
	o.OwnSeconds = map[Method]float64{Pedal: 6}
	got, _ = wheelMinutes(s, w, o, 10*stroke)
	assert.InDelta(t, 1+10*6./60, got, 1e-9, "the shop's own")
}

func BenchmarkPlan(b *testing.B) {
	s, err := system.FromPattern("pickup-front-rear-vacuum")
	if err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		if _, err := Make(s, pedal()); err != nil {
			b.Fatal(err)
		}
	}
}

// How trade has it, no source: who and what each way of bleeding takes.
func TestWhatEachWayTakes(t *testing.T) {
	for id, want := range map[Method]struct {
		hands  int
		tool   string
		counts Counts
		calls  bool
	}{
		Pedal: {2, "", CountOpenings, true}, HoldHard: {2, "", CountOpenings, true}, Bottle: {1, ToolBottle, CountStrokes, false}, Pressure: {1, ToolPressure, CountCM3, false},
		Vacuum: {1, ToolVacuum, CountPots, false}, Gravity: {1, "", CountCM3, false}, Reverse: {1, ToolSyringe, CountSyringes, false},
	} {
		i := slices.IndexFunc(Entries, func(e Entry) bool { return e.ID == id })
		require.GreaterOrEqual(t, i, 0, id)
		e := Entries[i]
		assert.Equal(t, want.hands, e.Hands, id)
		assert.Equal(t, want.tool, e.Tool, id)
		assert.Equal(t, want.counts, e.Counts, id)
		assert.Equal(t, want.calls, e.Calls, id)
	}
	assert.True(t, ForAir.airs())
	assert.True(t, ForBoth.airs())
	assert.False(t, ForExchange.airs())
	// Only a unit the tool leads needs a charger on the battery while it is bled.
	for pattern, led := range map[string]bool{"hybrid-electro-hydraulic": true, "pickup-front-rear-vacuum": false} {
		s := load(t, pattern)
		steps := Programme(s, []string{s.Wheels[0].ID}, With{})
		assert.Equal(t, led,
			slices.ContainsFunc(steps, func(st Step) bool { return st.ID == StepCharger && st.Tool == "battery_charger" }),
			pattern)
	}
}
