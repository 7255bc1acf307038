package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/mariadb"
)

// newJob opens a job of one's own on a pattern, by keyboard and mouse.
func newJob(p *page, vehicle, pattern string) {
	p.click("new-job")
	p.fill("new-vehicle", vehicle)
	p.fill("new-complaint", "soft pedal")
	p.click("pattern-" + pattern)
	p.click("open-job")
	p.until("the job", `location.pathname.endsWith("/intake")`)
	p.see("save-intake")
}

func signIn(p *page) {
	p.click("demo-mara")
	p.until("the bay", `document.querySelectorAll('[data-testid=job]').length >= 3`)
}

// openJob opens the job whose vehicle is named, from the bay.
func openJob(p *page, vehicle string) {
	p.until(vehicle, fmt.Sprintf(`[...document.querySelectorAll('[data-testid=job]')].some(j => j.innerText.includes(%q))`, vehicle))
	p.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`[...document.querySelectorAll('[data-testid=job]')].find(j => j.innerText.includes(%q)).click()`, vehicle)))
	p.see("station-intake")
}

// A killed server, its database with it, comes back with every acknowledged stroke; strokes counted
// while it was away arrive once.
func TestKilledInMidBleedLosesNothing(t *testing.T) {
	data, port := t.TempDir(), freePort(t)
	a := start(t, data, port)
	p := open(t, a.url, 1280, 800)
	signIn(p)
	newJob(p, "Second job", "car-diagonal-vacuum")
	p.goTo("bleed")
	p.has("at-wheel", "RR")
	for i := 0; i < 6; i++ {
		p.key(" ")
	}
	p.has("count", "6")
	p.stored()
	a.kill()
	for i := 0; i < 3; i++ {
		p.key(" ")
	}
	p.has("count", "9")
	p.has("offline", "not stored yet")
	// The page is reloaded too, once there is a server to load it from: what waits is kept.
	start(t, data, port)
	p.do(chromedp.Reload())
	p.see("route")
	p.stored()
	p.has("count", "9")
	p.has("strokes-RR", "9 /")
}

func TestReloadInMidJobKeepsWhatWasTyped(t *testing.T) {
	a := start(t, t.TempDir(), freePort(t))
	p := open(t, a.url, 1280, 800)
	openPickup(p)
	p.goTo("intake")
	p.fill("complaint", "typed but not stored")
	p.until("the draft kept", `Object.keys(localStorage).some(k => k.startsWith("geminate.intake."))`)
	p.do(chromedp.Reload())
	p.until("the draft", `document.querySelector('[data-testid="complaint"] textarea')?.value === "typed but not stored"`)
	p.goTo("match")
	p.click("choose-vk-1063")
	p.has("station-match", "done")
	p.do(chromedp.Reload())
	p.until("still chosen", `document.querySelector('[data-testid="choose-vk-1063"]')?.getAttribute("aria-pressed") === "true"`)
}

func TestTwoPeopleAreToldAndNeverOverwritten(t *testing.T) {
	a := start(t, t.TempDir(), freePort(t))
	one, two := open(t, a.url, 1280, 800), open(t, a.url, 1280, 800)
	for _, p := range []*page{one, two} {
		openPickup(p)
		p.goTo("intake")
		p.see("complaint")
	}
	two.fill("complaint", "what two typed")
	one.fill("complaint", "what one typed")
	one.click("save-intake")
	one.until("Diagnose", `location.pathname.endsWith("/diagnose")`)
	two.click("save-intake")
	two.has("conflict", "what one typed")
	two.has("conflict", "what two typed")
	two.click("take-theirs")
	two.gone("conflict")
	two.goTo("intake")
	two.until("theirs taken", `document.querySelector('[data-testid="complaint"] textarea')?.value === "what one typed"`)
	// Strokes of both count, each once.
	one.goTo("bleed")
	two.goTo("bleed")
	one.see("stroke")
	two.see("stroke")
	one.key(" ")
	two.key(" ")
	one.has("count", "2")
	two.has("count", "2")
}

func TestBoosterWithCylinderAsideNeedsNoBleeding(t *testing.T) {
	a := start(t, t.TempDir(), freePort(t))
	p := open(t, a.url, 1280, 800)
	signIn(p)
	openJob(p, "saloon")
	p.goTo("match")
	p.see("no-bleeding")
	p.goTo("replace")
	p.see("no-bleeding")
	p.has("station-bleed", "not needed")
	p.has("station-bench", "not needed")
	p.goTo("bleed")
	p.see("bleed-not-needed")
	p.goTo("bench")
	p.see("bench-not-needed")
	p.goTo("match")
	p.click("scope-both")
	p.has("station-bleed", "4 left")
}

