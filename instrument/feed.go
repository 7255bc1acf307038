package instrument

import (
	"cmp"
	"errors"
	"slices"
	"sync"
	"time"

	"geminate/brake/trace"
)

// Reading is one figure as it is kept: when it was measured by the shop's clock, and the figure in our unit.
type Reading struct {
	At   time.Time `json:"at"`
	V    float64   `json:"v"`
	Text string    `json:"text,omitempty"`
	came time.Time // when it arrived
	// absolute: its time is the instrument's own clock's, and moves with what is learnt of that.
	absolute bool
}

// Counts say what became of what an instrument told.
type Counts struct {
	Taken   int64 `json:"taken"`
	Doubled int64 `json:"doubled"` // told twice, counted once
	Late    int64 `json:"late"`    // too old to be laid in where they belong
	Refused int64 `json:"refused"` // wrong unit, no figure, too many at once
	// ClockS is by how much its clock is off ours, s; ClockSteps how often it was set meanwhile.
	ClockS     float64 `json:"clock_s,omitempty"`
	ClockSteps int     `json:"clock_steps,omitempty"`
	// Battery is what is left of it, percent; null where it does not say.
	Battery *float64 `json:"battery,omitempty"`
}

// Problem is why the last reading was not taken, by an id there are words for.
type Problem string

// Problems.
const (
	NoProblem     Problem = ""
	WrongUnit     Problem = "unit"
	OutOfRange    Problem = "range"
	TooManyAtOnce Problem = "too_many"
	NoReading     Problem = "line"    // a line that is no reading
	NoUnit        Problem = "no_unit" // a figure without its unit
	NoFigure      Problem = "type"    // a text, a switch or a sum where a figure belongs
	NoPack        Problem = "pack"    // no SenML at all
	Ahead         Problem = "ahead"   // of a time to come
)

// ProblemOf is why a line was refused.
func ProblemOf(err error) Problem {
	switch {
	case errors.Is(err, ErrNoUnit):
		return NoUnit
	case errors.Is(err, trace.ErrUnit):
		return WrongUnit
	case errors.Is(err, trace.ErrRange):
		return OutOfRange
	}
	return NoReading
}

// Refuse counts something that could not be read.
func (f *Feed) Refuse(p Problem) {
	f.mu.Lock()
	defer f.mu.Unlock()
	f.counts.Refused++
	f.problem = p
}

// What a feed keeps and bears.
const (
	keepFor    = 2 * time.Minute
	keepMost   = 12000           // 100 a second for that time
	perSecond  = 200             // readings a second, and as many at once; more are refused
	clockSlack = 3 * time.Second // an instrument's clock may be off by this before it is set right by ours
)

// Feed is what one instrument has told in the last minutes.
type Feed struct {
	mu      sync.Mutex
	list    []Reading
	counts  Counts
	clock   clock
	tokens  float64
	filled  time.Time
	problem Problem
	woken   map[chan struct{}]bool
}

// NewFeed is an empty one.
func NewFeed() *Feed { return &Feed{woken: map[chan struct{}]bool{}} }

// Take lays readings of a pack in where they belong in time. What is there already counts once; a clock that is wrong
// is set right by when its first reading arrived, so that the distances stay its own.
func (f *Feed) Take(m trace.Measure, records []Record, now time.Time) {
	f.mu.Lock()
	defer f.mu.Unlock()
	if f.filled.IsZero() {
		f.tokens, f.filled = perSecond, now
	}
	f.tokens = min(perSecond, f.tokens+perSecond*max(0, now.Sub(f.filled).Seconds()))
	f.filled = now
	f.setClock(records, now)
	f.counts.ClockS, f.counts.ClockSteps = f.clock.offset.Seconds(), f.clock.steps
	for _, r := range records {
		if f.tokens < 1 {
			f.counts.Refused++
			f.problem = TooManyAtOnce
			continue
		}
		f.tokens--
		f.one(m, r, now)
	}
	for w := range f.woken {
		select {
		case w <- struct{}{}:
		default:
		}
	}
}

