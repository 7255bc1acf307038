// Package walk proves the account of the vehicle by walking over it at random: honest work, slips, undoing and changes
// of mind, through the job's own commands. Whenever the gate would let the vehicle go, rules written apart from the
// account (shadow.go) must hold, and a simulated vehicle on which it was all done (truth.go) must be sound; and from
// wherever a walk has got to, careful hands must find the way to a release.
package walk

import (
	"errors"
	"fmt"
	"maps"
	"math/rand/v2"
	"slices"
	"time"

	"geminate/brake/bleed"
	"geminate/brake/job"
	"geminate/brake/match"
	"geminate/brake/plan"
	"geminate/brake/stand"
	"geminate/brake/system"
	"geminate/ground/hands"
)

// Result is what a walk found.
type Result struct {
	Acts     int      `json:"acts"`    // told and taken
	Refused  int      `json:"refused"` // told and refused
	Passable int      `json:"passable"`
	Finished int      `json:"finished"` // ways on from a random state that were tried and ended in a release
	Unsafe   []string `json:"unsafe"`   // let go with a rule broken: seed, act, rule
	DeadEnds []string `json:"dead_ends"`
}

func (r *Result) add(o Result) {
	r.Acts, r.Refused, r.Passable, r.Finished = r.Acts+o.Acts, r.Refused+o.Refused, r.Passable+o.Passable, r.Finished+o.Finished
	r.Unsafe, r.DeadEnds = append(r.Unsafe, o.Unsafe...), append(r.DeadEnds, o.DeadEnds...)
}

// actsAWalk is how long one walk is: after it another vehicle is drawn.
const actsAWalk = 400

// tryEvery acts a way on is sought.
const tryEvery = 100

// Run walks so many acts from a seed; walk gives it each walk's result as it ends, where it is not nil.
func Run(acts int, seed uint64, walk func(Result)) (Result, error) {
	out := Result{Unsafe: []string{}, DeadEnds: []string{}}
	for n := uint64(0); out.Acts < acts; n++ {
		one, err := One(seed+n, min(actsAWalk, acts-out.Acts))
		if err != nil {
			return out, fmt.Errorf("walk %d: %w", seed+n, err)
		}
		out.add(one)
		if walk != nil {
			walk(out)
		}
	}
	return out, nil
}

// chosen is what was chosen with an event.
type chosen struct {
	unit     string
	cylinder bool
	vice     bool // a new cylinder is bled in the vice
	booster  bool
	assist   string // the booster that was chosen, by id
	method   bleed.Method
	strokeMM float64
}

// pair are cylinder and booster together, as the rod between them is set for.
func (c *chosen) pair() string {
	if c.booster {
		return c.cylinderID() + "/" + c.assist
	}
	return c.cylinderID() + "/"
}

// cylinderID is the cylinder the work is for.
func (c *chosen) cylinderID() string {
	if c.cylinder {
		return c.unit
	}
	return ""
}

type walker struct {
	*hands.Hands
	// waiting is what others did cut off and have not told yet.
	waiting []job.In
	r       *rand.Rand
	seed    uint64
	ids     int
	choice  map[int64]chosen
	// lastChoice is the event with which was chosen what holds now; deeds what hands did, in their order; undid what a
	// taking back took back.
	lastChoice int64
	deeds      []deed
	undid      map[string]string
	truth      *truth // the vehicle as it stands; nil where it is to be worked out anew
	out        Result
}

var hand = job.Actor{ID: "w1", Name: "Walker", Role: job.Lead}

