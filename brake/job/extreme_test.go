package job

import (
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"runtime"
	"strconv"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/bleed"
	"geminate/brake/match"
	"geminate/brake/pedal"
	"geminate/brake/system"
	"geminate/brake/twin"
)

// shaken bends the numbers of a system file at random, some by a hair, some to a hundredth or a hundredfold.
func shaken(v any, r *rand.Rand) any {
	switch x := v.(type) {
	case map[string]any:
		for k := range x {
			x[k] = shaken(x[k], r)
		}
	case []any:
		for i := range x {
			x[i] = shaken(x[i], r)
		}
	case float64:
		switch r.IntN(70) {
		case 0:
			return x * math.Pow(10, r.Float64()*4-2)
		case 1:
			return 0.0
		}
	}
	return v
}

// viewBudget is what a request may compute (server, computeMost). It is no measure of speed, which the benchmarks give:
// a view that never ends is what is looked for, and a thread of a busy machine is charged for its neighbours up to
// threefold.
const viewBudget = 3 * 2 * time.Second

// extremeSystems is how many systems each hand shakes; GEMINATE_EXTREME asks for another number.
func extremeSystems() int {
	if n, err := strconv.Atoi(os.Getenv("GEMINATE_EXTREME")); err == nil {
		return n
	}
	return 200
}

// Whatever the reader lets in, every view answers, in time and with figures that are figures.
func TestEveryViewOfAnyValidSystemAnswers(t *testing.T) {
	for hand := range uint64(4) {
		t.Run(fmt.Sprint(hand), func(t *testing.T) {
			t.Parallel()
			r := rand.New(rand.NewPCG(hand, 26))
			valid := 0
			for range extremeSystems() {
				j, raw := shakenJob(t, r)
				if j == nil {
					continue
				}
				valid++
				everyView(t, r, j, raw, valid%24 == 0)
				if t.Failed() {
					return
				}
			}
			assert.Greater(t, valid, extremeSystems()/5, "enough of them were let in to mean something")
		})
	}
}

// shakenJob bends a pattern and the choices of a job on it; nil where the door refuses them: nothing of it is stored.
func shakenJob(t *testing.T, r *rand.Rand) (*Job, []byte) {
	t.Helper()
	p := system.Patterns[r.IntN(len(system.Patterns))]
	raw, err := json.Marshal(p.Build())
	require.NoError(t, err)
	var doc any
	require.NoError(t, json.Unmarshal(raw, &doc))
	raw, err = json.Marshal(shaken(doc, r))
	require.NoError(t, err)
	bent, err := system.Parse(raw)
	if err != nil {
		return nil, nil
	}
	j := &Job{
		Intake:  Intake{Vehicle: "V", Complaint: "c", Pattern: p.ID, System: bent},
		Choices: extremeChoices(bent, r),
		State:   newState(),
	}
	if CheckChoices(bent, &j.Choices) != nil {
		j.Choices = DefaultChoices(bent)
		if CheckChoices(bent, &j.Choices) != nil {
			j.Choices = adapted(bent, j.Choices)
		}
	}
	if CheckChoices(bent, &j.Choices) != nil {
		return nil, nil
	}
	f := FindingMade{
		Phase:   PhaseVerify,
		Finding: "pedal.readings",
		Value:   json.RawMessage(`[{"pedal_force_n":200,"travel_mm":40},{"pedal_force_n":350,"travel_mm":60}]`),
	}
	if f.Check(j) == nil {
		f.Apply(j, &Event{Seq: 1})
	}
	return j, raw
}

// threadTime is what this thread has computed, by the kernel's own count: a busy machine lets a view wait, and makes it
// no dearer.
func threadTime(t *testing.T) time.Duration {
	t.Helper()
	const thread = 1 // RUSAGE_THREAD
	var u syscall.Rusage
	require.NoError(t, syscall.Getrusage(thread, &u))
	return time.Duration(u.Utime.Nano() + u.Stime.Nano())
}

