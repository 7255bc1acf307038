// Package server is the web in front of the core and the store: routes, sessions and the API's
// description. It translates; it decides nothing about brakes and keeps nothing between requests.
package server

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"path"
	"strings"
	"sync"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/extractors"
	fiberlog "github.com/gofiber/fiber/v3/log"
	"github.com/gofiber/fiber/v3/middleware/compress"
	"github.com/gofiber/fiber/v3/middleware/recover"
	"github.com/gofiber/fiber/v3/middleware/session"
	"github.com/gofiber/fiber/v3/middleware/static"

	"geminate/brake/catalogue"
	"geminate/desk"
	"geminate/instrument"
	"geminate/internal/licences"
	"geminate/store"
)

// Config is how a server is set up.
type Config struct {
	Store *store.Store
	// Chain is all the shops of the installation, whose first is Store; nil where there is that one alone.
	Chain *store.Chain
	// Demo are made-up accounts offered with one click; nil outside demo mode, which is only ever on
	// loopback.
	Demo []DemoAccount
	// Secure marks cookies for HTTPS only; set it behind a TLS proxy.
	Secure bool
	// Front is the built front end, nil when there is none.
	Front fs.FS
	// Counter is the base URL of a parts counter, "" where none is connected.
	Counter string
	// Hosts are the names this shop is reached by besides localhost and addresses.
	Hosts []string
	// Addresses are where other devices open this shop, the best first; Fingerprint is of its own authority.
	Addresses   []string
	Fingerprint string
	// Proxies are the addresses whose X-Forwarded-For is believed.
	Proxies []string
	// Unhurried turns the waits between wrong passwords off, for tests.
	Unhurried bool
	// Pace is how many times as fast the shop's clock runs, for trying a day's work in minutes; 0 and 1 are as the
	// world's.
	Pace float64
	// Instruments is where the broker for instruments listens; nil where it is off.
	Instruments net.Listener
	// Disk says whether there is room left where the database lives; nil where that is not known.
	Disk func() error
	Log  *slog.Logger
}

// server answers for one shop.
type server struct {
	Config
	// code is the shop's in its chain; among is what it may ask of the others, nil where there is no chain.
	code     store.Code
	among    *house
	sessions *session.Store
	devices  *store.WebState
	// Calls between two people and the passes of helpers' phones; one word at a time.
	calls, passes, links, papers *store.WebState
	callMu                       sync.Mutex
	throttle                     *throttle
	hub                          *hub
	heardOf                      heardOf
	spending                     spending
	readiness                    readiness
	packs                        packs
	table                        []route
	bays                         bays
	feeds                        feeds
	life                         context.Context // ends when the server stops
	leave                        func()          // ends a further shop's alone
}

const (
	sessionCookie = "geminate_session"
	csp           = "default-src 'self'; script-src 'self' 'wasm-unsafe-eval'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; font-src 'self'; connect-src 'self'; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
	hsts          = "max-age=31536000"
)

const (
	bodyLimit  = catalogue.MaxBytes + catalogue.MaxBytes/4 // a catalogue's file, escaped as JSON
	routeMost  = 64 << 10                                  // of a route that states none: a form, a few figures
	eventsMost = 1 << 20                                   // of a list of events, each of at most routeMost
)

