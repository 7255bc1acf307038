package trial

import (
	"encoding/json"
	"slices"
	"strings"
	"time"

	"geminate/brake/diagnose"
)

// Outcome is one vehicle worked on in one way.
type Outcome struct {
	Judgement diagnose.Judgement
	Minutes   float64
	Tests     int
	// OnTheWay: the quick tests of a settled case have been done.
	OnTheWay bool
	// Opened: a test opened the hydraulics.
	Opened bool
	// Lead is the leading fault's probability and whether it was there; engine only.
	Lead      float64
	LeadTrue  bool
	Healthy   float64 // the probability given to nothing being wrong
	Faults    []Belief
	Decisions []time.Duration
	Action    diagnose.ActionCost
	// Beyond is how likely the engine took it that nothing it knows is what is wrong.
	Beyond diagnose.Beyond
}

// Belief is a probability the engine ended with, and what was so.
type Belief struct {
	P    float64
	True bool
}

const mostTests = 25

func (v *Vehicle) newCase() *diagnose.Case {
	return &diagnose.Case{
		Format:     diagnose.CaseFormat,
		Pattern:    v.Pattern,
		System:     v.System,
		Findings:   append([]diagnose.Finding{}, v.reports...),
		Tools:      v.Tools,
		Hands:      v.Hands,
		Experience: v.shop,
	}
}

// do carries a test out: its findings go into the case.
func (v *Vehicle) do(c *diagnose.Case, t *diagnose.Test) {
	done := map[string]bool{}
	for _, f := range c.Findings {
		done[f.ID] = true
	}
	wet := v.list("wet.at", diagnose.Places, "dry")[0] != "dry"
	for _, id := range t.Yields {
		if list := diagnose.ListOf(id); list == "wet.at" { // looked at one place or at all: told with where was looked
			if places := wetPlaces(t); !done["places "+t.ID] {
				done["places "+t.ID] = true
				c.Findings = append(c.Findings, v.wetFinding(places), Told("looked.at", places))
			}
			continue
		} else if list != "" {
			id = list
		}
		again := id == "pedal.sink" && t.ID == "hold" // a reading is taken a second time where it is asked for
		if done[id] && !again || (id == "wet.fluid" && !wet) || (id == "pedal.sinks" && t.ID == "hold") {
			continue
		}
		f := v.finding(id)
		f.Again = done[id]
		done[id] = true
		c.Findings = append(c.Findings, f)
	}
}

// wetPlaces are the places a test looks at.
func wetPlaces(t *diagnose.Test) (out []string) {
	for _, id := range t.Yields {
		if place, ok := strings.CutPrefix(id, "wet.at:"); ok {
			out = append(out, place)
		}
	}
	return out
}

func (v *Vehicle) wetFinding(places []string) diagnose.Finding {
	wet := []string{}
	for _, p := range places {
		if v.shows["wet.at:"+p] == "yes" {
			wet = append(wet, p)
		}
	}
	return Told("wet.at", wet)
}

// Told is a finding of this value.
func Told(id string, value any) diagnose.Finding {
	raw, err := json.Marshal(value)
	if err != nil {
		panic(err) // plain values
	}
	return diagnose.Finding{ID: id, Value: raw}
}

func (v *Vehicle) isTrue(f *diagnose.Ranked) bool {
	for _, t := range v.Truth {
		if t.ID == f.ID && t.At == f.At {
			return true
		}
	}
	return false
}

