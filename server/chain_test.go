package server_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/job"
	"geminate/demo"
	"geminate/server"
	"geminate/store"
)

// chainOf is an installation of two shops, the second with people, vehicles and jobs of its own; a client of each.
func chainOf(t *testing.T) (first, north *client, st *store.Store, other *store.Store) {
	t.Helper()
	var chain *store.Chain
	first, st = shop(t, func(cfg *server.Config) {
		chain = cfg.Store.Shops()
		cfg.Chain = chain
	})
	t.Cleanup(chain.Close)
	other, err := chain.Add(t.Context(), "north")
	require.NoError(t, err)
	require.NoError(t, demo.LoadWith(t.Context(), other, time.Now(), 60, 8))
	lead := &store.User{
		ID:           uuid.NewString(),
		Name:         "ragnild",
		Display:      "Ragnild Ommersen",
		Role:         job.Lead,
		PasswordHash: "none",
		Units:        "metric",
		Theme:        "day",
		CreatedAt:    time.Now().UTC(),
	}
	require.NoError(t, other.AddUser(t.Context(), lead))
	link, err := server.WelcomeLink(t.Context(), other, "north", lead.ID)
	require.NoError(t, err)
	north = plain(first)
	north.send("POST", "/api"+link, map[string]any{"password": northWord}, 200)
	return first, north, st, other
}

const northWord = "nine quiet herons on a fence"

// marker is in everything the second shop keeps.
const marker = "Zwartewaal"

// A shop of a chain is reached by its code, its passwords, passes and tokens count there alone, and one shop sees no
// word of it.
func TestAShopOfAChainIsItsOwn(t *testing.T) {
	first, north, st, other := chainOf(t)
	assert.Equal(t, "north", north.get("/api/session", 200)["shop"])
	assert.Equal(t, true, plain(first).get("/api/session", 200)["shops"], "who signs in says which shop")
	again := func(code, word string, want int) *client {
		c := plain(first)
		c.send("POST", "/api/session", map[string]any{"name": "ragnild", "password": word, "shop": code}, want)
		return c
	}
	again("north", northWord, 200).list("/api/jobs")
	again("North ", northWord, 200)
	again("", northWord, 401)
	again("south", northWord, 401)
	again("north", "another long enough phrase", 401)
	// The shop's cookie is no right: with the first shop's session it lets nobody in, and the other way round.
	first.as("piet")
	crossed := plain(first)
	crossed.cookies["geminate_session"], crossed.cookies["geminate_shop"] = first.cookies["geminate_session"], "north"
	assert.Equal(t, 401, crossed.raw("GET", "/api/jobs", nil, nil).StatusCode)
	crossed.cookies["geminate_session"] = north.cookies["geminate_session"]
	delete(crossed.cookies, "geminate_shop")
	assert.Equal(t, 401, crossed.raw("GET", "/api/jobs", nil, nil).StatusCode)
	for _, code := range []string{"north.", "NORTH", "nor th", "../north", "north`; DROP DATABASE geminate", strings.Repeat("n", 300)} {
		crossed.cookies["geminate_shop"] = code
		assert.Equal(t, 401, crossed.raw("GET", "/api/jobs", nil, nil).StatusCode, code)
	}
	// Passes and tokens find their shop by themselves, and nothing of another.
	id := north.pickup()
	pass := north.send("POST", "/api/jobs/"+id+"/pass", nil, 200)["path"].(string)
	require.True(t, strings.HasPrefix(pass, "/call/north."), pass)
	plain(first).get("/api/calls/"+strings.TrimPrefix(pass, "/call/"), 200)
	plain(first).get("/api/calls/"+strings.TrimPrefix(pass, "/call/north."), 403)
	secret := north.send("POST", "/api/tokens", map[string]any{"name": "wall"}, 200)["secret"].(string)
	bearer := map[string]string{"Authorization": "Bearer " + secret}
	assert.Equal(t, 200, plain(first).raw("GET", "/api/out/jobs.csv", nil, bearer).StatusCode)
	assert.Equal(t, 200, plain(first).raw("GET", "/api/due.ics?token="+secret, nil, nil).StatusCode)
	bearer["Authorization"] = "Bearer " + strings.TrimPrefix(secret, "north.")
	assert.Equal(t, 401, plain(first).raw("GET", "/api/out/jobs.csv", nil, bearer).StatusCode)
	// The first account of a further shop is made by no stranger.
	stranger := plain(first)
	stranger.cookies["geminate_shop"] = "north"
	assert.Equal(t, false, stranger.get("/api/session", 200)["first"])
	// Taken out whole and brought in elsewhere: equal, and the first shop has not moved.
	var before bytes.Buffer
	counts, err := other.Backup(t.Context(), &before)
	require.NoError(t, err)
	there, err := st.Shops().Add(t.Context(), "east")
	require.NoError(t, err)
	back, err := there.Restore(t.Context(), bytes.NewReader(before.Bytes()), int64(before.Len()))
	require.NoError(t, err)
	assert.Equal(t, counts.Rows, back)
	diff, err := there.Check(t.Context())
	require.NoError(t, err)
	assert.Empty(t, diff)
	chain := st.Shops()
	require.NoError(t, chain.Remove(t.Context(), "north"))
	require.ErrorIs(t, chain.Remove(t.Context(), "north"), store.ErrNoShop)
	_, err = chain.Add(t.Context(), "x")
	require.ErrorIs(t, err, store.ErrCode)
	_, err = chain.Add(t.Context(), "east")
	require.ErrorIs(t, err, store.ErrShopHere)
	first.list("/api/jobs")
}