// One is a single walk.
func One(seed uint64, acts int) (Result, error) {
	r := rand.New(rand.NewPCG(seed, 13))
	pattern := system.Patterns[r.IntN(len(system.Patterns))]
	s, err := system.FromPattern(pattern.ID)
	if err != nil {
		return Result{}, err
	}
	w := &walker{
		r:      r,
		seed:   seed,
		choice: map[int64]chosen{},
		undid:  map[string]string{},
		out:    Result{Unsafe: []string{}, DeadEnds: []string{}},
	}
	c := job.DefaultChoices(s)
	scopes := match.Scopes(s)
	c.Scope = scopes[r.IntN(len(scopes))]
	began := time.Date(2026, 11, 1, 8, 0, 0, 0, time.UTC)
	c.Bottle.OpenedAt = "2026-10-30"
	c.Unit, c.Booster = w.unit(s, 0), w.booster(s, 0)
	b, err := job.OpenBook(
		hand,
		began,
		job.Opening{
			ID:      "walk",
			EventID: "open",
			Choices: &c,
			Intake:  job.Intake{Vehicle: pattern.ID, Complaint: "-", Pattern: pattern.ID, System: s, Hands: 2},
		},
	)
	if err != nil {
		return Result{}, err
	}
	w.Hands = &hands.Hands{
		Book:   b,
		By:     hand,
		At:     began,
		AtOnce: 30,
		Pause:  func() float64 { return 20 + 60*r.Float64() },
		ID:     func() string { w.ids++; return fmt.Sprintf("w%d", w.ids) },
	}
	w.Done, w.Look = w.did, w.sees
	w.chose()
	for w.out.Acts < acts && w.out.Acts+w.out.Refused < 4*acts {
		if err := w.act(); err != nil {
			return w.out, err
		}
		if len(w.waiting) > 0 && (len(w.waiting) > lateMost || r.IntN(12) == 0) {
			if err := known(w.sendLate()); err != nil {
				return w.out, err
			}
		}
		if err := w.look(); err != nil {
			return w.out, err
		}
	}
	return w.out, w.wayOn()
}

func (w *walker) unit(s *system.System, n int) *match.Unit {
	u, none := match.FromSystem(s), 0.0
	u.ID, u.Number, u.ResidualMPA = fmt.Sprintf("u%d", n), fmt.Sprintf("U %d", n), &none
	return &u
}

func (w *walker) booster(s *system.System, n int) *match.Unit {
	if !s.Assist().Powered() {
		return nil
	}
	mm := 85.0
	return &match.Unit{
		ID:            fmt.Sprintf("b%d", n),
		Number:        fmt.Sprintf("B %d", n),
		Kind:          match.BoosterKind(s),
		StudSpacingMM: &mm,
		Studs:         2,
		Ports:         []match.Port{},
		Contents:      []string{},
	}
}

// chose keeps what was chosen, for the rules.
func (w *walker) chose() {
	when := plan.BenchBefore
	if j := w.Choices.Joint; j != nil && j.Schools[plan.BenchWhen] != "" {
		when = j.Schools[plan.BenchWhen]
	}
	scope := match.Resolve(w.Intake.System, w.Choices.Scope)
	c := chosen{
		vice:     when == plan.BenchBefore || when == plan.BenchAfter,
		cylinder: scope.FitsCylinder(),
		booster:  scope.FitsBooster(),
		method:   w.Choices.Bleed.Method,
		strokeMM: w.Choices.Bleed.StrokeMM,
	}
	if w.Choices.Unit != nil {
		c.unit = w.Choices.Unit.ID
	}
	if w.Choices.Booster != nil {
		c.assist = w.Choices.Booster.ID
	}
	w.choice[w.Head], w.lastChoice = c, w.Head
}

// act tells one thing: mostly what comes next, else a slip or a change of mind.
func (w *walker) act() error {
	before := w.Head
	var err error
	if w.r.IntN(100) < 72 {
		_, err = w.Next()
	} else {
		err = w.slip()
	}
	if w.Head > before {
		w.out.Acts += int(w.Head - before)
	} else {
		w.out.Refused++
	}
	return known(err)
}

// known lets a refusal pass: it is what the walk is about. Anything else is a fault.
func known(err error) error {
	var faults system.Faults
	var gate job.ErrGate
	if err == nil || errors.As(err, &faults) || errors.As(err, &gate) || errors.Is(err, job.ErrNothing) ||
		errors.Is(err, hands.ErrNothing) {
		return nil
	}
	return err
}

