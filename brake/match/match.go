// Package match compares a candidate unit with the one on the vehicle, point by point, and says
// what the twin's pedal makes of it and what has to be in hand. Lengths mm, volumes cm³.
package match

import (
	"math"

	"geminate/brake/system"
)

// Port is one outlet of a master cylinder.
type Port struct {
	Position string `json:"position"` // front, rear
	Side     string `json:"side"`     // left, right, below
	Thread   string `json:"thread"`   // 3/8-24, M10x1 …
	Seat     string `json:"seat"`     // inverted_flare, bubble, banjo
	Circuit  string `json:"circuit"`  // A, B
	// RunMM is the way from this port to the joint its line ends at, measured with a string; for a new line.
	RunMM *float64 `json:"run_mm,omitempty"`
	// NewLine: of the old unit, its line is made anew whatever the new port is: rusted, or rather than an adapter.
	NewLine bool `json:"new_line,omitempty"`
}

// Kinds of units.
const (
	MasterCylinder   = "master_cylinder"
	VacuumBooster    = "vacuum_booster"
	HydraulicBooster = "hydraulic_booster"
	ElectroBooster   = "electro_hydraulic_booster"
)

// Unit is a master cylinder or a booster as measured or as the shelf describes it. Nil or empty is not
// known. A kind of "" is a master cylinder.
type Unit struct {
	ID            string   `json:"id"`
	Kind          string   `json:"kind,omitempty"`
	Maker         string   `json:"maker"`
	Number        string   `json:"number"`
	Condition     string   `json:"condition,omitempty"` // new, rebuilt, used
	BoreMM        *float64 `json:"bore_mm"`
	StrokeMM      *float64 `json:"stroke_mm,omitempty"` // primary and secondary together
	Ports         []Port   `json:"ports"`
	StudSpacingMM *float64 `json:"stud_spacing_mm"`
	Studs         int      `json:"studs"`
	PocketMM      *float64 `json:"pocket_mm"` // flange face to piston seat
	FaceSeal      string   `json:"face_seal"` // o_ring, gasket, none
	Sensor        string   `json:"sensor"`    // none, two_pin, three_pin
	Variant       string   `json:"variant"`   // plain, abs
	ResidualMPA   *float64 `json:"residual_mpa"`
	Reservoir     string   `json:"reservoir"` // included, reuse, remote
	Material      string   `json:"material,omitempty"`
	// Connector is the level sensor's plug, by keying as seen.
	Connector string `json:"connector,omitempty"`
	// RemotePorts are reservoir ports for hoses, for a remote reservoir or a clutch.
	RemotePorts *int `json:"remote_ports,omitempty"`
	// Brakes says what the unit is made for: disc, drum, disc_drum.
	Brakes string `json:"brakes,omitempty"`
	// Booster holds what only a booster has.
	Booster  *BoosterSpec `json:"booster,omitempty"`
	Contents []string     `json:"contents"` // item ids in the box
	Price    float64      `json:"price,omitempty"`
	Core     float64      `json:"core,omitempty"`
	// ByPhoto are the figures measured on a picture, by their fields, each with half of its interval of 95 of 100, mm:
	// what one such figure cannot tell apart is not told. Who types a figure over it takes it out.
	ByPhoto map[PhotoField]float64 `json:"by_photo,omitempty"`
	// Rebuildable says whether the maker sells a kit for it; nil is not known.
	Rebuildable *bool `json:"rebuildable,omitempty"`
}

// BoosterSpec is what is measured of a booster besides its cylinder side (studs, pocket and seal of the
// unit are those of the cylinder's face).
type BoosterSpec struct {
	FirewallStuds     int      `json:"firewall_studs,omitempty"`
	FirewallSpacingMM *float64 `json:"firewall_spacing_mm,omitempty"` // centre to centre, the wider pair
	ShellMM           *float64 `json:"shell_mm,omitempty"`            // outside diameter; a hydraulic one: overall length
	RodThread         string   `json:"rod_thread,omitempty"`          // of the clevis
	ProtrusionMM      *float64 `json:"protrusion_mm,omitempty"`       // of the rod from the cylinder's face
	CheckValve        string   `json:"check_valve,omitempty"`         // left, right, top, none
	PressureThread    string   `json:"pressure_thread,omitempty"`     // hydraulic
	ReturnMM          *float64 `json:"return_mm,omitempty"`           // hydraulic: hose barb
	Ratio             *float64 `json:"ratio,omitempty"`
	EffectiveAreaMM2  *float64 `json:"effective_area_mm2,omitempty"` // vacuum
	PowerAreaMM2      *float64 `json:"power_area_mm2,omitempty"`     // hydraulic
}

