package server_test

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/httptest"
	"os"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/getkin/kin-openapi/openapi3filter"
	"github.com/getkin/kin-openapi/routers"
	"github.com/getkin/kin-openapi/routers/gorillamux"
	"github.com/gofiber/fiber/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/job"
	"geminate/demo"
	"geminate/internal/testdb"
	"geminate/server"
	"geminate/store"
)

func TestMain(m *testing.M) { testdb.Main(m) }

// client is a browser without a screen: it keeps cookies, sends the forgery token and holds every
// request and answer against the API's description.
type client struct {
	t       *testing.T
	app     *fiber.App
	cookies map[string]string
	router  routers.Router
}

func shop(t *testing.T, change ...func(*server.Config)) (*client, *store.Store) {
	t.Helper()
	st, err := store.Open(context.Background(), testdb.DSN(t))
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, st.Close()) })
	require.NoError(t, demo.LoadWith(context.Background(), st, time.Now(), 60))
	cfg := server.Config{Store: st, Demo: demo.Accounts, SignInsPerMinute: 50}
	for _, c := range change {
		c(&cfg)
	}
	doc, err := server.Description()
	require.NoError(t, err)
	spec, err := openapi3.NewLoader().LoadFromData(doc)
	require.NoError(t, err)
	require.NoError(t, spec.Validate(context.Background()))
	router, err := gorillamux.NewRouter(spec)
	require.NoError(t, err)
	c := &client{t: t, app: server.New(cfg), cookies: map[string]string{}, router: router}
	c.get("/api/session", http.StatusOK)
	return c, st
}

func (c *client) as(name string) *client {
	c.send("POST", "/api/session", map[string]any{"name": name, "demo": true}, http.StatusOK)
	return c
}

// listen serves the shop on loopback, for what only shows on a real connection.
func (c *client) listen() string {
	c.t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(c.t, err)
	go func() { _ = c.app.Listener(l, fiber.ListenConfig{DisableStartupMessage: true}) }()
	c.t.Cleanup(func() { assert.NoError(c.t, c.app.ShutdownWithTimeout(5*time.Second)) })
	return "http://" + l.Addr().String()
}

// token is the forgery token of this client.
func (c *client) token() string { return c.cookies["geminate_csrf"] }

// raw sends one request as it is and gives the answer.
func (c *client) raw(method, path string, body []byte, headers map[string]string) *http.Response {
	c.t.Helper()
	req := httptest.NewRequest(method, "http://example.com"+path, bytes.NewReader(body))
	req.Header.Set("Content-Type", "application/json")
	for k, v := range c.cookies {
		req.AddCookie(&http.Cookie{Name: k, Value: v})
	}
	for k, v := range headers {
		req.Header.Set(k, v)
	}
	res, err := c.app.Test(req, fiber.TestConfig{Timeout: 20 * time.Second})
	require.NoError(c.t, err)
	for _, k := range res.Cookies() {
		c.cookies[k.Name] = k.Value
	}
	return res
}

func (c *client) send(method, path string, body any, want int) map[string]any {
	c.t.Helper()
	data, err := json.Marshal(body)
	require.NoError(c.t, err)
	if body == nil {
		data = nil
	}
	res := c.raw(method, path, data, map[string]string{"X-Csrf-Token": c.cookies["geminate_csrf"]})
	answer, err := io.ReadAll(res.Body)
	require.NoError(c.t, err)
	require.Equal(c.t, want, res.StatusCode, "%s %s: %s", method, path, answer)
	c.described(method, path, data, res, answer)
	out := map[string]any{}
	_ = json.Unmarshal(answer, &out)
	return out
}

