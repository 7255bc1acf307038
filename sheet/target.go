package sheet

import (
	"bytes"
	"fmt"

	"github.com/go-pdf/fpdf"

	"geminate/brake/job"
	"geminate/brake/photo"
	"geminate/words"
)

// The target's page: A4 or Letter lying, its marks in the middle.
const (
	markArmMM = 9.0
	barTickMM = 4.0
)

// Target prints what is laid beside a thing that is measured on a photo: four marks at the corners of a rectangle,
// whose inner corners count, and a bar to be measured once with a rule, since printers shrink. paper is a4 or letter.
func Target(language, size string) ([]byte, error) {
	w := words.In(language)
	if size != job.PaperLetter {
		size = job.PaperA4
	}
	p := paper{fpdf.New("L", "mm", size, "")}
	p.AddUTF8FontFromBytes("B", "", regular)
	p.AddUTF8FontFromBytes("B", "B", bold)
	p.SetAutoPageBreak(false, 0)
	p.SetCreator("Geminate", true)
	p.AddPage()
	wide, high := p.GetPageSize()
	x, y := (wide-photo.TargetLongMM)/2, (high-photo.TargetShortMM)/2
	p.SetFillColor(0, 0, 0)
	for _, c := range [][2]float64{{0, 0}, {1, 0}, {1, 1}, {0, 1}} {
		// A filled square outside each corner: its inner corner is the mark.
		p.Rect(x+c[0]*photo.TargetLongMM-(1-c[0])*markArmMM, y+c[1]*photo.TargetShortMM-(1-c[1])*markArmMM, markArmMM, markArmMM, "F")
	}
	bar, from := y+photo.TargetShortMM+2*markArmMM, (wide-photo.TargetBarMM)/2
	p.SetLineWidth(0.2)
	p.Line(from, bar, from+photo.TargetBarMM, bar)
	for _, at := range []float64{from, from + photo.TargetBarMM} {
		p.Line(at, bar-barTickMM/2, at, bar+barTickMM/2)
	}
	p.SetXY(from, bar+barTickMM/2+1)
	p.SetFont("B", "", 11)
	p.MultiCell(photo.TargetBarMM, 5,
		w.T("photo.target_note", map[string]any{"bar_mm": fmt.Sprintf("%.0f\u00a0mm", photo.TargetBarMM)}), "", "C", false)
	p.SetXY(from, y-2*markArmMM-8)
	p.SetFont("B", "B", 14)
	p.CellFormat(photo.TargetBarMM, 6, w.T("photo.target_title", nil), "", 0, "C", false, 0, "")
	var b bytes.Buffer
	if err := p.Output(&b); err != nil {
		return nil, fmt.Errorf("sheet: target: %w", err)
	}
	return b.Bytes(), nil
}
