package server

import (
	"context"
	"time"

	"github.com/google/uuid"

	"geminate/brake/job"
	"geminate/brake/trace"
	"geminate/brake/twin"
	"geminate/ground/practice"
	"geminate/ground/proving"
	"geminate/instrument"
	"geminate/store"
)

// Stand-in instruments at a practice vehicle: a force and a travel sensor on its pedal, under a foot that goes down,
// holds for a minute and comes up, over and over. They feel what is really there, as instruments do, and are gone after
// a while.

// standFor is how long they stay.
const standFor = 10 * time.Minute

// standInKinds are those at hand: two that feel the pedal all the time, and three that tell what the learner's own acts
// do to them.
var standInKinds = []trace.Kind{trace.Force, trace.Travel, trace.FootSwitch, trace.Scale, trace.Torque}

// isStandIn tells them from the shop's own, which somebody has added.
func isStandIn(i *store.Instrument) bool { return i.AddedBy == "" }

// standInLeft says whether one was left behind by a server that is no more.
func standInLeft(i *store.Instrument) bool {
	return isStandIn(i) && now().Sub(i.AddedAt) > standFor+time.Minute
}

// standInSays lays a figure in, in our unit.
func (s *server) standInSays(i *store.Instrument, v float64) {
	m, _ := trace.MeasureOf(i.Kind)
	pack, err := instrument.WritePack(string(i.Kind), m.SenML, []time.Time{time.Now().UTC()}, []float64{v / m.Factor})
	if err == nil {
		_, err = s.lay(i, pack)
	}
	if err != nil {
		s.Log.Warn("stand-in", "error", err)
	}
}

// standInsFeel lets a practice vehicle's stand-ins tell what an act does to them: the foot switch each stroke, the
// scale what came, the wrench its click.
func (s *server) standInsFeel(ctx context.Context, id string, a *proving.Act, seen *proving.Seen) {
	list, err := s.attached(ctx, id)
	if err != nil {
		return // they stay silent
	}
	for n := range list {
		i := &list[n]
		if !isStandIn(i) {
			continue
		}
		was, _, _, _ := s.feeds.of(i.ID).Last()
		switch {
		case i.Kind == trace.FootSwitch && a.Do == proving.DoStroke:
			s.standInSays(i, was.V+float64(a.N))
		case i.Kind == trace.Scale && seen.CM3 > 0:
			s.standInSays(i, was.V+seen.CM3/trace.CM3OfGrams(1, 20, false))
		case i.Kind == trace.Torque && a.NM > 0:
			s.clicks(i, a.NM, s.fastenersOf(ctx, id, a.ID))
		}
	}
}

// fastenersOf are those of a step of a job's plan, 1 where it has none.
func (s *server) fastenersOf(ctx context.Context, id, step string) int {
	j, err := s.Store.Job(ctx, id)
	if err != nil {
		return 1
	}
	p, err := j.Plan()
	if err != nil {
		return 1
	}
	if x := p.Find(step); x != nil && x.Torque != nil {
		return x.Torque.Fasteners
	}
	return 1
}

// clickEvery is how long a hand takes from one fastener to the next at the least.
const clickEvery = 700 * time.Millisecond

// clicks lets a wrench click at so many fasteners, one after another.
func (s *server) clicks(i *store.Instrument, nm float64, n int) {
	own := *i
	go func() {
		for range n {
			s.standInSays(&own, nm)
			select {
			case <-s.life.Done():
				return
			case <-time.After(clickEvery):
			}
		}
	}()
}

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
	for n, kind := range standInKinds {
		i := &store.Instrument{
			ID:      uuid.NewString(),
			Kind:    kind,
			Name:    "Stand-in",
			JobID:   &id,
			AddedAt: now(),
		} // added by nobody: that is what tells it
		if err := s.Store.AddInstrument(c.Context(), i, s.newPass()); err != nil {
			return out, err
		}
		go func() {
			ctx, cancel := context.WithTimeout(s.life, standFor)
			defer cancel()
			if kind == trace.Force || kind == trace.Travel {
				err := instrument.StandIn{Kind: kind, ID: i.ID}.RunTo(ctx, standInPlay, pedal, uint64(n), func(pack []byte) error {
					_, err := s.lay(i, pack)
					return err
				})
				if err != nil {
					s.Log.Warn("stand-in", "error", err)
				}
			} else {
				if kind != trace.Torque { // a wrench at rest says nothing
					s.standInSays(i, 0)
				}
				<-ctx.Done()
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
