package verify

import (
	"encoding/json"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/diagnose"
	"geminate/brake/stand"
)

var t0 = time.Date(2026, 11, 1, 8, 0, 0, 0, time.UTC)

// readAt gives every finding of an input the place in the log where it was read: at seq, the joints and the level
// before the drive and after it, the second look last.
func readAt(in *Input, seq int64) {
	in.ReadAt, in.History = map[string]Read{}, map[string][]Read{}
	at := func(id string, seq int64) {
		r := Read{Value: in.Findings[id].Value, When: stand.When{Seq: seq, Arrived: seq, At: t0.Add(time.Duration(seq) * time.Hour)}}
		in.ReadAt[id] = r
		in.History[id] = append(in.History[id], r)
	}
	for id := range in.Findings {
		switch id {
		case drove:
			at(id, seq+20)
		case secondLook:
			at(id, seq+40)
		case dryJoints, levelCheck:
			at(id, seq+10)
			at(id, seq+30)
		default:
			at(id, seq)
		}
	}
}

// changed is a vehicle with some things changed at a place in the log.
func changed(seq int64, what string, things ...stand.Thing) *stand.Account {
	a := stand.New()
	a.Change(stand.When{Seq: seq, Arrived: seq, By: "u9", At: t0.Add(time.Duration(seq) * time.Hour)}, what, things...)
	return a
}

// The table of the how-it-computes, section 13.1, by an independent list: after work at each thing, which of a pickup's
// items no longer stand.
func TestEvidenceDiesWithLaterWork(t *testing.T) {
	always := []string{"check.walking_stops", "check.complaint_gone", "check.second_look"}
	pressed := append([]string{"pedal.sink", Pump, "pedal.readings", "check.dry_joints", "check.hoses_firm", "check.level"}, always...)
	booster := append([]string{"assist.pedal_falls_on_start", "assist.reserve_applies", "check.free_play", "check.wheels_free"}, pressed...)
	want := map[stand.Thing][]string{
		stand.Lines: pressed, stand.Bleeders: pressed, stand.Cylinder: pressed,
		stand.Fluid: append([]string{"check.bottle"}, pressed...), stand.Reservoir: append([]string{"check.bottle"}, pressed...),
		stand.VacuumHose: booster, stand.Firewall: booster, stand.Rod: booster,
		stand.PedalEnd:   append([]string{"check.free_play", "check.wheels_free", "check.brake_lamps"}, always...),
		stand.SensorPlug: append([]string{"check.brake_lamps", "check.lamps_out"}, always...),
		stand.RoadWheels: append([]string{"check.wheels_torqued"}, always...),
		stand.Elsewhere:  append([]string{"check.wheels_torqued", "check.brake_lamps", "check.lamps_out"}, booster...),
		"air_box":        always,
	}
	for thing, dead := range want {
		in := passing(t, "pickup-front-rear-vacuum")
		readAt(&in, 10)
		in.Stand = changed(9, "before", thing)
		assert.True(t, Judge(in).Passable, "work before the readings kills none: %+v", Judge(in).Items)
		in.Stand = changed(51, "after", thing)
		var got []string
		for _, i := range Judge(in).Items {
			if i.State != OK {
				assert.Equal(t, "gate.stale", i.Code, i.ID)
				assert.Equal(t, "after", i.With["after"])
				got = append(got, i.ID)
			}
		}
		assert.ElementsMatch(t, dead, got, thing)
	}
}