// close judges an action and takes down what the engine believed.
func (v *Vehicle) close(o *Outcome, r *diagnose.Result, costs diagnose.Costs) {
	a := diagnose.ActionCost{
		ID:               r.Action.Best,
		Also:             r.Action.Also,
		ModulatorRoutine: r.Action.ModulatorRoutine,
		ReplaceRubber:    r.Action.ReplaceRubber,
	}
	o.Action = a
	for _, f := range r.Unexplained { // what is measured is put right with the rest
		if f.Act != "" && !slices.Contains(o.Action.Inner(), f.Act) {
			o.Action.Also = append(slices.Clone(o.Action.Also), f.Act)
		}
	}
	o.Judgement = diagnose.Judge(v.System, costs, v.Truth, a)
	o.Healthy, o.Beyond = r.Healthy, r.Beyond
	o.Lead, o.LeadTrue = r.Healthy, len(v.Truth) == 0
	for i := range r.Faults {
		f := &r.Faults[i]
		o.Faults = append(o.Faults, Belief{f.Probability, v.isTrue(f)})
		if i == 0 && f.Probability > r.Healthy {
			o.Lead, o.LeadTrue = f.Probability, v.isTrue(f)
		}
	}
}

// Engine lets the engine choose the tests and the action.
func (v *Vehicle) Engine(costs diagnose.Costs) (Outcome, error) {
	return v.engineOn(v.newCase(), costs)
}

func (v *Vehicle) engineOn(c *diagnose.Case, costs diagnose.Costs) (Outcome, error) {
	var o Outcome
	for {
		start := time.Now()
		r, err := diagnose.Run(c, costs)
		if err != nil {
			return o, err
		}
		o.Decisions = append(o.Decisions, time.Since(start))
		next := []string{r.TestFirst}
		if r.TestFirst == "" { // settled: what is quick and on the way is looked at before anything is taken apart, once
			if next = r.OnTheWay; o.OnTheWay {
				next = nil
			}
			o.OnTheWay = true
		}
		if len(next) == 0 || o.Tests >= mostTests {
			v.close(&o, r, costs)
			return o, nil
		}
		for _, id := range next {
			t := diagnose.TestOf(id)
			v.do(c, t)
			o.Tests++
			o.Minutes += t.Minutes
			o.Opened = o.Opened || t.OpensHydraulics
		}
	}
}

// fixedOrder is the order as commonly worked: look, hold, pump, assist, isolate.
var fixedOrder = []string{
	"look",
	"actuator_push",
	"hold",
	"pump",
	"assist_start",
	"steering_check",
	"isolation.plug_ports",
	"bleeder_pressure",
}

func (v *Vehicle) can(t *diagnose.Test) bool {
	if t.Applies != nil && !t.Applies(v.System) || t.Hands > v.Hands {
		return false
	}
	for _, n := range t.Needs {
		if !strings.Contains(" "+strings.Join(v.Tools, " ")+" ", " "+n+" ") {
			return false
		}
	}
	return true
}

// Judge says who reads the tests of the fixed order.
type Judge int

const (
	RulesOfThumb   Judge = iota // the trade's, stopping when the first of them fires
	EngineJudges                // the engine, stopping when it is settled
	EngineAtTheEnd              // the engine, once everything has been done
)

// FixedOrder works the tests in the common order.
func (v *Vehicle) FixedOrder(costs diagnose.Costs, by Judge) (Outcome, error) {
	return v.orderOn(v.newCase(), costs, by)
}

func (v *Vehicle) orderOn(c *diagnose.Case, costs diagnose.Costs, by Judge) (Outcome, error) {
	var o Outcome
	for _, id := range fixedOrder {
		t := diagnose.TestOf(id)
		if !v.can(t) {
			continue
		}
		v.do(c, t)
		o.Tests++
		o.Minutes += t.Minutes
		o.Opened = o.Opened || t.OpensHydraulics
		switch by {
		case EngineAtTheEnd:
			continue
		case EngineJudges:
			r, err := diagnose.Run(c, costs)
			if err != nil {
				return o, err
			}
			if r.Action.Settled {
				v.close(&o, r, costs)
				return o, nil
			}
			continue
		}
		if a := thumb(c, id); a != "" {
			o.Action = diagnose.ActionCost{ID: a}
			o.Judgement = diagnose.Judge(v.System, costs, v.Truth, o.Action)
			return o, nil
		}
	}
	if by != RulesOfThumb {
		r, err := diagnose.Run(c, costs)
		if err != nil {
			return o, err
		}
		v.close(&o, r, costs)
		return o, nil
	}
	o.Action = diagnose.ActionCost{ID: bySign(c)}
	o.Judgement = diagnose.Judge(v.System, costs, v.Truth, o.Action)
	return o, nil
}

