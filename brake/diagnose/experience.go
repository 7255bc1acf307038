package diagnose

import (
	"encoding/json"
	"math"
)

// Experience is what a shop has found on one kind of vehicle: in how many closed jobs each fault really was. It moves the
// priors; the table stays the start (how-it-computes, section 10).
type Experience struct {
	Jobs   int            `json:"jobs"`
	Counts map[string]int `json:"counts"`
}

// experienceWeight is how many jobs the table's own priors are worth.
const experienceWeight = 200

// Floors a prior never falls under, as shares of the table's: a fault that can take the brakes away is looked for however
// seldom a shop has met it. experienceMost keeps one fault from leaving no room for another. Assumptions.
const (
	unsafeFloor, floor = 0.5, 0.1
	experienceMost     = 0.4
)

// Moved is a fault's prior at one of its places after a shop's experience: (α·table + counts)/(α + n), the counts shared
// among its places.
func (x *Experience) Moved(f *Fault, table float64, places int) float64 {
	if x == nil || x.Jobs <= 0 {
		return table
	}
	n, count := float64(x.Jobs), float64(x.Counts[f.ID])/float64(max(1, places))
	moved := (experienceWeight*table + count) / (experienceWeight + n)
	least := floor
	if f.Unsafe {
		least = unsafeFloor
	}
	return math.Min(experienceMost, math.Max(least*table, moved))
}

func (x *Experience) key() string {
	if x == nil || x.Jobs <= 0 {
		return ""
	}
	raw, _ := json.Marshal(x)
	return string(raw)
}

// PriorShown is a prior before and after, for a screen.
type PriorShown struct {
	ID    string  `json:"id"`
	Table float64 `json:"table"`
	Now   float64 `json:"now"`
	Count int     `json:"count"`
}

// Shown lists every fault with its prior before and after.
func (x *Experience) Shown() []PriorShown {
	out := []PriorShown{}
	for i := range Faults {
		f := &Faults[i]
		p := PriorShown{ID: f.ID, Table: f.Prior, Now: x.Moved(f, f.Prior, 1)}
		if x != nil {
			p.Count = x.Counts[f.ID]
		}
		out = append(out, p)
	}
	return out
}
