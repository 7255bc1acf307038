package server

import (
	"context"
	"time"

	"github.com/google/uuid"

	"geminate/brake/job"
	"geminate/brake/practice"
	"geminate/brake/trace"
	"geminate/brake/twin"
	"geminate/instrument"
	"geminate/store"
)

// Stand-in instruments at a practice vehicle: a force and a travel sensor on its pedal, under a foot that goes down, holds for a minute and
// comes up, over and over. They feel what is really there, as instruments do, and are gone after a while.

// standFor is how long they stay.
const standFor = 10 * time.Minute

// standInPlay is how they tell: quick enough to be drawn, with the usual noise.
var standInPlay = instrument.Play{HZ: 20, ForceN: 300, Noise: 1}

func (s *server) standIns(c *call, _ none) ([]InstrumentView, error) {
	id, out := c.jobID(), []InstrumentView{}
	var model *twin.Model
	err := s.worked(c.Context(), id, func(p *store.Practice, bay *practice.Bay, _ *job.Job) error {
		if p.UserID != c.user.ID || p.EndedAt != nil {
			return store.ErrNotFound
		}
		model = twin.New(bay.Real())
		return nil
	})
	if err != nil {
		return out, err
	}
	have, err := s.attached(c.Context(), id)
	if err != nil || len(have) > 0 { // there already
		for i := range have {
			out = append(out, s.instrumentView(&have[i]))
		}
		return out, err
	}
	pedal := func(forceN, seconds float64) float64 {
		return model.Travel(forceN, false) + model.SinkMM(forceN, seconds, false)
	}
	for n, kind := range []trace.Kind{trace.Force, trace.Travel} {
		i := &store.Instrument{ID: uuid.NewString(), Kind: kind, Name: "Stand-in", JobID: &id, AddedBy: c.user.Display, AddedAt: now()}
		if err := s.Store.AddInstrument(c.Context(), i, s.newPass()); err != nil {
			return out, err
		}
		go func() {
			ctx, cancel := context.WithTimeout(s.life, standFor)
			defer cancel()
			err := instrument.StandIn{Kind: kind, ID: i.ID}.RunTo(ctx, standInPlay, pedal, uint64(n), func(pack []byte) error {
				_, err := s.lay(i, pack)
				return err
			})
			if err != nil {
				s.Log.Warn("stand-in", "error", err)
			}
			gone, done := context.WithTimeout(context.Background(), 5*time.Second)
			defer done()
			if err := s.Store.DropInstrument(gone, i.ID); err != nil {
				s.Log.Warn("stand-in", "error", err)
			}
		}()
		out = append(out, s.instrumentView(i))
	}
	return out, nil
}
