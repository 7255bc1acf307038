package e2e

import (
	"bytes"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"syscall"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// The speeds a hand feels, with no server to be reached. On a tablet of a quarter of this machine's speed:
// GEMINATE_SLOW=4 go test ./e2e -run xxx -bench 'Tap|Station|Count' -benchtime 30x

// slowed lets every page of the browser run one part in n of the time: it is stopped and let go four hundred times
// a second, its workers with it, which the browser's own throttle leaves alone.
func slowed(b *testing.B) {
	n, _ := strconv.Atoi(os.Getenv("GEMINATE_SLOW"))
	if n < 2 {
		return
	}
	const runs = 2500 * time.Microsecond
	end := make(chan bool)
	ended := make(chan bool)
	go func() {
		defer close(ended)
		for {
			pids := renderers()
			for range 100 {
				signal(pids, syscall.SIGSTOP)
				time.Sleep(time.Duration(n-1) * runs)
				signal(pids, syscall.SIGCONT)
				select {
				case <-end:
					return
				case <-time.After(runs):
				}
			}
		}
	}()
	b.Cleanup(func() { close(end); <-ended })
}

func signal(pids []int, s syscall.Signal) {
	for _, pid := range pids {
		_ = syscall.Kill(pid, s)
	}
}

// renderers are the processes this test's browser draws pages in.
func renderers() (out []int) {
	lines, _ := filepath.Glob("/proc/[0-9]*/cmdline")
	for _, file := range lines {
		raw, err := os.ReadFile(file)
		if err != nil || !bytes.Contains(raw, []byte("--type=renderer")) {
			continue
		}
		if pid, err := strconv.Atoi(filepath.Base(filepath.Dir(file))); err == nil {
			out = append(out, pid)
		}
	}
	return out
}

// spread reports the middle and the slow end of what was measured, ms.
func spread(b *testing.B, times []float64) {
	slices.Sort(times)
	b.ReportMetric(times[len(times)/2], "p50-ms")
	b.ReportMetric(times[len(times)*95/100], "p95-ms")
	b.ReportMetric(0, "ns/op")
}

// alone opens the pickup, waits until all of it is kept here, and takes the server away.
func alone(b *testing.B) *page {
	b.Helper()
	a := start(b, b.TempDir(), freePort(b))
	p := openFor(b, a.url, 1280, 800, 10*time.Minute)
	openPickup(p)
	keptHere(p)
	a.kill()
	p.away = true
	return p
}

// after clicks and measures until what is watched has changed and is painted.
func (p *page) after(b *testing.B, click, watched string) float64 {
	b.Helper()
	ms, err := chromedp.Run(p.ctx, chromedp.Evaluate[float64](fmt.Sprintf(`new Promise(done => {
		const start = performance.now()
		new MutationObserver((_, o) => { o.disconnect(); requestAnimationFrame(() => done(performance.now() - start)) })
			.observe(document.querySelector(%q), {subtree: true, childList: true, characterData: true, attributes: true})
		document.querySelector(%q).click()
	})`, watched, click), chromedp.EvalAwaitPromise))
	require.NoError(b, err)
	return ms
}

func BenchmarkTapToVerdict(b *testing.B) {
	p := alone(b)
	p.goTo("diagnose")
	p.click("pedal.sinks-slow")
	p.has("settled", "Best guess so far")
	p.click("level.falls-no")
	slowed(b)
	time.Sleep(time.Second)
	values := []string{"fast", "slow"}
	sample := func(i int) float64 {
		defer time.Sleep(300 * time.Millisecond)
		return p.after(b, `[data-testid="pedal.sinks-`+values[i%2]+`"]`, `[data-testid=faults]`)
	}
	for i := range 4 {
		sample(i)
	}
	var times []float64
	for i := 0; b.Loop(); i++ {
		times = append(times, sample(i))
	}
	spread(b, times)
}

func BenchmarkStationOpened(b *testing.B) {
	p := alone(b)
	round := []struct{ station, shows string }{
		{"verify", "gate"},
		{"bleed", "stroke"},
		{"replace", "gates"},
		{"bench", "stroke"},
		{"record", "sheet"},
		{"match", "to-replace"},
		{"diagnose", "judgement"},
	}
	open := func(i int) float64 {
		at := round[i%len(round)]
		ms, err := chromedp.Run(p.ctx, chromedp.Evaluate[float64](fmt.Sprintf(`new Promise(done => {
			const start = performance.now()
			const look = () => document.querySelector('main [data-testid="%s"]') ? requestAnimationFrame(() => done(performance.now() - start)) : requestAnimationFrame(look)
			document.querySelector('[data-testid="station-%s"]').click()
			requestAnimationFrame(look)
		})`, at.shows, at.station), chromedp.EvalAwaitPromise))
		require.NoError(b, err)
		time.Sleep(300 * time.Millisecond)
		return ms
	}
	p.goTo("intake")
	for i := range round { // each once, so that its code is here
		open(i)
	}
	slowed(b)
	time.Sleep(time.Second)
	var times []float64
	slowest, where := 0.0, ""
	for i := 0; b.Loop(); i++ {
		ms := open(i)
		if times = append(times, ms); ms > slowest {
			slowest, where = ms, round[i%len(round)].station
		}
	}
	b.Logf("slowest: %s, %.0f ms", where, slowest)
	spread(b, times)
}

func BenchmarkStrokeCounted(b *testing.B) {
	p := alone(b)
	p.goTo("bench")
	p.see("stroke")
	slowed(b)
	time.Sleep(time.Second)
	var times []float64
	for b.Loop() {
		times = append(times, p.after(b, `[data-testid=stroke]`, `[data-testid=count]`))
		time.Sleep(450 * time.Millisecond)
	}
	spread(b, times)
}

// BenchmarkStrokeInALongLog counts a stroke at Bleed in a log of a thousand, with the server there: tap to count, what
// goes over the wire for it, and how soon another browser shows it.
func BenchmarkStrokeInALongLog(b *testing.B) {
	a := startPaced(b, 30)
	p := openFor(b, a.url, 1280, 800, 10*time.Minute)
	openPickup(p)
	p.do(chromedp.Evaluate[chromedp.Void](`(async () => {
		const id = location.pathname.split("/")[2], csrf = /geminate_csrf=([^;]+)/.exec(document.cookie)[1]
		const at = new Date().toISOString()
		for (let k = 0; k < 10; k++) {
			const events = Array.from({length: 100}, (_, i) => i % 9 == 0
				? {id: "s" + k + "-" + i, kind: "refill", at, data: {}}
				: {id: "s" + k + "-" + i, kind: "bleed_stroke", at, data: {wheel: ["RR", "LR", "RF", "LF"][k % 4]}})
			const r = await fetch("/api/jobs/" + id + "/log", {method: "POST", headers: {"content-type": "application/json", "X-Csrf-Token": csrf}, body: JSON.stringify({events})})
			if (!r.ok) throw new Error(await r.text())
		}
	})()`, chromedp.EvalAwaitPromise))
	other := openFor(b, a.url, 1280, 800, 10*time.Minute)
	signIn(other)
	where, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](`location.pathname.split("/")[2]`))
	require.NoError(b, err)
	for _, x := range []*page{p, other} {
		x.do(chromedp.Navigate(a.url + "/jobs/" + where + "/bleed"))
		x.see("stroke")
	}
	other.do(
		chromedp.Evaluate[chromedp.Void](
			`window.__at = 0; new MutationObserver(() => { window.__at = Date.now() }).observe(document.querySelector("[data-testid=count]"), {subtree: true, childList: true, characterData: true}); 0`,
		),
	)
	slowed(b)
	time.Sleep(2 * time.Second)
	p.do(chromedp.Evaluate[chromedp.Void](`performance.clearResourceTimings(); performance.setResourceTimingBufferSize(5000); 0`))
	var times, second []float64
	for b.Loop() {
		began := float64(time.Now().UnixMilli())
		times = append(times, p.after(b, `[data-testid=stroke]`, `[data-testid=count]`))
		time.Sleep(650 * time.Millisecond)
		if at, err := chromedp.Run(other.ctx, chromedp.Evaluate[float64](`window.__at`)); err == nil && at >= began {
			second = append(second, at-began)
		}
		p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("[data-testid=refill]:not([disabled])")?.click(); 0`))
		time.Sleep(450 * time.Millisecond)
	}
	down, err := chromedp.Run(
		p.ctx,
		chromedp.Evaluate[float64](
			`(() => { const r = performance.getEntriesByType("resource").filter(e => e.name.includes("/api/")); window.__names = r.map(e => e.name.split("/").pop()); return r.reduce((n, e) => n + e.encodedBodySize, 0) / r.length })()`,
		),
	)
	require.NoError(b, err)
	calls, err := chromedp.Run(p.ctx,
		chromedp.Evaluate[float64](`performance.getEntriesByType("resource").filter(e => e.name.includes("/api/")).length`))
	require.NoError(b, err)
	names, _ := chromedp.Run(p.ctx, chromedp.Evaluate[string](`[...new Set(window.__names)].join(" ")`))
	slices.Sort(second)
	if len(second) > 0 {
		b.ReportMetric(second[len(second)*95/100], "second-p95-ms")
	}
	b.ReportMetric(down, "B-down/call")
	b.ReportMetric(calls/float64(len(times)), "calls/round")
	b.Logf("asked: %s; heard by the second in %d of %d", names, len(second), len(times))
	spread(b, times)
}

// BenchmarkFirstAndLaterLoad counts what goes over the wire, KB, and how soon the core answers after the first paint.
func BenchmarkFirstAndLaterLoad(b *testing.B) {
	a := start(b, b.TempDir(), freePort(b))
	for b.Loop() {
		line := newWire(b, a.url, 0)
		p := open(b, line.url(), 1280, 800)
		openPickup(p)
		p.goTo("diagnose")
		p.see("judgement")
		keptHere(p)
		first := float64(line.taken.Load()) / 1024
		p.do(chromedp.Reload())
		p.see("judgement")
		time.Sleep(2 * time.Second)
		later := float64(line.taken.Load())/1024 - first
		ready, err := chromedp.Run(
			p.ctx,
			chromedp.Evaluate[float64](
				`performance.getEntriesByName("core-ready")[0].startTime - performance.getEntriesByName("first-contentful-paint")[0].startTime`,
			),
		)
		require.NoError(b, err)
		b.ReportMetric(first, "first-KiB")
		b.ReportMetric(later, "later-KiB")
		b.ReportMetric(ready, "core-after-paint-ms")
	}
	b.ReportMetric(0, "ns/op")
}
