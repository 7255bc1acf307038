package practice

import (
	"context"
	"math"
	"slices"
	"strings"

	"geminate/brake/diagnose"
	"geminate/brake/job"
	"geminate/ground/proving"
	"geminate/ground/simulate"
)

// Work is how a vehicle was worked, in figures.
type Work struct {
	Minutes  float64 `json:"minutes"` // on the vehicle
	Tests    int     `json:"tests"`
	FluidCM3 float64 `json:"fluid_cm3"`
	Units    int     `json:"units"` // fitted
	Money    float64 `json:"money"` // units, and minutes at the engine's usual rates
}

// Line is one line of what it came to: what, of which part or fault, how bad.
type Line struct {
	What string `json:"what"`
	Of   string `json:"of,omitempty"`
	Kind string `json:"kind"`
}

// Dear is a step that cost much: which act of the learner's (-1: none of them), what it was, and what it cost.
type Dear struct {
	Act  int     `json:"act"`
	What string  `json:"what"`
	Of   string  `json:"of,omitempty"`
	Cost float64 `json:"cost"`
}

// Believed is a fault with the probability what was told gives it.
type Believed struct {
	ID string  `json:"id"`
	At string  `json:"at,omitempty"`
	P  float64 `json:"p"`
}

// Moment is one step of a way of working: what was done, when, what was known by what had been told, and what was most
// worth doing then.
type Moment struct {
	proving.Act
	Minute  float64    `json:"minute"`
	Knew    []Believed `json:"knew"`
	Healthy float64    `json:"healthy"`
	// Worth is the test, or the action where no test was worth its time.
	Worth    string `json:"worth"`
	WorthAct bool   `json:"worth_act"`
}

// Result is what an exercise came to.
type Result struct {
	Exercise ID     `json:"exercise"`
	Seed     uint64 `json:"seed"`
	Pattern  string `json:"pattern"`
	Teaches  Topic  `json:"teaches"`
	Released bool   `json:"released"`
	// Right at hand-over: nothing is left that was there, and nothing was done to it.
	Right   bool               `json:"right"`
	Stopped string             `json:"stopped,omitempty"`
	Truth   []diagnose.Suspect `json:"truth"`
	Slips   []string           `json:"slips"`  // what somebody else had left
	Ninety  []Line             `json:"ninety"` // days played forward, the worst first
	Unsafe  []Line             `json:"unsafe"` // acts that hurt somebody or something
	Sound   []string           `json:"sound"`  // sound units that were replaced
	Yours   Work               `json:"yours"`
	Engine  Work               `json:"engine"`
	Marks   []Mark             `json:"marks"`
	Total   float64            `json:"total"`
	// Capped says why it is no more, whatever the lines come to; "" where nothing caps it.
	Capped Cap `json:"capped,omitempty"`
	// Certified: a certificate is printed of it.
	Certified bool     `json:"certified"`
	Dear      []Dear   `json:"dear"`
	Way       []Moment `json:"way"`
	Own       []Moment `json:"own"` // the engine's
}

const (
	ninetyMost = 10
	dearMost   = 3
	knewMost   = 3
)

