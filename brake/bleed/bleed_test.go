package bleed

import (
	"encoding/json"
	"fmt"
	"math"
	"os"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/fluid"
	"geminate/brake/ledger"
	"geminate/brake/system"
)

func load(t testing.TB, id string) *system.System {
	t.Helper()
	s, err := system.FromPattern(id)
	require.NoError(t, err)
	return s
}

func pedal() Options {
	return Options{Method: Pedal, TemperatureC: 20, OldFraction: 0.1, StrokeMM: 15, Order: Longest}
}

// Common practice, no source: right rear, left rear, right front, left front.
func TestRoutes(t *testing.T) {
	for _, c := range []struct {
		pattern string
		order   Order
		given   []string
		want    []string
	}{
		{"pickup-front-rear-vacuum", Longest, nil, []string{"RR", "LR", "RF", "LF"}},
		{"car-diagonal-vacuum", ByCircuit, nil, []string{"RR", "LF", "LR", "RF"}},
		{"car-diagonal-vacuum", Listed, nil, []string{"LF", "RF", "LR", "RR"}},
		{"car-diagonal-vacuum", Maker, []string{"LR", "RF", "RR", "LF"}, []string{"LR", "RF", "RR", "LF"}},
		{"trailer-surge", Longest, nil, []string{"R2", "R1", "L2", "L1"}},
		// Farthest axle first, both its sides, then forward (common practice, no source).
		{"trailer-surge", FarthestAxle, nil, []string{"R2", "L2", "R1", "L1"}},
		// As the tool leads (common practice, no source).
		{"hybrid-electro-hydraulic", ToolLed, nil, []string{"RR", "LR", "LF", "RF"}},
	} {
		o := pedal()
		o.Order, o.Given = c.order, c.given
		p, err := Make(load(t, c.pattern), o)
		require.NoError(t, err)
		assert.Equal(t, c.want, p.Order)
	}
	o := pedal()
	o.Order, o.Given = Maker, []string{"LF", "LF", "RF", "RR"}
	_, err := Make(load(t, "car-diagonal-vacuum"), o)
	assert.ErrorContains(t, err, "LR is missing")
	o.Given = []string{"LF", "RF", "RR", "LR", "LF"} // the maker's "and the first one again"
	p, err := Make(load(t, "car-diagonal-vacuum"), o)
	require.NoError(t, err)
	assert.Equal(t, o.Given, p.Order)
	assert.Less(t, p.Wheels[4].Strokes, p.Wheels[0].Strokes, "the second visit is for the air")
}

// Source: the washout of a laminar pipe alone, 1/(4N²) (Levenspiel, from memory), and of a mixed
// tank alone, ln(1/f) volumes; both in series need more than either.
func TestWashoutLimits(t *testing.T) {
	assert.InEpsilon(t, 10/(2*math.Sqrt(0.1)), WashoutCM3(10, 0, 0.1), 1e-12)
	assert.InEpsilon(t, 20*math.Log(10), WashoutCM3(0, 20, 0.1), 1e-3)
	both := WashoutCM3(10, 20, 0.1)
	assert.Greater(t, both, 20*math.Log(10))
	assert.Less(t, both, 20*math.Log(10)+10/(2*math.Sqrt(0.1)))
}

// Source: Hagen–Poiseuille with the other resistances made negligible.
func TestFlowLimits(t *testing.T) {
	s := load(t, "pickup-front-rear-vacuum")
	wide := 5.0
	s.MasterCylinder.CompensatingPortMM = &wide
	w := s.Wheel("RR")
	w.Hose.LengthMM = 0
	w.Bleeder = &system.Bleeder{BoreMM: 10, LengthMM: 0.5}
	o := Options{Method: Pressure, DriveKPA: 1, TemperatureC: 100}
	mu := 2.2e-6 * 1050
	want := math.Pi * math.Pow(3.4e-3, 4) / (128 * mu * 5.9) * 1000 * 1e6
	assert.InEpsilon(t, want, FlowCM3S(s, w, o), 0.02)
	cold := o
	cold.TemperatureC = -20
	assert.Less(t, FlowCM3S(s, w, cold), FlowCM3S(s, w, o)/10, "cold fluid is slower by far")
}

// Source: Bretherton's limit. A 3.4 mm line holds bubbles still; a 6 mm one lets them climb.
func TestBubbles(t *testing.T) {
	s := load(t, "pickup-front-rear-vacuum")
	assert.Zero(t, BubbleRiseMMS(s, 3.4, 20))
	assert.Greater(t, BubbleRiseMMS(s, 6, 20), 1.0)
	p, err := Make(s, pedal())
	require.NoError(t, err)
	for _, w := range p.Wheels {
		assert.True(t, w.BubblesMove, w.ID)
	}
}

func TestStrokesFollowTheOpenChamber(t *testing.T) {
	s := load(t, "pickup-front-rear-vacuum")
	v, err := StrokeCM3(s, "B", 15)
	require.NoError(t, err)
	assert.InEpsilon(t, math.Pi*26.9875*26.9875/4*(15-1.2)/1000, v, 1e-12)
	long, _ := StrokeCM3(s, "B", 90)
	assert.InEpsilon(t, math.Pi*26.9875*26.9875/4*(17-1.2)/1000, long, 1e-12, "the chamber has no more")
	_, err = StrokeCM3(s, "A", 1)
	assert.ErrorContains(t, err, "moves nothing")
}

