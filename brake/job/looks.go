package job

import (
	"encoding/json"
	"slices"

	"geminate/brake/diagnose"
	"geminate/brake/match"
	"geminate/brake/verify"
)

// Looks are worth their time before this vehicle is let go, and what was read of them.
type Looks struct {
	// Worth are those still worth it, in the order they are best done; what the gate requires is not among them.
	Worth []diagnose.Look `json:"worth"`
	// Read are the findings told at Verify beside the gate's own, by id.
	Read []string `json:"read"`
}

type covered struct {
	Item, Test string
	Says       map[string]string
}

// required are the gate's own items that a look is told by: what asks for the item asks for no look of its own. Says is
// what the item comes to as a finding of the diagnosis where it passes.
var required = []covered{
	{"check.hoses_firm", "hose_watch", map[string]string{"hose.swells": `"no"`}},
	{"check.wheels_free", "wheels", map[string]string{"brakes.drag": `"no"`}},
	{"check.dry_joints", "wipe_and_press", map[string]string{"leak.seen": `"none"`}},
	{"check.walking_stops", "drive", map[string]string{"brakes.weak": `"no"`}},
	{"check.free_play", "free_play", nil},
	{"check.lamps_out", "scan", nil}, // a lamp that is out has no code of the kind that matters here
	{"check.coupler_holds", "actuator_push", map[string]string{"actuator.holds": `"yes"`, "actuator.rod_moves": `"yes"`}},
	{"pedal.sink", "hold", nil},
	{"pedal.readings", "force_travel", nil},
	{verify.Pump, "pump", nil},
	{"assist.pedal_falls_on_start", "assist_start", nil},
	{"assist.reserve_applies", "reserve", nil},
	{"check.complaint_gone", "pedal_feel", nil},
}

// looks are what is worth a look once the work is done, and not before, as the diagnosis left it and Verify has read it
// since.
func (j *Job) looks(g *verify.Gate) Looks {
	out := Looks{Worth: []diagnose.Look{}, Read: []string{}}
	own := verify.Rows()
	for _, id := range sortedKeys(j.State.Findings[PhaseVerify]) {
		if !slices.ContainsFunc(own, func(r verify.Row) bool { return r.ID == id }) &&
			slices.ContainsFunc(diagnose.Kinds(), func(k diagnose.Kind) bool { return k.ID == id }) {
			out.Read = append(out.Read, id)
		}
	}
	working := slices.ContainsFunc(g.Items, func(i verify.Item) bool {
		return i.Where == verify.AtWork && i.State != verify.OK && i.ID != "time" && i.ID != "contradicts"
	})
	c, _ := j.caseAndLeftOut()
	if working || len(c.Findings) == 0 || j.State.ReleasedAt != nil || c.System.IsClutch() {
		return out
	}
	costs := j.Costs()
	var asked []string
	for _, r := range required {
		if slices.ContainsFunc(g.Items, func(i verify.Item) bool { return i.ID == r.Item }) {
			asked = append(asked, r.Test)
		}
	}
	worth, err := diagnose.Wider(c, match.ActsOf(j.scope()), nil, j.readSince(c, g), &costs, asked...)
	if err == nil {
		out.Worth = worth
	}
	return out
}

// readSince is what Verify has read, as findings of the diagnosis: its own readings and what the gate's items that
// passed say.
func (j *Job) readSince(c *diagnose.Case, g *verify.Gate) []diagnose.Finding {
	var out []diagnose.Finding
	add := func(f diagnose.Finding) {
		if diagnose.CheckFinding(c.System, f) == nil && !slices.ContainsFunc(out, func(o diagnose.Finding) bool { return o.ID == f.ID }) {
			out = append(out, f)
		}
	}
	found := j.State.findings(PhaseVerify)
	for _, id := range sortedKeys(found) {
		if j.putsOnCylinder() && (id == "pedal.sink" || id == "pedal.readings") {
			continue // of another cylinder than the diagnosis reckons with: the gate has judged them
		}
		add(found[id])
	}
	for _, r := range required {
		if slices.ContainsFunc(g.Items, func(i verify.Item) bool { return i.ID == r.Item && i.State == verify.OK }) {
			for _, id := range sortedKeys(r.Says) {
				add(diagnose.Finding{ID: id, Value: json.RawMessage(r.Says[id])})
			}
		}
	}
	return out
}

// workDone is the work since the diagnosis, for a diagnosis of the vehicle as it is now. Of another cylinder, what was
// read at the old one's pedal says nothing about the pedal as it is.
func (j *Job) workDone() *diagnose.Work {
	before, _ := j.caseAndLeftOut()
	if len(before.Findings) == 0 {
		return nil
	}
	if j.putsOnCylinder() {
		before.Findings = slices.DeleteFunc(slices.Clone(before.Findings), func(f diagnose.Finding) bool {
			return slices.Contains([]string{"pedal.sink", "pedal.readings", "pressure.gauge"}, f.ID)
		})
	}
	w := &diagnose.Work{Acts: match.ActsOf(j.scope()), Before: before}
	if j.scope() == match.Elsewhere || j.scope() == match.ElsewhereOpened {
		w.Any, w.Told = true, j.mended()
	}
	return w
}
