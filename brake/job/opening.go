package job

import "geminate/brake/system"

// New is what a job is opened with: whose vehicle it is, what was said of it, and the pattern its brakes are nearest to.
type New struct {
	Vehicle   string `json:"vehicle"`
	Plate     string `json:"plate"`
	Customer  string `json:"customer"`
	Complaint string `json:"complaint"`
	Pattern   string `json:"pattern"`
	Practice  bool   `json:"practice,omitempty"`
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
	return Intake{Customer: n.Customer, Complaint: n.Complaint, Vehicle: n.Vehicle, Plate: n.Plate, Pattern: n.Pattern, System: s, Hands: 1, Practice: n.Practice, Planned: n.Planned}, nil
}
