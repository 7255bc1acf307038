package photo_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/mat"

	"geminate/brake/photo"
	"geminate/brake/system"
	"geminate/ground/darkroom"
)

// shot is one made picture's setting: a camera over a card and a flange.
type shot struct {
	darkroom.Camera
	spacingMM, turnDeg, cardTurnDeg, heightMM float64
}

// made draws the settings of a picture: 12 to 60° of slant, three lenses, a card lying beside or on the plane.
func made(seed uint64) shot {
	r := rand.New(rand.NewPCG(seed, 41))
	in := func(lo, hi float64) float64 { return lo + (hi-lo)*r.Float64() }
	return shot{
		darkroom.Camera{WidePX: 1280, HighPX: 960, FieldDeg: in(65, 75), AwayMM: in(230, 330), SlantDeg: in(12, 60),
			RoundDeg: in(0, 360), RollDeg: in(-180, 180), AtXMM: in(-6, 6), AtYMM: in(-6, 6), Bend: []float64{-0.05, 0, 0.05}[r.IntN(3)],
			Seed: seed},
		in(60, 110),
		in(-30, 30),
		in(-20, 20),
		in(0, 0.76),
	}
}

const flangeY, cardX, cardY = 34.0, -42.0, -56.0

// asked is the ask of a picture by taps with this much error, px.
func (s shot) asked(r *rand.Rand, errorPX float64, fine bool) photo.Ask {
	tap := func(x, y float64) photo.Tap {
		return photo.Tap{Point: photo.Point{X: x + errorPX*r.NormFloat64(), Y: y + errorPX*r.NormFloat64()}, Fine: fine}
	}
	a := photo.Ask{WidePX: s.WidePX, HighPX: s.HighPX, Reference: photo.Card, Plane: photo.Flat}
	for _, c := range darkroom.SheetCorners(cardX, cardY, s.cardTurnDeg, 85.60, 53.98) {
		a.Corners = append(a.Corners, tap(s.Draws(c[0], c[1], s.heightMM)))
	}
	w := photo.Wanted{ID: "studs", Kind: photo.Distance}
	for _, side := range []float64{-1, 1} {
		x, y := darkroom.HoleAt(0, flangeY, s.turnDeg, s.spacingMM, side)
		w.Points = append(w.Points, tap(s.Draws(x, y, 0)))
	}
	a.Want = []photo.Wanted{w}
	return a
}

func inside(a photo.Ask) bool {
	for _, p := range append(append([]photo.Tap{}, a.Corners...), a.Want[0].Points...) {
		if p.X < 0 || p.Y < 0 || p.X > float64(a.WidePX) || p.Y > float64(a.HighPX) {
			return false
		}
	}
	return true
}

// The truth lies in the interval in 92 to 98 of 100 (model: checked by simulation): the camera that draws shares
// nothing with the one that measures.
func TestTheIntervalHoldsTheTruth(t *testing.T) {
	for _, told := range []bool{false, true} {
		for _, tap := range []struct {
			px   float64
			fine bool
		}{{1.5, false}, {0.5, true}} {
			n, held, wide, refused := 0, 0, 0.0, 0
			for seed := uint64(1); n < 500; seed++ {
				s := made(seed)
				a := s.asked(rand.New(rand.NewPCG(seed, 5)), tap.px, tap.fine)
				if !inside(a) {
					continue
				}
				if told {
					a.FieldDeg = &s.FieldDeg
				}
				n++
				m, err := photo.Measure(a)
				if err != nil {
					refused++
					continue
				}
				f := m.Figures[0]
				wide += f.HalfMM()
				if f.LowMM <= s.spacingMM && s.spacingMM <= f.HighMM {
					held++
				}
			}
			share := 100 * float64(held) / float64(n-refused)
			t.Logf("field told %v, taps %.1f px: %.1f %% of %d held, half %.2f mm, %d refused", told, tap.px, share, n-refused,
				wide/float64(n-refused), refused)
			assert.GreaterOrEqual(t, share, 92.0)
			assert.LessOrEqual(t, share, 98.0)
			assert.Less(t, refused, n/50)
		}
	}
}

// A picture with pixels: edges found, rounded corners and all.
func (s shot) take() *photo.Luma {
	img := s.Take(darkroom.Sheet(cardX, cardY, s.cardTurnDeg, 85.60, 53.98, 3.18, s.heightMM, 226),
		darkroom.Flange(0, flangeY, s.turnDeg, s.spacingMM, 11, 34))
	return &photo.Luma{WidePX: s.WidePX, HighPX: s.HighPX, Y: img.Pix}
}

