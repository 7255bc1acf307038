package job

import (
	"encoding/json"
	"os"
	"testing"
	"time"
)

func goldenJob(b *testing.B, name string) *Job {
	b.Helper()
	raw, err := os.ReadFile(goldenDir + "/" + name + ".job.json")
	if err != nil {
		b.Fatal(err)
	}
	f, err := ReadFile(raw, time.Date(2026, 11, 25, 0, 0, 0, 0, time.UTC))
	if err != nil {
		b.Fatal(err)
	}
	return Replay(f.ID, f.CreatedAt, f.Events)
}

// The status of a job with all its readings in: asked at every tap.
func BenchmarkStatusAllReadingsIn(b *testing.B) {
	j := goldenJob(b, "pickup-reopened")
	b.ResetTimer()
	for b.Loop() {
		j.Status()
	}
}

// What a request does between the database's answers: the kept view read, a stroke told, the view written.
func BenchmarkStrokeOnKeptView(b *testing.B) {
	kept, err := json.Marshal(goldenJob(b, "pickup-reopened").View())
	if err != nil {
		b.Fatal(err)
	}
	now := time.Date(2026, 11, 25, 0, 0, 0, 0, time.UTC)
	for b.Loop() {
		j, err := ReadView(kept)
		if err != nil {
			b.Fatal(err)
		}
		if _, err := j.Append(&Book{}, mara, now,
			[]In{{ID: "s", Kind: KindBleedStroke, At: now, Data: []byte(`{"wheel":"RR"}`)}}); err != nil {
			b.Fatal(err)
		}
		if _, err := json.Marshal(j.View()); err != nil {
			b.Fatal(err)
		}
	}
}

// The pedal fit, which is done when readings change and not at every tap.
func BenchmarkAirLeft(b *testing.B) {
	j := goldenJob(b, "pickup-reopened")
	for b.Loop() {
		j.airStale = true
		j.freshen()
	}
}
