package desk_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"strconv"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/job"
	"geminate/demo"
	"geminate/desk"
)

var (
	mara = job.Actor{ID: "m", Name: "Mara", Role: job.Technician}
	now  = time.Date(2026, 11, 25, 9, 0, 0, 0, time.UTC)
)

// call does what the worker does.
func call(t *testing.T, d *desk.Desk, method string, in any, into any) *desk.Problem {
	t.Helper()
	raw, err := json.Marshal(in)
	require.NoError(t, err)
	var a struct {
		OK      json.RawMessage `json:"ok"`
		Problem *desk.Problem   `json:"problem"`
	}
	require.NoError(t, json.Unmarshal(d.Call(method, raw), &a))
	if a.Problem == nil && into != nil {
		require.NoError(t, json.Unmarshal(a.OK, into))
	}
	return a.Problem
}

// pickup is a demo job as the server keeps it, and a desk that was told of it.
func pickup(t *testing.T) (*desk.Desk, *job.Book) {
	t.Helper()
	books, err := demo.Jobs(now)
	require.NoError(t, err)
	b := books[len(books)-1]
	d := desk.New()
	confirm(t, d, b)
	return d, b
}

func confirm(t *testing.T, d *desk.Desk, b *job.Book) {
	t.Helper()
	view, err := json.Marshal(b.View())
	require.NoError(t, err)
	var head desk.LogHead
	require.Nil(t, call(t, d, "confirm", map[string]any{"view": json.RawMessage(view), "events": b.Events}, &head))
	assert.Equal(t, b.Head, head.Head)
}

type event = map[string]any

func stroke(id string) event {
	return event{"id": id, "kind": "bleed_stroke", "at": now, "data": event{"wheel": "RR"}}
}

func show(t *testing.T, d *desk.Desk, b *job.Book, events ...event) (s desk.Shown) {
	t.Helper()
	if events == nil {
		events = []event{}
	}
	require.Nil(t, call(t, d, "show", event{"id": b.ID, "now": now, "by": mara, "events": events}, &s))
	return s
}

// Source: the server's own fold. What the desk shows of events that wait is what the server says once it has them.
func TestWhatIsShownIsWhatWillBeStored(t *testing.T) {
	d, b := pickup(t)
	waiting := []event{}
	for i := range 5 {
		waiting = append(waiting, stroke(fmt.Sprint("s", i)))
	}
	waiting = append(waiting, event{"id": "bad", "kind": "bleed_stroke", "at": now, "data": event{"wheel": "none"}},
		event{"id": "r", "kind": "refill", "at": now, "data": event{}})
	s := show(t, d, b, waiting...)
	require.Len(t, s.Refused, 1)
	assert.Equal(t, "bad", s.Refused[0].ID)
	assert.NotEmpty(t, s.Refused[0].Problem.Faults)
	for _, e := range waiting {
		data, _ := json.Marshal(e["data"])
		events, err := b.Append(b, mara, now, []job.In{{ID: e["id"].(string), Kind: job.Kind(e["kind"].(string)), At: now, Data: data}})
		if err == nil {
			b.Events = append(b.Events, events...)
		}
	}
	whole := b.View()
	whole.State.Moves = nil
	want, err := json.Marshal(whole)
	require.NoError(t, err)
	got, err := json.Marshal(s.View)
	require.NoError(t, err)
	assert.JSONEq(t, string(want), string(got))
	// Once the server has said so, nothing counts twice, though it is still thought to wait.
	confirm(t, d, b)
	assert.Equal(t, 5, show(t, d, b, waiting[:5]...).View.State.BleedStrokes["RR"])
}

// Source: the fold itself. Showing one event more gives what showing all of them anew gives, whatever waits, is
// taken back or edited in between.
func TestShowingOnIsShowingAnew(t *testing.T) {
	d, b := pickup(t)
	var events []event
	for i := range 12 {
		e := stroke(fmt.Sprint("s", i))
		switch i % 5 {
		case 2:
			e = event{"id": fmt.Sprint("s", i), "kind": "refill", "at": now, "data": event{}}
		case 3:
			e = event{"id": fmt.Sprint("s", i), "kind": "undo", "at": now, "data": event{"of": fmt.Sprint("s", i-3)}}
		case 4:
			e = event{"id": fmt.Sprint("s", i), "kind": "no_such_kind", "at": now, "data": event{}}
		}
		if events = append(events, e); i == 7 {
			events = events[1:] // one was taken back
		}
		fresh := desk.New()
		confirm(t, fresh, b)
		on, err := json.Marshal(show(t, d, b, events...))
		require.NoError(t, err)
		anew, err := json.Marshal(show(t, fresh, b, events...))
		require.NoError(t, err)
		require.JSONEq(t, string(anew), string(on), "after %d", i)
	}
}

