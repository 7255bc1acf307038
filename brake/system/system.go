// Package system holds the description of one brake system, the open format geminate.system/1:
// its types, a strict reader that lists every fault, and the patterns a job starts from.
//
// Units are in the field names: mm, mm², mm³, cm³, N, MPa (gauge), kPa (vacuum, below atmosphere),
// kg, °C, percent.
package system

import "encoding/json"

// Format is the value of the "format" field this package reads and writes.
const Format = "geminate.system/1"

// System is one brake system as it stands on the lift.
type System struct {
	Format         string         `json:"format"`
	Name           string         `json:"name"`
	Vehicle        Vehicle        `json:"vehicle"`
	Ambient        Ambient        `json:"ambient"`
	Pedal          *Pedal         `json:"pedal,omitempty"`    // absent on a trailer
	Actuator       *Actuator      `json:"actuator,omitempty"` // trailer only
	PushrodGapMM   float64        `json:"pushrod_gap_mm"`     // negative = preload
	Booster        *Booster       `json:"booster,omitempty"`  // absent on a trailer
	MasterCylinder MasterCylinder `json:"master_cylinder"`
	Fluid          Fluid          `json:"fluid"`
	Circuits       []Circuit      `json:"circuits"`
	Wheels         []Wheel        `json:"wheels"`
	Proportioning  *Proportioning `json:"proportioning,omitempty"`
	Reservoir      *Reservoir     `json:"reservoir,omitempty"`
	Modulator      *Modulator     `json:"modulator,omitempty"`
}

// Vehicle is what the brakes have to stop.
type Vehicle struct {
	Kind         string  `json:"kind"` // car, truck, trailer, motorcycle
	MassKG       float64 `json:"mass_kg"`
	TireRadiusMM float64 `json:"tire_radius_mm"`
}

// Ambient is the air around the vehicle.
type Ambient struct {
	AtmosphereKPA float64 `json:"atmosphere_kpa"` // absolute
	TemperatureC  float64 `json:"temperature_c"`
}

// Pedal is the lever ahead of the booster. Free play and return force are at the input rod, the
// floor at the pad.
type Pedal struct {
	Ratio        float64 `json:"ratio"`
	FreePlayMM   float64 `json:"free_play_mm"`
	ReturnForceN float64 `json:"return_force_n"`
	FloorMM      float64 `json:"floor_mm"`
}

// Actuator stands in for pedal and booster on a surge trailer.
type Actuator struct {
	Kind    string  `json:"kind"` // surge
	Ratio   float64 `json:"ratio"`
	CutInN  float64 `json:"cut_in_n"`
	FloorMM float64 `json:"floor_mm"`
}

// Booster multiplies the rod force. Which fields apply depends on Kind; the reader refuses others.
type Booster struct {
	Kind   string  `json:"kind"`
	Ratio  float64 `json:"ratio,omitempty"`
	CutInN float64 `json:"cut_in_n,omitempty"`
	JumpIn float64 `json:"jump_in_n,omitempty"`
	Spring float64 `json:"spring_n,omitempty"`

	EffectiveAreaMM2   float64  `json:"effective_area_mm2,omitempty"`
	Efficiency         float64  `json:"efficiency,omitempty"`
	VacuumKPA          *float64 `json:"vacuum_kpa,omitempty"` // zero is a stopped engine, not a gap
	ChamberCM3         float64  `json:"chamber_cm3,omitempty"`
	StrokeToReleaseCM3 float64  `json:"stroke_to_release_cm3,omitempty"`

	PowerAreaMM2 float64      `json:"power_area_mm2,omitempty"`
	SupplyMPA    *float64     `json:"supply_mpa,omitempty"`
	Accumulator  *Accumulator `json:"accumulator,omitempty"`
	Simulator    *Simulator   `json:"simulator,omitempty"`
}

// Accumulator is the gas spring of a hydraulic booster; gas_cm3 is its volume at precharge.
type Accumulator struct {
	GasCM3       float64 `json:"gas_cm3"`
	PrechargeMPA float64 `json:"precharge_mpa"`
	ChargedMPA   float64 `json:"charged_mpa"`
	UseCM3       float64 `json:"use_cm3"`
}

// Simulator is the pedal feel spring of an electro-hydraulic booster, at the input rod.
type Simulator struct {
	StiffnessNPerMM float64 `json:"stiffness_n_per_mm"`
	FreeMM          float64 `json:"free_mm"`
}

