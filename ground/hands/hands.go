// Package hands is a careful pair of hands that works a job on by what the job itself says comes next, through the same
// commands a screen uses: for made-up years, for walks over the account of the vehicle, and to see whether every way of
// working ends. It does nothing that it is not asked for.
package hands

import (
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"geminate/brake/bleed"
	"geminate/brake/job"
	"geminate/brake/plan"
	"geminate/brake/stand"
	"geminate/brake/verify"
)

// ErrNothing is a bleed that asks for nothing.
var ErrNothing = errors.New("hands: nothing to bleed")

// Hands work one job.
type Hands struct {
	*job.Book
	By job.Actor
	At time.Time
	// ID makes the id of the next event, Pause how long the next act takes beside what it counts, s.
	ID    func() string
	Pause func() float64
	// AtOnce strokes are counted in the head and told together; at most, 0 is one by one.
	AtOnce int
	// Look says whether an opening ran clear, where somebody can see it; nil takes it to.
	Look func(wheel string) bool
	// Done hears of what was told and taken, where somebody wants to know.
	Done func(id string, at time.Time, k job.Kind, body any)
}

// Tell tells one event after a pause.
func (h *Hands) Tell(k job.Kind, body any) error {
	h.wait(h.Pause())
	id := h.ID()
	err := h.Book.Tell(h.By, h.At, id, k, body)
	if err == nil && h.Done != nil {
		h.Done(id, h.At, k, body)
	}
	return err
}

func (h *Hands) wait(seconds float64) { h.At = h.At.Add(time.Duration(seconds * float64(time.Second))) }

// Find tells a reading of the release check, in the time it takes.
func (h *Hands) Find(id string, value any) error {
	raw, err := json.Marshal(value)
	if err != nil {
		return fmt.Errorf("hands: %s: %w", id, err)
	}
	h.wait(verify.TakesS(id, raw))
	return h.Tell(job.KindFinding, job.FindingMade{Phase: job.PhaseVerify, Finding: id, Value: raw})
}

// Next does the one thing that comes next: a step of the plan, an opening, a reading. false where nothing is left: the
// gate passes, or what holds it is not for hands to do (Stuck says what).
func (h *Hands) Next() (did bool, err error) {
	v, err := h.Replace()
	if err != nil {
		return false, err
	}
	if v.Next != "" {
		return true, h.Step(v.Plan.Find(v.Next))
	}
	g, err := h.Gate()
	if err != nil {
		return false, err
	}
	for _, i := range g.ToDo() {
		did, err := h.item(i)
		if did || err != nil {
			return did, err
		}
	}
	return false, nil
}

// Finish goes on until nothing is left to do, most things at the most, and says whether the vehicle may go.
func (h *Hands) Finish(most int) (bool, error) {
	for range most {
		did, err := h.Next()
		if err != nil {
			return false, err
		}
		if !did {
			break
		}
	}
	g, err := h.Gate()
	return g.Passable, err
}

// Step does a step of the plan as it should be done: measured, waited for, counted, tight.
func (h *Hands) Step(s *plan.Step) error {
	f := func(x float64) *float64 { return &x }
	t := job.Ticked{Step: s.ID}
	if s.Torque != nil {
		t.TorqueNM, t.TorqueUnit = f((s.Torque.LowNM+s.Torque.HighNM)/2), "N·m"
	}
	switch s.Measure {
	case plan.MeasurePushrod:
		t.Rod = &job.Rod{PocketMM: 12.4, GasketMM: 0.8, ProtrusionMM: 12.9, PitchMM: 1, TargetMM: 0.25}
	case plan.MeasureTouch:
		t.TouchMM = f(0)
	case plan.MeasureCompare:
		t.Rods = &job.Rods{OldMM: 30, NewMM: 30}
	case plan.MeasureVolts:
		t.Volts, t.Trained = f(0), h.By.Name
	}
	if s.Wait != "" {
		if err := h.clock(job.Clock(s.Wait), 3600); err != nil {
			return err
		}
	}
	switch s.ID {
	case "prepare.compare_on_bench":
		t.Compared = h.Unmeasured()
	case "close.bleed":
		return h.bleed()
	case "fit.bench_bled":
		if v, err := h.Bench(); err != nil || v.Strokes < v.Needed {
			if err == nil {
				h.wait(float64(2 * (v.Needed - v.Strokes)))
				err = h.Tell(job.KindBenchStroke, job.BenchStroked{Strokes: v.Needed - v.Strokes})
			}
			return err
		}
	case "fit.bled_on_vehicle":
		if told, err := h.crack(); told || err != nil {
			return err
		}
	case "close.steering_bleed":
		if told, err := h.steer(); told || err != nil {
			return err
		}
	case "fit.pedal_end", "fit.cylinder_nuts":
		if told, err := h.smallPart(); told || err != nil {
			return err
		}
	}
	if err := h.Tell(job.KindTick, t); err != nil {
		return fmt.Errorf("%s: %w", s.ID, err)
	}
	return nil
}

