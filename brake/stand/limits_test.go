package stand

import (
	"encoding/json"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Assumptions (how-it-computes, section 12): the least times, each far below what a practised hand needs; a minute
// cannot hold three joints. The list is of the trade's acts, by how long each is at the least.
func TestWhatTakesHowLongAtTheLeast(t *testing.T) {
	for least, steps := range map[float64][]string{
		3:  {"safe.engine_off", "rod.as_supplied", "fit.bench_bled"},
		8:  {"prepare.chock", "safe.pump_empty", "prepare.penetrant"},
		15: {"prepare.compare_on_bench", "safe.negative_off", "safe.service_plug", "close.fill", "strip.remote_hoses"},
		30: {"safe.discharge_accumulator", "rod.measure", "fit.cylinder_nuts", "strip.pedal_end", "fit.pedal_end"},
	} {
		for _, s := range steps {
			assert.InDelta(t, least, Find(s).LeastS, 1e-9, s)
		}
	}
	for id, least := range map[string]float64{"pedal.pump": 5, "pedal.readings": 10, "pedal.firm_travel": 3, "check.dry_joints": 5, "check.level": 1, "assist.pedal_falls_on_start": 5,
		"assist.reserve_applies": 5, "check.free_play": 2, "check.wheels_free": 10, "check.wheels_hot": 60, "check.brake_lamps": 3, "check.lamps_out": 3, "check.wheels_torqued": 20,
		"check.walking_stops": 20, "check.second_look": 5} {
		assert.InDelta(t, least, EvidenceOf(id).LeastS, 1e-9, id)
	}
}

// Common practice, no source, but for the free play (assumption): what may not be found on a vehicle that goes out,
// each walked through its limit.
func TestWhatSpeaksAgainstARelease(t *testing.T) {
	for id, c := range map[string]struct{ against, passes string }{
		"vacuum.at_hose_kpa":     {"49.9", "50"},
		"fluid.water_percent":    {"3", "2.9"},
		"pedal.free_play_mm":     {"0.09", "0.1"},
		"rod.gap_mm":             {"0.51", "0.5"},
		"pedal.sinks":            {`"slow"`, `"no"`},
		"check_valve.holds":      {`"no"`, `"yes"`},
		"leak.seen":              {`"yes"`, `"none"`},
		"fluid.level":            {`"low"`, `"full"`},
		"wet.at":                 {`["inside_booster"]`, `["dry"]`},
		"pressure.at_bleeder":    {`{"LF":"low"}`, `{"LF":"ok"}`},
		"vacuum.hose_pinched":    {`"stops"`, `"same"`},
		"steering.pump_pressure": {`"none"`, `"ok"`},
		"hose.swells":            {`["LF"]`, `"no"`},
		"actuator.rod_moves":     {`"no"`, `"yes"`},
	} {
		ev := EvidenceOf(id)
		require.NotNil(t, ev, id)
		require.NotNil(t, ev.Against, id)
		assert.True(t, ev.Against(json.RawMessage(c.against)), "%s %s", id, c.against)
		assert.False(t, ev.Against(json.RawMessage(c.passes)), "%s %s", id, c.passes)
	}
}

// The rule itself (how-it-computes, section 12.3): a reading dies by work after it in the log; by work before it in the
// log that was done after it by the clock; and by a colleague's work its reader had not seen. It lives through what its
// reader had seen.
func TestWhenAReadingDies(t *testing.T) {
	read := When{Seq: 10, At: t0.Add(10 * time.Minute), By: "u1"}
	for name, c := range map[string]struct {
		seq    int64
		minute int
		by     string
		base   int64
		dies   bool
	}{
		"after it":  {11, 11, "u1", 0, true},
		"before it": {9, 9, "u2", 0, false},
		"before it in the log, after by the clock":   {9, 12, "u2", 0, true},
		"a colleague's, not seen":                    {9, 9, "u2", 8, true},
		"a colleague's, seen":                        {9, 9, "u2", 9, false},
		"one's own, whatever was seen":               {9, 9, "u1", 8, false},
		"a colleague's, with nobody saying the head": {9, 9, "u2", 0, false},
	} {
		a := New()
		a.Change(When{Seq: c.seq, Arrived: c.seq, At: t0.Add(time.Duration(c.minute) * time.Minute), By: c.by}, "work", Fluid)
		_, dead := a.KilledBy("check.dry_joints", read, c.base)
		assert.Equal(t, c.dies, dead, name)
		_, dead = a.KilledBy("check.brake_lamps", read, c.base)
		assert.False(t, dead, "%s: nothing of it", name)
	}
	// What is of everything dies with anything.
	a := New()
	a.Change(at(11), "work", Paint)
	_, dead := a.KilledBy("check.second_look", read, 0)
	assert.True(t, dead)
	_, dead = a.KilledBy("nothing of the kind", read, 0)
	assert.False(t, dead)
}

// Half of the volume is behind the first of two clear looks, and not less (trade: clear twice in a row, from what came
// that way).
func TestTheFirstClearLookHasHalfBehindIt(t *testing.T) {
	for through, clear := range map[float64]bool{9.9: false, 10.1: true} {
		a := New()
		a.Air(1, "RR", FromBrake, "work", 20)
		a.Through(2, "RR", through, 1)
		a.Saw(3, "RR", true, t0, 0)
		a.Through(4, "RR", 20-through+0.1, 1)
		a.Saw(5, "RR", true, t0, 0)
		w := a.Wheels["RR"]
		require.Len(t, w.Marks, 1)
		assert.Equal(t, clear, w.CarriedOut(w.Marks[FromBrake]), "first look at %v of 20 cm³", through)
		assert.True(t, w.Worked())
	}
	assert.False(t, (&Wheel{}).Worked())
	assert.True(t, (&Wheel{Strokes: 1}).Worked())
	assert.True(t, (&Wheel{Rounds: []Round{{}}}).Worked())
}

// What is tight was started: an act passed by stands without being told, and falls with what passed it by.
func TestATightNutWasStarted(t *testing.T) {
	a := New()
	a.Do("strip.lines_off", at(1), Pair{}, true)
	assert.False(t, a.Stands("fit.start_nuts_snug", Pair{}))
	a.Do("fit.line_nuts", at(2), Pair{}, true)
	assert.True(t, a.Stands("fit.start_nuts_snug", Pair{}))
	a.Move(at(3), Lines)
	assert.True(t, a.Stands("fit.start_nuts_snug", Pair{}), "a line that was cracked is snug")
	assert.False(t, a.Stands("fit.line_nuts", Pair{}))
	a.Do("strip.lines_off", at(4), Pair{}, true)
	assert.False(t, a.Stands("fit.start_nuts_snug", Pair{}))
}

// The rounds of a wheel: each is counted by itself, the sheet shows them all; more than one stroke told at once was
// told afterwards.
func TestRoundsAreCountedByThemselves(t *testing.T) {
	a := New()
	a.Through(1, "RR", 6, 1)
	a.Through(2, "RR", 6, 1)
	w := a.Wheels["RR"]
	require.Equal(t, 1, w.Round())
	assert.Equal(t, 2, w.Now().Strokes)
	assert.False(t, w.Now().ToldAfter)
	a.Air(3, "RR", FromBrake, "again", 20)
	a.Through(4, "RR", 18, 3)
	w = a.Wheels["RR"]
	require.Equal(t, 2, w.Round(), "a wheel that was begun is begun anew")
	assert.Equal(t, 3, w.Now().Strokes)
	assert.InDelta(t, 18, w.Now().CM3, 1e-12)
	assert.True(t, w.Now().ToldAfter)
	assert.Equal(t, 5, w.Strokes)
	assert.InDelta(t, 30, w.ThroughCM3, 1e-12)
	assert.InDelta(t, 2, w.LeftCM3(w.Marks[FromBrake]), 0.021, "18 of the 20 since the mark, a part in a thousand spared")
	// A wheel that was never begun is only marked.
	a.Air(5, "LF", FromCylinder, "lines off", 40)
	assert.Zero(t, len(a.Wheels["LF"].Rounds))
}

// What is taken back later leaves its mark and its round: what came out is out, what got in is in. (A slip is never
// folded.)
func TestWhatIsTakenBackLeavesItsMark(t *testing.T) {
	a := New()
	a.Through(1, "RR", 6, 1)
	a.Do("strip.lines_off", at(2), Pair{}, true)
	a.Air(2, "RR", FromCylinder, "strip.lines_off", 40)
	a.Air(2, "LF", FromCylinder, "strip.lines_off", 30)
	require.Equal(t, 2, len(a.Wheels["RR"].Rounds))
	a.TakeBack("strip.lines_off", at(3), "")
	assert.Equal(t, 2, len(a.Wheels["RR"].Rounds))
	assert.NotEmpty(t, a.Wheels["RR"].Marks)
	assert.NotEmpty(t, a.Wheels["LF"].Marks)
	assert.True(t, a.Touched(Lines))
	assert.Equal(t, Loose, a.StateOf(Lines), "on again, and nobody said that it is tight")
}

// Opened by a joint, by a repair elsewhere, by a bleeder, by a mark; and by nothing else.
func TestWhatOpensTheHydraulics(t *testing.T) {
	for name, do := range map[string]func(*Account){
		"lines":     func(a *Account) { a.Do("strip.lines_off", at(1), Pair{}, true) },
		"elsewhere": func(a *Account) { a.Do("elsewhere.opened", at(1), Pair{}, true) },
		"a bleeder": func(a *Account) { a.Through(1, "RR", 1, 1) },
		"a mark":    func(a *Account) { a.Air(1, "RR", FromBrake, "work", 5) },
	} {
		a := New()
		require.False(t, a.Opened(), name)
		do(a)
		assert.True(t, a.Opened(), name)
	}
	a := New()
	a.Do("strip.sensor_plug", at(1), Pair{}, true)
	assert.False(t, a.Opened())
}

// Trade: 50 kPa at the sea is 35 to 40 at 2 500 m. The gate's limit goes with the air around; a share of water does
// not.
func TestALimitThatGoesWithTheAir(t *testing.T) {
	hose, water := EvidenceOf("vacuum.at_hose_kpa"), EvidenceOf("fluid.water_percent")
	const high = 75 // kPa at 2 500 m; ISO 2533, from memory
	assert.True(t, hose.Speaks(json.RawMessage("42"), seaLevelKPA))
	assert.False(t, hose.Speaks(json.RawMessage("42"), high))
	assert.True(t, hose.Speaks(json.RawMessage("34"), high))
	assert.True(t, hose.Speaks(json.RawMessage("49"), 0), "no vehicle described: as at the sea")
	assert.InDelta(t, 37, VacuumLeastAt(high), 2)
	assert.True(t, water.Speaks(json.RawMessage("3"), high))
}