// rough taps as a thumb's: off by several px; three on the edge of each hole.
func (s shot) rough(seed uint64) photo.Ask {
	r := rand.New(rand.NewPCG(seed, 9))
	a := s.asked(r, 3, false)
	w := photo.Wanted{ID: "studs", Kind: photo.Centres}
	for _, side := range []float64{-1, 1} {
		x, y := darkroom.HoleAt(0, flangeY, s.turnDeg, s.spacingMM, side)
		for k := range 3 {
			sn, cs := math.Sincos(2*math.Pi*float64(k)/3 + 0.4)
			px, py := s.Draws(x+5.5*cs, y+5.5*sn, 0)
			w.Points = append(w.Points, photo.Tap{Point: photo.Point{X: px + 1.5*r.NormFloat64(), Y: py + 1.5*r.NormFloat64()}})
		}
	}
	a.Want = []photo.Wanted{w}
	return a
}

// Edges near rough taps: the figure within its interval, the interval no wider than half a millimetre each way for a
// camera 230 to 330 mm away with 1.2 million px (the aim for 80 mm).
func TestEdgesAreFoundNearRoughTaps(t *testing.T) {
	n, held, found, halves, narrow := 0, 0, 0, 0.0, 0
	for seed := uint64(100); n < 5; seed++ {
		s := made(seed)
		s.SlantDeg = math.Min(s.SlantDeg, 45)
		s.BlurPX, s.NoiseOf255 = 0.8, 3
		a := s.rough(seed)
		if !inside(a) {
			continue
		}
		n++
		luma := s.take()
		seen, err := photo.Find(luma, a)
		require.NoError(t, err)
		a.Seen = seen
		m, err := photo.Measure(a)
		require.NoError(t, err)
		f := m.Figures[0]
		if m.Edges && f.Found {
			found++
		}
		halves += f.HalfMM()
		if f.HalfMM() <= 0.5 {
			narrow++
		}
		if f.LowMM <= s.spacingMM && s.spacingMM <= f.HighMM {
			held++
		}
	}
	assert.Equal(t, n, found)
	assert.Equal(t, n, held)
	assert.Less(t, halves/float64(n), 0.65, "60 to 110 mm, up to 45° of slant")
	t.Logf("mean half %.2f mm, %d of %d at most 0.5", halves/float64(n), narrow, n)
}

// Studs 80 mm apart with the card in their plane, seen from 250 mm at 20° in 1.2 million px: half an interval of at
// most 0.5 mm (the aim). Any order of the corners gives the same figure.
func TestEightyMillimetres(t *testing.T) {
	s := made(3)
	s.spacingMM, s.SlantDeg, s.AwayMM, s.FieldDeg, s.BlurPX, s.NoiseOf255 = 80, 20, 250, 70, 0.8, 3
	a := s.rough(3)
	require.True(t, inside(a))
	luma := s.take()
	var err error
	a.Seen, err = photo.Find(luma, a)
	require.NoError(t, err)
	m, err := photo.Measure(a)
	require.NoError(t, err)
	f := m.Figures[0]
	assert.LessOrEqual(t, f.HalfMM(), 0.5)
	assert.InDelta(t, 80, f.MM, f.HalfMM())
	assert.InDelta(t, 250, m.AwayMM, 12)
	assert.InDelta(t, 20, m.SlantDeg, 7, "of the line to the card, which lies beside the middle")
	again := a
	again.Corners = []photo.Tap{a.Corners[2], a.Corners[0], a.Corners[3], a.Corners[1]}
	m2, err := photo.Measure(again)
	require.NoError(t, err)
	assert.InDelta(t, f.MM, m2.Figures[0].MM, 1e-6)
	// Kept and read again it is the same figure: what is stored is a hundredth of a px.
	raw, err := json.Marshal(a)
	require.NoError(t, err)
	var back photo.Ask
	require.NoError(t, json.Unmarshal(raw, &back))
	m3, err := photo.Measure(back)
	require.NoError(t, err)
	assert.Equal(t, f, m3.Figures[0])

	s.BlurPX = 9 // a hand that shook
	luma = s.take()
	_, err = photo.Find(luma, s.rough(3))
	var refused *photo.Refused
	require.ErrorAs(t, err, &refused)
	assert.Equal(t, "photo.blurred", refused.Code)
}

