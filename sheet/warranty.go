package sheet

import (
	"context"
	"time"

	"geminate/brake/job"
	"geminate/brake/match"
)

// Warranty prints what a maker asks when a unit is claimed: what came off with what was measured on it and how it was
// found inside, what it did in the vehicle, what went on and how. Nothing that was not told is filled in.
func Warranty(ctx context.Context, j *job.Job, pref string, now time.Time) ([]byte, error) {
	v, err := j.Record(ctx, now)
	if err != nil {
		return nil, err
	}
	p := newPage(j, pref, now)
	p.begin("warranty.title")
	p.distance()
	p.line(p.w.T("sheet.complaint", nil), j.Intake.Complaint)
	if err := p.diagnosis(ctx); err != nil {
		return nil, err
	}
	if really := j.State.Really; really != nil {
		name := really.Note
		if really.Fault != job.OtherFault {
			name = p.w.T("fault_id."+really.Fault, nil) + sep(really.Note)
		}
		p.line(p.w.T("ui.really_was", nil), name+" ("+really.By+", "+p.stamp(really.When)+")")
	}
	p.section("warranty.old")
	p.unit(j.Choices.Old)
	p.unit(j.Choices.OldBooster)
	if j.Choices.Old == nil && j.Choices.OldBooster == nil {
		p.line("", p.w.T("warranty.not_measured", nil))
	}
	seen := 0
	for _, part := range v.Apart {
		if part.Seen == nil {
			continue
		}
		seen++
		p.line(p.w.T("apart."+part.ID, nil),
			p.w.T("part_state."+string(part.Seen.State), nil)+sep(part.Seen.Note)+" ("+part.Seen.By+", "+p.stamp(part.Seen.At)+")")
	}
	if seen == 0 {
		p.line("", p.w.T("warranty.not_apart", nil))
	}
	p.work()
	if err := p.checks(); err != nil {
		return nil, err
	}
	p.signatures()
	return written(p.Fpdf, "warranty")
}

// unit writes what was measured on a unit.
func (p *page) unit(u *match.Unit) {
	if u == nil {
		return
	}
	text := u.Maker + " " + u.Number
	if u.BoreMM != nil {
		text += ", " + p.w.By("_mm", *u.BoreMM, p.pref)
	}
	if u.StrokeMM != nil {
		text += ", " + p.w.T("warranty.stroke", nil) + " " + p.w.By("_mm", *u.StrokeMM, p.pref)
	}
	p.line(p.w.T("spec."+u.KindOf(), nil), text)
}