// KindOf is the unit's kind with "" read as a master cylinder.
func (u *Unit) KindOf() string {
	if u.Kind == "" {
		return MasterCylinder
	}
	return u.Kind
}

// Verdict of one point. Worst decides; none is ever averaged away.
type Verdict string

const (
	Same         Verdict = "same"
	FitsWith     Verdict = "fits_with"
	ChangesPedal Verdict = "changes_pedal"
	Unknown      Verdict = "unknown"
	DoesNotFit   Verdict = "does_not_fit"
)

var gravity = map[Verdict]int{Same: 0, FitsWith: 1, ChangesPedal: 2, Unknown: 3, DoesNotFit: 4}

// Point is one thing compared. Code is a key of the words; With carries the figures.
type Point struct {
	ID      string         `json:"id"`
	Verdict Verdict        `json:"verdict"`
	Code    string         `json:"code"`
	With    map[string]any `json:"with,omitempty"`
	Buy     []string       `json:"buy,omitempty"` // item ids this difference calls for
	// Port is the candidate's port the point is about, where it is about one.
	Port *Port `json:"port,omitempty"`
	// RunMM is the old line's measured way, carried over for a new line.
	RunMM *float64 `json:"run_mm,omitempty"`
	// Pair is the old port with the new one it is about.
	Pair *Pair `json:"pair,omitempty"`
}

// Result is one candidate held against the old unit.
type Result struct {
	Unit    Unit    `json:"unit"`
	Verdict Verdict `json:"verdict"`
	Points  []Point `json:"points"`
}

// Tolerances, assumption unless noted: what a calliper and a hand tell apart.
const (
	boreTolMM   = 0.06
	studTolMM   = 0.5
	PocketTolMM = 0.3
	rodReachMM  = 5.0 // what an adjustable rod usually covers
)

// The nearest units of a catalogue are shown beside the shelf: so far from the old unit's measures, so many.
// Assumptions: twice what two calliper readings differ by; what one looks through.
const (
	NearMM   = 1
	NearMost = 8
)

// Compare holds a candidate against the old unit on a system.
func Compare(s *system.System, old, candidate Unit) Result {
	r := Result{Unit: candidate, Verdict: Same}
	add := func(p Point) {
		r.Points = append(r.Points, p)
		if gravity[p.Verdict] > gravity[r.Verdict] {
			r.Verdict = p.Verdict
		}
	}
	if candidate.KindOf() != MasterCylinder {
		for _, p := range compareBooster(s, old, candidate) {
			add(p)
		}
		return r
	}
	if old.KindOf() != MasterCylinder {
		add(Point{ID: "kind", Verdict: DoesNotFit, Code: "match.kind.other"})
		return r
	}
	add(compareBore(old, candidate))
	for _, p := range comparePorts(old, candidate) {
		add(p)
	}
	add(compareMounting(old, candidate))
	add(comparePocket(old, candidate))
	add(compareBrakes(s, candidate))
	add(compareText("face_seal", old.FaceSeal, candidate.FaceSeal, func() Point {
		return Point{Verdict: FitsWith, Code: "match.face_seal.other", Buy: []string{"face_seal_" + candidate.FaceSeal}}
	}))
	add(compareText("sensor", old.Sensor, candidate.Sensor, func() Point {
		if candidate.Sensor == "none" { // a warning lamp must not be lost
			return Point{Verdict: DoesNotFit, Code: "match.sensor.lost"}
		}
		if old.Sensor == "none" {
			return Point{Verdict: FitsWith, Code: "match.sensor.extra"}
		}
		return Point{Verdict: FitsWith, Code: "match.sensor.lead", Buy: []string{"sensor_lead"}}
	}))
	if old.Sensor != "none" && candidate.Sensor != "none" && (old.Connector != "" || candidate.Connector != "") {
		add(compareText("connector", old.Connector, candidate.Connector, func() Point {
			return Point{Verdict: FitsWith, Code: "match.connector.other", Buy: []string{"sensor_lead"}}
		}))
	}
	if old.Material != "" && candidate.Material != "" { // iron and aluminium fit alike; the weight and the threads differ
		add(compareText("material", old.Material, candidate.Material, func() Point {
			return Point{Verdict: Same, Code: "match.material.other"}
		}))
	}
	if old.RemotePorts != nil || candidate.RemotePorts != nil {
		add(compareRemote(old, candidate))
	}
	add(compareText("variant", old.Variant, candidate.Variant, func() Point {
		return Point{Verdict: DoesNotFit, Code: "match.variant.other"}
	}))
	add(compareResidual(s, old, candidate))
	add(compareText("reservoir", old.Reservoir, candidate.Reservoir, func() Point {
		switch candidate.Reservoir {
		case "reuse":
			return Point{Verdict: FitsWith, Code: "match.reservoir.move", Buy: []string{"reservoir_grommets"}}
		case "remote":
			return Point{Verdict: FitsWith, Code: "match.reservoir.remote", Buy: []string{"remote_reservoir", "reservoir_hose"}}
		}
		return Point{Verdict: FitsWith, Code: "match.reservoir.comes"}
	}))
	return r
}

