package e2e

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// shopHand is a client without a screen that sends strokes whatever happens to the shop.
type shopHand struct {
	base string
	http *http.Client
}

func newHand(t *testing.T, base string) *shopHand {
	t.Helper()
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	h := &shopHand{base, &http.Client{Jar: jar, Timeout: 3 * time.Second}}
	require.Eventually(t, func() bool {
		return h.send("POST", "/api/session", map[string]any{"name": "mara", "demo": true}, nil) == 200
	}, 60*time.Second, 100*time.Millisecond)
	return h
}

// send gives the answer's status, 0 where there was none.
func (h *shopHand) send(method, path string, body, into any) int {
	status, raw := h.ask(method, path, body)
	if into != nil && status == 200 && json.Unmarshal(raw, into) != nil {
		return 0
	}
	return status
}

// ask gives the answer itself as well.
func (h *shopHand) ask(method, path string, body any) (status int, answer []byte) {
	raw, _ := json.Marshal(body)
	req, err := http.NewRequest(method, h.base+path, bytes.NewReader(raw))
	if err != nil {
		return 0, nil
	}
	req.Header.Set("Content-Type", "application/json")
	at, _ := url.Parse(h.base)
	for _, c := range h.http.Jar.Cookies(at) {
		if c.Name == "geminate_csrf" {
			req.Header.Set("X-Csrf-Token", c.Value)
		}
	}
	res, err := h.http.Do(req)
	if err != nil {
		return 0, nil
	}
	defer func() { _ = res.Body.Close() }()
	if answer, err = io.ReadAll(res.Body); err != nil {
		return 0, nil
	}
	return res.StatusCode, answer
}

// The shop is killed at random moments under load, its server, its database or both, and again while it starts; nothing
// acknowledged is lost or doubled, and once it is left alone it is there within seconds by itself. GEMINATE_KILLS=1000
// go test ./e2e -run TestKilledAtAnyMoment -timeout 12h runs it for hours.
func TestKilledAtAnyMomentLosesNothing(t *testing.T) {
	t.Parallel()
	cycles := 10
	if n, err := strconv.Atoi(os.Getenv("GEMINATE_KILLS")); err == nil && n > 0 {
		cycles = n
	}
	data, port := t.TempDir(), freePort(t)
	a := start(t, data, port)
	hand := newHand(t, a.url)
	var bay struct {
		Jobs []struct{ ID, Vehicle string }
	}
	require.Equal(t, 200, hand.send("GET", "/api/jobs", nil, &bay))
	job := ""
	for _, j := range bay.Jobs {
		if strings.Contains(j.Vehicle, "pickup") {
			job = j.ID
		}
	}
	require.NotEmpty(t, job)

	var mu sync.Mutex
	acked := map[string]bool{}
	over := make(chan struct{})
	var workers sync.WaitGroup
	for range 4 {
		workers.Go(func() {
			for {
				select {
				case <-over:
					return
				default:
				}
				id := uuid.NewString()
				event := map[string]any{
					"events": []any{
						map[string]any{"id": id, "kind": "bleed_stroke", "at": time.Now().UTC(), "data": map[string]any{"wheel": "RR"}},
					},
				}
				// Sent until it is acknowledged, as the outbox of a tablet does.
				for hand.send("POST", "/api/jobs/"+job+"/events", event, nil) != 200 {
					select {
					case <-over:
						return
					case <-time.After(30 * time.Millisecond):
					}
				}
				mu.Lock()
				acked[id] = true
				mu.Unlock()
			}
		})
	}
	r := rand.New(rand.NewPCG(1, uint64(cycles)))
	var longest time.Duration
	for range cycles {
		time.Sleep(time.Duration(100+r.IntN(900)) * time.Millisecond)
		what := r.IntN(4)
		if what != 0 {
			killDatabase(data)
		}
		began := time.Now()
		if what != 1 {
			a.kill()
			if what == 3 {
				startAndKill(t, data, port, time.Duration(r.IntN(1500))*time.Millisecond)
				began = time.Now()
			}
			a = start(t, data, port)
		}
		waitReady(t, a.url)
		longest = max(longest, time.Since(began))
	}
	assert.Less(t, longest, 30*time.Second, "the way back")
	time.Sleep(500 * time.Millisecond)
	close(over)
	workers.Wait()
	seen := hand.logged(t, job)
	require.NotEmpty(t, acked)
	for id := range acked {
		assert.Equal(t, 1, seen[id], "acknowledged, and there once")
	}
	t.Logf("%d cycles, %d acknowledged strokes, each there once; the longest way back %s", cycles, len(acked),
		longest.Round(time.Millisecond))
}

// startAndKill kills a server some time after its start, ready or not.
func startAndKill(t *testing.T, data string, port int, after time.Duration) {
	t.Helper()
	cmd := exec.Command(binary, "demo", "--years", "0")
	cmd.Env = append(os.Environ(), "GEMINATE_DATA="+data, "GEMINATE_PORT="+strconv.Itoa(port), "GEMINATE_DSN=")
	cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true}
	require.NoError(t, cmd.Start())
	time.Sleep(after)
	require.NoError(t, cmd.Process.Signal(syscall.SIGKILL))
	_ = cmd.Wait()
}

// logged reads a job's whole log, which has no gap, and says how often each event is in it.
func (h *shopHand) logged(t *testing.T, job string) map[string]int {
	t.Helper()
	seen := map[string]int{}
	for since := 0; ; {
		var page struct {
			Events []struct {
				ID  string
				Seq int
			}
			More bool
		}
		require.Equal(t, 200, h.send("GET", fmt.Sprintf("/api/jobs/%s/log?since=%d", job, since), nil, &page))
		for _, e := range page.Events {
			require.Equal(t, since+1, e.Seq, "no gap in the log")
			since = e.Seq
			seen[e.ID]++
		}
		if !page.More {
			return seen
		}
	}
}

func killDatabase(data string) {
	raw, err := os.ReadFile(filepath.Join(data, "mariadb.pid"))
	if err != nil {
		return
	}
	if pid, err := strconv.Atoi(strings.TrimSpace(string(raw))); err == nil && pid > 1 {
		_ = syscall.Kill(pid, syscall.SIGKILL)
	}
}

func waitReady(t *testing.T, base string) {
	t.Helper()
	require.Eventually(t, func() bool {
		res, err := http.Get(base + "/api/health")
		if err != nil {
			return false
		}
		_ = res.Body.Close()
		return res.StatusCode == 200
	}, 60*time.Second, 50*time.Millisecond, "the shop comes back by itself")
}
