package units

// Bound is what a figure may be, in the core's own unit: the least and the most, both allowed.
type Bound struct {
	Min float64 `json:"min"`
	Max float64 `json:"max"`
}

// Holds says whether a figure lies within; no figure at all (NaN) lies nowhere.
func (b Bound) Holds(v float64) bool { return v >= b.Min && v <= b.Max }