func TestOneShopSeesNoWordOfAChain(t *testing.T) {
	c, _ := shop(t)
	v := c.get("/api/session", 200)
	assert.NotContains(t, v, "shops")
	assert.NotContains(t, v, "shop")
	c.as("mara")
	assert.NotContains(t, c.cookies, "geminate_shop")
	c.send("POST", "/api/vehicles/"+uuid.NewString()+"/ask", map[string]any{"consent": true}, 404)
}

// Every route, asked by the first shop's lead with the ids of the second shop's things: nothing is named, counted, changed or
// exported, and the answer is that of an id there is not.
func TestNoRouteNamesAnotherShopsThings(t *testing.T) {
	first, north, _, other := chainOf(t)
	j := north.send(
		"POST",
		"/api/jobs",
		map[string]any{
			"vehicle":   marker + " tipper",
			"plate":     "ZW 4711",
			"customer":  marker + " Haulage",
			"complaint": marker,
			"pattern":   "truck-hydraulic",
		},
		200,
	)
	id := j["id"].(string)
	north.send("POST", "/api/jobs/"+id+"/events", event("n1", job.KindNote, map[string]any{"text": marker}), 200)
	set := job.DefaultSettings()
	set.Name = marker
	north.send("PUT", "/api/settings", set, 200)
	token := north.send("POST", "/api/tokens", map[string]any{"name": marker}, 200)["id"].(string)
	account := north.send("POST", "/api/accounts", map[string]any{"name": "zwarte", "display": marker, "role": "lead", "trained": false, "disabled": false}, 200)["id"].(string)
	north.send("POST", "/api/jobs/"+id+"/pattern", map[string]any{"name": marker}, 200)
	vehicles := []map[string]any{}
	require.NoError(t, json.Unmarshal([]byte(north.list("/api/vehicles?text=ZW4711")), &vehicles))
	require.Len(t, vehicles, 1)
	before := checksum(t, other)
	first.as("piet")
	for _, of := range []string{id, token, account, vehicles[0]["id"].(string)} {
		for _, r := range server.Routes() {
			if r.Open || r.ID == "signOut" {
				continue
			}
			ask := func(id string) (int, string) {
				path := "/api" + strings.NewReplacer("{id}", id, "{photo}", id).Replace(r.Path)
				if r.Method == "GET" {
					path += "?text=" + marker + "&job=" + id + "&of=" + id
				}
				res := first.raw(r.Method, path, bodyFor(r.ID, id), map[string]string{"X-Csrf-Token": first.token()})
				body, err := io.ReadAll(res.Body)
				require.NoError(t, err)
				return res.StatusCode, string(body)
			}
			status, body := ask(of)
			assert.NotContains(t, body, marker, "%s %s", r.Method, r.Path)
			assert.NotContains(t, body, "ZW 4711", "%s %s", r.Method, r.Path)
			if strings.Contains(r.Path, "{id}") {
				none, _ := ask(uuid.NewString())
				assert.Equal(t, none, status, "%s %s: an id of another shop is an id there is not", r.Method, r.Path)
			}
		}
		for _, path := range []string{"/api/jobs/" + of + "/live?tab=a&since=0", "/api/jobs/" + of + "/call/live"} {
			assert.Equal(t, 404, first.raw("GET", path, nil, nil).StatusCode, path)
		}
	}
	first.send("POST", "/api/session", map[string]any{"name": "piet", "demo": true}, 200)
	assert.Equal(t, before, checksum(t, other), "nothing of the other shop has changed")
	for _, what := range []string{"jobs.csv", "vehicles.json", "statistics.csv", "units.csv", "fluids.json"} {
		assert.NotContains(t, first.list("/api/out/"+what), marker)
	}
}

