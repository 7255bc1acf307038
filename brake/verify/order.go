package verify

import (
	"encoding/json"
	"slices"
	"time"

	"geminate/brake/diagnose"
	"geminate/brake/stand"
)

// What evidence needs, and how long it holds (how-it-computes, section 12): joints are dry only while the foot presses
// them; nobody drives before the pedal was held, pumped, and the joints and the level looked at; joints and level are
// looked at again after the drive; the second look comes last. A vehicle that only stood is read again after a day.

const (
	drove      = "check.walking_stops"
	dryJoints  = "check.dry_joints"
	levelCheck = "check.level"
	lampsOut   = "check.lamps_out"
	holds      = "check.coupler_holds"
	phoneOff   = "check.phone_off"
)

// beforeDrive are the items that are read before anybody drives, afterDrive those that are read again after it.
var (
	beforeDrive = []string{"pedal.sink", Pump, FirmHeight, "pedal.readings", holds, dryJoints, levelCheck, phoneOff}
	afterDrive  = []string{dryJoints, levelCheck}
)

// readAgainAfter are the items read again after the drive on this vehicle: codes and lamps too where a tool speaks to
// its brakes.
func (in *Input) readAgainAfter() []string {
	if in.System.Assist().ToolLed {
		return append(slices.Clone(afterDrive), lampsOut)
	}
	return afterDrive
}

// inOrder lets no reading count that was not taken when it proves something.
func (in *Input) inOrder(g *Gate) {
	if in.AsThen {
		return
	}
	set := func(i int, code string, with map[string]any) {
		g.Items[i].State, g.Items[i].Code, g.Items[i].With = Missing, code, with
	}
	item := func(id string) int {
		return slices.IndexFunc(g.Items, func(x Item) bool { return x.ID == id && x.State == OK })
	}
	for i := range g.Items {
		if hours, old := in.aged(g.Items[i].ID); old && g.Items[i].State == OK {
			set(i, "gate.aged", map[string]any{"hours": hours})
		}
	}
	if i := item(phoneOff); i >= 0 && in.ReadAt[phoneOff].Seq < in.PhoneSeq {
		set(i, "gate.phone_on", nil) // it has been on again since
	}
	joints := item(dryJoints)
	if at := in.ReadAt[dryJoints]; joints >= 0 && at.Seq > 0 && !in.pressed(&at) {
		set(joints, "gate.not_pressed", nil)
	}
	if at := in.ReadAt[drove]; item(drove) >= 0 && at.Seq > 0 {
		i := item(drove)
		first := []string{}
		for _, id := range beforeDrive {
			if slices.ContainsFunc(g.Items, func(x Item) bool { return x.ID == id }) && !in.goodBefore(id, &at) {
				first = append(first, id)
			}
		}
		if len(first) > 0 {
			set(i, "gate.before_drive", map[string]any{"findings": first})
		}
		for _, id := range in.readAgainAfter() {
			if k := item(id); k >= 0 && in.ReadAt[id].Seq < at.Seq {
				set(k, "gate.after_drive", nil)
				g.Items[k].Where = OnRoad
			}
		}
	}
	if at := in.ReadAt[secondLook]; item(secondLook) >= 0 && at.Seq > 0 {
		i, after := item(secondLook), []string{}
		for _, x := range g.Items {
			if r, read := in.ReadAt[x.ID]; read && x.ID != secondLook && r.Seq > at.Seq {
				after = append(after, x.ID)
			}
		}
		if len(after) > 0 {
			set(i, "gate.second_look.last", map[string]any{"findings": after})
		}
	}
}

// aged says whether a reading is older than it holds on a vehicle that only stood, h.
func (in *Input) aged(id string) (hours float64, old bool) {
	ev, at := stand.EvidenceOf(id), in.ReadAt[id]
	if ev == nil || ev.AgeH == 0 || at.Seq == 0 || in.Unhurried {
		return 0, false
	}
	return ev.AgeH, in.Now.Sub(at.At) > time.Duration(ev.AgeH*float64(time.Hour))
}

// told are the readings of a finding, the last at the end.
func (in *Input) told(id string) []Read {
	if list := in.History[id]; len(list) > 0 {
		return list
	}
	f, there := in.Findings[id]
	if !there {
		return nil
	}
	r := in.ReadAt[id]
	r.Value, r.Sure = f.Value, f.Sure
	return []Read{r}
}

// goodBefore says whether a finding was read well before another one, with nothing done since on what it speaks of.
func (in *Input) goodBefore(id string, other *Read) bool {
	return slices.ContainsFunc(in.told(id), func(r Read) bool {
		if r.Seq >= other.Seq || r.Withdrawn || !r.sure() || in.against(id, r.Value) {
			return false
		}
		_, dead := in.Stand.KilledBy(id, r.When, r.Base)
		return !dead
	})
}

// pressed says whether a firm foot was on the pedal, or the coupler was in, before a look at the joints or while it was
// taken, and nothing was touched since that the look speaks of.
func (in *Input) pressed(look *Read) bool {
	for _, id := range []string{"pedal.sink", "pedal.readings", Pump, FirmHeight, holds} {
		for _, r := range in.told(id) {
			if r.Withdrawn || !r.sure() || !pressedHard(id, r.Value) {
				continue
			}
			if _, dead := in.Stand.KilledBy(dryJoints, r.When, r.Base); dead {
				continue
			}
			began := r.At.Add(-time.Duration(TakesS(id, r.Value) * float64(time.Second)))
			if r.Seq < look.Seq || !began.After(look.At) {
				return true
			}
		}
	}
	return false
}

// pressedHard says whether a reading pressed the joints.
func pressedHard(id string, raw json.RawMessage) bool {
	var sink diagnose.Sink
	var list []diagnose.Reading
	var yes string
	switch id {
	case "pedal.sink":
		return json.Unmarshal(raw, &sink) == nil && sink.PedalForceN >= FirmLowN
	case "pedal.readings":
		return json.Unmarshal(raw, &list) == nil &&
			slices.ContainsFunc(list, func(r diagnose.Reading) bool { return r.PedalForceN >= FirmLowN })
	case holds:
		return json.Unmarshal(raw, &yes) == nil && yes == "yes"
	}
	return true // by a firm foot as they are
}
