package practice

import (
	"context"
	"errors"
	"math"
	"math/rand/v2"
	"slices"
	"strings"

	"geminate/brake/diagnose"
	"geminate/brake/job"
	"geminate/brake/plan"
	"geminate/brake/system"
	"geminate/ground/proving"
	"geminate/ground/simulate"
	"geminate/ground/trial"
)

// Bay is one exercise being worked: a vehicle, and what was done to it.
type Bay struct {
	Exercise *Exercise
	Seed     uint64
	Did      []proving.Done
	// Stopped is what would have hurt somebody: nothing more is done then.
	Stopped proving.Happens

	// fromS and fromCM3 are what somebody else had worked and poured before.
	fromS, fromCM3 float64
	body           *proving.Body
	own            *proving.Course // the engine's own way, worked out once
	last           proving.Seen
}

// ErrStopped is an act after something that would have hurt somebody.
var ErrStopped = errors.New("practice: the exercise is stopped")

// worldSeed is of the one world practice draws from: the engine's own tables, so that what is learnt is what it says.
const worldSeed = 1

// Open stands somebody in front of an exercise's vehicle. seed 0 takes the exercise's own; the same seed gives
// everybody the same.
func Open(ex *Exercise, seed uint64) *Bay {
	if seed == 0 {
		seed = ex.Seed
	}
	b := &Bay{Exercise: ex, Seed: seed}
	b.body = proving.NewBody(b.draw(), seed, ex.Boxed)
	return b
}

func (b *Bay) draw() *trial.Vehicle {
	w, rnd := trial.NewWorld(0, worldSeed), rand.New(rand.NewPCG(b.Seed, 0x9a))
	if b.Exercise.ID != Free {
		return w.With(b.Exercise.Pattern, b.Exercise.Faults, rnd)
	}
	v := w.DrawOf(b.Exercise.Pattern, rnd)
	for n := 0; n < drawsMost && !fits(b.Exercise.Hardness, len(v.Truth)); n++ {
		v = w.DrawOf(b.Exercise.Pattern, rnd)
	}
	v.Tools, v.Hands = slices.Clone(diagnose.Tools), 2
	return v
}

// drawsMost vehicles are drawn for one of the hardness that is asked for: two faults at once are one in some ten.
const drawsMost = 400

// fits says whether a vehicle of so many faults is as hard as this.
func fits(h job.Hardness, faults int) bool {
	switch h {
	case job.Plain:
		return faults == 1
	case job.Hard:
		return faults > 1
	default:
		return true
	}
}

// OwnWay is the engine's own way on this vehicle, with all its truth: for who may know.
func (b *Bay) OwnWay(ctx context.Context) (*proving.Course, error) { return b.ownWay(ctx) }

// ownWay is the careful technician's on the same vehicle.
func (b *Bay) ownWay(ctx context.Context) (*proving.Course, error) {
	if b.own != nil {
		return b.own, nil
	}
	var slips func(*simulate.Vehicle)
	if len(b.Exercise.Slips) > 0 {
		slips = func(v *simulate.Vehicle) {
			for _, s := range b.Exercise.Slips {
				s.Do(v)
			}
		}
	}
	c, err := proving.CarefulCourse(ctx, b.draw(), b.Seed, b.Exercise.Boxed, slips)
	b.own = c
	return c, err
}

// Handed is the job as it is handed over: opened with what the owner says, or finished by somebody else and to be
// looked over. Its events are told by whoever had it before; the vehicle stands accordingly.
func (b *Bay) Handed(ctx context.Context) ([]job.Event, error) {
	if len(b.Exercise.Slips) == 0 {
		return nil, nil
	}
	c, err := b.ownWay(ctx)
	if err != nil {
		return nil, err
	}
	book := &job.Book{
		Job:    job.Replay("handed", c.Outcome.Book.CreatedAt, c.Outcome.Book.Events[:1]),
		Events: slices.Clone(c.Outcome.Book.Events[:1]),
	}
	for _, a := range c.Acts[:c.HalfActs] {
		if err := book.Forward(c.Outcome.Book.Events, a.Head); err != nil {
			return nil, err
		}
		b.body.Do(book.Job, a.Act)
	}
	for _, s := range b.Exercise.Slips {
		b.body.Slip(s.Do)
	}
	b.fromS, b.fromCM3 = b.body.Vehicle().Seconds, b.body.Vehicle().PouredCM3()
	return c.Outcome.Book.Events[:c.HalfHead], nil
}

