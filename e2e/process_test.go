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

// serve with a shared MariaDB and an account of one's own, by name and password.
func TestServeOnASharedDatabase(t *testing.T) {
	t.Parallel()
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
	out, err := account("correct horse lamp\n", "Ana", "--role", "lead")
	require.NoError(t, err, out)
	out, err = account("correct horse lamp\n", "ana")
	require.Error(t, err)
	assert.Contains(t, out, "already")
	out, err = account("short\n", "ben")
	require.Error(t, err)
	assert.Contains(t, out, "10 characters")
	_, err = account("correct horse lamp\n", "ben", "--role", "king")
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
	p.fill("password", "correct horse lamp")
	p.key("\r")
	p.see("new-job")
	p.do(chromedp.Navigate(url(1)))
	p.see("new-job")
	// A shop's shelf starts empty: the unit is measured out of its box and compared all the same.
	newJob(p, "Own vehicle", "car-diagonal-vacuum")
	p.goTo("match")
	p.fill("old-bore", "7/8")
	p.click("own")
	p.fill("own-maker", "Box")
	p.fill("own-bore", "15/16")
	p.has("unit-own", "Box")
	p.click("show-own")
	p.has("unit-shown", "times the fluid")
	p.has("verdict-own", "Measure first")
}

func demoFails(t *testing.T, env ...string) string {
	t.Helper()
	cmd := exec.Command(binary, "demo", "--years", "0")
	cmd.Env = append(os.Environ(), env...)
	out, err := cmd.CombinedOutput()
	require.Error(t, err, string(out))
	return string(out)
}

func TestWhatCannotStartSaysWhy(t *testing.T) {
	t.Parallel()
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
	t.Parallel()
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

// The command line, as the how-it-computes describes it.
func TestCommandLine(t *testing.T) {
	t.Parallel()
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
		"match":    {`{"format":"geminate.case/1","pattern":"special-manual"}`, []string{"match"}, "bores"},
		"schema":   {"", []string{"schema", "--units"}, "properties"},
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
		"match":   {`{"format":"geminate.case/1","pattern":"special-manual","scope":"both"}`, []string{"match"}, "$.scope: both is not one of"},
		"trial":   {"", []string{"trial", "--vehicles", "3"}, "--vehicles takes 20"},
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
