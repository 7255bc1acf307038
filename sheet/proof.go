package sheet

import (
	"fmt"
	"time"

	"geminate/brake/job"
)

// Proof prints a release as evidence: each item of the gate, what was read, when and by whom, and what the hold would
// have let pass.
func Proof(j *job.Job, pref string, now time.Time) ([]byte, error) {
	if j.State.ReleasedAt == nil {
		return nil, job.ErrNotReleased
	}
	v, err := j.Verify()
	if err != nil {
		return nil, err
	}
	p := newPage(j, pref, now)
	p.begin("proof.title")
	p.line(p.w.T("sheet.customer", nil), j.Intake.Customer)
	p.line(p.w.T("proof.released_by", nil),
		fmt.Sprintf("%s (%s), %s", j.State.ReleasedBy, p.w.T("role."+string(j.State.ReleasedRole), nil), p.stamp(*j.State.ReleasedAt)))
	if v.Loops > 0 {
		p.line(p.w.T("proof.loops", nil), p.w.T("ui.loops", map[string]any{"n": v.Loops}))
	}
	p.section("proof.item")
	for _, i := range v.Gate.Items {
		text := p.w.Say(i.Code, i.With, pref)
		if f, read := j.State.Findings[job.PhaseVerify][i.ID]; read && f.By != "" {
			text += "  (" + f.By + ", " + p.stamp(f.At) + ")"
		}
		p.line(p.w.T("finding."+i.ID, nil), text)
		if i.ID == "pedal.sink" && i.With["leak_limit_cm3_min"] != nil {
			p.line(p.w.T("proof.limit", nil), p.w.Say("proof.limit_line", i.With, pref))
		}
	}
	for _, r := range j.State.Reopenings {
		p.line(p.w.T("sheet.reopened", map[string]any{"at": p.stamp(r.At), "by": r.By}), r.Reason)
	}
	p.afterRelease()
	p.Ln(3)
	p.SetFont("B", "", 9)
	p.MultiCell(width, 4.4, p.w.T("proof.note", nil), "", "L", false)
	return written(p.Fpdf, "proof")
}
