package trial

import (
	"errors"
	"math"
	"runtime"
	"sync"

	"geminate/brake/diagnose"
)

// Lesson is how a shop's diagnosis does after so many jobs: on vehicles of its own world it has not met, with the table
// as it was and with what it has learnt.
type Lesson struct {
	Jobs  int
	Right float64 // share with the right action
	// Truth is the mean of the natural logarithm of the probability given to what really was wrong: the nearer to 0 the
	// better.
	Truth float64
}

// Learn lets one shop in a bent world work and be told what it really was, and looks every so many jobs at the same
// vehicles, none of which it has worked on. The last fault told is one: a second is seldom known to a shop.
func Learn(off float64, seed uint64, jobs, every, held int) ([]Lesson, error) {
	costs := diagnose.DefaultCosts()
	w := NewWorld(off, seed)
	tests := make([]*Vehicle, held)
	for i := range tests {
		tests[i] = w.Draw()
	}
	known := map[string]diagnose.Experience{}
	var out []Lesson
	look := func(n int) error {
		l := Lesson{Jobs: n}
		for _, v := range tests {
			v := v.again(v.Truth)
			v.shop = diagnose.ExperienceOf(v.Pattern, known)
			o, err := v.Engine(costs)
			if err != nil {
				return err
			}
			l.Right += share(o.Judgement.Right) / float64(held)
			p := 1e-6
			for _, b := range o.Faults {
				if b.True {
					p = math.Max(p, b.P)
				}
			}
			if len(v.Truth) == 0 {
				p = math.Max(p, o.Healthy)
			}
			l.Truth += math.Log(p) / float64(held)
		}
		out = append(out, l)
		return nil
	}
	if err := look(0); err != nil {
		return nil, err
	}
	for n := 1; n <= jobs; n++ {
		v := w.Draw()
		v.shop = diagnose.ExperienceOf(v.Pattern, known)
		c := v.newCase()
		if _, err := v.engineOn(c, costs); err != nil {
			return nil, err
		}
		x := known[v.Pattern]
		if x.Counts == nil {
			x.Counts = map[string]int{}
		}
		if len(v.Truth) > 0 {
			was := v.Truth[0].ID
			x.Jobs++
			x.Counts[was]++
			x.See(was, diagnose.SeenIn(c), 1)
			known[v.Pattern] = x
		}
		if n%every == 0 {
			if err := look(n); err != nil {
				return nil, err
			}
		}
	}
	return out, nil
}

// Shops is the mean lesson of several shops, each in a world of its own, worked side by side.
func Shops(off float64, seed uint64, shops, jobs, every, held int) ([]Lesson, error) {
	all, errs := make([][]Lesson, shops), make([]error, shops)
	var wg sync.WaitGroup
	room := make(chan struct{}, runtime.NumCPU())
	for k := range shops {
		wg.Add(1)
		go func() {
			defer wg.Done()
			room <- struct{}{}
			defer func() { <-room }()
			all[k], errs[k] = Learn(off, seed+uint64(k)*7919, jobs, every, held)
		}()
	}
	wg.Wait()
	if err := errors.Join(errs...); err != nil {
		return nil, err
	}
	out := make([]Lesson, len(all[0]))
	for _, l := range all {
		for i := range l {
			out[i].Jobs = l[i].Jobs
			out[i].Right += l[i].Right / float64(shops)
			out[i].Truth += l[i].Truth / float64(shops)
		}
	}
	return out, nil
}
