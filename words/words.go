// Package words holds everything people read, one JSON file per language, keyed by vocabulary ids.
// The web app reads the same files.
package words

import (
	"embed"
	"encoding/json"
	"fmt"
	"maps"
	"math"
	"regexp"
	"strconv"
	"strings"
	"time"

	"geminate/brake/system"
)

//go:embed *.json
var files embed.FS

// row is a language: its words are in the file of its id.
type row struct {
	ID   string `json:"id"`
	Name string `json:"name"` // its own
	// Of is the language it is a way of speaking of: its file then says only what it says otherwise.
	Of     string     `json:"of,omitempty"`
	Comma  bool       `json:"comma"` // between whole and part of a figure
	Months [12]string `json:"months"`
}

// Book is the words of one language, and how it writes figures and days.
type Book struct {
	row
	table map[string]string
	// of is how the vehicle is spoken of (system.Spoken): a text that differs by it has a key of its own,
	// "key@trailer".
	of []string
}

// For is the same book speaking of a vehicle.
func (b *Book) For(s *system.System) *Book {
	out := *b
	out.of = s.Spoken()
	return &out
}

// find gives the text of a key, as it is of the vehicle spoken of.
func (b *Book) find(key string) (string, bool) {
	for _, v := range b.of {
		if s, ok := b.table[key+"@"+v]; ok {
			return s, true
		}
	}
	s, ok := b.table[key]
	return s, ok
}

func read(name string, into any) {
	raw, err := files.ReadFile(name)
	if err == nil {
		err = json.Unmarshal(raw, into)
	}
	if err != nil {
		panic("words/" + name + ": " + err.Error())
	}
}

// Languages people read Geminate in, by languages.json; the first is the one it was written in.
var Languages, books = func() (ids []string, out map[string]*Book) {
	var rows []row
	read("languages.json", &rows)
	out = map[string]*Book{}
	for _, r := range rows {
		b := &Book{row: r, table: map[string]string{}}
		if r.Of != "" {
			maps.Copy(b.table, out[r.Of].table)
		}
		read(r.ID+".json", &b.table) // over what is there
		ids, out[r.ID] = append(ids, r.ID), b
	}
	return ids, out
}()

// In gives the words of a language, English where it is not known.
func In(lang string) *Book {
	if b, ok := books[lang]; ok {
		return b
	}
	return books[Languages[0]]
}

// T gives English words of a key, for what is not told to a person of a language of their own.
func T(key string, with map[string]any) string { return In(Languages[0]).T(key, with) }

// Fault gives one fault of an input in English: where, and what to do.
func Fault(f system.Fault) string { return f.Path + ": " + T(f.Code, f.With) }

// Day writes a day so that no country reads it otherwise: 25 Nov 2026.
func (b *Book) Day(t time.Time) string {
	return strconv.Itoa(t.Day()) + " " + b.Months[t.Month()-1] + " " + strconv.Itoa(t.Year())
}

// DayOf is Day of a date as it is stored, yyyy-mm-dd; anything else is given back as it is.
func (b *Book) DayOf(stored string) string {
	t, err := time.Parse(time.DateOnly, stored)
	if err != nil {
		return stored
	}
	return b.Day(t)
}

// Moment writes a moment, with the zone it is told in.
func (b *Book) Moment(t time.Time) string { return b.Day(t) + t.Format(" 15:04 MST") }

// number writes a figure's point as the language has it.
func (b *Book) number(s string) string {
	if b.Comma {
		return strings.Replace(s, ".", ",", 1)
	}
	return s
}

// Number writes a bare figure with as many digits as it takes, three at the most.
func (b *Book) Number(x float64) string { return b.show(x) }

// Has says whether there are words for a key.
func (b *Book) Has(key string) bool { _, ok := b.table[key]; return ok }

