// Package e2e drives the real program in a real browser: the built binary, its own MariaDB, headless
// Chromium.
package e2e

import (
	"bufio"
	"context"
	"encoding/json"
	"flag"
	"fmt"
	"io"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

var (
	binary  string
	browser context.Context
)

func TestMain(m *testing.M) { os.Exit(setUp(m)) }

func setUp(m *testing.M) int {
	dir, err := os.MkdirTemp("", "gme2e")
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer func() { _ = os.RemoveAll(dir) }()
	if _, err := os.Stat("../web/dist/index.html"); err != nil {
		fmt.Fprintln(os.Stderr, "the front end is not built: run `make web` first")
		return 1
	}
	binary = filepath.Join(dir, "geminate")
	if out, err := exec.Command("go", "build", "-o", binary, "../cmd/geminate").CombinedOutput(); err != nil {
		fmt.Fprintf(os.Stderr, "building: %v\n%s", err, out)
		return 1
	}
	chromium, err := exec.LookPath("chromium")
	if err != nil {
		fmt.Fprintln(os.Stderr, "these tests need Chromium: apt-get install chromium")
		return 1
	}
	opts := append(chromedp.DefaultExecAllocatorOptions[:], chromedp.ExecPath(chromium), chromedp.NoSandbox,
		chromedp.UserDataDir(filepath.Join(dir, "profile")), chromedp.Flag("disable-gpu", true),
		chromedp.Flag("disable-quic", true), chromedp.Flag("disable-component-update", true),
		chromedp.Flag("ignore-certificate-errors", true)) // a shop's own authority, which this browser was never told of
	alloc, cancel := chromedp.NewExecAllocator(context.Background(), opts...)
	defer cancel()
	var stop context.CancelFunc
	browser, stop = chromedp.NewContext(alloc)
	defer stop()
	if err := chromedp.Do(browser); err != nil {
		fmt.Fprintln(os.Stderr, "starting Chromium:", err)
		return 1
	}
	// Most of a browser test is waiting: two cores bear more than two of them.
	if f := flag.Lookup("test.parallel"); f != nil && f.Value.String() == strconv.Itoa(runtime.GOMAXPROCS(0)) {
		if err := f.Value.Set(strconv.Itoa(2 * runtime.GOMAXPROCS(0))); err != nil {
			fmt.Fprintln(os.Stderr, err)
			return 1
		}
	}
	return m.Run()
}

// takeTime lets pass what a hand takes for something, where the shop's clock does not run faster.
func (p *page) takeTime(d time.Duration) {
	if !p.paced {
		time.Sleep(d)
	}
}

// app is one running geminate.
type app struct {
	t    testing.TB
	cmd  *exec.Cmd
	url  string
	port int
	data string
	out  *strings.Builder
	done chan error
}

func freePort(t testing.TB) int {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer func() { _ = l.Close() }()
	return l.Addr().(*net.TCPAddr).Port
}

// start runs `geminate demo` on a data directory and waits until it says it is ready.
func start(t testing.TB, data string, port int) *app {
	t.Helper()
	return startWith(t, data, port, exec.Command(binary, "demo", "--years", "0"))
}

// startPaced is start with a clock that runs so many times as fast: an honest hour's work takes its time in the record,
// and a test does not wait for it.
func startPaced(t testing.TB, pace int) *app {
	t.Helper()
	return startWith(t, t.TempDir(), freePort(t), exec.Command(binary, "demo", "--years", "0", "--pace", strconv.Itoa(pace)))
}

func startWith(t testing.TB, data string, port int, cmd *exec.Cmd) *app {
	t.Helper()
	a := &app{t: t, data: data, port: port, out: &strings.Builder{}, done: make(chan error, 1)}
	a.cmd = cmd
	a.cmd.Env = append(os.Environ(), "GEMINATE_DATA="+data, "GEMINATE_PORT="+strconv.Itoa(port), "GEMINATE_DSN=")
	a.cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true}
	pipe, err := a.cmd.StdoutPipe()
	require.NoError(t, err)
	a.cmd.Stderr = os.Stderr
	require.NoError(t, a.cmd.Start())
	ready := make(chan string, 1)
	go func() {
		lines := bufio.NewScanner(pipe)
		for lines.Scan() {
			a.out.WriteString(lines.Text() + "\n")
			if _, url, ok := strings.Cut(lines.Text(), "ready: "); ok {
				ready <- url
			}
		}
		_, _ = io.Copy(io.Discard, pipe)
		a.done <- a.cmd.Wait()
	}()
	select {
	case a.url = <-ready:
	case err := <-a.done:
		t.Fatalf("geminate ended: %v\n%s", err, a.out)
	case <-time.After(60 * time.Second):
		t.Fatal("geminate was not ready within a minute")
	}
	t.Cleanup(func() { a.stop() })
	return a
}

