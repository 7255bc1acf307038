package simulate

import (
	"math"

	"geminate/brake/twin"
)

// Kind is how bad a consequence is.
type Kind string

// Kinds of consequence.
const (
	Unsafe    Kind = "unsafe"     // may take the brakes, the assist or a wheel away
	ComesBack Kind = "comes_back" // the owner is back within ninety days
	Shows     Kind = "shows"      // it does not leave the shop like that
)

// Harm is a consequence.
type Harm string

// Consequences.
const (
	JointLeaks   Harm = "joint_leaks"
	UnitLoose    Harm = "unit_loose"
	WheelLoose   Harm = "wheel_loose"
	PedalOff     Harm = "pedal_off"
	NoAssist     Harm = "no_assist"
	LampOut      Harm = "lamp_out"
	DoesNotRun   Harm = "does_not_run"
	FaceLeaks    Harm = "face_leaks"
	RodWanders   Harm = "rod_wanders"
	Clunk        Harm = "clunk"
	CoverOff     Harm = "cover_off"
	AirTakes     Harm = "air_takes_the_pedal"
	AirSoft      Harm = "soft_pedal"
	Drags        Harm = "drags_when_hot"
	RodShort     Harm = "low_pedal"
	LinesCrossed Harm = "lines_crossed"
	WrongUnit    Harm = "look_alike_fitted"
	CupsSwell    Harm = "cups_swell"
	RunsLow      Harm = "runs_low"
	FaultLeft    Harm = "fault_left"
	Peels        Harm = "paint_peels"
)

// After is one consequence within ninety days: what, how bad, and of which part or fault.
type After struct {
	Harm Harm
	Kind Kind
	Of   string
}

// Limits of what a vehicle bears. Air that costs a foot of 300 N more than takesMM leaves a wheel's worth of reserve;
// more than softMM and the owner notices. A rod pressed in by dragMM closes the port when hot; one short by shortMM
// costs a pedal that is seen. Assumptions.
const (
	takesMM = 25.0
	softMM  = 8.0
	dragMM  = -0.3
	shortMM = 1.6
	swells  = 0.02 // share of a foreign fluid that swells rubber
)

// Ninety is what comes of it in ninety days. A fault that is left shows again; a seal that weeps outlasts nothing.
func (v *Vehicle) Ninety() (out []After) {
	add := func(h Harm, k Kind, of string) { out = append(out, After{h, k, of}) }
	for _, p := range v.order {
		if st, f := v.parts[p], fitOf(p); st.wrong(f) {
			add(f.harm, f.kind, string(p))
		}
	}
	if more := v.airCostsMM(); more > takesMM {
		add(AirTakes, Unsafe, "")
	} else if more > softMM {
		add(AirSoft, ComesBack, "")
	}
	switch {
	case v.found.Pedal == nil || v.found.Assist().OnePiece: // nothing is set there
	case v.rodMM < dragMM:
		add(Drags, Unsafe, "")
	case v.rodMM > v.found.PushrodGapMM+shortMM:
		add(RodShort, ComesBack, "")
	}
	if v.crossed {
		add(LinesCrossed, Unsafe, "")
	}
	if v.alike {
		add(WrongUnit, Unsafe, "")
	}
	if of, is := v.swollen(); is {
		add(CupsSwell, Unsafe, of)
	}
	if share := v.LevelShare(); share < 0.05 {
		add(RunsLow, Unsafe, "")
	} else if share < 0.4 {
		add(RunsLow, ComesBack, "")
	}
	for _, m := range v.marks {
		if m.What == Spoilt {
			add(Peels, ComesBack, m.At)
		}
	}
	for _, f := range v.faults {
		k := ComesBack
		if f.Unsafe {
			k = Unsafe
		}
		add(FaultLeft, k, f.ID)
	}
	return out
}

// airCostsMM is what the air in it costs in pedal travel at 300 N, mm at the pedal (at the coupler: at 2000 N).
func (v *Vehicle) airCostsMM() float64 {
	s := v.found.Clone()
	force := 300.0
	if s.IsTrailer() {
		force = 2000
	}
	for i := range s.Circuits {
		s.Circuits[i].AirCM3 = 0
	}
	without := twin.New(s).Travel(force, false)
	for i := range s.Circuits {
		s.Circuits[i].AirCM3 = v.AirCM3(s.Circuits[i].ID)
	}
	with := twin.New(s).Apply(force, false)
	if with.Floored {
		return math.Inf(1)
	}
	return with.TravelMM - without
}

// swollen says where rubber has stood in a fluid that does not belong there, or a tank still holds it.
func (v *Vehicle) swollen() (of string, is bool) {
	for _, t := range v.tanks {
		if t.foreign > swells {
			return "reservoir", true
		}
	}
	for _, c := range v.found.Circuits {
		if x := v.chambers[c.ID]; x.foreign > swells || !x.anew && x.touched > swells {
			return string(Cylinder), true
		}
	}
	for _, w := range v.wheels {
		if p := v.paths[w]; p.cavity.foreign > swells || !p.anew && p.touched > swells {
			return "wheel:" + w, true
		}
	}
	return "", false
}
