package proving

import (
	"math"
	"math/rand/v2"
	"slices"
	"strings"

	"geminate/brake/diagnose"
	"geminate/brake/job"
	"geminate/brake/stand"
	"geminate/brake/system"
	"geminate/brake/twin"
	"geminate/brake/verify"
	"geminate/ground/hands"
	"geminate/ground/simulate"
	"geminate/ground/trial"
)

// Doing is a kind of thing hands do on a vehicle.
type Doing string

// What hands do. Nothing of it is told to the job by being done.
const (
	DoTest      Doing = "test"       // a test of the diagnosis, by its id
	DoLook      Doing = "look"       // at one sign once more
	DoRead      Doing = "read"       // a reading of the release check
	DoPress     Doing = "press"      // the pedal: Value newtons, N seconds
	DoStep      Doing = "step"       // a step of the plan, by its id, at a torque where it has one
	DoUnit      Doing = "unit"       // take the new unit out of its box
	DoMend      Doing = "mend"       // what is repaired besides, at Places
	DoRepair    Doing = "repair"     // and do it, where no step is for it
	DoWheelsOff Doing = "wheels_off" // the road wheels
	DoStroke    Doing = "stroke"     // N openings at a bleeder; Wrong: the foot comes up first
	DoDraw      Doing = "draw"       // Value cm³ by pressure or suction
	DoPush      Doing = "push"       // Value cm³ in at the bleeder
	DoClose     Doing = "close"      // the bleeder that is open, at a torque
	DoFill      Doing = "fill"       // the reservoir; Wrong: from the other bottle
	DoEmpty     Doing = "empty"      // the reservoir, down to Value cm³
	DoBench     Doing = "bench"      // N strokes in the vice; Wrong: rushed
	DoRoutine   Doing = "routine"    // of the modulator, by the tool
	DoExchange  Doing = "exchange"   // two lines on each other's ports
	DoEngine    Doing = "engine"     // Wrong: off
)

// Act is one thing done on the vehicle.
type Act struct {
	Do     Doing    `json:"do"`
	ID     string   `json:"id,omitempty"`     // of a step, test, sign or reading
	At     string   `json:"at,omitempty"`     // wheel
	NM     float64  `json:"nm,omitempty"`     // N·m, as tight as it is done up
	N      int      `json:"n,omitempty"`      // strokes, or seconds of a press
	Value  *float64 `json:"value,omitempty"`  // N, cm³
	Places []string `json:"places,omitempty"` // parts
	Wrong  bool     `json:"wrong,omitempty"`  // the other way, as the kind says
}

// Seen is what eyes, ears, hand and foot get of an act.
type Seen struct {
	Findings []diagnose.Finding `json:"findings,omitempty"`
	// CM3 came out of the bleeder, Bubbles is what an eye sees in it, Old how much of it was old fluid, 0 to 1 in
	// tenths.
	CM3     float64 `json:"cm3,omitempty"`
	Bubbles Amount  `json:"bubbles,omitempty"`
	Old     float64 `json:"old,omitempty"`
	// The pedal under a foot: its height over the floor as the foot settles and when it comes up again, mm; whether it
	// springs.
	Pressed   bool    `json:"pressed,omitempty"`
	HeightMM  float64 `json:"height_mm,omitempty"`
	EndsMM    float64 `json:"ends_mm,omitempty"`
	TravelMM  float64 `json:"travel_mm,omitempty"`
	Floored   bool    `json:"floored,omitempty"`
	Springs   bool    `json:"springs,omitempty"`
	Assisted  bool    `json:"assisted,omitempty"` // it was lighter than the leg alone
	Alike     bool    `json:"alike,omitempty"`    // the new unit is not the old one's like
	Stripped  bool    `json:"stripped,omitempty"` // a thread gave
	Happened  Happens `json:"happened,omitempty"` // what hurts, and ends it
	Sounds    []Sound `json:"sounds,omitempty"`
	SecondsIn float64 `json:"seconds"` // on the vehicle since it came in
}

// Happens is what would have hurt somebody.
type Happens = simulate.Happened

// Amount is as much as an eye tells.
type Amount string

// Amounts of bubbles.
const (
	NoBubbles   Amount = "none"
	SomeBubbles Amount = "some"
	ManyBubbles Amount = "many"
)

// Sound is what an ear gets.
type Sound string

