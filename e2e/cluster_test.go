package e2e

import (
	"fmt"
	"net"
	"net/http"
	"net/http/cookiejar"
	"os"
	"os/exec"
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

// haveCluster says whether this machine has what a replicated database takes.
func haveCluster() bool {
	for _, p := range []string{"mariadbd", "rsync", "socat", "lsof", "ip", "setpriv"} {
		if _, err := exec.LookPath(p); err != nil {
			if _, err := os.Stat("/usr/sbin/" + p); err != nil {
				return false
			}
		}
	}
	_, err := os.Stat("/usr/lib/galera/libgalera_smm.so")
	return err == nil
}

// Three nodes and three servers, six writers on one job; a node is killed in the middle and comes back, then a server.
// What was acknowledged is there once, on every server; nothing is answered as an error of the program, and what is
// written through one server is heard from another. Only where Debian's galera-4 is; GEMINATE_CLUSTER=5m makes it
// longer.
func TestAClusterLosesNothing(t *testing.T) {
	if !haveCluster() {
		t.Skip("no galera-4 on this machine: scripts/cluster says what it takes")
	}
	lasts := 12 * time.Second
	if d, err := time.ParseDuration(os.Getenv("GEMINATE_CLUSTER")); err == nil {
		lasts = d
	}
	dir, run, hands, job := cluster(t, 5*time.Second)
	var mu sync.Mutex
	acked, errors5xx := map[string]bool{}, map[int]int{}
	over := make(chan struct{})
	var workers sync.WaitGroup
	for w := range 6 {
		workers.Go(func() {
			for n := w; ; n++ {
				id := uuid.NewString()
				body := map[string]any{
					"events": []any{
						map[string]any{
							"id":   id,
							"kind": "note",
							"at":   time.Now().UTC(),
							"data": map[string]any{"text": fmt.Sprint("note ", w, " ", n)},
						},
					},
				}
				for try := n; ; try++ {
					select {
					case <-over:
						return
					default:
					}
					status := hands[try%3].send("POST", "/api/jobs/"+job+"/events", body, nil)
					if status == 200 {
						break
					}
					mu.Lock()
					errors5xx[status]++
					mu.Unlock()
					time.Sleep(30 * time.Millisecond)
				}
				mu.Lock()
				acked[id] = true
				mu.Unlock()
			}
		})
	}
	time.Sleep(lasts / 4)
	run("kill", dir, "2")
	time.Sleep(lasts / 4)
	run("node", dir, "2") // brought up to date by the others
	raw, err := os.ReadFile(dir + "/server3/pid")
	require.NoError(t, err)
	pid, err := strconv.Atoi(string(raw[:len(raw)-1]))
	require.NoError(t, err)
	require.NoError(t, syscall.Kill(pid, syscall.SIGKILL))
	time.Sleep(lasts / 4)
	run("server", dir, "3")
	waitReady(t, hands[2].base)
	time.Sleep(lasts / 4)
	close(over)
	workers.Wait()
	for n := range hands {
		seen := hands[n].logged(t, job)
		for id := range acked {
			assert.Equal(t, 1, seen[id], "acknowledged, and there once, by server %d", n+1)
		}
	}
	t.Logf("%d acknowledged, each there once on every server; other answers %v (0: none)", len(acked), errors5xx)
	require.NotEmpty(t, acked)
	for n := range hands {
		if log, err := os.ReadFile(fmt.Sprintf("%s/server%d/log", dir, n+1)); err == nil {
			for _, line := range strings.Split(string(log), "\n") {
				if strings.Contains(line, "request failed") && strings.Contains(line, "problem.server") {
					t.Log(line) // what a 500 was of
				}
			}
		}
	}
	for status := range errors5xx {
		assert.Contains(t, []int{0, 503}, status, "a server that is gone, or that says it cannot just now")
	}
}

// cluster starts three nodes and three servers and opens a job: their directory, their script, a hand at each server,
// the job's id.
func cluster(t *testing.T, waits time.Duration) (dir string, run func(args ...string), hands []*shopHand, jobID string) {
	t.Helper()
	dir, err := os.MkdirTemp("/tmp", "gc") // a socket's path is short
	require.NoError(t, err)
	base := clusterPorts(t)
	run = func(args ...string) {
		t.Helper()
		cmd := exec.Command("../scripts/cluster", args...)
		cmd.Env = append(os.Environ(), "GEMINATE_CLUSTER_PORT="+strconv.Itoa(base))
		out, err := cmd.CombinedOutput()
		require.NoError(t, err, string(out))
	}
	t.Cleanup(func() {
		run("down", dir)
		time.Sleep(2 * time.Second)
		assert.NoError(t, os.RemoveAll(dir))
	})
	run("up", dir)
	hands = make([]*shopHand, 3)
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	for n := range hands {
		hands[n] = &shopHand{fmt.Sprintf("http://127.0.0.1:%d", base+11+n), &http.Client{Jar: jar, Timeout: waits}}
		waitReady(t, hands[n].base)
	}
	require.Equal(t, 200,
		hands[0].send("POST", "/api/first", map[string]any{"name": "lead", "display": "Lead", "password": "three nodes and a horse"}, nil))
	var job struct{ ID string }
	require.Equal(
		t,
		200,
		hands[1].send("POST", "/api/jobs",
			map[string]any{"vehicle": "Van", "plate": "", "customer": "", "complaint": "soft", "pattern": "car-front-rear-vacuum"},
			&job),
		"signed in through one server, known to another",
	)
	return dir, run, hands, job.ID
}

// A node that is frozen, not dead: nothing says so. Each server has its own tablet; the longest any of them waited is
// told, nothing is answered as an error of the program, nothing acknowledged is lost, and the node comes back by
// itself.
func TestAFrozenNodeStallsNobodyForLong(t *testing.T) {
	if !haveCluster() {
		t.Skip("no galera-4 on this machine: scripts/cluster says what it takes")
	}
	dir, run, hands, job := cluster(t, 40*time.Second)
	var mu sync.Mutex
	acked, others := map[string]bool{}, map[int]int{}
	longest := make([]time.Duration, len(hands))
	over := make(chan struct{})
	var workers sync.WaitGroup
	for n := range hands {
		workers.Go(func() {
			for i := 0; ; i++ {
				id, began := uuid.NewString(), time.Now()
				body := map[string]any{
					"events": []any{
						map[string]any{
							"id":   id,
							"kind": "note",
							"at":   time.Now().UTC(),
							"data": map[string]any{"text": fmt.Sprint("note ", n, " ", i)},
						},
					},
				}
				for {
					status := hands[n].send("POST", "/api/jobs/"+job+"/events", body, nil)
					if status == 200 {
						break
					}
					mu.Lock()
					others[status]++
					mu.Unlock()
					time.Sleep(100 * time.Millisecond)
				}
				mu.Lock()
				acked[id], longest[n] = true, max(longest[n], time.Since(began))
				mu.Unlock()
				select {
				case <-over:
					return
				case <-time.After(50 * time.Millisecond):
				}
			}
		})
	}
	time.Sleep(3 * time.Second)
	mu.Lock()
	quiet := fmt.Sprint(longest)
	mu.Unlock()
	run("freeze", dir, "2")
	time.Sleep(20 * time.Second)
	run("thaw", dir, "2")
	time.Sleep(10 * time.Second)
	close(over)
	workers.Wait()
	t.Logf("%d acknowledged; the longest wait at each server %v, before it froze %s; other answers %v", len(acked), longest, quiet, others)
	for n := range hands {
		seen := hands[n].logged(t, job)
		for id := range acked {
			assert.Equal(t, 1, seen[id], "acknowledged, and there once, by server %d", n+1)
		}
	}
	for status := range others {
		assert.Equal(t, 503, status, "a server that says it cannot just now, and nothing else")
	}
	for n, most := range longest { // a hang is looked for; how long it is stands in the log
		assert.Less(t, most, 30*time.Second, "server %d", n+1)
	}
}

// clusterPorts finds a stretch of ports that is free.
func clusterPorts(t *testing.T) int {
	t.Helper()
	for base := 24700; base < 30000; base += 100 {
		free := true
		for _, off := range []int{1, 2, 3, 10, 11, 12, 13, 30, 31, 32, 40, 50} {
			l, err := net.Listen("tcp", fmt.Sprintf("127.0.0.1:%d", base+off))
			if err != nil {
				free = false
				break
			}
			_ = l.Close()
		}
		if free {
			return base
		}
	}
	t.Fatal("no ports free")
	return 0
}
