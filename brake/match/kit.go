package match

import (
	"math"
	"slices"

	"geminate/brake/bleed"
	"geminate/brake/fluid"
	"geminate/brake/system"
)

// Scope is what the job replaces, and how.
type Scope string

const (
	NoScope       Scope = "" // nothing is proposed
	CylinderOnly  Scope = "cylinder"
	BoosterAside  Scope = "booster_aside"  // cylinder swung aside on its lines: no hydraulics opened
	BoosterOpened Scope = "booster_opened" // lines taken off to get at the booster
	Both          Scope = "both"
	// ElectroUnit is an electro-hydraulic unit: cylinder, booster, pump and valves in one piece.
	ElectroUnit Scope = "electro_unit"
	BleedOnly   Scope = "bleed"
	// Elsewhere is a repair that leaves both units and the hydraulics alone: supply, rod, adjustment.
	Elsewhere Scope = "elsewhere"
	// ElsewhereOpened is a repair at a wheel or a line: both units stay, that circuit comes open and is bled.
	ElsewhereOpened Scope = "elsewhere_opened"
)

// AllScopes lists them, as a person reads through them.
var AllScopes = []Scope{CylinderOnly, BoosterAside, BoosterOpened, Both, ElectroUnit, BleedOnly, ElsewhereOpened, Elsewhere}

// Scopes lists the scopes a system can have.
func Scopes(s *system.System) []Scope {
	switch a := s.Assist(); {
	case !a.Powered():
		return []Scope{CylinderOnly, BleedOnly, ElsewhereOpened, Elsewhere}
	case a.OnePiece: // one piece: there is no cylinder to take off it, and nothing to swing aside
		return []Scope{ElectroUnit, BleedOnly, ElsewhereOpened, Elsewhere}
	}
	return []Scope{CylinderOnly, BoosterAside, BoosterOpened, Both, BleedOnly, ElsewhereOpened, Elsewhere}
}

// Resolve is a scope as a system has it: jobs from before knew an electro-hydraulic unit as a booster with a cylinder
// on it, and whatever was to come off such a one is the unit.
func Resolve(s *system.System, c Scope) Scope {
	if s != nil && s.Assist().OnePiece && (c.FitsCylinder() || c.FitsBooster()) {
		return ElectroUnit
	}
	return c
}

// OpensHydraulics says whether brake fluid lines come apart, and so whether there is anything to bleed.
func (s Scope) OpensHydraulics() bool { return s != BoosterAside && s != Elsewhere }

// ActsOf are the actions of the diagnosis a scope stands for: ScopeOf the other way. Of a repair elsewhere it stands
// for any.
func ActsOf(scope Scope) []string {
	switch scope {
	case CylinderOnly:
		return []string{"replace_master_cylinder", "change_bore"}
	case BoosterAside:
		return []string{"replace_booster"}
	case BoosterOpened:
		return []string{"replace_booster", "bleed", "change_fluid"}
	case Both, ElectroUnit:
		return []string{"replace_both"}
	case BleedOnly:
		return []string{"bleed", "change_fluid"}
	case Elsewhere:
		return []string{"repair_wheel", "set_rod", "repair_supply", "free_coupler"}
	case ElsewhereOpened:
		return []string{
			"repair_wheel",
			"set_rod",
			"repair_supply",
			"free_coupler",
			"repair_line",
			"repair_modulator",
			"bleed",
			"change_fluid",
		}
	}
	return nil
}

// ScopeOf is the scope that actions of the diagnosis, done together, ask for on a system; "" where they ask for
// none. opens says whether a wheel's repair opens the hydraulics there: setting a clearance does not. An
// electro-hydraulic unit is one piece, whichever part of it is at fault.
func ScopeOf(s *system.System, acts []string, opens bool) Scope {
	var cylinder, booster, bleed, elsewhere bool
	for _, a := range acts {
		switch a {
		case "replace_master_cylinder", "change_bore":
			cylinder = true
		case "replace_booster":
			booster = true
		case "replace_both":
			cylinder, booster = true, true
		case "bleed", "change_fluid":
			bleed = true
		case "repair_line", "repair_modulator":
			elsewhere, opens = true, true
		case "repair_wheel", "set_rod", "repair_supply", "free_coupler":
			elsewhere = true
		}
	}
	switch {
	case (cylinder || booster) && s.Assist().OnePiece:
		return ElectroUnit
	case cylinder && booster:
		return Both
	case cylinder:
		return CylinderOnly
	case booster && (bleed || opens):
		return BoosterOpened
	case booster:
		return BoosterAside
	case elsewhere && (bleed || opens):
		return ElsewhereOpened
	case elsewhere:
		return Elsewhere
	case bleed:
		return BleedOnly
	}
	return ""
}

// OnlyElsewhere says that neither unit comes off and the work is done at another place.
func (s Scope) OnlyElsewhere() bool { return s == Elsewhere || s == ElsewhereOpened }

// FitsCylinder says whether a new cylinder goes on.
func (s Scope) FitsCylinder() bool { return s == CylinderOnly || s == Both }

