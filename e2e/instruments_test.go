package e2e

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/trace"
	"geminate/instrument"
)

// The forty lines of docs/instruments.md, run as they stand there; and in the browser the figure is seen beside the
// work, fetched to the vehicle, a hold by instrument is drawn and stored with its rate.
func TestAnInstrumentSpeaksForItself(t *testing.T) {
	t.Parallel()
	python, err := exec.LookPath("python3")
	if err != nil {
		t.Skip("no python3 on this machine: the example of docs/instruments.md is not tried")
	}
	doc, err := os.ReadFile("../docs/instruments.md")
	require.NoError(t, err)
	_, code, found := strings.Cut(string(doc), "```python\n")
	require.True(t, found)
	code, _, _ = strings.Cut(code, "```")
	script := filepath.Join(t.TempDir(), "instrument.py")
	require.NoError(t, os.WriteFile(script, []byte(code), 0o600))

	a := start(t, t.TempDir(), freePort(t))
	lead := newHand(t, a.url)
	require.Equal(t, 200, lead.send("POST", "/api/session", map[string]any{"name": "piet", "demo": true}, nil))
	var made struct{ ID, Secret string }
	require.Equal(t, 200, lead.send("POST", "/api/instruments", map[string]any{"kind": "travel", "name": "Rule 7"}, &made))
	cmd := exec.Command(python, script, a.url, made.Secret, "90")
	var said strings.Builder
	cmd.Stderr = &said
	require.NoError(t, cmd.Start())
	t.Cleanup(func() { _ = cmd.Process.Kill(); _ = cmd.Wait() })

	p := open(t, a.url, 1280, 800)
	openPickup(p)
	p.goTo("diagnose")
	p.click("instruments-more")
	p.click("attach-travel")
	p.until("its figure as it comes", `/7\d[.,]\d/.test(document.querySelector('[data-testid="figure-travel"]')?.innerText ?? '')`)
	p.click("pedal.sinks-slow")
	p.click("level.falls-no")
	p.click("test-hold")
	p.see("trace-take")
	p.click("trace-start")
	time.Sleep(26 * time.Second)
	p.shot("instrument-hold")
	p.click("trace-end")
	p.see("trace-sink")
	p.shot("instrument-held")
	p.click("trace-engine-on") // drawn is proposed: a hand takes it, and says what the engine did
	p.click("trace-keep")
	p.stored()
	at, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](`location.pathname.split("/")[2]`))
	require.NoError(t, err)
	var v struct {
		State struct {
			Traces []struct {
				Slope struct {
					PerS float64 `json:"per_s"`
				}
			}
		}
	}
	require.Equal(t, 200, lead.send("GET", "/api/jobs/"+at, nil, &v))
	require.Len(t, v.State.Traces, 1)
	assert.InEpsilon(t, 0.2, v.State.Traces[0].Slope.PerS, 0.15, "the script's own 0.2 mm a second")
	assert.Empty(t, said.String())
}

// Fifty instruments of twenty readings a second by the broker, one screen: how long a reading takes to it, and what the
// server does for one. GEMINATE_FEEDS=50 says how many.
func TestManyInstruments(t *testing.T) {
	many, err := strconv.Atoi(os.Getenv("GEMINATE_FEEDS"))
	if err != nil {
		t.Skip("a load, not a check: GEMINATE_FEEDS=50 says how many")
	}
	broker := fmt.Sprintf("127.0.0.1:%d", freePort(t))
	a := startWith(t, t.TempDir(), freePort(t), exec.Command(binary, "demo", "--years", "0", "--mqtt", broker))
	lead := newHand(t, a.url)
	require.Equal(t, 200, lead.send("POST", "/api/session", map[string]any{"name": "piet", "demo": true}, nil))
	brokerOn(t, lead)
	var bay struct{ Jobs []struct{ ID string } }
	require.Equal(t, 200, lead.send("GET", "/api/jobs", nil, &bay))
	ctx, cancel := context.WithTimeout(t.Context(), 20*time.Second)
	defer cancel()
	for n := range many {
		var made struct{ ID, Secret string }
		require.Equal(t, 200, lead.send("POST", "/api/instruments", map[string]any{"kind": "travel", "name": fmt.Sprint("T", n)}, &made))
		require.Equal(t, 200, lead.send("POST", "/api/instruments/"+made.ID+"/attach", map[string]any{"job": bay.Jobs[0].ID}, nil))
		go func() {
			_ = instrument.StandIn{
				Kind:   trace.Travel,
				ID:     made.ID,
				Secret: made.Secret,
			}.Run(ctx, instrument.Play{MQTT: broker, HZ: 20, ForceN: 300, Noise: 1},
				func(f, s float64) float64 { return f/5 + 0.1*s }, uint64(n))
		}()
	}
	req, err := http.NewRequestWithContext(ctx, "GET", a.url+"/api/jobs/"+bay.Jobs[0].ID+"/figures/live", nil)
	require.NoError(t, err)
	res, err := (&http.Client{Jar: lead.http.Jar}).Do(req)
	require.NoError(t, err)
	defer func() { _ = res.Body.Close() }()
	before := cpuOf(t, a.cmd.Process.Pid)
	var took []float64
	lines := bufio.NewScanner(res.Body)
	lines.Buffer(nil, 1<<20)
	for lines.Scan() {
		raw, isData := strings.CutPrefix(lines.Text(), "data: ")
		var figures []struct{ At time.Time }
		if !isData || json.Unmarshal([]byte(raw), &figures) != nil {
			continue
		}
		for _, f := range figures {
			took = append(took, time.Since(f.At).Seconds()*1000)
		}
	}
	spent := cpuOf(t, a.cmd.Process.Pid) - before
	slices.Sort(took)
	require.NotEmpty(t, took)
	var list []struct {
		Counts struct{ Taken, Doubled, Refused int }
	}
	require.Equal(t, 200, lead.send("GET", "/api/instruments", nil, &list))
	taken, doubled := 0, 0
	for _, i := range list {
		taken, doubled = taken+i.Counts.Taken, doubled+i.Counts.Doubled
	}
	t.Logf("%d instruments, %d readings taken, %d doubled; to the screen p50 %.0f ms, p95 %.0f ms; %.0f µs of the server a reading",
		many, taken, doubled, took[len(took)/2], took[len(took)*95/100], 1e6*spent/float64(taken))
}

