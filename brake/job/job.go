// Package job is one brake job as its log: typed events (what was stated, chosen, read, ticked, moved, released),
// each with its own check and its own effect; commands that carry who asks and in which role; one fold that
// gives where the job stands. It composes the other core packages into what each station shows.
//
// To see what may happen to a job, read the table of kinds (event.go), the table of roles (roles.go) and the
// commands (commands.go).
package job

import (
	"maps"
	"slices"
	"time"

	"geminate/brake/bench"
	"geminate/brake/bleed"
	"geminate/brake/diagnose"
	"geminate/brake/match"
	"geminate/brake/system"
	"geminate/brake/verify"
)

// Job is a job as its log comes to: the aggregate every rule is asked of.
type Job struct {
	ID        string
	CreatedAt time.Time
	UpdatedAt time.Time
	// Head is the seq of the last event folded in.
	Head     int64
	OpenedBy Actor
	Intake   Intake
	Choices  Choices
	// IntakeSeq and ChoicesSeq are the events that last changed them: what an edit says it started from.
	IntakeSeq, ChoicesSeq int64
	State                 State
	Given
	// airStale says that State.Air has to be worked out again.
	airStale bool
}

// Given is what whoever asks hands in: it is no part of the record, and no fold of a log comes to it.
type Given struct {
	// Shop are its settings, nil takes the usual ones.
	Shop *Settings
	// Experience is this shop's own with this kind of vehicle, nil where it does not count.
	Experience *diagnose.Experience
	// OwnWaterAYear is the rise of the water by this vehicle's own readings, percent a year; nil takes the assumption.
	OwnWaterAYear *float64
	// OwnStrokeS are the shop's own times of a stroke, s, by method.
	OwnStrokeS map[bleed.Method]float64
	// People are the accounts of the shop, nil where nobody said: a second look is somebody else's.
	People []verify.Person
	// Now is the moment it is asked, zero where nobody said: readings are then as old as the last thing told.
	Now time.Time
}

// Intake is the complaint, the vehicle and its system.
type Intake struct {
	Customer      string         `json:"customer"`
	Complaint     string         `json:"complaint"`
	Vehicle       string         `json:"vehicle"`
	Plate         string         `json:"plate"`
	VIN           string         `json:"vin,omitempty"`
	DistanceKM    float64        `json:"distance_km"`
	LastServiceAt string         `json:"last_service_at"` // yyyy-mm-dd or ""
	LastServiceKM float64        `json:"last_service_km"`
	DoneBefore    string         `json:"done_before"`
	Pattern       string         `json:"pattern"`
	System        *system.System `json:"system"`
	// Tools nil means not stated: every tool is taken to be in the shop.
	Tools            *[]string `json:"tools"`
	Hands            int       `json:"hands"`
	KeepLinesClosed  bool      `json:"keep_lines_closed"`
	MakerTorqueNotes string    `json:"maker_notes"`
	// PedalFrom is the day of the release whose pedal the system's figures were set from, "" where they were not.
	PedalFrom string `json:"pedal_from,omitempty"`
	// Practice marks a job on a made-up vehicle, to learn by: it counts for nothing in the shop. Set when it is opened.
	Practice bool `json:"practice,omitempty"`
	Planned
}

// Choices are the decisions taken at the later stations.
type Choices struct {
	Scope match.Scope `json:"scope"`
	Old   *match.Unit `json:"old_unit"`
	// OldBooster and Booster are the same for the booster.
	OldBooster *match.Unit `json:"old_booster,omitempty"`
	Booster    *match.Unit `json:"booster,omitempty"`
	Unit       *match.Unit `json:"unit"` // a copy of the shelf's entry at the time it was chosen
	// Own is a unit that is not on the shelf, measured out of its box.
	Own            *match.Unit  `json:"own_unit"`
	OwnBooster     *match.Unit  `json:"own_booster,omitempty"`
	BenchOnVehicle bool         `json:"bench_on_vehicle"`
	LinesLoose     bool         `json:"lines_loose"`
	Bench          BenchSetup   `json:"bench"`
	Bleed          BleedSetup   `json:"bleed"`
	Bottle         Bottle       `json:"bottle"`
	Costs          *ShopFigures `json:"costs,omitempty"`
	// Joint is what is known and decided about the joint; it wins over the two older fields above.
	Joint *JointSetup `json:"joint,omitempty"`
}

