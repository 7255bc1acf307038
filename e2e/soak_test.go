package e2e

import (
	"encoding/json"
	"math/rand/v2"
	"net"
	"os"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// wire is a bad line between a browser and the shop: it adds latency, and can be cut, which ends what runs over it
// and lets nothing new through.
type wire struct {
	net.Listener
	to    string
	delay time.Duration
	mu    sync.Mutex
	cut   bool
	open  map[net.Conn]bool
	taken atomic.Int64 // bytes from the shop to the browser
}

func newWire(t testing.TB, to string, delay time.Duration) *wire {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	w := &wire{Listener: l, to: strings.TrimPrefix(to, "http://"), delay: delay, open: map[net.Conn]bool{}}
	t.Cleanup(func() { _ = l.Close(); w.setCut(true) })
	go func() {
		for {
			c, err := l.Accept()
			if err != nil {
				return
			}
			go w.carry(c)
		}
	}()
	return w
}

func (w *wire) url() string { return "http://" + w.Addr().String() }

func (w *wire) setCut(cut bool) {
	w.mu.Lock()
	defer w.mu.Unlock()
	w.cut = cut
	for c := range w.open {
		if cut {
			_ = c.Close()
		}
	}
}

func (w *wire) hold(c net.Conn) bool {
	w.mu.Lock()
	defer w.mu.Unlock()
	if w.cut {
		_ = c.Close()
		return false
	}
	w.open[c] = true
	return true
}

func (w *wire) carry(from net.Conn) {
	to, err := net.Dial("tcp", w.to)
	if err != nil || !w.hold(from) || !w.hold(to) {
		_ = from.Close()
		return
	}
	copyOver := func(dst, src net.Conn, count *atomic.Int64) {
		buf := make([]byte, 32<<10)
		for {
			n, err := src.Read(buf)
			if n > 0 {
				count.Add(int64(n))
				time.Sleep(w.delay)
				if _, err := dst.Write(buf[:n]); err != nil {
					break
				}
			}
			if err != nil {
				break
			}
		}
		_ = dst.Close()
		_ = src.Close()
	}
	go copyOver(to, from, &atomic.Int64{})
	copyOver(from, to, &w.taken)
	w.mu.Lock()
	delete(w.open, from)
	delete(w.open, to)
	w.mu.Unlock()
}

// watchMade has a tab take down the id of every event it puts into the outbox.
const watchMade = `(() => { window.__made = []; const add = IDBObjectStore.prototype.add;
IDBObjectStore.prototype.add = function (v, ...more) { if (this.name === "outbox") window.__made.push(v.event.id); return add.call(this, v, ...more) } })()`

func evalJSON(p *page, script string, into any) {
	p.t.Helper()
	text, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](script, chromedp.EvalAwaitPromise))
	require.NoError(p.t, err)
	require.NoError(p.t, json.Unmarshal([]byte(text), into))
}

