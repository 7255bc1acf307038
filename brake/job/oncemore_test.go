package job

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/match"
)

// A reading taken once more stands beside the first; typed anew it takes its place; withdrawn, both are gone; undone,
// the first is back.
func TestAReadingOnceMore(t *testing.T) {
	j := newJob(t, "car-front-rear-vacuum", match.CylinderOnly)
	hold := func(mm string, again bool) {
		j.add(
			t,
			&FindingMade{
				Phase:   PhaseDiagnose,
				Finding: "pedal.sink",
				Value:   json.RawMessage(`{"pedal_force_n":200,"travel_mm":` + mm + `,"seconds":60,"engine":"on"}`),
				Again:   again,
			},
		)
	}
	values := func() (out []string) {
		for _, f := range j.Case().Findings {
			require.Equal(t, len(out) > 0, f.Again)
			out = append(out, string(f.Value))
		}
		return out
	}
	hold("9", false)
	hold("8", false)
	require.Len(t, values(), 1, "put right")
	hold("1", true)
	require.Len(t, values(), 2)
	assert.Contains(t, values()[0], `"travel_mm":8`)
	assert.Contains(t, values()[1], `"travel_mm":1`)
	for range 4 {
		hold("2", true)
	}
	assert.Len(t, values(), 1+earlierKept, "an endless log adds up to no more")
	hold("3", false)
	assert.Len(t, values(), 1, "typed anew, they all go")
	hold("4", true)
	j.add(t, &FindingMade{Phase: PhaseDiagnose, Finding: "pedal.sink"})
	assert.Empty(t, values())
}

// Once work has changed what it speaks of, a reading once more is one of another vehicle: the first says nothing of it.
func TestAReadingOnceMoreIsOfTheSameVehicle(t *testing.T) {
	j := newJob(t, "car-front-rear-vacuum", match.CylinderOnly)
	hold := &FindingMade{
		Phase:   PhaseDiagnose,
		Finding: "pedal.sink",
		Value:   json.RawMessage(`{"pedal_force_n":200,"travel_mm":9,"seconds":60,"engine":"on"}`),
	}
	j.add(t, hold)
	j.doUntil(t, "close.fill")
	again := *hold
	again.Again = true
	j.add(t, &again)
	assert.Len(t, j.Case().Findings, 1)
}