func has(c *diagnose.Case, id string, any ...string) bool {
	for _, f := range c.Findings {
		if f.ID != id {
			continue
		}
		for _, a := range any {
			if strings.Contains(string(f.Value), `"`+a+`"`) {
				return true
			}
		}
	}
	return false
}

// thumb is the rule of thumb after each test of the common order, "" where none fires. Common practice,
// no source.
func thumb(c *diagnose.Case, after string) string {
	switch after {
	case "look":
		switch {
		case has(c, "wet.at", "line_joint"):
			return "repair_line"
		case has(c, "wet.at", "wheel"):
			return "repair_wheel"
		case has(c, "wet.at", "cabin_floor", "booster_housing"):
			return "replace_booster"
		case has(c, "wet.at", "inside_booster"):
			return "replace_both"
		case has(c, "wet.at", "behind_cylinder", "under_reservoir"):
			return "replace_master_cylinder"
		}
	case "actuator_push":
		if has(c, "actuator.rod_moves", "no") {
			return "replace_master_cylinder"
		}
	case "hold":
		if sank(c) {
			return "replace_master_cylinder"
		}
	case "pump":
		if has(c, "pedal.pumps_up", "stays") || has(c, "pedal.springy", "yes") {
			return "bleed"
		}
	case "assist_start":
		if has(c, "assist.pedal_falls_on_start", "no") {
			return "replace_booster"
		}
	case "steering_check":
		if has(c, "steering.heavy", "yes") || has(c, "steering.foam", "yes") {
			return "repair_supply"
		}
	case "isolation.plug_ports":
		if has(c, "ports_plugged.pedal", "sinks") {
			return "replace_master_cylinder"
		}
	}
	return ""
}

// bySign is the part the most common sign names. Common practice, no source.
func bySign(c *diagnose.Case) string {
	switch {
	case has(c, "pedal.sinks", "slow", "fast"), has(c, "pedal.to_floor", "sometimes", "yes"), has(c, "level.falls", "slowly", "fast"):
		return "replace_master_cylinder"
	case has(c, "pedal.hard", "always", "first_applies"), has(c, "sound.rush_of_air", "always", "cold_only"):
		return "replace_booster"
	case has(c, "pedal.springy", "yes"), has(c, "pedal.low", "yes"):
		return "bleed"
	case has(c, "brakes.drag", "one_wheel"), has(c, "brakes.weak", "one_wheel"):
		return "repair_wheel"
	case has(c, "brakes.weak", "one_circuit"):
		return "replace_master_cylinder"
	case has(c, "brakes.weak", "all"):
		return "replace_booster"
	case has(c, "steering.groan", "yes"), has(c, "steering.heavy", "yes"):
		return "repair_supply"
	case has(c, "brakes.drag", "all", "all_when_hot"), has(c, "pedal.dead_first_travel", "yes"):
		return "set_rod"
	case has(c, "pedal.soft_when_hot", "yes"):
		return "change_fluid"
	}
	return "nothing"
}

// CommonSign fits the part the complaint names, with no test at all.
func (v *Vehicle) CommonSign(costs diagnose.Costs) Outcome {
	a := diagnose.ActionCost{ID: bySign(v.newCase())}
	return Outcome{Action: a, Judgement: diagnose.Judge(v.System, costs, v.Truth, a)}
}

// sank says whether a hold test found a sink that no accuracy explains.
func sank(c *diagnose.Case) bool {
	for _, f := range c.Findings {
		var s diagnose.Sink
		if f.ID == "pedal.sink" && json.Unmarshal(f.Value, &s) == nil && s.TravelMM >= 4 {
			return true
		}
	}
	return false
}