// Every finding there is says what it speaks of and which value speaks against a release: a new one cannot be left out.
func TestEveryFindingIsInTheTable(t *testing.T) {
	ids := append([]string{Pump, FirmHeight}, Checks()...)
	for _, k := range diagnose.Kinds() {
		ids = append(ids, k.ID)
	}
	seen := map[string]bool{}
	for _, ev := range stand.Evidences {
		assert.False(t, seen[ev.ID], "%s twice", ev.ID)
		seen[ev.ID] = true
	}
	for _, id := range ids {
		assert.True(t, seen[id], "%s: what does it speak of?", id)
	}
	assert.Len(t, seen, len(ids), "nothing in the table that nobody can find")
	for _, r := range Rows() {
		require.NotNil(t, r.Asked, r.ID)
		assert.Contains(t, Places, r.Where, r.ID)
		assert.Equal(t, r.Back.Code == "", r.Back.Station == "", r.ID)
		id, ev := r.ID, stand.EvidenceOf(r.ID)
		if id == "pedal.air" || ev == nil && r.Where == AtWork { // worked out from the readings, or read from the work itself
			require.NotNil(t, r.Judge, id)
			continue
		}
		require.NotNil(t, ev, id)
		assert.True(t, ev.Judged, id)
		assert.True(t, ev.Everything || len(ev.Of) > 0, "%s never dies", id)
	}
	for _, ev := range stand.Evidences {
		if ev.Against != nil {
			assert.NotEmpty(t, ev.Of, "%s speaks against, and nothing ends it", ev.ID)
		}
	}
}

// Read before a colleague's work and sent after it: dead on arrival, by the clock and by what the reader had seen.
func TestALateReadingRevivesNothing(t *testing.T) {
	in := passing(t, "pickup-front-rear-vacuum")
	readAt(&in, 10)
	in.Stand = changed(9, "bleed_stroke", stand.Fluid)
	late := in.ReadAt["pedal.sink"]
	late.At = t0
	in.ReadAt["pedal.sink"] = late
	assert.Equal(t, "gate.stale", item(t, Judge(in), "pedal.sink").Code, "by the clock")
	late.At, late.Base, late.By = t0.Add(10*time.Hour), 5, "u2"
	in.ReadAt["pedal.sink"] = late
	assert.Equal(t, "gate.stale", item(t, Judge(in), "pedal.sink").Code, "by its base")
	own := in.Stand.Epochs[stand.Fluid]
	own.By = "u2"
	in.Stand = stand.New()
	in.Stand.Change(own.When, own.What, stand.Fluid)
	assert.Equal(t, OK, item(t, Judge(in), "pedal.sink").State, "one's own work waited in the same line")
}

// A hold of a minute is not told five seconds after the work it proves.
func TestWhatAReadingTakesHasToFit(t *testing.T) {
	in := passing(t, "pickup-front-rear-vacuum")
	readAt(&in, 10)
	in.Stand = stand.New()
	in.Stand.Change(stand.When{Seq: 9, At: t0.Add(10*time.Hour - 5*time.Second)}, "bleed_stroke", stand.Fluid)
	i := item(t, Judge(in), "pedal.sink")
	assert.Equal(t, "gate.too_soon", i.Code)
	assert.InDelta(t, 5, i.With["had_s"], 1e-9)
}