// described fails where the answer is not what the description says.
func (c *client) described(method, path string, body []byte, res *http.Response, answer []byte) {
	c.t.Helper()
	req := httptest.NewRequest(method, "http://example.com"+path, bytes.NewReader(body))
	req.Header.Set("Content-Type", "application/json")
	route, params, err := c.router.FindRoute(req)
	if err != nil {
		return // not part of the API
	}
	in := &openapi3filter.RequestValidationInput{Request: req, PathParams: params, Route: route}
	if res.StatusCode < 300 && strings.HasPrefix(res.Header.Get("Content-Type"), "application/json") && !strings.HasSuffix(path, "/import") {
		require.NoError(c.t, openapi3filter.ValidateRequest(context.Background(), in), "%s %s", method, path)
	}
	out := &openapi3filter.ResponseValidationInput{RequestValidationInput: in, Status: res.StatusCode, Header: res.Header, Body: io.NopCloser(bytes.NewReader(answer))}
	if strings.HasPrefix(res.Header.Get("Content-Type"), "application/json") && !strings.HasSuffix(path, "/export") {
		require.NoError(c.t, openapi3filter.ValidateResponse(context.Background(), out), "%s %s: %s", method, path, answer)
	}
}

func (c *client) get(path string, want int) map[string]any {
	c.t.Helper()
	return c.send("GET", path, nil, want)
}

// pickup is the id of the demo pickup's job.
func (c *client) pickup() string {
	c.t.Helper()
	for _, j := range c.get("/api/jobs", 200)["jobs"].([]any) {
		if m := j.(map[string]any); strings.Contains(m["vehicle"].(string), "pickup") {
			return m["id"].(string)
		}
	}
	c.t.Fatal("no pickup in the bay")
	return ""
}

func event(id, kind string, data map[string]any) map[string]any {
	return map[string]any{"events": []any{map[string]any{"id": id, "kind": kind, "at": "2026-11-24T10:00:00Z", "data": data}}}
}

// The description, the types made from it and the code must say the same.
func TestDescriptionHasNotDrifted(t *testing.T) {
	have, err := server.Description()
	require.NoError(t, err)
	kept, err := os.ReadFile("openapi.json")
	require.NoError(t, err)
	assert.JSONEq(t, string(kept), string(have), "run `make api`")
}

func TestEveryStationAnswersAsDescribed(t *testing.T) {
	c, _ := shop(t)
	c.as("mara")
	c.get("/api/vocabulary", 200)
	for _, j := range c.get("/api/jobs", 200)["jobs"].([]any) {
		id := j.(map[string]any)["id"].(string)
		for _, s := range []string{"", "/normal", "/diagnose", "/match", "/replace", "/bench", "/bleed", "/verify", "/record"} {
			c.get("/api/jobs/"+id+s, 200)
		}
		pdf := c.raw("GET", "/api/jobs/"+id+"/sheet.pdf", nil, nil)
		data, _ := io.ReadAll(pdf.Body)
		assert.True(t, bytes.HasPrefix(data, []byte("%PDF-")))
		assert.Contains(t, pdf.Header.Get("Content-Disposition"), ".pdf")
	}
}

func TestNothingOpensWithoutSigningIn(t *testing.T) {
	c, _ := shop(t)
	for _, path := range []string{"/api/jobs", "/api/vocabulary", "/api/jobs/x", "/api/jobs/x/sheet.pdf"} {
		assert.Equal(t, "problem.signed_out", c.get(path, 401)["code"], path)
	}
	c.as("mara")
	c.get("/api/jobs", 200)
	c.send("DELETE", "/api/session", nil, 200)
	c.get("/api/jobs", 401)
}

func TestSignIn(t *testing.T) {
	c, st := shop(t, func(cfg *server.Config) { cfg.SignInsPerMinute = 4 })
	hash, err := server.HashPassword("correct horse")
	require.NoError(t, err)
	require.NoError(t, st.AddUser(context.Background(), &store.User{ID: "u", Name: "ana", Display: "Ana", Role: store.RoleLead, PasswordHash: hash, Units: "us", Theme: "day", CreatedAt: time.Now().UTC()}))
	before := c.cookies["geminate_session"]
	v := c.send("POST", "/api/session", map[string]any{"name": " Ana ", "password": "correct horse"}, 200)
	assert.Equal(t, "Ana", v["user"].(map[string]any)["display"])
	assert.NotEqual(t, before, c.cookies["geminate_session"])
	// A demo click does not open a real account, and tries are counted.
	c.send("POST", "/api/session", map[string]any{"name": "ana", "demo": true}, 401)
	for i := 0; i < 3; i++ {
		c.send("POST", "/api/session", map[string]any{"name": "ana", "password": "wrong"}, 401)
	}
	c.send("POST", "/api/session", map[string]any{"name": "ana", "password": "correct horse"}, 429)
	_, err = server.HashPassword("short")
	assert.Error(t, err)
}

