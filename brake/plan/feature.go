package plan

import (
	"slices"

	"geminate/brake/match"
	"geminate/brake/system"
)

// Feature is something that may be at, over or in the joint of a vehicle (common practice, no source).
type Feature string

// Places features are asked for by, in the order a person looks.
const (
	OverIt     = "over"     // above the joint, to be got out of the way
	OnCylinder = "cylinder" // on the cylinder itself
	OnStuds    = "studs"
	BesideIt   = "beside"
	AtBooster  = "booster"
	Inside     = "inside"   // in the cab, at the pedal
	InOldUnit  = "old_unit" // left in the unit that comes off
)

// Features.
const (
	AirBox          Feature = "air_box"
	Bracket         Feature = "neighbour_bracket"
	WiperCowl       Feature = "wiper_cowl"
	LinkageTray     Feature = "linkage_tray"
	StrutBrace      Feature = "strut_brace"
	SecondBattery   Feature = "second_battery"
	DipstickTube    Feature = "dipstick_tube"
	FloorTray       Feature = "floor_tray" // the unit hangs under the floor
	LevelSensor     Feature = "level_sensor"
	PressureSensors Feature = "pressure_sensors"
	Strainer        Feature = "strainer"
	ReservoirMoves  Feature = "reservoir_moves" // the old reservoir goes onto the new unit
	RemoteReservoir Feature = "remote_reservoir"
	PortFitting     Feature = "port_fitting"
	SidePlugs       Feature = "side_plugs"
	ResidualInLine  Feature = "residual_in_line"
	StackedBracket  Feature = "stacked_bracket"
	PressurePlate   Feature = "pressure_plate"
	ModulatorLines  Feature = "modulator_lines"
	NeighbourLine   Feature = "neighbour_line"
	CheckValve      Feature = "check_valve"
	FacePaper       Feature = "face_paper"
	ReturnSnap      Feature = "return_snap"
	KickPanel       Feature = "kick_panel"
	LampSwitch      Feature = "lamp_switch"
	LampEyeClosed   Feature = "lamp_eye_closed"
	RodCoupler      Feature = "rod_coupler"
	RodClip         Feature = "rod_clip"
	Collar          Feature = "collar"
)

// FeatureEntry is one feature: where it is asked for, on which vehicles it can be, on which it is likely.
type FeatureEntry struct {
	ID     Feature
	Place  string
	Can    func(*system.System) bool
	Likely func(*system.System) bool
}

func never(*system.System) bool  { return false }
func always(*system.System) bool { return true }

func hasPedal(s *system.System) bool   { return s.Pedal != nil }
func hasBooster(s *system.System) bool { return s.Assist().Powered() }
func isCar(s *system.System) bool      { return hasPedal(s) && !s.IsClutch() && hasBooster(s) }

func isVacuum(s *system.System) bool    { return s.Assist().Vacuum }
func hasSteering(s *system.System) bool { return s.Assist().Steering }
func isOnePiece(s *system.System) bool  { return s.Assist().OnePiece }

// apart says whether the cylinder can be told from the booster: an electro-hydraulic unit has its sensors and its rod
// inside.
func apart(s *system.System) bool { return !isOnePiece(s) }

// residualUnderDiscs: a residual valve that also serves discs is a custom build's, screwed into the line.
func residualUnderDiscs(s *system.System) bool {
	for _, c := range s.Circuits {
		for _, id := range c.Wheels {
			if w := s.Wheel(id); c.ResidualMPA != nil && *c.ResidualMPA > 0 && w != nil && w.Brake.Kind == "disc" {
				return true
			}
		}
	}
	return false
}

// Features lists them in the order they are asked. What is likely where: common practice, no source.
var Features = []FeatureEntry{
	{AirBox, OverIt, hasPedal, never},
	{Bracket, OverIt, hasPedal, never},
	{WiperCowl, OverIt, hasPedal, never},
	{LinkageTray, OverIt, isOnePiece, always},
	{StrutBrace, OverIt, hasPedal, never},
	{SecondBattery, OverIt, hasPedal, never},
	{DipstickTube, OverIt, hasPedal, never},
	{FloorTray, OverIt, hasPedal, never},
	{LevelSensor, OnCylinder, apart, isCar},
	{PressureSensors, OnCylinder, func(s *system.System) bool { return hasPedal(s) && apart(s) }, never},
	{Strainer, OnCylinder, always, never},
	{ReservoirMoves, OnCylinder, always, never},
	{RemoteReservoir, OnCylinder, hasPedal, func(s *system.System) bool { return s.IsClutch() || isOnePiece(s) }},
	{PortFitting, OnCylinder, hasPedal, never},
	{SidePlugs, OnCylinder, always, never},
	{ResidualInLine, OnCylinder, func(s *system.System) bool { return !s.IsTrailer() && !s.IsClutch() }, residualUnderDiscs},
	{StackedBracket, OnStuds, hasPedal, never},
	{PressurePlate, OnStuds, hasSteering, never},
	{ModulatorLines, BesideIt, func(s *system.System) bool { return s.Modulator != nil }, never},
	{NeighbourLine, BesideIt, hasPedal, never},
	{CheckValve, AtBooster, isVacuum, isVacuum},
	{FacePaper, AtBooster, isVacuum, never},
	{ReturnSnap, AtBooster, hasSteering, hasSteering},
	{KickPanel, Inside, hasPedal, never},
	{LampSwitch, Inside, hasPedal, isCar},
	{LampEyeClosed, Inside, hasPedal, never},
	{RodCoupler, InOldUnit, func(s *system.System) bool { return hasPedal(s) && apart(s) }, isCar},
	{RodClip, InOldUnit, func(s *system.System) bool { return hasPedal(s) && apart(s) }, never},
	{Collar, InOldUnit, func(s *system.System) bool { return hasPedal(s) && apart(s) }, never},
}

// FindFeature gives a feature's entry, nil for none.
func FindFeature(id Feature) *FeatureEntry {
	for i := range Features {
		if Features[i].ID == id {
			return &Features[i]
		}
	}
	return nil
}

// LikelyFeatures is the answer set before a person has looked: what such vehicles usually have, and what the chosen
// unit says of itself.
func LikelyFeatures(s *system.System, unit *match.Unit) []Feature {
	out := []Feature{}
	for _, f := range Features {
		if f.Can(s) && f.Likely(s) {
			out = append(out, f.ID)
		}
	}
	if unit == nil {
		return out
	}
	if unit.Sensor == "none" {
		out = slices.DeleteFunc(out, func(f Feature) bool { return f == LevelSensor })
	}
	switch unit.Reservoir {
	case "reuse":
		out = append(out, ReservoirMoves)
	case "remote":
		if !slices.Contains(out, RemoteReservoir) && FindFeature(RemoteReservoir).Can(s) {
			out = append(out, RemoteReservoir)
		}
	}
	return out
}

// Here are the features a vehicle has: those seen, or while nobody has looked (nil) those that are likely; in the order
// they are asked, without what such a vehicle cannot have.
func Here(s *system.System, unit *match.Unit, seen *[]Feature) []Feature {
	have := LikelyFeatures(s, unit)
	if seen != nil {
		have = *seen
	}
	out := []Feature{}
	for _, f := range Features {
		if slices.Contains(have, f.ID) && f.Can(s) {
			out = append(out, f.ID)
		}
	}
	return out
}
