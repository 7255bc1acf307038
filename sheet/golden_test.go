package sheet

import (
	"image"
	"image/color"
	"image/png"
	"os"
	"os/exec"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/job"
)

// How far a picture of a page may be from the kept one: another version of the reader draws the edge of a letter a
// little otherwise; a line that moved or is gone is far more. Mean grey of 255, and the share of points more than a
// quarter off.
const (
	pictureMean  = 1.5
	pictureShare = 0.01
)

// Every paper as it was last read through by eye, by its text and by the picture of its first page. After a change on
// purpose: GEMINATE_GOLDEN=write go test ./sheet -run Golden, then look at the pictures and read the difference.
func TestGoldenPapers(t *testing.T) {
	now := time.Date(2026, 11, 25, 9, 0, 0, 0, time.UTC)
	raw, err := os.ReadFile("../brake/job/testdata/golden1/pickup-released.job.json")
	require.NoError(t, err)
	file, err := job.ReadFile(raw, now)
	require.NoError(t, err)
	released := func() *job.Job { return job.Replay(file.ID, file.CreatedAt, file.Events) }
	spanish := sample(t).Job
	set := job.DefaultSettings()
	set.Language, set.Paper, set.Name = "es", "letter", "Frenos Stonefold"
	spanish.Dress(job.Dress{Settings: &set})
	parked := sample(t)
	require.NoError(t, parked.Tell(mara, now, "p", job.KindParked, job.Parked{Why: []job.ParkReason{job.ParkBleedPutOff}, Note: "Monday"}))
	bottle := released()
	bottle.Choices.Bottle = job.Bottle{Class: "DOT 4", OpenedAt: "2026-11-20"}
	papers := map[string]func() ([]byte, error){
		"sheet-open":     func() ([]byte, error) { return PDF(t.Context(), sample(t).Job, "both", now) },
		"sheet-released": func() ([]byte, error) { return PDF(t.Context(), released(), "us", now) },
		"sheet-spanish":  func() ([]byte, error) { return PDF(t.Context(), spanish, "metric", now) },
		"proof":          func() ([]byte, error) { return Proof(released(), "metric", now) },
		"customer":       func() ([]byte, error) { return Customer(t.Context(), released(), "metric", now) },
		"customer-open":  func() ([]byte, error) { return Customer(t.Context(), sample(t).Job, "us", now) },
		"warranty":       func() ([]byte, error) { return Warranty(t.Context(), released(), "metric", now) },
		"labels":         func() ([]byte, error) { return Labels(bottle, "metric", "https://shop/jobs/j", now) },
		"tag":            func() ([]byte, error) { return Tag(parked.Job, "https://shop/jobs/j", now) },
	}
	write := os.Getenv("GEMINATE_GOLDEN") == "write"
	for name, print := range papers {
		t.Run(name, func(t *testing.T) {
			data, err := print()
			require.NoError(t, err)
			words, picture := text(t, data), pictureOf(t, data)
			wordsFile, pictureFile := filepath.Join("testdata", name+".txt"), filepath.Join("testdata", name+".png")
			if write {
				require.NoError(t, os.WriteFile(wordsFile, []byte(words+"\n"), 0o644))
				out, err := os.Create(pictureFile)
				require.NoError(t, err)
				require.NoError(t, png.Encode(out, picture))
				require.NoError(t, out.Close())
				return
			}
			want, err := os.ReadFile(wordsFile)
			require.NoError(t, err)
			assert.Equal(t, string(want), words+"\n")
			in, err := os.Open(pictureFile)
			require.NoError(t, err)
			defer func() { _ = in.Close() }()
			kept, err := png.Decode(in)
			require.NoError(t, err)
			mean, share := apart(t, kept, picture)
			assert.LessOrEqual(t, mean, pictureMean)
			assert.LessOrEqual(t, share, pictureShare)
		})
	}
}

// A page with one line more is told from the one without: the comparison can fail.
func TestAMovedLineIsSeen(t *testing.T) {
	j := sample(t)
	now := time.Date(2026, 11, 25, 9, 0, 0, 0, time.UTC)
	one, err := PDF(t.Context(), j.Job, "both", now)
	require.NoError(t, err)
	j.Intake.Customer += "\nsecond line\nthird line"
	two, err := PDF(t.Context(), j.Job, "both", now)
	require.NoError(t, err)
	mean, share := apart(t, pictureOf(t, one), pictureOf(t, two))
	assert.True(t, mean > pictureMean || share > pictureShare, "%v %v", mean, share)
}

// pictureOf draws the first page small and grey.
func pictureOf(t *testing.T, data []byte) image.Image {
	t.Helper()
	bin, err := exec.LookPath("pdftoppm")
	require.NoError(t, err, "install it with: apt-get install poppler-utils")
	dir := t.TempDir()
	file := filepath.Join(dir, "s.pdf")
	require.NoError(t, os.WriteFile(file, data, 0o600))
	require.NoError(t,
		exec.Command(bin, "-r", "50", "-gray", "-png", "-f", "1", "-l", "1", "-singlefile", file, filepath.Join(dir, "page")).Run())
	in, err := os.Open(filepath.Join(dir, "page.png"))
	require.NoError(t, err)
	defer func() { _ = in.Close() }()
	p, err := png.Decode(in)
	require.NoError(t, err)
	return p
}

func apart(t *testing.T, a, b image.Image) (mean, share float64) {
	t.Helper()
	require.Equal(t, a.Bounds(), b.Bounds())
	n := 0.0
	for y := a.Bounds().Min.Y; y < a.Bounds().Max.Y; y++ {
		for x := a.Bounds().Min.X; x < a.Bounds().Max.X; x++ {
			d := float64(color.GrayModel.Convert(a.At(x, y)).(color.Gray).Y) - float64(color.GrayModel.Convert(b.At(x, y)).(color.Gray).Y)
			if d < 0 {
				d = -d
			}
			mean += d
			if d > 64 {
				share++
			}
			n++
		}
	}
	return mean / n, share / n
}

// BenchmarkSheet prints a released job's sheet.
func BenchmarkSheet(b *testing.B) {
	now := time.Date(2026, 11, 25, 9, 0, 0, 0, time.UTC)
	raw, err := os.ReadFile("../brake/job/testdata/golden1/pickup-released.job.json")
	require.NoError(b, err)
	file, err := job.ReadFile(raw, now)
	require.NoError(b, err)
	j := job.Replay(file.ID, file.CreatedAt, file.Events)
	for b.Loop() {
		if _, err := PDF(b.Context(), j, "us", now); err != nil {
			b.Fatal(err)
		}
	}
}