// New builds the web application. What it does by itself ends with life.
func New(life context.Context, cfg Config) *fiber.App {
	if cfg.Log == nil {
		cfg.Log = slog.New(slog.DiscardHandler)
	}
	if cfg.Pace > 1 {
		pace = cfg.Pace
	}
	s := newServer(life, cfg, store.First)
	h := &house{first: s, each: map[store.Code]*server{}}
	s.among = h
	for i, name := range s.Hosts {
		s.Hosts[i] = strings.ToLower(name)
	}
	app := fiber.New(
		fiber.Config{
			AppName:      "Geminate",
			BodyLimit:    bodyLimit,
			ErrorHandler: s.onError,
			ReadTimeout:  time.Minute,
			IdleTimeout:  2 * time.Minute,
		},
	)
	app.Server().HeaderReceived = h.bodyBudget
	app.Server().Logger = quiet{}
	fiberlog.SetLevel(fiberlog.LevelFatal) // its lines of refused requests: ours say more
	// A stream must not be held back, and the core comes packed.
	asItIs := func(c fiber.Ctx) bool {
		return strings.HasSuffix(c.Path(), "/live") || strings.HasPrefix(c.Path(), "/assets/") && packedTypes[path.Ext(c.Path())] != ""
	}
	app.Use(recover.New(), s.logged, s.headers, s.knownHost, plainBodies,
		compress.New(compress.Config{Next: asItIs, Level: compress.LevelBestSpeed}))
	api := app.Group("/api")
	api.Use(func(c fiber.Ctx) error {
		c.Set(fiber.HeaderCacheControl, "no-store")
		return c.Next()
	})
	api.Get("/health/live", func(c fiber.Ctx) error { return c.JSON(Health{Alive: true}) })
	api.Get("/health", s.health)
	api.Get("/licences", func(c fiber.Ctx) error { // open to all: whoever has the program may read them
		text, err := licences.Text()
		if err != nil {
			return err
		}
		c.Set(fiber.HeaderContentType, fiber.MIMETextPlainCharsetUTF8)
		return c.Send(text)
	})
	api.Use(tellTime, sameSite)
	api.Get("/jobs/:id/live", h.to(func(s *server) fiber.Handler { return s.live }))
	api.Get("/jobs/:id/call/live", h.to(func(s *server) fiber.Handler { return s.callLive }))
	api.Get("/jobs/:id/figures/live", h.to(func(s *server) fiber.Handler { return s.figuresLive }))
	api.Get("/calls/:pass/live", h.to(func(s *server) fiber.Handler { return s.callLive }))
	for i, r := range s.table {
		api.Add([]string{r.method}, fiberPath(r.path), h.to(func(s *server) fiber.Handler { return s.table[i].handler }))
	}
	api.Use(func(fiber.Ctx) error { return fiber.NewError(http.StatusNotFound, "problem.no_route") })
	s.front(app)
	if cfg.Instruments != nil {
		go func() {
			if err := instrument.Broker(life, cfg.Instruments, h, cfg.Log); err != nil {
				cfg.Log.Error("instruments", "error", err)
			}
		}()
	}
	return app
}

// newServer answers for one shop; what it does by itself ends with life.
func newServer(life context.Context, cfg Config, code store.Code) *server {
	st := cfg.Store
	s := &server{
		Config:   cfg,
		code:     code,
		life:     life,
		hub:      newHub(st),
		devices:  st.WebState("device"),
		calls:    st.WebState("call"),
		passes:   st.WebState("pass"),
		links:    st.WebState(linkState),
		papers:   st.WebState("paper"),
		throttle: newThrottle(st.WebState("try")),
	}
	if cfg.Unhurried {
		s.throttle.sleep = func(context.Context, time.Duration) {}
	}
	s.sessions = session.NewStore(session.Config{
		Storage:         st.WebState("session"),
		Extractor:       extractors.FromCookie(sessionCookie),
		CookieHTTPOnly:  true,
		CookiePath:      "/",
		CookieSameSite:  fiber.CookieSameSiteStrictMode,
		CookieSecure:    cfg.Secure,
		IdleTimeout:     16 * time.Hour,
		AbsoluteTimeout: 7 * 24 * time.Hour,
	})
	s.table = s.routes()
	go s.hub.run(life)
	go s.bringPictures(life)
	return s
}

// quiet keeps what every scanner provokes out of the log; requests leave their own lines.
type quiet struct{}

func (quiet) Printf(string, ...any) {}

// headers are those of every answer. Naive UI writes its styles into the page, so styles need 'unsafe-inline';
// scripts do not.
func (s *server) headers(c fiber.Ctx) error {
	c.Set("Content-Security-Policy", csp)
	c.Set("X-Content-Type-Options", "nosniff")
	c.Set("X-Frame-Options", "DENY")
	c.Set("Referrer-Policy", "same-origin")
	c.Set("Cross-Origin-Opener-Policy", "same-origin")
	c.Set("Cross-Origin-Resource-Policy", "same-origin")
	if s.Secure {
		c.Set("Strict-Transport-Security", hsts)
	}
	return c.Next()
}

