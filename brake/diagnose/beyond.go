package diagnose

import (
	"encoding/json"
	"slices"
)

// Beyond is the chance that nothing the fault table knows is what is wrong, and what is left over.
type Beyond struct {
	Probability float64 `json:"probability"`
	// Wins: it is likelier than not, and there is work that would be done. Then no part is named: whoever works on it is told which signs are left.
	Wins bool `json:"wins"`
	// Left are the signs that are still shown, by finding; empty where it does not win.
	Left []string `json:"left"`
}

// BeyondPrior is the share of vehicles brought in with something that no row of the fault table is; inVain how often work on
// what is known does not put a vehicle right; twice how often, where it did not, what was put right is what is likeliest again.
// Assumptions: one in twenty, one in four, one in seven. In the second world (docs/trial.md) of the known
// vehicles that came back few asked for the same work twice, of the unknown every second one.
const (
	BeyondPrior = 0.05
	BeyondWins  = 0.5
	inVain      = 0.25
	twice       = 0.15
)

// beyond is believed by what work has shown: what is known is mostly put right by the work it asks for, what is not known by
// none. Before any work it is what it is on every vehicle, for what is not known looks like what is: findings that are rarer
// together than by coincidence were tried as a mark of it, and had no power to tell (33 of 798 known vehicles had the mark, of
// 42 unknown one).
//
// acts is what would be done, lead the likeliest fault.
func (c *Case) beyond(acts []string, lead string) Beyond {
	out := Beyond{Left: []string{}}
	odds := BeyondPrior / (1 - BeyondPrior)
	again := false
	for w := c.After; w != nil; {
		if slices.ContainsFunc(w.Acts, func(a string) bool { return a != actNothing }) {
			odds /= inVain
		}
		again = again || w.mended(lead)
		if w.Before == nil {
			break
		}
		w = w.Before.After
	}
	if again {
		odds /= twice
	}
	out.Probability = odds / (1 + odds)
	work := slices.ContainsFunc(acts, func(a string) bool { return a != actNothing })
	if out.Wins = work && out.Probability >= BeyondWins; !out.Wins {
		return out
	}
	for _, f := range c.Findings {
		if (Shows(c.System, f) || sinks(f)) && !slices.Contains(out.Left, f.ID) {
			out.Left = append(out.Left, f.ID)
		}
	}
	return out
}

// mended says whether a work has put a fault right before, as far as anybody told.
func (w *Work) mended(fault string) bool {
	if w.Any {
		return slices.Contains(w.Told, fault)
	}
	return slices.ContainsFunc(w.Acts, func(a string) bool { return !redone[a] && cures(a, fault) })
}

// sinks says whether a finding is a measured hold that did not stand.
func sinks(f Finding) bool {
	var s Sink
	return f.ID == "pedal.sink" && json.Unmarshal(f.Value, &s) == nil && s.TravelMM > standsMM
}

// redone are the works that are often done twice before they are right (common practice, no source): that they are asked for
// once more tells nothing; nor does letting a vehicle go twice.
var redone = map[string]bool{actNothing: true, actBleed: true, actRoutine: true}
