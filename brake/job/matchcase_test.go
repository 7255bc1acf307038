package job

import (
	"errors"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/fluid"
	"geminate/brake/match"
	"geminate/brake/system"
)

const oldUnit = `{"id":"old","bore_mm":26.9875,"studs":2,"stud_spacing_mm":85,"pocket_mm":12.4,"face_seal":"o_ring","sensor":"two_pin","variant":"plain","residual_mpa":0,"reservoir":"included","brakes":"disc_drum","contents":[],
 "ports":[{"position":"front","side":"left","thread":"3/8-24","seat":"inverted_flare","circuit":"B"},{"position":"rear","side":"left","thread":"7/16-24","seat":"inverted_flare","circuit":"A"}],"maker":"","number":""}`

func matched(t *testing.T, doc string) *MatchView {
	t.Helper()
	c, err := ReadMatchCase(strings.NewReader(doc))
	require.NoError(t, err)
	v, err := c.Match(t.Context())
	require.NoError(t, err)
	return v
}

func TestMatchCase(t *testing.T) {
	wrong := strings.Replace(strings.Replace(oldUnit, `"id":"old"`, `"id":"trap"`, 1), `"plain"`, `"abs"`, 1)
	right := strings.Replace(oldUnit, `"id":"old"`, `"id":"right"`, 1)
	v := matched(t,
		`{"format":"geminate.case/1","pattern":"pickup-front-rear-vacuum","old_unit":`+oldUnit+`,"candidates":[`+wrong+`,`+right+`]}`)
	require.Len(t, v.Candidates, 2)
	assert.Equal(t, "right", v.Candidates[0].Unit.ID, "what fits stands first")
	assert.Equal(t, match.Same, v.Candidates[0].Verdict)
	assert.Equal(t, match.DoesNotFit, v.Candidates[1].Verdict)
	assert.True(t, v.Candidates[0].Fitted, "the list of parts is made for it")
	require.Len(t, v.LookAlikes, 1)
	assert.Equal(t, "variant", v.LookAlikes[0].Point)
	assert.Len(t, v.Candidates[0].Performance.At, 3)

	bare := matched(t, `{"format":"geminate.case/1","pattern":"special-manual","candidates":[`+right+`]}`)
	assert.Equal(t, match.Unknown, bare.Candidates[0].Verdict, "what was not measured is not made up")
	assert.NotEmpty(t, bare.Bores)
	both := matched(t, `{"format":"geminate.case/1","pattern":"pickup-front-rear-vacuum","scope":"both"}`)
	assert.True(t, both.Booster && both.Cylinder)
}

func TestBadMatchCasesAreToldWhole(t *testing.T) {
	for doc, paths := range map[string][]string{
		`{`: {"$"},
		`{"format":"geminate.case/1","pattern":"x","scope":"both","candidates":[{"id":"a","studs":99},{"id":"b","mood":1}]}`: {"$.candidates", "$.pattern"},
		`{"format":"geminate.case/1","pattern":"trailer-surge","scope":"both","old_unit":{"id":"o","bore_mm":900}}`:          {"$.old_unit.bore_mm", "$.scope"},
		`{"format":"geminate.case/1","pattern":"trailer-surge","candidates":[{"id":"a","studs":99}]}`:                        {"$.candidates[0].studs"},
	} {
		_, err := ReadMatchCase(strings.NewReader(doc))
		var f system.Faults
		require.True(t, errors.As(err, &f), doc)
		got := []string{}
		for _, x := range f {
			got = append(got, x.Path)
		}
		assert.ElementsMatch(t, paths, got, doc)
	}
}

func TestBottleAndCostsOfAJob(t *testing.T) {
	s, err := system.FromPattern("car-diagonal-vacuum")
	require.NoError(t, err)
	j := &Job{Intake: Intake{System: s}, Choices: DefaultChoices(s)}
	j.Choices.Bottle.OpenedAt = "2026-09-01"
	v, err := j.Match(t.Context(), nil, time.Date(2026, 11, 24, 8, 0, 0, 0, time.UTC))
	require.NoError(t, err)
	assert.Equal(t, 84, *v.Bottle.OpenDays)
	assert.Equal(t, fluid.AgeTest, v.Bottle.Age)
	rate, dear := 3.0, -1.0
	j.Choices.Costs = &ShopFigures{PerMinute: &rate, Parts: map[string]float64{"bleed": 99}}
	assert.Equal(t, 3.0, j.Costs().PerMinute)
	assert.Equal(t, 99.0, j.Costs().Parts["bleed"])
	assert.Positive(t, j.Costs().Comeback, "what is left out keeps its default")
	require.NoError(t, CheckChoices(s, &j.Choices))
	j.Choices.Costs.Comeback = &dear
	assert.ErrorContains(t, CheckChoices(s, &j.Choices), "$.costs.comeback")
	assert.Equal(t, "ask", v.Rebuilt)
	j.State.Findings = map[string]map[string]Found{PhaseDiagnose: {"teardown.bore": {ID: "teardown.bore", Value: []byte(`"scratched"`)}}}
	v, err = j.Match(t.Context(), nil, began)
	require.NoError(t, err)
	assert.Equal(t, "no", v.Rebuilt, "seen beats asked")
	assert.Empty(t, j.Nearest(), "without a measure nothing is near")
	bore, stud := 22.2, 85.0
	j.Choices.Old = &match.Unit{BoreMM: &bore, StudSpacingMM: &stud}
	assert.Len(t, j.Nearest(), 1)
	j.Choices.Booster = &match.Unit{Kind: match.VacuumBooster, Booster: &match.BoosterSpec{Ratio: &rate}}
	j.Choices.Scope = match.Both
	assert.Equal(t, rate, j.Fitted().Booster.Ratio, "the pedal is judged with what is fitted")
}

func FuzzReadMatchCase(f *testing.F) {
	f.Add(`{"format":"geminate.case/1","pattern":"trailer-surge","old_unit":` + oldUnit + `}`)
	f.Add(`{"format":"geminate.case/1","pattern":"special-manual","candidates":[{"id":"x","bore_mm":20}]}`)
	f.Fuzz(func(t *testing.T, doc string) {
		c, err := ReadMatchCase(strings.NewReader(doc))
		if err != nil {
			return
		}
		if _, err := c.Match(t.Context()); err != nil {
			t.Fatalf("%s: %v", doc, err)
		}
	})
}
