package proving

import (
	"context"
	"slices"
	"strings"
	"time"

	"geminate/brake/diagnose"
	"geminate/brake/job"
	"geminate/brake/match"
	"geminate/brake/stand"
	"geminate/brake/verify"
	"geminate/ground/simulate"
)

// redo are the steps that put right what a failed item speaks of.
var redo = map[string][]string{
	"check.dry_joints": {
		"fit.line_nuts",
		"close.bleeder_screws",
		"fit.pressure_lines",
		"fit.remote_hoses",
		"elsewhere.repaired",
	},
	"check.free_play":   {"rod.measure", "rod.touch_and_turn", "rod.compare"},
	"check.wheels_free": {"rod.measure", "rod.touch_and_turn"},
	"check.lamps_out":   {"fit.sensor_plug", "fit.main_connector"},
	"torque": {
		"fit.cylinder_nuts",
		"fit.line_nuts",
		"close.bleeder_screws",
		"fit.firewall_nuts",
		"fit.pressure_lines",
		"fit.actuator_bolts",
	},
	"rod": {"rod.measure"},
	"check.second_look": {
		"fit.cylinder_nuts",
		"fit.firewall_nuts",
		"fit.pressure_lines",
		"fit.sensor_plug",
		"fit.check_valve_hose",
		"fit.pedal_end",
		"close.count_out",
		"fit.face_seal",
	},
	"assist.pedal_falls_on_start": {"fit.check_valve_hose"},
	"assist.reserve_applies":      {"fit.check_valve_hose"},
	"check.coupler_strokes":       {"fit.shoe_and_rod"},
}

var byPedal = []string{
	"pedal.sink",
	verify.Pump,
	verify.FirmHeight,
	"pedal.readings",
	"pedal.air",
	"check.walking_stops",
	"check.coupler_strokes",
	"check.coupler_holds",
	"check.clutch_releases",
}

// answer does what a failed item leads to: read once more, the steps done again, bled again, and at last the diagnosis.
func (t *tech) answer(ctx context.Context, i verify.Item) (bool, error) {
	t.redone[i.ID]++
	n := t.redone[i.ID]
	if strings.HasPrefix(i.Code, "gate.read_again") && n <= 8 {
		if value, as, ok := t.read(i.ID); ok {
			return true, t.found(i.ID, value, as)
		}
		return true, t.again(i.ID)
	}
	if i.ID == "pedal.sink" && n == 2 &&
		t.State.Ticks["fit.line_nuts"].EventID != "" { // it goes somewhere: the joints are looked at under the foot
		if value, as, ok := t.read("check.dry_joints"); ok && value != as {
			return true, t.found("check.dry_joints", value, as)
		}
	}
	if n == 1 { // one reading may be wrong
		if value, as, ok := t.read(i.ID); ok {
			return true, t.found(i.ID, value, as)
		}
	}
	if ev := stand.EvidenceOf(i.ID); ev != nil && ev.Against != nil && n <= 2 { // a sign: looked at once more, twice
		return true, t.again(i.ID)
	}
	if ev := stand.EvidenceOf(i.ID); ev != nil && ev.Cure != nil && ev.Cure.Exchanged &&
		n <= 4 { // what is wrong with the fluid goes with the fluid
		if did, err := t.bleedAgain(); did || err != nil {
			return did, err
		}
	}
	if t.badBottle { // everything it touched is to be flushed and its rubber changed: not today
		return true, t.park()
	}
	if i.ID == "check.level" {
		t.fill()
		if err := t.tell(job.KindRefill, job.Filled{}, &t.out.Taps.Other); err != nil {
			return true, err
		}
		value, as, _ := t.read(i.ID)
		return true, t.found(i.ID, value, as)
	}
	if n <= 3 {
		if did, err := t.stepsAgain(redo[i.ID]); did || err != nil {
			return did, err
		}
	}
	if slices.Contains(byPedal, i.ID) && n <= 3 {
		if did, err := t.bleedAgain(); did || err != nil {
			return did, err
		}
	}
	if t.out.Rounds >= mostRounds || n > 6 {
		return true, t.park()
	}
	before := t.Head
	if err := t.rediagnose(ctx, i.ID); err != nil {
		return true, err
	}
	if value, as, ok := t.read(i.ID); ok && t.Head > before {
		return true, t.found(i.ID, value, as)
	}
	return t.Head > before, nil
}

// park puts the job off for a part, and ends it so.
func (t *tech) park() error {
	if err := t.tell(job.KindParked, job.Parked{Why: []job.ParkReason{job.ParkPart}}, &t.out.Taps.Other); err != nil {
		return err
	}
	return errParked
}

