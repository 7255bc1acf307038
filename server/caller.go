package server

import (
	"bufio"
	"context"
	"crypto/rand"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"net/http"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"geminate/brake/bleed"
)

// The caller: two screens, one state. The helper's phone has a pass for one job, and with it nothing but the calls.

// passFor is how long a pass is good: a bleed and its coffee.
const passFor = 4 * time.Hour

// Pass lets a helper's phone call and answer at one job.
type Pass struct {
	Path      string    `json:"path"` // of the page the phone opens
	ExpiresAt time.Time `json:"expires_at"`
	// Addresses are where it can be opened, each with a code to scan, the one to show first.
	Addresses []Address `json:"addresses"`
}

// CallView is what one of the two sees.
type CallView struct {
	bleed.CallNow
	Other bleed.Other `json:"other"`
	// Vehicle is all that a helper is told of the job.
	Vehicle string `json:"vehicle"`
}

// kept is the calling as stored.
type kept struct {
	Calling bleed.Calling `json:"calling"`
	Outcome bleed.Outcome `json:"outcome"`
	// SeenAt is when each of the two was last heard of: a screen gives a sign every second.
	SeenAt  map[bleed.Who]time.Time `json:"seen"`
	Vehicle string                  `json:"vehicle"`
}

// silent is how long a screen may say nothing and still count as there.
const silent = time.Duration(bleed.CallSilentS * float64(time.Second))

func (k *kept) other(who bleed.Who) bleed.Other {
	at, seen := k.SeenAt[bleed.InSeat], false
	if who == bleed.InSeat {
		at = k.SeenAt[bleed.AtBleeder]
	}
	seen = !at.IsZero()
	switch {
	case !seen:
		return bleed.OtherNone
	case time.Since(at) < silent:
		return bleed.OtherHere
	}
	return bleed.OtherGone
}

func (k *kept) view(who bleed.Who) CallView {
	other := k.other(who)
	return CallView{bleed.NowOf(k.Calling, who, who == bleed.AtBleeder && other != bleed.OtherHere, k.Outcome), other, k.Vehicle}
}

func (s *server) calling(ctx context.Context, id string) (*kept, error) {
	raw, err := s.calls.GetWithContext(ctx, id)
	k := &kept{Calling: bleed.NewCalling("", bleed.Pedal), SeenAt: map[bleed.Who]time.Time{}}
	if err != nil || raw == nil {
		return k, err
	}
	if err = json.Unmarshal(raw, k); k.SeenAt == nil {
		k.SeenAt = map[bleed.Who]time.Time{}
	}
	return k, err
}

func (s *server) keepCalling(ctx context.Context, id string, k *kept, poke bool) error {
	raw, err := json.Marshal(k)
	if err == nil {
		err = s.calls.SetWithContext(ctx, id, raw, passFor)
	}
	if poke {
		s.hub.poke(id)
	}
	return err
}

// pass makes a pass for a helper's phone.
func (s *server) pass(c *call, _ none) (Pass, error) {
	id := c.jobID()
	j, err := s.Store.Job(c.Context(), id)
	if err != nil {
		return Pass{}, err
	}
	token := s.newPass()
	if err := s.passes.SetWithContext(c.Context(), token, []byte(id), passFor); err != nil {
		return Pass{}, err
	}
	k, err := s.calling(c.Context(), id)
	if err != nil {
		return Pass{}, err
	}
	k.Vehicle = j.Intake.Vehicle
	if err := s.keepCalling(c.Context(), id, k, true); err != nil {
		return Pass{}, err
	}
	return s.passOf(c, "/call/"+token, passFor)
}