func compareText(id, old, candidate string, differ func() Point) Point {
	switch {
	case old == "" || candidate == "":
		return unknown(id, old == "")
	case old == candidate:
		return Point{ID: id, Verdict: Same, Code: "match.same", With: map[string]any{"value": candidate}}
	}
	p := differ()
	p.ID = id
	if p.With == nil {
		p.With = map[string]any{}
	}
	p.With["old"], p.With["new"] = old, candidate
	return p
}

// unknown says which of the two has yet to be measured.
func unknown(id string, oldOne bool) Point {
	p := Point{ID: id, Verdict: Unknown, Code: "match.measure_new"}
	if oldOne {
		p.Code = "match.measure_old"
	}
	return p
}

func compareBore(old, c Unit) Point {
	if old.BoreMM == nil || c.BoreMM == nil {
		return unknown("bore", old.BoreMM == nil)
	}
	with := map[string]any{"old_mm": *old.BoreMM, "new_mm": *c.BoreMM}
	if math.Abs(*old.BoreMM-*c.BoreMM) <= boreTolMM {
		return Point{ID: "bore", Verdict: Same, Code: "match.same_mm", With: map[string]any{"value_mm": *c.BoreMM}}
	}
	// Same rod force: pressure ∝ 1/area. Same volume: travel ∝ 1/area (arithmetic).
	area := *c.BoreMM * *c.BoreMM / (*old.BoreMM * *old.BoreMM)
	with["volume_ratio"], with["pressure_ratio"] = area, 1/area
	code := "match.bore.larger"
	if area < 1 {
		code = "match.bore.smaller"
	}
	return Point{ID: "bore", Verdict: ChangesPedal, Code: code, With: with}
}

func comparePorts(old, c Unit) []Point {
	if len(old.Ports) == 0 || len(c.Ports) == 0 {
		return []Point{unknown("ports", len(old.Ports) == 0)}
	}
	if len(c.Ports) < len(old.Ports) {
		return []Point{
			{ID: "ports", Verdict: DoesNotFit, Code: "match.ports.fewer", With: map[string]any{"old": len(old.Ports), "new": len(c.Ports)}},
		}
	}
	pairs, spare := PairPorts(old.Ports, c.Ports)
	var out []Point
	if len(spare) > 0 {
		out = append(
			out,
			Point{
				ID:      "ports",
				Verdict: FitsWith,
				Code:    "match.ports.more",
				With:    map[string]any{"old": len(old.Ports), "new": len(c.Ports)},
				Buy:     []string{"port_plug"},
			},
		)
	} else {
		out = append(out, Point{ID: "ports", Verdict: Same, Code: "match.same", With: map[string]any{"value": len(c.Ports)}})
	}
	for _, p := range pairs {
		out = append(out, pairPoint(p))
	}
	return out
}

func compareMounting(old, c Unit) Point {
	if old.StudSpacingMM == nil || c.StudSpacingMM == nil || old.Studs == 0 || c.Studs == 0 {
		return unknown("mounting", old.StudSpacingMM == nil || old.Studs == 0)
	}
	with := map[string]any{"old_mm": *old.StudSpacingMM, "new_mm": *c.StudSpacingMM, "old": old.Studs, "new": c.Studs}
	switch {
	case old.Studs != c.Studs:
		return Point{ID: "mounting", Verdict: DoesNotFit, Code: "match.mounting.count", With: with}
	}
	if p := byPhoto("mounting", PhotoStuds, old, c, studTolMM); p != nil {
		return *p
	}
	switch {
	case math.Abs(*old.StudSpacingMM-*c.StudSpacingMM) > studTolMM:
		return Point{ID: "mounting", Verdict: DoesNotFit, Code: "match.mounting.spacing", With: with}
	}
	return Point{ID: "mounting", Verdict: Same, Code: "match.same_mm", With: map[string]any{"value_mm": *c.StudSpacingMM}}
}

