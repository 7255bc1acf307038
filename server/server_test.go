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
	"sync"
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

// described is the API's description as a router, made once.
var described = sync.OnceValues(func() (routers.Router, error) {
	doc, err := server.Description()
	if err != nil {
		return nil, err
	}
	spec, err := openapi3.NewLoader().LoadFromData(doc)
	if err != nil {
		return nil, err
	}
	if err := spec.Validate(context.Background()); err != nil {
		return nil, err
	}
	return gorillamux.NewRouter(spec)
})

func shop(t *testing.T, change ...func(*server.Config)) (*client, *store.Store) {
	t.Helper()
	st, err := store.Open(context.Background(), testdb.DSN(t))
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, st.Close()) })
	require.NoError(t, demo.LoadWith(context.Background(), st, time.Now(), 60, 0))
	cfg := server.Config{Store: st, Demo: demo.Accounts, Unhurried: true}
	for _, c := range change {
		c(&cfg)
	}
	router, err := described()
	require.NoError(t, err)
	c := &client{t: t, app: server.New(t.Context(), cfg), cookies: map[string]string{}, router: router}
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
	req := httptest.NewRequest(method, path, bytes.NewReader(body))
	req.Host = "localhost"
	req.Header.Set("Content-Type", "application/json")
	for k, v := range c.cookies {
		req.AddCookie(&http.Cookie{Name: k, Value: v})
	}
	for k, v := range headers {
		req.Header.Set(k, v)
	}
	if host, ok := headers["Host"]; ok {
		req.Host = host
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
	req := httptest.NewRequest(method, "http://localhost"+path, bytes.NewReader(body))
	req.Header.Set("Content-Type", "application/json")
	route, params, err := c.router.FindRoute(req)
	if err != nil {
		return // not part of the API
	}
	in := &openapi3filter.RequestValidationInput{Request: req, PathParams: params, Route: route}
	if res.StatusCode < 300 && strings.HasPrefix(res.Header.Get("Content-Type"), "application/json") &&
		!strings.HasSuffix(path, "/import") {
		require.NoError(c.t, openapi3filter.ValidateRequest(context.Background(), in), "%s %s", method, path)
	}
	out := &openapi3filter.ResponseValidationInput{
		RequestValidationInput: in,
		Status:                 res.StatusCode,
		Header:                 res.Header,
		Body:                   io.NopCloser(bytes.NewReader(answer)),
	}
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

func event(id string, kind job.Kind, data map[string]any) map[string]any {
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
		for _, s := range []string{"", "/normal", "/diagnose", "/shelf", "/match", "/replace", "/bench", "/bleed", "/verify", "/record"} {
			c.get("/api/jobs/"+id+s, 200)
		}
		assert.NotEmpty(t, c.get("/api/jobs/"+id+"/shelf", 200)["units"], "what the core in the browser holds against the old unit")
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

func account(t *testing.T, st *store.Store, name string, role job.Role, password string) {
	t.Helper()
	hash, err := server.HashPassword(password, name)
	require.NoError(t, err)
	require.NoError(
		t,
		st.AddUser(
			context.Background(),
			&store.User{
				ID:           "u-" + name,
				Name:         name,
				Display:      name,
				Role:         role,
				PasswordHash: hash,
				Units:        "us",
				Theme:        "day",
				CreatedAt:    time.Now().UTC(),
			},
		),
	)
}

const goodPassword = "correct horse lamp"

func TestSignIn(t *testing.T) {
	c, st := shop(t)
	account(t, st, "ana", job.Lead, goodPassword)
	v := c.send("POST", "/api/session", map[string]any{"name": " Ana ", "password": goodPassword}, 200)
	assert.Equal(t, "ana", v["user"].(map[string]any)["display"])
	assert.Contains(t, v["user"].(map[string]any)["rights"], "read_audit")
	session, token := c.cookies["geminate_session"], c.token()
	assert.NotEmpty(t, token)
	c.send("POST", "/api/session", map[string]any{"name": "ana", "password": goodPassword}, 200)
	assert.NotEqual(t, session, c.cookies["geminate_session"], "a new session at each sign-in")
	assert.NotEqual(t, token, c.token(), "and a new token")
	// A demo click does not open a real account, nor does an empty name.
	c.send("POST", "/api/session", map[string]any{"name": "ana", "demo": true}, 401)
	c.send("POST", "/api/session", map[string]any{"name": "  ", "password": goodPassword}, 401)
	c.send("POST", "/api/session", map[string]any{"name": "nobody", "password": goodPassword}, 401)
}

func TestPasswords(t *testing.T) {
	for password, want := range map[string]error{
		"short": server.ErrPasswordShort, "        ": server.ErrPasswordShort, "            ": server.ErrPasswordShort, "": server.ErrPasswordShort,
		"password123": server.ErrPasswordCommon, "1234567890": server.ErrPasswordCommon, "qwertyuiop": server.ErrPasswordCommon, "hannahhannah": server.ErrPasswordCommon,
		strings.Repeat("a long one ", 20): server.ErrPasswordLong, goodPassword: nil,
	} {
		_, err := server.HashPassword(password, "hannah")
		assert.ErrorIs(t, err, want, password)
	}
}

// Wrong passwords make the next answer later; the right one is never refused for them, and a browser that has
// signed in before does not wait for a stranger's guesses.
func TestGuessesAreSlowedAndNobodyIsLockedOut(t *testing.T) {
	c, st := shop(t, func(cfg *server.Config) { cfg.Unhurried = false })
	account(t, st, "ana", job.Lead, goodPassword)
	known := func() { c.send("POST", "/api/session", map[string]any{"name": "ana", "password": goodPassword}, 200) }
	known()
	device := c.cookies["geminate_device"]
	require.NotEmpty(t, device)
	delete(c.cookies, "geminate_device")
	var took time.Duration
	for range 6 {
		began := time.Now()
		c.send("POST", "/api/session", map[string]any{"name": "ana", "password": "wrong"}, 401)
		took = time.Since(began)
	}
	assert.Greater(t, took, 250*time.Millisecond, "the sixth is slow")
	known()
	for range 5 {
		delete(c.cookies, "geminate_device")
		c.send("POST", "/api/session", map[string]any{"name": "ana", "password": "wrong"}, 401)
	}
	c.cookies["geminate_device"] = device
	began := time.Now()
	known()
	assert.Less(t, time.Since(began), 1500*time.Millisecond)
}

func TestAnAnonymousVisitWritesNothing(t *testing.T) {
	c, st := shop(t)
	before, err := st.WebRows(context.Background())
	require.NoError(t, err)
	for range 5 {
		c.cookies = map[string]string{}
		c.get("/api/session", 200)
	}
	after, err := st.WebRows(context.Background())
	require.NoError(t, err)
	assert.Equal(t, before, after)
}

func TestDemoClickNeedsDemoMode(t *testing.T) {
	c, _ := shop(t, func(cfg *server.Config) { cfg.Demo = nil })
	assert.Empty(t, c.get("/api/session", 200)["demo"])
	c.send("POST", "/api/session", map[string]any{"name": "mara", "demo": true}, 401)
}

func TestForgedRequestsAreRefused(t *testing.T) {
	c, _ := shop(t)
	c.as("mara")
	url := "/api/jobs/" + c.pickup() + "/events"
	stolen := c.token()
	for name, headers := range map[string]map[string]string{
		"no token":         {},
		"wrong token":      {"X-Csrf-Token": "guess"},
		"other site":       {"X-Csrf-Token": stolen, "Sec-Fetch-Site": "cross-site"},
		"a sister site":    {"X-Csrf-Token": stolen, "Sec-Fetch-Site": "same-site"},
		"other origin":     {"X-Csrf-Token": stolen, "Origin": "http://evil.example"},
		"an opaque origin": {"X-Csrf-Token": stolen, "Origin": "null"},
		"another port":     {"X-Csrf-Token": stolen, "Origin": "http://localhost:81"},
	} {
		res := c.raw("POST", url, []byte(`{"events":[]}`), headers)
		assert.Equal(t, 403, res.StatusCode, name)
	}
	assert.Equal(
		t,
		422,
		c.raw("POST", url, []byte(`{"events":[]}`),
			map[string]string{"X-Csrf-Token": stolen, "Origin": "http://localhost", "Sec-Fetch-Site": "same-origin"}).StatusCode,
	)
	c.as("piet")
	assert.Equal(t, 403, c.raw("POST", url, []byte(`{"events":[]}`), map[string]string{"X-Csrf-Token": stolen}).StatusCode,
		"a token of another session")
	assert.Equal(t, 403, c.raw("GET", "/api/session", nil, map[string]string{"Sec-Fetch-Site": "cross-site"}).StatusCode)
	assert.Equal(t, 403,
		c.raw("POST", "/api/session", []byte(`{"name":"mara","demo":true}`), map[string]string{"Origin": "null"}).StatusCode,
		"nor signed in from elsewhere")
}

func TestOtherNamesAreNotThisShop(t *testing.T) {
	c, _ := shop(t)
	at := func(host string) int {
		return c.raw("POST", "/api/session", []byte(`{"name":"mara","demo":true}`), map[string]string{"Host": host}).StatusCode
	}
	for _, host := range []string{"evil.example", "evil.example:8470", "localhost.evil.example", "192.168.1.7", ""} {
		assert.NotEqual(t, 200, at(host), host)
	}
	for _, host := range []string{"localhost:8470", "127.0.0.1:8470", "[::1]:8470", "LOCALHOST"} {
		assert.Equal(t, 200, at(host), host)
	}
	c, _ = shop(t, func(cfg *server.Config) { cfg.Demo, cfg.Hosts = nil, []string{"Bay-PC.local"} })
	for host, want := range map[string]int{"bay-pc.local:8470": 401, "192.168.1.7:8470": 401, "evil.example": 421} {
		assert.Equal(t, want, at(host), host)
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
	assert.Contains(t, csp, "script-src 'self' 'wasm-unsafe-eval';")
	assert.Contains(t, csp, "frame-ancestors 'none'")
	assert.Equal(t, "nosniff", res.Header.Get("X-Content-Type-Options"))
	assert.Equal(t, 404, c.raw("GET", "/assets/none.js", nil, nil).StatusCode)
	assert.Contains(t, c.raw("GET", "/assets/a.js", nil, nil).Header.Get("Cache-Control"), "immutable")
	assert.Equal(t, "problem.no_route", c.get("/api/none", 404)["code"])
	in := c.raw("POST", "/api/session", []byte(`{"name":"mara","demo":true}`),
		map[string]string{"X-Csrf-Token": c.cookies["geminate_csrf"]})
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
	// Who has the log is told only what was stored, and again where it was stored before.
	log := strings.TrimSuffix(url, "events") + "log"
	for range 2 {
		v := c.send("POST", log, map[string]any{"events": []any{
			event("s1", job.KindBleedStroke, map[string]any{"wheel": "RR", "strokes": 1})["events"].([]any)[0],
			event("s2", job.KindBleedStroke, map[string]any{"wheel": "RR", "strokes": 1})["events"].([]any)[0],
		}}, 200)
		assert.NotContains(t, v, "state")
		told := v["events"].([]any)
		require.Len(t, told, 2)
		assert.Equal(t, "s2", told[1].(map[string]any)["id"])
		assert.Equal(t, v["head"], told[1].(map[string]any)["seq"])
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
	put := func(field, text string, want int) map[string]any {
		intake := map[string]any{}
		for k, x := range v["intake"].(map[string]any) {
			intake[k] = x
		}
		intake[field] = text
		return c.send("PUT", url+"/intake", map[string]any{"version": v["intake_version"], "intake": intake}, want)
	}
	put("complaint", "first", 200)
	both := put("customer", "Another", 200)["intake"].(map[string]any)
	assert.Equal(t, "first", both["complaint"], "what does not touch is merged")
	assert.Equal(t, "Another", both["customer"])
	p := put("complaint", "second", 409)
	assert.Equal(t, "problem.stale", p["code"])
	assert.Equal(t, []any{map[string]any{"path": "/complaint", "mine": "second", "theirs": "first"}}, p["clashes"])
	assert.Equal(t, "second", p["with_mine"].(map[string]any)["complaint"])
	assert.Equal(t, "Another", p["with_mine"].(map[string]any)["customer"], "what the other changed elsewhere stays")
	assert.Equal(t, "first", p["with_theirs"].(map[string]any)["complaint"])
	assert.Equal(t, "first", p["current"].(map[string]any)["intake"].(map[string]any)["complaint"])
	kinds := map[string]int{}
	for _, e := range c.get(url+"/log?since=1", 200)["events"].([]any) {
		kinds[e.(map[string]any)["kind"].(string)]++
	}
	assert.Equal(t, map[string]int{"intake_changed": 2}, kinds, "edits leave a trace")
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
	v := c.send("POST", "/api/jobs",
		map[string]any{"vehicle": "V", "plate": "", "customer": "", "complaint": "c", "pattern": "car-diagonal-vacuum"}, 200)
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
	assert.Contains(t, v["state"].(map[string]any)["dropped"], "/scope", "what went with the old system is said")
	for _, s := range c.get(url+"/match", 200)["scopes"].([]any) {
		assert.NotContains(t, s, "booster")
	}
	c.send("POST", "/api/jobs", map[string]any{"vehicle": "V", "plate": "", "customer": "", "complaint": "", "pattern": "hovercraft"}, 422)
}

func TestJobGoesOutAndComesBackAsHistory(t *testing.T) {
	c, _ := shop(t)
	c.as("mara")
	id := c.pickup()
	c.send("POST", "/api/jobs/"+id+"/events", event("n", job.KindNote, map[string]any{"text": "Grüße, – 湿"}), 200)
	out, _ := io.ReadAll(c.raw("GET", "/api/jobs/"+id+"/export", nil, nil).Body)
	var file map[string]any
	require.NoError(t, json.Unmarshal(out, &file))
	v := c.send("POST", "/api/jobs/import", file, 200)
	assert.NotEqual(t, id, v["id"], "the file comes in beside what is here")
	assert.Equal(t, "history", v["status"].(map[string]any)["standing"])
	assert.Equal(t, id, v["state"].(map[string]any)["history"].(map[string]any)["file_id"])
	p := c.send("POST", "/api/jobs/import", map[string]any{"format": "geminate.job/1"}, 422)
	assert.Equal(t, "problem.faults", p["code"])
	old, err := os.ReadFile("../brake/job/testdata/golden1/pickup-released.job.json")
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(old, &file))
	v = c.send("POST", "/api/jobs/import", file, 200)
	assert.Nil(t, v["state"].(map[string]any)["released_at"], "a file's release releases nothing here")
	assert.NotNil(t, v["state"].(map[string]any)["history"].(map[string]any)["released_at"])
	pdf := c.raw("GET", "/api/jobs/"+v["id"].(string)+"/sheet.pdf", nil, nil)
	assert.Equal(t, 200, pdf.StatusCode)
	c.as("sunny")
	assert.Equal(t, "problem.role", c.send("POST", "/api/jobs/import", map[string]any{"format": "a small one"}, 403)["code"],
		"a large one is not read for who may not")
}

func TestReleaseNeedsTheGateAndARole(t *testing.T) {
	c, _ := shop(t)
	c.as("mara")
	id := c.pickup()
	p := c.send("POST", "/api/jobs/"+id+"/release", nil, 409)
	assert.Equal(t, "problem.release_gate", p["code"])
	assert.Contains(t, p["missing"], "pedal.sink")
	c.send("POST", "/api/jobs/"+id+"/reopen", map[string]any{"reason": "x"}, 409)
	c.as("sunny")
	assert.Equal(t, "problem.role", c.send("POST", "/api/jobs/"+id+"/release", nil, 403)["code"])
	assert.Equal(t, "problem.role", c.send("POST", "/api/jobs/"+id+"/reopen", map[string]any{"reason": "x"}, 403)["code"])
}

func TestAnIDUsedForSomethingElseIsTold(t *testing.T) {
	c, _ := shop(t)
	url := "/api/jobs/" + c.as("mara").pickup() + "/events"
	c.send("POST", url, event("s", job.KindBleedStroke, map[string]any{"wheel": "RR"}), 200)
	assert.Equal(t, "problem.id_taken", c.send("POST", url, event("s", job.KindBleedStroke, map[string]any{"wheel": "LR"}), 409)["code"])
	c.as("piet")
	assert.Equal(t, "problem.id_taken", c.send("POST", url, event("s", job.KindBleedStroke, map[string]any{"wheel": "RR"}), 409)["code"])
	for _, id := range []string{"é", "a b", strings.Repeat("x", 70), ""} {
		c.send("POST", url, event(id, job.KindRefill, map[string]any{}), 422)
	}
	c.send("POST", url, event("k", job.Kind(strings.Repeat("k", 40)), map[string]any{}), 422)
	c.send("POST", url, event("r", job.KindRefill, map[string]any{"text": strings.Repeat("x", 70<<10)}), 422)
}

// One wrong entry of a list is told with its place; the good ones before it stand, and all of it sent again counts
// once.
func TestOneWrongEntryLeavesTheGoodOnesBeforeIt(t *testing.T) {
	c, _ := shop(t)
	id := c.as("mara").pickup()
	before := int(c.get("/api/jobs/"+id, 200)["head"].(float64))
	list := []any{}
	for _, e := range []map[string]any{event("g1", job.KindNote, map[string]any{"text": "one"}), event("g2", job.KindNote, map[string]any{"text": "two"}), event("bad", job.KindBleedStroke, map[string]any{"wheel": "moon"}), event("g3", job.KindNote, map[string]any{"text": "three"})} {
		list = append(list, e["events"].([]any)...)
	}
	body := map[string]any{"events": list}
	p := c.send("POST", "/api/jobs/"+id+"/log", body, 422)
	raw, _ := json.Marshal(p)
	assert.Contains(t, string(raw), "$.events[2]")
	for range 2 {
		assert.Equal(t, before+2, int(c.get("/api/jobs/"+id, 200)["head"].(float64)))
		c.send("POST", "/api/jobs/"+id+"/log", body, 422)
	}
	c.send("POST", "/api/jobs/"+id+"/log", map[string]any{"events": append(append([]any{}, list[:2]...), list[3])}, 200)
	assert.Equal(t, before+3, int(c.get("/api/jobs/"+id, 200)["head"].(float64)))
}

// Every route, every role: who may ask is what the core's table says of the route's command, and nothing else.
func TestEveryRouteAsksTheTableOfRoles(t *testing.T) {
	c, _ := shop(t)
	id := c.as("mara").pickup()
	for _, who := range []struct {
		name string
		role job.Role
	}{{"sunny", job.Trainee}, {"mara", job.Technician}, {"piet", job.Lead}} {
		c.as(who.name)
		for _, r := range server.Routes() {
			if r.Open || r.ID == "signOut" {
				continue
			}
			path := "/api" + strings.Replace(r.Path, "{id}", id, 1)
			res := c.raw(r.Method, path, []byte(`{}`), map[string]string{"X-Csrf-Token": c.token()})
			var p struct{ Code, Detail string }
			_ = json.NewDecoder(res.Body).Decode(&p)
			refused := res.StatusCode == http.StatusForbidden && p.Code == "problem.role" && p.Detail == string(r.Command)
			assert.Equal(t, !who.role.May(r.Command), refused, "%s %s as %s: %d", r.Method, r.Path, who.role, res.StatusCode)
		}
	}
}

func TestTheLeadReadsWhoDidWhat(t *testing.T) {
	c, _ := shop(t)
	id := c.as("mara").pickup()
	v := c.get("/api/jobs/"+id, 200)
	choices := v["choices"].(map[string]any)
	choices["scope"] = "bleed"
	c.send("PUT", "/api/jobs/"+id+"/choices", map[string]any{"version": v["choices_version"], "choices": choices}, 200)
	_ = c.raw("GET", "/api/jobs/"+id+"/export", nil, nil)
	c.send("POST", "/api/session", map[string]any{"name": "ghost", "password": "x"}, 401)
	assert.Equal(t, "problem.role", c.as("sunny").get("/api/audit", 403)["code"])
	actions := map[string]int{}
	for _, l := range c.as("piet").get("/api/audit", 200)["lines"].([]any) {
		line := l.(map[string]any)
		actions[line["action"].(string)]++
		if line["action"] == "edit_choices" {
			assert.Equal(t, "Mara Oduya", line["user_name"])
			assert.Equal(t, "technician", line["role"])
			assert.Equal(t, id, line["job_id"])
			assert.NotEmpty(t, line["request"])
		}
	}
	for action, n := range map[string]int{"sign_in": 3, "sign_in_failed": 1, "edit_choices": 1, "export": 1} {
		assert.Equal(t, n, actions[action], action)
	}
	assert.Len(t, c.get("/api/audit?job="+id+"&action=export", 200)["lines"], 1)
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
	rod := map[string]any{
		"pocket_mm":     12.4,
		"gasket_mm":     0.8,
		"protrusion_mm": 12.9,
		"pitch_mm":      1,
		"target_mm":     0.25,
		"under_vacuum":  false,
	}
	assert.InDelta(t, 0.3, c.send("POST", url+"/pushrod", rod, 200)["rod"].(map[string]any)["gap_mm"], 1e-9)
	rod["pitch_mm"] = 0
	c.send("POST", url+"/pushrod", rod, 422)
	v := c.get(url, 200)
	choices := v["choices"].(map[string]any)
	choices["bench"].(map[string]any)["tilt_deg"] = 400
	c.send("PUT", url+"/choices", map[string]any{"version": v["choices_version"], "choices": choices}, 422)
}
