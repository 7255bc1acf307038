package plan

import (
	"slices"

	"geminate/brake/match"
	"geminate/brake/stand"
	"geminate/brake/system"
)

// The joint as a grammar: every replacement is the same joint taken apart and put back. Each row is one thing that
// comes off; the rows stand in the order they come off, and go on again in the reverse.

// row is one part, fastener or connection.
type row struct {
	part string
	off  string // the step that takes it off
	on   string // the step that puts it back
	has  func(*maker) bool
	// kind says on which vehicles the row is the part's, where a part has more than one; nil on all.
	kind func(*maker) bool
	// behind are the parts that must be off before it, and so go on after it.
	behind    []string
	fasteners []string
	tools     []string
	offMind   []string // cautions while it comes off
	onMind    []string
	single    []string // parts of it that are used once: the new unit gets new ones
	opens     bool     // brake fluid comes out: what it feeds has to be bled
	count     bool     // one for each line
	inside    bool     // done in the cab
}

// over gives the row of something that lies over the joint; it comes off where the joint is reached at all.
func over(f Feature) row {
	return row{
		part: string(f),
		off:  "strip." + string(f),
		on:   "fit." + string(f),
		has:  func(m *maker) bool { return m.present[f] && m.reaches() },
	}
}

var overIt = []string{
	string(AirBox),
	string(Bracket),
	string(WiperCowl),
	string(LinkageTray),
	string(StrutBrace),
	string(DipstickTube),
	string(FloorTray),
}

// The parts of the joint besides what lies over it.
const (
	partMainConnector   = string(stand.MainConnector)
	partSensorPlug      = "sensor_plug"
	partPressureSensors = "pressure_sensors"
	partRemoteHoses     = "remote_hoses"
	partNeighbourLine   = "neighbour_line"
	partModulatorLines  = "modulator_lines"
	partLines           = "lines"
	partStackedBracket  = "stacked_bracket"
	partShoe            = "shoe_and_rod"
	partActuatorBolts   = "actuator_bolts"
	partCylinder        = "cylinder"
	partPlate           = "pressure_plate"
	partVacuumHose      = "vacuum_hose"
	partPressureLines   = "pressure_lines"
	partPressureFloor   = "pressure_lines_on_floor"
	partKickPanel       = "kick_panel"
	partPedalEnd        = "pedal_end"
	partFirewall        = "firewall_nuts"
)

var flareNuts = []string{"flare_nut_wrench", "second_wrench"}