// FitsBooster says whether a new booster goes on.
func (s Scope) FitsBooster() bool {
	return s == BoosterAside || s == BoosterOpened || s == Both || s == ElectroUnit
}

// Item is one line of the list of small parts.
type Item struct {
	ID  string `json:"id"`
	How string `json:"how"` // in_box, move_over, buy
	Why string `json:"why"` // words key
	// With carries what the line needs to be bought or made: thread, seat, tube, flare, cut_mm, count.
	With map[string]any `json:"with,omitempty"`
}

// SteeringCM3 is the steering fluid to have in hand where a booster that it drives is changed: what runs out of two
// pressure lines and a return, and what the cycles of bleeding take. Assumption.
const SteeringCM3 = 1000

// singleUse parts are never moved over: what comes off is worn or crushed.
var singleUse = []string{"crush_washer", "reservoir_grommets", "face_seal_o_ring", "face_seal_gasket"}

// Kit lists everything a job needs besides the unit: what the box holds, what moves over from the
// old unit, what to buy. u and booster are the chosen units, nil where none is chosen or fitted; points what was
// compared of them.
func Kit(s *system.System, scope Scope, u, booster *Unit, points []Point) []Item {
	need := needed(s, scope, u)
	var out []Item
	seen := map[string]bool{}
	add := func(id, how, why string) {
		if !seen[id] {
			seen[id] = true
			out = append(out, Item{ID: id, How: how, Why: why})
		}
	}
	boxed := func(id string) bool {
		inCylinder := u != nil && scope.FitsCylinder() &&
			(slices.Contains(u.Contents, id) || id == "reservoir" && u.Reservoir == "included")
		return inCylinder || booster != nil && scope.FitsBooster() && slices.Contains(booster.Contents, id)
	}
	for _, id := range need {
		switch {
		case boxed(id):
			add(id, "in_box", "kit.in_box")
		case id == "gloves_glasses" || id == "rags_pan_water" || id == "bench_bleed_kit" || id == "port_caps" || id == "steering_fluid":
			add(id, "buy", "kit.have_in_hand")
		case slices.Contains(singleUse, id) || id == "pressure_o_rings" || id == "firewall_gasket":
			add(id, "buy", "kit.always_new")
		case id == "check_valve" || id == "check_valve_grommet":
			// The old valve stays off: warranty usually asks for a new one.
			add(id, "buy", "kit.old_stays_off")
		default:
			add(id, "move_over", "kit.from_old")
		}
	}
	for _, p := range points {
		for _, id := range p.Buy {
			if id != "line_length" && id != "port_adapter" { // one for each port that needs it
				add(id, "buy", p.Code)
			}
		}
	}
	for i := range out {
		if out[i].ID == "steering_fluid" {
			out[i].With = map[string]any{"volume_cm3": float64(SteeringCM3)}
		}
	}
	if u != nil && scope.FitsCylinder() {
		out = append(out, lines(points)...)
		for i := range out {
			switch out[i].ID {
			case "bench_bleed_kit", "port_caps":
				out[i].With = map[string]any{"threads": threadsOf(u)}
			}
		}
		if banjos := banjoPorts(u); banjos > 0 {
			out = append(out, Item{ID: "crush_washer", How: "buy", Why: "kit.always_new", With: map[string]any{"count": 2 * banjos}})
		}
		if u.Reservoir == "remote" {
			out = append(out,
				Item{ID: "port_fitting_o_ring", How: "buy", Why: "kit.always_new", With: map[string]any{"count": len(u.Ports)}})
		}
	}
	return out
}

// needed are the small parts that a scope asks for, wherever each comes from.
func needed(s *system.System, scope Scope, u *Unit) []string {
	var need []string
	if scope.FitsCylinder() {
		need = append(need, "reservoir", "reservoir_grommets", "level_sensor", "bench_bleed_kit", "port_caps")
		if u != nil && u.Sensor == "none" {
			need = without(need, "level_sensor")
		}
		if u != nil && (u.FaceSeal == "o_ring" || u.FaceSeal == "gasket") {
			need = append(need, "face_seal_"+u.FaceSeal)
		}
	}
	if scope.FitsBooster() {
		need = append(need, "clevis", "clevis_clip", "lamp_switch_washers", "firewall_gasket", "rod_coupler")
		switch a := s.Assist(); {
		case a.Vacuum:
			need = append(need, "check_valve", "check_valve_grommet")
		case a.Steering:
			need = append(need, "pressure_o_rings", "steering_fluid", "port_caps")
		case a.Pressure: // electro-hydraulic: brake fluid throughout, no steering side
			need = append(need, "pressure_o_rings")
		}
	}
	if s.IsTrailer() && scope.FitsCylinder() {
		need = append(need, "actuator_boot")
	}
	return append(need, "gloves_glasses", "rags_pan_water")
}

// flareMM is what one flare takes of the tube, and moveMM what a port on the other side adds to the way.
// Assumptions: measure with a string where the line is to be made.
const (
	flareMM = 4
	moveMM  = 150
)

