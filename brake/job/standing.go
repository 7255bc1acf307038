package job

import (
	"encoding/json"
	"fmt"
	"hash/fnv"
	"slices"

	"geminate/brake/bleed"
	"geminate/brake/match"
	"geminate/brake/plan"
	"geminate/brake/stand"
	"geminate/brake/system"
	"geminate/brake/units"
)

// How the job's events become acts on the vehicle, and what of its plan stands. The account is stand's; what a figure,
// a count or a wait proves is asked here, where the figures are.

// when is an event as the account has it.
func (e *Event) when() stand.When {
	return stand.When{Seq: e.place, At: e.At, By: e.By.ID, Arrived: e.Seq}
}

// account is the vehicle as it stands, never nil.
func (j *Job) account() *stand.Account {
	if j.State.Stand == nil {
		j.State.Stand = stand.New()
	}
	return j.State.Stand
}

// scope is what the job replaces, as this system has it.
func (j *Job) scope() match.Scope { return match.Resolve(j.Intake.System, j.Choices.Scope) }

// unitKey names a unit by what it is: another of its kind, or the same measured otherwise, is another.
func unitKey(u *match.Unit) string {
	if u == nil {
		return ""
	}
	raw, err := json.Marshal(
		[]any{u.ID, u.Maker, u.Number, u.Kind, u.Condition, u.BoreMM, u.StrokeMM, u.Ports, u.StudSpacingMM, u.Studs, u.PocketMM, u.Booster},
	)
	if err != nil {
		return u.ID
	}
	h := fnv.New32a() // short, the same on every machine
	_, _ = h.Write(raw)
	return fmt.Sprintf("%s %s #%08x", u.Maker, u.Number, h.Sum32())
}

// pair is which units the work is for: those chosen where the scope fits them, else what was put on.
func (j *Job) pair() stand.Pair {
	out, scope := j.account().On(), j.scope()
	if scope.FitsCylinder() {
		out.Cylinder = unitKey(j.Choices.Unit)
	}
	if scope.FitsBooster() {
		out.Booster = unitKey(j.newBooster())
	}
	return out
}

// newBooster is the booster that goes on. An electro-hydraulic unit may have been chosen as a cylinder by a job from
// before it was known to be one piece.
func (j *Job) newBooster() *match.Unit {
	if j.Choices.Booster == nil && j.scope() == match.ElectroUnit {
		return j.Choices.Unit
	}
	return j.Choices.Booster
}

// putsOnCylinder and putsOnBooster say whether a new one goes on, or is on whatever the scope says now.
func (j *Job) putsOnCylinder() bool {
	return j.scope().FitsCylinder() || j.account().On().Cylinder != ""
}

func (j *Job) putsOnBooster() bool {
	return j.scope().FitsBooster() || j.account().On().Booster != ""
}

// ── what stands of the plan ──

// Done is which steps of the plan stand.
func (j *Job) Done() map[string]bool {
	p, err := j.Plan()
	if err != nil {
		return map[string]bool{}
	}
	return j.done(p)
}

func (j *Job) done(p *plan.Plan) map[string]bool { return j.doneOf(p, true) }

// doneOf is done; without what is counted, which is dear to ask and stands in no step's way.
func (j *Job) doneOf(p *plan.Plan, counted bool) map[string]bool {
	a, now := j.account(), j.pair()
	out := make(map[string]bool, len(p.Steps))
	for i := range p.Steps {
		s := &p.Steps[i]
		act := stand.Find(s.ID)
		switch {
		case act != nil && act.Counted:
			out[s.ID] = counted && j.bled()
		case act != nil && act.Thing == stand.Tools && j.driven():
			out[s.ID] = true // counting out after the drive is too late to help
		case act != nil && a.StateOf(act.Thing) == stand.Absent && a.MayBeAbsent(s.ID):
			out[s.ID] = true
		case !a.Stands(s.ID, now), !j.tight(s):
		case s.ID == "close.fill" && p.Find("fit.bled_on_vehicle") != nil && !a.Stands("fit.bled_on_vehicle", now) && !j.fluidAbove():
			// ran dry since: cracked lines would draw air
		default:
			out[s.ID] = true
		}
		if !out[s.ID] {
			delete(out, s.ID)
		}
	}
	j.offAgain(p, out)
	j.spentEnergy(p, out)
	return out
}

