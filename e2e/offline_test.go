package e2e

import (
	"encoding/json"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// kept waits until the browser has all it needs to go on without a server: the page, the core, and the job.
func keptHere(p *page) {
	p.t.Helper()
	ok, err := chromedp.Run(
		p.ctx,
		chromedp.Evaluate[bool](
			`Promise.race([navigator.serviceWorker.ready.then(() => true), new Promise(r => setTimeout(() => r(false), 20000))])`,
			chromedp.EvalAwaitPromise,
		),
	)
	require.NoError(p.t, err)
	require.True(p.t, ok, "the page keeps itself")
	p.do(
		chromedp.Evaluate[chromedp.Void](
			`window.__kept = 0; setInterval(() => { const r = indexedDB.open("geminate"); r.onsuccess = () => { const t = r.result.transaction(["jobs", "log"]), g = t.objectStore("jobs").getAll(), l = t.objectStore("log").getAll(); t.oncomplete = () => { window.__kept = g.result.filter(j => j.shelf.length && l.result.some(e => e.job === j.id)).length; r.result.close() } } }, 200); 0`,
		),
	)
	p.until("the job kept here", `window.__kept >= 1`)
}

// logOf is a job's log as the server has it.
func logOf(p *page) (out []struct {
	ID   string `json:"id"`
	Seq  int64  `json:"seq"`
	Kind string `json:"kind"`
	By   struct {
		Name string `json:"name"`
	} `json:"by"`
}) {
	p.t.Helper()
	text, err := chromedp.Run(
		p.ctx,
		chromedp.Evaluate[string](
			`(async () => { const all = []; for (;;) { const r = await fetch("/api/jobs/" + location.pathname.split("/")[2] + "/log?since=" + (all.at(-1)?.seq ?? 0)); const l = await r.json(); all.push(...l.events); if (!l.more) return JSON.stringify(all) } })()`,
			chromedp.EvalAwaitPromise,
		),
	)
	require.NoError(p.t, err)
	require.NoError(p.t, json.Unmarshal([]byte(text), &out))
	return out
}

// TestTheWholeJobWithNoServer works the pickup from intake to "may be released" with the server and its database
// killed before the first tap; no station but the first was ever opened. Then the server comes back: all of it is
// stored once, in order, under the right name, and the server's own check releases.
func TestTheWholeJobWithNoServer(t *testing.T) {
	t.Parallel()
	data, port := t.TempDir(), freePort(t)
	a := start(t, data, port)
	p := openFor(t, a.url, 1280, 800, 10*time.Minute)
	openPickup(p)
	keptHere(p)
	a.kill()
	p.away = true

	p.goTo("intake")
	p.unfold("system-form")
	p.fill("f-master_cylinder.bore_mm", "1 1/16")
	p.click("save-intake")
	diagnose(p)
	match(p)
	replace(p)
	bench(p)
	bleedAll(p)
	// The page itself is loaded anew, with nobody to load it from.
	p.do(chromedp.Reload())
	p.see("kept")
	p.has("at-wheel", "Every wheel done")
	p.shot("kept")
	closeUp(p)
	verify(p)
	p.has("offline", "not stored yet")

	start(t, data, port)
	p.away = false
	p.stored()
	p.goTo("verify")
	p.has("gate", "May be released")
	release(p)
	record(p)
	seen := map[string]bool{}
	strokes := 0
	for i, e := range logOf(p) {
		assert.False(t, seen[e.ID], "stored twice: %s", e.ID)
		seen[e.ID] = true
		assert.Equal(t, int64(i+1), e.Seq)
		if e.Kind == "bleed_stroke" {
			strokes++
		}
		assert.Equal(t, "Mara Oduya", e.By.Name)
	}
	assert.Greater(t, strokes, 50)
	shown, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](`document.querySelector('[data-testid="sheet"]').innerText`))
	require.NoError(t, err)
	assert.Contains(t, shown, "RR: ")
}

// A job is opened with no server, worked on, found in the bay and by searching, and is there after a reload; when the
// server comes back it has it once, under the same address.
func TestAJobOpenedWithNoServer(t *testing.T) {
	t.Parallel()
	data, port := t.TempDir(), freePort(t)
	a := start(t, data, port)
	p := open(t, a.url, 1280, 800)
	openPickup(p)
	keptHere(p)
	p.click("back-to-bay")
	p.see("new-job")
	a.kill()
	p.away = true

	newJob(p, "Van out in the yard", "car-front-rear-vacuum")
	at, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](`location.pathname.split("/")[2]`))
	require.NoError(t, err)
	p.goTo("diagnose")
	p.click("pedal.low-yes")
	p.has("judgement", "%")
	p.do(chromedp.Reload())
	p.see("kept")
	p.until("the sign is still told", `document.querySelector('[data-testid="pedal.low-yes"]')?.getAttribute("aria-pressed") === "true"`)
	p.click("back-to-bay")
	p.fill("find", "yard")
	p.until("found here",
		`document.querySelectorAll('[data-testid=job]').length === 1 && document.body.innerText.includes("Van out in the yard")`)

	start(t, data, port)
	p.away = false
	p.stored() // by itself, from the bay
	p.do(chromedp.Navigate(a.url + "/jobs/" + at + "/diagnose"))
	p.see("pedal.low-yes")
	kinds := []string{}
	for _, e := range logOf(p) {
		kinds = append(kinds, e.Kind)
	}
	assert.Equal(t, []string{"opened", "finding"}, kinds)
	p.until("the same sign", `document.querySelector('[data-testid="pedal.low-yes"]')?.getAttribute("aria-pressed") === "true"`)
}
