package diagnose

import (
	"fmt"
	"math"

	"geminate/brake/system"
	"geminate/brake/twin"
)

// Present is the system with one fault turned on as far as the readings taken make likeliest.
type Present struct {
	System   *system.System
	Severity float64 // 0 faint to 1 gross
	Measured bool    // whether a reading stands behind the severity; else it is the middle
	Physical bool    // whether the twin can show this fault at all
}

// Show turns a fault on in the case's system. Without a reading that the fault moves, the severity is
// the middle of its range.
func Show(c *Case, fault, at string) (Present, error) {
	f := findFault(fault)
	if f == nil || (f.Applies != nil && !f.Applies(c.System)) {
		return Present{}, fmt.Errorf("diagnose: this system has no fault %q", fault)
	}
	known := f.Place == Whole && at == "" || f.Place == AtCircuit && c.System.Circuit(at) != nil ||
		f.Place == AtWheel && c.System.Wheel(at) != nil
	if !known {
		return Present{}, fmt.Errorf("diagnose: %s cannot sit at %q", fault, at)
	}
	out := Present{System: c.System, Severity: 0.5, Physical: f.Physics != nil}
	if f.Physics == nil {
		return out, nil
	}
	all, err := observeAll(c.System, c.Findings)
	if err != nil {
		return Present{}, err
	}
	var readings []observation
	for _, o := range all {
		if o.probe != nil {
			readings = append(readings, o)
		}
	}
	const steps = 40
	best, worst := math.Inf(-1), math.Inf(1)
	for i := 0; i <= steps; i++ {
		v := float64(i) / steps
		s := c.System.Clone()
		f.Physics(s, at, v)
		m := twin.New(s)
		sum := 0.0
		for _, o := range readings {
			sum += math.Log(o.probe.densityAt(o.number, o.probe.eval(m)))
		}
		worst = math.Min(worst, sum)
		if sum > best {
			best, out.Severity = sum, v
		}
	}
	out.Measured = best-worst > 0.5
	if !out.Measured {
		out.Severity = 0.5
	}
	out.System = c.System.Clone()
	f.Physics(out.System, at, out.Severity)
	return out, nil
}
