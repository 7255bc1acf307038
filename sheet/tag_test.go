package sheet

import (
	"bytes"
	"fmt"
	"image"
	"image/jpeg"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/job"
	"geminate/brake/system"
)

func TestTheTagSaysWhyAndWhatItWaitsFor(t *testing.T) {
	now := time.Date(2026, 11, 25, 9, 0, 0, 0, time.UTC)
	mara := job.Actor{ID: "u", Name: "Mara", Role: job.Technician}
	s, err := system.FromPattern("pickup-front-rear-vacuum")
	require.NoError(t, err)
	b, err := job.OpenBook(mara, now,
		job.Opening{ID: "j", EventID: "o", Intake: job.Intake{Complaint: "sinks", Vehicle: "Grau 7", Plate: "XX 1", System: s, Hands: 1}})
	require.NoError(t, err)
	_, err = Tag(b.Job, "https://shop/jobs/j", now)
	require.ErrorIs(t, err, job.ErrNotParked)
	require.NoError(t, b.Tell(mara, now, "p", job.KindParked, job.Parked{Why: []job.ParkReason{job.ParkBleedPutOff}, Note: "Monday"}))
	pdf, err := Tag(b.Job, "https://shop/jobs/j", now)
	require.NoError(t, err)
	file := filepath.Join(t.TempDir(), "tag.pdf")
	require.NoError(t, os.WriteFile(file, pdf, 0o600))
	text, err := exec.Command("pdftotext", "-layout", file, "-").Output()
	require.NoError(t, err)
	for _, want := range []string{"NOT TO BE DRIVEN", "Grau 7", "XX 1", "not bled yet", "Monday", "Still to do", "Parked by Mara"} {
		assert.Contains(t, string(text), want)
	}
}

func TestPhotosStandOnPagesOfTheirOwn(t *testing.T) {
	now := time.Date(2026, 11, 25, 9, 0, 0, 0, time.UTC)
	mara := job.Actor{ID: "u", Name: "Mara", Role: job.Technician}
	s, err := system.FromPattern("pickup-front-rear-vacuum")
	require.NoError(t, err)
	b, err := job.OpenBook(mara, now,
		job.Opening{ID: "j", EventID: "o", Intake: job.Intake{Complaint: "sinks", Vehicle: "Grau 7", System: s, Hands: 1}})
	require.NoError(t, err)
	var pic bytes.Buffer
	require.NoError(t, jpeg.Encode(&pic, image.NewGray(image.Rect(0, 0, 80, 60)), nil))
	for i := range 5 {
		require.NoError(
			t,
			b.Tell(mara, now, fmt.Sprint("p", i), job.KindPhoto,
				job.Photographed{Step: "strip.lines_off", Note: fmt.Sprint("line ", i), JPEG: pic.Bytes()}),
		)
	}
	pdf, err := PDF(t.Context(), b.Job, "metric", now, pic.Bytes(), pic.Bytes(), []byte("no picture"), nil, pic.Bytes())
	require.NoError(t, err)
	file := filepath.Join(t.TempDir(), "sheet.pdf")
	require.NoError(t, os.WriteFile(file, pdf, 0o600))
	text, err := exec.Command("pdftotext", "-layout", file, "-").Output()
	require.NoError(t, err)
	assert.Contains(t, string(text), "Photos")
	assert.Contains(t, string(text), "line 4")
	assert.Contains(t, string(text), "line 2", "what it is of is told all the same")
	assert.Equal(t, 2, strings.Count(string(text), "not to be had"),
		"what cannot be printed and what is lost is said to be missing, and the sheet is printed")
}
