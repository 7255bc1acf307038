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
		if i >= len(p.st.Photos) {
			continue
		}
		if column == 0 && top+photoHigh+14 > 275 {
			p.AddPage()
			top = margin
		}
		x := margin + float64(column)*(photoWide+photoGap)
		p.picture(fmt.Sprint("photo", i), raw, x, top)
		ph := p.st.Photos[i]
		what := ph.Note
		if p.w.Has("step." + ph.Step) {
			what = p.w.T("step."+ph.Step, nil) + ". " + what
		}
		for _, f := range p.st.PhotoFigures {
			if f.Photo == ph.ID {
				what += " " + p.w.Say("photo.figure", map[string]any{"value_mm": f.MM, "half_mm": f.HalfMM}, p.pref) + "."
			}
		}
		p.SetXY(x, top+photoHigh+1)
		p.SetFont("B", "", 8)
		p.MultiCell(photoWide, 3.6, what+" "+ph.By+", "+p.stamp(ph.At), "", "L", false)
		if column++; column == 2 {
			column, top = 0, top+photoHigh+16
		}
	}
}

// picture draws one into its place. One that is not to be had, or cannot be printed, is said to be missing: the sheet
// is printed all the same.
func (p *page) picture(name string, raw []byte, x, top float64) {
	opts := fpdf.ImageOptions{ImageType: "JPEG"}
	if len(raw) > 0 {
		info := p.RegisterImageOptionsReader(name, opts, bytes.NewReader(raw))
		if !p.Err() && info != nil && info.Width() > 0 {
			wide, high := photoWide, photoWide*info.Height()/info.Width()
			if high > photoHigh {
				wide, high = photoHigh*info.Width()/info.Height(), photoHigh
			}
			p.ImageOptions(name, x, top, wide, high, false, opts, 0, "")
			return
		}
		p.ClearError()
	}
	p.Rect(x, top, photoWide, photoHigh, "D")
	p.SetXY(x, top+photoHigh/2)
	p.SetFont("B", "", 8)
	p.MultiCell(photoWide, 3.6, p.w.T("sheet.photo_missing", nil), "", "C", false)
}
