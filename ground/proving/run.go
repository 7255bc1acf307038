package proving

import (
	"cmp"
	"context"
	"runtime"
	"slices"
	"strings"
	"sync"

	"geminate/brake/match"
	"geminate/brake/plan"
	"geminate/brake/system"
	"geminate/brake/verify"
	"geminate/ground/simulate"
	"geminate/ground/trial"
)

// Options say what is proved.
type Options struct {
	Jobs    int    // of each technician
	Seed    uint64 // where it begins; the same seed gives the same vehicles and the same hands
	Pattern string // "" is every one in turn
	Ways    []Technician
	// Off is how far the vehicles' likelihoods lie from the engine's, as in the trial.
	Off float64
	// AskJobs are worked for every single ask, 0 for none.
	AskJobs int
	// Done is told as jobs end, where it is not nil.
	Done func(done, of int) `json:"-"`
	// Kept is given every job let go unsafe, or that could not go on, where it is not nil.
	Kept func(*Outcome) `json:"-"`
}

// worlds the vehicles are drawn from.
const worlds = 20

// Count is what came of many jobs.
type Count struct {
	Jobs, Released, Right, Parked, ParkedClean, DeadEnds, WrongUnits, Needless, Hurt, Refused int
	// Unsafe are jobs released unsafe: by what hands left, or by what the diagnosis did.
	Unsafe, UnsafeHands, Back, BackHands int
	Sound, SoundReleased                 int
	Minutes, FluidCM3, NeedCM3           float64
	Taps                                 Taps
}

func (c *Count) add(o *Outcome) {
	c.Jobs++
	tally := func(n *int, yes bool) {
		if yes {
			*n++
		}
	}
	byHands := func(a simulate.After) bool { return a.Harm != simulate.FaultLeft }
	tally(&c.Released, o.Released)
	tally(&c.Right, o.Right)
	tally(&c.Parked, o.Parked)
	tally(&c.ParkedClean, o.Parked && o.Clean)
	tally(&c.DeadEnds, o.DeadEnd != "")
	tally(&c.Unsafe, len(o.Unsafe) > 0)
	tally(&c.UnsafeHands, slices.ContainsFunc(o.Unsafe, byHands))
	tally(&c.Back, o.Released && len(o.Back) > 0)
	tally(&c.BackHands, o.Released && slices.ContainsFunc(o.Back, byHands))
	tally(&c.Needless, len(o.Needless) > 0)
	tally(&c.Hurt, len(o.Hurt) > 0)
	tally(&c.Sound, o.Sound)
	tally(&c.SoundReleased, o.Sound && o.Released)
	c.WrongUnits += o.WrongUnits
	c.Refused += o.Refused
	c.Minutes += o.Minutes
	c.FluidCM3, c.NeedCM3 = c.FluidCM3+o.FluidCM3, c.NeedCM3+o.NeedCM3
	c.Taps = Taps{
		c.Taps.Ticks + o.Taps.Ticks,
		c.Taps.Strokes + o.Taps.Strokes,
		c.Taps.Looks + o.Taps.Looks,
		c.Taps.Figures + o.Taps.Figures,
		c.Taps.Readings + o.Taps.Readings,
		c.Taps.Other + o.Taps.Other,
	}
}

// Reason is why a vehicle went wrong.
type Reason struct {
	Way string
	Cause
	Unsafe, Back int
}

// Report is what was proved.
type Report struct {
	Options Options
	ByWay   map[string]*Count
	ByKind  map[string]map[string]*Count // by technician and pattern
	Reasons []Reason
	Ends    map[string]int // dead ends, by why
	// Needless are steps told for what is not there, by pattern and step.
	Needless map[string]int
	Asks     []Ask
	Swap     Count // of the careful technician, a cylinder of a pickup, with a helper
}

