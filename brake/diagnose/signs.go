package diagnose

import (
	"math"
	"slices"
)

// Origin says where a likelihood comes from. No published frequency is known for any of them.
type Origin string

const (
	// Named: the trade names this sign for this fault (common practice, no source); the figure that
	// stands for it is an assumption.
	Named Origin = "named"
	// Follows: it follows from how the part works; the figure is an assumption.
	Follows Origin = "follows"
	// Guess: plain assumption, for want of anything better.
	Guess Origin = "guess"
	// Twin: the twin's prediction over a severity grid and the reading's stated accuracy.
	Twin Origin = "twin"
)

// Given is P(value | fault) over a sign's values, with a note of its origin.
type Given struct {
	P      []float64
	Origin Origin
}

func n(p ...float64) Given { return Given{p, Named} }
func f(p ...float64) Given { return Given{p, Follows} }
func g(p ...float64) Given { return Given{p, Guess} }

// Sign is one observation with a closed set of values.
type Sign struct {
	ID     string
	Values []string         // the unremarkable one first
	Base   []float64        // in a vehicle without a fault that shows here; always a guess
	Given  map[string]Given // by fault id
}

// yesNo is a sign with the values no and yes, stated by P(yes).
func yesNo(id string, base float64, given map[string]Given) Sign {
	s := Sign{id, []string{"no", "yes"}, []float64{1 - base, base}, map[string]Given{}}
	for fault, x := range given {
		s.Given[fault] = Given{[]float64{1 - x.P[0], x.P[0]}, x.Origin}
	}
	return s
}

// holds is a sign whose unremarkable value is yes, stated by P(yes).
func holds(id string, base float64, given map[string]Given) Sign {
	s := Sign{id, []string{"yes", "no"}, []float64{base, 1 - base}, map[string]Given{}}
	for fault, x := range given {
		s.Given[fault] = Given{[]float64{x.P[0], 1 - x.P[0]}, x.Origin}
	}
	return s
}

// wet builds the yes/no sign of one wet place; "wet.at" is a list, so each place is a sign.
func wet(place string, base float64, given map[string]Given) Sign {
	return yesNo("wet.at:"+place, base, given)
}

func since(event string, base float64, given map[string]Given) Sign {
	return yesNo("history.since:"+event, base, given)
}

// Combine is P(value | the faults that show here, each with its own row). Faults that show act as independent causes:
// the unremarkable value needs all to stay hidden, the others are shared in proportion.
func (s *Sign) Combine(rows ...[]float64) []float64 {
	switch len(rows) {
	case 0:
		return s.Base
	case 1:
		return rows[0]
	}
	out := rows[0]
	for _, b := range rows[1:] {
		a := out
		out = make([]float64, len(s.Values))
		out[0] = min(a[0]*b[0]/max(0.02, s.Base[0]), a[0], b[0])
		sum := 2 - a[0] - b[0]
		for v := 1; v < len(out); v++ {
			out[v] = (1 - out[0]) * (a[v] + b[v]) / max(1e-9, sum)
		}
	}
	return out
}

// tableDoubt is the share of every likelihood that is taken as no evidence, because the table itself
// may be wrong. Assumption; the trial shows what it is worth.
const tableDoubt = 0.02

// measuredDoubt is that share of a sign that is the fault itself, measured: what it means is not in doubt, its reading
// may be. Assumption.
const measuredDoubt = 0.004

// doubts mixes the likelihoods of a sign's values, by their place, with no evidence.
func (s *Sign) doubts() func(v int, p float64) float64 {
	share := tableDoubt
	if s.isItself() {
		share = measuredDoubt
	}
	none := make([]float64, len(s.Base))
	for v := range none {
		none[v] = share * blank(s.Base, v)
	}
	return func(v int, p float64) float64 { return (1-share)*p + none[v] }
}

// blank is what a value is worth as no evidence: between as likely as any other and as seldom as a sound vehicle shows
// it (in proportion to the root of that), so that a value hardly ever seen is not made common by doubt alone.
func blank(base []float64, v int) float64 {
	sum := 0.0
	for _, p := range base {
		sum += math.Sqrt(p)
	}
	return math.Sqrt(base[v]) / sum
}

func findSign(id string) *Sign {
	for i := range Signs {
		if Signs[i].ID == id {
			return &Signs[i]
		}
	}
	return nil
}

func step(x float64, limits ...float64) int {
	n, _ := slices.BinarySearch(limits, x)
	if n < len(limits) && limits[n] == x {
		n++
	}
	return n
}
