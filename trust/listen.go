package trust

import (
	"bufio"
	"crypto/tls"
	"errors"
	"net"
	"net/http"
	"sync"
	"syscall"
	"time"
)

// sniffWithin is how long a caller may take to say its first byte.
const sniffWithin = 10 * time.Second

// tlsFirst is the first byte of every TLS handshake; no HTTP method begins with it.
const tlsFirst = 0x16

// Listen serves TLS on a listener, and to whoever speaks plain HTTP there one handler: the page that says how to trust
// this shop. The listener it gives accepts the TLS connections.
func Listen(l net.Listener, config *tls.Config, plain http.Handler) net.Listener {
	s := &split{
		Listener: l,
		secure:   make(chan net.Conn),
		plain:    &queue{addr: l.Addr(), conns: make(chan net.Conn), done: make(chan struct{})},
		done:     make(chan struct{}),
	}
	page := &http.Server{Handler: plain, ReadHeaderTimeout: sniffWithin, WriteTimeout: sniffWithin, MaxHeaderBytes: 16 << 10}
	go func() { _ = page.Serve(s.plain) }()
	go s.accept()
	return tls.NewListener(s, config)
}

type split struct {
	net.Listener
	secure chan net.Conn
	plain  *queue
	done   chan struct{}
	once   sync.Once
	err    error
}

func (s *split) accept() {
	for {
		c, err := s.Listener.Accept()
		if err != nil {
			var ne net.Error
			if errors.As(err, &ne) && ne.Timeout() {
				continue
			}
			s.err = err
			_ = s.Close()
			return
		}
		go s.sort(c)
	}
}

// sort looks at a connection's first byte and hands it on.
func (s *split) sort(c net.Conn) {
	_ = c.SetReadDeadline(time.Now().Add(sniffWithin))
	r := bufio.NewReaderSize(c, 1024)
	first, err := r.Peek(1)
	_ = c.SetReadDeadline(time.Time{})
	if err != nil {
		_ = c.Close()
		return
	}
	to := s.plain.conns
	if first[0] == tlsFirst {
		to = s.secure
	}
	select {
	case to <- &peeked{c, r}:
	case <-s.done:
		_ = c.Close()
	}
}

func (s *split) Accept() (net.Conn, error) {
	select {
	case c := <-s.secure:
		return c, nil
	case <-s.done:
		return nil, errors.Join(net.ErrClosed, s.err)
	}
}

func (s *split) Close() (err error) {
	s.once.Do(func() {
		close(s.done)
		_ = s.plain.Close()
		err = s.Listener.Close()
	})
	return err
}

// peeked is a connection whose first bytes were looked at.
type peeked struct {
	net.Conn
	r *bufio.Reader
}

// NetConn is the connection beneath, for who keeps count of them.
func (p *peeked) NetConn() net.Conn { return p.Conn }

func (p *peeked) Read(b []byte) (int, error) { return p.r.Read(b) }

// SyscallConn lets a server see that the caller has left.
func (p *peeked) SyscallConn() (syscall.RawConn, error) {
	if c, ok := p.Conn.(syscall.Conn); ok {
		return c.SyscallConn()
	}
	return nil, errors.ErrUnsupported
}

// queue is a listener that is handed its connections.
type queue struct {
	addr  net.Addr
	conns chan net.Conn
	done  chan struct{}
	once  sync.Once
}

func (q *queue) Accept() (net.Conn, error) {
	select {
	case c := <-q.conns:
		return c, nil
	case <-q.done:
		return nil, net.ErrClosed
	}
}

func (q *queue) Close() error {
	q.once.Do(func() { close(q.done) })
	return nil
}

func (q *queue) Addr() net.Addr { return q.addr }
