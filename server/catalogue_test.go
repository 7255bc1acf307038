package server_test

import (
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/instrument"
	"geminate/server"
)

func signedIn(t *testing.T, change ...func(*server.Config)) *client {
	t.Helper()
	c, _ := shop(t, change...)
	return c.as("piet")
}

// follow asks for an import until it is over.
func follow(c *client, id string) map[string]any {
	var v map[string]any
	require.Eventually(c.t, func() bool {
		v = c.get("/api/catalogue/imports/"+id, http.StatusOK)
		return v["state"] != "running"
	}, 20*time.Second, 30*time.Millisecond)
	return v
}

func TestImportSearchAndExport(t *testing.T) {
	c := signedIn(t)
	before := c.send("POST", "/api/catalogue/search", map[string]any{"within_mm": 0.1}, http.StatusOK)["all"].(float64)
	bad := follow(
		c,
		c.send("POST", "/api/catalogue/import", map[string]any{"name": "bad.csv", "content": "id,bore\na,1\nb,banana\n"}, http.StatusOK)["id"].(string),
	)
	assert.Equal(t, "refused", bad["state"])
	assert.EqualValues(t, 3, bad["problems"].([]any)[0].(map[string]any)["line"])
	after := c.send("POST", "/api/catalogue/search", map[string]any{"within_mm": 0.1}, http.StatusOK)["all"].(float64)
	assert.Equal(t, before, after, "not a row of it")

	for range 2 { // safe to repeat
		good := follow(
			c,
			c.send("POST", "/api/catalogue/import", map[string]any{"name": "good.csv", "content": "id,maker,number,bore,stud_spacing_mm\nq1,Marrowby,M 1,15/16,61.5\nq2,Marrowby,M 2,15/16,63\n"}, http.StatusOK)["id"].(string),
		)
		assert.Equal(t, "done", good["state"])
	}
	found := c.send("POST", "/api/catalogue/search",
		map[string]any{"within_mm": 0.1, "bore_mm": 23.8, "stud_spacing_mm": 61.45}, http.StatusOK)
	require.Len(t, found["units"], 1)
	assert.Equal(t, "q1", found["units"].([]any)[0].(map[string]any)["id"])
	c.send("POST", "/api/catalogue/search", map[string]any{"within_mm": -1}, http.StatusUnprocessableEntity)
	c.send("POST", "/api/catalogue/shelf", map[string]any{"id": "q1", "on": true}, http.StatusOK)
	found = c.send("POST", "/api/catalogue/search", map[string]any{"within_mm": 0.1, "bore_mm": 23.8, "stud_spacing_mm": 61.45},
		http.StatusOK)
	assert.Equal(t, []any{"q1"}, found["shelved"])
	c.send("POST", "/api/catalogue/shelf", map[string]any{"id": "none", "on": true}, http.StatusNotFound)
	c.get("/api/catalogue/imports/none", http.StatusNotFound)
	res := c.raw("GET", "/api/catalogue/units.csv", nil, nil)
	defer func() { _ = res.Body.Close() }()
	assert.Equal(t, http.StatusOK, res.StatusCode)
	assert.True(t, strings.HasPrefix(res.Header.Get("Content-Type"), "text/csv"))
}

func TestWhatIfMeasureAndStamps(t *testing.T) {
	c := signedIn(t)
	job := "/api/jobs/" + c.pickup()
	v := c.send("POST", job+"/diagnose", map[string]any{"without": []string{"pedal.sinks"}}, http.StatusOK)
	assert.Contains(t, v, "result")
	m := c.send("POST", job+"/measure", map[string]any{"test": "water", "values": map[string]any{"vehicle": 4.2}}, http.StatusOK)
	assert.Contains(t, m["notes"], "water_not_hard")
	bad := c.send("POST", job+"/measure", map[string]any{"test": "water", "values": map[string]any{}}, http.StatusUnprocessableEntity)
	assert.Equal(t, "$.values.vehicle", bad["faults"].([]any)[0].(map[string]any)["path"])
	b := c.send("POST", "/api/bore", map[string]any{"stamp": "15/16", "diameter_mm": 9.9, "pitch_mm": 1}, http.StatusOK)
	assert.Equal(t, "15/16 in", b["bore"].(map[string]any)["nearest"])
	assert.Equal(t, "M10x1", b["threads"].([]any)[0].(map[string]any)["id"])
	c.send("POST", "/api/bore", map[string]any{"stamp": "banana"}, http.StatusUnprocessableEntity)
}

func TestCounterSurvivesAnything(t *testing.T) {
	none := signedIn(t)
	assert.Equal(t, "none", none.send("POST", "/api/counter", map[string]any{"number": "x"}, http.StatusOK)["state"])
	busy := httptest.NewServer(&instrument.Counter{FailRate: 1})
	defer busy.Close()
	c := signedIn(t, func(cfg *server.Config) { cfg.Counter = busy.URL })
	v := c.send("POST", "/api/counter", map[string]any{"number": "x"}, http.StatusOK)
	assert.Equal(t, "silent", v["state"])
	assert.Nil(t, v["offer"], "no price is made up")
	well := httptest.NewServer(&instrument.Counter{})
	defer well.Close()
	c = signedIn(t, func(cfg *server.Config) { cfg.Counter = well.URL })
	assert.Equal(t, "ok", c.send("POST", "/api/counter", map[string]any{"number": "x"}, http.StatusOK)["state"])
	c.send("POST", "/api/counter", map[string]any{"number": ""}, http.StatusUnprocessableEntity)
}
