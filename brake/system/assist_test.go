package system

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Every row of the boosters is complete: a unit that replaces it, a drive, fields of its own, and a pattern that has
// it.
func TestEveryKindOfBoosterIsComplete(t *testing.T) {
	for _, a := range Assists() {
		if a.Kind == BoosterNone {
			assert.False(t, a.Powered(), "none helps nobody")
			assert.Empty(t, a.Unit)
			continue
		}
		assert.NotEmpty(t, a.Unit, a.Kind)
		assert.NotEqual(t, a.Vacuum, a.Pressure, "%s: one drive, not two and not none", a.Kind)
		assert.False(t, a.Steering && !a.Pressure, "%s: the steering pump gives pressure", a.Kind)
		assert.False(t, a.Simulator && !a.ToolLed, "%s: nobody bleeds past a simulator without its tool", a.Kind)
		assert.NotEmpty(t, a.fields, a.Kind)
		i := slices.IndexFunc(Patterns, func(p Pattern) bool { s := p.Build(); return s.BoosterKind() == a.Kind })
		assert.GreaterOrEqual(t, i, 0, "%s: no pattern has one", a.Kind)
	}
}

// What assists the pedal itself is what is felt with the engine on against off: not a pedal on a simulator. From the
// trade: a hold on such a pedal says nothing while it is powered.
func TestAtPedal(t *testing.T) {
	at := map[string]bool{}
	for _, a := range Assists() {
		at[a.Kind] = a.AtPedal()
	}
	assert.Equal(t, map[string]bool{BoosterNone: false, BoosterVacuum: true, BoosterHydraulic: true, BoosterElectroHydraulic: false}, at)
}

// A booster of a kind nobody knows asks for nothing and is refused by the reader.
func TestUnknownKind(t *testing.T) {
	s := Patterns[0].Build()
	s.Booster = &Booster{Kind: "steam"}
	assert.False(t, s.Assist().Powered())
	raw, err := s.Booster.MarshalJSON()
	require.NoError(t, err)
	assert.JSONEq(t, `{"kind":"steam"}`, string(raw))
}
