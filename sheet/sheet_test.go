package sheet

import (
	"bytes"
	"encoding/json"
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
)

func sample(t *testing.T) *job.Job {
	t.Helper()
	s, err := system.FromPattern("pickup-front-rear-vacuum")
	require.NoError(t, err)
	at := time.Date(2026, 11, 24, 9, 0, 0, 0, time.UTC)
	j := &job.Job{Format: job.Format, ID: "a", CreatedAt: at, Choices: job.DefaultChoices(s), Intake: job.Intake{Vehicle: "Corrigan 150", Plate: "8TK", Customer: "Müller & Söhne", DistanceKM: 1000, Pattern: "pickup-front-rear-vacuum", System: s}}
	bore := 26.9875
	j.Choices.Unit = &match.Unit{ID: "u", Maker: "Valkenried", Number: "VK 1063", Condition: "new", BoreMM: &bore}
	add := func(kind string, d job.Data) {
		j.Events = append(j.Events, job.Event{ID: string(rune('a' + len(j.Events))), Kind: kind, At: at, By: "Mara", Data: d})
	}
	add(job.KindFinding, job.Data{Phase: job.PhaseDiagnose, Finding: "pedal.sinks", Value: json.RawMessage(`"slow"`)})
	add(job.KindFinding, job.Data{Phase: job.PhaseDiagnose, Finding: "pedal.sink", Value: json.RawMessage(`{"pedal_force_n":200,"travel_mm":12,"seconds":20,"engine":"off"}`)})
	add(job.KindFinding, job.Data{Phase: job.PhaseVerify, Finding: "pedal.readings", Value: json.RawMessage(`[{"pedal_force_n":200,"travel_mm":39}]`)})
	add(job.KindNote, job.Data{Text: "Owner told about the tyres"})
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
	data, err := PDF(j, "both", time.Date(2026, 11, 24, 10, 0, 0, 0, time.UTC))
	require.NoError(t, err)
	got := text(t, data)
	for _, want := range []string{"Brake job sheet", "Corrigan 150", "Müller & Söhne", "NOT RELEASED", "Pedal sinks under a steady foot slowly", "Primary cup passing", "Hold test, measured speaks for it", "Action Replace the master cylinder", "Valkenried VK 1063", "27.0 mm (1.063 in)", "12.0 mm (0.472 in) / 20 s / 200 N (45 lbf)", "still missing", "Owner told about the tyres", "Printed 2026-11-24 10:00 UTC"} {
		assert.Contains(t, got, want)
	}
	assert.NotContains(t, got, "Next due", "a vehicle that is not released has no next service yet")
	j.Events = append(j.Events, job.Event{ID: "r", Kind: job.KindReleased, At: j.CreatedAt, By: "Piet"})
	data, err = PDF(j, "metric", time.Date(2026, 11, 24, 10, 0, 0, 0, time.UTC))
	require.NoError(t, err)
	got = text(t, data)
	assert.Contains(t, got, "Released 2026-11-24 09:00 UTC by Piet")
	assert.Contains(t, got, "by 2028-11-24")
}

func TestEverySortOfValueIsWritten(t *testing.T) {
	for raw, want := range map[string]string{
		`"slow"`: "slowly", `1.5`: "1.50", `["behind_cylinder","wheel"]`: "behind the cylinder, at a wheel", `{"A":"low"}`: "A low",
	} {
		assert.Equal(t, want, Value(diagnose.Finding{ID: "x", Value: json.RawMessage(raw)}, "metric"))
	}
	assert.Equal(t, "200 N: 39.0 mm", Value(diagnose.Finding{ID: "pedal.readings", Value: json.RawMessage(`[{"pedal_force_n":200,"travel_mm":39}]`)}, "metric"))
}

func TestTrailerAndBoosterJobsPrint(t *testing.T) {
	for pattern, scope := range map[string]match.Scope{"trailer-surge": match.CylinderOnly, "car-front-rear-vacuum": match.BoosterAside} {
		s, _ := system.FromPattern(pattern)
		j := &job.Job{Intake: job.Intake{Vehicle: "V", Pattern: pattern, System: s}, Choices: job.DefaultChoices(s)}
		j.Choices.Scope = scope
		data, err := PDF(j, "us", time.Now())
		require.NoError(t, err)
		if scope == match.BoosterAside {
			assert.Contains(t, text(t, data), "Not bled: no hydraulics were opened")
		}
	}
}
