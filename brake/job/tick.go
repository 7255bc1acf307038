package job

import (
	"encoding/json"
	"math"
	"strings"
	"time"

	"geminate/brake/ledger"
	"geminate/brake/match"
	"geminate/brake/plan"
	"geminate/brake/stand"
	"geminate/brake/trace"
	"geminate/brake/twin"
	"geminate/brake/units"
	"geminate/brake/verify"
)

// Limits of what a step's own figures may be.
const (
	// voltsMost is what a meter may still read where no voltage is proven, V. Assumption: what a meter's leads pick up;
	// far below the 60 V d.c. from which UN R100 (from memory) asks for protection.
	voltsMost = 5.0
	// touchMM is the play either way that touch and turn leaves, mm (how-it-computes, section 12).
	touchMM = 0.2
	// sameRodMM is how much an old rod and a new one that cannot be set may differ, mm. Assumption: half of what the
	// trade allows as clearance.
	sameRodMM = 0.25
)

// Ticked is a step of the plan done, or (Done false) taken back, with the figure it is measured by. Gap and Verdict
// are worked out when it is stored.
type Ticked struct {
	Step     string   `json:"step"`
	Done     *bool    `json:"done,omitempty"`
	TorqueNM *float64 `json:"torque_nm,omitempty"`
	// TorqueUnit is the unit the wrench was read in: the slip between units depends on it.
	TorqueUnit string `json:"torque_unit,omitempty"`
	// ByHand says that no wrench gets at it: a stated fault of the record.
	ByHand  bool                `json:"by_hand,omitempty"`
	Rod     *Rod                `json:"rod,omitempty"`
	TouchMM *float64            `json:"touch_mm,omitempty"` // play left after touch and turn, negative is preload
	Rods    *Rods               `json:"rods,omitempty"`
	Volts   *float64            `json:"volts,omitempty"`
	Trained string              `json:"trained,omitempty"`  // who, where it takes a trained person
	NotHere string              `json:"not_here,omitempty"` // why the step does not apply on this vehicle
	Also    []string            `json:"also,omitempty"`     // taken back with it: what rests on it
	Gap     *twin.Pushrod       `json:"gap,omitempty"`
	Verdict units.TorqueVerdict `json:"verdict,omitempty"`
	// Compared are the points of old and new held side by side and seen to be the same, beside those that were
	// measured.
	Compared []string `json:"compared,omitempty"`
	// Seen is what was seen where the step is a look: dry or wet.
	Seen string `json:"seen,omitempty"`
	// Measured is the wrench that told the torque, where nobody typed it; Clicks are its, one a fastener, and TorqueNM
	// their least.
	Measured *Measured `json:"measured,omitempty"`
	Clicks   []Click   `json:"clicks,omitempty"`
	// Fluid is what the step moved: settled when it is stored.
	Fluid []ledger.Event `json:"fluid,omitempty"`
}

// Click is a wrench that let go at a fastener.
type Click struct {
	NM float64   `json:"nm"`
	At time.Time `json:"at"`
}

// clicksMost bounds them.
const clicksMost = 40

// What a look into the booster's mouth finds.
const (
	SeenDry = "dry"
	SeenWet = "wet"
)

// Rods are the lengths of two rods that cannot be set, from the same face, mm.
type Rods struct {
	OldMM float64 `json:"old_mm"`
	NewMM float64 `json:"new_mm"`
}

func (t *Ticked) off() bool { return t.Done != nil && !*t.Done }

// Valid implements Body.
func (t *Ticked) Valid() error {
	if t.Step == "" || len(t.Step) > 64 {
		return fault("$.data.step", "fault.missing", nil)
	}
	if len(t.Fluid) > 8 {
		return fault("$.data.fluid", "fault.count", map[string]any{"value": len(t.Fluid), "min": 0, "max": 8})
	}
	if len(t.Compared) > 50 {
		return fault("$.data.compared", "fault.count", map[string]any{"value": len(t.Compared), "min": 0, "max": 50})
	}
	if t.Seen != "" && t.Seen != SeenDry && t.Seen != SeenWet {
		return fault("$.data.seen", "fault.enum", map[string]any{"value": clip(t.Seen), "allowed": SeenDry + ", " + SeenWet})
	}
	if len(t.Also) > 100 {
		return fault("$.data.also", "fault.count", map[string]any{"value": len(t.Also), "min": 0, "max": 100})
	}
	for path, s := range map[string]string{"trained": t.Trained, "not_here": t.NotHere, "torque_unit": t.TorqueUnit} {
		if err := text("$.data."+path, s, 4*nameMost); err != nil {
			return err
		}
	}
	if len(t.Clicks) > clicksMost {
		return fault("$.data.clicks", "fault.count", map[string]any{"value": len(t.Clicks), "min": 0, "max": clicksMost})
	}
	if err := t.Measured.valid(); err != nil {
		return err
	}
	type bound struct {
		path   string
		v      *float64
		lo, hi float64
	}
	bounds := []bound{{"torque_nm", t.TorqueNM, 0.01, 2000}, {"touch_mm", t.TouchMM, -20, 20}, {"volts", t.Volts, -2000, 2000}}
	if t.Rods != nil {
		bounds = append(bounds, bound{"rods.old_mm", &t.Rods.OldMM, 0, 300}, bound{"rods.new_mm", &t.Rods.NewMM, 0, 300})
	}
	if r := t.Rod; r != nil {
		bounds = append(bounds, bound{"rod.pocket_mm", &r.PocketMM, -300, 300}, bound{"rod.gasket_mm", &r.GasketMM, -300, 300},
			bound{"rod.protrusion_mm", &r.ProtrusionMM, -300, 300}, bound{"rod.pitch_mm", &r.PitchMM, -300, 300},
			bound{"rod.target_mm", &r.TargetMM, -300, 300})
	}
	for _, b := range bounds {
		if b.v != nil {
			if err := inRange("$.data."+b.path, *b.v, b.lo, b.hi); err != nil {
				return err
			}
		}
	}
	return nil
}

