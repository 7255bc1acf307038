// Package plan makes the ordered work plan of a replacement from the system and the choices made.
// It speaks in step ids; what people read is in the words files.
package plan

import (
	"fmt"
	"slices"

	"geminate/brake/match"
	"geminate/brake/system"
)

// Phase groups steps in the order of the work.
type Phase string

const (
	Prepare  Phase = "prepare"
	MakeSafe Phase = "make_safe"
	Strip    Phase = "strip"
	SetRod   Phase = "set_rod"
	Fit      Phase = "fit"
	Close    Phase = "close"
)

// Step is one thing to do and tick.
type Step struct {
	ID       string         `json:"id"`
	Phase    Phase          `json:"phase"`
	Gate     bool           `json:"gate"` // nothing later may be ticked before it
	Tools    []string       `json:"tools"`
	Cautions []string       `json:"cautions"`
	Torque   *Torque        `json:"torque,omitempty"`
	Measure  string         `json:"measure,omitempty"` // pushrod: two depths and a gasket
	With     map[string]any `json:"with,omitempty"`
}

// Torque is the range a joint takes, N·m. The maker's figure comes first; these stand where none is
// given.
type Torque struct {
	LowNM  float64 `json:"low_nm"`
	HighNM float64 `json:"high_nm"`
}

// Torques are common practice, no source: cylinder to booster 160–300 in·lbf by maker, booster to
// firewall about 21 ft·lbf, bleeders about 8 ft·lbf; line nuts and coupler bolts: assumption.
var Torques = map[string]Torque{
	"fit.cylinder_nuts":    {18, 34},
	"fit.firewall_nuts":    {22, 34},
	"fit.line_nuts":        {13, 20},
	"fit.actuator_bolts":   {40, 70},
	"fit.pressure_lines":   {20, 34},
	"close.bleeder_screws": {8, 13},
}

// Line is one line and the port it comes from.
type Line struct {
	Circuit  string   `json:"circuit"`
	Position string   `json:"position"` // front, rear
	Thread   string   `json:"thread"`
	Wheels   []string `json:"wheels"`
	Tag      int      `json:"tag"` // number on the tape
}

// Plan is the whole job.
type Plan struct {
	Steps         []Step      `json:"steps"`
	Lines         []Line      `json:"lines"`
	NeedsBleeding bool        `json:"needs_bleeding"`
	NeedsBench    bool        `json:"needs_bench"`
	NoBleedingWhy string      `json:"no_bleeding_why,omitempty"` // words key
	Scope         match.Scope `json:"scope"`
}

// Choices are what the technician decided before the plan.
type Choices struct {
	Scope match.Scope
	Unit  *match.Unit // the chosen cylinder; nil while none is chosen
	Old   *match.Unit // the measured old one; its ports name the lines
	// BenchOnVehicle says that the new cylinder is bled on the vehicle instead of in the vice.
	BenchOnVehicle bool
	// LinesLoose is the school that leaves the first line nut loose until the second is started.
	LinesLoose bool
}

// Make builds the plan.
func Make(s *system.System, c Choices) (*Plan, error) {
	if !slices.Contains(match.Scopes(s), c.Scope) {
		return nil, fmt.Errorf("plan: scope %q is not one of %v for this system", c.Scope, match.Scopes(s))
	}
	p := &Plan{Scope: c.Scope, NeedsBleeding: c.Scope.OpensHydraulics(), NeedsBench: c.Scope.FitsCylinder() && !c.BenchOnVehicle, Lines: lines(s, c.Old)}
	if !p.NeedsBleeding {
		p.NoBleedingWhy = "plan.no_bleeding.cylinder_aside"
		if c.Scope == match.Elsewhere {
			p.NoBleedingWhy = "plan.no_bleeding.elsewhere"
		}
		p.Lines = []Line{}
	}
	if c.Scope == match.BleedOnly || c.Scope.OnlyElsewhere() {
		p.Lines = []Line{}
	}
	b := builder{p: p, s: s, c: c}
	b.prepare()
	b.makeSafe()
	switch {
	case c.Scope == match.BleedOnly:
	case c.Scope.OnlyElsewhere():
		b.add(Step{ID: "elsewhere.repaired", Phase: Fit, Gate: true})
	case s.IsTrailer():
		b.trailer()
	default:
		b.strip()
		b.rod()
		b.fit()
	}
	b.close()
	return p, nil
}

type builder struct {
	p *Plan
	s *system.System
	c Choices
}

func (b *builder) add(st Step) {
	if st.Tools == nil {
		st.Tools = []string{}
	}
	if st.Cautions == nil {
		st.Cautions = []string{}
	}
	if t, ok := Torques[st.ID]; ok {
		st.Torque = &t
	}
	b.p.Steps = append(b.p.Steps, st)
}

