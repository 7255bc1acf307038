package ledger

import (
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/system"
)

func pickup(t testing.TB) *system.System {
	t.Helper()
	s, err := system.FromPattern("pickup-front-rear-vacuum")
	require.NoError(t, err)
	return s
}

// Against an implementation of its own: many streamlines of a laminar pipe, each a plug of its own speed (twice the
// mean in the middle, nothing at the wall), with an inlet that changes. Derived from the parabolic profile.
func TestThePipeAgainstStreamlines(t *testing.T) {
	const rings, volume, dv = 3000, 40.0, 0.5
	type plug struct{ at, old float64 }
	lines := make([][]plug, rings) // what came in, by moved volume at entry
	p := newPipe(volume)
	p.turn(forward)
	inletAt := func(v float64) float64 { return 0.5 + 0.5*math.Cos(v/17) }
	moved := 0.0
	for range 300 {
		c := inletAt(moved)
		got := p.flow(dv, c)
		sum, weight := 0.0, 0.0
		for i := range lines {
			r2 := (float64(i) + 0.5) / rings // equal areas
			speed := 2 * (1 - r2)
			lines[i] = append(lines[i], plug{moved, c})
			// What is at the end after moved+dv/2 came in when the line's own way since was one pipe.
			came := moved + dv/2 - volume/speed
			old := 1.0
			if came >= 0 {
				old = lines[i][min(len(lines[i])-1, int(came/dv))].old
			}
			sum, weight = sum+old*speed, weight+speed
		}
		assert.InDelta(t, sum/weight, got, 0.004, "after %v", moved)
		moved += dv
	}
}

// How-it-computes, section 8.1: with 1/(4N²) of the old left after N volumes, on a constant fresh inlet.
func TestThePipeWashesOutAsTheModelSays(t *testing.T) {
	p := newPipe(10)
	p.turn(forward)
	assert.InDelta(t, 1, p.flow(5, 0), 1e-12, "nothing new for half a pipe")
	p.flow(15, 0)
	assert.InDelta(t, 1/(4*2.0*2.0), p.flow(1e-6, 0), 1e-6, "after two pipes")
	assert.InDelta(t, 10-5-(20-5)+10*through(2), p.content, 1e-5)
}

func TestOldFluidIsNeitherMadeNorLost(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 1))
	for _, pattern := range system.Patterns {
		s := pattern.Build()
		l := New(&s)
		whole := l.OldCM3()
		for range 400 {
			wheel := s.Wheels[r.IntN(len(s.Wheels))].ID
			was := l.OldCM3()
			switch r.IntN(10) {
			case 0:
				left := r.Float64() * 0.5 * l.State().LevelCM3
				require.NoError(t, l.Drain(&left))
			case 1, 2:
				require.NoError(t, l.Fill(nil))
			case 3:
				l.NewCylinder(r.IntN(2) == 0)
			case 4:
				require.NoError(t, l.Push(wheel, 60*r.Float64()))
			default:
				require.NoError(t, l.Draw(wheel, 30*r.Float64()))
			}
			require.InDelta(t, was, l.OldCM3(), 1e-6, pattern.ID)
			st := l.State()
			require.True(t, st.ReservoirOld >= 0 && st.ReservoirOld <= 1, "%s %v", pattern.ID, st)
			for _, w := range st.Wheels {
				require.True(t, w.LeavingOld >= -1e-6 && w.LeavingOld <= 1+1e-6, "%s %v", pattern.ID, w)
			}
		}
		assert.InDelta(t, whole, l.OldCM3(), 1e-6, pattern.ID)
	}
}

// Found: with the old fluid left in the reservoir the first two wheels of a pickup are "flushed" with it.
func TestTheReservoirThatIsNotEmptiedShows(t *testing.T) {
	s := pickup(t)
	flush := func(l *Ledger) State {
		for _, id := range []string{"RR", "LR", "RF", "LF"} {
			for range 40 {
				require.NoError(t, l.Draw(id, 5))
				require.NoError(t, l.Fill(nil))
			}
		}
		return l.State()
	}
	kept := flush(New(s))
	drained := New(s)
	require.NoError(t, drained.Drain(nil))
	require.NoError(t, drained.Fill(nil))
	fresh := flush(drained)
	assert.Less(t, fresh.Wheels["RR"].LeavingOld, 0.10)
	assert.Greater(t, kept.Wheels["RR"].LeavingOld, 0.5)
	for _, id := range []string{"RR", "LR", "RF", "LF"} {
		assert.Less(t, fresh.Wheels[id].LeavingOld, kept.Wheels[id].LeavingOld, id)
	}
	// By hand: 5 % of the full reservoir is left and filled up with fresh.
	l := New(s)
	require.NoError(t, l.Drain(nil))
	assert.InDelta(t, 0.05*s.Reservoir.FullCM3, l.State().LevelCM3, 1e-9)
	require.NoError(t, l.Fill(nil))
	assert.InDelta(t, 0.05, l.State().ReservoirOld, 1e-12)
}

