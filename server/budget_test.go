package server

import (
	"context"
	"io"
	"net"
	"net/http"
	"testing"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// dawdle serves one route whose computation goes on until it is told to stop, and tells how it was.
func dawdle(t *testing.T, life context.Context) (url string, began chan time.Time, ended chan error) {
	t.Helper()
	began, ended = make(chan time.Time, 1), make(chan error, 1)
	app := fiber.New()
	s := &server{life: life}
	app.Get("/", func(c fiber.Ctx) error {
		_, err := compute(s, c, func(ctx context.Context) (int, error) {
			deadline, ok := ctx.Deadline()
			assert.True(t, ok, "a computation without a budget")
			began <- deadline
			select {
			case <-ctx.Done():
			case <-time.After(20 * time.Second):
			}
			ended <- ctx.Err()
			return 0, ctx.Err()
		})
		return err
	})
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	go func() { _ = app.Listener(l, fiber.ListenConfig{DisableStartupMessage: true}) }()
	t.Cleanup(func() { assert.NoError(t, app.ShutdownWithTimeout(5*time.Second)) })
	return "http://" + l.Addr().String() + "/", began, ended
}

func ask(ctx context.Context, url string) (*http.Response, error) {
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, url, nil)
	if err != nil {
		return nil, err
	}
	return http.DefaultClient.Do(req)
}

func told(t *testing.T, ended chan error, within time.Duration) error {
	t.Helper()
	select {
	case err := <-ended:
		return err
	case <-time.After(within):
		t.Fatal("the computation went on")
		return nil
	}
}

func TestAComputationStopsWhenItsClientLeaves(t *testing.T) {
	url, began, ended := dawdle(t, context.Background())
	ctx, leave := context.WithCancel(context.Background())
	go func() {
		if r, err := ask(ctx, url); err == nil {
			_ = r.Body.Close()
		}
	}()
	deadline := <-began
	assert.WithinDuration(t, time.Now().Add(computeMost), deadline, time.Second/2)
	leave()
	assert.ErrorIs(t, told(t, ended, computeMost/2), context.Canceled, "stopped by its leaving, not by the budget")
}

func TestAComputationStopsAtShutdown(t *testing.T) {
	life, end := context.WithCancel(context.Background())
	url, began, ended := dawdle(t, life)
	answer := make(chan int, 1)
	go func() {
		r, err := ask(context.Background(), url)
		if err != nil {
			answer <- 0
			return
		}
		_, _ = io.Copy(io.Discard, r.Body)
		_ = r.Body.Close()
		answer <- r.StatusCode
	}()
	<-began
	end()
	assert.ErrorIs(t, told(t, ended, computeMost/2), context.Canceled)
	assert.Equal(t, http.StatusServiceUnavailable, <-answer)
}

func TestAComputationHasABudget(t *testing.T) {
	url, _, ended := dawdle(t, context.Background())
	r, err := ask(context.Background(), url)
	require.NoError(t, err)
	_ = r.Body.Close()
	assert.Equal(t, http.StatusServiceUnavailable, r.StatusCode)
	assert.ErrorIs(t, told(t, ended, time.Second), context.DeadlineExceeded)
}

// A budget that is full says so at once; one account's share is its own; strangers and guests leave half for the staff.
func TestABudgetIsShared(t *testing.T) {
	var p spending
	var leaves []func()
	for range Bears[Prints].Each {
		leave, err := p.enter(Prints, "mara", false)
		require.NoError(t, err)
		leaves = append(leaves, leave)
	}
	_, err := p.enter(Prints, "mara", false)
	require.ErrorIs(t, err, errTooMany)
	for k := 0; ; k++ {
		if _, err = p.enter(Prints, string(rune('a'+k)), true); err != nil {
			assert.Equal(t, Bears[Prints].AtOnce/2, k)
			break
		}
	}
	require.ErrorIs(t, err, errBusy)
	leave, err := p.enter(Prints, "piet", false)
	require.NoError(t, err, "the staff has its share")
	leave()
	for _, leave := range leaves {
		leave()
	}
	_, err = p.enter(Prints, "mara", false)
	require.NoError(t, err)
}