// Check implements Body. What hangs on the time is asked by CheckAt.
func (t *Ticked) Check(j *Job) error {
	p, err := j.Plan()
	if err != nil {
		return err
	}
	if act := stand.Find(t.Step); act != nil && act.Counted {
		return fault("$.data.step", "fault.counted_step", nil)
	}
	missing, err := p.Missing(t.Step, j.before(p, t.Step))
	if err != nil {
		if t.off() && j.State.Ticks[t.Step].EventID != "" { // a step the plan no longer has can still be taken back
			return nil
		}
		return fault("$.data.step", "fault.no_such_step", map[string]any{"value": clip(t.Step)})
	}
	if t.off() {
		return nil
	}
	step := p.Find(t.Step)
	if t.NotHere != "" {
		return t.checkNotHere(j, step)
	}
	if missing = append(missing, j.inReach(p, t.Step)...); len(missing) > 0 {
		return ErrGate{missing}
	}
	if err := t.checkMeasure(j, step); err != nil {
		return err
	}
	if err := t.checkTorque(step); err != nil {
		return err
	}
	return t.checkDone(j, step)
}

// before is what stands for a step: for one that takes something off, energy that is stored again stands in its way.
func (j *Job) before(p *plan.Plan, step string) map[string]bool {
	done := j.doneOf(p, false)
	act := stand.Find(step)
	if act == nil || !act.Takes() || strings.HasPrefix(step, "safe.") {
		return done
	}
	j.strictEnergy(p, done)
	s := p.Find(step)
	for i := range p.Steps { // the second time as the first: what lies before it is off now, not once
		x := &p.Steps[i]
		if before := stand.Find(x.ID); before != nil && before.Takes() && s != nil && behindIt(p, s, x) {
			if st := j.account().StateOf(before.Thing); st != stand.Off && st != stand.Aside && st != stand.Absent {
				delete(done, x.ID)
			}
		}
	}
	return done
}

// inReach says what stands in the way of what is measured or moved over with the joint open.
func (j *Job) inReach(p *plan.Plan, step string) []string {
	if !opensJoint[step] || j.account().IsOff(stand.Cylinder) {
		return nil
	}
	for _, off := range []string{"strip.cylinder_off", "strip.cylinder_aside"} {
		if p.Find(off) != nil {
			return []string{off}
		}
	}
	return nil
}

// opensJoint are the steps that are done between cylinder and booster.
var opensJoint = map[string]bool{"rod.measure": true, "rod.compare": true, "rod.touch_and_turn": true, "rod.coupler_moved": true}

// mayBeAbsent: what protects people or holds the joint together is there on every vehicle, and what came off is there.
func (j *Job) mayBeAbsent(s *plan.Step) bool { return !s.Gate && j.account().MayBeAbsent(s.ID) }

func (t *Ticked) checkNotHere(j *Job, step *plan.Step) error {
	if strings.TrimSpace(t.NotHere) == "" {
		return fault("$.data.not_here", "fault.missing", nil)
	}
	if !j.mayBeAbsent(step) {
		return fault("$.data.not_here", "fault.always_here", nil)
	}
	return nil
}

