package server

import (
	"bytes"
	"context"
	"crypto/sha256"
	"errors"
	"net/http"
	"regexp"
	"slices"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/google/uuid"

	"geminate/brake/job"
	"geminate/brake/system"
	"geminate/store"
)

// Accounts, by the lead; a first account on an empty shop; passwords by one-time link.

// linkState is where one-time links are kept.
const linkState = "link"

// linkFor is how long a one-time link is good.
const linkFor = 48 * time.Hour

// AccountView is an account as the lead sees it.
type AccountView struct {
	ID       string   `json:"id"`
	Name     string   `json:"name"`
	Display  string   `json:"display"`
	Role     job.Role `json:"role"`
	Trained  bool     `json:"trained"` // for high voltage
	Disabled bool     `json:"disabled"`
}

// AccountIn makes or changes one. The name stays what it was.
type AccountIn struct {
	Name     string   `json:"name"`
	Display  string   `json:"display"`
	Role     job.Role `json:"role"`
	Trained  bool     `json:"trained"`
	Disabled bool     `json:"disabled"`
}

// LinkOut is a one-time link to set a password by.
type LinkOut struct {
	Path      string    `json:"path"`
	ExpiresAt time.Time `json:"expires_at"`
}

// PasswordIn sets a password; Old is asked of who is signed in.
type PasswordIn struct {
	Old      string `json:"old,omitempty"`
	Password string `json:"password"`
}

// FirstIn makes the lead's account of an empty shop.
type FirstIn struct {
	Name     string `json:"name"`
	Display  string `json:"display"`
	Password string `json:"password"`
	// Zone and Units are what the browser goes by: the shop's time and the lead's figures begin there.
	Zone  string `json:"zone,omitempty"`
	Units string `json:"units,omitempty"`
}

var accountName = regexp.MustCompile(`^[a-z0-9][a-z0-9._-]{1,39}$`)

func (in *AccountIn) check() error {
	var f system.Faults
	if !accountName.MatchString(in.Name) {
		f = append(f, system.Fault{Path: "$.name", Code: "fault.account_name"})
	}
	if n := len([]rune(strings.TrimSpace(in.Display))); n == 0 || n > 120 {
		f = append(f, system.Fault{Path: "$.display", Code: "fault.missing"})
	}
	if !slices.Contains(job.Roles, in.Role) {
		f = append(
			f,
			system.Fault{
				Path: "$.role",
				Code: "fault.enum",
				With: map[string]any{"value": in.Role, "allowed": "trainee, technician, lead"},
			},
		)
	}
	return f.Err()
}

func viewOf(u *store.User) AccountView {
	return AccountView{ID: u.ID, Name: u.Name, Display: u.Display, Role: u.Role, Trained: u.Trained, Disabled: u.Disabled}
}

func (s *server) accounts(c *call, _ none) ([]AccountView, error) {
	list, err := s.Store.Accounts(c.Context())
	out := []AccountView{}
	for i := range list {
		if list[i].Role != job.Guest { // whose exercise they came by says who they are
			out = append(out, viewOf(&list[i]))
		}
	}
	return out, err
}

func (s *server) addAccount(c *call, in AccountIn) (AccountView, error) {
	in.Name = strings.ToLower(strings.TrimSpace(in.Name))
	if err := in.check(); err != nil {
		return AccountView{}, err
	}
	// No password opens it until its own link was used.
	u := &store.User{
		ID:           uuid.NewString(),
		Name:         in.Name,
		Display:      strings.TrimSpace(in.Display),
		Role:         in.Role,
		Trained:      in.Trained,
		PasswordHash: "none",
		Units:        "metric",
		Theme:        "day",
		CreatedAt:    now(),
	}
	if err := s.Store.AddUser(c.Context(), u); err != nil {
		if errors.Is(err, store.ErrTaken) {
			return AccountView{}, system.Faults{{Path: "$.name", Code: "fault.name_taken"}}
		}
		return AccountView{}, err
	}
	s.audit(c, "account_added", "", map[string]string{"account": u.Name, "role": string(u.Role)})
	return viewOf(u), nil
}

// errLastLead keeps a shop from locking itself out.
var errLastLead = fiber.NewError(http.StatusConflict, "problem.last_lead")

func (s *server) setAccount(c *call, in AccountIn) (AccountView, error) {
	u, err := s.Store.User(c.Context(), c.jobID())
	if err == nil && u.Role == job.Guest {
		err = store.ErrNotFound
	}
	if err != nil {
		return AccountView{}, err
	}
	in.Name = u.Name
	if err := in.check(); err != nil {
		return AccountView{}, err
	}
	if u.Role == job.Lead && (in.Role != job.Lead || in.Disabled) {
		list, err := s.Store.Accounts(c.Context())
		if err != nil {
			return AccountView{}, err
		}
		others := slices.ContainsFunc(list, func(x store.User) bool { return x.ID != u.ID && x.Role == job.Lead && !x.Disabled })
		if !others {
			return AccountView{}, errLastLead
		}
	}
	u.Display, u.Role, u.Trained, u.Disabled = strings.TrimSpace(in.Display), in.Role, in.Trained, in.Disabled
	if err := s.Store.SetAccount(c.Context(), u, in.Disabled); err != nil {
		return AccountView{}, err
	}
	s.audit(c, "account_changed", "", map[string]any{"account": u.Name, "role": u.Role, "trained": u.Trained, "disabled": u.Disabled})
	return viewOf(u), nil
}

