package server_test

import (
	"io"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/job"
)

func (c *client) list(path string) string {
	c.t.Helper()
	res := c.raw("GET", path, nil, nil)
	body, err := io.ReadAll(res.Body)
	require.NoError(c.t, err)
	require.Equal(c.t, 200, res.StatusCode, "%s", body)
	return string(body)
}

func plain(c *client) *client {
	return &client{t: c.t, app: c.app, cookies: map[string]string{}, router: c.router}
}

// The lead adds accounts; a one-time link sets a password once; closing an account or signing it out ends its sessions;
// the last lead stays one.
func TestAccounts(t *testing.T) {
	c, _ := shop(t)
	c.as("piet")
	c.send("POST", "/api/accounts", map[string]any{"name": "X Y", "display": "", "role": "king", "trained": false, "disabled": false}, 422)
	u := c.send("POST", "/api/accounts",
		map[string]any{"name": "osmund", "display": "Osmund Varle", "role": "technician", "trained": true, "disabled": false},
		200)
	id := u["id"].(string)
	c.send("POST", "/api/accounts",
		map[string]any{"name": "osmund", "display": "Other", "role": "trainee", "trained": false, "disabled": false}, 422)
	link := c.send("POST", "/api/accounts/"+id+"/link", nil, 200)["path"].(string)
	welcome := "/api/welcome/" + strings.TrimPrefix(link, "/welcome/")
	osmund := plain(c)
	osmund.send("POST", welcome, map[string]any{"password": "short"}, 422)
	osmund.send("POST", welcome, map[string]any{"password": "nine quiet herons on a fence"}, 200)
	osmund.list("/api/jobs")
	plain(c).send("POST", welcome, map[string]any{"password": "another long enough phrase"}, 403)
	osmund.send("PUT", "/api/me/password", map[string]any{"old": "wrong", "password": "four tall masts in the haze"}, 401)
	osmund.send("PUT", "/api/me/password",
		map[string]any{"old": "nine quiet herons on a fence", "password": "four tall masts in the haze"}, 200)
	osmund.list("/api/jobs")
	c.send("POST", "/api/accounts/"+id+"/sign-out", nil, 200)
	assert.Equal(t, 401, osmund.raw("GET", "/api/jobs", nil, nil).StatusCode, "signed out everywhere")
	osmund.send("POST", "/api/session", map[string]any{"name": "osmund", "password": "four tall masts in the haze"}, 200)
	c.send("PUT", "/api/accounts/"+id,
		map[string]any{"name": "osmund", "display": "Osmund Varle", "role": "technician", "trained": false, "disabled": true},
		200)
	assert.Equal(t, 401, osmund.raw("GET", "/api/jobs", nil, nil).StatusCode, "closed")
	osmund.send("POST", "/api/session", map[string]any{"name": "osmund", "password": "four tall masts in the haze"}, 401)
	me := c.get("/api/session", 200)["user"].(map[string]any)
	c.send("PUT", "/api/accounts/"+me["id"].(string),
		map[string]any{"name": "piet", "display": "Piet", "role": "technician", "trained": false, "disabled": false}, 409)
}

// A one-time link works once however many use it at the same moment; a newer one and signing out everywhere end it.
func TestAOneTimeLinkWorksOnce(t *testing.T) {
	c, _ := shop(t)
	c.as("piet")
	id := c.send("POST", "/api/accounts", map[string]any{"name": "osmund", "display": "Osmund Varle", "role": "technician", "trained": true, "disabled": false}, 200)["id"].(string)
	link := func() string {
		return "/api/welcome/" + strings.TrimPrefix(c.send("POST", "/api/accounts/"+id+"/link", nil, 200)["path"].(string), "/welcome/")
	}
	body := map[string]any{"password": "nine quiet herons on a fence"}
	raw := []byte(`{"password":"nine quiet herons on a fence"}`)
	older := link()
	newer := link()
	plain(c).send("POST", older, body, 403)
	used := make(chan int, 8)
	for range 8 {
		p := plain(c)
		p.get("/api/session", 200)
		go func() {
			used <- p.raw("POST", newer, raw, map[string]string{"X-Csrf-Token": p.cookies["geminate_csrf"]}).StatusCode
		}()
	}
	ok := 0
	for range 8 {
		if <-used == 200 {
			ok++
		}
	}
	assert.Equal(t, 1, ok)
	third := link()
	c.send("POST", "/api/accounts/"+id+"/sign-out", nil, 200)
	plain(c).send("POST", third, body, 403)
}

// An empty shop makes its first account once, and no second one that way.
func TestTheFirstAccount(t *testing.T) {
	c, _ := shop(t)
	assert.Equal(t, 409, func() int {
		res := plain(c).raw("POST", "/api/first", []byte(`{"name":"imke","display":"Imke","password":"eleven slow barges at dusk"}`), nil)
		return res.StatusCode
	}())
}

