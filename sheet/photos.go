package sheet

import (
	"bytes"
	"fmt"

	"github.com/go-pdf/fpdf"
)

// Photos stand two in a row on pages of their own, each with its step, its word, who took it and when.
const (
	photoWide = 84.0
	photoHigh = 63.0
	photoGap  = 10.0
)

func (p *page) photos(pictures [][]byte) {
	if len(pictures) == 0 {
		return
	}
	p.AddPage()
	p.section("sheet.photos")
	top := p.GetY() + 2
	column := 0
	for i, raw := range pictures {
		if i >= len(p.st.Photos) || len(raw) == 0 {
			continue
		}
		if column == 0 && top+photoHigh+14 > 275 {
			p.AddPage()
			top = margin
		}
		name := fmt.Sprint("photo", i)
		opts := fpdf.ImageOptions{ImageType: "JPEG"}
		info := p.RegisterImageOptionsReader(name, opts, bytes.NewReader(raw))
		if p.Err() || info == nil || info.Width() <= 0 {
			p.ClearError() // a picture that cannot be printed is left out, the sheet is not
			continue
		}
		wide, high := photoWide, photoWide*info.Height()/info.Width()
		if high > photoHigh {
			wide, high = photoHigh*info.Width()/info.Height(), photoHigh
		}
		x := margin + float64(column)*(photoWide+photoGap)
		p.ImageOptions(name, x, top, wide, high, false, opts, 0, "")
		ph := p.st.Photos[i]
		what := ph.Note
		if p.w.Has("step." + ph.Step) {
			what = p.w.T("step."+ph.Step, nil) + ". " + what
		}
		p.SetXY(x, top+photoHigh+1)
		p.SetFont("B", "", 8)
		p.MultiCell(photoWide, 3.6, what+" "+ph.By+", "+p.stamp(ph.At), "", "L", false)
		if column++; column == 2 {
			column, top = 0, top+photoHigh+16
		}
	}
}