// joint is the grammar. What lies over it comes first; the booster is behind the cylinder, the pedal's end behind
// nothing.
var joint = []row{
	over(AirBox), over(Bracket), over(WiperCowl), over(LinkageTray), over(StrutBrace), over(DipstickTube), over(FloorTray),
	{
		part: partShoe,
		off:  "strip.shoe_and_rod",
		on:   "fit.shoe_and_rod",
		has:  func(m *maker) bool { return m.s.IsTrailer() && m.fitsCylinder() },
	},
	{
		part:   partSensorPlug,
		off:    "strip.sensor_plug",
		on:     "fit.sensor_plug",
		behind: overIt,
		has:    func(m *maker) bool { return m.present[LevelSensor] && m.movesCylinder() },
	},
	{
		part:   partPressureSensors,
		off:    "strip.pressure_sensors",
		on:     "fit.pressure_sensors",
		behind: overIt,
		has:    func(m *maker) bool { return m.present[PressureSensors] && m.movesCylinder() },
	},
	{
		part:   partMainConnector,
		off:    "strip.main_connector",
		on:     "fit.main_connector",
		behind: overIt,
		has:    func(m *maker) bool { return isOnePiece(m.s) && m.fitsBooster() },
	},
	{
		part:      partRemoteHoses,
		off:       "strip.remote_hoses",
		on:        "fit.remote_hoses",
		behind:    overIt,
		fasteners: []string{"hose_clamp"},
		opens:     true,
		has:       func(m *maker) bool { return m.present[RemoteReservoir] && m.opensHere() },
	},
	{
		part:   partNeighbourLine,
		off:    "strip.neighbour_line",
		on:     "fit.neighbour_line",
		behind: overIt,
		tools:  []string{"tie_wire"},
		has:    func(m *maker) bool { return m.present[NeighbourLine] && m.movesCylinder() },
	},
	{
		part:      partModulatorLines,
		off:       "strip.modulator_lines",
		on:        "fit.modulator_lines",
		behind:    overIt,
		fasteners: []string{"line_nut"},
		tools:     flareNuts,
		offMind:   []string{"line_must_not_twist"},
		onMind: []string{
			"no_cross_threading",
		},
		opens: true,
		has:   func(m *maker) bool { return m.present[ModulatorLines] && m.opensHere() },
	},
	{
		part:      partLines,
		off:       "strip.lines_off",
		on:        "fit.line_nuts",
		behind:    append([]string{partRemoteHoses}, overIt...),
		fasteners: []string{"line_nut"},
		tools:     flareNuts,
		offMind:   []string{"line_must_not_twist"},
		opens:     true,
		count:     true,
		has:       (*maker).opensHere,
	},
	{
		part:      partStackedBracket,
		off:       "strip.stacked_bracket",
		on:        "fit.stacked_bracket",
		behind:    overIt,
		fasteners: []string{"second_nut"},
		has:       func(m *maker) bool { return m.present[StackedBracket] && m.movesCylinder() },
	},
	{
		part:      partActuatorBolts,
		off:       "strip.actuator_bolts",
		on:        "fit.actuator_bolts",
		behind:    []string{partShoe, partLines},
		fasteners: []string{"actuator_bolt"},
		single:    []string{"actuator_boot"},
		has:       func(m *maker) bool { return m.s.IsTrailer() && m.fitsCylinder() },
	},
	// A cylinder without a booster hangs on the pedal itself: its pin comes off first, and what covers it before that.
	{part: partKickPanel, off: "strip.kick_panel", on: "fit.kick_panel", inside: true, kind: (*maker).manual,
		has: func(m *maker) bool { return m.present[KickPanel] && m.manual() && m.fitsCylinder() }},
	{
		part:    partPedalEnd,
		behind:  []string{partKickPanel},
		off:     "strip.pedal_end",
		on:      "fit.pedal_end",
		inside:  true,
		offMind: []string{"order_of_small_parts"},
		onMind:  []string{"order_of_small_parts"},
		kind:    (*maker).manual,
		has:     func(m *maker) bool { return m.manual() && m.fitsCylinder() },
	},
	{
		part:      partCylinder,
		off:       "strip.cylinder_off",
		on:        "fit.cylinder_nuts",
		fasteners: []string{"cylinder_nut"},
		tools:     []string{"extension_swivel"},
		onMind:    []string{"inch_pounds"},
		behind: append(
			[]string{
				partSensorPlug,
				partPressureSensors,
				partRemoteHoses,
				partNeighbourLine,
				partModulatorLines,
				partLines,
				partStackedBracket,
				partKickPanel,
				partPedalEnd,
			},
			overIt...),
		single: []string{"face_seal"},
		has:    (*maker).movesCylinder,
	},
	// A plate that carries the pressure pipes is on before they are.
	{
		part:      partPressureLines,
		off:       "strip.pressure_lines",
		on:        "fit.pressure_lines",
		behind:    overIt,
		fasteners: []string{"pressure_nut"},
		tools:     flareNuts,
		single:    []string{"pressure_o_rings"},
		kind:      func(m *maker) bool { return !m.linesOnFloor() },
		has:       func(m *maker) bool { return m.fitsBooster() && hasSteering(m.s) && !m.linesOnFloor() },
	},
	{
		part:   partPlate,
		off:    "strip.pressure_plate",
		on:     "fit.pressure_plate",
		behind: []string{partCylinder, partPressureLines},
		has:    func(m *maker) bool { return m.present[PressurePlate] && m.movesCylinder() },
	},
	{
		part:      partVacuumHose,
		off:       "strip.vacuum_hose",
		on:        "fit.check_valve_hose",
		behind:    overIt,
		fasteners: []string{"hose_clamp"},
		single:    []string{"check_valve", "check_valve_grommet"},
		has:       func(m *maker) bool { return m.fitsBooster() && isVacuum(m.s) },
	},
	{part: partKickPanel, off: "strip.kick_panel", on: "fit.kick_panel", inside: true, kind: (*maker).boosted,
		has: func(m *maker) bool { return m.present[KickPanel] && m.fitsBooster() }},
	{
		part:    partPedalEnd,
		off:     "strip.pedal_end",
		on:      "fit.pedal_end",
		behind:  []string{partKickPanel},
		inside:  true,
		offMind: []string{"order_of_small_parts"},
		onMind:  []string{"order_of_small_parts"},
		kind:    (*maker).boosted,
		has:     (*maker).fitsBooster,
	},
	{
		part: partFirewall,
		off:  "strip.firewall_nuts",
		on:   "fit.firewall_nuts",
		behind: []string{
			partCylinder,
			partPlate,
			partVacuumHose,
			partPressureLines,
			partPedalEnd,
			partLines,
			partRemoteHoses,
			partMainConnector,
		},
		fasteners: []string{"firewall_nut"},
		tools:     []string{"extension_swivel"},
		inside:    true,
		single:    []string{"firewall_gasket"},
		has:       (*maker).fitsBooster,
	},
	{
		part:      partPressureFloor,
		off:       "strip.pressure_lines",
		on:        "fit.pressure_lines",
		behind:    []string{partFirewall},
		fasteners: []string{"pressure_nut"},
		tools:     flareNuts,
		single:    []string{"pressure_o_rings"},
		has: func(m *maker) bool {
			return (m.fitsBooster() || m.touched(partPressureLines)) && hasSteering(m.s) && m.linesOnFloor()
		},
	},
}

