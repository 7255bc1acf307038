package walk

import (
	"encoding/json"
	"fmt"
	"slices"

	"geminate/brake/job"
	"geminate/brake/system"
)

// What holds of any vehicle that is let go, read off the log by rules of their own: nothing here asks the account, the
// plan or the gate. Written from how-it-computes, section 13, and kept apart on purpose.

// shadow is what the events alone say of the vehicle.
type shadow struct {
	s   *system.System
	off map[string]int64           // a connection or unit: when it last came off or was opened
	on  map[string]int64           // and was last made tight
	by  map[string]map[string]bool // and by whom: what two told stands until both take it back
	// unitOn is the cylinder that was put on, the one benched and the one the rod was set for, by id; chosen the one
	// that is to be on.
	unitOn, benched, rodOf, chosen string
	fitsCylinder, vice, rodSet     bool
	bleederOpen, bleederOn         int64
	through                        map[string]float64
	airAt                          map[string]float64 // what had gone through when air may last have got in
	airNeed                        map[string]float64
	looks                          map[string][]look
	work, hydraulic                int64 // the last act on the vehicle, and on its hydraulics
	hold                           int64
	holdGood                       bool
	failed                         int64 // when it last sank, and how often it was held well since
	goods                          int
	dry, drove                     int64 // when the joints were last seen dry, and it was last driven
	heldBefore, dryBefore          bool  // and what had been read by then
	wetTold                        bool
	parked                         bool
	rubber, elsewhere, rodAt       int64 // the cylinder's cups were renewed, a line or wheel was repaired, the rod was set
}

type look struct {
	at    float64
	clear bool
}

// joints are the acts of the things that have to be back: what takes them off, what makes them fast.
var joints = map[string][2]string{
	"lines":     {"strip.lines_off", "fit.line_nuts"},
	"cylinder":  {"strip.cylinder_off", "fit.cylinder_nuts"},
	"booster":   {"strip.firewall_nuts", "fit.firewall_nuts"},
	"bolts":     {"strip.actuator_bolts", "fit.actuator_bolts"},
	"pedal":     {"strip.pedal_end", "fit.pedal_end"},
	"hose":      {"strip.vacuum_hose", "fit.check_valve_hose"},
	"pressure":  {"strip.pressure_lines", "fit.pressure_lines"},
	"hoses":     {"strip.remote_hoses", "fit.remote_hoses"},
	"sensor":    {"strip.sensor_plug", "fit.sensor_plug"},
	"connector": {"strip.main_connector", "fit.main_connector"},
	"shoe":      {"strip.shoe_and_rod", "fit.shoe_and_rod"},
	"airbox":    {"strip.air_box", "fit.air_box"},
	"plug":      {"safe.service_plug", "close.service_plug"},
	"power":     {"safe.negative_off", "close.negative_on"},
	"reservoir": {"safe.empty_reservoir", "close.fill"},
}

// read takes a log in.
func read(s *system.System, events []job.Event, choice map[int64]chosen) *shadow {
	sh := &shadow{
		s:       s,
		off:     map[string]int64{},
		on:      map[string]int64{},
		by:      map[string]map[string]bool{},
		through: map[string]float64{},
		airAt:   map[string]float64{},
		airNeed: map[string]float64{},
		looks:   map[string][]look{},
	}
	undone := map[string]bool{}
	for _, e := range slices.Backward(events) {
		if u, ok := e.Body.(*job.Undone); ok && !undone[e.ID] {
			undone[u.Of] = true
		}
	}
	events = byClock(events)
	for i, e := range events {
		if c, ok := choice[e.Seq]; ok {
			sh.chosen, sh.fitsCylinder, sh.vice = c.unit, c.cylinder, c.vice
		}
		if !undone[e.ID] && !sh.slip(events, i) && !(i > 0 && sh.slip(events, i-1)) {
			e.Seq = int64(i + 1) // when hands did it, whenever it was told
			sh.event(&e)
		}
	}
	return sh
}

// byClock puts a log in the order in which hands worked: a walker's clocks are all right.
func byClock(events []job.Event) []job.Event {
	out := slices.Clone(events)
	slices.SortStableFunc(out, func(a, b job.Event) int { return a.At.Compare(b.At) })
	return out
}

// slip says whether something was told to be off for the first time and taken back before anything else: it never came
// off.
func (sh *shadow) slip(events []job.Event, i int) bool {
	if i+1 >= len(events) {
		return false
	}
	on, ok := events[i].Body.(*job.Ticked)
	back, too := events[i+1].Body.(*job.Ticked)
	if !ok || !too || on.Step != back.Step || back.Done == nil || *back.Done || on.NotHere != "" || on.Done != nil && !*on.Done {
		return false
	}
	for name, j := range joints {
		if on.Step == j[0] {
			return sh.off[name] == 0
		}
	}
	return false
}

