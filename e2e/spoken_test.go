package e2e

import (
	"context"
	"encoding/json"
	"regexp"
	"testing"
	"time"

	"github.com/chromedp/cdproto/accessibility"
	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// heard is a node of the page as a screen reader has it: what it is, what it is called, and the nearest thing round it
// that has a name of its own.
type heard struct{ role, name, within string }

// read is the page as it is read out, in its order.
func (p *page) read() []heard {
	p.t.Helper()
	tree, err := chromedp.Run(p.ctx, func(ctx context.Context, t *chromedp.Target) (accessibility.GetFullAXTreeResult, error) {
		return cdp.Call(ctx, t, accessibility.GetFullAXTree, accessibility.GetFullAXTreeParams{})
	})
	require.NoError(p.t, err)
	require.NotEmpty(p.t, tree.Nodes)
	byID := map[accessibility.NodeID]*accessibility.Node{}
	for _, n := range tree.Nodes {
		byID[n.NodeID] = n
	}
	word := func(v *accessibility.Value) string {
		var s string
		if v != nil {
			_ = json.Unmarshal(v.Value, &s)
		}
		return s
	}
	var out []heard
	var walk func(n *accessibility.Node, within string)
	walk = func(n *accessibility.Node, within string) {
		h := heard{word(n.Role), word(n.Name), within}
		if !n.Ignored {
			out = append(out, h)
			if h.name != "" && grouping[h.role] {
				within = within + " / " + h.name
			}
		}
		for _, c := range n.ChildIDs {
			if child := byID[c]; child != nil {
				walk(child, within)
			}
		}
	}
	walk(tree.Nodes[0], "")
	return out
}

var (
	grouping = map[string]bool{
		"group":              true,
		"region":             true,
		"radiogroup":         true,
		"form":               true,
		"dialog":             true,
		"article":            true,
		"list":               true,
		"listitem":           true,
		"row":                true,
		"navigation":         true,
		"complementary":      true,
		"banner":             true,
		"toolbar":            true,
		"rowheader":          true,
		"columnheader":       true,
		"DisclosureTriangle": true,
		"Details":            true,
	}
	control = map[string]bool{
		"button":     true,
		"link":       true,
		"textbox":    true,
		"spinbutton": true,
		"searchbox":  true,
		"checkbox":   true,
		"radio":      true,
		"combobox":   true,
		"slider":     true,
		"switch":     true,
		"tab":        true,
	}
	aFigure = regexp.MustCompile(`^[\d–.,−-]+ \S+$`)
	anID    = regexp.MustCompile(`^[a-z0-9_-]+(\.[a-z0-9_-]+)+$`)
)

// A screen reader's walk through every station: a page has one main part and a heading, every control says what it is
// and for what, and no two in one place are called the same.
func TestEveryStationIsReadOut(t *testing.T) {
	t.Parallel()
	a := start(t, t.TempDir(), freePort(t))
	p := open(t, a.url, 1280, 800)
	openPickup(p)
	for _, s := range stationIDs {
		p.goTo(s)
		p.until("content", `document.querySelectorAll('.work .field').length > 0`)
		time.Sleep(300 * time.Millisecond)
		roles := map[string]int{}
		seen := map[heard]int{}
		for _, h := range p.read() {
			roles[h.role]++
			if !control[h.role] {
				continue
			}
			assert.NotEmpty(t, h.name, "%s: a %s without a name, within %s", s, h.role, h.within)
			assert.NotRegexp(t, anID, h.name, "%s: a %s is called by its id", s, h.role)
			seen[h]++
		}
		assert.Equal(t, 1, roles["main"], s)
		assert.Positive(t, roles["navigation"], s)
		assert.Positive(t, roles["heading"], s)
		for h, n := range seen {
			if aFigure.MatchString(h.name) { // a figure in a text, which turns its own unit alone
				continue
			}
			assert.Equal(t, 1, n, "%s: %d times %s %q within %q", s, n, h.role, h.name, h.within)
		}
	}
}

// listen keeps what is read out by itself from now on: every change of a live region, in its order.
func (p *page) listen() {
	p.t.Helper()
	p.do(chromedp.Evaluate[chromedp.Void](`(() => {
		const live = '[aria-live]:not([aria-live=off]), [role=status], [role=alert]'
		window.saidAloud = []
		new MutationObserver((list) => {
			const at = new Set()
			for (const m of list) {
				const from = m.target.nodeType === 1 ? m.target : m.target.parentElement
				const region = from?.closest(live)
				if (region) at.add(region)
				for (const n of m.addedNodes) if (n.nodeType === 1) for (const r of [n, ...n.querySelectorAll("*")]) if (r.matches('[role=alert], [role=status]')) at.add(r)
			}
			for (const r of at) if (r.innerText?.trim()) saidAloud.push(r.innerText.trim().replace(/\s+/g, " "))
		}).observe(document.body, { subtree: true, childList: true, characterData: true })
	})()`))
}

// aloud waits until something that holds such words has been read out, and begins to listen anew.
func (p *page) aloud(what, words string) {
	p.t.Helper()
	p.until(what, `window.saidAloud.some((s) => /`+words+`/i.test(s))`)
	p.do(chromedp.Evaluate[chromedp.Void](`window.saidAloud = []`))
}

// tabsTo counts how many times Tab is pressed until the focus stands on something.
func (p *page) tabsTo(testid string, most int) int {
	p.t.Helper()
	on := `document.activeElement?.dataset.testid === "` + testid + `"`
	for n := range most + 1 {
		if at, err := chromedp.Run(p.ctx, chromedp.Evaluate[bool](on)); err == nil && at {
			return n
		}
		p.key("\t")
	}
	return most + 1
}

// What a person who cannot see the page must hear is read out by itself: the verdict after a sign, a refusal, each
// stroke, the gate as it fills. And between one main action and the next the keyboard has three tabs to go at the most.
func TestWhatMattersIsReadOutByItself(t *testing.T) {
	t.Parallel()
	a := startPaced(t, 30)
	p := open(t, a.url, 1280, 800)
	openPickup(p)
	p.goTo("diagnose")
	p.see("pedal.sinks-slow")
	p.listen()
	p.click("pedal.sinks-slow")
	p.aloud("the verdict", "cylinder|cup|wheel|fluid")
	p.stored()
	p.goTo("replace")
	p.until("a step in hand", `!!document.querySelector('.now')`)
	now, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](`document.querySelector('.now').dataset.testid.slice(5)`))
	require.NoError(t, err)
	p.do(chromedp.Focus(id("tick-" + now)))
	for range 3 {
		p.stored()
		now, err = chromedp.Run(p.ctx, chromedp.Evaluate[string](`document.querySelector('.now').dataset.testid.slice(5)`))
		require.NoError(t, err)
		assert.LessOrEqual(t, p.tabsTo("tick-"+now, 12), 3, "tabs to the next step's Done")
		p.listen()
		p.key("\r")
		p.until(now+" ticked", `document.querySelector('.now')?.dataset.testid !== "step-`+now+`"`)
		p.aloud("the step that is next", ".")
	}
	p.goTo("verify")
	p.see("check.free_play-yes")
	p.listen()
	p.click("check.free_play-yes")
	p.aloud("the gate", "\\d|released|missing|open")
}
