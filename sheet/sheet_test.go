package sheet

import (
	"bytes"
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/diagnose"
	"geminate/brake/job"
	"geminate/brake/match"
	"geminate/brake/system"
	"geminate/words"
)

var mara = job.Actor{ID: "m", Name: "Mara", Role: job.Technician}

func sample(t *testing.T) *job.Book {
	t.Helper()
	s, err := system.FromPattern("pickup-front-rear-vacuum")
	require.NoError(t, err)
	at := time.Date(2026, 11, 24, 9, 0, 0, 0, time.UTC)
	bore := 26.9875
	c := job.DefaultChoices(s)
	c.Unit = &match.Unit{ID: "u", Maker: "Valkenried", Number: "VK 1063", Condition: "new", BoreMM: &bore}
	j, err := job.OpenBook(mara, at, job.Opening{ID: "a", EventID: "open", Choices: &c,
		Intake: job.Intake{
			Vehicle:    "Corrigan",
			Plate:      "8TK",
			Customer:   "Müller & Söhne",
			DistanceKM: 1000,
			Pattern:    "pickup-front-rear-vacuum",
			System:     s,
		}})
	require.NoError(t, err)
	add := func(kind job.Kind, body any) {
		require.NoError(t, j.Tell(mara, at, fmt.Sprint("e", len(j.Events)), kind, body))
	}
	add(job.KindFinding, job.FindingMade{Phase: job.PhaseDiagnose, Finding: "pedal.sinks", Value: json.RawMessage(`"slow"`)})
	add(
		job.KindFinding,
		job.FindingMade{
			Phase:   job.PhaseDiagnose,
			Finding: "pedal.sink",
			Value:   json.RawMessage(`{"pedal_force_n":200,"travel_mm":12,"seconds":20,"engine":"off"}`),
		},
	)
	add(
		job.KindFinding,
		job.FindingMade{
			Phase:   job.PhaseVerify,
			Finding: "pedal.readings",
			Value:   json.RawMessage(`[{"pedal_force_n":200,"travel_mm":39}]`),
		},
	)
	add(job.KindNote, job.Noted{Text: "Owner told about the tyres"})
	return j
}

// text reads a PDF back with Debian's pdftotext where it is there; else only that it is a PDF.
func text(t *testing.T, data []byte) string {
	t.Helper()
	require.True(t, bytes.HasPrefix(data, []byte("%PDF-")))
	bin, err := exec.LookPath("pdftotext")
	require.NoError(t, err, "install it with: apt-get install poppler-utils")
	file := filepath.Join(t.TempDir(), "s.pdf")
	require.NoError(t, os.WriteFile(file, data, 0o600))
	out, err := exec.Command(bin, "-layout", file, "-").Output()
	require.NoError(t, err)
	return strings.Join(strings.Fields(string(out)), " ")
}

func TestSheetSaysWhatWasReadAndWhatIsMissing(t *testing.T) {
	j := sample(t)
	data, err := PDF(t.Context(), j.Job, "both", time.Date(2026, 11, 24, 10, 0, 0, 0, time.UTC))
	require.NoError(t, err)
	got := text(t, data)
	for _, want := range []string{"Brake job sheet", "Corrigan", "Müller & Söhne", "NOT RELEASED", "Pedal sinks under a steady foot slowly", "Primary cup leaking past inside", "Hold test speaks for it", "Action Replace the master cylinder", "Valkenried VK 1063", "27.0 mm (1.063 in)", "12.0 mm (0.472 in) / 20 s / 200 N (45 lbf)", "still missing", "Owner told about the tyres", "Printed 24 Nov 2026 10:00 UTC"} {
		assert.Contains(t, got, want)
	}
	assert.NotContains(t, got, "Next due", "a vehicle that is not released has no next service yet")
	at := j.CreatedAt
	j.State.ReleasedAt, j.State.ReleasedBy = &at, "Piet"
	data, err = PDF(t.Context(), j.Job, "metric", time.Date(2026, 11, 24, 10, 0, 0, 0, time.UTC))
	require.NoError(t, err)
	got = text(t, data)
	assert.Contains(t, got, "Released 24 Nov 2026 09:00 UTC by Piet")
	assert.Contains(t, got, "by 24 Nov 2028")
}

// A release that was taken back stays on every later sheet, and what a file claims is shown as a claim.
func TestReopeningsAndClaimsAreOnTheSheet(t *testing.T) {
	j := sample(t)
	at := j.CreatedAt
	j.State.ReleasedAt, j.State.ReleasedBy = &at, "Piet"
	_, err := j.Reopen(mara, at.Add(time.Hour), "re", "Pedal soft after the drive")
	require.NoError(t, err)
	j.State.History = &job.Claim{At: at, By: "Mara", ReleasedAt: &at, ReleasedBy: "Somebody"}
	data, err := PDF(t.Context(), j.Job, "metric", at)
	require.NoError(t, err)
	got := text(t, data)
	for _, want := range []string{"NOT RELEASED", "Pedal soft after the drive", "Reopened 24 Nov 2026 10:00", "by Mara", "The file says it was released", "by Somebody", "proves nothing here"} {
		assert.Contains(t, got, want)
	}
}

func TestEverySortOfValueIsWritten(t *testing.T) {
	plain := &page{pref: "metric", w: words.In("en")}
	for raw, want := range map[string]string{
		`"slow"`: "slowly", `1.5`: "1.50", `["behind_cylinder","wheel"]`: "behind the cylinder, at a wheel", `{"A":"low"}`: "A low",
	} {
		assert.Equal(t, want, plain.value(diagnose.Finding{ID: "x", Value: json.RawMessage(raw)}))
	}
	assert.Equal(t, "200 N: 39.0 mm",
		plain.value(diagnose.Finding{ID: "pedal.readings", Value: json.RawMessage(`[{"pedal_force_n":200,"travel_mm":39}]`)}))
}

func TestTrailerAndBoosterJobsPrint(t *testing.T) {
	for pattern, scope := range map[string]match.Scope{"trailer-surge": match.CylinderOnly, "car-front-rear-vacuum": match.BoosterAside} {
		s, _ := system.FromPattern(pattern)
		c := job.DefaultChoices(s)
		c.Scope = scope
		j, _, err := job.Open(mara, time.Now(),
			job.Opening{ID: "j", EventID: "o", Choices: &c, Intake: job.Intake{Vehicle: "V", Pattern: pattern, System: s}})
		require.NoError(t, err)
		data, err := PDF(t.Context(), j, "us", time.Now())
		require.NoError(t, err)
		if scope == match.BoosterAside {
			assert.Contains(t, text(t, data), "Not bled: no hydraulics were opened")
		}
	}
}
