package job

import (
	"cmp"
	"encoding/json"
	"math"
	"reflect"
	"slices"
	"time"

	"geminate/brake/diagnose"
	"geminate/brake/match"
	"geminate/brake/pedal"
	"geminate/brake/plan"
	"geminate/brake/stand"
	"geminate/brake/units"
	"geminate/brake/verify"
)

// VerifyView is the Verify station.
type VerifyView struct {
	Gate     verify.Gate       `json:"gate"`
	Expected []verify.Expected `json:"expected"`
	Curve    []CurvePoint      `json:"curve"`
	Readings []verify.Expected `json:"readings"` // band at each force read
	Released bool              `json:"released"`
	Air      *pedal.Result     `json:"air"` // nil while no reading can be used
	// FirmN is the least a firm foot gives: what a hold without a gauge is stored with.
	FirmN float64 `json:"firm_n"`
	// Unexplained are facts of the diagnosis that the work done does not put right.
	Unexplained []diagnose.Fact `json:"unexplained"`
	// Looks are what is worth a look beside the gate.
	Looks Looks `json:"looks"`
	// ToDo are the items that stand open, in the order one does them.
	ToDo []verify.Item `json:"to_do"`
	// Back are the ways back where something failed; Now what the failed readings say of the vehicle as it is now, the
	// likeliest first; Loops how often the work went on after something had been verified.
	Back  []verify.Way `json:"back"`
	Now   []NowFault   `json:"now"`
	Loops int          `json:"loops"`
	// Beyond is the chance that nothing the diagnosis knows is what is wrong now.
	Beyond diagnose.Beyond `json:"beyond"`
	// Doubts are the things of which two tellings do not agree.
	Doubts []DoubtAsked `json:"doubts"`
	// Afterwards is what was told after the release of what lay before it, CalledBack what of it would have held the
	// vehicle.
	Afterwards []Afterwards `json:"afterwards"`
	CalledBack []string     `json:"called_back"`
	// AfterDrive are the items that are read again after the drive, by one tap with the complaint.
	AfterDrive []string `json:"after_drive"`
	// Places are where things are checked, in the order one gets to them.
	Places []verify.Place `json:"places"`
	// Lookers are the people of the shop whose hands were not on the work; Alone: there is nobody else.
	Lookers []verify.Person `json:"lookers"`
	Alone   bool            `json:"alone"`
}

// NowFault is a fault of the repaired vehicle and its chance.
type NowFault struct {
	ID          string  `json:"id"`
	At          string  `json:"at,omitempty"`
	Probability float64 `json:"probability"`
}

// unfit lists the chosen units that do not fit the vehicle as measured, by number.
func (j *Job) unfit() []string {
	var out []string
	look := func(on bool, old, unit *match.Unit) {
		if !on || unit == nil {
			return
		}
		if old == nil {
			old = &match.Unit{}
		}
		if match.Compare(j.asFitted(), *old, *unit).Verdict == match.DoesNotFit {
			out = append(out, cmp.Or(unit.Number, unit.ID))
		}
	}
	look(j.putsOnCylinder(), j.Choices.Old, j.Choices.Unit)
	look(j.putsOnBooster(), j.Choices.OldBooster, j.Choices.Booster)
	return out
}