func TestRunDryAndOverTheBrim(t *testing.T) {
	s := pickup(t)
	full, lowest := s.Reservoir.FullCM3, s.Reservoir.LowestPortCM3
	l := New(s)
	require.NoError(t, l.Draw("RR", full-lowest))
	assert.Empty(t, l.State().Dry, "to the port and no further")
	require.NoError(t, l.Draw("LF", 10))
	st := l.State()
	assert.Equal(t, []string{"A"}, st.Dry)
	assert.InDelta(t, lowest, st.LevelCM3, 1e-9, "it stops there")
	assert.Zero(t, st.Wheels["LF"].ThroughCM3)
	require.NoError(t, l.Push("RR", 100))
	assert.InDelta(t, lowest+100, l.State().LevelCM3, 1e-9)
	require.NoError(t, l.Push("RR", full))
	st = l.State()
	assert.InDelta(t, full, st.LevelCM3, 1e-9)
	assert.InDelta(t, lowest+100, st.OverCM3, 1e-6, "on the paint")
	assert.Less(t, st.Wheels["RR"].LeavingOld, 0.01, "fresh came in there")
}

// Moved in one go or in a hundred, it is the same fluid.
func TestStepsDoNotMatter(t *testing.T) {
	s := pickup(t)
	one, many := New(s), New(s)
	require.NoError(t, one.Drain(nil))
	require.NoError(t, one.Fill(nil))
	require.NoError(t, many.Drain(nil))
	require.NoError(t, many.Fill(nil))
	require.NoError(t, one.Draw("RR", 150))
	for range 100 {
		require.NoError(t, many.Draw("RR", 1.5))
	}
	a, b := one.State(), many.State()
	assert.InDelta(t, b.LevelCM3, a.LevelCM3, 1e-9)
	assert.InDelta(t, b.Wheels["RR"].LeavingOld, a.Wheels["RR"].LeavingOld, 2e-3)
}

// Source: Richardson's rule on the ledger's own steps. Halving what is moved at once changes what a stroke leaves by no
// more than the step itself claims: with steps of a twelfth of the smallest volume on the way, a part in a thousand.
func TestAStepIsSmallEnough(t *testing.T) {
	s := pickup(t)
	for _, stroke := range []float64{6.75, 30, 90} {
		whole, fine := New(s), New(s)
		for _, l := range []*Ledger{whole, fine} {
			require.NoError(t, l.Drain(nil))
			require.NoError(t, l.Fill(nil))
		}
		n := int(180 / stroke)
		for range n {
			require.NoError(t, whole.Draw("LF", stroke))
			for range 64 {
				require.NoError(t, fine.Draw("LF", stroke/64))
			}
			assert.InDelta(t, fine.Leaving("LF"), whole.Leaving("LF"), 1.5e-3, "strokes of %v cm³", stroke)
		}
	}
}

func TestEventsAreChecked(t *testing.T) {
	s := pickup(t)
	for _, bad := range []string{`{"events":[{"kind":"stir"}]}`, `{"events":[{"kind":"draw","wheel":"XX","cm3":5}]}`, `{"events":[{"kind":"draw","wheel":"RR","cm3":-5}]}`,
		`{"events":[{"kind":"fill","to_cm3":0}]}`, `{"events":[{"kind":"drain","left_cm3":1e9}]}`, `{"events":[{"kind":"draw","wheel":"RR","cm3":1e6}]}`} {
		e, err := Read(strings.NewReader(bad))
		if err == nil {
			_, err = Run(s, e.Events)
		}
		assert.Error(t, err, bad)
	}
	for _, bad := range []string{`{"events":[{"kind":"draw","cc":5}]}`, `[]`, `{`} {
		_, err := Read(strings.NewReader(bad))
		assert.Error(t, err, bad)
	}
	e, err := Read(
		strings.NewReader(
			`{"events":[{"kind":"drain","left_cm3":20},{"kind":"fill"},{"kind":"new_cylinder"},{"kind":"draw","wheel":"RR","cm3":12.5}]}`,
		),
	)
	require.NoError(t, err)
	states, err := Run(s, e.Events)
	require.NoError(t, err)
	require.Len(t, states, 4)
	assert.InDelta(t, 12.5, states[3].Wheels["RR"].ThroughCM3, 1e-12)
}

func strokes(l *Ledger) {
	wheels := []string{"RR", "LR", "RF", "LF"}
	for i := range 500 {
		_ = l.Draw(wheels[i/125], 5.2)
		if i%20 == 19 {
			_ = l.Fill(nil)
		}
	}
}

func BenchmarkFiveHundredStrokes(b *testing.B) {
	s := pickup(b)
	for b.Loop() {
		strokes(New(s))
	}
}

func BenchmarkOneMoreStroke(b *testing.B) {
	l := New(pickup(b))
	strokes(l)
	for b.Loop() {
		_ = l.Fill(nil)
		_ = l.Draw("LF", 5.2)
	}
}

