package diagnose

import (
	"encoding/json"
	"slices"
	"strings"
)

// codeKind reads what stored codes are about from their texts: the first kind found, pressure before
// offset before anything else.
func codeKind(codes []string) string {
	text := strings.ToLower(strings.Join(codes, " "))
	has := func(words ...string) bool {
		return slices.ContainsFunc(words, func(w string) bool { return strings.Contains(text, w) })
	}
	switch {
	case strings.TrimSpace(text) == "" || text == "none":
		return "none"
	case has("offset", "learn", "calibrat", "zero point", "initiali"):
		return "offset"
	case has("pressure", "accumulator", "pump", "booster", "power source"):
		return "pressure"
	}
	return "other"
}

// plain is a finding's value as one word: a choice by its name, a list without anything in it as
// "dry", the rest as it stands.
func plain(raw json.RawMessage) string {
	var text string
	if json.Unmarshal(raw, &text) == nil {
		return text
	}
	var list []string
	if json.Unmarshal(raw, &list) == nil {
		if len(list) == 0 {
			return "dry"
		}
		return strings.Join(list, ",")
	}
	var at map[string]string
	if json.Unmarshal(raw, &at) == nil && len(at) == 1 { // {"one_wheel": "LF"}
		for value := range at {
			if value == "one_wheel" || value == "one_circuit" {
				return value
			}
		}
	}
	return string(raw)
}

// Teardown is what a look into the old unit comes to: whether it can be rebuilt, and why.
type Teardown struct {
	Rebuildable string `json:"rebuildable"` // yes, no
	Why         string `json:"why"`         // by id: bore or rubber
	Value       string `json:"value"`       // what was seen
}

// TeardownOf judges the old unit from what was found, nil where it was not opened. Common practice, no
// source: a pitted or scratched bore is beyond a kit, a worn one with sound metal is not; swollen rubber
// condemns the cups, not the casting, but petroleum has been in every corner of it.
func TeardownOf(findings []Finding) *Teardown {
	seen := map[string]string{}
	for _, f := range findings {
		seen[f.ID] = plain(f.Value)
	}
	bore, opened := seen["teardown.bore"]
	switch {
	case !opened:
		return nil
	case bore == "corroded" || bore == "scratched":
		return &Teardown{"no", "bore", bore}
	case seen["rubber.swollen"] == "yes":
		return &Teardown{"no", "rubber", "yes"}
	}
	return &Teardown{"yes", "bore", bore}
}