// verifyInput is what the gate looks at, the air left apart, which is dear.
func (j *Job) verifyInput() verify.Input {
	in := verify.Input{
		System:   j.Fitted(),
		Findings: map[string]diagnose.Finding{},
		Known:    j.pedalKnown(),
		Stand:    j.account(),
		ReadAt:   map[string]verify.Read{},
		History:  j.State.Read,
		AirLeft:  j.State.Air,
		AirSaid:  j.State.AirSaid,
		People:   j.People,
	}
	for id, f := range j.evidence() {
		in.Findings[id] = diagnose.Finding{ID: f.ID, Value: f.Value, Sure: f.Sure}
		in.ReadAt[id] = verify.Read{
			Value: f.Value,
			Sure:  f.Sure,
			When:  stand.When{Seq: f.Seq, At: f.At, By: f.ByID, Arrived: f.Arrived},
			Base:  f.Base,
		}
	}
	if in.Now = j.Now; in.Now.Before(j.State.SeenAt) {
		in.Now = j.State.SeenAt
	}
	// A job that is looked at without a clock has had no time that could be told.
	if in.Unhurried = j.Intake.Practice; !in.Unhurried && !in.Now.Before(j.CreatedAt) {
		in.Time = verify.Elapsed{SpentS: j.account().SpentS, HadS: in.Now.Sub(j.CreatedAt).Seconds()}
	}
	return in
}

// BottleUntil is the last day the bottle in hand is used; "" where nobody said when it was opened.
func (j *Job) BottleUntil() string {
	opened, err := time.Parse(time.DateOnly, j.Choices.Bottle.OpenedAt)
	if err != nil {
		return ""
	}
	return opened.AddDate(0, 0, j.shop().BottleDays).Format(time.DateOnly)
}

const secondLook = "check.second_look"

// Gate judges whether the vehicle may be handed over.
func (j *Job) Gate() (verify.Gate, error) {
	in, err := j.gateInput()
	if err != nil {
		return verify.Gate{}, err
	}
	return verify.Judge(in), nil
}

func (j *Job) gateInput() (verify.Input, error) {
	rv, err := j.Replace()
	if err != nil {
		return verify.Input{}, err
	}
	bv, _, err := j.bleeding()
	if err != nil {
		return verify.Input{}, err
	}
	return j.judged(rv, bv), nil
}

// judged adds to the readings what the work itself says.
func (j *Job) judged(rv *ReplaceView, bv *BleedView) verify.Input {
	in := j.verifyInput()
	in.OutOfDate = j.wornInstruments()
	in.LeftWheels, in.BleedSteps, in.GoneWheels = bv.LeftWheels, bv.StepsLeft, bv.Gone
	in.PlanLeft, in.OpenWheels, in.Opened, in.Rod, in.RanDry = rv.Left, bv.OpenWheels, bv.Applies, rv.Rod, bv.RanDry
	in.NoUnit = j.noUnit()
	in.Fits = j.fitsByFigures()
	in.Doubted = map[string]string{}
	for _, t := range j.account().OpenDoubts() {
		in.Doubted[string(t)] = j.account().Doubts[t].Late.Step
	}
	for _, p := range j.RubberLeft() {
		in.Rubber = append(in.Rubber, string(p))
	}
	in.Bottle, in.Wash = j.bottleFault(), j.wash()
	for _, x := range j.State.Small {
		if !x.On {
			in.SmallOff++
		}
	}
	in.Parked, in.PutOff = j.State.Parked != nil, rv.Plan.PutOff && bv.Applies
	in.PhoneSeq = j.phoneSeq()
	in.SecondBy = j.State.Findings[PhaseVerify][secondLook].Witness
	in.LowLevel = bv.Applies && bv.LowNow
	in.AsSupplied = rv.Plan.Schools[plan.Rod] == plan.RodAsSupplied
	in.Unfit, in.Torques = j.unfit(), map[string]units.TorqueVerdict{}
	for step, t := range rv.Torque {
		in.Torques[step] = t.Verdict
	}
	for _, s := range rv.Plan.Steps {
		tick, done := j.State.Ticks[s.ID]
		switch {
		case s.Torque == nil || !done || tick.NotHere != "" || tick.TorqueNM != nil:
		case tick.ByHand:
			in.ByHand = append(in.ByHand, s.ID)
		default:
			in.NoTorque = append(in.NoTorque, s.ID)
		}
	}
	return in
}

// PhoneID is the instrument a phone is while it is strapped to the pedal's arm: it belongs to nobody's list, and needs
// no calibration that could run out: its noise is felt at rest, each time.
const PhoneID = "phone"

