// Package sheet prints a job as a PDF.
package sheet

import (
	"bytes"
	"context"
	_ "embed"
	"encoding/base64"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
	"time"

	"github.com/go-pdf/fpdf"

	"geminate/brake/diagnose"
	"geminate/brake/job"
	"geminate/brake/stand"
	"geminate/brake/verify"
	"geminate/words"
)

//go:embed fonts/Barlow-Regular.ttf
var regular []byte

//go:embed fonts/Barlow-SemiBold.ttf
var bold []byte

const (
	margin = 16.0
	width  = 210 - 2*margin
)

type page struct {
	paper
	j    *job.Job
	st   job.State
	pref string
	shop job.Settings
	zone *time.Location // the shop's own: paper is read where it is printed
	w    *words.Book    // of the language of the shop's paper
}

// stamp writes a moment as the shop's clock has it.
func (p *page) stamp(t time.Time) string { return p.w.Moment(t.In(p.zone)) }

// paperOf gives the words of the language of a job's shop's paper.
func paperOf(j *job.Job) *words.Book {
	lang := ""
	if j.Shop != nil {
		lang = j.Shop.Language
	}
	if j.Intake.System == nil {
		return words.In(lang)
	}
	return words.In(lang).For(j.Intake.System)
}

// zoneOf is the time zone of a job's shop.
func zoneOf(j *job.Job) *time.Location {
	if j.Shop == nil {
		return time.UTC
	}
	zone, err := time.LoadLocation(j.Shop.Zone)
	if err != nil {
		return time.UTC
	}
	return zone
}

// newPage is an empty sheet with its fonts, margins and foot.
func newPage(j *job.Job, pref string, now time.Time) *page {
	set := job.DefaultSettings()
	if j.Shop != nil {
		set = *j.Shop
	}
	size := "A4"
	if set.Paper == "letter" {
		size = "Letter"
	}
	zone := zoneOf(j)
	p := &page{paper{fpdf.New("P", "mm", size, "")}, j, j.State, pref, set, zone, paperOf(j)}
	p.AddUTF8FontFromBytes("B", "", regular)
	p.AddUTF8FontFromBytes("B", "B", bold)
	p.SetMargins(margin, margin, margin)
	p.SetAutoPageBreak(true, 18)
	p.SetTitle(p.w.T("sheet.title", nil)+" "+j.Intake.Vehicle, true)
	p.SetCreator("Geminate", true)
	p.SetFooterFunc(func() {
		p.SetY(-13)
		p.SetFont("B", "", 7.5)
		p.CellFormat(width*0.8, 4, p.w.T("sheet.printed", map[string]any{"at": p.stamp(now)}), "", 0, "L", false, 0, "")
		p.CellFormat(width*0.2, 4, fmt.Sprint(p.PageNo()), "", 0, "R", false, 0, "")
	})
	return p
}

// PDF prints the job sheet in a person's units; photos are the pictures of the job's photos, in their order.
func PDF(ctx context.Context, j *job.Job, pref string, now time.Time, photos ...[]byte) ([]byte, error) {
	p := newPage(j, pref, now)
	p.head()
	if err := p.diagnosis(ctx); err != nil {
		return nil, err
	}
	p.work()
	if err := p.checks(); err != nil {
		return nil, err
	}
	p.due(now)
	p.signatures()
	p.photos(photos)
	return written(p.Fpdf, "job")
}

// begin starts a first page: what it is, whose it is, which vehicle.
func (p *page) begin(title string) {
	p.AddPage()
	p.SetFont("B", "B", 18)
	p.CellFormat(width, 9, p.w.T(title, nil), "", 1, "L", false, 0, "")
	p.letterhead()
	if p.j.Intake.Practice {
		p.SetFont("B", "B", 12)
		p.CellFormat(width, 7, p.w.T("sheet.practice", nil), "1", 1, "C", false, 0, "")
	}
	p.rails()
	p.line(p.w.T("sheet.vehicle", nil), p.j.Intake.Vehicle+"  "+p.j.Intake.Plate)
}

