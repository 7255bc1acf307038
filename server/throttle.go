package server

import (
	"context"
	"encoding/json"
	"net/http"
	"slices"
	"sync"
	"time"

	"github.com/gofiber/fiber/v3"

	"geminate/store"
)

// Sign-ins are slowed, never locked: each wrong password makes the next answer later, per account and per
// address. A browser that has signed in to an account before waits in a lane of its own, so that someone else's
// guesses, from wherever, do not keep its owner out.

const (
	freeTries  = 4                      // wrong ones before anything is slowed
	firstDelay = 250 * time.Millisecond // then doubled each time
	mostDelay  = 4 * time.Second
	forgetTry  = 15 * time.Minute
	mostWaits  = 6 // sign-ins that may wait in one lane of one server at a time
	mostAside  = 4 // and beside them, from addresses that have guessed at nothing
)

// aside is the lane of those who come from a clean address to an account that others fill: guessers do not keep its
// owner out.
const aside = "aside"

type lane struct {
	Fails int       `json:"fails"`
	Last  time.Time `json:"last"`
}

func (l lane) delay() time.Duration {
	if l.Fails < freeTries {
		return 0
	}
	return min(mostDelay, firstDelay<<min(10, l.Fails-freeTries))
}

type throttle struct {
	state   *store.WebState
	mu      sync.Mutex
	waiting map[string]int
	sleep   func(context.Context, time.Duration)
}

func newThrottle(state *store.WebState) *throttle {
	return &throttle{
		state:   state,
		waiting: map[string]int{},
		sleep: func(ctx context.Context, d time.Duration) {
			select {
			case <-ctx.Done():
			case <-time.After(d):
			}
		},
	}
}

// enter waits as long as the lanes ask for. Where too many wait already the answer is to come back shortly:
// nothing is decided about the password.
func (t *throttle) enter(ctx context.Context, lanes []string) (leave func(), err error) {
	own := lanes[len(lanes)-1] // of the address, or of the device
	at, err := t.read(ctx, own)
	if err != nil {
		return nil, err
	}
	all := lanes
	t.mu.Lock()
	full := func(l string) bool { return t.waiting[l] >= mostWaits }
	switch {
	case !slices.ContainsFunc(lanes, full):
	case at.Fails == 0 && t.waiting[own] == 0 && t.waiting[aside] < mostAside:
		lanes = []string{own, aside}
	default:
		t.mu.Unlock()
		return nil, fiber.NewError(http.StatusTooManyRequests, "problem.too_many")
	}
	for _, l := range lanes {
		t.waiting[l]++
	}
	t.mu.Unlock()
	leave = func() {
		t.mu.Lock()
		defer t.mu.Unlock()
		for _, l := range lanes {
			if t.waiting[l]--; t.waiting[l] <= 0 {
				delete(t.waiting, l)
			}
		}
	}
	var wait time.Duration
	for _, l := range all {
		have, err := t.read(ctx, l)
		if err != nil {
			leave()
			return nil, err
		}
		wait = max(wait, have.delay())
	}
	if wait > 0 {
		t.sleep(ctx, wait)
	}
	return leave, nil
}

func (t *throttle) read(ctx context.Context, key string) (lane, error) {
	var l lane
	raw, err := t.state.GetWithContext(ctx, key)
	if err != nil || raw == nil {
		return l, err
	}
	return l, json.Unmarshal(raw, &l)
}

// wrong takes a failure down in every lane; right clears them.
func (t *throttle) wrong(ctx context.Context, lanes []string) error {
	for _, key := range lanes {
		l, err := t.read(ctx, key)
		if err != nil {
			return err
		}
		l.Fails, l.Last = l.Fails+1, time.Now().UTC()
		raw, _ := json.Marshal(l)
		if err := t.state.SetWithContext(ctx, key, raw, forgetTry); err != nil {
			return err
		}
	}
	return nil
}

func (t *throttle) right(ctx context.Context, lanes []string) error {
	for _, key := range lanes {
		if err := t.state.DeleteWithContext(ctx, key); err != nil {
			return err
		}
	}
	return nil
}
