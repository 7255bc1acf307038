package sheet

import (
	"bytes"
	"fmt"
	"image/png"
	"slices"
	"time"

	"github.com/go-pdf/fpdf"

	"geminate/brake/job"
	"geminate/brake/verify"
	"geminate/trust"
	"geminate/words"
)

// A tag is A5, lying: it is hung on a wheel or a mirror.
const (
	tagWidth  = 210.0
	tagMargin = 12.0
	tagCode   = 38.0
)

// Tag prints the tag of a vehicle that is not to be driven: why, what it waits for, and the way back to the job at at.
func Tag(j *job.Job, at string, now time.Time) ([]byte, error) {
	if j.State.Parked == nil {
		return nil, job.ErrNotParked
	}
	w := paperOf(j)
	p := paper{fpdf.New("L", "mm", "A5", "")}
	p.AddUTF8FontFromBytes("B", "", regular)
	p.AddUTF8FontFromBytes("B", "B", bold)
	p.SetMargins(tagMargin, tagMargin, tagMargin)
	p.SetAutoPageBreak(false, 0)
	p.SetCreator("Geminate", true)
	p.AddPage()
	p.SetLineWidth(3)
	p.Rect(5, 5, tagWidth-10, 138, "D")
	write := func(style string, size, high float64, text string) {
		p.SetFont("B", style, size)
		p.MultiCell(tagWidth-2*tagMargin, high, text, "", "L", false)
	}
	write("B", 40, 17, w.T("tag.not_driven", nil))
	write("B", 22, 10, j.Intake.Vehicle+"  "+j.Intake.Plate)
	p.Ln(2)
	for _, why := range j.State.Parked.Why {
		write("", 17, 8, w.T("park."+string(why), nil))
	}
	if j.State.Parked.Note != "" {
		write("", 17, 8, j.State.Parked.Note)
	}
	waits, err := waitsFor(j, w)
	if err != nil {
		return nil, err
	}
	if len(waits) > 0 {
		p.Ln(2)
		write("B", 13, 6, w.T("tag.waits", nil))
		for _, what := range waits[:min(len(waits), 6)] {
			write("", 12, 5.5, "– "+what)
		}
	}
	if err := code(p.Fpdf, at, tagWidth-tagMargin-tagCode, 98, tagCode); err != nil {
		return nil, err
	}
	p.SetXY(tagMargin, 132)
	p.SetFont("B", "", 10)
	p.CellFormat(
		120,
		5,
		w.T(
			"tag.by",
			map[string]any{
				"by":      j.State.Parked.By,
				"at":      w.Moment(j.State.Parked.At.In(zoneOf(j))),
				"printed": w.Moment(now.In(zoneOf(j))),
			},
		),
		"",
		0,
		"L",
		false,
		0,
		"",
	)
	return written(p.Fpdf, "tag")
}

// waitsFor names what keeps the vehicle: the gate's open items, as they are called.
func waitsFor(j *job.Job, w *words.Book) ([]string, error) {
	g, err := j.Gate()
	if err != nil {
		return nil, err
	}
	var out []string
	for _, i := range g.Items {
		if name := w.T("finding."+i.ID, nil); i.State != verify.OK && !slices.Contains(out, name) {
			out = append(out, name)
		}
	}
	return out, nil
}

// code draws the way back to at as a square of a size.
func code(p *fpdf.Fpdf, at string, x, y, size float64) error {
	m, err := trust.Code(at)
	if err != nil {
		return err
	}
	var b bytes.Buffer
	if err := png.Encode(&b, m); err != nil {
		return fmt.Errorf("sheet: %w", err)
	}
	p.RegisterImageOptionsReader("way", fpdf.ImageOptions{ImageType: "PNG"}, &b)
	p.ImageOptions("way", x, y, size, size, false, fpdf.ImageOptions{ImageType: "PNG"}, 0, "")
	return p.Error()
}
