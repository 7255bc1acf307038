package e2e

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The forty lines of docs/instruments.md, run as they stand there; and in the browser the figure is seen beside the work, fetched to the
// vehicle, a hold by instrument is drawn and stored with its rate.
func TestAnInstrumentSpeaksForItself(t *testing.T) {
	t.Parallel()
	python, err := exec.LookPath("python3")
	if err != nil {
		t.Skip("no python3 on this machine: the example of docs/instruments.md is not tried")
	}
	doc, err := os.ReadFile("../docs/instruments.md")
	require.NoError(t, err)
	_, code, found := strings.Cut(string(doc), "```python\n")
	require.True(t, found)
	code, _, _ = strings.Cut(code, "```")
	script := filepath.Join(t.TempDir(), "instrument.py")
	require.NoError(t, os.WriteFile(script, []byte(code), 0o600))

	a := start(t, t.TempDir(), freePort(t))
	lead := newHand(t, a.url)
	require.Equal(t, 200, lead.send("POST", "/api/session", map[string]any{"name": "piet", "demo": true}, nil))
	var made struct{ ID, Secret string }
	require.Equal(t, 200, lead.send("POST", "/api/instruments", map[string]any{"kind": "travel", "name": "Rule 7"}, &made))
	cmd := exec.Command(python, script, a.url, made.Secret, "90")
	var said strings.Builder
	cmd.Stderr = &said
	require.NoError(t, cmd.Start())
	t.Cleanup(func() { _ = cmd.Process.Kill(); _ = cmd.Wait() })

	p := open(t, a.url, 1280, 800)
	openPickup(p)
	p.goTo("diagnose")
	p.click("instruments-more")
	p.click("attach-travel")
	p.until("its figure as it comes", `/7\d[.,]\d/.test(document.querySelector('[data-testid="figure-travel"]')?.innerText ?? '')`)
	p.click("pedal.sinks-slow")
	p.click("level.falls-no")
	p.click("test-hold")
	p.see("trace-take")
	p.click("trace-start")
	time.Sleep(26 * time.Second)
	p.shot("instrument-hold")
	p.click("trace-end")
	p.see("trace-sink")
	p.stored()
	p.shot("instrument-held")
	at, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](`location.pathname.split("/")[2]`))
	require.NoError(t, err)
	var v struct {
		State struct {
			Traces []struct {
				Slope struct {
					PerS float64 `json:"per_s"`
				}
			}
		}
	}
	require.Equal(t, 200, lead.send("GET", "/api/jobs/"+at, nil, &v))
	require.Len(t, v.State.Traces, 1)
	assert.InEpsilon(t, 0.2, v.State.Traces[0].Slope.PerS, 0.15, "the script's own 0.2 mm a second")
	assert.Empty(t, said.String())
}
