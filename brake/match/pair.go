package match

// The one pairing of an old unit's ports with a new one's: what Match says, the kit holds, the line map shows and the
// bench screws in all come from it. A line goes where its circuit is; among ports of a circuit, where least has to be
// made.

// How an old line gets to its new port.
type How string

// Ways, the least work first.
const (
	AsItWas  How = "same"
	TurnIt   How = "turn"    // a banjo's eye turned on its bolt
	Adapter  How = "adapter" // another thread on the same seat
	NewLine  How = "line"    // made anew: another seat, side or place
	NoPort   How = "none"    // nothing of its circuit is left: it does not go
	NotKnown How = "unknown" // something of the two has yet to be measured
)

// What parts two ports.
const (
	DiffersThread = "thread"
	DiffersSeat   = "seat"
	DiffersSide   = "side"
)

// Pair is an old port with the new one its line goes to.
type Pair struct {
	Old Port  `json:"old"`
	New *Port `json:"new"` // nil where there is none for its circuit
	How How   `json:"how"`
	// Swapped: its circuit leaves the new unit at another place.
	Swapped bool `json:"swapped"`
	// ByPlace: the units do not both say which circuit these ports feed; the place decided, as tandem units are built.
	ByPlace bool     `json:"by_place"`
	Differs []string `json:"differs"`
	// Flare and CutMM are of a line to make; CutMM is nil where its way was not measured.
	Flare string   `json:"flare,omitempty"`
	CutMM *float64 `json:"cut_mm,omitempty"`
}

// work is what a way costs, in no unit: the pairing with the least is taken. A port too few costs more than all lines
// anew.
var work = map[How]int{AsItWas: 0, TurnIt: 1, Adapter: 2, NotKnown: 3, NewLine: 4, NoPort: 1000}

// Where the work is the same, thread counts before seat, seat before side, side before place.
const (
	workWeight, byPlaceWeight                      = 1000, 200
	threadWeight, seatWeight, sideWeight, atWeight = 27, 9, 3, 1
)

// PairPorts pairs them, and gives the new ports that are left, to be plugged.
func PairPorts(old, unit []Port) (pairs []Pair, spare []Port) {
	best, cost := []int(nil), 0
	taken := make([]bool, len(unit))
	at := make([]int, 0, len(old))
	var try func(sum int)
	try = func(sum int) {
		if best != nil && sum >= cost {
			return
		}
		if len(at) == len(old) {
			best, cost = append([]int{}, at...), sum
			return
		}
		o := old[len(at)]
		for i, n := range unit {
			if taken[i] || !mayPair(o, n) {
				continue
			}
			taken[i] = true
			at = append(at, i)
			try(sum + pairCost(o, n))
			at = at[:len(at)-1]
			taken[i] = false
		}
		at = append(at, -1)
		try(sum + work[NoPort]*workWeight)
		at = at[:len(at)-1]
	}
	try(0)
	used := map[int]bool{}
	for i, o := range old {
		if best[i] < 0 {
			pairs = append(pairs, Pair{Old: o, How: NoPort, Differs: []string{}})
			continue
		}
		used[best[i]] = true
		pairs = append(pairs, pairOf(o, unit[best[i]]))
	}
	for i, n := range unit {
		if !used[i] {
			spare = append(spare, n)
		}
	}
	return pairs, spare
}

// mayPair: two ports that are both known to feed different circuits never do.
func mayPair(o, n Port) bool { return o.Circuit == "" || n.Circuit == "" || o.Circuit == n.Circuit }

func pairCost(o, n Port) int {
	p := pairOf(o, n)
	sum := work[p.How] * workWeight
	if p.ByPlace && p.Swapped { // the place is all there is to go by
		sum += byPlaceWeight * workWeight
	}
	for _, d := range p.Differs {
		sum += map[string]int{DiffersThread: threadWeight, DiffersSeat: seatWeight, DiffersSide: sideWeight}[d]
	}
	if p.Swapped {
		sum += atWeight
	}
	return sum
}

