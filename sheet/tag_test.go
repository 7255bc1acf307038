package sheet

import (
	"os"
	"os/exec"
	"path/filepath"
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
	b, err := job.OpenBook(mara, now, job.Opening{ID: "j", EventID: "o", Intake: job.Intake{Complaint: "sinks", Vehicle: "Grau 7", Plate: "XX 1", System: s, Hands: 1}})
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
	for _, want := range []string{"NOT TO BE DRIVEN", "Grau 7", "XX 1", "not bled yet", "Monday", "It waits for", "Parked by Mara"} {
		assert.Contains(t, string(text), want)
	}
}
