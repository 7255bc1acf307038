package job

import (
	"context"
	"errors"
	"slices"
	"time"

	"geminate/brake/match"
	"geminate/brake/system"
	"geminate/brake/twin"
	"geminate/brake/verify"
)

// RecordView is the Record station.
type RecordView struct {
	Due      Due          `json:"due"`
	Verify   VerifyView   `json:"verify"`
	Replace  ReplaceView  `json:"replace"`
	Bleed    BleedView    `json:"bleed"`
	Diagnose DiagnoseView `json:"diagnose"`
	// Apart are the parts of the old unit on the bench, Spoken the faults they speak for, MayBe what it may have been.
	Apart  []ApartView `json:"apart"`
	Spoken []string    `json:"spoken"`
	MayBe  []string    `json:"may_be"`
	// Fitted is what the work fits.
	Fitted []*match.Unit `json:"fitted"`
	// MayKeepPedal says that the pedal as read can be kept as this vehicle's known-good one.
	MayKeepPedal bool `json:"may_keep_pedal"`
}

// FittedUnits are the units chosen that the work fits, the cylinder first.
func (j *Job) FittedUnits() []*match.Unit {
	out := []*match.Unit{}
	c := j.Choices
	if c.Unit != nil && j.putsOnCylinder() {
		out = append(out, c.Unit)
	}
	if u := j.newBooster(); u != nil && j.putsOnBooster() {
		out = append(out, u)
	}
	return out
}

// Record puts the job's sheet together at a moment: what is due next hangs on it.
func (j *Job) Record(ctx context.Context, now time.Time) (*RecordView, error) {
	v, err1 := j.Verify()
	replace, err2 := j.Replace()
	bleed, err3 := j.Bleed()
	diagnose, err4 := j.Diagnose(ctx)
	if err := errors.Join(err1, err2, err3, err4); err != nil {
		return nil, err
	}
	return &RecordView{
		Due:          j.Due(now),
		Verify:       *v,
		Replace:      *replace,
		Bleed:        *bleed,
		Diagnose:     *diagnose,
		Apart:        j.apart(),
		Spoken:       j.spoken(),
		MayBe:        mayBe(diagnose, j.spoken()),
		Fitted:       j.FittedUnits(),
		MayKeepPedal: j.mayKeepPedal(),
	}, nil
}

// mayBe lists what it may have been, for one tap: what the parts speak for, then the likeliest of the diagnosis.
func mayBe(v *DiagnoseView, spoken []string) []string {
	const most = 8
	out := append([]string{}, spoken...)
	for _, f := range v.Result.Faults {
		if !slices.Contains(out, f.ID) && len(out) < most {
			out = append(out, f.ID)
		}
	}
	return out[:min(len(out), most)]
}

// PushrodOut is a computed rod gap.
type PushrodOut struct {
	Rod twin.Pushrod `json:"rod"`
	// Verdict is right, large, preload or covered (the compensating port), by the limits of the release gate.
	Verdict string `json:"verdict"`
}

// Pushrod works a rod gap out; figures that cannot be are faults.
func (j *Job) Pushrod(in *Rod) (PushrodOut, error) {
	r, err := j.Rod(in)
	if err != nil {
		return PushrodOut{}, system.Faults{{Path: "$", Code: "fault.detail", With: map[string]any{"detail": err.Error()}}}
	}
	return PushrodOut{r, verify.RodVerdict(r.GapMM, r.Covered)}, nil
}

// TorqueIn is a torque to judge for a step.
type TorqueIn struct {
	Step     string  `json:"step"`
	TorqueNM float64 `json:"torque_nm"`
	// TorqueUnit is the unit the wrench was read in.
	TorqueUnit string `json:"torque_unit,omitempty"`
}