func TestDemoClickNeedsDemoMode(t *testing.T) {
	c, _ := shop(t, func(cfg *server.Config) { cfg.Demo = nil })
	assert.Empty(t, c.get("/api/session", 200)["demo"])
	c.send("POST", "/api/session", map[string]any{"name": "mara", "demo": true}, 401)
}

func TestForgedRequestsAreRefused(t *testing.T) {
	c, _ := shop(t)
	c.as("mara")
	for name, headers := range map[string]map[string]string{
		"no token":    {},
		"wrong token": {"X-Csrf-Token": "guess"},
		"other site":  {"X-Csrf-Token": c.cookies["geminate_csrf"], "Origin": "http://evil.example", "Sec-Fetch-Site": "cross-site"},
	} {
		res := c.raw("POST", "/api/jobs/"+c.pickup()+"/events", []byte(`{"events":[]}`), headers)
		assert.Equal(t, 403, res.StatusCode, name)
	}
}

func TestHeadersAndCookies(t *testing.T) {
	c, _ := shop(t, func(cfg *server.Config) {
		cfg.Front = fstest.MapFS{"index.html": {Data: []byte("<p>page")}, "assets/a.js": {Data: []byte("1")}}
	})
	res := c.raw("GET", "/jobs/any/bleed", nil, nil)
	body, _ := io.ReadAll(res.Body)
	assert.Equal(t, "<p>page", string(body), "every address of the single page is the page")
	csp := res.Header.Get("Content-Security-Policy")
	assert.Contains(t, csp, "script-src 'self';")
	assert.Contains(t, csp, "frame-ancestors 'none'")
	assert.Equal(t, "nosniff", res.Header.Get("X-Content-Type-Options"))
	assert.Equal(t, 404, c.raw("GET", "/assets/none.js", nil, nil).StatusCode)
	assert.Contains(t, c.raw("GET", "/assets/a.js", nil, nil).Header.Get("Cache-Control"), "immutable")
	assert.Equal(t, "problem.no_route", c.get("/api/none", 404)["code"])
	in := c.raw("POST", "/api/session", []byte(`{"name":"mara","demo":true}`), map[string]string{"X-Csrf-Token": c.cookies["geminate_csrf"]})
	for _, k := range in.Cookies() {
		assert.Equal(t, http.SameSiteStrictMode, k.SameSite, k.Name)
		if k.Name == "geminate_session" {
			assert.True(t, k.HttpOnly)
		}
	}
}

func TestWithoutFrontEndTheServerSaysSo(t *testing.T) {
	c, _ := shop(t)
	body, _ := io.ReadAll(c.raw("GET", "/", nil, nil).Body)
	assert.Contains(t, string(body), "make build")
}

func TestEventsCountOnceAndGatesHold(t *testing.T) {
	c, _ := shop(t)
	c.as("mara")
	url := "/api/jobs/" + c.pickup() + "/events"
	for i := 0; i < 3; i++ {
		v := c.send("POST", url, event("s1", job.KindBleedStroke, map[string]any{"wheel": "RR", "strokes": 1}), 200)
		assert.EqualValues(t, 1, v["state"].(map[string]any)["bleed_strokes"].(map[string]any)["RR"])
	}
	p := c.send("POST", url, event("t1", job.KindTick, map[string]any{"step": "strip.lines_off"}), 409)
	assert.Equal(t, "problem.gate", p["code"])
	assert.Contains(t, p["missing"], "safe.pump_empty")
	p = c.send("POST", url, event("x", job.KindReleased, map[string]any{}), 422)
	assert.Equal(t, "problem.faults", p["code"], "a client cannot release by an event")
	c.send("POST", url, map[string]any{"events": []any{}}, 422)
	c.send("POST", url, map[string]any{"events": []any{}, "more": 1}, 422)
	c.send("POST", "/api/jobs/none/events", event("a", job.KindRefill, map[string]any{}), 404)
}

