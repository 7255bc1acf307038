package desk

import (
	"encoding/json"
	"errors"
	"slices"
	"time"

	"geminate/brake/job"
	"geminate/brake/system"
	"geminate/ground/practice"
)

// held is one job: as the server has it, its log as far as it was heard, and as it stands with what waits. Both are
// folded forward, event by event; one is made anew from the other only where something came that was not told here.
type held struct {
	dress job.Dress
	log   []job.Event // by seq; it may have gaps
	known map[string]bool
	base  *job.Book // as the server has it
	shown *job.Book // nil: to be made from base
	// What shown was folded from beyond base: more of the same is folded onto it, and nothing anew.
	edits   string
	applied []string
	refused []Refusal
	// bay is the practice vehicle of it, where it is worked here.
	bay *practice.Bay
}

const noEdits = "[]"

// Confirmed is what the server says of a job: a whole view, events of its log, or both. Events may come twice and in
// any order.
type Confirmed struct {
	ID     string          `json:"id"`
	View   json.RawMessage `json:"view"`
	Events []job.Event     `json:"events"`
	// Dress is the shop's, as the server last told it.
	Dress *job.Dress `json:"dress"`
}

// LogHead is how far a job is known here.
type LogHead struct {
	// Head is the seq of the last event folded; 0 where the job is not here.
	Head int64 `json:"head"`
	// Same: all that came was shown already, just so; nothing on the screen has changed.
	Same bool `json:"same"`
	// Short: events are missing before it can go on; the log is to be asked for after Have.
	Short bool  `json:"short"`
	Have  int64 `json:"have"`
	// Newer: the server folds by newer rules than this core knows. Old events are folded by a newer core, never the
	// other way round.
	Newer bool `json:"newer"`
}

// Confirm takes what the server says.
func (d *Desk) Confirm(in Confirmed) (LogHead, error) {
	var v struct {
		ID      string    `json:"id"`
		Head    int64     `json:"head"`
		Fold    int       `json:"fold"`
		Created time.Time `json:"created_at"`
	}
	whole := len(in.View) > 0 && string(in.View) != "null"
	if whole {
		if err := json.Unmarshal(in.View, &v); err != nil || v.Head == 0 {
			return LogHead{}, system.Faults{{Path: "$.view", Code: "fault.type", With: map[string]any{"want": "object"}}}
		}
		in.ID = v.ID
	}
	if in.ID == "" {
		return LogHead{}, system.Faults{{Path: "$.id", Code: "fault.missing"}}
	}
	if v.Fold > job.FoldVersion {
		delete(d.jobs, in.ID)
		return LogHead{Newer: true}, nil
	}
	h := d.jobs[in.ID]
	if h == nil {
		h = &held{known: map[string]bool{}}
		d.jobs[in.ID] = h
	}
	if in.Dress != nil {
		h.dress = *in.Dress
		for _, b := range []*job.Book{h.base, h.shown} {
			if b != nil {
				b.Dress(h.dress)
			}
		}
	}
	same := in.Dress == nil
	for _, e := range in.Events {
		h.hear(e)
		// A whole view had it already, and it was shown a second time, as waiting: it is not to stay so.
		if h.base != nil && e.Seq <= h.base.Head && slices.Contains(h.applied, e.ID) {
			h.shown, same = nil, false
		}
	}
	if whole && (h.base == nil || v.Head > h.base.Head) {
		same = false
		j, err := job.ReadView(in.View)
		if errors.Is(err, job.ErrOldFold) { // an older server's, or kept by an older page: folded anew by today's rules
			if h.have() < v.Head {
				return LogHead{Short: true, Have: h.have()}, nil
			}
			j, err = job.Replay(in.ID, v.Created, slices.Clone(h.log[:v.Head])), nil
		}
		if err != nil {
			return LogHead{}, err
		}
		j.Dress(h.dress)
		h.base, h.shown = &job.Book{Job: j, Events: slices.Clone(h.log[:min(h.have(), j.Head)])}, nil
	}
	if h.base == nil {
		return LogHead{Short: true, Have: h.have()}, nil
	}
	mine, short, err := h.advance()
	return LogHead{Head: h.base.Head, Same: same && mine, Short: short || whole && h.have() < h.base.Head, Have: h.have()}, err
}

// hear puts an event where it belongs in the log.
func (h *held) hear(e job.Event) {
	at, there := slices.BinarySearchFunc(h.log, e.Seq, func(x job.Event, seq int64) int { return int(x.Seq - seq) })
	if !there {
		h.log = slices.Insert(h.log, at, e)
		h.known[e.ID] = true
	}
}

// have is the seq up to which the log is whole from its first event.
func (h *held) have() int64 {
	if n := len(h.log); n > 0 && h.log[n-1].Seq == int64(n) { // the usual case, whatever the log's length
		return int64(n)
	}
	for i, e := range h.log {
		if e.Seq != int64(i+1) {
			return int64(i)
		}
	}
	return int64(len(h.log))
}

// advance folds onto base what the log has beyond it; mine says whether all of it was shown already just so, short
// whether something is missing.
func (h *held) advance() (mine, short bool, err error) {
	mine = true
	at, _ := slices.BinarySearchFunc(h.log, h.base.Head+1, func(x job.Event, seq int64) int { return int(x.Seq - seq) })
	for _, e := range h.log[at:] {
		if int64(len(h.base.Events)) < e.Seq-1 && h.have() >= e.Seq-1 {
			h.base.Events = slices.Clone(h.log[:e.Seq-1])
		}
		switch err := h.base.Take(e); {
		case errors.Is(err, job.ErrGap):
			return mine, true, nil
		case err != nil:
			return mine, false, err
		}
		if !h.expected(e) {
			mine = false
			h.follow(e)
		}
	}
	return mine, false, nil
}

