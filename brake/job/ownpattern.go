package job

import (
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"geminate/brake/pedal"
	"geminate/brake/system"
)

// OwnPattern is a shop's own pattern: the brakes of a vehicle it measured, under the name people give such vehicles. A
// job opened on it counts, as its vehicle did, to the pattern it was nearest to.
type OwnPattern struct {
	ID      string         `json:"id"`
	Name    string         `json:"name"`
	Pattern string         `json:"pattern"`
	System  *system.System `json:"system"`
	Job     string         `json:"job"` // the job it was kept from
	By      string         `json:"by"`
	At      time.Time      `json:"at"`
}

const (
	// OwnPatternMost is how many a shop may keep: they are handed out whole with what can be entered. Assumption.
	OwnPatternMost = 40
	ownNameMost    = 60 // runes
)

// AsPattern is this vehicle as a pattern: its figures as they were last corrected, with what was fitted. Its pedal is
// its own and not a pattern's: the elasticity goes back to what its pattern has.
func (j *Job) AsPattern(id, name string, at time.Time, by string) (OwnPattern, error) {
	name = strings.Join(strings.Fields(name), " ")
	if name == "" || utf8.RuneCountInString(name) > ownNameMost {
		return OwnPattern{}, fault("$.name", "fault.own_pattern_name", map[string]any{"most": ownNameMost})
	}
	s := j.Intake.System.Clone()
	if j.State.ReleasedAt != nil {
		s = j.Fitted().Clone()
	}
	if usual, err := system.FromPattern(j.Intake.Pattern); err == nil {
		pedal.Unknow(s, usual)
	}
	return OwnPattern{ID: id, Name: name, Pattern: j.Intake.Pattern, System: s, Job: j.ID, By: by, At: at}, nil
}

// KeepOwn puts one among the others: the same name (capitals apart) is replaced. Too many is a fault.
func KeepOwn(all []OwnPattern, p OwnPattern) ([]OwnPattern, error) {
	out := slices.DeleteFunc(slices.Clone(all), func(o OwnPattern) bool { return strings.EqualFold(o.Name, p.Name) })
	if len(out) >= OwnPatternMost {
		return nil, fault("$.name", "fault.own_pattern_most", map[string]any{"most": OwnPatternMost})
	}
	out = append(out, p)
	slices.SortFunc(out, func(a, b OwnPattern) int { return strings.Compare(strings.ToLower(a.Name), strings.ToLower(b.Name)) })
	return out, nil
}

// DropOwn gives them without one.
func DropOwn(all []OwnPattern, id string) []OwnPattern {
	return slices.DeleteFunc(slices.Clone(all), func(o OwnPattern) bool { return o.ID == id })
}
