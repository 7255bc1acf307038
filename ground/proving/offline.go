package proving

import (
	"encoding/json"
	"time"

	"geminate/brake/job"
	"geminate/ground/simulate"
)

// A tablet loses the network and works on; a second pair of hands tells things to the server meanwhile; at last the two
// logs are one.

// offlineRate is the chance, before an act, of a gap in the network; offlineMost how many acts it lasts at the most.
// Assumptions.
const (
	offlineRate = 0.004
	offlineMost = 15
)

var mate = job.Actor{ID: "p2", Name: "Mate", Role: job.Technician}

// loseNetwork goes on on a copy of the job as it was known, as the tablet does.
func (t *tech) loseNetwork() {
	t.online = t.Book
	t.Book = &job.Book{Job: job.Replay(t.Job.ID, t.CreatedAt, t.Events), Events: append([]job.Event(nil), t.Events...)}
	t.offlineFor = 3 + t.rnd.IntN(offlineMost-2)
	t.offlineAt = t.Head
}

// mateActs is the other pair of hands: they wipe up and write it down, look at a joint, move fluid at a wheel nobody is
// at.
func (t *tech) mateActs() error {
	at := t.At.Add(-time.Second)
	tell := func(k job.Kind, body any) error { return known(t.online.Tell(mate, at, t.ID(), k, body)) }
	switch t.rnd.IntN(4) {
	case 0:
		return tell(job.KindNote, job.Noted{Text: "Wiped up."})
	case 1:
		list := t.Intake.System.Wheels
		w := list[t.rnd.IntN(len(list))].ID
		if err := tell(job.KindBleedStroke, job.BleedStroked{Wheel: w, Strokes: 1}); err != nil {
			return err
		}
		if t.online.Head > t.offlineAt { // told and taken: done
			t.v.Stroke(w, t.Choices.Bleed.StrokeMM, false)
			if w != t.open {
				t.v.CloseBleeder(w, simulate.Usual(simulate.Bleeder))
			}
		}
		return nil
	case 2:
		no := false
		return tell(job.KindTick, job.Ticked{Step: "close.bleeder_screws", Done: &no})
	}
	return tell(job.KindFinding, job.FindingMade{Phase: job.PhaseVerify, Finding: "check.dry_joints", Value: raw(yes(t.v.DryJoints()))})
}

// findNetwork sends what waits, each with the time it was done at; what is refused now is not told, and what was done
// stays done.
func (t *tech) findNetwork() error {
	waiting := t.Events[t.offlineAt:]
	t.Book, t.online = t.online, nil
	for _, e := range waiting {
		data, err := json.Marshal(e.Body)
		if err != nil {
			return err
		}
		stored, err := t.Append(t.Book, e.By, t.At,
			[]job.In{{ID: e.ID, Kind: e.Kind, At: e.At, Base: t.offlineAt, Device: "tablet", Data: data}})
		if known(err) != nil {
			return err
		}
		if err != nil {
			t.out.Refused++
		}
		t.Events = append(t.Events, stored...)
	}
	t.out.Book = t.Book
	return nil
}

// network loses it and finds it again.
func (t *tech) network() error {
	switch {
	case t.online == nil && t.way.Offline && t.rnd.Float64() < offlineRate:
		t.loseNetwork()
	case t.online == nil:
	case t.offlineFor <= 0:
		return t.findNetwork()
	default:
		t.offlineFor--
		if t.rnd.IntN(3) == 0 {
			return t.mateActs()
		}
	}
	return nil
}