// lines are the adapters and the brake lines to make, one for each port that asks for it: the two threads, or flare
// kind, tube, nut, and the cut length where the old way was measured.
func lines(points []Point) []Item {
	var out []Item
	for _, p := range points {
		if p.Port != nil && slices.Contains(p.Buy, "port_adapter") {
			out = append(
				out,
				Item{
					ID:  "port_adapter",
					How: "buy",
					Why: p.Code,
					With: map[string]any{
						"position": p.Port.Position,
						"circuit":  p.Port.Circuit,
						"old":      p.Pair.Old.Thread,
						"new":      p.Port.Thread,
					},
				},
			)
		}
		if p.Port == nil || !slices.Contains(p.Buy, "line_length") {
			continue
		}
		with := map[string]any{
			"position": p.Port.Position,
			"circuit":  p.Port.Circuit,
			"thread":   p.Port.Thread,
			"flare":    FlareFor(p.Port.Seat),
		}
		if t := FindThread(p.Port.Thread); t != nil {
			with["tube"] = t.Tube
		}
		item := Item{ID: "line_to_make", How: "buy", Why: p.Code, With: with}
		if p.Pair.CutMM == nil {
			item.ID = "line_to_measure"
		} else {
			with["cut_mm"] = *p.Pair.CutMM
		}
		out = append(out, item)
	}
	return out
}

// CutMM is what to cut of tube for a line of a measured way, mm, to the next five: two flares more, and the way round
// where the port lies elsewhere. nil where the way was not measured.
func CutMM(runMM *float64, moved bool) *float64 {
	if runMM == nil {
		return nil
	}
	cut := *runMM + 2*flareMM
	if moved {
		cut += moveMM
	}
	cut = math.Ceil(cut/5) * 5
	return &cut
}

// FlareFor names the flare a seat takes: an inverted seat a 45° double flare, a bubble seat an ISO bubble.
func FlareFor(seat string) string {
	if seat == "bubble" {
		return "bubble"
	}
	return "double_45"
}

func threadsOf(u *Unit) []string {
	out := []string{}
	for _, p := range u.Ports {
		if p.Thread != "" {
			out = append(out, p.Thread)
		}
	}
	return out
}

func banjoPorts(u *Unit) (n int) {
	for _, p := range u.Ports {
		if p.Seat == "banjo" {
			n++
		}
	}
	return n
}

func without(list []string, id string) []string {
	return slices.DeleteFunc(list, func(x string) bool { return x == id })
}

// FluidNeed is the brake fluid to have in hand.
type FluidNeed struct {
	Class     string   `json:"class"`
	Allowed   []string `json:"allowed"` // classes that may go in
	Forbidden []string `json:"forbidden"`
	// Why says of each class how it stands to the one required.
	Why       map[string]fluid.Fitness `json:"why"`
	BleedCM3  float64                  `json:"bleed_cm3"`
	UnitCM3   float64                  `json:"unit_cm3"` // what a dry cylinder holds, and a reservoir that was drained
	MarginCM3 float64                  `json:"margin_cm3"`
	TotalCM3  float64                  `json:"total_cm3"`
	Bottles   int                      `json:"bottles"` // of bleed.BottleCM3
	BottleCM3 float64                  `json:"bottle_cm3"`
}

// Fluid works out class and quantity for a scope, bled as these options say.
func Fluid(s *system.System, scope Scope, o bleed.Options) (FluidNeed, error) {
	n := FluidNeed{
		Class:     s.Fluid.Class,
		Allowed:   []string{},
		Forbidden: []string{},
		Why:       map[string]fluid.Fitness{},
		BottleCM3: bleed.BottleCM3,
	}
	for _, c := range fluid.Classes {
		f, err := fluid.MayReplace(s.Fluid.Class, c.ID)
		if err != nil {
			return n, err
		}
		n.Why[c.ID] = f
		if f.Allowed() {
			n.Allowed = append(n.Allowed, c.ID)
		} else {
			n.Forbidden = append(n.Forbidden, c.ID)
		}
	}
	if !scope.OpensHydraulics() {
		return n, nil
	}
	o.Start = nil                                  // from a reservoir drawn down and filled: what has been done since takes no bottle back
	if plan, err := bleed.Make(s, o); err != nil { // a way that comes to nothing here still takes its fluid another way
		n.BleedCM3 = bleed.VolumeCM3(s, o)
	} else {
		n.BleedCM3 = plan.TotalCM3
	}
	if scope.FitsCylinder() {
		m := s.MasterCylinder
		stroke := m.Primary.StrokeMM
		if m.Secondary != nil {
			stroke += m.Secondary.StrokeMM
		}
		n.UnitCM3 = math.Pi * m.BoreMM * m.BoreMM / 4 * stroke / 1000
	}
	// Whatever is opened, the old fluid is drawn out of the reservoir first, and it is filled with fresh.
	if s.Reservoir != nil && scope != ElsewhereOpened {
		n.UnitCM3 += s.Reservoir.FullCM3
	}
	n.MarginCM3 = bleed.FluidMargin * (n.BleedCM3 + n.UnitCM3)
	n.TotalCM3 = n.BleedCM3 + n.UnitCM3 + n.MarginCM3
	n.Bottles = int(math.Ceil(n.TotalCM3 / bleed.BottleCM3))
	return n, nil
}
