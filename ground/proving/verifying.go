package proving

import (
	"context"
	"encoding/json"
	"math"
	"slices"
	"strings"

	"geminate/brake/diagnose"
	"geminate/brake/job"
	"geminate/brake/stand"
	"geminate/brake/verify"
	"geminate/ground/simulate"
	"geminate/ground/trial"
)

// item does what an item of the gate asks for; false where hands cannot.
func (t *tech) item(ctx context.Context, i verify.Item) (bool, error) {
	if i.Code == "gate.too_soon" || i.Code == "gate.time.short" {
		t.later(600)
	}
	if i.State == verify.Failed {
		if again, err := t.answer(ctx, i); again || err != nil {
			return again, err
		}
	}
	if value, as, ok := t.read(i.ID); ok {
		return true, t.found(i.ID, value, as)
	}
	switch i.ID {
	case "level":
		t.fill()
		return true, t.tell(job.KindRefill, job.Filled{}, &t.out.Taps.Other)
	case "small_parts":
		for n := len(t.State.Small) - 1; n >= 0; n-- {
			if p := t.State.Small[n]; !p.On {
				t.v.DoUp(simulate.SmallPart, 1)
				return true, t.tell(job.KindPartOn, job.PartOn{Of: p.ID}, &t.out.Taps.Other)
			}
		}
	case "told_late": // somebody looks
		things, _ := i.With["things"].([]string)
		for _, x := range things {
			if err := t.tell(job.KindThingSeen, job.ThingSeen{Thing: stand.Thing(x), State: t.seen(stand.Thing(x))},
				&t.out.Taps.Readings); err != nil {
				return true, err
			}
		}
		return len(things) > 0, nil
	case "parked":
		return true, t.tell(job.KindUnparked, job.Unparked{}, &t.out.Taps.Other)
	case "time":
		return true, t.tell(job.KindNote, job.Noted{Text: "Tea."}, &t.out.Taps.Other)
	case "contradicts":
		ids, _ := i.With["findings"].([]string)
		for _, id := range ids {
			if err := t.again(id); err != nil {
				return true, err
			}
		}
		return len(ids) > 0, nil
	}
	if ev := stand.EvidenceOf(i.ID); ev != nil && ev.Against != nil {
		return true, t.again(i.ID)
	}
	return false, nil
}

// seen is how a thing really is.
func (t *tech) seen(thing stand.Thing) job.SeenState {
	for step, a := range acts {
		if x := stand.Find(step); x == nil || x.Thing != thing {
			continue
		}
		for _, p := range slices.Concat(a.off, a.on, a.start) {
			for _, at := range t.each(p) {
				if t.v.NM(at) < 1 {
					return job.SeenOff
				}
			}
		}
	}
	return job.SeenOn
}

// found tells a reading of the release check: as it is, or rounded to what it should be.
func (t *tech) found(id string, value, should any) error {
	if t.spec.Without[id] || t.rounds() {
		if string(raw(value)) != string(raw(should)) {
			t.blame(LieReading, id, "")
		}
		value = should
	}
	t.out.Taps.Readings++
	t.later(verify.TakesS(id, raw(value)))
	made := job.FindingMade{Phase: job.PhaseVerify, Finding: id, Value: raw(value)}
	if id == "check.second_look" { // somebody else's eyes, who had no hands on it
		made.Witness = looker.Name
	}
	return t.Tell(job.KindFinding, made)
}

// again looks at a sign of the diagnosis once more, on the vehicle as it stands.
func (t *tech) again(id string) error {
	f := t.lookAt(id)
	t.out.Taps.Readings++
	t.later(verify.TakesS(id, f.Value))
	return t.Tell(job.KindFinding, job.FindingMade{Phase: job.PhaseVerify, Finding: id, Value: f.Value})
}

// lookAt looks at one sign on the vehicle as it stands.
func (t *tech) lookAt(id string) diagnose.Finding {
	defer t.did(Act{Do: DoLook, ID: id})()
	t.stands()
	return t.sign(id)
}

// stands makes what is shown follow what is there.
func (t *tech) stands() { t.shown.Stands(t.truth(), t.v.Now()) }

// sign is what is felt or seen of one sign, by the table of signs; what the vehicle itself knows comes from it.
func (t *tech) sign(id string) diagnose.Finding {
	switch id {
	case "pedal.springy":
		if t.Intake.System.Pedal != nil && t.v.Springs() {
			return trial.Told(id, "yes")
		}
	case "fluid.water_percent":
		return trial.Told(id, math.Round(100*t.v.WaterPercent(t.water(), t.bottle.WaterPercent))/100)
	case "level.falls":
		if !t.v.DryJoints() {
			return trial.Told(id, "slowly")
		}
	case "rod.gap_mm":
		return trial.Told(id, math.Round(100*t.v.RodMM())/100)
	}
	return t.shown.Look(id)
}