// offAgain takes from what is done whatever came off and is back, and has to come off once more: the wrong unit is on,
// the rod behind it is wrong, or something that is still to come off is behind it.
func (j *Job) offAgain(p *plan.Plan, done map[string]bool) {
	a, again := j.account(), j.again()
	for i := range p.Steps { // what is done with the joint open, and is not done
		if s := &p.Steps[i]; opensJoint[s.ID] && !done[s.ID] && j.onAgain(stand.Cylinder) {
			again[stand.Cylinder] = true
		}
	}
	open := map[string]bool{} // steps that are still to take something off
	for i := len(p.Steps) - 1; i >= 0; i-- {
		s := &p.Steps[i]
		act := stand.Find(s.ID)
		if act == nil || !act.Takes() || s.Phase == plan.MakeSafe && act.Thing != stand.Reservoir {
			continue
		}
		if done[s.ID] && !a.IsOff(act.Thing) && a.StateOf(act.Thing) != stand.Absent {
			behind := slices.ContainsFunc(p.Steps[i+1:], func(x plan.Step) bool { return open[x.ID] && behindIt(p, &x, s) })
			if again[act.Thing] || behind {
				delete(done, s.ID)
			}
		}
		if !done[s.ID] {
			open[s.ID] = true
		}
	}
}

// behindIt says whether a step needs another to be off: the plan says so, or fluid would come out of a full reservoir.
func behindIt(p *plan.Plan, x, s *plan.Step) bool {
	if s.ID == emptyReservoir {
		return x.Opens && p.Find(emptyReservoir) != nil
	}
	return slices.Contains(x.Needs, s.ID)
}

const emptyReservoir = "safe.empty_reservoir"

// driven says whether the vehicle has been driven since it was last worked at.
func (j *Job) driven() bool {
	for _, id := range []string{"check.walking_stops", "check.clutch_releases"} {
		f, told := j.State.Findings[PhaseVerify][id]
		if _, dead := j.account().KilledBy(id, stand.When{Seq: f.Seq, At: f.At, By: f.ByID, Arrived: f.Arrived}, f.Base); told && !dead &&
			string(f.Value) == `"yes"` {
			return true
		}
	}
	return false
}

// spentEnergy: energy was let out for what comes off. When all that is off, its coming back is no step undone.
func (j *Job) spentEnergy(p *plan.Plan, done map[string]bool) {
	for _, s := range p.Steps {
		if (s.Phase == plan.Strip || s.ID == "elsewhere.opened") && !done[s.ID] {
			j.strictEnergy(p, done)
			return
		}
	}
	for _, s := range p.Steps {
		if told, ok := j.account().Acts[s.ID]; ok && s.Phase == plan.MakeSafe && !told.Unproven {
			done[s.ID] = true
		}
	}
	if p.Find("safe.isolate_high_voltage") != nil && !done["safe.isolate_high_voltage"] { // to be proven it has to be off again
		j.strictEnergy(p, done)
	}
}

// strictEnergy: what is stored again has to be let out again before anything comes off.
func (j *Job) strictEnergy(p *plan.Plan, done map[string]bool) {
	for _, s := range p.Steps {
		act := stand.Find(s.ID)
		if s.Phase == plan.MakeSafe && act != nil && act.Takes() && act.Thing != stand.Reservoir && act.Thing != stand.Coupling &&
			j.account().StateOf(act.Thing) != stand.Off &&
			!j.account().Acts[s.ID].NotHere {
			delete(done, s.ID)
		}
	}
}

// again are the things that have to come off once more: the wrong unit is on the vehicle, or the rod behind it was
// measured wrong. What is in their way follows from the plan.
func (j *Job) again() map[stand.Thing]bool {
	on, want := j.account().On(), j.pair()
	back := j.onAgain
	return map[stand.Thing]bool{
		stand.Cylinder:      back(stand.Cylinder) && (on.Cylinder != want.Cylinder || j.rodWrong() != nil),
		stand.ActuatorBolts: back(stand.ActuatorBolts) && on.Cylinder != want.Cylinder,
		stand.Firewall:      back(stand.Firewall) && on.Booster != want.Booster,
	}
}

// onAgain says whether something that came off is on again.
func (j *Job) onAgain(t stand.Thing) bool {
	s := j.account().StateOf(t)
	return j.account().TookOff(t) && (s == stand.Back || s == stand.Loose || s == stand.Started)
}

// tight says whether a joint's figure is in its range: as it was when it was told, and as the range is now.
func (j *Job) tight(s *plan.Step) bool {
	t, ticked := j.State.Ticks[s.ID]
	if !ticked || s.Torque == nil || t.TorqueNM == nil {
		return true
	}
	return judge(*t.TorqueNM, t.TorqueUnit, s.Torque).Verdict == units.TorqueOK
}