// Sounds.
const (
	SoundRush  Sound = "rush"  // of air at the pedal
	SoundGroan Sound = "groan" // of the pump
	SoundClick Sound = "click" // of the modulator's valves
	SoundClunk Sound = "clunk"
	SoundDrip  Sound = "drip" // fluid that comes
)

// manyCM3 of air in one go are many bubbles. Assumption.
const manyCM3 = 0.4

// Body is hands and eyes at a vehicle without a mind of their own: what is done is somebody else's to say.
type Body struct{ t *tech }

// NewBody stands somebody in front of a drawn vehicle; boxed puts a look-alike into the box. The same seed gives the
// same vehicle, and the same acts the same end.
func NewBody(shown *trial.Vehicle, seed uint64, boxed bool) *Body {
	return &Body{newTech(Spec{Seed: seed, Pattern: shown.Pattern, Way: Careful}, shown, boxed)}
}

func newTech(spec Spec, shown *trial.Vehicle, boxed bool) *tech {
	t := &tech{
		way:    spec.Way,
		spec:   spec,
		rnd:    rand.New(rand.NewPCG(spec.Seed, 0x7f)),
		shown:  shown,
		redone: map[string]int{},
		boxes:  map[string]bool{},
		bottle: simulate.Bottle{Class: shown.System.Fluid.Class, WaterPercent: 0.1},
		boxed:  boxed,
	}
	t.shown.With(rand.New(rand.NewPCG(spec.Seed, 0x80)))
	t.v = simulate.New(shown.Itself(), faultsOf(shown), spec.Seed)
	t.out = Outcome{
		Seed:       spec.Seed,
		Pattern:    spec.Pattern,
		Technician: spec.Way.ID,
		Truth:      append([]diagnose.Suspect{}, shown.Truth...),
		Sound:      len(shown.Truth) == 0,
	}
	return t
}

// Reports are what the owner says.
func (b *Body) Reports() []diagnose.Finding { return b.t.shown.Reports() }

// Vehicle is the vehicle itself, for who may know.
func (b *Body) Vehicle() *simulate.Vehicle { return b.t.v }

// Truth are the faults it came with.
func (b *Body) Truth() []diagnose.Suspect { return b.t.out.Truth }

// Do does one thing, with the job as it is told at that moment.
func (b *Body) Do(j *job.Job, a Act) Seen {
	t := b.t
	t.Hands = &hands.Hands{Book: &job.Book{Job: j}}
	marks := len(t.v.Marks())
	var s Seen
	switch a.Do {
	case DoTest:
		s.Findings = t.test(a.ID)
	case DoLook:
		s.Findings = []diagnose.Finding{t.lookAt(a.ID)}
	case DoRead:
		if value, _, ok := t.read(a.ID); ok {
			s.Findings = []diagnose.Finding{trial.Told(a.ID, value)}
		}
	case DoPress:
		s = t.press(a)
	case DoStep:
		alike := t.alike
		t.act(a.ID, a.NM)
		s.Alike = a.ID == "prepare.compare_on_bench" && alike
	case DoUnit:
		t.fetch(a.ID)
	case DoMend:
		list := make([]simulate.Part, len(a.Places))
		for i, p := range a.Places {
			list[i] = simulate.Part(p)
		}
		t.mend(list)
	case DoRepair:
		t.repair()
	case DoWheelsOff:
		t.wheelsOff()
	case DoStroke:
		cm3, bubbles, _ := t.strokes(a.At, a.N, func() (bool, bool) { return a.Wrong, false })
		s.came(cm3, bubbles, t.v.Leaves(a.At))
	case DoDraw:
		s.came(*a.Value, t.carry(a.At, *a.Value, false), t.v.Leaves(a.At))
	case DoPush:
		t.carry(a.At, *a.Value, true)
	case DoClose:
		if t.open != "" {
			t.v.CloseBleeder(t.open, a.NM)
			t.open = ""
		}
	case DoFill:
		right := t.bottle
		t.bottle.Foreign = t.bottle.Foreign || a.Wrong
		t.fill()
		t.bottle = right
	case DoEmpty:
		t.empty(a.Value)
	case DoBench:
		t.benchIt(a.N, a.Wrong)
	case DoRoutine:
		t.routine()
		s.Sounds = append(s.Sounds, SoundClick)
	case DoExchange:
		t.v.Exchange(true)
	case DoEngine:
		t.v.Engine(!a.Wrong)
	}
	for _, m := range t.v.Marks()[marks:] {
		switch m.What {
		case simulate.Jet, simulate.Shock:
			s.Happened = m.What
		case simulate.Stripped:
			s.Stripped = true
		}
	}
	s.hear()
	s.SecondsIn = math.Round(t.v.Seconds)
	return s
}

