package sheet

import (
	"cmp"
	"context"
	"encoding/json"
	"maps"
	"slices"
	"strings"
	"time"

	"geminate/brake/job"
	"geminate/brake/verify"
)

// Customer prints what the owner takes home, in the owner's words: what was told, what was the matter, what was done
// where and what was fitted, how it was proven, when to come again, whom to ask, and the pictures that were taken. No
// odds, no names of checks and no trade terms; one page where it fits.
func Customer(ctx context.Context, j *job.Job, pref string, now time.Time, photos ...[]byte) ([]byte, error) {
	p := newPage(j, pref, now)
	p.begin("customer.title")
	p.line(p.w.T("sheet.customer", nil), j.Intake.Customer)
	p.distance()
	p.line(p.w.T("customer.told", nil), j.Intake.Complaint)
	p.SetFont("B", "B", 12)
	p.Ln(1)
	if at := p.st.ReleasedAt; at != nil {
		p.CellFormat(width, 7, p.w.T("customer.released", map[string]any{"at": p.stamp(*at), "by": p.st.ReleasedBy}), "1", 1,
			"C", false, 0, "")
	} else {
		p.CellFormat(width, 7, p.w.T("customer.not_released", nil), "1", 1, "C", false, 0, "")
	}
	v, err := j.Diagnose(ctx)
	if err != nil {
		return nil, err
	}
	p.Ln(2)
	p.line(p.w.T("customer.matter", nil), p.ownersMatter(v))
	p.done()
	if err := p.proven(); err != nil {
		return nil, err
	}
	p.ownersDue(now)
	p.Ln(2)
	p.SetFont("B", "", 9)
	p.MultiCell(width, 4.4, p.w.T("customer.watch", nil), "", "L", false)
	if p.shop.Name != "" {
		address := strings.Join(strings.Fields(strings.ReplaceAll(p.shop.Address, "\n", ", ")), " ")
		p.MultiCell(width, 4.4, p.w.T("customer.call", map[string]any{"shop": p.shop.Name + sep(address)}), "", "L", false)
	}
	p.signatures()
	p.photos(photos)
	return written(p.Fpdf, "customer")
}

// likely is how probable a cause must be before an owner is told of it at all: more likely than everything else
// together.
const likely = 0.5

// cause is what the diagnosis says was wrong: one fault, whatever number of places it is at. Air in both circuits is
// air, not two causes of which neither is likely.
type cause struct {
	id    string
	at    []string // its places, likeliest first, those that count
	total float64
}

// likeliest is the fault that is likeliest over all its places; nil where nothing was found yet.
func likeliest(v *job.DiagnoseView) *cause {
	if v.Count == 0 {
		return nil
	}
	by := map[string]*cause{}
	var best *cause
	for _, f := range v.Result.Faults {
		c := by[f.ID]
		if c == nil {
			c = &cause{id: f.ID}
			by[f.ID] = c
		}
		if f.At != "" && f.Probability >= likely/2 {
			c.at = append(c.at, f.At)
		}
		if c.total += f.Probability; best == nil || c.total > best.total {
			best = c
		}
	}
	return best
}

// matter is what was wrong, as far as anybody knows: what it turned out to be, or what the diagnosis settled on, with
// where.
func (p *page) matter(v *job.DiagnoseView) string {
	return p.wrong(v, func(fault string, at []string) string {
		name := p.w.T("fault_id."+fault, nil)
		if len(at) > 0 {
			name += " (" + p.w.Wheels(strings.Join(at, ", ")) + ")"
		}
		return name
	})
}

// ownersMatter is the same as an owner says it: a wheel has a name, a circuit has none for them.
func (p *page) ownersMatter(v *job.DiagnoseView) string {
	return p.wrong(v, func(fault string, at []string) string {
		sentence := p.w.T("owner_fault."+fault, nil)
		wheels := slices.DeleteFunc(at, func(id string) bool { return p.j.Intake.System.Wheel(id) == nil })
		if len(wheels) == 0 {
			return sentence
		}
		return p.w.T("customer.matter_where", map[string]any{"sentence": sentence, "where": p.ownersWheels(wheels)})
	})
}

// ownersWheels are wheels as an owner calls them.
func (p *page) ownersWheels(ids []string) string {
	out := make([]string, len(ids))
	for i, id := range ids {
		if out[i] = p.w.Wheels(id); p.w.Has("owner_wheel." + id) {
			out[i] = p.w.T("owner_wheel."+id, nil)
		}
	}
	return strings.Join(out, "; ")
}

func (p *page) wrong(v *job.DiagnoseView, say func(fault string, at []string) string) string {
	if r := p.st.Really; r != nil {
		if r.Fault == job.OtherFault {
			return r.Note
		}
		return strings.TrimSpace(say(r.Fault, nil) + " " + r.Note)
	}
	c := likeliest(v)
	// A remedy that is likelier than not the whole of it says as much as one cause does.
	if c == nil || max(c.total, v.Result.Action.Chance) < likely {
		return p.w.T("customer.not_sure", nil)
	}
	text := say(c.id, c.at)
	if !v.Result.Action.Settled && p.st.ReleasedAt == nil {
		return p.w.T("customer.likely", map[string]any{"sentence": text})
	}
	return text
}