// T gives the words of a key with {name} filled in. A key without words shows itself, so that a gap
// is seen and not hidden.
func (b *Book) T(key string, with map[string]any) string {
	s, ok := b.find(key)
	if one, has := b.table[key+"@one"]; has && isOne(with) {
		s, ok = one, true
	}
	if !ok {
		return key
	}
	for k, v := range with {
		list, isList := v.([]string)
		what, isText := v.(string)
		switch {
		case isList && k == "steps":
			v = b.stepNames(list)
		case isList && k == "bleed_steps":
			v = b.bleedStepNames(list)
		case isList && k == "findings":
			v = b.findingNames(list)
		case isList && k == "rubber_parts":
			v = b.rubberNames(list)
		case isText && k == "tool":
			v = b.T("tool."+what, nil)
		case isText && k == "after":
			v = b.doneName(what)
		case isText && (k == "old" || k == "new" || k == "value") && b.Has("spec."+what):
			v = b.T("spec."+what, nil)
		}
		s = strings.ReplaceAll(s, "{"+k+"}", b.show(v))
	}
	return s
}

// rubberNames are rubber parts by name, a wheel's with its wheel.
func (b *Book) rubberNames(parts []string) []string {
	out := make([]string, len(parts))
	for i, p := range parts {
		kind, wheel, _ := strings.Cut(p, ":")
		out[i] = b.T("rubber."+kind, map[string]any{"id": wheel})
	}
	return out
}

// isOne says whether a text counts one of a thing, which is said otherwise than many ("key@one").
func isOne(with map[string]any) bool {
	n, counted := with["n"]
	if !counted {
		n = with["count"]
	}
	return n != nil && fmt.Sprint(n) == "1"
}

// Times writes how many times likelier something is, as coarse as such a figure is known.
func (b *Book) Times(x float64) string {
	switch {
	case x >= 100:
		return b.T("ui.over_hundred", nil)
	case x >= 10:
		return strconv.FormatFloat(math.Round(x), 'f', -1, 64)
	}
	return b.number(strconv.FormatFloat(math.Round(x*10)/10, 'f', -1, 64))
}

// doneName is what was done, as people call it: a step of the plan or a kind of event.
func (b *Book) doneName(what string) string {
	if id, ok := strings.CutPrefix(what, "bleed."); ok {
		return b.bleedStepNames([]string{id})
	}
	for _, k := range []string{"step.", "event."} {
		if s, ok := b.table[k+what]; ok {
			return s
		}
	}
	return what
}

func (b *Book) findingNames(ids []string) string {
	out := make([]string, len(ids))
	for i, id := range ids {
		out[i] = b.T("finding."+id, nil)
	}
	return strings.Join(out, ", ")
}

// stepNames turns steps of the work plan into what people read of them.
func (b *Book) stepNames(ids []string) []string {
	out := make([]string, len(ids))
	for i, id := range ids {
		out[i] = b.T("step."+id, nil)
	}
	return out
}

func (b *Book) show(v any) string {
	switch x := v.(type) {
	case string:
		return b.Wheels(x)
	case float64:
		return b.number(strconv.FormatFloat(math.Round(x*1000)/1000, 'f', -1, 64))
	case []string:
		return b.Wheels(strings.Join(x, ", "))
	}
	return fmt.Sprint(v)
}

var wheelID = regexp.MustCompile(`\b[LR][FR]\b`)

// Wheels puts what people call a wheel in place of its id, wherever one stands alone in a text.
func (b *Book) Wheels(text string) string {
	return wheelID.ReplaceAllStringFunc(text, func(id string) string { return b.T("wheel_name."+id, nil) })
}

// bleedStepNames turns steps of the bleed into what people read of them.
func (b *Book) bleedStepNames(ids []string) string {
	out := make([]string, len(ids))
	for i, id := range ids {
		part := strings.Split(id, ".")
		switch {
		case part[0] != "wheel" || len(part) < 2:
			out[i] = b.T("bleed_step."+id, nil)
		case len(part) > 2:
			out[i] = b.T("bleed_step.wheel_again", map[string]any{"id": part[1]})
		default:
			out[i] = b.T("bleed_step.wheel", map[string]any{"id": part[1]})
		}
	}
	return strings.Join(out, "; ")
}
