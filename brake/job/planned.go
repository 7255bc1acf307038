package job

import (
	"encoding/json"
	"time"
	"unicode/utf8"

	"geminate/brake/system"
)

// Planned is what a job is put down for: the day it comes in, and what is to be at hand then. A job with neither is in
// the shop already.
type Planned struct {
	ForDay    string `json:"for_day,omitempty"`    // yyyy-mm-dd
	HaveReady string `json:"have_ready,omitempty"` // units, fluid, a tool, a second person
}

func (p *Planned) check() (out system.Faults) {
	if _, err := time.Parse(time.DateOnly, p.ForDay); err != nil && p.ForDay != "" {
		out = append(out, system.Fault{Path: "$.for_day", Code: "fault.date", With: map[string]any{"value": clip(p.ForDay)}})
	}
	if utf8.RuneCountInString(p.HaveReady) > longText {
		out = append(out, system.Fault{Path: "$.have_ready", Code: "fault.too_long", With: map[string]any{"max": longText}})
	}
	return out
}

// Waits says whether its day is still to come, seen from another.
func (p *Planned) Waits(today string) bool { return p.ForDay > today }

// CardOn is a kept card as it stands on a day (yyyy-mm-dd): a job put down for a later one waits for that, and moves
// into the bay by itself in the morning. What is parked or over stays where it is.
func CardOn(raw json.RawMessage, today string) (json.RawMessage, error) {
	var c Card
	if err := json.Unmarshal(raw, &c); err != nil {
		return raw, err
	}
	if !c.Waits(today) || c.Status.Standing != StandsOpen {
		return raw, nil
	}
	c.Status.Band = BandPlanned
	return json.Marshal(c)
}