// clock runs one out.
func (h *Hands) clock(c job.Clock, seconds float64) error {
	err := h.Tell(job.KindTimerStarted, job.TimerStarted{Clock: c})
	h.wait(seconds)
	return err
}

func (h *Hands) crack() (told bool, err error) {
	v, err := h.Bench()
	if err != nil {
		return false, err
	}
	for _, p := range v.Ports {
		if !p.Done {
			return true, h.Tell(job.KindPortCracked, job.PortCracked{Port: p.Port})
		}
	}
	return false, nil
}

func (h *Hands) steer() (told bool, err error) {
	v, err := h.Bleed()
	if err != nil || v.SteeringGood {
		return false, err
	}
	if err := h.clock(job.ClockFoam, 600); err != nil {
		return true, err
	}
	return true, h.Tell(job.KindSteering, job.SteeringCycled{})
}

// smallPart puts the last small part that came off back on.
func (h *Hands) smallPart() (told bool, err error) {
	for i := len(h.State.Small) - 1; i >= 0; i-- {
		if p := h.State.Small[i]; !p.On {
			return true, h.Tell(job.KindPartOn, job.PartOn{Of: p.ID})
		}
	}
	return false, nil
}

// bleed does the one thing the bleed asks for now.
func (h *Hands) bleed() error {
	v, err := h.Bleed()
	if err != nil {
		return err
	}
	at := v.Wheels[v.Current]
	switch {
	case v.Now == bleed.StepRelearn:
		if err := h.clock(job.ClockRelearn, 120); err != nil {
			return err
		}
		return h.Tell(job.KindBleedStep, job.BleedStepped{Step: v.Now})
	case ticked(v.Now):
		return h.Tell(job.KindBleedStep, job.BleedStepped{Step: v.Now})
	case v.Now == bleed.StepDrain, v.Now == bleed.StepDrainAfter:
		return h.Tell(job.KindDrawnOff, job.DrawnOff{})
	case v.DrawDownNow:
		return h.Tell(job.KindDrawnOff, job.DrawnOff{LeftCM3: &v.DrawDownTo})
	case v.RefillNow, v.Now == bleed.StepFill:
		return h.Tell(job.KindRefill, job.Filled{})
	case v.Current == "" && len(v.LeftWheels) > 0: // the bleeder that would not come free does after all
		return h.move(v.LeftWheels[0], v, v.Wheels[v.LeftWheels[0]])
	case v.Current == "":
		return fmt.Errorf("%w: %s", ErrNothing, v.Now)
	}
	return h.move(v.Current, v, at)
}

func ticked(id bleed.StepID) bool {
	for _, s := range bleed.TickedSteps {
		if s == id {
			return true
		}
	}
	return false
}

// move carries fluid through a wheel, and looks where the end is near.
func (h *Hands) move(wheel string, v *job.BleedView, at job.WheelState) error {
	if !v.Method.Strokes() {
		cm3 := min(40, max(4, at.LeftCM3, at.AirLeftCM3))
		if err := h.Tell(job.KindBleedVolume, job.VolumeMoved{Wheel: wheel, VolumeCM3: cm3}); err != nil ||
			max(at.LeftCM3, at.AirLeftCM3) > 80 {
			return err
		}
		return h.look(wheel)
	}
	n := max(1, min(v.RefillIn, at.Needed-at.Strokes-1, h.AtOnce))
	h.wait(2 * float64(n))
	if err := h.Tell(job.KindBleedStroke, job.BleedStroked{Wheel: wheel, Strokes: n}); err != nil || at.Strokes+n < at.Needed-1 {
		return err
	}
	return h.look(wheel)
}

