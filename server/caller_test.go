package server_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/server"
)

func at(v map[string]any) (call string, n int) {
	c := v["calling"].(map[string]any)
	return c["at"].(string), int(c["n"].(float64))
}

// A helper's phone has a pass for the calls of one job and for nothing else; what one says the other hears.
func TestTwoScreensOneCall(t *testing.T) {
	c, _ := shop(t, func(cfg *server.Config) { cfg.Addresses = []string{"https://shop.local:8443"} })
	id := c.as("mara").pickup()
	pass := c.send("POST", "/api/jobs/"+id+"/pass", nil, 200)
	path := pass["path"].(string)
	require.Contains(t, path, "/call/")
	assert.Contains(t, pass["addresses"].([]any)[0].(map[string]any)["url"], "https://shop.local:8443/call/")
	api := "/api/calls/" + path[len("/call/"):]
	phone := &client{t: t, app: c.app, cookies: map[string]string{}, router: c.router}
	_, n := at(c.send("POST", "/api/jobs/"+id+"/call", map[string]any{"begin": "RR", "with": "pedal", "after": 0}, 200))
	lines, stop := listenAt(t, phone, c.listen()+api+"/live")
	waitFor(t, lines, `"wheel":"RR"`)
	say := func(who *client, url, word string) map[string]any {
		v := who.send("POST", url, map[string]any{"word": word, "after": n}, 200)
		_, n = at(v)
		return v
	}
	bleeder, seat := "/api/jobs/"+id+"/call", api
	say(c, bleeder, "pump")
	began := time.Now()
	say(c, bleeder, "hold")
	waitFor(t, lines, `"at":"hold"`)
	t.Logf("told after %v", time.Since(began))
	// Nothing is opened on silence: the phone is there, so its answer is waited for.
	v := c.send("POST", bleeder, map[string]any{"word": "open", "after": n}, 409)
	assert.Equal(t, "problem.not_said_now", v["code"])
	say(phone, seat, "holding")
	say(c, bleeder, "open")
	// A word said to what has changed since is not taken.
	v = phone.send("POST", seat, map[string]any{"word": "lifted", "after": n - 1}, 200)
	call, _ := at(v)
	assert.Equal(t, "open", call)
	say(c, bleeder, "closed")
	v = say(phone, seat, "up")
	assert.Equal(t, "opening", v["outcome"])
	// The phone drops out: the screen is read aloud and takes the answers that were heard.
	stop()
	// With its pass a phone does nothing else.
	assert.Equal(t, 401, phone.raw("GET", "/api/jobs/"+id, nil, nil).StatusCode)
	assert.Equal(t, 401, phone.raw("POST", "/api/jobs/"+id+"/call", []byte(`{}`), map[string]string{"Content-Type": "application/json"}).StatusCode)
	assert.Equal(t, 403, phone.raw("GET", "/api/calls/guessed", nil, nil).StatusCode)
	phone.send("POST", api, map[string]any{"word": "open", "after": n}, 409) // the seat never opens
	say(c, bleeder, "pump")
	v = phone.send("POST", api, map[string]any{"word": "stop", "after": 0}, 200)
	call, _ = at(v)
	assert.Equal(t, "stop", call, "either may say stop, whatever the other screen saw")
}