// ShopFigures are a shop's costs; what is left out keeps its default.
type ShopFigures struct {
	PerMinute *float64           `json:"per_minute,omitempty"`
	Comeback  *float64           `json:"comeback,omitempty"`
	Unsafe    *float64           `json:"unsafe,omitempty"`
	Needless  *float64           `json:"needless,omitempty"`
	Minutes   map[string]float64 `json:"minutes,omitempty"`
	Parts     map[string]float64 `json:"parts,omitempty"`
}

// Costs lays a job's own figures over the defaults.
func (j *Job) Costs() diagnose.Costs {
	c := diagnose.DefaultCosts()
	own := j.Choices.Costs
	if own == nil {
		return c
	}
	for _, x := range []struct {
		to   *float64
		from *float64
	}{{&c.PerMinute, own.PerMinute}, {&c.Comeback, own.Comeback}, {&c.Unsafe, own.Unsafe}, {&c.Needless, own.Needless}} {
		if x.from != nil {
			*x.to = *x.from
		}
	}
	maps.Copy(c.Minutes, own.Minutes)
	maps.Copy(c.Parts, own.Parts)
	return c
}

// BenchSetup is how the cylinder lies in the vice.
type BenchSetup struct {
	Port     bench.Port `json:"port"`
	TiltDeg  float64    `json:"tilt_deg"`
	StrokeMM float64    `json:"stroke_mm"`
	Fast     bool       `json:"fast"`
	PortMM   float64    `json:"port_mm"`
}

// BleedSetup is the method and the school.
type BleedSetup struct {
	Method       bleed.Method `json:"method"`
	Order        bleed.Order  `json:"order"`
	Given        []string     `json:"given"`
	StrokeMM     float64      `json:"stroke_mm"`
	DriveKPA     float64      `json:"drive_kpa"`
	HeadMM       float64      `json:"head_mm"`
	TemperatureC float64      `json:"temperature_c"`
	OldFraction  float64      `json:"old_fraction"`
	// Purpose and Wheels are what it is for and where, "" and none as it follows from what was done.
	Purpose bleed.Purpose `json:"purpose,omitempty"`
	Wheels  []string      `json:"wheels,omitempty"`
	// WaterPercent is a target water content in place of the share of old fluid.
	WaterPercent *float64 `json:"water_percent,omitempty"`
	// FeedBottle stands on the reservoir; Routine asks for the modulator's: the pedal stayed soft.
	FeedBottle bool `json:"feed_bottle,omitempty"`
	Routine    bool `json:"routine,omitempty"`
}

// headUsualMM is the reservoir above the bleeders on most vehicles, mm. Assumption.
const headUsualMM = 450

// Bottle is the fluid in hand.
type Bottle struct {
	Class        string   `json:"class"`
	OpenedAt     string   `json:"opened_at"`
	WaterPercent *float64 `json:"water_percent"`
}