// MasterCylinder is one or two chambers in one bore.
type MasterCylinder struct {
	BoreMM             float64  `json:"bore_mm"`
	Efficiency         float64  `json:"efficiency"`
	CompensatingPortMM *float64 `json:"compensating_port_mm,omitempty"` // else 0.7
	Primary            Chamber  `json:"primary"`
	Secondary          *Chamber `json:"secondary,omitempty"`
}

// Chamber is one piston's side of the master cylinder.
type Chamber struct {
	Circuit  string  `json:"circuit"`
	StrokeMM float64 `json:"stroke_mm"`
	CutoffMM float64 `json:"cutoff_mm"`
	PreloadN float64 `json:"preload_n"`
}

// Fluid is what is in the lines now.
type Fluid struct {
	Class          string   `json:"class"`
	BulkModulusMPA float64  `json:"bulk_modulus_mpa"`
	WaterPercent   float64  `json:"water_percent"`
	DensityKGM3    *float64 `json:"density_kg_m3,omitempty"` // else 1050
}

// Circuit is one hydraulic half: its wheels and what is wrong with it.
type Circuit struct {
	ID            string   `json:"id"`
	Wheels        []string `json:"wheels"`
	AirCM3        float64  `json:"air_cm3"` // at atmospheric pressure
	Open          bool     `json:"open"`
	BypassMM3SMPA float64  `json:"bypass_mm3_s_mpa"`
	LeakMM3SMPA   float64  `json:"leak_mm3_s_mpa"`
	ResidualMPA   *float64 `json:"residual_mpa,omitempty"`
	// SharedMM is how much of its wheels' lines, from the cylinder on, is one line before they branch. Each wheel's own
	// length is the whole way.
	SharedMM *float64 `json:"shared_mm,omitempty"`
}

// Wheel is one brake with the line and hose that feed it.
type Wheel struct {
	ID           string   `json:"id"`
	TireRadiusMM *float64 `json:"tire_radius_mm,omitempty"` // else the vehicle's
	Line         Line     `json:"line"`
	Hose         Hose     `json:"hose"`
	Brake        Brake    `json:"brake"`
	Bleeder      *Bleeder `json:"bleeder,omitempty"` // else 1.8 mm bore, 8 mm long
}

// Line is the steel line from cylinder to hose.
type Line struct {
	LengthMM float64 `json:"length_mm"`
	BoreMM   float64 `json:"bore_mm"`
}

// Hose is the flexible part.
type Hose struct {
	LengthMM           float64  `json:"length_mm"`
	ExpansionMM3PerMPA float64  `json:"expansion_mm3_per_m_mpa"` // per metre of hose
	BoreMM             *float64 `json:"bore_mm,omitempty"`       // else 3.2
}

// Brake is a disc or drum brake. Which fields apply depends on Kind.
type Brake struct {
	Kind          string  `json:"kind"` // disc, drum
	ClearanceMM   float64 `json:"clearance_mm"`
	TakeUpMPA     float64 `json:"take_up_mpa"`
	ComplianceMM3 float64 `json:"compliance_mm3_per_mpa"`
	CavityCM3     float64 `json:"cavity_cm3"`

	PistonsMM         []float64 `json:"pistons_mm,omitempty"` // one side's pistons
	Fixed             *bool     `json:"fixed,omitempty"`
	Friction          float64   `json:"friction,omitempty"`
	EffectiveRadiusMM float64   `json:"effective_radius_mm,omitempty"`

	CylinderMM   float64 `json:"cylinder_mm,omitempty"`
	BrakeFactor  float64 `json:"brake_factor,omitempty"`
	DrumRadiusMM float64 `json:"drum_radius_mm,omitempty"`
}

// Bleeder is the screw's drilling.
type Bleeder struct {
	BoreMM   float64 `json:"bore_mm"`
	LengthMM float64 `json:"length_mm"`
}

// Proportioning holds rear pressure back above its knee.
type Proportioning struct {
	Wheels  []string `json:"wheels"`
	KneeMPA float64  `json:"knee_mpa"`
	Slope   float64  `json:"slope"`
}

// Reservoir is the fluid store, one shared volume or one per circuit.
type Reservoir struct {
	FullCM3       float64            `json:"full_cm3"`
	LowestPortCM3 float64            `json:"lowest_port_cm3"`
	Circuits      map[string]float64 `json:"circuits,omitempty"` // full volume by circuit where divided
}

// Modulator is an anti-lock unit in the lines.
type Modulator struct {
	Kind      string  `json:"kind"`
	VolumeCM3 float64 `json:"volume_cm3"`
}

