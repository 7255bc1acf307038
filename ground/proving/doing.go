package proving

import (
	"geminate/brake/bleed"
	"geminate/brake/job"
	"geminate/brake/plan"
	"geminate/ground/simulate"
)

// What a step of the plan means to a hand. The technician reads the step; the vehicle gets what hands do.

// step does a step and tells it.
func (t *tech) step(s *plan.Step) error {
	if s == nil {
		return job.ErrNothing
	}
	if told, err := t.counted(s.ID); told || err != nil {
		return err
	}
	nm, done := usual(s), true
	figure := s.Torque != nil || s.Measure != "" || s.Wait != ""
	switch {
	case t.spec.Without[s.ID], !figure && t.skips():
		t.lie(LieStep, s.ID)
		done = false
	case !figure && t.slips(SlipTooFar):
		t.lie(SlipTooFar, s.ID)
		done = false
	}
	if done {
		nm = t.act(s.ID, nm)
	}
	if s.Wait != "" {
		if err := t.wait(job.Clock(s.Wait), 3600); err != nil {
			return err
		}
	}
	if !t.wants(s) {
		t.out.Needless = append(t.out.Needless, s.ID)
	}
	return t.tell(job.KindTick, t.tick(s, nm), &t.out.Taps.Ticks)
}

// usual is the torque a step asks for, the middle of its range, N·m; 0 where it asks for none.
func usual(s *plan.Step) float64 {
	if s.Torque == nil {
		return 0
	}
	return (s.Torque.LowNM + s.Torque.HighNM) / 2
}

// counted does the steps that are told by what is counted, and says whether there was something to tell.
func (t *tech) counted(id string) (told bool, err error) {
	switch id {
	case "close.bleed":
		return true, t.bleed()
	case "fit.bench_bled":
		if v, err := t.Bench(); err != nil || v.Strokes < v.Needed {
			if err != nil {
				return true, err
			}
			return true, t.bench(v.Needed - v.Strokes)
		}
	case "fit.bled_on_vehicle":
		if v, err := t.Bench(); err == nil {
			for _, p := range v.Ports {
				if !p.Done {
					return true, t.tell(job.KindPortCracked, job.PortCracked{Port: p.Port}, &t.out.Taps.Other)
				}
			}
		}
	case "fit.pedal_end", "fit.cylinder_nuts":
		for i := len(t.State.Small) - 1; i >= 0; i-- {
			if p := t.State.Small[i]; !p.On {
				t.v.DoUp(simulate.SmallPart, 1)
				return true, t.tell(job.KindPartOn, job.PartOn{Of: p.ID}, &t.out.Taps.Other)
			}
		}
	case "close.steering_bleed":
		if v, err := t.Bleed(); err == nil && !v.SteeringGood {
			if err := t.wait(job.ClockFoam, 600); err != nil {
				return true, err
			}
			return true, t.tell(job.KindSteering, job.SteeringCycled{}, &t.out.Taps.Other)
		}
	}
	return false, nil
}

// tick is a step told with the figures it asks for, at the torque it was done at.
func (t *tech) tick(s *plan.Step, nm float64) job.Ticked {
	tick := job.Ticked{Step: s.ID}
	f := func(x float64) *float64 { t.out.Taps.Figures++; return &x }
	if s.Torque != nil {
		tick.TorqueNM, tick.TorqueUnit = f(nm), "N·m"
	}
	switch s.Measure {
	case plan.MeasurePushrod:
		tick.Rod = &job.Rod{PocketMM: 12.4, GasketMM: 0.8, ProtrusionMM: 12.9, PitchMM: 1, TargetMM: 0.25}
		t.out.Taps.Figures += 3
	case plan.MeasureTouch:
		tick.TouchMM = f(0)
	case plan.MeasureCompare:
		tick.Rods = &job.Rods{OldMM: 30, NewMM: 30}
		t.out.Taps.Figures += 2
	case plan.MeasureVolts:
		tick.Volts, tick.Trained = f(0), worker.Name
	}
	if s.ID == "prepare.compare_on_bench" {
		tick.Compared = t.Unmeasured()
	}
	return tick
}

