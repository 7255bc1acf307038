// Package job is one brake job: what was stated, what was chosen, and the events (readings, ticks,
// strokes) that happened, folded into where the job stands. It composes the other core packages
// into what each station shows.
package job

import (
	"encoding/json"
	"maps"
	"time"

	"geminate/brake/bench"
	"geminate/brake/bleed"
	"geminate/brake/diagnose"
	"geminate/brake/match"
	"geminate/brake/system"
)

// Format is the open job format this package reads and writes.
const Format = "geminate.job/1"

// Job is everything about one job; the exported file holds just this.
type Job struct {
	Format    string    `json:"format"`
	ID        string    `json:"id"`
	CreatedAt time.Time `json:"created_at"`
	Intake    Intake    `json:"intake"`
	Choices   Choices   `json:"choices"`
	Events    []Event   `json:"events"`
}

// Intake is the complaint, the vehicle and its system.
type Intake struct {
	Customer      string         `json:"customer"`
	Complaint     string         `json:"complaint"`
	Vehicle       string         `json:"vehicle"`
	Plate         string         `json:"plate"`
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
	BenchOnVehicle bool         `json:"bench_on_vehicle"`
	LinesLoose     bool         `json:"lines_loose"`
	Bench          BenchSetup   `json:"bench"`
	Bleed          BleedSetup   `json:"bleed"`
	Bottle         Bottle       `json:"bottle"`
	Costs          *ShopFigures `json:"costs,omitempty"`
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
}

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
		Bench: BenchSetup{Port: bench.Top, StrokeMM: 25, PortMM: 10},
		Bleed: BleedSetup{Method: bleed.Pedal, Order: bleed.Longest, Given: []string{}, StrokeMM: 15, DriveKPA: 70, HeadMM: 450, TemperatureC: 20, OldFraction: 0.1},
	}
	if s != nil {
		c.Bottle.Class = s.Fluid.Class
		c.Bleed.TemperatureC = s.Ambient.TemperatureC
		least := s.MasterCylinder.Primary.StrokeMM
		if sec := s.MasterCylinder.Secondary; sec != nil {
			least = min(least, sec.StrokeMM)
			if diagonal(s) {
				c.Bleed.Order = bleed.ByCircuit
			}
		}
		// Not the last part of the bore: an old cylinder is unworn and rough there.
		c.Bleed.StrokeMM = float64(int(0.8 * least))
		c.Bench.StrokeMM = min(25, float64(int(least)))
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

// Event kinds.
const (
	KindFinding     = "finding"
	KindTick        = "tick"
	KindBenchStroke = "bench_stroke"
	KindBleedStroke = "bleed_stroke"
	KindBleedVolume = "bleed_volume"
	KindRefill      = "refill"
	KindWheelClear  = "wheel_clear"
	KindNote        = "note"
	KindUndo        = "undo"
	KindReleased    = "released" // written by the server after the gate passed
	KindReopened    = "reopened"
)

// Phases a finding can belong to.
const (
	PhaseDiagnose = "diagnose"
	PhaseVerify   = "verify"
)

// Event is one thing that happened, appended once under an id its client made.
type Event struct {
	ID   string    `json:"id"`
	Kind string    `json:"kind"`
	At   time.Time `json:"at"`
	By   string    `json:"by"`
	Data Data      `json:"data"`
}

// Data is what an event carries; which fields are used depends on the kind.
type Data struct {
	Phase     string          `json:"phase,omitempty"`
	Finding   string          `json:"finding,omitempty"`
	Value     json.RawMessage `json:"value,omitempty"` // absent: the finding is withdrawn
	Sure      *bool           `json:"sure,omitempty"`
	Step      string          `json:"step,omitempty"`
	Done      *bool           `json:"done,omitempty"`
	TorqueNM  *float64        `json:"torque_nm,omitempty"`
	Rod       *Rod            `json:"rod,omitempty"`
	Wheel     string          `json:"wheel,omitempty"`
	Strokes   int             `json:"strokes,omitempty"`
	VolumeCM3 float64         `json:"volume_cm3,omitempty"`
	Of        string          `json:"of,omitempty"`
	Text      string          `json:"text,omitempty"`
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

// Tick is a plan step done.
type Tick struct {
	At       time.Time `json:"at"`
	By       string    `json:"by"`
	TorqueNM *float64  `json:"torque_nm,omitempty"`
	Rod      *Rod      `json:"rod,omitempty"`
	EventID  string    `json:"event_id"`
}

// State is a job's events folded.
type State struct {
	Findings     map[string]map[string]diagnose.Finding `json:"findings"` // by phase, by id
	Ticks        map[string]Tick                        `json:"ticks"`
	BenchStrokes int                                    `json:"bench_strokes"`
	BleedStrokes map[string]int                         `json:"bleed_strokes"`
	BleedCM3     map[string]float64                     `json:"bleed_cm3"` // by the methods without strokes
	Clear        map[string]bool                        `json:"clear"`
	Refills      int                                    `json:"refills"`
	Notes        []string                               `json:"notes"`
	ReleasedAt   *time.Time                             `json:"released_at"`
	ReleasedBy   string                                 `json:"released_by"`
	// LastStroke is what undo would take back at the counting stations.
	LastStroke map[string]string `json:"last_stroke"` // by kind, event id
	// Fluid is the order in which fluid left and came: for the reservoir's level.
	fluid []fluidMove
}

type fluidMove struct {
	wheel   string
	strokes int
	cm3     float64
	refill  bool
}

// Fold replays a job's events. Undone events are passed over; an undo can itself be undone.
func (j *Job) Fold() State {
	s := State{Findings: map[string]map[string]diagnose.Finding{PhaseDiagnose: {}, PhaseVerify: {}}, Ticks: map[string]Tick{},
		BleedStrokes: map[string]int{}, BleedCM3: map[string]float64{}, Clear: map[string]bool{}, Notes: []string{}, LastStroke: map[string]string{}}
	undone := map[string]bool{}
	for i := len(j.Events) - 1; i >= 0; i-- {
		if e := j.Events[i]; e.Kind == KindUndo && !undone[e.ID] {
			undone[e.Data.Of] = true
		}
	}
	for _, e := range j.Events {
		if !undone[e.ID] {
			s.apply(e)
		}
	}
	return s
}

func (s *State) apply(e Event) {
	d := e.Data
	switch e.Kind {
	case KindFinding:
		if s.Findings[d.Phase] == nil {
			return
		}
		if len(d.Value) == 0 || string(d.Value) == "null" {
			delete(s.Findings[d.Phase], d.Finding)
			return
		}
		s.Findings[d.Phase][d.Finding] = diagnose.Finding{ID: d.Finding, Value: d.Value, Sure: d.Sure}
	case KindTick:
		if d.Done != nil && !*d.Done {
			delete(s.Ticks, d.Step)
			return
		}
		s.Ticks[d.Step] = Tick{At: e.At, By: e.By, TorqueNM: d.TorqueNM, Rod: d.Rod, EventID: e.ID}
	case KindBenchStroke:
		s.BenchStrokes += max(1, d.Strokes)
		s.LastStroke[e.Kind] = e.ID
	case KindBleedStroke:
		n := max(1, d.Strokes)
		s.BleedStrokes[d.Wheel] += n
		s.fluid = append(s.fluid, fluidMove{wheel: d.Wheel, strokes: n})
		s.LastStroke["bleed"] = e.ID
	case KindBleedVolume:
		s.BleedCM3[d.Wheel] += d.VolumeCM3
		s.fluid = append(s.fluid, fluidMove{wheel: d.Wheel, cm3: d.VolumeCM3})
		s.LastStroke["bleed"] = e.ID
	case KindRefill:
		s.Refills++
		s.fluid = append(s.fluid, fluidMove{refill: true})
		s.LastStroke["bleed"] = e.ID
	case KindWheelClear:
		s.Clear[d.Wheel] = d.Done == nil || *d.Done
		s.LastStroke["bleed"] = e.ID
	case KindNote:
		s.Notes = append(s.Notes, d.Text)
	case KindReleased:
		at := e.At
		s.ReleasedAt, s.ReleasedBy = &at, e.By
	case KindReopened:
		s.ReleasedAt, s.ReleasedBy = nil, ""
	}
}

// Done is the set of ticked steps.
func (s *State) Done() map[string]bool {
	out := map[string]bool{}
	for id := range s.Ticks {
		out[id] = true
	}
	return out
}

// tools is nil where the shop's tools were not stated.
func (j *Job) tools() []string {
	if j.Intake.Tools == nil {
		return nil
	}
	return append([]string{}, *j.Intake.Tools...)
}

// Case is the job as a case for the diagnosis: what was found before the repair. What Verify reads
// afterwards is of another vehicle, the repaired one, and is kept apart. A finding that does not
// belong to the system as it now stands (the pattern was changed after it was entered) is left out.
func (j *Job) Case() *diagnose.Case {
	c, _ := j.caseAndLeftOut()
	return c
}

func (j *Job) caseAndLeftOut() (*diagnose.Case, []string) {
	st := j.Fold()
	c := &diagnose.Case{Format: diagnose.CaseFormat, Pattern: j.Intake.Pattern, System: j.Intake.System, Tools: j.tools(), Hands: j.Intake.Hands}
	if j.Intake.KeepLinesClosed {
		c.DoNot = []string{"open_hydraulics"}
	}
	leftOut := []string{}
	for _, id := range sortedKeys(st.Findings[PhaseDiagnose]) {
		f := st.Findings[PhaseDiagnose][id]
		if diagnose.CheckFinding(j.Intake.System, f) != nil {
			leftOut = append(leftOut, id)
			continue
		}
		c.Findings = append(c.Findings, f)
	}
	return c, leftOut
}
