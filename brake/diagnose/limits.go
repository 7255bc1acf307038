package diagnose

import (
	"slices"
)

// Obstacle is one reason why a vehicle may not be finished here, to be known before a line is opened.
type Obstacle struct {
	Why   string `json:"why"`   // electro_hydraulic, modulator_routine, modulator_may_take_air
	Needs string `json:"needs"` // the tool without which it cannot be finished
	// Certain is false where it only comes to that if air gets into the modulator.
	Certain bool `json:"certain"`
}

// obstacles looks at the proposed action and the tools stated; tools not stated are taken to be there.
func obstacles(c *Case, best *ActionCost) []Obstacle {
	out := []Obstacle{}
	if c.Tools == nil || slices.Contains(c.Tools, "scan_tool") {
		return out
	}
	opens := false
	for _, id := range append([]string{best.ID}, best.Also...) {
		a := findAction(id)
		opens = opens || a.opens
	}
	electro := c.System.Assist().ToolLed
	switch {
	case electro && (opens || best.ID == "replace_booster"):
		out = append(out, Obstacle{"electro_hydraulic", "scan_tool", true})
	case best.ModulatorRoutine:
		out = append(out, Obstacle{"modulator_routine", "scan_tool", true})
	case c.System.Modulator != nil && opens:
		out = append(out, Obstacle{"modulator_may_take_air", "scan_tool", false})
	}
	return out
}