// Reports are what the owner says, as findings.
func (b *Bay) Reports() []diagnose.Finding { return b.body.Reports() }

// Last is what the last act gave.
func (b *Bay) Last() proving.Seen { return b.last }

// Truth are the faults it came with: for who may know.
func (b *Bay) Truth() []diagnose.Suspect { return b.body.Truth() }

// Bounds are those of the figures an act has.
type Bounds struct {
	NM      [2]float64 `json:"nm"`      // torque
	Strokes [2]float64 `json:"strokes"` // at a bleeder, at once
	ForceN  [2]float64 `json:"force_n"` // of a foot
	Seconds [2]float64 `json:"seconds"` // of a press
	Seed    [2]float64 `json:"number"`  // of free practice
}

// Limits are those bounds: what hands, a foot and a wrench can do. Assumptions.
var Limits = Bounds{
	NM:      [2]float64{0, 400},
	Strokes: [2]float64{1, 60},
	ForceN:  [2]float64{0, 2000},
	Seconds: [2]float64{1, 120},
	Seed:    [2]float64{1, 1 << 32},
}

const (
	valueMost = 5000 // N or cm³ of an act
	idMost    = 60
	placeMost = 12
)

// Check says what is wrong with an act that cannot be done.
func (b *Bay) Check(a *proving.Act) error {
	s := b.body.System()
	bad := func(path string, value any) error {
		return system.Faults{{Path: path, Code: "fault.not_here", With: map[string]any{"value": value}}}
	}
	if len(a.ID) > idMost || len(a.Places) > placeMost {
		return bad("$.id", len(a.ID))
	}
	if !(a.NM >= Limits.NM[0] && a.NM <= Limits.NM[1]) {
		return system.Faults{
			{Path: "$.nm", Code: "fault.range", With: map[string]any{"value": a.NM, "min": Limits.NM[0], "max": Limits.NM[1]}},
		}
	}
	if a.N < 0 || float64(a.N) > Limits.Seconds[1] || a.Value != nil && !(*a.Value >= 0 && *a.Value <= valueMost) {
		return system.Faults{{Path: "$.n", Code: "fault.range", With: map[string]any{"value": a.N, "min": 0, "max": Limits.Seconds[1]}}}
	}
	wheel := slices.ContainsFunc(s.Wheels, func(w system.Wheel) bool { return w.ID == a.At })
	switch a.Do {
	case proving.DoTest:
		if x := diagnose.TestOf(a.ID); x == nil || x.Applies != nil && !x.Applies(s) {
			return bad("$.id", a.ID)
		}
	case proving.DoLook:
		if !slices.ContainsFunc(diagnose.Kinds(), func(k diagnose.Kind) bool { return k.ID == a.ID }) {
			return bad("$.id", a.ID)
		}
	case proving.DoStroke, proving.DoDraw, proving.DoPush:
		if !wheel || a.Do == proving.DoStroke && a.N == 0 || a.Do != proving.DoStroke && a.Value == nil {
			return bad("$.at", a.At)
		}
	case proving.DoUnit:
		if a.ID != proving.UnitCylinder && (a.ID != proving.UnitBooster || !s.Assist().Powered()) {
			return bad("$.id", a.ID)
		}
	case proving.DoBench:
		if a.N == 0 {
			return bad("$.n", a.N)
		}
	case proving.DoMend:
		for _, p := range a.Places {
			if !slices.Contains(b.mendable(), p) {
				return bad("$.places", p)
			}
		}
	case proving.DoRead,
		proving.DoPress,
		proving.DoStep,
		proving.DoRepair,
		proving.DoWheelsOff,
		proving.DoClose,
		proving.DoFill,
		proving.DoEmpty,
		proving.DoRoutine,
		proving.DoExchange,
		proving.DoEngine:
	default:
		return bad("$.do", a.Do)
	}
	return nil
}

// mendable are the places something can be repaired at besides the units.
func (b *Bay) mendable() (out []string) {
	s := b.body.System()
	for _, w := range s.Wheels {
		out = append(out, "wheel:"+w.ID, "hose:"+w.ID)
	}
	for _, c := range s.Circuits {
		out = append(out, "circuit:"+c.ID)
	}
	out = append(out, "rubber", "wheels:")
	if s.IsTrailer() {
		out = append(out, "coupler:")
	}
	if s.Modulator != nil {
		out = append(out, "modulator:")
	}
	if s.Assist().Powered() {
		out = append(out, "supply:")
	}
	if s.Pedal != nil {
		out = append(out, "rod")
	}
	return out
}