func (t *Ticked) checkMeasure(j *Job, step *plan.Step) error {
	missing := func(field string) error { return fault("$.data."+field, "fault.missing", nil) }
	switch step.Measure {
	case plan.MeasurePushrod:
		if t.Rod == nil {
			return missing("rod")
		}
		for field, v := range map[string]float64{"pocket_mm": t.Rod.PocketMM, "gasket_mm": t.Rod.GasketMM, "protrusion_mm": t.Rod.ProtrusionMM, "pitch_mm": t.Rod.PitchMM} {
			if err := inField("$.data.rod."+field, "rod."+field, v); err != nil {
				return err
			}
		}
		if u := j.fits(); u != nil && u.PocketMM != nil && math.Abs(*u.PocketMM-t.Rod.PocketMM) > match.PocketTolMM {
			return fault("$.data.rod.pocket_mm", "fault.rod_pocket_other",
				map[string]any{"value_mm": t.Rod.PocketMM, "own_mm": *u.PocketMM})
		}
		if _, err := j.Rod(t.Rod); err != nil {
			return fault("$.data.rod", "fault.detail", map[string]any{"detail": err.Error()})
		}
	case plan.MeasureTouch:
		if t.TouchMM == nil {
			return missing("touch_mm")
		}
		if *t.TouchMM < -touchMM || *t.TouchMM > touchMM {
			return fault("$.data.touch_mm", "fault.rod_touch", map[string]any{"value_mm": *t.TouchMM, "most_mm": touchMM})
		}
	case plan.MeasureCompare:
		if t.Rods == nil {
			return missing("rods")
		}
		if d := t.Rods.NewMM - t.Rods.OldMM; d < -sameRodMM || d > sameRodMM {
			return fault("$.data.rods", "fault.rods_differ", map[string]any{"by_mm": d, "most_mm": sameRodMM})
		}
	case plan.MeasureVolts:
		if t.Volts == nil {
			return missing("volts")
		}
		if *t.Volts > voltsMost || *t.Volts < -voltsMost {
			return fault("$.data.volts", "fault.live", map[string]any{"value": *t.Volts, "max": voltsMost})
		}
		if strings.TrimSpace(t.Trained) == "" {
			return missing("trained")
		}
		if !j.Intake.Practice && !verify.Trained(j.People, t.Trained) {
			return fault("$.data.trained", "fault.not_trained", map[string]any{"name": clip(t.Trained)})
		}
	}
	return nil
}

// checkTorque: a joint is tight at a figure in its range, or the maker's own range says otherwise.
func (t *Ticked) checkTorque(step *plan.Step) error {
	if step.Torque == nil || t.TorqueNM == nil {
		if t.ByHand && (step.Torque == nil || !step.Torque.ByHand) {
			return fault("$.data.by_hand", "fault.needs_wrench", nil)
		}
		return nil
	}
	if v := judge(*t.TorqueNM, t.TorqueUnit, step.Torque).Verdict; v != units.TorqueOK {
		return fault("$.data.torque_nm", "torque."+string(v), map[string]any{"low_nm": step.Torque.LowNM, "high_nm": step.Torque.HighNM})
	}
	return t.checkClicks(step)
}

// checkClicks: what a wrench tells it tells at each fastener.
func (t *Ticked) checkClicks(step *plan.Step) error {
	if t.Measured == nil {
		return nil
	}
	if t.Measured.Kind != trace.Torque {
		return fault("$.data.measured.kind", "fault.measured_kind", map[string]any{"value": string(t.Measured.Kind)})
	}
	good := 0
	for _, c := range t.Clicks {
		if judge(c.NM, "N·m", step.Torque).Verdict == units.TorqueOK {
			good++
		}
	}
	if good < step.Torque.Fasteners {
		return fault("$.data.clicks", "fault.clicks", map[string]any{"count": step.Torque.Fasteners, "clicks": good})
	}
	return nil
}

// checkDone asks for what a step is the sum of: strokes counted, small parts back on.
func (t *Ticked) checkDone(j *Job, step *plan.Step) error {
	act := stand.Find(step.ID)
	if act == nil {
		return nil
	}
	var off []SmallPart
	for _, place := range act.Parts {
		off = append(off, j.State.partsOff(place)...)
	}
	if len(off) > 0 {
		return fault("$.data.step", "fault.parts_off", map[string]any{"count": len(off)})
	}
	switch act.Proof {
	case stand.ByBottle:
		return j.checkBottle()
	case stand.BySideBySide:
		if err := j.checkCompared(t); err != nil {
			return err
		}
		return j.checkHeld(t)
	case stand.ByStrokes, stand.ByCracks, stand.ByCycles:
		return j.checkCounted(act.Proof)
	}
	return nil
}

// CheckAt asks for a wait that has to be over.
func (t *Ticked) CheckAt(j *Job, at time.Time) error {
	if t.off() || t.NotHere != "" {
		return nil
	}
	p, err := j.Plan()
	if err != nil {
		return err
	}
	step := p.Find(t.Step)
	if step == nil || step.Wait == "" {
		return nil
	}
	if step.Wait == string(ClockHighVoltage) && !j.waited(ClockHighVoltage, at, stand.Plug) ||
		step.Wait != string(ClockHighVoltage) && !j.waited(Clock(step.Wait), at, "") {
		return fault("$.data.step", "fault.still_waiting", map[string]any{"clock": step.Wait})
	}
	return nil
}

