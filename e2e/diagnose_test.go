package e2e

import (
	"slices"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Diagnose as a trade tool: guided tests with their figures, a place tapped beside the drawing, evidence
// opened, a finding switched off, the shop's costs.
func TestDiagnoseGuidesAndExplains(t *testing.T) {
	t.Parallel()
	a := start(t, t.TempDir(), freePort(t))
	p := open(t, a.url, 1280, 800)
	openPickupAs(p, "piet") // what only the lead may: costs, the catalogue
	p.goTo("diagnose")
	p.click("pedal.sinks-slow")
	p.has("settled", "Best guess so far")
	p.click("fault-mc.primary_cup_bypass")
	p.has("because", "of 100 with this fault")
	p.has("because", "our assumption")
	// A guided test: its steps, its clock, and what its figures come to before they are stored.
	p.click("test-pump")
	p.has("guided", "Four quick applies")
	p.see("test-clock")
	p.fill("input-first", "60")
	p.fill("input-fourth", "92")
	p.has("measure-note", "air or slack from a passing cup")
	p.fill("input-after_rest", "64")
	p.has("figures", "32.0 mm")
	p.has("figures", "Kept after the rest")
	p.click("measure-store")
	p.until("stored", `document.querySelector('[data-testid="grounds"]').textContent.includes("Pumping brings it up")`)
	// A place, beside the vehicle it is drawn on.
	p.click("back-findings")
	p.click("all-findings")
	p.click("wheel.check-LF-drags")
	p.click("wheel.check-rest")
	p.until("every wheel said", `document.querySelectorAll('[data-testid^="wheel.check-"][aria-pressed=true]').length === 4`)
	p.until("drawn as suspect", `document.querySelector('[data-testid="finding-wheel.check"] circle.ring')`)
	p.has("faults", "seized at the wheel, LF")
	// What if the wheel had not been looked at? Nothing of it is stored.
	p.click("grounds")
	p.click("what-if-wheel.check")
	p.has("what-if", "without what is left out")
	p.until("the wheel is no suspect", `!document.querySelector('[data-testid=faults]').textContent.includes("seized at the wheel, LF")`)
	p.click("what-if-wheel.check")
	p.has("faults", "seized at the wheel, LF")
	// A shop with dear comebacks: stored, and weighed at once.
	p.click("costs")
	p.fill("cost-comeback", "5000")
	before := p.text("judgement")
	p.click("costs-store")
	p.until("weighed anew", `document.querySelector('[data-testid=judgement]').innerText !== `+js(before))
	assert.NotEmpty(t, before)
}

// From the tap on a changed finding to the new ranking on the screen: the event stored, the diagnosis worked
// out with the full tables, the page drawn. One sample an operation; p50 and p95 are reported.
func BenchmarkChangedFinding(b *testing.B) {
	a := start(b, b.TempDir(), freePort(b))
	p := open(b, a.url, 1280, 800)
	openPickup(p)
	p.goTo("diagnose")
	p.click("pedal.sinks-slow")
	p.has("settled", "Best guess so far")
	p.click("level.falls-no")
	p.stored()
	const measure = `new Promise(done => {
		const list = document.querySelector('[data-testid=faults]')
		const next = document.querySelector('[data-testid="pedal.sinks-slow"]').ariaPressed === "true" ? "fast" : "slow"
		const start = performance.now()
		new MutationObserver((_, o) => { o.disconnect(); done(performance.now() - start) }).observe(list, {subtree: true, childList: true, characterData: true, attributes: true})
		document.querySelector('[data-testid="pedal.sinks-' + next + '"]').click()
	})`
	var times []float64
	sample := func() {
		ms, err := chromedp.Run(p.ctx, chromedp.Evaluate[float64](measure, chromedp.EvalAwaitPromise))
		require.NoError(b, err)
		times = append(times, ms)
		p.stored()
	}
	for range 5 {
		sample()
	}
	times = nil
	for b.Loop() {
		sample()
	}
	slices.Sort(times)
	b.ReportMetric(times[len(times)/2], "p50-ms")
	b.ReportMetric(times[len(times)*95/100], "p95-ms")
}