func (s *Seen) came(cm3, bubbles, old float64) {
	s.CM3, s.Old = math.Round(10*cm3)/10, math.Round(10*old)/10
	switch {
	case bubbles < seenCM3:
		s.Bubbles = NoBubbles
	case bubbles < manyCM3:
		s.Bubbles = SomeBubbles
	default:
		s.Bubbles = ManyBubbles
	}
	s.Sounds = append(s.Sounds, SoundDrip)
}

// press is a foot on the pedal (a hand on the coupler): how far it goes, where it is after a while, what is felt.
func (t *tech) press(a Act) (s Seen) {
	force, seconds := 200.0, float64(max(1, a.N))
	if a.Value != nil {
		force = *a.Value
	}
	s.Pressed = true
	sys := t.v.Now()
	apply := func(engine bool) (travel float64, floored bool) {
		p := twin.New(sys).Apply(force, engine)
		return p.TravelMM, p.Floored
	}
	travel, floored := apply(t.assisted())
	s.TravelMM, s.Floored = math.Round(travel), floored
	sink := t.v.HoldMM(force, seconds, t.assisted())
	floor := 0.0
	if sys.Pedal != nil {
		floor = sys.Pedal.FloorMM
		s.Springs = t.v.Springs()
	}
	s.HeightMM = math.Max(0, math.Round(floor-travel))
	s.EndsMM = math.Max(0, math.Round(floor-travel-sink))
	m := twin.New(sys)
	s.Assisted = m.OutputForceN(force, true) > 1.15*m.OutputForceN(force, false) && t.assisted()
	return s
}

// assisted says whether there is help at the pedal: the engine runs or something is stored.
func (t *tech) assisted() bool { return t.v.Assisted() }

// hear puts sounds to what is seen.
func (s *Seen) hear() {
	for _, f := range s.Findings {
		if f.ID == "sound.rush_of_air" && string(f.Value) != `"no"` && string(f.Value) != `"none"` {
			s.Sounds = append(s.Sounds, SoundRush)
		}
		if f.ID == "steering.groan" && string(f.Value) != `"no"` && string(f.Value) != `"none"` {
			s.Sounds = append(s.Sounds, SoundGroan)
		}
	}
}

// End is what comes of the vehicle as it stands.
func (b *Body) End(j *job.Job, released bool) Outcome {
	t := b.t
	t.Hands = &hands.Hands{Book: &job.Book{Job: j}, At: j.UpdatedAt}
	t.out.Released = released
	t.out.Unsafe, t.out.Back, t.out.Hurt = nil, nil, nil
	t.end(nil)
	return t.out
}

// Slip leaves something wrong on purpose, as somebody else's hands did.
func (b *Body) Slip(fn func(*simulate.Vehicle)) { fn(b.t.v) }

// System is the vehicle's system as its papers say.
func (b *Body) System() *system.System { return b.t.shown.System }

// Reads says whether a reading of the release check can be taken of the vehicle: the rest is settled by what was told.
func (b *Body) Reads(id string) bool {
	switch id {
	case "pedal.sink", verify.Pump, verify.FirmHeight, "assist.reserve_applies", "pedal.readings", "check.second_look":
		return true
	}
	ev := stand.EvidenceOf(id)
	return ev != nil && ev.Judged
}

// Ninety is what comes of the vehicle, but for faults that are none any more though no part was changed for them.
func (b *Body) Ninety() (out []simulate.After) {
	for _, a := range b.t.v.Ninety() {
		if a.Harm != simulate.FaultLeft || !b.t.gone(a.Of) {
			out = append(out, a)
		}
	}
	return out
}

// Touches says whether a step of the plan handles a part.
func Touches(step, part string) bool {
	a := actOf(step)
	is := func(p simulate.Part) bool { return string(p) == part || strings.HasPrefix(part, string(p)+":") }
	return a.of != "" && is(a.of) || slices.ContainsFunc(a.off, is) || slices.ContainsFunc(a.start, is) || slices.ContainsFunc(a.on, is)
}
