package e2e

import (
	"fmt"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// choices are the controls a person taps one after another: what is picked, told or opened, not what leads away, ends
// the step or throws something away.
const choices = `[...document.querySelectorAll('.work button.tap')].filter(e => e.offsetParent && !e.disabled && e.closest('.work') &&
	!e.classList.contains('main') && !e.closest('.dock, .falls, [role=dialog], .claim'))`

// tapped is one control as it stood when it was tapped, and where it and the next one stand afterwards; Grew says which
// parts of the page have another height than before, for whoever reads a failure.
type tapped struct {
	Is, Next                 string
	Moved, NextMoved         float64
	Opens, Gone, After, Shut bool
	Grew                     []string
}

// Nothing moves under the hand: every control of a station is tapped where it stands, and neither it nor the one after
// it may then stand elsewhere on the screen. What a control itself opens (it says so by aria-expanded, or it is one of
// a list of lists) stands below it; what puts itself away leaves its room.
func TestNothingMovesUnderTheHand(t *testing.T) {
	t.Parallel()
	for name, size := range map[string][2]int64{"desk": {1280, 800}, "tablet": {800, 1280}, "phone": {390, 844}} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			standsStill(t, size[0], size[1])
		})
	}
}

// standsStill taps the controls of every station on a screen of that size.
func standsStill(t *testing.T, width, height int64) {
	a := start(t, t.TempDir(), freePort(t))
	p := open(t, a.url, width, height)
	signIn(p)
	// The same controls stand at every size: all of them are tapped on the widest, the first on the others.
	most := 24
	if width < 1280 {
		most = 12
	}
	for _, station := range []string{"intake", "diagnose", "match", "replace", "bench", "bleed", "verify"} {
		newJob(p, fmt.Sprintf("Still %s %d", station, width), "pickup-front-rear-vacuum")
		p.goTo(station)
		p.until("content", `document.querySelectorAll('.work .field').length > 0`)
		p.atRest()
		n, err := chromedp.Run(p.ctx, chromedp.Evaluate[int](choices+`.length`))
		require.NoError(t, err)
		require.NotZero(t, n, station)
		for i := range min(n, most) {
			got := p.tapStill(i)
			where := fmt.Sprintf("%s at %d wide: %q; grew: %v", station, width, got.Is, got.Grew)
			if !got.Gone && !got.Shut {
				assert.LessOrEqual(t, got.Moved, 2.0, where)
			}
			if got.After && !got.Opens && !got.Gone {
				assert.LessOrEqual(t, got.NextMoved, 2.0, where+", the next: "+got.Next)
			}
		}
		p.do(chromedp.Navigate(a.url))
		p.see("new-job")
	}
}

// atRest waits until what the core computes for the page is there and nothing grows any more: what a station shows
// first on a busy machine comes in by and by, and is no answer to a tap.
func (p *page) atRest() {
	p.t.Helper()
	var was, now string
	for still := 0; still < 3; was = now {
		time.Sleep(200 * time.Millisecond)
		evalJSON(p,
			`JSON.stringify(document.querySelector('.work').innerText.length + " " + document.querySelector('.work').scrollHeight)`,
			&now)
		if still++; now != was {
			still = 0
		}
	}
}

// tapStill taps the control of that place, by the mouse, and measures.
func (p *page) tapStill(i int) (out tapped) {
	p.t.Helper()
	evalJSON(p, fmt.Sprintf(`JSON.stringify((() => { const all = %s; const e = all[%d], n = all[%d];
		if (!e) return {gone: true}
		e.scrollIntoView({block: 'center'})
		window.__tap = e; window.__next = n
		return {is: e.innerText} })())`, choices, i, i+1), &out)
	if out.Gone {
		return out
	}
	// From rest: what the tap before has put away may still be leaving, on a slow machine.
	var at struct{ X, Y float64 }
	for rest, was := 0, -1.0; rest < 2; was = at.Y {
		time.Sleep(120 * time.Millisecond)
		evalJSON(p, `JSON.stringify({y: window.__tap.getBoundingClientRect().y})`, &at)
		if rest++; at.Y != was {
			rest = 0
		}
	}
	evalJSON(
		p,
		`JSON.stringify((() => { const top = (e) => e ? e.getBoundingClientRect().y : 0; const r = window.__tap.getBoundingClientRect();
		window.__was = [top(window.__tap), top(window.__next)]
		window.__tall = [...document.querySelectorAll('.work *, header *, .dock *')].map(e => [e, e.offsetHeight]); return {x: r.x + r.width / 2, y: r.y + r.height / 2} })())`,
		&at,
	)
	p.do(chromedp.MouseClickXY(at.X, at.Y))
	p.do(chromedp.MouseEvent(chromedp.MouseMoved, 1, 1))
	time.Sleep(450 * time.Millisecond)
	p.stored()
	evalJSON(p, `JSON.stringify((() => { const e = window.__tap, n = window.__next; const y = (x) => x.getBoundingClientRect().y
		const grew = window.__tall.filter(([e, h]) => e.offsetHeight !== h && ![...e.children].some(c => window.__tall.some(([x, k]) => x === c && c.offsetHeight !== k)))
			.map(([e, h]) => (e.dataset.testid ?? e.className) + " " + h + "→" + e.offsetHeight + " " + (e.innerText ?? "").slice(0, 40)).slice(0, 6)
		return {grew, is: e.innerText, next: n?.innerText ?? "", gone: !e.isConnected || !e.offsetParent, after: !!n?.isConnected && !!n.offsetParent, opens: e.hasAttribute("aria-expanded") || ["where-", "walk-", "all-findings"].some(x => e.dataset.testid?.startsWith(x)), shut: e.getAttribute("aria-expanded") === "false",
			moved: Math.abs(y(e) - window.__was[0]), nextMoved: n?.isConnected ? Math.abs(y(n) - window.__was[1]) : 0} })())`, &out)
	return out
}