// bodyFor is a body that a route takes, where it wants more than {}.
func bodyFor(route, id string) []byte {
	switch route {
	case "joinVehicle":
		return []byte(`{"into":"` + id + `"}`)
	case "append", "appendLog":
		return []byte(fmt.Sprintf(`{"events":[{"id":"x-%s","kind":"note","at":"2026-01-02T03:04:05Z","data":{"text":"mine"}}]}`, id[:8]))
	case "keepPattern":
		return []byte(`{"name":"mine"}`)
	case "askChain":
		return []byte(`{"consent":true}`)
	}
	return []byte(`{}`)
}

func checksum(t *testing.T, st *store.Store) string {
	t.Helper()
	sums, err := st.Checksums(t.Context())
	require.NoError(t, err)
	raw, err := json.Marshal(sums)
	require.NoError(t, err)
	return string(raw)
}

// A vehicle is asked for with its owner's consent, of shops whose lead allows it; both audits tell of it; nothing of the customer
// is told. The chain's owner sees all shops' figures and no job.
func TestAVehicleIsAskedForAndFiguresAreSeen(t *testing.T) {
	first, north, st, other := chainOf(t)
	var page struct{ Jobs []struct{ ID, Plate string } }
	require.NoError(t, json.Unmarshal([]byte(north.list("/api/jobs?standing=released")), &page))
	require.NotEmpty(t, page.Jobs)
	did := north.get("/api/jobs/"+page.Jobs[0].ID, 200)["intake"].(map[string]any)
	plate, customer := did["plate"].(string), did["customer"].(string)
	require.NotEmpty(t, plate)
	first.as("mara").
		send("POST", "/api/jobs", map[string]any{"vehicle": "Same", "plate": plate, "customer": marker, "complaint": "soft", "pattern": "truck-hydraulic"}, 200)
	vehicles := []map[string]any{}
	require.NoError(t, json.Unmarshal([]byte(first.list("/api/vehicles?text="+job.PlateKey(plate))), &vehicles))
	ask := "/api/vehicles/" + vehicles[0]["id"].(string) + "/ask"
	first.send("POST", ask, map[string]any{"consent": false}, 422)
	assert.Equal(t, 0.0, first.send("POST", ask, map[string]any{"consent": true}, 200)["asked"], "the other lead has not allowed it")
	set := job.DefaultSettings()
	set.Name, set.ShareVehicles = "Geminate North", true
	north.send("PUT", "/api/settings", set, 200)
	out := first.send("POST", ask, map[string]any{"consent": true}, 200)
	raw, _ := json.Marshal(out)
	if customer != "" {
		assert.NotContains(t, string(raw), customer, "no customer")
	}
	told := out["told"].([]any)
	require.Len(t, told, 1)
	assert.Equal(t, "Geminate North", told[0].(map[string]any)["shop"])
	assert.NotEmpty(t, told[0].(map[string]any)["jobs"].([]any)[0].(map[string]any)["scope"])
	first.as("sunny").send("POST", ask, map[string]any{"consent": true}, 403)
	assert.Contains(t, north.list("/api/audit?action=vehicle_told"), "Mara Oduya")
	assert.Contains(t, first.as("piet").list("/api/audit?action=chain_asked"), "Mara Oduya")

	owner := &store.User{
		ID:        uuid.NewString(),
		Name:      "own",
		Display:   "Own Er",
		Role:      job.Owner,
		Units:     "metric",
		Theme:     "day",
		CreatedAt: time.Now().UTC(),
	}
	owner.PasswordHash, _ = server.HashPassword(northWord, "own")
	require.NoError(t, st.AddUser(t.Context(), owner))
	in := plain(first)
	in.send("POST", "/api/session", map[string]any{"name": "own", "password": northWord}, 200)
	shops := in.get("/api/chain", 200)["shops"].([]any)
	require.Len(t, shops, 2)
	assert.Equal(t, "Geminate North", shops[1].(map[string]any)["shop"])
	assert.Equal(t, http.StatusForbidden, in.raw("GET", "/api/jobs", nil, nil).StatusCode)
	first.get("/api/chain", 403) // the lead of one shop
	// An owner's account that came into another shop by a restore owns nothing there.
	owner.ID = uuid.NewString()
	require.NoError(t, other.AddUser(t.Context(), owner))
	in = plain(first)
	in.send("POST", "/api/session", map[string]any{"name": "own", "password": northWord, "shop": "north"}, 200)
	in.get("/api/chain", 404)
	north.send("POST", "/api/accounts",
		map[string]any{"name": "king", "display": "King", "role": "owner", "trained": false, "disabled": false}, 422)
}
