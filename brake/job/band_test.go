package job

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

// Every open job stands in one band of the bay, and what is over in none. Made up: no figure of the job is in it.
func TestBandsOfTheBay(t *testing.T) {
	open := Status{Standing: StandsOpen, At: "replace", WaitsFor: "waits.step", Detail: "fit.lines"}
	check := Status{Standing: StandsOpen, At: "verify", WaitsFor: "waits.check"}
	second := check
	second.Detail = "check.second_look"
	compare := open
	compare.Detail = "prepare.compare_on_bench"
	at := func(id string) Status { return Status{Standing: StandsOpen, At: id} }
	for name, x := range map[string]struct {
		s    Status
		want Band
	}{
		"parked, whatever it waits for":  {Status{Standing: StandsParked, At: "verify"}, BandParked},
		"released":                       {Status{Standing: StandsReleased}, ""},
		"put away":                       {Status{Standing: StandsAway}, ""},
		"a step":                         {open, BandHands},
		"a wheel":                        {at("bleed"), BandHands},
		"a check":                        {check, BandHands},
		"the release":                    {Status{Standing: StandsOpen, At: "verify", WaitsFor: "waits.release"}, BandHands},
		"somebody else's look":           {second, BandSecond},
		"the new unit beside the old":    {compare, BandPart},
		"the unit":                       {at("match"), BandPart},
		"the first signs":                {at("diagnose"), BandDecision},
		"what the owner says is missing": {at("intake"), BandDecision},
	} {
		j := &Job{}
		assert.Equal(t, x.want, j.band(&x.s), name)
	}
	now := time.Now()
	soak := &Job{State: State{Timers: []Timer{{ID: "a", Seconds: 900, StartedAt: now}}}}
	assert.Equal(t, BandTime, soak.band(&open))
	counting := &Job{State: State{Timers: []Timer{{ID: "a", StartedAt: now}}}} // a clock that only counts up
	assert.Equal(t, BandHands, counting.band(&open))
	assert.NotContains(t, Bands, Band(""))
}