// Circuit returns the circuit with this id, or nil.
func (s *System) Circuit(id string) *Circuit {
	for i := range s.Circuits {
		if s.Circuits[i].ID == id {
			return &s.Circuits[i]
		}
	}
	return nil
}

// Wheel returns the wheel with this id, or nil.
func (s *System) Wheel(id string) *Wheel {
	for i := range s.Wheels {
		if s.Wheels[i].ID == id {
			return &s.Wheels[i]
		}
	}
	return nil
}

// CircuitOf returns the id of the circuit a wheel hangs on, or "".
func (s *System) CircuitOf(wheel string) string {
	for _, c := range s.Circuits {
		for _, w := range c.Wheels {
			if w == wheel {
				return c.ID
			}
		}
	}
	return ""
}

// IsTrailer reports whether a coupler, not a foot, pushes the cylinder.
func (s *System) IsTrailer() bool { return s.Actuator != nil }

// IsClutch reports whether nothing here brakes: a hydraulic clutch, bled and judged like a brake,
// with no stopping to judge.
func (s *System) IsClutch() bool {
	for _, w := range s.Wheels {
		if w.Brake.Kind != "drum" || w.Brake.BrakeFactor > 0 {
			return false
		}
	}
	return len(s.Wheels) > 0
}

// Clone returns a deep copy, so that a fault can be tried on the twin without touching the job.
func (s *System) Clone() *System {
	c := *s
	c.Pedal, c.Actuator = clone(s.Pedal), clone(s.Actuator)
	c.Proportioning, c.Reservoir, c.Modulator = clone(s.Proportioning), clone(s.Reservoir), clone(s.Modulator)
	c.MasterCylinder.Secondary = clone(s.MasterCylinder.Secondary)
	if c.Booster = clone(s.Booster); c.Booster != nil {
		c.Booster.VacuumKPA, c.Booster.SupplyMPA = clone(s.Booster.VacuumKPA), clone(s.Booster.SupplyMPA)
		c.Booster.Accumulator, c.Booster.Simulator = clone(s.Booster.Accumulator), clone(s.Booster.Simulator)
	}
	c.Circuits = append([]Circuit(nil), s.Circuits...)
	c.Wheels = append([]Wheel(nil), s.Wheels...)
	return &c
}

func clone[T any](p *T) *T {
	if p == nil {
		return nil
	}
	v := *p
	return &v
}

// MarshalJSON writes just the fields the brake's kind has, zeros included (a clutch's slave has a
// brake factor of zero).
func (b Brake) MarshalJSON() ([]byte, error) {
	out := map[string]any{"kind": b.Kind, "clearance_mm": b.ClearanceMM, "take_up_mpa": b.TakeUpMPA,
		"compliance_mm3_per_mpa": b.ComplianceMM3, "cavity_cm3": b.CavityCM3}
	if b.Kind == "drum" {
		out["cylinder_mm"], out["brake_factor"], out["drum_radius_mm"] = b.CylinderMM, b.BrakeFactor, b.DrumRadiusMM
	} else {
		out["pistons_mm"], out["friction"], out["effective_radius_mm"] = b.PistonsMM, b.Friction, b.EffectiveRadiusMM
		if b.Fixed != nil {
			out["fixed"] = *b.Fixed
		}
	}
	return json.Marshal(out)
}

// MarshalJSON writes just the fields the booster's kind has, zeros included, so that what is
// written reads back under the strict reader.
func (b Booster) MarshalJSON() ([]byte, error) {
	out := map[string]any{"kind": b.Kind}
	a := assistOf(b.Kind)
	if a == nil {
		return json.Marshal(out)
	}
	if !a.Powered() {
		return json.Marshal(out)
	}
	out["ratio"], out["cut_in_n"], out["jump_in_n"], out["spring_n"] = b.Ratio, b.CutInN, b.JumpIn, b.Spring
	if a.Vacuum {
		out["effective_area_mm2"], out["efficiency"] = b.EffectiveAreaMM2, b.Efficiency
		out["vacuum_kpa"], out["chamber_cm3"], out["stroke_to_release_cm3"] = b.VacuumKPA, b.ChamberCM3, b.StrokeToReleaseCM3
	} else {
		out["power_area_mm2"], out["supply_mpa"] = b.PowerAreaMM2, b.SupplyMPA
		if b.Accumulator != nil {
			out["accumulator"] = b.Accumulator
		}
		if b.Simulator != nil {
			out["simulator"] = b.Simulator
		}
	}
	return json.Marshal(out)
}