// Prove works the jobs, on every processor.
func Prove(ctx context.Context, o Options) (*Report, error) {
	if len(o.Ways) == 0 {
		o.Ways = Technicians
	}
	list := make([]*trial.World, worlds)
	for i := range list {
		list[i] = trial.NewWorld(o.Off, o.Seed+uint64(i))
	}
	specs := []Spec{}
	for i := range o.Jobs {
		for _, w := range o.Ways { // the same vehicle, by every technician
			p := o.Pattern
			if p == "" {
				p = system.Patterns[i%len(system.Patterns)].ID
			}
			specs = append(specs, Spec{Seed: o.Seed + uint64(i), Pattern: p, Way: w, Vary: i%2 == 1})
		}
	}
	r := &Report{
		Options:  o,
		ByWay:    map[string]*Count{},
		ByKind:   map[string]map[string]*Count{},
		Ends:     map[string]int{},
		Needless: map[string]int{},
	}
	reasons := map[Reason]*Reason{}
	err := each(ctx, list, specs, func(s Spec, out *Outcome) {
		r.add(s, out, reasons)
		if (len(out.Unsafe) > 0 || out.DeadEnd != "") && o.Kept != nil {
			o.Kept(out)
		}
	}, o.Done)
	if err != nil {
		return nil, err
	}
	for _, x := range reasons {
		r.Reasons = append(r.Reasons, *x)
	}
	slices.SortFunc(r.Reasons, func(a, b Reason) int {
		return cmp.Or(b.Unsafe-a.Unsafe, b.Back-a.Back, strings.Compare(a.Way, b.Way),
			strings.Compare(string(a.Slip), string(b.Slip)), strings.Compare(a.Of, b.Of))
	})
	if o.AskJobs > 0 {
		if err := r.asks(ctx, list, o); err != nil {
			return nil, err
		}
	}
	return r, nil
}

// add counts one job.
func (r *Report) add(s Spec, out *Outcome, reasons map[Reason]*Reason) {
	if r.ByWay[s.Way.ID] == nil {
		r.ByWay[s.Way.ID], r.ByKind[s.Way.ID] = &Count{}, map[string]*Count{}
	}
	kind := r.ByKind[s.Way.ID]
	if kind[s.Pattern] == nil {
		kind[s.Pattern] = &Count{}
	}
	r.ByWay[s.Way.ID].add(out)
	kind[s.Pattern].add(out)
	for _, id := range out.Needless {
		r.Needless[s.Pattern+" "+id]++
	}
	if out.DeadEnd != "" {
		r.Ends[s.Way.ID+": "+out.DeadEnd]++
	}
	why := func(list []simulate.After, n func(*Reason) *int) {
		for _, a := range list {
			key := Reason{Way: s.Way.ID, Cause: out.Why(a)}
			key.part = ""
			if reasons[key] == nil {
				reasons[key] = &Reason{Way: key.Way, Cause: key.Cause}
			}
			*n(reasons[key])++
		}
	}
	why(out.Unsafe, func(x *Reason) *int { return &x.Unsafe })
	if out.Released {
		why(out.Back, func(x *Reason) *int { return &x.Back })
	}
}

// each works specs on every processor and hands the outcomes in in their order.
func each(ctx context.Context, list []*trial.World, specs []Spec, take func(Spec, *Outcome), done func(int, int)) error {
	type result struct {
		out Outcome
		err error
	}
	results := make([]chan result, len(specs))
	for i := range results {
		results[i] = make(chan result, 1)
	}
	next := make(chan int)
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	var wait sync.WaitGroup
	defer wait.Wait()
	for range runtime.GOMAXPROCS(0) {
		wait.Go(func() {
			for i := range next {
				out, err := Work(ctx, list[specs[i].Seed%uint64(len(list))], specs[i])
				results[i] <- result{out, err}
			}
		})
	}
	go func() {
		defer close(next)
		for i := range specs {
			select {
			case next <- i:
			case <-ctx.Done():
				return
			}
		}
	}()
	for i := range specs {
		select {
		case r := <-results[i]:
			if r.err != nil {
				return r.err
			}
			take(specs[i], &r.out)
			if done != nil {
				done(i+1, len(specs))
			}
		case <-ctx.Done():
			return ctx.Err()
		}
	}
	return nil
}

