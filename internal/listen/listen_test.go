package listen

import (
	"errors"
	"io"
	"net"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// failing accepts what it is told to.
type failing struct {
	net.Listener
	errs []error
}

func (f *failing) Accept() (net.Conn, error) {
	if len(f.errs) > 0 {
		err := f.errs[0]
		f.errs = f.errs[1:]
		return nil, err
	}
	return f.Listener.Accept()
}

func local(t *testing.T) net.Listener {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	t.Cleanup(func() { _ = l.Close() })
	return l
}

func dial(t *testing.T, l net.Listener) net.Conn {
	t.Helper()
	c, err := net.Dial("tcp", l.Addr().String())
	require.NoError(t, err)
	t.Cleanup(func() { _ = c.Close() })
	return c
}

// ended says whether the other side has closed a connection.
func ended(t *testing.T, c net.Conn) bool {
	t.Helper()
	require.NoError(t, c.SetReadDeadline(time.Now().Add(2*time.Second)))
	_, err := c.Read(make([]byte, 1))
	return errors.Is(err, io.EOF) || errors.Is(err, syscall.ECONNRESET)
}

// An accept that fails for want of handles rests and goes on; a listener that is closed ends.
func TestAnAcceptThatFailsIsNotTheEnd(t *testing.T) {
	l := local(t)
	said := 0
	g := Guard(&failing{Listener: l, errs: []error{&net.OpError{Err: syscall.EMFILE}, syscall.ENFILE, syscall.ECONNABORTED}},
		Bounds{}, func(string, int64, error) { said++ })
	dial(t, l)
	c, err := g.Accept()
	require.NoError(t, err)
	require.NoError(t, c.Close())
	assert.Equal(t, 1, said, "told once, not at every one")
	require.NoError(t, l.Close())
	_, err = g.Accept()
	require.ErrorIs(t, err, net.ErrClosed)
}

// Over the bound of an address, or of all, the oldest that has said nothing makes room; where all have spoken the new
// one is closed. A place is given back once.
func TestConnectionsAreBounded(t *testing.T) {
	l := local(t)
	g := Guard(l, Bounds{Most: 3, Each: 2}, nil)
	in := make(chan net.Conn, 10)
	go func() {
		for {
			c, err := g.Accept()
			if err != nil {
				return
			}
			in <- c
		}
	}()
	silent := dial(t, l)
	<-in
	dial(t, l)
	second := <-in
	Settle(second)
	dial(t, l)
	third := <-in
	assert.True(t, ended(t, silent), "it had said nothing")
	Settle(third)
	assert.True(t, ended(t, dial(t, l)), "both have spoken: the third of one address")
	require.NoError(t, second.Close())
	_ = second.Close() // twice gives back one place
	dial(t, l)
	Settle(<-in)
	assert.True(t, ended(t, dial(t, l)))
}

// One that is not let in within its time is closed; one that is stays.
func TestWhoSaysNothingIsLetGo(t *testing.T) {
	l := local(t)
	g := Guard(l, Bounds{FirstBy: 100 * time.Millisecond}, nil)
	silent := dial(t, l)
	_, err := g.Accept()
	require.NoError(t, err)
	assert.True(t, ended(t, silent))
	spoken := dial(t, l)
	c, err := g.Accept()
	require.NoError(t, err)
	Settle(c)
	time.Sleep(200 * time.Millisecond)
	_, err = c.Write([]byte("x"))
	require.NoError(t, err)
	_, err = spoken.Read(make([]byte, 1))
	assert.NoError(t, err)
}

func TestHandles(t *testing.T) { assert.Positive(t, Handles()) }

// One port, one server after the other: none of those who knock in between is turned away.
func TestARelayHandsOn(t *testing.T) {
	l := local(t)
	r := NewRelay(l)
	serve := func(on net.Listener, word string) {
		for {
			c, err := on.Accept()
			if err != nil {
				return
			}
			_, _ = c.Write([]byte(word))
			_ = c.Close()
		}
	}
	says := func() string {
		b, err := io.ReadAll(dial(t, l))
		require.NoError(t, err)
		return string(b)
	}
	first := r.Next()
	go serve(first, "starting")
	assert.Equal(t, "starting", says())
	second := r.Next()
	_, err := first.Accept()
	require.ErrorIs(t, err, net.ErrClosed)
	require.NoError(t, first.Close(), "and the port stays open")
	go serve(second, "ready")
	assert.Equal(t, "ready", says())
	require.NoError(t, second.Close())
	_, err = net.DialTimeout("tcp", l.Addr().String(), time.Second)
	assert.Error(t, err)
}
