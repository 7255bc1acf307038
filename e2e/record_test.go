package e2e

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// reopened takes the release back with a reason, which stays on the sheet; the gate is open again.
func reopened(p *page) {
	p.goTo("verify")
	p.click("reopen")
	p.until("no reopening without a reason", `document.querySelector('[data-testid="reopen-now"]').disabled`)
	p.shot("reopen")
	p.fill("reopen-reason", "pedal low again after two days")
	p.click("reopen-now")
	p.gone("reopen-now")
	p.goTo("record")
	p.has("reopenings", "pedal low again after two days")
	p.has("reopenings", "Mara Oduya")
	p.has("released", "NOT RELEASED")
}

// broughtIn brings the job's own file in again: it is history, its release a claim.
func broughtIn(p *page) {
	text, err := chromedp.Run(
		p.ctx,
		chromedp.Evaluate[string](
			`fetch(location.pathname.replace("/jobs/", "/api/jobs/").replace("/record", "/export")).then(r => r.text())`,
			chromedp.EvalAwaitPromise,
		),
	)
	require.NoError(p.t, err)
	file := filepath.Join(p.t.TempDir(), "job.json")
	require.NoError(p.t, os.WriteFile(file, []byte(text), 0o600))
	p.click("back-to-bay")
	p.see("new-job")
	p.do(chromedp.SetUploadFiles(chromedp.CSS(`[data-testid="import"]`), []string{file}))
	p.has("claim", "Mara Oduya")
	p.shot("claim")
	p.goTo("record")
	p.has("released", "NOT RELEASED")
	p.has("reopenings", "pedal low again after two days")
}

// found narrows the bay by words and by standing.
func found(p *page) {
	p.click("back-to-bay")
	jobs := func(n string) {
		p.t.Helper()
		p.until(n+" jobs", `document.querySelectorAll('[data-testid=job]').length === `+n)
	}
	jobs("4") // the day is what is open here; looking spans what was brought in too
	p.fill("find", "corri ped")
	jobs("2")
	p.fill("find", "no such words")
	p.has("bay-none", "No job matches")
	p.shot("bay-none")
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-testid="find"] input').select()`), chromedp.KeyEvent("\b"))
	jobs("4")
}

// TestTheLeadReadsTheAudit signs a trainee in who may not, then the lead who may.
func TestTheLeadReadsTheAudit(t *testing.T) {
	t.Parallel()
	a := start(t, t.TempDir(), freePort(t))
	p := open(t, a.url, 1280, 800)
	p.click("demo-sunny")
	p.see("new-job")
	p.until("no way to the audit",
		`!document.querySelector('[data-testid="to-audit"]') && !document.querySelector('[data-testid="bring-in"]')`)
	p.do(chromedp.Navigate(a.url + "/audit"))
	p.until("a refusal", `document.querySelector('[role="alert"]')`)
	p.click("sign-out")
	p.see("demo-piet")
	p.click("demo-piet")
	p.click("to-audit")
	p.has("audit", "Sunny Aruel")
	p.has("audit", "Piet Lindqvarn")
	p.shot("audit")
	p.do(chromedp.EmulateViewport(800, 1280))
	p.until("no sideways scroll", `document.documentElement.scrollWidth <= innerWidth`)
	p.shot("audit-tablet")
}
