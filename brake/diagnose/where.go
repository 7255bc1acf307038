package diagnose

import (
	"math"
	"slices"
	"strings"
)

// Where is where the technician stands when a sign is met.
type Where string

// The places, in the order one comes to them.
const (
	WhereOwner   Where = "owner"    // what the owner says
	WhereSeatOff Where = "seat_off" // in the seat, engine off
	WhereSeatOn  Where = "seat_on"  // in the seat, engine on
	WhereHood    Where = "hood"     // under the hood
	WhereWheels  Where = "wheels"   // at the wheels
	WhereTool    Where = "tool"     // with a tool
	WhereBench   Where = "bench"    // on the bench
)

// Wheres lists them.
var Wheres = []Where{WhereOwner, WhereSeatOff, WhereSeatOn, WhereHood, WhereWheels, WhereTool, WhereBench}

// metAt is where each sign is met. Common practice, no source.
var metAt = map[Where][]string{
	WhereOwner: {
		"brakes.weak",
		"brakes.drag",
		"pedal.soft_when_hot",
		"history.since",
		"history.bled",
		"level.falls",
		"steering.heavy",
		"clutch.releases",
		"clutch.slips",
		"coupler.bangs",
	},
	WhereSeatOff: {
		"pedal.returns",
		"pedal.side_play",
		"pedal.sinks",
		"pedal.low",
		"pedal.springy",
		"pedal.to_floor",
		"pedal.pumps_up",
		"pedal.dead_first_travel",
		"pedal.sink",
		"assist.reserve_applies",
		"check_valve.holds",
	},
	WhereSeatOn: {
		"pedal.hard",
		"assist.pedal_falls_on_start",
		"assist.loaded_hold",
		"sound.rush_of_air",
		"steering.groan",
		"modulator.pedal_drops",
	},
	WhereHood: {
		"wet.at",
		"looked.at",
		"leak.seen",
		"wet.fluid",
		"fluid.level",
		"fluid.colour",
		"fluid.debris",
		"rubber.swollen",
		"paint.peeling_on_booster",
		"reservoir.spurts",
		"steering.foam",
		"unit.is_right",
		"drag.released_by",
		"coupler.breakaway",
		"coupler.lockout",
		"actuator.rod_moves",
		"coupler.travel",
		"actuator.holds",
		"coupler.rod_alone",
	},
	WhereWheels: {
		"wheel.check",
		"wheel.heat",
		"parking.slack",
		"linings.seen",
		"hose.swells",
		"bleeder.bubbles",
		"pressure.at_bleeder",
		"pressure.before_hose",
		"coupler.wheels_held",
	},
	WhereTool: {
		"pedal.readings",
		"pressure.gauge",
		"fluid.water_percent",
		"pedal.free_play_mm",
		"rod.gap_mm",
		"vacuum.at_hose_kpa",
		"vacuum.hose_pinched",
		"steering.pump_pressure",
		"pressure.at_port",
		"ports_plugged.pedal",
		"codes.present",
	},
	WhereBench: {"teardown.bore"},
}

// WhereOf is where a finding is met, "" for one nobody knows.
func WhereOf(id string) Where {
	for _, w := range Wheres {
		if slices.Contains(metAt[w], id) {
			return w
		}
	}
	return ""
}

// Telling orders findings by how much each is expected to tell of what is wrong as it now stands, the most first; those
// met at the seat and the hood alike. It is the information, in bits, a sign has on average about which of the faults
// it is, each taken alone with its probability (Shannon; a sign of several places is the sum of its places). A measured
// figure has no table: it comes after, in the order given.
func Telling(ids []string, faults []Ranked) []string {
	bits := map[string]float64{}
	for i := range Signs {
		id, _, _ := strings.Cut(Signs[i].ID, ":")
		bits[id] += Signs[i].tells(faults)
	}
	out := slices.Clone(ids)
	slices.SortStableFunc(out, func(a, b string) int {
		switch x, y := bits[a], bits[b]; {
		case x > y:
			return -1
		case x < y:
			return 1
		}
		return 0
	})
	return out
}

// tells is the information a sign has about the faults.
func (s *Sign) tells(faults []Ranked) float64 {
	rest, mean := 1.0, 0.0
	mixed := make([]float64, len(s.Values))
	add := func(weight float64, p []float64) {
		for v := range mixed {
			mixed[v] += weight * p[v]
		}
		mean += weight * entropyOf(p)
	}
	for _, f := range faults {
		p := s.Base
		if g, there := s.Given[f.ID]; there {
			p = g.P
		}
		w := math.Min(f.Probability, rest)
		rest -= w
		add(w, p)
	}
	add(rest, s.Base)
	return math.Max(0, entropyOf(mixed)-mean)
}

func entropyOf(p []float64) float64 {
	h := 0.0
	for _, x := range p {
		if x > 0 {
			h -= x * math.Log2(x)
		}
	}
	return h
}