// slip does something at random that a hand may do.
func (w *walker) slip() error {
	r, s := w.r, w.Intake.System
	wheel := s.Wheels[r.IntN(len(s.Wheels))].ID
	no := false
	switch r.IntN(31) {
	case 20, 21, 22:
		return w.cutOff(wheel)
	case 23:
		return w.sendLate()
	case 24, 25:
		return w.tests(wheel)
	case 26:
		return w.editSystem()
	case 27:
		return w.undoChain()
	case 28:
		return w.Tell(job.KindPartOff, job.PartOff{Place: stand.AtStud, Part: "nut"})
	case 29:
		id, stroke := w.ID(), job.BleedStroked{Wheel: wheel, Strokes: 1}
		err := w.Book.Tell(mateHand, w.At, id, job.KindBleedStroke, stroke)
		if err == nil {
			w.did(id, w.At, job.KindBleedStroke, stroke)
		}
		return err
	case 30:
		return w.Tell(job.KindRefill, job.Filled{Poured: job.PouredOther})
	case 0, 1:
		return w.Tell(job.KindBleedStroke, job.BleedStroked{Wheel: wheel, Strokes: 1 + r.IntN(12)})
	case 2:
		clear := w.sees(wheel)
		return w.Tell(job.KindWheelClear, job.WheelSeen{Wheel: wheel, Done: &clear})
	case 3:
		return w.Tell(job.KindWheelClear, job.WheelSeen{Wheel: wheel, Done: &no})
	case 4:
		return w.Tell(job.KindWheelAgain, job.WheelAgain{Wheel: wheel})
	case 5:
		return w.Tell(job.KindOpeningLost, job.OpeningLost{Wheel: wheel})
	case 6:
		return w.Tell(job.KindDrawnOff, job.DrawnOff{})
	case 7:
		return w.Tell(job.KindRefill, job.Filled{})
	case 8, 9:
		return w.anyStep(false)
	case 10:
		return w.anyStep(true)
	case 11, 12:
		return w.undo()
	case 13, 14, 15:
		return w.changeMind()
	case 16:
		return w.Tell(job.KindPartOff, job.PartOff{Place: stand.AtPedal, Part: "washer"})
	case 17:
		return w.Tell(job.KindWheelLeft, job.WheelLeft{Wheel: wheel, Why: job.LeftDeferred})
	case 18:
		return w.Tell(job.KindParked, job.Parked{Why: []job.ParkReason{job.ParkPart}})
	}
	bad := []struct {
		id    string
		value any
	}{{"pedal.sink", map[string]any{"pedal_force_n": 300, "travel_mm": 9, "seconds": 45, "engine": "off"}}, {"pedal.sinks", "slow"}, {"check.dry_joints", "no"}, {"level.falls", "fast"}, {"check.wheels_free", "no"}}[r.IntN(5)]
	return w.Find(bad.id, bad.value)
}

// anyStep ticks a step of the plan out of its turn, or takes one back.
func (w *walker) anyStep(back bool) error {
	p, err := w.Plan()
	if err != nil {
		return err
	}
	once := map[string]bool{}
	for _, s := range p.Steps {
		if once[s.ID] {
			w.out.Unsafe = append(w.out.Unsafe, fmt.Sprintf("walk %d, event %d: the plan asks for %s twice", w.seed, w.Head, s.ID))
		}
		once[s.ID] = true
	}
	s := p.Steps[w.r.IntN(len(p.Steps))]
	if !back {
		return w.Step(&s)
	}
	no := false
	v, err := w.Replace()
	if err != nil {
		return err
	}
	return w.Tell(job.KindTick, job.Ticked{Step: s.ID, Done: &no, Also: v.Falls[s.ID]})
}

func (w *walker) undo() error {
	e := w.Events[max(0, len(w.Events)-1-w.r.IntN(min(len(w.Events), 12)))]
	return w.Tell(job.KindUndo, job.Undone{Of: e.ID})
}

