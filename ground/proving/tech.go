package proving

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"time"

	"geminate/brake/diagnose"
	"geminate/brake/job"
	"geminate/brake/match"
	"geminate/brake/plan"
	"geminate/brake/system"
	"geminate/ground/hands"
	"geminate/ground/simulate"
	"geminate/ground/trial"
)

// Spec is one job to be worked.
type Spec struct {
	Seed    uint64
	Pattern string
	Way     Technician
	// Without are steps and readings nobody is asked for: they are told and never done.
	Without map[string]bool
	// Vary: schools, method and what is on the vehicle are drawn, not the usual ones.
	Vary bool
	// Fault is the one fault it is to have, "" for what is drawn.
	Fault string
}

// tech works one job on one vehicle.
type tech struct {
	*hands.Hands
	way    Technician
	spec   Spec
	rnd    *rand.Rand
	v      *simulate.Vehicle
	shown  *trial.Vehicle
	out    Outcome
	ids    int
	bottle simulate.Bottle
	// bottleAt is what had been poured when the bottle in hand was taken up, cm³.
	bottleAt float64

	boxes    map[string]bool // new units out of their boxes and not yet on: master_cylinder, booster
	alike    bool            // what lies in the box is the look-alike
	covered  bool
	tagged   bool
	rodMoved bool
	open     string // the wheel whose bleeder is open
	wheelsUp bool
	repairs  []simulate.Part
	redone   map[string]int
	varied   bool
	// online is the job as the server has it while the tablet has no network, offlineAt the head it was lost at.
	online     *job.Book
	offlineFor int
	offlineAt  int64
	// badBottle: it was seen that the wrong one was poured.
	badBottle bool
	// boxed: a look-alike lies in the box, for the one who compares to see.
	boxed bool
	// rec takes down what is done on the vehicle, where it is not nil; deep is how far inside an act that is taken down
	// already.
	rec  func(Act)
	deep int
	// toldS is what telling, waiting and thinking took, s: on the vehicle's clock, and no work on it.
	toldS float64
	// halfway is done once, where the plan has no step left and nothing has been read of the release check.
	halfway func()
}

// did takes down an act, and ends where the act does.
func (t *tech) did(a Act) func() {
	if t.deep++; t.rec != nil && t.deep == 1 {
		t.rec(a)
	}
	return func() { t.deep-- }
}

// worker has the vehicle in hand, looker looks it over at the end.
var (
	worker = job.Actor{ID: "p1", Name: "Hand", Role: job.Lead}
	looker = job.Actor{ID: "p3", Name: "Looker", Role: job.Technician}
)

// Work works one job through.
func Work(ctx context.Context, world *trial.World, spec Spec) (Outcome, error) {
	rnd := rand.New(rand.NewPCG(spec.Seed, 0x7e))
	shown := world.DrawOf(spec.Pattern, rnd)
	for n := 0; spec.Fault != "" && n < 1000 && !(len(shown.Truth) == 1 && shown.Truth[0].ID == spec.Fault); n++ {
		shown = world.DrawOf(spec.Pattern, rnd)
	}
	t := newTech(spec, shown, false)
	if err := t.begin(); err != nil {
		return t.out, err
	}
	err := t.through(ctx)
	t.end(err)
	return t.out, nil
}

// faultsOf are the faults of a drawn vehicle as the simulated one has them.
func faultsOf(shown *trial.Vehicle) (out []simulate.Fault) {
	for _, s := range shown.Truth {
		i := slices.IndexFunc(diagnose.Faults, func(f diagnose.Fault) bool { return f.ID == s.ID })
		f := &diagnose.Faults[i]
		x := simulate.Fault{ID: s.ID, At: s.At, Unsafe: f.Unsafe, In: curedBy(f, s.At)}
		if f.Physics != nil {
			severity := shown.Severity(s)
			x.Physics = func(sys *system.System) { f.Physics(sys, s.At, severity) }
		}
		out = append(out, x)
	}
	return out
}

