package verify

import (
	"encoding/json"
	"slices"
	"time"

	"geminate/brake/diagnose"
	"geminate/brake/stand"
)

// A reading proves something about the vehicle as it was when it was taken. It dies with any later work that touches what it
// speaks of, it takes its time, and one that failed is not outvoted by the next (how-it-computes, section 12; what each
// finding speaks of: stand.Evidences).

// Read is a finding of this station as it was told.
type Read struct {
	Value json.RawMessage `json:"value"`
	Sure  *bool           `json:"sure,omitempty"`
	stand.When
	Base int64 `json:"base,omitempty"`
	// Withdrawn: taken back or undone later. It was told all the same.
	Withdrawn bool `json:"withdrawn,omitempty"`
}

func (r *Read) sure() bool { return r.Sure == nil || *r.Sure }

// killed gives the work that came after a piece of evidence and touches what it proves.
func (in *Input) killed(id string) (stand.Change, bool) {
	at, told := in.ReadAt[id]
	if !told {
		return stand.Change{}, false
	}
	return in.Stand.KilledBy(id, at.When, at.Base)
}

// Dead lists the evidence that later work has killed, with what killed it.
func (in *Input) Dead() map[string]stand.Change {
	out := map[string]stand.Change{}
	for id := range in.Findings {
		if d, dead := in.killed(id); dead {
			out[id] = d
		}
	}
	return out
}

// tooSoon says whether a reading was told before it can have been taken: what it takes has to fit between the last work on
// what it speaks of and the telling.
func (in *Input) tooSoon(id string, raw json.RawMessage) (with map[string]any, soon bool) {
	at, told := in.ReadAt[id]
	if !told || in.Unhurried {
		return nil, false
	}
	since, least := in.Stand.Since(id, at.Seq), TakesS(id, raw)
	if since.Seq == 0 || least <= 0 {
		return nil, false
	}
	had := at.At.Sub(since.At).Seconds()
	return map[string]any{"least_s": least, "had_s": max(0, had)}, had < least
}

// TakesS is the least time a reading takes, s: a hold what it says, everything else its entry.
func TakesS(id string, raw json.RawMessage) float64 {
	var v diagnose.Sink
	if id == "pedal.sink" && json.Unmarshal(raw, &v) == nil {
		return v.Seconds
	}
	if ev := stand.EvidenceOf(id); ev != nil {
		return ev.LeastS
	}
	return 0
}

// against says whether a value of a finding speaks against a release.
func (in *Input) against(id string, raw json.RawMessage) bool {
	ev := stand.EvidenceOf(id)
	switch {
	case ev == nil:
		return false
	case ev.Against != nil:
		return ev.Against(raw)
	}
	return ev.Judged && in.fails(id, raw)
}

// fails judges a value of one of the gate's own readings, as if it were the only one.
func (in *Input) fails(id string, raw json.RawMessage) bool {
	alone := *in
	alone.Findings = map[string]diagnose.Finding{id: {ID: id, Value: raw}}
	alone.ReadAt, alone.History = nil, nil
	if slices.Contains(in.AirSaid, string(raw)) && id == "pedal.readings" {
		return true
	}
	i := slices.IndexFunc(table, func(r Row) bool { return r.ID == id })
	if i < 0 || table[i].Judge == nil || id == secondLook {
		var v string
		return json.Unmarshal(raw, &v) == nil && v == "no"
	}
	st, _, _ := table[i].Judge(&alone)
	return st == Failed
}

// contradicts lists what was found beside the gate's own readings and speaks against them.
func (in *Input) contradicts() []string {
	var out []string
	for _, ev := range stand.Evidences {
		f, told := in.Findings[ev.ID]
		if ev.Against == nil || !told {
			continue
		}
		if _, dead := in.killed(ev.ID); !dead && ev.Against(f.Value) {
			out = append(out, ev.ID)
		}
	}
	return out
}

// readAgainLeast readings that agree, and not only by whoever read the one that failed, stand against it.
const readAgainLeast = 2

// Doubt is a reading that failed, with no work since on what it speaks of, and not enough readings against it.
type Doubt struct {
	ID   string
	More int  // readings that are still asked for
	Else bool // one of them by somebody else
}

// doubts lists them. A second reading that says otherwise, another way of reading, withdrawing or undoing it take nothing
// away from what failed.
func (in *Input) doubts() []Doubt {
	var out []Doubt
	for _, ev := range stand.Evidences {
		if d, open := in.doubt(ev.ID); open {
			out = append(out, d)
		}
	}
	return out
}

func (in *Input) doubt(id string) (Doubt, bool) {
	var failed *Read
	passes, other := 0, false
	for i := range in.History[id] {
		r := &in.History[id][i]
		if _, dead := in.Stand.KilledBy(id, r.When, r.Base); dead || len(r.Value) == 0 || string(r.Value) == "null" {
			continue
		}
		switch {
		case in.against(id, r.Value):
			failed, passes, other = r, 0, false
		case failed != nil && !r.Withdrawn && r.sure():
			passes++
			other = other || r.By != failed.By
		}
	}
	if failed == nil {
		return Doubt{}, false
	}
	others := len(in.People) > 1
	d := Doubt{ID: id, More: max(0, readAgainLeast-passes), Else: others && !other}
	if d.Else {
		d.More = max(1, d.More)
	}
	return d, d.More > 0
}

// doubted lets no reading pass that a failed one stands against: its item fails, and where it has none it gets one.
func (in *Input) doubted(g *Gate) {
	for _, d := range in.doubts() {
		with := map[string]any{"count": d.More}
		code := "gate.read_again"
		if d.Else {
			code = "gate.read_again_else"
		}
		i := slices.IndexFunc(g.Items, func(x Item) bool { return x.ID == d.ID })
		switch {
		case i < 0 && slices.Contains(in.contradicts(), d.ID): // told there
		case i < 0:
			g.Items = append(g.Items, Item{d.ID, Failed, code, with, placeOf(d.ID), ""})
		case g.Items[i].State != Failed:
			g.Items[i].State, g.Items[i].Code, g.Items[i].With = Failed, code, with
		}
	}
}

// Elapsed is how long a job has been open, and what all that was told must have taken at the least.
type Elapsed struct{ SpentS, HadS float64 }

func (in *Input) time() (State, string, map[string]any) {
	return Missing, "gate.time.short", map[string]any{"least_minutes": minutes(in.Time.SpentS), "had_minutes": minutes(in.Time.HadS)}
}

// minutes rounds seconds up to whole minutes.
func minutes(s float64) float64 {
	return (time.Duration(s*float64(time.Second)) + time.Minute - time.Second).Truncate(time.Minute).Minutes()
}