// Source: the fold itself, made anew by a desk that is told everything at once. Whatever is told here, stored, said to
// be stored, done by somebody else, taken back or edited, in whatever order the news comes: both show the same, and
// what is said to be shown already is shown already.
func TestTheDeskFollowsEventByEvent(t *testing.T) {
	same := 0
	for seed := range uint64(12) {
		r := rand.New(rand.NewPCG(seed, 1))
		d, b := pickup(t)
		toID := map[string]bool{}
		var waiting []event
		sent := 0 // of waiting: the server has them, nobody here has heard
		var news []job.Event
		count, at := 0, now
		store := func(e event, by job.Actor) {
			data, _ := json.Marshal(e["data"])
			told, err := b.Append(b, by, at.Add(time.Second),
				[]job.In{{ID: e["id"].(string), Kind: job.Kind(e["kind"].(string)), At: e["at"].(time.Time), Data: data}})
			if err == nil {
				b.Events = append(b.Events, told...)
				news = append(news, told...)
			}
		}
		shown := func(d *desk.Desk, b *job.Book) (s desk.Shown) {
			require.Nil(t,
				call(t, d, "show", event{"id": b.ID, "now": at.Add(time.Second), "by": mara, "events": append([]event{}, waiting...)}, &s))
			return s
		}
		plain := func(s desk.Shown) string { // but when it was stored, which nobody can know beforehand
			s.View.UpdatedAt = now
			raw, err := json.Marshal(s.View)
			require.NoError(t, err)
			return string(raw)
		}
		some := func() event {
			count++
			at = at.Add(2 * time.Second)
			e := event{
				"id":   fmt.Sprint("e", count),
				"kind": "bleed_stroke",
				"at":   at,
				"data": event{"wheel": []string{"RR", "LF"}[r.IntN(2)]},
			}
			switch r.IntN(6) {
			case 0:
				e["kind"], e["data"] = "refill", event{}
			case 1:
				if count > 3 {
					e["kind"], e["data"] = "undo", event{"of": fmt.Sprint("e", 1+r.IntN(count-1))}
				}
			case 2:
				e["kind"], e["data"] = "finding", event{"id": "pedal.sinks", "phase": "diagnose", "value": "slow"}
			}
			return e
		}
		for range 60 {
			switch r.IntN(6) {
			case 0, 1:
				waiting = append(waiting, some())
			case 2:
				if sent < len(waiting) {
					store(waiting[sent], mara)
					sent++
				}
			case 3:
				if r.IntN(3) == 0 {
					store(some(), job.Actor{ID: "o", Name: "Otto", Role: job.Technician})
				}
			default: // the news comes, some of it, twice, out of order
				k := r.IntN(len(news) + 1)
				part := append(slices.Clone(news[:k]), news[:min(k, 1)]...)
				r.Shuffle(len(part), func(i, j int) { part[i], part[j] = part[j], part[i] })
				before := plain(shown(d, b))
				var head desk.LogHead
				require.Nil(t, call(t, d, "confirm", event{"id": b.ID, "events": part}, &head))
				require.False(t, head.Short)
				for _, e := range part {
					toID[e.ID] = true
				}
				news = news[k:]
				left := slices.DeleteFunc(slices.Clone(waiting), func(e event) bool { return toID[e["id"].(string)] })
				sent -= len(waiting) - len(left)
				waiting = left
				if head.Same && k > 0 {
					same++
					require.Equal(t, before, plain(shown(d, b)), "seed %d: said to be shown already", seed)
				}
			}
			fresh := desk.New()
			known := &job.Book{
				Job:    job.Replay(b.ID, b.CreatedAt, b.Events[:len(b.Events)-len(news)]),
				Events: b.Events[:len(b.Events)-len(news)],
			}
			confirm(t, fresh, known)
			require.Equal(t, plain(shown(fresh, known)), plain(shown(d, b)), "seed %d", seed)
		}
	}
	assert.Greater(t, same, 20, "a stroke that was stored as it was shown changes nothing on the screen")
}

