package sheet

import (
	"fmt"
	"strings"

	"github.com/go-pdf/fpdf"
)

// paper is a document that prints whatever somebody typed: a sign its fonts have no drawing for comes out as its code
// point, never as no paper at all.
type paper struct{ *fpdf.Fpdf }

// turns says whether a sign has no picture and turns the reading of what follows (Unicode's bidirectional controls, UAX
// #9): a name with one in it must not read as another on paper.
func turns(r rune) bool {
	return r == 0x061C || r == 0x200E || r == 0x200F || r >= 0x202A && r <= 0x202E || r >= 0x2066 && r <= 0x2069
}

// printable leaves out what turns the line and writes signs beyond the basic plane (most emoji), which the library
// refuses, as [U+1F600].
func printable(s string) string {
	const basic = 0xFFFF
	if !strings.ContainsFunc(s, func(r rune) bool { return r > basic || turns(r) }) {
		return s
	}
	var b strings.Builder
	for _, r := range s {
		if turns(r) {
			continue
		}
		if r > basic {
			fmt.Fprintf(&b, "[U+%04X]", r)
			continue
		}
		b.WriteRune(r)
	}
	return b.String()
}

// CellFormat is the library's, of what can be printed.
func (p paper) CellFormat(w, h float64, txt, border string, ln int, align string, fill bool, link int, linkStr string) {
	p.Fpdf.CellFormat(w, h, printable(txt), border, ln, align, fill, link, linkStr)
}

// MultiCell is the library's, of what can be printed.
func (p paper) MultiCell(w, h float64, txt, border, align string, fill bool) {
	p.Fpdf.MultiCell(w, h, printable(txt), border, align, fill)
}

// Text is the library's, of what can be printed.
func (p paper) Text(x, y float64, txt string) { p.Fpdf.Text(x, y, printable(txt)) }

// SetTitle is the library's, of what can be printed.
func (p paper) SetTitle(title string, isUTF8 bool) { p.Fpdf.SetTitle(printable(title), isUTF8) }

// SplitText is the library's, of what is printed.
func (p paper) SplitText(txt string, w float64) []string { return p.Fpdf.SplitText(printable(txt), w) }
