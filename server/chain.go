package server

import (
	"context"
	"encoding/json"
	"errors"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/valyala/fasthttp"

	"geminate/store"
)

// A chain of shops in one installation: every shop is answered for by a server of its own, on a store of its own. Which
// one a request is for is said by a cookie, by the pass in its address, or at sign-in. That is no secret and no right:
// the session, the pass and the password count in that shop alone.

// house finds the server of a shop.
type house struct {
	first *server
	mu    sync.Mutex
	each  map[store.Code]*server
}

const shopCookie = "geminate_shop"

// passShop parts the code of a shop from the secret of a pass.
const passShop = "."

// of gives the server of a shop; the first's where there is none of this code, who then knows nobody by that session or
// pass.
func (h *house) of(ctx context.Context, code store.Code) (*server, error) {
	if h.first.Chain == nil || !code.Valid() {
		return h.first, nil
	}
	st, err := h.first.Chain.Shop(ctx, code)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return nil, err
	}
	h.mu.Lock()
	defer h.mu.Unlock()
	s := h.each[code]
	if err != nil { // there is none, or none any more
		if s != nil {
			s.leave()
			delete(h.each, code)
		}
		return h.first, nil
	}
	if s == nil || s.Store != st { // new, or taken out and brought in again
		if s != nil {
			s.leave()
		}
		cfg := h.first.Config
		cfg.Store, cfg.Demo, cfg.Log = st, nil, cfg.Log.With("shop", string(code))
		life, leave := context.WithCancel(h.first.life)
		s = newServer(life, cfg, code)
		s.among, s.leave = h, leave
		h.each[code] = s
	}
	return s, nil
}

// several says whether there is more than one shop; in doubt not.
func (h *house) several(ctx context.Context) bool {
	if h.first.Chain == nil {
		return false
	}
	codes, err := h.first.Chain.Codes(ctx)
	return err == nil && len(codes) > 0
}

// to answers by the shop a request is for.
func (h *house) to(handler func(*server) fiber.Handler) fiber.Handler {
	return func(c fiber.Ctx) error {
		s, err := h.of(c.Context(), h.codeOf(c))
		if err != nil {
			return err
		}
		if s.code != store.First {
			c.Locals(shopKey, string(s.code))
		}
		return handler(s)(c)
	}
}

// codeOf is the shop a request says it is for.
func (h *house) codeOf(c fiber.Ctx) store.Code {
	if h.first.Chain == nil {
		return store.First
	}
	if c.Method() == fiber.MethodPost && c.Path() == "/api/session" {
		var in struct {
			Shop string `json:"shop"`
		}
		_ = json.Unmarshal(c.BodyRaw(), &in) // what is wrong with it is told by the one who reads all of it
		return store.Code(strings.ToLower(strings.TrimSpace(in.Shop)))
	}
	if hasSecret(c.Path()) {
		return codeOfPass(c.Params("pass"))
	}
	if c.Cookies(sessionCookie) == "" { // a script with a read token
		if code := codeOfPass(
			firstOf(c.Query("token"), strings.TrimPrefix(c.Get(fiber.HeaderAuthorization), "Bearer ")),
		); code != store.First {
			return code
		}
	}
	return store.Code(strings.Clone(c.Cookies(shopCookie)))
}

// hasSecret says whether a path of the API carries a pass.
func hasSecret(path string) bool {
	return slices.ContainsFunc(secretPaths, func(p string) bool { return strings.HasPrefix(path, "/api"+p) })
}

func codeOfPass(pass string) store.Code {
	code, _, there := strings.Cut(pass, passShop)
	if !there {
		return store.First
	}
	return store.Code(strings.Clone(code))
}

// bodyBudget is the budget of the shop the headers name.
func (h *house) bodyBudget(header *fasthttp.RequestHeader) fasthttp.RequestConfig {
	ctx, cancel := context.WithTimeout(context.Background(), 2*time.Second)
	defer cancel()
	s, err := h.of(ctx, store.Code(header.Cookie(shopCookie)))
	if err != nil {
		s = h.first
	}
	return s.bodyBudget(header)
}

func (s *server) newPass() string { return newPass(s.code) }

// newPass makes a secret that says which shop it is of.
func newPass(code store.Code) string {
	if code == store.First {
		return randomToken()
	}
	return string(code) + passShop + randomToken()
}

// rememberShop tells the browser which shop it has signed in to.
func (s *server) rememberShop(c fiber.Ctx) {
	if s.code == store.First && c.Cookies(shopCookie) == "" {
		return
	}
	c.Cookie(
		&fiber.Cookie{
			Name:     shopCookie,
			Value:    string(s.code),
			Path:     "/",
			HTTPOnly: true,
			SameSite: fiber.CookieSameSiteStrictMode,
			Secure:   s.Secure,
			MaxAge:   int(deviceFor.Seconds()),
		},
	)
}