// done is the work: what it was, what was repaired where, the wheels that were bled, the units, the fluid, what hands
// noted.
func (p *page) done() {
	scope := p.j.Choices.Scope
	if p.st.ReleasedAt == nil { // not done yet
		p.section("customer.doing")
		p.line(p.w.T("sheet.scope", nil), p.w.T("scope."+string(scope), nil))
	} else {
		p.section("customer.done")
		p.line(p.w.T("sheet.scope", nil), p.w.T("owner_work."+string(scope), nil))
	}
	p.repairs("customer.repaired", func(id string) string { return p.ownersWheels([]string{id}) })
	if bled := p.bledAt(); len(bled) > 0 {
		p.line(p.w.T("customer.bled_at", nil), p.ownersWheels(bled))
	}
	for _, u := range p.j.FittedUnits() {
		p.line(p.w.T("sheet.fitted", nil), strings.TrimSpace(u.Maker+" "+u.Number)+", "+p.w.T("spec."+u.Condition, nil))
	}
	if fluid := strings.Join(p.classes(), "; "); fluid != "" && scope.OpensHydraulics() {
		p.line(p.w.T("sheet.fluid", nil), fluid)
	}
	for _, n := range p.st.StepNotes {
		p.line(p.w.T("customer.note", nil), n.Text)
	}
}

// ownersDue is when to come again: the earlier of the two days, and the distance where the odometer was read.
func (p *page) ownersDue(now time.Time) {
	if p.st.ReleasedAt == nil {
		return
	}
	d := p.j.Due(now)
	key := "customer.due"
	if d.AtKM == 0 {
		key = "customer.due_day"
	}
	p.line(p.w.T("sheet.due", nil), p.w.T(key, map[string]any{"date": p.w.DayOf(d.Day()), "km": p.w.By("_km", d.AtKM, p.pref)}))
}

// repairs are what was done at wheels, lines and beside the units: where, what, and what was set to what.
func (p *page) repairs(label string, where func(id string) string) {
	for i, r := range p.st.Repairs {
		with := map[string]any{"where": "", "work": p.w.T("repair_work."+string(r.Work), nil)}
		if r.At != "" {
			with["where"] = where(r.At) + ": "
		}
		key := "repair_line.plain"
		if r.ToMM != nil {
			key, with["to_mm"] = "repair_line.to", *r.ToMM
			if r.FromMM != nil {
				key, with["from_mm"] = "repair_line.set", *r.FromMM
			}
		}
		name := ""
		if i == 0 {
			name = p.w.T(label, nil)
		}
		p.line(name, p.w.Say(key, with, p.pref)+sep(r.Note))
	}
}

// bledAt are the wheels that fluid was moved at and that ran clear.
func (p *page) bledAt() (out []string) {
	v, err := p.j.Bleed()
	if err != nil || !v.Applies {
		return nil
	}
	for _, id := range slices.Sorted(maps.Keys(v.Wheels)) {
		if w := v.Wheels[id]; w.Done && w.TotalCM3 > 0 {
			out = append(out, id)
		}
	}
	return out
}

// proven is what was tried before it left, in an owner's words: what failed or is open is a number, not a list of
// checks.
func (p *page) proven() error {
	v, err := p.j.Verify()
	if err != nil {
		return err
	}
	p.section("customer.proven")
	good := map[string]bool{}
	open := 0
	for _, i := range v.Gate.Items {
		if good[i.ID] = i.State == verify.OK; !good[i.ID] {
			open++
		}
	}
	var said []string
	if len(good) > 0 && open == 0 {
		said = append(said, p.w.T("customer.all_good", map[string]any{"n": len(good)}))
	} else {
		said = append(said, p.w.T("customer.left", map[string]any{"n": open}))
	}
	if s := p.heldS(); s > 0 && good["pedal.sink"] {
		said = append(said, p.w.T("customer.held", map[string]any{"n": s}))
	}
	for _, x := range [][2]string{{"check.dry_joints", "customer.dry"}, {"check.complaint_gone", "customer.gone"}} {
		if good[x[0]] {
			said = append(said, p.w.T(x[1], nil))
		}
	}
	p.line("", strings.Join(said, "\n"))
	return nil
}

// heldS is for how many seconds the pedal was held at last, whole ones.
func (p *page) heldS() int {
	f, read := p.st.Findings[job.PhaseVerify]["pedal.sink"]
	var hold struct {
		Seconds float64 `json:"seconds"`
	}
	if !read || json.Unmarshal(f.Value, &hold) != nil {
		return 0
	}
	return int(cmp.Or(hold.Seconds, 0))
}
