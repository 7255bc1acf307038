package job

import (
	"slices"

	"geminate/brake/bleed"
	"geminate/brake/match"
	"geminate/brake/system"
)

// adapted keeps of the choices whatever still makes sense on a system that was changed, and takes the default
// for the rest: the old unit's measures, the bottle and the costs do not hang on it at all.
func adapted(s *system.System, c Choices) Choices {
	d := DefaultChoices(s)
	scopes := match.Scopes(s)
	c.Scope = match.Resolve(s, c.Scope)
	switch {
	case slices.Contains(scopes, c.Scope):
	case c.Scope == match.BoosterAside && slices.Contains(scopes, match.BoosterOpened):
		c.Scope = match.BoosterOpened
	case c.Scope == match.ElectroUnit && slices.Contains(scopes, match.Both):
		c.Scope = match.Both
	default:
		c.Scope = d.Scope
	}
	if !s.Assist().Powered() {
		c.OldBooster, c.Booster = nil, nil
	}
	for _, u := range []**match.Unit{&c.Old, &c.OldBooster, &c.Booster, &c.Unit, &c.Own} {
		if *u != nil && len(match.CheckUnit(*u)) > 0 {
			*u = nil
		}
	}
	if checkBench(s, &c) != nil {
		c.Bench = d.Bench
	}
	works := func(b BleedSetup) bool {
		_, err := bleed.Make(s, b.options(s, 0))
		return err == nil
	}
	if b := c.Bleed; !works(b) {
		// The stroke and the route hang on the system; the method and the rest need not.
		if b.StrokeMM, b.Order, b.Given = d.Bleed.StrokeMM, d.Bleed.Order, d.Bleed.Given; !works(b) {
			b = d.Bleed
		}
		c.Bleed = b
	}
	return c
}
