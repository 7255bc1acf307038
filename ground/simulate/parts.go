package simulate

import "geminate/brake/system"

// Part is a thing of the vehicle that can be off, loose or tight. Those that are there once for each wheel or circuit
// carry which ("bleeder:LF").
type Part string

// The parts.
const (
	Line         Part = "line"          // a nut at the cylinder, by circuit
	Bleeder      Part = "bleeder"       // by wheel
	RoadWheels   Part = "road_wheels"   // their nuts
	Cylinder     Part = "cylinder"      // its nuts
	Booster      Part = "booster"       // the nuts at the firewall
	PedalEnd     Part = "pedal_end"     // pin and clip
	VacuumHose   Part = "vacuum_hose"   // with its check valve
	PressureLine Part = "pressure_line" // of a booster that works by pressure
	RemoteHose   Part = "remote_hose"   // from a reservoir that stands apart
	Actuator     Part = "actuator"      // a coupler's bolts
	ShoeAndRod   Part = "shoe_and_rod"  // a coupler's
	SensorPlug   Part = "sensor_plug"   // level
	Connector    Part = "connector"     // of an electro-hydraulic unit
	ServicePlug  Part = "service_plug"  // high voltage
	Battery      Part = "battery"
	FaceSeal     Part = "face_seal"   // between cylinder and booster
	RodSupport   Part = "rod_support" // what centres the rod between them
	SmallPart    Part = "small_part"  // washer, bushing, spring at the pedal
	Cover        Part = "cover"       // whatever lies over it all
	Elsewhere    Part = "elsewhere"   // a joint opened at a line or a wheel

	// What is not fastened but holds faults: the rod's length, the modulator's inside, everything of rubber.
	Rod       Part = "rod"
	Modulator Part = "modulator"
	Rubber    Part = "rubber"
)

// At is a part at a circuit or a wheel.
func At(p Part, where string) Part { return p + ":" + Part(where) }

// fit is how a part has to be, in N·m where it is a thread: under loose it works free in use or weeps, over strips its
// thread gives. Source: the trade's common figures for these fasteners, half of the least and one and a half of the
// most as the ends. Assumptions.
type fit struct {
	loose, strips float64
	wet           bool // holds fluid under the foot
	harm          Harm // off or loose
	kind          Kind
}

var fits = map[Part]fit{
	Line:         {loose: 7, strips: 34, wet: true, harm: JointLeaks, kind: Unsafe},
	Bleeder:      {loose: 4, strips: 22, wet: true, harm: JointLeaks, kind: Unsafe},
	RoadWheels:   {loose: 55, strips: 400, harm: WheelLoose, kind: Unsafe},
	Cylinder:     {loose: 9, strips: 55, harm: UnitLoose, kind: Unsafe},
	Booster:      {loose: 11, strips: 60, harm: UnitLoose, kind: Unsafe},
	PedalEnd:     {harm: PedalOff, kind: Unsafe},
	VacuumHose:   {harm: NoAssist, kind: Unsafe},
	PressureLine: {loose: 10, strips: 60, harm: NoAssist, kind: Unsafe},
	RemoteHose:   {harm: JointLeaks, kind: Unsafe, wet: true},
	Actuator:     {loose: 20, strips: 120, harm: UnitLoose, kind: Unsafe},
	ShoeAndRod:   {harm: PedalOff, kind: Unsafe},
	SensorPlug:   {harm: LampOut, kind: ComesBack},
	Connector:    {harm: NoAssist, kind: Unsafe},
	ServicePlug:  {harm: DoesNotRun, kind: Shows},
	Battery:      {harm: DoesNotRun, kind: Shows},
	FaceSeal:     {harm: FaceLeaks, kind: ComesBack},
	RodSupport:   {harm: RodWanders, kind: Unsafe},
	SmallPart:    {harm: Clunk, kind: ComesBack},
	Cover:        {harm: CoverOff, kind: ComesBack},
	Elsewhere:    {loose: 7, strips: 34, wet: true, harm: JointLeaks, kind: Unsafe},
}

// state is a part as it is.
type state struct {
	off     bool
	nm      float64 // as tight as it is; of a part without a thread 1 is on
	crooked bool    // started across its thread
}

// fitOf is the row of a part, whatever place it is at.
func fitOf(p Part) fit {
	for i, c := range p {
		if c == ':' {
			return fits[p[:i]]
		}
	}
	return fits[p]
}

// tight is what a sound vehicle comes in with: as tight as it ought to be.
var tight = map[Part]float64{
	Line:         16,
	Bleeder:      10,
	RoadWheels:   120,
	Cylinder:     26,
	Booster:      28,
	PressureLine: 27,
	Actuator:     55,
	Elsewhere:    16,
}

// Usual is as tight as a part ought to be, N·m; 1 for one without a thread.
func Usual(p Part) float64 { return max(1, tight[base(p)]) }

func (v *Vehicle) mount(s *system.System) {
	add := func(p Part, on float64) { v.parts[p] = &state{nm: on} }
	for p := range fits {
		switch p {
		case Line:
			for _, c := range s.Circuits {
				add(At(p, c.ID), tight[p])
			}
		case Bleeder:
			for _, w := range s.Wheels {
				add(At(p, w.ID), tight[p])
			}
		case Booster:
			if s.Assist().Powered() {
				add(p, tight[p])
			}
		case RodSupport:
			if s.Pedal != nil {
				add(p, 1)
			}
		case VacuumHose:
			if s.Assist().Vacuum {
				add(p, 1)
			}
		case PressureLine:
			if s.Assist().Pressure {
				add(p, tight[p])
			}
		case Connector:
			if s.Assist().OnePiece {
				add(p, 1)
			}
		case PedalEnd:
			if s.Pedal != nil {
				add(p, 1)
			}
		case Actuator, ShoeAndRod:
			if s.IsTrailer() {
				add(p, max(1, tight[p]))
			}
		default:
			add(p, max(1, tight[p]))
		}
	}
}

// Has says whether there is such a part.
func (v *Vehicle) Has(p Part) bool { return v.parts[p] != nil }

// wrong says what is wrong with a part's fastening: nothing, loose, stripped or off.
func (st *state) wrong(f fit) bool {
	return st.off || st.crooked || f.loose > 0 && (st.nm < f.loose || st.nm > f.strips) || st.nm <= 0
}
