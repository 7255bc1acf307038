package diagnose

import (
	"bytes"
	"encoding/json"
	"maps"
	"slices"

	"geminate/brake/system"
	"geminate/brake/units"
)

// DefaultCosts are assumptions to start from. Unsafe is not the price of an accident: it is what one
// fault found only at the release gate, or after it, is taken to cost the shop.
func DefaultCosts() Costs {
	c := Costs{PerMinute: 1.6, Comeback: 500, Unsafe: 1500, Needless: 1, Parts: map[string]float64{}, Minutes: map[string]float64{}}
	for _, a := range actionTable {
		c.Minutes[a.id], c.Parts[a.id] = a.minutes, a.parts
	}
	return c
}

// ReadCosts reads a shop's costs strictly; what the document leaves out keeps its default. Figures below
// zero, unknown fields and unknown actions are faults, each with its path.
func ReadCosts(data []byte) (Costs, error) {
	c := DefaultCosts()
	d := json.NewDecoder(bytes.NewReader(data))
	d.DisallowUnknownFields()
	if err := d.Decode(&c); err != nil {
		return c, system.Faults{{Path: "$", Code: "fault.syntax", With: map[string]any{"line": 1, "detail": err.Error()}}}
	}
	return c, c.Check()
}

// CostBound is what a cost or its minutes may be, in the shop's money. Assumption.
var CostBound = units.Bound{Min: 0, Max: 1e7}

// Check holds costs against what they may be.
func (c *Costs) Check() error {
	var out system.Faults
	figure := func(path string, x float64) {
		if !CostBound.Holds(x) {
			out = append(out,
				system.Fault{Path: path, Code: "fault.range", With: map[string]any{"value": x, "min": CostBound.Min, "max": CostBound.Max}})
		}
	}
	figure("$.per_minute", c.PerMinute)
	figure("$.comeback", c.Comeback)
	figure("$.unsafe", c.Unsafe)
	figure("$.needless", c.Needless)
	for name, m := range map[string]map[string]float64{"parts": c.Parts, "minutes": c.Minutes} {
		for _, id := range slices.Sorted(maps.Keys(m)) {
			if findAction(id) == nil {
				out = append(out, system.Fault{Path: "$." + name + "." + id, Code: "fault.unknown"})
			}
			figure("$."+name+"."+id, m[id])
		}
	}
	return out.Err()
}

func (c *Costs) own(id string) float64 { return c.Minutes[id]*c.PerMinute + c.Parts[id] }
