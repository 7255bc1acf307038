package server_test

import (
	"bufio"
	"context"
	"encoding/json"
	"net/http"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/job"
	"geminate/demo"
	"geminate/server"
	"geminate/store"
)

var errDisk = syscall.ENOSPC

// listenLive opens a job's stream and gives its lines.
func listenLive(t *testing.T, c *client, base, id, query string) (lines chan string, stop func()) {
	t.Helper()
	return listenAt(t, c, base+"/api/jobs/"+id+"/live?"+query)
}

func listenAt(t *testing.T, c *client, url string) (lines chan string, stop func()) {
	t.Helper()
	ctx, cancel := context.WithCancel(t.Context())
	req, err := http.NewRequestWithContext(ctx, "GET", url, nil)
	require.NoError(t, err)
	for k, v := range c.cookies {
		req.AddCookie(&http.Cookie{Name: k, Value: v})
	}
	res, err := http.DefaultClient.Do(req)
	require.NoError(t, err)
	require.Equal(t, 200, res.StatusCode)
	assert.Equal(t, "text/event-stream", res.Header.Get("Content-Type"))
	lines = make(chan string, 1000)
	go func() {
		defer func() { _ = res.Body.Close() }()
		in := bufio.NewScanner(res.Body)
		in.Buffer(nil, 1<<20)
		for in.Scan() {
			lines <- in.Text()
		}
		close(lines)
	}()
	return lines, cancel
}

// waitFor reads lines until one holds a text.
func waitFor(t *testing.T, lines chan string, text string) string {
	t.Helper()
	after := time.After(5 * time.Second)
	for {
		select {
		case l, ok := <-lines:
			require.True(t, ok, "the stream ended before %q", text)
			if strings.Contains(l, text) {
				return l
			}
		case <-after:
			t.Fatalf("%q was not told", text)
		}
	}
}

// What is written through one server is told by another on the same database, with who is there.
func TestTheLiveLogTellsWhateverServerWrote(t *testing.T) {
	c, st := shop(t)
	id := c.as("mara").pickup()
	second := *c
	second.app = server.New(t.Context(), server.Config{Store: st, Demo: demo.Accounts})
	base := second.listen()
	lines, stop := listenLive(t, c, base, id, "tab=one&since=0")
	waitFor(t, lines, `"kind":"opened"`)
	assert.Contains(t, waitFor(t, lines, `"tab":"one"`), "Mara Oduya")
	assert.Equal(t, []any{"Mara Oduya"}, c.get("/api/jobs", 200)["here"].(map[string]any)[id], "and the bay says who is at it")
	began := time.Now()
	c.send("POST", "/api/jobs/"+id+"/events", event("s1", job.KindBleedStroke, map[string]any{"wheel": "RR"}), 200)
	told := waitFor(t, lines, `"id":"s1"`)
	assert.Less(t, time.Since(began), time.Second, "within a second")
	var e job.Event
	require.NoError(t, json.Unmarshal([]byte(strings.TrimPrefix(told, "data: ")), &e))
	assert.Equal(t, "Mara Oduya", e.By.Name)
	other, stopOther := listenLive(t, c, base, id, "tab=two&since=1")
	waitFor(t, other, `"id":"s1"`)
	waitFor(t, lines, `"tab":"two"`)
	stopOther()
	assert.Eventually(t, func() bool {
		who, err := st.WhoIsHere(context.Background(), id)
		return err == nil && len(who) == 1
	}, 10*time.Second, 50*time.Millisecond, "who leaves is gone")
	stop()
	assert.Equal(t, 400, c.raw("GET", "/api/jobs/"+id+"/live?tab=a%20b", nil, nil).StatusCode)
	c.send("DELETE", "/api/session", nil, 200)
	assert.Equal(t, 401, c.raw("GET", "/api/jobs/"+id+"/live?tab=x", nil, nil).StatusCode)
}

func TestHealthTellsAliveAndReadyApart(t *testing.T) {
	full := false
	c, st := shop(t, func(cfg *server.Config) {
		cfg.Disk = func() error {
			if full {
				return errDisk
			}
			return nil
		}
	})
	assert.Equal(t, true, c.get("/api/health", 200)["ready"])
	full = true
	time.Sleep(600 * time.Millisecond) // an answer stands for half a second
	h := c.get("/api/health", 503)
	assert.Equal(t, "problem.disk_full", h["code"])
	assert.Equal(t, true, h["alive"])
	full = false
	c.as("mara")
	time.Sleep(600 * time.Millisecond)
	require.NoError(t, st.Close()) // what a connection that cannot be had comes to
	assert.Equal(t, "problem.database", c.get("/api/health", 503)["code"])
	assert.Equal(t, true, c.get("/api/health/live", 200)["alive"])
	assert.Equal(t, "problem.database", c.get("/api/jobs", 503)["code"], "and so is every call")
	again, err := store.Open(context.Background(), "u:p@tcp(127.0.0.1:1)/none")
	require.Error(t, err)
	assert.Nil(t, again)
}
