package desk_test

import (
	"encoding/json"
	"os"
	"os/exec"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/job"
	"geminate/desk"
	"geminate/ground/practice"
)

// Free practice is worked where the hands are, with no server: the same number is the same vehicle, put away and taken
// up again it is as it was, and nothing told before the end has its truth in it.
func TestFreePracticeWithoutAServer(t *testing.T) {
	const id, pattern, seed = "5f4b4a3e-0000-4000-8000-000000000001", "pickup-front-rear-vacuum", 4711
	by := job.Actor{ID: "u", Name: "Sunny", Role: job.Trainee}
	ask := func(d *desk.Desk, method string, in any) (json.RawMessage, *desk.Problem) {
		raw, err := json.Marshal(in)
		require.NoError(t, err)
		var out struct {
			OK      json.RawMessage
			Problem *desk.Problem
		}
		require.NoError(t, json.Unmarshal(d.Call(method, raw), &out))
		return out.OK, out.Problem
	}
	open := func() *desk.Desk {
		d := desk.New()
		raw, p := ask(
			d,
			"open",
			desk.Opening{
				ID:      id,
				EventID: "5f4b4a3e-0000-4000-8000-000000000002",
				By:      by,
				Now:     time.Now(),
				Job:     job.New{Vehicle: "Practice", Complaint: "-", Pattern: pattern, PracticeSeed: seed},
			},
		)
		require.Nil(t, p)
		var o struct {
			View  json.RawMessage
			Event job.Event
		}
		require.NoError(t, json.Unmarshal(raw, &o))
		_, p = ask(d, "confirm", desk.Confirmed{View: o.View, Events: []job.Event{o.Event}})
		require.Nil(t, p)
		return d
	}
	own := map[string]any{"id": id, "pattern": pattern, "hardness": "hard", "seed": seed, "did": []any{}}
	with := func(more map[string]any) map[string]any {
		out := map[string]any{}
		for _, m := range []map[string]any{own, more} {
			for k, v := range m {
				out[k] = v
			}
		}
		return out
	}
	d := open()
	var did []any
	var told strings.Builder
	for _, act := range []map[string]any{{"do": "press", "value": 200, "n": 10}, {"do": "test", "id": "hold"}, {"do": "stroke", "at": "LR", "n": 3}} {
		raw, p := ask(d, "practise", with(map[string]any{"did": append([]any{}, did...), "act": act}))
		require.Nil(t, p, "%+v", p)
		told.Write(raw)
		var v practice.View
		require.NoError(t, json.Unmarshal(raw, &v))
		require.NotNil(t, v.Seen)
		did = append(did, v.Done)
	}
	again := open()
	first, p := ask(d, "practise", with(map[string]any{"did": did}))
	require.Nil(t, p)
	second, p := ask(again, "practise", with(map[string]any{"did": did}))
	require.Nil(t, p)
	assert.JSONEq(t, string(first), string(second))
	for _, word := range []string{"truth", "mc.", "circuit.", "vacuum.", "wheel.leak"} {
		assert.NotContains(t, told.String()+string(first), `"`+word, "no fault is named")
	}
	raw, p := ask(again, "practise", with(map[string]any{"did": did, "end": true}))
	require.Nil(t, p)
	var r practice.Result
	require.NoError(t, json.Unmarshal(raw, &r))
	assert.False(t, r.Right)
	assert.Greater(t, len(r.Truth), 1, "hard")
	assert.Equal(t, practice.LearnFree, r.Teaches)
	_, p = ask(d, "practise", with(map[string]any{"id": "elsewhere"}))
	assert.Equal(t, "problem.not_found", p.Code)
	_, p = ask(d, "practise", with(map[string]any{"did": did, "act": map[string]any{"do": "fly"}}))
	assert.Equal(t, "problem.faults", p.Code)
}

// What the exercises that are set have is not in what a browser is given.
func TestNoBrowserIsGivenTheExercises(t *testing.T) {
	cmd := exec.Command("go", "list", "-deps", "../cmd/core")
	cmd.Env = append(os.Environ(), "GOOS=js", "GOARCH=wasm")
	out, err := cmd.CombinedOutput()
	require.NoError(t, err, string(out))
	assert.Contains(t, string(out), "geminate/ground/practice\n")
	assert.NotContains(t, string(out), "practice/thirty")
}
