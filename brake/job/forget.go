package job

import "encoding/json"

// Forget takes a customer's name and words out of an event: the name, the complaint, what they say was done before. It
// tells whether there was anything to take out. What was measured, done and released stays as it was.
func Forget(e *Event) bool {
	switch b := e.Body.(type) {
	case *Opened:
		b.Intake.Customer, b.Intake.Complaint, b.Intake.DoneBefore = "", forgotten(b.Intake.Complaint), ""
		return true
	case *IntakeChanged:
		changed := false
		for i := range b.Changes {
			switch b.Changes[i].Path {
			case "/customer", "/done_before":
				b.Changes[i].From, b.Changes[i].To, changed = json.RawMessage(`""`), json.RawMessage(`""`), true
			case "/complaint":
				b.Changes[i].From, b.Changes[i].To, changed = json.RawMessage(`"-"`), json.RawMessage(`"-"`), true
			}
		}
		return changed
	}
	return false
}

// forgotten keeps that there was a complaint: a job without one waits for it.
func forgotten(complaint string) string {
	if complaint == "" {
		return ""
	}
	return "-"
}
