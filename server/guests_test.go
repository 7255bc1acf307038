package server_test

import (
	"net/http"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/job"
	"geminate/server"
)

// A guest comes by a link, works the one exercise it is of as anybody would, and sees nothing else of the shop: every
// route of the API asked for another's job refuses. When the exercise is taken back the guest is gone with it.
func TestAGuestWorksOneExerciseAndSeesNothingElse(t *testing.T) {
	c, _ := shop(t)
	pickup := c.as("piet").pickup()
	set := c.send("POST", "/api/practice/sets",
		map[string]any{"exercise": "free", "pattern": "truck-hydraulic", "hardness": "plain", "seed": 7}, 200)
	other := c.send("POST", "/api/practice/sets", map[string]any{"exercise": "finding_1"}, 200)
	late := c.send("POST", "/api/practice/sets", map[string]any{"exercise": "finding_1", "due_on": "2020-01-01"}, 200)
	c.send("POST", "/api/practice/sets/"+late["id"].(string)+"/link", nil, 422)
	path := c.send("POST", "/api/practice/sets/"+set["id"].(string)+"/link", nil, 200)["path"].(string)
	pass := strings.TrimPrefix(path, "/guest/")
	accounts := strings.Count(c.list("/api/accounts"), `"role"`)

	g := plain(c)
	g.send("POST", "/api/guests/made-up", map[string]any{"display": "Ilse"}, 403)
	g.send("POST", "/api/guests/"+pass, map[string]any{"display": " "}, 422)
	g.send("POST", "/api/welcome/"+pass, map[string]any{"password": "correct horse lamp"}, 403)
	me := g.send("POST", "/api/guests/"+pass, map[string]any{"display": "Ilse"}, 200)["user"].(map[string]any)
	assert.Equal(t, "guest", me["role"])
	list := g.get("/api/practice", 200)
	assert.Empty(t, list["exercises"])
	require.Len(t, list["sets"], 1)
	g.send("POST", "/api/practice", map[string]any{"exercise": "finding_1"}, 404)
	g.send("POST", "/api/practice", map[string]any{"exercise": "finding_1", "set": other["id"]}, 404)
	v := g.send("POST", "/api/practice", map[string]any{"exercise": "free", "set": set["id"]}, 200)
	id := v["job"].(string)
	assert.NotContains(t, v, "own", "what is set is worked at the server")

	// Of their own: everything a learner does.
	g.send("POST", "/api/practice/"+id+"/acts",
		map[string]any{"after": 0, "act": map[string]any{"do": "press", "value": 200, "n": 10}}, 200)
	g.get("/api/jobs/"+id, 200)
	g.get("/api/jobs/"+id+"/diagnose", 200)
	g.send("POST", "/api/jobs/"+id+"/events", event("g1", job.KindNote, map[string]any{"text": "soft"}), 200)

	g.send("POST", "/api/jobs/"+id+"/pattern", map[string]any{"name": "mine"}, 403) // the shop's for good
	// Of all else: nothing. What they may ask of the shop is listed here, so that a new route is thought about.
	may := []string{
		"session",
		"signOut",
		"setPreferences",
		"ownPassword",
		"trouble",
		"vocabulary",
		"checkSystem",
		"search",
		"bore",
		"practices",
		"beginPractice",
	}
	for _, r := range server.Routes() {
		if r.Open || slices.Contains(may, r.ID) {
			continue
		}
		res := g.raw(r.Method, "/api"+strings.NewReplacer("{id}", pickup, "{photo}", pickup, "{pass}", "x").Replace(r.Path),
			bodyFor(r.ID, pickup), map[string]string{"X-Csrf-Token": g.token()})
		assert.Contains(t, []int{http.StatusForbidden, http.StatusNotFound}, res.StatusCode, "%s %s", r.Method, r.Path)
	}
	for _, live := range []string{"/live?tab=a&since=0", "/call/live", "/figures/live"} {
		assert.Equal(t, http.StatusForbidden, g.raw("GET", "/api/jobs/"+pickup+live, nil, nil).StatusCode, live)
	}
	assert.Contains(t, []int{http.StatusUnauthorized, http.StatusForbidden}, g.raw("GET", "/api/out/jobs.csv", nil, nil).StatusCode)

	end := g.send("POST", "/api/practice/"+id+"/end", nil, 200)
	assert.Equal(t, "free", end["teaches"])
	assert.Len(t, end["truth"], 1, "plain")
	assert.Equal(t, accounts, strings.Count(c.as("piet").list("/api/accounts"), `"role"`), "no account of the shop")
	assert.Contains(t, c.list("/api/practice/results.csv"), "Ilse")
	c.send("DELETE", "/api/practice/sets/"+set["id"].(string), nil, 200)
	assert.Nil(t, g.get("/api/session", 200)["user"])
	g.send("POST", "/api/guests/"+pass, map[string]any{"display": "Ilse"}, 403)
}

// Free practice begun where the server could not be reached comes with its vehicle, and with what was done to it; only
// its learner brings it, only onto what is known, and what is brought twice is there once.
func TestPracticeIsBroughtFromElsewhere(t *testing.T) {
	c, _ := shop(t)
	const id = "0b9e8b1e-0000-4000-8000-00000000abcd"
	opening := map[string]any{
		"id":                id,
		"event_id":          "0b9e8b1e-0000-4000-8000-00000000abce",
		"vehicle":           "Practice",
		"plate":             "",
		"customer":          "",
		"complaint":         "-",
		"pattern":           "truck-hydraulic",
		"practice":          true,
		"practice_seed":     7,
		"practice_hardness": "hard",
	}
	c.as("sunny").
		send("POST", "/api/jobs", map[string]any{"vehicle": "x", "complaint": "x", "pattern": "truck-hydraulic", "practice_seed": 1 << 40}, 422)
	c.send("POST", "/api/jobs", opening, 200)
	c.send("POST", "/api/jobs", opening, 200)
	v := c.get("/api/practice/"+id, 200)
	own := v["own"].(map[string]any)
	assert.EqualValues(t, 7, own["seed"])
	press := map[string]any{"do": "press", "value": 200.0, "n": 10, "head": 1, "seconds": 0}
	brought := map[string]any{"pattern": "truck-hydraulic", "hardness": "hard", "seed": 7, "did": []any{press, press}}
	for range 2 {
		v = c.send("POST", "/api/practice/"+id+"/brought", brought, 200)
		assert.EqualValues(t, 2, v["stands"].(map[string]any)["acts"])
	}
	c.send("POST", "/api/practice/"+id+"/acts", map[string]any{"after": 2, "act": map[string]any{"do": "fill"}}, 200)
	c.send("POST", "/api/practice/"+id+"/brought", brought, 409) // less than is known
	brought["did"] = []any{
		press,
		press,
		map[string]any{"do": "fill", "head": 1, "seconds": 0},
		map[string]any{"do": "fly", "head": 1, "seconds": 0},
	}
	c.send("POST", "/api/practice/"+id+"/brought", brought, 422)
	assert.EqualValues(t, 3, c.get("/api/practice/"+id, 200)["stands"].(map[string]any)["acts"], "what cannot be brought changes nothing")
	brought["seed"] = 8
	c.send("POST", "/api/practice/"+id+"/brought", brought, 409)
	c.as("mara").send("POST", "/api/practice/"+id+"/brought", brought, 404)
}
