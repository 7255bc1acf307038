package plan

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/match"
	"geminate/brake/system"
)

// The kit knows what is here: invented units, common practice (no source) for what hangs on what.
func TestKitKnowsWhatIsHere(t *testing.T) {
	s, err := system.FromPattern("pickup-front-rear-vacuum")
	require.NoError(t, err)
	kit := func(scope match.Scope, u *match.Unit, seen *[]Feature) map[string]match.Item {
		out := map[string]match.Item{}
		for _, i := range Kit(match.Kit(s, scope, u, nil, nil), scope, nil, u, Here(s, u, seen)) {
			assert.NotContains(t, out, i.ID, "once")
			out[i.ID] = i
		}
		return out
	}
	likely := kit(match.CylinderOnly, nil, nil)
	assert.Contains(t, likely, "level_sensor")
	assert.Contains(t, likely, "rod_coupler", "it stays in the old cylinder, whichever unit is changed")
	assert.NotContains(t, likely, "residual_valve")

	bare := kit(match.Both, nil, &[]Feature{})
	for _, id := range []string{"level_sensor", "rod_coupler", "lamp_switch_washers", "check_valve", "check_valve_grommet"} {
		assert.NotContains(t, bare, id, "not on this vehicle")
	}
	assert.Contains(t, bare, "reservoir_grommets")

	seen := kit(match.CylinderOnly, nil, &[]Feature{Strainer, ResidualInLine, PortFitting, SidePlugs, CheckValve})
	for id, how := range map[string]string{"strainer": "move_over", "residual_valve": "move_over", "port_fitting_o_ring": "buy", "port_plug": "move_over"} {
		assert.Equal(t, how, seen[id].How, id)
	}
	assert.NotContains(t, seen, "check_valve", "the booster stays")

	boxed := kit(match.CylinderOnly, &match.Unit{Contents: []string{"level_sensor"}}, &[]Feature{})
	assert.Equal(t, "in_box", boxed["level_sensor"].How, "what the box holds is told, needed or not")
}

// A plug says which thread it closes, and how many: four ports where two lines go.
func TestPlugsSayThreadAndCount(t *testing.T) {
	s, err := system.FromPattern("pickup-front-rear-vacuum")
	require.NoError(t, err)
	port := func(position, side, thread string) match.Port {
		return match.Port{Position: position, Side: side, Thread: thread}
	}
	old := match.Unit{Ports: []match.Port{port("front", "left", "3/8-24"), port("rear", "left", "7/16-24")}}
	unit := match.Unit{Ports: append([]match.Port{port("front", "right", "M10x1"), port("rear", "right", "M12x1")}, old.Ports...)}
	plug := func(old *match.Unit) match.Item {
		for _, i := range Kit(match.Kit(s, match.CylinderOnly, &unit, nil, nil), match.CylinderOnly, old, &unit, []Feature{SidePlugs}) {
			if i.ID == "port_plug" {
				return i
			}
		}
		t.Fatal("no plug")
		return match.Item{}
	}
	assert.Equal(t, map[string]any{"count": 2, "threads": []string{"M10x1", "M12x1"}}, plug(&old).With)
	old.Ports[0].Side = "" // the thread alone tells which is which
	assert.Equal(t, map[string]any{"count": 2, "threads": []string{"M10x1", "M12x1"}}, plug(&old).With)
	old.Ports[0].Thread = "" // not looked at: the count stands, the threads do not
	assert.Equal(t, map[string]any{"count": 2}, plug(&old).With)
	assert.Empty(t, plug(nil).With)
}
