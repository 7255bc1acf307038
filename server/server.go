// Package server is the web in front of the core and the store: routes, sessions and the API's
// description. It translates; it decides nothing about brakes and keeps nothing between requests.
package server

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net/http"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/extractors"
	"github.com/gofiber/fiber/v3/middleware/compress"
	"github.com/gofiber/fiber/v3/middleware/csrf"
	"github.com/gofiber/fiber/v3/middleware/helmet"
	"github.com/gofiber/fiber/v3/middleware/limiter"
	"github.com/gofiber/fiber/v3/middleware/recover"
	"github.com/gofiber/fiber/v3/middleware/session"
	"github.com/gofiber/fiber/v3/middleware/static"

	"geminate/brake/catalogue"
	"geminate/brake/job"
	"geminate/brake/system"
	"geminate/store"
)

// Config is how a server is set up.
type Config struct {
	Store *store.Store
	// Demo are made-up accounts offered with one click; nil outside demo mode, which is only ever on
	// loopback.
	Demo []DemoAccount
	// Secure marks cookies for HTTPS only; set it behind a TLS proxy.
	Secure bool
	// Front is the built front end, nil when there is none.
	Front fs.FS
	// Counter is the base URL of a parts counter, "" where none is connected.
	Counter string
	// SignInsPerMinute limits tries from one address; 0 takes 10.
	SignInsPerMinute int
	Log              *slog.Logger
}

type server struct {
	Config
	sessions *session.Store
	table    []route
}

const sessionCookie = "geminate_session"

const (
	bodyLimit  = catalogue.MaxBytes + catalogue.MaxBytes/4 // a catalogue's file, escaped as JSON
	routeMost  = 64 << 10                                  // of a route that states none: a form, a few figures
	eventsMost = 1 << 20                                   // of a list of events, each of at most routeMost
)

// New builds the web application.
func New(cfg Config) *fiber.App {
	if cfg.Log == nil {
		cfg.Log = slog.New(slog.DiscardHandler)
	}
	if cfg.SignInsPerMinute == 0 {
		cfg.SignInsPerMinute = 10
	}
	s := &server{Config: cfg}
	app := fiber.New(fiber.Config{AppName: "Geminate", BodyLimit: bodyLimit, ErrorHandler: s.onError, ReadTimeout: time.Minute, IdleTimeout: 2 * time.Minute})
	app.Use(recover.New(), plainBodies, compress.New())
	app.Server().HeaderReceived = s.bodyBudget
	// Naive UI writes its styles into the page, so styles need 'unsafe-inline'; scripts do not.
	app.Use(helmet.New(helmet.Config{
		ContentSecurityPolicy: "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; font-src 'self'; connect-src 'self'; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'",
		XFrameOptions:         "DENY",
		ReferrerPolicy:        "same-origin",
	}))
	s.sessions = session.NewStore(session.Config{
		Storage: cfg.Store.WebState("session"), Extractor: extractors.FromCookie(sessionCookie), CookieHTTPOnly: true,
		CookieSameSite: fiber.CookieSameSiteStrictMode, CookieSecure: cfg.Secure, IdleTimeout: 16 * time.Hour, AbsoluteTimeout: 7 * 24 * time.Hour,
	})
	api := app.Group("/api")
	api.Use(func(c fiber.Ctx) error {
		c.Set(fiber.HeaderCacheControl, "no-store")
		return c.Next()
	})
	api.Get("/health", func(c fiber.Ctx) error {
		ctx, cancel := context.WithTimeout(c.Context(), 2*time.Second)
		defer cancel()
		if err := cfg.Store.Ping(ctx); err != nil {
			return fiber.NewError(http.StatusServiceUnavailable, "problem.database")
		}
		return c.JSON(map[string]string{"status": "ok"})
	})
	api.Use(csrf.New(csrf.Config{
		Storage: cfg.Store.WebState("csrf"), CookieName: "geminate_csrf", CookieSameSite: fiber.CookieSameSiteStrictMode, CookieSecure: cfg.Secure,
		Extractor: extractors.FromHeader("X-Csrf-Token"), IdleTimeout: 16 * time.Hour,
		ErrorHandler: func(fiber.Ctx, error) error { return fiber.NewError(http.StatusForbidden, "problem.csrf") },
	}))
	api.Post("/session", limiter.New(limiter.Config{
		Max: cfg.SignInsPerMinute, Expiration: time.Minute, SkipSuccessfulRequests: true, Storage: cfg.Store.WebState("limit"),
		LimitReached: func(fiber.Ctx) error { return fiber.NewError(http.StatusTooManyRequests, "problem.too_many") },
	}))
	s.table = s.routes()
	for _, r := range s.table {
		api.Add([]string{r.method}, fiberPath(r.path), r.handler)
	}
	api.Use(func(fiber.Ctx) error { return fiber.NewError(http.StatusNotFound, "problem.no_route") })
	s.front(app)
	return app
}

