package plan

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/match"
	"geminate/brake/system"
)

// Whatever is told by one tap asks for no figure, is no gate, waits for nothing, and nothing outside of the run stands
// in its way; whatever let people down where nobody asked is never among it.
func TestTogetherTellsOnlyWhatStandsOrFallsTogether(t *testing.T) {
	runs := 0
	for _, pattern := range system.Patterns {
		s, err := system.FromPattern(pattern.ID)
		require.NoError(t, err)
		for _, scope := range match.Scopes(s) {
			p, err := Make(s, Choices{Scope: scope})
			require.NoError(t, err)
			done := map[string]bool{}
			for i := range p.Steps {
				ids := p.Together(done)
				if len(ids) > 0 {
					runs++
				}
				assert.NotEqual(t, 1, len(ids))
				assert.LessOrEqual(t, len(ids), togetherMost)
				with := map[string]bool{}
				for k := range done {
					with[k] = true
				}
				for _, id := range ids {
					st := p.Find(id)
					assert.True(t, st.plain(), id)
					assert.NotContains(t, []string{"strip.plug_lines", "rod.coupler_moved", "fit.pedal_end", "close.fill"}, id)
					missing, err := p.Missing(id, with)
					require.NoError(t, err)
					assert.Empty(t, missing, "%s %s: %s in this order", pattern.ID, scope, id)
					with[id] = true
				}
				if len(ids) > 0 {
					assert.Equal(t, p.Next(done), ids[0])
				}
				done[p.Steps[i].ID] = true
			}
		}
	}
	assert.Greater(t, runs, 50)
}

// Every step that is told alone is one of the plan's: none is left over from a name that changed.
func TestAloneAreSteps(t *testing.T) {
	known, present := []string{}, []Feature{FacePaper, RodCoupler, RemoteReservoir}
	for _, pattern := range system.Patterns {
		s, err := system.FromPattern(pattern.ID)
		require.NoError(t, err)
		for _, scope := range match.Scopes(s) {
			for _, schools := range []map[School]string{nil, {BenchWhen: BenchFinal}} {
				p, err := Make(s, Choices{Scope: scope, Schools: schools, Present: &present})
				if err != nil {
					continue
				}
				for i := range p.Steps {
					known = append(known, p.Steps[i].ID)
				}
			}
		}
	}
	for id := range alone {
		assert.True(t, slices.Contains(known, id), id)
	}
}
