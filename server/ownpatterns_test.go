package server_test

import (
	"net/http"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A vehicle that was measured becomes a pattern of the shop's own: offered with the others, opened on by anybody, given
// up by the lead; a trainee opens with nothing but what the shop keeps.
func TestAShopKeepsAPatternOfItsOwn(t *testing.T) {
	c, _ := shop(t)
	c.as("mara")
	open := func(body map[string]any, want int) map[string]any {
		all := map[string]any{
			"vehicle":   "Courier van",
			"plate":     "",
			"customer":  "",
			"complaint": "soft",
			"pattern":   "car-front-rear-vacuum",
		}
		for k, v := range body {
			all[k] = v
		}
		return c.send("POST", "/api/jobs", all, want)
	}
	j := open(nil, http.StatusOK)
	id := j["id"].(string)
	intake := j["intake"].(map[string]any)
	intake["system"].(map[string]any)["master_cylinder"].(map[string]any)["bore_mm"] = 23.81
	c.send("PUT", "/api/jobs/"+id+"/intake", map[string]any{"version": j["intake_version"], "intake": intake}, http.StatusOK)
	c.send("POST", "/api/jobs/"+id+"/pattern", map[string]any{"name": "  "}, http.StatusUnprocessableEntity)
	for range 2 { // the same name again is the same one
		c.send("POST", "/api/jobs/"+id+"/pattern", map[string]any{"name": "Courier  van"}, http.StatusOK)
	}
	own := c.get("/api/vocabulary", http.StatusOK)["own_patterns"].([]any)
	require.Len(t, own, 1)
	kept := own[0].(map[string]any)
	assert.Equal(t, "Courier van", kept["name"])
	assert.Equal(t, "car-front-rear-vacuum", kept["pattern"])

	c.as("sunny")
	taken := open(map[string]any{"system": kept["system"]}, http.StatusOK)
	assert.InDelta(t, 23.81,
		taken["intake"].(map[string]any)["system"].(map[string]any)["master_cylinder"].(map[string]any)["bore_mm"], 1e-9)
	kept["system"].(map[string]any)["master_cylinder"].(map[string]any)["bore_mm"] = 31.0
	open(map[string]any{"system": kept["system"]}, http.StatusForbidden)
	drop := func(want int) { c.send("DELETE", "/api/own-patterns/"+kept["id"].(string), nil, want) }
	drop(http.StatusForbidden)
	c.as("piet")
	drop(http.StatusOK)
	assert.Empty(t, c.get("/api/vocabulary", http.StatusOK)["own_patterns"])
}
