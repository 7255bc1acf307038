package e2e

import (
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"

	"geminate/brake/bleed"
)

// Two people, two screens: the helper's phone has a pass for the calls, answers, and loses an opening; the strokes are
// counted from the calls. The latency between the screens is measured.
func TestTwoPeopleCallAcrossTwoScreens(t *testing.T) {
	t.Parallel()
	a := start(t, t.TempDir(), freePort(t))
	p := open(t, a.url, 1280, 800)
	signIn(p)
	newJob(p, "Fluid exchange", "pickup-front-rear-vacuum")
	bleedOnly(p)
	p.goTo("bleed")
	p.see("bleed-step-drain")
	p.shotTop("bleed-drain")
	p.click("bleed-step-done")
	p.stored()
	p.see("refill-now")
	p.click("refill")
	p.stored()
	p.gone("refill-now")
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-testid="methods"]').open = true`))
	p.click("method-pedal")
	p.click("caller")
	p.see("call")
	p.click("helper-phone")
	p.see("pass-link")
	var path string
	evalJSON(p, `JSON.stringify(document.querySelector('[data-testid="pass-link"]').getAttribute("href"))`, &path)
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector(".n-base-close, .n-card-header__close").click()`))
	p.gone("pass-link")
	phone := open(t, a.url+path, 390, 844)
	phone.see("call")
	phone.has("call", "Ready")
	p.has("call-state", "connected")
	phone.has("call-state", "connected")
	phone.shot("call-phone-idle")
	at := func(who *page, call string) {
		who.until(call, `document.querySelector('[data-testid="call"]')?.dataset.at === "`+call+`"`)
	}
	var slowest time.Duration
	said := func(by, other *page, word, call string) {
		time.Sleep(time.Duration(bleed.CallGapS * 1.1 * float64(time.Second))) // a second tap sooner is the same one
		by.click("say-" + word)
		began := time.Now()
		at(other, call)
		slowest = max(slowest, time.Since(began))
		at(by, call)
	}
	stays := buttonAt(p)
	opening := func() {
		p.gone("say-open") // nothing is opened on silence
		said(phone, p, "holding", "holding")
		said(p, phone, "open", "open")
		time.Sleep(time.Duration(bleed.OpenLeastS * float64(time.Second))) // fluid has to come
	}
	said(p, phone, "pump", "pump")
	opening()
	p.shotTop("bleed-caller")
	phone.shot("call-phone-open")
	said(p, phone, "closed", "closed")
	said(phone, p, "up", "pump") // and the next one is called with it: two taps an opening
	p.has("count", "1")
	assert.Equal(t, stays, buttonAt(p), "the big button has not moved")
	opening()
	said(phone, p, "lifted", "lifted")
	said(p, phone, "closed", "closed")
	said(phone, p, "up", "up")
	p.stored()
	p.has("count", "1")
	p.has("call", "1 lost")
	// A space bar that bounces is one press.
	said(p, phone, "pump", "pump")
	said(phone, p, "holding", "holding")
	p.do(chromedp.Evaluate[chromedp.Void](`document.activeElement?.blur(); 0`), chromedp.KeyEvent(" "),
		chromedp.Sleep(150*time.Millisecond), chromedp.KeyEvent(" "))
	at(phone, "open")
	time.Sleep(300 * time.Millisecond)
	at(p, "open")
	// Either says stop.
	said(phone, p, "stop", "stop")
	t.Logf("slowest word from screen to screen: %v", slowest)
	// The phone drops out: that is told, one screen is read aloud, and takes the answers that were heard.
	phone.do(chromedp.Navigate("about:blank"))
	p.has("call-state", "shout")
	p.click("say-go_on")
	alone := func(count string) {
		time.Sleep(500 * time.Millisecond)
		p.click("say-pump")
		at(p, "pump")
		time.Sleep(500 * time.Millisecond)
		p.click("say-holding")
		at(p, "open")
		time.Sleep(1100 * time.Millisecond)
		p.click("say-closed")
		at(p, "closed")
		time.Sleep(500 * time.Millisecond)
		p.click("say-up")
		p.has("count", count)
	}
	alone("2")
	// With the server away the core here goes on alone.
	a.kill()
	said(p, p, "stop", "stop")
	time.Sleep(500 * time.Millisecond)
	p.click("say-go_on")
	alone("3")
}

// buttonAt is where the big button of the calls stands.
func buttonAt(p *page) string {
	at, err := chromedp.Run(
		p.ctx,
		chromedp.Evaluate[string](
			`(() => { const r = document.querySelector('.pad .big').getBoundingClientRect(); return [r.x, r.y + scrollY, r.width, r.height].map(Math.round).join() })()`,
		),
	)
	assert.NoError(p.t, err)
	return at
}

// bleedOnly makes the job one of bleeding alone.
func bleedOnly(p *page) {
	p.goTo("match")
	p.click("scope-change")
	p.click("scope-bleed")
	p.stored()
}

// After a caliper: air at one wheel, a few openings; a wheel left undone holds the release; the reservoir drawn down
// before fluid is pushed up; methods say why not.
func TestBleedForAirAtOneWheelAndOtherWays(t *testing.T) {
	t.Parallel()
	a := start(t, t.TempDir(), freePort(t))
	p := open(t, a.url, 1280, 800)
	signIn(p)
	newJob(p, "After a caliper", "pickup-front-rear-vacuum")
	bleedOnly(p)
	p.goTo("bleed")
	p.see("route")
	p.do(
		chromedp.Evaluate[chromedp.Void](
			`document.querySelector('[data-testid="what-for"]').open = true; document.querySelector('[data-testid="methods"]').open = true`,
		),
	)
	p.click("purpose-air")
	p.click("opened-LF")
	p.has("at-wheel", "LF")
	p.gone("bleed-step-drain")
	p.shot("bleed-ways")
	strokeOn := func() {
		for i := 0; i < 30; i++ {
			enough, err := chromedp.Run(p.ctx, chromedp.Evaluate[bool](`!document.querySelector('[data-testid="clear"]').disabled`))
			assert.NoError(t, err)
			if enough {
				break
			}
			p.click("stroke")
			time.Sleep(410 * time.Millisecond)
		}
	}
	strokeOn()
	p.click("bubbles")
	p.stored()
	p.has("clear-row", "clear 0 of 2")
	strokeOn() // bubbles where none were reckoned with any more: so much has to follow again
	p.key("c")
	p.has("clear-row", "clear 1 of 2")
	p.click("stroke")
	p.key("c")
	p.has("at-wheel", "Every wheel done")
	// A seized bleeder: the wheel is left, and the vehicle does not leave.
	p.click("opened-RR")
	p.has("at-wheel", "RR")
	p.click("leave")
	p.click("left-seized")
	p.stored()
	p.goTo("verify")
	p.has("item-bleed", "RR")
	// Reverse: drawn down first.
	p.goTo("bleed")
	p.see("methods")
	p.do(
		chromedp.Evaluate[chromedp.Void](
			`document.querySelector('[data-testid="methods"]').open = true; document.querySelector('[data-testid="what-for"]').open = true`,
		),
	)
	p.has("method-scan_tool", "nothing a scan tool")
	p.click("purpose-exchange")
	head := `document.querySelector('[data-testid="at-wheel"]').parentElement.innerText`
	p.until("the old fluid is to go out", head+`.includes("old fluid out")`) // the ways are offered in another order for it
	p.click("method-reverse")
	p.until("by syringe", head+`.includes("Reverse")`)
	p.gone("draw-down-now")
	for range 4 { // a syringe at a time, until one more would come over the brim
		p.takeTime(time.Minute)
		p.click("container")
		p.stored()
		time.Sleep(500 * time.Millisecond)
		if full, _ := chromedp.Run(p.ctx, chromedp.Evaluate[bool](`!!document.querySelector('[data-testid="draw-down-now"]')`)); full {
			break
		}
	}
	p.see("draw-down-now")
	p.click("draw-down")
	p.gone("draw-down-now")
}

// The steering side of a hydraulic booster is told in cycles, and its step of the plan waits for a good one.
func TestSteeringSideInCycles(t *testing.T) {
	t.Parallel()
	a := start(t, t.TempDir(), freePort(t))
	p := open(t, a.url, 1280, 800)
	signIn(p)
	p.until(
		"the diesel opened",
		`(() => { const c = [...document.querySelectorAll("[data-testid=job]")].find(x => x.textContent.includes("Tarn")); c?.click(); return !!c })()`,
	)
	p.see("station-intake")
	p.goTo("bleed")
	p.see("steering-side")
	p.click("cycle-foam")
	p.click("cycle-bad")
	p.has("steering-side", "foam")
	p.shotTop("steering")
}
