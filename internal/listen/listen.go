// Package listen guards a listener: an accept that fails rests and goes on (the pattern of net/http's Serve),
// connections are bounded in all and by address, and one that says nothing is let go.
package listen

import (
	"container/list"
	"errors"
	"net"
	"sync"
	"sync/atomic"
	"syscall"
	"time"
)

// Bounds of a listener.
type Bounds struct {
	// Most connections at a time, and Each from one address. For one more the oldest that has said nothing whole makes
	// room (Settle says of one that it has); where all have spoken the new one is closed.
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

// Handles is how many a process may have open, by its own soft limit, raised as far as it is allowed; 0 where nobody
// can tell.
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

// Guard puts bounds before a listener; told hears of accepts that fail and of connections that are let go, now and
// then.
func Guard(l net.Listener, b Bounds, told func(what string, n int64, err error)) net.Listener {
	return &guarded{Listener: l, b: b, told: told, new: list.New(), by: map[string]*address{}}
}

// guarded knows its connections: those that have not said anything whole yet (new), the oldest first, in all and by
// address. Where it is full the oldest of these makes room: whoever speaks gets in, however many only knock.
type guarded struct {
	net.Listener
	b    Bounds
	told func(string, int64, error)
	mu   sync.Mutex
	all  int
	new  *list.List // of *conn
	by   map[string]*address
	gone atomic.Int64
	last atomic.Int64
}

type address struct {
	all int
	new *list.List // of *conn
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
			g.drop(g.oldest("")) // a handle for the next
			time.Sleep(rest)
			continue
		}
		rest = 0
		out, victim := g.enter(c)
		if victim != nil {
			g.drop(victim)
		}
		if out == nil {
			g.gone.Add(1)
			g.say("turned away", nil)
			_ = c.Close()
			continue
		}
		if g.b.FirstBy > 0 {
			out.late = time.AfterFunc(time.Hour, func() { _ = out.Close() })
			out.late.Reset(g.b.FirstBy) // it reads late itself: that is written before it can run
		}
		return out, nil
	}
}

// oldest is the oldest that has said nothing whole yet, of an address or of all; nil where there is none.
func (g *guarded) oldest(ip string) *conn {
	g.mu.Lock()
	defer g.mu.Unlock()
	return g.oldestOf(ip)
}

func (g *guarded) oldestOf(ip string) *conn {
	from := g.new
	if a := g.by[ip]; ip != "" && a != nil {
		from = a.new
	}
	if e := from.Front(); e != nil {
		return e.Value.(*conn)
	}
	return nil
}

func (g *guarded) drop(c *conn) {
	if c == nil {
		return
	}
	g.gone.Add(1)
	g.say("let go", nil)
	_ = c.Close()
}

// enter lets a connection in, for which another may have to go; nil where nothing can make room.
func (g *guarded) enter(c net.Conn) (out, victim *conn) {
	g.mu.Lock()
	defer g.mu.Unlock()
	ip := ipOf(c)
	a := g.by[ip]
	if a == nil {
		a = &address{new: list.New()}
		g.by[ip] = a
	}
	own := g.b.Each > 0 && a.all >= g.b.Each && (g.b.Trusted == nil || !g.b.Trusted(ip))
	switch {
	case own:
		victim = g.oldestOf(ip)
	case g.b.Most > 0 && g.all >= g.b.Most:
		victim = g.oldestOf("")
	}
	if victim == nil && (own || g.b.Most > 0 && g.all >= g.b.Most) {
		if a.all == 0 {
			delete(g.by, ip)
		}
		return nil, nil
	}
	out = &conn{Conn: c, g: g, ip: ip}
	g.all++
	a.all++
	out.inAll, out.inOwn = g.new.PushBack(out), a.new.PushBack(out)
	return out, victim
}

// spoke takes a connection out of those that have said nothing whole yet.
func (g *guarded) spoke(c *conn) {
	g.mu.Lock()
	defer g.mu.Unlock()
	g.spokeNow(c)
}

func (g *guarded) spokeNow(c *conn) {
	if c.inAll == nil {
		return
	}
	g.new.Remove(c.inAll)
	if a := g.by[c.ip]; a != nil {
		a.new.Remove(c.inOwn)
	}
	c.inAll, c.inOwn = nil, nil
}

func (g *guarded) leave(c *conn) {
	g.mu.Lock()
	defer g.mu.Unlock()
	g.spokeNow(c)
	g.all--
	if a := g.by[c.ip]; a != nil {
		if a.all--; a.all <= 0 {
			delete(g.by, c.ip)
		}
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
	g.told(what, g.gone.Load(), err)
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
	g            *guarded
	ip           string
	once         sync.Once
	settled      sync.Once
	inAll, inOwn *list.Element
	late         *time.Timer
}

// Close implements net.Conn.
func (c *conn) Close() error {
	c.once.Do(func() {
		c.g.leave(c)
		if c.late != nil {
			c.late.Stop()
		}
	})
	return c.Conn.Close()
}

// Settle says that a connection has spoken, or been let in: it may stay.
func (c *conn) Settle() {
	c.settled.Do(func() {
		c.g.spoke(c)
		if c.late != nil {
			c.late.Stop()
		}
	})
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