// stepsAgain takes done steps back, with what rests on them, so that they come next.
func (t *tech) stepsAgain(ids []string) (bool, error) {
	v, err := t.Replace()
	if err != nil {
		return false, err
	}
	no, did := false, false
	for _, id := range ids {
		s := v.Plan.Find(id)
		if s == nil || t.State.Ticks[id].EventID == "" {
			continue
		}
		err := t.tell(job.KindTick, job.Ticked{Step: id, Done: &no, Also: v.Falls[id]}, &t.out.Taps.Ticks)
		if known(err) != nil {
			return did, err
		}
		if did = did || err == nil; err == nil {
			if v, err = t.Replace(); err != nil {
				return did, err
			}
		}
	}
	return did, nil
}

// bleedAgain opens every wheel once more.
func (t *tech) bleedAgain() (bool, error) {
	v, err := t.Bleed()
	if err != nil || !v.Applies {
		return false, err
	}
	did := false
	for _, w := range t.Intake.System.Wheels {
		err := t.tell(job.KindWheelAgain, job.WheelAgain{Wheel: w.ID}, &t.out.Taps.Other)
		if known(err) != nil {
			return did, err
		}
		did = did || err == nil
	}
	return did, nil
}

// brings are the signs that what failed at the release check is told to the diagnosis as.
var brings = map[string][]string{
	"check.wheels_free":           {"wheel.check", "brakes.drag"},
	"check.dry_joints":            {"leak.seen", "level.falls"},
	"pedal.sink":                  {"pedal.sink", "pedal.sinks"},
	"pedal.readings":              {"pedal.readings", "pedal.springy", "pedal.low"},
	verify.Pump:                   {"pedal.pumps_up", "pedal.springy"},
	verify.FirmHeight:             {"pedal.low", "pedal.springy"},
	"assist.pedal_falls_on_start": {"assist.pedal_falls_on_start", "pedal.hard"},
	"assist.reserve_applies":      {"assist.reserve_applies"},
	"check.walking_stops":         {"brakes.weak", "brakes.drag", "pedal.low"},
	"check.free_play":             {"pedal.free_play_mm", "rod.gap_mm"},
	"check.lamps_out":             {"codes.present"},
	"check.coupler_strokes":       {"actuator.rod_moves", "coupler.travel"},
	"check.coupler_holds":         {"actuator.rod_moves", "actuator.holds"},
	"check.clutch_releases":       {"pedal.low", "pedal.springy"},
}

// rediagnose reads the signs on the vehicle as it stands, and takes what is proposed now.
func (t *tech) rediagnose(ctx context.Context, item string) error {
	t.stands()
	ids := slices.Clone(brings[item])
	for id := range t.State.Findings[job.PhaseDiagnose] {
		if !slices.Contains(ids, id) && id != "looked.at" && id != "history.since" && id != "history.bled" {
			ids = append(ids, id)
		}
	}
	slices.Sort(ids)
	for _, id := range ids {
		if id == "wet.at" || !t.shown.Applies(id) {
			continue
		}
		if err := t.finding(t.lookAt(id)); err != nil {
			return err
		}
	}
	return t.diagnose(ctx)
}

const mostTests = 25

// diagnose tests what the job says is worth testing until it is settled, and takes the work it proposes.
func (t *tech) diagnose(ctx context.Context) error {
	t.out.Rounds++
	t.stands()
	onTheWay := false
	for tests := 0; ; {
		d, err := t.Diagnose(ctx)
		if err != nil {
			return err
		}
		r := &d.Result
		next := []string{r.TestFirst}
		if r.TestFirst == "" {
			if next = r.OnTheWay; onTheWay {
				next = nil
			}
			onTheWay = true
		}
		if len(next) == 0 || tests >= mostTests {
			return t.take(&r.Action)
		}
		for _, id := range next {
			tests++
			again := slices.ContainsFunc(r.NextTests, func(n diagnose.NextTest) bool { return n.ID == id && n.Again })
			for _, f := range t.test(id) {
				if err := t.reading(f, again && f.ID == "pedal.sink"); err != nil {
					return err
				}
			}
			t.At = t.At.Add(time.Duration(60 * minutesOf(id) * float64(time.Second)))
		}
	}
}

// test carries one out on the vehicle as it stands.
func (t *tech) test(id string) []diagnose.Finding {
	defer t.did(Act{Do: DoTest, ID: id})()
	t.stands()
	out := t.shown.Read(t.Case().Findings, id)
	for i, f := range out {
		if f.ID == "pedal.sink" || f.ID == "pedal.readings" {
			out[i] = t.shown.Look(f.ID)
		}
	}
	t.v.Spend(60 * minutesOf(id))
	return out
}

func minutesOf(test string) float64 {
	if x := diagnose.TestOf(test); x != nil {
		return x.Minutes
	}
	return 0
}

