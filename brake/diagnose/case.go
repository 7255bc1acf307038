package diagnose

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"geminate/brake/pedal"
	core "geminate/brake/strict"
	"geminate/brake/system"
)

// CaseFormat is the "format" of a case file.
const CaseFormat = "geminate.case/1"

// Case is everything known about one vehicle.
type Case struct {
	Format   string          `json:"format"`
	Pattern  string          `json:"pattern,omitempty"`
	RawSys   json.RawMessage `json:"system,omitempty"` // wins over Pattern
	Findings []Finding       `json:"findings"`
	Tools    []string        `json:"tools,omitempty"` // nil: not stated, every tool is to hand
	Hands    int             `json:"hands,omitempty"`
	DoNot    []string        `json:"do_not,omitempty"`

	System *system.System `json:"-"`
	// Experience is this shop's own with this kind of vehicle, nil where it does not count.
	Experience *Experience `json:"-"`
	// After is what was done on the vehicle before these findings were made; nil where nothing was.
	After *Work `json:"-"`
}

// Work is what was done on a vehicle between two diagnoses: acts, at places (nil: wherever), on what was believed
// before.
type Work struct {
	Acts, At []string
	// Any: it was one of the acts or some of them; Told are the faults that what was told of it puts right.
	Any    bool
	Told   []string
	Before *Case
}

// Finding is one sign or reading. Sure is false for "I think so".
type Finding struct {
	ID    string          `json:"id"`
	Value json.RawMessage `json:"value"`
	Sure  *bool           `json:"sure,omitempty"`
	// Again: a reading taken once more, the same way; those before it count beside it.
	Again bool `json:"again,omitempty"`
}

func (f *Finding) isSure() bool { return f.Sure == nil || *f.Sure }

// Sink is a measured hold test.
type Sink struct {
	PedalForceN float64 `json:"pedal_force_n"`
	TravelMM    float64 `json:"travel_mm"`
	Seconds     float64 `json:"seconds"`
	Engine      string  `json:"engine"` // off, on
}

// Reading is one force and travel pair.
type Reading = pedal.Reading

// Gauge is a pressure read at a wheel or circuit.
type Gauge struct {
	At          string  `json:"at"`
	PedalForceN float64 `json:"pedal_force_n"`
	MPA         float64 `json:"mpa"`
	Engine      string  `json:"engine"`
}

// ReadCase reads a case strictly; on any fault all of them are returned and nothing else.
func ReadCase(r io.Reader) (*Case, error) {
	data, err := io.ReadAll(io.LimitReader(r, system.MaxBytes+1))
	if err != nil {
		return nil, fmt.Errorf("diagnose: reading: %w", err)
	}
	if len(data) > system.MaxBytes {
		return nil, system.Faults{{Path: "$", Code: "fault.too_large", With: map[string]any{"max_bytes": system.MaxBytes}}}
	}
	var c Case
	if err := core.Decode(data, &c); err != nil {
		return nil, err
	}
	return &c, c.Check()
}

// Check resolves the system and holds every finding against its kind of value.
func (c *Case) Check() error {
	var out system.Faults
	add := func(path, code string, with map[string]any) {
		out = append(out, system.Fault{Path: path, Code: code, With: with})
	}
	if c.Format != CaseFormat {
		add("$.format", "fault.enum", map[string]any{"value": c.Format, "allowed": CaseFormat})
	}
	c.resolve(&out)
	for i, t := range c.Tools {
		if !slices.Contains(Tools, t) {
			add(fmt.Sprintf("$.tools[%d]", i), "fault.enum", map[string]any{"value": t, "allowed": strings.Join(Tools, ", ")})
		}
	}
	for i, t := range c.DoNot {
		if t != "open_hydraulics" {
			add(fmt.Sprintf("$.do_not[%d]", i), "fault.enum", map[string]any{"value": t, "allowed": "open_hydraulics"})
		}
	}
	if c.Hands < 0 || c.Hands > 4 {
		add("$.hands", "fault.range", map[string]any{"value": c.Hands, "min": 1, "max": 4})
	}
	if c.System != nil {
		for i, f := range c.Findings {
			path := fmt.Sprintf("$.findings[%d]", i)
			if _, err := observe(c.System, f); err != nil {
				var ff system.Fault
				if errors.As(err, &ff) {
					add(path+strings.TrimPrefix(ff.Path, "$"), ff.Code, ff.With)
				} else {
					add(path+".value", "fault.finding", map[string]any{"id": f.ID, "detail": err.Error()})
				}
			}
		}
	}
	return out.Err()
}

func (c *Case) resolve(out *system.Faults) {
	if len(c.RawSys) > 0 && string(c.RawSys) != "null" {
		s, err := system.Parse(c.RawSys)
		var faults system.Faults
		if errors.As(err, &faults) {
			for _, f := range faults {
				f.Path = "$.system" + strings.TrimPrefix(f.Path, "$")
				*out = append(*out, f)
			}
		}
		c.System = s
		return
	}
	if c.System != nil {
		return
	}
	s, err := system.FromPattern(c.Pattern)
	if err != nil {
		var ids []string
		for _, p := range system.Patterns {
			ids = append(ids, p.ID)
		}
		*out = append(
			*out,
			system.Fault{
				Path: "$.pattern",
				Code: "fault.enum",
				With: map[string]any{"value": c.Pattern, "allowed": strings.Join(ids, ", ")},
			},
		)
		return
	}
	c.System = s
}

// CheckFinding says whether a finding's value can be used with a system; the error is a
// system.Fault with a path below the finding.
func CheckFinding(s *system.System, f Finding) error {
	_, err := observe(s, f)
	return err
}

func badValue(path, code string, with map[string]any) error {
	return system.Fault{Path: "$." + path, Code: code, With: with}
}