// written is a finished document.
func written(p *fpdf.Fpdf, what string) ([]byte, error) {
	var out bytes.Buffer
	if err := p.Output(&out); err != nil {
		return nil, fmt.Errorf("sheet: %s: %w", what, err)
	}
	return out.Bytes(), nil
}

// rails draws the pair of lines that runs through everything: circuit A solid, circuit B dashed.
func (p *page) rails() {
	y := p.GetY()
	p.SetDrawColor(30, 58, 70)
	p.SetLineWidth(0.7)
	p.Line(margin, y, margin+width, y)
	p.SetDashPattern([]float64{2.6, 1.4}, 0)
	p.Line(margin, y+1.8, margin+width, y+1.8)
	p.SetDashPattern([]float64{}, 0)
	p.SetLineWidth(0.2)
	p.SetY(y + 4)
}

func (p *page) section(key string) {
	p.Ln(2)
	p.SetFont("B", "B", 11)
	p.CellFormat(width, 6, p.w.T(key, nil), "", 1, "L", false, 0, "")
}

// letterhead is the shop's own: its name, its address, its mark.
func (p *page) letterhead() {
	if p.shop.Name != "" {
		p.SetFont("B", "", 10)
		p.MultiCell(width, 4.6, p.shop.Name+"\n"+p.shop.Address, "", "L", false)
	}
	if kind, data, ok := strings.Cut(strings.TrimPrefix(p.shop.Mark, "data:image/"), ";base64,"); ok {
		if raw, err := base64.StdEncoding.DecodeString(data); err == nil {
			opt := fpdf.ImageOptions{ImageType: kind}
			if info := p.RegisterImageOptionsReader("mark", opt, bytes.NewReader(raw)); info != nil && p.Ok() {
				p.ImageOptions("mark", margin+width-24, margin, 24, 0, false, opt, 0, "")
			} else {
				p.ClearError() // a mark that cannot be read is no reason to print nothing
			}
		}
	}
}

// signatures are the lines people sign on.
func (p *page) signatures() {
	p.Ln(10)
	p.SetFont("B", "", 8.5)
	for _, key := range []string{"sheet.sign_shop", "sheet.sign_customer"} {
		p.CellFormat(width/2-6, 5, p.w.T(key, nil), "T", 0, "L", false, 0, "")
		p.CellFormat(6, 5, "", "", 0, "L", false, 0, "")
	}
	p.Ln(6)
}

// line writes a label and its text side by side, each wrapped in its own column. It begins a page rather than be cut in
// two; a text longer than a page goes on over it.
func (p *page) line(label, text string) {
	const column, gap, high, pageHigh = 50.0, 4.0, 5.0, 270.0 - margin
	p.SetFont("B", "", 9.5)
	rows := max(len(p.SplitText(label, column-textPad)), len(p.SplitText(text, width-column-gap-textPad)))
	_, paperHigh := p.GetPageSize()
	_, bottom := p.GetAutoPageBreak()
	if needs := high * float64(rows); p.GetY()+needs > paperHigh-bottom && needs < pageHigh {
		p.AddPage()
	}
	x, y := p.GetXY()
	on := p.PageNo()
	p.SetTextColor(90, 90, 85)
	p.MultiCell(column, high, label, "", "L", false)
	after := p.GetY()
	p.SetTextColor(20, 20, 20)
	p.SetXY(x+column+gap, y)
	p.MultiCell(width-column-gap, high, text, "", "L", false)
	if p.PageNo() == on { // where the text went over, it ends below the label
		p.SetY(math.Max(after, p.GetY()))
	}
}

// textPad is what a cell keeps free at its two sides, mm: the library's own.
const textPad = 2.0