// everyView asks for each view the server has and for what the command line prints of a system alone; the dear ones
// where it is told to.
func everyView(t *testing.T, r *rand.Rand, j *Job, raw []byte, dear bool) {
	t.Helper()
	bent := j.Intake.System
	m, force := twin.New(bent), 5*math.Pow(10, r.Float64()*3)
	views := map[string]func() (any, error){
		"status":  func() (any, error) { j.freshen(); return j.View(), nil },
		"replace": func() (any, error) { return j.Replace() },
		"bench":   func() (any, error) { return j.Bench() },
		"bleed":   func() (any, error) { return j.Bleed() },
		"verify":  func() (any, error) { return j.Verify() },
		"normal":  func() (any, error) { return NormalOf(bent), nil },
		"apply":   func() (any, error) { return m.Apply(force, true), nil },
		"hold":    func() (any, error) { return m.Hold(force, 60, 6, r.IntN(2) == 0) },
		"reserve": func() (any, error) { return m.Reserve(), nil },
	}
	if dear {
		views["diagnose"] = func() (any, error) { return j.Diagnose(t.Context()) }
		views["match"] = func() (any, error) { return j.Match(t.Context(), nil, began) }
		views["play"] = func() (any, error) { return j.Play(t.Context(), PlayIn{Assist: true}) }
		views["pedal"] = func() (any, error) {
			return pedal.Estimate(bent, pedal.Readings{Readings: []pedal.Reading{{PedalForceN: force, TravelMM: 50}}})
		}
	}
	runtime.LockOSThread()
	defer runtime.UnlockOSThread()
	for name, view := range views {
		began := threadTime(t)
		v, err := view()
		took := threadTime(t) - began
		if err != nil {
			continue // told, and nothing is shown
		}
		_, err = json.Marshal(v)
		assert.NoError(t, err, "%s of %s: a figure that is none", name, raw)
		assert.Less(t, took, viewBudget, "%s of %s", name, raw)
	}
}

func extremeChoices(s *system.System, r *rand.Rand) Choices {
	c := DefaultChoices(s)
	scopes := match.Scopes(s)
	c.Scope = scopes[r.IntN(len(scopes))]
	c.Bleed.Method = bleed.MethodIDs()[r.IntN(len(bleed.MethodIDs()))]
	pick := func(v ...float64) float64 { return v[r.IntN(len(v))] }
	c.Bleed.OldFraction = pick(1e-15, 0.02, 0.5, 0.1, 0.999)
	c.Bleed.DriveKPA = pick(5e-324, 1, 70, 250, 450, 1e308)
	c.Bleed.HeadMM = pick(1e-300, 10, 3000, 1e9)
	c.Bleed.StrokeMM = pick(1e-7, 1, 15, 100, 1e300)
	c.Bleed.TemperatureC = pick(-40, 20, 80, 1e5)
	c.Bench.TiltDeg = pick(-45, 0, 45, 90)
	c.Bench.StrokeMM = pick(1e-9, 1, 25, 100)
	return c
}

// What hung a core, filled the memory or was stored and broke the bay for everyone: each is refused by name.
func TestFiguresThatHungACoreAreRefused(t *testing.T) {
	s, err := system.FromPattern("pickup-front-rear-vacuum")
	require.NoError(t, err)
	for name, change := range map[string]func(*Choices){
		"old fraction":   func(c *Choices) { c.Bleed.OldFraction = 1e-15 },
		"no drive":       func(c *Choices) { c.Bleed.Method, c.Bleed.DriveKPA = bleed.Pressure, 5e-324 },
		"450 kPa":        func(c *Choices) { c.Bleed.Method, c.Bleed.DriveKPA = bleed.Pressure, 450 },
		"hardly past":    func(c *Choices) { c.Bleed.StrokeMM = s.MasterCylinder.Primary.CutoffMM + 1e-7 },
		"not a number":   func(c *Choices) { c.Bleed.OldFraction = math.NaN() },
		"endless tilt":   func(c *Choices) { c.Bench.TiltDeg = math.Inf(1) },
		"tiny stroke":    func(c *Choices) { c.Bench.StrokeMM = 1e-9 },
		"no temperature": func(c *Choices) { c.Bleed.TemperatureC = math.NaN() },
	} {
		c := DefaultChoices(s)
		change(&c)
		assert.Error(t, CheckChoices(s, &c), name)
	}
	for _, bent := range []string{"cavity_cm3", "stroke_mm"} {
		raw, _ := json.Marshal(s)
		var doc any
		_ = json.Unmarshal(raw, &doc)
		zero(doc, bent)
		raw, _ = json.Marshal(doc)
		_, err := system.Parse(raw)
		assert.Error(t, err, bent)
	}
}

func zero(v any, key string) {
	switch x := v.(type) {
	case map[string]any:
		for k := range x {
			if k == key {
				x[k] = 0.0
			}
			zero(x[k], key)
		}
	case []any:
		for _, y := range x {
			zero(y, key)
		}
	}
}
