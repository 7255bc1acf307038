// Package words holds everything people read, one JSON file per language, keyed by vocabulary ids.
// The web app reads the same files.
package words

import (
	_ "embed"
	"encoding/json"
	"fmt"
	"math"
	"strconv"
	"strings"

	"geminate/brake/system"
)

//go:embed en.json
var en []byte

var table = func() map[string]string {
	m := map[string]string{}
	if err := json.Unmarshal(en, &m); err != nil {
		panic("words/en.json: " + err.Error())
	}
	return m
}()

// Has says whether there are words for a key.
func Has(key string) bool { _, ok := table[key]; return ok }

// T gives the words of a key with {name} filled in. A key without words shows itself, so that a gap
// is seen and not hidden.
func T(key string, with map[string]any) string {
	s, ok := table[key]
	if !ok {
		return key
	}
	for k, v := range with {
		list, isList := v.([]string)
		what, isText := v.(string)
		switch {
		case isList && k == "steps":
			v = stepNames(list)
		case isList && k == "bleed_steps":
			v = bleedStepNames(list)
		case isList && k == "findings":
			v = findingNames(list)
		case isText && k == "after":
			v = doneName(what)
		}
		s = strings.ReplaceAll(s, "{"+k+"}", show(v))
	}
	return s
}

// Times writes how many times likelier something is, as coarse as such a figure is known.
func Times(x float64) string {
	switch {
	case x >= 100:
		return T("ui.over_hundred", nil)
	case x >= 10:
		return strconv.FormatFloat(math.Round(x), 'f', -1, 64)
	}
	return strconv.FormatFloat(math.Round(x*10)/10, 'f', -1, 64)
}

// doneName is what was done, as people call it: a step of the plan or a kind of event.
func doneName(what string) string {
	if id, ok := strings.CutPrefix(what, "bleed."); ok {
		return bleedStepNames([]string{id})
	}
	for _, k := range []string{"step.", "event."} {
		if s, ok := table[k+what]; ok {
			return s
		}
	}
	return what
}

func findingNames(ids []string) string {
	out := make([]string, len(ids))
	for i, id := range ids {
		out[i] = T("finding."+id, nil)
	}
	return strings.Join(out, ", ")
}

// stepNames turns steps of the work plan into what people read of them.
func stepNames(ids []string) []string {
	out := make([]string, len(ids))
	for i, id := range ids {
		out[i] = T("step."+id, nil)
	}
	return out
}

func show(v any) string {
	switch x := v.(type) {
	case float64:
		return strconv.FormatFloat(math.Round(x*1000)/1000, 'f', -1, 64)
	case []string:
		return strings.Join(x, ", ")
	}
	return fmt.Sprint(v)
}

// Fault gives one fault of an input as people read it: where, and what to do.
func Fault(f system.Fault) string { return f.Path + ": " + T(f.Code, f.With) }

// bleedStepNames turns steps of the bleed into what people read of them.
func bleedStepNames(ids []string) string {
	out := make([]string, len(ids))
	for i, id := range ids {
		part := strings.Split(id, ".")
		switch {
		case part[0] != "wheel" || len(part) < 2:
			out[i] = T("bleed_step."+id, nil)
		case len(part) > 2:
			out[i] = T("bleed_step.wheel_again", map[string]any{"id": part[1]})
		default:
			out[i] = T("bleed_step.wheel", map[string]any{"id": part[1]})
		}
	}
	return strings.Join(out, "; ")
}
