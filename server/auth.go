package server

import (
	"crypto/rand"
	"encoding/json"
	"errors"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/gofiber/fiber/v3"
	"github.com/trustelem/zxcvbn"

	"geminate/brake/job"
	"geminate/store"
	"geminate/words"
)

// hashParams: 19 MiB, two passes, one lane, the second choice of the OWASP password storage sheet
// (from memory).
var hashParams = &argon2id.Params{Memory: 19 * 1024, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

const (
	passwordLeast = 10  // characters
	passwordMost  = 128 // hashing a megabyte is work for a stranger to give us
	leastScore    = 2   // of zxcvbn's 0 to 4: below it a password is among the first that are tried
)

// Errors of passwords, each saying what to do.
var (
	ErrPasswordShort  = errors.New("a password needs at least 10 characters")
	ErrPasswordLong   = errors.New("a password may have up to 128 characters")
	ErrPasswordCommon = errors.New("this password is among the first that are tried: take several words that do not belong together")
)

// HashPassword hashes a password for an account of this name.
func HashPassword(password, name string) (string, error) {
	switch n := len([]rune(password)); {
	case n < passwordLeast || len(strings.TrimSpace(password)) == 0:
		return "", ErrPasswordShort
	case n > passwordMost:
		return "", ErrPasswordLong
	case zxcvbn.PasswordStrength(password, []string{name, "geminate"}).Score < leastScore:
		return "", ErrPasswordCommon
	}
	return argon2id.CreateHash(password, hashParams)
}

// unknownHash is compared with when a name is unknown, so that the answer takes as long.
var unknownHash, _ = argon2id.CreateHash("no such account", hashParams)

// What a session holds.
const (
	sessionUser  = "user"
	sessionEpoch = "epoch" // of the account when it signed in: a later one ends the session
	sessionToken = "token" // against forged requests: the session's own, made anew at each sign-in
)

const (
	tokenCookie  = "geminate_csrf"
	deviceCookie = "geminate_device"
	deviceFor    = 365 * 24 * time.Hour
)

// visitor is who a request's cookie names.
type visitor struct {
	user  *store.User
	token string
}

func (s *server) signedIn(c fiber.Ctx) (*visitor, error) {
	v, err := s.visitor(c)
	if err != nil {
		return nil, err
	}
	if v == nil {
		return nil, fiber.NewError(http.StatusUnauthorized, "problem.signed_out")
	}
	c.Locals(accountKey, v.user.Name)
	return v, nil
}

// visitor is who the session cookie names, nil where there is none. An anonymous visit makes no session and
// writes nothing.
func (s *server) visitor(c fiber.Ctx) (*visitor, error) {
	if c.Cookies(sessionCookie) == "" {
		return nil, nil
	}
	sess, err := s.sessions.Get(c)
	if err != nil {
		return nil, err
	}
	defer sess.Release()
	id, _ := sess.Get(sessionUser).(string)
	token, _ := sess.Get(sessionToken).(string)
	if sess.Fresh() || id == "" {
		return nil, nil
	}
	u, err := s.Store.User(c.Context(), id)
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	if epoch, _ := sess.Get(sessionEpoch).(int); u.Disabled || epoch != u.Epoch || !s.stillGuest(c.Context(), u) {
		return nil, nil
	}
	return &visitor{u, token}, nil
}

func userView(u *store.User) *UserView {
	return &UserView{
		ID:             u.ID,
		Name:           u.Name,
		Display:        u.Display,
		Role:           u.Role,
		Units:          u.Units,
		Theme:          u.Theme,
		Language:       u.Language,
		Rights:         u.Role.Rights(),
		PracticeRights: job.PracticeRole(u.Role).Rights(),
	}
}

func (s *server) getSession(c *call, _ none) (SessionView, error) {
	out := SessionView{Demo: []DemoAccount{}, Shop: s.code, Shops: s.among.several(c.Context())}
	v, err := s.visitor(c)
	if err != nil {
		return out, err
	}
	if v != nil {
		s.giveToken(c, v.token)
		out.User = userView(v.user)
		return out, nil
	}
	if s.Demo != nil {
		out.Demo = s.Demo
		return out, nil
	}
	n, err := s.Store.Users(c.Context())
	out.First = n == 0 && s.code == store.First
	return out, err
}

// unitPrefs are how a person reads figures.
var unitPrefs = []string{"metric", "us", "both"}

// giveToken hands the page its session's token: a script of ours can read it, another site's cannot.
func (s *server) giveToken(c fiber.Ctx, token string) {
	c.Cookie(&fiber.Cookie{Name: tokenCookie, Value: token, Path: "/", SameSite: fiber.CookieSameSiteStrictMode, Secure: s.Secure})
}

func (s *server) signIn(c *call, in SignIn) (SessionView, error) {
	wrong := fiber.NewError(http.StatusUnauthorized, "problem.wrong_password")
	name := strings.ToLower(strings.TrimSpace(in.Name))
	if name == "" || len(name) > 80 || len(in.Password) > 4*passwordMost {
		return SessionView{}, wrong
	}
	u, err := s.Store.UserByName(c.Context(), name)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return SessionView{}, err
	}
	if u == nil || !s.demoSignIn(in, name) {
		if err := s.checkPassword(c, u, name, in.Password); err != nil {
			return SessionView{}, err
		}
	}
	if u == nil || u.Disabled {
		return SessionView{}, wrong
	}
	return s.startSession(c, u)
}