func TestTrailerShowsNoBooster(t *testing.T) {
	a := start(t, t.TempDir(), freePort(t))
	p := open(t, a.url, 1280, 800)
	signIn(p)
	openJob(p, "trailer")
	p.goTo("match")
	p.see("scope-cylinder")
	p.gone("scope-booster_aside")
	p.goTo("replace")
	p.see("step-strip.actuator_bolts")
	p.gone("step-safe.pump_empty")
	p.goTo("verify")
	p.see("item-plan")
	p.gone("item-pedal.sink")
	p.goTo("diagnose")
	p.see("finding-actuator.rod_moves")
	p.gone("finding-pedal.sinks")
}

func TestBadFiguresAreToldAndNotStored(t *testing.T) {
	a := start(t, t.TempDir(), freePort(t))
	p := open(t, a.url, 1280, 800)
	openPickup(p)
	p.goTo("intake")
	p.fill("f-master_cylinder.bore_mm", "400")
	p.has("problem", "400 is outside 8 to 80")
	p.until("save closed", `document.querySelector('[data-testid="save-intake"]').disabled`)
	p.fill("f-master_cylinder.bore_mm", "27")
	p.gone("problem")
	p.fill("f-master_cylinder.primary.cutoff_mm", "30")
	p.has("problem", "30")
	p.fill("f-master_cylinder.primary.cutoff_mm", "1.2")
	p.gone("problem")
	// Two faults at once are both told, each by its field; a wheel may be of the other kind.
	p.fill("f-reservoir.lowest_port_cm3", "900")
	p.fill("f-fluid.water_percent", "50")
	p.until("both faults", `document.querySelectorAll('[data-testid="problem"] li').length === 2`)
	p.fill("f-reservoir.lowest_port_cm3", "150")
	p.fill("f-fluid.water_percent", "1")
	p.gone("problem")
	p.click("open-LR")
	p.click("kind-LR-disc")
	p.until("two fields of a disc", `!!document.querySelector('[data-testid="kind-LR-disc"][aria-pressed="true"]')`)
	p.click("booster-none")
	p.has("twin-side", "Pedal travel")
	p.click("save-intake")
	p.until("Diagnose", `location.pathname.endsWith("/diagnose")`)
}

// serve with a shared MariaDB and an account of one's own, by name and password.
func TestServeOnASharedDatabase(t *testing.T) {
	db, err := mariadb.Start(context.Background(), t.TempDir())
	require.NoError(t, err)
	defer func() { assert.NoError(t, db.Stop()) }()
	env := append(os.Environ(), "GEMINATE_DSN="+db.DSN(mariadb.Database))
	account := func(stdin string, args ...string) (string, error) {
		cmd := exec.Command(binary, append([]string{"account", "add"}, args...)...)
		cmd.Env, cmd.Stdin = env, strings.NewReader(stdin)
		out, err := cmd.CombinedOutput()
		return string(out), err
	}
	out, err := account("correct horse\n", "Ana", "--role", "lead")
	require.NoError(t, err, out)
	out, err = account("correct horse\n", "ana")
	require.Error(t, err)
	assert.Contains(t, out, "already")
	out, err = account("short\n", "ben")
	require.Error(t, err)
	assert.Contains(t, out, "8 characters")
	_, err = account("correct horse\n", "ben", "--role", "king")
	require.Error(t, err)

	// Two servers share one database; a session of the one is good at the other.
	ports := []int{freePort(t), freePort(t)}
	for _, port := range ports {
		cmd := exec.Command(binary, "serve", "--listen", fmt.Sprintf("127.0.0.1:%d", port))
		cmd.Env = env
		require.NoError(t, cmd.Start())
		t.Cleanup(func() { _ = cmd.Process.Signal(syscall.SIGTERM); _ = cmd.Wait() })
	}
	url := func(i int) string { return fmt.Sprintf("http://127.0.0.1:%d", ports[i]) }
	for i := range ports {
		require.Eventually(t, func() bool {
			res, err := http.Get(url(i) + "/api/health")
			return err == nil && res.StatusCode == 200
		}, 20*time.Second, 50*time.Millisecond)
	}
	p := open(t, url(0), 1280, 800)
	p.see("sign-in")
	p.gone("demo-mara")
	p.fill("name", "ana")
	p.fill("password", "wrong horse")
	p.click("sign-in")
	p.until("the refusal", `document.body.innerText.includes("Name or password is wrong")`)
	p.fill("password", "correct horse")
	p.key("\r")
	p.see("new-job")
	p.do(chromedp.Navigate(url(1)))
	p.see("new-job")
}

