package e2e

import (
	"bytes"
	"fmt"
	"net/http"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// gear is a shop's instruments on one job, told by hand.
type gear struct {
	t      *testing.T
	url    string
	secret map[string]string
}

func gearOn(t *testing.T, a *app, job string, kinds ...string) *gear {
	t.Helper()
	lead := newHand(t, a.url)
	require.Equal(t, 200, lead.send("POST", "/api/session", map[string]any{"name": "piet", "demo": true}, nil))
	g := &gear{t, a.url, map[string]string{}}
	for _, k := range kinds {
		var made struct{ ID, Secret string }
		require.Equal(t, 200, lead.send("POST", "/api/instruments", map[string]any{"kind": k, "name": k + " 1"}, &made))
		require.Equal(t, 200, lead.send("POST", "/api/instruments/"+made.ID+"/attach", map[string]any{"job": job}, nil))
		g.secret[k] = made.Secret
	}
	return g
}

func (g *gear) tell(kind, record string) {
	g.t.Helper()
	req, err := http.NewRequest("POST", g.url+"/api/readings", bytes.NewBufferString(`[{"n":"x",`+record+`}]`))
	require.NoError(g.t, err)
	req.Header.Set("Authorization", "Bearer "+g.secret[kind])
	req.Header.Set("Content-Type", "application/senml+json")
	res, err := http.DefaultClient.Do(req)
	require.NoError(g.t, err)
	require.NoError(g.t, res.Body.Close())
	require.Equal(g.t, 200, res.StatusCode)
}

func jobAt(p *page) string {
	at, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](`location.pathname.split("/")[2]`))
	require.NoError(p.t, err)
	return at
}

