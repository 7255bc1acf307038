package server

import (
	"context"
	"net/http"

	"geminate/brake/system"
	"geminate/store"

	"github.com/gofiber/fiber/v3"
)

// What one shop of a chain may learn of the others: their figures, by who owns the chain; what was done to one vehicle,
// with its owner's consent, from shops whose lead allows it, and both shops' audit tells of it.

// AskIn asks the other shops.
type AskIn struct {
	// Consent says that the vehicle's owner agreed that the other shops are asked.
	Consent bool `json:"consent"`
}

// ShopTold is what one other shop knows.
type ShopTold struct {
	Shop string                `json:"shop"`
	Jobs []store.DoneElsewhere `json:"jobs"`
}

// AskOut is what all of them know; Asked is how many shops answer such questions.
type AskOut struct {
	Asked int        `json:"asked"`
	Told  []ShopTold `json:"told"`
}

func (s *server) askChain(c *call, in AskIn) (AskOut, error) {
	out := AskOut{Told: []ShopTold{}}
	if !s.among.several(c.Context()) {
		return out, store.ErrNotFound
	}
	if !in.Consent {
		return out, system.Faults{{Path: "$.consent", Code: "fault.consent"}}
	}
	v, _, err := s.Store.Vehicle(c.Context(), c.jobID())
	if err != nil {
		return out, err
	}
	own, err := s.Store.Settings(c.Context())
	if err != nil {
		return out, err
	}
	err = s.among.others(c.Context(), s.code, func(name string, st *store.Store) error {
		out.Asked++
		jobs, err := st.Done(c.Context(), v.Plate, v.VIN)
		if err != nil || len(jobs) == 0 {
			return err
		}
		out.Told = append(out.Told, ShopTold{name, jobs})
		line := s.auditLine(c, "vehicle_told", "", map[string]string{"shop": own.Name, "plate": v.Plate, "vin": v.VIN})
		line.UserID = "" // an account of another shop's
		return st.AddAudit(c.Context(), line)
	})
	if err != nil {
		return out, err
	}
	s.audit(c, "chain_asked", "", map[string]any{"vehicle": v.ID, "shops": out.Asked, "told": len(out.Told)})
	return out, nil
}

// others runs fn for every other shop whose lead lets it be asked, by its name.
func (h *house) others(ctx context.Context, than store.Code, fn func(name string, st *store.Store) error) error {
	return h.first.Chain.Each(ctx, func(code store.Code, st *store.Store) error {
		if code == than {
			return nil
		}
		set, err := st.Settings(ctx)
		if err != nil || !set.ShareVehicles {
			return err
		}
		return fn(nameOf(set.Name, code), st)
	})
}

func nameOf(name string, code store.Code) string {
	return firstOf(name, string(code), "1")
}

// ShopFigures are one shop's in the chain.
type ShopFigures struct {
	Shop    string           `json:"shop"`
	Open    int64            `json:"open"` // jobs not released
	Figures store.Statistics `json:"figures"`
}

// ChainView is the chain as its owner sees it.
type ChainView struct {
	Shops    []ShopFigures    `json:"shops"`
	Together store.Statistics `json:"together"`
}

func (s *server) chainFigures(c *call, _ none) (ChainView, error) {
	out := ChainView{Shops: []ShopFigures{}}
	if s.code != store.First || s.Chain == nil { // an owner's account counts in the first shop alone
		return out, fiber.NewError(http.StatusNotFound, "problem.not_found")
	}
	var all []store.Statistics
	err := s.Chain.Each(c.Context(), func(code store.Code, st *store.Store) error {
		set, err := st.Settings(c.Context())
		if err != nil {
			return err
		}
		of := ShopFigures{Shop: nameOf(set.Name, code)}
		if of.Open, err = st.OpenJobs(c.Context()); err != nil {
			return err
		}
		if of.Figures, err = st.Statistics(c.Context(), since(c), set.ComebackDays); err != nil {
			return err
		}
		out.Shops, all = append(out.Shops, of), append(all, of.Figures)
		return nil
	})
	out.Together = store.Together(all)
	return out, err
}
