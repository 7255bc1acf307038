package trial

import (
	"encoding/json"
	"math"
	"slices"
	"strings"
	"sync"
	"time"

	"geminate/brake/diagnose"
)

// Options of a trial.
type Options struct {
	Vehicles int
	Worlds   int // the vehicles are drawn from this many worlds bent alike far
	Off      float64
	Seed     uint64
	Dear     float64 // a comeback and an unsafe release cost this many times their default; 0 takes 1
	Workers  int
	Second   bool           // drawn from the mechanic's shape
	Progress func(done int) `json:"-"`
}

// Way is a way of working, summed up.
type Way struct {
	Right, WrongUnit, Cured, Opened float64 // shares
	Minutes, Tests, Regret          float64 // means
}

// Bin is one line of the calibration: expected against observed.
type Bin struct {
	From, To, Expected, Observed float64
	N                            int
}

// Miss is a kind of mistake and how often it was made.
type Miss struct {
	Truth, Did, Should string
	N                  int
}

// Report is a trial's result.
type Report struct {
	Options Options
	Engine  Way
	// The common order: by rules of thumb, judged by the engine, and worked to its end.
	FixedByThumb, FixedJudged, FixedWhole Way
	CommonSign                            Way
	Calibration                           []Bin
	CalibrationError                      float64 // mean distance of expected from observed over all probabilities stated
	CalibrationErrorHigh                  float64 // the same over those of a tenth and more, where decisions are made
	LeadExpected, LeadTrue                float64
	DecisionP50, DecisionP95              time.Duration
	TwoFaults, Sound                      float64
	RightByFaults                         [4]float64 // the engine's right actions among vehicles with 0, 1, 2 and 3 faults
	StartedRight                          float64    // nothing done that was not needed, and something that was
	Misses                                []Miss
	// Worked until hand-over.
	EngineOver, OrderOver, ThumbOver Over
	// Unnamed is the share of vehicles with a trouble the engine has no name for.
	Unnamed float64
	// OverMisses are the commonest ways the engine's vehicles were not right at hand-over, OverWrong those that had a
	// sound unit replaced.
	OverMisses, OverWrong []Miss
}

type worked struct {
	engine, judged, whole, thumb, sign Outcome
	// The same vehicle worked until it is handed over: by the engine, by the whole common order, by rules of thumb.
	engineOver, orderOver, thumbOver Handover
	truth                            []diagnose.Suspect
	unnamed                          string
}

// Over is a way of working until hand-over, summed up.
type Over struct {
	Right, Comeback, Unsafe, Parked, WrongUnit float64 // shares of the vehicles
	Told                                       float64 // handed on: nothing that is known explains it
	Minutes, Rounds                            float64 // means
}

// Run draws and works the vehicles. The same options give the same figures, but for the times.
func Run(o Options) (*Report, error) {
	all := make([]worked, o.Vehicles)
	errs := make([]error, o.Worlds)
	costs := diagnose.DefaultCosts()
	if o.Dear > 0 {
		costs.Comeback, costs.Unsafe = o.Dear*costs.Comeback, o.Dear*costs.Unsafe
	}
	var done int
	var mu sync.Mutex
	work := make(chan int)
	var wg sync.WaitGroup
	for range max(1, o.Workers) {
		wg.Add(1)
		go func() {
			defer wg.Done()
			for k := range work {
				draw := NewWorld
				if o.Second {
					draw = NewSecond
				}
				w := draw(o.Off, o.Seed+uint64(k)*7919)
				for i := k; i < o.Vehicles && errs[k] == nil; i += o.Worlds {
					all[i], errs[k] = workOn(w.Draw(), costs)
					mu.Lock()
					done++
					if o.Progress != nil {
						o.Progress(done)
					}
					mu.Unlock()
				}
			}
		}()
	}
	for k := range o.Worlds {
		work <- k
	}
	close(work)
	wg.Wait()
	for _, err := range errs {
		if err != nil {
			return nil, err
		}
	}
	return summary(o, all), nil
}

func workOn(v *Vehicle, costs diagnose.Costs) (w worked, err error) {
	w.truth, w.unnamed = slices.Clone(v.Truth), v.Unnamed()
	if w.engine, err = v.Engine(costs); err != nil {
		return w, err
	}
	for _, x := range []struct {
		out *Outcome
		by  Judge
	}{{&w.judged, EngineJudges}, {&w.whole, EngineAtTheEnd}, {&w.thumb, RulesOfThumb}} {
		if *x.out, err = v.FixedOrder(costs, x.by); err != nil {
			return w, err
		}
	}
	w.sign = v.CommonSign(costs)
	for _, x := range []struct {
		out *Handover
		by  chooser
	}{{&w.engineOver, engineChooses(costs)}, {&w.orderOver, orderChooses(costs)}, {&w.thumbOver, thumbChooses(costs)}} {
		if *x.out, err = v.again(w.truth).ToHandover(costs, x.by); err != nil {
			return w, err
		}
	}
	return w, nil
}

func over(all []worked, of func(*worked) *Handover) (o Over) {
	n := float64(len(all))
	for i := range all {
		h := of(&all[i])
		o.Right += share(h.Right) / n
		o.Comeback += share(h.Released && !h.Right) / n
		o.Unsafe += share(h.Unsafe) / n
		o.Parked += share(!h.Released && !h.Told) / n
		o.Told += share(h.Told) / n
		o.WrongUnit += share(h.WrongUnits > 0) / n
		o.Minutes += h.Minutes / n
		o.Rounds += float64(min(h.Rounds, mostRounds)) / n
	}
	return o
}

