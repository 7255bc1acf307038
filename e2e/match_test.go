package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// The catalogue in the browser: searched by a stamp, a bad file refused whole with its rows, a good one taken
// whole, a unit put on the shelf and met again at Match.
func TestCatalogueAndMatch(t *testing.T) {
	t.Parallel()
	a := start(t, t.TempDir(), freePort(t))
	p := open(t, a.url, 1280, 800)
	openPickupAs(p, "piet") // what only the lead may: costs, the catalogue
	p.click("back-to-bay")
	p.click("to-shelf")
	p.see("found")
	p.fill("q-bore", "1 1/16")
	p.fill("q-stud", "85")
	p.click("search")
	p.has("found", "nearest first")

	dir := t.TempDir()
	bad := filepath.Join(dir, "bad.csv")
	require.NoError(t, os.WriteFile(bad, []byte("id,bore,studs\nz1,15/16,2\nz2,banana,2\nz1,1,99\n"), 0o600))
	upload := func(path string) {
		p.do(chromedp.SetUploadFiles(id("catalogue-file"), []string{path}))
	}
	upload(bad)
	p.has("import-state", "was not taken, not a row of it")
	p.has("import-state", "line 3")
	p.has("import-state", "line 4")

	var b strings.Builder
	b.WriteString(
		"id,maker,number,condition,bore,stroke_mm,port_front_side,port_front_thread,port_front_seat,port_front_circuit,port_rear_side,port_rear_thread,port_rear_seat,port_rear_circuit,studs,stud_spacing_mm,pocket_mm,face_seal,sensor,variant,residual_mpa,reservoir,brakes,price\n",
	)
	for i := range 2500 {
		fmt.Fprintf(
			&b,
			"imp-%d,Marrowby,MB-%04d,new,1 1/16,38,left,3/8-24,inverted_flare,B,left,7/16-24,inverted_flare,A,2,%d,12.4,o_ring,two_pin,plain,0,included,disc_drum,99\n",
			i,
			i,
			85+i%7,
		)
	}
	good := filepath.Join(dir, "good.csv")
	require.NoError(t, os.WriteFile(good, []byte(b.String()), 0o600))
	upload(good)
	p.has("import-state", "2500 units from good.csv are in")
	p.fill("q-text", "MB-0000")
	p.click("search")
	p.click("shelf-imp-0")
	p.has("shelf-imp-0", "On the shelf")
	p.shot("shelf")

	// At Match it stands beside the shelf's own, with its pedal, and the trap is told apart.
	p.click("back-to-bay")
	openJob(p, "Corrigan")
	p.goTo("match")
	p.has("look-alike", "differ in one thing only")
	p.has("verdict-imp-0", "Fits")
	p.see("performance")
	p.has("bores", "volume ×")
	p.click("choose-imp-0")
	p.has("in-hand", "threads 3/8-24, 7/16-24")
	p.until(
		"an answer of the counter, or that it gave none",
		`(() => { const b = document.querySelector('[data-testid="counter-MB-0000"]'); if (!b) return false; const t = b.parentElement.innerText; if (/core|answer/.test(t)) return true; if (!b.disabled) b.click(); return false })()`,
	)
	// A booster job: the old one measured, the catalogue's nearest beside it.
	p.click("scope-change")
	p.click("scope-both")
	p.see("booster-firewall")
	p.fill("booster-firewall", "84")
	p.see("boosters")
	p.has("boosters", "Measure this on the old unit")
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-testid=measure-booster]').closest('section').scrollIntoView()`))
	p.shot("match-booster")
}
