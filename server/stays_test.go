package server_test

import (
	"encoding/json"
	"fmt"
	"net/http"
	"runtime"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/trace"
	"geminate/server"
)

// accountsOf lists the shop's accounts.
func (c *client) accountsOf() (out []map[string]any) {
	c.t.Helper()
	require.NoError(c.t, json.Unmarshal([]byte(c.list("/api/accounts")), &out))
	return out
}

// streams are the live streams there are, by what follows a job's address; a stream that is not in this list is not
// tried below.
var streams = []string{"/live?tab=a", "/call/live", "/figures/live"}

// Whoever is signed out, or whose account is closed, hears nothing more within five seconds, on whichever stream.
func TestNobodyGoesOnHearing(t *testing.T) {
	c, _ := shop(t)
	id := c.as("piet").pickup()
	c.instrument(trace.Force, "F")
	base := c.listen()
	for _, how := range []string{"signed out", "closed"} {
		mara := &client{t: t, app: c.app, cookies: map[string]string{}, router: c.router}
		mara.as("mara")
		var open []chan string
		for _, s := range streams {
			lines, _ := listenAt(t, mara, base+"/api/jobs/"+id+s)
			open = append(open, lines)
		}
		time.Sleep(200 * time.Millisecond)
		switch how {
		case "signed out":
			mara.send("DELETE", "/api/session", nil, 200)
		case "closed":
			for _, a := range c.as("piet").accountsOf() {
				if a["name"] == "mara" {
					c.send("PUT", "/api/accounts/"+a["id"].(string),
						map[string]any{"name": "mara", "display": a["display"], "role": a["role"], "trained": false, "disabled": true},
						200)
				}
			}
		}
		for i, lines := range open {
			ended := false
			after := time.After(6 * time.Second)
			for !ended {
				select {
				case _, more := <-lines:
					ended = !more
				case <-after:
					t.Fatalf("%s: %s goes on", how, streams[i])
				}
			}
		}
	}
}

// What anybody may ask without an account, and what it may cost: no more than reading a file. A route that is opened to
// all is put here with why, or this fails.
var openRoutes = map[string]string{
	"description":  "a file",
	"session":      "a row",
	"signIn":       "slowed by the lanes",
	"first":        "a count",
	"welcome":      "a row",
	"shopCalendar": "by a token",
	"out":          "by a token",
	"readings":     "by a secret",
	"guest":        "a row",
	"helperCall":   "a row",
	"helperSay":    "a row",
	"paper":        "a row",
}

func TestWhatAnybodyMayAskIsCheap(t *testing.T) {
	c, _ := shop(t)
	stranger := plain(c)
	for _, r := range server.Routes() {
		if !r.Open {
			assert.NotContains(t, openRoutes, r.ID)
			continue
		}
		require.Contains(t, openRoutes, r.ID, "opened to all, and nobody said what it costs")
		if r.ID == "signIn" { // its own tests
			continue
		}
		path := "/api" + strings.NewReplacer("{pass}", "nobody's", "{id}", "none").Replace(r.Path)
		ask := func() {
			res := stranger.raw(r.Method, path, []byte("{}"), nil)
			assert.NotEqual(t, http.StatusInternalServerError, res.StatusCode, r.ID)
			_ = res.Body.Close()
		}
		ask()
		var before, after runtime.MemStats
		runtime.ReadMemStats(&before)
		began := time.Now()
		for range 20 {
			ask()
		}
		took := time.Since(began) / 20
		runtime.ReadMemStats(&after)
		t.Logf("%-14s %-40s %8v %6d kB", r.ID, r.Path, took.Round(10*time.Microsecond), (after.TotalAlloc-before.TotalAlloc)/20/1024)
		assert.Less(t, int((after.TotalAlloc-before.TotalAlloc)/20/1024), 4000, "%s: kB an answer", r.ID)
	}
}

// Every route has a budget, and every budget a bound: the list of what this server bears. A route without one does not
// pass.
func TestEveryRouteHasABudget(t *testing.T) {
	list := server.Budgets()
	for _, r := range server.Routes() {
		b, ok := list[r.ID]
		require.True(t, ok, "%s has no budget", r.ID)
		most, ok := server.Bears[b]
		require.True(t, ok, "%s: budget %q bears nothing", r.ID, b)
		assert.Positive(t, most.AtOnce)
		assert.Positive(t, most.Each)
		assert.LessOrEqual(t, most.Each, most.AtOnce)
		delete(list, r.ID)
	}
	assert.Empty(t, list, "budgets of routes there are none of")
}

// One instrument's secret: so many packs at a time and a second, before anything of them is read; the shop goes on
// meanwhile.
func TestOneInstrumentStarvesNobody(t *testing.T) {
	c, _ := shop(t)
	c.as("piet")
	i := c.instrument(trace.Force, "F")
	base := c.listen()
	pack := "["
	for k := range 300 {
		pack += fmt.Sprintf(`{"n":"f","u":"N","v":%d,"t":-%d},`, k, k%100)
	}
	pack = strings.TrimSuffix(pack, ",") + "]"
	var mu sync.Mutex
	codes := map[int]int{}
	var all sync.WaitGroup
	for range 8 {
		all.Go(func() {
			for range 40 {
				req, _ := http.NewRequest("POST", base+"/api/readings", strings.NewReader(pack))
				req.Header.Set("Authorization", "Bearer "+i.Secret)
				req.Header.Set("Content-Type", "application/json")
				res, err := http.DefaultClient.Do(req)
				if err == nil {
					mu.Lock()
					codes[res.StatusCode]++
					mu.Unlock()
					_ = res.Body.Close()
				}
			}
		})
	}
	all.Wait()
	assert.Positive(t, codes[200])
	assert.Greater(t, codes[http.StatusTooManyRequests], 150, "%v", codes)
	assert.Zero(t, codes[500])
}

// Of links asked for at once the last alone works.
func TestOneLinkAnAccount(t *testing.T) {
	c, _ := shop(t)
	c.as("piet")
	var id string
	for _, a := range c.accountsOf() {
		if a["name"] == "mara" {
			id = a["id"].(string)
		}
	}
	var paths []string
	for range 4 {
		paths = append(paths, c.send("POST", "/api/accounts/"+id+"/link", nil, 200)["path"].(string))
	}
	good := 0
	for _, p := range paths {
		res := plain(c).raw("POST", "/api"+p, []byte(`{"password":"a long enough one 77"}`), nil)
		if res.StatusCode == 200 {
			good++
		}
		_ = res.Body.Close()
	}
	assert.Equal(t, 1, good)
}
