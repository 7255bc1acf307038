package sheet

import (
	"context"
	"slices"
	"strings"
	"time"

	"geminate/brake/job"
	"geminate/brake/match"
	"geminate/brake/verify"
)

// Customer prints what the owner takes home, in the owner's words: what was told, what was the matter, what was done and
// fitted, how it was proven, when to come again, and the pictures that were taken. No odds and no trade terms; one page where it fits.
func Customer(ctx context.Context, j *job.Job, pref string, now time.Time, photos ...[]byte) ([]byte, error) {
	p := newPage(j, pref, now)
	p.begin("customer.title")
	p.line(p.w.T("sheet.customer", nil), j.Intake.Customer)
	p.distance()
	p.line(p.w.T("customer.told", nil), j.Intake.Complaint)
	p.SetFont("B", "B", 12)
	p.Ln(1)
	if at := p.st.ReleasedAt; at != nil {
		p.CellFormat(width, 7, p.w.T("customer.released", map[string]any{"at": p.stamp(*at), "by": p.st.ReleasedBy}), "1", 1, "C", false, 0, "")
	} else {
		p.CellFormat(width, 7, p.w.T("customer.not_released", nil), "1", 1, "C", false, 0, "")
	}
	v, err := j.Diagnose(ctx)
	if err != nil {
		return nil, err
	}
	matter := p.matter(v)
	p.Ln(2)
	p.line(p.w.T("customer.matter", nil), matter)
	p.section("customer.done")
	p.done(matter)
	if err := p.proven(); err != nil {
		return nil, err
	}
	p.dueLine(now)
	p.Ln(2)
	p.SetFont("B", "", 9)
	p.MultiCell(width, 4.4, p.w.T("customer.watch", nil), "", "L", false)
	p.signatures()
	p.photos(photos)
	return written(p.Fpdf, "customer")
}

// likely is how probable a cause must be before an owner is told of it at all: more likely than everything else together.
const likely = 0.5

// matter is what was wrong, as far as anybody knows: what it turned out to be, or what the diagnosis settled on, with where.
func (p *page) matter(v *job.DiagnoseView) string {
	if r := p.st.Really; r != nil {
		if r.Fault == job.OtherFault {
			return r.Note
		}
		return p.w.T("fault_id."+r.Fault, nil) + sep(r.Note)
	}
	if v.Count == 0 || len(v.Result.Faults) == 0 || v.Result.Faults[0].Probability < likely {
		return p.w.T("customer.not_sure", nil)
	}
	f := v.Result.Faults[0]
	name := p.w.T("fault_id."+f.ID, nil)
	if f.At != "" {
		name += " (" + p.w.Wheels(f.At) + ")"
	}
	if !v.Result.Action.Settled {
		return p.w.T("customer.likely", map[string]any{"fault": name})
	}
	return name
}

// done is the work: its scope, what was repaired where nothing was exchanged, the units, the fluid, what hands noted.
func (p *page) done(matter string) {
	scope := p.j.Choices.Scope
	text := p.w.T("scope."+string(scope), nil)
	if scope == match.Elsewhere || scope == match.ElsewhereOpened {
		text += ": " + matter
	}
	p.line(p.w.T("sheet.scope", nil), text)
	for _, u := range p.j.FittedUnits() {
		p.line(p.w.T("sheet.fitted", nil), strings.TrimSpace(u.Maker+" "+u.Number)+", "+p.w.T("spec."+u.Condition, nil))
	}
	if fluid := p.poured(); fluid != "" && scope.OpensHydraulics() {
		p.line(p.w.T("sheet.fluid", nil), fluid)
	}
	for _, n := range p.st.StepNotes {
		p.line(p.w.T("step."+n.Step, nil), n.Text)
	}
}

// proven is what was looked at before it left, and the pedal's curve before and after.
func (p *page) proven() error {
	v, err := p.j.Verify()
	if err != nil {
		return err
	}
	var good, open []string
	for _, i := range v.Gate.Items {
		name := p.w.T("finding."+i.ID, nil)
		if i.State == verify.OK {
			good = append(good, name)
		} else {
			open = append(open, name)
		}
	}
	p.section("customer.proven")
	if len(good) > 0 {
		p.line(p.w.T("state.ok", nil), strings.Join(slices.Compact(good), " · "))
	}
	if len(open) > 0 && p.st.ReleasedAt == nil {
		p.line(p.w.T("customer.open", nil), strings.Join(slices.Compact(open), " · "))
	}
	if len(v.Expected) > 0 {
		p.curve(v)
	}
	return nil
}