// Found: an answer with the whole job can overtake the one of the stroke in it; the stroke, still thought to wait, was
// shown twice and stayed so.
func TestAWholeAnswerThatOvertakesCountsNothingTwice(t *testing.T) {
	d, b := pickup(t)
	waiting := stroke("s0")
	show(t, d, b, waiting)
	require.NoError(t, b.Tell(mara, now, "s0", job.KindBleedStroke, event{"wheel": "RR"}))
	raw, err := json.Marshal(b.View())
	require.NoError(t, err)
	var head desk.LogHead
	require.Nil(t, call(t, d, "confirm", event{"view": json.RawMessage(raw)}, &head))
	assert.True(t, head.Short, "the log is asked for before anything is shown")
	show(t, d, b, waiting) // somebody shows it all the same
	require.Nil(t, call(t, d, "confirm", event{"id": b.ID, "events": b.Events[len(b.Events)-1:]}, &head))
	assert.False(t, head.Same)
	assert.Equal(t, 1, show(t, d, b, waiting).View.State.BleedStrokes["RR"])
	assert.Equal(t, 1, show(t, d, b).View.State.BleedStrokes["RR"])
}

func TestTheDeskTellsWhatItLacks(t *testing.T) {
	d, b := pickup(t)
	raw, err := json.Marshal(b.View())
	require.NoError(t, err)
	as := func(change func(map[string]any)) json.RawMessage {
		var v map[string]any
		require.NoError(t, json.Unmarshal(raw, &v))
		change(v)
		out, err := json.Marshal(v)
		require.NoError(t, err)
		return out
	}
	var head desk.LogHead
	// A gap: what comes after it waits for what is missing.
	for i := range 3 {
		require.NoError(t, b.Tell(mara, now, fmt.Sprint("s", i), job.KindBleedStroke, event{"wheel": "RR"}))
	}
	n := len(b.Events)
	require.Nil(t, call(t, d, "confirm", event{"id": b.ID, "events": b.Events[n-1:]}, &head))
	assert.True(t, head.Short)
	assert.Equal(t, int64(n-3), head.Have)
	require.Nil(t, call(t, d, "confirm", event{"id": b.ID, "events": b.Events[n-3 : n-1]}, &head))
	assert.Equal(t, desk.LogHead{Head: b.Head, Have: b.Head}, head)
	assert.Equal(t, 3, show(t, d, b).View.State.BleedStrokes["RR"])

	// An older server's view is folded anew from the log; without the log it is asked for.
	old := as(func(v map[string]any) { v["fold"] = 1; v["head"] = n; v["state"] = event{} })
	fresh := desk.New()
	require.Nil(t, call(t, fresh, "confirm", event{"view": old}, &head))
	assert.True(t, head.Short)
	require.Nil(t, call(t, fresh, "confirm", event{"view": old, "events": b.Events}, &head))
	assert.Equal(t, 3, show(t, fresh, b).View.State.BleedStrokes["RR"])

	// A newer server's is not this core's to judge: it says so, and holds nothing of the job.
	require.Nil(t, call(t, d, "confirm", event{"view": as(func(v map[string]any) { v["fold"] = job.FoldVersion + 1 })}, &head))
	assert.True(t, head.Newer)
	p := call(t, d, "show", event{"id": b.ID, "now": now, "by": mara, "events": []event{}}, nil)
	require.NotNil(t, p)
	assert.Equal(t, "problem.not_found", p.Code)
}

func TestEditsCountBeforeTheyAreStored(t *testing.T) {
	d, b := pickup(t)
	var choices map[string]any
	raw, err := json.Marshal(b.Choices)
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(raw, &choices))
	choices["scope"] = "bleed"
	var s desk.Shown
	in := event{"id": b.ID, "now": now, "by": mara, "events": []event{}, "edits": []event{{"part": "choices", "value": choices}}}
	require.Nil(t, call(t, d, "show", in, &s))
	assert.Equal(t, "bleed", string(s.View.Choices.Scope))
	choices["scope"] = "booster_on_the_moon"
	require.Nil(t, call(t, d, "show", in, &s))
	require.Len(t, s.Refused, 1)
	assert.Equal(t, "choices", s.Refused[0].ID)
	assert.Equal(t, b.Choices.Scope, s.View.Choices.Scope, "and nothing of it counts")
}

func TestUndoNeedsTheLogThatIsHere(t *testing.T) {
	d, b := pickup(t)
	require.NoError(t, b.Tell(mara, now, "s0", job.KindBleedStroke, event{"wheel": "RR"}))
	confirm(t, d, b)
	undo := event{"id": "u", "kind": "undo", "at": now, "data": event{"of": "s0"}}
	assert.Zero(t, show(t, d, b, undo).View.State.BleedStrokes["RR"])
	assert.Equal(t, 1, show(t, d, b).View.State.BleedStrokes["RR"], "what waits no longer is not folded in")
}