// look looks at what came out last at a wheel, and tells.
func (h *Hands) look(wheel string) error {
	seen := job.WheelSeen{Wheel: wheel}
	if h.Look != nil {
		clear := h.Look(wheel)
		seen.Done = &clear
	}
	return h.Tell(job.KindWheelClear, seen)
}

// item does what an item of the gate asks for; false where hands cannot.
func (h *Hands) item(i verify.Item) (bool, error) {
	if i.Code == "gate.too_soon" || i.Code == "gate.time.short" {
		h.wait(600)
	}
	if value, ok := h.reading(i.ID); ok {
		return true, h.Find(i.ID, value)
	}
	switch i.ID {
	case "level":
		return true, h.Tell(job.KindRefill, job.Filled{})
	case "bleed", "fluid": // opened beside the plan; or a fluid that has to be washed out
		err := h.bleed()
		return err == nil || !errors.Is(err, ErrNothing), err
	case "told_late":
		things, _ := i.With["things"].([]string)
		for _, x := range things {
			if err := h.Tell(job.KindThingSeen, job.ThingSeen{Thing: stand.Thing(x), State: job.SeenOff}); err != nil {
				return true, err
			}
		}
		return len(things) > 0, nil
	case "small_parts":
		return h.smallPart()
	case "rubber":
		if v, err := h.Bleed(); err == nil && v.Now == bleed.StepDrain {
			return true, h.bleed()
		}
		for _, p := range h.RubberLeft() {
			if err := h.Tell(job.KindRubberRenewed, job.RubberRenewed{Part: p}); err != nil {
				return true, err
			}
		}
		return true, nil
	case "parked":
		return true, h.Tell(job.KindUnparked, job.Unparked{})
	case "time":
		return true, h.Tell(job.KindNote, job.Noted{Text: "Tea."})
	case "contradicts": // each looked at again
		ids, _ := i.With["findings"].([]string)
		for _, id := range ids {
			if err := h.Find(id, sound(id)); err != nil {
				return true, err
			}
		}
		return len(ids) > 0, nil
	}
	if ev := stand.EvidenceOf(i.ID); ev != nil && ev.Against != nil {
		return true, h.Find(i.ID, sound(i.ID))
	}
	return false, nil
}

// sound is what a sound vehicle shows.
func sound(id string) any {
	switch id {
	case "wet.at":
		return []string{"dry"}
	case "codes.present":
		return []string{}
	case "vacuum.at_hose_kpa":
		return 65
	case "fluid.water_percent":
		return 0.5
	case "pedal.free_play_mm":
		return 2
	case "rod.gap_mm":
		return 0.2
	case "fluid.debris":
		return "none"
	case "check_valve.holds", "assist.loaded_hold", "actuator.rod_moves", "actuator.holds":
		return "yes"
	}
	return "no"
}

// reading is what a sound vehicle gives for one of the gate's own readings.
func (h *Hands) reading(id string) (any, bool) {
	switch id {
	case "pedal.sink":
		engine, force := "on", 450.0
		if h.Intake.System.Assist().Simulator { // its simulator hides a sink
			engine, force = "off", 300
		}
		return map[string]any{"pedal_force_n": force, "travel_mm": 0.5, "seconds": 45, "engine": engine}, true
	case verify.Pump:
		return verify.PumpHeights{FirstMM: 110, SecondMM: 111, FourthMM: 112}, true
	case verify.FirmHeight:
		b, _ := verify.Band(h.Fitted(), 220)
		return b.TravelMM, true
	case "assist.reserve_applies":
		return 3, true
	case "check.second_look":
		return "alone", true
	case "pedal.readings":
		list := []map[string]float64{}
		for _, force := range []float64{200, 260, 320} {
			if b, ok := verify.Band(h.Fitted(), force); ok {
				list = append(list, map[string]float64{"pedal_force_n": force, "travel_mm": b.TravelMM})
			}
		}
		return list, true
	}
	if ev := stand.EvidenceOf(id); ev != nil && ev.Judged {
		return "yes", true
	}
	return nil, false
}