// passOf is a pass as it is shown: its path, and this shop's addresses with it as codes to point a phone at.
func (s *server) passOf(c *call, path string, lasts time.Duration) (Pass, error) {
	at, err := s.addresses(c, none{})
	if err != nil {
		return Pass{}, err
	}
	out := Pass{Path: path, ExpiresAt: now().Add(lasts), Addresses: []Address{}}
	for _, a := range at.Addresses {
		full, err := addressOf(strings.TrimSuffix(a.URL, "/") + out.Path)
		if err == nil {
			out.Addresses = append(out.Addresses, full)
		}
	}
	return out, nil
}

// jobCall is the technician's side.
func (s *server) jobCall(c *call, _ none) (CallView, error) {
	if err := s.isThere(c.Ctx, c.jobID()); err != nil {
		return CallView{}, err
	}
	k, err := s.calling(c.Context(), c.jobID())
	if err != nil {
		return CallView{}, err
	}
	return k.view(bleed.AtBleeder), nil
}

func (s *server) jobSay(c *call, in bleed.CallIn) (CallView, error) {
	id := c.jobID()
	if err := s.isThere(c.Ctx, id); err != nil {
		return CallView{}, err
	}
	return s.say(c.Context(), id, bleed.AtBleeder, in)
}

// say takes one word at a time, or the sign that a screen is there.
func (s *server) say(ctx context.Context, id string, who bleed.Who, in bleed.CallIn) (CallView, error) {
	s.callMu.Lock()
	defer s.callMu.Unlock()
	k, err := s.calling(ctx, id)
	if err != nil {
		return CallView{}, err
	}
	was, there := k.Calling, k.other(other(who)) == bleed.OtherHere
	k.SeenAt[who] = hands()
	switch {
	case in.Begin != "" && who == bleed.AtBleeder:
		if len(in.Begin) > 20 {
			return CallView{}, fiber.NewError(http.StatusBadRequest, "problem.http")
		}
		k.Calling, k.Outcome = bleed.NewCalling(in.Begin, in.With), bleed.NothingYet
		k.Calling.N, k.Calling.ID, k.Calling.Auto = was.N+1, randomToken(), was.Auto
	case in.Merge != nil && who == bleed.AtBleeder:
		if len(in.Merge.Wheel)+len(in.Merge.ID)+len(in.Merge.At) > 120 || in.Merge.N > was.N+mostApart || in.Merge.N < 0 {
			return CallView{}, fiber.NewError(http.StatusBadRequest, "problem.http")
		}
		k.Calling, k.Outcome = was.Merge(*in.Merge, hands()), bleed.NothingYet
	case in.Auto != nil:
		k.Calling.Auto = *in.Auto
		k.Calling.N++
	case in.Word == "", in.After != was.N && in.Word != bleed.CallStop && in.Word != bleed.CallLifted:
		// A sign of life; or the other was quicker, and this screen sees what was said.
	default:
		// A foot that came up is told by what the screen in the seat showed: where the other one was quicker it is told late.
		late := in.Late || in.Word == bleed.CallLifted && in.After != was.N
		next, outcome, err := was.Say(
			bleed.Said{By: who, Word: in.Word, Alone: k.view(who).Alone, At: hands(), Next: in.Next, Late: late},
		)
		if err != nil {
			return CallView{}, fiber.NewError(http.StatusConflict, "problem.not_said_now")
		}
		k.Calling, k.Outcome = next, outcome
	}
	changed := k.Calling != was || !there
	return k.view(who), s.keepCalling(ctx, id, k, changed)
}

// hands is the time by which two people call: their own, however fast the shop's clock is made to run.
func hands() time.Time { return time.Now().UTC() }

// mostApart is how many words one may have said alone.
const mostApart = 100_000

func other(who bleed.Who) bleed.Who {
	if who == bleed.InSeat {
		return bleed.AtBleeder
	}
	return bleed.InSeat
}

// errPass is a pass that is unknown or has run out.
var errPass = fiber.NewError(http.StatusForbidden, "problem.pass")