// water is that of the old fluid, percent.
func (t *tech) water() float64 {
	if f, ok := t.State.Findings[job.PhaseDiagnose]["fluid.water_percent"]; ok {
		var x float64
		if json.Unmarshal(f.Value, &x) == nil {
			return x
		}
	}
	for _, f := range t.v.Faults() {
		if f.ID == "fluid.wet" {
			return 3.6
		}
	}
	return t.Intake.System.Fluid.WaterPercent
}

func yes(b bool) string {
	if b {
		return "yes"
	}
	return "no"
}

func (t *tech) is(id, want string) bool {
	if !t.shown.Applies(id) {
		return true
	}
	return string(t.sign(id).Value) == string(raw(want))
}

// read reads one of the gate's own; as is what it should be.
func (t *tech) read(id string) (value, as any, ok bool) {
	defer t.did(Act{Do: DoRead, ID: id})()
	t.stands()
	v := t.v
	switch id {
	case "pedal.sink":
		engine, force := "on", 450.0
		if !diagnose.HoldEngine(t.Intake.System) {
			engine = "off"
		}
		if t.Intake.System.Assist().Simulator {
			force = 300
		}
		hold := func(mm float64) any {
			return map[string]any{"pedal_force_n": force, "travel_mm": math.Round(10*mm) / 10, "seconds": 45, "engine": engine}
		}
		return hold(v.HoldMM(force, 45, engine == "on")), hold(0.5), true
	case verify.Pump:
		a, b, c := v.PumpMM(250)
		return verify.PumpHeights{
				FirstMM:  high(a),
				SecondMM: high(b),
				FourthMM: high(c),
			}, verify.PumpHeights{
				FirstMM:  110,
				SecondMM: 111,
				FourthMM: 112,
			}, true
	case verify.FirmHeight:
		b, _ := verify.Band(t.Fitted(), 220)
		return math.Round(v.TravelMM(220 + 25*t.rnd.NormFloat64())), math.Round(b.TravelMM), true
	case "assist.reserve_applies":
		return v.Reserve(), 3, true
	case "pedal.readings":
		real, good := []map[string]float64{}, []map[string]float64{}
		for _, force := range []float64{200, 260, 320} {
			b, _ := verify.Band(t.Fitted(), force)
			real = append(real, map[string]float64{"pedal_force_n": force, "travel_mm": math.Round(v.TravelMM(force))})
			good = append(good, map[string]float64{"pedal_force_n": force, "travel_mm": math.Round(b.TravelMM)})
		}
		return real, good, true
	case "check.second_look":
		return yes(len(v.Loose()) == 0), "yes", true
	}
	ev := stand.EvidenceOf(id)
	if ev == nil || !ev.Judged {
		return nil, nil, false
	}
	return yes(t.check(id)), "yes", true
}

// high keeps a height over the floor.
func high(mm float64) float64 { return math.Max(1, math.Round(mm)) }

// check looks at one of the release list.
func (t *tech) check(id string) bool {
	v := t.v
	switch id {
	case "assist.pedal_falls_on_start":
		return v.FallsOnStart() && t.is(id, "yes")
	case "check.free_play":
		return v.FreePlay()
	case "check.wheels_free":
		return v.WheelsFree() && !strings.Contains(string(t.sign("wheel.check").Value), "drags")
	case "check.dry_joints":
		v.Wipe()
		return v.DryJoints() && t.is("leak.seen", "none")
	case "check.hoses_firm":
		return t.is("hose.swells", "no")
	case "check.complaint_gone":
		return t.gripeGone()
	case "check.lamps_out":
		return v.LampsOut()
	case "check.wheels_torqued":
		v.DoUp(simulate.RoadWheels, 120)
		return true
	case "check.level":
		return v.LevelShare() > 0.6
	case "check.bottle": // its class is read nine times of ten (assumption)
		t.badBottle = t.badBottle || t.bottle.Foreign && t.rnd.Float64() < 0.9
		return !t.badBottle
	case "check.walking_stops":
		return !t.blocked() && v.Stops() && t.is("brakes.weak", "no") && t.is("brakes.drag", "no")
	case "check.coupler_strokes", "check.coupler_holds", "check.coupler_releases":
		return v.Moves()
	case "check.clutch_releases":
		return !t.blocked() && v.Stops()
	}
	return true
}

// blocked says whether a hose that lets nothing through is felt: nine times of ten (assumption).
func (t *tech) blocked() bool {
	return slices.ContainsFunc(t.v.Faults(), func(f simulate.Fault) bool { return f.ID == "circuit.hose_blocked" }) && t.rnd.Float64() < 0.9
}

// gripeGone says whether what the owner complained of is gone, felt or tried once more. What takes days to show (a
// level that falls) cannot be.
func (t *tech) gripeGone() bool {
	for _, f := range t.shown.Reports() {
		s := diagnose.SignOf(f.ID)
		if s == nil || f.ID == "level.falls" || strings.HasPrefix(f.ID, "history.") || string(f.Value) == string(raw(s.Values[0])) {
			continue
		}
		if !t.is(f.ID, s.Values[0]) {
			return false
		}
	}
	return true
}
