package match

import (
	"cmp"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func port(at, side, thread, seat, circuit string) Port {
	return Port{Position: at, Side: side, Thread: thread, Seat: seat, Circuit: circuit}
}

// Common practice, no source: a line goes where its circuit is, whatever place that has on the new unit.
func TestALineGoesToItsCircuit(t *testing.T) {
	old := []Port{port("front", "left", "3/8-24", "inverted_flare", "B"), port("rear", "left", "1/2-20", "inverted_flare", "A")}
	swapped := []Port{port("front", "left", "1/2-20", "inverted_flare", "A"), port("rear", "left", "3/8-24", "inverted_flare", "B")}
	pairs, spare := PairPorts(old, swapped)
	assert.Empty(t, spare)
	for _, p := range pairs {
		assert.True(t, p.Swapped)
		assert.Equal(t, NewLine, p.How, "it reaches elsewhere")
		assert.Equal(t, p.Old.Circuit, p.New.Circuit)
		assert.Empty(t, p.Differs, "each thread is the one it was: no adapter")
	}
	// Four ports, the right side listed first: the lines go on as they are.
	four := []Port{
		port("front", "left", "M10x1", "bubble", "B"),
		port("front", "right", "M10x1", "bubble", "B"),
		port("rear", "left", "M12x1", "bubble", "A"),
		port("rear", "right", "M12x1", "bubble", "A"),
	}
	turned := []Port{four[1], four[0], four[3], four[2]}
	pairs, _ = PairPorts(four, turned)
	for _, p := range pairs {
		assert.Equal(t, AsItWas, p.How)
	}
	// A unit that does not say which port feeds what: by place, and other threads and seats are told all the same.
	unsaid := []Port{port("rear", "left", "M10x1", "bubble", ""), port("front", "left", "M12x1", "inverted_flare", "")}
	pairs, _ = PairPorts(old, unsaid)
	assert.Equal(t, []How{Adapter, NewLine}, []How{pairs[0].How, pairs[1].How})
	assert.True(t, pairs[0].ByPlace)
	assert.False(t, pairs[0].Swapped)
	// A banjo's eye turns on its bolt; a line that is made anew anyhow is one.
	pairs, _ = PairPorts([]Port{port("front", "left", "M10x1", "banjo", "B")}, []Port{port("front", "right", "M10x1", "banjo", "B")})
	assert.Equal(t, TurnIt, pairs[0].How)
	wish := old[0]
	wish.NewLine = true
	pairs, _ = PairPorts([]Port{wish}, old[:1])
	assert.Equal(t, NewLine, pairs[0].How)
	pairs, spare = PairPorts(old,
		[]Port{port("front", "left", "3/8-24", "inverted_flare", "B"), port("third", "left", "3/8-24", "inverted_flare", "B")})
	assert.Equal(t, NoPort, pairs[1].How, "nothing of its circuit is left")
	assert.Len(t, spare, 1)
}

// mark is what a whole pairing comes to, told apart from the code's own weights: lines that find nothing, places
// guessed wrong, the work, and what differs.
func mark(old, unit []Port, at []int) [5]int {
	var m [5]int
	for i, j := range at {
		if j < 0 {
			m[0]++
			continue
		}
		o, n := old[i], unit[j]
		elsewhere := o.Position != n.Position
		if elsewhere && (o.Circuit == "" || n.Circuit == "") {
			m[1]++
		}
		thread, seat, side := o.Thread != n.Thread, o.Seat != n.Seat, o.Side != n.Side
		switch banjo := n.Seat == "banjo"; {
		case o.NewLine || seat || elsewhere || side && !banjo:
			m[2] += 4
		case thread:
			m[2] += 2
		case side:
			m[2]++
		}
		for k, differs := range []bool{thread, seat, side, elsewhere} {
			if differs {
				m[3] += []int{27, 9, 3, 1}[k]
			}
		}
	}
	return m
}

// Every pairing of up to four ports against all there are.
func TestThePairingIsTheLeastWork(t *testing.T) {
	r := rand.New(rand.NewPCG(25, 4))
	pick := func(of ...string) string { return of[r.IntN(len(of))] }
	some := func(n int, unsaid bool) (out []Port) {
		for range n {
			c := pick("A", "B")
			if unsaid && r.IntN(3) == 0 {
				c = ""
			}
			out = append(
				out,
				Port{
					Position: pick("front", "rear"),
					Side:     pick("left", "right", "below"),
					Thread:   pick("3/8-24", "M10x1", "M12x1"),
					Seat:     pick("inverted_flare", "bubble", "banjo"),
					Circuit:  c,
					NewLine:  r.IntN(9) == 0,
				},
			)
		}
		return out
	}
	for range 6000 {
		old, unit := some(1+r.IntN(4), false), some(1+r.IntN(4), true)
		var best [5]int
		first := true
		var all func(at []int)
		all = func(at []int) {
			if len(at) == len(old) {
				if m := mark(old, unit, at); first || slices.Compare(m[:], best[:]) < 0 {
					best, first = m, false
				}
				return
			}
			all(append(slices.Clone(at), -1))
			for j := range unit {
				if !slices.Contains(at, j) && (unit[j].Circuit == "" || unit[j].Circuit == old[len(at)].Circuit) {
					all(append(slices.Clone(at), j))
				}
			}
		}
		all(nil)
		pairs, spare := PairPorts(old, unit)
		require.Len(t, pairs, len(old))
		at, free := []int{}, slices.Clone(unit)
		for i, p := range pairs {
			require.Equal(t, old[i], p.Old)
			if p.New == nil {
				at = append(at, -1)
				continue
			}
			at = append(at, slices.IndexFunc(unit, func(u Port) bool { return u == *p.New }))
			free = slices.Delete(free, slices.Index(free, *p.New), slices.Index(free, *p.New)+1)
			require.True(t, p.New.Circuit == "" || p.New.Circuit == p.Old.Circuit, "never across circuits")
		}
		got := mark(old, unit, at)
		require.Equal(t, best, got, "%v onto %v: %v", old, unit, pairs)
		require.ElementsMatch(t, free, spare)
		// In whatever order the new unit's ports are listed, it comes to the same.
		slices.SortFunc(unit, func(a, b Port) int { return cmp.Compare(a.Thread+a.Side, b.Thread+b.Side) })
		again, _ := PairPorts(old, unit)
		sum := func(ps []Pair) (n int) {
			for _, p := range ps {
				n += work[p.How]
			}
			return n
		}
		require.Equal(t, sum(pairs), sum(again))
	}
}
