package server

import (
	"context"
	"errors"
	"net/http"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/google/uuid"

	"geminate/brake/job"
	"geminate/brake/system"
	"geminate/store"
)

// Guests come by a link of one set exercise, work it and see what came of it. They are no account of the shop: they see
// nothing else of it, sign in again on no other device, and are gone when the exercise is taken back.

const (
	// guestsMost come for one exercise.
	guestsMost = 60
	// guestLinkFor is how long a link is good where the exercise has no day; with one, to the end of the day after it.
	guestLinkFor = 60 * 24 * time.Hour
	// guestName is how their accounts are called; nobody signs in by it.
	guestName = "guest-"
)

// GuestIn is who comes.
type GuestIn struct {
	Display string `json:"display"`
}

var errGuests = fiber.NewError(http.StatusConflict, "problem.guests")

// guestLink makes a link; an older one of the same exercise goes on being good.
func (s *server) guestLink(c *call, _ none) (Pass, error) {
	set, err := s.Store.PracticeSetOf(c.Context(), c.jobID())
	if err != nil {
		return Pass{}, err
	}
	until := now().Add(guestLinkFor)
	if day, err := time.Parse(time.DateOnly, set.DueOn); err == nil {
		until = day.AddDate(0, 0, 2)
	}
	if !until.After(now()) {
		return Pass{}, system.Faults{{Path: "$.due_on", Code: "fault.date", With: map[string]any{"value": set.DueOn}}}
	}
	token := s.newPass()
	if err := s.links.SetWithContext(c.Context(), token, []byte(guestName+set.ID), time.Until(until)); err != nil {
		return Pass{}, err
	}
	s.audit(c, "guest_link", "", map[string]string{"exercise": set.Exercise})
	return s.passOf(c, "/guest/"+token, time.Until(until))
}

// guest signs a guest in, under the name they give.
func (s *server) guest(c *call, in GuestIn) (SessionView, error) {
	in.Display = strings.TrimSpace(in.Display)
	if n := len([]rune(in.Display)); n == 0 || n > 60 {
		return SessionView{}, system.Faults{{Path: "$.display", Code: "fault.missing"}}
	}
	of, err := s.links.GetWithContext(c.Context(), strings.Clone(c.Params("pass")))
	if err != nil {
		return SessionView{}, err
	}
	id, ok := strings.CutPrefix(string(of), guestName)
	if !ok {
		return SessionView{}, errPass
	}
	if _, err := s.Store.PracticeSetOf(c.Context(), id); errors.Is(err, store.ErrNotFound) {
		return SessionView{}, errPass
	} else if err != nil {
		return SessionView{}, err
	}
	if n, err := s.Store.Guests(c.Context(), id); err != nil || n >= guestsMost {
		return SessionView{}, errors.Join(err, errGuests)
	}
	u := &store.User{
		ID:           uuid.NewString(),
		Display:      in.Display,
		Role:         job.Guest,
		GuestOf:      &id,
		PasswordHash: "none",
		Units:        "metric",
		Theme:        "day",
		CreatedAt:    now(),
	}
	u.Name = guestName + u.ID[:8] + u.ID[9:13]
	if err := s.Store.AddUser(c.Context(), u); err != nil {
		return SessionView{}, err
	}
	s.audit(c, "guest_came", "", map[string]string{"name": in.Display})
	return s.startSession(c, u)
}

// stillGuest says whether a guest's exercise is still set; in doubt (the database is away) it is.
func (s *server) stillGuest(ctx context.Context, u *store.User) bool {
	if u.Role != job.Guest {
		return true
	}
	if u.GuestOf == nil {
		return false
	}
	_, err := s.Store.PracticeSetOf(ctx, *u.GuestOf)
	return !errors.Is(err, store.ErrNotFound)
}
