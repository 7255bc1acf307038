package job

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/match"
	"geminate/brake/trace"
)

func drew(finding string) *Traced {
	return &Traced{Finding: finding, Seconds: 50, Channels: []Channel{{Of: Measured{ID: "i", Name: "Rule", Kind: trace.Travel}, Buckets: []trace.Bucket{{S: 1, Min: 1, Max: 2, Mean: 1.5, N: 9}}}}}
}

// A trace is kept with the job, the last of each finding; undone it is gone; a hold that names a trace is timed only where the trace is
// there; out of date is said of the day it was read.
func TestTracesAreKept(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	j.add(t, drew("pedal.sink"))
	j.add(t, drew("pedal.readings"))
	e := j.add(t, drew("pedal.sink"))
	require.Len(t, j.State.Traces, 2)
	assert.Equal(t, e.ID, j.State.Traces[1].ID)
	hold := &FindingMade{Phase: PhaseVerify, Finding: "pedal.sink", Value: []byte(`{"pedal_force_n":300,"travel_mm":1,"seconds":45,"engine":"on"}`), Measured: &Measured{ID: "i", Name: "Rule", Kind: trace.Travel, HoldsUntil: "2020-01-01", Trace: "no such trace"}}
	j.add(t, hold)
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
	assert.Error(t, j.tell(mara, &FindingMade{Phase: PhaseVerify, Finding: "pedal.sink", Value: hold.Value, Measured: &Measured{Kind: "thumb"}}))
	many := drew("x")
	for range BucketsMost {
		many.Channels[0].Buckets = append(many.Channels[0].Buckets, trace.Bucket{})
	}
	require.Error(t, j.tell(mara, many))
	assert.Equal(t, j.State.Traces, Replay(j.ID, began, j.Events).State.Traces)
}
