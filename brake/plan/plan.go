// Package plan makes the ordered work plan of a replacement. The joint (pedal pin, rod, firewall, booster, plate,
// cylinder, ports, lines) is a grammar (joint.go): what this vehicle has of it (feature.go) and the schools chosen
// (school.go) give what comes off, in which order, and so what goes on again in the reverse, with new seals, the rod
// and the torques in. It speaks in ids; what people read is in the words files.
package plan

import (
	"fmt"
	"slices"

	"geminate/brake/match"
	"geminate/brake/stand"
	"geminate/brake/system"
)

// Phase groups steps in the order of the work.
type Phase string

// Phases.
const (
	Prepare  Phase = "prepare"
	MakeSafe Phase = "make_safe"
	Strip    Phase = "strip"
	SetRod   Phase = "set_rod"
	Fit      Phase = "fit"
	Close    Phase = "close"
)

// What a step is measured by, besides its torque.
const (
	MeasurePushrod = "pushrod"     // two depths and a gasket
	MeasureTouch   = "rod_touch"   // the play left after touch and turn
	MeasureCompare = "rod_compare" // lengths of the old rod and the new
	MeasureVolts   = "volts"       // what the meter reads
)

// Step is one thing to do and tick.
type Step struct {
	ID        string   `json:"id"`
	Phase     Phase    `json:"phase"`
	Gate      bool     `json:"gate"` // nothing later may be ticked before it
	Parts     []string `json:"parts"`
	Fasteners []string `json:"fasteners"`
	Tools     []string `json:"tools"`
	Cautions  []string `json:"cautions"`
	// Needs are the steps that must be done before it because they are in its way.
	Needs   []string `json:"needs"`
	Torque  *Torque  `json:"torque,omitempty"`
	Measure string   `json:"measure,omitempty"`
	// Wait is the clock that has to run out before it is done.
	Wait string `json:"wait,omitempty"`
	// SingleUse are parts of it that are never used again.
	SingleUse []string       `json:"single_use,omitempty"`
	Opens     bool           `json:"opens,omitempty"` // brake fluid comes out
	Own       string         `json:"own,omitempty"`   // a step of the technician's own: what it says
	With      map[string]any `json:"with,omitempty"`
	// Why is why it is asked on its own, a words key.
	Why string `json:"why,omitempty"`
}

// Plan is the whole job.
type Plan struct {
	Steps         []Step      `json:"steps"`
	Lines         []Line      `json:"lines"`
	NeedsBleeding bool        `json:"needs_bleeding"`
	NeedsBench    bool        `json:"needs_bench"`
	NoBleedingWhy string      `json:"no_bleeding_why,omitempty"` // words key
	Scope         match.Scope `json:"scope"`
	// Present is what this vehicle is taken to have; Asked whether a person has said so.
	Present []Feature         `json:"present"`
	Asked   bool              `json:"asked"`
	Schools map[School]string `json:"schools"`
	// PutOff: the bleed is left for later; the vehicle is parked, not to be driven.
	PutOff bool `json:"put_off"`
}

// OwnStep is a step of the technician's own, after another.
type OwnStep struct {
	ID    string `json:"id"` // own.1, own.2 …
	After string `json:"after"`
	Text  string `json:"text"`
	// Touches is what of the vehicle it touches; one that says nothing touches all.
	Touches Touches `json:"touches,omitempty"`
}

// Choices are what the technician decided before the plan.
type Choices struct {
	Scope   match.Scope
	Unit    *match.Unit // the chosen cylinder; nil while none is chosen
	Old     *match.Unit // the measured old one; its ports name the lines
	Present *[]Feature  // nil while nobody has looked: what is likely stands
	Schools map[School]string
	// Torques are the maker's own ranges by step; they win over common practice.
	Torques map[string]Torque
	Own     []OwnStep
	// Stands is the vehicle as it stands, nil where nobody has touched it; For the units the work is for. What is off
	// stays in the plan until it is back, whatever the scope says now; a unit that is on stays a unit to be fitted.
	Stands *stand.Account
	For    stand.Pair
	// RodKnownWrong: the rod was measured out of its limits; whatever school is chosen it is measured again.
	RodKnownWrong bool
}

// Make builds the plan.
func Make(s *system.System, c Choices) (*Plan, error) {
	c.Scope = match.Resolve(s, c.Scope)
	if !slices.Contains(match.Scopes(s), c.Scope) {
		return nil, fmt.Errorf("plan: scope %q is not one of %v for this system", c.Scope, match.Scopes(s))
	}
	m := newMaker(s, c)
	m.p.Present = Here(s, c.Unit, c.Present)
	for _, f := range m.p.Present {
		m.present[f] = true
	}
	for i := range Schools {
		if Schools[i].Asked(s, m.scope) {
			m.p.Schools[Schools[i].ID] = Schools[i].answer(c.Schools)
		}
	}
	if (m.present[ReservoirMoves] || m.present[PortFitting]) && m.p.Schools[BenchWhen] == BenchBefore {
		m.p.Schools[BenchWhen] = BenchAfter // what it is bled with is still on the old unit
	}
	if r := m.p.Schools[Rod]; c.RodKnownWrong && r != "" && r != RodTouch {
		m.p.Schools[Rod] = RodDepths
	}
	m.p.PutOff = m.p.Schools[BleedWhen] == BleedPutOff
	when := m.p.Schools[BenchWhen]
	m.p.NeedsBench = m.fitsCylinder() && (when == BenchBefore || when == BenchAfter)
	switch {
	case m.p.NeedsBleeding:
	case c.Scope == match.Elsewhere:
		m.p.NoBleedingWhy = "plan.no_bleeding.elsewhere"
	default:
		m.p.NoBleedingWhy = "plan.no_bleeding.cylinder_aside"
	}
	if m.opensHere() || m.touched(partLines) {
		m.p.Lines = LineMap(s, c.Old, c.Unit, m.fitsCylinder())
	}
	m.prepare()
	m.makeSafe()
	if m.c.Scope.OnlyElsewhere() {
		m.elsewhere()
	}
	off := m.strip()
	m.rod()
	m.fit(off)
	m.close()
	m.cover(off)
	m.needs()
	m.own()
	return m.p, nil
}

// Missing lists the steps that stand open before a step: the gates above it and what is in its way. A step with any
// may not be ticked.
func (p *Plan) Missing(stepID string, done map[string]bool) ([]string, error) {
	out := []string{}
	for _, st := range p.Steps {
		if st.ID == stepID {
			for _, n := range st.Needs {
				if !done[n] && !slices.Contains(out, n) {
					out = append(out, n)
				}
			}
			return out, nil
		}
		if st.Gate && !done[st.ID] {
			out = append(out, st.ID)
		}
	}
	return nil, fmt.Errorf("plan: no step %q in this plan", stepID)
}

// FallsWith lists the done steps that rest on a step: where it is taken back they have to be looked at again.
func (p *Plan) FallsWith(stepID string, done map[string]bool) []string {
	out := []string{}
	fallen := map[string]bool{stepID: true}
	gate, past := false, false
	for _, st := range p.Steps {
		if st.ID == stepID {
			gate, past = st.Gate, true
			continue
		}
		rests := slices.ContainsFunc(st.Needs, func(n string) bool { return fallen[n] })
		if past && done[st.ID] && (gate || rests) {
			fallen[st.ID] = true
			out = append(out, st.ID)
		}
	}
	return out
}

// Find gives a step, nil for none.
func (p *Plan) Find(id string) *Step {
	for i := range p.Steps {
		if p.Steps[i].ID == id {
			return &p.Steps[i]
		}
	}
	return nil
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