func (s *server) passed(c fiber.Ctx) (string, error) {
	token := strings.Clone(c.Params("pass"))
	if len(token) > 64 {
		return "", errPass
	}
	id, err := s.passes.GetWithContext(c.Context(), token)
	if err != nil {
		return "", err
	}
	if id == nil {
		return "", errPass
	}
	// What was released is no longer worked on: nobody is needed in its seat.
	open, err := s.Store.IsOpen(c.Context(), string(id))
	if err == nil && !open {
		err = errPass
	}
	return string(id), err
}

// helperCall is the helper's side: what was called, and the answer.
func (s *server) helperCall(c *call, _ none) (CallView, error) {
	id, err := s.passed(c.Ctx)
	if err != nil {
		return CallView{}, err
	}
	k, err := s.calling(c.Context(), id)
	if err != nil {
		return CallView{}, err
	}
	return k.view(bleed.InSeat), nil
}

func (s *server) helperSay(c *call, in bleed.CallIn) (CallView, error) {
	id, err := s.passed(c.Ctx)
	if err != nil {
		return CallView{}, err
	}
	return s.say(c.Context(), id, bleed.InSeat, in)
}

// callLive streams the calls to one of the two: "call" whenever a word was said, or the phone came or went.
func (s *server) callLive(c fiber.Ctx) error {
	who, id, err := bleed.InSeat, "", error(nil)
	var listening *listener // nil for a helper's phone, which a pass lets in
	share := "helpers"
	if c.Params("pass") != "" {
		id, err = s.passed(c)
	} else {
		var v *visitor
		if v, err = s.signedIn(c); err == nil {
			err = s.mayWatch(c, v.user)
		}
		if v != nil {
			l := listenerOf(c, v)
			listening, share = &l, shareOf(v.user)
		}
		who, id = bleed.AtBleeder, strings.Clone(c.Params("id"))
		if err == nil {
			err = s.isThere(c, id)
		}
	}
	if err != nil {
		return err
	}
	whose := "helper " + id
	if listening != nil {
		whose = listening.user
	}
	wake, stop, ok := s.hub.watch(id, whose, share)
	if !ok {
		return fiber.NewError(http.StatusServiceUnavailable, "problem.busy")
	}
	c.Set(fiber.HeaderContentType, "text/event-stream")
	c.Set(fiber.HeaderCacheControl, "no-store")
	c.Set("X-Accel-Buffering", "no")
	return c.SendStreamWriter(func(w *bufio.Writer) {
		defer stop()
		s.tellCalls(w, id, who, wake, listening)
	})
}

func (s *server) tellCalls(w *bufio.Writer, id string, who bleed.Who, wake chan struct{}, listening *listener) {
	tick := time.NewTicker(hereEvery)
	defer tick.Stop()
	told := ""
	until := time.Now().Add(passFor)
	for s.life.Err() == nil && time.Now().Before(until) {
		ctx, cancel := context.WithTimeout(s.life, 2*time.Second)
		k, err := s.calling(ctx, id)
		cancel()
		line := ": here\n\n"
		if err == nil {
			if raw, err := json.Marshal(k.view(who)); err == nil && string(raw) != told {
				told = string(raw)
				line = fmt.Sprintf("event: call\ndata: %s\n\n", raw)
			}
		}
		if _, err := w.WriteString(line); err != nil || w.Flush() != nil {
			return
		}
		select {
		case <-s.life.Done():
			return
		case <-wake:
		case <-tick.C:
			if listening != nil && !s.listens(*listening) {
				return // closed or signed out
			}
			ctx, cancel := context.WithTimeout(s.life, 2*time.Second)
			open, err := s.Store.IsOpen(ctx, id)
			cancel()
			if err == nil && !open {
				return // released: nothing more is called
			}
		}
	}
}

// randomToken is a name nobody guesses.
func randomToken() string {
	raw := make([]byte, 18)
	_, _ = rand.Read(raw) // never fails
	return base64.RawURLEncoding.EncodeToString(raw)
}