// DefaultChoices are where a job starts; each figure is an assumption the technician can change.
func DefaultChoices(s *system.System) Choices {
	c := Choices{
		Scope: match.CylinderOnly,
		Joint: &JointSetup{},
		Bench: BenchSetup{Port: bench.Top, StrokeMM: 25, PortMM: 10},
		Bleed: BleedSetup{
			Order:        bleed.Longest,
			Given:        []string{},
			StrokeMM:     15,
			DriveKPA:     70,
			HeadMM:       headUsualMM,
			TemperatureC: 20,
			OldFraction:  0.1,
		},
	}
	if s != nil {
		c.Scope = match.Resolve(s, c.Scope)
		c.Bottle.Class = s.Fluid.Class
		c.Bleed.TemperatureC = s.Ambient.TemperatureC
		switch {
		case s.Assist().ToolLed:
			c.Bleed.Order = bleed.ToolLed
		case s.IsTrailer():
			c.Bleed.Order = bleed.FarthestAxle
		}
		least := s.MasterCylinder.Primary.StrokeMM
		if sec := s.MasterCylinder.Secondary; sec != nil {
			least = min(least, sec.StrokeMM)
			if diagonal(s) && c.Bleed.Order == bleed.Longest {
				c.Bleed.Order = bleed.ByCircuit
			}
		}
		// Not the last part of the bore: an old cylinder is unworn and rough there.
		c.Bleed.StrokeMM = float64(int(0.8 * least))
		// A full push takes both pistons to their ends.
		c.Bench.StrokeMM = s.MasterCylinder.Primary.StrokeMM
		if sec := s.MasterCylinder.Secondary; sec != nil {
			c.Bench.StrokeMM += sec.StrokeMM
		}
		c.Bench.StrokeMM = min(100, c.Bench.StrokeMM)
	}
	return c
}

// diagonal says whether a circuit reaches both axles.
func diagonal(s *system.System) bool {
	for _, c := range s.Circuits {
		ends := map[byte]bool{}
		for _, w := range c.Wheels {
			ends[w[len(w)-1]] = true
		}
		if len(s.Circuits) == 2 && ends['F'] && ends['R'] {
			return true
		}
	}
	return false
}

// Rod is a pushrod measurement.
type Rod struct {
	PocketMM     float64 `json:"pocket_mm"`
	GasketMM     float64 `json:"gasket_mm"`
	ProtrusionMM float64 `json:"protrusion_mm"`
	PitchMM      float64 `json:"pitch_mm"`
	TargetMM     float64 `json:"target_mm"`
	UnderVacuum  bool    `json:"under_vacuum"`
}

// Tools are those of testing and of bleeding.
var Tools = append(slices.Clone(diagnose.Tools), bleed.Tools...)

// tools is nil where the shop's tools were not stated.
func (j *Job) tools() []string {
	if j.Intake.Tools == nil {
		return nil
	}
	return append([]string{}, *j.Intake.Tools...)
}

// testTools are those the diagnosis knows.
func (j *Job) testTools() []string {
	t := j.tools()
	if t == nil {
		return nil
	}
	return slices.DeleteFunc(t, func(id string) bool { return !slices.Contains(diagnose.Tools, id) })
}

// Case is the job as a case for the diagnosis: what was found before the repair. What Verify reads
// afterwards is of another vehicle, the repaired one, and is kept apart. A finding that does not
// belong to the system as it now stands (the pattern was changed after it was entered) is left out.
func (j *Job) Case() *diagnose.Case {
	c, _ := j.caseAndLeftOut()
	return c
}

func (j *Job) caseAndLeftOut() (*diagnose.Case, []string) {
	found := j.State.findings(PhaseDiagnose)
	c := &diagnose.Case{
		Format:     diagnose.CaseFormat,
		Pattern:    j.Intake.Pattern,
		System:     j.Intake.System,
		Tools:      j.testTools(),
		Hands:      j.Intake.Hands,
		Experience: j.Experience,
	}
	if j.Intake.KeepLinesClosed {
		c.DoNot = []string{"open_hydraulics"}
	}
	leftOut := []string{}
	for _, id := range sortedKeys(found) {
		f := found[id]
		if diagnose.CheckFinding(j.Intake.System, f) != nil {
			leftOut = append(leftOut, id)
			continue
		}
		for _, was := range j.State.Findings[PhaseDiagnose][id].Earlier {
			if diagnose.CheckFinding(j.Intake.System, was) == nil {
				was.Again = f.Again
				c.Findings = append(c.Findings, was)
				f.Again = true
			}
		}
		c.Findings = append(c.Findings, f)
	}
	return c, leftOut
}
