package desk

import (
	"encoding/json"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/job"
)

// A job opened with no server is worked on here at once, and is the job the server then opens under the same ids.
func TestAJobOpenedHere(t *testing.T) {
	now := time.Date(2026, 11, 29, 9, 0, 0, 0, time.UTC)
	by := job.Actor{ID: "u1", Name: "Mara Oduya", Role: job.Technician}
	d := New()
	in := Opening{
		ID:      "j1",
		EventID: "e1",
		By:      by,
		Now:     now,
		Job:     job.New{Vehicle: "Van", Complaint: "low pedal", Pattern: "car-front-rear-vacuum"},
	}
	got, err := d.Open(in)
	require.NoError(t, err)
	assert.Equal(t, "e1", got.Event.ID)
	view, err := json.Marshal(got.View)
	require.NoError(t, err)
	head, err := d.Confirm(Confirmed{View: view, Events: []job.Event{got.Event}})
	require.NoError(t, err)
	assert.Equal(t, LogHead{Head: 1, Have: 1}, head)
	shown, err := d.Show(
		Waiting{
			ID:  "j1",
			By:  by,
			Now: now,
			Events: []waitingEvent{
				{
					ID:   "f1",
					Kind: job.KindFinding,
					At:   now,
					Data: json.RawMessage(`{"phase":"diagnose","finding":"pedal.low","value":"yes"}`),
				},
			},
		},
	)
	require.NoError(t, err)
	assert.Empty(t, shown.Refused)
	assert.Len(t, shown.View.State.Findings[job.PhaseDiagnose], 1)

	in.Job.Pattern = "no such"
	_, err = d.Open(in)
	p, ok := ProblemOf(err)
	assert.True(t, ok)
	assert.Equal(t, "problem.faults", p.Code)
	in.By.Role = "nobody"
	_, err = d.Open(in)
	assert.Error(t, err)
}