// Read tokens read, until they are ended; they do nothing else.
func TestReadTokens(t *testing.T) {
	c, _ := shop(t)
	c.as("piet").pickup()
	secret := c.send("POST", "/api/tokens", map[string]any{"name": "wall calendar"}, 200)
	s := secret["secret"].(string)
	script := plain(c)
	bearer := map[string]string{"Authorization": "Bearer " + s}
	for path, want := range map[string]int{"/api/out/jobs.csv": 200, "/api/out/vehicles.json": 200, "/api/out/units.csv": 200, "/api/out/fluids.json": 200, "/api/out/users.csv": 404, "/api/jobs": 401} {
		assert.Equal(t, want, script.raw("GET", path, nil, bearer).StatusCode, path)
	}
	assert.Equal(t, 401, script.raw("GET", "/api/out/jobs.csv", nil, nil).StatusCode)
	res := script.raw("GET", "/api/due.ics?token="+s, nil, nil)
	body, _ := io.ReadAll(res.Body)
	assert.Equal(t, 200, res.StatusCode)
	assert.True(t, strings.HasPrefix(string(body), "BEGIN:VCALENDAR\r\n"), "%s", body)
	c.send("DELETE", "/api/tokens/"+secret["id"].(string), nil, 200)
	assert.Equal(t, 401, script.raw("GET", "/api/out/jobs.csv", nil, bearer).StatusCode)
}

// A customer is taken out of a job: name and words are gone from log, view, search and tables; what was done stays.
func TestACustomerIsForgotten(t *testing.T) {
	c, _ := shop(t)
	id := c.as("piet").pickup()
	v := c.get("/api/jobs/"+id, 200)
	customer := v["intake"].(map[string]any)["customer"].(string)
	require.NotEmpty(t, customer)
	head := v["head"]
	c.send("POST", "/api/jobs/"+id+"/forget", nil, 200)
	for _, path := range []string{"/api/jobs/" + id, "/api/jobs/" + id + "/log", "/api/jobs", "/api/out/jobs.csv", "/api/jobs?text=" + strings.Fields(customer)[1]} {
		assert.NotContains(t, c.list(path), customer, path)
	}
	after := c.get("/api/jobs/"+id, 200)
	assert.Equal(t, head, after["head"], "nothing of the log is gone")
	assert.Equal(t, v["state"].(map[string]any)["findings"], after["state"].(map[string]any)["findings"])
	c.as("mara").send("POST", "/api/jobs/"+id+"/forget", nil, http.StatusForbidden)
}

func TestSettingsAndExperienceOverTheAPI(t *testing.T) {
	c, _ := shop(t)
	c.as("mara").send("PUT", "/api/settings", job.DefaultSettings(), http.StatusForbidden)
	c.as("piet")
	set := job.DefaultSettings()
	set.Zone = "Middle/Nowhere"
	c.send("PUT", "/api/settings", set, 422)
	unread := job.DefaultSettings()
	unread.Language = "xx" // a language there are no words for
	c.send("PUT", "/api/settings", unread, 422)
	set.Zone, set.Name = "Europe/Berlin", "Stonefold"
	c.send("PUT", "/api/settings", set, 200)
	assert.Equal(t, "Stonefold", c.get("/api/settings", 200)["name"])
	c.send("PUT", "/api/experience", map[string]any{"format": "x", "kinds": map[string]any{}}, 422)
	c.send(
		"PUT",
		"/api/experience",
		map[string]any{
			"format": "geminate.experience/1",
			"kinds":  map[string]any{"trailer-surge": map[string]any{"jobs": 10, "counts": map[string]int{"made.up": 3}}},
		},
		422,
	)
	v := c.send(
		"PUT",
		"/api/experience",
		map[string]any{
			"format": "geminate.experience/1",
			"kinds":  map[string]any{"trailer-surge": map[string]any{"jobs": 10, "counts": map[string]int{"trailer.actuator_seized": 6}}},
		},
		200,
	)
	assert.Contains(t, v["priors"], "trailer-surge")
	signs := func(sign string, counts []int) map[string]any {
		return map[string]any{
			"format": "geminate.experience/1",
			"kinds": map[string]any{
				"trailer-surge": map[string]any{
					"jobs":   10,
					"counts": map[string]int{},
					"signs":  map[string]any{sign: map[string]any{"trailer.actuator_seized": counts}},
				},
			},
		}
	}
	c.send("PUT", "/api/experience", signs("Mara Oduya", []int{1, 2}), 422)
	c.send("PUT", "/api/experience", signs("actuator.rod_moves", []int{1, -2}), 422)
	v = c.send("PUT", "/api/experience", signs("actuator.rod_moves", []int{1, 8}), 200)
	assert.Len(t, v["signs"].(map[string]any)["trailer-surge"], 1, "in 8 of 9")
}
