package sheet

import (
	"bytes"
	"fmt"
	"time"

	"github.com/go-pdf/fpdf"

	"geminate/brake/job"
	"geminate/ground/practice"
	"geminate/words"
)

// Certificate prints that somebody worked an exercise, what it came to and by which rule; and that it licenses nobody.
func Certificate(r *practice.Result, who string, at time.Time, set job.Settings) ([]byte, error) {
	w := words.In(set.Language)
	p := paper{fpdf.New("P", "mm", "A4", "")}
	p.AddUTF8FontFromBytes("B", "", regular)
	p.AddUTF8FontFromBytes("B", "B", bold)
	p.SetMargins(24, 28, 24)
	p.SetCreator("Geminate", true)
	p.AddPage()
	write := func(style string, size, high float64, text string) {
		p.SetFont("B", style, size)
		p.MultiCell(0, high, text, "", "L", false)
	}
	if zone, err := time.LoadLocation(set.Zone); err == nil {
		at = at.In(zone)
	}
	write("B", 26, 12, w.T("certificate.title", nil))
	write("", 12, 7, set.Name)
	p.Ln(6)
	write("B", 20, 10, who)
	write(
		"",
		13,
		7,
		w.T(
			"certificate.worked",
			map[string]any{
				"exercise": w.T("exercise."+string(r.Exercise), nil),
				"vehicle":  w.T("pattern."+r.Pattern, nil),
				"day":      at.Format("2006-01-02"),
			},
		),
	)
	p.Ln(4)
	verdict := "practice.not_right"
	switch {
	case r.Stopped != "":
		verdict = "practice.was_stopped"
	case r.Right:
		verdict = "practice.right"
	}
	write("B", 15, 8, w.T(verdict, nil)+" · "+w.T("marks.of", map[string]any{"n": r.Total}))
	for _, m := range r.Marks {
		write("", 12, 7, fmt.Sprintf("%.0f / %.0f  %s", m.Got, m.Of, w.T("marks."+string(m.ID), nil)))
	}
	write("", 12, 7, w.T("certificate.minutes", map[string]any{"mine": r.Yours.Minutes, "own": r.Engine.Minutes}))
	p.Ln(10)
	write("B", 12, 7, w.T("certificate.licenses_nobody", nil))
	var out bytes.Buffer
	if err := p.Output(&out); err != nil {
		return nil, fmt.Errorf("sheet: certificate: %w", err)
	}
	return out.Bytes(), nil
}