func share(b bool) float64 {
	if b {
		return 1
	}
	return 0
}

func way(all []worked, of func(*worked) *Outcome) (w Way) {
	n := float64(len(all))
	for i := range all {
		o := of(&all[i])
		w.Right += share(o.Judgement.Right) / n
		w.WrongUnit += share(o.Judgement.WrongUnit) / n
		w.Cured += share(o.Judgement.Cured) / n
		w.Opened += share(o.Opened) / n
		w.Minutes += o.Minutes / n
		w.Tests += float64(o.Tests) / n
		w.Regret += o.Judgement.Regret / n
	}
	return w
}

func summary(o Options, all []worked) *Report {
	r := &Report{
		Options:      o,
		Engine:       way(all, func(w *worked) *Outcome { return &w.engine }),
		FixedJudged:  way(all, func(w *worked) *Outcome { return &w.judged }),
		FixedWhole:   way(all, func(w *worked) *Outcome { return &w.whole }),
		FixedByThumb: way(all, func(w *worked) *Outcome { return &w.thumb }),
		CommonSign:   way(all, func(w *worked) *Outcome { return &w.sign }),
	}
	r.EngineOver = over(all, func(w *worked) *Handover { return &w.engineOver })
	r.OrderOver = over(all, func(w *worked) *Handover { return &w.orderOver })
	r.ThumbOver = over(all, func(w *worked) *Handover { return &w.thumbOver })
	left, wrong := map[Miss]int{}, map[Miss]int{}
	for i := range all {
		w := &all[i]
		m := Miss{Truth: named(w), Did: strings.Join(w.engineOver.Did, "; "), Should: "left: " + list(w.engineOver.Left)}
		if !w.engineOver.Released && !w.engineOver.Told {
			m.Should = "parked, " + m.Should
		}
		if !w.engineOver.Right {
			left[m]++
		}
		if w.engineOver.WrongUnits > 0 {
			wrong[m]++
		}
	}
	r.OverMisses, r.OverWrong = commonest(left), commonest(wrong)
	n := float64(len(all))
	var times []time.Duration
	misses := map[Miss]int{}
	edges := []float64{0, 0.02, 0.05, 0.1, 0.2, 0.4, 0.6, 0.8, 0.9, 0.98, 1.0001}
	bins := make([]Bin, len(edges)-1)
	stated, high := 0.0, 0.0
	var by [4]float64
	for i := range all {
		w := &all[i]
		by[len(w.truth)]++
		r.RightByFaults[len(w.truth)] += share(w.engine.Judgement.Right)
		r.StartedRight += share(w.engine.Judgement.Right || w.engine.Judgement.Part) / n
		r.TwoFaults += share(len(w.truth) > 1) / n
		r.Sound += share(len(w.truth) == 0 && w.unnamed == "") / n
		r.Unnamed += share(w.unnamed != "") / n
		r.LeadExpected += w.engine.Lead / n
		r.LeadTrue += share(w.engine.LeadTrue) / n
		times = append(times, w.engine.Decisions...)
		for _, b := range w.engine.Faults {
			k := 0
			for b.P >= edges[k+1] {
				k++
			}
			bins[k].N++
			bins[k].Expected += b.P
			bins[k].Observed += share(b.True)
			stated++
		}
		if !w.engine.Judgement.Right {
			misses[Miss{Truth: named(w), Did: name(w.engine.Action), Should: name(w.engine.Judgement.Best)}]++
		}
	}
	for k := range by {
		r.RightByFaults[k] /= math.Max(1, by[k])
	}
	for k := range bins {
		b := &bins[k]
		b.From, b.To = edges[k], math.Min(1, edges[k+1])
		if b.N == 0 {
			continue
		}
		b.Expected /= float64(b.N)
		b.Observed /= float64(b.N)
		r.CalibrationError += float64(b.N) / stated * math.Abs(b.Expected-b.Observed)
		r.Calibration = append(r.Calibration, *b)
		if b.From >= 0.1 {
			high += float64(b.N)
			r.CalibrationErrorHigh += float64(b.N) * math.Abs(b.Expected-b.Observed)
		}
	}
	r.CalibrationErrorHigh /= math.Max(1, high)
	slices.Sort(times)
	r.DecisionP50, r.DecisionP95 = times[len(times)/2], times[len(times)*95/100]
	r.Misses = commonest(misses)
	return r
}

// commonest lists mistakes by how often they were made.
func commonest(misses map[Miss]int) (out []Miss) {
	for m, k := range misses {
		m.N = k
		out = append(out, m)
	}
	slices.SortFunc(out, func(a, b Miss) int {
		if a.N != b.N {
			return b.N - a.N
		}
		return compare(a, b)
	})
	return out
}

func compare(a, b Miss) int {
	x, _ := json.Marshal(a)
	y, _ := json.Marshal(b)
	return slices.Compare(x, y)
}

// named is what was wrong, the unnamed with it.
func named(w *worked) string {
	if w.unnamed == "" {
		return list(w.truth)
	}
	return list(w.truth) + " + " + w.unnamed
}

func list(truth []diagnose.Suspect) string {
	s := ""
	for i, t := range truth {
		if i > 0 {
			s += " + "
		}
		s += t.ID
	}
	if s == "" {
		return "sound"
	}
	return s
}

func name(a diagnose.ActionCost) string {
	s := a.ID
	if a.ModulatorRoutine {
		s += " with routine"
	}
	if a.ReplaceRubber {
		s += " and rubber"
	}
	for _, x := range a.Also {
		s += " + " + x
	}
	return s
}
