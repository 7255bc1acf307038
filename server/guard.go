package server

import (
	"crypto/subtle"
	"log/slog"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"slices"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/google/uuid"

	"geminate/internal/listen"
)

// What stands before every request: which host is asked for, from which site it comes, who it is, and the line
// it leaves in the log.

type localKey int

const (
	requestIDKey localKey = iota
	accountKey
	shopKey // the code of a further shop
)

// requestID is the id that ties a request's log lines and audit lines together.
func requestID(c fiber.Ctx) string {
	id, _ := c.Locals(requestIDKey).(string)
	return id
}

// logged gives each request an id and leaves a line of it in the log.
func (s *server) logged(c fiber.Ctx) error {
	listen.Settle(c.RequestCtx().Conn()) // it has spoken: it makes room for nobody
	id := uuid.NewString()
	c.Locals(requestIDKey, id)
	c.Set("X-Request-Id", id)
	began := time.Now()
	err := c.Next()
	status := c.Response().StatusCode()
	if err != nil {
		status, _ = s.problem(err)
	}
	level := slog.LevelDebug
	if strings.HasPrefix(c.Path(), "/api/") {
		level = slog.LevelInfo
	}
	account, _ := c.Locals(accountKey).(string)
	shop, _ := c.Locals(shopKey).(string)
	s.Log.LogAttrs(c.Context(), level, "request", slog.String("request", id), slog.String("shop", shop),
		slog.String("method", c.Method()), slog.String("path", shownPath(c.Path())), slog.Int("status", status),
		slog.Float64("ms", float64(time.Since(began).Microseconds())/1000), slog.String("account", account),
		slog.String("address", s.address(c)))
	return err
}

// secretPaths are the beginnings of addresses whose next part lets whoever has it in.
var secretPaths = []string{"/welcome/", "/calls/", "/call/", "/papers/", "/guests/", "/guest/"}

// shownPath is a path as the log has it: what lets somebody in is left out.
func shownPath(path string) string {
	for _, p := range secretPaths {
		if i := strings.Index(path, p); i >= 0 {
			rest := path[i+len(p):]
			_, after, more := strings.Cut(rest, "/")
			if more {
				after = "/" + after
			}
			return path[:i+len(p)] + "…" + after
		}
	}
	return strings.Clone(path)
}

// knownHost refuses a name that is not this shop's: a page of someone else's, pointed at this machine, would
// otherwise be let in as if it were ours.
func (s *server) knownHost(c fiber.Ctx) error {
	host := strings.ToLower(c.Host())
	if h, _, err := net.SplitHostPort(host); err == nil {
		host = h
	}
	host = strings.TrimSuffix(strings.Trim(host, "[]"), ".")
	ip, err := netip.ParseAddr(host)
	ok := host == "localhost" || slices.Contains(s.Hosts, host)
	// An address is no name that someone else can point here; in demo mode only this machine's own.
	ok = ok || err == nil && (s.Demo == nil || ip.IsLoopback())
	if !ok {
		return fiber.NewError(http.StatusMisdirectedRequest, "problem.host")
	}
	return c.Next()
}

// sameSite refuses what another site's page sends here. Browsers say where a request comes from; a program
// that says nothing carries no one's cookies.
func sameSite(c fiber.Ctx) error {
	foreign := fiber.NewError(http.StatusForbidden, "problem.csrf")
	if site := c.Get("Sec-Fetch-Site"); site != "" && site != "same-origin" && site != "none" {
		return foreign
	}
	if c.Method() == http.MethodGet || c.Method() == http.MethodHead {
		return c.Next()
	}
	if origin := c.Get(fiber.HeaderOrigin); origin != "" {
		u, err := url.Parse(origin)
		if err != nil || u.Host == "" || !strings.EqualFold(u.Host, c.Host()) {
			return foreign
		}
	}
	return c.Next()
}

// forged says whether a request that changes something lacks the token of its own session.
func forged(c fiber.Ctx, token string) bool {
	if c.Method() == http.MethodGet || c.Method() == http.MethodHead {
		return false
	}
	return token == "" || subtle.ConstantTimeCompare([]byte(c.Get("X-Csrf-Token")), []byte(token)) != 1
}

// address is where a request comes from: behind proxies that are named, the last one they did not add
// themselves.
func (s *server) address(c fiber.Ctx) string {
	at := c.RequestCtx().RemoteIP().String()
	if !s.trusted(at) {
		return at
	}
	hops := strings.Split(c.Get(fiber.HeaderXForwardedFor), ",")
	for i := len(hops) - 1; i >= 0; i-- {
		ip, err := netip.ParseAddr(strings.TrimSpace(hops[i]))
		if err != nil {
			return at
		}
		if at = ip.Unmap().String(); !s.trusted(at) {
			return at
		}
	}
	return at
}

func (s *server) trusted(at string) bool { return slices.Contains(s.Proxies, at) }
