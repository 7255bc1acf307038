package match

import (
	"math"

	"geminate/brake/photo"
	"geminate/brake/units"
)

// PhotoField is a figure of a unit that a picture may tell: distances that lie in one plane, seen in the direction of
// the bolts. Never a bore, a thread, a rod or a pocket.
type PhotoField string

// Fields.
const (
	PhotoStuds    PhotoField = "stud_spacing_mm"
	PhotoFirewall PhotoField = "firewall_spacing_mm"
	PhotoShell    PhotoField = "shell_mm"
)

// PhotoFields lists them.
var PhotoFields = []PhotoField{PhotoStuds, PhotoFirewall, PhotoShell}

// PhotoWanted is how such a figure is had of a picture.
type PhotoWanted struct {
	Field PhotoField `json:"field"`
	Kind  photo.Kind `json:"kind"`
	// Points are tapped for it, of each of its circles as many.
	Points  int `json:"points"`
	Circles int `json:"circles"`
}

// PhotoVocabulary is what a photo is measured from.
type PhotoVocabulary struct {
	Wanted     []PhotoWanted     `json:"wanted"`
	References []photo.Reference `json:"references"`
	Planes     []photo.Plane     `json:"planes"`
	// BarOf is the reference whose bar is measured beforehand.
	BarOf photo.Reference `json:"bar_of"`
	// MagnifierX is how much slower a point goes under the magnifier than the finger.
	MagnifierX float64 `json:"magnifier_x"`
}

func photoVocabulary() PhotoVocabulary {
	return PhotoVocabulary{photoWanted(), photo.References, photo.Planes, photo.Target, photo.MagnifierX}
}

// photoWanted are all of them: bolts by their holes or ends, a shell by its rim.
func photoWanted() []PhotoWanted {
	kinds := map[PhotoField]photo.Kind{PhotoStuds: photo.Centres, PhotoFirewall: photo.Centres, PhotoShell: photo.Circle}
	var out []PhotoWanted
	for _, f := range PhotoFields {
		out = append(out, PhotoWanted{f, kinds[f], kinds[f].Points(), kinds[f].Circles()})
	}
	return out
}

// PhotoHalfMM bounds half of such a figure's interval: a picture that tells less tells nothing.
var PhotoHalfMM = units.Bound{Min: 0.1, Max: 60}

// Figure is a unit's figure by its field, nil where it is not known.
func (u *Unit) Figure(f PhotoField) *float64 {
	switch {
	case f == PhotoStuds:
		return u.StudSpacingMM
	case u.Booster == nil:
		return nil
	case f == PhotoFirewall:
		return u.Booster.FirewallSpacingMM
	case f == PhotoShell:
		return u.Booster.ShellMM
	}
	return nil
}

// byPhoto says whether two figures that a picture told, one or both, can be told the same or apart within a tolerance:
// only where the whole interval of their difference lies on one side of it. The point says which calliper reading would
// tell; nil where it can be told or neither is by a picture.
func byPhoto(id string, f PhotoField, old, c Unit, toleranceMM float64) *Point {
	half := math.Hypot(old.ByPhoto[f], c.ByPhoto[f])
	o, n := old.Figure(f), c.Figure(f)
	if half == 0 || o == nil || n == nil {
		return nil
	}
	d := math.Abs(*o - *n)
	if d+half <= toleranceMM || d-half > toleranceMM {
		return nil
	}
	which := "old"
	if c.ByPhoto[f] > old.ByPhoto[f] {
		which = "new"
	}
	return &Point{ID: id, Verdict: Unknown, Code: "match.photo_" + which, With: map[string]any{"old_mm": *o, "new_mm": *n, "half_mm": half}}
}