// Health says whether the program runs and whether it can work.
type Health struct {
	Alive bool   `json:"alive"`
	Ready bool   `json:"ready"`
	Code  string `json:"code,omitempty"` // words key: why not
}

func (s *server) health(c fiber.Ctx) error {
	err := s.readiness.asked(s.readyNow)
	if err != nil {
		_, p := s.problem(err)
		return c.Status(http.StatusServiceUnavailable).JSON(Health{Alive: true, Code: p.Code})
	}
	return c.JSON(Health{Alive: true, Ready: true})
}

// readiness is what was found last, and when: anybody may ask, and it costs a write.
type readiness struct {
	mu  sync.Mutex
	err error
	at  time.Time
}

// readyFor is how long it stands.
const readyFor = 500 * time.Millisecond

func (r *readiness) asked(now func() error) error {
	r.mu.Lock()
	defer r.mu.Unlock()
	if time.Since(r.at) > readyFor {
		r.err = now()
		r.at = time.Now()
	}
	return r.err
}

// readyNow says whether the shop can work.
func (s *server) readyNow() error {
	ctx, cancel := context.WithTimeout(s.life, 2*time.Second)
	defer cancel()
	err := s.Store.Ready(ctx)
	if s.Disk != nil { // a database whose disk is full may say anything, or nothing: the disk itself says why
		if full := s.Disk(); full != nil {
			err = full
		}
	}
	return err
}

// front serves the single page: files by name, every other address the page itself.
func (s *server) front(app *fiber.App) {
	if s.Front == nil {
		app.Use(func(c fiber.Ctx) error {
			return c.Status(http.StatusOK).
				SendString("Geminate is running, but it was built without its front end. Build it with `make build` (needs Node), then start again. The API is at /api.\n")
		})
		return
	}
	page := func(c fiber.Ctx) error {
		if strings.HasPrefix(c.Path(), "/assets/") {
			return fiber.NewError(http.StatusNotFound, "problem.no_route")
		}
		return s.fresh(c, "index.html")
	}
	app.Get("/", page)
	app.Get("/:name", func(c fiber.Ctx) error { // the page's own worker, its manifest: asked for anew each time, by their content
		name := c.Params("name")
		if _, known := freshTypes[path.Ext(name)]; !known || name != path.Base(name) {
			return c.Next()
		}
		if _, err := fs.Stat(s.Front, name); err != nil {
			return c.Next()
		}
		return s.fresh(c, name)
	})
	app.Get("/assets/*", s.packed)
	app.Use(static.New("", static.Config{
		FS:              s.Front,
		NotFoundHandler: page,
		ModifyResponse: func(c fiber.Ctx) error {
			if strings.HasPrefix(c.Path(), "/assets/") { // their names carry a hash
				c.Set(fiber.HeaderCacheControl, forEver)
			} else { // the page's own worker must not be an old one
				c.Set(fiber.HeaderCacheControl, "no-cache")
			}
			return nil
		},
	}))
}

// freshTypes are the files without a hash in their name.
var freshTypes = map[string]string{
	".html":        "text/html; charset=utf-8",
	".js":          "text/javascript; charset=utf-8",
	".webmanifest": "application/manifest+json",
	".svg":         "image/svg+xml",
}

// fresh serves a file that is asked for anew each time, by a strong tag of its content. What is embedded has no date:
// by one of the year 1 every build looked like the last, and a tablet kept the old page for ever.
func (s *server) fresh(c fiber.Ctx, name string) error {
	data, err := fs.ReadFile(s.Front, name)
	if err != nil {
		return err
	}
	sum := sha256.Sum256(data)
	tag := `"` + hex.EncodeToString(sum[:16]) + `"`
	c.Set(fiber.HeaderCacheControl, "no-cache")
	c.Set(fiber.HeaderETag, tag)
	if c.Get(fiber.HeaderIfNoneMatch) == tag {
		return c.SendStatus(http.StatusNotModified)
	}
	c.Set(fiber.HeaderContentType, freshTypes[path.Ext(name)])
	return c.Status(http.StatusOK).Send(data)
}

const forEver = "public, max-age=31536000, immutable"

// packedTypes are what is packed when the front end is built.
var packedTypes = map[string]string{".wasm": "application/wasm", ".js": "text/javascript; charset=utf-8", ".css": "text/css; charset=utf-8"}

