package e2e

import (
	"slices"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A trainee works an exercise with mouse and keyboard: presses the pedal, tests, tells, does something wrong, is told
// what came of it, steps through both ways; the lead sets one and sees who worked what.
func TestPracticeInTheBrowser(t *testing.T) {
	t.Parallel()
	a := startPaced(t, 30)
	p := open(t, a.url, 1280, 800)
	p.paced = true
	p.click("demo-sunny")
	p.see("job")
	p.click("to-practice")
	p.see("exercise-finding_2")
	p.shot("practice")
	p.click("exercise-finding_2")
	p.see("practice-side")
	p.see("owner-says")
	p.click("hold-45")
	p.see("seen")
	p.shot("practice-vehicle")
	for _, h := range p.read() {
		if slices.Contains([]string{"button", "link", "slider", "spinbutton", "textbox", "combobox", "checkbox"}, h.role) {
			assert.NotEmpty(t, h.name, "a %s in %s has no name", h.role, h.within)
		}
	}
	p.click("stand-ins")
	p.until("an instrument at its pedal", `/\d/.test(document.querySelector('[data-testid="figure-travel"] strong')?.innerText ?? '')`)
	// By keyboard: the space bar is the foot.
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-testid="press"]').focus(); 0`))
	p.do(
		chromedp.Evaluate[chromedp.Void](
			`for (const k of ['keydown', 'keyup']) document.querySelector('[data-testid="press"]').dispatchEvent(new KeyboardEvent(k, { key: ' ', code: 'Space', bubbles: true, cancelable: true })); 0`,
		),
	)
	p.until("the pedal was pressed again",
		`document.querySelector('[data-testid="practice-side"]') && !document.querySelector('[data-testid="press"]').disabled`)
	unfold := func(n int) {
		p.do(
			chromedp.Evaluate[chromedp.Void](
				`document.querySelectorAll('[data-testid="practice-side"] details')[` + string(rune('0'+n)) + `].open = true; 0`,
			),
		)
	}
	unfold(0)
	p.click("do-test-hold")
	p.until("what the hold showed", `document.querySelector('[data-testid="seen"]').innerText.includes('sank')`)
	p.shotTop("practice-tested")
	unfold(3)
	p.click("do-fill")
	p.click("practice-end")
	p.click("practice-end-sure")
	p.see("end-verdict")
	p.has("end-verdict", "Not right")
	p.has("ninety", "What was wrong still is")
	p.click("replay-on")
	p.see("replay-own")
	p.shot("practice-end")
	p.until("no certificate for so little", `![...document.querySelectorAll('a')].some(a => a.href.endsWith('certificate.pdf'))`)

	lead := open(t, a.url, 820, 1180)
	lead.click("demo-piet")
	lead.see("job")
	lead.do(chromedp.Navigate(a.url + "/practice"))
	lead.see("teach")
	lead.has("results", "Sunny")
	lead.click("set-do")
	lead.see("set")
	lead.shot("practice-teach")
	lead.click("set-link")
	lead.see("guest-link")
	lead.shot("practice-link")
	link := lead.text("guest-link")
	guest := open(t, link, 820, 1180)
	guest.fill("guest-name", "Ilse")
	guest.shot("practice-guest")
	guest.click("guest-come")
	guest.see("set")
	guest.gone("free")
	guest.do(chromedp.Navigate(a.url + "/shop")) // nothing else of the shop is theirs
	guest.see("set")
	guest.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-testid="set"] button').click(); 0`))
	guest.see("practice-side")
	guest.click("hold-45")
	guest.see("seen")
	guest.shot("practice-guest-job")

	hand := newHand(t, a.url)
	var list struct {
		Sets []map[string]any
	}
	require.Equal(t, 200, hand.send("GET", "/api/practice", nil, &list))
	require.Len(t, list.Sets, 1)
	assert.NotContains(t, list.Sets[0], "seed")
}

// Free practice with the server gone from before it begins: the vehicle is worked and told of, stands after a reload,
// and its end is told here; when the server comes back it hears of all of it, and says the same.
func TestFreePracticeWithNoServer(t *testing.T) {
	t.Parallel()
	data, port := t.TempDir(), freePort(t)
	a := start(t, data, port)
	p := openFor(t, a.url, 1280, 800, 5*time.Minute)
	p.click("demo-sunny")
	p.see("job")
	p.click("to-practice")
	p.see("free-begin")
	p.do(chromedp.Evaluate[chromedp.Void](`navigator.serviceWorker.ready.then(() => 0)`, chromedp.EvalAwaitPromise))
	a.kill()
	p.away = true
	p.fill("free-seed", "4711")
	p.click("free-begin")
	p.see("practice-side")
	p.click("hold-45")
	p.see("seen")
	p.see("here-alone")
	p.shot("practice-alone")
	p.click("pedal.sinks-slow")
	p.has("judgement", "%")
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelectorAll('[data-testid="practice-side"] details')[0].open = true; 0`))
	p.click("do-test-hold")
	p.until("the hold is told", `document.querySelector('[data-testid="seen"]').innerText.includes('s')`)
	at, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](`location.pathname.split("/")[2]`))
	require.NoError(t, err)
	p.do(chromedp.Reload())
	p.see("practice-side")
	p.see("here-alone")
	p.click("practice-end")
	p.click("practice-end-sure")
	p.within(2*time.Minute, "the end by the core here", `document.querySelector('[data-testid="end-verdict"]')`)
	verdict := p.text("end-verdict")
	assert.Contains(t, verdict, "Not right")
	p.see("teaches")

	start(t, data, port)
	p.away = false
	p.do(chromedp.Navigate(a.url + "/practice"))
	p.see("free-begin")
	p.until(
		"the server has it, ended",
		`fetch("/api/practice").then((r) => r.json()).then((l) => (window.mine = l.mine)) && window.mine?.some((r) => r.job === `+js(
			at,
		)+` && r.ended_at)`,
	)
	p.do(chromedp.Navigate(a.url + "/practice/" + at + "/end"))
	p.see("end-verdict")
	assert.Equal(t, verdict, p.text("end-verdict"))
}