// At the stations instruments do by themselves what a hand would type: the wrench's click ticks the joint in hand and
// no other's range, the foot switch counts, the scale weighs and is set against the count, a hold begins when a foot
// stands on the pedal, codes come as they were read.
func TestInstrumentsAtTheStations(t *testing.T) {
	t.Parallel()
	a := startPaced(t, 30)
	p := openFor(t, a.url, 1280, 800, 8*time.Minute)
	p.paced = true
	openPickup(p)
	id := jobAt(p)
	g := gearOn(t, a, id, "torque", "foot_switch", "scale", "force", "travel")
	p.do(chromedp.Reload())
	p.see("figure-torque")
	p.goTo("match")
	match(p)
	p.see("gates")
	tickUpTo(p, "fit.bench_bled")
	p.goTo("bench")
	for i := 0; i < 8; i++ {
		p.stroke()
	}
	p.has("bench-verdict", "Nothing more")
	p.stored()
	p.goTo("replace")
	tickUpTo(p, "fit.cylinder_nuts")
	p.see("torque-tick-fit.cylinder_nuts")
	g.tell("torque", `"u":"N.m","v":150`)
	p.see("torque-verdict")
	p.see("torque-tick-fit.cylinder_nuts")
	p.shot("instrument-wrench")
	g.tell("torque", `"u":"N.m","v":28`)
	p.has("clicks", "1 of 2")
	g.tell("torque", `"u":"N.m","v":28`)
	p.until("ticked by its clicks", `document.querySelector('.now')?.dataset.testid !== "step-fit.cylinder_nuts"`)
	tickUpTo(p, "close.bleed")
	p.stored()
	var v struct {
		State struct {
			Ticks map[string]struct {
				TorqueNM float64 `json:"torque_nm"`
				Measured struct{ Name string }
			}
			Wheels map[string]struct {
				WeighedCM3 float64 `json:"weighed_cm3"`
			}
			BleedStrokes map[string]int `json:"bleed_strokes"`
			Traces       []any
		}
	}
	hand := newHand(t, a.url)
	require.Equal(t, 200, hand.send("GET", "/api/jobs/"+id, nil, &v))
	assert.InDelta(t, 28, v.State.Ticks["fit.cylinder_nuts"].TorqueNM, 1e-9)
	assert.Equal(t, "torque 1", v.State.Ticks["fit.cylinder_nuts"].Measured.Name)

	p.goTo("bleed")
	p.see("by-itself")
	g.tell("foot_switch", `"u":"1","v":7`)
	g.tell("scale", `"u":"kg","v":0.100`)
	p.until(
		"both are heard",
		`/7/.test(document.querySelector('[data-testid="figure-foot_switch"]').innerText) && /100/.test(document.querySelector('[data-testid="figure-scale"]').innerText)`,
	)
	p.has("at-wheel", "RR")
	p.click("count-by-foot")
	for n := 1; n <= 4; n++ {
		g.tell("scale", fmt.Sprintf(`"u":"kg","v":%.4f`, 0.1+0.001*float64(n))) // a gram: the bleeder is all but shut
		time.Sleep(200 * time.Millisecond)
		g.tell("foot_switch", fmt.Sprintf(`"u":"1","v":%d`, 7+n))
		p.has("count", fmt.Sprint(n))
		time.Sleep(500 * time.Millisecond)
	}
	p.has("disagrees", "differ by more than a stroke")
	p.shot("instrument-bleed")
	p.stored()
	require.Equal(t, 200, hand.send("GET", "/api/jobs/"+id, nil, &v))
	assert.Equal(t, 4, v.State.BleedStrokes["RR"])
	assert.InDelta(t, 4/1.06, v.State.Wheels["RR"].WeighedCM3, 0.3, "four grams of glycol fluid at 20 °C, by hand")

	p.goTo("verify")
	p.click("walk-engine_on")
	p.see("trace-start")
	for s := range 110 { // eight seconds: a foot that was there for something else
		g.tell("force", `"u":"N","v":300`)
		g.tell("travel", fmt.Sprintf(`"u":"m","v":%.5f`, 0.04+0.00002*float64(s)))
		if s == 20 {
			p.see("trace-end") // by itself
		}
		time.Sleep(70 * time.Millisecond)
	}
	g.tell("force", `"u":"N","v":2`)
	p.see("trace-start")
	p.until("no hold, and nobody asked for one: nothing is said, nothing told",
		`!document.querySelector('[data-testid="trace-take"] [role="alert"]')`)
	require.Equal(t, 200, hand.send("GET", "/api/jobs/"+id, nil, &v))
	assert.Empty(t, v.State.Traces)

	p.click("back-to-bay")
	newJob(p, "Hybrid", "hybrid-electro-hydraulic")
	id = jobAt(p)
	g = gearOn(t, a, id, "scan_tool", "water")
	p.goTo("diagnose")
	p.do(chromedp.Reload())
	p.see("all-findings")
	// A cable that is none: this browser has no port, so one is put in its place that says a line ten times a second.
	p.do(
		chromedp.Evaluate[chromedp.Void](
			`Object.defineProperty(navigator, "serial", {configurable: true, value: {requestPort: async () => ({open: async () => {}, close: async () => {},
		readable: new ReadableStream({start(c) { setInterval(() => c.enqueue(new TextEncoder().encode("1.4")), 100); setInterval(() => c.enqueue(new TextEncoder().encode(" %\r\n")), 100) }})})}}); 0`,
		),
	)
	g.tell("scan_tool", `"vs":"C1345, U0121"`)
	p.click("cable-water")
	p.until("what the cable says", `/1[.,]4/.test(document.querySelector('[data-testid="figure-water"]').innerText)`)
	p.click("all-findings")
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelectorAll("details").forEach(d => (d.open = true))`))
	g.tell("scan_tool", `"vs":"C1345, U0121"`)
	p.click("take-codes")
	p.stored()
	var codes struct {
		State struct {
			Findings map[string]map[string]struct{ Value any }
		}
	}
	require.Equal(t, 200, hand.send("GET", "/api/jobs/"+id, nil, &codes))
	assert.Equal(t, []any{"C1345", "U0121"}, codes.State.Findings["diagnose"]["codes.present"].Value)
}
