package job

import (
	"math"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/match"
	"geminate/brake/trace"
	"geminate/brake/verify"
)

func drew(finding string) *Traced {
	return &Traced{
		Finding: finding,
		Seconds: 50,
		Channels: []Channel{
			{Of: Measured{ID: "i", Name: "Rule", Kind: trace.Travel}, Buckets: []trace.Bucket{{S: 1, Min: 1, Max: 2, Mean: 1.5, N: 9}}},
		},
		Came: &trace.Came{Sink: &trace.Sunk{MM: 1, Seconds: 45}, ForceN: 300},
	}
}

// A trace is kept with the job, the last of each finding; undone it is gone; a hold that names a trace is timed only
// where the trace is there; out of date is said of the day it was read.
func TestTracesAreKept(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	j.add(t, drew("pedal.sink"))
	j.add(t, drew("pedal.readings"))
	e := j.add(t, drew("pedal.sink"))
	require.Len(t, j.State.Traces, 2)
	assert.Equal(t, e.ID, j.State.Traces[1].ID)
	hold := &FindingMade{
		Phase:    PhaseVerify,
		Finding:  "pedal.sink",
		Value:    []byte(`{"pedal_force_n":300,"travel_mm":1,"seconds":45,"engine":"on"}`),
		Measured: &Measured{ID: "i", Name: "Rule", Kind: trace.Travel, HoldsUntil: "2020-01-01", Trace: "no such trace"},
	}
	assert.ErrorContains(t, j.tell(mara, hold), "no_such_trace")
	typed := *hold
	typed.Measured = nil
	j.add(t, &typed)
	assert.False(t, j.HoldTimed())
	named := *hold
	named.Measured = &Measured{ID: "i", Name: "Rule", Kind: trace.Travel, Trace: e.ID}
	j.add(t, &named)
	assert.True(t, j.HoldTimed())
	assert.True(t, hold.Measured.OutOfDate(time.Date(2020, 1, 2, 0, 0, 0, 0, time.UTC)))
	assert.False(t, hold.Measured.OutOfDate(time.Date(2020, 1, 1, 23, 0, 0, 0, time.UTC)))
	for name, bad := range map[string]*Traced{"nothing": {}, "no channel": {Finding: "x"}, "no bucket": {Finding: "x", Channels: []Channel{{Of: Measured{Kind: trace.Force}}}}} {
		require.Error(t, j.tell(mara, bad), name)
	}
	assert.Error(t,
		j.tell(mara, &FindingMade{Phase: PhaseVerify, Finding: "pedal.sink", Value: hold.Value, Measured: &Measured{Kind: "thumb"}}))
	many := drew("x")
	for range BucketsMost {
		many.Channels[0].Buckets = append(many.Channels[0].Buckets, trace.Bucket{})
	}
	require.Error(t, j.tell(mara, many))
	assert.Equal(t, j.State.Traces, Replay(j.ID, began, j.Events).State.Traces)
}

// A finding taken from a trace is what the trace says, of one of the instruments that drew it; a pedal that came up is
// no hold.
func TestOneFindingOneSource(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	e := j.add(t, drew("pedal.sink"))
	tell := func(value string, m Measured) error {
		return j.tell(mara, &FindingMade{Phase: PhaseVerify, Finding: "pedal.sink", Value: []byte(value), Measured: &m})
	}
	rule := Measured{ID: "i", Name: "Rule", Kind: trace.Travel, Trace: e.ID}
	good := `{"pedal_force_n":300,"travel_mm":1,"seconds":45,"engine":"on"}`
	other := rule
	other.ID = "k"
	hot := rule
	hot.Kind = trace.Thermometer
	assert.ErrorContains(t, tell(`{"pedal_force_n":300,"travel_mm":0.5,"seconds":45,"engine":"on"}`, rule), "trace_says_else")
	assert.ErrorContains(t, tell(`{"pedal_force_n":300,"travel_mm":1,"seconds":300,"engine":"on"}`, rule), "trace_says_else")
	assert.ErrorContains(t, tell(`{"pedal_force_n":450,"travel_mm":1,"seconds":45,"engine":"on"}`, rule), "trace_says_else")
	assert.ErrorContains(t, tell(good, other), "measured_else")
	assert.ErrorContains(t, tell(good, hot), "measured_kind")
	require.NoError(t, tell(good, rule))
	rises := drew("pedal.sink")
	rises.Came.Under = &trace.Under{Rises: true}
	rule.Trace = j.add(t, rises).ID
	assert.ErrorContains(t, tell(good, rule), "trace_rises")
}

// A wrench tells a joint by as many clicks as it has fasteners, each in its range; figures by hand need none.
func TestEachFastenerClicks(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	j.doUntil(t, "fit.cylinder_nuts")
	nm := 26.0
	told := func(clicks ...float64) error {
		tick := &Ticked{
			Step:       "fit.cylinder_nuts",
			TorqueNM:   &nm,
			TorqueUnit: "N·m",
			Measured:   &Measured{ID: "w", Name: "Wrench", Kind: trace.Torque},
		}
		for _, x := range clicks {
			tick.Clicks = append(tick.Clicks, Click{NM: x, At: j.now()})
		}
		return j.tell(mara, tick)
	}
	assert.ErrorContains(t, told(26), "fault.clicks")
	assert.ErrorContains(t, told(26, 60), "fault.clicks", "one of them over its range")
	require.NoError(t, told(26, 25.5))
	assert.Len(t, j.State.Ticks["fit.cylinder_nuts"].Clicks, 2)
}

