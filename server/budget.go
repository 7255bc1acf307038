package server

import (
	"context"
	"crypto/tls"
	"errors"
	"net"
	"net/http"
	"runtime"
	"syscall"
	"time"

	"github.com/gofiber/fiber/v3"
)

// computeMost is how long one request may make the core compute. Every loop of the core has a bound of its own
// and every view of any valid job is tested to stay far under this; it is the last line, not the first.
const computeMost = 2 * time.Second

// computing bounds how many computations run side by side, so that a flood of them cannot hold up strokes.
var computing = make(chan struct{}, 2*runtime.NumCPU())

// compute runs fn for a request. fn's context ends with the budget, when the client leaves, and when the server
// stops.
func compute[T any](s *server, c fiber.Ctx, fn func(context.Context) (T, error)) (T, error) {
	var zero T
	ctx, cancel := context.WithTimeout(s.life, computeMost)
	defer cancel()
	stopWatching := watchClient(c.RequestCtx().Conn(), cancel)
	defer stopWatching()
	select {
	case computing <- struct{}{}:
		defer func() { <-computing }()
	case <-ctx.Done():
		return zero, fiber.NewError(http.StatusServiceUnavailable, "problem.busy")
	}
	v, err := fn(ctx)
	if err == nil {
		err = ctx.Err()
	}
	if errors.Is(err, context.DeadlineExceeded) || errors.Is(err, context.Canceled) {
		return zero, fiber.NewError(http.StatusServiceUnavailable, "problem.too_long")
	}
	return v, err
}

// watchClient calls left once the other end of a connection has closed it.
func watchClient(conn net.Conn, left func()) (stop func()) {
	if t, ok := conn.(*tls.Conn); ok {
		conn = t.NetConn()
	}
	sc, ok := conn.(syscall.Conn)
	if !ok {
		return func() {}
	}
	raw, err := sc.SyscallConn()
	if err != nil {
		return func() {}
	}
	done := make(chan struct{})
	go func() {
		tick := time.NewTicker(50 * time.Millisecond)
		defer tick.Stop()
		for {
			select {
			case <-done:
				return
			case <-tick.C:
				if closed(raw) {
					left()
					return
				}
			}
		}
	}()
	return func() { close(done) }
}

// closed peeks without taking anything: nothing to read and no error is an end.
func closed(raw syscall.RawConn) (gone bool) {
	var b [1]byte
	err := raw.Control(func(fd uintptr) {
		n, _, err := syscall.Recvfrom(int(fd), b[:], syscall.MSG_PEEK|syscall.MSG_DONTWAIT)
		gone = n == 0 && err == nil || errors.Is(err, syscall.ECONNRESET)
	})
	return gone || err != nil
}
