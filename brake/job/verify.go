package job

import (
	"cmp"
	"encoding/json"

	"geminate/brake/diagnose"
	"geminate/brake/fluid"
	"geminate/brake/match"
	"geminate/brake/pedal"
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
	look(j.Choices.Scope.FitsCylinder(), j.Choices.Old, j.Choices.Unit)
	look(j.Choices.Scope.FitsBooster(), j.Choices.OldBooster, j.Choices.Booster)
	return out
}

// verifyInput is what the gate looks at, the air left apart, which is dear.
func (j *Job) verifyInput() verify.Input {
	return verify.Input{System: j.Fitted(), Findings: j.State.findings(PhaseVerify)}
}

// bottleFault says what is wrong with the fluid in hand, as it was when the job was last worked at; "" where nothing
// is known against it.
func (j *Job) bottleFault() string {
	b := j.bottle(j.UpdatedAt)
	switch {
	case !b.Allowed:
		return "gate.fluid.class"
	case b.Water == fluid.WaterChangeNow || b.Water == fluid.WaterDanger:
		return "gate.fluid.water"
	case b.OpenDays != nil && *b.OpenDays > bottleMostDays:
		return "gate.fluid.old"
	}
	return ""
}

// bottleMostDays is how long a bottle may have stood open. Assumption: a year.
const bottleMostDays = 365

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
	in.LeftWheels, in.BleedSteps = bv.LeftWheels, bv.StepsLeft
	in.PlanLeft, in.OpenWheels, in.Opened, in.Rod, in.RanDry = rv.Left, bv.OpenWheels, bv.Applies, rv.Rod, bv.RanDry
	in.NoUnit = (j.Choices.Scope.FitsCylinder() && j.Choices.Unit == nil) || (j.Choices.Scope.FitsBooster() && j.Choices.Booster == nil)
	in.Work, in.ReadAt, in.Bottle = j.State.Work, map[string]int64{}, j.bottleFault()
	for id, f := range j.State.Findings[PhaseVerify] {
		in.ReadAt[id] = f.Seq
	}
	in.Unfit, in.AirLeft, in.Torques = j.unfit(), j.State.Air, map[string]units.TorqueVerdict{}
	for step, t := range rv.Torque {
		in.Torques[step] = t.Verdict
	}
	for _, s := range rv.Plan.Steps {
		tick, done := j.State.Ticks[s.ID]
		switch {
		case s.Torque == nil || !done || tick.TorqueNM != nil:
		case tick.ByHand:
			in.ByHand = append(in.ByHand, s.ID)
		default:
			in.NoTorque = append(in.NoTorque, s.ID)
		}
	}
	return in
}

// Verify judges the finished work.
func (j *Job) Verify() (*VerifyView, error) {
	in, err := j.gateInput()
	if err != nil {
		return nil, err
	}
	s := in.System
	v := &VerifyView{Gate: verify.Judge(in), Curve: Curve(s, false), Expected: []verify.Expected{}, Readings: []verify.Expected{}, Released: j.State.ReleasedAt != nil, Air: j.State.Air, FirmN: verify.FirmLowN}
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
	return v, nil
}
