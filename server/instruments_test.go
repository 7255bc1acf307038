package server_test

import (
	"bufio"
	"encoding/json"
	"fmt"
	"maps"
	"math/rand/v2"
	"net"
	"net/http"
	"testing"
	"time"

	"github.com/eclipse/paho.golang/paho"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/job"
	"geminate/brake/trace"
	"geminate/instrument"
	"geminate/server"
)

// added is a new instrument with its secret.
type added struct{ ID, Secret, Topic string }

func (c *client) instrument(kind trace.Kind, name string) (out added) {
	c.t.Helper()
	v := c.send("POST", "/api/instruments", map[string]any{"kind": kind, "name": name, "holds_until": "2020-01-01"}, 200)
	raw, _ := json.Marshal(v)
	require.NoError(c.t, json.Unmarshal(raw, &out))
	return out
}

// tells sends a pack as an instrument does: no session, its secret alone.
func (c *client) tells(secret, pack string, want int) map[string]any {
	c.t.Helper()
	res := plain(c).raw("POST", "/api/readings", []byte(pack), map[string]string{"Authorization": "Bearer " + secret})
	require.Equal(c.t, want, res.StatusCode)
	out := map[string]any{}
	_ = json.NewDecoder(res.Body).Decode(&out)
	return out
}

// An instrument is added by the lead, tells by its secret alone, belongs to one job at a time, and is shown with what
// it told; what it cannot be is refused and counted.
func TestInstrumentsTellByTheirSecret(t *testing.T) {
	c, _ := shop(t)
	job := c.as("piet").pickup()
	c.as("mara").send("POST", "/api/instruments", map[string]any{"kind": "force", "name": "F1"}, http.StatusForbidden)
	c.as("piet").send("POST", "/api/instruments", map[string]any{"kind": "thumb", "name": "F1"}, 422)
	f := c.instrument(trace.Force, "Pedal force 1")
	c.tells("nobody's secret", `[{"n":"f","u":"N","v":1}]`, 401)
	c.tells(f.Secret, `{"not":"a pack"}`, 422)
	c.tells(f.Secret, `[{"n":"f","u":"N"}, {"n":"f","v":1,"must_":2}]`, 422)
	assert.Equal(t, 3.0, c.tells(f.Secret, `[{"n":"f","u":"lbf","v":40}]`, 200)["refused"], "two packs that are none, and a wrong unit")
	out := c.tells(f.Secret, `[{"bn":"f","bu":"N","v":212.5},{"v":210,"t":-1},{"v":210,"t":-1}]`, 200)
	assert.Equal(t, 2.0, out["taken"])
	assert.Equal(t, 1.0, out["doubled"])
	c.as("mara").send("POST", "/api/instruments/"+f.ID+"/attach", map[string]any{"job": job}, 200)
	c.send("POST", "/api/instruments/"+f.ID+"/attach", map[string]any{"job": "0197a000-0000-7000-8000-000000000000"}, 404)
	var list []map[string]any
	require.NoError(t, json.Unmarshal([]byte(c.list("/api/instruments")), &list))
	require.Len(t, list, 1)
	assert.Equal(t, job, list[0]["job"])
	assert.Equal(t, true, list[0]["out_of_date"])
	assert.InDelta(t, 212.5, list[0]["last"].(map[string]any)["v"], 1e-9)
	assert.NotContains(t, fmt.Sprint(list[0]), f.Secret)
	c.as("piet").send("DELETE", "/api/instruments/"+f.ID, nil, 200)
	c.tells(f.Secret, `[{"n":"f","u":"N","v":1}]`, 401)
}