// changeMind chooses another scope, unit, school or method.
func (w *walker) changeMind() error {
	c, s := w.Choices, w.Intake.System
	switch w.r.IntN(4) {
	case 0:
		scopes := match.Scopes(s)
		c.Scope = scopes[w.r.IntN(len(scopes))]
	case 1:
		c.Unit = w.unit(s, w.r.IntN(3))
	case 2:
		joint := job.JointSetup{}
		if c.Joint != nil {
			joint = *c.Joint
		}
		e := plan.Schools[w.r.IntN(len(plan.Schools))]
		schools := map[plan.School]string{e.ID: e.Answers[w.r.IntN(len(e.Answers))]}
		for k, v := range joint.Schools {
			if k != e.ID {
				schools[k] = v
			}
		}
		joint.Schools = schools
		c.Joint = &joint
	case 3:
		c.Bleed.Method = []bleed.Method{"", bleed.Pedal, bleed.Vacuum, bleed.Gravity}[w.r.IntN(4)]
	}
	return w.choose(c)
}

func (w *walker) choose(c job.Choices) error {
	w.At = w.At.Add(time.Minute)
	events, err := w.ChangeChoices(w.Book, hand, w.At, w.ID(), w.ChoicesSeq, c)
	w.Events = append(w.Events, events...)
	if err == nil {
		w.chose()
	}
	return err
}

// look holds the rules against what the gate says, and now and then looks for the way on.
func (w *walker) look() error {
	g, err := w.Gate()
	if err != nil {
		return err
	}
	if g.Passable && len(w.waiting) == 0 { // what nobody has told nobody can know
		w.out.Passable++
		w.judge(w)
	}
	if w.Head%tryEvery == 0 {
		return w.wayOn()
	}
	return nil
}

// judge holds a vehicle that may go, as it has come on to, against both.
func (w *walker) judge(on *walker) {
	found := read(on.Intake.System, on.Events, on.choice).broken()
	found = append(found, vehicle(on.Intake.System, on.deeds, w.seed).harms()...)
	for _, rule := range found {
		w.out.Unsafe = append(w.out.Unsafe, fmt.Sprintf("seed %d, event %d of %d, %s: %s", w.seed, w.Head, on.Head, w.Intake.Pattern, rule))
	}
}

// wayOn follows what the job says from here, on a copy: the bleed taken up where it was put off, it must end in a
// release.
func (w *walker) wayOn() error {
	book := &job.Book{Job: job.Replay(w.Job.ID, w.CreatedAt, w.Events), Events: w.Events[:len(w.Events):len(w.Events)]}
	on := &walker{
		r:          w.r,
		seed:       w.seed,
		choice:     maps.Clone(w.choice),
		lastChoice: w.lastChoice,
		deeds:      slices.Clone(w.deeds),
		undid:      maps.Clone(w.undid),
	}
	on.Hands = &hands.Hands{
		Book:   book,
		By:     hand,
		At:     w.At,
		AtOnce: 100,
		Pause:  func() float64 { return 60 },
		ID:     func() string { on.ids++; return fmt.Sprintf("on%d-%d", w.Head, on.ids) },
		Done:   on.did,
		Look:   on.sees,
	}
	if j := book.Choices.Joint; j != nil && j.Schools[plan.BleedWhen] == plan.BleedPutOff {
		c, joint := book.Choices, *j
		joint.Schools = map[plan.School]string{}
		c.Joint = &joint
		if err := on.choose(c); err != nil {
			return err
		}
	}
	ok, err := on.Finish(1500)
	if ok {
		w.out.Finished++
		if len(w.waiting) == 0 {
			w.judge(on)
		}
		return nil
	}
	why := fmt.Sprintf("seed %d, event %d, %s: %v", w.seed, w.Head, w.Intake.Pattern, err)
	if v, e := book.Replace(); e == nil {
		g, _ := book.Gate()
		why += fmt.Sprintf(" left %v, gate", v.Open)
		for _, i := range g.ToDo() {
			why += " " + i.ID + ":" + i.Code
		}
	}
	w.out.DeadEnds = append(w.out.DeadEnds, why)
	return nil
}