// checkPassword compares at the pace the lanes allow.
func (s *server) checkPassword(c *call, u *store.User, name, password string) error {
	wrong := fiber.NewError(http.StatusUnauthorized, "problem.wrong_password")
	device := c.Cookies(deviceCookie)
	lanes := []string{"account " + name, "address " + s.address(c)}
	if u != nil && s.knownDevice(c, u, device) {
		lanes = []string{"device " + u.ID + " " + device}
	}
	leave, err := s.throttle.enter(c.Context(), lanes)
	if err != nil {
		return err
	}
	defer leave()
	hash := unknownHash
	if u != nil {
		hash = u.PasswordHash
	}
	ok, err := argon2id.ComparePasswordAndHash(password, hash)
	if err != nil || !ok || u == nil {
		// A name that is nobody's may be a password typed in the wrong field: it goes nowhere.
		said := ""
		if u != nil {
			said = name
		}
		s.audit(c, "sign_in_failed", "", map[string]string{"name": said})
		if err := s.throttle.wrong(c.Context(), lanes); err != nil {
			return err
		}
		return wrong
	}
	return s.throttle.right(c.Context(), lanes)
}

func (s *server) knownDevice(c *call, u *store.User, device string) bool {
	if device == "" {
		return false
	}
	raw, err := s.devices.GetWithContext(c.Context(), u.ID+" "+device)
	return err == nil && raw != nil
}

func (s *server) startSession(c *call, u *store.User) (SessionView, error) {
	sess, err := s.sessions.Get(c)
	if err != nil {
		return SessionView{}, err
	}
	defer sess.Release()
	// A new id and a new token at sign-in: what was planted before is worth nothing.
	if err := sess.Regenerate(); err != nil {
		return SessionView{}, err
	}
	token := rand.Text()
	sess.Set(sessionUser, u.ID)
	sess.Set(sessionToken, token)
	sess.Set(sessionEpoch, u.Epoch)
	if err := sess.Save(); err != nil {
		return SessionView{}, err
	}
	s.giveToken(c, token)
	device := strings.Clone(c.Cookies(deviceCookie))
	if device == "" || len(device) > 64 {
		device = rand.Text()
	}
	if err := s.devices.SetWithContext(c.Context(), u.ID+" "+device, []byte{1}, deviceFor); err != nil {
		return SessionView{}, err
	}
	c.Cookie(
		&fiber.Cookie{
			Name:     deviceCookie,
			Value:    device,
			Path:     "/api/session",
			HTTPOnly: true,
			SameSite: fiber.CookieSameSiteStrictMode,
			Secure:   s.Secure,
			MaxAge:   int(deviceFor.Seconds()),
		},
	)
	s.rememberShop(c)
	c.user = u
	s.audit(c, "sign_in", "", nil)
	return SessionView{User: userView(u), Demo: []DemoAccount{}, Shop: s.code, Shops: s.among.several(c.Context())}, nil
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
	s.audit(c, "sign_out", "", nil)
	return none{}, sess.Destroy()
}

func (s *server) setPreferences(c *call, in Preferences) (UserView, error) {
	if !slices.Contains(unitPrefs, in.Units) {
		return UserView{}, refuse(http.StatusUnprocessableEntity, Problem{Code: "problem.preferences"})
	}
	if in.Theme != "day" && in.Theme != "night" {
		return UserView{}, refuse(http.StatusUnprocessableEntity, Problem{Code: "problem.preferences"})
	}
	if in.Language != "" && !slices.Contains(words.Languages, in.Language) {
		return UserView{}, refuse(http.StatusUnprocessableEntity, Problem{Code: "problem.preferences"})
	}
	if err := s.Store.SetPreferences(c.Context(), c.user.ID, in.Units, in.Theme, in.Language); err != nil {
		return UserView{}, err
	}
	c.user.Units, c.user.Theme, c.user.Language = in.Units, in.Theme, in.Language
	return *userView(c.user), nil
}

// auditLine makes a line of who did what; detail is kept as JSON.
func (s *server) auditLine(c *call, action, jobID string, detail any) *store.Audit {
	a := &store.Audit{At: now(), Request: requestID(c), Action: action, JobID: jobID, Address: s.address(c)}
	if c.user != nil {
		a.UserID, a.UserName, a.Role = c.user.ID, c.user.Display, string(c.user.Role)
	}
	if detail != nil {
		raw, _ := json.Marshal(detail)
		a.Detail = string(raw)
	}
	s.Log.Info("audit", "request", a.Request, "action", action, "account", a.UserName, "role", a.Role, "job", jobID, "address",
		a.Address, "detail", a.Detail)
	return a
}

// audit takes down what is stored in no transaction of its own. That it could not be is told in the log: it is
// no reason to refuse the work.
func (s *server) audit(c *call, action, jobID string, detail any) {
	if err := s.Store.AddAudit(c.Context(), s.auditLine(c, action, jobID, detail)); err != nil {
		s.Log.Error("audit", "request", requestID(c), "action", action, "error", err)
	}
}

// actor is who the core is told asks.
func (c *call) actor() job.Actor {
	return job.Actor{ID: c.user.ID, Name: c.user.Display, Role: c.user.Role}
}

// now is the server's clock as the database keeps it.
// pace is how many times as fast the shop's clock runs since begun: set once, before anything is served.
var (
	pace  = 1.0
	begun = time.Now()
)

func now() time.Time {
	at := time.Now()
	if pace > 1 {
		at = begun.Add(time.Duration(pace * float64(at.Sub(begun))))
	}
	return at.UTC().Truncate(time.Millisecond)
}
