package server_test

import (
	"bytes"
	"log/slog"
	"net/http"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/server"
)

// What lets somebody in is in no line of the log, and a password typed as a name goes nowhere.
func TestTheLogKeepsNoSecret(t *testing.T) {
	var log bytes.Buffer
	c, _ := shop(t, func(cfg *server.Config) {
		cfg.Log = slog.New(slog.NewTextHandler(&log, &slog.HandlerOptions{Level: slog.LevelDebug}))
	})
	id := c.as("mara").pickup()
	pass := c.send("POST", "/api/jobs/"+id+"/pass", nil, 200)["path"].(string)
	token := pass[len("/call/"):]
	c.get("/api/calls/"+token, 200)
	paper := c.send("POST", "/api/jobs/"+id+"/paper", nil, 200)["path"].(string)
	require.Equal(t, 200, c.raw("GET", paper, nil, nil).StatusCode)
	stranger := &client{t: t, app: c.app, cookies: map[string]string{}, router: c.router}
	stranger.send("POST", "/api/session", map[string]any{"name": "my own pass phrase", "password": "oops"}, http.StatusUnauthorized)
	stranger.send("POST", "/api/welcome/a-link-of-somebody", map[string]any{"password": "correct horse battery"}, http.StatusForbidden)
	for _, secret := range []string{token, paper[len("/api/papers/"):], "my own pass phrase", "a-link-of-somebody"} {
		assert.NotContains(t, log.String(), secret)
	}
	assert.Contains(t, log.String(), "/api/calls/…")
	audit := &bytes.Buffer{}
	c.as("piet")
	_, err := audit.ReadFrom(c.raw("GET", "/api/audit", nil, nil).Body)
	require.NoError(t, err)
	assert.Contains(t, audit.String(), "sign_in_failed")
	assert.NotContains(t, audit.String(), "my own pass phrase")
}

// An account that is closed hears nothing more within seconds, and nobody takes all the streams there are.
func TestStreamsEndWithTheAccountAndAreShared(t *testing.T) {
	c, st := shop(t)
	id := c.as("sunny").pickup()
	base := c.listen()
	lines, stop := listenLive(t, c, base, id, "tab=one&since=0")
	defer stop()
	waitFor(t, lines, `"kind":"opened"`)
	var stops []func()
	full := 0
	for n := range 40 {
		req, err := http.NewRequestWithContext(t.Context(), "GET",
			base+"/api/jobs/"+id+"/live?tab=t"+string(rune('a'+n%26))+string(rune('a'+n/26))+"&since=0", nil)
		require.NoError(t, err)
		for k, v := range c.cookies {
			req.AddCookie(&http.Cookie{Name: k, Value: v})
		}
		res, err := http.DefaultClient.Do(req)
		require.NoError(t, err)
		stops = append(stops, func() { _ = res.Body.Close() })
		if res.StatusCode == http.StatusServiceUnavailable {
			full++
		}
	}
	defer func() {
		for _, s := range stops {
			s()
		}
	}()
	assert.GreaterOrEqual(t, full, 16, "one account has its share")
	u, err := st.UserByName(t.Context(), "sunny")
	require.NoError(t, err)
	require.NoError(t, st.SetAccount(t.Context(), u, true))
	ended := make(chan struct{})
	go func() {
		for range lines { //nolint:revive // what is still told is read until the end
		}
		close(ended)
	}()
	select {
	case <-ended:
	case <-time.After(10 * time.Second):
		t.Fatal("a closed account still listens")
	}
}

// A helper's pass ends when the vehicle is no longer worked on.
func TestAHelpersPassEndsWithTheWork(t *testing.T) {
	c, _ := shop(t)
	c.as("piet")
	id := c.send("POST", "/api/jobs", map[string]any{"vehicle": "Van", "plate": "", "customer": "", "complaint": "soft", "pattern": "car-front-rear-vacuum"}, 200)["id"].(string)
	path := c.send("POST", "/api/jobs/"+id+"/pass", nil, 200)["path"].(string)
	api := "/api/calls/" + path[len("/call/"):]
	c.get(api, 200)
	c.send("POST", "/api/jobs/"+id+"/events", event("away", "put_away", map[string]any{"why": "not coming"}), 200)
	c.get(api, http.StatusForbidden)
}

// A role's own limit: what it may not ask is not read to be told so.
func TestNoBodyIsReadForARoleThatMayNotAsk(t *testing.T) {
	c, _ := shop(t)
	base := c.listen()
	c.as("sunny")
	post := func(path string, bytesLong int) int {
		req, err := http.NewRequest("POST", base+path, bytes.NewReader(bytes.Repeat([]byte(" "), bytesLong)))
		require.NoError(t, err)
		req.Header.Set("Content-Type", "application/json")
		req.AddCookie(&http.Cookie{Name: "geminate_session", Value: c.cookies["geminate_session"]})
		res, err := http.DefaultClient.Do(req)
		require.NoError(t, err)
		_ = res.Body.Close()
		return res.StatusCode
	}
	assert.Equal(t, http.StatusRequestEntityTooLarge, post("/api/catalogue/import", 1<<20))
	c.as("piet")
	assert.NotEqual(t, http.StatusRequestEntityTooLarge, post("/api/catalogue/import", 1<<20))
}
