package diagnose

import (
	"cmp"
	"encoding/json"
	"math"
	"slices"
)

// Experience is what a shop has found on one kind of vehicle: in how many closed jobs each fault really was. It moves
// the priors; the table stays the start (how-it-computes, section 10).
type Experience struct {
	Jobs   int            `json:"jobs"`
	Counts map[string]int `json:"counts"`
	// Signs are how often each sign showed each of its values where a fault really was: by sign, by fault, by value in
	// the sign's order. Counts alone: no vehicle and nobody can be read out of them.
	Signs map[string]map[string][]int `json:"signs,omitempty"`
}

// signWeight is how many sightings the table's own likelihoods are worth.
const signWeight = 50

// Seen are the likelihoods of a sign's values with a fault after a shop's sightings: (α·table + counts)/(α + n), held
// above the floors of a prior's share (a sign of what can take the brakes away never falls under half the table's), and
// made to add up.
func (x *Experience) Seen(s *Sign, fault string, table []float64) []float64 {
	if x == nil {
		return table
	}
	counts := x.Signs[s.ID][fault]
	n := 0
	for _, c := range counts {
		n += c
	}
	if n == 0 || len(counts) != len(table) {
		return table
	}
	least := floor
	if f := findFault(fault); f != nil && f.Unsafe {
		least = unsafeFloor
	}
	out, sum := make([]float64, len(table)), 0.0
	for v, p := range table {
		out[v] = math.Max((signWeight*p+float64(counts[v]))/(signWeight+float64(n)), least*p)
		sum += out[v]
	}
	for v := range out {
		out[v] /= sum
	}
	return out
}

// See counts, so many times, what signs showed where a fault really was.
func (x *Experience) See(fault string, seen map[string]string, times int) {
	if x.Signs == nil {
		x.Signs = map[string]map[string][]int{}
	}
	for id, value := range seen {
		s := findSign(id)
		if s == nil {
			continue
		}
		v := slices.Index(s.Values, value)
		if v < 0 {
			continue
		}
		if x.Signs[id] == nil {
			x.Signs[id] = map[string][]int{}
		}
		if len(x.Signs[id][fault]) != len(s.Values) {
			x.Signs[id][fault] = make([]int, len(s.Values))
		}
		x.Signs[id][fault][v] += times
	}
}

// SeenIn are the signs of a case that were sure, with what they showed.
func SeenIn(c *Case) map[string]string {
	out := map[string]string{}
	all, err := observeAll(c.System, c.Findings)
	if err != nil {
		return out
	}
	for i := range all {
		if o := &all[i]; o.sign != nil && o.sure {
			out[o.sign.ID] = o.value
		}
	}
	return out
}

// CheckSigns says whether counts of signs are ones this table has, none below zero or above most.
func (x *Experience) CheckSigns(most int) bool {
	for id, faults := range x.Signs {
		s := findSign(id)
		for fault, counts := range faults {
			if s == nil || findFault(fault) == nil || len(counts) != len(s.Values) {
				return false
			}
			for _, n := range counts {
				if n < 0 || n > most {
					return false
				}
			}
		}
	}
	return true
}

// SignShown is what a shop has seen of a sign where a fault was, for a screen: "here, it showed this in 9 of 11".
type SignShown struct {
	Sign  string  `json:"sign"`
	Fault string  `json:"fault"`
	Value string  `json:"value"`
	Seen  int     `json:"seen"`
	Of    int     `json:"of"`
	Table float64 `json:"table"`
	Now   float64 `json:"now"`
}

// leastSeen sightings are shown, and no fewer. Assumption.
const leastSeen = 5

// SignsShown lists, of every sign and fault with enough sightings, the value seen most, those moved farthest first.
func (x *Experience) SignsShown() []SignShown {
	out := []SignShown{}
	for i := range Signs {
		s := &Signs[i]
		for fault, counts := range x.Signs[s.ID] {
			given, known := s.Given[fault]
			if !known || len(counts) != len(s.Values) {
				continue
			}
			n, at := 0, 0
			for v, c := range counts {
				if n += c; c > counts[at] {
					at = v
				}
			}
			if n >= leastSeen {
				out = append(out, SignShown{s.ID, fault, s.Values[at], counts[at], n, given.P[at], x.Seen(s, fault, given.P)[at]})
			}
		}
	}
	slices.SortFunc(out, func(a, b SignShown) int {
		return cmp.Or(cmp.Compare(math.Abs(b.Now-b.Table), math.Abs(a.Now-a.Table)), cmp.Compare(a.Sign, b.Sign),
			cmp.Compare(a.Fault, b.Fault))
	})
	return out
}

// experienceWeight is how many jobs the table's own priors are worth.
const experienceWeight = 200

// Floors a prior never falls under, as shares of the table's: a fault that can take the brakes away is looked for
// however seldom a shop has met it. experienceMost keeps one fault from leaving no room for another. Assumptions.
const (
	unsafeFloor, floor = 0.5, 0.1
	experienceMost     = 0.4
)

// Moved is a fault's prior at one of its places after a shop's experience: (α·table + counts)/(α + n), the counts
// shared among its places.
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
	if x == nil || x.Jobs <= 0 && len(x.Signs) == 0 {
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

// enoughJobs is how many closed jobs of a kind of vehicle let its signs be counted by themselves; below, all kinds'
// are. Assumption.
const enoughJobs = 100

// ExperienceOf is what counts for one kind of vehicle: how often each fault was met there, and what signs showed there,
// or where too little was seen there on any vehicle. Nil where nothing is known.
func ExperienceOf(kind string, all map[string]Experience) *Experience {
	own, known := all[kind]
	if own.Jobs >= enoughJobs {
		return &own
	}
	out := Experience{Jobs: own.Jobs, Counts: own.Counts}
	for _, x := range all {
		for sign, faults := range x.Signs {
			s := findSign(sign)
			for fault, counts := range faults {
				for v, n := range counts {
					if s != nil && n > 0 && v < len(s.Values) {
						out.See(fault, map[string]string{sign: s.Values[v]}, n)
						known = true
					}
				}
			}
		}
	}
	if !known {
		return nil
	}
	return &out
}
