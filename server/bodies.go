package server

import (
	"bytes"
	"context"
	"errors"
	"net/http"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/middleware/session"
	"github.com/valyala/fasthttp"

	"geminate/brake/job"
)

// anonymousMost bytes of a body are read from someone who is not signed in: a sign-in is a name and a
// password.
const anonymousMost = 16 << 10

// plainBodies refuses compressed bodies before anything inflates them (a few megabytes can become many
// gigabytes), and bodies that are not said to be JSON.
func plainBodies(c fiber.Ctx) error {
	h := &c.Request().Header
	if e := h.Peek(fiber.HeaderContentEncoding); len(e) > 0 && !bytes.EqualFold(e, []byte("identity")) {
		return fiber.NewError(http.StatusUnsupportedMediaType, "problem.encoded")
	}
	if len(c.Request().Body()) > 0 {
		kind, _, _ := bytes.Cut(h.ContentType(), []byte(";"))
		kind = bytes.TrimSpace(kind)
		if !bytes.EqualFold(kind, []byte(fiber.MIMEApplicationJSON)) && !bytes.EqualFold(kind, []byte("application/senml+json")) {
			return fiber.NewError(http.StatusUnsupportedMediaType, "problem.json_only")
		}
	}
	return c.Next()
}

// bodyBudget decides how much of a body is read at all, from the headers alone: memory is not spent on
// strangers.
func (s *server) bodyBudget(h *fasthttp.RequestHeader) fasthttp.RequestConfig {
	cfg := fasthttp.RequestConfig{MaxRequestBodySize: anonymousMost}
	if n := h.ContentLength(); h.IsGet() || h.IsHead() || n >= 0 && n <= anonymousMost {
		return cfg // enough for everyone, and no one needs to be looked up
	}
	if role, in := s.roleOf(string(h.Cookie(sessionCookie))); in {
		cfg.MaxRequestBodySize = s.mostAt(string(h.Method()), string(h.RequestURI()), role)
	}
	return cfg
}

// roleOf is what the account a cookie names may do; in is false where it names none that may sign in.
func (s *server) roleOf(id string) (role job.Role, in bool) {
	ctx, cancel := context.WithTimeout(context.Background(), 2*time.Second)
	defer cancel()
	user := s.sessionOf(ctx, id)
	if user == "" {
		return "", false
	}
	u, err := s.Store.User(ctx, user)
	if err != nil || u.Disabled {
		return "", false
	}
	return u.Role, true
}

// sessionUser is the account a cookie names, "" where its session is over; an error where nobody can tell.
func (s *server) sessionUser(ctx context.Context, id string) (string, error) {
	if id == "" {
		return "", nil
	}
	sess, err := s.sessions.GetByID(ctx, id)
	if errors.Is(err, session.ErrSessionIDNotFoundInStore) {
		return "", nil
	}
	if err != nil {
		return "", err
	}
	defer sess.Release()
	user, _ := sess.Get(sessionUser).(string)
	return user, nil
}

// sessionOf is the account a cookie names, "" where it names none or nobody can tell.
func (s *server) sessionOf(ctx context.Context, id string) string {
	user, err := s.sessionUser(ctx, id)
	if err != nil {
		return ""
	}
	return user
}

// mostAt is how large a body the route of a request may have: what a role may not ask is not read to be told so.
func (s *server) mostAt(method, uri string, role job.Role) int {
	if _, rest, absolute := strings.Cut(uri, "://"); absolute {
		_, rest, _ = strings.Cut(rest, "/")
		uri = "/" + rest
	}
	path, _, _ := strings.Cut(uri, "?")
	path = strings.TrimPrefix(path, "/api")
	for _, r := range s.table {
		if r.method == method && pathFits(r.path, path) {
			if !r.open && !role.May(r.command) {
				return anonymousMost
			}
			return r.limit()
		}
	}
	return anonymousMost
}

// pathFits says whether a path is one of a route's, {id} standing for any one part.
func pathFits(pattern, path string) bool {
	want, have := strings.Split(pattern, "/"), strings.Split(strings.TrimSuffix(path, "/"), "/")
	if len(want) != len(have) {
		return false
	}
	for i := range want {
		if want[i] != have[i] && !strings.HasPrefix(want[i], "{") {
			return false
		}
	}
	return true
}
