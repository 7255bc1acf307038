package server_test

import (
	"encoding/json"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A practice vehicle is its learner's: nobody else works on it, two screens do not both, it is none of the bay's, a
// certificate comes after its end, and the end stays what it was. What is set to some is seen by them, without its
// seed.
func TestAPracticeVehicleIsItsLearners(t *testing.T) {
	c, _ := shop(t)
	bay := len(c.as("sunny").get("/api/jobs", 200)["jobs"].([]any))
	c.send("POST", "/api/practice", map[string]any{"exercise": "no such"}, 422)
	v := c.send("POST", "/api/practice", map[string]any{"exercise": "finding_1"}, 200)
	id := v["job"].(string)
	path := "/api/practice/" + id
	assert.Len(t, c.get("/api/jobs", 200)["jobs"], bay, "none of the bay's")
	act := func(after int, a map[string]any, want int) map[string]any {
		return c.send("POST", path+"/acts", map[string]any{"after": after, "act": a}, want)
	}
	seen := act(0, map[string]any{"do": "press", "value": 200, "n": 10}, 200)["seen"].(map[string]any)
	assert.Equal(t, true, seen["pressed"])
	assert.Equal(t, "problem.practice_other", act(0, map[string]any{"do": "press", "value": 200, "n": 10}, 409)["code"],
		"told twice, done once")
	act(1, map[string]any{"do": "fly"}, 422)
	act(1, map[string]any{"do": "test", "id": "hold"}, 200)
	var stand []map[string]any
	raw := c.raw("POST", path+"/instruments", []byte("{}"), map[string]string{"X-Csrf-Token": c.token()})
	require.NoError(t, json.NewDecoder(raw.Body).Decode(&stand))
	require.Len(t, stand, 5)
	require.Eventually(t, func() bool {
		var list []map[string]any
		require.NoError(t, json.Unmarshal([]byte(c.list("/api/instruments")), &list))
		told := map[any]bool{}
		for _, i := range list {
			told[i["kind"]] = i["last"] != nil && i["job"] == id
		}
		return told["force"] && told["travel"] && told["scale"] && told["foot_switch"]
	}, 3*time.Second, 50*time.Millisecond)
	act(2, map[string]any{"do": "stroke", "at": "LF", "n": 3}, 200)
	var told []map[string]any
	require.NoError(t, json.Unmarshal([]byte(c.list("/api/instruments")), &told))
	for _, i := range told {
		if v := i["last"]; i["kind"] == "foot_switch" {
			assert.InDelta(t, 3, v.(map[string]any)["v"], 1e-9, "the foot switch felt the strokes")
		}
	}
	for _, who := range []string{"mara", "piet"} {
		c.as(who)
		act(3, map[string]any{"do": "fill"}, 404)
	}
	c.get(path, 200) // the lead may look
	c.as("mara").get(path, 404)
	c.as("sunny")
	assert.Equal(t, 409, c.raw("GET", path+"/certificate.pdf", nil, nil).StatusCode)
	first := c.send("POST", path+"/end", nil, 200)
	assert.Equal(t, first, c.send("POST", path+"/end", nil, 200))
	assert.Equal(t, "problem.practice_ended", act(3, map[string]any{"do": "fill"}, 409)["code"])
	assert.Equal(t, "problem.certificate_least", c.send("GET", path+"/certificate.pdf", nil, 409)["code"],
		"a few acts are no exercise worked")

	me := c.get("/api/session", 200)["user"].(map[string]any)["id"].(string)
	c.send("POST", "/api/practice/sets", map[string]any{"exercise": "finding_2"}, 403)
	c.as("piet").send("POST", "/api/practice/sets", map[string]any{"exercise": "finding_2", "due_on": "someday"}, 422)
	set := c.send("POST", "/api/practice/sets",
		map[string]any{"exercise": "free", "pattern": "truck-hydraulic", "due_on": "2026-12-24", "people": []string{me}}, 200)
	assert.NotContains(t, set, "seed")
	assert.Contains(t, c.list("/api/practice/results.csv"), "Sunny")
	assert.Empty(t, c.as("mara").get("/api/practice", 200)["sets"])
	c.send("POST", "/api/practice", map[string]any{"exercise": "free", "set": set["id"]}, 404)
	list := c.as("sunny").get("/api/practice", 200)["sets"].([]any)
	require.Len(t, list, 1)
	assert.Empty(t, list[0].(map[string]any)["people"], "who else is the lead's to know")
	begun := c.send("POST", "/api/practice", map[string]any{"exercise": "free", "set": set["id"]}, 200)
	assert.Equal(t, "truck-hydraulic", begun["pattern"])
	assert.Equal(t, begun["job"],
		c.send("POST", "/api/practice", map[string]any{"exercise": "free", "set": set["id"]}, 200)["job"],
		"begun again it is gone on with")
	c.send("POST", "/api/practice/"+begun["job"].(string)+"/end", nil, 200)
	c.send("POST", "/api/practice", map[string]any{"exercise": "free", "set": set["id"]}, 409)
	c.as("piet").send("DELETE", "/api/practice/sets/"+set["id"].(string), nil, 200)
	assert.Empty(t, c.as("sunny").get("/api/practice", 200)["sets"])
}