func TestEditsThatCrossAreTold(t *testing.T) {
	c, _ := shop(t)
	c.as("mara")
	url := "/api/jobs/" + c.pickup()
	v := c.get(url, 200)
	intake := v["intake"].(map[string]any)
	intake["complaint"] = "first"
	c.send("PUT", url+"/intake", map[string]any{"version": v["intake_version"], "intake": intake}, 200)
	intake["complaint"] = "second"
	p := c.send("PUT", url+"/intake", map[string]any{"version": v["intake_version"], "intake": intake}, 409)
	assert.Equal(t, "problem.stale", p["code"])
	assert.Equal(t, "first", p["current"].(map[string]any)["intake"].(map[string]any)["complaint"])
}

func TestContradictionsAreAllListedByField(t *testing.T) {
	c, _ := shop(t)
	c.as("mara")
	url := "/api/jobs/" + c.pickup()
	v := c.get(url, 200)
	intake := v["intake"].(map[string]any)
	sys := intake["system"].(map[string]any)
	sys["master_cylinder"].(map[string]any)["bore_mm"] = -5
	sys["proportioning"].(map[string]any)["wheels"] = []any{"LR", "XX"}
	sys["surprise"] = 1
	intake["vehicle"] = ""
	p := c.send("PUT", url+"/intake", map[string]any{"version": v["intake_version"], "intake": intake}, 422)
	text := fmt.Sprint(p["faults"])
	for _, want := range []string{"$.system.master_cylinder.bore_mm", "$.system.proportioning.wheels[1]", "$.vehicle", "$.system.surprise"} {
		assert.Contains(t, text, want)
	}
	check := c.send("POST", "/api/systems/check", sys, 200)
	assert.Nil(t, check["normal"])
	assert.Contains(t, fmt.Sprint(check["faults"]), "$.surprise")
}

func TestPatternChangedToATrailerDropsBoosterChoices(t *testing.T) {
	c, _ := shop(t)
	c.as("mara")
	v := c.send("POST", "/api/jobs", map[string]any{"vehicle": "V", "plate": "", "customer": "", "complaint": "c", "pattern": "car-diagonal-vacuum"}, 200)
	url := "/api/jobs/" + v["id"].(string)
	choices := v["choices"].(map[string]any)
	choices["scope"] = "booster_aside"
	v = c.send("PUT", url+"/choices", map[string]any{"version": v["choices_version"], "choices": choices}, 200)
	var trailer any
	for _, p := range c.get("/api/vocabulary", 200)["patterns"].([]any) {
		if m := p.(map[string]any); m["id"] == "trailer-surge" {
			trailer = m["system"]
		}
	}
	intake := v["intake"].(map[string]any)
	intake["pattern"], intake["system"] = "trailer-surge", trailer
	v = c.send("PUT", url+"/intake", map[string]any{"version": v["intake_version"], "intake": intake}, 200)
	assert.Equal(t, "cylinder", v["choices"].(map[string]any)["scope"])
	for _, s := range c.get(url+"/match", 200)["scopes"].([]any) {
		assert.NotContains(t, s, "booster")
	}
	c.send("POST", "/api/jobs", map[string]any{"vehicle": "V", "plate": "", "customer": "", "complaint": "", "pattern": "hovercraft"}, 422)
}

func TestJobGoesOutAndComesBackWhole(t *testing.T) {
	c, _ := shop(t)
	c.as("mara")
	id := c.pickup()
	c.send("POST", "/api/jobs/"+id+"/events", event("n", job.KindNote, map[string]any{"text": "Grüße, – 湿"}), 200)
	out, _ := io.ReadAll(c.raw("GET", "/api/jobs/"+id+"/export", nil, nil).Body)
	var file map[string]any
	require.NoError(t, json.Unmarshal(out, &file))
	v := c.send("POST", "/api/jobs/import", file, 200)
	assert.NotEqual(t, id, v["id"], "the job is there already, so the file comes in beside it")
	back, _ := io.ReadAll(c.raw("GET", "/api/jobs/"+v["id"].(string)+"/export", nil, nil).Body)
	assert.JSONEq(t, strings.Replace(string(out), id, v["id"].(string), 1), string(back))
	p := c.send("POST", "/api/jobs/import", map[string]any{"format": "geminate.job/1"}, 422)
	assert.Equal(t, "problem.faults", p["code"])
}