// stop ends the program as Ctrl-C does and waits.
func (a *app) stop() {
	if a.cmd.ProcessState == nil {
		_ = a.cmd.Process.Signal(syscall.SIGTERM)
		select {
		case <-a.done:
		case <-time.After(40 * time.Second):
			a.t.Error("geminate did not stop")
		}
	}
}

// kill ends the program with no chance to tidy up.
func (a *app) kill() {
	require.NoError(a.t, a.cmd.Process.Signal(syscall.SIGKILL))
	<-a.done
}

// patience is how long something is waited for: what is not there after it never comes. A machine that does much else
// beside this is slow, not wrong.
const patience = time.Minute

// page is one browser tab with cookies of its own.
type page struct {
	t   testing.TB
	ctx context.Context
	// away: there is no server, so nothing gets stored to wait for.
	away bool
	// paced: the shop's clock runs faster.
	paced bool
}

func open(t testing.TB, url string, width, height int64) *page {
	t.Helper()
	return openFor(t, url, width, height, 8*time.Minute)
}

// openFor opens a page that is worked for as long as that.
func openFor(t testing.TB, url string, width, height int64, lasts time.Duration) *page {
	t.Helper()
	tab, cancel := chromedp.NewContext(browser, chromedp.WithNewBrowserContext())
	t.Cleanup(cancel)
	require.NoError(t, chromedp.Do(tab)) // the tab lives as long as the context it is first used with
	ctx, stop := context.WithTimeout(tab, lasts)
	t.Cleanup(stop)
	p := &page{t: t, ctx: ctx}
	p.do(chromedp.EmulateViewport(width, height), chromedp.Navigate(url))
	return p
}

func (p *page) do(steps ...chromedp.Action[chromedp.Void]) {
	p.t.Helper()
	if err := p.try(steps...); err != nil {
		p.fail(err)
	}
}

func (p *page) try(steps ...chromedp.Action[chromedp.Void]) error {
	ctx, cancel := context.WithTimeout(p.ctx, patience)
	defer cancel()
	return chromedp.Do(ctx, steps...)
}

func (p *page) fail(err error) {
	p.t.Helper()
	ctx, cancel := context.WithTimeout(p.ctx, 3*time.Second)
	defer cancel()
	where, _ := chromedp.Run(
		ctx,
		chromedp.Evaluate[string](
			`location.pathname + "\n" + [...document.querySelectorAll("input")].filter(e => e.value && e.type === "text").
		map(e => (e.closest("[data-testid]")?.dataset.testid ?? e.ariaLabel) + "=" + e.value).join("; ") + "\n" + document.body.innerText.slice(0, 1500)`,
		),
	)
	if dir := os.Getenv("GEMINATE_SHOTS"); dir != "" {
		p.shot("failure")
	}
	p.t.Fatalf("%v\nat %s", err, where)
}

func id(testid string) chromedp.CSS { return chromedp.CSS(`[data-testid="` + testid + `"]`) }

func field(testid string) chromedp.CSS {
	return chromedp.CSS(`[data-testid="` + testid + `"] input, [data-testid="` + testid + `"] textarea`)
}

