package job

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A job put down for a day waits until that morning, and then stands in the bay by itself. Made up: no figure is in it.
func TestAJobPutDownForADay(t *testing.T) {
	kept := func(day string, standing Standing) json.RawMessage {
		raw, err := json.Marshal(
			Card{ID: "j", Planned: Planned{ForDay: day, HaveReady: "unit, DOT 4"}, Status: Status{Standing: standing, Band: BandDecision}},
		)
		require.NoError(t, err)
		return raw
	}
	band := func(day string, standing Standing, today string) Band {
		raw, err := CardOn(kept(day, standing), today)
		require.NoError(t, err)
		var c Card
		require.NoError(t, json.Unmarshal(raw, &c))
		assert.Equal(t, "unit, DOT 4", c.HaveReady)
		return c.Status.Band
	}
	assert.Equal(t, BandPlanned, band("2026-12-03", StandsOpen, "2026-12-02"))
	assert.Equal(t, BandDecision, band("2026-12-03", StandsOpen, "2026-12-03"), "the day itself")
	assert.Equal(t, BandDecision, band("2026-12-03", StandsOpen, "2027-01-01"))
	assert.Equal(t, BandDecision, band("", StandsOpen, "2026-12-03"))
	assert.Equal(t, BandDecision, band("2026-12-03", StandsParked, "2026-12-01"), "what is parked is here")

	in := New{Vehicle: "Van", Pattern: "car-front-rear-vacuum", Planned: Planned{ForDay: "2026-12-03"}}
	intake, err := in.Intake()
	require.NoError(t, err)
	require.NoError(t, CheckIntake(&intake))
	assert.Equal(t, "2026-12-03", intake.ForDay)
	intake.ForDay = "tomorrow"
	assert.ErrorContains(t, CheckIntake(&intake), "for_day")
	again := (&Job{Intake: intake}).Again()
	assert.Empty(t, again.ForDay, "the next job of the vehicle has a day of its own")
}
