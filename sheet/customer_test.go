package sheet

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/diagnose"
	"geminate/brake/job"
	"geminate/brake/match"
	"geminate/words"
)

// An owner is told of every fault in a sentence of their own, of every scope what was done, in every language.
func TestEveryFaultHasAnOwnersSentence(t *testing.T) {
	for _, lang := range words.Languages {
		w := words.In(lang)
		for i := range diagnose.Faults {
			assert.True(t, w.Has("owner_fault."+diagnose.Faults[i].ID), "%s: %s", lang, diagnose.Faults[i].ID)
		}
		for _, s := range match.AllScopes {
			assert.True(t, w.Has("owner_work."+string(s)), "%s: %s", lang, s)
		}
	}
}

// The owner reads what was wrong, what was done where, and no odds and no check by its name.
func TestTheOwnersPaperIsForTheOwner(t *testing.T) {
	now := time.Date(2026, 11, 25, 9, 0, 0, 0, time.UTC)
	j := sample(t)
	at := now.Add(-time.Hour)
	j.State.ReleasedAt, j.State.ReleasedBy = &at, "Mara"
	from, to := 0.9, 0.3
	j.Choices.Scope = match.Elsewhere
	j.State.Repairs = []job.RepairDone{
		{RepairTold: job.RepairTold{Work: job.WorkAdjusted, At: "LR", FromMM: &from, ToMM: &to}},
		{RepairTold: job.RepairTold{Work: job.WorkPads, At: "LF", Note: "both sides"}},
	}
	data, err := Customer(t.Context(), j.Job, "metric", now)
	require.NoError(t, err)
	got := text(t, data)
	for _, want := range []string{"left rear: adjusted, 0.90 mm to 0.30 mm", "left front: pads replaced", "both sides", "Repaired without opening the hydraulics"} {
		assert.Contains(t, got, want)
	}
	for _, never := range []string{"%", "likelier", "twin", "gate", words.T("finding.check.dry_joints", nil), words.T("finding.pedal.sink", nil), words.T("fault_id.mc.primary_cup_bypass", nil)} {
		assert.NotContains(t, got, never)
	}
	shop, err := PDF(t.Context(), j.Job, "metric", now)
	require.NoError(t, err)
	assert.Contains(t, text(t, shop), "LR: adjusted, 0.90 mm to 0.30 mm", "the shop reads it by the wheel's own name")
}

// Air in either circuit is air: neither alone need be likely.
func TestOneFaultAtTwoPlacesIsOneCause(t *testing.T) {
	v := &job.DiagnoseView{
		Count: 1,
		Result: diagnose.Result{Faults: []diagnose.Ranked{
			{ID: "circuit.air", At: "A", Probability: 0.4},
			{ID: "mc.port_blocked", Probability: 0.3},
			{ID: "circuit.air", At: "B", Probability: 0.35},
			{ID: "wheel.seized", At: "LF", Probability: 0.1},
		}},
	}
	c := likeliest(v)
	assert.Equal(t, "circuit.air", c.id)
	assert.InDelta(t, 0.75, c.total, 1e-9)
	assert.Nil(t, likeliest(&job.DiagnoseView{Result: diagnose.Result{}}))
}
