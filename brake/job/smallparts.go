package job

import (
	"slices"
	"strings"

	"geminate/brake/stand"
)

// SmallPlaces and SmallParts are what is offered to tap; a part nobody foresaw is "other" with a word.
var (
	SmallPlaces = []string{stand.AtPedal, stand.AtStud, stand.AtOldUnit, stand.AtElse}
	SmallParts  = []string{
		"lamp_switch",
		"bent_clip",
		"spring_clip",
		"hairpin",
		"pin",
		"washer",
		"bushing",
		"rod_eye",
		"nut",
		"bracket",
		"plate",
		"gasket",
		"spring",
		"collar",
		"coupler",
		"clevis",
		"other",
	}
)

// SmallPart is one small part as it came off; the reverse of their order is the assembly.
type SmallPart struct {
	ID    string `json:"id"` // of the event that took it off
	Place string `json:"place"`
	Part  string `json:"part"`
	Note  string `json:"note,omitempty"`
	By    string `json:"by"`
	On    bool   `json:"on"`
	New   bool   `json:"new,omitempty"` // a new one went on in its place
}

// partsOff are the parts of a place that are not on again.
func (s *State) partsOff(place string) []SmallPart {
	var out []SmallPart
	for _, x := range s.Small {
		if x.Place == place && !x.On {
			out = append(out, x)
		}
	}
	return out
}

// PartOff is a small part that came off.
type PartOff struct {
	Place string `json:"place"`
	Part  string `json:"part"`
	Note  string `json:"note,omitempty"`
}

// Valid implements Body.
func (p *PartOff) Valid() error {
	for _, c := range []struct {
		path, v string
		of      []string
	}{{"place", p.Place, SmallPlaces}, {"part", p.Part, SmallParts}} {
		if !slices.Contains(c.of, c.v) {
			return fault("$.data."+c.path, "fault.enum", map[string]any{"value": clip(c.v), "allowed": strings.Join(c.of, ", ")})
		}
	}
	if p.Part == "other" && strings.TrimSpace(p.Note) == "" {
		return fault("$.data.note", "fault.missing", nil)
	}
	return text("$.data.note", p.Note, nameMost)
}

// Check implements Body.
func (p *PartOff) Check(*Job) error { return nil }

// Apply implements Body.
func (p *PartOff) Apply(j *Job, e *Event) {
	j.State.Small = append(slices.Clone(j.State.Small), SmallPart{ID: e.ID, Place: p.Place, Part: p.Part, Note: p.Note, By: e.By.Name})
	j.opensPlace(p.Place, e)
}

// PartOn is a small part back on.
type PartOn struct {
	Of string `json:"of"`
	// New: a new one in its place, the old one was not fit to go on again.
	New bool `json:"new,omitempty"`
}

// Valid implements Body.
func (p *PartOn) Valid() error { return (&Undone{Of: p.Of}).Valid() }

// Check implements Body: at one place the last that came off goes on first.
func (p *PartOn) Check(j *Job) error {
	at := slices.IndexFunc(j.State.Small, func(x SmallPart) bool { return x.ID == p.Of })
	if at < 0 {
		return fault("$.data.of", "fault.no_such_event", map[string]any{"value": clip(p.Of)})
	}
	if off := j.State.partsOff(j.State.Small[at].Place); !j.State.Small[at].On && off[len(off)-1].ID != p.Of {
		return fault("$.data.of", "fault.part_first", map[string]any{"part": off[len(off)-1].Part})
	}
	return nil
}

// Apply implements Body.
func (p *PartOn) Apply(j *Job, e *Event) {
	j.State.Small = slices.Clone(j.State.Small)
	for i := range j.State.Small {
		if j.State.Small[i].ID == p.Of {
			j.State.Small[i].On, j.State.Small[i].New = true, p.New
		}
	}
	j.worked(e, string(e.Kind), stand.SmallParts)
}

// PartMoved says that a small part came off before the one that was tapped before it: the order is put right.
type PartMoved struct {
	Of string `json:"of"`
}

// Valid implements Body.
func (p *PartMoved) Valid() error { return (&Undone{Of: p.Of}).Valid() }

// before is where the part lies and where the one before it at its place.
func (p *PartMoved) before(j *Job) (at, before int) {
	at, before = slices.IndexFunc(j.State.Small, func(x SmallPart) bool { return x.ID == p.Of }), -1
	for i := range max(0, at) {
		if j.State.Small[i].Place == j.State.Small[at].Place {
			before = i
		}
	}
	return at, before
}

// Check implements Body.
func (p *PartMoved) Check(j *Job) error {
	if at, before := p.before(j); at < 0 || before < 0 {
		return fault("$.data.of", "fault.no_such_event", map[string]any{"value": clip(p.Of)})
	}
	return nil
}

// Apply implements Body.
func (p *PartMoved) Apply(j *Job, _ *Event) {
	if at, before := p.before(j); at >= 0 && before >= 0 {
		j.State.Small = slices.Clone(j.State.Small)
		j.State.Small[at], j.State.Small[before] = j.State.Small[before], j.State.Small[at]
	}
}