// click clicks as a hand would: where the page is drawn anew between finding the button and pressing it, or it moved
// and the tap fell beside it, it is found again. Neither was a click on it, so none is made twice; that one fell beside
// is logged.
func (p *page) click(testid string) {
	p.t.Helper()
	for tries := 0; ; tries++ {
		p.intoView(testid)
		_ = p.try(
			chromedp.Evaluate[chromedp.Void](
				`(() => { const e = document.querySelector('[data-testid="` + testid + `"]'); window.__hit = false; window.__hand?.abort(); window.__hand = new AbortController();
			if (e) for (const on of ["click", "pointerdown"]) document.addEventListener(on, (x) => { window.__hit ||= x.composedPath().some((n) => n.dataset?.testid === "` + testid + `" && !n.disabled) }, {capture: true, signal: window.__hand.signal}) })()`,
			),
		)
		err := p.try(chromedp.Click(id(testid)))
		switch {
		case err != nil && (tries >= 5 || !strings.Contains(err.Error(), "Could not find node")):
			p.fail(err)
		case err != nil:
			time.Sleep(50 * time.Millisecond)
			continue
		}
		// Gone with the page it stood on is hit as well.
		if hit, err := chromedp.Run(p.ctx, chromedp.Evaluate[bool](`window.__hit !== false`)); err != nil || hit || tries >= 5 {
			return
		}
		p.t.Logf("a tap fell beside %s", testid)
	}
}

// intoView scrolls as a person does: what is under the bar at the foot, or off the page, comes to the middle. What is
// in plain sight stays where it is. Nobody aims at what still moves: it waits until the thing has stood still for some
// frames, and until it can be pressed.
func (p *page) intoView(testid string) {
	_ = p.try(chromedp.WaitVisible(id(testid)), chromedp.WaitEnabled(id(testid)), chromedp.Evaluate[chromedp.Void](`(() => {
		const e = document.querySelector('[data-testid="`+testid+`"]'), r = e?.getBoundingClientRect()
		if (!r) return
		const at = document.elementFromPoint(r.x + r.width / 2, r.y + r.height / 2)
		if (!at || !(e.contains(at) || at.contains(e))) e.scrollIntoView({block: "center"})
	})()`), chromedp.Evaluate[chromedp.Void](`new Promise((done) => {
		let where = "", still = 0, frames = 0
		const look = () => {
			const r = document.querySelector('[data-testid="`+testid+`"]')?.getBoundingClientRect()
			const now = r ? [r.x, r.y, r.width, r.height].map(Math.round).join() : ""
			still = now === where ? still + 1 : 0
			where = now
			if (still >= 3 || frames++ > 120) done()
			else requestAnimationFrame(look)
		}
		look()
	})`, chromedp.EvalAwaitPromise))
}

func (p *page) see(testid string) { p.t.Helper(); p.do(chromedp.WaitVisible(id(testid))) }

func (p *page) gone(testid string) { p.t.Helper(); p.do(chromedp.WaitNotPresent(id(testid))) }

// fill puts text into a field, over what is there, by the keyboard.
func (p *page) fill(testid, text string) {
	p.t.Helper()
	p.do(chromedp.Focus(field(testid)), chromedp.Evaluate[chromedp.Void](`document.activeElement.select()`), chromedp.KeyEvent(text))
}

func (p *page) key(keys string) { p.t.Helper(); p.do(chromedp.KeyEvent(keys)) }

// stroke counts one, no faster than a foot: what follows sooner is the same stroke.
func (p *page) stroke() {
	p.t.Helper()
	p.key(" ")
	time.Sleep(410 * time.Millisecond)
}

// strokesAloud tells as many strokes at once as the page lets, one where it lets none: where the clock runs faster,
// since five take five seconds.
func (p *page) strokesAloud() {
	p.t.Helper()
	if !p.paced {
		p.stroke()
		return
	}
	many, err := chromedp.Run(p.ctx, chromedp.Evaluate[bool](`document.querySelector('[data-testid="stroke-many"]')?.disabled === false`))
	if err != nil || !many {
		p.stroke()
		return
	}
	before := p.text("count")
	counted := `document.querySelector('[data-testid="count"]').innerText !== ` + js(before)
	for range 8 { // told sooner than five strokes take by the shop's clock, as this page last heard it, they are refused: then a little later
		p.click("stroke-many")
		if p.soon(3*time.Second, counted) {
			time.Sleep(300 * time.Millisecond)
			return
		}
	}
	p.fail(fmt.Errorf("strokes counted aloud are not taken: %s", before))
}