// curedBy are the parts in which a fault lies.
func curedBy(f *diagnose.Fault, at string) []simulate.Part {
	switch f.ID { // the tool puts these right; a new unit as well
	case "electro.simulator_air", "electro.offset_unlearned":
		return []simulate.Part{simulate.Modulator, simulate.Booster}
	}
	switch f.Part {
	case "master_cylinder":
		return []simulate.Part{simulate.Cylinder}
	case "booster":
		return []simulate.Part{simulate.Booster}
	case "rod":
		return []simulate.Part{simulate.Rod}
	case "actuator":
		if f.ID != "trailer.actuator_seized" {
			return []simulate.Part{simulate.At("coupler", "")}
		}
	}
	switch f.ID {
	case "trailer.actuator_seized": // freed by itself, or with the cylinder off
		return []simulate.Part{simulate.At("coupler", ""), simulate.Cylinder}
	case "trailer.wheels_seized", "trailer.shoes_far", "wheel.parking_brake", "wheel.linings":
		return []simulate.Part{simulate.At("wheels", "")}
	case "circuit.hose_expands", "circuit.hose_blocked":
		return []simulate.Part{simulate.At("hose", at)}
	case "circuit.modulator_leak":
		return []simulate.Part{simulate.At("modulator", "")}
	case "circuit.modulator_air":
		return []simulate.Part{simulate.Modulator}
	case "fluid.petroleum":
		return []simulate.Part{simulate.Rubber}
	}
	return []simulate.Part{simulate.At(simulate.Part(f.Part), at)} // wheel:LF, circuit:A, supply:, fluid:
}

// began is when every job begins: the bottle is fresh then.
var began = time.Date(2026, 11, 2, 8, 0, 0, 0, time.UTC)

// idle is a job of a scope with nothing done yet.
func idle(s *system.System, scope match.Scope) (*job.Book, error) {
	c := job.DefaultChoices(s)
	u := match.FromSystem(s)
	c.Scope, c.Unit = scope, &u
	u.ID = "u"
	return job.OpenBook(worker, began,
		job.Opening{ID: "prove", EventID: "open", Choices: &c, Intake: job.Intake{Vehicle: "-", Complaint: "-", System: s, Hands: 2}})
}

func (t *tech) begin() error {
	s := t.shown.System.Clone()
	c := job.DefaultChoices(s)
	c.Bottle.OpenedAt, c.Bottle.WaterPercent = "2026-10-30", &t.bottle.WaterPercent
	tools := t.shown.Tools
	b, err := job.OpenBook(worker, began, job.Opening{ID: fmt.Sprintf("prove-%d", t.spec.Seed), EventID: "open", Choices: &c,
		Intake: job.Intake{
			Vehicle:   t.spec.Pattern,
			Complaint: "-",
			Pattern:   t.spec.Pattern,
			System:    s,
			Hands:     max(2, t.shown.Hands),
			Tools:     &tools,
		}})
	if err != nil {
		return err
	}
	pace := rand.New(rand.NewPCG(t.spec.Seed, 0x81)) // of its own: how long somebody takes to tap is nothing the vehicle knows
	t.Hands = &hands.Hands{
		Book:   b,
		By:     worker,
		At:     began,
		AtOnce: 8,
		Pause:  func() float64 { return 20 + 40*pace.Float64() },
		ID:     func() string { t.ids++; return fmt.Sprintf("p%d", t.ids) },
	}
	t.out.Book = b
	return nil
}

const (
	mostRounds = 4    // of diagnosis and work, before it is parked
	mostActs   = 1500 // of any job
)

// errParked ends a job that is put off for a reason.
var errParked = errors.New("proving: parked")

// errStuck is a job that cannot go on.
type errStuck struct{ why string }

func (e errStuck) Error() string { return "proving: " + e.why }

func (t *tech) through(ctx context.Context) error {
	for _, f := range t.shown.Reports() {
		if err := t.finding(f); err != nil {
			return err
		}
	}
	if err := t.diagnose(ctx); err != nil {
		return err
	}
	if t.way.Paper {
		return t.paper(ctx)
	}
	return t.work(ctx)
}

