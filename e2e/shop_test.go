package e2e

import (
	"os"
	"os/exec"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The lead sets the shop up: settings, an account by its one-time link, figures over two years, a vehicle's page, what
// goes out.
func TestTheLeadRunsTheShop(t *testing.T) {
	t.Parallel()
	a := startYears(t, "60")
	p := open(t, a.url, 1280, 800)
	p.click("demo-piet")
	p.see("to-figures")
	p.click("to-figures")
	p.see("figures")
	p.has("figures", "Right first time")
	p.has("figures", "jobs")
	p.shot("figures")
	p.click("experience-on")
	p.until("it counts", `document.querySelector('[data-testid="experience-on"]').ariaPressed === "true"`)
	p.click("to-vehicles")
	p.see("vehicle")
	p.shot("vehicles")
	p.click("vehicle")
	p.see("vehicle-job")
	p.shot("vehicle")
	p.click("to-shop")
	p.see("settings")
	p.fill("shop-name", "Stonefold Brakes")
	p.click("settings-save")
	p.has("settings", "Saved")
	p.shot("shop")
	p.fill("account-name", "osmund")
	p.fill("account-display", "Osmund Varle")
	p.click("account-add")
	p.see("account-link")
	var link string
	evalJSON(p, `JSON.stringify(document.querySelector('[data-testid="account-link"] strong').textContent.trim())`, &link)
	two := open(t, link, 1280, 800)
	two.see("new-password")
	two.fill("new-password", "short")
	two.click("password-save")
	two.until("too short", `document.body.textContent.includes("at least 10 characters")`)
	two.fill("new-password", "nine quiet herons on a fence")
	two.click("password-save")
	two.until("signed in", `location.pathname === "/"`)
	// Once is once.
	again := open(t, link, 1280, 800)
	again.fill("new-password", "another long enough phrase")
	again.click("password-save")
	again.until("run out", `document.body.textContent.includes("run out")`)
	csv, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](`fetch("/api/out/jobs.csv").then(r => r.text())`, chromedp.EvalAwaitPromise))
	require.NoError(t, err)
	assert.Greater(t, strings.Count(csv, "\n"), 60)
	status, err := chromedp.Run(p.ctx,
		chromedp.Evaluate[int](`fetch("/api/out/jobs.csv", {credentials: "omit"}).then(r => r.status)`, chromedp.EvalAwaitPromise))
	require.NoError(t, err)
	assert.Equal(t, 401, status)
}

// startYears runs the demo with some of its past.
func startYears(t *testing.T, years string) *app {
	t.Helper()
	return startWith(t, t.TempDir(), freePort(t), exec.Command(binary, "demo", "--years", years))
}

// What it really was is told with one tap, or by the parts of the old unit.
func TestWhatItReallyWasIsTold(t *testing.T) {
	t.Parallel()
	a := start(t, t.TempDir(), freePort(t))
	p := open(t, a.url, 1280, 800)
	openPickup(p)
	p.goTo("record")
	p.see("really")
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-testid="apart"]').open = true`))
	p.click("part-primary_cup-worn")
	p.stored()
	p.see("really-mc.primary_cup_bypass")
	p.click("really-mc.primary_cup_bypass")
	p.has("really-said", "Primary cup")
	p.shot("really")
}

// An empty shop asks for its first account, once.
func TestAnEmptyShopMakesItsLead(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	cmd := exec.Command(binary, "serve")
	cmd.Env = append(os.Environ(), "GEMINATE_LISTEN=")
	a := startWith(t, dir, freePort(t), cmd)
	p := open(t, a.url, 1280, 800)
	p.see("first-run")
	p.shot("first-run")
	p.fill("first-name", "imke")
	p.fill("first-display", "Imke Roerdam")
	p.fill("first-password", "eleven slow barges at dusk")
	p.click("first-go")
	p.see("new-job")
	other := open(t, a.url, 1280, 800)
	other.until("no first page", `document.querySelector("form") && !document.querySelector('[data-testid="first-run"]')`)
}
