package verify

import (
	"cmp"
	"encoding/json"
	"math"
	"slices"
	"strings"
	"time"

	"geminate/brake/bleed"
	"geminate/brake/diagnose"
	"geminate/brake/stand"
)

// A reading proves something about the vehicle as it was when it was taken. It dies with any later work that touches
// what it speaks of, it takes its time, and one that failed is not outvoted by the next (how-it-computes, section 12;
// what each finding speaks of: stand.Evidences).

// Read is a finding of this station as it was told.
type Read struct {
	Value json.RawMessage `json:"value"`
	Sure  *bool           `json:"sure,omitempty"`
	stand.When
	Base int64 `json:"base,omitempty"`
	// Through is what had gone through each wheel by then, of what bleeding can cure.
	Through map[string]float64 `json:"through,omitempty"`
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

// tooSoon says whether a reading was told before it can have been taken: what it takes has to fit between the last work
// on what it speaks of and the telling.
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
		return ev.Speaks(raw, in.airKPA())
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

// airKPA is the air around the vehicle, absolute; 0 where no vehicle is described.
func (in *Input) airKPA() float64 {
	if in.System == nil {
		return 0
	}
	return in.System.Ambient.AtmosphereKPA
}

// contradicts lists what was found beside the gate's own readings and speaks against them.
func (in *Input) contradicts() []string {
	var out []string
	for _, ev := range stand.Evidences {
		f, told := in.Findings[ev.ID]
		if ev.Against == nil || !told {
			continue
		}
		if _, dead := in.killed(ev.ID); !dead && ev.Speaks(f.Value, in.airKPA()) {
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

// bledSince says whether so much went through since a reading that bleeding, or an exchange, can have cured what it
// showed: the volume of a wheel's hose and brake with clear looks, or what washes every wheel out. Until is a later
// reading, nil for now.
func (in *Input) bledSince(r, until *Read) (bled, exchanged bool) {
	exchanged = len(in.System.Wheels) > 0
	for i := range in.System.Wheels {
		w := &in.System.Wheels[i]
		at := in.Stand.Wheels[w.ID]
		through := at.ThroughCM3
		if until != nil && until.Through != nil {
			through = until.Through[w.ID]
		}
		since := through - r.Through[w.ID]
		bled = bled || since >= w.HoseCM3()+w.Brake.CavityCM3 && at.Row >= stand.ClearTwice
		exchanged = exchanged && since >= bleed.WashoutCM3(w.PipeCM3(), w.Brake.CavityCM3, exchangedShare)
	}
	return bled, exchanged
}

// exchangedShare is the share of the old fluid that may be left for an exchange to have been one. Assumption.
const exchangedShare = 0.1

// wetTold says whether a joint or place was told wet before a moment.
func (in *Input) wetTold(before int64) bool {
	for _, id := range []string{"check.dry_joints", "wet.at", "leak.seen"} {
		for _, r := range in.History[id] {
			if r.Seq <= before && in.against(id, r.Value) {
				return true
			}
		}
	}
	return false
}

// cured says whether something was done between a failed reading and a later one (nil: until now) that can make right
// what it showed.
func (in *Input) cured(id string, failed, until *Read) bool {
	to := int64(math.MaxInt64)
	if until != nil {
		to = until.Seq
	}
	if id == "wet.at" && strings.Contains(string(failed.Value), InsideBooster) { // it drank: the booster too
		return in.Stand.TakenSince(stand.Firewall, failed.Seq) && in.Stand.BackBetween(stand.Firewall, failed.Seq, to)
	}
	bled, exchanged := in.bledSince(failed, until)
	return in.Stand.Cured(id, failed.Seq, to, stand.Since{Wet: in.wetTold(failed.Seq), Bled: bled, Exchanged: exchanged})
}

// InsideBooster is where a look into the booster's mouth finds fluid.
const InsideBooster = "inside_booster"

// reads are the readings of a finding and of those that read the same, in the order of hands.
func (in *Input) reads(id string) []namedRead {
	var out []namedRead
	add := func(of string) {
		for i := range in.History[of] {
			out = append(out, namedRead{of, &in.History[of][i]})
		}
	}
	add(id)
	if ev := stand.EvidenceOf(id); ev != nil {
		for _, of := range ev.ReadBy {
			add(of)
		}
	}
	slices.SortStableFunc(out, func(a, b namedRead) int { return cmp.Compare(a.Seq, b.Seq) })
	return out
}

type namedRead struct {
	id string
	*Read
}

// doubts lists them. A second reading that says otherwise, another way of reading, withdrawing or undoing it take
// nothing away from what failed.
func (in *Input) doubts() []Doubt {
	var out []Doubt
	for _, ev := range stand.Evidences {
		if d, open := in.doubt(ev.ID); open {
			out = append(out, d)
		}
	}
	return out
}

// doubt is what a reading that failed still asks for. A vehicle does not heal: until something that can cure it was
// done and it was read well again, it is read well twice more, one of them by another.
func (in *Input) doubt(id string) (Doubt, bool) {
	if len(in.History[id]) == 0 {
		return Doubt{}, false
	}
	var failed *Read
	passes, other := 0, false
	for _, r := range in.reads(id) {
		if len(r.Value) == 0 || string(r.Value) == "null" {
			continue
		}
		bad := in.against(r.id, r.Value)
		switch {
		case bad && r.id == id:
			failed, passes, other = r.Read, 0, false
		case bad || failed == nil || r.Withdrawn || !r.sure():
		case in.cured(id, failed, r.Read):
			failed = nil
		default:
			if _, dead := in.Stand.KilledBy(r.id, r.When, r.Base); dead {
				continue
			}
			passes++
			other = other || r.By != failed.By
		}
	}
	if failed == nil {
		return Doubt{}, false
	}
	if in.cured(id, failed, nil) {
		return Doubt{ID: id, More: 1}, true
	}
	others := len(in.People) > 1 && !in.Unhurried // whoever practises is alone with the vehicle
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
