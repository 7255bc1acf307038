package verify

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"geminate/brake/diagnose"
	"geminate/brake/twin"
	"geminate/brake/units"
)

// Limits of the rod: how-it-computes, section 12 (0 to 0.5 mm, the trade's 0.020 in, common practice, no source).
func TestWhatWasFittedIsJudgedToo(t *testing.T) {
	covered, open := true, false
	for name, c := range map[string]struct {
		change func(*Input)
		id     string
		state  State
		code   string
	}{
		"port covered": {func(in *Input) { in.Rod = &twin.Pushrod{GapMM: -2, Covered: &covered} }, "rod", Failed, "gate.rod.covered"},
		"preloaded":    {func(in *Input) { in.Rod = &twin.Pushrod{GapMM: -0.1, Covered: &open} }, "rod", Failed, "gate.rod.preloaded"},
		"a gap":        {func(in *Input) { in.Rod = &twin.Pushrod{GapMM: 0.6, Covered: &open} }, "rod", Failed, "gate.rod.gap"},
		"just in":      {func(in *Input) { in.Rod = &twin.Pushrod{GapMM: 0.5, Covered: &open} }, "rod", OK, "gate.rod.ok"},
		"does not fit": {func(in *Input) { in.Unfit = []string{"T 9"} }, "fit", Failed, "gate.fit.does_not"},
		"60 N·m on nuts": {func(in *Input) {
			in.Torques = map[string]units.TorqueVerdict{"fit.firewall_nuts": units.TorqueHigh, "a": units.TorqueOK}
		}, "torque", Failed, "gate.torque.wrong"},
		"1 N·m on nuts":   {func(in *Input) { in.Torques = map[string]units.TorqueVerdict{"fit.cylinder_nuts": units.TorqueLow} }, "torque", Failed, "gate.torque.wrong"},
		"a dry reservoir": {func(in *Input) { in.RanDry = true }, "ran_dry", Failed, "gate.ran_dry"},
	} {
		in := passing(t, "pickup-front-rear-vacuum")
		c.change(&in)
		g := Judge(in)
		i := item(t, g, c.id)
		assert.Equal(t, c.state, i.State, name)
		assert.Equal(t, c.code, i.Code, name)
		assert.Equal(t, c.state == OK, g.Passable, name)
	}
}

func TestAGuessIsNoEvidence(t *testing.T) {
	guess := false
	whole := passing(t, "pickup-front-rear-vacuum")
	for id, f := range whole.Findings {
		if id == Baseline || id == "check.clutch_releases" || id == "check.wheels_hot" || strings.HasPrefix(id, "check.coupler") ||
			id == "check.breakaway" || id == phoneOff { // asked of no such pickup's gate
			continue
		}
		in := passing(t, "pickup-front-rear-vacuum")
		f.Sure = &guess
		in.Findings[id] = f
		g := Judge(in)
		assert.False(t, g.Passable, id)
		assert.Equal(t, "gate.unsure", item(t, g, id).Code, id)
	}
}

// How-it-computes, section 12: 1 mm and 1 mm a minute, from 200 N and 30 s on.
func TestTheHoldAllowsWhatTimeAllows(t *testing.T) {
	for _, c := range []struct {
		sink  diagnose.Sink
		state State
	}{
		{diagnose.Sink{PedalForceN: 200, TravelMM: 1.5, Seconds: 30, Engine: "on"}, OK},
		{diagnose.Sink{PedalForceN: 200, TravelMM: 1.6, Seconds: 30, Engine: "on"}, Failed},
		{diagnose.Sink{PedalForceN: 200, TravelMM: 2, Seconds: 60, Engine: "on"}, OK},
		{diagnose.Sink{PedalForceN: 200, TravelMM: 2.1, Seconds: 60, Engine: "on"}, Failed},
		{diagnose.Sink{PedalForceN: 200, TravelMM: 2.1, Seconds: 600, Engine: "on"}, OK},
		{diagnose.Sink{PedalForceN: 199, TravelMM: 0, Seconds: 60, Engine: "on"}, Missing},
		{diagnose.Sink{PedalForceN: 300, TravelMM: 0, Seconds: 29, Engine: "on"}, Missing},
	} {
		in := passing(t, "pickup-front-rear-vacuum")
		set(in, "pedal.sink", c.sink)
		assert.Equal(t, c.state, item(t, Judge(in), "pedal.sink").State, "%+v", c.sink)
	}
}