// Settle works the gap and the torque's verdict out as they are now.
func (t *Ticked) Settle(j *Job) {
	t.Gap, t.Verdict, t.Fluid = nil, "", nil
	if t.off() || t.NotHere != "" {
		return
	}
	t.Fluid = j.fluidOf(t.Step)
	if t.Rod != nil {
		if g, err := j.Rod(t.Rod); err == nil {
			t.Gap = &g
		}
	}
	if p, err := j.Plan(); err == nil && t.TorqueNM != nil {
		if s := p.Find(t.Step); s != nil && s.Torque != nil {
			t.Verdict = judge(*t.TorqueNM, t.TorqueUnit, s.Torque).Verdict
		}
	}
}

func (t *Ticked) predate() { t.Fluid = nil }

// Apply implements Body.
func (t *Ticked) Apply(j *Job, e *Event) {
	a := j.account()
	if t.off() {
		j.takeBack(append([]string{t.Step}, t.Also...), e, e.By.ID)
		return
	}
	proven := j.proven(t, e.At)
	j.State.Ticks[t.Step] = Tick{
		At:         e.At,
		By:         e.By.Name,
		TorqueNM:   t.TorqueNM,
		TorqueUnit: t.TorqueUnit,
		Verdict:    t.Verdict,
		Rod:        t.Rod,
		Gap:        t.Gap,
		EventID:    e.ID,
		ByHand:     t.ByHand,
		TouchMM:    t.TouchMM,
		Rods:       t.Rods,
		Volts:      t.Volts,
		Trained:    t.Trained,
		NotHere:    t.NotHere,
		Seen:       t.Seen,
		Measured:   t.Measured,
		Clicks:     t.Clicks,
	}
	if t.NotHere != "" {
		a.NotHere(t.Step, e.when())
		return
	}
	j.rodTold(t, e, proven)
	j.toldOf(t.Step, e, func() { a.Do(t.Step, e.when(), j.pairSeen(e), proven) })
	if stand.Find(t.Step) == nil {
		a.Change(e.when(), t.Step, j.ownTouches(t.Step)...)
	}
	j.State.moves(t.Fluid...)
	j.takes(t.Step, e)
	if t.Step == "close.fill" {
		j.pour(e, "")
	}
	if t.Seen == SeenWet { // what was seen goes to the diagnosis by itself
		for id, v := range map[string]string{"wet.at": `["inside_booster"]`, "looked.at": `["inside_booster"]`} {
			j.State.Findings[PhaseDiagnose][id] = Found{
				ID:        id,
				Value:     json.RawMessage(v),
				Seq:       e.place,
				At:        e.At,
				By:        e.By.Name,
				ByID:      e.By.ID,
				Base:      e.Base,
				Arrived:   e.Seq,
				AfterWork: true,
			}
			j.keepRead(id, verify.Read{Value: json.RawMessage(v), When: e.when(), Base: e.Base})
		}
	}
	j.handsOn(e)
}

// Tick is a plan step done.
type Tick struct {
	At       time.Time `json:"at"`
	By       string    `json:"by"`
	TorqueNM *float64  `json:"torque_nm,omitempty"`
	// TorqueUnit is the unit the wrench was read in.
	TorqueUnit string              `json:"torque_unit,omitempty"`
	Verdict    units.TorqueVerdict `json:"verdict,omitempty"`
	Seen       string              `json:"seen,omitempty"`
	Rod        *Rod                `json:"rod,omitempty"`
	Gap        *twin.Pushrod       `json:"gap,omitempty"`
	EventID    string              `json:"event_id"`
	ByHand     bool                `json:"by_hand,omitempty"`
	TouchMM    *float64            `json:"touch_mm,omitempty"`
	Rods       *Rods               `json:"rods,omitempty"`
	Volts      *float64            `json:"volts,omitempty"`
	Trained    string              `json:"trained,omitempty"`
	NotHere    string              `json:"not_here,omitempty"`
	// Measured is the wrench that told it; nil where it was typed. Clicks are one a fastener.
	Measured *Measured `json:"measured,omitempty"`
	Clicks   []Click   `json:"clicks,omitempty"`
}

// opened says whether brake fluid came out, as what happened tells it: whatever the scope says now.
func (s *State) opened() bool { return s.Stand != nil && s.Stand.Opened() }

func judge(torqueNM float64, unit string, t *plan.Torque) TorqueRead {
	v, err := t.Judge(torqueNM, unit)
	if err != nil {
		v = units.TorqueLow
	}
	return TorqueRead{TorqueNM: torqueNM, Verdict: v}
}