// A hold is cut out of what travel and force told: its rate by the core, its trace bounded, and it is stored as an
// event that the record keeps.
func TestAHoldIsCutOutOfWhatWasTold(t *testing.T) {
	c, st := shop(t)
	id := c.as("piet").pickup()
	f, tr := c.instrument(trace.Force, "F"), c.instrument(trace.Travel, "T")
	for _, i := range []added{f, tr} {
		require.NoError(t, st.AttachInstrument(t.Context(), i.ID, &id, time.Now().UTC().Add(-5*time.Minute)))
	}
	c.send("POST", "/api/jobs/"+id+"/trace", map[string]any{"finding": "pedal.sink", "seconds": 50}, 409)
	rnd := rand.New(rand.NewPCG(1, 1))
	at, base := []time.Time{}, time.Now().UTC().Add(-50*time.Second)
	travel, force := []float64{}, []float64{}
	for k := range 180 {
		s := 0.27 * float64(k)
		at = append(at, base.Add(time.Duration(s*float64(time.Second))))
		travel = append(travel, (70+0.2*s+0.2*rnd.NormFloat64())/1000)
		force = append(force, 300+3*rnd.NormFloat64())
	}
	pack := func(name, unit string, v []float64) string {
		raw, err := instrument.WritePack(name, unit, at, v)
		require.NoError(t, err)
		return string(raw)
	}
	c.tells(tr.Secret, pack("t", "m", travel), 200)
	c.tells(f.Secret, pack("f", "N", force), 200)
	out := c.send("POST", "/api/jobs/"+id+"/trace", map[string]any{"finding": "pedal.sink", "seconds": 50}, 200)
	slope := out["slope"].(map[string]any)
	assert.InEpsilon(t, 0.2, slope["per_s"], 0.1)
	assert.InDelta(t, 300, out["came"].(map[string]any)["force_n"], 2)
	raw, err := json.Marshal(out)
	require.NoError(t, err)
	assert.Less(t, len(raw), 20_000)
	traced := map[string]any{
		"finding":  out["finding"],
		"seconds":  out["seconds"],
		"channels": out["channels"],
		"slope":    slope,
		"came":     out["came"],
	}
	c.send("POST", "/api/jobs/"+id+"/log", event("tr1", job.KindTrace, traced), 200)
	sink := out["came"].(map[string]any)["sink"].(map[string]any)
	value := func(mm any) map[string]any {
		return map[string]any{
			"pedal_force_n": out["came"].(map[string]any)["force_n"],
			"travel_mm":     mm,
			"seconds":       sink["seconds"],
			"engine":        "on",
		}
	}
	by := func(more map[string]any) map[string]any {
		m := map[string]any{"id": tr.ID, "name": "Somebody's", "kind": "travel", "holds_until": "2099-01-01", "trace": "tr1"}
		maps.Copy(m, more)
		return m
	}
	made := func(mm any, m map[string]any) map[string]any {
		return map[string]any{"phase": "diagnose", "finding": "pedal.sink", "value": value(mm), "measured": m}
	}
	// Another figure than the trace's, another trace, another instrument: none of it was measured.
	c.send("POST", "/api/jobs/"+id+"/log", event("x1", job.KindFinding, made(0.5, by(nil))), 422)
	c.send("POST", "/api/jobs/"+id+"/log", event("x2", job.KindFinding, made(sink["mm"], by(map[string]any{"trace": "tr9"}))), 422)
	thermometer := c.instrument(trace.Thermometer, "Th")
	c.send("POST", "/api/jobs/"+id+"/log", event("x3", job.KindFinding, made(sink["mm"], by(map[string]any{"id": thermometer.ID}))), 422)
	forged := map[string]any{}
	maps.Copy(forged, traced)
	forged["seconds"] = 49.0
	c.send("POST", "/api/jobs/"+id+"/log", event("x4", job.KindTrace, forged), 422)
	c.send("POST", "/api/jobs/"+id+"/log", event("tr2", job.KindFinding, made(sink["mm"], by(nil))), 200)
	v := c.get("/api/jobs/"+id, 200)["state"].(map[string]any)
	assert.Len(t, v["traces"], 1)
	measured := v["findings"].(map[string]any)["diagnose"].(map[string]any)["pedal.sink"].(map[string]any)["measured"].(map[string]any)
	assert.Equal(t, "T", measured["name"], "as the shop has it")
	assert.Equal(t, "2020-01-01", measured["holds_until"])
	curve := []any{
		map[string]any{"pedal_force_n": 200, "travel_mm": 60, "by": "trace"},
		map[string]any{"pedal_force_n": 300, "travel_mm": 64, "by": "trace"},
	}
	c.send("POST", "/api/jobs/"+id+"/log",
		event("tr4", job.KindFinding, map[string]any{"phase": "diagnose", "finding": "pedal.readings", "value": curve}), 200)
	traced["channels"] = []any{}
	c.send("POST", "/api/jobs/"+id+"/log", event("tr3", job.KindTrace, traced), 422)
	c.send("POST", "/api/jobs/"+id+"/trace", map[string]any{"finding": "pedal.sink", "seconds": 4}, 409)
}

