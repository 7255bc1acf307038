package trace

import (
	"encoding/json"
	"errors"
	"math"
)

// Findings that instruments can draw, by the ids of the vocabulary.
const (
	FindSink     = "pedal.sink"
	FindCurve    = "pedal.readings"
	FindPump     = "pedal.pump"
	FindReserve  = "assist.reserve_applies"
	FindFall     = "check_valve.holds" // a vacuum with the engine off
	FindGauge    = "pressure.gauge"    // two ports held, and let go
	FindReleased = "drag.released_by"  // how a pressure goes when the foot has gone
)

// Draw is a finding that instruments draw.
type Draw struct {
	Finding string `json:"finding"`
	Takes   []Kind `json:"takes"`
	// Seconds are how long it is drawn at the most.
	Seconds float64 `json:"seconds"`
	// FromN is the force at which it begins by itself, where force is measured: a foot stands on the pedal; 0 where it
	// does not.
	FromN float64 `json:"from_n,omitempty"`
}

// standsN is a foot that stands on a pedal and does not only rest there. Assumption.
const standsN = 100

// Drawable lists them with the instruments each takes.
var Drawable = []Draw{
	{FindSink, []Kind{Travel}, 50, standsN},
	{FindCurve, []Kind{Force, Travel}, 20, 0},
	{FindPump, []Kind{Travel}, 20, 0},
	{FindReserve, []Kind{Force, Travel}, 60, 0},
	{FindFall, []Kind{Vacuum}, 60, 0},
	{FindGauge, []Kind{PressureA, PressureB}, 30, 0},
	{FindReleased, []Kind{PressureA}, 30, 0},
}

// Tells lists the findings whose figure an instrument tells, and which instruments tell it: those of a trace, and those
// taken as they stand.
var Tells = map[string][]Kind{
	FindSink:              {Travel, Force},
	FindCurve:             {Force, Travel},
	FindPump:              {Travel},
	FindReserve:           {Force, Travel},
	FindGauge:             {PressureA, PressureB},
	FindFall:              {Vacuum},
	FindReleased:          {PressureA},
	"vacuum.at_hose_kpa":  {Vacuum},
	"fluid.water_percent": {Water},
	"pedal.firm_travel":   {Travel},
	"codes.present":       {ScanTool},
	"torque":              {Torque},
}

// Came is what a trace comes to; of each sort what the finding is of.
type Came struct {
	Slope    *Slope    `json:"slope,omitempty"` // of a hold, of a falling vacuum; units a second
	Sink     *Sunk     `json:"sink,omitempty"`
	Curve    []Point   `json:"curve,omitempty"`
	Pump     *Pumped   `json:"pump,omitempty"`
	Heights  *Pumped   `json:"heights,omitempty"` // the same over the floor
	Reserve  *int      `json:"reserve,omitempty"`
	Level    *Level    `json:"level,omitempty"`   // the last of a vacuum, kPa; of pressure at the first port while held, MPa
	LevelB   *Level    `json:"level_b,omitempty"` // at the other
	Balance  *Level    `json:"balance,omitempty"` // first less second, MPa
	Released *Released `json:"released,omitempty"`
	ForceN   float64   `json:"force_n,omitempty"` // the mean force held, where force was measured
	// Under is what it was read under: of a hold the stretch, the force over it, what was taken out.
	Under *Under `json:"under,omitempty"`
}

// Sunk is how far a held pedal sank, mm, with the ends of its 90 % interval.
type Sunk struct {
	MM      float64 `json:"mm"`
	LowMM   float64 `json:"low_mm"`
	HighMM  float64 `json:"high_mm"`
	Seconds float64 `json:"seconds"`
}

// curveBandN is the width of the bands of force a curve is read in.
const curveBandN = 20

