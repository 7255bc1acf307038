package sheet

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/job"
	"geminate/ground/practice"
)

// A certificate says who worked what, when, each line of the mark, and that it licenses nobody.
func TestACertificateSaysWhatWasShown(t *testing.T) {
	r := &practice.Result{
		Exercise: "finding_2",
		Pattern:  "pickup-front-rear-vacuum",
		Right:    true,
		Total:    85,
		Marks:    []practice.Mark{{ID: practice.MarkFound, Got: 20, Of: 20}, {ID: practice.MarkProven, Got: 5, Of: 10}},
	}
	data, err := Certificate(r, "Sunny Aravind", time.Date(2026, 12, 2, 9, 0, 0, 0, time.UTC), job.DefaultSettings())
	require.NoError(t, err)
	got := text(t, data)
	for _, want := range []string{"Sunny Aravind", "85", "20 / 20", "5 / 10", "readings of the release check"} {
		assert.Contains(t, got, want)
	}
}