// phoneSeq is the last reading by a phone on the pedal, of either phase; 0 where there is none.
func (j *Job) phoneSeq() (last int64) {
	for _, phase := range j.State.Findings {
		for _, f := range phase {
			if f.Measured != nil && f.Measured.ID == PhoneID {
				last = max(last, f.Seq)
			}
		}
	}
	return last
}

// fitsByFigures is what goes on held against what was on.
func (j *Job) fitsByFigures() (f verify.Fits) {
	unit, booster := j.unitsOn()
	f.Asked = unit != nil || booster != nil
	if u := j.fits(); u != nil && u.BoreMM == nil {
		f.Asked, f.NoBore = true, true
		return f
	}
	if !f.Asked {
		return f
	}
	f.Before, f.After = match.Sound(j.Intake.System), j.Fitted()
	if old := j.Choices.Old; old != nil && old.BoreMM != nil {
		f.Before = match.Fitted(f.Before, *old)
	}
	if old := j.Choices.OldBooster; old != nil {
		f.Before = match.FittedBooster(f.Before, *old)
	}
	if reflect.DeepEqual(f.Before.MasterCylinder, f.After.MasterCylinder) && reflect.DeepEqual(f.Before.Booster, f.After.Booster) {
		f.Before, f.After = nil, nil // the same goes on
		return f
	}
	r := j.State.FitAccepted
	if r != nil && r.Pair == pairKey(j.pair()) {
		f.Reason, f.By = r.Reason, r.By
	}
	return f
}

// noUnit says whether a unit that goes on has not been chosen.
func (j *Job) noUnit() bool {
	return j.putsOnCylinder() && j.Choices.Unit == nil || j.putsOnBooster() && j.newBooster() == nil
}

// Verify judges the finished work.
func (j *Job) Verify() (*VerifyView, error) {
	in, err := j.gateInput()
	if err != nil {
		return nil, err
	}
	s := in.System
	g := j.judge(in)
	v := &VerifyView{
		Gate:     g,
		ToDo:     g.ToDo(),
		Back:     verify.Back(in, g),
		Now:      []NowFault{},
		Beyond:   diagnose.Beyond{Left: []string{}},
		Loops:    j.State.Loops,
		Places:   verify.Places,
		Curve:    Curve(s, false),
		Expected: []verify.Expected{},
		Readings: []verify.Expected{},
		Released: j.State.ReleasedAt != nil,
		Air:      j.State.Air,
		FirmN:    in.FirmN(),
	}
	v.Unexplained = j.unexplained()
	v.Doubts, v.Afterwards, v.CalledBack = j.doubtsAsked(), append([]Afterwards{},
		j.State.Afterwards...), append([]string{}, j.State.CalledBack...)
	v.AfterDrive = []string{}
	for _, i := range g.Items {
		if i.Code == "gate.after_drive" {
			v.AfterDrive = append(v.AfterDrive, i.ID)
		}
	}
	v.Looks = j.looks(&g)
	v.Lookers, v.Alone = j.lookers()
	if s.Pedal != nil {
		for f := 20.0; f <= 400; f += 20 {
			if b, ok := verify.Band(s, f); ok {
				v.Expected = append(v.Expected, b)
			}
		}
		var read []diagnose.Reading
		if f, ok := in.Findings["pedal.readings"]; ok && json.Unmarshal(f.Value, &read) == nil {
			for _, r := range read {
				if b, ok := verify.Band(s, r.PedalForceN); ok {
					v.Readings = append(v.Readings, b)
				}
			}
		}
	}
	if g.Failed > 0 {
		v.Now, v.Beyond = j.diagnoseNow()
		if in.PlanLeft > 0 && len(j.State.Repairs) == 0 { // nothing was done in vain yet
			v.Beyond = diagnose.Beyond{Left: []string{}}
		}
	}
	return v, nil
}