// What cannot be measured on says why: a sliver, a reference that is too small, another thing than was said, corners on
// a line, points beyond the horizon.
func TestWhatAPictureCannotTell(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 1))
	level := func(change func(*shot)) photo.Ask {
		s := made(3)
		s.SlantDeg, s.RoundDeg, s.RollDeg, s.AwayMM, s.heightMM = 20, 90, 0, 300, 0.4
		change(&s)
		return s.asked(r, 0, true)
	}
	for name, c := range map[string]struct {
		ask  photo.Ask
		code string
	}{
		"slanted":  {level(func(s *shot) { s.SlantDeg, s.AtYMM = 75, -30 }), "photo.slanted"},
		"small":    {level(func(s *shot) { s.AwayMM = 2500 }), "photo.small"},
		"not that": {func() photo.Ask { a := level(func(s *shot) { s.SlantDeg = 2 }); a.Reference = photo.A4; return a }(), "photo.not_that"},
		"line": {
			func() photo.Ask {
				a := level(func(*shot) {})
				for i := range a.Corners {
					a.Corners[i].Point = photo.Point{X: 100 + 90*float64(i), Y: 200}
				}
				return a
			}(),
			"photo.no_rectangle",
		},
		"three of a circle on a line": {
			func() photo.Ask {
				a := level(func(*shot) {})
				a.Want = []photo.Wanted{{
					ID:   "hole",
					Kind: photo.Circle,
					Points: []photo.Tap{
						{Point: photo.Point{X: 10, Y: 10}}, {Point: photo.Point{X: 20, Y: 20}}, {Point: photo.Point{X: 30, Y: 30}}},
				}}
				return a
			}(),
			"photo.points",
		},
	} {
		_, err := photo.Measure(c.ask)
		var refused *photo.Refused
		if assert.ErrorAs(t, err, &refused, name) {
			assert.Equal(t, c.code, refused.Code, name)
		}
	}
}

func TestAWronglyToldPicture(t *testing.T) {
	good := made(3).asked(rand.New(rand.NewPCG(1, 1)), 0, false)
	nan := math.NaN()
	for path, change := range map[string]func(*photo.Ask){
		"$.wide_px":        func(a *photo.Ask) { a.WidePX = 100 },
		"$.field_deg":      func(a *photo.Ask) { a.FieldDeg = &nan },
		"$.reference":      func(a *photo.Ask) { a.Reference = "coin" },
		"$.plane":          func(a *photo.Ask) { a.Plane = "" },
		"$.bar_mm":         func(a *photo.Ask) { a.Reference = photo.Target },
		"$.corners":        func(a *photo.Ask) { a.Corners = a.Corners[:3] },
		"$.corners[1]":     func(a *photo.Ask) { a.Corners = append([]photo.Tap{}, a.Corners...); a.Corners[1].X = nan },
		"$.want[0].kind":   func(a *photo.Ask) { a.Want = []photo.Wanted{{ID: "x", Kind: "weight"}} },
		"$.want[0].points": func(a *photo.Ask) { a.Want = []photo.Wanted{{ID: "x", Kind: photo.Distance}} },
		"$.want[0].points[0]": func(a *photo.Ask) {
			a.Want = []photo.Wanted{{ID: "x", Kind: photo.Distance, Points: []photo.Tap{{Point: photo.Point{X: -1}}, {}}}}
		},
		"$.seen.sides":    func(a *photo.Ask) { a.Seen = &photo.Seen{Sides: make([][]photo.Point, 3)} },
		"$.seen.sides[0]": func(a *photo.Ask) { a.Seen = &photo.Seen{Sides: make([][]photo.Point, 4)} },
		"$.seen.circles.studs": func(a *photo.Ask) {
			a.Seen = &photo.Seen{Circles: map[string][][]photo.Point{"studs": {make([]photo.Point, 3)}}}
		},
	} {
		a := good
		change(&a)
		_, err := photo.Measure(a)
		var faults system.Faults
		if assert.True(t, errors.As(err, &faults), fmt.Sprint(path, err)) {
			assert.Equal(t, path, faults[0].Path)
		}
	}
	_, err := photo.Find(&photo.Luma{WidePX: 3, HighPX: 3, Y: make([]byte, 9)}, good)
	assert.Error(t, err, "a picture of another size")
}

// By hand: a circle of radius 5 about (3, −2); three points, and eight of them off by turns. A line has none.
func TestACircleThroughPoints(t *testing.T) {
	c, r := photo.FitCircle([]photo.Point{{X: 8, Y: -2}, {X: 3, Y: 3}, {X: -2, Y: -2}})
	assert.InDelta(t, 3, c.X, 1e-9)
	assert.InDelta(t, -2, c.Y, 1e-9)
	assert.InDelta(t, 5, r, 1e-9)
	var arc []photo.Point // a sixth of the way round, off by a thousandth in and out: a fit that pulls in short arcs gives less
	for i := range 40 {
		s, co := math.Sincos(float64(i) / 39 * math.Pi / 3)
		off := 5 + 0.005*float64(i%2*2-1)
		arc = append(arc, photo.Point{X: off * co, Y: off * s})
	}
	_, r = photo.FitCircle(arc)
	assert.InDelta(t, 5, r, 0.02)
	_, r = photo.FitCircle([]photo.Point{{}, {X: 1, Y: 1}, {X: 2, Y: 2}})
	assert.True(t, math.IsNaN(r))
}

