package job

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"geminate/brake/diagnose"
	"geminate/brake/match"
	"geminate/brake/system"
)

// MatchCase is a geminate.case/1 file for the matching: the case with the units beside it.
type MatchCase struct {
	Case       *diagnose.Case
	Old        *match.Unit
	OldBooster *match.Unit
	Candidates []match.Unit
	Scope      match.Scope
	Bottle     Bottle
	Chosen     string // id of the candidate the list of parts is made for; "" takes the best
}

// ReadMatchCase reads a case with old_unit, old_booster, candidates, scope, bottle and chosen besides. On
// any fault all of them are returned and nothing else.
func ReadMatchCase(r io.Reader) (*MatchCase, error) {
	data, err := io.ReadAll(io.LimitReader(r, 16*system.MaxBytes+1))
	if err != nil {
		return nil, fmt.Errorf("job: reading: %w", err)
	}
	if len(data) > 16*system.MaxBytes {
		return nil, system.Faults{{Path: "$", Code: "fault.too_large", With: map[string]any{"max_bytes": 16 * system.MaxBytes}}}
	}
	var doc map[string]json.RawMessage
	d := json.NewDecoder(bytes.NewReader(data))
	if err := d.Decode(&doc); err != nil {
		return nil, system.Faults{
			{
				Path: "$",
				Code: "fault.syntax",
				With: map[string]any{
					"line":   1 + bytes.Count(data[:min(int(d.InputOffset()), len(data))], []byte("\n")),
					"detail": err.Error(),
				},
			},
		}
	}
	c := &MatchCase{}
	var out system.Faults
	take := func(name string, into any) bool {
		raw, ok := doc[name]
		delete(doc, name)
		if !ok || string(raw) == "null" {
			return false
		}
		d := json.NewDecoder(bytes.NewReader(raw))
		d.DisallowUnknownFields()
		if err := d.Decode(into); err != nil {
			out = append(out, system.Fault{Path: "$." + name, Code: "fault.syntax", With: map[string]any{"line": 1, "detail": err.Error()}})
			return false
		}
		return true
	}
	units := func(path string, u *match.Unit) {
		for _, f := range match.CheckUnit(u) {
			out = append(out, system.Fault{Path: path + strings.TrimPrefix(f.Path, "$"), Code: f.Code, With: f.With})
		}
	}
	if take("old_unit", &c.Old) {
		units("$.old_unit", c.Old)
	}
	if take("old_booster", &c.OldBooster) {
		units("$.old_booster", c.OldBooster)
	}
	if take("candidates", &c.Candidates) {
		for i := range c.Candidates {
			units(fmt.Sprintf("$.candidates[%d]", i), &c.Candidates[i])
		}
	}
	take("scope", &c.Scope)
	take("bottle", &c.Bottle)
	take("chosen", &c.Chosen)
	if _, ok := doc["findings"]; !ok {
		doc["findings"] = json.RawMessage("[]")
	}
	rest, err := json.Marshal(doc)
	if err != nil {
		return nil, err
	}
	c.Case, err = diagnose.ReadCase(bytes.NewReader(rest))
	var faults system.Faults
	switch {
	case errors.As(err, &faults):
		out = append(out, faults...)
	case err != nil:
		return nil, err
	case c.Scope != "" && !slices.Contains(match.Scopes(c.Case.System), match.Resolve(c.Case.System, c.Scope)):
		out = append(
			out,
			system.Fault{
				Path: "$.scope",
				Code: "fault.enum",
				With: map[string]any{"value": c.Scope, "allowed": fmt.Sprint(match.Scopes(c.Case.System))},
			},
		)
	}
	if len(out) > 0 {
		return nil, out
	}
	return c, nil
}

// Match works the case out as the station does.
func (c *MatchCase) Match(ctx context.Context) (*MatchView, error) {
	s := c.Case.System
	j := Job{Intake: Intake{System: s}, Choices: DefaultChoices(s), State: newState()}
	now := time.Now().UTC()
	if c.Scope != "" {
		j.Choices.Scope = c.Scope
	}
	j.Choices.Old, j.Choices.OldBooster = c.Old, c.OldBooster
	if c.Old == nil {
		u := match.FromSystem(s)
		j.Choices.Old = &u
	}
	if c.Bottle.Class != "" {
		j.Choices.Bottle = c.Bottle
	}
	v, err := j.Match(ctx, c.Candidates, now)
	if err != nil {
		return nil, err
	}
	chosen := func(list []CandidateView) *match.Unit {
		best := -1
		for i := range list {
			if list[i].Unit.ID == c.Chosen {
				best = i
				break
			}
			if c.Chosen == "" && list[i].Verdict != match.DoesNotFit && (best < 0 || match.Graver(list[best].Verdict, list[i].Verdict)) {
				best = i
			}
		}
		if best < 0 {
			return nil
		}
		return &list[best].Unit
	}
	j.Choices.Unit, j.Choices.Booster = chosen(v.Candidates), chosen(v.Boosters)
	return j.Match(ctx, c.Candidates, now)
}