func (sh *shadow) event(e *job.Event) {
	switch b := e.Body.(type) {
	case *job.Ticked:
		if b.NotHere == "" {
			sh.tick(b, e.By.ID, e.Seq)
		}
	case *job.BleedStroked:
		sh.moved(b.Wheel, b.CM3, e.Seq)
	case *job.VolumeMoved:
		sh.moved(b.Wheel, b.VolumeCM3, e.Seq)
	case *job.WheelSeen:
		clear := b.Done == nil || *b.Done
		sh.looks[b.Wheel] = append(sh.looks[b.Wheel], look{sh.through[b.Wheel], clear})
		sh.work, sh.hydraulic = e.Seq, e.Seq
	case *job.OpeningLost:
		sh.air(b.Wheel, sh.brake(b.Wheel))
		sh.bleederOpen, sh.work, sh.hydraulic = e.Seq, e.Seq, e.Seq
	case *job.WheelAgain:
		sh.air(b.Wheel, sh.brake(b.Wheel))
		sh.bleederOpen, sh.work, sh.hydraulic = e.Seq, e.Seq, e.Seq
	case *job.PortCracked:
		sh.off["lines"], sh.work, sh.hydraulic = e.Seq, e.Seq, e.Seq
	case *job.Filled:
		sh.work, sh.hydraulic = e.Seq, e.Seq
		sh.made("reservoir", e.By.ID, e.Seq)
	case *job.DrawnOff:
		sh.work, sh.hydraulic = e.Seq, e.Seq
	case *job.RubberRenewed:
		sh.work, sh.hydraulic = e.Seq, e.Seq
		if b.Part == job.RubberCylinder {
			sh.rubber = e.Seq
		}
	case *job.Parked:
		sh.parked = true
	case *job.Unparked:
		sh.parked = false
	case *job.IntakeChanged: // other figures: what was read was judged by those before
		sh.hydraulic = e.Seq
	case *job.FindingMade:
		sh.tested(b, e.Seq)
		if b.Phase != job.PhaseVerify || b.Finding != "pedal.sink" {
			return
		}
		var v struct {
			TravelMM float64 `json:"travel_mm"`
			Seconds  float64 `json:"seconds"`
		}
		sh.hold, sh.holdGood = 0, false
		if json.Unmarshal(b.Value, &v) == nil && len(b.Value) > 0 && (b.Sure == nil || *b.Sure) {
			sh.hold, sh.holdGood = e.Seq, v.Seconds >= 30 && v.TravelMM <= 6
			switch {
			case !sh.holdGood:
				sh.failed, sh.goods = e.Seq, 0
			default:
				sh.goods++
			}
		}
	}
}

// made: somebody made it fast.
func (sh *shadow) made(name, by string, seq int64) {
	if sh.on[name] = seq; sh.by[name] == nil {
		sh.by[name] = map[string]bool{}
	}
	sh.by[name][by] = true
}

// untold takes back that somebody made it fast.
func (sh *shadow) untold(name, by string) {
	if delete(sh.by[name], by); len(sh.by[name]) == 0 {
		sh.on[name] = 0
	}
}

func (sh *shadow) tick(b *job.Ticked, by string, seq int64) {
	done := b.Done == nil || *b.Done
	for name, j := range joints {
		switch {
		case b.Step == j[0] && done:
			sh.off[name], sh.by[name] = seq, map[string]bool{}
		case b.Step == j[1] && done:
			sh.made(name, by, seq)
		case b.Step == j[1]:
			sh.untold(name, by)
		}
	}
	for _, step := range b.Also {
		for name, j := range joints {
			if step == j[1] {
				sh.untold(name, by)
			}
		}
	}
	switch b.Step {
	case "strip.cylinder_aside":
		if done {
			sh.off["cylinder"] = seq
		}
	case "strip.lines_off", "strip.remote_hoses":
		if done {
			sh.everywhere()
		}
	case "fit.cylinder_nuts", "fit.actuator_bolts":
		if done && sh.fitsCylinder {
			sh.unitOn = sh.chosen
			sh.everywhere()
		}
	case "fit.bench_bled":
		if done {
			sh.benched = sh.unit()
		}
	case "rod.measure", "rod.touch_and_turn", "rod.as_supplied", "rod.compare":
		if done {
			if sh.rodOf, sh.rodSet = sh.unit(), true; b.Step != "rod.as_supplied" {
				sh.rodAt = seq
			}
		}
	case "elsewhere.repaired":
		if done {
			sh.elsewhere = seq
		}
	case "close.bleeder_screws":
		if sh.bleederOn = seq; !done {
			sh.bleederOn = 0
		}
	}
	sh.work = seq
	for _, p := range []string{"fit.line", "fit.cyl", "fit.act", "fit.fire", "strip.lines", "strip.cyl", "close.bleeder"} {
		if len(b.Step) >= len(p) && b.Step[:len(p)] == p {
			sh.hydraulic = seq
		}
	}
}