// wants says whether what a step speaks of is on this vehicle.
func (t *tech) wants(s *plan.Step) bool {
	a := actOf(s.ID)
	for _, list := range [][]simulate.Part{a.off, a.start, a.on} {
		for _, p := range list {
			for _, x := range t.each(p) {
				if !t.v.Has(x) {
					return false
				}
			}
		}
	}
	return true
}

// lie takes down what was only told.
func (t *tech) lie(s Slip, id string) {
	a := actOf(id)
	t.blame(s, id, a.of)
	for _, list := range [][]simulate.Part{a.off, a.start, a.on} {
		for _, p := range list {
			for _, x := range t.each(p) {
				t.blame(s, id, x)
			}
		}
	}
	if a.lied != nil {
		a.lied(t)
	}
}

// act is done by hands at a torque, N·m; it gives the figure that is told.
func (t *tech) act(id string, nm float64) (told float64) {
	defer t.did(Act{Do: DoStep, ID: id, NM: nm})()
	a := actOf(id)
	told = nm
	for _, p := range a.off {
		for _, x := range t.each(p) {
			t.v.Off(x)
		}
	}
	for _, p := range a.start {
		for _, x := range t.each(p) {
			crooked := p == simulate.Line && t.slips(SlipCrooked)
			if t.v.Start(x, crooked); crooked {
				t.blame(SlipCrooked, id, x)
			}
		}
	}
	t.fitUnit(id)
	for _, p := range a.on {
		for _, x := range t.each(p) {
			switch {
			case nm > 0 && t.slips(SlipFinger): // the figure is told by rote
				t.v.Start(x, false)
				t.blame(SlipFinger, id, x)
			case nm > 0 && t.slips(SlipUnit):
				wrong := nm / 8.85
				t.v.DoUp(x, wrong)
				t.blame(SlipUnit, id, x)
				if t.rnd.IntN(2) == 0 { // what the wrench was set to is what is told
					told = wrong
				}
			case nm == 0 && t.slips(SlipNotBack):
				t.blame(SlipNotBack, id, x)
			default:
				t.v.DoUp(x, nmOr(x, nm))
			}
		}
	}
	if a.do != nil {
		a.do(t)
	}
	return told
}

// nmOr is the torque asked for, or as tight as a hand that knows does it.
func nmOr(p simulate.Part, nm float64) float64 {
	if nm > 0 {
		return nm
	}
	return simulate.Usual(p)
}

// wait runs a clock out.
func (t *tech) wait(c job.Clock, seconds float64) error {
	err := t.tell(job.KindTimerStarted, job.TimerStarted{Clock: c}, &t.out.Taps.Other)
	t.later(seconds)
	return err
}

func (t *tech) bench(n int) error {
	rushed := t.slips(SlipBench)
	if rushed {
		t.blame(SlipBench, "fit.bench_bled", "air")
	}
	if t.spec.Without["fit.bench_bled"] || t.skips() {
		t.blame(LieStep, "fit.bench_bled", "air")
	} else {
		t.benchIt(n, rushed)
	}
	t.later(float64(2 * n))
	t.out.Taps.Strokes += n - 1
	return t.tell(job.KindBenchStroke, job.BenchStroked{Strokes: n}, &t.out.Taps.Strokes)
}

func (t *tech) benchIt(n int, rushed bool) {
	defer t.did(Act{Do: DoBench, N: n, Wrong: rushed})()
	t.v.Bench(n, rushed)
}

// compare holds the new unit against the old: nine look-alikes of ten are seen.
func (t *tech) compare() {
	if t.alike && (t.boxed || t.rnd.Float64() < 0.9) {
		t.alike = false
	}
}

// cylinderOff: another cylinder's pocket and rod are not the old one's.
func (t *tech) cylinderOff() {
	if t.scope().FitsCylinder() || t.scope().FitsBooster() {
		t.moveRod()
	}
	p, err := t.Plan()
	if err == nil && (has(p, "fit.face_seal") || has(p, "fit.face_paper")) {
		t.v.Off(simulate.FaceSeal)
	}
	if err == nil && has(p, "rod.coupler_moved") {
		t.v.Off(simulate.RodSupport)
	}
}

func (t *tech) boosterOff() {
	if t.scope().FitsBooster() {
		t.moveRod()
	}
}

func (t *tech) moveRod() {
	if !t.rodMoved && !t.Intake.System.Assist().OnePiece && !t.Intake.System.IsTrailer() {
		t.rodMoved = true
		t.v.OtherRod()
	}
}

