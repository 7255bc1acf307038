package diagnose

import (
	"encoding/json"
	"math"
	"slices"
	"strings"

	"geminate/brake/fluid"
	"geminate/brake/system"
	"geminate/brake/twin"
)

// Figure is one computed number of a guided test.
type Figure struct {
	ID       string  `json:"id"`
	Quantity string  `json:"quantity"` // as Input; celsius, kpa_min, mpa and share besides
	Value    float64 `json:"value"`
}

// Measured is what a guided test's figures come to.
type Measured struct {
	Figures  []Figure  `json:"figures"`
	Findings []Finding `json:"findings"` // what they say, to be stored
	Notes    []string  `json:"notes"`    // by id
}

// Limits of the guided tests. Common practice or assumption, none published.
const (
	pumpsUpMM     = 8    // a pedal that stands this much higher on the 4th apply is pumped up (assumption)
	fallsBack     = 0.5  // of that, lost within ten seconds: it was only for a moment (assumption)
	leakDownKPA   = 7    // vacuum lost in a minute that a sound booster and valve keep (assumption)
	pairApart     = 0.15 // share by which two circuits may differ before it is told (assumption)
	bottleTooWet  = 0.5  // water in a fresh bottle, per cent (assumption)
	assistedApply = 2    // assisted applications that must remain (common practice)
)

// Measure computes a guided test from its inputs by id ("mpa:A" for one of each circuit). What is
// missing and not optional is an error that names it.
func Measure(s *system.System, test string, values map[string]float64) (*Measured, error) {
	g := FindGuide(test)
	if g == nil || len(g.Inputs) == 0 {
		return nil, badValue("test", "fault.enum", map[string]any{"value": test, "allowed": strings.Join(measurable(), ", ")})
	}
	known := map[string]bool{}
	for _, i := range g.Inputs {
		ids := []string{i.ID}
		if i.Circuit {
			ids = nil
			for _, c := range s.Circuits {
				ids = append(ids, i.ID+":"+c.ID)
			}
		}
		for _, id := range ids {
			known[id] = true
			v, ok := values[id]
			if !ok && !i.Optional {
				return nil, badValue("values."+id, "fault.missing", nil)
			}
			if ok && !(v >= i.Min && v <= i.Max) {
				return nil, badValue("values."+id, "fault.range", map[string]any{"value": v, "min": i.Min, "max": i.Max})
			}
		}
	}
	for id := range values {
		if !known[id] {
			return nil, badValue("values."+id, "fault.unknown", nil)
		}
	}
	out := &Measured{Figures: []Figure{}, Findings: []Finding{}, Notes: []string{}}
	switch test {
	case "water":
		return out, out.water(s, values)
	case "pump":
		out.pump(values)
	case "reserve":
		out.reserve(s, values)
	case "vacuum_gauge":
		out.vacuum(values)
	case "gauge":
		out.gauges(s, values)
	}
	return out, nil
}

func measurable() (out []string) {
	for _, g := range Guides {
		if len(g.Inputs) > 0 {
			out = append(out, g.Test)
		}
	}
	return out
}

func (m *Measured) figure(id, quantity string, v float64) {
	m.Figures = append(m.Figures, Figure{id, quantity, v})
}

func (m *Measured) find(id string, value any) {
	raw, err := json.Marshal(value)
	if err == nil {
		m.Findings = append(m.Findings, Finding{ID: id, Value: raw})
	}
}

// water reads the boiling point off the class's limits at the measured water content and looks at the
// bottle.
func (m *Measured) water(s *system.System, v map[string]float64) error {
	c, err := fluid.Find(s.Fluid.Class)
	if err != nil {
		return badValue("values", "fault.detail", map[string]any{"detail": err.Error()})
	}
	m.figure("boils_at", "celsius", c.BoilingC(v["vehicle"]))
	m.find("fluid.water_percent", v["vehicle"])
	g, err := gradeOf("fluid.water_percent", s)
	if err != nil {
		return err
	}
	switch g.bin(v["vehicle"]) {
	case "now":
		m.Notes = append(m.Notes, "water_change_now")
	case "danger":
		m.Notes = append(m.Notes, "water_not_hard")
	}
	if b, ok := v["bottle"]; ok {
		m.figure("bottle_boils_at", "celsius", c.BoilingC(b))
		switch {
		case b >= v["vehicle"] && v["vehicle"] > 0:
			m.Notes = append(m.Notes, "bottle_wetter")
		case b >= bottleTooWet:
			m.Notes = append(m.Notes, "bottle_wet")
		}
	}
	return nil
}

