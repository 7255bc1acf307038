// Package listen guards a listener: an accept that fails rests and goes on (the pattern of net/http's Serve), connections are bounded in
// all and by address, and one that says nothing is let go.
package listen

import (
	"errors"
	"net"
	"sync"
	"sync/atomic"
	"syscall"
	"time"
)

// Bounds of a listener.
type Bounds struct {
	// Most connections at a time, and Each from one address; more are closed at once.
	Most, Each int
	// FirstBy is within what a new connection has to be let in (Settle), 0 for no bound.
	FirstBy time.Duration
	// Trusted addresses speak for many: they have no bound of their own.
	Trusted func(ip string) bool
}

// Rests of an accept that fails for want of handles or memory: doubled from the first to the most, as net/http does.
const (
	firstRest = 5 * time.Millisecond
	mostRest  = time.Second
)

// Handles is how many a process may have open, by its own soft limit, raised as far as it is allowed; 0 where nobody can tell.
func Handles() int {
	var r syscall.Rlimit
	if syscall.Getrlimit(syscall.RLIMIT_NOFILE, &r) != nil {
		return 0
	}
	if r.Cur < r.Max {
		more := r
		more.Cur = r.Max
		if syscall.Setrlimit(syscall.RLIMIT_NOFILE, &more) == nil {
			r = more
		}
	}
	return int(min(r.Cur, 1<<20))
}

// Guard puts bounds before a listener; told hears of accepts that fail and of connections that are turned away, now and then.
func Guard(l net.Listener, b Bounds, told func(what string, n int64, err error)) net.Listener {
	return &guarded{Listener: l, b: b, told: told, by: map[string]int{}}
}

type guarded struct {
	net.Listener
	b      Bounds
	told   func(string, int64, error)
	mu     sync.Mutex
	all    int
	by     map[string]int
	turned atomic.Int64
	last   atomic.Int64
}

// Accept implements net.Listener. It ends only with its listener.
func (g *guarded) Accept() (net.Conn, error) {
	rest := time.Duration(0)
	for {
		c, err := g.Listener.Accept()
		if err != nil {
			if !passing(err) {
				return nil, err
			}
			rest = min(max(firstRest, 2*rest), mostRest)
			g.say("accept", err)
			time.Sleep(rest)
			continue
		}
		rest = 0
		ip := ipOf(c)
		if !g.enter(ip) {
			g.turned.Add(1)
			g.say("turned away", nil)
			_ = c.Close()
			continue
		}
		out := &conn{Conn: c, leave: func() { g.leave(ip) }}
		if g.b.FirstBy > 0 {
			out.late = time.AfterFunc(g.b.FirstBy, func() { _ = out.Close() })
		}
		return out, nil
	}
}

// passing says whether an accept failed for what passes: no handles, no memory, a client that left in the queue.
func passing(err error) bool {
	for _, e := range []syscall.Errno{syscall.EMFILE, syscall.ENFILE, syscall.ECONNABORTED, syscall.ECONNRESET, syscall.ENOBUFS, syscall.ENOMEM, syscall.EINTR, syscall.EAGAIN} {
		if errors.Is(err, e) {
			return true
		}
	}
	var n net.Error
	return errors.As(err, &n) && n.Timeout()
}

// say tells at most once in ten seconds.
func (g *guarded) say(what string, err error) {
	now := time.Now().Unix()
	if last := g.last.Load(); now-last < 10 || !g.last.CompareAndSwap(last, now) || g.told == nil {
		return
	}
	g.told(what, g.turned.Load(), err)
}

func (g *guarded) enter(ip string) bool {
	g.mu.Lock()
	defer g.mu.Unlock()
	if g.b.Most > 0 && g.all >= g.b.Most {
		return false
	}
	if g.b.Each > 0 && g.by[ip] >= g.b.Each && (g.b.Trusted == nil || !g.b.Trusted(ip)) {
		return false
	}
	g.all++
	g.by[ip]++
	return true
}

func (g *guarded) leave(ip string) {
	g.mu.Lock()
	defer g.mu.Unlock()
	g.all--
	if g.by[ip]--; g.by[ip] <= 0 {
		delete(g.by, ip)
	}
}

func ipOf(c net.Conn) string {
	ip, _, err := net.SplitHostPort(c.RemoteAddr().String())
	if err != nil {
		return c.RemoteAddr().String()
	}
	return ip
}

// conn gives its place back once.
type conn struct {
	net.Conn
	once  sync.Once
	leave func()
	late  *time.Timer
}

// Close implements net.Conn.
func (c *conn) Close() error {
	c.once.Do(func() {
		c.leave()
		c.Settle()
	})
	return c.Conn.Close()
}

// Settle says that a connection has been let in: it may stay.
func (c *conn) Settle() {
	if c.late != nil {
		c.late.Stop()
	}
}

// SyscallConn gives the socket beneath, for who asks whether its other end is there.
func (c *conn) SyscallConn() (syscall.RawConn, error) {
	if s, ok := c.Conn.(syscall.Conn); ok {
		return s.SyscallConn()
	}
	return nil, errors.ErrUnsupported
}

// Settle lets a connection stay that came by a guarded listener, whatever was put around it (TLS).
func Settle(c net.Conn) {
	for {
		switch x := c.(type) {
		case interface{ Settle() }:
			x.Settle()
			return
		case interface{ NetConn() net.Conn }:
			c = x.NetConn()
		default:
			return
		}
	}
}
