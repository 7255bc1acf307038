package e2e

import (
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// hand counts what a person's hands do: taps, keys, and every tap for which the page had to be scrolled first.
type hand struct {
	p            *page
	taps, keys   int
	out          []string // taps that were not on the screen
	mainOffSight []string // of these, main actions
}

// tap taps what is there, and says whether it had to be looked for.
func (h *hand) tap(testid string) {
	h.p.t.Helper()
	h.p.see(testid)
	time.Sleep(250 * time.Millisecond) // a person looks first
	var at struct {
		Seen, Main bool
	}
	evalJSON(
		h.p,
		`JSON.stringify((() => { const e = document.querySelector('[data-testid="`+testid+`"]'), r = e.getBoundingClientRect(), x = r.x + r.width / 2, y = r.y + r.height / 2; const top = document.elementFromPoint(x, y); return { seen: y > 0 && y < innerHeight && !!top && (e.contains(top) || top.contains(e)), main: e.classList.contains("main") || !!e.closest(".dock") } })())`,
		&at,
	)
	if !at.Seen {
		h.out = append(h.out, testid)
		if at.Main {
			h.mainOffSight = append(h.mainOffSight, testid)
		}
	}
	h.p.click(testid)
	h.taps++
}

// typed fills a field: one tap into it where it is the first of its group, else the tab key, and its keys.
func (h *hand) typed(testid, text string, first bool) {
	h.p.t.Helper()
	h.p.see(testid)
	h.p.fill(testid, text)
	if first {
		h.taps++
	} else {
		h.keys++
	}
	h.keys += len([]rune(text))
}

func (h *hand) enter() {
	h.p.t.Helper()
	h.p.key("\r")
	h.keys++
}

// A van with a low pedal after its rear brakes were done: from "Open a job" to released, nothing opened, with a rule
// and a foot. Aim: 28 taps and 40 keys, and no main action that has to be scrolled to.
func TestTheVanInFewTaps(t *testing.T) {
	t.Parallel()
	a := startPaced(t, 30)
	p := open(t, a.url, 1280, 800)
	p.click("demo-mara")
	p.see("job")
	h := &hand{p: p}
	h.tap("new-job")
	p.until("the first field is ready", `document.activeElement?.closest('[data-testid="new-vehicle"]') != null`)
	h.typed("new-vehicle", "Van", false) // it has the focus already
	h.typed("new-complaint", "low pedal", false)
	h.tap("pattern-car-front-rear-vacuum")
	h.tap("open-diagnose") // the pattern is near enough
	h.tap("pedal.low-yes")
	h.tap("history.since-pads_or_shoes_fitted")
	p.stored()
	h.tap("to-match")
	p.see("scope-now")
	h.tap("take-proposal") // not settled: it proposes, and does not take
	p.stored()
	h.tap("to-replace")
	p.until("a step in hand", `!!document.querySelector('.now')`)
	for range 12 {
		p.stored()
		now, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](`document.querySelector('.now')?.dataset.testid.slice(5) ?? ""`))
		if err != nil || now == "" {
			break
		}
		together, err := chromedp.Run(p.ctx, chromedp.Evaluate[bool](`!!document.querySelector('[data-testid="tell-together"]')`))
		require.NoError(t, err)
		if together { // as planned, up to here
			h.tap("tell-together")
		} else {
			seeSame(p)
			h.tap("tick-" + now)
		}
		p.until(now+" ticked", `document.querySelector('.now')?.dataset.testid !== "step-`+now+`"`)
	}
	p.see("plan-done")
	steps := h.taps
	h.tap("to-verify")
	h.tap("no-gauge-yes")
	for i, f := range [][2]string{{"pump-1", "110"}, {"pump-2", "111"}, {"pump-4", "112"}} {
		h.typed(f[0], f[1], i == 0)
	}
	h.enter()
	h.typed("firm", "38", false)
	h.enter()
	h.tap("check.free_play-yes")
	h.tap("next-check")
	for _, f := range [][2]string{{"hold-start", "120"}, {"hold-end", "120"}, {"hold-seconds", "30"}} {
		h.typed(f[0], f[1], false) // the first has the focus already
	}
	h.enter()
	p.has("item-pedal.sink", "at a firm foot")
	h.tap("assist.pedal_falls_on_start-yes")
	h.tap("reserve-3")
	h.tap("next-check")
	for _, c := range []string{"wheels_free", "dry_joints", "hoses_firm", "wheels_torqued"} {
		h.tap("check." + c + "-yes")
	}
	h.tap("next-check")
	for _, c := range []string{"brake_lamps", "lamps_out", "walking_stops"} {
		h.tap("check." + c + "-yes")
	}
	h.tap("after-drive")
	h.tap("looker-Piet Lindqvarn")
	p.has("gate", "May be released")
	h.tap("release")
	p.has("gate", "Released")
	t.Logf("%d taps (%d of them before Verify), %d keys; scrolled to: %v", h.taps, steps, h.keys, h.out)
	assert.LessOrEqual(t, h.taps, 31) // the aim is 28: hoses and complaint looked at as well cost two, docs/proving.md says what that buys
	assert.LessOrEqual(t, h.keys, 42) // the aim is 40
	assert.Empty(t, h.mainOffSight, "main actions that had to be scrolled to")
}