// pump compares heights of the pedal over the floor.
func (m *Measured) pump(v map[string]float64) {
	rise := v["fourth"] - v["first"]
	m.figure("pump_rise", "mm", rise)
	if rise < pumpsUpMM {
		m.find("pedal.pumps_up", "no")
		return
	}
	rest, ok := v["after_rest"]
	if !ok {
		m.Notes = append(m.Notes, "pump_rest_missing")
		return
	}
	m.figure("pump_kept", "share", math.Max(0, rest-v["first"])/rise)
	if v["fourth"]-rest > fallsBack*rise {
		m.find("pedal.pumps_up", "for_a_moment")
	} else {
		m.find("pedal.pumps_up", "stays")
	}
}

// reserve sets the count beside the twin's.
func (m *Measured) reserve(s *system.System, v map[string]float64) {
	if n := twin.New(s).Reserve().Applications; n > 0 {
		m.figure("twin_applies", "count", float64(n))
		if v["count"] >= assistedApply && v["count"] < float64(n)-1 {
			m.Notes = append(m.Notes, "reserve_short_of_twin")
		}
	}
	m.find("assist.reserve_applies", v["count"])
}

// vacuum gives the leak-down as a time constant and as what is lost in a minute:
// v(t) = v0·exp(−t/τ) (how-it-computes, section 4).
func (m *Measured) vacuum(v map[string]float64) {
	m.find("vacuum.at_hose_kpa", v["idle"])
	later, ok1 := v["later"]
	seconds, ok2 := v["seconds"]
	if !ok1 || !ok2 || v["idle"] <= 0 {
		return
	}
	if later <= 0 {
		m.figure("lost_in_a_minute", "kpa", v["idle"])
		m.find("check_valve.holds", "no")
		return
	}
	if later >= v["idle"] {
		m.figure("lost_in_a_minute", "kpa", 0)
		m.find("check_valve.holds", "yes")
		return
	}
	tau := seconds / math.Log(v["idle"]/later)
	lost := v["idle"] * (1 - math.Exp(-60/tau))
	m.figure("time_constant", "s", tau)
	m.figure("lost_in_a_minute", "kpa", lost)
	if lost <= leakDownKPA {
		m.find("check_valve.holds", "yes")
	} else { // the valve, or the booster itself: which, the valve's own test tells
		m.Notes = append(m.Notes, "vacuum_leaks_down")
	}
}

// gauges sets a pair of gauges beside the twin and beside each other.
func (m *Measured) gauges(s *system.System, v map[string]float64) {
	p := twin.New(s).Apply(v["force"], true)
	var list []Gauge
	var share []float64
	for _, c := range s.Circuits {
		read, want := v["mpa:"+c.ID], p.PressureMPA[c.ID]
		m.figure("twin_mpa:"+c.ID, "mpa", want)
		list = append(list, Gauge{At: c.ID, PedalForceN: v["force"], MPA: read, Engine: "on"})
		if want > 0 {
			share = append(share, read/want)
		}
	}
	if len(share) == 2 && math.Abs(share[0]-share[1]) > pairApart {
		low := s.Circuits[0].ID
		if share[1] < share[0] {
			low = s.Circuits[1].ID
		}
		m.Notes = append(m.Notes, "pair_apart:"+low)
	} else if len(share) > 0 && slices.Max(share) < 1-pairApart {
		m.Notes = append(m.Notes, "pair_low")
	}
	m.find("pressure.gauge", list)
}
