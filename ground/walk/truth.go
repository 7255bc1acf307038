package walk

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"geminate/brake/bleed"
	"geminate/brake/job"
	"geminate/brake/system"
	"geminate/ground/proving"
	"geminate/ground/simulate"
)

// The second judge: a simulated vehicle, on which everything is done that hands did, when they did it, told or not yet.
// It knows nothing of steps that have to be done again, of evidence or of a gate: nuts have a torque, air lies in
// pipes, a rod has a gap. What it shows after ninety days is what a release let go.

// deed is one thing hands did.
type deed struct {
	id   string // of the event that tells it
	at   time.Time
	kind job.Kind
	body any
	with chosen
	// never: it was a wrong tap, taken back at once, and hands did nothing.
	never bool
}

// slipS is how soon a wrong tap is seen, s: until something else is done, and not for longer than this.
const slipS = 120

// did takes down what hands did.
func (w *walker) did(id string, at time.Time, k job.Kind, body any) {
	switch b := body.(type) {
	case job.Undone:
		w.takenBack(b.Of, at)
		w.undid[id] = b.Of
		return
	case job.Ticked:
		if b.Done != nil && !*b.Done {
			if n := len(w.deeds); n > 0 {
				if last, is := w.deeds[n-1].body.(job.Ticked); is && last.Step == b.Step {
					w.takenBack(w.deeds[n-1].id, at)
				}
			}
			return
		}
	}
	with := w.choice[w.lastChoice]
	if _, moved := body.(job.VolumeMoved); moved {
		if v, err := w.Bleed(); err == nil {
			with.method = v.Method
		}
	}
	w.deeds = append(w.deeds, deed{id: id, at: at, kind: k, body: body, with: with})
	if w.truth != nil {
		w.truth.do(&w.deeds[len(w.deeds)-1])
	}
}

// takenBack: what was the last thing told, just now, was a wrong tap. What is taken back later was done all the same.
func (w *walker) takenBack(id string, at time.Time) {
	if of, again := w.undid[id]; again { // the taking back is taken back: it was done
		for i := range w.deeds {
			if w.deeds[i].id == of {
				w.deeds[i].never, w.truth = false, nil
			}
		}
		return
	}
	for i := len(w.deeds) - 1; i >= 0; i-- {
		if w.deeds[i].id == id {
			if i == len(w.deeds)-1 && at.Sub(w.deeds[i].at).Seconds() <= slipS {
				w.deeds[i].never, w.truth = true, nil
			}
		}
	}
}

// truth is a vehicle with what it has on it.
type truth struct {
	v  *simulate.Vehicle
	s  *system.System
	on string // the cylinder that is on, by id
	// bubbles is the air that came with the last opening at each wheel, cm³.
	bubbles map[string]float64
	// vice is the cylinder that was bled in the vice last, rodFor the pair the rod was set for.
	vice, rodFor string
}

// vehicle does all of it on a sound vehicle.
func vehicle(s *system.System, deeds []deed, seed uint64) *truth {
	t := &truth{v: simulate.New(s, nil, seed), s: s, bubbles: map[string]float64{}}
	for i := range deeds {
		if !deeds[i].never {
			t.do(&deeds[i])
		}
	}
	return t
}

// seenCM3 is the air in the last lastCM3 of an opening that an eye sees in a clear hose. Assumptions.
const (
	seenCM3 = 0.05
	lastCM3 = 4.0
)

// sees says whether what came last at a wheel was clear.
func (w *walker) sees(wheel string) bool {
	if w.truth == nil {
		w.truth = vehicle(w.Intake.System, w.deeds, w.seed)
	}
	return w.truth.bubbles[wheel] < seenCM3
}

// snugNM is a bleeder nipped up after it was opened, and gapMM the rod that a careful hand sets. Assumptions.
const (
	snugNM = 2.0
	gapMM  = 0.25
)

func (t *truth) do(d *deed) {
	switch b := d.body.(type) {
	case job.Ticked:
		if b.NotHere == "" {
			t.step(&b, d)
		}
	case job.BleedStroked:
		t.open(b.Wheel, func() {
			for range max(1, b.Strokes) {
				_, t.bubbles[b.Wheel] = t.v.Stroke(b.Wheel, d.with.strokeMM, false)
			}
		})
	case job.VolumeMoved:
		t.open(b.Wheel, func() {
			if d.with.method == bleed.Reverse {
				t.v.Push(b.Wheel, max(0, b.VolumeCM3-lastCM3), simulate.Bottle{})
				circuit := t.s.CircuitOf(b.Wheel)
				before := t.v.AirCM3(circuit)
				t.v.Push(b.Wheel, min(lastCM3, b.VolumeCM3), simulate.Bottle{})
				t.bubbles[b.Wheel] = before - t.v.AirCM3(circuit) // rises in the reservoir
			} else {
				t.v.Draw(b.Wheel, max(0, b.VolumeCM3-lastCM3), 0.9)
				t.bubbles[b.Wheel] = t.v.Draw(b.Wheel, min(lastCM3, b.VolumeCM3), 0.9)
			}
		})
	case job.OpeningLost:
		t.open(b.Wheel, func() { t.v.Stroke(b.Wheel, d.with.strokeMM, true) })
	case job.WheelAgain:
		t.open(b.Wheel, func() {})
	case job.PortCracked:
		t.v.BleedPorts()
		for _, c := range t.s.Circuits {
			t.v.Start(simulate.At(simulate.Line, c.ID), false)
		}
	case job.Filled:
		t.v.Fill(simulate.Bottle{Foreign: b.Poured == job.PouredOther})
	case job.DrawnOff:
		t.v.Empty(b.LeftCM3)
	case job.RubberRenewed:
		if _, wheel, at := strings.Cut(string(b.Part), ":"); at {
			t.v.RenewRubber(wheel)
		} else if b.Part == job.RubberCylinder {
			t.v.RenewCups()
		}
	case job.PartOff:
		t.v.Off(simulate.SmallPart)
	case job.PartOn:
		t.v.DoUp(simulate.SmallPart, 1)
	case job.FindingMade:
		t.reading(&b)
	}
}

