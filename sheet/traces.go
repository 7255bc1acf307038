package sheet

import (
	"math"

	"github.com/go-pdf/fpdf"

	"geminate/brake/trace"
)

// traces are what instruments drew, each with what it came to: lowest and highest of each stretch as a band, the mean
// as a line.
func (p *page) traces() {
	if len(p.j.State.Traces) == 0 {
		return
	}
	p.section("sheet.traces")
	const high, wide = 16.0, 110.0
	for _, t := range p.j.State.Traces {
		said := p.w.T("finding."+t.Finding, nil)
		if s := t.Slope; s != nil {
			key := "sheet.slope"
			if t.Finding == trace.FindFall {
				key = "sheet.slope_kpa"
			}
			said += ": " + p.w.T(
				key,
				map[string]any{
					"rate": p.w.Number(per(60 * s.PerS)),
					"low":  p.w.Number(per(60 * s.Low)),
					"high": p.w.Number(per(60 * s.High)),
					"n":    s.Readings,
				},
			)
		}
		for _, c := range t.Channels {
			of := p.w.T("instrument."+string(c.Of.Kind), nil) + ", " + c.Of.Name
			if c.Of.OutOfDate(t.At) {
				of += ", " + p.w.T("instrument.out_of_date", nil)
			}
			p.line(of, said)
			if _, paper := p.GetPageSize(); p.GetY()+high+4 > paper-20 {
				p.AddPage()
			}
			p.trace(c.Buckets, margin+54, p.GetY()+1, wide, high)
			p.SetY(p.GetY() + high + 3)
			said = ""
		}
	}
}

func per(x float64) float64 { return math.Round(1000*x) / 1000 }

func (p *page) trace(b []trace.Bucket, x0, y0, wide, high float64) {
	if len(b) < 2 {
		return
	}
	low, top := math.Inf(1), math.Inf(-1)
	for _, k := range b {
		low, top = math.Min(low, k.Min), math.Max(top, k.Max)
	}
	span := math.Max(1e-9, top-low)
	from, to := b[0].S, b[len(b)-1].S
	at := func(s, v float64) fpdf.PointType {
		return fpdf.PointType{X: x0 + wide*(s-from)/math.Max(1e-9, to-from), Y: y0 + high*(top-v)/span}
	}
	var band []fpdf.PointType
	for _, k := range b {
		band = append(band, at(k.S, k.Max))
	}
	for i := len(b) - 1; i >= 0; i-- {
		band = append(band, at(b[i].S, b[i].Min))
	}
	p.SetFillColor(226, 232, 228)
	p.Polygon(band, "F")
	p.SetDrawColor(30, 58, 70)
	for i := 1; i < len(b); i++ {
		m, n := at(b[i-1].S, b[i-1].Mean), at(b[i].S, b[i].Mean)
		p.Line(m.X, m.Y, n.X, n.Y)
	}
	p.SetFont("B", "", 7)
	p.Text(x0+wide+2, y0+3, p.w.Number(per(top)))
	p.Text(x0+wide+2, y0+high, p.w.Number(per(low)))
}