func TestKeyboardAndNight(t *testing.T) {
	a := start(t, t.TempDir(), freePort(t))
	p := open(t, a.url, 1280, 800)
	openPickup(p)
	p.goTo("diagnose")
	p.key("?")
	p.until("the list of keys", `document.body.innerText.includes("take the last stroke back")`)
	p.key("?")
	p.key("6")
	p.until("Bleed by its number", `location.pathname.endsWith("/bleed")`)
	p.see("stroke")
	p.key(" ")
	p.has("count", "1")
	p.until("undo", `!document.querySelector('[data-testid="undo"]').disabled`)
	p.key("z")
	p.has("count", "0")
	p.key("n")
	p.until("night", `document.documentElement.classList.contains("night")`)
	p.shotTop("night")
	p.key("b")
	p.until("the bay", `location.pathname === "/"`)
}

// TestTablet looks at the stations at the tablet's size: nothing may stick out sideways.
func TestTablet(t *testing.T) {
	a := start(t, t.TempDir(), freePort(t))
	p := open(t, a.url, 800, 1280)
	openPickup(p)
	for _, s := range []string{"intake", "diagnose", "match", "replace", "bench", "bleed", "verify", "record"} {
		p.goTo(s)
		p.until("content", `document.querySelectorAll('.work .field').length > 0`)
		p.until("no sideways scrolling in "+s, `document.documentElement.scrollWidth <= window.innerWidth`)
		p.shot("tablet-" + s)
	}
}

// Source of the rules: axe-core's WCAG 2.2 AA set.
func TestEveryViewHoldsTheAccessibilityRules(t *testing.T) {
	axe, err := os.ReadFile("../web/node_modules/axe-core/axe.min.js")
	require.NoError(t, err)
	a := start(t, t.TempDir(), freePort(t))
	p := open(t, a.url, 1280, 800)
	look := func(name string) {
		t.Helper()
		p.do(chromedp.Evaluate[chromedp.Void](string(axe) + ";0"))
		found, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](`axe.run(document, {runOnly: ["wcag2a","wcag2aa","wcag21a","wcag21aa","wcag22aa"]}).then(r => JSON.stringify(r.violations.map(v => [v.id, v.help, v.nodes.slice(0,3).map(n => n.html.slice(0,160) + " // " + (n.any[0]?.message ?? ""))])))`, chromedp.EvalAwaitPromise))
		require.NoError(t, err)
		var list []any
		require.NoError(t, json.Unmarshal([]byte(found), &list))
		assert.Empty(t, list, name)
	}
	p.see("demo-mara")
	look("sign-in")
	openPickup(p)
	for _, night := range []bool{false, true} {
		if night {
			p.key("n")
			p.until("night", `document.documentElement.classList.contains("night")`)
		}
		for _, s := range []string{"intake", "diagnose", "match", "replace", "bench", "bleed", "verify", "record"} {
			p.goTo(s)
			p.until("content", `document.querySelectorAll('.work .field').length > 0`)
			time.Sleep(300 * time.Millisecond)
			look(fmt.Sprintf("%s night=%v", s, night))
		}
	}
	p.key("b")
	p.until("the bay", `document.querySelectorAll('[data-testid=job]').length === 3`)
	look("bay")
}

func demoFails(t *testing.T, env ...string) string {
	t.Helper()
	cmd := exec.Command(binary, "demo")
	cmd.Env = append(os.Environ(), env...)
	out, err := cmd.CombinedOutput()
	require.Error(t, err, string(out))
	return string(out)
}

