package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A trainee works an exercise with mouse and keyboard: presses the pedal, tests, tells, does something wrong, is told what came of it,
// steps through both ways; the lead sets one and sees who worked what.
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
	p.click("stand-ins")
	p.until("an instrument at its pedal", `/\d/.test(document.querySelector('[data-testid="figure-travel"] strong')?.innerText ?? '')`)
	// By keyboard: the space bar is the foot.
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-testid="press"]').focus(); 0`))
	p.do(chromedp.Evaluate[chromedp.Void](`for (const k of ['keydown', 'keyup']) document.querySelector('[data-testid="press"]').dispatchEvent(new KeyboardEvent(k, { key: ' ', code: 'Space', bubbles: true, cancelable: true })); 0`))
	p.until("the pedal was pressed again", `document.querySelector('[data-testid="practice-side"]') && !document.querySelector('[data-testid="press"]').disabled`)
	unfold := func(n int) {
		p.do(chromedp.Evaluate[chromedp.Void](`document.querySelectorAll('[data-testid="practice-side"] details')[` + string(rune('0'+n)) + `].open = true; 0`))
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
	p.do(chromedp.Evaluate[chromedp.Void](`fetch(location.pathname.replace('/practice', '/api/practice').replace('/end', '/certificate.pdf')).then((r) => r.text()).then((x) => (document.title = x.slice(0, 4))); 0`))
	p.until("the certificate", `document.title === '%PDF'`)

	lead := open(t, a.url, 820, 1180)
	lead.click("demo-piet")
	lead.see("job")
	lead.do(chromedp.Navigate(a.url + "/practice"))
	lead.see("teach")
	lead.has("results", "Sunny")
	lead.click("set-do")
	lead.see("set")
	lead.shot("practice-teach")
	hand := newHand(t, a.url)
	var list struct {
		Sets []map[string]any
	}
	require.Equal(t, 200, hand.send("GET", "/api/practice", nil, &list))
	require.Len(t, list.Sets, 1)
	assert.NotContains(t, list.Sets[0], "seed")
}