// soon says whether an expression comes to hold within a time.
func (p *page) soon(most time.Duration, js string) bool {
	for end := time.Now().Add(most); time.Now().Before(end); time.Sleep(60 * time.Millisecond) {
		if ok, err := chromedp.Run(p.ctx, chromedp.Evaluate[bool](`!!(`+js+`)`)); err == nil && ok {
			return true
		}
	}
	return false
}

// until waits for a JavaScript condition.
func (p *page) until(what, js string) {
	p.t.Helper()
	p.within(patience, what, js)
}

// within waits until an expression holds, no longer than a time.
func (p *page) within(most time.Duration, what, js string) {
	p.t.Helper()
	ctx, cancel := context.WithTimeout(p.ctx, most)
	defer cancel()
	for {
		ok, err := chromedp.Run(ctx, chromedp.Evaluate[bool](`!!(`+js+`)`))
		if err == nil && ok {
			return
		}
		select {
		case <-ctx.Done():
			p.fail(fmt.Errorf("waited for %s: %s", what, js))
		case <-time.After(60 * time.Millisecond):
		}
	}
}

// has waits until an element's text contains something.
func (p *page) has(testid, want string) {
	p.t.Helper()
	p.until(testid+" to say "+want, fmt.Sprintf(`document.querySelector('[data-testid="%s"]')?.textContent.includes(%q)`, testid, want))
}

// stored waits until nothing is on its way to the server any more.
func (p *page) stored() {
	p.t.Helper()
	if p.away {
		time.Sleep(40 * time.Millisecond)
		return
	}
	p.until("everything stored", `document.querySelector('[data-testid="outbox"]')?.dataset.waiting === "0" &&
		!Object.keys(localStorage).some(k => k.startsWith("geminate.choices.") && JSON.parse(localStorage[k]).said)`)
}

// shot writes a picture when GEMINATE_SHOTS names a folder.
func (p *page) shot(name string) {
	dir := os.Getenv("GEMINATE_SHOTS")
	if dir == "" {
		return
	}
	p.until("fonts", `document.fonts.status === "loaded"`)
	time.Sleep(350 * time.Millisecond)
	buf, err := chromedp.Run(p.ctx, chromedp.CaptureScreenshot())
	require.NoError(p.t, err)
	require.NoError(p.t, os.MkdirAll(dir, 0o755))
	require.NoError(p.t, os.WriteFile(filepath.Join(dir, name+".png"), buf, 0o644))
}

// shotTop is shot from the top of the page.
func (p *page) shotTop(name string) {
	p.do(chromedp.Evaluate[chromedp.Void](`window.scrollTo(0, 0)`))
	p.shot(name)
}

// unfold opens what folds away.
func (p *page) unfold(testid string) {
	p.t.Helper()
	p.see(testid)
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-testid="` + testid + `"]').open = true; 0`))
}

// goTo opens a station by the fitting on the rail.
func (p *page) goTo(station string) {
	p.t.Helper()
	if hidden, _ := chromedp.Run(
		p.ctx,
		chromedp.Evaluate[bool](
			`(() => { const e = document.querySelector('[data-testid="station-`+station+`"]'); return !!e && !e.offsetParent })()`,
		),
	); hidden {
		p.click("stations-all") // on a phone: what is further off stands in the list
	}
	p.click("station-" + station)
	p.until(station, fmt.Sprintf(`location.pathname.endsWith("/%s")`, station))
}

// js is a text as a JavaScript literal.
func js(s string) string {
	out, err := json.Marshal(s)
	if err != nil {
		return `""`
	}
	return string(out)
}
