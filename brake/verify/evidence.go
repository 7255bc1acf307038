package verify

import (
	"slices"
)

// A reading proves something about the vehicle as it was when it was taken. It dies with any later work that touches
// what it proves (how-it-computes, section 12).

// Work is a kind of work, by what it touches.
type Work string

// Kinds of work.
const (
	WorkLine     Work = "line"     // a line, a bleeder, the fluid, a stroke
	WorkCylinder Work = "cylinder" // the cylinder or its mounting
	WorkBooster  Work = "booster"  // the booster, its hose or pressure lines
	WorkRod      Work = "rod"
	WorkPedal    Work = "pedal"
	WorkElectric Work = "electric" // plugs, battery, modulator routine, relearn
	WorkWheel    Work = "wheel"
)

// Works lists them.
var Works = []Work{WorkLine, WorkCylinder, WorkBooster, WorkRod, WorkPedal, WorkElectric, WorkWheel}

// Done is the last work of a kind: when it was, and what it was called.
type Done struct {
	Seq  int64  `json:"seq"`
	What string `json:"what"` // a step, or a kind of event
}

var hydraulic = []Work{WorkLine, WorkCylinder, WorkBooster, WorkRod}

// dies is the table of what kills which evidence. What is not in it stands for good.
var dies = map[string][]Work{
	"pedal.sink": hydraulic, "pedal.readings": hydraulic, Pump: hydraulic, FirmHeight: hydraulic, "check.dry_joints": hydraulic, "check.level": hydraulic,
	"pedal.sinks": hydraulic, "pedal.to_floor": hydraulic, "pedal.springy": hydraulic, "pedal.pumps_up": hydraulic, "level.falls": hydraulic, "wet.at": hydraulic,
	"assist.pedal_falls_on_start": {WorkBooster, WorkRod}, "assist.reserve_applies": {WorkBooster, WorkRod}, "vacuum.at_hose_kpa": {WorkBooster, WorkRod},
	"check.free_play": {WorkRod, WorkPedal, WorkBooster}, "check.wheels_free": {WorkRod, WorkPedal, WorkBooster}, "brakes.drag": {WorkRod, WorkPedal, WorkBooster},
	"check.brake_lamps": {WorkElectric, WorkPedal}, "check.lamps_out": {WorkElectric}, "codes.present": {WorkElectric},
	"check.wheels_torqued": {WorkWheel},
	// Driven and looked over again: anything at all since then asks for it anew.
	"check.walking_stops": Works, "check.second_look": Works, "check.clutch_releases": Works,
}

// killed gives the work that came after a piece of evidence and touches what it proves.
func (in *Input) killed(id string) (Done, bool) {
	at, told := in.ReadAt[id]
	if !told {
		return Done{}, false
	}
	var last Done
	for _, w := range dies[id] {
		if d, done := in.Work[w]; done && d.Seq > at && d.Seq > last.Seq {
			last = d
		}
	}
	return last, last.Seq > 0
}

// Dead lists the evidence that later work has killed, with what killed it.
func (in *Input) Dead() map[string]Done {
	out := map[string]Done{}
	for id := range in.Findings {
		if d, dead := in.killed(id); dead {
			out[id] = d
		}
	}
	return out
}

// against are findings that speak against a release until they are read again without them.
var against = []struct {
	id   string
	well []string // values that do not
}{
	{"pedal.sinks", []string{"no"}}, {"pedal.to_floor", []string{"no"}}, {"pedal.springy", []string{"no"}}, {"pedal.pumps_up", []string{"no"}},
	{"level.falls", []string{"no"}}, {"brakes.drag", []string{"no"}},
}

// contradicts lists what was found beside the gate's own readings and speaks against them.
func (in *Input) contradicts() []string {
	var out []string
	for _, a := range against {
		var v string
		if _, ok := in.readEvenUnsure(a.id, &v); ok && !slices.Contains(a.well, v) {
			out = append(out, a.id)
		}
	}
	var list []string
	if _, ok := in.readEvenUnsure("wet.at", &list); ok && slices.ContainsFunc(list, func(x string) bool { return x != "dry" }) {
		out = append(out, "wet.at")
	}
	list = nil
	if _, ok := in.readEvenUnsure("codes.present", &list); ok && len(list) > 0 {
		out = append(out, "codes.present")
	}
	return out
}