// A trace is of the vehicle the instrument was at: fetched away in mid-hold it ends there, and the other, which nobody
// pressed, gets none of it. Of two of a kind the one that came last speaks.
func TestATraceIsOfOneVehicle(t *testing.T) {
	c, st := shop(t)
	one := c.as("piet").pickup()
	other := c.send("POST", "/api/jobs", map[string]any{"vehicle": "Other", "plate": "", "customer": "", "complaint": "soft", "pattern": "truck-hydraulic"}, 200)["id"].(string)
	tr := c.instrument(trace.Travel, "T")
	attach := func(i added, to string, ago time.Duration) {
		require.NoError(t, st.AttachInstrument(t.Context(), i.ID, &to, time.Now().UTC().Add(-ago)))
	}
	held := func(i added, from time.Time, seconds, mm float64) {
		var at []time.Time
		var v []float64
		for s := 0.0; s < seconds; s += 0.5 {
			at, v = append(at, from.Add(time.Duration(s*float64(time.Second)))), append(v, (mm+0.2*s)/1000)
		}
		raw, err := instrument.WritePack("t", "m", at, v)
		require.NoError(t, err)
		c.tells(i.Secret, string(raw), 200)
	}
	began := time.Now().UTC().Add(-60 * time.Second)
	attach(tr, one, 100*time.Second)
	held(tr, began, 55, 70)
	attach(tr, other, 3*time.Second)
	hold := map[string]any{"finding": "pedal.sink", "seconds": 60}
	out := c.send("POST", "/api/jobs/"+one+"/trace", hold, 200)
	assert.InDelta(t, 0.2, out["slope"].(map[string]any)["per_s"], 0.01, "its own hold is its own still")
	c.send("POST", "/api/jobs/"+other+"/trace", hold, 409)
	second := c.instrument(trace.Travel, "T2")
	attach(second, other, time.Second)
	var list []map[string]any
	require.NoError(t, json.Unmarshal([]byte(c.list("/api/instruments")), &list))
	speaks := map[string]any{}
	for _, i := range list {
		speaks[i["name"].(string)] = i["speaks"]
	}
	assert.Equal(t, map[string]any{"T": false, "T2": true}, speaks)
	attach(tr, other, 0) // chosen again
	require.NoError(t, json.Unmarshal([]byte(c.list("/api/instruments")), &list))
	for _, i := range list {
		assert.Equal(t, i["name"] == "T", i["speaks"])
	}
}

// dial signs an instrument in at the broker; nil where it is refused.
func dial(t *testing.T, addr, client, user, secret string) *paho.Client {
	t.Helper()
	conn, err := net.Dial("tcp", addr)
	require.NoError(t, err)
	c := paho.NewClient(paho.ClientConfig{Conn: conn, PacketTimeout: 3 * time.Second})
	ack, err := c.Connect(
		t.Context(),
		&paho.Connect{
			ClientID:     client,
			KeepAlive:    30,
			CleanStart:   true,
			Username:     user,
			UsernameFlag: true,
			Password:     []byte(secret),
			PasswordFlag: true,
		},
	)
	if err != nil || ack.ReasonCode != 0 {
		return nil
	}
	return c
}

// By the broker an instrument publishes under its own topic and nothing else; nobody listens in; another's name throws
// nobody off.
func TestTheBrokerLetsEachTellItsOwn(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	c, _ := shop(t, func(cfg *server.Config) { cfg.Instruments = l })
	c.as("piet")
	one, two := c.instrument(trace.Force, "One"), c.instrument(trace.Travel, "Two")
	addr := l.Addr().String()
	time.Sleep(200 * time.Millisecond)
	assert.Nil(t, dial(t, addr, one.ID, one.ID, one.Secret), "off until the lead turns it on")
	set := c.get("/api/settings", 200)
	set["broker"] = true
	c.send("PUT", "/api/settings", set, 200)
	assert.Nil(t, dial(t, addr, one.ID, one.ID, two.Secret))
	assert.Nil(t, dial(t, addr, one.ID, two.ID, two.Secret), "under another's name")
	assert.Nil(t, dial(t, addr, "", "", ""))
	p := dial(t, addr, one.ID, one.ID, one.Secret)
	require.NotNil(t, p)
	say := func(topic, pack string) {
		_, _ = p.Publish(t.Context(), &paho.Publish{Topic: topic, QoS: 1, Payload: []byte(pack)})
	}
	say(one.Topic, `[{"n":"f","u":"N","v":100}]`)
	last := func(id string) any {
		var list []map[string]any
		require.NoError(t, json.Unmarshal([]byte(c.list("/api/instruments")), &list))
		for _, i := range list {
			if i["id"] == id {
				return i["last"]
			}
		}
		return nil
	}
	require.Eventually(t, func() bool { return last(one.ID) != nil }, 3*time.Second, 20*time.Millisecond)
	_, err = p.Subscribe(t.Context(), &paho.Subscribe{Subscriptions: []paho.SubscribeOptions{{Topic: two.Topic, QoS: 0}}})
	require.Error(t, err, "nobody listens in")
	say(two.Topic, `[{"n":"t","u":"m","v":0.07}]`)
	say("$SYS/broker", `[{"n":"t","u":"m","v":0.07}]`)
	time.Sleep(300 * time.Millisecond)
	assert.Nil(t, last(two.ID))
}

