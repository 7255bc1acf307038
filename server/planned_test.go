package server_test

import (
	"io"
	"net/http"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A vehicle put down for a day stands apart in the bay until then, and in the calendar; one whose day it is stands
// where it waits.
func TestPutDownForADay(t *testing.T) {
	c, _ := shop(t)
	c.as("piet")
	open := func(vehicle, day string) string {
		return c.send("POST", "/api/jobs", map[string]any{"vehicle": vehicle, "plate": "", "customer": "", "complaint": "soft pedal", "pattern": "car-front-rear-vacuum", "for_day": day, "have_ready": "DOT 4; a helper"}, http.StatusOK)["id"].(string)
	}
	later := time.Now().UTC().AddDate(0, 0, 3).Format(time.DateOnly)
	open("Later van", later)
	open("Today van", time.Now().UTC().Format(time.DateOnly))
	bands := map[string]any{}
	for _, j := range c.get("/api/jobs?standing=open", http.StatusOK)["jobs"].([]any) {
		card := j.(map[string]any)
		bands[card["vehicle"].(string)] = card["status"].(map[string]any)["band"]
	}
	assert.Equal(t, "planned", bands["Later van"])
	assert.Equal(t, "decision", bands["Today van"])
	c.send("POST", "/api/jobs",
		map[string]any{"vehicle": "x", "plate": "", "customer": "", "complaint": "", "pattern": "car-front-rear-vacuum", "for_day": "soon"},
		http.StatusUnprocessableEntity)

	token := c.send("POST", "/api/tokens", map[string]any{"name": "calendar"}, http.StatusOK)["secret"].(string)
	res := c.raw("GET", "/api/due.ics?token="+token, nil, nil)
	body, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	assert.Contains(t, string(body), "Later van: soft pedal")
	assert.Contains(t, string(body), "DESCRIPTION:DOT 4\\; a helper")
}
