package server_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/bleed"
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
	phone.send("POST", seat, map[string]any{"after": 0}, 200) // the sign that it is there
	say(c, bleeder, "pump")
	began := time.Now()
	waitFor(t, lines, `"at":"pump"`)
	t.Logf("told after %v", time.Since(began))
	// Nothing is opened on silence: the phone is there, so its answer is waited for.
	apart := func() { time.Sleep(time.Duration(bleed.CallGapS * 1.05 * float64(time.Second))) }
	apart()
	v := c.send("POST", bleeder, map[string]any{"word": "open", "after": n}, 409)
	assert.Equal(t, "problem.not_said_now", v["code"])
	say(phone, seat, "holding")
	say(c, bleeder, "open")
	// A word said to what has changed since is not taken; and a second tap too soon is the same one.
	v = phone.send("POST", seat, map[string]any{"word": "up", "after": n - 1}, 200)
	call, _ := at(v)
	assert.Equal(t, "open", call)
	v = c.send("POST", bleeder, map[string]any{"word": "closed", "after": n}, 200)
	call, _ = at(v)
	assert.Equal(t, "open", call)
	time.Sleep(time.Duration(bleed.OpenLeastS * float64(time.Second)))
	v = c.send("POST", bleeder, map[string]any{"word": "closed", "after": n, "next": true}, 200)
	_, n = at(v)
	v = say(phone, seat, "up")
	assert.Equal(t, "opening", v["outcome"])
	call, _ = at(v)
	assert.Equal(t, "pump", call, "the next one is called with it")
	assert.Equal(t, "here", v["other"])
	// A foot that came up by what its screen showed is told late where the one below was quicker: never refused.
	late := phone.send("POST", seat, map[string]any{"word": "lifted", "after": n - 2}, 200)
	call, n = at(late)
	assert.Equal(t, "pump", call)
	assert.Equal(t, 1.0, late["calling"].(map[string]any)["lost_openings"])
	// The bleeder went on alone from here, and the seat let go meanwhile: what may be open is open, and does not count.
	mine := v["calling"].(map[string]any)
	mine["at"], mine["n"] = "open", n+2
	apart()
	say(phone, seat, "holding")
	v = c.send("POST", bleeder, map[string]any{"merge": mine, "after": 0}, 200)
	call, n = at(v)
	assert.Equal(t, "lifted", call)
	assert.Equal(t, true, v["calling"].(map[string]any)["lost"])
	mine["wheel"] = strings.Repeat("R", 200)
	c.send("POST", bleeder, map[string]any{"merge": mine, "after": 0}, 400)
	// The phone drops out: the screen is read aloud and takes the answers that were heard.
	stop()
	// With its pass a phone does nothing else.
	assert.Equal(t, 401, phone.raw("GET", "/api/jobs/"+id, nil, nil).StatusCode)
	assert.Equal(t, 401,
		phone.raw("POST", "/api/jobs/"+id+"/call", []byte(`{}`), map[string]string{"Content-Type": "application/json"}).StatusCode)
	assert.Equal(t, 403, phone.raw("GET", "/api/calls/guessed", nil, nil).StatusCode)
	phone.send("POST", api, map[string]any{"word": "open", "after": n}, 409) // the seat never opens
	phone.send("POST", api, map[string]any{"merge": mine, "after": 0}, 200)  // nor does it say what the bleeder did
	v = phone.send("POST", api, map[string]any{"word": "stop", "after": 0}, 200)
	call, _ = at(v)
	assert.Equal(t, "stop", call, "either may say stop, whatever the other screen saw")
	time.Sleep(time.Duration(bleed.CallSilentS * 1.1 * float64(time.Second)))
	v = c.send("POST", bleeder, map[string]any{"after": 0}, 200)
	assert.Equal(t, "gone", v["other"])
	assert.Equal(t, true, v["alone"])
}