// TestThreeTabsOnBadLines has two people work the same job in three tabs with the lines cut at random. In the end
// every tab has the server's log, nothing that was tapped is lost and nothing is stored twice. Longer:
// GEMINATE_SOAK=5m go test ./e2e -run ThreeTabs -timeout 20m
func TestThreeTabsOnBadLines(t *testing.T) {
	t.Parallel()
	lasts := 15 * time.Second
	if s := os.Getenv("GEMINATE_SOAK"); s != "" {
		var err error
		lasts, err = time.ParseDuration(s)
		require.NoError(t, err)
	}
	a := start(t, t.TempDir(), freePort(t))
	lines := []*wire{newWire(t, a.url, 15*time.Millisecond), newWire(t, a.url, 40*time.Millisecond)}
	one := openFor(t, lines[0].url(), 1280, 800, lasts+4*time.Minute)
	openPickup(one)
	tab := one.another(lines[0].url())
	two := openFor(t, lines[1].url(), 1280, 800, lasts+4*time.Minute)
	openPickupAs(two, "piet")
	tabs := []*page{one, tab, two}
	path, err := chromedp.Run(one.ctx, chromedp.Evaluate[string](`location.pathname.split("/").slice(0, 3).join("/")`))
	require.NoError(t, err)
	for _, p := range tabs[1:] {
		p.do(
			chromedp.Evaluate[chromedp.Void](
				`history.pushState({}, "", "` + path + `/bleed"); dispatchEvent(new PopStateEvent("popstate")); 0`,
			),
		)
		p.see("stroke")
	}
	for _, p := range tabs {
		p.away = true // nothing is waited for in between
		p.do(chromedp.Evaluate[chromedp.Void](watchMade))
	}
	// Everything a tab may do at random, by its own buttons; what is not there or is disabled is passed over.
	press := func(p *page, ids ...string) {
		for _, x := range ids {
			_ = p.try(chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-testid="` + x + `"]:not([disabled])')?.click(); 0`))
		}
	}
	end := time.Now().Add(lasts)
	var wait sync.WaitGroup
	for i, w := range lines {
		wait.Go(func() {
			r := rand.New(rand.NewPCG(uint64(i), 1))
			for time.Now().Before(end) {
				time.Sleep(time.Duration(500+r.IntN(3000)) * time.Millisecond)
				w.setCut(true)
				time.Sleep(time.Duration(200+r.IntN(2500)) * time.Millisecond)
				w.setCut(false)
			}
		})
	}
	for i, p := range tabs {
		wait.Go(func() {
			r := rand.New(rand.NewPCG(uint64(i), 2))
			for time.Now().Before(end) {
				switch r.IntN(8) {
				case 0:
					press(p, "station-bench")
				case 1:
					press(p, "station-bleed")
				case 2:
					press(p, "refill")
				default:
					press(p, "stroke")
				}
				time.Sleep(time.Duration(r.IntN(500)) * time.Millisecond)
			}
		})
	}
	wait.Wait()
	for _, w := range lines {
		w.setCut(false)
	}
	stored := map[string]int64{}
	made := 0
	for _, p := range tabs {
		// A page that met a busy server backs off for up to a minute.
		p.within(90*time.Second, "all of it sent", `document.querySelector('[data-testid="outbox"]')?.dataset.waiting === "0"`)
	}
	log := logOf(one)
	for i, e := range log {
		_, twice := stored[e.ID]
		assert.False(t, twice, "stored twice: %s", e.ID)
		stored[e.ID] = e.Seq
		assert.Equal(t, int64(i+1), e.Seq)
	}
	for i, p := range tabs {
		var ids []string
		evalJSON(p, `JSON.stringify(window.__made)`, &ids)
		made += len(ids)
		for _, x := range ids {
			_, there := stored[x]
			assert.True(t, there, "lost: %s, made in tab %d", x, i)
		}
	}
	assert.Greater(t, made, int(lasts.Seconds()), "that was no soak")
	// The same log in every browser: each has heard of the last event.
	for _, p := range tabs {
		press(p, "station-bench")
		p.until(
			"the server's log is here",
			`(() => { const r = indexedDB.open("geminate"); r.onsuccess = () => { const g = r.result.transaction("log").objectStore("log").getAll(); g.onsuccess = () => { const of = {}; for (const e of g.result) (of[e.job] ??= []).push(e.event.id); window.__log = Object.values(of).map(ids => ids.join()).join("|"); r.result.close() } }; return window.__log?.split("|").some(l => l.split(",").length === `+jsonOf(
				len(log),
			)+`) })()`,
		)
		var ids string
		evalJSON(p, `JSON.stringify(window.__log.split("|").find(l => l.split(",").length === `+jsonOf(len(log))+`))`, &ids)
		want := make([]string, len(log))
		for i, e := range log {
			want[i] = e.ID
		}
		assert.Equal(t, strings.Join(want, ","), ids)
	}
	t.Logf("%d events made in three tabs over %v, %d stored", made, lasts, len(log))
}

func jsonOf(v any) string { raw, _ := json.Marshal(v); return string(raw) }

// another opens a second tab of the same browser, signed in as the first.
func (p *page) another(url string) *page {
	p.t.Helper()
	tab, cancel := chromedp.NewContext(p.ctx)
	p.t.Cleanup(cancel)
	require.NoError(p.t, chromedp.Do(tab))
	q := &page{t: p.t, ctx: tab}
	q.do(chromedp.EmulateViewport(1280, 800), chromedp.Navigate(url))
	q.see("job")
	return q
}