func (b *builder) opens() bool { return b.c.Scope.OpensHydraulics() }

// apart is the caution of lines that carry steering fluid; an electro-hydraulic booster has none.
func (b *builder) apart() []string {
	if b.s.BoosterKind() == system.BoosterHydraulic {
		return []string{"steering_fluid_apart"}
	}
	return nil
}

// work says whether anything is taken off, or the job is a bleed alone.
func (b *builder) work() bool {
	return b.c.Scope != match.BleedOnly && !b.c.Scope.OnlyElsewhere()
}

func (b *builder) prepare() {
	b.add(Step{ID: "prepare.chock", Phase: Prepare, Gate: true, Tools: []string{"wheel_chocks"}, Cautions: []string{"stands_not_jacks"}})
	b.add(Step{ID: "prepare.cover_paint", Phase: Prepare, Tools: []string{"rags_pan_water", "gloves_glasses"}, Cautions: []string{"fluid_eyes_skin_paint"}})
	if b.opens() && b.work() {
		b.add(Step{ID: "prepare.tag_lines", Phase: Prepare, Tools: []string{"tape_marker"}, With: map[string]any{"count": len(b.p.Lines)}})
		b.add(Step{ID: "prepare.penetrant", Phase: Prepare, Tools: []string{"penetrant"}})
	}
	if b.c.Scope.FitsCylinder() {
		b.add(Step{ID: "prepare.compare_on_bench", Phase: Prepare, Gate: true})
	}
}

func (b *builder) makeSafe() {
	if !b.work() {
		return
	}
	switch b.s.BoosterKind() {
	case system.BoosterVacuum:
		b.add(Step{ID: "safe.engine_off", Phase: MakeSafe, Gate: true})
		b.add(Step{ID: "safe.pump_empty", Phase: MakeSafe, Gate: true, Cautions: []string{"stored_vacuum"}})
	case system.BoosterHydraulic:
		b.add(Step{ID: "safe.engine_off", Phase: MakeSafe, Gate: true})
		b.add(Step{ID: "safe.discharge_accumulator", Phase: MakeSafe, Gate: true, Cautions: []string{"stored_pressure"}})
	case system.BoosterElectroHydraulic:
		b.add(Step{ID: "safe.scan_tool_release", Phase: MakeSafe, Gate: true, Tools: []string{"scan_tool"}, Cautions: []string{"stored_pressure"}})
		b.add(Step{ID: "safe.isolate_high_voltage", Phase: MakeSafe, Gate: true, Tools: []string{"insulating_gloves", "voltmeter"}, Cautions: []string{"high_voltage"}})
	}
	if b.s.IsTrailer() {
		b.add(Step{ID: "safe.uncouple", Phase: MakeSafe, Gate: true, Cautions: []string{"trailer_may_roll"}})
	}
	if b.opens() {
		b.add(Step{ID: "safe.empty_reservoir", Phase: MakeSafe, Tools: []string{"syringe"}, Cautions: []string{"fluid_waste"}})
	}
}

func (b *builder) strip() {
	if b.c.Scope.FitsCylinder() || b.opens() {
		b.add(Step{ID: "strip.sensor_plug", Phase: Strip})
		b.lineSteps()
	}
	if b.c.Scope == match.BoosterAside {
		b.add(Step{ID: "strip.cylinder_aside", Phase: Strip, Tools: []string{"extension_swivel", "tie_wire"}, Cautions: []string{"lines_must_flex"}})
	} else {
		b.add(Step{ID: "strip.cylinder_off", Phase: Strip, Tools: []string{"extension_swivel"}})
	}
	if b.c.Scope.FitsBooster() {
		switch b.s.BoosterKind() {
		case system.BoosterVacuum:
			b.add(Step{ID: "strip.vacuum_hose", Phase: Strip})
		default:
			b.add(Step{ID: "strip.pressure_lines", Phase: Strip, Tools: []string{"flare_nut_wrench"}, Cautions: b.apart()})
		}
		b.add(Step{ID: "strip.pedal_end", Phase: Strip, Cautions: []string{"order_of_small_parts"}})
		b.add(Step{ID: "strip.firewall_nuts", Phase: Strip, Tools: []string{"extension_swivel"}})
	}
}

func (b *builder) lineSteps() {
	b.add(Step{ID: "strip.lines_off", Phase: Strip, Tools: []string{"flare_nut_wrench", "second_wrench"}, Cautions: []string{"line_must_not_twist"}, With: map[string]any{"count": len(b.p.Lines)}})
	b.add(Step{ID: "strip.plug_lines", Phase: Strip, Tools: []string{"port_caps"}})
}

