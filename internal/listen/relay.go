package listen

import (
	"net"
	"sync"
)

// Relay hands one listener's connections to one server after another: the one that says "starting" first, the one that
// answers then. The port is never without somebody.
type Relay struct {
	l     net.Listener
	conns chan net.Conn
	dead  chan struct{} // the listener has ended, with err
	err   error
	mu    sync.Mutex
	now   *turn
}

// NewRelay begins to accept.
func NewRelay(l net.Listener) *Relay {
	r := &Relay{l: l, conns: make(chan net.Conn), dead: make(chan struct{})}
	go func() {
		for {
			c, err := l.Accept()
			if err != nil {
				r.err = err
				close(r.dead)
				return
			}
			r.conns <- c
		}
	}()
	return r
}

// Next is the listener of whoever serves from now on; the one before ends.
func (r *Relay) Next() net.Listener {
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.now != nil {
		r.now.end()
	}
	r.now = &turn{r: r, done: make(chan struct{})}
	return r.now
}

// Close ends the listener itself.
func (r *Relay) Close() error { return r.l.Close() }

type turn struct {
	r    *Relay
	done chan struct{}
	once sync.Once
}

func (t *turn) end() { t.once.Do(func() { close(t.done) }) }

// Accept implements net.Listener.
func (t *turn) Accept() (net.Conn, error) {
	select {
	case <-t.done:
		return nil, net.ErrClosed
	default:
	}
	select {
	case c := <-t.r.conns:
		return c, nil
	case <-t.done:
		return nil, net.ErrClosed
	case <-t.r.dead:
		return nil, t.r.err
	}
}

// Close implements net.Listener: whoever closes the last one closes the port.
func (t *turn) Close() error {
	t.end()
	t.r.mu.Lock()
	last := t.r.now == t
	t.r.mu.Unlock()
	if last {
		return t.r.l.Close()
	}
	return nil
}

// Addr implements net.Listener.
func (t *turn) Addr() net.Addr { return t.r.l.Addr() }