func (p *page) head() {
	p.begin("sheet.title")
	in := p.j.Intake
	p.line(p.w.T("sheet.customer", nil), in.Customer)
	p.distance()
	p.line(p.w.T("sheet.complaint", nil), in.Complaint)
	p.SetFont("B", "B", 12)
	p.Ln(1)
	if p.st.ReleasedAt != nil {
		p.CellFormat(width, 7, p.w.T("sheet.released", map[string]any{"at": p.stamp(*p.st.ReleasedAt), "by": p.st.ReleasedBy}),
			"1", 1, "C", false, 0, "")
	} else {
		p.CellFormat(width, 7, p.w.T("sheet.not_released", nil), "1", 1, "C", false, 0, "")
	}
	// A release that was taken back stays on every later sheet, with why.
	for _, r := range p.st.Reopenings {
		p.line(p.w.T("sheet.reopened", map[string]any{"at": p.stamp(r.At), "by": r.By}), r.Reason)
	}
	p.afterRelease()
	if h := p.st.History; h != nil {
		text := p.w.T("sheet.history", map[string]any{"at": p.stamp(h.At), "by": h.By})
		if h.ReleasedAt != nil {
			text += " " + p.w.T("sheet.history_released", map[string]any{"at": p.stamp(*h.ReleasedAt), "by": h.ReleasedBy})
		}
		p.line(p.w.T("sheet.from_elsewhere", nil), text)
	}
}

// afterRelease is what was entered after the release of what lay before it, and what of it would have held the vehicle.
func (p *page) afterRelease() {
	for _, a := range p.st.Afterwards {
		what := p.w.T("event."+string(a.Kind), nil)
		if a.Step != "" {
			what = p.w.T("step."+a.Step, nil)
		}
		p.line(p.w.T("ui.told_afterwards", nil), what+"  ("+a.By+", "+p.stamp(a.At)+")")
	}
	if len(p.st.CalledBack) > 0 {
		p.MultiCell(width, 5, p.w.T("ui.called_back", map[string]any{"findings": p.st.CalledBack}), "1", "L", false)
	}
}

func (p *page) diagnosis(ctx context.Context) error {
	v, err := p.j.Diagnose(ctx)
	if err != nil {
		return err
	}
	p.section("sheet.found")
	for _, id := range slices.Sorted(maps.Keys(p.st.Findings[job.PhaseDiagnose])) {
		f := p.st.Findings[job.PhaseDiagnose][id]
		p.line(p.w.T("finding."+id, nil), p.value(diagnose.Finding{ID: f.ID, Value: f.Value}))
	}
	for i, f := range v.Result.Faults {
		if i == 3 || f.Probability < 0.03 || v.Count == 0 {
			break
		}
		name := p.w.T("fault_id."+f.ID, nil)
		if f.At != "" {
			name += " (" + p.w.Wheels(f.At) + ")"
		}
		p.line("", p.w.T("sheet.probability", map[string]any{"fault": name, "percent": math.Round(f.Probability * 100)}))
		for k, b := range f.Because {
			if k == 3 || i > 0 {
				break // the reasons of the leading fault, the heaviest three
			}
			way := "sheet.for"
			if !b.For {
				way = "sheet.against"
			}
			p.line("", p.w.T(way, map[string]any{"finding": p.w.T("finding."+b.Finding, nil), "times": p.w.Times(b.Times)}))
		}
	}
	if v.Count > 0 {
		p.verdict(&v.Result)
	}
	return nil
}

// verdict prints what was proposed, what did not go together, and what could not be finished here.
func (p *page) verdict(r *diagnose.Result) {
	text := p.w.T("action."+r.Action.Best, nil)
	for _, a := range r.Action.Also {
		text += " + " + p.w.T("action."+a, nil)
	}
	if len(r.Action.At) > 0 {
		text += " (" + p.w.Wheels(strings.Join(r.Action.At, ", ")) + ")"
	}
	if !r.Action.Settled {
		text += ", " + p.w.T("sheet.not_settled", nil)
	}
	p.line(p.w.T("sheet.action", nil), text)
	for _, c := range r.Contradictions {
		p.line(
			"",
			p.w.T(
				"ui.contradiction",
				map[string]any{
					"a":      p.w.T("finding."+c.Findings[0], nil),
					"b":      p.w.T("finding."+c.Findings[1], nil),
					"repeat": p.w.T("finding."+c.Repeat, nil),
				},
			),
		)
	}
	for _, o := range r.CannotFinish {
		p.line("", p.w.T("obstacle."+o.Why, nil))
	}
}