// The units.
const (
	UnitCylinder = "master_cylinder"
	UnitBooster  = "booster"
)

// fitUnit: what is put on by these nuts is the new one, where one is out of its box. One that is one piece with its
// cylinder comes with it.
func (t *tech) fitUnit(step string) {
	one := t.Intake.System.Assist().OnePiece
	cylinder := t.boxes[UnitCylinder] && (step == "fit.cylinder_nuts" || step == "fit.actuator_bolts" || one && step == "fit.firewall_nuts")
	booster := t.boxes[UnitBooster] && step == "fit.firewall_nuts"
	if cylinder || booster && one {
		t.v.NewCylinder(t.alike)
		if t.alike {
			t.blame(SlipAlike, "prepare.compare_on_bench", "")
		}
		delete(t.boxes, UnitCylinder)
	}
	if booster || cylinder && one {
		t.v.NewBooster()
		delete(t.boxes, UnitBooster)
	}
	if cylinder || booster {
		t.rodMoved = false
	}
}

func (t *tech) spill() {
	if !t.covered {
		t.v.Spoil("paint")
	}
}

func (t *tech) exchange() {
	rate := t.slips(SlipExchanged)
	if rate && (!t.tagged || t.rnd.IntN(10) == 0) {
		t.v.Exchange(true)
		t.blame(SlipExchanged, "fit.start_nuts_snug", "")
	}
}

func (t *tech) tray() {
	if t.slips(SlipTray) {
		t.v.Off(simulate.SmallPart)
		t.blame(SlipTray, "fit.pedal_end", simulate.SmallPart)
	}
}

func (t *tech) support() {
	if t.slips(SlipTray) {
		t.v.Off(simulate.RodSupport)
		t.blame(SlipTray, "rod.coupler_moved", simulate.RodSupport)
	}
}

func (t *tech) face() {
	if t.slips(SlipPaper) {
		t.v.Off(simulate.FaceSeal)
		t.blame(SlipPaper, "fit.face_seal", simulate.FaceSeal)
	}
}

// setRod sets the gap to its target by what was measured.
func (t *tech) setRod() {
	off := 0.05 * t.rnd.NormFloat64()
	if t.slips(SlipRod) {
		off = 0.9 * t.rnd.NormFloat64()
		t.blame(SlipRod, "rod.measure", "rod")
	}
	t.v.SetRod(0.25 + off)
}

// bottleCM3 is what a bottle holds.
const bottleCM3 = 500.0

func (t *tech) fill() {
	defer t.did(Act{Do: DoFill})()
	if used := t.v.PouredCM3(); used == 0 || used-t.bottleAt > bottleCM3 { // another bottle is taken in hand
		t.bottleAt = used
		if t.slips(SlipBottle) {
			t.bottle.Foreign = true
			t.blame(SlipBottle, "close.fill", "")
		}
	}
	t.v.Fill(t.bottle)
}

// wheelsOn: the wheels go back by hand, their torque is asked for at the end.
func (t *tech) wheelsOn() {
	if t.wheelsUp {
		t.v.DoUp(simulate.RoadWheels, 25)
		t.wheelsUp = false
	}
	for _, w := range t.Intake.System.Wheels {
		if t.slips(SlipOpened) {
			t.v.OpenBleeder(w.ID)
			t.v.CloseBleeder(w.ID, 3)
			t.blame(SlipOpened, "close.bleeder_screws", simulate.At(simulate.Bleeder, w.ID))
		}
	}
	t.open = ""
}

// countOut: what lies left over is put back.
func (t *tech) countOut() {
	for _, p := range t.v.Loose() {
		if p == simulate.SmallPart || p == simulate.RodSupport || p == simulate.Cover {
			t.v.DoUp(p, 1)
		}
	}
}

// repair does what the proposal names beside the units.
func (t *tech) repair() {
	defer t.did(Act{Do: DoRepair})()
	for _, p := range t.repairs {
		t.v.Repair(p)
	}
	t.repairs = nil // mended is mended: nobody does it twice
}

// ticked says whether a bleed step is only ticked.
func ticked(id bleed.StepID) bool {
	for _, s := range bleed.TickedSteps {
		if s == id {
			return true
		}
	}
	return false
}
