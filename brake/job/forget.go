package job

import (
	"encoding/json"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"
)

// Names are what a customer is called in a job's log: the whole of what was entered, and the last word of it, by which
// people are spoken of. Short words are none: they are in others.
func Names(events []Event) []string {
	var out []string
	add := func(name string) {
		name = strings.Join(strings.Fields(name), " ")
		words := strings.Fields(name)
		for _, n := range append([]string{name}, words[max(0, len(words)-1):]...) {
			if utf8.RuneCountInString(n) >= shortestName && !slices.Contains(out, n) {
				out = append(out, n)
			}
		}
	}
	for i := range events {
		switch b := events[i].Body.(type) {
		case *Opened:
			add(b.Intake.Customer)
		case *IntakeChanged:
			for _, c := range b.Changes {
				for _, raw := range []json.RawMessage{c.From, c.To} {
					var name string
					if c.Path == "/customer" && json.Unmarshal(raw, &name) == nil {
						add(name)
					}
				}
			}
		}
	}
	return out
}

// shortestName is how many letters a name has at least to be looked for in what people wrote. Assumption.
const shortestName = 4

// Forget takes a customer out of an event: the name, the complaint, what they say was done before, and the name
// wherever hands wrote it; photos lose their picture. It tells whether there was anything to take out. What was
// measured, done and released stays as it was.
func Forget(e *Event, names []string) bool {
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
	case *Noted:
		return unname(&b.Text, names)
	case *Photographed: // what it shows nobody can read: it goes whole, and that there was one stays
		changed := unname(&b.Note, names)
		if b.Gone {
			return changed
		}
		kept, _ := b.Apart()
		*b = *kept
		b.Gone = true
		return true
	case *Reopened:
		return unname(&b.Reason, names)
	}
	return false
}

// unname puts a dash for every name in a text, capitals apart, as a word of its own.
func unname(text *string, names []string) bool {
	was := *text
	for _, n := range names {
		*text = regexp.MustCompile(`(?i)(^|[^\p{L}])`+regexp.QuoteMeta(n)+`($|[^\p{L}])`).ReplaceAllString(*text, "${1}–${2}")
	}
	return *text != was
}

// forgotten keeps that there was a complaint: a job without one waits for it.
func forgotten(complaint string) string {
	if complaint == "" {
		return ""
	}
	return "-"
}
