package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func figureOf(p *page, js string) int {
	p.t.Helper()
	n, err := chromedp.Run(p.ctx, chromedp.Evaluate[int](js))
	require.NoError(p.t, err)
	return n
}

// TestStepsToldTogether tells a run of plain steps by one tap, what is not done yet left out: that is in hand next, and
// no more than the others is done.
func TestStepsToldTogether(t *testing.T) {
	t.Parallel()
	a := start(t, t.TempDir(), freePort(t))
	p := open(t, a.url, 1280, 800)
	openPickup(p)
	p.goTo("replace")
	p.see("steps-done")
	const there, done = `document.querySelectorAll('[data-testid="tell-together"]').length`, `Number(document.querySelector('[data-testid="steps-done"]').innerText.match(/\d+/)[0])`
	for range 4 { // up to a run that may be told together
		if figureOf(p, there) > 0 {
			break
		}
		tickNow(p)
	}
	p.see("tell-together")
	before := figureOf(p, done)
	all := figureOf(p, `document.querySelectorAll('[data-testid="together"] .list button').length`)
	second := `document.querySelectorAll('[data-testid="together"] .list button')[1]`
	p.intoView("tell-together")
	p.shot("together")
	p.do(chromedp.Evaluate[chromedp.Void](second + `.click()`))
	p.until("it is struck out", second+`.getAttribute("aria-checked") === "false"`)
	left := figureOf(p, `document.querySelectorAll('[data-testid="together"] .list button[aria-checked="false"]').length`)
	require.Greater(t, all-left, 1)
	p.click("tell-together")
	p.until("the others are done", fmt.Sprintf("%s === %d", done, before+all-left))
	p.stored()
	p.do(chromedp.Reload())
	p.see("steps-done")
	assert.Equal(t, before+all-left, figureOf(p, done), "and stay so")
}
