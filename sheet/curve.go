package sheet

import (
	"encoding/json"
	"geminate/brake/diagnose"
	"geminate/brake/job"
	"math"
	"slices"

	"github.com/go-pdf/fpdf"
)

// axis is how one axis of the curve is told in a person's units: its unit, one step in the core's unit and in theirs.
type axis struct {
	unit       string
	core, told float64
}

func (p *page) axes() (force, travel axis) {
	if p.pref == "us" {
		return axis{"lbf", 25 * 4.4482216, 25}, axis{"in", 12.7, 0.5}
	}
	return axis{"N", 100, 100}, axis{"mm", 20, 20}
}

// curve plots the twin's band, engine off, and the readings taken: travel goes down the page as the pedal does, as on
// the screen.
func (p *page) curve(v *job.VerifyView) {
	const h = 52.0
	if p.GetY() > 215 {
		p.AddPage()
	}
	p.section("sheet.curve")
	x0, y0 := margin+14, p.GetY()+5
	most, force := 60.0, v.Expected[len(v.Expected)-1].PedalForceN
	for _, e := range v.Expected {
		most = math.Max(most, e.HighMM)
	}
	at := func(f, mm float64) (float64, float64) { return x0 + f/force*(width-20), y0 + mm/most*h }
	var band []fpdf.PointType
	for _, e := range v.Expected {
		x, y := at(e.PedalForceN, e.HighMM)
		band = append(band, fpdf.PointType{X: x, Y: y})
	}
	for _, e := range slices.Backward(v.Expected) {
		x, y := at(e.PedalForceN, e.LowMM)
		band = append(band, fpdf.PointType{X: x, Y: y})
	}
	p.SetFillColor(226, 232, 228)
	p.Polygon(band, "F")
	p.SetDrawColor(30, 58, 70)
	for i := 1; i < len(v.Expected); i++ {
		xa, ya := at(v.Expected[i-1].PedalForceN, v.Expected[i-1].TravelMM)
		xb, yb := at(v.Expected[i].PedalForceN, v.Expected[i].TravelMM)
		p.Line(xa, ya, xb, yb)
	}
	p.Line(x0, y0, x0+width-20, y0)
	p.Line(x0, y0, x0, y0+h)
	p.SetFont("B", "", 8)
	across, down := p.axes()
	for i := 0; float64(i)*across.core <= force; i++ {
		x, _ := at(float64(i)*across.core, 0)
		p.Line(x, y0-1, x, y0)
		p.Text(x-2, y0-2, p.w.Number(float64(i)*across.told))
	}
	for i := 1; float64(i)*down.core <= most; i++ {
		_, y := at(0, float64(i)*down.core)
		p.Line(x0-1, y, x0, y)
		p.Text(x0-9, y+1, p.w.Number(float64(i)*down.told))
	}
	p.Text(x0+width-52, y0+4, p.w.T("ui.force", nil)+", "+across.unit)
	p.Text(x0+2, y0+h, p.w.T("ui.travel", nil)+", "+down.unit)
	var read []diagnose.Reading
	if f, ok := p.st.Findings[job.PhaseVerify]["pedal.readings"]; ok && json.Unmarshal(f.Value, &read) == nil {
		for _, r := range read {
			x, y := at(r.PedalForceN, r.TravelMM)
			p.Line(x-1.4, y-1.4, x+1.4, y+1.4)
			p.Line(x-1.4, y+1.4, x+1.4, y-1.4)
		}
	}
	p.SetY(y0 + h + 3)
}