// A ledger of levels alone says of them what the whole one says, and a clone goes its own way.
func TestLevelsAloneAndClones(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 7))
	for _, pattern := range system.Patterns {
		s := pattern.Build()
		whole, levels := New(&s), Levels(&s)
		for range 120 {
			e := Event{Kind: KindDraw, Wheel: s.Wheels[r.IntN(len(s.Wheels))].ID, CM3: 25 * r.Float64()}
			switch r.IntN(6) {
			case 0:
				e = Event{Kind: KindFill}
			case 1:
				e = Event{Kind: KindPush, Wheel: e.Wheel, CM3: 50 * r.Float64()}
			case 2:
				e = Event{Kind: KindDrain}
			}
			require.NoError(t, whole.Apply(e))
			require.NoError(t, levels.Apply(e))
			a, b := whole.State(), levels.State()
			require.InDelta(t, a.LevelCM3, b.LevelCM3, 1e-9)
			require.InDelta(t, a.OverCM3, b.OverCM3, 1e-9)
			require.Equal(t, a.Dry, b.Dry)
			for id := range a.Wheels {
				require.InDelta(t, a.Wheels[id].ThroughCM3, b.Wheels[id].ThroughCM3, 1e-9)
			}
		}
		was := whole.State()
		c := whole.Clone()
		require.Equal(t, was, c.State())
		require.NoError(t, c.Draw(s.Wheels[0].ID, 10))
		require.NoError(t, c.Fill(nil))
		require.Equal(t, was, whole.State())
		assert.InDelta(t, whole.OldCM3(), c.OldCM3(), 1e-6)
	}
}

// A bottle on the reservoir: what leaves is made up for as it leaves, so its old share falls as e^(−V/L) (arithmetic of
// a mixed tank with inflow), nothing runs dry, and old fluid is neither made nor lost.
func TestAFeedBottleKeepsTheReservoirFull(t *testing.T) {
	s := pickup(t)
	for _, l := range []*Ledger{New(s), Levels(s)} {
		whole := l.OldCM3()
		for range 300 {
			require.NoError(t, l.Apply(Event{Kind: KindDraw, Wheel: "RR", CM3: 7, Fed: true}))
		}
		level, full, _ := l.Level("B")
		assert.Equal(t, full, level)
		assert.Empty(t, l.Dry())
		assert.InDelta(t, 2100, l.Poured(), 1e-9)
		if !l.levelsOnly {
			assert.InDelta(t, math.Exp(-2100/full), l.InReservoir("B"), 0.002)
			assert.InDelta(t, whole, l.OldCM3(), 1e-6)
		}
	}
}

// A cylinder that goes on dry holds air until its chamber's volume has followed.
func TestACylinderThatGoesOnDryHoldsAir(t *testing.T) {
	s := pickup(t)
	l := New(s)
	l.NewCylinder(true)
	assert.Equal(t, 1.0, l.AirIn("B"))
	chamber := s.ChamberCM3(s.CircuitOf("RR"))
	require.NoError(t, l.Draw("RR", chamber/4))
	assert.InDelta(t, 0.75, l.AirIn(s.CircuitOf("RR")), 1e-9)
	require.NoError(t, l.Draw("RR", chamber))
	assert.Zero(t, l.AirIn(s.CircuitOf("RR")))
	assert.Equal(t, 1.0, l.AirIn(s.CircuitOf("LF")), "the other circuit's is its own")
	l.NewCylinder(false)
	assert.Zero(t, l.AirIn(s.CircuitOf("LF")), "bench bled")
}

// Lines that have a part in common: it is washed once. The wheel bled second needs less than its own whole way would;
// where nothing is in common the same figures come out as ever; old fluid is neither made nor lost.
func TestALineInCommonIsWashedOnce(t *testing.T) {
	s, err := system.FromPattern("trailer-surge")
	require.NoError(t, err)
	apart := s.Clone()
	apart.Circuits[0].SharedMM = nil
	assert.InDelta(t, math.Pi*3.4*3.4/4*3200/1000, s.SharedCM3("A"), 1e-9)
	assert.Zero(t, apart.SharedCM3("A"))
	wash := func(s *system.System, wheel string, l *Ledger) (cm3 float64) {
		for l.Leaving(wheel) > 0.1 {
			require.NoError(t, l.Feed(wheel, 1))
			cm3++
		}
		return cm3
	}
	one, two := New(s), New(apart)
	for _, l := range []*Ledger{one, two} {
		l.Flush()
	}
	whole := one.OldCM3()
	firstOne, firstTwo := wash(s, "R2", one), wash(apart, "R2", two)
	assert.InDelta(t, firstTwo, firstOne, 0.1*firstTwo, "the first wheel's way is as long")
	secondOne, secondTwo := wash(s, "L2", one), wash(apart, "L2", two)
	assert.Less(t, secondOne, 0.75*secondTwo)
	assert.InDelta(t, whole, one.OldCM3(), 1e-6)
}