// IsPart says whether something is a part of the joint that comes off.
func IsPart(part string) bool {
	return slices.ContainsFunc(joint, func(r row) bool { return r.part == part })
}

// maker makes one plan.
type maker struct {
	s       *system.System
	c       Choices
	scope   match.Scope // as chosen, and what was done beyond it
	p       *Plan
	present map[Feature]bool
}

// newMaker takes the scope as it was chosen, and beyond it what was done under another: lines that are off are off, a
// unit that is on is on.
func newMaker(s *system.System, c Choices) *maker {
	m := &maker{s: s, c: c, scope: c.Scope, present: map[Feature]bool{}}
	m.p = &Plan{Scope: c.Scope, Asked: c.Present != nil, Present: []Feature{}, Schools: map[School]string{}, Lines: []Line{}}
	if a := c.Stands; a != nil {
		on := a.On()
		cylinder := c.Scope.FitsCylinder() || on.Cylinder != ""
		booster := c.Scope.FitsBooster() || on.Booster != "" || a.TookOff(stand.Firewall)
		lines := a.TookOff(stand.Lines) || a.TookOff(stand.RemoteHoses) || a.TookOff(stand.ModulatorLines)
		switch {
		case isOnePiece(s) && (cylinder || booster || lines):
			m.scope = match.ElectroUnit
		case cylinder && booster:
			m.scope = match.Both
		case cylinder:
			m.scope = match.CylinderOnly
		case booster && (lines || c.Scope == match.BoosterOpened):
			m.scope = match.BoosterOpened
		case booster:
			m.scope = match.BoosterAside
		case a.Touched(stand.Elsewhere) && c.Scope == match.Elsewhere:
			m.scope = match.ElsewhereOpened
		}
	}
	m.p.NeedsBleeding = m.scope.OpensHydraulics() || m.opensHere() || c.Stands != nil && c.Stands.Opened()
	return m
}

func (m *maker) fitsCylinder() bool { return m.scope.FitsCylinder() }
func (m *maker) fitsBooster() bool  { return m.scope.FitsBooster() }
func (m *maker) manual() bool       { return !hasBooster(m.s) && m.s.Pedal != nil }
func (m *maker) boosted() bool      { return hasBooster(m.s) }

// touched says whether a part came off in this job; told whether its step is ticked.
func (m *maker) touched(part string) bool {
	return m.c.Stands != nil && m.c.Stands.Touched(stand.Thing(part))
}

func (m *maker) told(step string) bool {
	if m.c.Stands == nil {
		return false
	}
	_, told := m.c.Stands.Acts[step]
	return told
}

// scopeWorks says whether a unit comes off by the scope.
func (m *maker) scopeWorks() bool { return m.scope != match.BleedOnly && !m.scope.OnlyElsewhere() }

// work says whether a unit comes off at all, or came off.
func (m *maker) work() bool {
	return m.scopeWorks() || m.opensTouched() || m.c.Stands != nil && m.c.Stands.TookOff(stand.Cylinder)
}

// reaches says whether the joint has to be got at.
func (m *maker) reaches() bool { return m.scopeWorks() }

// asked says whether a row is there by the scope; has also where it came off.
func (m *maker) asked(r row) bool { return r.has(m) }

func (m *maker) has(r row) bool {
	return r.has(m) || m.touched(r.part) && (r.kind == nil || r.kind(m))
}

// linesOnFloor: the pressure lines come off with the booster in the hands, one thing in another place of the order.
func (m *maker) linesOnFloor() bool { return m.school(BoosterLines) == LinesOnFloor }

func (m *maker) opensTouched() bool {
	a := m.c.Stands
	return a != nil && (a.TookOff(stand.Lines) || a.TookOff(stand.RemoteHoses) || a.TookOff(stand.ModulatorLines))
}

// opensHere says whether brake lines come off at the cylinder.
func (m *maker) opensHere() bool { return opensAtJoint(m.scope) || m.opensTouched() }

// movesCylinder says whether the cylinder leaves its studs, off or aside.
func (m *maker) movesCylinder() bool { return m.scopeWorks() && !m.s.IsTrailer() && !isOnePiece(m.s) }

func (m *maker) school(id School) string { return FindSchool(id).answer(m.c.Schools) }
