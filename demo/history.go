package demo

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"sync"
	"time"

	"github.com/google/uuid"

	"geminate/brake/job"
	"geminate/brake/match"
	"geminate/brake/system"
	"geminate/ground/hands"
	"geminate/ground/trial"
	"geminate/store"
)

// Two years of the invented shop: vehicles with hidden faults from the simulator's worlds, each worked on and released
// through the same commands a person's screen uses. The same every time.

// HistoryJobs is how many there are unless somebody says otherwise.
const HistoryJobs = 400

var (
	surnames = []string{
		"Arkwell",
		"Teasdell",
		"Ollersby",
		"Quenham",
		"Brackley",
		"Dunmarsh",
		"Fenwold",
		"Gaskarth",
		"Holmsund",
		"Ivering",
		"Kettleby",
		"Lorrimer",
	}
	models = map[string]string{
		"pickup-front-rear-vacuum": "Corrigan half-ton pickup",
		"car-diagonal-vacuum":      "Marrow 1.4 hatch",
		"car-front-rear-vacuum":    "Marrow 1.8 saloon",
		"pickup-hydraulic":         "Tarn diesel pickup",
		"truck-hydraulic":          "Hollis 9 t truck",
		"special-manual":           "Brine roadster, home built",
		"special-vacuum":           "Brine coupe, home built",
		"hybrid-electro-hydraulic": "Selwyn hybrid",
		"trailer-surge":            "Tandem stock trailer",
		"clutch-hydraulic":         "Corrigan half-ton, clutch",
	}
)

// openedAt is when the job of a place in the row was opened: spread over the years, the last some days before now. In
// hours, since nanoseconds of many years times many jobs do not fit.
func openedAt(i, n int, now time.Time) time.Time {
	const years, least = 2 * 365 * 24, 5 * 24 // h
	hours := least + int64(n-1-i)*(years-least)/int64(max(1, n-1))
	return now.Add(-time.Duration(hours) * time.Hour).Truncate(time.Hour)
}

// history makes n released jobs before now, the oldest first.
func history(n int, now time.Time) ([]*job.Book, error) {
	w := trial.NewWorld(0.15, 2026)
	type drawn struct {
		v     *trial.Vehicle
		at    time.Time
		plate string
		seed  uint64
	}
	r := rand.New(rand.NewPCG(26, 11))
	all := make([]drawn, n)
	plates := []string{}
	kinds := map[string]string{}
	for i := range all {
		v := w.Draw()
		at := openedAt(i, n, now)
		plate := fmt.Sprintf("%c%c %d", 'A'+rune(r.IntN(26)), 'A'+rune(r.IntN(26)), 1000+r.IntN(9000))
		// Most vehicles come again, some soon.
		if len(plates) > 20 && r.IntN(3) == 0 {
			if back := plates[len(plates)-1-r.IntN(min(60, len(plates)))]; kinds[back] == v.Pattern {
				plate = back
			}
		}
		kinds[plate] = v.Pattern
		plates = append(plates, plate)
		all[i] = drawn{v, at, plate, r.Uint64()}
	}
	out, errs := make([]*job.Book, n), make([]error, n)
	var wait sync.WaitGroup
	next := make(chan int)
	for range 2 {
		wait.Go(func() {
			for i := range next {
				d := all[i]
				out[i], errs[i] = released(d.v, d.at, d.plate, rand.New(rand.NewPCG(d.seed, 1)))
			}
		})
	}
	for i := range all {
		next <- i
	}
	close(next)
	wait.Wait()
	for i, err := range errs {
		if err != nil {
			return nil, fmt.Errorf("demo history %d (%s): %w", i, all[i].v.Pattern, err)
		}
	}
	return out, nil
}

// complaints are what an owner says of a sign.
var complaints = map[string]string{
	"pedal.sinks":         "At the lights the pedal creeps down under my foot.",
	"pedal.low":           "The pedal is much lower than it was.",
	"pedal.springy":       "It feels like standing on a spring.",
	"pedal.hard":          "I have to stand on it to stop.",
	"brakes.weak":         "It stops badly.",
	"brakes.drag":         "It rolls as if held back, and smells hot.",
	"level.falls":         "I keep topping the fluid up.",
	"pedal.to_floor":      "Once it went right to the floor.",
	"sound.rush_of_air":   "There is a hiss when I brake.",
	"pedal.soft_when_hot": "Down the pass the pedal went soft.",
	"steering.groan":      "It groans when I turn and brake.",
	"actuator.rod_moves":  "The trailer does not brake at all.",
	"pedal.pumps_up":      "I have to pump it.",
}

// worker works a job on as its screens ask for it.
type worker struct {
	*hands.Hands
	r *rand.Rand
}

