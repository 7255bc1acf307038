package server

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"regexp"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/gofiber/fiber/v3"

	"geminate/brake/job"
	"geminate/store"
)

// The live log: every screen that has a job open is told each event within a second, whichever server of the
// shop wrote it, and who else is there.

const (
	lookEvery  = 250 * time.Millisecond // at what other servers wrote
	tellEvery  = 15 * time.Second       // the session is looked at again
	hereEvery  = 3 * time.Second        // a sign of life both ways: a screen that is gone is noticed in writing to it
	liveAtOnce = 500                    // events told in one go
	liveMost   = 400                    // streams of one server
	liveOne    = 24                     // of them one account's, or one job's helpers': nobody takes them all
)

// hub looks at the heads of all watched jobs in one query, however many screens watch.
type hub struct {
	store *store.Store
	mu    sync.Mutex
	on    map[string]map[chan struct{}]bool // by job: who to wake
	of    map[string]int                    // streams by whose they are
	heads map[string]int64
}

func newHub(st *store.Store) *hub {
	return &hub{store: st, on: map[string]map[chan struct{}]bool{}, of: map[string]int{}, heads: map[string]int64{}}
}

// watch wakes for a job, until stop; whose says who listens. Not ok where too many listen, in all or of them.
func (h *hub) watch(id, whose string) (wake chan struct{}, stop func(), ok bool) {
	h.mu.Lock()
	defer h.mu.Unlock()
	all := 0
	for _, w := range h.on {
		all += len(w)
	}
	if all >= liveMost || h.of[whose] >= liveOne {
		return nil, nil, false
	}
	h.of[whose]++
	wake = make(chan struct{}, 1)
	if h.on[id] == nil {
		h.on[id] = map[chan struct{}]bool{}
	}
	h.on[id][wake] = true
	return wake, func() {
		h.mu.Lock()
		defer h.mu.Unlock()
		if h.of[whose]--; h.of[whose] <= 0 {
			delete(h.of, whose)
		}
		if delete(h.on[id], wake); len(h.on[id]) == 0 {
			delete(h.on, id)
			delete(h.heads, id)
		}
	}, true
}

// poke wakes the watchers of a job: this server has just written to it.
func (h *hub) poke(id string) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for wake := range h.on[id] {
		select {
		case wake <- struct{}{}:
		default:
		}
	}
}

// run looks for what other servers wrote, until the server's life ends.
func (h *hub) run(ctx context.Context) {
	tick := time.NewTicker(lookEvery)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
		h.mu.Lock()
		ids := make([]string, 0, len(h.on))
		for id := range h.on {
			ids = append(ids, id)
		}
		h.mu.Unlock()
		if len(ids) == 0 {
			continue
		}
		heads, err := h.store.Heads(ctx, ids)
		if err != nil {
			continue // the database is away: the next look will tell
		}
		for id, head := range heads {
			h.mu.Lock()
			news := h.heads[id] != head
			h.heads[id] = head
			h.mu.Unlock()
			if news {
				h.poke(id)
			}
		}
	}
}

var tabName = regexp.MustCompile(`^[A-Za-z0-9-]{1,64}$`)

// live answers with a stream of server-sent events: "log" for each event of the job, with its seq as the id;
// "here" for who has it open.
func (s *server) live(c fiber.Ctx) error {
	v, err := s.signedIn(c)
	if err != nil {
		return err
	}
	if err := s.mayWatch(c, v.user); err != nil {
		return err
	}
	id := strings.Clone(c.Params("id"))
	if err := s.isThere(c, id); err != nil {
		return err
	}
	since, err := strconv.ParseInt(firstOf(c.Get("Last-Event-ID"), c.Query("since"), "0"), 10, 64)
	if err != nil || since < 0 {
		return fiber.NewError(http.StatusBadRequest, "problem.http")
	}
	tab := strings.Clone(c.Query("tab"))
	if !tabName.MatchString(tab) {
		return fiber.NewError(http.StatusBadRequest, "problem.http")
	}
	wake, stop, ok := s.hub.watch(id, v.user.ID)
	if !ok {
		return fiber.NewError(http.StatusServiceUnavailable, "problem.busy")
	}
	c.Set(fiber.HeaderContentType, "text/event-stream")
	c.Set(fiber.HeaderCacheControl, "no-store")
	c.Set("X-Accel-Buffering", "no") // a proxy must not hold events back
	session := strings.Clone(c.Cookies(sessionCookie))
	st := &stream{s: s, id: id, since: since, me: store.Presence{JobID: id, Tab: tab, UserID: v.user.ID, Name: v.user.Display}, epoch: v.user.Epoch, session: session, wake: wake}
	return c.SendStreamWriter(func(w *bufio.Writer) {
		defer stop()
		st.run(s.life, w)
	})
}

