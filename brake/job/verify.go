package job

import (
	"encoding/json"

	"geminate/brake/diagnose"
	"geminate/brake/pedal"
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
	in := verify.Input{System: s, Findings: st.Findings[PhaseVerify], PlanLeft: rv.Left, OpenWheels: bv.OpenWheels, Opened: bv.Applies, NoUnit: j.Choices.Scope.FitsCylinder() && j.Choices.Unit == nil}
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