// Ask is what one thing that is asked for buys: what comes of it where nobody asks and so nobody does it, on the same
// vehicles by the same hands.
type Ask struct {
	ID   string
	Kind string // tick, figure, look, reading
	// Unsafe, Back and Minutes are prevented for every 10 000 jobs; Hand says that it is for the technician's own sake,
	// which no vehicle shows.
	Unsafe, Back, Minutes float64
	Hand                  bool
}

// swapSeeds keeps the swaps apart from the other jobs.
const swapSeeds = 1 << 40

// asks works a cylinder swap of a pickup with each single ask left out. The hands slip three times as often as the
// trade says, so that what seldom happens is seen; figures are for 10 000 of such jobs.
func (r *Report) asks(ctx context.Context, list []*trial.World, o Options) error {
	const pattern, fault = "pickup-front-rear-vacuum", "mc.primary_cup_bypass"
	way := Technician{ID: "slipping x3", Slips: 3}
	all, err := swapAsks(pattern)
	if err != nil {
		return err
	}
	var base Count
	specs := []Spec{}
	for i := range o.AskJobs {
		specs = append(specs, Spec{Seed: swapSeeds + o.Seed + uint64(i), Pattern: pattern, Fault: fault, Way: way},
			Spec{Seed: swapSeeds + o.Seed + uint64(i), Pattern: pattern, Fault: fault, Way: Careful})
	}
	if err := each(ctx, list, specs, func(s Spec, out *Outcome) {
		if s.Way.ID == Careful.ID {
			r.Swap.add(out)
			return
		}
		base.add(out)
	}, nil); err != nil {
		return err
	}
	for k, a := range all {
		var c Count
		specs = specs[:0]
		for i := range o.AskJobs {
			specs = append(specs,
				Spec{Seed: swapSeeds + o.Seed + uint64(i), Pattern: pattern, Fault: fault, Way: way, Without: map[string]bool{a.ID: true}})
		}
		if err := each(ctx, list, specs, func(_ Spec, out *Outcome) { c.add(out) }, nil); err != nil {
			return err
		}
		per := 10000 / float64(o.AskJobs)
		a.Unsafe, a.Back, a.Minutes = per*float64(
			c.Unsafe-base.Unsafe,
		), per*float64(
			c.Back-base.Back,
		), (base.Minutes-c.Minutes)/float64(
			o.AskJobs,
		)
		r.Asks = append(r.Asks, a)
		if o.Done != nil {
			o.Done(k+1, len(all))
		}
	}
	return nil
}

// swapAsks are all that is asked for in a cylinder swap, in its order.
func swapAsks(pattern string) ([]Ask, error) {
	s, err := system.FromPattern(pattern)
	if err != nil {
		return nil, err
	}
	t, err := idle(s, match.CylinderOnly)
	if err != nil {
		return nil, err
	}
	p, err := t.Plan()
	if err != nil {
		return nil, err
	}
	out := []Ask{}
	for i := range p.Steps {
		x := &p.Steps[i]
		if x.ID == "close.bleed" {
			continue
		}
		kind := "tick"
		if x.Torque != nil || x.Measure != "" {
			kind = "figure"
		}
		out = append(out, Ask{ID: x.ID, Kind: kind, Hand: x.Phase == plan.MakeSafe || x.ID == "prepare.chock"})
	}
	out = append(out, Ask{ID: "look", Kind: "look"})
	g, err := t.Gate()
	if err != nil {
		return nil, err
	}
	for _, i := range g.Items {
		if i.Where != verify.AtWork {
			out = append(out, Ask{ID: i.ID, Kind: "reading"})
		}
	}
	return out, nil
}