func TestWhatCannotStartSaysWhy(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer func() { _ = l.Close() }()
	busy := strconv.Itoa(l.Addr().(*net.TCPAddr).Port)
	assert.Contains(t, demoFails(t, "GEMINATE_PORT="+busy, "GEMINATE_DATA="+t.TempDir()), "in use")
	file := filepath.Join(t.TempDir(), "file")
	require.NoError(t, os.WriteFile(file, nil, 0o600))
	assert.Contains(t, demoFails(t, "GEMINATE_PORT=0", "GEMINATE_DATA="+file+"/x"), "GEMINATE_DATA")
	assert.Contains(t, demoFails(t, "GEMINATE_DSN=u:p@tcp(127.0.0.1:1)/x"), "geminate serve")
	cmd := exec.Command(binary, "serve", "--listen", "127.0.0.1:0")
	cmd.Env = append(os.Environ(), "GEMINATE_DSN=u:p@tcp(127.0.0.1:1)/x")
	out, err := cmd.CombinedOutput()
	require.Error(t, err)
	assert.Contains(t, string(out), "does not answer")
}

// Stopping with Ctrl-C stops the database cleanly; nothing of it is left running.
func TestStopsItsDatabase(t *testing.T) {
	a := start(t, t.TempDir(), freePort(t))
	raw, err := os.ReadFile(filepath.Join(a.data, "mariadb.pid"))
	require.NoError(t, err)
	pid, err := strconv.Atoi(strings.TrimSpace(string(raw)))
	require.NoError(t, err)
	require.NoError(t, syscall.Kill(pid, 0))
	a.stop()
	assert.Error(t, syscall.Kill(pid, 0), "the database still runs")
	log, err := os.ReadFile(filepath.Join(a.data, "mariadb.log"))
	require.NoError(t, err)
	assert.Contains(t, string(log), "Shutdown complete")
}

// The command line, as the model page describes it.
func TestCommandLine(t *testing.T) {
	run := func(stdin string, args ...string) (string, string, int) {
		cmd := exec.Command(binary, args...)
		cmd.Stdin = strings.NewReader(stdin)
		var out, errs strings.Builder
		cmd.Stdout, cmd.Stderr = &out, &errs
		_ = cmd.Run()
		return out.String(), errs.String(), cmd.ProcessState.ExitCode()
	}
	sys, _, _ := run("", "pattern", "pickup-front-rear-vacuum")
	for name, c := range map[string]struct {
		stdin string
		args  []string
		key   string
	}{
		"apply":    {sys, []string{"twin", "apply", "--pedal-force", "50,300", "--no-assist"}, "points"},
		"hold":     {sys, []string{"twin", "hold", "-", "--pedal-force", "200", "--seconds", "60"}, "samples"},
		"reserve":  {sys, []string{"twin", "reserve"}, "applications"},
		"pushrod":  {"", []string{"pushrod", "--pocket-mm", "12.4", "--gasket-mm", "0.8", "--protrusion-mm", "12.9", "--pitch-mm", "1.0", "--target-mm", "0.25", "--pedal-ratio", "4"}, "gap_mm"},
		"bench":    {"", []string{"bench", "--bore-mm", "25.4", "--length-mm", "45", "--port-mm", "12", "--port", "top", "--tilt-deg", "10", "--stroke-mm", "30", "--strokes", "15"}, "trapped_mm3"},
		"bleed":    {sys, []string{"bleed", "--method", "pedal", "--stroke-mm", "15"}, "order"},
		"diagnose": {`{"format":"geminate.case/1","pattern":"pickup-front-rear-vacuum","findings":[{"id":"pedal.sinks","value":"slow"}]}`, []string{"diagnose"}, "faults"},
	} {
		out, errs, code := run(c.stdin, c.args...)
		require.Zero(t, code, "%s: %s", name, errs)
		var m map[string]any
		require.NoError(t, json.Unmarshal([]byte(out), &m), name)
		assert.Contains(t, m, c.key, name)
	}
	for name, c := range map[string]struct {
		stdin string
		args  []string
		want  string
	}{
		"system":  {strings.Replace(sys, `"mass_kg":2750`, `"mass_kg":-1`, 1), []string{"twin", "apply"}, "$.vehicle.mass_kg: -1 is outside"},
		"case":    {`{"format":"geminate.case/1","pattern":"x","findings":[]}`, []string{"diagnose"}, "$.pattern: x is not one of"},
		"seconds": {sys, []string{"twin", "hold", "--seconds", "0"}, "above zero"},
		"nan":     {sys, []string{"twin", "apply", "--pedal-force", "NaN"}, "not a figure"},
		"file":    {"", []string{"twin", "apply", "/no/such/file"}, "no such file"},
	} {
		out, errs, code := run(c.stdin, c.args...)
		assert.Equal(t, 2, code, name)
		assert.Contains(t, errs, c.want, name)
		assert.Empty(t, out, name)
	}
}
