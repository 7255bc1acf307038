package e2e

import (
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func (p *page) text(testid string) string {
	p.t.Helper()
	s, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](`document.querySelector('[data-testid="`+testid+`"]').innerText`))
	require.NoError(p.t, err)
	return strings.TrimSpace(s)
}

// The twin explains the verdict: by mouse and by keys its foot, engine, circuits and air move the
// numbers, the drawing and the schematic; nothing of it is stored.
func TestTwinIsPlayedWith(t *testing.T) {
	t.Parallel()
	a := start(t, t.TempDir(), freePort(t))
	p := open(t, a.url, 1280, 800)
	signIn(p)
	openJob(p, "saloon")
	p.goTo("diagnose")
	p.see("twin-panel")
	p.key("t")
	p.see("cutaway")
	p.has("twin-panel", "diaphragm")
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-testid=twin-panel]').scrollIntoView()`))
	p.shot("twin-fault")
	// What is shown first is the likeliest fault; the sound system is a tap away.
	p.click("twin-fault-")
	p.until("the sound system", `document.querySelector('[data-testid="twin-fault-"]').ariaPressed === "true"`)
	before := p.text("twin-travel")
	for range 6 {
		p.key(kb.ArrowRight)
	}
	p.until("a harder foot", `document.querySelector('[data-testid=twin-travel]').innerText.trim() !== "`+before+`"`)
	sound := p.text("twin-travel")
	p.key("e")
	p.has("twin-engine", "off")
	p.until("less pedal without assist", `document.querySelector('[data-testid=twin-travel]').innerText.trim() !== "`+sound+`"`)
	p.key("e")
	p.has("twin-engine", "running")
	p.click("twin-fail-B")
	p.until("no pressure in B", `document.querySelector("[data-testid=cutaway]").textContent.includes("no pressure")`)
	p.has("twin-panel", "reached its end: B")
	p.shot("twin-failed")
	p.click("twin-fail-B")
	for range 5 {
		p.click("twin-air-A")
	}
	p.until("air in the chamber", `document.querySelector('[data-testid=cutaway] circle')`)
	p.until("a longer pedal",
		`parseFloat(document.querySelector('[data-testid=twin-travel]').innerText) > `+strings.Fields(sound)[0]+` + 5`)
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-testid=twin-panel]').scrollIntoView()`))
	p.shot("twin-air")
	events, err := chromedp.Run(p.ctx, chromedp.Evaluate[int](`+document.querySelector("[data-testid=outbox]").dataset.waiting`))
	require.NoError(t, err)
	assert.Zero(t, events, "the twin records nothing")
}

// Every pattern opens, draws its vehicle and its twin, and works down to the bleeding.
func TestEveryPatternOpensAndDraws(t *testing.T) {
	t.Parallel()
	a := start(t, t.TempDir(), freePort(t))
	p := open(t, a.url, 1280, 800)
	signIn(p)
	for _, pattern := range []string{"truck-hydraulic", "special-vacuum", "hybrid-electro-hydraulic", "clutch-hydraulic"} {
		p.do(chromedp.Navigate(a.url))
		p.see("new-job")
		newJob(p, "A "+pattern, pattern)
		p.shotTop("intake-" + pattern)
		p.goTo("verify")
		p.see("gate")
		p.click("twin-toggle")
		p.see("cutaway")
		p.shot("verify-" + pattern)
		p.goTo("bleed")
		p.see("route")
	}
}
