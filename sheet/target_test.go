package sheet

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/job"
)

// The target is one page of either paper, in either language, and its marks and bar are where they are said to be:
// drawn at a hundred dots an inch, four black squares whose inner corners are 160 by 100 mm apart.
func TestTheTarget(t *testing.T) {
	for _, size := range job.Papers {
		for _, lang := range []string{"en", "es"} {
			pdf, err := Target(lang, size)
			require.NoError(t, err)
			file := filepath.Join(t.TempDir(), "target.pdf")
			require.NoError(t, os.WriteFile(file, pdf, 0o600))
			text, err := exec.Command("pdftotext", "-layout", file, "-").Output()
			require.NoError(t, err)
			assert.Contains(t, string(text), "150 mm")
			out := filepath.Join(t.TempDir(), "t")
			require.NoError(t, exec.Command("pdftoppm", "-gray", "-r", "254", "-singlefile", file, out).Run()) // a tenth of a millimetre
			raw, err := os.ReadFile(out + ".pgm")
			require.NoError(t, err)
			var wide, high, most int
			_, err = fmt.Sscanf(string(raw[:40]), "P5\n%d %d\n%d", &wide, &high, &most)
			require.NoError(t, err)
			px := raw[len(raw)-wide*high:]
			black := func(x, y int) bool { return px[y*wide+x] < 128 }
			left, top := (wide-1600)/2, (high-1000)/2
			for _, c := range [][2]int{{0, 0}, {1, 0}, {1, 1}, {0, 1}} {
				x, y := left+1600*c[0], top+1000*c[1]
				dx, dy := 2*c[0]-1, 2*c[1]-1 // outward
				assert.True(t, black(x+4*dx, y+4*dy), "%s corner %v", size, c)
				assert.False(t, black(x-4*dx, y+4*dy) || black(x+4*dx, y-4*dy) || black(x-4*dx, y-4*dy),
					"%s corner %v: to a tenth", size, c)
			}
		}
	}
}