// One that failed is not outvoted by the next, by another way of reading, by withdrawing or by a baseline.
func TestAReadingThatFailedIsReadTwiceMore(t *testing.T) {
	told := func(seq int64, by string, value any) Read {
		raw, _ := json.Marshal(value)
		return Read{Value: raw, When: stand.When{Seq: seq, At: t0.Add(time.Duration(seq) * time.Hour), By: by}}
	}
	bad, good := diagnose.Sink{
		PedalForceN: 250,
		TravelMM:    9,
		Seconds:     60,
		Engine:      "on",
	}, diagnose.Sink{
		PedalForceN: 250,
		TravelMM:    0.5,
		Seconds:     60,
		Engine:      "on",
	}
	in := passing(t, "pickup-front-rear-vacuum")
	readAt(&in, 20)
	in.Stand = changed(1, "close.fill", stand.Reservoir)
	in.History = map[string][]Read{"pedal.sink": {told(10, "u1", bad), told(11, "u1", good)}}
	i := item(t, Judge(in), "pedal.sink")
	assert.Equal(t, Failed, i.State)
	assert.Equal(t, "gate.read_again", i.Code)
	in.History["pedal.sink"] = append(in.History["pedal.sink"], told(12, "u1", good))
	assert.Equal(t, OK, item(t, Judge(in), "pedal.sink").State, "two that agree")
	in.People = []Person{{ID: "u1", Name: "Mara"}, {ID: "u2", Name: "Piet"}}
	assert.Equal(t, "gate.read_again_else", item(t, Judge(in), "pedal.sink").Code,
		"where there is anybody else, one of them by somebody else")
	in.History["pedal.sink"][2].By = "u2"
	assert.Equal(t, OK, item(t, Judge(in), "pedal.sink").State)
	// What is touched heals nothing: topped up, a wheel bled, a sound joint done up again, it stays failed (model
	// 13.4). Another cylinder can have cured it, and then one good hold is enough.
	in.History["pedal.sink"] = append(in.History["pedal.sink"][:1], told(20, "u1", good))
	for _, step := range []string{"close.fill", "fit.line_nuts", "close.bleeder_screws"} {
		in.Stand = changed(13, "bleed_stroke", stand.Fluid, stand.Bleeders)
		in.Stand.Do(step, stand.When{Seq: 14, At: t0.Add(14 * time.Hour)}, stand.Pair{}, true)
		assert.Equal(t, "gate.read_again_else", item(t, Judge(in), "pedal.sink").Code, step)
	}
	in.Stand.Do("strip.cylinder_off", stand.When{Seq: 15, At: t0.Add(15 * time.Hour)}, stand.Pair{}, true)
	in.Stand.Do("fit.cylinder_nuts", stand.When{Seq: 16, At: t0.Add(16 * time.Hour)}, stand.Pair{}, true)
	assert.Equal(t, OK, item(t, Judge(in), "pedal.sink").State)
	// A joint told wet and done up is another way; the good hold before it proves nothing.
	in.Stand = changed(13, "bleed_stroke", stand.Fluid, stand.Bleeders)
	in.Stand.Do("fit.line_nuts", stand.When{Seq: 14, At: t0.Add(14 * time.Hour)}, stand.Pair{}, true)
	in.History[dryJoints] = []Read{told(5, "u1", "no")}
	assert.Equal(t, OK, item(t, Judge(in), "pedal.sink").State)
	in.History["pedal.sink"][1] = told(12, "u1", good)
	assert.Equal(t, "gate.read_again", item(t, Judge(in), "pedal.sink").Code)
	in.People = nil
	// A pump test that failed is not passed by because force and travel are read instead.
	in.Stand = changed(1, "close.fill", stand.Reservoir)
	in.History = map[string][]Read{Pump: {told(10, "u1", PumpHeights{90, 110, 130})}}
	delete(in.Findings, Pump)
	assert.Equal(t, Failed, item(t, Judge(in), Pump).State)
	// Nor a sign that was withdrawn.
	gone := told(10, "u1", "slow")
	gone.Withdrawn = true
	in = passing(t, "pickup-front-rear-vacuum")
	in.Stand, in.History = changed(1, "close.fill", stand.Reservoir), map[string][]Read{"pedal.sinks": {gone}}
	assert.Equal(t, Failed, item(t, Judge(in), "pedal.sinks").State)
}

func TestReadingsHaveToBeAPedals(t *testing.T) {
	for name, c := range map[string]struct {
		id, code string
		value    any
	}{
		"heights of nothing":    {Pump, "gate.pump.floor", PumpHeights{}},
		"a curve that falls":    {"pedal.readings", "gate.readings.falls", []diagnose.Reading{{PedalForceN: 200, TravelMM: 60}, {PedalForceN: 300, TravelMM: 50}}},
		"the same at each":      {"pedal.readings", "gate.readings.flat", []diagnose.Reading{{PedalForceN: 200, TravelMM: 58}, {PedalForceN: 260, TravelMM: 58}, {PedalForceN: 320, TravelMM: 58}}},
		"an hour that sinks 60": {"pedal.sink", "gate.hold.sinks", diagnose.Sink{PedalForceN: 250, TravelMM: 60, Seconds: 3600, Engine: "on"}},
	} {
		in := passing(t, "pickup-front-rear-vacuum")
		set(in, c.id, c.value)
		assert.Equal(t, c.code, item(t, Judge(in), c.id).Code, name)
	}
	assert.InDelta(t, 6, HoldLimitMM(3600), 1e-9, "1 mm and 1 mm a minute, over five at most")
}