// front serves the single page: files by name, every other address the page itself.
func (s *server) front(app *fiber.App) {
	if s.Front == nil {
		app.Use(func(c fiber.Ctx) error {
			return c.Status(http.StatusOK).SendString("Geminate is running, but it was built without its front end. Build it with `make build` (needs Node), then start again. The API is at /api.\n")
		})
		return
	}
	page := func(c fiber.Ctx) error {
		if strings.HasPrefix(c.Path(), "/assets/") {
			return fiber.NewError(http.StatusNotFound, "problem.no_route")
		}
		data, err := fs.ReadFile(s.Front, "index.html")
		if err != nil {
			return err
		}
		c.Set(fiber.HeaderCacheControl, "no-cache")
		c.Type("html", "utf-8")
		return c.Status(http.StatusOK).Send(data)
	}
	app.Get("/", page)
	app.Use(static.New("", static.Config{FS: s.Front, NotFoundHandler: page, ModifyResponse: func(c fiber.Ctx) error {
		if strings.HasPrefix(c.Path(), "/assets/") { // their names carry a hash
			c.Set(fiber.HeaderCacheControl, "public, max-age=31536000, immutable")
		}
		return nil
	}}))
}

// fiberPath turns the description's {id} into Fiber's :id.
func fiberPath(p string) string {
	return strings.NewReplacer("{", ":", "}", "").Replace(p)
}

// onError turns every error into a Problem.
func (s *server) onError(c fiber.Ctx, err error) error {
	status, p := s.problem(err)
	if status >= 500 {
		s.Log.Error("request failed", "method", c.Method(), "path", c.Path(), "error", err)
	}
	return c.Status(status).JSON(p)
}

func (s *server) problem(err error) (int, Problem) {
	var faults system.Faults
	var gate job.ErrGate
	var fe *fiber.Error
	var refusal *refusal
	switch {
	case errors.As(err, &refusal):
		return refusal.status, refusal.problem
	case errors.As(err, &faults):
		return http.StatusUnprocessableEntity, Problem{Code: "problem.faults", Faults: faults}
	case errors.As(err, &gate):
		return http.StatusConflict, Problem{Code: "problem.gate", Missing: gate.Missing}
	case errors.Is(err, store.ErrNotFound):
		return http.StatusNotFound, Problem{Code: "problem.not_found"}
	case errors.Is(err, store.ErrTaken):
		return http.StatusConflict, Problem{Code: "problem.taken"}
	case errors.As(err, &fe):
		code := fe.Message
		if fe.Code == http.StatusRequestEntityTooLarge {
			code = "problem.too_large"
		}
		if !strings.HasPrefix(code, "problem.") {
			return fe.Code, Problem{Code: "problem.http", Detail: fe.Message}
		}
		return fe.Code, Problem{Code: code}
	}
	return http.StatusInternalServerError, Problem{Code: "problem.server"}
}

// refusal is a Problem on its way out.
type refusal struct {
	status  int
	problem Problem
}

func (r *refusal) Error() string { return fmt.Sprintf("%d %s", r.status, r.problem.Code) }

func refuse(status int, p Problem) error { return &refusal{status, p} }
