package verify

import (
	"slices"
	"strings"
	"unicode"
)

// Person is an account of the shop.
type Person struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	// Trained: a technician or a lead, who may prove that no voltage is there.
	Trained bool `json:"trained,omitempty"`
}

// nobody are words that are no name, as letters tell.
var nobody = []string{
	"nobody",
	"noone",
	"none",
	"self",
	"myself",
	"somebody",
	"someone",
	"anybody",
	"nadie",
	"ninguno",
	"alguien",
	"yomismo",
	"test",
	"xxx",
	"abc",
	"unknown",
	"tbd",
	"same",
}

// nameLeast letters a name has at the least. Assumption.
const nameLeast = 3

// CanBeName says whether a word can be somebody's name.
func CanBeName(s string) bool {
	x := letters(s)
	same := len(x) > 0 && strings.Count(x, x[:1]) == len(x)
	return len([]rune(x)) >= nameLeast && !same && !slices.Contains(nobody, x)
}

// Trained says whether a name is that of somebody trained: of an account that is, where the shop's are known; else one
// that can be a name.
func Trained(people []Person, name string) bool {
	known := slices.ContainsFunc(people, func(p Person) bool { return p.Trained })
	if !known {
		return CanBeName(name)
	}
	return slices.ContainsFunc(people, func(p Person) bool { return p.Trained && letters(p.Name) == letters(name) })
}

// SameName says whether two names are one person's, as far as letters tell: the same but for case, dots and spaces, one
// a part of the other, an initial for a first name, a letter or two mistyped.
func SameName(a, b string) bool {
	x, y := letters(a), letters(b)
	if x == "" || y == "" {
		return false
	}
	if x == y || len(x) >= 3 && strings.Contains(y, x) || len(y) >= 3 && strings.Contains(x, y) {
		return true
	}
	if p, q := strings.Fields(strings.ToLower(a)), strings.Fields(strings.ToLower(b)); len(p) > 1 && len(q) > 1 &&
		p[len(p)-1] == q[len(q)-1] &&
		letters(p[0])[:1] == letters(q[0] + " ")[:1] {
		return true
	}
	return min(len(x), len(y)) >= 5 && edits(x, y) <= 2
}

func letters(s string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) {
			return unicode.ToLower(r)
		}
		return -1
	}, s)
}

// edits is how many letters have to be put in, taken out or changed to make one word of the other (Levenshtein).
func edits(a, b string) int {
	x, y := []rune(a), []rune(b)
	row := make([]int, len(y)+1)
	for j := range row {
		row[j] = j
	}
	for i := range x {
		diag := row[0]
		row[0] = i + 1
		for j := range y {
			cost := 1
			if x[i] == y[j] {
				cost = 0
			}
			diag, row[j+1] = row[j+1], min(row[j+1]+1, row[j]+1, diag+cost)
		}
	}
	return row[len(y)]
}

// second judges the second look: by somebody whose hands were not on the work, an account of the shop where it has more
// than one; where it has not, that the shop works alone is told.
func (in *Input) second() (State, string, map[string]any) {
	var v string
	if code, with, ok := in.evidence(secondLook, &v); !ok {
		return Missing, code, with
	}
	missing := func(code string) (State, string, map[string]any) { return Missing, code, nil }
	passed := func(name string) (State, string, map[string]any) {
		return OK, "gate.second_look.by", map[string]any{"name": name}
	}
	free := in.Free()
	switch {
	case v == "no":
		return Failed, "gate.failed", nil
	case v == "alone" && len(in.People) > 1:
		return missing("gate.second_look.somebody")
	case v == "alone":
		return OK, "gate.second_look.alone", nil
	}
	teller := in.ReadAt[secondLook].By
	if i := slices.IndexFunc(free, func(p Person) bool { return p.ID == teller }); i >= 0 {
		return passed(free[i].Name)
	}
	switch who := in.SecondBy; {
	case who == "":
		return missing("gate.second_look.who")
	case len(in.People) > 1:
		i := slices.IndexFunc(free, func(p Person) bool { return letters(p.Name) == letters(who) })
		if i < 0 {
			return missing("gate.second_look.somebody")
		}
		return passed(free[i].Name)
	case !CanBeName(who):
		return missing("gate.second_look.who")
	case in.worked(who):
		return missing("gate.second_look.self")
	default:
		return passed(who)
	}
}

// Free are the people of the shop who had no hands on the work; where everybody had, all but whoever tells it.
func (in *Input) Free() []Person {
	var out []Person
	for _, p := range in.People {
		if _, hands := in.Stand.Hands[p.ID]; !hands && !in.worked(p.Name) { // nor under another account
			out = append(out, p)
		}
	}
	if len(out) == 0 {
		teller := in.ReadAt[secondLook].By
		out = slices.DeleteFunc(slices.Clone(in.People), func(p Person) bool { return p.ID == teller })
	}
	return out
}

func (in *Input) worked(name string) bool {
	for _, n := range in.Stand.Hands {
		if SameName(n, name) {
			return true
		}
	}
	return false
}