// isThere says ErrNotFound of a job this shop does not have.
func (s *server) isThere(c fiber.Ctx, id string) error {
	heads, err := s.Store.Heads(c.Context(), []string{id})
	if _, there := heads[id]; err == nil && !there {
		err = store.ErrNotFound
	}
	return err
}

func firstOf(list ...string) string {
	for _, s := range list {
		if s != "" {
			return s
		}
	}
	return ""
}

type stream struct {
	s       *server
	id      string
	since   int64
	me      store.Presence
	epoch   int // of the account's sessions, when it began
	session string
	wake    chan struct{}
	told    string // who was there when it was last told
}

// run tells until the client is gone, the session ends or the server stops.
func (t *stream) run(life context.Context, w *bufio.Writer) {
	defer func() {
		ctx, cancel := context.WithTimeout(context.Background(), 2*time.Second)
		defer cancel()
		if err := t.s.Store.Gone(ctx, t.id, t.me.Tab); err == nil {
			t.s.hub.poke(t.id)
		}
	}()
	if _, err := w.WriteString("retry: 2000\n\n"); err != nil {
		return
	}
	alive, here := time.NewTicker(tellEvery), time.NewTicker(hereEvery)
	defer alive.Stop()
	defer here.Stop()
	t.announce(life)
	t.s.hub.poke(t.id)
	for {
		if !t.tell(life, w) || w.Flush() != nil {
			return
		}
		select {
		case <-life.Done():
			return
		case <-t.wake:
		case <-here.C:
			if !t.stillIn(life) {
				return // closed or signed out everywhere: the screen asks again and is told so
			}
			t.announce(life)
			if _, err := w.WriteString("event: alive\ndata: 1\n\n"); err != nil {
				return
			}
		case <-alive.C:
			if !t.s.knownSession(t.session) {
				return // signed out: the screen asks again and is told so
			}
		}
	}
}

// stillIn says whether the account may still listen. A database that is away decides nothing.
func (t *stream) stillIn(life context.Context) bool {
	ctx, cancel := context.WithTimeout(life, 2*time.Second)
	defer cancel()
	u, err := t.s.Store.User(ctx, t.me.UserID)
	if errors.Is(err, store.ErrNotFound) {
		return false
	}
	return err != nil || !u.Disabled && u.Epoch == t.epoch && (u.Role.May(job.ReadJobs) || u.Role == job.Guest && t.s.stillGuest(ctx, u))
}

func (t *stream) announce(ctx context.Context) {
	ctx, cancel := context.WithTimeout(ctx, 2*time.Second)
	defer cancel()
	me := t.me
	if err := t.s.Store.Here(ctx, &me); err != nil {
		t.s.Log.Warn("presence", "job", t.id, "error", err)
	}
}

// tell writes what is new. A database that is away is no end: the stream waits for it.
func (t *stream) tell(life context.Context, w *bufio.Writer) bool {
	ctx, cancel := context.WithTimeout(life, 5*time.Second)
	defer cancel()
	for {
		events, err := t.s.Store.Log(ctx, t.id, t.since, liveAtOnce)
		if err != nil {
			return life.Err() == nil
		}
		for _, e := range events {
			raw, err := json.Marshal(e.Lean())
			if err != nil {
				return false
			}
			if _, err := fmt.Fprintf(w, "id: %d\nevent: log\ndata: %s\n\n", e.Seq, raw); err != nil {
				return false
			}
			t.since = e.Seq
		}
		if len(events) < liveAtOnce {
			break
		}
	}
	who, err := t.s.Store.WhoIsHere(ctx, t.id)
	if err != nil {
		return life.Err() == nil
	}
	raw, err := json.Marshal(who)
	if err == nil && string(raw) != t.told {
		t.told = string(raw)
		_, err = fmt.Fprintf(w, "event: here\ndata: %s\n\n", raw)
	}
	return err == nil
}