func TestTheSecondLookIsSomebodyElses(t *testing.T) {
	look := func(change func(*Input)) Item {
		in := passing(t, "pickup-front-rear-vacuum")
		readAt(&in, 10)
		in.Stand = stand.New()
		in.Stand.Worked("u1", "Mara Oduya")
		in.SecondBy = "Osmund"
		change(&in)
		return item(t, Judge(in), secondLook)
	}
	shop := []Person{{ID: "u1", Name: "Mara Oduya"}, {ID: "u2", Name: "Piet Lindqvarn"}}
	assert.Equal(t, OK, look(func(*Input) {}).State, "nobody said who works here: a name is taken")
	for _, name := range []string{"mara oduya", "Mara  Oduya.", "M. Oduya", "Mara Oduja", "oduya"} {
		assert.Equal(t, "gate.second_look.self", look(func(in *Input) { in.SecondBy = name }).Code, name)
	}
	assert.Equal(t, "gate.second_look.somebody", look(func(in *Input) { in.People = shop }).Code, "nobody of that name works here")
	assert.Equal(t, OK, look(func(in *Input) { in.People, in.SecondBy = shop, "Piet Lindqvarn" }).State)
	assert.Equal(t, OK, look(func(in *Input) {
		in.People, in.SecondBy = shop, ""
		in.ReadAt[secondLook] = Read{When: stand.When{Seq: 60, At: t0.Add(60 * time.Hour), By: "u2"}}
	}).State, "told by the other")
	assert.Equal(t, "gate.second_look.somebody", look(func(in *Input) { in.People = shop; set(*in, secondLook, "alone") }).Code)
	assert.Equal(t, "gate.second_look.alone", look(func(in *Input) { in.People = shop[:1]; set(*in, secondLook, "alone") }).Code)
}

func TestWhatSpeaksAgainstItBlocksUntilItIsReadAgain(t *testing.T) {
	for id, bad := range map[string]any{"pedal.sinks": "slow", "level.falls": "fast", "wet.at": []string{"line_joint"}, "brakes.drag": "one_wheel", "codes.present": []string{"offset"}, "pedal.springy": "yes",
		"vacuum.at_hose_kpa": 20.0, "pedal.hard": "always", "brakes.weak": map[string]string{"one_wheel": "LF"}, "rubber.swollen": "yes", "pedal.free_play_mm": 0.0, "fluid.water_percent": 4.5, "check_valve.holds": "no"} {
		in := passing(t, "pickup-front-rear-vacuum")
		guess := false
		set(in, id, bad)
		f := in.Findings[id]
		f.Sure = &guess
		in.Findings[id] = f
		g := Judge(in)
		assert.False(t, g.Passable, "%s: even a doubt", id)
		assert.Equal(t, []string{id}, item(t, g, "contradicts").With["findings"])
		// The work that mends it ends it too: then the reading is of another vehicle.
		readAt(&in, 10)
		in.Stand = changed(11, "mended", stand.EvidenceOf(id).Of...)
		for _, i := range Judge(in).Items {
			assert.NotEqual(t, "contradicts", i.ID, id)
		}
	}
	in := passing(t, "pickup-front-rear-vacuum")
	set(in, "pedal.sinks", "no")
	set(in, "wet.at", []string{"dry"})
	assert.True(t, Judge(in).Passable)
}

func TestTheFluidInHandIsJudged(t *testing.T) {
	in := passing(t, "pickup-front-rear-vacuum")
	in.Bottle = "gate.fluid.class"
	assert.Equal(t, Failed, item(t, Judge(in), "fluid").State)
	in.Opened = false
	for _, i := range Judge(in).Items {
		assert.NotEqual(t, "fluid", i.ID, "nothing was poured")
	}
}

// How-it-computes, section 9: it may pump up by 5 mm, or by a tenth of the travel where that is more. 150 mm over the
// floor, a pedal that stops at 60 mm has travelled 90: a tenth is 9.
func TestThePumpMayGiveATenthOfTheTravel(t *testing.T) {
	in := passing(t, "pickup-front-rear-vacuum")
	set(in, NoGauge, "yes")
	judged := func(first, rise float64) State {
		set(in, Pump, PumpHeights{FirstMM: first, SecondMM: first + rise, FourthMM: first + rise})
		state, _, _ := in.pump()
		return state
	}
	floor := in.System.Pedal.FloorMM
	assert.Equal(t, OK, judged(floor-90, 8.9))
	assert.Equal(t, Failed, judged(floor-90, 9.1), "a tenth of 90 mm")
	assert.Equal(t, OK, judged(floor-20, 4.9))
	assert.Equal(t, Failed, judged(floor-20, 5.1), "five millimetres, where a tenth is less")
}