// setClock learns of an instrument's clock by the newest reading of a pack, and moves what was laid in by less.
func (f *Feed) setClock(records []Record, now time.Time) {
	var newest time.Time
	for _, r := range records {
		if !r.Relative && r.At.After(newest) {
			newest = r.At
		}
	}
	if newest.IsZero() {
		return
	}
	by, since := f.clock.hear(newest, now)
	if by == 0 {
		return
	}
	for i := range f.list {
		if f.list[i].absolute && !f.list[i].came.Before(since) {
			f.list[i].At = f.list[i].At.Add(by)
		}
	}
	slices.SortStableFunc(f.list, func(a, b Reading) int { return a.At.Compare(b.At) })
}

// aheadMost is how far a reading may lie ahead of now. Assumption: less than a person notices.
const aheadMost = time.Second

// refuse counts one that is not taken, and why.
func (f *Feed) refuse(p Problem) {
	f.counts.Refused++
	f.problem = p
}

func (f *Feed) one(m trace.Measure, r Record, now time.Time) {
	if r.isBattery() {
		if v := r.Value; r.Figure && v >= 0 && v <= 100 {
			f.counts.Battery = &v
		}
		return
	}
	x := Reading{Text: clipText(r.Text), came: now, absolute: !r.Relative}
	switch {
	case m.Kind == trace.ScanTool && r.Text == "", m.Kind != trace.ScanTool && !r.Figure:
		f.refuse(NoFigure)
		return
	case m.Kind != trace.ScanTool:
		v, err := m.Read(r.Unit, r.Value)
		if err != nil {
			p := OutOfRange
			if errors.Is(err, trace.ErrUnit) {
				p = WrongUnit
			}
			f.refuse(p)
			return
		}
		x.V = v
	}
	x.At = r.At
	if !r.Relative {
		x.At = r.At.Add(f.clock.offset)
	}
	if x.At.Sub(now) > max(aheadMost, clockSlack) || r.Relative && x.At.Sub(now) > aheadMost {
		f.refuse(Ahead)
		return
	}
	if now.Sub(x.At) > keepFor {
		f.counts.Late++
		return
	}
	i, there := slices.BinarySearchFunc(f.list, x, func(a, b Reading) int { return cmp.Or(a.At.Compare(b.At)) })
	if there && f.list[i].Text == x.Text {
		f.counts.Doubled++
		return
	}
	f.list = slices.Insert(f.list, i, x)
	f.counts.Taken++
	f.problem = NoProblem
	old := 0
	for old < len(f.list) && (now.Sub(f.list[old].At) > keepFor || len(f.list)-old > keepMost) {
		old++
	}
	f.list = f.list[old:]
}

func clipText(s string) string {
	r := []rune(s)
	return string(r[:min(len(r), 200)])
}

// Last is the newest reading; false where nothing was told lately.
func (f *Feed) Last() (r Reading, counts Counts, problem Problem, ok bool) {
	f.mu.Lock()
	defer f.mu.Unlock()
	if n := len(f.list); n > 0 {
		r, ok = f.list[n-1], true
	}
	return r, f.counts, f.problem, ok
}

// Between are the readings of a stretch, as a series from its beginning.
func (f *Feed) Between(from, to time.Time) trace.Series {
	f.mu.Lock()
	defer f.mu.Unlock()
	out := trace.Series{}
	for _, r := range f.list {
		if !r.At.Before(from) && !r.At.After(to) {
			out = append(out, trace.Sample{S: r.At.Sub(from).Seconds(), V: r.V})
		}
	}
	return out
}

// Watch wakes whenever something was told, until stop.
func (f *Feed) Watch() (wake chan struct{}, stop func()) {
	wake = make(chan struct{}, 1)
	f.mu.Lock()
	defer f.mu.Unlock()
	f.woken[wake] = true
	return wake, func() {
		f.mu.Lock()
		defer f.mu.Unlock()
		delete(f.woken, wake)
	}
}