// scopeFor is the work a fault comes to.
func scopeFor(s *system.System, fault string) match.Scope {
	for _, f := range []struct {
		prefix string
		scope  match.Scope
	}{{"mc.", match.CylinderOnly}, {"circuit.air", match.BleedOnly}, {"fluid.", match.BleedOnly}, {"circuit.modulator", match.BleedOnly}} {
		if len(fault) >= len(f.prefix) && fault[:len(f.prefix)] == f.prefix && !s.Assist().OnePiece {
			return f.scope
		}
	}
	return match.Elsewhere
}

func released(v *trial.Vehicle, at time.Time, plate string, r *rand.Rand) (*job.Book, error) {
	was := job.OtherFault
	if len(v.Truth) > 0 {
		was = v.Truth[0].ID
	}
	s := v.System.Clone()
	c := job.DefaultChoices(s)
	c.Scope = scopeFor(s, was)
	c.Bottle.OpenedAt = at.AddDate(0, 0, -r.IntN(40)).Format(time.DateOnly)
	if c.Scope == match.CylinderOnly {
		unit := match.FromSystem(s)
		maker := makers[r.IntN(len(makers))]
		unit.ID, unit.Maker, unit.Number, unit.Condition = "hist", maker, fmt.Sprintf("%c-%d", maker[0], 100+r.IntN(900)), "new"
		c.Unit = &unit
	}
	in := job.Intake{
		Customer:      surnames[r.IntN(len(surnames))],
		Vehicle:       models[v.Pattern],
		Plate:         plate,
		Pattern:       v.Pattern,
		System:        s,
		Hands:         2,
		DistanceKM:    float64(40000 + r.IntN(260000)),
		LastServiceAt: at.AddDate(-1-r.IntN(4), 0, 0).Format(time.DateOnly),
		Complaint:     "It brakes as ever; only asked to look it over.",
	}
	for _, f := range v.Reports() {
		if said, known := complaints[f.ID]; known && string(f.Value) != `"no"` && string(f.Value) != `"ok"` {
			in.Complaint = said
			break
		}
	}
	b, err := job.OpenBook(teller, at.UTC(), job.Opening{ID: uuid.NewString(), EventID: uuid.NewString(), Intake: in, Choices: &c})
	if err != nil {
		return nil, err
	}
	w := &worker{
		&hands.Hands{
			Book:   b,
			By:     teller,
			At:     at.UTC(),
			ID:     uuid.NewString,
			AtOnce: 100,
			Pause:  func() float64 { return float64(40 + r.IntN(100)) },
		},
		r,
	}
	water := float64(5+r.IntN(35)) / 10
	reports := append(v.Reports(), trial.Told("fluid.water_percent", water))
	for _, f := range reports {
		if err := w.Tell(job.KindFinding, job.FindingMade{Phase: job.PhaseDiagnose, Finding: f.ID, Value: f.Value}); err != nil {
			return nil, err
		}
	}
	for _, do := range []func() error{w.steps, w.again, w.finish} {
		if err := do(); err != nil {
			return nil, err
		}
	}
	w.At = w.At.Add(time.Minute)
	events, err := w.Release(teller, w.At, uuid.NewString())
	if err != nil {
		return nil, err
	}
	w.Events = append(w.Events, events...)
	told := job.ReallyWas{Fault: was}
	if was == job.OtherFault {
		told.Note = "nothing found"
	}
	return w.Book, w.Tell(job.KindReallyWas, told)
}

// most is how many things any job takes at the most.
const most = 3000

// steps does what is left of the plan.
func (w *worker) steps() error {
	for range most {
		v, err := w.Replace()
		if err != nil || v.Next == "" {
			return err
		}
		if err := w.Step(v.Plan.Find(v.Next)); err != nil {
			return err
		}
	}
	return fmt.Errorf("demo: a plan that never ends")
}

// finish reads whatever the gate lacks.
func (w *worker) finish() error {
	ok, err := w.Finish(most)
	if err == nil && !ok {
		err = fmt.Errorf("demo: a gate that never opens")
	}
	return err
}

// again: now and then the first reading fails, and the work goes on.
func (w *worker) again() error {
	v, err := w.Bleed()
	if err != nil || !v.Applies || !v.Method.Strokes() || w.r.IntN(5) > 0 {
		return err
	}
	w.At = w.At.Add(time.Minute)
	raw := json.RawMessage(`{"pedal_force_n":300,"travel_mm":7,"seconds":45,"engine":"on"}`)
	if err := w.Tell(job.KindFinding, job.FindingMade{Phase: job.PhaseVerify, Finding: "pedal.sink", Value: raw}); err != nil {
		return nil // no pedal to hold
	}
	wheel := w.Intake.System.Wheels[0].ID
	return w.Tell(job.KindWheelAgain, job.WheelAgain{Wheel: wheel})
}

// loadHistory stores it.
func loadHistory(ctx context.Context, st *store.Store, n int, now time.Time) error {
	books, err := history(n, now)
	if err != nil {
		return err
	}
	for _, b := range books {
		if err := st.AddJob(ctx, b.Job, b.Events, nil); err != nil {
			return fmt.Errorf("demo history: %w", err)
		}
	}
	return nil
}