func (s *server) accountLink(c *call, _ none) (LinkOut, error) {
	u, err := s.Store.User(c.Context(), c.jobID())
	if err == nil && u.Role == job.Guest {
		err = store.ErrNotFound
	}
	if err != nil {
		return LinkOut{}, err
	}
	if err := s.dropLink(c.Context(), u.ID); err != nil { // a newer one ends the older
		return LinkOut{}, err
	}
	path, err := WelcomeLink(c.Context(), s.Store, s.code, u.ID)
	if err != nil {
		return LinkOut{}, err
	}
	s.audit(c, "account_link", "", map[string]string{"account": u.Name})
	return LinkOut{path, now().Add(linkFor)}, nil
}

// WelcomeLink makes a one-time link to set an account's password by, of a shop of this code.
func WelcomeLink(ctx context.Context, st *store.Store, code store.Code, account string) (path string, err error) {
	token, links := newPass(code), st.WebState(linkState)
	err = errors.Join(links.SetWithContext(ctx, token, []byte(account), linkFor),
		links.SetWithContext(ctx, "of "+account, linkSum(token), linkFor))
	return "/welcome/" + token, err
}

// linkSum is what is kept of an account's link, so that a table that leaks lets nobody in. The one it names is the only
// one that works, however many were asked for at once.
func linkSum(token string) []byte {
	sum := sha256.Sum256([]byte("link " + token))
	return sum[:]
}

// linkStands says whether a link is the one its account has.
func (s *server) linkStands(ctx context.Context, account, token string) (bool, error) {
	sum, err := s.links.GetWithContext(ctx, "of "+account)
	return err == nil && bytes.Equal(sum, linkSum(token)), err
}

func (s *server) signOutEverywhere(c *call, _ none) (none, error) {
	u, err := s.Store.User(c.Context(), c.jobID())
	if err != nil {
		return none{}, err
	}
	s.audit(c, "signed_out_everywhere", "", map[string]string{"account": u.Name})
	return none{}, errors.Join(s.dropLink(c.Context(), u.ID), s.Store.SetAccount(c.Context(), u, true))
}

// dropLink ends an account's one-time link, where it has one.
func (s *server) dropLink(ctx context.Context, id string) error {
	_, err := s.links.TakeWithContext(ctx, "of "+id) // its link is none any more, then
	return err
}

// badPassword turns what is wrong with a password into what the screen says.
func badPassword(err error) error {
	if err == nil {
		return nil
	}
	code := "fault.password_common"
	switch {
	case errors.Is(err, ErrPasswordShort):
		code = "fault.password_short"
	case errors.Is(err, ErrPasswordLong):
		code = "fault.password_long"
	}
	return system.Faults{{Path: "$.password", Code: code}}
}

func (s *server) welcome(c *call, in PasswordIn) (SessionView, error) {
	token := strings.Clone(c.Params("pass"))
	id, err := s.links.GetWithContext(c.Context(), token)
	if err != nil {
		return SessionView{}, err
	}
	if id == nil || strings.HasPrefix(string(id), guestName) {
		return SessionView{}, errPass
	}
	if stands, err := s.linkStands(c.Context(), string(id), token); err != nil || !stands {
		return SessionView{}, errors.Join(err, errPass)
	}
	u, err := s.Store.User(c.Context(), string(id))
	if err != nil || u.Disabled {
		return SessionView{}, errPass
	}
	hash, err := HashPassword(in.Password, u.Name)
	if err != nil {
		return SessionView{}, badPassword(err)
	}
	// Taken, not looked at: of eight who use it at once one sets the password.
	if taken, err := s.links.TakeWithContext(c.Context(), token); err != nil || taken == nil {
		return SessionView{}, errors.Join(err, errPass)
	}
	if err := s.Store.SetPassword(c.Context(), u, hash); err != nil {
		return SessionView{}, err
	}
	return s.startSession(c, u)
}

func (s *server) ownPassword(c *call, in PasswordIn) (SessionView, error) {
	if err := s.checkPassword(c, c.user, c.user.Name, in.Old); err != nil {
		return SessionView{}, err
	}
	hash, err := HashPassword(in.Password, c.user.Name)
	if err != nil {
		return SessionView{}, badPassword(err)
	}
	if err := s.Store.SetPassword(c.Context(), c.user, hash); err != nil {
		return SessionView{}, err
	}
	s.audit(c, "password_changed", "", nil)
	return s.startSession(c, c.user)
}

// first makes the lead's account of a shop that has none; it works once.
func (s *server) first(c *call, in FirstIn) (SessionView, error) {
	if s.code != store.First { // a further shop's lead comes by a link
		return SessionView{}, fiber.NewError(http.StatusConflict, "problem.not_first")
	}
	account := AccountIn{Name: strings.ToLower(strings.TrimSpace(in.Name)), Display: in.Display, Role: job.Lead}
	if err := account.check(); err != nil {
		return SessionView{}, err
	}
	hash, err := HashPassword(in.Password, account.Name)
	if err != nil {
		return SessionView{}, badPassword(err)
	}
	u := &store.User{
		ID:           uuid.NewString(),
		Name:         account.Name,
		Display:      strings.TrimSpace(in.Display),
		Role:         job.Lead,
		PasswordHash: hash,
		Units:        "metric",
		Theme:        "day",
		CreatedAt:    now(),
	}
	if slices.Contains(unitPrefs, in.Units) {
		u.Units = in.Units
	}
	if err := s.Store.AddFirst(c.Context(), u); err != nil {
		if errors.Is(err, store.ErrTaken) {
			return SessionView{}, fiber.NewError(http.StatusConflict, "problem.not_first")
		}
		return SessionView{}, err
	}
	if set := job.DefaultSettings(); in.Zone != "" {
		set.Zone = in.Zone
		if set.Check() == nil { // a zone this machine does not know is no reason not to begin
			if err := s.Store.PutSettings(c.Context(), set, nil); err != nil {
				return SessionView{}, err
			}
		}
	}
	return s.startSession(c, u)
}