func TestEveryStationAnswersFromWhatIsShown(t *testing.T) {
	d, b := pickup(t)
	show(t, d, b, stroke("s0"))
	ask := func(what string, in any) (json.RawMessage, *desk.Problem) {
		var out json.RawMessage
		p := call(t, d, "ask", event{"id": b.ID, "what": what, "in": in, "now": now, "shelf": []any{}}, &out)
		return out, p
	}
	for _, what := range []string{"normal", "diagnose", "match", "replace", "bench", "bleed", "verify", "record"} {
		out, p := ask(what, nil)
		assert.Nil(t, p, what)
		assert.Greater(t, len(out), 40, what)
	}
	var bleeding job.BleedView
	out, _ := ask("bleed", nil)
	require.NoError(t, json.Unmarshal(out, &bleeding))
	assert.Equal(t, 1, bleeding.Wheels["RR"].Strokes)
	for what, in := range map[string]any{"diagnose": event{"without": []string{"pedal.sinks"}}, "twin": event{"assist": true}, "measure": event{"test": "water", "values": event{"vehicle": 2.5}},
		"torque":  event{"step": "fit.cylinder_nuts", "torque_nm": 25},
		"pushrod": event{"pocket_mm": 20, "gasket_mm": 1, "protrusion_mm": 20.5, "pitch_mm": 1, "target_mm": 0.3}} {
		out, p := ask(what, in)
		assert.Nil(t, p, "%s: %+v", what, p)
		assert.NotEmpty(t, out, what)
	}
	_, p := ask("measure", event{"test": "water", "values": event{"vehicle": 99}})
	require.NotNil(t, p)
	assert.Equal(t, "problem.faults", p.Code)
	_, p = ask("oracle", nil)
	require.NotNil(t, p)
}

func TestTheDeskAnswersNonsense(t *testing.T) {
	d := desk.New()
	for _, m := range []string{"confirm", "show", "ask", "nothing"} {
		for _, in := range []string{"", "{", "null", "[]", `{"id":"x"}`, `{"unknown":1}`, `{"view":{"id":"x"},"events":[]}`} {
			var a struct{ Problem *desk.Problem }
			require.NoError(t, json.Unmarshal(d.Call(m, []byte(in)), &a), "%s %s", m, in)
			if m == "confirm" && in == `{"id":"x"}` {
				assert.Nil(t, a.Problem, "nothing new of a job that is not here: its log is asked for")
				continue
			}
			assert.NotNil(t, a.Problem, "%s %s", m, in)
		}
	}
}

// BenchmarkAStroke is what a stroke costs the worker, in a log of so many: shown, its station's view, and what the
// server says of it. The bytes are what it answers; at 1000 strokes it may answer no more than at 20.
func BenchmarkAStroke(b *testing.B) {
	for _, long := range []int{20, 100, 300, 1000} {
		b.Run(strconv.Itoa(long), func(b *testing.B) {
			books, err := demo.Jobs(now)
			require.NoError(b, err)
			book, at, n := books[len(books)-1], now, 0
			next := func() (string, map[string]any) {
				n++
				at = at.Add(3 * time.Second)
				return fmt.Sprint("s", n), map[string]any{"wheel": []string{"RR", "LR", "RF", "LF"}[n/12%4]}
			}
			for len(book.Events) < long {
				id, data := next()
				if n%9 == 0 {
					require.NoError(b, book.Tell(mara, at, "f"+id, job.KindRefill, event{}))
				}
				_ = book.Tell(mara, at, id, job.KindBleedStroke, data)
			}
			d := desk.New()
			view, _ := json.Marshal(book.View())
			in, _ := json.Marshal(map[string]any{"view": json.RawMessage(view), "events": book.Events})
			d.Call("confirm", in)
			var bytes, told int
			for b.Loop() {
				id, data := next()
				e := event{"id": id, "kind": "bleed_stroke", "at": at, "data": data}
				if n%9 == 0 {
					e["kind"], e["data"] = "refill", event{}
				}
				s, _ := json.Marshal(event{"id": book.ID, "now": at.Add(time.Second), "by": mara, "events": []event{e}})
				a, _ := json.Marshal(event{"id": book.ID, "what": "bleed", "now": at})
				bytes += len(d.Call("show", s)) + len(d.Call("ask", a))
				data2, _ := json.Marshal(e["data"])
				stored, err := book.Append(book, mara, at.Add(time.Second),
					[]job.In{{ID: id, Kind: job.Kind(e["kind"].(string)), At: at, Data: data2}})
				require.NoError(b, err)
				book.Events = append(book.Events, stored...)
				c, _ := json.Marshal(event{"id": book.ID, "events": stored})
				bytes += len(d.Call("confirm", c))
				told++
			}
			b.ReportMetric(float64(bytes)/float64(told), "answer-B/stroke")
		})
	}
}