func (sh *shadow) moved(wheel string, cm3 float64, seq int64) {
	sh.through[wheel] += cm3
	sh.bleederOpen, sh.work, sh.hydraulic = seq, seq, seq
}

func (sh *shadow) path(id string) float64 {
	if w := sh.s.Wheel(id); w != nil {
		return w.PipeCM3() + w.Brake.CavityCM3
	}
	return 0
}

func (sh *shadow) brake(id string) float64 {
	if w := sh.s.Wheel(id); w != nil {
		return w.HoseCM3() + w.Brake.CavityCM3
	}
	return 0
}

// air may have got in at a wheel: of two airs the farther one is the one that counts.
func (sh *shadow) air(id string, need float64) {
	left := sh.airNeed[id] - (sh.through[id] - sh.airAt[id])
	sh.airAt[id], sh.airNeed[id] = sh.through[id], max(need, left)
}

func (sh *shadow) everywhere() {
	for i := range sh.s.Wheels {
		sh.air(sh.s.Wheels[i].ID, sh.path(sh.s.Wheels[i].ID))
	}
}

// unit is the cylinder the work is for: the one that was chosen, or where none goes on the one that is on.
func (sh *shadow) unit() string {
	if sh.fitsCylinder {
		return sh.chosen
	}
	return sh.unitOn
}

// otherUnit says whether a cylinder, or what holds it, came off and went on since it sank.
func (sh *shadow) otherUnit() bool {
	names := []string{"cylinder", "bolts"}
	if sh.s.Assist().OnePiece {
		names = append(names, "booster")
	}
	return sh.rubber > sh.failed || sh.rodAt > sh.failed || sh.elsewhere > sh.failed ||
		slices.ContainsFunc(names, func(n string) bool { return sh.off[n] > sh.failed && sh.on[n] > sh.off[n] })
}

// broken says what does not hold of a vehicle that is let go; nothing where all does.
func (sh *shadow) broken() (out []string) {
	for name := range joints {
		if sh.off[name] > 0 && sh.on[name] < sh.off[name] {
			out = append(out, name+" was undone last")
		}
	}
	if sh.bleederOpen > sh.bleederOn {
		out = append(out, "a bleeder was opened last")
	}
	if sh.fitsCylinder && sh.unitOn != sh.chosen {
		out = append(out, fmt.Sprintf("%q is on, %q was chosen", sh.unitOn, sh.chosen))
	}
	if sh.fitsCylinder && sh.rodSet && sh.rodOf != sh.chosen { // chosen, given up and chosen again it is the same one
		out = append(out, "the rod was another unit's")
	}
	if sh.fitsCylinder && sh.vice && sh.benched != sh.chosen {
		out = append(out, "a unit that was not benched")
	}
	if sh.parked {
		out = append(out, "it is parked")
	}
	for id, need := range sh.airNeed {
		if need <= 0 {
			continue
		}
		if sh.through[id]-sh.airAt[id] < need*0.99 {
			out = append(out, id+": the air is still on its way")
		}
		if l := sh.looks[id]; len(l) == 0 || !l[len(l)-1].clear || l[len(l)-1].at <= sh.airAt[id] {
			out = append(out, id+": last seen with bubbles, or not since")
		}
	}
	if sh.failed > 0 && sh.goods < 2 && !sh.otherUnit() && !sh.wetTold {
		out = append(out, "it sank, and nothing was done that can have cured it")
	}
	if sh.s.Pedal != nil && !sh.s.IsClutch() && (sh.drove == 0 || !sh.heldBefore || !sh.dryBefore) {
		out = append(out, "driven before it was held and seen dry")
	}
	if sh.s.Pedal != nil && !sh.s.IsClutch() && sh.dry < sh.drove {
		out = append(out, "not looked at since the drive")
	}
	if sh.s.Pedal != nil && (sh.hold == 0 || !sh.holdGood || sh.hold < sh.hydraulic) {
		out = append(out, "not held since the last work")
	}
	slices.Sort(out)
	return out
}