func (b *builder) rod() {
	b.add(Step{ID: "rod.measure", Phase: SetRod, Gate: true, Tools: []string{"depth_gauge"}, Measure: "pushrod"})
	b.add(Step{ID: "rod.coupler_moved", Phase: SetRod})
}

func (b *builder) fit() {
	if b.c.Scope.FitsBooster() {
		b.add(Step{ID: "fit.firewall_nuts", Phase: Fit, Tools: []string{"torque_wrench"}})
		b.add(Step{ID: "fit.pedal_end", Phase: Fit})
		if b.s.BoosterKind() == system.BoosterVacuum {
			b.add(Step{ID: "fit.check_valve_hose", Phase: Fit})
		} else {
			b.add(Step{ID: "fit.pressure_lines", Phase: Fit, Tools: []string{"torque_wrench"}, Cautions: b.apart()})
		}
	}
	if b.p.NeedsBench {
		b.add(Step{ID: "fit.bench_bled", Phase: Fit})
	}
	b.add(Step{ID: "fit.face_seal", Phase: Fit})
	if b.opens() {
		if b.c.LinesLoose {
			b.add(Step{ID: "fit.start_nuts_loose", Phase: Fit, Cautions: []string{"no_cross_threading"}})
		} else {
			b.add(Step{ID: "fit.start_nuts_snug", Phase: Fit, Cautions: []string{"no_cross_threading"}})
		}
	}
	b.add(Step{ID: "fit.cylinder_nuts", Phase: Fit, Tools: []string{"torque_wrench"}, Cautions: []string{"inch_pounds"}})
	if b.opens() {
		b.add(Step{ID: "fit.line_nuts", Phase: Fit, Tools: []string{"flare_nut_wrench", "torque_wrench"}})
		b.add(Step{ID: "fit.sensor_plug", Phase: Fit})
	}
}

func (b *builder) trailer() {
	b.add(Step{ID: "strip.shoe_and_rod", Phase: Strip})
	b.lineSteps()
	b.add(Step{ID: "strip.actuator_bolts", Phase: Strip})
	b.add(Step{ID: "rod.actuator_free", Phase: SetRod, Gate: true})
	if b.p.NeedsBench {
		b.add(Step{ID: "fit.bench_bled", Phase: Fit})
	}
	b.add(Step{ID: "fit.actuator_bolts", Phase: Fit, Tools: []string{"torque_wrench"}})
	b.add(Step{ID: "fit.line_nuts", Phase: Fit, Tools: []string{"flare_nut_wrench", "torque_wrench"}})
}

func (b *builder) close() {
	if b.opens() {
		b.add(Step{ID: "close.fill", Phase: Close, With: map[string]any{"class": b.s.Fluid.Class}, Cautions: []string{"fluid_class"}})
		b.add(Step{ID: "close.bleeder_screws", Phase: Close, Tools: []string{"torque_wrench"}})
		b.add(Step{ID: "close.wash", Phase: Close, Cautions: []string{"fluid_waste"}})
	} else {
		b.add(Step{ID: "close.level_unchanged", Phase: Close})
	}
	if b.s.BoosterKind() == system.BoosterHydraulic && b.c.Scope.FitsBooster() {
		b.add(Step{ID: "close.steering_bleed", Phase: Close, Cautions: []string{"steering_fluid_apart"}})
	}
}

// lines maps ports to circuits and wheels. The old unit's measured ports say which is which; where
// nothing was measured the chambers do, primary at the rear (booster end) as tandem units are built.
func lines(s *system.System, old *match.Unit) []Line {
	out := []Line{}
	add := func(position, circuit, thread string) {
		c := s.Circuit(circuit)
		if c == nil {
			return
		}
		out = append(out, Line{Circuit: circuit, Position: position, Thread: thread, Wheels: c.Wheels, Tag: len(out) + 1})
	}
	if old != nil {
		for _, p := range old.Ports {
			add(p.Position, p.Circuit, p.Thread)
		}
	}
	if len(out) == 0 {
		if sec := s.MasterCylinder.Secondary; sec != nil {
			add("front", sec.Circuit, "")
		}
		add("rear", s.MasterCylinder.Primary.Circuit, "")
	}
	return out
}

// Missing lists the gates that stand open before a step; a step with any may not be ticked.
func (p *Plan) Missing(stepID string, done map[string]bool) ([]string, error) {
	out := []string{}
	for _, st := range p.Steps {
		if st.ID == stepID {
			return out, nil
		}
		if st.Gate && !done[st.ID] {
			out = append(out, st.ID)
		}
	}
	return nil, fmt.Errorf("plan: no step %q in this plan", stepID)
}

// Next returns the first step not done, or "" when all are.
func (p *Plan) Next(done map[string]bool) string {
	for _, st := range p.Steps {
		if !done[st.ID] {
			return st.ID
		}
	}
	return ""
}