// Read says what a finding's trace comes to, from the series of the instruments that drew it.
func Read(finding string, by map[Kind]Series, pedal Pedal) (c Came, err error) {
	if f, level := by[Force].Order(), (Level{}); len(f) > 0 {
		if level, err = Held(f); err == nil {
			c.ForceN = math.Round(level.V)
		}
		err = nil
	}
	switch finding {
	case FindCurve:
		var lost int
		if c.Curve, lost, err = Curve(by[Force], by[Travel], curveBandN); err == nil {
			c.Under = &Under{Dropped: lost}
		}
	case FindPump:
		var p Pumped
		if p, err = PumpUp(by[Travel]); err == nil {
			err = evenApplies(by[Force], pumpN, pumpMostS)
		}
		if err == nil {
			c.Pump = &p
		}
	case FindReserve:
		var n int
		if n, err = Reserve(by[Force], by[Travel]); err == nil {
			err = evenApplies(by[Force], math.MaxInt, math.Inf(1))
		}
		if err == nil {
			c.Reserve = &n
		}
	case FindFall:
		var s Slope
		if err = undisturbed(by[Vacuum]); err == nil {
			s, err = Fall(by[Vacuum])
		}
		if err == nil {
			x := by[Vacuum].Order()
			l := level(within(x, x[len(x)-1].S-steadyS, x[len(x)-1].S))
			c.Slope, c.Level = &s, &l
		}
	case FindGauge:
		err = c.gauge(by[PressureA], by[PressureB])
	case FindReleased:
		var r Released
		if r, err = Release(by[PressureA]); err == nil {
			c.Released = &r
		}
	default:
		var s Slope
		var u Under
		if s, u, err = Hold(by[Force], by[Travel], pedal); err == nil {
			mm, low, high := s.SinkMM(s.Seconds)
			c.ForceN, c.Under = u.ForceN, &u
			c.Slope, c.Sink = &s, &Sunk{round(mm, 1), round(low, 1), round(high, 1), math.Round(s.Seconds)}
		}
	}
	return c, err
}

// gauge reads one port or two: each held, the one against the other, and how it goes where the foot came up.
func (c *Came) gauge(a, b Series) error {
	one := func(x Series) (*Level, error) {
		if len(x) == 0 {
			return nil, nil
		}
		l, err := Held(x)
		return &l, err
	}
	var errA, errB error
	c.Level, errA = one(a)
	c.LevelB, errB = one(b)
	if err := errors.Join(errA, errB); err != nil {
		return err
	}
	if c.Level == nil && c.LevelB == nil {
		return ErrFew
	}
	if c.Level != nil && c.LevelB != nil {
		d, err := Balance(a, b)
		if err != nil {
			return err
		}
		c.Balance = &d
	}
	if r, err := Release(a); err == nil {
		c.Released = &r
	}
	return nil
}

// Says says whether the value of a finding is what this came to; of what is the eye's to say (a valve that holds, a
// brake let go) it always is.
func (c *Came) Says(finding string, value json.RawMessage) bool {
	near := func(a, b float64) bool { return math.Abs(a-b) < 0.051 }
	switch finding {
	case FindSink:
		var v struct {
			TravelMM    float64 `json:"travel_mm"`
			Seconds     float64 `json:"seconds"`
			PedalForceN float64 `json:"pedal_force_n"`
		}
		return json.Unmarshal(value, &v) == nil && c.Sink != nil && near(v.TravelMM, math.Max(0, c.Sink.MM)) &&
			near(v.Seconds, c.Sink.Seconds) &&
			(c.ForceN == 0 || math.Abs(v.PedalForceN-c.ForceN) < 1)
	case FindCurve:
		var v []struct {
			PedalForceN float64 `json:"pedal_force_n"`
			TravelMM    float64 `json:"travel_mm"`
		}
		if json.Unmarshal(value, &v) != nil || len(v) != len(c.Curve) {
			return false
		}
		for i, p := range c.Curve {
			if !near(v[i].PedalForceN, p.ForceN) || !near(v[i].TravelMM, p.TravelMM) {
				return false
			}
		}
		return true
	case FindPump:
		var v Pumped
		return json.Unmarshal(value, &v) == nil && c.Heights != nil && near(v.FirstMM, c.Heights.FirstMM) &&
			near(v.SecondMM, c.Heights.SecondMM) &&
			near(v.FourthMM, c.Heights.FourthMM)
	case FindReserve:
		var n int
		return json.Unmarshal(value, &n) == nil && c.Reserve != nil && n == *c.Reserve
	}
	return true
}