func TestPlanRefusesNonsense(t *testing.T) {
	s := load(t, "pickup-front-rear-vacuum")
	for name, change := range map[string]func(*Options){
		"method": func(o *Options) { o.Method = "magic" }, "fraction": func(o *Options) { o.OldFraction = 0 },
		"cold": func(o *Options) { o.TemperatureC = -90 }, "stroke": func(o *Options) { o.StrokeMM = 0 },
		"head":   func(o *Options) { o.Method, o.HeadMM = Gravity, 0 },
		"drive":  func(o *Options) { o.Method, o.DriveKPA = Pressure, math.NaN() },
		"vacuum": func(o *Options) { o.Method, o.DriveKPA = Vacuum, 150 }, "order": func(o *Options) { o.Order = "random" },
	} {
		o := pedal()
		change(&o)
		_, err := Make(s, o)
		assert.Error(t, err, name)
	}
}

// Common practice, no source, each figure said in how-it-computes (section 8): a wheel bled of air runs clear twice,
// nothing on a reservoir past 250 kPa, a fifth of the reservoir is never drawn, a syringe of 60 cm³.
func TestLimitsOfTheTrade(t *testing.T) {
	s := load(t, "pickup-front-rear-vacuum")
	o := pedal()
	o.Purpose, o.Wheels, o.LeastCM3 = ForAir, []string{"LF"}, map[string]float64{"LF": 0.5}
	p, err := Make(s, o)
	require.NoError(t, err)
	assert.Equal(t, 2, p.Wheels[0].Strokes)

	o = pedal()
	o.Method, o.DriveKPA = Pressure, 250
	_, err = Make(s, o)
	require.NoError(t, err)
	o.DriveKPA = 251
	_, err = Make(s, o)
	assert.ErrorContains(t, err, "burst")

	tank := s.Tanks()[0]
	p, err = Make(s, pedal())
	require.NoError(t, err)
	assert.InDelta(t, 0.8*(tank.FullCM3-tank.LowestCM3), p.UsableCM3, 1e-9)
	assert.InDelta(t, tank.LowestCM3+0.2*(tank.FullCM3-tank.LowestCM3), keepCM3(tank.FullCM3, tank.LowestCM3), 1e-9)
	assert.Equal(t, int(math.Ceil(max(p.TotalCM3, p.PouredCM3)*1.25/500)), p.Bottles)

	e := Entries[slices.IndexFunc(Entries, func(e Entry) bool { return e.ID == Reverse })]
	assert.InDelta(t, 60, e.ContainerCM3, 1e-9)
}

// Conservation: what is pushed in at a wheel leaves fresh there at once, with the line still full of old: that is not
// reached.
func TestPushedInAtTheWheelIsNotYetClean(t *testing.T) {
	s := load(t, "pickup-front-rear-vacuum")
	l := ledger.New(s)
	require.NoError(t, l.Drain(nil))
	require.NoError(t, l.Push("RR", s.Wheel("RR").Brake.CavityCM3*8))
	assert.True(t, l.Pushed("RR"))
	assert.LessOrEqual(t, l.Leaving("RR"), 0.1, "fresh at the bleeder")
	require.Greater(t, l.InPipe("RR"), 0.1, "old in the line")
	assert.False(t, Reached(l, "RR", 0.1))
}

// Source: SciPy through testdata/flow.py, an implementation of its own: brentq over the pressures along
// the path, solve_ivp for the cavity, Bretherton's relation (from memory) by brentq.
func TestAgainstSciPy(t *testing.T) {
	data, err := os.ReadFile("testdata/flow.json")
	require.NoError(t, err)
	var cases []struct {
		Pattern   string  `json:"pattern"`
		Wheel     string  `json:"wheel"`
		Temp      float64 `json:"temperature_c"`
		Viscosity float64 `json:"viscosity"`
		Pressure  float64 `json:"pressure_100kpa"`
		Gravity   float64 `json:"gravity_400mm"`
		Rise      float64 `json:"rise_6mm"`
		Path      float64 `json:"path_cm3"`
		Wash10    float64 `json:"washout_10"`
		Wash3     float64 `json:"washout_3"`
	}
	require.NoError(t, json.Unmarshal(data, &cases))
	require.Len(t, cases, 36)
	for _, c := range cases {
		s := load(t, c.Pattern)
		w := s.Wheel(c.Wheel)
		class, err := fluid.Find(s.Fluid.Class)
		require.NoError(t, err)
		at := fmt.Sprintf("%s %s at %v °C", c.Pattern, c.Wheel, c.Temp)
		assert.InEpsilon(t, c.Viscosity, class.ViscosityMM2S(c.Temp), 1e-9, at)
		assert.InEpsilon(t, c.Pressure, FlowCM3S(s, w, Options{Method: Pressure, DriveKPA: 100, TemperatureC: c.Temp}), 1e-9, at)
		assert.InEpsilon(t, c.Gravity, FlowCM3S(s, w, Options{Method: Gravity, HeadMM: 400, TemperatureC: c.Temp}), 1e-9, at)
		assert.InDelta(t, c.Rise, BubbleRiseMMS(s, 6, c.Temp), 1e-6*(1+c.Rise), at)
		assert.InEpsilon(t, c.Path, w.PipeCM3()+w.Brake.CavityCM3, 1e-9, at)
		assert.InEpsilon(t, c.Wash10, WashoutCM3(c.Path-w.Brake.CavityCM3, w.Brake.CavityCM3, 0.1), 1e-3, at)
		assert.InEpsilon(t, c.Wash3, WashoutCM3(c.Path-w.Brake.CavityCM3, w.Brake.CavityCM3, 0.03), 1e-3, at)
	}
}