// mend says what is repaired besides the units: as it is planned for, or at once where no step is for it.
func (t *tech) mend(places []simulate.Part) {
	at := make([]string, len(places))
	for i, p := range places {
		at[i] = string(p)
	}
	defer t.did(Act{Do: DoMend, Places: at})()
	t.repairs = nil
	var wheels []string
	opens := false
	for _, p := range places {
		where, of, _ := strings.Cut(string(p), ":")
		switch {
		case p == simulate.Rubber:
			t.v.Repair(p)
			continue
		case where == "wheels":
			for _, w := range t.Intake.System.Wheels {
				wheels = append(wheels, w.ID)
			}
			opens = true
		case where == "wheel":
			wheels, opens = append(wheels, of), true
		case where == "circuit", where == "hose", where == "modulator":
			opens = true
		}
		t.repairs = append(t.repairs, p)
	}
	if opens {
		t.v.OpensAt(wheels...)
	}
}

// note takes down what is repaired besides the units, and where.
func (t *tech) note(a *diagnose.Action, all []string) {
	places := []simulate.Part{}
	for _, id := range all {
		at := func(p simulate.Part, list []string) {
			if len(list) == 0 && p == "wheel" { // at no wheel by name: at all of them
				p = "wheels"
			}
			if len(list) == 0 {
				places = append(places, simulate.At(p, ""))
			}
			for _, x := range list {
				places = append(places, simulate.At(p, x))
			}
		}
		switch id {
		case "repair_wheel":
			at("wheel", a.At)
		case "repair_line":
			for _, x := range a.At { // a hose is a wheel's, a line its circuit's
				if t.Intake.System.Wheel(x) != nil {
					at("hose", []string{x})
				} else {
					at("circuit", []string{x})
				}
			}
			if len(a.At) == 0 {
				at("circuit", nil)
			}
		case "repair_supply":
			at("supply", nil)
		case "free_coupler":
			at("coupler", nil)
		case "repair_modulator":
			at("modulator", nil)
		case "set_rod":
			places = append(places, simulate.Rod)
		}
	}
	if a.ReplaceRubber {
		places = append(places, simulate.Rubber)
	}
	t.mend(places)
}

// take takes the work that is proposed: scope, units, what is repaired besides.
func (t *tech) take(a *diagnose.Action) error {
	s := t.Intake.System
	all := append([]string{a.Best}, a.Also...)
	scope := match.ScopeOf(s, all, a.Opens)
	if scope == "" {
		scope = match.Elsewhere
	}
	t.note(a, all)
	c := t.Choices
	c.Scope, c.Bleed.Routine = scope, a.ModulatorRoutine
	sc := match.Resolve(s, scope)
	one := s.Assist().OnePiece
	if sc.FitsCylinder() || one && sc.FitsBooster() {
		u, none := match.FromSystem(s), 0.0
		u.ID, u.Number, u.ResidualMPA, u.Condition = "u"+t.ID(), "U 1", &none, "new"
		c.Unit = &u
		t.fetch(UnitCylinder)
		t.alike = t.alike || t.slips(SlipAlike)
		if !slices.ContainsFunc(t.out.Truth, func(x diagnose.Suspect) bool {
			return strings.HasPrefix(x.ID, "mc.") || one && curedIn(x.ID, "booster")
		}) {
			t.out.WrongUnits++
		}
	}
	if sc.FitsBooster() {
		mm := 85.0
		c.Booster = &match.Unit{
			ID:            "b" + t.ID(),
			Number:        "B 1",
			Kind:          match.BoosterKind(s),
			StudSpacingMM: &mm,
			Studs:         2,
			Ports:         []match.Port{},
			Contents:      []string{},
		}
		t.fetch(UnitBooster)
	}
	t.out.Scopes = append(t.out.Scopes, scope)
	if err := t.choose(c); err != nil {
		return err
	}
	if t.spec.Vary && !t.varied {
		t.varied = true
		if err := t.vary(); err != nil {
			return err
		}
	}
	if !t.plans("elsewhere.repaired") { // what is mended beside the plan
		t.repair()
	}
	return nil
}

// fetch takes a new unit out of its box.
func (t *tech) fetch(unit string) {
	defer t.did(Act{Do: DoUnit, ID: unit})()
	if t.boxes[unit] = true; unit == UnitCylinder {
		t.alike = t.boxed
	}
}

// plans says whether the plan has a step.
func (t *tech) plans(id string) bool {
	p, err := t.Plan()
	return err == nil && has(p, id)
}

func curedIn(id, part string) bool {
	return slices.ContainsFunc(diagnose.Faults, func(f diagnose.Fault) bool { return f.ID == id && f.Part == part })
}

func (t *tech) choose(c job.Choices) error {
	t.later(60)
	t.out.Taps.Other++
	events, err := t.ChangeChoices(t.Book, worker, t.At, t.ID(), t.ChoicesSeq, c)
	t.Events = append(t.Events, events...)
	return known(err)
}