// On a cable of the tablet an instrument says lines: a figure and its unit each. What is none is counted and says why;
// a trainee may, a stranger may not.
func TestAnInstrumentOnACable(t *testing.T) {
	c, _ := shop(t)
	i := c.as("piet").instrument(trace.Travel, "Rule")
	c.as("sunny")
	say := func(want int, lines ...any) map[string]any {
		list := []any{}
		for k, l := range lines {
			list = append(list, map[string]any{"ago_s": 0.1 * float64(len(lines)-k), "text": l})
		}
		return c.send("POST", "/api/instruments/"+i.ID+"/lines", map[string]any{"lines": list}, want)
	}
	out := say(200, "71.2 mm", "2.8 in")
	assert.EqualValues(t, 2, out["taken"])
	assert.Equal(t, "no_unit", say(200, "71.2")["problem"])
	assert.Equal(t, "unit", say(200, "3 N")["problem"])
	assert.Equal(t, "line", say(200, "hello")["problem"])
	assert.EqualValues(t, 3, say(200)["refused"])
	many := make([]any, 500)
	for k := range many {
		many[k] = "1 mm"
	}
	say(422, many...)
	c.send("POST", "/api/instruments/"+i.ID+"/lines", map[string]any{"lines": []any{map[string]any{"ago_s": -1, "text": "1 mm"}}}, 422)
	c.send("POST", "/api/instruments/0197a000-0000-7000-8000-000000000000/lines", map[string]any{"lines": []any{}}, 404)
	plain(c).send("POST", "/api/instruments/"+i.ID+"/lines", map[string]any{"lines": []any{}}, 401)
	var list []map[string]any
	require.NoError(t, json.Unmarshal([]byte(c.list("/api/instruments")), &list))
	assert.InDelta(t, 71.12, list[0]["last"].(map[string]any)["v"], 1e-6)
}

// A screen that listens to an instrument is told within seconds when another vehicle fetches it, and its stream ends:
// two bays are not mixed up.
func TestAnInstrumentThatIsFetchedAwayFallsSilentHere(t *testing.T) {
	c, _ := shop(t)
	id := c.as("piet").pickup()
	other := c.send("POST", "/api/jobs", map[string]any{"vehicle": "Other", "plate": "", "customer": "", "complaint": "soft", "pattern": "truck-hydraulic"}, 200)["id"].(string)
	f := c.instrument(trace.Force, "F")
	attach := "/api/instruments/" + f.ID + "/attach"
	c.send("POST", attach, map[string]any{"job": id}, 200)
	c.send("POST", "/api/instruments/"+other+"/attach", map[string]any{"job": id}, 404)
	c.tells(f.Secret, `[{"n":"f","u":"N","v":123}]`, 200)
	req, err := http.NewRequestWithContext(t.Context(), "GET", c.listen()+"/api/jobs/"+id+"/figures/live", nil)
	require.NoError(t, err)
	for k, v := range c.cookies {
		req.AddCookie(&http.Cookie{Name: k, Value: v})
	}
	res, err := http.DefaultClient.Do(req)
	require.NoError(t, err)
	defer func() { _ = res.Body.Close() }()
	lines := bufio.NewScanner(res.Body)
	require.True(t, lines.Scan())
	c.send("POST", attach, map[string]any{"job": other}, 200)
	began, last := time.Now(), ""
	for lines.Scan() {
		if lines.Text() != "" {
			last = lines.Text() + last[:min(len(last), 40)]
		}
	}
	assert.Contains(t, last, "event: changed")
	assert.Less(t, time.Since(began), 10*time.Second)
}