// bled says whether nothing of the bleed is left.
func (j *Job) bled() bool {
	v, _, err := j.bleeding()
	return err == nil && v.Applies && len(v.OpenWheels)+len(v.LeftWheels)+len(v.StepsLeft) == 0
}

// ── where air can get in ──

// pathCM3 is what lies between the cylinder and a wheel's bleeder, brakeCM3 its hose and brake.
func (j *Job) pathCM3(id string) float64 {
	if w := j.wheelOf(id); w != nil {
		return w.PipeCM3() + w.Brake.CavityCM3
	}
	return 0
}

// dryCylinder says whether the cylinder goes on with nothing in it: its bench bleed is left for the final one.
func (j *Job) dryCylinder() bool {
	own := j.Choices.Joint
	return j.putsOnCylinder() && own != nil && own.Schools[plan.BenchWhen] == plan.BenchFinal
}

// fromCylinderCM3 is what has to leave a wheel's bleeder for air from the cylinder on; a cylinder that went on dry
// holds its own besides.
func (j *Job) fromCylinderCM3(id string, dry bool) float64 {
	cm3 := j.pathCM3(id)
	if s := j.Intake.System; dry && s != nil {
		cm3 += s.ChamberCM3(s.CircuitOf(id))
	}
	return cm3
}

func (j *Job) brakeCM3(id string) float64 {
	if w := j.wheelOf(id); w != nil {
		return w.HoseCM3() + w.Brake.CavityCM3
	}
	return 0
}

func (j *Job) wheelOf(id string) *system.Wheel {
	if j.Intake.System == nil {
		return nil
	}
	return j.Intake.System.Wheel(id)
}

// airFromCylinder marks the wheels of circuits, all where none are named: air may have got in ahead of their lines.
func (j *Job) airFromCylinder(seq int64, why string, circuits ...string) {
	if j.Intake.System == nil {
		return
	}
	for _, c := range j.Intake.System.Circuits {
		if len(circuits) > 0 && !slices.Contains(circuits, c.ID) {
			continue
		}
		for _, w := range c.Wheels {
			j.account().Air(seq, w, stand.FromCylinder, why, j.fromCylinderCM3(w, why == "fit.cylinder_nuts" && j.dryCylinder()))
		}
	}
}

// airAtBrake marks one wheel.
func (j *Job) airAtBrake(seq int64, wheel, why string) {
	if j.wheelOf(wheel) != nil {
		j.account().Air(seq, wheel, stand.FromBrake, why, j.brakeCM3(wheel))
	}
}

// takes is what a tick does to fluid and air beside its act.
func (j *Job) takes(step string, e *Event) {
	act, s := stand.Find(step), j.Intake.System
	if act == nil || s == nil {
		return
	}
	if act.Thing == stand.Reservoir && act.Takes() {
		j.drainedOff(e.place)
	}
	switch {
	case act.Thing == stand.ModulatorLines && act.Takes():
		j.airFromCylinder(e.place, step)
		j.State.ModulatorAir = s.Modulator != nil
		j.State.dropBleedStep(bleed.StepRoutine)
	case act.Opens && act.Thing == stand.Elsewhere:
		wheels := j.openedWheels()
		j.State.OpenedAt = slices.Clone(wheels)
		for i := range s.Wheels {
			if slices.Contains(wheels, s.Wheels[i].ID) {
				j.airAtBrake(e.place, s.Wheels[i].ID, step)
			}
		}
		if len(wheels) == 0 { // somewhere along a line: it may be at the cylinder
			j.airFromCylinder(e.place, step)
		}
	case act.Opens:
		j.airFromCylinder(e.place, step)
	case (step == "fit.cylinder_nuts" || step == "fit.actuator_bolts") && j.scope().FitsCylinder():
		j.airFromCylinder(e.place, step)
		j.account().Move(e.when(), stand.Reservoir)
	case step == "fit.firewall_nuts" && j.scope() == match.ElectroUnit:
		j.airFromCylinder(e.place, step)
		j.account().Move(e.when(), stand.Reservoir)
		j.State.dropBleedStep(bleed.StepSimulator)
	}
	if (act.Thing == stand.Power || act.Thing == stand.Plug || act.Thing == stand.MainConnector) && act.Takes() {
		for _, id := range []bleed.StepID{bleed.StepRelearn, bleed.StepCodesRead, bleed.StepCodesAgain} { // what stood in it nobody knows any more
			j.State.dropBleedStep(id)
		}
	}
	if act.Thing == stand.Cylinder && act.Takes() || act.Thing == stand.ActuatorBolts && act.Takes() {
		j.State.Cracks = nil // of the cylinder that was on
	}
}