// End says what it came to. all is the job's log.
func (b *Bay) End(ctx context.Context, j *job.Job, all []job.Event) (*Result, error) {
	own, err := b.ownWay(ctx)
	if err != nil {
		return nil, err
	}
	released := j.State.ReleasedAt != nil
	o := b.body.End(j, released)
	r := &Result{
		Exercise: b.Exercise.ID,
		Seed:     b.Seed,
		Pattern:  b.Exercise.Pattern,
		Teaches:  b.Exercise.Teaches,
		Released: released,
		Right:    o.Right && b.Stopped == "",
		Stopped:  string(b.Stopped),
		Truth:    b.body.Truth(),
		Slips:    []string{},
		Ninety:   []Line{},
		Unsafe:   []Line{},
		Sound:    b.sound(b.Did),
	}
	for _, s := range b.Exercise.Slips {
		r.Slips = append(r.Slips, string(s.Part))
	}
	left := b.left()
	for _, a := range left {
		if len(r.Ninety) < ninetyMost {
			r.Ninety = append(r.Ninety, Line{string(a.Harm), a.Of, string(a.Kind)})
		}
	}
	for _, m := range b.body.Vehicle().Marks() {
		r.Unsafe = append(r.Unsafe, Line{What: string(m.What), Of: m.At, Kind: "act"})
	}
	if len(left) > 0 { // whoever was not let go is not right, but hurts nobody
		r.Right = false
	}
	r.Yours, r.Engine = b.work(b.Did, b.body.Vehicle().Seconds, b.body.Vehicle()), b.engineWork(own)
	r.Dear = b.dear(r, left)
	if r.Way, err = moments(ctx, all, b.Did); err != nil {
		return nil, err
	}
	if r.Own, err = moments(ctx, own.Outcome.Book.Events, own.Acts); err != nil {
		return nil, err
	}
	mine, err := b.shown(j, all, b.Did)
	if err != nil {
		return nil, err
	}
	theirs, err := b.shown(own.Outcome.Book.Job, own.Outcome.Book.Events, own.Acts)
	if err != nil {
		return nil, err
	}
	r.mark(mine, theirs)
	return r, nil
}

// left is what comes of it in ninety days, but for what is no fault any more.
func (b *Bay) left() (out []simulate.After) {
	out = b.body.Ninety()
	slices.SortStableFunc(out, func(x, y simulate.After) int { return rank(x.Kind) - rank(y.Kind) })
	return out
}

func rank(k simulate.Kind) int {
	return slices.Index([]simulate.Kind{simulate.Unsafe, simulate.ComesBack, simulate.Shows}, k)
}

// sound are the units that were replaced with nothing wrong in them.
func (b *Bay) sound(did []proving.Done) []string {
	out, one := []string{}, b.body.System().Assist().OnePiece
	for _, unit := range b.fitted(did) {
		in := func(f diagnose.Suspect) bool {
			return diagnose.In(f.ID, unit) || one && diagnose.In(f.ID, proving.UnitCylinder)
		}
		if !slices.ContainsFunc(b.body.Truth(), in) {
			out = append(out, unit)
		}
	}
	return out
}

// fitted are the new units that were put on: what was taken out of its box before its nuts were done up.
func (b *Bay) fitted(did []proving.Done) (out []string) {
	boxes, one := map[string]bool{}, b.body.System().Assist().OnePiece
	for _, d := range did {
		switch {
		case d.Do == proving.DoUnit:
			boxes[d.ID] = true
		case d.Do == proving.DoStep && (d.ID == "fit.cylinder_nuts" || d.ID == "fit.actuator_bolts") && boxes[proving.UnitCylinder]:
			out = append(out, proving.UnitCylinder)
			delete(boxes, proving.UnitCylinder)
		case d.Do == proving.DoStep && d.ID == "fit.firewall_nuts" && (boxes[proving.UnitBooster] || one && boxes[proving.UnitCylinder]):
			out = append(out, proving.UnitBooster)
			delete(boxes, proving.UnitBooster)
			if one { // one piece with its cylinder
				clear(boxes)
			}
		}
	}
	return out
}

// replaces is the action that fits a unit, as it is priced.
func replaces(unit string) string { return "replace_" + unit }

func (b *Bay) work(did []proving.Done, seconds float64, v *simulate.Vehicle) Work {
	w := Work{Minutes: math.Round((seconds - b.fromS) / 60), FluidCM3: math.Round(v.PouredCM3() - b.fromCM3)}
	for _, d := range did {
		if d.Do == proving.DoTest {
			w.Tests++
		}
	}
	units := b.fitted(did)
	w.Units = len(units)
	w.Money = w.Minutes * diagnose.DefaultCosts().PerMinute
	for _, u := range units {
		w.Money += diagnose.DefaultCosts().Parts[replaces(u)]
	}
	return w
}

