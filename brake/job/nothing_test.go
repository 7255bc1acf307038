package job

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/diagnose"
	"geminate/brake/match"
)

func aUnit(id string, change func(*match.Unit)) match.Unit {
	u := match.Unit{
		ID:            id,
		Maker:         "Tessaly",
		Number:        id,
		BoreMM:        f(26.9875),
		StudSpacingMM: f(82),
		Studs:         2,
		PocketMM:      f(12),
		FaceSeal:      "o_ring",
		Sensor:        "two_pin",
		Variant:       "plain",
		ResidualMPA:   f(0),
		Reservoir:     "included",
		Contents:      []string{},
		Ports: []match.Port{
			{Position: "front", Side: "left", Thread: "3/8-24", Seat: "inverted_flare", Circuit: "B"},
			{Position: "rear", Side: "left", Thread: "7/16-24", Seat: "inverted_flare", Circuit: "A"},
		},
	}
	change(&u)
	return u
}

// Nothing on the shelf fits: said at once, the nearest first, with what stands between.
func TestNothingFitsIsSaidWithTheNearest(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	old := aUnit("old", func(*match.Unit) {})
	j.choose(t, func(c *Choices) { c.Old, c.Unit = &old, nil })
	far := aUnit("far", func(u *match.Unit) { u.StudSpacingMM, u.Variant = f(100), "abs" })
	near := aUnit("near", func(u *match.Unit) { u.Variant = "abs" })
	v, err := j.Match(t.Context(), []match.Unit{far, near}, j.now())
	require.NoError(t, err)
	assert.True(t, v.Nothing)
	require.Len(t, v.Near, 2)
	assert.Equal(t, "near", v.Near[0].ID)
	require.Len(t, v.Near[0].Needs, 1+len(unknownPoints(v.Near[0].Needs)))
	assert.Equal(t, "variant", v.Near[0].Needs[0].ID)
	// As the old one, with what differs: it stands beside the shelf and fits.
	own := old
	own.ID, own.Condition = "own", "new"
	j.choose(t, func(c *Choices) { c.Own = &own })
	v, err = j.Match(t.Context(), []match.Unit{far, near}, j.now())
	require.NoError(t, err)
	assert.False(t, v.Nothing)
	assert.Empty(t, v.Near)
	assert.Equal(t, "own", v.Candidates[0].Unit.ID)
	none, err := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly).Match(t.Context(), nil, time.Now())
	require.NoError(t, err)
	assert.True(t, none.Nothing, "an empty shelf has nothing that fits")
	assert.Empty(t, none.Near)
}

func unknownPoints(list []match.Point) (out []match.Point) {
	for _, p := range list {
		if p.Verdict == match.Unknown {
			out = append(out, p)
		}
	}
	return out
}

// A booster that is not on the shelf is entered and compared as any other.
func TestABoosterOfOnesOwn(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.BoosterAside)
	own := *j.Choices.OldBooster
	own.ID, own.Number = "own_booster", "B 2"
	j.choose(t, func(c *Choices) { c.Booster, c.OwnBooster = nil, &own })
	v, err := j.Match(t.Context(), nil, j.now())
	require.NoError(t, err)
	require.Len(t, v.Boosters, 1)
	assert.Equal(t, "B 2", v.Boosters[0].Unit.Number)
	assert.False(t, v.Nothing)
	own.StudSpacingMM = f(-3)
	c := j.Choices
	c.OwnBooster = &own
	_, err = j.ChangeChoices(j, mara, j.now(), "bad", j.ChoicesSeq, c)
	assert.ErrorContains(t, err, "$.own_booster.stud_spacing_mm")
}

// What the parts of the old unit are found as, and what it points to (common practice, no source).
func TestPartsPointToWhatTheyWereFoundAs(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	for _, c := range []struct {
		part  string
		state diagnose.PartState
		cause diagnose.PartCause
		first string
	}{
		{"primary_cup", diagnose.PartSwollen, diagnose.CausePetroleum, "fluid.petroleum"},
		{"bore", diagnose.PartCorroded, diagnose.CauseWater, "fluid.wet"},
		{"bore", diagnose.PartScored, diagnose.CauseDirt, "mc.bore_corroded"},
		{"rear_seal", diagnose.PartHardened, diagnose.CauseAge, "mc.rear_seal_leak"},
		{"springs", diagnose.PartNotThis, diagnose.CauseWrongPart, "mc.wrong_variant"},
		{"springs", diagnose.PartDamaged, diagnose.CauseNone, "mc.piston_seized"},
	} {
		for _, p := range diagnose.PartsOf(j.Intake.System, diagnose.ApartCylinder) {
			if p.ID != c.part {
				continue
			}
			assert.Equal(t, c.cause, diagnose.PointsTo(c.state), c.part)
			require.NotEmpty(t, p.SpeaksFor(c.state, j.Intake.System), c.part)
			assert.Equal(t, c.first, p.SpeaksFor(c.state, j.Intake.System)[0], c.part)
			assert.Empty(t, p.SpeaksFor(diagnose.PartSound, j.Intake.System))
			if c.state != diagnose.PartDamaged {
				assert.Contains(t, p.States, c.state, "%s is offered as %s", c.part, c.state)
			}
		}
	}
}