// A plane's map against gonum's singular value decomposition of the same eight equations (Hartley and Zisserman,
// algorithm 4.2).
func TestHomographyAgainstTheLibrary(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 4))
	for range 200 {
		from := [4]photo.Point{{X: 0, Y: 0}, {X: 85.6, Y: 0}, {X: 85.6, Y: 54}, {X: 0, Y: 54}}
		to := [4]photo.Point{{X: 300, Y: 200}, {X: 900, Y: 220}, {X: 860, Y: 640}, {X: 330, Y: 610}}
		for i := range to {
			to[i].X, to[i].Y = to[i].X+80*r.Float64(), to[i].Y+80*r.Float64()
		}
		h, ok := photo.Homography(from, to)
		require.True(t, ok)
		m := mat.NewDense(9, 9, nil)
		for i, p := range from {
			q := to[i]
			m.SetRow(2*i, []float64{p.X, p.Y, 1, 0, 0, 0, -q.X * p.X, -q.X * p.Y, -q.X})
			m.SetRow(2*i+1, []float64{0, 0, 0, p.X, p.Y, 1, -q.Y * p.X, -q.Y * p.Y, -q.Y})
		}
		var svd mat.SVD
		require.True(t, svd.Factorize(m, mat.SVDFull))
		var v mat.Dense
		svd.VTo(&v)
		for i := range h {
			assert.InDelta(t, v.At(i, 8)/v.At(8, 8), h[i], 1e-6*(1+math.Abs(h[i])))
		}
	}
	_, ok := photo.Homography([4]photo.Point{{}, {X: 1}, {X: 2}, {X: 3}}, [4]photo.Point{{}, {X: 1}, {X: 1, Y: 1}, {Y: 1}})
	assert.False(t, ok, "on a line")
}

// From the last tap to the figure: edges looked for in 1.2 million px, then the figure with its interval.
func BenchmarkLastTap(b *testing.B) {
	s := made(3)
	s.spacingMM, s.SlantDeg, s.AwayMM, s.BlurPX, s.NoiseOf255 = 80, 20, 250, 0.8, 3
	a, luma := s.rough(3), s.take()
	for b.Loop() {
		seen, err := photo.Find(luma, a)
		require.NoError(b, err)
		with := a
		with.Seen = seen
		_, err = photo.Measure(with)
		require.NoError(b, err)
	}
}

// By hand: seen from straight above at 8 px a millimetre a card is 684.8 by 431.84 px, and points 640 px apart are 80
// mm; a circle of 88 px is 11 mm, and a point 160 px off a line 20 mm. Whichever way the picture is held.
func TestStraightAboveByHand(t *testing.T) {
	for _, upright := range []bool{false, true} {
		at := func(x, y float64) photo.Tap { // about the middle of the picture
			if upright {
				x, y = -y, x
			}
			return photo.Tap{Point: photo.Point{X: 600 + x, Y: 600 + y}, Fine: true}
		}
		a := photo.Ask{WidePX: 1200, HighPX: 1200, Reference: photo.Card, Plane: photo.Within3,
			Corners: []photo.Tap{at(-342.4, -100), at(342.4, -100), at(342.4, 331.84), at(-342.4, 331.84)},
			Want: []photo.Wanted{
				{ID: "studs", Kind: photo.Distance, Points: []photo.Tap{at(-320, -200), at(320, -200)}},
				{ID: "hole", Kind: photo.Circle, Points: []photo.Tap{at(44, -300), at(-44, -300), at(0, -256)}},
				{ID: "off", Kind: photo.FromLine, Points: []photo.Tap{at(-300, -200), at(300, -200), at(17, -360)}},
			}}
		m, err := photo.Measure(a)
		require.NoError(t, err)
		for i, mm := range []float64{80, 11, 20} {
			assert.InDelta(t, mm, m.Figures[i].MM, 0.05, m.Figures[i].ID)
			assert.Less(t, m.Figures[i].LowMM, mm)
			assert.Greater(t, m.Figures[i].HighMM, mm)
		}
		assert.Less(t, m.SlantDeg, 30.0)
		assert.InDelta(t, 0.125, m.FineMM, 0.01)
	}
}