// judge judges what is asked now; of a vehicle that was let go it gives what stood then: a release stands, whatever is
// asked of evidence since, and readings do not grow old on the road.
func (j *Job) judge(in verify.Input) verify.Gate {
	if j.State.ReleasedAt == nil {
		return verify.Judge(in)
	}
	if len(j.State.ReleaseGate) > 0 {
		return verify.Gate{Items: slices.Clone(j.State.ReleaseGate), Passable: true}
	}
	in.AsThen = true
	return verify.Judge(in)
}

// nowMost faults are told, those of nowLeast and more.
const nowMost, nowLeast = 3, 0.05

// diagnoseNow runs the diagnosis on the vehicle as it is now: fitted and bled, with what was done as its history and
// what Verify read as its findings.
func (j *Job) diagnoseNow() ([]NowFault, diagnose.Beyond) {
	c := &diagnose.Case{
		Format:  diagnose.CaseFormat,
		Pattern: j.Intake.Pattern,
		System:  j.Fitted(),
		Tools:   j.testTools(),
		Hands:   j.Intake.Hands,
	}
	found := j.State.findings(PhaseVerify)
	for _, id := range sortedKeys(found) {
		if f := found[id]; diagnose.CheckFinding(c.System, f) == nil {
			c.Findings = append(c.Findings, f)
		}
	}
	done := []string{}
	if j.putsOnBooster() {
		done = append(done, "booster_fitted")
	}
	if j.putsOnCylinder() {
		done = append(done, "cylinder_fitted")
	}
	if j.opens() {
		done = append(done, "hydraulics_opened")
	}
	if j.State.ModulatorAir {
		done = append(done, "modulator_ran_dry")
	}
	if len(done) > 0 {
		raw, _ := json.Marshal(done)
		if f := (diagnose.Finding{ID: "history.since", Value: raw}); diagnose.CheckFinding(c.System, f) == nil {
			c.Findings = append(c.Findings, f)
		}
	}
	c.After = j.workDone()
	out := []NowFault{}
	r, err := diagnose.Run(c, j.Costs())
	if err != nil {
		return out, diagnose.Beyond{Left: []string{}}
	}
	for _, f := range r.Faults {
		if f.Probability >= nowLeast && len(out) < nowMost {
			out = append(out, NowFault{f.ID, f.At, f.Probability})
		}
	}
	return out, r.Beyond
}

// heldSlackS is how far a hold may differ from the clock that ran with it and still be the one that was timed, s.
// Assumption.
const heldSlackS = 3.0

// HoldTimed says whether the hold that is read was timed on a screen of this job; otherwise its seconds were typed.
func (j *Job) HoldTimed() bool {
	f, told := j.State.Findings[PhaseVerify]["pedal.sink"]
	var v diagnose.Sink
	if !told || json.Unmarshal(f.Value, &v) != nil {
		return false
	}
	// Drawn by an instrument as it went: the trace is there to be seen.
	if f.Measured != nil &&
		slices.ContainsFunc(j.State.Traces, func(t Trace) bool { return t.ID == f.Measured.Trace && t.Finding == "pedal.sink" }) {
		return true
	}
	for _, t := range j.State.Timers {
		if t.Clock == ClockHold && t.StoppedAt != nil && !t.StoppedAt.After(f.At) && math.Abs(t.Elapsed(f.At)-v.Seconds) <= heldSlackS {
			return true
		}
	}
	return false
}

// wornInstruments are the readings of the release check taken with an instrument that was out of date, where nobody let
// it stand.
func (j *Job) wornInstruments() map[string]verify.Worn {
	out := map[string]verify.Worn{}
	for id, f := range j.State.Findings[PhaseVerify] {
		if m := f.Measured; m.OutOfDate(f.At) && !m.WillDo {
			out[id] = verify.Worn{Name: m.Name, Until: m.HoldsUntil}
		}
	}
	return out
}
