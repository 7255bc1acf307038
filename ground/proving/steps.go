package proving

import (
	"strings"

	"geminate/ground/simulate"
)

// act is what a step does: what comes off, is caught by its thread, goes on; and what else.
type act struct {
	off, start, on []simulate.Part
	do             func(*tech)
	// lied is what a hand that only ticks it leaves behind, where that is more than what is not done.
	lied func(*tech)
	of   simulate.Part // what its consequence is of, where that is no part above
}

// lines stands for the nut of every circuit.
const lines = simulate.Line

var acts = map[string]act{
	"prepare.cover_paint":        {do: func(t *tech) { t.covered = true }, of: "paint"},
	"prepare.tag_lines":          {do: func(t *tech) { t.tagged = true }},
	"prepare.compare_on_bench":   {do: (*tech).compare},
	"safe.engine_off":            {do: func(t *tech) { t.v.Engine(false) }},
	"safe.pump_empty":            {do: func(t *tech) { t.v.LetOut(false) }},
	"safe.scan_tool_release":     {do: func(t *tech) { t.v.LetOut(true) }},
	"safe.discharge_accumulator": {do: func(t *tech) { t.v.LetOut(false) }},
	"safe.isolate_high_voltage":  {do: func(t *tech) { t.v.Isolate(true) }, lied: func(t *tech) { t.v.Isolate(false) }},
	"safe.negative_off":          {off: []simulate.Part{simulate.Battery}},
	"safe.batteries_off":         {off: []simulate.Part{simulate.Battery}},
	"close.negative_on":          {on: []simulate.Part{simulate.Battery}},
	"close.batteries_on":         {on: []simulate.Part{simulate.Battery}},
	"safe.service_plug":          {off: []simulate.Part{simulate.ServicePlug}},
	"close.service_plug":         {on: []simulate.Part{simulate.ServicePlug}},
	"safe.empty_reservoir":       {do: func(t *tech) { t.v.Empty(nil) }},
	"strip.sensor_plug":          {off: []simulate.Part{simulate.SensorPlug}},
	"fit.sensor_plug":            {on: []simulate.Part{simulate.SensorPlug}},
	"strip.lines_off":            {off: []simulate.Part{lines}, do: (*tech).spill},
	"strip.plug_lines":           {lied: func(t *tech) { t.v.Unplugged() }, of: "air"},
	"fit.start_nuts_snug":        {start: []simulate.Part{lines}, do: (*tech).exchange},
	"fit.start_nuts_loose":       {start: []simulate.Part{lines}, do: (*tech).exchange},
	"fit.line_nuts":              {on: []simulate.Part{lines}},
	"strip.cylinder_off":         {off: []simulate.Part{simulate.Cylinder}, do: (*tech).cylinderOff},
	"strip.cylinder_aside":       {off: []simulate.Part{simulate.Cylinder}},
	"fit.cylinder_nuts":          {on: []simulate.Part{simulate.Cylinder}},
	"strip.firewall_nuts":        {off: []simulate.Part{simulate.Booster}, do: (*tech).boosterOff},
	"fit.firewall_nuts":          {on: []simulate.Part{simulate.Booster}},
	"strip.pedal_end":            {off: []simulate.Part{simulate.PedalEnd}},
	"fit.pedal_end":              {on: []simulate.Part{simulate.PedalEnd}, do: (*tech).tray},
	"strip.vacuum_hose":          {off: []simulate.Part{simulate.VacuumHose}},
	"fit.check_valve_hose":       {on: []simulate.Part{simulate.VacuumHose}},
	"strip.pressure_lines":       {off: []simulate.Part{simulate.PressureLine}},
	"fit.pressure_lines":         {on: []simulate.Part{simulate.PressureLine}},
	"strip.remote_hoses":         {off: []simulate.Part{simulate.RemoteHose}},
	"fit.remote_hoses":           {on: []simulate.Part{simulate.RemoteHose}},
	"strip.main_connector":       {off: []simulate.Part{simulate.Connector}},
	"fit.main_connector":         {on: []simulate.Part{simulate.Connector}},
	"strip.actuator_bolts":       {off: []simulate.Part{simulate.Actuator}},
	"fit.actuator_bolts":         {on: []simulate.Part{simulate.Actuator}},
	"strip.shoe_and_rod":         {off: []simulate.Part{simulate.ShoeAndRod}},
	"fit.shoe_and_rod":           {on: []simulate.Part{simulate.ShoeAndRod}},
	"rod.coupler_moved":          {on: []simulate.Part{simulate.RodSupport}, do: (*tech).support},
	"rod.measure":                {do: (*tech).setRod, of: "rod"},
	"rod.touch_and_turn":         {do: (*tech).setRod, of: "rod"},
	"rod.compare":                {do: (*tech).setRod, of: "rod"},
	"fit.face_seal":              {on: []simulate.Part{simulate.FaceSeal}, do: (*tech).face},
	"fit.face_paper":             {on: []simulate.Part{simulate.FaceSeal}, do: (*tech).face},
	"fit.bled_on_vehicle":        {do: func(t *tech) { t.v.BleedPorts() }, of: "air"},
	"close.fill":                 {do: (*tech).fill, of: "level"},
	"close.bleeder_screws":       {on: []simulate.Part{simulate.Bleeder}, do: (*tech).wheelsOn},
	"close.wash":                 {do: func(t *tech) { t.covered = true; t.v.Wipe() }, of: "paint"},
	"close.count_out":            {do: (*tech).countOut},
	"elsewhere.opened":           {off: []simulate.Part{simulate.Elsewhere}},
	"elsewhere.repaired":         {on: []simulate.Part{simulate.Elsewhere}, do: (*tech).repair},
	"strip.modulator_lines":      {off: []simulate.Part{simulate.Elsewhere}},
	"fit.modulator_lines":        {on: []simulate.Part{simulate.Elsewhere}},
}

// actOf is what a step does: what lies over it all comes off and goes on.
func actOf(id string) act {
	a, known := acts[id]
	switch {
	case known:
	case strings.HasPrefix(id, "strip.") && id != "strip.look_in_booster":
		a.off = []simulate.Part{simulate.Cover}
	case strings.HasPrefix(id, "fit."):
		a.on = []simulate.Part{simulate.Cover}
	}
	return a
}

// Parts are what hands take off, catch by its thread and make fast in a step of the plan.
func Parts(step string) (off, start, on []simulate.Part) {
	a := actOf(step)
	return a.off, a.start, a.on
}

// each is a part at all its places.
func (t *tech) each(p simulate.Part) (out []simulate.Part) {
	switch p {
	case simulate.Line:
		for _, c := range t.Intake.System.Circuits {
			out = append(out, simulate.At(p, c.ID))
		}
	case simulate.Bleeder:
		for _, w := range t.Intake.System.Wheels {
			out = append(out, simulate.At(p, w.ID))
		}
	default:
		out = []simulate.Part{p}
	}
	return out
}