// A shop without a gauge can release, on the ways that need a rule alone; and not on less.
func TestWithoutAGauge(t *testing.T) {
	hand := func() Input {
		in := passing(t, "pickup-front-rear-vacuum")
		delete(in.Findings, "pedal.readings")
		in.AirLeft = nil
		set(in, NoGauge, "yes")
		set(in, Pump, PumpHeights{FirstMM: 110, SecondMM: 112, FourthMM: 113})
		e, ok := Band(in.System, 220)
		require.True(t, ok)
		set(in, FirmHeight, e.TravelMM)
		set(in, "pedal.sink", diagnose.Sink{PedalForceN: 150, TravelMM: 0.5, Seconds: 30, Engine: "on"})
		return in
	}
	assert.True(t, Judge(hand()).Passable, "%+v", Judge(hand()).Items)
	for name, c := range map[string]struct {
		change func(Input)
		id     string
		state  State
	}{
		"pumps up":                 {func(in Input) { set(in, Pump, PumpHeights{110, 118, 131}) }, Pump, Failed},
		"no pump test":             {func(in Input) { delete(in.Findings, Pump) }, Pump, Missing},
		"far too low":              {func(in Input) { set(in, FirmHeight, 120.0) }, FirmHeight, Failed},
		"held with the engine off": {func(in Input) { set(in, "pedal.sink", diagnose.Sink{PedalForceN: 150, Seconds: 30, Engine: "off"}) }, "pedal.sink", Missing},
		"it sinks": {func(in Input) {
			set(in, "pedal.sink", diagnose.Sink{PedalForceN: 150, TravelMM: 4, Seconds: 30, Engine: "on"})
		}, "pedal.sink", Failed},
		"a light foot": {func(in Input) { set(in, "pedal.sink", diagnose.Sink{PedalForceN: 80, Seconds: 30, Engine: "on"}) }, "pedal.sink", Missing},
	} {
		in := hand()
		c.change(in)
		assert.Equal(t, c.state, item(t, Judge(in), c.id).State, name)
	}
	in := hand()
	delete(in.Findings, NoGauge)
	assert.False(t, Judge(in).Passable, "where there is a gauge it is read")
	assert.Error(t, CheckByHand(Pump, []byte(`{"first_mm":-1,"second_mm":1,"fourth_mm":1}`)))
	assert.Error(t, CheckByHand(Pump, []byte(`3`)))
	assert.Error(t, CheckByHand(FirmHeight, []byte(`"low"`)))
	assert.NoError(t, CheckByHand(FirmHeight, []byte(`41.5`)))
}

// A phone that told a reading from the pedal comes off before the vehicle moves: asked only then, before the drive, and
// again where it was on once more.
func TestAPhoneComesOffThePedal(t *testing.T) {
	in := passing(t, "pickup-front-rear-vacuum")
	readAt(&in, 10)
	asked := func() bool {
		for _, i := range Judge(in).Items {
			if i.ID == phoneOff {
				return true
			}
		}
		return false
	}
	assert.False(t, asked())
	in.PhoneSeq = 5
	delete(in.Findings, phoneOff)
	assert.Equal(t, Missing, item(t, Judge(in), phoneOff).State)
	assert.False(t, Judge(in).Passable)
	in = passing(t, "pickup-front-rear-vacuum")
	readAt(&in, 10)
	in.PhoneSeq = 5
	assert.True(t, Judge(in).Passable)
	in.PhoneSeq = 15 // on again after it was off
	assert.Equal(t, "gate.phone_on", item(t, Judge(in), phoneOff).Code)
	in.PhoneSeq = 5
	late := in.ReadAt[phoneOff]
	late.Seq, late.Arrived = 99, 99
	in.ReadAt[phoneOff] = late
	in.History[phoneOff] = []Read{late}
	assert.Equal(t, "gate.before_drive", item(t, Judge(in), drove).Code, "driven with the phone on it")
}
