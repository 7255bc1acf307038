package verify

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/diagnose"
)

// read gives every finding of an input the place in the log where it was read.
func readAt(in *Input, seq int64) {
	in.ReadAt = map[string]int64{}
	for id := range in.Findings {
		in.ReadAt[id] = seq
	}
}

// The table of the how-it-computes, section 12, by an independent list: after work of each kind, which of a pickup's items
// no longer stand.
func TestEvidenceDiesWithLaterWork(t *testing.T) {
	want := map[Work][]string{
		WorkLine:     {"pedal.sink", Pump, "pedal.readings", "check.dry_joints", "check.level", "check.walking_stops", "check.second_look"},
		WorkCylinder: {"pedal.sink", Pump, "pedal.readings", "check.dry_joints", "check.level", "check.walking_stops", "check.second_look"},
		WorkBooster: {"pedal.sink", Pump, "pedal.readings", "check.dry_joints", "check.level", "check.walking_stops", "check.second_look", "assist.pedal_falls_on_start",
			"assist.reserve_applies", "check.free_play", "check.wheels_free"},
		WorkRod: {"pedal.sink", Pump, "pedal.readings", "check.dry_joints", "check.level", "check.walking_stops", "check.second_look", "assist.pedal_falls_on_start",
			"assist.reserve_applies", "check.free_play", "check.wheels_free"},
		WorkPedal:    {"check.free_play", "check.wheels_free", "check.brake_lamps", "check.walking_stops", "check.second_look"},
		WorkElectric: {"check.brake_lamps", "check.lamps_out", "check.walking_stops", "check.second_look"},
		WorkWheel:    {"check.wheels_torqued", "check.walking_stops", "check.second_look"},
	}
	require.Len(t, want, len(Works))
	for w, dead := range want {
		in := passing(t, "pickup-front-rear-vacuum")
		readAt(&in, 10)
		in.Work = map[Work]Done{w: {Seq: 9, What: "before"}}
		assert.True(t, Judge(in).Passable, "work before the readings kills none")
		in.Work[w] = Done{Seq: 11, What: "after"}
		var got []string
		for _, i := range Judge(in).Items {
			if i.State != OK {
				assert.Equal(t, "gate.stale", i.Code, i.ID)
				assert.Equal(t, "after", i.With["after"])
				got = append(got, i.ID)
			}
		}
		assert.ElementsMatch(t, dead, got, w)
	}
}

func TestWhatSpeaksAgainstItBlocksUntilItIsReadAgain(t *testing.T) {
	for id, bad := range map[string]any{"pedal.sinks": "slow", "level.falls": "fast", "wet.at": []string{"line_joint"}, "brakes.drag": "one_wheel", "codes.present": []string{"offset"}, "pedal.springy": "yes"} {
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
		in.Work = map[Work]Done{}
		for _, w := range dies[id] {
			in.Work[w] = Done{Seq: 11, What: "mended"}
		}
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