func (t *truth) open(wheel string, fn func()) {
	t.v.OpenBleeder(wheel)
	fn()
	t.v.CloseBleeder(wheel, snugNM)
}

// places are a part at all its places.
func (t *truth) places(p simulate.Part) (out []simulate.Part) {
	switch p {
	case simulate.Line:
		for _, c := range t.s.Circuits {
			out = append(out, simulate.At(p, c.ID))
		}
	case simulate.Bleeder:
		for i := range t.s.Wheels {
			out = append(out, simulate.At(p, t.s.Wheels[i].ID))
		}
	default:
		out = []simulate.Part{p}
	}
	return out
}

// step does a step's hands' work.
func (t *truth) step(b *job.Ticked, d *deed) {
	off, start, on := proving.Parts(b.Step)
	for _, p := range off {
		for _, x := range t.places(p) {
			t.v.Off(x)
		}
	}
	for _, p := range start {
		for _, x := range t.places(p) {
			t.v.Start(x, false)
		}
	}
	t.fit(b.Step, &d.with)
	for _, p := range on {
		for _, x := range t.places(p) {
			nm := simulate.Usual(x)
			if b.TorqueNM != nil {
				nm = *b.TorqueNM
			}
			t.v.DoUp(x, nm)
		}
	}
	switch b.Step {
	case "safe.engine_off":
		t.v.Engine(false)
	case "safe.pump_empty", "safe.discharge_accumulator":
		t.v.LetOut(false)
	case "safe.scan_tool_release":
		t.v.LetOut(true)
	case "safe.isolate_high_voltage":
		t.v.Isolate(true)
	case "close.negative_on", "close.batteries_on":
		t.v.Engine(true)
	case "safe.empty_reservoir":
		t.v.Empty(nil)
	case "close.fill":
		t.v.Fill(simulate.Bottle{})
	case "fit.bench_bled":
		t.v.Fetch()
		t.v.Bench(30, false)
		t.vice = d.with.cylinderID()
	case "fit.bled_on_vehicle":
		t.v.BleedPorts()
	case "rod.measure", "rod.touch_and_turn", "rod.compare", "rod.as_supplied":
		t.v.SetRod(gapMM)
		t.rodFor = d.with.pair()
	}
}

// fit: what is put on by these nuts is the one that was chosen then, where it is not on already.
func (t *truth) fit(step string, c *chosen) {
	one := t.s.Assist().OnePiece
	nuts, id := step == "fit.cylinder_nuts" || step == "fit.actuator_bolts", c.unit
	if one && step == "fit.firewall_nuts" && c.booster {
		nuts, id = true, c.assist
	}
	if nuts && (c.cylinder || one) && t.on != id {
		if t.on = id; t.vice != id {
			t.v.Fetch()
		}
		t.v.NewCylinder(false)
		t.otherRod(c)
	}
	if step == "fit.firewall_nuts" && c.booster {
		t.v.NewBooster()
		t.otherRod(c)
	}
}

// otherRod: a pair that the rod was not set for.
func (t *truth) otherRod(c *chosen) {
	if t.rodFor != c.pair() {
		t.v.OtherRod()
	}
}

// reading does to the vehicle what a test does.
func (t *truth) reading(b *job.FindingMade) {
	raw := string(b.Value)
	if raw == "" || raw == "null" {
		return
	}
	var at map[string]string
	_ = json.Unmarshal(b.Value, &at)
	switch b.Finding {
	case "pressure.at_port":
		t.v.LetOut(true) // who screws a gauge in lets out first what is stored: it was read, and nobody could refuse it
		for c := range at {
			t.v.Off(simulate.At(simulate.Line, c))
			t.v.Start(simulate.At(simulate.Line, c), false)
		}
	case "pressure.at_bleeder":
		for wheel := range at {
			t.open(wheel, func() {})
		}
	case "bleeder.bubbles":
		for i := range t.s.Wheels {
			t.open(t.s.Wheels[i].ID, func() { t.v.Draw(t.s.Wheels[i].ID, 1, 1) })
		}
	case "assist.pedal_falls_on_start", "check.walking_stops":
		t.v.Engine(true)
	}
}

// harms is what a release as it stands would do to somebody, or brings it back with a part undone.
func (t *truth) harms() (out []string) {
	for _, a := range t.v.Ninety() {
		part := a.Harm == simulate.LampOut || a.Harm == simulate.FaceLeaks || a.Harm == simulate.Clunk || a.Harm == simulate.CoverOff ||
			a.Kind == simulate.Shows
		if a.Kind == simulate.Unsafe || part {
			out = append(out, fmt.Sprintf("the vehicle: %s %s", a.Harm, a.Of))
		}
	}
	for _, m := range t.v.Marks() {
		if m.What == simulate.Jet {
			out = append(out, "the vehicle: a jet at "+m.At)
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}