// work does what comes next until the gate lets it go.
func (t *tech) work(ctx context.Context) error {
	still, head := 0, int64(0)
	for range mostActs {
		if err := t.network(); err != nil {
			return err
		}
		if t.online == nil && t.way.Changes > 0 && t.rnd.Float64() < t.way.Changes {
			if err := known(t.changeMind()); err != nil {
				return err
			}
		}
		did, err := t.next(ctx)
		var refused = known(err)
		if refused != nil {
			return refused
		}
		if err != nil {
			t.out.Refused++
		}
		if !did && err == nil {
			g, err := t.Gate()
			if err != nil {
				return err
			}
			if g.Passable && t.online != nil { // nobody lets a vehicle go alone
				if err := t.findNetwork(); err != nil {
					return err
				}
				continue
			}
			if g.Passable {
				t.At = t.At.Add(time.Minute)
				events, err := t.Release(worker, t.At, t.ID())
				if err != nil {
					return errStuck{"release refused: " + err.Error()}
				}
				t.Events = append(t.Events, events...)
				t.out.Released = true
				return nil
			}
			return errStuck{t.why(err)}
		}
		if still++; t.Head != head { // back in the network the shop's log may be the shorter one
			still, head = 0, t.Head
		}
		if still > 6 {
			return errStuck{t.why(err)}
		}
	}
	return errStuck{"no end after so many acts: " + t.why(nil)}
}

func (t *tech) why(err error) string {
	out := []string{}
	if err != nil {
		out = append(out, err.Error())
	}
	if v, e := t.Replace(); e == nil && v.Next != "" {
		out = append(out, "next "+v.Next)
	}
	if g, e := t.Gate(); e == nil {
		for _, i := range g.ToDo() {
			out = append(out, i.ID+":"+i.Code)
		}
	}
	return strings.Join(out, " ")
}

// known lets a refusal pass: it is an answer.
func known(err error) error {
	var faults system.Faults
	var one system.Fault
	var gate job.ErrGate
	if err == nil || errors.As(err, &faults) || errors.As(err, &one) || errors.As(err, &gate) || errors.Is(err, job.ErrNothing) ||
		errors.Is(err, hands.ErrNothing) {
		return nil
	}
	return err
}

// next does the one thing that comes next.
func (t *tech) next(ctx context.Context) (did bool, err error) {
	v, err := t.Replace()
	if err != nil {
		return false, err
	}
	if len(v.Together) > 1 { // done one after another, told by one tap
		ticks := t.out.Taps.Ticks
		for _, id := range v.Together {
			if err := t.step(v.Plan.Find(id)); err != nil {
				return true, err
			}
		}
		t.out.Taps.Ticks = ticks + 1
		return true, nil
	}
	if v.Next != "" {
		return true, t.step(v.Plan.Find(v.Next))
	}
	if half := t.halfway; half != nil {
		t.halfway = nil
		half()
	}
	g, err := t.Gate()
	if err != nil {
		return false, err
	}
	for _, i := range g.ToDo() {
		did, err := t.item(ctx, i)
		if did || err != nil {
			return did, err
		}
	}
	return false, nil
}

// tell tells an event, and counts what it took of taps.
func (t *tech) tell(k job.Kind, body any, count *int) error {
	*count++
	return t.Tell(k, body)
}

// finding tells one of the diagnosis.
func (t *tech) finding(f diagnose.Finding) error { return t.reading(f, false) }

// reading tells a finding; again where it is the same reading taken a second time.
func (t *tech) reading(f diagnose.Finding, again bool) error {
	err := t.tell(job.KindFinding,
		job.FindingMade{Phase: job.PhaseDiagnose, Finding: f.ID, Value: f.Value, Sure: f.Sure, Again: again},
		&t.out.Taps.Readings)
	return known(err) // a sign this system cannot have is not told
}

func raw(x any) json.RawMessage {
	b, err := json.Marshal(x)
	if err != nil {
		panic(err) // plain values
	}
	return b
}

// has says whether the plan has a step.
func has(p *plan.Plan, id string) bool { return p.Find(id) != nil }
