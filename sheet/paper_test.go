package sheet

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/job"
	"geminate/words"
)

// A warranty page says what was measured and found, and says so where nothing was; it fills nothing in.
func TestAWarrantySaysWhatCameOffAndWhatWentOn(t *testing.T) {
	now := time.Date(2026, 11, 25, 9, 0, 0, 0, time.UTC)
	j := sample(t)
	j.Choices.Old = nil
	data, err := Warranty(t.Context(), j.Job, "metric", now)
	require.NoError(t, err)
	got := text(t, data)
	for _, want := range []string{"Warranty", "The old unit was not measured", "not taken apart", "Valkenried VK 1063", "Corrigan", "still missing"} {
		assert.Contains(t, got, want)
	}
	bore, stroke := 25.4, 30.0
	old := *j.Choices.Unit
	old.Maker, old.Number, old.BoreMM, old.StrokeMM = "Olde", "OL 9", &bore, &stroke
	j.Choices.Old = &old
	j.State.Apart = map[string]job.PartSeen{job.UnitCylinder + ".primary_cup": {State: "damaged", Note: "lip cut", At: now, By: "Piet"}}
	j.State.Really = &job.Reality{Fault: "primary_cup", When: now, By: "Piet"}
	data, err = Warranty(t.Context(), j.Job, "us", now)
	require.NoError(t, err)
	got = text(t, data)
	for _, want := range []string{"Olde OL 9, 1.000 in", "1.181 in", "damaged: lip cut (Piet", "Primary cup"} {
		assert.Contains(t, got, want)
	}
	assert.NotContains(t, got, "was not measured")
	assert.NotContains(t, got, " mm", "a person's units, without exception")
}

// A label says one thing large: when the vehicle is next due, when the bottle was opened. Without either there is none.
func TestLabelsOfVehicleAndBottle(t *testing.T) {
	now := time.Date(2026, 11, 25, 9, 0, 0, 0, time.UTC)
	j := sample(t)
	j.Choices.Bottle = job.Bottle{Class: "DOT 3"}
	_, err := Labels(j.Job, "metric", "https://shop/jobs/j", now)
	require.ErrorIs(t, err, job.ErrNotReleased)
	water := 0.4
	j.Choices.Bottle = job.Bottle{Class: "DOT 3", OpenedAt: "2026-11-20", WaterPercent: &water}
	data, err := Labels(j.Job, "metric", "https://shop/jobs/j", now)
	require.NoError(t, err)
	got := text(t, data)
	assert.Contains(t, got, "Opened 20 Nov 2026")
	assert.Contains(t, got, "0.4 %")
	assert.Contains(t, got, "Not used after 20 Nov 2027", "a year, where the shop says nothing else")
	assert.NotContains(t, got, "next due", "the vehicle is not released")
	at := j.CreatedAt
	j.State.ReleasedAt = &at
	data, err = Labels(j.Job, "metric", "https://shop/jobs/j", now)
	require.NoError(t, err)
	due := j.Due(now)
	assert.Contains(t, text(t, data), words.In("en").DayOf(due.Day()))
	j.Intake.DistanceKM = 0
	data, err = PDF(t.Context(), j.Job, "metric", now)
	require.NoError(t, err)
	assert.NotContains(t, text(t, data), "at 0 km", "no odometer was read, so nothing is due by distance")
}

// Paper speaks the language the shop set for it, its figures and days with it.
func TestPaperSpeaksTheShopsLanguage(t *testing.T) {
	j := sample(t)
	set := job.DefaultSettings()
	set.Language = "es"
	require.NoError(t, set.Check())
	j.Dress(job.Dress{Settings: &set})
	data, err := PDF(t.Context(), j.Job, "metric", time.Date(2026, 1, 5, 9, 30, 0, 0, time.UTC))
	require.NoError(t, err)
	got := text(t, data)
	for _, want := range []string{"Hoja de trabajo de frenos", "NO ENTREGADO", "27,0 mm", "Impreso 5 ene 2026"} {
		assert.Contains(t, got, want)
	}
	for _, not := range []string{"Brake job sheet", "27.0 mm", "RELEASED", "still missing"} {
		assert.NotContains(t, got, not)
	}
	set.Language = "the one over there"
	assert.Error(t, set.Check())
}

// Found: one emoji in a note and nothing was printed.
func TestAnEmojiPrints(t *testing.T) {
	now := time.Date(2026, 11, 25, 9, 0, 0, 0, time.UTC)
	j := sample(t)
	j.State.Notes = append(j.State.Notes, "hose as hard as wood 😬 ordered")
	j.Intake.Customer, j.Intake.Vehicle, j.Intake.Complaint = "Ana 🚙", "Pickup 🛻", "sinks 🙈"
	data, err := PDF(t.Context(), j.Job, "metric", now)
	require.NoError(t, err)
	assert.Contains(t, text(t, data), "hard as wood [U+1F62C] ordered")
	_, err = Warranty(t.Context(), j.Job, "metric", now)
	require.NoError(t, err)
	at := j.CreatedAt
	j.State.ReleasedAt = &at
	_, err = Labels(j.Job, "metric", "https://shop/jobs/j", now)
	require.NoError(t, err)
	j.State.Parked = &job.ParkedState{At: now, By: "Ana 🚙", Why: []job.ParkReason{job.ParkOther}, Note: "waits 🕰"}
	_, err = Tag(j.Job, "https://shop/jobs/j", now)
	require.NoError(t, err)
}