// brokerOn is the lead's switch.
func brokerOn(t *testing.T, lead *shopHand) {
	t.Helper()
	set := map[string]any{}
	require.Equal(t, 200, lead.send("GET", "/api/settings", nil, &set))
	set["broker"] = true
	require.Equal(t, 200, lead.send("PUT", "/api/settings", set, nil))
}

// Ten instruments for as long as GEMINATE_SOAK=60m says, half by the broker and half by HTTP, with packets lost and
// told twice: nothing counts twice, nothing that was told is missing.
func TestInstrumentsForAnHour(t *testing.T) {
	lasts, err := time.ParseDuration(os.Getenv("GEMINATE_SOAK"))
	if err != nil {
		t.Skip("a load, not a check: GEMINATE_SOAK=60m says how long")
	}
	broker := fmt.Sprintf("127.0.0.1:%d", freePort(t))
	a := startWith(t, t.TempDir(), freePort(t), exec.Command(binary, "demo", "--years", "0", "--mqtt", broker))
	lead := newHand(t, a.url)
	require.Equal(t, 200, lead.send("POST", "/api/session", map[string]any{"name": "piet", "demo": true}, nil))
	brokerOn(t, lead)
	ctx, cancel := context.WithTimeout(t.Context(), lasts)
	defer cancel()
	var all sync.WaitGroup
	did := map[string]*instrument.Did{}
	for n := range 10 {
		var made struct{ ID, Secret string }
		require.Equal(t, 200, lead.send("POST", "/api/instruments", map[string]any{"kind": "travel", "name": fmt.Sprint("T", n)}, &made))
		mine := &instrument.Did{}
		did[made.ID] = mine
		play := instrument.Play{URL: a.url, HZ: 20, ForceN: 300, Noise: 1, Lose: 0.05, Double: 0.1, Did: mine}
		if n%2 == 0 {
			play.MQTT = broker
		}
		all.Go(func() {
			assert.NoError(
				t,
				instrument.StandIn{
					Kind:   trace.Travel,
					ID:     made.ID,
					Secret: made.Secret,
				}.Run(ctx, play, func(f, s float64) float64 { return f/5 + 0.1*s }, uint64(n)),
			)
		})
	}
	all.Wait()
	time.Sleep(2 * time.Second)
	var list []struct {
		ID     string
		Counts struct{ Taken, Doubled, Late, Refused int64 }
	}
	require.Equal(t, 200, lead.send("GET", "/api/instruments", nil, &list))
	var told, twice, lost int64
	for _, i := range list {
		d := did[i.ID]
		if d == nil {
			continue
		}
		told, twice, lost = told+d.Told.Load(), twice+d.Twice.Load(), lost+d.Lost.Load()
		// The last of each may have been on its way when time was up.
		assert.InDelta(t, d.Told.Load(), i.Counts.Taken, 1)
		assert.InDelta(t, d.Twice.Load(), i.Counts.Doubled, 1)
		assert.Zero(t, i.Counts.Late+i.Counts.Refused)
	}
	t.Logf("%s: %d readings told, %d of them twice, %d lost on the way; each of those told is there once", lasts, told, twice, lost)
}

// cpuOf is what a process has worked, s: user and system ticks of a hundredth.
func cpuOf(t *testing.T, pid int) float64 {
	t.Helper()
	raw, err := os.ReadFile(fmt.Sprintf("/proc/%d/stat", pid))
	require.NoError(t, err)
	f := strings.Fields(string(raw[strings.LastIndexByte(string(raw), ')')+2:]))
	user, err1 := strconv.ParseFloat(f[11], 64)
	sys, err2 := strconv.ParseFloat(f[12], 64)
	require.NoError(t, errors.Join(err1, err2))
	return (user + sys) / 100
}
