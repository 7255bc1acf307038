package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
)

// benchStrokesStored is how many the server's log has.
func benchStrokesStored(p *page) (n int) {
	for _, e := range logOf(p) {
		if e.Kind == "bench_stroke" {
			n++
		}
	}
	return n
}

// TestAPageOlderThanTheServerGoesOnStoring has a server that folds by newer rules, after a job was opened and in the
// middle of its work: nothing false is said, what is done is stored and shown as the server sees it, and the newer page
// is offered.
func TestAPageOlderThanTheServerGoesOnStoring(t *testing.T) {
	t.Parallel()
	a := start(t, t.TempDir(), freePort(t))
	p := open(t, a.url, 1280, 800)
	openPickup(p)
	p.goTo("bench")
	p.see("stroke")
	p.stroke()
	p.has("count", "1")
	p.stored()
	// From here on every whole view says that it was folded by rules this page has never heard of.
	p.do(chromedp.Evaluate[chromedp.Void](`(() => {
		const real = window.fetch
		window.fetch = async (...args) => {
			const r = await real(...args)
			const url = typeof args[0] === "string" ? args[0] : args[0].url
			if (!/\/api\/jobs\/[^/]+(\/events|\/log)?$/.test(url)) return r
			const text = await r.text()
			return new Response(text.replace(/"fold":\d+/, '"fold":999'), {status: r.status, headers: r.headers})
		}
	})()`))
	p.click("back-to-bay")
	p.see("new-job")
	openJob(p, "Corrigan")
	p.see("newer")
	p.has("newer", "older than the shop")
	p.goTo("bench")
	p.see("stroke")
	p.stroke()
	p.stroke()
	p.stored()
	p.has("count", "3")
	p.gone("problem")
	// The server has each once.
	assert.Equal(t, 3, benchStrokesStored(p))
}

// TestAnOlderServerIsSpokenToInItsOwnWay has a server that does not know the short way of storing.
func TestAnOlderServerIsSpokenToInItsOwnWay(t *testing.T) {
	t.Parallel()
	a := start(t, t.TempDir(), freePort(t))
	p := open(t, a.url, 1280, 800)
	openPickup(p)
	p.goTo("bench")
	p.see("stroke")
	p.do(chromedp.Evaluate[chromedp.Void](`(() => {
		const real = window.fetch
		window.fetch = async (...args) => {
			const url = typeof args[0] === "string" ? args[0] : args[0].url
			const method = args[0].method ?? args[1]?.method
			if (method === "POST" && /\/api\/jobs\/[^/]+\/log$/.test(url))
				return new Response('{"code":"problem.not_found"}', {status: 404, headers: {"content-type": "application/json"}})
			return real(...args)
		}
	})()`))
	p.stroke()
	p.stroke()
	p.stored()
	p.has("count", "2")
	assert.Equal(t, 2, benchStrokesStored(p))
}
