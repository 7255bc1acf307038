package job

import (
	"cmp"
	"encoding/json"

	"geminate/brake/diagnose"
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
		if match.Compare(j.Intake.System, *old, *unit).Verdict == match.DoesNotFit {
			out = append(out, cmp.Or(unit.Number, unit.ID))
		}
	}
	look(j.Choices.Scope.FitsCylinder(), j.Choices.Old, j.Choices.Unit)
	look(j.Choices.Scope.FitsBooster(), j.Choices.OldBooster, j.Choices.Booster)
	return out
}

// Verify judges the finished work.
func (j *Job) Verify() (*VerifyView, error) {
	rv, err := j.Replace()
	if err != nil {
		return nil, err
	}
	bv, err := j.Bleed()
	if err != nil {
		return nil, err
	}
	st := j.Fold()
	s := j.Fitted()
	in := verify.Input{System: s, Findings: st.Findings[PhaseVerify], PlanLeft: rv.Left, OpenWheels: bv.OpenWheels, Opened: bv.Applies, Rod: rv.Rod,
		NoUnit: (j.Choices.Scope.FitsCylinder() && j.Choices.Unit == nil) || (j.Choices.Scope.FitsBooster() && j.Choices.Booster == nil),
		Unfit:  j.unfit(), Torques: map[string]units.TorqueVerdict{}, RanDry: bv.RanDry}
	for step, t := range rv.Torque {
		in.Torques[step] = t.Verdict
	}
	v := &VerifyView{Gate: verify.Judge(in), Curve: Curve(s, false), Expected: []verify.Expected{}, Readings: []verify.Expected{}, Released: st.ReleasedAt != nil, Air: in.Air()}
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