func TestReleaseNeedsTheGateAndARole(t *testing.T) {
	c, _ := shop(t)
	c.as("mara")
	id := c.pickup()
	p := c.send("POST", "/api/jobs/"+id+"/release", nil, 409)
	assert.Equal(t, "problem.release_gate", p["code"])
	assert.Contains(t, p["missing"], "pedal.sink")
	c.as("sunny")
	assert.Equal(t, "problem.trainee_release", c.send("POST", "/api/jobs/"+id+"/release", nil, 403)["code"])
}

func TestReleasedRecordStandsUntilReopened(t *testing.T) {
	c, st := shop(t)
	c.as("mara")
	id := c.pickup()
	url := "/api/jobs/" + id
	_, err := st.Append(context.Background(), id, []job.Event{{ID: "rel", Kind: job.KindReleased, At: time.Now().UTC(), By: "Mara"}}, func(*job.Job, job.Event) error { return nil })
	require.NoError(t, err)
	v := c.get(url, 200)
	for path, body := range map[string]map[string]any{
		"/intake":  {"version": v["intake_version"], "intake": v["intake"]},
		"/choices": {"version": v["choices_version"], "choices": v["choices"]},
	} {
		assert.Equal(t, "problem.released", c.send("PUT", url+path, body, 409)["code"], path)
	}
	stroke := event("s", job.KindBleedStroke, map[string]any{"wheel": "RR", "strokes": 1})
	assert.Equal(t, "problem.released", c.send("POST", url+"/events", stroke, 409)["code"])
	c.send("POST", url+"/events", event("n", job.KindNote, map[string]any{"text": "seen"}), 200)
	c.send("POST", url+"/events", event("re", job.KindReopened, map[string]any{}), 200)
	c.send("POST", url+"/events", stroke, 200)
	c.send("POST", url+"/events", event("u", job.KindUndo, map[string]any{"of": "re"}), 422)
	assert.Nil(t, c.get(url, 200)["state"].(map[string]any)["released_at"])
}

func TestTorqueIsJudgedBeforeItIsTicked(t *testing.T) {
	c, _ := shop(t)
	c.as("mara")
	url := "/api/jobs/" + c.pickup() + "/torque"
	assert.Equal(t, "twelve_high", c.send("POST", url, map[string]any{"step": "fit.cylinder_nuts", "torque_nm": 339}, 200)["verdict"])
	assert.Equal(t, "ok", c.send("POST", url, map[string]any{"step": "fit.cylinder_nuts", "torque_nm": 25}, 200)["verdict"])
	c.send("POST", url, map[string]any{"step": "make.coffee", "torque_nm": 25}, 422)
}

func TestPreferences(t *testing.T) {
	c, _ := shop(t)
	c.as("mara")
	assert.Equal(t, "us", c.send("PUT", "/api/me", map[string]any{"units": "us", "theme": "night"}, 200)["units"])
	assert.Equal(t, "us", c.get("/api/session", 200)["user"].(map[string]any)["units"])
	c.send("PUT", "/api/me", map[string]any{"units": "furlongs", "theme": "night"}, 422)
}

func TestPushrodAndChoicesRefuseNonsense(t *testing.T) {
	c, _ := shop(t)
	c.as("mara")
	url := "/api/jobs/" + c.pickup()
	rod := map[string]any{"pocket_mm": 12.4, "gasket_mm": 0.8, "protrusion_mm": 12.9, "pitch_mm": 1, "target_mm": 0.25, "under_vacuum": false}
	assert.InDelta(t, 0.3, c.send("POST", url+"/pushrod", rod, 200)["rod"].(map[string]any)["gap_mm"], 1e-9)
	rod["pitch_mm"] = 0
	c.send("POST", url+"/pushrod", rod, 422)
	v := c.get(url, 200)
	choices := v["choices"].(map[string]any)
	choices["bench"].(map[string]any)["tilt_deg"] = 400
	c.send("PUT", url+"/choices", map[string]any{"version": v["choices_version"], "choices": choices}, 422)
}
