package system

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestWhatEachKindHas(t *testing.T) {
	for pattern, want := range map[string]struct {
		kind    VehicleKind
		spoken  []string
		has, no []Trait
	}{
		"pickup-front-rear-vacuum": {Road, []string{}, []Trait{HasFoot, HasHood, HasBrakes, HasBooster, HasVacuum}, []Trait{HasPressure, HasSteering, HasModulator, HasCoupler, HasClutch}},
		"truck-hydraulic":          {Road, []string{}, []Trait{HasBooster, HasPressure, HasSteering}, []Trait{HasVacuum}},
		"special-manual":           {Road, []string{Unassisted}, []Trait{HasFoot, HasBrakes}, []Trait{HasBooster, HasVacuum, HasCodes}},
		"hybrid-electro-hydraulic": {Road, []string{}, []Trait{HasPressure, HasModulator, HasCodes}, []Trait{HasSteering, HasVacuum}},
		"trailer-surge":            {Trailer, []string{"trailer", Unassisted}, []Trait{HasCoupler, HasBrakes}, []Trait{HasFoot, HasHood, HasParkingBrake, HasBooster}},
		"clutch-hydraulic":         {Clutch, []string{"clutch", Unassisted}, []Trait{HasFoot, HasClutch}, []Trait{HasBrakes, HasBooster, HasCoupler}},
	} {
		s, err := FromPattern(pattern)
		require.NoError(t, err)
		assert.Equal(t, want.kind, s.VehicleKind(), pattern)
		assert.Equal(t, want.spoken, s.Spoken(), pattern)
		for _, x := range want.has {
			assert.True(t, s.Has(x), "%s has %s", pattern, x)
		}
		for _, x := range want.no {
			assert.False(t, s.Has(x), "%s has no %s", pattern, x)
		}
	}
	for _, k := range VehicleKinds {
		assert.NotEmpty(t, kinds[k], k)
	}
}
