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
	hereEvery  = 2 * time.Second        // a sign of life both ways: a screen that is gone is noticed in writing to it; who listens is asked
	liveAtOnce = 500                    // events told in one go
	liveMost   = 400                    // streams of one server
	liveOne    = 24                     // of them one account's, or one job's helpers': nobody takes them all
)

// listener is whose a stream is: while its session, its account and what let it in stand.
type listener struct {
	session string
	user    string
	epoch   int // of the account's sessions, when it began
}

// listenerOf is the one of a visitor.
func listenerOf(c fiber.Ctx, v *visitor) listener {
	return listener{session: strings.Clone(c.Cookies(sessionCookie)), user: v.user.ID, epoch: v.user.Epoch}
}

// heard keeps what listens answered for a moment: a screen has several streams.
type heardOf struct {
	mu sync.Mutex
	at map[listener]heardAt
}

type heardAt struct {
	ok bool
	at time.Time
}

// heardFor is how long such an answer stands; with hereEvery it ends every stream within three seconds of an account's
// end. heardMost bounds how many are kept.
const (
	heardFor  = time.Second
	heardMost = 4000
)

// listens says whether somebody may still listen: every stream of every kind asks it every hereEvery. A database that
// is away decides nothing.
func (s *server) listens(who listener) bool {
	s.heardOf.mu.Lock()
	if was, ok := s.heardOf.at[who]; ok && time.Since(was.at) < heardFor {
		s.heardOf.mu.Unlock()
		return was.ok
	}
	s.heardOf.mu.Unlock()
	ok := s.listensNow(who)
	s.heardOf.mu.Lock()
	defer s.heardOf.mu.Unlock()
	if s.heardOf.at == nil || len(s.heardOf.at) >= heardMost {
		s.heardOf.at = map[listener]heardAt{}
	}
	s.heardOf.at[who] = heardAt{ok, time.Now()}
	return ok
}

func (s *server) listensNow(who listener) bool {
	ctx, cancel := context.WithTimeout(s.life, 2*time.Second)
	defer cancel()
	user, err := s.sessionUser(ctx, who.session)
	if err == nil && user != who.user {
		return false
	}
	u, err := s.Store.User(ctx, who.user)
	if errors.Is(err, store.ErrNotFound) {
		return false
	}
	return err != nil || !u.Disabled && u.Epoch == who.epoch && (u.Role.May(job.ReadJobs) || u.Role == job.Guest && s.stillGuest(ctx, u))
}

// shares of the streams: guests of one link, and helpers' phones, have one each beside the staff, whom nobody can take
// theirs.
const outsideMost = liveMost / 4

// hub looks at the heads of all watched jobs in one query, however many screens watch.
type hub struct {
	store *store.Store
	mu    sync.Mutex
	on    map[string]map[chan struct{}]bool // by job: who to wake
	of    map[string]int                    // streams by whose they are
	share map[string]int                    // of those from outside, by their share
	heads map[string]int64
}

func newHub(st *store.Store) *hub {
	return &hub{
		store: st,
		on:    map[string]map[chan struct{}]bool{},
		of:    map[string]int{},
		share: map[string]int{},
		heads: map[string]int64{},
	}
}

// watch wakes for a job, until stop; whose says who listens, share whose share it takes where that is none of the
// staff's. Not ok where too many listen, in all or of them.
func (h *hub) watch(id, whose, share string) (wake chan struct{}, stop func(), ok bool) {
	h.mu.Lock()
	defer h.mu.Unlock()
	all, outside := 0, 0
	for _, w := range h.on {
		all += len(w)
	}
	for _, n := range h.share {
		outside += n
	}
	if all >= liveMost || h.of[whose] >= liveOne || share != "" && (h.share[share] >= outsideMost || outside >= 2*outsideMost) {
		return nil, nil, false
	}
	h.of[whose]++
	if share != "" {
		h.share[share]++
	}
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
		if share != "" {
			if h.share[share]--; h.share[share] <= 0 {
				delete(h.share, share)
			}
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
	wake, stop, ok := s.hub.watch(id, v.user.ID, shareOf(v.user))
	if !ok {
		return fiber.NewError(http.StatusServiceUnavailable, "problem.busy")
	}
	c.Set(fiber.HeaderContentType, "text/event-stream")
	c.Set(fiber.HeaderCacheControl, "no-store")
	c.Set("X-Accel-Buffering", "no") // a proxy must not hold events back
	st := &stream{
		s:     s,
		id:    id,
		since: since,
		me:    store.Presence{JobID: id, Tab: tab, UserID: v.user.ID, Name: v.user.Display},
		who:   listenerOf(c, v),
		wake:  wake,
	}
	return c.SendStreamWriter(func(w *bufio.Writer) {
		defer stop()
		st.run(s.life, w)
	})
}

// shareOf is the share an account's streams take: guests of one link have one together, the staff none.
func shareOf(u *store.User) string {
	if u.Role != job.Guest {
		return ""
	}
	if u.GuestOf == nil {
		return "guests"
	}
	return "guests " + *u.GuestOf
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
	s     *server
	id    string
	since int64
	me    store.Presence
	who   listener
	wake  chan struct{}
	told  string // who was there when it was last told
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
	here := time.NewTicker(hereEvery)
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
			if !t.s.listens(t.who) {
				return // closed or signed out: the screen asks again and is told so
			}
			t.announce(life)
			if _, err := w.WriteString("event: alive\ndata: 1\n\n"); err != nil {
				return
			}
		}
	}
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