// expected says whether an event is the first of those that are shown waiting, and just as it was shown.
func (h *held) expected(e job.Event) bool {
	if h.shown == nil || len(h.applied) == 0 || h.applied[0] != e.ID || h.edits != noEdits {
		return false
	}
	at := len(h.shown.Events) - 1
	for at >= 0 && h.shown.Events[at].Seq > e.Seq {
		at--
	}
	if at < 0 {
		return false
	}
	if was := h.shown.Events[at]; was.ID != e.ID || was.Seq != e.Seq || !was.At.Equal(e.At) || was.By != e.By {
		return false
	}
	h.shown.Events[at] = e
	h.applied = h.applied[1:]
	if at == len(h.shown.Events)-1 {
		h.shown.UpdatedAt = e.StoredAt
	}
	return true
}

// follow folds what somebody else did onto what is shown, where nothing waits behind it; else it is made anew.
func (h *held) follow(e job.Event) {
	if h.shown == nil || len(h.applied) > 0 || h.edits != noEdits || h.shown.Head != e.Seq-1 {
		h.shown = nil
		return
	}
	if int64(len(h.shown.Events)) < e.Seq-1 { // the log came whole only now
		h.shown.Events = slices.Clone(h.base.Events[:len(h.base.Events)-1])
	}
	if h.shown.Take(e) != nil {
		h.shown = nil
	}
}

// showBase makes what is shown from base where there is nothing shown.
func (h *held) showBase() error {
	if h.shown != nil {
		return nil
	}
	raw, err := json.Marshal(h.base.View())
	if err != nil {
		return err
	}
	j, err := job.ReadView(raw)
	if err != nil {
		return err
	}
	j.Dress(h.dress)
	h.shown = &job.Book{Job: j, Events: slices.Clone(h.base.Events)}
	h.edits, h.applied, h.refused = noEdits, nil, nil
	return nil
}

// Waiting is what someone did that the server has not said it stored.
type Waiting struct {
	ID  string    `json:"id"`
	Now time.Time `json:"now"`
	By  job.Actor `json:"by"`
	// Edits are intake and choices as they were last edited here, before the events.
	Edits []struct {
		Part  string          `json:"part"`
		Value json.RawMessage `json:"value"`
	} `json:"edits"`
	Events []waitingEvent `json:"events"`
}

type waitingEvent struct {
	ID   string    `json:"id"`
	Kind job.Kind  `json:"kind"`
	At   time.Time `json:"at"`
	// Base and Device are those of job.In.
	Base   int64           `json:"base"`
	Device string          `json:"device"`
	Data   json.RawMessage `json:"data"`
}

// Refusal is an event the core would not take.
type Refusal struct {
	ID      string  `json:"id"`
	Problem Problem `json:"problem"`
}

// Shown is a job as it stands with what waits.
type Shown struct {
	View    *job.View `json:"view"`
	Refused []Refusal `json:"refused"`
	// The versions of the parts as the server has them: what an edit of what is shown begins from.
	IntakeVersion  int64 `json:"intake_version"`
	ChoicesVersion int64 `json:"choices_version"`
}

// Show folds all that waits onto what the server said, in order, each by itself: one that is refused holds back
// none after it. What is in the log already is not folded again.
func (d *Desk) Show(in Waiting) (Shown, error) {
	h := d.jobs[in.ID]
	if h == nil || h.base == nil {
		return Shown{}, errNotHere
	}
	in.Events = slices.DeleteFunc(in.Events, func(e waitingEvent) bool { return h.known[e.ID] })
	events, err := h.begin(in)
	if err != nil {
		return Shown{}, err
	}
	book := h.shown
	for _, e := range events {
		h.applied = append(h.applied, e.ID)
		if e.Kind == job.KindUndo && int64(len(book.Events)) < book.Head {
			continue // what it comes to can be told only from the whole log: the server will say
		}
		data := e.Data
		if len(data) == 0 {
			data = []byte("{}")
		}
		told, err := book.Append(book, in.By, in.Now,
			[]job.In{{ID: e.ID, Kind: e.Kind, At: e.At, Base: e.Base, Device: e.Device, Data: data}})
		if err != nil {
			p, _ := ProblemOf(err)
			h.refused = append(h.refused, Refusal{e.ID, p})
			continue
		}
		book.Events = append(book.Events, told...)
	}
	v := book.View()
	v.State.Moves = nil // the ledger's own: no screen reads it, and it grows with every stroke
	return Shown{v, append([]Refusal{}, h.refused...), h.base.IntakeSeq, h.base.ChoicesSeq}, nil
}

// begin takes up where the last showing ended, or makes the job as confirmed with the edits; it gives the events that
// are still to be folded.
func (h *held) begin(in Waiting) ([]waitingEvent, error) {
	edits := noEdits
	if len(in.Edits) > 0 {
		raw, err := json.Marshal(in.Edits)
		if err != nil {
			return nil, err
		}
		edits = string(raw)
	}
	n := len(h.applied)
	if h.shown != nil && h.edits == edits && n <= len(in.Events) &&
		slices.EqualFunc(h.applied, in.Events[:n], func(id string, e waitingEvent) bool { return id == e.ID }) {
		return in.Events[n:], nil
	}
	h.shown = nil
	if err := h.showBase(); err != nil {
		return nil, err
	}
	h.edits = edits
	for _, e := range in.Edits {
		if err := edit(h.shown, in.By, in.Now, e.Part, e.Value); err != nil {
			p, _ := ProblemOf(err)
			h.refused = append(h.refused, Refusal{e.Part, p})
		}
	}
	return in.Events, nil
}
