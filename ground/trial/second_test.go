package trial

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/diagnose"
	"geminate/ground/mechanic"
)

// The second world speaks of signs and values that a technician can enter, and of faults that the diagnosis has.
func TestTheSecondWorldCanBeTold(t *testing.T) {
	placed := map[string]int{}
	for i := range diagnose.PlacedSigns {
		placed[diagnose.PlacedSigns[i].ID] = len(diagnose.PlacedSigns[i].Values)
	}
	for _, x := range mechanic.Troubles {
		if x.Known != "" {
			require.NotNil(t, findFault(x.Known), "%s is said to be %s", x.ID, x.Known)
		}
		for _, s := range x.Shows {
			if sign := diagnose.SignOf(s.Sign); assert.NotNil(t, sign, "%s: no sign %s", x.ID, s.Sign) {
				assert.Len(t, s.Faint, len(sign.Values), "%s %s", x.ID, s.Sign)
			}
		}
		for _, s := range x.Here {
			assert.Len(t, s.Faint, placed[s.Sign], "%s %s", x.ID, s.Sign)
		}
	}
	for _, f := range diagnose.Faults { // what the diagnosis knows, the mechanic has met
		met := false
		for _, x := range mechanic.Troubles {
			met = met || x.Known == f.ID
		}
		assert.True(t, met, f.ID)
	}
	w := NewSecond(0.5, 4)
	unnamed := 0
	for range 120 {
		v := w.Draw()
		if v.Unnamed() != "" {
			unnamed++
		}
		c := v.newCase()
		for i := range diagnose.Tests {
			if tt := &diagnose.Tests[i]; v.can(tt) {
				v.do(c, tt)
			}
		}
		require.NoError(t, c.Check(), "every finding is one a technician could enter")
	}
	assert.Positive(t, unnamed)
}

// A small trial of it: the bounds are far from what docs/trial.md reports. Source of the ordering: the aims of the project.
func TestTheEngineInTheSecondWorld(t *testing.T) {
	r, err := Run(Options{Vehicles: 80, Worlds: 8, Seed: 3, Workers: 2, Second: true})
	require.NoError(t, err)
	assert.Greater(t, r.EngineOver.Right, 0.8)
	assert.Greater(t, r.EngineOver.Right, r.ThumbOver.Right)
	assert.Less(t, r.EngineOver.WrongUnit, r.ThumbOver.WrongUnit/2)
	// What is handed on and unknown is right as well.
	sum := r.EngineOver.Right + r.EngineOver.Comeback + r.EngineOver.Parked + r.EngineOver.Told
	assert.True(t, sum >= 1-1e-9 && sum <= 1+r.Unnamed+1e-9, "%v", sum)
	assert.Positive(t, r.Unnamed)
	assert.Positive(t, r.EngineOver.Told)
}
