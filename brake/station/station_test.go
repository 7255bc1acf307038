package station_test

import (
	"encoding/json"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/job"
	"geminate/brake/station"
	"geminate/brake/system"
)

func open(t *testing.T, pattern string) *job.Book {
	t.Helper()
	s, err := system.FromPattern(pattern)
	require.NoError(t, err)
	now := time.Date(2026, 11, 28, 9, 0, 0, 0, time.UTC)
	b, err := job.OpenBook(job.Actor{ID: "m", Name: "Mara", Role: job.Lead}, now,
		job.Opening{ID: "j", EventID: "e", Intake: job.Intake{Vehicle: "v", Complaint: "-", Pattern: pattern, System: s, Hands: 2}})
	require.NoError(t, err)
	return b
}

// Every row is whole: it has a name, an answer, and answers; every station of the work but the first is one of them.
func TestEveryQuestionIsAnswered(t *testing.T) {
	ids := map[string]bool{}
	for _, pattern := range []string{"pickup-front-rear-vacuum", "hybrid-electro-hydraulic", "trailer-surge"} {
		b := open(t, pattern)
		for _, q := range station.Questions {
			require.NotEmpty(t, q.Summary, q.ID)
			require.True(t, q.Out != nil, q.ID) // it is an empty one, of its type
			ids[q.ID] = true
			found := station.Find(q.Name, q.In != nil)
			require.NotNil(t, found)
			assert.Equal(t, q.ID, found.ID, "one question a name")
			if q.In != nil {
				_, err := q.Ask(t.Context(), b.Job, station.With{}, json.RawMessage(`{"no such field":1}`))
				assert.Error(t, err, q.ID)
				continue
			}
			answer, err := q.Ask(t.Context(), b.Job, station.With{Now: b.CreatedAt}, nil)
			require.NoError(t, err, "%s of %s", q.ID, pattern)
			assert.IsType(t, q.Out, answer, q.ID)
		}
	}
	assert.Len(t, ids, len(station.Questions), "each its own name in the API")
	for _, s := range job.Stations[1:] {
		assert.True(t, slices.ContainsFunc(station.Questions, func(q station.Question) bool { return q.Name == s && q.In == nil }), s)
	}
	assert.Nil(t, station.Find("oracle", false))
}
