package server

import (
	"errors"
	"net/http"
	"slices"
	"strings"

	"github.com/alexedwards/argon2id"
	"github.com/gofiber/fiber/v3"

	"geminate/store"
)

// hashParams: 19 MiB, two passes, one lane, the second choice of the OWASP password storage sheet
// (from memory).
var hashParams = &argon2id.Params{Memory: 19 * 1024, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// HashPassword hashes a password for an account.
func HashPassword(password string) (string, error) {
	if len(password) < 8 {
		return "", errors.New("a password needs at least 8 characters")
	}
	return argon2id.CreateHash(password, hashParams)
}

// unknownHash is compared with when a name is unknown, so that the answer takes as long.
var unknownHash, _ = argon2id.CreateHash("no such account", hashParams)

const sessionUser = "user"

func (s *server) signedIn(c fiber.Ctx) (*store.User, error) {
	u, err := s.currentUser(c)
	if err != nil {
		return nil, err
	}
	if u == nil {
		return nil, fiber.NewError(http.StatusUnauthorized, "problem.signed_out")
	}
	return u, nil
}

// currentUser is who the session cookie names, nil where there is none. An anonymous visit makes no
// session.
func (s *server) currentUser(c fiber.Ctx) (*store.User, error) {
	if c.Cookies(sessionCookie) == "" {
		return nil, nil
	}
	sess, err := s.sessions.Get(c)
	if err != nil {
		return nil, err
	}
	defer sess.Release()
	id, _ := sess.Get(sessionUser).(string)
	if sess.Fresh() || id == "" {
		return nil, nil
	}
	u, err := s.Store.User(c.Context(), id)
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil
	}
	return u, err
}

func userView(u *store.User) *UserView {
	return &UserView{ID: u.ID, Name: u.Name, Display: u.Display, Role: u.Role, Units: u.Units, Theme: u.Theme}
}

func (s *server) getSession(c *call, _ none) (SessionView, error) {
	v := SessionView{Demo: []DemoAccount{}}
	u, err := s.currentUser(c)
	if err != nil {
		return v, err
	}
	if u != nil {
		v.User = userView(u)
		return v, nil
	}
	if s.Demo != nil {
		v.Demo = s.Demo
	}
	return v, nil
}

func (s *server) signIn(c *call, in SignIn) (SessionView, error) {
	wrong := fiber.NewError(http.StatusUnauthorized, "problem.wrong_password")
	name := strings.ToLower(strings.TrimSpace(in.Name))
	u, err := s.Store.UserByName(c.Context(), name)
	if errors.Is(err, store.ErrNotFound) {
		_, _ = argon2id.ComparePasswordAndHash(in.Password, unknownHash)
		return SessionView{}, wrong
	}
	if err != nil {
		return SessionView{}, err
	}
	if !s.demoSignIn(in, name) {
		ok, err := argon2id.ComparePasswordAndHash(in.Password, u.PasswordHash)
		if err != nil || !ok {
			return SessionView{}, wrong
		}
	}
	sess, err := s.sessions.Get(c)
	if err != nil {
		return SessionView{}, err
	}
	defer sess.Release()
	// A new id at sign-in: one planted before is worth nothing.
	if err := sess.Regenerate(); err != nil {
		return SessionView{}, err
	}
	sess.Set(sessionUser, u.ID)
	if err := sess.Save(); err != nil {
		return SessionView{}, err
	}
	return SessionView{User: userView(u), Demo: []DemoAccount{}}, nil
}

// demoSignIn lets the made-up accounts of demo mode in without a password.
func (s *server) demoSignIn(in SignIn, name string) bool {
	return in.Demo && slices.ContainsFunc(s.Demo, func(d DemoAccount) bool { return d.Name == name })
}

func (s *server) signOut(c *call, _ none) (none, error) {
	sess, err := s.sessions.Get(c)
	if err != nil {
		return none{}, err
	}
	defer sess.Release()
	return none{}, sess.Destroy()
}

func (s *server) setPreferences(c *call, in Preferences) (UserView, error) {
	if in.Units != "metric" && in.Units != "us" && in.Units != "both" {
		return UserView{}, refuse(http.StatusUnprocessableEntity, Problem{Code: "problem.preferences"})
	}
	if in.Theme != "day" && in.Theme != "night" {
		return UserView{}, refuse(http.StatusUnprocessableEntity, Problem{Code: "problem.preferences"})
	}
	if err := s.Store.SetPreferences(c.Context(), c.user.ID, in.Units, in.Theme); err != nil {
		return UserView{}, err
	}
	c.user.Units, c.user.Theme = in.Units, in.Theme
	return *userView(c.user), nil
}