// pairOf says what it takes to get from one to the other.
func pairOf(o, n Port) Pair {
	p := Pair{Old: o, New: &n, How: AsItWas, Differs: []string{}, ByPlace: o.Circuit == "" || n.Circuit == ""}
	p.Swapped = o.Position != "" && n.Position != "" && o.Position != n.Position
	known := true
	for _, d := range []struct{ what, old, unit string }{{DiffersThread, o.Thread, n.Thread}, {DiffersSeat, o.Seat, n.Seat}, {DiffersSide, o.Side, n.Side}} {
		known = known && d.old != "" && d.unit != ""
		if d.old != "" && d.unit != "" && d.old != d.unit {
			p.Differs = append(p.Differs, d.what)
		}
	}
	has := func(what string) bool {
		for _, d := range p.Differs {
			if d == what {
				return true
			}
		}
		return false
	}
	moved := p.Swapped || has(DiffersSide)
	switch {
	case o.NewLine, has(DiffersSeat), moved && !(n.Seat == SeatBanjo && !p.Swapped):
		p.How, p.Flare, p.CutMM = NewLine, FlareFor(firstOf(n.Seat, o.Seat)), CutMM(o.RunMM, moved)
	case !known:
		p.How = NotKnown
	case has(DiffersThread):
		p.How = Adapter
	case moved:
		p.How = TurnIt
	}
	return p
}

// SeatBanjo is an eye on a hollow bolt, which turns.
const SeatBanjo = "banjo"

func firstOf(a, b string) string {
	if a != "" {
		return a
	}
	return b
}

// pairPoint is what a pair comes to for the fit; the gravest difference names it, and what to buy adds up.
func pairPoint(p Pair) Point {
	out := Point{ID: "port_" + p.Old.Position, Verdict: Same, Code: "match.same", Port: p.New, RunMM: p.Old.RunMM, Pair: &p}
	if p.How == NoPort {
		out.Verdict, out.Code, out.With = DoesNotFit, "match.port.missing", map[string]any{
			"position": p.Old.Position,
			"circuit":  p.Old.Circuit,
		}
		return out
	}
	out.With = map[string]any{"value": p.New.Thread}
	differ := func(code, was, is string) {
		out.Verdict, out.Code, out.With = FitsWith, code, map[string]any{"old": was, "new": is}
	}
	if p.How == NotKnown {
		u := unknown(out.ID, p.Old.Thread == "" || p.Old.Seat == "" || p.Old.Side == "")
		u.Port, u.RunMM, u.Pair = out.Port, out.RunMM, out.Pair
		return u
	}
	for _, d := range p.Differs { // thread, seat, side: what is told is the gravest, a seat before the others
		switch d {
		case DiffersThread:
			differ("match.port.thread", p.Old.Thread, p.New.Thread)
		case DiffersSide:
			if p.How == TurnIt {
				differ("match.port.turn", p.Old.Side, p.New.Side)
			} else {
				differ("match.port.side", p.Old.Side, p.New.Side)
			}
		}
	}
	for _, d := range p.Differs {
		if d == DiffersSeat {
			differ("match.port.seat", p.Old.Seat, p.New.Seat)
		}
	}
	if p.Swapped { // its line goes where its circuit is
		out.Verdict, out.Code, out.With = FitsWith, "match.port.swapped", map[string]any{
			"circuit": p.Old.Circuit,
			"old":     p.Old.Position,
			"new":     p.New.Position,
		}
	}
	switch p.How {
	case NewLine:
		out.Buy = append(out.Buy, "line_length")
		if p.New.Seat != p.Old.Seat || p.New.Thread != p.Old.Thread {
			out.Buy = append(out.Buy, "tube_nut_"+p.New.Seat)
		}
	case Adapter:
		out.Buy = append(out.Buy, "port_adapter")
		out.With["adapter"] = p.Old.Thread + " → " + p.New.Thread
	}
	return out
}
