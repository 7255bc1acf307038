package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// A vehicle that was measured is kept as a pattern of the shop's own, and the next of its kind is opened on it. Whoever
// is signed out elsewhere is told so where they stand, and goes on from there.
func TestAShopsOwnPatternAndASignOutElsewhere(t *testing.T) {
	t.Parallel()
	a := start(t, t.TempDir(), freePort(t))
	p := open(t, a.url, 1280, 800)
	openPickup(p)
	p.goTo("intake")
	p.click("keep-pattern")
	p.fill("pattern-name", "Corrigan flatbed")
	p.click("pattern-keep")
	p.until("it says so", `document.body.innerText.includes("Kept: Corrigan flatbed")`)
	p.shot("intake-own-pattern")
	p.key("b")
	p.see("new-job")
	p.click("new-job")
	p.fill("new-vehicle", "Another flatbed")
	p.see("own-Corrigan flatbed")
	p.shot("new-own-pattern")
	p.click("own-Corrigan flatbed")
	p.click("open-job")
	p.until("it is open", `document.querySelector('[data-testid=vehicle] input')?.value === "Another flatbed"`)

	p.do(
		chromedp.Evaluate[chromedp.Void](
			`fetch("/api/session", {method: "DELETE", headers: {"X-Csrf-Token": /geminate_csrf=([^;]+)/.exec(document.cookie)[1]}}).then(() => 0)`,
			chromedp.EvalAwaitPromise,
		),
	)
	p.see("signed-out")
	p.shot("signed-out-elsewhere")
	p.click("sign-in-again")
	p.gone("signed-out")
	left, err := chromedp.Run(p.ctx,
		chromedp.Evaluate[bool](`document.querySelector('[data-testid=vehicle] input')?.value === "Another flatbed"`))
	require.NoError(t, err)
	require.True(t, left, "where it was")
}
