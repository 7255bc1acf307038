package job

import (
	"geminate/brake/diagnose"
	"geminate/brake/system"
)

// Hardness is how hard a vehicle of free practice is.
type Hardness string

// How hard: one fault and no more; as vehicles come; or at least two that may hide one another.
const (
	Plain Hardness = "plain"
	Usual Hardness = "usual"
	Hard  Hardness = "hard"
)

// Hardnesses lists them.
var Hardnesses = []Hardness{Plain, Usual, Hard}

// New is what a job is opened with: whose vehicle it is, what was said of it, and the pattern its brakes are nearest
// to.
type New struct {
	Vehicle   string `json:"vehicle"`
	Plate     string `json:"plate"`
	Customer  string `json:"customer"`
	Complaint string `json:"complaint"`
	Pattern   string `json:"pattern"`
	Practice  bool   `json:"practice,omitempty"`
	// PracticeSeed draws the practice vehicle, of free practice begun where the server cannot be reached;
	// PracticeHardness is how hard it is.
	PracticeSeed     uint64   `json:"practice_seed,omitempty"`
	PracticeHardness Hardness `json:"practice_hardness,omitempty"`
	// System is what the vehicle begins with in place of the pattern's own: a shop's pattern.
	System *system.System `json:"system,omitempty"`
	Planned
}

// Intake is the intake it begins with; a pattern nobody knows is a fault.
func (n New) Intake() (Intake, error) {
	s, err := system.FromPattern(n.Pattern)
	if err != nil {
		return Intake{}, system.Faults{{Path: "$.pattern", Code: "fault.missing"}}
	}
	if n.System != nil {
		s = n.System
	}
	hands, tools := 1, (*[]string)(nil)
	if n.PracticeSeed != 0 { // the bay lacks nothing
		hands, tools = 2, &diagnose.Tools
	}
	return Intake{
		Tools:     tools,
		Customer:  n.Customer,
		Complaint: n.Complaint,
		Vehicle:   n.Vehicle,
		Plate:     n.Plate,
		Pattern:   n.Pattern,
		System:    s,
		Hands:     hands,
		Practice:  n.Practice || n.PracticeSeed != 0,
		Planned:   n.Planned,
	}, nil
}
