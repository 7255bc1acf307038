package walk

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"geminate/brake/job"
)

// Other doors: what others do cut off and tell late, tests that open, edits, undo after undo. What really happened, and
// when, is the walker's own knowledge: its clocks are right, and what was told late is read at its time by rules of
// their own (shadow.go).

var mateHand = job.Actor{ID: "w2", Name: "Osmund", Role: job.Technician}

// lateMost acts wait at the most.
const lateMost = 6

// cutOff is an act of the mate's, on a tablet without a line: done now, told later.
func (w *walker) cutOff(wheel string) error {
	no, clear, nm := false, w.sees(wheel), 10.0
	kinds := []struct {
		kind job.Kind
		body any
	}{
		{job.KindBleedStroke, job.BleedStroked{Wheel: wheel, Strokes: 1}},
		{job.KindOpeningLost, job.OpeningLost{Wheel: wheel}},
		{job.KindRefill, job.Filled{}},
		{job.KindDrawnOff, job.DrawnOff{}},
		{job.KindTick, job.Ticked{Step: "close.bleeder_screws", TorqueNM: &nm, TorqueUnit: "N·m"}},
		{job.KindTick, job.Ticked{Step: "strip.sensor_plug"}},
		{job.KindTick, job.Ticked{Step: "fit.sensor_plug"}},
		{job.KindWheelClear, job.WheelSeen{Wheel: wheel, Done: &clear}},
		{job.KindWheelClear, job.WheelSeen{Wheel: wheel, Done: &no}},
		{job.KindTick, job.Ticked{Step: "close.wash"}},
	}
	k := kinds[w.r.IntN(len(kinds))]
	if tick, is := k.body.(job.Ticked); is { // his page shows the steps there are
		if p, err := w.Plan(); err != nil || p.Find(tick.Step) == nil {
			return known(err)
		}
	}
	data, err := json.Marshal(k.body)
	if err != nil {
		return err
	}
	w.At = w.At.Add(20 * time.Second)
	now := &job.Book{Job: job.Replay(w.Job.ID, w.CreatedAt, w.Events), Events: slices.Clone(w.Events)}
	if err := now.Tell(mateHand, w.At, "tap", k.kind, k.body); err != nil { // his own page refuses it at the tap, and he does not do it
		return known(err)
	}
	in := job.In{ID: w.ID(), Kind: k.kind, At: w.At, Base: w.Head, Device: "mate", Data: data}
	w.waiting = append(w.waiting, in)
	w.did(in.ID, w.At, k.kind, k.body)
	return nil
}

// sendLate tells what waits, each as it was done; one that is refused was put back at once.
func (w *walker) sendLate() error {
	waiting := w.waiting
	w.waiting = nil
	for _, in := range waiting {
		w.At = w.At.Add(time.Second)
		events, err := w.Append(w.Book, mateHand, w.At, []job.In{in})
		w.Events = append(w.Events, events...)
		if known(err) != nil {
			return err
		}
		fast := in.Kind == job.KindTick && !strings.Contains(string(in.Data), `"strip.`)
		if err != nil && !fast { // done, and nobody will ever know; what made fast is asked for again
			w.out.Unsafe = append(
				w.out.Unsafe,
				fmt.Sprintf("seed %d, event %d, %s: what was done cut off is refused: %s %s: %v", w.seed, w.Head,
					w.Intake.Pattern, in.Kind, in.Data, err),
			)
		}
	}
	return nil
}

// tests are readings at Diagnose that open something.
func (w *walker) tests(wheel string) error {
	list := []struct {
		id    string
		value any
	}{
		{"pressure.at_port", map[string]string{w.Intake.System.Circuits[0].ID: "ok"}},
		{"bleeder.bubbles", "no"},
		{"pressure.at_bleeder", map[string]string{wheel: "ok"}},
		{"pedal.sinks", "slow"},
		{"wet.at", []string{"line_joint"}},
	}
	x := list[w.r.IntN(len(list))]
	raw, err := json.Marshal(x.value)
	if err != nil {
		return err
	}
	return w.Tell(job.KindFinding, job.FindingMade{Phase: job.PhaseDiagnose, Finding: x.id, Value: raw})
}

// editSystem corrects a figure of the vehicle.
func (w *walker) editSystem() error {
	in := w.Intake
	s := in.System.Clone()
	s.Wheels[0].Brake.ComplianceMM3 *= 1 + 0.01*w.r.Float64()
	in.System = s
	w.At = w.At.Add(time.Minute)
	events, err := w.ChangeIntake(w.Book, hand, w.At, w.ID(), w.IntakeSeq, in)
	w.Events = append(w.Events, events...)
	return err
}

// undoChain takes back one thing after another, and the taking back of one of them.
func (w *walker) undoChain() error {
	for range 1 + w.r.IntN(4) {
		if err := known(w.undo()); err != nil {
			return err
		}
	}
	return nil
}

// tested is what a reading did to the vehicle, and what of the order of readings the rules need.
func (sh *shadow) tested(b *job.FindingMade, seq int64) {
	value := string(b.Value)
	if value == "" || value == "null" {
		return
	}
	var at map[string]string
	_ = json.Unmarshal(b.Value, &at)
	brake := func(wheel string) {
		sh.air(wheel, sh.brake(wheel))
		sh.bleederOpen, sh.work, sh.hydraulic = seq, seq, seq
	}
	switch b.Finding {
	case "pressure.at_port":
		sh.off["lines"], sh.work, sh.hydraulic = seq, seq, seq
		for c := range at {
			for _, x := range sh.s.Circuits {
				if x.ID == c {
					for _, wheel := range x.Wheels {
						sh.air(wheel, sh.path(wheel))
					}
				}
			}
		}
	case "pressure.at_bleeder":
		for wheel := range at {
			brake(wheel)
		}
	case "bleeder.bubbles":
		for i := range sh.s.Wheels {
			brake(sh.s.Wheels[i].ID)
		}
	case "wet.at":
		sh.wetTold = sh.wetTold || value != `["dry"]`
	case "check.dry_joints":
		if value == `"yes"` {
			sh.dry = seq
		} else {
			sh.wetTold = true
		}
	case "check.walking_stops":
		if value == `"yes"` {
			sh.drove, sh.heldBefore, sh.dryBefore = seq, sh.hold > sh.hydraulic && sh.holdGood, sh.dry > sh.hydraulic
		}
	}
}
