package store

import (
	"io"
	"net"
	"strings"
	"sync"
	"testing"
	"time"

	driver "github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/internal/testdb"
)

// freezer stands before a database and passes on what is said, until it is frozen: then it takes connections, and
// whatever is said on them, and answers nothing, as the machine of a stopped process does.
type freezer struct {
	net.Listener
	mu     sync.Mutex
	frozen bool
	thawed *sync.Cond
}

func freezerBefore(t *testing.T, to string) *freezer {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	f := &freezer{Listener: l}
	f.thawed = sync.NewCond(&f.mu)
	t.Cleanup(func() { f.set(false); _ = l.Close() })
	go func() {
		for {
			in, err := l.Accept()
			if err != nil {
				return
			}
			out, err := net.Dial("tcp", to)
			if err != nil {
				_ = in.Close()
				continue
			}
			go f.pass(out, in)
			go f.pass(in, out)
		}
	}()
	return f
}

func (f *freezer) pass(to, from net.Conn) {
	buf := make([]byte, 32<<10)
	for {
		n, err := from.Read(buf)
		f.mu.Lock()
		for f.frozen {
			f.thawed.Wait()
		}
		f.mu.Unlock()
		if n > 0 {
			if _, err := to.Write(buf[:n]); err != nil {
				break
			}
		}
		if err != nil {
			break
		}
	}
	if c, ok := to.(io.Closer); ok {
		_ = c.Close()
	}
}

func (f *freezer) set(frozen bool) {
	f.mu.Lock()
	defer f.mu.Unlock()
	f.frozen = frozen
	f.thawed.Broadcast()
}

// A node that is frozen and not dead is left for the next one: what is under way waits once for its silence and is then
// done, what comes after asks the other one at once, and a server that starts meanwhile starts.
func TestAFrozenNodeIsLeft(t *testing.T) {
	dsn := testdb.DSN(t)
	cfg, err := driver.ParseDSN(dsn)
	require.NoError(t, err)
	f := freezerBefore(t, cfg.Addr)
	both := strings.Replace(dsn, cfg.Addr, f.Addr().String()+","+cfg.Addr, 1)
	s, err := Open(ctx, both)
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, s.Close()) })
	add(t, s, "a")
	f.set(true)
	var all sync.WaitGroup
	for range 6 { // many at once, each on a connection of its own: they leave it once
		all.Go(func() { _, _ = s.View(ctx, "a") })
	}
	_, err = tell(s, "a", stroke("e1", "RR"))
	require.NoError(t, err, "it waited for the silence, and was then done by the other")
	all.Wait()
	began := time.Now()
	for range 20 {
		_, err := s.View(ctx, "a")
		require.NoError(t, err)
	}
	assert.Less(t, time.Since(began), nodeAnswers, "none of them asks the frozen one any more")
	j, err := s.Job(ctx, "a")
	require.NoError(t, err)
	assert.Equal(t, 1, j.State.BleedStrokes["RR"], "once")
	late, err := Open(ctx, both)
	require.NoError(t, err, "a server that starts meanwhile")
	require.NoError(t, late.Close())
}