// packed serves core, scripts and styles as they were compressed when the front end was built.
func (s *server) packed(c fiber.Ctx) error {
	name := strings.TrimPrefix(c.Path(), "/")
	kind, known := packedTypes[path.Ext(name)]
	if !known {
		return c.Next()
	}
	for _, p := range []struct{ encoding, end string }{{"br", ".br"}, {"gzip", ".gz"}} {
		if c.AcceptsEncodings(p.encoding) != p.encoding {
			continue
		}
		data, err := fs.ReadFile(s.Front, name+p.end)
		if err != nil {
			continue
		}
		c.Set(fiber.HeaderContentEncoding, p.encoding)
		c.Set(fiber.HeaderContentType, kind)
		c.Set(fiber.HeaderCacheControl, forEver)
		c.Vary(fiber.HeaderAcceptEncoding)
		return c.Send(data)
	}
	return c.Next()
}

// fiberPath turns the description's {id} into Fiber's :id.
func fiberPath(p string) string {
	return strings.NewReplacer("{", ":", "}", "").Replace(p)
}

// onError turns every error into a Problem.
func (s *server) onError(c fiber.Ctx, err error) error {
	status, p := s.problem(err)
	if status >= 500 {
		s.Log.Error("request failed", "request", requestID(c), "method", c.Method(), "path", shownPath(c.Path()), "code",
			p.Code, "error", err)
	}
	return c.Status(status).JSON(p)
}

func (s *server) problem(err error) (int, Problem) {
	var fe *fiber.Error
	var refusal *refusal
	switch {
	case errors.As(err, &refusal):
		return refusal.status, refusal.problem
	case errors.As(err, &fe):
		return fiberProblem(fe)
	}
	if p, ok := desk.ProblemOf(err); ok {
		status, known := statuses[p.Code]
		if !known { // refused is never 200
			status = http.StatusConflict
		}
		return status, Problem{Code: p.Code, Detail: p.Detail, Faults: p.Faults, Missing: p.Missing}
	}
	for _, p := range problems {
		if p.is(err) {
			return p.status, Problem{Code: p.code}
		}
	}
	return http.StatusInternalServerError, Problem{Code: "problem.server"}
}

// statuses are those of what the core refuses.
var statuses = map[string]int{
	"problem.faults":           http.StatusUnprocessableEntity,
	"problem.role":             http.StatusForbidden,
	"problem.gate":             http.StatusConflict,
	"problem.release_gate":     http.StatusConflict,
	"problem.released":         http.StatusConflict,
	"problem.not_released":     http.StatusConflict,
	"problem.id_taken":         http.StatusConflict,
	"problem.not_parked":       http.StatusConflict,
	"problem.practice_stopped": http.StatusConflict,
}

// problems are the errors that need no more than a word.
var problems = []struct {
	is     func(error) bool
	status int
	code   string
}{
	{isErr(store.ErrNotFound), http.StatusNotFound, "problem.not_found"},
	{isErr(store.ErrTaken), http.StatusConflict, "problem.taken"},
	{isErr(store.ErrPictureLost), http.StatusGone, "problem.photo_lost"},
	{isErr(store.ErrPictureGone), http.StatusGone, "problem.photo_gone"},
	{store.IsFull, http.StatusInsufficientStorage, "problem.disk_full"},
	{store.IsAway, http.StatusServiceUnavailable, "problem.database"},
}

func isErr(target error) func(error) bool {
	return func(err error) bool { return errors.Is(err, target) }
}

func fiberProblem(fe *fiber.Error) (int, Problem) {
	switch {
	case fe.Code == http.StatusRequestEntityTooLarge:
		return fe.Code, Problem{Code: "problem.too_large"}
	case strings.HasPrefix(fe.Message, "problem."):
		return fe.Code, Problem{Code: fe.Message}
	}
	return fe.Code, Problem{Code: "problem.http", Detail: fe.Message}
}

// refusal is a Problem on its way out.
type refusal struct {
	status  int
	problem Problem
}

func (r *refusal) Error() string { return fmt.Sprintf("%d %s", r.status, r.problem.Code) }

func refuse(status int, p Problem) error { return &refusal{status, p} }