// Do does one thing on the vehicle, with the job as it is told at that moment.
func (b *Bay) Do(j *job.Job, a proving.Act) (proving.Seen, error) {
	if b.Stopped != "" {
		return proving.Seen{}, ErrStopped
	}
	if err := b.Check(&a); err != nil {
		return proving.Seen{}, err
	}
	before := b.body.Vehicle().Seconds
	seen := b.body.Do(j, a)
	if a.Do == proving.DoMend && !planned(j) { // no step is for it: done at once
		b.body.Do(j, proving.Act{Do: proving.DoRepair})
	}
	b.Did = append(b.Did, proving.Done{Act: a, Head: j.Head, SecondsIn: before})
	b.Stopped, b.last = seen.Happened, seen
	return seen, nil
}

func planned(j *job.Job) bool {
	p, err := j.Plan()
	return err == nil && p.Find("elsewhere.repaired") != nil
}

// Again does what was done before on a vehicle that was put away, with the job's log as it stood each time.
func (b *Bay) Again(opened *job.Job, all []job.Event, did []proving.Done) error {
	book := &job.Book{Job: job.Replay(opened.ID, opened.CreatedAt, all[:1]), Events: slices.Clone(all[:1])}
	for _, d := range did {
		if err := book.Forward(all, d.Head); err != nil {
			return err
		}
		if _, err := b.Do(book.Job, d.Act); err != nil {
			return err
		}
	}
	return nil
}

// Stands is what anybody who stands before the vehicle sees of it without doing anything.
type Stands struct {
	Off       []string `json:"off"` // parts that are off
	Level     float64  `json:"level"`
	EngineOn  bool     `json:"engine_on"`
	WheelsOff bool     `json:"wheels_off"`
	Minutes   float64  `json:"minutes"`
	Stopped   string   `json:"stopped,omitempty"`
	Acts      int      `json:"acts"`
}

// Stands tells it.
func (b *Bay) Stands() Stands {
	v := b.body.Vehicle()
	out := Stands{
		Off:      []string{},
		Level:    math.Round(10*math.Max(0, v.LevelShare())) / 10,
		EngineOn: v.Assisted(),
		Minutes:  math.Round((v.Seconds - b.fromS) / 60),
		Stopped:  string(b.Stopped),
		Acts:     len(b.Did),
	}
	for _, p := range v.OffParts() {
		if p == simulate.RoadWheels {
			out.WheelsOff = true
		}
		if p != simulate.SmallPart && p != simulate.RodSupport && p != simulate.FaceSeal { // what is inside is not seen from outside
			out.Off = append(out.Off, string(p))
		}
	}
	return out
}

// Offer is what hands can do here, by ids there are words for.
type Offer struct {
	Tests []string `json:"tests"`
	Steps []Offers `json:"steps"`
	Reads []string `json:"reads"`
	Mends []string `json:"mends"`
	// Bounds are of what is entered.
	Bounds Bounds `json:"bounds"`
}

// Offers is a step; Torque says that it is done up to a torque.
type Offers struct {
	ID     string `json:"id"`
	Torque bool   `json:"torque"`
}

// Offer lists it: the tests this vehicle takes, the steps of the work as it is planned, the readings of the release
// check.
func (b *Bay) Offer(j *job.Job) Offer {
	s := b.body.System()
	out := Offer{Tests: []string{}, Steps: []Offers{}, Reads: []string{}, Mends: b.mendable(), Bounds: Limits}
	for i := range diagnose.Tests {
		if t := &diagnose.Tests[i]; t.Applies == nil || t.Applies(s) {
			out.Tests = append(out.Tests, t.ID)
		}
	}
	if p, err := j.Plan(); err == nil {
		for i := range p.Steps {
			if x := &p.Steps[i]; doable(x) {
				out.Steps = append(out.Steps, Offers{x.ID, x.Torque != nil})
			}
		}
	}
	if g, err := j.Gate(); err == nil {
		for _, i := range g.Items {
			if b.body.Reads(i.ID) {
				out.Reads = append(out.Reads, i.ID)
			}
		}
	}
	return out
}

// doable leaves out what is done otherwise: the bleed is strokes, the vice as well.
func doable(x *plan.Step) bool {
	return x.ID != "close.bleed" && x.ID != "fit.bench_bled" && !strings.HasPrefix(x.ID, "decide.")
}

// Real is the vehicle's system as it really stands: for stand-in instruments, which feel what is there.
func (b *Bay) Real() *system.System { return b.body.Vehicle().Now() }
