package server_test

import (
	"context"
	"encoding/json"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/job"
	"geminate/ground/proving"
	"geminate/ground/trial"
)

// A sample of the proving ground over the real server: jobs that programs worked, up to their release, answer there as
// they did in the core, station by station; and the server lets go what the gate lets go, once.
func TestJobsThatProgramsWorked(t *testing.T) {
	c, st := shop(t)
	c.as("piet")
	world := trial.NewWorld(0.15, 5)
	for i, pattern := range []string{"pickup-front-rear-vacuum", "hybrid-electro-hydraulic", "trailer-surge", "pickup-hydraulic"} {
		o := proving.Outcome{Parked: true}
		for seed := uint64(40 + i); o.Parked; seed += 10 { // one that is parked is let go by nobody
			var err error
			o, err = proving.Work(context.Background(), world, proving.Spec{Seed: seed, Pattern: pattern, Way: proving.Slipping})
			require.NoError(t, err)
			require.Empty(t, o.DeadEnd, pattern)
		}
		require.True(t, o.Released, pattern)
		events := o.Book.Events[:len(o.Book.Events)-1]
		shift := time.Since(events[len(events)-1].At) - time.Minute // worked just now: a reading holds a day
		for k := range events {
			events[k].At, events[k].StoredAt = events[k].At.Add(shift), events[k].StoredAt.Add(shift)
		}
		j := job.Replay(o.Book.ID, o.Book.CreatedAt.Add(shift), events)
		require.NoError(t, st.AddJob(context.Background(), j, events, nil))
		url := "/api/jobs/" + j.ID
		for _, station := range []string{"diagnose", "match", "replace", "bleed", "verify", "record"} {
			c.get(url+"/"+station, 200)
		}
		gate, err := j.Gate()
		require.NoError(t, err)
		require.True(t, gate.Passable)
		// Here the shop has accounts: the second look is one of theirs, and what failed once is read again by somebody
		// else.
		c.as("mara")
		mara := func(finding string, value any) {
			read := map[string]any{"phase": "verify", "finding": finding, "value": value}
			c.send(
				"POST",
				url+"/events",
				map[string]any{
					"events": []any{map[string]any{"id": finding + "-" + pattern, "kind": job.KindFinding, "at": time.Now(), "data": read}},
				},
				200,
			)
		}
		for _, raw := range c.get(url+"/verify", 200)["gate"].(map[string]any)["items"].([]any) {
			if item := raw.(map[string]any); item["code"] == "gate.read_again_else" {
				mara(item["id"].(string), lastRead(t, events, item["id"].(string)))
			}
		}
		mara("check.second_look", "yes")
		c.as("piet")
		seen, _ := c.get(url+"/verify", 200)["gate"].(map[string]any)
		require.NotNil(t, seen)
		assert.Equal(t, true, seen["passable"], pattern)
		for _, item := range gate.Items {
			assert.Contains(t, toText(t, seen["items"]), `"id":"`+item.ID+`"`, pattern)
		}
		c.send("POST", url+"/release", nil, 200)
		assert.Equal(t, "problem.released", c.send("POST", url+"/release", nil, 409)["code"])
		stored, err := st.Job(context.Background(), j.ID)
		require.NoError(t, err)
		require.NotNil(t, stored.State.ReleasedAt)
		assert.WithinDuration(t, time.Now(), *stored.State.ReleasedAt, time.Minute)
	}
}

// lastRead is what a finding was read as last at Verify.
func lastRead(t *testing.T, events []job.Event, finding string) json.RawMessage {
	t.Helper()
	for i := len(events) - 1; i >= 0; i-- {
		if f, ok := events[i].Body.(*job.FindingMade); ok && f.Phase == job.PhaseVerify && f.Finding == finding {
			return f.Value
		}
	}
	t.Fatal("never read: ", finding)
	return nil
}