// A socket laid on the scale finishes no wheel: more than a piston holds is kept as doubtful, and what moved is what
// was counted. A scale that is late by a stroke differs from nothing.
func TestWhatTheScaleCannotHaveSeen(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.BleedOnly)
	weigh := func(grams float64) *BleedStroked {
		j.wait += 20
		e := j.add(
			t,
			&BleedStroked{
				Wheel:   "RR",
				Strokes: 1,
				Weighed: &Weighed{Grams: grams, By: Measured{ID: "s", Name: "Scale", Kind: trace.Scale}},
			},
		)
		return e.Body.(*BleedStroked)
	}
	counted := weigh(4)
	per := counted.Weighed.CountedCM3
	for _, grams := range []float64{90, 310, 150} {
		b := weigh(grams)
		assert.True(t, b.Weighed.Doubtful, grams)
		assert.InDelta(t, per, b.CM3, 1e-9)
	}
	v, err := j.Bleed()
	require.NoError(t, err)
	assert.InDelta(t, 150, v.Wheels["RR"].DoubtfulG, 1e-9)
	assert.False(t, v.RanDry)
	late := newJob(t, "pickup-front-rear-vacuum", match.BleedOnly)
	j = late
	for k := range 12 { // nothing at the first stroke, each stroke's at the next
		grams := per * 1.06
		if k == 0 {
			grams = 0
		}
		assert.False(t, weigh(grams).Weighed.Doubtful)
	}
	v, err = j.Bleed()
	require.NoError(t, err)
	assert.False(t, v.Wheels["RR"].Disagrees)
	assert.Error(
		t,
		j.tell(mara,
			&BleedStroked{Wheel: "RR", Strokes: 1, Weighed: &Weighed{Grams: 4, By: Measured{ID: "s", Name: "S", Kind: trace.Thermometer}}}),
	)
}

// What was read with an instrument out of date is asked about at the gate, and nothing else is: whoever lets it stand
// says so, and a reading typed over it, or taken with another, asks nothing.
func TestAnInstrumentOutOfDateIsAskedAbout(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.BleedOnly)
	old := Measured{ID: "i", Name: "Rule", Kind: trace.Travel, HoldsUntil: "2020-01-01"}
	pump := func(m *Measured) *FindingMade {
		return &FindingMade{
			Phase:    PhaseVerify,
			Finding:  verify.Pump,
			Value:    []byte(`{"first_mm":110,"second_mm":110,"fourth_mm":110}`),
			Measured: m,
		}
	}
	state := func() verify.Item {
		g, err := j.Gate()
		require.NoError(t, err)
		for _, i := range g.Items {
			if i.ID == verify.Pump {
				return i
			}
		}
		t.Fatal("no such item")
		return verify.Item{}
	}
	j.add(t, pump(nil))
	typed := state()
	j.add(t, pump(&old))
	if asked := state(); typed.State == verify.OK {
		assert.Equal(t, verify.Missing, asked.State)
		assert.Equal(t, "gate.out_of_date", asked.Code)
		assert.Equal(t, "Rule", asked.With["name"])
	} else {
		assert.Equal(t, typed, asked)
	}
	let := old
	let.WillDo = true
	j.add(t, pump(&let))
	assert.Equal(t, typed.State, state().State)
	good := old
	good.HoldsUntil = "2999-01-01"
	j.add(t, pump(&good))
	assert.Equal(t, typed.State, state().State)
	require.Equal(t, verify.OK, typed.State, "the case is one where the date alone decides")
}

// Weighed strokes move what the scale says and not what they count to: by hand, 5.3 g of glycol fluid at 20 °C are 5
// cm³. Where the two differ by more than a stroke it is told. A replay says the same; nonsense on the scale is refused.
func TestStrokesAreWeighed(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.BleedOnly)
	j.add(t, &Filled{})
	scale := Measured{ID: "s", Name: "Scale", Kind: trace.Scale}
	e := j.add(t, &BleedStroked{Wheel: "RR", Strokes: 1, Weighed: &Weighed{Grams: 5.3, By: scale}})
	counted := e.Body.(*BleedStroked).Weighed.CountedCM3
	require.Greater(t, counted, 1.0)
	assert.InDelta(t, 5, j.State.BleedCM3["RR"], 1e-9)
	v, err := j.Bleed()
	require.NoError(t, err)
	assert.InDelta(t, 5, v.Wheels["RR"].WeighedCM3, 1e-9)
	assert.InDelta(t, counted, v.Wheels["RR"].CountedCM3, 1e-9)
	assert.Equal(t, math.Abs(5-counted) > counted, v.Wheels["RR"].Disagrees)
	for range 3 { // the bleeder was shut: three strokes brought nothing
		j.add(t, &BleedStroked{Wheel: "RR", Strokes: 1, Weighed: &Weighed{Grams: 0, By: scale}})
	}
	v, err = j.Bleed()
	require.NoError(t, err)
	assert.True(t, v.Wheels["RR"].Disagrees)
	assert.InDelta(t, 5, v.Wheels["RR"].TotalCM3, 1e-9, "what did not come has not gone through")
	assert.InDelta(t, 0, j.State.Wheels["LF"].WeighedCM3, 0)
	assert.Equal(t, j.State.Wheels, Replay(j.ID, began, j.Events).State.Wheels)
	for _, bad := range []*Weighed{{Grams: -1, By: scale}, {Grams: 1e9, By: scale}, {Grams: 5, By: Measured{Kind: "thumb"}}} {
		require.Error(t, j.tell(mara, &BleedStroked{Wheel: "RR", Weighed: bad}))
	}
	warm := 60.0
	assert.Greater(t, (&Weighed{Grams: 100, Celsius: &warm}).CM3("DOT 4"), (&Weighed{Grams: 100}).CM3("DOT 4"))
	assert.Greater(t, (&Weighed{Grams: 100}).CM3("DOT 5"), (&Weighed{Grams: 100}).CM3("DOT 4"))
}