// engineWork is that of the engine's own way; where the exercise begins with a finished job, of what came after.
func (b *Bay) engineWork(own *proving.Course) Work {
	from := 0
	if len(b.Exercise.Slips) > 0 {
		from = own.HalfActs
	}
	w := b.work(own.Acts[from:], own.Seconds, own.Vehicle)
	w.Minutes = max(1, w.Minutes)
	return w
}

// dear are the steps that cost most: what is left wrong at the price of a comeback or of what is unsafe, a unit that
// was not needed, minutes of tests that the engine did without.
func (b *Bay) dear(r *Result, left []simulate.After) (out []Dear) {
	c := diagnose.DefaultCosts()
	out = []Dear{}
	for _, a := range left {
		cost := c.Comeback
		if a.Kind == simulate.Unsafe {
			cost = c.Unsafe
		}
		out = append(out, Dear{b.lastOf(a), string(a.Harm), a.Of, cost})
	}
	for i, d := range b.Did {
		if d.Do == proving.DoUnit && len(r.Sound) > 0 {
			out = append(out,
				Dear{i, "sound_unit", r.Sound[0], c.Parts[replaces(r.Sound[0])] + c.Minutes[replaces(r.Sound[0])]*c.PerMinute})
			break
		}
	}
	own := map[string]bool{}
	if b.own != nil {
		for _, a := range b.own.Acts {
			own[string(a.Do)+a.ID] = true
		}
	}
	for i, d := range b.Did {
		if x := diagnose.TestOf(d.ID); d.Do == proving.DoTest && x != nil && !own[string(d.Do)+d.ID] {
			out = append(out, Dear{i, "test_without", d.ID, x.Minutes * c.PerMinute})
		}
	}
	for _, m := range b.body.Vehicle().Marks() {
		cost := 20 * c.PerMinute // what is to be bled or cleaned again; of what hurts, the price of what is unsafe
		if m.What == simulate.Jet || m.What == simulate.Shock {
			cost = c.Unsafe
		}
		out = append(out, Dear{-1, string(m.What), m.At, cost})
	}
	slices.SortStableFunc(out, func(x, y Dear) int { return int(math.Round(y.Cost - x.Cost)) })
	return out[:min(len(out), dearMost)]
}

// lastOf is the last act on the part a consequence is of.
func (b *Bay) lastOf(a simulate.After) int {
	_, where, _ := strings.Cut(a.Of, ":")
	for i, d := range slices.Backward(b.Did) {
		if where != "" && d.At == where || d.Do == proving.DoStep && a.Of != "" && proving.Touches(d.ID, a.Of) {
			return i
		}
	}
	return -1
}

// signsTold tells apart what signs of the diagnosis stand: by where in the log each was told.
func signsTold(j *job.Job) (at int64) {
	for _, f := range j.State.Findings[job.PhaseDiagnose] {
		at += f.Seq // of all of them: any that changes, comes or goes moves it
	}
	return at
}

// moments are the steps of a way with what was known at each: the diagnosis is asked again where what was told has
// changed.
func moments(ctx context.Context, all []job.Event, did []proving.Done) ([]Moment, error) {
	out := make([]Moment, 0, len(did))
	book := &job.Book{Job: job.Replay("way", all[0].At, all[:1]), Events: slices.Clone(all[:1])}
	var now Moment
	told := int64(-1)
	for _, d := range did {
		if err := book.Forward(all, d.Head); err != nil {
			return nil, err
		}
		if at := signsTold(book.Job); at != told {
			told = at
			v, err := book.Diagnose(ctx)
			if err != nil {
				return nil, err
			}
			now = Moment{Knew: []Believed{}, Healthy: math.Round(1000*v.Result.Healthy) / 1000, Worth: v.Result.TestFirst}
			for _, f := range v.Result.Faults[:min(len(v.Result.Faults), knewMost)] {
				now.Knew = append(now.Knew, Believed{f.ID, f.At, math.Round(1000*f.Probability) / 1000})
			}
			if now.Worth == "" {
				now.Worth, now.WorthAct = v.Result.Action.Best, true
			}
		}
		m := now
		m.Act, m.Minute = d.Act, math.Round(d.SecondsIn/6)/10
		out = append(out, m)
	}
	return out, nil
}