func comparePocket(old, c Unit) Point {
	if old.PocketMM == nil || c.PocketMM == nil {
		return unknown("pocket", old.PocketMM == nil)
	}
	d := *c.PocketMM - *old.PocketMM
	with := map[string]any{"old_mm": *old.PocketMM, "new_mm": *c.PocketMM, "difference_mm": d}
	switch {
	case math.Abs(d) <= PocketTolMM:
		return Point{ID: "pocket", Verdict: Same, Code: "match.same_mm", With: map[string]any{"value_mm": *c.PocketMM}}
	case math.Abs(d) <= rodReachMM:
		return Point{ID: "pocket", Verdict: FitsWith, Code: "match.pocket.rod", With: with}
	}
	return Point{ID: "pocket", Verdict: DoesNotFit, Code: "match.pocket.far", With: with}
}

func compareResidual(s *system.System, old, c Unit) Point {
	if old.ResidualMPA == nil || c.ResidualMPA == nil {
		return unknown("residual", old.ResidualMPA == nil)
	}
	with := map[string]any{"old_mpa": *old.ResidualMPA, "new_mpa": *c.ResidualMPA}
	if *c.ResidualMPA > 0 {
		for _, w := range s.Wheels {
			// A drum residual valve ahead of discs keeps the pads on. The shelf gives one figure for the
			// unit; it is taken to stand in every port.
			if w.Brake.Kind == "disc" && *c.ResidualMPA > w.Brake.TakeUpMPA/2 {
				return Point{ID: "residual", Verdict: DoesNotFit, Code: "match.residual.discs", With: with}
			}
		}
	}
	if math.Abs(*old.ResidualMPA-*c.ResidualMPA) > 0.01 {
		return Point{ID: "residual", Verdict: DoesNotFit, Code: "match.residual.other", With: with}
	}
	return Point{ID: "residual", Verdict: Same, Code: "match.same_mpa", With: map[string]any{"value_mpa": *c.ResidualMPA}}
}

// FromSystem is what the vehicle's own figures say of its cylinder; the rest is to be measured.
func FromSystem(s *system.System) Unit {
	m := s.MasterCylinder
	bore, stroke := m.BoreMM, m.Primary.StrokeMM
	u := Unit{ID: "old", BoreMM: &bore, Contents: []string{}, Ports: []Port{}}
	residual := 0.0
	for _, c := range s.Circuits {
		if c.ResidualMPA != nil {
			residual = math.Max(residual, *c.ResidualMPA)
		}
	}
	u.ResidualMPA = &residual
	if m.Secondary != nil {
		stroke += m.Secondary.StrokeMM
		u.Ports = append(u.Ports, Port{Position: "front", Circuit: m.Secondary.Circuit})
	}
	u.StrokeMM = &stroke
	u.Ports = append(u.Ports, Port{Position: "rear", Circuit: m.Primary.Circuit})
	return u
}

// Fitted is the system with a unit in place of its own cylinder: the bore, and the stroke shared as
// the old one was, where the unit states it.
func Fitted(s *system.System, u Unit) *system.System {
	out := s.Clone()
	m := &out.MasterCylinder
	if u.BoreMM != nil {
		m.BoreMM = *u.BoreMM
	}
	if u.StrokeMM != nil {
		total := m.Primary.StrokeMM
		if m.Secondary != nil {
			total += m.Secondary.StrokeMM
			m.Secondary.StrokeMM *= *u.StrokeMM / total
		}
		m.Primary.StrokeMM *= *u.StrokeMM / total
	}
	return out
}

// Sound is the system with its faults taken out: no leak, no bypass, no air, nothing open. A new
// unit is judged on a bled, tight system.
func Sound(s *system.System) *system.System {
	out := s.Clone()
	for i := range out.Circuits {
		c := &out.Circuits[i]
		c.AirCM3, c.Open, c.BypassMM3SMPA, c.LeakMM3SMPA = 0, false, 0, 0
	}
	return out
}

// ByGravity orders verdicts, the lightest first.
func ByGravity(a, b Verdict) int { return gravity[a] - gravity[b] }

// Graver says whether a verdict is worse than another.
func Graver(a, b Verdict) bool { return gravity[a] > gravity[b] }
