package sheet

import (
	"strconv"
	"time"

	"github.com/go-pdf/fpdf"

	"geminate/brake/job"
)

// A label is as small as a sticker: one page each.
const (
	labelWidth, labelHeight = 90.0, 50.0
	labelMargin, labelCode  = 4.0, 22.0
)

// Labels prints the sticker of a released vehicle (when it is next due) and, where a bottle was named, the sticker of
// the bottle (class, opened, water), each with the way back to the job at at.
func Labels(j *job.Job, pref, at string, now time.Time) ([]byte, error) {
	bottle := j.Choices.Bottle
	if j.State.ReleasedAt == nil && bottle.OpenedAt == "" {
		return nil, job.ErrNotReleased
	}
	w := paperOf(j)
	p := paper{fpdf.NewCustom(&fpdf.InitType{OrientationStr: "L", UnitStr: "mm", Size: fpdf.SizeType{Wd: labelHeight, Ht: labelWidth}})}
	p.AddUTF8FontFromBytes("B", "", regular)
	p.AddUTF8FontFromBytes("B", "B", bold)
	p.SetMargins(labelMargin, labelMargin, labelMargin)
	p.SetAutoPageBreak(false, 0)
	p.SetCreator("Geminate", true)
	write := func(style string, size, high float64, text string) {
		p.SetFont("B", style, size)
		p.MultiCell(labelWidth-2*labelMargin-labelCode-2, high, text, "", "L", false)
	}
	page := func(title string) error {
		p.AddPage()
		if j.Shop != nil && j.Shop.Name != "" {
			write("", 7.5, 3.6, j.Shop.Name)
		}
		write("B", 13, 6, title)
		return code(p.Fpdf, at, labelWidth-labelMargin-labelCode, labelHeight-labelMargin-labelCode, labelCode)
	}
	if j.State.ReleasedAt != nil {
		if err := page(w.T("label.due", nil)); err != nil {
			return nil, err
		}
		d := j.Due(now)
		write("", 9, 4.4, j.Intake.Vehicle+"  "+j.Intake.Plate)
		write("B", 17, 8, w.DayOf(d.Day()))
		if d.AtKM > 0 {
			write("", 9, 4.4, w.T("label.or_at", map[string]any{"km": w.By("_km", d.AtKM, pref)}))
		}
		class := j.Intake.System.Fluid.Class
		if j.Choices.Scope.OpensHydraulics() && bottle.Class != "" { // what was filled in
			class = bottle.Class
		}
		write("", 9, 4.4, w.T("sheet.fluid", nil)+": "+class)
	}
	if bottle.OpenedAt != "" {
		if err := page(w.T("label.bottle", nil)); err != nil {
			return nil, err
		}
		write("B", 17, 8, bottle.Class)
		write("", 9, 4.4, w.T("label.opened", map[string]any{"date": w.DayOf(bottle.OpenedAt)}))
		if bottle.WaterPercent != nil {
			write("", 9, 4.4, w.T("sheet.water", nil)+": "+strconv.FormatFloat(*bottle.WaterPercent, 'f', 1, 64)+" %")
		}
		write("", 9, 4.4, w.T("label.never_back", map[string]any{"date": w.DayOf(j.BottleUntil())}))
	}
	return written(p.Fpdf, "labels")
}