// distance is what the odometer said; nothing where nobody read it.
func (p *page) distance() {
	if km := p.j.Intake.DistanceKM; km > 0 {
		p.line(p.w.T("sheet.distance", nil), p.w.By("distance_km", km, p.pref))
	}
}

// rounds are every round of a wheel with what was seen to run out, where there is more to tell than one that ran clear.
func (p *page) rounds(list []stand.Round) {
	for i, r := range list {
		var seen []string
		for _, l := range r.Looks {
			word := "sheet.seen_bubbles"
			if l.Clear {
				word = "sheet.seen_clear"
			}
			seen = append(seen, p.w.T(word, nil))
		}
		if len(seen) == 0 {
			seen = append(seen, p.w.T("sheet.not_looked", nil))
		}
		if r.Lost > 0 {
			seen = append(seen, p.w.T("sheet.lost", map[string]any{"count": r.Lost}))
		}
		if r.ToldAfter {
			seen = append(seen, p.w.T("sheet.told_after", nil))
		}
		p.line("",
			p.w.T("sheet.round", map[string]any{"count": i + 1, "cm3": p.w.By("_cm3", r.CM3, p.pref), "seen": strings.Join(seen, ", ")}))
	}
}

func (p *page) checks() error {
	v, err := p.j.Verify()
	if err != nil {
		return err
	}
	p.section("sheet.checks")
	for _, i := range v.Gate.Items {
		how := ""
		if i.ID == "pedal.sink" && i.State == verify.OK {
			how = " (" + p.w.T(map[bool]string{true: "sheet.timed", false: "sheet.typed"}[p.j.HoldTimed()], nil) + ")"
		}
		if f, told := p.j.State.Findings[job.PhaseVerify][i.ID]; told && f.Measured != nil {
			how += " " + p.w.T("sheet.measured", map[string]any{"name": f.Measured.Name})
			if f.Measured.OutOfDate(f.At) {
				how += ", " + p.w.T("instrument.out_of_date", nil)
			}
		}
		p.line(p.w.T("state."+string(i.State), nil), p.w.T("finding."+i.ID, nil)+": "+p.w.Say(i.Code, i.With, p.pref)+how)
	}
	if len(v.Expected) > 0 {
		p.curve(v)
	}
	p.traces()
	return nil
}

// dueLine is when the vehicle should be seen again; one that is not released has no next service, it has this one.
func (p *page) dueLine(now time.Time) {
	d := p.j.Due(now)
	if p.st.ReleasedAt != nil {
		key := "sheet.due_line"
		if d.AtKM == 0 { // no odometer was read
			key = "sheet.due_no_distance"
		}
		p.line(p.w.T("sheet.due", nil),
			p.w.T(key, map[string]any{"date": p.w.DayOf(d.AtDate), "km": p.w.By("_km", d.AtKM, p.pref), "water": p.w.DayOf(d.WaterDate)}))
	}
}

func (p *page) due(now time.Time) {
	p.dueLine(now)
	for _, unit := range []string{job.UnitCylinder, job.UnitBooster} {
		if o, there := p.st.OldUnits[unit]; there {
			p.line(p.w.T("old_unit."+unit, nil), p.w.T("went."+o.Went, nil)+", "+p.w.Day(o.At.In(p.zone))+", "+o.By+sep(o.Note))
		}
	}
	for _, n := range p.st.StepNotes {
		p.line(p.w.T("step."+n.Step, nil), n.Text+" ("+n.By+")")
	}
	for i, n := range p.st.Notes {
		label := ""
		if i == 0 {
			label = p.w.T("sheet.notes", nil)
		}
		p.line(label, n)
	}
	p.Ln(2)
	p.SetFont("B", "", 8.5)
	p.MultiCell(width, 4.2, p.w.T("sheet.caution", nil), "", "L", false)
}

// sep puts a note behind what it is about.
func sep(note string) string {
	if note == "" {
		return ""
	}
	return ": " + note
}
