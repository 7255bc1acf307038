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

// A release is printed with each item, what was read and by whom, and what the hold would have let pass; what is not
// released has no proof.
func TestAReleaseIsPrintedAsProof(t *testing.T) {
	now := time.Date(2026, 11, 25, 9, 0, 0, 0, time.UTC)
	raw, err := os.ReadFile("../brake/job/testdata/golden1/pickup-released.job.json")
	require.NoError(t, err)
	file, err := job.ReadFile(raw, now)
	require.NoError(t, err)
	j := job.Replay(file.ID, file.CreatedAt, file.Events)
	pdf, err := Proof(j, "metric", now)
	require.NoError(t, err)
	path := filepath.Join(t.TempDir(), "proof.pdf")
	require.NoError(t, os.WriteFile(path, pdf, 0o600))
	text, err := exec.Command("pdftotext", "-layout", path, "-").Output()
	require.NoError(t, err)
	for _, want := range []string{"Release of a brake job", "Released by", "leak that would just pass", "cm³", "Every joint dry", j.State.ReleasedBy} {
		assert.Contains(t, string(text), want)
	}
	s, err := system.FromPattern("trailer-surge")
	require.NoError(t, err)
	b, err := job.OpenBook(job.Actor{ID: "u", Name: "Mara", Role: job.Technician}, now,
		job.Opening{ID: "j", EventID: "o", Intake: job.Intake{Vehicle: "T", System: s}})
	require.NoError(t, err)
	_, err = Proof(b.Job, "metric", now)
	assert.ErrorIs(t, err, job.ErrNotReleased)
}

// What was entered after the release of what lay before it stands on the release and on the record.
func TestWhatWasToldAfterTheReleaseIsPrinted(t *testing.T) {
	now := time.Date(2026, 11, 25, 9, 0, 0, 0, time.UTC)
	raw, err := os.ReadFile("../brake/job/testdata/golden1/pickup-released.job.json")
	require.NoError(t, err)
	file, err := job.ReadFile(raw, now)
	require.NoError(t, err)
	j := job.Replay(file.ID, file.CreatedAt, file.Events)
	j.State.Afterwards = []job.Afterwards{{Kind: job.KindTick, Step: "strip.lines_off", By: "Osmund", At: now, ToldAt: now}}
	j.State.CalledBack = []string{"check.dry_joints"}
	for name, print := range map[string]func() ([]byte, error){
		"proof":  func() ([]byte, error) { return Proof(j, "metric", now) },
		"record": func() ([]byte, error) { return PDF(t.Context(), j, "metric", now) },
	} {
		pdf, err := print()
		require.NoError(t, err, name)
		got := text(t, pdf)
		assert.Contains(t, got, "Entered after the release", name)
		assert.Contains(t, got, "Osmund", name)
		assert.Contains(t, got, "Call it back", name)
	}
}
