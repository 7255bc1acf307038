package job

import (
	"encoding/json"
	"reflect"
	"slices"
	"strings"
	"time"

	"geminate/brake/bleed"
)

// Edits of intake and choices: field by field, from the version they started from.

// ChangeIntake takes an edited intake that was begun when the intake stood at version. What others changed in
// the meantime is kept where the edit does not touch it; where it does, ErrStale names the fields.
func (j *Job) ChangeIntake(log Log, by Actor, now time.Time, eventID string, version int64, in Intake) ([]Event, error) {
	if err := j.editable(by, EditIntake); err != nil {
		return nil, err
	}
	in.Practice = j.Intake.Practice // what it was opened as it stays
	if in.PedalFrom == j.Intake.PedalFrom && !reflect.DeepEqual(in.System, j.Intake.System) {
		in.PedalFrom = "" // figures corrected by hand are the known pedal's no more
	}
	mine, err := merge(log, j.Intake, in, version, j.IntakeSeq, KindIntake)
	if err != nil {
		return nil, err
	}
	next, err := patched(j.Intake, mine)
	if err != nil {
		return nil, err
	}
	if err := CheckIntake(&next); err != nil {
		return nil, err
	}
	for _, c := range mine {
		if c.Path == "/pattern" || strings.HasPrefix(c.Path, "/system") {
			if err := j.must(by, ChangeSystem); err != nil {
				return nil, err
			}
			break
		}
	}
	out := []Event{j.fact(by, now, eventID, &IntakeChanged{Changes: mine})}
	if kept := adapted(j.Intake.System, j.Choices); CheckChoices(j.Intake.System, &j.Choices) != nil {
		// A different system may not allow the old choices: a trailer has no booster to replace.
		if dropped, err := differences(j.Choices, kept); err == nil && len(dropped) > 0 {
			out = append(out, j.fact(by, now, eventID+".c", &ChoicesChanged{Changes: dropped, Because: BecauseSystem}))
		}
	}
	j.freshen()
	return out, nil
}

// ChangeChoices takes edited choices in the same way.
func (j *Job) ChangeChoices(log Log, by Actor, now time.Time, eventID string, version int64, in Choices) ([]Event, error) {
	if err := j.editable(by, SetUp); err != nil {
		return nil, err
	}
	mine, err := merge(log, j.Choices, in, version, j.ChoicesSeq, KindChoices)
	if err != nil {
		return nil, err
	}
	for _, c := range mine {
		if err := j.must(by, choiceCommand(c)); err != nil {
			return nil, err
		}
	}
	next, err := patched(j.Choices, mine)
	if err != nil {
		return nil, err
	}
	if err := CheckChoices(j.Intake.System, &next); err != nil {
		return nil, err
	}
	// Told now, a way is one that can do something here; records from before are read all the same.
	if m := next.Bleed.Method; m != j.Choices.Bleed.Method && m != bleed.NoMethod {
		if why := bleed.Impossible(j.Intake.System, m); why != "" {
			return nil, fault("$.bleed.method", "fault.method_not_here", map[string]any{"why": why})
		}
	}
	out := []Event{j.fact(by, now, eventID, &ChoicesChanged{Changes: mine})}
	j.freshen()
	return out, nil
}

// choiceCommand is what it takes to change a part of the choices.
func choiceCommand(c Change) Command {
	part := strings.SplitN(strings.TrimPrefix(c.Path, "/"), "/", 2)[0]
	switch part {
	case "costs":
		return SetCosts
	case "joint":
		// What is there anyone may say; how it is done, and what the maker's figures are, is decided.
		var whole JointSetup
		decides := strings.HasPrefix(c.Path, "/joint/schools") || strings.HasPrefix(c.Path, "/joint/torques")
		if c.Path == "/joint" && json.Unmarshal(c.To, &whole) == nil {
			decides = len(whole.Schools)+len(whole.Torques) > 0
		}
		if decides {
			return Decide
		}
	case "scope", "unit", "booster", "bench_on_vehicle", "lines_loose":
		return Decide
	}
	return SetUp
}

func (j *Job) editable(by Actor, c Command) error {
	if err := j.must(by, c); err != nil {
		return err
	}
	if j.State.ReleasedAt != nil {
		return ErrReleased
	}
	if j.Head >= mostEvents {
		return fault("$.events", "fault.count", map[string]any{"value": j.Head, "min": 0, "max": mostEvents})
	}
	return nil
}

// merge gives the changes of an edit that was begun at a version, against the document as it stands.
func merge[T any](log Log, now, edited T, version, current int64, kind Kind) ([]Change, error) {
	base := now
	var theirs []Change
	if version < current {
		since, err := log.Since(version, kind)
		if err != nil {
			return nil, err
		}
		for _, e := range since {
			switch b := e.Body.(type) {
			case *IntakeChanged:
				theirs = append(theirs, b.Changes...)
			case *ChoicesChanged:
				theirs = append(theirs, b.Changes...)
			}
		}
		if base, err = patched(now, reversed(theirs)); err != nil {
			return nil, err
		}
	} else if version > current {
		return nil, ErrStale{}
	}
	mine, err := differences(base, edited)
	if err != nil {
		return nil, err
	}
	if bad := clashes(mine, theirs); len(bad) > 0 {
		return nil, stale(now, mine, bad)
	}
	if len(mine) == 0 {
		return nil, ErrNothing
	}
	return mine, nil
}

// stale puts two edits that clash together both ways, for the person to say which stands.
func stale[T any](now T, mine []Change, bad []Clash) error {
	out := ErrStale{Clashes: bad}
	if both, err := patched(now, mine); err == nil {
		out.WithMine = both
	}
	rest := slices.DeleteFunc(slices.Clone(mine), func(c Change) bool {
		return slices.ContainsFunc(bad, func(x Clash) bool { return x.Path == c.Path })
	})
	if both, err := patched(now, rest); err == nil {
		out.WithTheirs = both
	}
	return out
}
